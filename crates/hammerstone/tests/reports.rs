//! Contacts that a host's physics reports count like those that are found here: with their times, hitboxes, groups and parts.

use hammerstone::Fixed;
use hammerstone::attack::{Prefer, Sharing};
use hammerstone::event::{Event, HitLanded, OrderRefused};
use hammerstone::geometry::{Axis, first_touch};
use hammerstone::orders::{Refusal, Touch};
use hammerstone::prelude::*;
use proptest::prelude::*;

/// How an attack is authored, and where everyone stands and goes.
#[derive(Clone, Debug)]
struct Case {
    sharing: usize,
    prefer: usize,
    /// Places of attackers, and of targets before and after.
    attackers: Vec<[f32; 2]>,
    targets: Vec<[[f32; 2]; 3]>,
}

fn case() -> impl Strategy<Value = Case> {
    let place = || [-1.5f32..1.5, -1.5f32..1.5];
    let target = [place(), place(), place()];
    (0..2usize, 0..3usize, proptest::collection::vec(place(), 1..4), proptest::collection::vec(target, 1..4))
        .prop_map(|(sharing, prefer, attackers, targets)| Case { sharing, prefer, attackers, targets })
}

/// The same ruleset, with hitboxes where they are, or where they meet nothing.
fn rules(case: &Case, away: bool) -> Ruleset {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let ball =
        |x: f32, z: f32, radius| Shape::Sphere { at: [x, if away { 5_000.0 } else { 1.0 }, z], radius };
    let attack = Attack::melee("fork")
        .timeline(0, 3, 0)
        .damage(crush, 5, 5)
        .sharing([Sharing::Swing, Sharing::Group][case.sharing])
        .prefer([Prefer::First, Prefer::Multiplier, Prefer::Nearest][case.prefer])
        .hitbox_of(ball(0.4, 0.8, 0.3), 1)
        .hitbox_of(ball(-0.4, 0.8, 0.3), 2)
        .hitbox_of(ball(0.0, 1.2, 0.2), 2);
    b.attack(attack);
    b.template(Template::new("mason", masons, 40));
    let part = |name: &str, y: f32| Part::new(name, Shape::Sphere { at: [0.0, y, 0.0], radius: 0.35 });
    b.template(
        Template::new("hound", beasts, 4_000)
            .part(part("trunk", 0.8))
            .part(part("skull", 1.2).multiplier(Fixed::whole(2))),
    );
    b.build().expect("a sound ruleset")
}

/// Everyone in place, with every attacker swinging.
fn begin(case: &Case, rules: &Ruleset) -> (Encounter, Vec<CombatantId>) {
    let [mason, hound] = ["mason", "hound"].map(|name| rules.find_template(name).expect("it is there"));
    let mut fight = Encounter::new(rules, 7);
    let at = |[x, z]: [f32; 2]| Pose::at([x, 0.0, z]).facing(Axis::Y, x * 100.0);
    let masons: Vec<_> = case.attackers.iter().map(|&place| fight.orders().spawn(mason, at(place))).collect();
    let hounds = case.targets.iter().map(|target| fight.orders().spawn(hound, at(target[0]))).collect();
    fight.tick().expect("all join");
    for mason in masons {
        fight.orders().start(mason, rules.find_attack("fork").expect("it is there"));
    }
    (fight, hounds)
}

fn go(case: &Case, fight: &mut Encounter, hounds: &[CombatantId], step: usize) {
    for (hound, target) in hounds.iter().zip(&case.targets) {
        let [x, z] = target[step];
        fight.orders().move_to(*hound, Pose::at([x, 0.0, z]).facing(Axis::Y, x * 100.0));
    }
}

fn hits(fight: &Encounter) -> Vec<(CombatantId, u16, u64)> {
    let hit = |event: &Event| match *event {
        Event::HitLanded(HitLanded { target, part, swing, .. }) => Some((target, part, swing.number())),
        _ => None,
    };
    fight.facts().events().filter_map(hit).collect()
}

