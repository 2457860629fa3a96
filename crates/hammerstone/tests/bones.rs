//! Parts that follow a skeleton: they sweep between the poses that the host gives, ride along without, and go through saves.

use hammerstone::Fixed;
use hammerstone::attack::Beam;
use hammerstone::event::{ContactMet, Event, OrderRefused};
use hammerstone::geometry::{Axis, Frame};
use hammerstone::hooks::{PoseAnswer, PoseRequest};
use hammerstone::orders::Refusal;
use hammerstone::prelude::*;
use proptest::prelude::*;

/// A vector and a quaternion in double precision, for an account of our own.
type V = [f64; 3];
type Q = [f64; 4];

fn add(a: V, b: V) -> V {
    [a[0] + b[0], a[1] + b[1], a[2] + b[2]]
}

fn mix(a: V, b: V, t: f64) -> V {
    [0, 1, 2].map(|i| a[i] + (b[i] - a[i]) * t)
}

fn distance(a: V, b: V) -> f64 {
    [0, 1, 2].map(|i| (a[i] - b[i]).powi(2)).iter().sum::<f64>().sqrt()
}

fn times(a: Q, b: Q) -> Q {
    let ([ax, ay, az, aw], [bx, by, bz, bw]) = (a, b);
    [
        aw * bx + ax * bw + ay * bz - az * by,
        aw * by - ax * bz + ay * bw + az * bx,
        aw * bz + ax * by - ay * bx + az * bw,
        aw * bw - ax * bx - ay * by - az * bz,
    ]
}

fn rotate(q: Q, v: V) -> V {
    let [x, y, z, _] = times(times(q, [v[0], v[1], v[2], 0.0]), [-q[0], -q[1], -q[2], q[3]]);
    [x, y, z]
}

/// A pose in double precision.
#[derive(Clone, Copy, Debug)]
struct P {
    at: V,
    turn: Q,
}

impl From<Pose> for P {
    fn from(pose: Pose) -> P {
        let length = pose.turn.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>().sqrt();
        P { at: pose.at.map(f64::from), turn: pose.turn.map(|x| f64::from(x) / length) }
    }
}

impl P {
    fn apply(self, point: V) -> V {
        add(self.at, rotate(self.turn, point))
    }

    fn then(self, inner: P) -> P {
        P { at: self.apply(inner.at), turn: times(self.turn, inner.turn) }
    }

    /// The way of a tick: places evenly, turns mixed along the shorter arc.
    fn towards(self, to: P, t: f64) -> P {
        let dot: f64 = (0..4).map(|i| self.turn[i] * to.turn[i]).sum();
        let side = if dot < 0.0 { -1.0 } else { 1.0 };
        let turn = [0, 1, 2, 3].map(|i| self.turn[i] + (to.turn[i] * side - self.turn[i]) * t);
        let length = turn.iter().map(|x| x * x).sum::<f64>().sqrt();
        P { at: mix(self.at, to.at, t), turn: turn.map(|x| x / length) }
    }

    fn single(self) -> Pose {
        Pose { at: self.at.map(|x| x as f32), turn: self.turn.map(|x| x as f32) }
    }
}

/// A body that goes from one pose to another in a tick.
type Way = [Pose; 2];

/// A part: a ball in the frame of its bone, and the bone's way in the frame of the body.
#[derive(Clone, Debug)]
struct Bone {
    ball: ([f32; 3], f32),
    way: Way,
}

#[derive(Clone, Debug)]
struct Case {
    attacker: Way,
    /// The hitbox in the attacker's frame.
    ball: ([f32; 3], f32),
    target: Way,
    bones: Vec<Bone>,
}

fn place(most: f32) -> impl Strategy<Value = [f32; 3]> {
    [-most..most, -most..most, -most..most]
}

fn pose(most: f32) -> impl Strategy<Value = Pose> {
    (place(most), place(1.0), -170.0f32..170.0)
        .prop_map(|(at, axis, degrees)| Pose::at(at).turned(axis, degrees))
}

fn way(most: f32) -> impl Strategy<Value = Way> {
    // Half of them do not turn on the way, a quarter stand still.
    (pose(most), pose(most), 0..4).prop_map(|(from, to, how)| match how {
        0 => [from, from],
        1 => [from, Pose { turn: from.turn, ..to }],
        _ => [from, to],
    })
}

fn ball() -> impl Strategy<Value = ([f32; 3], f32)> {
    (place(0.5), 0.05f32..0.4)
}

fn case() -> impl Strategy<Value = Case> {
    let bone = (ball(), way(1.2)).prop_map(|(ball, way)| Bone { ball, way });
    (way(1.5), ball(), way(1.5), proptest::collection::vec(bone, 1..6))
        .prop_map(|(attacker, ball, target, bones)| Case { attacker, ball, target, bones })
}

