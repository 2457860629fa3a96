//! Swings that are tested against where their targets were some ticks ago.

use hammerstone::amount::Keep;
use hammerstone::attack::{Beam, Policy, Projectile, Side};
use hammerstone::audit::Auditor;
use hammerstone::event::{Event, Gate, HitRefused};
use hammerstone::geometry::{Axis, Frame, Obstacle};
use hammerstone::orders::Refusal;
use hammerstone::prelude::*;
use hammerstone::{Fixed, Saved};
use proptest::prelude::*;
use testkit::{build_with, cases, facts_hash, fights, play_ticking, play_under};

/// What the target or what stands in the way does in a tick.
#[derive(Clone, Copy, Debug)]
enum Act {
    Moves([f32; 2], f32),
    Jumps([f32; 2]),
    Poses(f32),
    Bars([f32; 2]),
}

fn act() -> impl Strategy<Value = Act> {
    let place = || [-2.0f32..2.0, -0.5f32..3.0];
    prop_oneof![
        6 => (place(), -180f32..180.0).prop_map(|(at, turn)| Act::Moves(at, turn)),
        1 => place().prop_map(Act::Jumps),
        3 => (-90f32..90.0).prop_map(Act::Poses),
        2 => place().prop_map(Act::Bars),
    ]
}

fn range() -> Ruleset {
    let mut b = Ruleset::builder(60);
    b.rewind(12);
    b.damage_type("crush");
    b.reason("tide");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let ball = |z, radius| Shape::Sphere { at: [0.0, 1.0, z], radius };
    b.attack(
        Attack::melee("sweep")
            .timeline(0, 12, 0)
            .hitbox(Shape::Capsule { from: [0.0, 1.0, 0.3], to: [0.0, 1.0, 1.9], radius: 0.15 })
            .key(0, Pose::IDENTITY.facing(Axis::Y, -100.0))
            .key(12, Pose::IDENTITY.facing(Axis::Y, 100.0)),
    );
    let beam = Beam { from: [0.0, 1.0, 0.2], reach: 6.0, radius: 0.1, pierce: 3 };
    b.attack(Attack::beam("flash", beam).timeline(0, 12, 0).policy(Policy::Interval(2)));
    b.attack(
        Attack::area("burst")
            .timeline(1, 10, 0)
            .hitbox(ball(0.0, 1.8))
            .policy(Policy::Interval(3))
            .needs_clear_line(),
    );
    b.attack(
        Attack::melee("jab")
            .timeline(0, 12, 0)
            .hitbox(ball(0.8, 0.7))
            .policy(Policy::Interval(1))
            .only_from(Side::Behind, 150.0),
    );
    b.attack(Attack::projectile("dart", Projectile::new(9.0, 40)).timeline(1, 1, 0).hitbox(ball(0.0, 0.2)));
    let part = |name: &str, at| Part::new(name, Shape::Sphere { at, radius: 0.3 });
    b.template(Template::new("mason", masons, 40).part(part("trunk", [0.0, 1.0, 0.0])));
    let hound = Template::new("hound", beasts, 40).posed(2.0);
    b.template(hound.part(part("trunk", [0.0; 3])).part(part("head", [0.0; 3])));
    b.build().expect("a sound range")
}

/// The facts that swings lead to, tick by tick, where the rest happens `later` ticks later and swings are rewound by so many.
fn facts(
    rules: &Ruleset,
    acts: &[Act],
    starts: &[(usize, u64)],
    later: usize,
    rewound: u16,
) -> Vec<(u32, Event)> {
    let mut fight = Encounter::new(rules, 7);
    let odo = fight.orders().spawn(rules.find_template("mason").unwrap(), Pose::IDENTITY);
    let hound = rules.find_template("hound").unwrap();
    let (mut target, mut bar) = (None, None);
    let mut all = Vec::new();
    for tick in 0..acts.len() + 24 {
        let ground = |[x, z]: [f32; 2]| Pose::at([x, 0.0, z]);
        if tick == later {
            target = Some(fight.orders().spawn(hound, Pose::at([0.3, 0.0, 1.2])));
            bar = Some(fight.orders().add_obstacle(Obstacle::Sphere { at: [0.0, 1.0, 0.0], radius: 0.2 }));
        }
        if let (Some(hound), Some(bar), Some(act)) =
            (target, bar, tick.checked_sub(later).and_then(|at| acts.get(at)))
        {
            let mut orders = fight.orders();
            match *act {
                Act::Moves(at, turn) => drop(orders.move_to(hound, ground(at).facing(Axis::Y, turn))),
                Act::Jumps(at) => drop(orders.teleport(hound, ground(at))),
                Act::Poses(turn) => {
                    let pose = |y: f32| Pose::at([0.2, y, 0.1]).facing(Axis::Z, turn);
                    orders.pose_parts(hound, Frame::Body, &[pose(0.8), pose(1.4)]);
                }
                Act::Bars(at) => drop(orders.move_obstacle(bar, ground(at))),
            }
        }
        for &(attack, _) in starts.iter().filter(|(_, at)| *at as usize + 13 == tick) {
            let attack = rules.find_attack(rules.attacks()[attack].name()).unwrap();
            let swing = fight.orders().start(odo, attack);
            if rewound > 0 {
                fight.orders().rewind(swing, rewound);
            }
        }
        let tick = fight.tick().expect("it runs").tick;
        let of_swings = |event: &&Event| event.attack().is_some();
        all.extend(fight.facts().events().filter(of_swings).map(|event| (tick, *event)));
    }
    all
}