proptest! {
    #![proptest_config(testkit::cases(200))]

    /// A host that reports every touch of a hitbox and a part gets the hits that are found without it, in the same order.
    #[test]
    fn reported_contacts_count_like_found_ones(case in case()) {
        let (found, told) = (rules(&case, false), rules(&case, true));
        let ((mut own, hounds), (mut host, others)) = (begin(&case, &found), begin(&case, &told));
        for step in [1, 2, 0] {
            go(&case, &mut own, &hounds, step);
            go(&case, &mut host, &others, step);
            own.tick().expect("a tick");
            let scene = own.scene();
            // Backwards, since the order of reports means nothing.
            let mut touches = Vec::new();
            for hitbox in scene.hitboxes().filter(|hitbox| hitbox.open) {
                for part in hounds.iter().flat_map(|&hound| scene.parts(hound)) {
                    let touch = first_touch(&hitbox.moving, &part.moving);
                    touches.extend(touch.map(|touch| (hitbox.swing, hitbox.hitbox, part.who, part.part, touch)));
                }
            }
            for (swing, hitbox, target, part, touch) in touches.into_iter().rev() {
                let touch = Touch::new(touch.point, touch.normal).at(touch.toi).by(hitbox);
                host.orders().report(swing, target, part, touch);
            }
            host.tick().expect("a tick");
            prop_assert_eq!(hits(&own), hits(&host), "step {}", step);
        }
        prop_assert_eq!(own.counts().hits, host.counts().hits);
        prop_assert_eq!(own.counts().attempts, host.counts().attempts);
    }
}

/// Of two that are reported the earlier impact wins, whatever was told first.
#[test]
fn the_earlier_impact_wins() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let far = Shape::Sphere { at: [0.0, 5_000.0, 0.0], radius: 0.1 };
    let blow = b.attack(Attack::melee("blow").timeline(0, 3, 0).damage(crush, 99, 99).hitbox(far));
    let ball = || Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.4 });
    let mason = b.template(Template::new("mason", masons, 40).part(ball()));
    let beast = b.template(Template::new("hound", beasts, 40).part(ball()));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 7);
    let (odo, hound) =
        (fight.orders().spawn(mason, Pose::IDENTITY), fight.orders().spawn(beast, Pose::at([1.0, 0.0, 0.0])));
    let (his, its) = (fight.orders().start(odo, blow), fight.orders().start(hound, blow));
    let touch = Touch::new([0.5, 0.0, 0.0], [1.0, 0.0, 0.0]);
    fight.orders().report(his, hound, 0, touch.at(0.7));
    fight.orders().report(its, odo, 0, touch.at(0.3));
    fight.tick().unwrap();
    assert_eq!((fight.view().life(odo), fight.view().life(hound)), (Life::Dead, Life::Standing));
}

#[test]
fn touches_that_cannot_be_are_refused() {
    let case = Case { sharing: 0, prefer: 0, attackers: vec![[0.0; 2]], targets: vec![[[1.0; 2]; 3]] };
    let rules = rules(&case, true);
    let (mut fight, hounds) = begin(&case, &rules);
    fight.tick().unwrap();
    let (swing, ..) = fight.view().swings().next().expect("it swings");
    let touch = Touch::new([0.0; 3], [0.0, 1.0, 0.0]);
    for (touch, why) in [
        (touch.by(3), "the attack has no such hitbox; they are counted from 0, in their order"),
        (
            touch.of_body(1),
            "no such projectile of the swing is in flight; they are counted from 1, and 0 stands for none",
        ),
        (touch.at(1.01), "the time of impact is out of its range"),
        (touch.at(-0.5), "the time of impact is out of its range"),
        (touch.at(f32::NAN), "the time of impact is out of its range"),
        (Touch::new([0.0; 3], [0.0; 3]), "a number is not finite, or a turn or normal has no length"),
    ] {
        fight.orders().report(swing, hounds[0], 0, touch);
        fight.tick().unwrap();
        let refused: Vec<Refusal> = { fight.facts().events() }
            .filter_map(|event| match event {
                Event::OrderRefused(OrderRefused { why, .. }) => Some(*why),
                _ => None,
            })
            .collect();
        assert_eq!(refused.iter().map(Refusal::to_string).collect::<Vec<_>>(), [why]);
        // The swing lasts three ticks.
        let (again, _) = begin(&case, &rules);
        fight = again;
        fight.tick().unwrap();
    }
}
