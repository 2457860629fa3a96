//! Who clashes with whom, where a push goes, how long a guard and a prevention last: by laws, worked out here by other means.

use hammerstone::Fixed;
use hammerstone::amount::{Luck, Step};
use hammerstone::attack::{Away, Clash, Knockback, Tie};
use hammerstone::event::{CombatantSpared, DamageDealt, Event, HitClashed, HitPushed};
use hammerstone::geometry::Axis;
use hammerstone::prelude::*;
use hammerstone::status::{Guard, PreventsDeath};
use proptest::prelude::*;
use testkit::cases;

const REACH: f32 = 1.2;

/// Two who face each other, each with an attack that reaches the other; `more` says more of the ruleset and of the attacks.
fn facing(
    (low, high): (i64, i64),
    more: impl FnOnce(&mut RulesetBuilder, [Attack; 2]) -> [Attack; 2],
) -> Facing {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let teams = [b.team("masons"), b.team("beasts")];
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let templates = ["mason", "hound"];
    let templates =
        [0, 1].map(|i| b.template(Template::new(templates[i], teams[i], 100).part(trunk.clone())));
    let stroke = |name: &str| {
        let head = Shape::Sphere { at: [0.0, 1.0, 0.9], radius: 0.4 };
        Attack::melee(name).timeline(2, 3, 2).damage(crush, low, high).hitbox(head)
    };
    let attacks = more(&mut b, [stroke("maul"), stroke("bite")]).map(|attack| b.attack(attack));
    let rules = b.build().expect("it is sound");
    let mut fight = Encounter::new(&rules, 7);
    let mut orders = fight.orders();
    let who = [
        orders.spawn(templates[0], Pose::IDENTITY),
        orders.spawn(templates[1], Pose::at([0.0, 0.0, REACH]).facing(Axis::Y, 180.0)),
    ];
    Facing { fight, who, attacks }
}

struct Facing {
    fight: Encounter,
    who: [CombatantId; 2],
    attacks: [AttackId; 2],
}

impl Facing {
    /// What `of` finds among the facts of the next ticks.
    fn gather<T>(&mut self, ticks: u32, of: impl Fn(&Event) -> Option<T>) -> Vec<T> {
        let mut found = Vec::new();
        for _ in 0..ticks {
            self.fight.tick().expect("it runs");
            found.extend(self.fight.facts().facts.iter().filter_map(|fact| of(&fact.event)));
        }
        found
    }

    fn damage_to(&mut self, target: CombatantId, ticks: u32) -> Vec<i64> {
        self.gather(ticks, |event| match event {
            Event::DamageDealt(DamageDealt { target: to, amount, .. }) if *to == target => Some(*amount),
            _ => None,
        })
    }
}

