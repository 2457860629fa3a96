//! Contacts as full facts: speed, depth and who moved, against simple arithmetic; being struck at each entry; amounts by closing speed.

use hammerstone::Fixed;
use hammerstone::attack::ClosingSpeed;
use hammerstone::event::{
    ContactHeld, ContactMet, ContactParted, DamageDealt, Event, LedgerStep, Moved, Note,
};
use hammerstone::geometry::{Axis, Frame};
use hammerstone::orders::Touch;
use hammerstone::prelude::*;
use proptest::prelude::*;
use testkit::cases;

const RATE: f32 = 60.0;

/// One who carries a blade of a ball ahead of it, and one who stands or walks there.
struct Pair {
    fight: Encounter,
    bearer: CombatantId,
    target: CombatantId,
    swing: SwingId,
}

struct Rules {
    rules: Ruleset,
    bearer: TemplateId,
    target: TemplateId,
    ram: AttackId,
}

fn rules(policy: Policy, closing: Option<ClosingSpeed>) -> Rules {
    let mut b = Ruleset::builder(RATE as u32);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let mut ram = Attack::melee("ram")
        .timeline(0, 600, 0)
        .policy(policy)
        .tells_held()
        .damage(crush, 100, 100)
        .hitbox(Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.25 });
    if let Some(closing) = closing {
        ram = ram.closing_speed(closing);
    }
    let ram = b.attack(ram);
    let bearer = b.template(Template::new("ram-bearer", masons, 100));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.5 });
    let target = b.template(Template::new("gate", beasts, 1_000_000).part(trunk));
    Rules { rules: b.build().unwrap(), bearer, target, ram }
}

impl Pair {
    fn new(rules: &Rules, bearer: Pose, target: Pose) -> Pair {
        let mut fight = Encounter::new(&rules.rules, 1);
        fight.keep_ledgers(true);
        let bearer = fight.orders().spawn(rules.bearer, bearer);
        let target = fight.orders().spawn(rules.target, target);
        fight.tick().unwrap();
        let swing = fight.orders().start(bearer, rules.ram);
        Pair { fight, bearer, target, swing }
    }

    fn events<T>(&self, of: impl Fn(&Event) -> Option<T>) -> Vec<T> {
        self.fight.facts().events().filter_map(of).collect()
    }

    fn met(&self) -> Vec<ContactMet> {
        self.events(|event| if let Event::ContactMet(met) = event { Some(*met) } else { None })
    }

    fn hits(&self) -> usize {
        self.fight.facts().events().filter(|event| event.topic() == topic::HIT_LANDED).count()
    }
}

fn dot(a: [f32; 3], b: [f32; 3]) -> f32 {
    (0..3).map(|i| a[i] * b[i]).sum()
}

fn minus(a: [f32; 3], b: [f32; 3]) -> [f32; 3] {
    std::array::from_fn(|i| a[i] - b[i])
}

