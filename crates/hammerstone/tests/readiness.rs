//! What attacks cost, cooldowns and uses: a refusal says when a start would come through, and it does just then. Against a simple model.

use hammerstone::attack::HitStop;
use hammerstone::event::Event;
use hammerstone::gauge::{Cooldown, Cost, Gauge, Uses};
use hammerstone::orders::Refusal;
use hammerstone::prelude::*;
use hammerstone::{Fixed, Ruleset};
use proptest::prelude::*;

/// The numbers of an attack that is not always ready.
#[derive(Clone, Debug)]
struct Sheet {
    max: i64,
    cost: i64,
    per_second: i64,
    after: u32,
    cooldown: Option<(u32, bool)>,
    uses: Option<(u16, Option<u32>)>,
    /// Ticks between presses.
    presses: Vec<u32>,
}

fn sheets() -> impl Strategy<Value = Sheet> {
    let cooldown = proptest::option::of((1..40u32, any::<bool>()));
    let uses = proptest::option::of((1..4u16, proptest::option::of(1..60u32)));
    let presses = proptest::collection::vec(0..30u32, 1..20);
    (1..40i64, 0..12i64, 0..90i64, 0..20u32, cooldown, uses, presses).prop_map(
        |(max, cost, per_second, after, cooldown, uses, presses)| Sheet {
            max,
            cost: cost.min(max),
            per_second,
            after,
            cooldown,
            uses,
            presses,
        },
    )
}

/// How long the attack lasts.
const LASTS: u32 = 3;

fn rules(sheet: &Sheet) -> (Ruleset, AttackId, hammerstone::ids::GaugeId) {
    let mut b = Ruleset::builder(60);
    let team = b.team("masons");
    let mut wind = Gauge::new("wind", sheet.max);
    if sheet.per_second > 0 {
        wind = wind.refill(Fixed::whole(sheet.per_second), sheet.after);
    }
    let wind = b.gauge(wind);
    let mut slam = Attack::touch("slam").timeline(0, LASTS, 0);
    slam = slam.costs(Cost { gauge: wind, start: sheet.cost, landed: 0, held: Fixed::ZERO });
    if let Some((lasts, from_end)) = sheet.cooldown {
        slam = slam.cooldown(Cooldown { lasts, from_end, group: None });
    }
    if let Some((max, refill)) = sheet.uses {
        slam = slam.uses(Uses { max, refill });
    }
    let slam = b.attack(slam);
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.4 });
    b.template(Template::new("mason", team, 10).part(trunk).gauge(wind));
    (b.build().unwrap(), slam, wind)
}

/// Wind, a cooldown and uses, counted by hand, tick by tick.
struct Model<'a> {
    sheet: &'a Sheet,
    /// In points times the ticks of a second.
    part: i64,
    points: i64,
    lost_at: u32,
    /// Ends of the swings that run.
    ends: Vec<u32>,
    cools_until: u32,
    /// When each use comes back that is spent.
    spent: Vec<Option<u32>>,
}

impl Model<'_> {
    /// Whether the attack could be started in this tick.
    fn is_ready(&self, tick: u32) -> bool {
        let cooling = match self.sheet.cooldown {
            Some((_, true)) => !self.ends.is_empty() || tick < self.cools_until,
            Some((_, false)) => tick < self.cools_until,
            None => false,
        };
        let free = self.sheet.uses.is_none_or(|(max, _)| self.spent.len() < usize::from(max));
        !cooling && free && self.points >= self.sheet.cost
    }

    fn start(&mut self, tick: u32) {
        if self.sheet.cost > 0 {
            (self.points, self.part, self.lost_at) = (self.points - self.sheet.cost, 0, tick);
        }
        self.ends.push(tick + LASTS);
        if let Some((lasts, false)) = self.sheet.cooldown {
            self.cools_until = tick + lasts;
        }
        if let Some((_, refill)) = self.sheet.uses {
            // One comes back after the other.
            let before = self.spent.iter().flatten().max().copied().unwrap_or(tick);
            self.spent.push(refill.map(|refill| before + refill));
        }
    }

    /// The rest of a tick, after its orders.
    fn pass(&mut self, tick: u32) {
        if let Some((lasts, true)) = self.sheet.cooldown
            && self.ends.contains(&tick)
        {
            self.cools_until = self.cools_until.max(tick + lasts);
        }
        self.ends.retain(|&end| end > tick);
        let refills = self.sheet.per_second > 0 && self.points < self.sheet.max;
        if refills && tick > self.lost_at + self.sheet.after {
            self.part += self.sheet.per_second;
            self.points = (self.points + self.part / 60).min(self.sheet.max);
            self.part %= 60;
        } else {
            self.part = 0;
        }
        let next = tick + 1;
        self.spent.retain(|back| back.is_none_or(|back| back > next));
    }
}

