//! What a level and moving obstacles put in the way: against one shape at a time, against distances in double precision, and in fights.

use hammerstone::RestoreError;
use hammerstone::attack::{Beam, Projectile, When};
use hammerstone::event::{Event, Gate, HitRefused, Operand, ProjectileStopped};
use hammerstone::flow::{Condition, Reaction, Rule};
use hammerstone::geometry::{Axis, Moving, Obstacle};
use hammerstone::level::{HeightField, InLevel, Level, LevelError, LevelShape, Mesh};
use hammerstone::orders::Touch;
use hammerstone::prelude::*;
use proptest::prelude::*;
use testkit::{cases, json};

type Point = [f64; 3];

fn place(far: f32) -> impl Strategy<Value = [f32; 3]> {
    let one = move || (-far..far).prop_map(|x| (x * 64.0).round() / 64.0);
    [one(), one(), one()]
}

fn pose(far: f32) -> impl Strategy<Value = Pose> {
    (place(far), place(1.0), -180.0f32..180.0)
        .prop_map(|(at, axis, degrees)| Pose::at(at).turned(axis, degrees))
}

fn solid() -> impl Strategy<Value = LevelShape> {
    let edge = || 0.1f32..3.0;
    prop_oneof![
        (pose(12.0), [edge(), edge(), edge()]).prop_map(|(pose, half)| Obstacle::Box { pose, half }),
        (place(12.0), edge()).prop_map(|(at, radius)| Obstacle::Sphere { at, radius }),
        (place(12.0), place(12.0), edge()).prop_map(|(from, to, radius)| Obstacle::Capsule {
            from,
            to,
            radius
        }),
        (place(20.0), place(1.0)).prop_map(|(at, normal)| Obstacle::HalfSpace { at, normal }),
    ]
    .prop_map(LevelShape::Solid)
    .prop_filter("a solid", |shape| matches!(shape, LevelShape::Solid(solid) if solid.is_solid()))
}

/// Triangles anywhere, some of them without area, some of them twice.
fn mesh() -> impl Strategy<Value = LevelShape> {
    (
        proptest::collection::vec(place(12.0), 3..12),
        proptest::collection::vec([0u32..12, 0..12, 0..12], 1..16),
    )
        .prop_map(|(points, triangles)| {
            let count = points.len() as u32;
            let triangles =
                triangles.into_iter().map(|corners| corners.map(|corner| corner % count)).collect();
            LevelShape::Mesh(Mesh { points, triangles })
        })
}

fn ground() -> impl Strategy<Value = LevelShape> {
    let up = prop_oneof![Just(Axis::X), Just(Axis::Y), Just(Axis::Z)];
    (place(6.0), up, 0.5f32..3.0, 2u32..5, 2usize..5).prop_flat_map(|(corner, up, step, columns, rows)| {
        let heights = proptest::collection::vec(-2.0f32..2.0, columns as usize * rows);
        heights.prop_map(move |heights| {
            LevelShape::HeightField(HeightField { corner, up, step, columns, heights })
        })
    })
}

fn shapes() -> impl Strategy<Value = Vec<LevelShape>> {
    proptest::collection::vec(prop_oneof![3 => solid(), 2 => mesh(), 1 => ground()], 0..24)
}

fn hitbox() -> impl Strategy<Value = Shape> {
    let radius = || 0.02f32..0.6;
    prop_oneof![
        radius().prop_map(|radius| Shape::Sphere { at: [0.0; 3], radius }),
        (place(1.0), radius()).prop_map(|(to, radius)| Shape::Capsule { from: [0.0, 0.0, -0.3], to, radius }),
        (pose(0.5), [radius(), radius(), radius()]).prop_map(|(pose, half)| Shape::Box { pose, half }),
    ]
}

fn level(shapes: &[LevelShape]) -> Level {
    let mut b = Level::builder();
    shapes.iter().for_each(|shape| _ = b.shape(shape.clone()));
    b.build().expect("sound shapes")
}