proptest! {
    #![proptest_config(cases(400))]

    /// A swing that is rewound by n ticks meets what it would meet if all others did what they do n ticks later: the same parts, at the same
    /// points and times, past the same obstacles, from the same side.
    #[test]
    fn a_rewound_swing_meets_what_was_there(
        acts in prop::collection::vec(act(), 30..60),
        starts in prop::collection::vec((0..5usize, 0..30u64), 1..5),
        back in 1..=12u16,
    ) {
        let rules = range();
        let rewound = facts(&rules, &acts, &starts, 0, back);
        let later = facts(&rules, &acts, &starts, back.into(), 0);
        prop_assert_eq!(rewound, later);
    }
}

/// A negative control of the law above: without being rewound, swings meet something else.
#[test]
fn swings_that_are_not_rewound_meet_something_else() {
    let rules = range();
    let acts: Vec<Act> =
        (0..40).map(|i| Act::Moves([(i as f32 * 0.7).sin() * 1.5, 1.0], i as f32 * 9.0)).collect();
    let starts = [(0, 2), (1, 12), (2, 20)];
    let met = |later, back| facts(&rules, &acts, &starts, later, back);
    assert_eq!(met(0, 6), met(6, 0));
    assert_ne!(met(0, 6), met(0, 0));
    assert!(met(0, 6).iter().filter(|(_, event)| matches!(event, Event::HitLanded(_))).count() > 3);
}

proptest! {
    #![proptest_config(cases(150))]

    /// Fights in which swings are rewound keep every law, also through bytes, and run again alike.
    #[test]
    fn rewound_fights_keep_the_laws(fight in fights(), limit in 1..20u32, seed in any::<u64>()) {
        let rules = build_with(&fight.sheet, |b| _ = b.rewind(limit));
        // Every running swing, by as many ticks as its number says.
        let rewind = |encounter: &mut Encounter| {
            let swings: Vec<_> = encounter.view().swings().map(|(swing, ..)| swing).collect();
            for swing in swings {
                let ticks = (swing.number() ^ seed) % 24;
                encounter.orders().rewind(swing, ticks as u16);
            }
        };
        let run = |between: &mut dyn FnMut(&mut Encounter)| {
            let mut came = Vec::new();
            let mut auditor = Auditor::new(&rules);
            play_under(&rules, &fight, |encounter| encounter.keep_ledgers(true), |encounter| {
                auditor.observe(&encounter.facts());
                auditor.compare(&encounter.view());
                came.push((facts_hash(&encounter.facts()), encounter.checksum()));
                between(encounter);
                rewind(encounter);
            });
            let breach = auditor.breaches().first().cloned();
            (came, breach.map(|breach| format!("{breach:?}")))
        };
        let (plain, breach) = run(&mut |_| {});
        prop_assert_eq!(breach, None);
        let (bytes, _) = run(&mut |encounter| {
            let saved = Saved::from_bytes(&encounter.save().unwrap().to_bytes()).unwrap();
            let mut other = Encounter::new(&rules, 0);
            other.restore(&saved).unwrap();
            assert!(other.same_state(encounter));
            encounter.restore(&saved).unwrap();
        });
        prop_assert_eq!(&plain, &bytes);
        // The same ruleset changes nothing; one that rewinds less lets go of what it does not keep.
        let tuned = build_with(&fight.sheet.tuned(seed, false), |b| _ = b.rewind(limit / 2));
        let mut ticks = 0;
        play_ticking(&rules, &fight, |_| {}, |encounter, hooks, world| {
            encounter.tick_with(hooks, world).unwrap();
            ticks += 1;
            if ticks == 20 {
                _ = encounter.adopt(&tuned, Keep::Share);
            }
            rewind(encounter);
        });
    }
}