proptest! {
    #![proptest_config(cases(400))]

    /// Of two that go straight, the closing speed is that of the way between them along the normal, and each is told to move if it does.
    #[test]
    fn the_speed_is_that_of_both_along_the_normal(
        from in [-1.0f32..1.0, -0.5f32..0.5, -2.5f32..-1.2],
        way in prop_oneof![Just([0.0f32; 3]), [-2.0f32..2.0, -0.5f32..0.5, -1.0f32..4.0]],
        other in prop_oneof![Just([0.0f32; 3]), [-1.0f32..1.0, -0.1f32..0.1, -1.0f32..1.0]],
    ) {
        let rules = rules(Policy::Once, None);
        let mut pair = Pair::new(&rules, Pose::at(from), Pose::IDENTITY);
        pair.fight.orders().move_to(pair.bearer, Pose::at(std::array::from_fn(|i| from[i] + way[i])));
        pair.fight.orders().move_to(pair.target, Pose::at(other));
        pair.fight.tick().unwrap();
        let apart = minus(from, [0.0, 0.0, -1.0]);
        let overlap = 0.75 - dot(apart, apart).sqrt();
        if let [met] = pair.met()[..] {
            let speed = dot(minus(other, way), met.normal) * RATE;
            prop_assert!((met.speed - speed).abs() < 0.02 + speed.abs() * 2.0e-3, "{} is not {speed}", met.speed);
            let moved = match (way != [0.0; 3], other != [0.0; 3]) {
                (false, false) => Moved::Neither,
                (true, false) => Moved::Attacker,
                (false, true) => Moved::Target,
                (true, true) => Moved::Both,
            };
            prop_assert_eq!((met.moved, met.attack, met.hitbox), (moved, rules.ram, 0));
            prop_assert_eq!(met.from_start, met.toi == 0.0);
            if met.from_start {
                prop_assert!((met.depth - overlap.max(0.0)).abs() < 2.0e-3, "{} is not {overlap}", met.depth);
            } else {
                // Of two that only graze each other, one may be past the other by the skin.
                let fast = dot(minus(other, way), minus(other, way)).sqrt() * RATE;
                prop_assert!(overlap < 2.0e-3 && met.depth < 1.0e-4 && met.speed > -0.03 * fast, "{met:?}");
            }
        } else {
            prop_assert!(overlap < 1.0e-3, "they overlap by {overlap}");
        }
    }

    /// What turns has the speed of where it touches: its turn times its distance.
    #[test]
    fn a_turning_blade_has_the_speed_of_its_point(degrees in 10.0f32..80.0, aside in 0.2f32..0.9) {
        let rules = rules(Policy::Once, None);
        // The ball goes round at one metre; the gate stands where it comes by in mid tick.
        let far = (degrees * aside).to_radians();
        let gate = Pose::at([1.74 * far.sin(), 0.0, 1.74 * far.cos()]);
        let mut pair = Pair::new(&rules, Pose::IDENTITY.facing(Axis::Y, -90.0), gate);
        pair.fight.tick().unwrap();
        pair.fight.orders().teleport(pair.bearer, Pose::IDENTITY);
        pair.fight.tick().unwrap();
        pair.fight.orders().move_to(pair.bearer, Pose::IDENTITY.facing(Axis::Y, degrees));
        pair.fight.tick().unwrap();
        if let [met] = pair.met()[..] {
            // Against many small arcs in double precision, mixed as the tick mixes turns.
            let half = f64::from(degrees.to_radians()) / 2.0;
            let angle = |t: f64| 2.0 * (t * half.sin()).atan2(1.0 - t + t * half.cos());
            let (t, step) = (f64::from(met.toi), 1.0e-6);
            let turn = (angle(t + step) - angle(t - step)) / (2.0 * step) * f64::from(RATE);
            // About +Y a point at `r` moves by the turn times `[r.z, 0, -r.x]`.
            let velocity = [turn as f32 * met.point[2], 0.0, -turn as f32 * met.point[0]];
            let speed = -dot(velocity, met.normal);
            prop_assert!((met.speed - speed).abs() < 0.05 + speed.abs() * 0.01, "{} is not {speed}", met.speed);
        }
    }

    /// A target is struck when it is entered anew, by what contacts tell, and not again before the least time is over.
    #[test]
    fn each_entry_is_a_hit(
        least in 0u32..30,
        places in proptest::collection::vec((any::<bool>(), 1u32..12), 1..20),
    ) {
        let rules = rules(Policy::Entry(least), None);
        let mut pair = Pair::new(&rules, Pose::at([0.0, 0.0, -9.0]), Pose::IDENTITY);
        // The model: when it was struck last, and how often.
        let (mut last, mut hits, mut struck, mut entries) = (None, 0, 0, 0);
        let mut tick = 0u32;
        for (inside, ticks) in places {
            for _ in 0..ticks {
                pair.fight.orders().teleport(pair.bearer, Pose::at([0.0, 0.0, if inside { -1.5 } else { -9.0 }]));
                pair.fight.tick().unwrap();
                tick += 1;
                for _ in pair.met() {
                    entries += 1;
                    if last.is_none_or(|last| tick - last >= least) {
                        (last, hits) = (Some(tick), hits + 1);
                    }
                }
                struck += pair.hits();
                prop_assert_eq!(struck, hits, "tick {}", tick);
            }
        }
        prop_assert!(hits <= entries && (least > 0 || hits == entries));
    }

    /// The share that is dealt goes evenly from the least to all of it, and the ledger says so.
    #[test]
    fn amounts_grow_with_the_closing_speed(metres in 0.01f32..2.0, from in 0i64..30, wide in 1i64..60, least in 0i64..=10) {
        let (from, full) = (Fixed::whole(from), Fixed::whole(from + wide));
        let least = Fixed::ratio(least, 10);
        let rules = rules(Policy::Once, Some(ClosingSpeed { from, full, least }));
        let mut pair = Pair::new(&rules, Pose::at([0.0, 0.0, -1.76]), Pose::IDENTITY);
        pair.fight.orders().move_to(pair.bearer, Pose::at([0.0, 0.0, -1.76 + metres]));
        pair.fight.tick().unwrap();
        let dealt = pair.events(|event| if let Event::DamageDealt(dealt) = event { Some(*dealt) } else { None });
        let [DamageDealt { ledger, .. }] = dealt[..] else { panic!("one blow") };
        let lines = pair.fight.facts().ledger_of(ledger).to_vec();
        let line = lines.iter().find(|line| line.step == LedgerStep::Speed).expect("a line of its own");
        let Note::Speed { speed, share } = line.note else { panic!("{line:?}") };
        let wanted = f64::from(metres * RATE);
        prop_assert!((speed.to_f64() - wanted).abs() < 0.05 + wanted * 2.0e-3, "{speed} is not {wanted}");
        let part = ((speed.to_f64() - from.to_f64()) / wide as f64).clamp(0.0, 1.0);
        let wanted = least.to_f64() + (1.0 - least.to_f64()) * part;
        prop_assert!((share.to_f64() - wanted).abs() < 1.0e-3, "{share} is not {wanted}");
        prop_assert!((line.after.to_f64() - 100.0 * share.to_f64()).abs() < 1.0e-2);
    }
}