/// Every solid and every triangle by itself, with its place: what a search may not depend on.
fn one_by_one(shapes: &[LevelShape]) -> Vec<(InLevel, LevelShape)> {
    let mut all = Vec::new();
    for (shape, of) in (0..).zip(shapes) {
        match of {
            LevelShape::Solid(_) => all.push((InLevel { shape, triangle: None }, of.clone())),
            LevelShape::Mesh(mesh) => {
                for (triangle, corners) in (0..).zip(&mesh.triangles) {
                    let one = Mesh { points: mesh.points.clone(), triangles: vec![*corners] };
                    all.push((InLevel { shape, triangle: Some(triangle) }, LevelShape::Mesh(one)));
                }
            }
            LevelShape::HeightField(field) => {
                for (triangle, corners) in (0..).zip(corners_of(field)) {
                    let one = Mesh { points: corners.to_vec(), triangles: vec![[0, 1, 2]] };
                    all.push((InLevel { shape, triangle: Some(triangle) }, LevelShape::Mesh(one)));
                }
            }
        }
    }
    all
}

/// The triangles of a height field, by what its documents say.
fn corners_of(field: &HeightField) -> Vec<[[f32; 3]; 3]> {
    let (along, across, up) = match field.up {
        Axis::X => (1, 2, 0),
        Axis::Y => (0, 2, 1),
        Axis::Z => (0, 1, 2),
    };
    let columns = field.columns as usize;
    let point = |column: usize, row: usize| {
        let mut point = field.corner;
        point[along] += field.step * column as f32;
        point[across] += field.step * row as f32;
        point[up] += field.heights[row * columns + column];
        point
    };
    let mut all = Vec::new();
    for row in 0..field.rows() as usize - 1 {
        for column in 0..columns - 1 {
            let (a, b) = (point(column, row), point(column + 1, row));
            let (c, d) = (point(column, row + 1), point(column + 1, row + 1));
            all.extend([[a, b, c], [b, d, c]]);
        }
    }
    all
}

proptest! {
    #![proptest_config(cases(300))]

    /// A level answers as its shapes do one by one, to the bit: the least time, then the first shape, then the first triangle.
    #[test]
    fn the_search_changes_no_answer(shapes in shapes(), hitbox in hitbox(), from in pose(14.0), to in pose(14.0)) {
        let level = level(&shapes);
        let alone: Vec<(InLevel, Level)> =
            one_by_one(&shapes).into_iter().map(|(place, shape)| (place, self::level(&[shape]))).collect();
        for to in [to, Pose { turn: from.turn, ..to }, from] {
            let moving = Moving::new(hitbox, from, to).unwrap();
            let all = alone.iter().filter_map(|(place, one)| Some((one.sweep(&moving)?.touch, *place)));
            let first = all.min_by(|one, other| {
                one.0.toi.total_cmp(&other.0.toi).then(one.1.cmp(&other.1))
            });
            let met = level.sweep(&moving).map(|met| (met.touch, met.place));
            prop_assert_eq!(met, first);
        }
        let all = alone.iter().filter_map(|(place, one)| Some((one.ray(from.at, to.at)?.distance, *place)));
        let first = all.min_by(|one, other| one.0.total_cmp(&other.0).then(one.1.cmp(&other.1)));
        prop_assert_eq!(level.ray(from.at, to.at).map(|met| (met.distance, met.place)), first);
    }

    /// A ball meets triangles when their distance is its radius, in double precision, and never earlier, nor later.
    #[test]
    fn a_ball_meets_triangles_when_it_is_near(shape in mesh(), radius in 0.02f32..1.0, from in place(14.0), to in place(14.0)) {
        let moving = Moving::new(Shape::Sphere { at: [0.0; 3], radius }, Pose::at(from), Pose::at(to)).unwrap();
        let LevelShape::Mesh(mesh) = &shape else { unreachable!() };
        let triangles: Vec<[Point; 3]> = (mesh.triangles.iter())
            .map(|corners| corners.map(|corner| mesh.points[corner as usize].map(f64::from)))
            .filter(|corners| across(corners) > 1.0e-9)
            .collect();
        let gap = |t: f64| {
            let at: Point = std::array::from_fn(|i| f64::from(from[i]) + (f64::from(to[i]) - f64::from(from[i])) * t);
            let distances = triangles.iter().map(|corners| distance(at, corners));
            distances.fold(f64::INFINITY, f64::min) - f64::from(radius)
        };
        // A skin of 0.8 millimetres, and what single precision takes from lengths of some metres.
        let slack = 0.0008 + 2.0e-5;
        let met = level(std::slice::from_ref(&shape)).sweep(&moving);
        let until = met.map_or(1.0, |met| f64::from(met.touch.toi));
        for step in 0..=400 {
            let t = until * f64::from(step) / 400.0;
            prop_assert!(gap(t) > -2.0e-5 || (met.is_some() && step == 400) || until == 0.0, "through at {t}: {}", gap(t));
        }
        if let Some(met) = met {
            prop_assert!(gap(until) < slack, "{} away at {until}", gap(until));
            let on: Point = met.touch.point.map(f64::from);
            let off = triangles.iter().map(|corners| distance(on, corners)).fold(f64::INFINITY, f64::min);
            prop_assert!(off < 1.0e-4, "the point is {off} off every triangle");
        }
    }

    /// Rays that end just short of where they meet something meet nothing, and just beyond they do.
    #[test]
    fn a_ray_ends_where_it_meets(shapes in shapes(), from in place(14.0), to in place(14.0)) {
        let level = level(&shapes);
        if let Some(met) = level.ray(from, to).filter(|met| met.distance > 0.01) {
            let whole = (0..3).map(|i| (to[i] - from[i]).powi(2)).sum::<f32>().sqrt();
            let along = |far: f32| std::array::from_fn(|i| from[i] + (to[i] - from[i]) * (far / whole));
            prop_assert_eq!(level.ray(from, along(met.distance - 0.004)).map(|met| met.place), None);
            let again = level.ray(from, along(met.distance + 0.004)).expect("it goes beyond");
            prop_assert!((again.distance - met.distance).abs() < 1.0e-3);
        }
    }

    /// Bytes give the same level back, and bytes that were cut or changed are refused.
    #[test]
    fn bytes_come_back(shapes in shapes(), cut in any::<prop::sample::Index>(), flip in 0u8..8) {
        let level = level(&shapes);
        let bytes = level.to_bytes();
        let read = Level::from_bytes(&bytes).unwrap();
        prop_assert_eq!((read.fingerprint(), read.to_bytes()), (level.fingerprint(), bytes.clone()));
        let at = cut.index(bytes.len());
        prop_assert!(Level::from_bytes(&bytes[..at]).is_err());
        let mut changed = bytes;
        changed[at] ^= 1 << flip;
        prop_assert!(Level::from_bytes(&changed).is_err(), "byte {at}");
    }
}