fn sphere((at, radius): ([f32; 3], f32)) -> Shape {
    Shape::Sphere { at, radius }
}

struct Yard {
    rules: Ruleset,
    mason: TemplateId,
    gaunt: TemplateId,
    poke: AttackId,
}

/// A mason with a ball to poke with, and a gaunt with these parts.
fn yard(hitbox: Shape, parts: &[Shape], posed: bool) -> Yard {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    b.reason("tide");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let poke = b.attack(Attack::melee("poke").timeline(0, 3, 0).damage(crush, 1, 1).hitbox(hitbox));
    let mason = b.template(Template::new("mason", masons, 40));
    let gaunt = Template::new("gaunt", beasts, 400);
    let parts = parts.iter().enumerate().map(|(i, shape)| Part::new(&format!("bone {i}"), *shape));
    let gaunt = parts.fold(gaunt, Template::part);
    let gaunt = b.template(if posed { gaunt.posed(4.0) } else { gaunt });
    Yard { rules: b.build().expect("the yard is sound"), mason, gaunt, poke }
}

/// Both are where their ways begin, and then go them in one tick, in which the poke is open.
fn play(case: &Case, frame: Frame) -> (Encounter, CombatantId) {
    let parts: Vec<Shape> = case.bones.iter().map(|bone| sphere(bone.ball)).collect();
    let yard = yard(sphere(case.ball), &parts, true);
    let mut fight = Encounter::new(&yard.rules, 7);
    let mason = fight.orders().spawn(yard.mason, case.attacker[0]);
    let gaunt = fight.orders().spawn(yard.gaunt, case.target[0]);
    for step in [0, 1] {
        let body = P::from(case.target[step]);
        let poses: Vec<Pose> = { case.bones.iter() }
            .map(|bone| match frame {
                Frame::Body => bone.way[step],
                Frame::World => body.then(P::from(bone.way[step])).single(),
            })
            .collect();
        fight.orders().move_to(mason, case.attacker[step]);
        // Given before the move, and carried out after it.
        fight.orders().pose_parts(gaunt, frame, &poses);
        fight.orders().move_to(gaunt, case.target[step]);
        if step == 1 {
            fight.orders().start(mason, yard.poke);
        }
        fight.tick().expect("a tick");
        assert_eq!(refusals(&fight), []);
    }
    (fight, gaunt)
}

fn refusals(fight: &Encounter) -> Vec<Refusal> {
    let why = |event: &Event| match event {
        Event::OrderRefused(OrderRefused { why, .. }) => Some(*why),
        _ => None,
    };
    fight.facts().events().filter_map(why).collect()
}

fn contact(fight: &Encounter) -> Option<(u16, f64)> {
    fight.facts().events().find_map(|event| match *event {
        Event::ContactMet(ContactMet { part, toi, .. }) => Some((part, f64::from(toi))),
        _ => None,
    })
}

/// The middle of a ball.
fn centre(shape: &Shape) -> V {
    match shape {
        Shape::Sphere { at, .. } => at.map(f64::from),
        other => panic!("{other:?} is no ball"),
    }
}

impl Case {
    /// How far the hitbox is from a part at a time of the tick, in metres; below 0 where they overlap.
    fn gap(&self, part: usize, t: f64) -> f64 {
        let body = |way: &Way| P::from(way[0]).towards(P::from(way[1]), t);
        let bone = &self.bones[part];
        let hitbox = body(&self.attacker).apply(self.ball.0.map(f64::from));
        let centre = body(&self.target).then(body(&bone.way)).apply(bone.ball.0.map(f64::from));
        distance(hitbox, centre) - f64::from(self.ball.1) - f64::from(bone.ball.1)
    }

    /// The time at which a part is first touched, of so many looked at.
    fn first(&self, looks: u32) -> Option<(usize, f64)> {
        let times = (0..=looks).map(|i| f64::from(i) / f64::from(looks));
        let touched =
            |t: f64| (0..self.bones.len()).find(|&part| self.gap(part, t) <= 0.0).map(|part| (part, t));
        times.into_iter().find_map(touched)
    }
}