proptest! {
    #![proptest_config(testkit::cases(200))]

    #[test]
    fn a_start_comes_through_just_when_the_model_says(sheet in sheets()) {
        let (rules, slam, wind) = rules(&sheet);
        let mut fight = Encounter::new(&rules, 1);
        let odo = fight.orders().spawn(rules.find_template("mason").unwrap(), Pose::IDENTITY);
        fight.tick().unwrap();
        let mut model =
            Model { sheet: &sheet, part: 0, points: sheet.max, lost_at: 1, ends: Vec::new(), cools_until: 0, spent: Vec::new() };
        let mut promised = None;
        let mut next_press = 2;
        let mut presses = sheet.presses.iter();
        for tick in 2..400 {
            prop_assert_eq!(fight.view().gauge(odo, wind).unwrap().0, model.points, "before tick {}", tick);
            let asked = fight.can_start(odo, slam);
            prop_assert_eq!(asked.is_ok(), model.is_ready(tick), "before tick {}: {:?}", tick, asked);
            let sort = asked.err().map(|why| std::mem::discriminant(&why));
            if let Some((due, promise)) = promised {
                // What was promised holds to the tick; only another reason may take longer.
                prop_assert!(tick >= due || asked.is_err(), "promised for {due}, ready before {tick}");
                prop_assert!(tick < due || sort != Some(promise), "promised for {due}, and {asked:?} before {tick}");
            }
            promised = asked.err().and_then(|why| Some((tick + why.ticks()?, sort?)));
            if tick == next_press {
                next_press = tick + 1 + presses.next().copied().unwrap_or(1000);
                let ready = model.is_ready(tick);
                fight.orders().start(odo, slam);
                fight.tick().unwrap();
                let why = fight.facts().events().find_map(|event| match event {
                    hammerstone::event::Event::OrderRefused(refused) => Some(refused.why),
                    _ => None,
                });
                prop_assert_eq!(why.is_none(), ready, "tick {}: {:?}", tick, why);
                prop_assert_eq!(why, asked.err(), "tick {}", tick);
                if why.is_none() {
                    model.start(tick);
                    promised = None;
                }
            } else {
                fight.tick().unwrap();
            }
            model.pass(tick);
        }
    }
}

/// The model decides something: with uses that come back at once the two differ.
#[test]
fn another_model_is_noticed() {
    let sheet = Sheet {
        max: 9,
        cost: 3,
        per_second: 30,
        after: 5,
        cooldown: None,
        uses: Some((2, Some(30))),
        presses: vec![4; 19],
    };
    let (rules, slam, _) = rules(&sheet);
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(rules.find_template("mason").unwrap(), Pose::IDENTITY);
    fight.tick().unwrap();
    let other = Sheet { uses: Some((2, Some(1))), ..sheet.clone() };
    let mut model = Model {
        sheet: &other,
        part: 0,
        points: 9,
        lost_at: 1,
        ends: Vec::new(),
        cools_until: 0,
        spent: Vec::new(),
    };
    let mut differ = 0;
    for tick in 2..100 {
        if tick % 5 == 0 {
            let ready = model.is_ready(tick);
            fight.orders().start(odo, slam);
            fight.tick().unwrap();
            let refused =
                fight.facts().events().any(|e| matches!(e, hammerstone::event::Event::OrderRefused(_)));
            differ += u32::from(ready == refused);
            if ready {
                model.start(tick);
            }
        } else {
            fight.tick().unwrap();
        }
        model.pass(tick);
    }
    assert!(differ > 0);
}

proptest! {
    #![proptest_config(testkit::cases(200))]

    /// One whose hands are bound or who is stunned is told when both are over: to the tick, where nothing comes between; a blow that stops
    /// its clock and another stun are told anew.
    #[test]
    fn hands_and_stuns_are_over_just_when_it_is_said(
        times in (0..12u32, 1..12u32, 0..12u32),
        stop in 0..9u32,
        stuns in proptest::collection::vec((1..80u32, 1..25u32), 0..4),
        starts in proptest::collection::vec(1..80u32, 1..8),
    ) {
        let mut b = Ruleset::builder(60);
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let mut stunned = Vec::new();
        for (place, (_, lasts)) in stuns.iter().enumerate() {
            stunned.push(b.status(Status::new(&format!("stun-{place}")).lasts(*lasts).stuns()));
        }
        let ball = Shape::Sphere { at: [0.0; 3], radius: 0.5 };
        let maul = b.attack(
            Attack::melee("maul")
                .timeline(times.0, times.1, times.2)
                .hitbox(ball)
                .hit_stop(HitStop { attacker: stop, target: 0 }),
        );
        let trunk = || Part::new("trunk", ball);
        let mason = b.template(Template::new("mason", masons, 100).part(trunk()));
        let hound = b.template(Template::new("hound", beasts, 100).part(trunk()));
        let rules = b.build().unwrap();
        let mut fight = Encounter::new(&rules, 1);
        let odo = fight.orders().spawn(mason, Pose::IDENTITY);
        fight.orders().spawn(hound, Pose::at([0.0, 0.0, 0.2]));
        let mut promised: Option<(u32, std::mem::Discriminant<Refusal>)> = None;
        let mut counted = 0;
        for tick in 1..140u32 {
            let asked = fight.can_start(odo, maul);
            if tick > 1 {
                let sort = asked.err().map(|why| std::mem::discriminant(&why));
                if let Some((due, promise)) = promised {
                    prop_assert!(tick >= due || asked.is_err(), "promised for {due}, free before {tick}");
                    prop_assert!(tick < due || sort != Some(promise), "promised for {due}, {asked:?} before {tick}");
                    counted += 1;
                }
                promised = asked.err().and_then(|why| Some((tick + why.ticks()?, sort?)));
            }
            let starts = starts.contains(&tick);
            if starts {
                fight.orders().start(odo, maul);
            }
            for (place, (at, _)) in stuns.iter().enumerate() {
                if *at == tick {
                    fight.orders().apply(odo, stunned[place], None);
                }
            }
            fight.tick().unwrap();
            let moved = |event: &Event| {
                matches!(event, Event::AttackStarted(_) | Event::HitStopped(_) | Event::StatusApplied(_) | Event::AttackEnded(_))
            };
            // What happened since makes another promise of it.
            if fight.facts().events().any(moved) {
                promised = None;
            }
        }
        prop_assert!(counted < 140);
    }
}