fn minus(a: Point, b: Point) -> Point {
    std::array::from_fn(|i| a[i] - b[i])
}

fn dot(a: Point, b: Point) -> f64 {
    (0..3).map(|i| a[i] * b[i]).sum()
}

fn across(&[a, b, c]: &[Point; 3]) -> f64 {
    let (u, v) = (minus(b, a), minus(c, a));
    let cross = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    dot(cross, cross).sqrt()
}

/// How far a point is from a triangle: over its plane where it is above it, else from its edges.
fn distance(point: Point, corners: &[Point; 3]) -> f64 {
    let &[a, b, c] = corners;
    let (u, v, w) = (minus(b, a), minus(c, a), minus(point, a));
    let (uu, uv, vv, wu, wv) = (dot(u, u), dot(u, v), dot(v, v), dot(w, u), dot(w, v));
    let whole = uu * vv - uv * uv;
    let (s, t) = ((vv * wu - uv * wv) / whole, (uu * wv - uv * wu) / whole);
    if s >= 0.0 && t >= 0.0 && s + t <= 1.0 {
        let foot: Point = std::array::from_fn(|i| w[i] - u[i] * s - v[i] * t);
        return dot(foot, foot).sqrt();
    }
    let edges = [(a, b), (b, c), (c, a)];
    edges.map(|(p, q)| from_edge(point, p, q)).into_iter().fold(f64::INFINITY, f64::min)
}

fn from_edge(point: Point, p: Point, q: Point) -> f64 {
    let (along, away) = (minus(q, p), minus(point, p));
    let t = (dot(away, along) / dot(along, along)).clamp(0.0, 1.0);
    let off: Point = std::array::from_fn(|i| away[i] - along[i] * t);
    dot(off, off).sqrt()
}

/// An archer at the origin who looks along +Z, and a wall before it or not.
struct Range {
    rules: Ruleset,
    archer: TemplateId,
    crate_: TemplateId,
}