proptest! {
    #![proptest_config(testkit::cases(250))]

    /// What is touched, and when, is what a search by small steps finds.
    #[test]
    fn parts_sweep_between_poses(case in case()) {
        let (fight, _) = play(&case, Frame::Body);
        let found = contact(&fight);
        let searched = case.first(1_000);
        match (found, searched) {
            (Some((part, toi)), searched) => {
                // As near as the skin says, and no later than the search.
                prop_assert!(case.gap(part.into(), toi) < 0.006, "{} apart at {toi}", case.gap(part.into(), toi));
                if let Some((_, t)) = searched {
                    prop_assert!(toi <= t + 1.0e-4, "touched at {t}, found at {toi}");
                }
            }
            (None, Some((part, t))) => {
                prop_assert!(case.gap(part, t) > -1.0e-4, "part {part} is touched at {t}, and that is not found");
            }
            (None, None) => {}
        }
    }

    /// Hitboxes with ways of their own touch what a search by small steps finds: the same meeting, with the sides changed.
    #[test]
    fn hitboxes_sweep_between_poses(case in case()) {
        let shapes: Vec<Shape> = case.bones.iter().map(|bone| sphere(bone.ball)).collect();
        let mut b = Ruleset::builder(60);
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let sword = Attack::melee("sword").timeline(0, 3, 0).guided();
        let sword = b.attack(shapes.iter().fold(sword, |sword, shape| sword.hitbox(*shape)));
        let mason = b.template(Template::new("mason", masons, 40));
        let stone = b.template(Template::new("stone", beasts, 40).part(Part::new("stone", sphere(case.ball))));
        let rules = b.build().expect("the yard is sound");
        for frame in [Frame::Body, Frame::World] {
            let mut fight = Encounter::new(&rules, 7);
            let mason = fight.orders().spawn(mason, case.target[0]);
            let stone = fight.orders().spawn(stone, Pose::at([500.0, 0.0, 0.0]));
            let swing = fight.orders().start(mason, sword);
            for step in [0, 1] {
                let body = P::from(case.target[step]);
                let poses: Vec<Pose> = { case.bones.iter() }
                    .map(|bone| match frame {
                        Frame::Body => bone.way[step],
                        Frame::World => body.then(P::from(bone.way[step])).single(),
                    })
                    .collect();
                fight.orders().guide_hitboxes(swing, frame, &poses);
                fight.orders().move_to(mason, case.target[step]);
                if step == 0 {
                    fight.tick().expect("a tick");
                    // It is there from the start of the next tick.
                    fight.orders().teleport(stone, case.attacker[0]);
                } else {
                    fight.orders().move_to(stone, case.attacker[1]);
                    fight.tick().expect("a tick");
                }
                prop_assert_eq!(refusals(&fight), []);
            }
            // Each hitbox has a contact of its own.
            let met = fight.facts().events().filter_map(|event| match *event {
                Event::ContactMet(ContactMet { toi, .. }) => Some(f64::from(toi)),
                _ => None,
            });
            match (met.reduce(f64::min), case.first(1_000)) {
                (Some(toi), searched) => {
                    let least = (0..case.bones.len()).map(|part| case.gap(part, toi)).fold(f64::INFINITY, f64::min);
                    prop_assert!(least < 0.006, "{least} apart at {toi}");
                    prop_assert!(searched.is_none_or(|(_, t)| toi <= t + 1.0e-3), "{searched:?}, found at {toi}");
                }
                (None, Some((part, t))) => {
                    prop_assert!(case.gap(part, t) > -1.0e-3, "hitbox {part} touches at {t}, and that is not found");
                }
                (None, None) => {}
            }
        }
    }

    /// It is the same whether poses are given in the body's frame or in the world's.
    #[test]
    fn frames_say_the_same(case in case()) {
        let (own, own_gaunt) = play(&case, Frame::Body);
        let (world, gaunt) = play(&case, Frame::World);
        for (one, other) in own.scene().parts(own_gaunt).zip(world.scene().parts(gaunt)) {
            for t in [0.0, 0.3, 1.0] {
                let [one, other] = [one.moving, other.moving].map(|moving| centre(&moving.at(t)));
                prop_assert!(distance(one, other) < 1.0e-4, "{one:?} and {other:?}");
            }
        }
        let (one, other) = (contact(&own), contact(&world));
        if let (Some((_, one)), Some((_, other))) = (one, other) {
            prop_assert!((one - other).abs() < 0.02, "{one} and {other}");
        } else if one != other {
            let least = (0..=200).flat_map(|i| (0..case.bones.len()).map(move |part| (part, f64::from(i) / 200.0)));
            let least = least.map(|(part, t)| case.gap(part, t)).fold(f64::INFINITY, f64::min);
            prop_assert!(least.abs() < 0.01, "{one:?} and {other:?}, {least} apart");
        }
    }
}

const BALL: Shape = Shape::Sphere { at: [0.0; 3], radius: 0.2 };