proptest! {
    #![proptest_config(cases(200))]

    /// Two swings that touch clash if either meets the layer of the other, and not otherwise.
    #[test]
    fn swings_clash_if_either_meets_the_layer_of_the_other(
        layers in [0u8..4, 0u8..4],
        meets in [0u32..16, 0u32..16],
    ) {
        let clash = |i: usize| Clash { layer: layers[i], meets: meets[i], priority: 0, tie: Tie::Both };
        let mut duel = facing((10, 10), |_, [maul, bite]| [maul.clash(clash(0)), bite.clash(clash(1))]);
        let [one, other] = duel.who;
        duel.fight.orders().start(one, duel.attacks[0]);
        duel.fight.orders().start(other, duel.attacks[1]);
        let clashes = duel.gather(8, |event| matches!(event, Event::HitClashed(HitClashed { .. })).then_some(()));
        let bit = |set: u32, layer: u8| set & (1 << layer) != 0;
        let meet = bit(meets[0], layers[1]) || bit(meets[1], layers[0]);
        prop_assert_eq!(!clashes.is_empty(), meet);
    }

    /// A push from where it was struck goes into the target, away from the hitbox; one from the attacker, away from the attacker.
    #[test]
    fn a_push_goes_away_from_where_it_comes(metres in 1u8..5, forward in any::<bool>()) {
        let push = Knockback { away: if forward { Away::FromAttacker } else { Away::FromContact }, ..Knockback::new(f32::from(metres), 6) };
        let mut duel = facing((10, 10), |_, [maul, bite]| [maul.knockback(push), bite]);
        let [one, other] = duel.who;
        duel.fight.orders().start(one, duel.attacks[0]);
        let pushes = duel.gather(8, |event| match event {
            Event::HitPushed(HitPushed { target, impulse, .. }) => Some((*target, *impulse)),
            _ => None,
        });
        prop_assert_eq!(pushes.len(), 1);
        let (target, [x, y, z]) = pushes[0];
        prop_assert_eq!(target, other);
        prop_assert!(z > 0.9 * f32::from(metres) && x.abs() < 1.0e-3 && y.abs() < 1.0e-3, "{:?}", [x, y, z]);
    }

    /// A guard takes its share of each blow, of all its damage types together, until it has taken as much as breaks it; the blow that
    /// breaks it is the last.
    #[test]
    fn a_guard_holds_until_it_has_taken_its_measure(breaks_after in 1i64..40) {
        let mut shell = None;
        let mut duel = facing((6, 6), |b, [maul, bite]| {
            let guard = Guard::new(Fixed::ratio(1, 2), 60.0).breaks_after(breaks_after);
            shell = Some(b.status(Status::new("shell").guard(guard)));
            let heat = b.damage_type("heat");
            [maul.damage(heat, 4, 4), bite]
        });
        let [one, other] = duel.who;
        duel.fight.orders().apply(other, shell.expect("it was declared"), None);
        let (mut taken, mut dealt, mut expected) = (0, Vec::new(), Vec::new());
        for _ in 0..9 {
            duel.fight.orders().start(one, duel.attacks[0]);
            dealt.extend(duel.damage_to(other, 8));
            let holds = taken < breaks_after;
            taken += if holds { 5 } else { 0 };
            expected.extend(if holds { [3, 2] } else { [6, 4] });
        }
        prop_assert_eq!(dealt, expected);
    }

    /// A status prevents as many deaths as it says, in one life.
    #[test]
    fn a_status_prevents_as_many_deaths_as_it_says(limit in 1u32..5) {
        let mut stubborn = None;
        let mut duel = facing((500, 500), |b, attacks| {
            let prevents = PreventsDeath { leaves: 3, limit, ends: false };
            stubborn = Some(b.status(Status::new("stubborn").prevents_death(prevents)));
            attacks
        });
        let [one, other] = duel.who;
        duel.fight.orders().apply(other, stubborn.expect("it was declared"), None);
        duel.fight.tick().unwrap();
        let mut spared = 0;
        while duel.fight.view().life(other) == Life::Standing {
            duel.fight.orders().start(one, duel.attacks[0]);
            let deaths = duel.gather(8, |event| {
                matches!(event, Event::CombatantSpared(CombatantSpared { .. })).then_some(())
            });
            spared += deaths.len();
            prop_assert!(spared <= 5, "it never dies");
        }
        prop_assert_eq!(spared, limit as usize);
    }

    /// A hook that prevents a death leaves at least one point, whatever it says.
    #[test]
    fn a_hook_that_prevents_a_death_leaves_at_least_a_point(leaves in -3i64..5) {
        let mut duel = facing((500, 500), |_, attacks| attacks);
        let [one, other] = duel.who;
        let mut hooks = Hooks::<()>::new();
        hooks.prevent_death("the scene", 1, move |(), _| Some(leaves));
        duel.fight.orders().start(one, duel.attacks[0]);
        for _ in 0..8 {
            duel.fight.tick_with(&hooks, &mut ()).unwrap();
        }
        prop_assert_eq!(duel.fight.view().health(other), Some((leaves.max(1), 100)));
    }

    /// A preview draws as the next swing of that attack draws: it says the amount that the blow then deals.
    #[test]
    fn a_preview_says_what_the_next_swing_deals(before in 0u32..4, seed in any::<u64>()) {
        let mut duel = facing((1, 9), |b, attacks| {
            b.steps(&[Step::Base, Step::Limits, Step::Rounding]);
            attacks
        });
        let rules = duel.fight.rules().clone();
        let mut fight = Encounter::new(&rules, seed);
        let mut orders = fight.orders();
        let (mason, hound) = (rules.find_template("mason").unwrap(), rules.find_template("hound").unwrap());
        duel.who = [
            orders.spawn(mason, Pose::IDENTITY),
            orders.spawn(hound, Pose::at([0.0, 0.0, REACH]).facing(Axis::Y, 180.0)),
        ];
        duel.fight = fight;
        let ([one, other], [maul, bite]) = (duel.who, duel.attacks);
        duel.fight.tick().unwrap();
        // The other attack starts more often, so that the counts of the two differ.
        for attack in [bite, bite].into_iter().chain((0..before).map(|_| maul)) {
            duel.fight.orders().start(one, attack);
            duel.gather(8, |_| None::<()>);
        }
        let preview = duel.fight.preview(one, maul, other, 0, Luck::Next).expect("both stand");
        duel.fight.orders().start(one, maul);
        let dealt = duel.damage_to(other, 8);
        prop_assert_eq!(dealt, vec![preview.damage_types[0].amount]);
    }
}