impl Range {
    fn new() -> Range {
        let mut b = Ruleset::builder(60);
        let crush = b.damage_type("crush");
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let dot = Shape::Sphere { at: [0.0; 3], radius: 0.1 };
        b.attack(
            Attack::area("burst")
                .timeline(0, 1, 0)
                .hitbox(Shape::Sphere { at: [0.0; 3], radius: 1.0 })
                .needs_clear_line(),
        );
        let arrow = Projectile { from: [0.0, 1.0, 0.0], ..Projectile::new(60.0, 120) };
        b.attack(
            Attack::projectile("arrow", arrow)
                .timeline(0, 1, 0)
                .hitbox(dot)
                .damage(crush, 5, 5)
                .child(When::Obstacle, "burst"),
        );
        b.attack(
            Attack::beam("lantern", Beam { reach: 30.0, radius: 0.05, from: [0.0, 1.0, 0.0], pierce: 0 })
                .timeline(0, 30, 0)
                .damage(crush, 1, 1),
        );
        let archer = b.template(Template::new("archer", masons, 40));
        let trunk =
            Part::new("trunk", Shape::Capsule { from: [0.0, 0.4, 0.0], to: [0.0, 1.6, 0.0], radius: 0.4 });
        let crate_ = b.template(Template::new("crab", beasts, 400).part(trunk));
        Range { rules: b.build().unwrap(), archer, crate_ }
    }

    fn fight(&self, level: &Level) -> (Encounter, CombatantId, CombatantId) {
        let mut fight = Encounter::in_level(&self.rules, level, 1);
        let archer = fight.orders().spawn(self.archer, Pose::IDENTITY);
        let target = fight.orders().spawn(self.crate_, Pose::at([0.0, 0.0, 10.0]));
        (fight, archer, target)
    }

    fn attack(&self, name: &str) -> AttackId {
        self.rules.find_attack(name).unwrap()
    }
}

fn stops(fight: &Encounter) -> Vec<ProjectileStopped> {
    let of =
        |event: &Event| if let Event::ProjectileStopped(stopped) = event { Some(*stopped) } else { None };
    fight.facts().events().filter_map(of).collect()
}

/// Two triangles across the way, at `z`.
fn wall(z: f32) -> Level {
    let mut b = Level::builder();
    b.solid(Obstacle::HalfSpace { at: [0.0, -1.0, 0.0], normal: [0.0, 1.0, 0.0] });
    b.mesh(&[[-3.0, 0.0, z], [3.0, 0.0, z], [-3.0, 3.0, z], [3.0, 3.0, z]], &[[0, 1, 2], [1, 3, 2]]);
    b.build().unwrap()
}

fn run(fight: &mut Encounter, ticks: usize, mut each: impl FnMut(&Encounter)) {
    for _ in 0..ticks {
        fight.tick().unwrap();
        each(fight);
    }
}

#[test]
fn an_arrow_ends_at_a_wall_and_its_burst_begins_there() {
    let range = Range::new();
    for (level, wanted) in [(Level::default(), None), (wall(5.0), Some(1)), (wall(15.0), None)] {
        let (mut fight, archer, target) = range.fight(&level);
        fight.orders().start(archer, range.attack("arrow"));
        let (mut met, mut bursts) = (Vec::new(), 0);
        run(&mut fight, 30, |fight| {
            met.extend(stops(fight));
            let burst = range.attack("burst");
            let begins =
                |event: &Event| matches!(event, Event::AttackStarted(begun) if begun.attack == burst);
            bursts += fight.facts().events().filter(|event| begins(event)).count();
        });
        let health = fight.view().health(target).unwrap().0;
        match wanted {
            Some(shape) => {
                assert_eq!(
                    (met.len(), met[0].shape.map(|place| place.shape), met[0].obstacle, health),
                    (1, Some(shape), None, 400)
                );
                assert!((met[0].point[2] - 5.0).abs() < 1.0e-3 && met[0].normal[2] < -0.999, "{met:?}");
                assert_eq!(bursts, 1);
            }
            None => assert_eq!((met.len(), health, bursts), (0, 395, 0)),
        }
    }
}