/// A gaunt of two bones at the origin, and a mason four metres off who can touch what comes to it.
fn meeting(posed: bool) -> (Encounter, Yard, CombatantId, CombatantId) {
    let yard = yard(BALL, &[BALL, BALL], posed);
    let mut fight = Encounter::new(&yard.rules, 7);
    let gaunt = fight.orders().spawn(yard.gaunt, Pose::IDENTITY);
    let mason = fight.orders().spawn(yard.mason, Pose::at([0.0, 0.0, 3.0]));
    fight.tick().expect("both join");
    (fight, yard, gaunt, mason)
}

fn bone(z: f32) -> Pose {
    Pose::at([0.0, 0.0, z])
}

/// Where the parts of one were as the tick began, and are now, along z.
fn along(fight: &Encounter, who: CombatantId) -> Vec<(f64, f64)> {
    let parts = fight.scene().parts(who);
    parts.map(|part| (centre(&part.moving.at(0.0))[2], centre(&part.moving.at(1.0))[2])).collect()
}

#[test]
fn until_the_first_pose_parts_are_rigid_and_without_another_they_ride_along() {
    let (mut fight, _, gaunt, _) = meeting(true);
    assert_eq!(along(&fight, gaunt), [(0.0, 0.0), (0.0, 0.0)]);
    fight.orders().pose_parts(gaunt, Frame::Body, &[bone(1.0), bone(2.0)]);
    fight.tick().unwrap();
    // The first pose is where the way begins.
    assert_eq!(along(&fight, gaunt), [(1.0, 1.0), (2.0, 2.0)]);
    fight.orders().pose_parts(gaunt, Frame::Body, &[bone(1.5), bone(2.0)]);
    fight.tick().unwrap();
    assert_eq!(along(&fight, gaunt), [(1.0, 1.5), (2.0, 2.0)]);
    fight.tick().unwrap();
    assert_eq!(along(&fight, gaunt), [(1.5, 1.5), (2.0, 2.0)]);
    fight.orders().move_to(gaunt, Pose::at([0.0, 0.0, 5.0]));
    fight.tick().unwrap();
    assert_eq!(along(&fight, gaunt), [(1.5, 6.5), (2.0, 7.0)]);
    // The dead keep theirs.
    let (crush, tide) =
        (fight.rules().find_damage_type("crush").unwrap(), fight.rules().find_reason("tide").unwrap());
    fight.orders().damage(gaunt, crush, Fixed::whole(999), tide);
    fight.tick().unwrap();
    fight.tick().unwrap();
    assert_eq!(along(&fight, gaunt), [(6.5, 6.5), (7.0, 7.0)]);
    // Once it is up again, its way begins with the next poses.
    fight.orders().bring_back(gaunt, Pose::IDENTITY);
    fight.orders().pose_parts(gaunt, Frame::Body, &[bone(0.5), bone(0.6)]);
    fight.tick().unwrap();
    assert_eq!(along(&fight, gaunt), [(0.5, 0.5), (0.6f32.into(), 0.6f32.into())]);
}

#[test]
fn after_a_teleport_the_way_begins_with_the_next_poses() {
    let (mut fight, _, gaunt, _) = meeting(true);
    fight.orders().pose_parts(gaunt, Frame::Body, &[bone(1.0), bone(2.0)]);
    fight.tick().unwrap();
    fight.orders().teleport(gaunt, Pose::at([0.0, 0.0, 50.0]));
    fight.orders().pose_parts(gaunt, Frame::World, &[bone(50.5), bone(51.0)]);
    fight.tick().unwrap();
    assert_eq!(along(&fight, gaunt), [(50.5, 50.5), (51.0, 51.0)]);
    // Of several in a tick the last counts, and the way begins where the tick did.
    fight.orders().pose_parts(gaunt, Frame::Body, &[bone(-3.0), bone(-3.0)]);
    fight.orders().pose_parts(gaunt, Frame::World, &[bone(51.0), bone(50.0)]);
    fight.tick().unwrap();
    assert_eq!(along(&fight, gaunt), [(50.5, 51.0), (51.0, 50.0)]);
}

#[test]
fn a_bone_that_flies_through_a_hitbox_in_one_tick_is_struck() {
    let (mut fight, yard, gaunt, mason) = meeting(true);
    // From one side of the hitbox to the other, and never in it when a tick is over.
    fight.orders().pose_parts(gaunt, Frame::Body, &[bone(0.0), Pose::at([-2.0, 0.0, 3.0])]);
    fight.tick().unwrap();
    fight.orders().start(mason, yard.poke);
    fight.orders().pose_parts(gaunt, Frame::Body, &[bone(0.0), Pose::at([2.0, 0.0, 3.0])]);
    fight.tick().unwrap();
    let (part, toi) = contact(&fight).expect("it is struck");
    assert_eq!(part, 1);
    assert!((toi - 0.4).abs() < 0.01, "{toi}");
    assert_eq!(fight.counts().hits, 1);
    // Once in a swing, however often it comes back.
    for x in [-2.0, 2.0] {
        fight.orders().pose_parts(gaunt, Frame::Body, &[bone(0.0), Pose::at([x, 0.0, 3.0])]);
        fight.tick().unwrap();
    }
    assert_eq!(fight.counts().hits, 1);
}