/// A contact that goes on tells its depth each tick, and how long it lasted when it parts.
#[test]
fn a_contact_tells_how_long_it_lasted() {
    let rules = rules(Policy::Once, None);
    let mut pair = Pair::new(&rules, Pose::at([0.0, 0.0, -1.5]), Pose::IDENTITY);
    for tick in 1..=10 {
        pair.fight.tick().unwrap();
        let held = pair.events(|event| if let Event::ContactHeld(held) = event { Some(*held) } else { None });
        if tick == 1 {
            assert!(pair.met()[0].from_start && pair.met()[0].moved == Moved::Neither && held.is_empty());
        } else {
            let [ContactHeld { depth, speed, attack, .. }] = held[..] else { panic!("{held:?}") };
            assert!((depth - 0.25).abs() < 1.0e-3 && speed == 0.0 && attack == rules.ram);
        }
    }
    pair.fight.orders().teleport(pair.target, Pose::at([50.0, 0.0, 0.0]));
    pair.fight.tick().unwrap();
    let parted =
        pair.events(|event| if let Event::ContactParted(parted) = event { Some(*parted) } else { None });
    let [ContactParted { lasted, attack, hitbox, .. }] = parted[..] else { panic!("{parted:?}") };
    assert_eq!((lasted, attack, hitbox), (10, rules.ram, 0));
}

/// A report carries its own speed.
#[test]
fn a_report_has_the_speed_that_the_host_gives() {
    let (from, full) = (Fixed::whole(0), Fixed::whole(10));
    let rules = rules(Policy::Once, Some(ClosingSpeed { from, full, least: Fixed::ZERO }));
    let touch = Touch::new([0.0, 1.0, 0.0], [0.0, 0.0, -1.0]);
    for (speed, lost) in [(0.0, 0), (2.5, 25), (10.0, 100), (99.0, 100), (-5.0, 0)] {
        let mut pair = Pair::new(&rules, Pose::at([0.0, 0.0, -9.0]), Pose::IDENTITY);
        pair.fight.orders().report(pair.swing, pair.target, 0, touch.closing(speed));
        pair.fight.tick().unwrap();
        assert_eq!(
            pair.fight.view().health(pair.target),
            Some((1_000_000 - lost, 1_000_000)),
            "at {speed} m/s"
        );
    }
}

/// Of a posed part, the speed is that of its bone.
#[test]
fn a_bone_that_strikes_back_closes_in() {
    let mut b = Ruleset::builder(RATE as u32);
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let shield = b.attack(
        Attack::melee("shield")
            .timeline(0, 60, 0)
            .hitbox(Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.25 }),
    );
    let bearer = b.template(Template::new("bearer", masons, 100));
    let fist = Part::new("fist", Shape::Sphere { at: [0.0; 3], radius: 0.1 });
    let puncher = b.template(Template::new("puncher", beasts, 100).part(fist).posed(2.0));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let bearer = fight.orders().spawn(bearer, Pose::IDENTITY);
    let puncher = fight.orders().spawn(puncher, Pose::at([0.0, 0.0, 2.5]));
    fight.orders().pose_parts(puncher, Frame::World, &[Pose::at([0.0, 1.0, 2.0])]);
    fight.tick().unwrap();
    fight.orders().start(bearer, shield);
    fight.orders().pose_parts(puncher, Frame::World, &[Pose::at([0.0, 1.0, 1.2])]);
    fight.tick().unwrap();
    let met: Vec<ContactMet> = { fight.facts().events() }
        .filter_map(|event| if let Event::ContactMet(met) = event { Some(*met) } else { None })
        .collect();
    let [met] = met[..] else { panic!("{met:?}") };
    assert!(met.moved == Moved::Target && (met.speed - 0.8 * RATE).abs() < 0.1, "{met:?}");
}