#[test]
fn beams_and_lines_of_sight_end_at_the_level() {
    let range = Range::new();
    let (mut fight, archer, target) = range.fight(&wall(5.0));
    fight.orders().start(archer, range.attack("lantern"));
    run(&mut fight, 3, |_| {});
    assert!((fight.beams()[0].to[2] - 5.0).abs() < 1.0e-3, "{:?}", fight.beams());
    assert_eq!(fight.view().health(target), Some((400, 400)));
    // A burst behind a wall: the gate says which shape stands between.
    let (mut fight, ..) = range.fight(&wall(9.3));
    let masons = range.rules.find_team("masons").unwrap();
    fight.orders().spawn_attack(range.attack("burst"), masons, Pose::at([0.0, 1.0, 9.0]));
    let mut refused = Vec::new();
    run(&mut fight, 3, |fight| {
        let of = |event: &Event| match event {
            Event::HitRefused(HitRefused { gate: Gate::Obstacle, found, .. }) => Some(*found),
            _ => None,
        };
        refused.extend(fight.facts().events().filter_map(of));
    });
    assert_eq!(refused, [Operand::BehindShape(InLevel { shape: 1, triangle: Some(0) })]);
}

/// A door that falls before the arrow stops it where both are at the time of impact; one that is placed there sweeps nothing.
#[test]
fn doors_move_fall_and_are_placed() {
    let range = Range::new();
    let door = Obstacle::Box { pose: Pose::at([0.0, 1.0, 5.0]), half: [2.0, 1.0, 0.1] };
    let up = Pose::at([0.0, 4.0, 0.0]);
    // How the door goes, the tick in which it goes, and whether the arrow passes: it is at the door in the fifth tick.
    for (over, tick, passes) in
        [(None, 9, true), (Some(1), 1, false), (Some(1), 8, true), (Some(20), 1, true), (Some(0), 1, true)]
    {
        let (mut fight, archer, target) = range.fight(&Level::default());
        let id = fight.orders().add_obstacle(door);
        fight.orders().place_obstacle(id, up);
        fight.orders().start(archer, range.attack("arrow"));
        let mut met = Vec::new();
        for now in 0..30 {
            match over {
                Some(0) if now == tick => _ = fight.orders().place_obstacle(id, Pose::at([0.0, 0.0, 9.0])),
                Some(ticks) if ticks > 0 && now == tick => {
                    _ = fight.orders().move_obstacle_over(id, Pose::IDENTITY, ticks)
                }
                _ => {}
            }
            fight.tick().unwrap();
            met.extend(stops(&fight));
        }
        let hit = fight.view().health(target).unwrap().0 < 400;
        assert_eq!((hit, met.is_empty()), (passes, passes), "{over:?} {tick}: {met:?}");
        if let [met] = met[..] {
            assert_eq!((met.obstacle, met.shape), (Some(id), None));
            assert!((met.point[2] - 4.9).abs() < 2.0e-3, "{met:?}");
        }
        let seen: Vec<_> = fight.scene().obstacles().map(|(id, _)| id).collect();
        assert_eq!(seen, [id]);
    }
}

/// What is done to a door before a tick.
#[derive(Clone, Copy, Debug)]
enum Door {
    Open,
    Close,
    Place(f32),
}

fn doors() -> impl Strategy<Value = Vec<(usize, usize, Door)>> {
    let does = prop_oneof![
        3 => Just(Door::Open),
        3 => Just(Door::Close),
        1 => (0.0f32..6.0).prop_map(|far| Door::Place((far * 64.0).round() / 64.0)),
    ];
    proptest::collection::vec((0..60usize, 0..3usize, does), 0..24)
}