#[test]
fn poses_that_cannot_be_are_refused_and_change_nothing() {
    let (mut fight, yard, gaunt, mason) = meeting(true);
    fight.orders().pose_parts(gaunt, Frame::Body, &[bone(1.0), bone(2.0)]);
    fight.tick().unwrap();
    let nan = Pose { at: [f32::NAN, 0.0, 0.0], ..Pose::IDENTITY };
    let unturned = Pose { turn: [0.0; 4], ..Pose::IDENTITY };
    let cases: [(CombatantId, Frame, Vec<Pose>, Refusal); 8] = [
        (gaunt, Frame::Body, vec![bone(1.0)], Refusal::PoseCount { given: 1, wanted: 2 }),
        (gaunt, Frame::Body, vec![], Refusal::PoseCount { given: 0, wanted: 2 }),
        (gaunt, Frame::Body, vec![bone(1.0); 3], Refusal::PoseCount { given: 3, wanted: 2 }),
        (gaunt, Frame::Body, vec![bone(1.0), nan], Refusal::NotFinite),
        (gaunt, Frame::World, vec![unturned, bone(1.0)], Refusal::NotFinite),
        (
            gaunt,
            Frame::Body,
            vec![bone(4.0), bone(4.5)],
            Refusal::OutOfReach { pose: 1, metres: 4.5, limit: 4.0 },
        ),
        (
            gaunt,
            Frame::World,
            vec![bone(-5.0), bone(0.0)],
            Refusal::OutOfReach { pose: 0, metres: 5.0, limit: 4.0 },
        ),
        (mason, Frame::Body, vec![bone(1.0)], Refusal::NotPosed),
    ];
    for (who, frame, poses, why) in cases {
        let mut other = fight.clone();
        other.orders().pose_parts(who, frame, &poses);
        other.tick().unwrap();
        assert_eq!(refusals(&other), [why]);
        let mut control = fight.clone();
        control.orders().move_to(gaunt, nan);
        control.tick().unwrap();
        assert_eq!(other.checksum(), control.checksum(), "{why}");
    }
    // In the world's frame the limit is from where the body is once it has moved.
    fight.orders().pose_parts(gaunt, Frame::World, &[bone(9.0), bone(9.0)]);
    fight.orders().move_to(gaunt, bone(8.0));
    fight.tick().unwrap();
    assert_eq!(refusals(&fight), []);
    assert_eq!(along(&fight, gaunt), [(1.0, 9.0), (2.0, 9.0)]);
    let _ = yard;
}

/// A hook's poses are for the next tick, and wait in the state until then.
#[test]
fn hooks_pose_for_the_next_tick() {
    let (mut fight, yard, gaunt, mason) = meeting(true);
    let mut hooks = Hooks::<CombatantId>::new();
    let flinch = hooks.react("flinch", |who: &mut CombatantId, _, orders| {
        orders.pose_parts(*who, Frame::Body, &[bone(-1.0), bone(-1.0)]);
    });
    fight.orders().subscribe(flinch, Listen::to(topic::HIT_LANDED));
    fight.orders().pose_parts(gaunt, Frame::Body, &[bone(3.0), bone(0.0)]);
    fight.orders().start(mason, yard.poke);
    let mut who = gaunt;
    fight.tick_with(&hooks, &mut who).unwrap();
    assert_eq!(fight.counts().hits, 1);
    assert_eq!(along(&fight, gaunt), [(3.0, 3.0), (0.0, 0.0)]);
    let (_, order) = fight.pending_orders().next().expect("it waits");
    let Order::PoseParts { poses, .. } = *order else { panic!("{order:?}") };
    assert_eq!(fight.poses(poses), Some(&[bone(-1.0), bone(-1.0)][..]));
    let saved = fight.save().unwrap();
    let mut restored = Encounter::new(&yard.rules, 1);
    restored.restore(&saved).unwrap();
    for fight in [&mut fight, &mut restored] {
        fight.tick_with(&hooks, &mut who).unwrap();
        assert_eq!(along(fight, gaunt), [(3.0, -1.0), (0.0, -1.0)]);
        assert_eq!(fight.poses(poses), None);
    }
    assert!(fight.same_state(&restored));
}