/// How far back: no further than the ruleset says, and no further than the fight is old.
#[test]
fn nothing_is_rewound_further_than_is_kept() {
    let rules = range();
    let mut fight = Encounter::new(&rules, 7);
    let odo = fight.orders().spawn(rules.find_template("mason").unwrap(), Pose::IDENTITY);
    let sweep = rules.find_attack("sweep").unwrap();
    let swing = fight.orders().start(odo, sweep);
    fight.orders().rewind(swing, 1);
    fight.tick().unwrap();
    let refused = |fight: &Encounter| {
        let why =
            |event: &Event| if let Event::OrderRefused(refused) = event { Some(refused.why) } else { None };
        fight.facts().events().find_map(why)
    };
    assert_eq!(refused(&fight), Some(Refusal::TooFarBack { ticks: 1, limit: 0 }));
    for _ in 0..4 {
        fight.tick().unwrap();
    }
    fight.orders().rewind(swing, 5);
    fight.tick().unwrap();
    assert_eq!((refused(&fight), fight.view().swing(swing).unwrap().rewound), (None, 5));
    fight.orders().rewind(swing, 0);
    fight.tick().unwrap();
    assert_eq!(fight.view().swing(swing).unwrap().rewound, 0);
    for _ in 0..20 {
        fight.tick().unwrap();
    }
    let swing = fight.orders().start(odo, sweep);
    fight.orders().rewind(swing, 13);
    fight.tick().unwrap();
    assert_eq!(refused(&fight), Some(Refusal::TooFarBack { ticks: 13, limit: 12 }));
    assert!(
        refused(&fight)
            .unwrap()
            .to_string()
            .starts_with("13 ticks ago is further back than is kept, and 12 are")
    );
    // A ruleset that rewinds nothing keeps nothing, and its states have the bytes that they had.
    let mut b = Ruleset::builder(60);
    let team = b.team("masons");
    let mason = b.template(
        Template::new("mason", team, 5).part(Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.3 })),
    );
    let plain = b.clone().build().unwrap();
    let mut fight = Encounter::new(&plain, 7);
    fight.orders().spawn(mason, Pose::IDENTITY);
    for _ in 0..5 {
        fight.tick().unwrap();
    }
    let bytes = fight.save().unwrap().to_bytes();
    assert!(!bytes.windows(10).any(|name| name == b"state.past"));
    b.rewind(3);
    let rewinds = b.build().unwrap();
    assert_ne!(rewinds.fingerprint(), plain.fingerprint());
    assert_eq!((rewinds.rewind(), plain.rewind()), (3, 0));
}

/// The dead react to nothing: who has died since is refused, once, and is in no contact.
#[test]
fn who_died_since_is_refused() {
    let rules = range();
    let mut fight = Encounter::new(&rules, 7);
    let odo = fight.orders().spawn(rules.find_template("mason").unwrap(), Pose::IDENTITY);
    let hound = fight.orders().spawn(rules.find_template("hound").unwrap(), Pose::at([0.0, 0.5, 0.9]));
    for _ in 0..6 {
        fight.tick().unwrap();
    }
    fight.orders().remove(hound);
    let other = fight.orders().spawn(rules.find_template("hound").unwrap(), Pose::at([0.0, 0.5, 0.9]));
    for _ in 0..6 {
        fight.tick().unwrap();
    }
    let (crush, tide) = (rules.find_damage_type("crush").unwrap(), rules.find_reason("tide").unwrap());
    let before = fight.clone();
    for dies in [true, false] {
        let mut fight = before.clone();
        if dies {
            fight.orders().damage(other, crush, Fixed::whole(99), tide);
        }
        let swing = fight.orders().start(odo, rules.find_attack("burst").unwrap());
        fight.orders().rewind(swing, 5);
        let mut facts = Vec::new();
        for _ in 0..8 {
            fight.tick().unwrap();
            facts.extend(fight.facts().events().copied());
        }
        let gate = facts.iter().find_map(|event| match event {
            Event::HitRefused(HitRefused { target, gate, .. }) if *target == other => Some(*gate),
            _ => None,
        });
        assert_eq!(gate == Some(Gate::Dead), dies, "{gate:?}");
        let touched = facts.iter().any(|event| matches!(event, Event::ContactMet(_) | Event::HitLanded(_)));
        assert_eq!(touched, !dies, "{facts:?}");
        // The one who was removed is met by nothing.
        assert!(facts.iter().all(|event| event.subject() != Some(hound)));
    }
}