proptest! {
    #![proptest_config(cases(150))]

    /// A door that is open is as one that was carried out of sight, and closed as one that was carried back: for arrows, beams, lines of
    /// sight, what the host asks; also after a save at any tick.
    #[test]
    fn open_doors_are_not_in_the_way(mut doors in doors(), saved_at in 0..60usize) {
        doors.sort_by_key(|(tick, ..)| *tick);
        let range = Range::new();
        let sight = range.rules.question(vec![Condition::Sight(true)]).unwrap();
        let away = Pose::at([0.0, -900.0, 0.0]);
        let mut fights = [true, false].map(|opens| {
            let (mut fight, archer, target) = range.fight(&Level::default());
            let ids = [2.0, 3.5, 5.0].map(|z| {
                let half = [0.5, 1.0, 0.1];
                fight.orders().add_obstacle(Obstacle::Box { pose: Pose::at([0.0, 1.0, z]), half })
            });
            (opens, fight, archer, target, ids, [(true, 0.0f32); 3])
        });
        let mut met = 0;
        for now in 0..60usize {
            let seen = fights.each_mut().map(|(opens, fight, archer, target, ids, known)| {
                for &(_, which, does) in doors.iter().filter(|(tick, ..)| *tick == now) {
                    let (id, (closed, far)) = (ids[which], &mut known[which]);
                    let there = |far: f32| Pose::at([0.0, 0.0, far]);
                    let mut orders = fight.orders();
                    match (does, *opens) {
                        (Door::Place(to), _) => *far = to,
                        (_, true) => {}
                        (does, false) => *closed = matches!(does, Door::Close),
                    }
                    match (does, *opens) {
                        (Door::Open, true) => _ = orders.open_obstacle(id),
                        (Door::Close, true) => _ = orders.close_obstacle(id),
                        (Door::Place(to), true) => _ = orders.place_obstacle(id, there(to)),
                        (_, false) => _ = orders.place_obstacle(id, if *closed { there(*far) } else { away }),
                    }
                }
                let attack = if now % 3 == 0 { "arrow" } else { "lantern" };
                fight.orders().start(*archer, range.attack(attack));
                if now == saved_at {
                    let saved = fight.save().unwrap();
                    let bytes = saved.to_bytes();
                    fight.restore(&hammerstone::Saved::from_bytes(&bytes).unwrap()).unwrap();
                }
                fight.tick().unwrap();
                let ends: Vec<_> = fight.beams().iter().map(|beam| beam.to.map(f32::to_bits)).collect();
                let stops: Vec<_> = stops(fight).iter().map(|stop| (stop.point, stop.obstacle)).collect();
                let way = Moving::new(
                    Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.2 },
                    Pose::IDENTITY,
                    Pose::at([0.0, 0.0, 8.0]),
                );
                let solid = fight.first_solid(&way.unwrap()).map(|touch| touch.toi.to_bits());
                let sees = fight.holds(&sight, Some(*archer), Some(*target));
                let open = fight.scene().open_obstacles().count() + fight.scene().obstacles().count();
                assert_eq!(open, 3);
                met += stops.len();
                (ends, stops, solid, sees, fight.view().health(*target))
            });
            let [opened, carried] = seen;
            prop_assert_eq!(opened, carried, "in tick {}", now);
        }
        prop_assert!(met > 0 || !doors.is_empty());
    }
}

/// An open door goes on with its moves, and can be moved, placed and cleared away; to open it twice changes nothing.
#[test]
fn open_doors_can_be_moved() {
    let range = Range::new();
    let (mut fight, ..) = range.fight(&Level::default());
    let ball = Obstacle::Sphere { at: [0.0; 3], radius: 1.0 };
    let [one, other] = [0, 1].map(|_| fight.orders().add_obstacle(ball));
    fight.orders().move_obstacle_over(one, Pose::at([0.0, 4.0, 0.0]), 4);
    fight.tick().unwrap();
    fight.orders().open_obstacle(one);
    fight.orders().open_obstacle(one);
    fight.orders().close_obstacle(other);
    fight.tick().unwrap();
    let before = fight.checksum();
    let at = |fight: &Encounter| {
        let of = |(id, obstacle): (hammerstone::ids::ObstacleId, Obstacle)| match obstacle {
            Obstacle::Sphere { at, .. } => (id, at[1]),
            _ => unreachable!("both are balls"),
        };
        let scene = fight.scene();
        (scene.obstacles().map(of).collect::<Vec<_>>(), scene.open_obstacles().map(of).collect::<Vec<_>>())
    };
    assert_eq!(at(&fight), (vec![(other, 0.0)], vec![(one, 2.0)]));
    let saved = fight.save().unwrap();
    fight.tick().unwrap();
    assert_eq!(at(&fight).1, [(one, 3.0)]);
    fight.orders().place_obstacle(one, Pose::at([0.0, 9.0, 0.0]));
    fight.orders().close_obstacle(one);
    fight.tick().unwrap();
    assert_eq!(at(&fight), (vec![(one, 9.0), (other, 0.0)], vec![]));
    fight.restore(&saved).unwrap();
    assert_eq!((fight.checksum(), at(&fight).1), (before, vec![(one, 2.0)]));
    fight.orders().remove_obstacle(one);
    fight.tick().unwrap();
    fight.orders().close_obstacle(one);
    fight.tick().unwrap();
    let refused = fight.facts().events().filter(|event| matches!(event, Event::OrderRefused(_))).count();
    assert_eq!(refused, 1);
    assert_eq!(at(&fight), (vec![(other, 0.0)], vec![]));
}