/// Poses are there until their order is carried out. One that names others names none, also in a saved state.
#[test]
fn poses_of_another_tick_are_not_there() {
    let (mut fight, yard, gaunt, _) = meeting(true);
    let poses = fight.orders().poses(&[bone(1.0), bone(2.0)]);
    let order = Order::PoseParts { subject: gaunt, frame: Frame::Body, poses };
    assert_eq!(fight.would_refuse(&order), None);
    fight.orders().give(order);
    // The same poses for another order of the tick.
    fight.orders().give(order);
    fight.tick().unwrap();
    assert_eq!(refusals(&fight), []);
    assert_eq!(fight.poses(poses), None);
    fight.orders().give(order);
    let mut restored = Encounter::new(&yard.rules, 1);
    restored.restore(&fight.save().unwrap()).unwrap();
    for fight in [&mut fight, &mut restored] {
        fight.tick().unwrap();
        assert_eq!(refusals(fight), [Refusal::PoseCount { given: 0, wanted: 2 }]);
        assert_eq!(along(fight, gaunt), [(1.0, 1.0), (2.0, 2.0)]);
    }
    assert!(fight.same_state(&restored));
}

/// A posed template whose poses are all the body's own is a rigid one.
#[test]
fn poses_that_are_the_bodys_change_nothing() {
    let run = |posed: bool| {
        let (mut fight, yard, gaunt, mason) = meeting(posed);
        let mut told = Vec::new();
        for tick in 0..40u8 {
            let x = f32::from(tick) * 0.1;
            if posed {
                fight.orders().pose_parts(gaunt, Frame::Body, &[Pose::IDENTITY; 2]);
            }
            fight.orders().move_to(gaunt, Pose::at([0.0, 0.0, x]).facing(Axis::Y, x * 50.0));
            fight.orders().start(mason, yard.poke);
            fight.tick().unwrap();
            told.extend(
                fight
                    .facts()
                    .events()
                    .filter(|event| !matches!(event, Event::OrderRefused(_)))
                    .map(|e| format!("{e:?}")),
            );
        }
        (told, fight.counts())
    };
    let (posed, rigid) = (run(true), run(false));
    assert_eq!(posed, rigid);
    assert!(posed.1.hits > 3);
}

/// Poses go through a save as a file, and what is changed there is refused.
#[test]
fn poses_go_through_bytes() {
    let (mut fight, yard, gaunt, _) = meeting(true);
    fight.orders().pose_parts(gaunt, Frame::Body, &[bone(1.0), bone(2.0)]);
    fight.tick().unwrap();
    fight.orders().pose_parts(
        gaunt,
        Frame::World,
        &[bone(1.5), Pose { at: [f32::INFINITY; 3], ..bone(0.0) }],
    );
    let text = testkit::json::save_text(&fight.save().unwrap());
    let saved = testkit::json::read_save_text(&text).unwrap();
    let mut other = Encounter::new(&yard.rules, 9);
    other.restore(&saved).unwrap();
    assert!(other.same_state(&fight));
    for fight in [&mut fight, &mut other] {
        fight.tick().unwrap();
        assert_eq!(refusals(fight), [Refusal::NotFinite]);
        fight.orders().pose_parts(gaunt, Frame::Body, &[bone(1.5), bone(2.5)]);
        fight.tick().unwrap();
        assert_eq!(along(fight, gaunt), [(1.0, 1.5), (2.0, 2.5)]);
    }
    assert!(other.same_state(&fight));
}

/// All hitboxes at one pose, or each at the same pose: the same fight, bit for bit.
#[test]
fn one_pose_for_all_hitboxes_is_the_same_pose_for_each() {
    let run = |each: bool| {
        let mut b = Ruleset::builder(60);
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let sword = Attack::melee("sword")
            .timeline(0, 30, 0)
            .guided()
            .hitbox(BALL)
            .hitbox(Shape::Sphere { at: [0.0, 0.0, 0.5], radius: 0.1 });
        let sword = b.attack(sword);
        let mason = b.template(Template::new("mason", masons, 40));
        let hound = b.template(Template::new("hound", beasts, 40).part(Part::new("skull", BALL)));
        let rules = b.build().unwrap();
        let mut fight = Encounter::new(&rules, 7);
        let mason = fight.orders().spawn(mason, Pose::IDENTITY);
        for x in 0..5u8 {
            fight.orders().spawn(hound, Pose::at([f32::from(x), 0.0, 1.0]));
        }
        let swing = fight.orders().start(mason, sword);
        let mut told = Vec::new();
        for tick in 0..20u8 {
            let pose =
                Pose::at([f32::from(tick) * 0.3, 0.0, 0.8]).turned([0.0, 1.0, 0.3], f32::from(tick) * 20.0);
            match each {
                true => fight.orders().guide_hitboxes(swing, Frame::Body, &[pose; 2]),
                false => fight.orders().guide(swing, pose),
            };
            fight.tick().unwrap();
            told.extend(fight.facts().events().map(|event| format!("{event:?}")));
        }
        (told, fight.counts().hits)
    };
    assert_eq!(run(true), run(false));
    assert_eq!(run(true).1, 5);
}

#[test]
fn hitboxes_are_guided_one_for_each_and_within_the_limit() {
    let mut b = Ruleset::builder(60);
    b.move_limit(10.0);
    let masons = b.team("masons");
    let sword = b.attack(Attack::melee("sword").timeline(0, 9, 0).guided().hitbox(BALL).hitbox(BALL));
    let maul = b.attack(Attack::melee("maul").timeline(0, 9, 0).hitbox(BALL).alongside());
    let mason = b.template(Template::new("mason", masons, 40));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 7);
    let mason = fight.orders().spawn(mason, bone(5.0));
    let (swing, other) = (fight.orders().start(mason, sword), fight.orders().start(mason, maul));
    fight.orders().guide_hitboxes(swing, Frame::World, &[bone(15.0), bone(-5.0)]);
    fight.orders().guide_hitboxes(swing, Frame::Body, &[bone(1.0)]);
    fight.orders().guide_hitboxes(swing, Frame::World, &[bone(5.0), bone(15.5)]);
    fight.orders().guide_hitboxes(other, Frame::Body, &[bone(1.0)]);
    fight.tick().unwrap();
    let [count, reach, not_guided] = refusals(&fight)[..] else { panic!("{:?}", refusals(&fight)) };
    assert_eq!(count, Refusal::PoseCount { given: 1, wanted: 2 });
    assert_eq!(reach, Refusal::OutOfReach { pose: 1, metres: 10.5, limit: 10.0 });
    assert_eq!(not_guided.to_string(), "the swing takes no such order: its attack is not guided");
    let scene = fight.scene();
    let hitboxes = scene.hitboxes().filter(|hitbox| hitbox.swing == swing);
    let at: Vec<f64> = hitboxes.map(|hitbox| centre(&hitbox.moving.at(1.0))[2]).collect();
    assert_eq!(at, [15.0, -5.0]);
}

/// One who pulls poses out of a table, and notes who was asked for, when, and what was said to a wrong answer.
#[derive(Default)]
struct Source {
    ways: std::collections::BTreeMap<u64, Vec<Way>>,
    frame: Option<Frame>,
    asked: Vec<CombatantId>,
}

impl Host for Source {
    fn has_hooks(&self) -> bool {
        false
    }

    fn poses(&mut self, request: &PoseRequest<'_>, answer: &mut PoseAnswer<'_>) {
        self.asked.push(request.who);
        assert_eq!(request.view.label(request.who), Some(request.label));
        let Some(ways) = self.ways.get(&request.label) else { return };
        assert_eq!(ways.len(), request.parts);
        let [start, end] = [0, 1].map(|end| ways.iter().map(|way| way[end]).collect::<Vec<_>>());
        let wrong = [
            answer.give(Frame::Body, &start[1..], &end),
            answer.give(Frame::Body, &start, &[]),
            answer.give(Frame::Body, &vec![Pose::at([f32::NAN; 3]); ways.len()], &end),
            answer.give(Frame::Body, &vec![Pose::at([0.0, 99.0, 0.0]); ways.len()], &end),
        ];
        assert!(wrong.iter().all(|answer| answer.is_err()), "{wrong:?}");
        if let Some(frame) = self.frame {
            answer.give(frame, &start, &end).expect("within reach");
        }
    }
}