/// A wall that the host finds: the arrow ends there, what starts at obstacles starts there, and what comes later does not count.
#[test]
fn the_host_stops_a_body() {
    let range = Range::new();
    let touch = Touch::new([0.0, 1.0, 9.2], [0.0, 0.0, -1.0]);
    // The arrow touches the crab at about a third of the tenth tick.
    for (toi, hit) in [(0.1, false), (0.9, true)] {
        let (mut fight, archer, target) = range.fight(&Level::default());
        let swing = fight.orders().start(archer, range.attack("arrow"));
        run(&mut fight, 9, |fight| assert!(stops(fight).is_empty()));
        fight.orders().stop_body(swing, 1, touch.at(toi));
        fight.tick().unwrap();
        assert_eq!(fight.view().health(target).unwrap().0 < 400, hit, "at {toi}");
        let met = stops(&fight);
        let ended = |event: &Event| matches!(event, Event::AttackEnded(ended) if ended.swing == swing);
        assert!(fight.facts().events().any(ended));
        // What is spent at its target has met no wall.
        assert_eq!(met.len(), usize::from(!hit));
        if let [met] = met[..] {
            assert_eq!((met.obstacle, met.shape, met.point), (None, None, touch.point));
            let burst = fight.orders().stop_body(swing, 1, touch);
            fight.tick().unwrap();
            let refused =
                |event: &Event| matches!(event, Event::OrderRefused(refused) if refused.order == burst);
            assert!(fight.facts().events().any(refused));
            let view = fight.view();
            let places: Vec<_> = view.swings().map(|(_, _, attack)| attack).collect();
            assert_eq!(places, [range.attack("burst")]);
        }
    }
}

#[test]
fn a_state_belongs_to_its_level() {
    let range = Range::new();
    let (mut fight, archer, _) = range.fight(&wall(5.0));
    let arrow = range.attack("arrow");
    fight.orders().start(archer, arrow);
    run(&mut fight, 3, |_| {});
    let saved = fight.save().unwrap();
    let mut elsewhere = Encounter::in_level(&range.rules, &wall(6.0), 1);
    let (before, error) = (elsewhere.checksum(), elsewhere.restore(&saved).unwrap_err());
    assert_eq!(
        error,
        RestoreError::OtherLevel { saved: wall(5.0).fingerprint(), own: wall(6.0).fingerprint() }
    );
    assert_eq!(elsewhere.checksum(), before);
    assert!(Encounter::new(&range.rules, 1).restore(&saved).is_err());
    // The same level, made once more, is the same; and the fight goes on alike.
    let mut again = Encounter::in_level(&range.rules, &wall(5.0), 1);
    let text = json::save_text(&saved);
    again.restore(&json::read_save_text(&text).unwrap()).unwrap();
    for _ in 0..20 {
        fight.tick().unwrap();
        again.tick().unwrap();
        assert_eq!(fight.checksum(), again.checksum());
    }
}

#[test]
fn what_is_no_level_is_refused_with_its_place() {
    let refused = |shape: LevelShape| {
        let mut b = Level::builder();
        b.solid(Obstacle::Sphere { at: [0.0; 3], radius: 1.0 });
        b.shape(shape);
        b.build().unwrap_err()
    };
    let mesh = |points: &[[f32; 3]], triangles: &[[u32; 3]]| {
        LevelShape::Mesh(Mesh { points: points.to_vec(), triangles: triangles.to_vec() })
    };
    let field = |columns: u32, step: f32, heights: &[f32]| {
        LevelShape::HeightField(HeightField {
            corner: [0.0; 3],
            up: Axis::Y,
            step,
            columns,
            heights: heights.to_vec(),
        })
    };
    let cases = [
        (LevelShape::Solid(Obstacle::Sphere { at: [0.0; 3], radius: 0.0 }), LevelError::NoSolid { shape: 1 }),
        (
            LevelShape::Solid(Obstacle::HalfSpace { at: [0.0; 3], normal: [0.0; 3] }),
            LevelError::NoSolid { shape: 1 },
        ),
        (mesh(&[[0.0; 3], [f32::NAN; 3]], &[]), LevelError::Point { shape: 1, point: 1 }),
        (mesh(&[[2.0e6, 0.0, 0.0]], &[]), LevelError::Point { shape: 1, point: 0 }),
        (
            mesh(&[[0.0; 3]; 3], &[[0, 1, 2], [0, 3, 1]]),
            LevelError::NoPoint { shape: 1, triangle: 1, point: 3, points: 3 },
        ),
        (field(0, 1.0, &[0.0; 4]), LevelError::Rows { shape: 1, heights: 4, columns: 0 }),
        (field(2, 1.0, &[0.0; 3]), LevelError::Rows { shape: 1, heights: 3, columns: 2 }),
        (field(2, 1.0, &[0.0; 2]), LevelError::Rows { shape: 1, heights: 2, columns: 2 }),
        (field(2, 0.0, &[0.0; 4]), LevelError::Field { shape: 1 }),
        (field(2, 2.0e6, &[0.0; 4]), LevelError::Field { shape: 1 }),
        (field(2, 1.0, &[0.0, 0.0, 0.0, f32::INFINITY]), LevelError::Field { shape: 1 }),
    ];
    for (shape, error) in cases {
        assert_eq!(refused(shape), error);
    }
    // A number that is none goes nowhere.
    assert!(wall(1.0).ray([f32::NAN; 3], [0.0; 3]).is_none());
    assert!(wall(1.0).ray([f32::INFINITY; 3], [0.0; 3]).is_none());
    assert!(wall(1.0).ray([0.0; 3], [0.0; 3]).is_none());
}