proptest! {
    #![proptest_config(testkit::cases(200))]

    /// Parts whose poses are pulled touch as those whose poses are given, to the bit; who is far off is not asked for.
    #[test]
    fn pulled_poses_are_as_given_ones(case in case()) {
        let shapes: Vec<Shape> = case.bones.iter().map(|bone| sphere(bone.ball)).collect();
        let yard = yard(sphere(case.ball), &shapes, true);
        let ways: Vec<Way> = case.bones.iter().map(|bone| bone.way).collect();
        let run = |source: &mut Source, given: bool| {
            let mut fight = Encounter::new(&yard.rules, 1);
            let mason = fight.orders().spawn(yard.mason, case.attacker[0]);
            let gaunt = fight.orders().spawn(yard.gaunt, case.target[0]);
            let far = fight.orders().spawn(yard.gaunt, Pose::at([500.0, 0.0, 0.0]));
            for (label, who) in (1..).zip([gaunt, far]) {
                fight.orders().label(who, label);
            }
            let [start, end] = [0, 1].map(|end| ways.iter().map(|way| way[end]).collect::<Vec<_>>());
            if given {
                fight.orders().pose_parts(gaunt, Frame::Body, &start);
            }
            fight.tick_for(source).unwrap();
            assert!(source.asked.is_empty(), "no hitbox is open");
            fight.orders().start(mason, yard.poke);
            fight.orders().move_to(mason, case.attacker[1]);
            fight.orders().move_to(gaunt, case.target[1]);
            if given {
                fight.orders().pose_parts(gaunt, Frame::Body, &end);
            }
            let before = fight.checksum();
            fight.tick_for(source).unwrap();
            assert!(fight.checksum() != before && !source.asked.contains(&far));
            let met: Vec<ContactMet> = { fight.facts().events() }
                .filter_map(|event| if let Event::ContactMet(met) = event { Some(*met) } else { None })
                .collect();
            let seen: Vec<String> =
                fight.scene().parts(gaunt).map(|part| format!("{:?}", part.moving.at(0.5))).collect();
            (met, seen, fight.checksum())
        };
        let mut pulled = Source { frame: Some(Frame::Body), ..Source::default() };
        pulled.ways.insert(1, ways.clone());
        let (met, seen, state) = run(&mut pulled, false);
        let mut control = Source::default();
        let (wanted, given, _) = run(&mut control, true);
        prop_assert!(control.asked.is_empty(), "who is posed by order is not asked for");
        prop_assert_eq!(&met, &wanted);
        if !pulled.asked.is_empty() {
            prop_assert_eq!(seen, given);
            prop_assert_eq!(pulled.asked.len(), 1);
        }
        prop_assert!(!pulled.asked.is_empty() || met.is_empty());
        // What is pulled never enters the state: without an answer parts are where the template has them, and all else is alike.
        let (rigid, _, silent) = run(&mut Source::default(), false);
        prop_assert!(!met.is_empty() || !rigid.is_empty() || silent == state);
        // The same in the world's frame, where rounding is all that differs.
        let world = |way: &Way| [0, 1].map(|end| P::from(case.target[end]).then(P::from(way[end])).single());
        let mut pulled = Source { frame: Some(Frame::World), ..Source::default() };
        pulled.ways.insert(1, ways.iter().map(world).collect());
        let (in_world, ..) = run(&mut pulled, false);
        if let ([one], [other]) = (&in_world[..], &met[..]) {
            prop_assert!((one.toi - other.toi).abs() < 0.02, "{} is not {}", one.toi, other.toi);
        }
    }
}

/// Beams and attacks by touch meet posed parts as well.
#[test]
fn beams_and_touches_meet_bones() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let beam = Beam { from: [0.0, 1.0, 0.0], reach: 10.0, radius: 0.05, pierce: 0 };
    let ray = b.attack(Attack::beam("ray", beam).timeline(0, 1, 0).damage(crush, 1, 1));
    let thorns = b.attack(Attack::touch("thorns").timeline(0, 10, 0).damage(crush, 1, 1));
    let mason = b.template(Template::new("mason", masons, 40));
    let bone = |name: &str| Part::new(name, Shape::Sphere { at: [0.0; 3], radius: 0.2 });
    let gaunt = b.template(Template::new("gaunt", beasts, 40).part(bone("arm")).posed(6.0));
    let hedge = b.template(Template::new("hedge", masons, 40).part(bone("twig")).posed(6.0));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let mason = fight.orders().spawn(mason, Pose::IDENTITY);
    let gaunt = fight.orders().spawn(gaunt, Pose::at([5.0, 0.0, 5.0]));
    let hedge = fight.orders().spawn(hedge, Pose::at([9.0, 0.0, 5.0]));
    // The body stands beside the ray; the arm hangs into it.
    fight.orders().pose_parts(gaunt, Frame::World, &[Pose::at([0.0, 1.1, 4.0])]);
    fight.tick().unwrap();
    fight.orders().start(mason, ray);
    fight.tick().unwrap();
    assert_eq!(fight.view().health(gaunt), Some((39, 40)));
    assert!((fight.beams()[0].to[2] - 3.8).abs() < 0.1, "{:?}", fight.beams());
    // A twig goes through the arm within one tick.
    fight.orders().start(hedge, thorns);
    fight.orders().pose_parts(hedge, Frame::World, &[Pose::at([5.0, 1.1, 4.0])]);
    fight.tick().unwrap();
    assert_eq!(fight.view().health(gaunt), Some((39, 40)));
    fight.orders().pose_parts(hedge, Frame::World, &[Pose::at([3.4, 1.1, 4.0])]);
    fight.orders().pose_parts(gaunt, Frame::World, &[Pose::at([4.4, 1.1, 4.0])]);
    fight.tick().unwrap();
    assert_eq!(fight.view().health(gaunt), Some((38, 40)));
}