#[test]
fn rules_move_and_clear_all_obstacles_of_a_name() {
    let mut b = Ruleset::builder(60);
    let door = b.obstacle_name("door");
    let (open, far) = (b.spot("open", Pose::at([0.0, 5.0, 0.0])), b.spot("far", Pose::at([0.0, 0.0, 500.0])));
    let (lifts, throws, clears) = (b.flag("lifts"), b.flag("throws"), b.flag("clears"));
    let opens = b.flag("opens");
    b.rule(
        Rule::on("closes", "flag.changed")
            .when(Condition::Flag(opens, false))
            .does(Reaction::OpenObstacle(door, false)),
    );
    for (name, flag, action) in [
        ("lifts", lifts, Reaction::MoveObstacle(door, open, 2)),
        ("throws", throws, Reaction::MoveObstacle(door, far, 1)),
        ("clears", clears, Reaction::RemoveObstacle(door)),
        ("opens", opens, Reaction::OpenObstacle(door, true)),
    ] {
        b.rule(Rule::on(name, "flag.changed").when(Condition::Flag(flag, true)).does(action));
    }
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let stone = Obstacle::Sphere { at: [0.0; 3], radius: 1.0 };
    let [one, other, plain] = [0, 1, 2].map(|_| fight.orders().add_obstacle(stone));
    fight.orders().name_obstacle(one, door);
    fight.orders().name_obstacle(other, door);
    fight.tick().unwrap();
    let heights = |fight: &Encounter| -> Vec<f32> {
        fight
            .scene()
            .obstacles()
            .map(|(_, obstacle)| match obstacle {
                Obstacle::Sphere { at, .. } => at[1],
                _ => f32::NAN,
            })
            .collect()
    };
    fight.orders().set_flag(lifts, true);
    fight.tick().unwrap();
    let saved = fight.save().unwrap();
    fight.tick().unwrap();
    fight.tick().unwrap();
    assert_eq!(heights(&fight), [5.0, 5.0, 0.0]);
    // Names are in the state, and too far is refused for each.
    let mut again = Encounter::new(&rules, 2);
    again.restore(&saved).unwrap();
    again.orders().set_flag(throws, true);
    again.tick().unwrap();
    let refused = again.facts().events().filter(|event| matches!(event, Event::OrderRefused(_))).count();
    assert_eq!(refused, 2);
    let there = |fight: &Encounter| fight.scene().obstacles().map(|(id, _)| id).collect::<Vec<_>>();
    for (up, seen) in [(true, vec![plain]), (false, vec![one, other, plain]), (true, vec![plain])] {
        again.orders().set_flag(opens, up);
        again.tick().unwrap();
        assert_eq!(there(&again), seen);
    }
    // Also those that are open are cleared away, and so never close again.
    again.orders().set_flag(throws, false);
    again.orders().set_flag(clears, true);
    again.tick().unwrap();
    again.orders().set_flag(opens, false);
    again.tick().unwrap();
    assert_eq!((there(&again), again.scene().open_obstacles().count()), (vec![plain], 0));
}
