//! Detection, beside what others would write: `cargo run --profile measured` in this folder.
//!
//! *plain*: the geometry crate's BVH and shape casts, and a standard set of pairs. *strong*: the same BVH with a narrow phase
//! by hand. *naive*: every swing against every combatant, boxes first. All are told the same poses in the same run.

mod bones;
mod level;

use std::collections::HashSet;
use std::hint::black_box;

use hammerstone::geometry::{Axis, Pose, Shape};
use hammerstone::geometry::{Moving, first_touch};
use hammerstone_bench::{BLADE, Blade, Crowd, HEAD, Sort, TRUNK, interleaved, median};
use parry3d::bounding_volume::{Aabb, BoundingVolume};
use parry3d::math::{Pose3, Vec3};
use parry3d::partitioning::{Bvh, BvhBuildStrategy};
use parry3d::query::{NonlinearRigidMotion, cast_shapes_nonlinear};
use parry3d::shape::{Ball, Capsule, Shape as _};

/// What every peer is told of one tick.
struct Told {
    before: Vec<Pose>,
    after: Vec<Pose>,
    stands: Vec<bool>,
    blades: Vec<Blade>,
}

struct Shapes {
    trunk: Capsule,
    head: (Ball, Vec3),
    blade: Capsule,
}

fn v(at: [f32; 3]) -> Vec3 {
    Vec3::new(at[0], at[1], at[2])
}

fn shapes() -> Shapes {
    let capsule = |shape: Shape| match shape {
        Shape::Capsule { from, to, radius } => Capsule::new(v(from), v(to), radius),
        _ => unreachable!("trunk and blade are capsules"),
    };
    let Shape::Sphere { at, radius } = HEAD else { unreachable!("heads are balls") };
    Shapes { trunk: capsule(TRUNK), head: (Ball::new(radius), v(at)), blade: capsule(BLADE) }
}

/// The blade's pose in the world before and after.
fn blade_poses(told: &Told, blade: &Blade) -> [Pose3; 2] {
    let pose = |pose: Pose, degrees: f32| Pose3::new(v(pose.at), Vec3::new(0.0, degrees.to_radians(), 0.0));
    [pose(told.before[blade.owner], blade.turns[0]), pose(told.after[blade.owner], blade.turns[1])]
}

/// Every part's pose before, and how far it goes: two parts a combatant.
fn part(told: &Told, shapes: &Shapes, i: usize) -> (Pose3, Vec3) {
    let (from, to) = (v(told.before[i / 2].at), v(told.after[i / 2].at));
    let within = if i % 2 == 0 { Vec3::ZERO } else { shapes.head.1 };
    (Pose3::from_translation(from + within), to - from)
}

fn shape(shapes: &Shapes, i: usize) -> &dyn parry3d::shape::Shape {
    if i % 2 == 0 { &shapes.trunk } else { &shapes.head.0 }
}

fn tree(told: &Told, shapes: &Shapes) -> Bvh {
    let boxes = (0..told.before.len() * 2).filter(|i| told.stands[i / 2]).map(|i| {
        let (pose, travel) = part(told, shapes, i);
        let start = shape(shapes, i).compute_aabb(&pose);
        (i, start.merged(&Aabb::new(start.mins + travel, start.maxs + travel)))
    });
    Bvh::from_iter(BvhBuildStrategy::Binned, boxes)
}

/// A box about the blade's way: both ends, and a little for the bow between them.
fn blade_box(shapes: &Shapes, [from, to]: &[Pose3; 2]) -> Aabb {
    shapes.blade.compute_aabb(from).merged(&shapes.blade.compute_aabb(to)).loosened(0.02)
}

fn plain(told: &Told, shapes: &Shapes) -> usize {
    let tree = tree(told, shapes);
    let mut touched: HashSet<(usize, usize)> = HashSet::new();
    for (number, blade) in told.blades.iter().enumerate() {
        let poses = blade_poses(told, blade);
        let turn = Vec3::new(0.0, (blade.turns[1] - blade.turns[0]).to_radians(), 0.0);
        let travel = poses[1].translation - poses[0].translation;
        let swing = NonlinearRigidMotion::new(poses[0], Vec3::ZERO, travel, turn);
        for i in tree.intersect_aabb(&blade_box(shapes, &poses)) {
            let i = i as usize;
            if i / 2 == blade.owner {
                continue;
            }
            let (pose, travel) = part(told, shapes, i);
            let walk = NonlinearRigidMotion::new(pose, Vec3::ZERO, travel, Vec3::ZERO);
            let cast = cast_shapes_nonlinear(&swing, &shapes.blade, &walk, shape(shapes, i), 0.0, 1.0, true);
            if cast.expect("these shapes can be cast").is_some() {
                touched.insert((number, i));
            }
        }
    }
    touched.len()
}

/// The same tree, with our own public query in place of the casts, and a list in place of the set.
fn strong(told: &Told, shapes: &Shapes) -> usize {
    let tree = tree(told, shapes);
    let mut touched: Vec<(usize, usize)> = Vec::new();
    for (number, blade) in told.blades.iter().enumerate() {
        let poses = blade_poses(told, blade);
        let moving = moving_blade(told, blade);
        for i in tree.intersect_aabb(&blade_box(shapes, &poses)) {
            let i = i as usize;
            if i / 2 != blade.owner && first_touch(&moving, &moving_part(told, i)).is_some() {
                touched.push((number, i));
            }
        }
    }
    touched.sort_unstable();
    touched.len()
}

fn moving_blade(told: &Told, blade: &Blade) -> Moving {
    let turned = |degrees: f32| Pose::IDENTITY.facing(Axis::Y, degrees);
    let [from, to] = blade.turns.map(turned);
    Moving::within(BLADE, from, to, told.before[blade.owner], told.after[blade.owner])
        .expect("the blade is within bounds")
}

fn moving_part(told: &Told, i: usize) -> Moving {
    let shape = if i % 2 == 0 { TRUNK } else { HEAD };
    Moving::new(shape, told.before[i / 2], told.after[i / 2]).expect("a part is within bounds")
}

fn naive(told: &Told, shapes: &Shapes) -> usize {
    let mut touched: HashSet<(usize, usize)> = HashSet::new();
    for (number, blade) in told.blades.iter().enumerate() {
        let reach = blade_box(shapes, &blade_poses(told, blade));
        let moving = moving_blade(told, blade);
        for i in (0..told.before.len() * 2).filter(|i| told.stands[i / 2] && i / 2 != blade.owner) {
            let (pose, travel) = part(told, shapes, i);
            let start = shape(shapes, i).compute_aabb(&pose);
            let way = start.merged(&Aabb::new(start.mins + travel, start.maxs + travel));
            if reach.intersects(&way) && first_touch(&moving, &moving_part(told, i)).is_some() {
                touched.insert((number, i));
            }
        }
    }
    touched.len()
}

fn main() {
    level::print();
    bones::print();
    let shapes = shapes();
    println!(
        "| combatants | ours | plain ÷ ours | strong ÷ ours | naive ÷ ours | touched: ours, plain, strong |"
    );
    println!("|---|---|---|---|---|---|");
    for (n, rounds) in [(1_000, 15), (10_000, 11), (100_000, 5)] {
        let mut crowd = Crowd::new(Sort::Rush, n);
        crowd.warm_up(60);
        let mut times = [Vec::new(), Vec::new(), Vec::new(), Vec::new()];
        let mut touched = [0; 3];
        for _ in 0..rounds {
            crowd.orders();
            crowd.tick();
            let blades = crowd.blades();
            let stands = (0..n).map(|i| crowd.stands(i)).collect();
            let told = Told { before: crowd.before.clone(), after: crowd.after.clone(), stands, blades };
            let mut naive_once = || {
                if n <= 10_000 {
                    black_box(naive(&told, &shapes));
                }
            };
            let mut ours = || touched[0] = black_box(crowd.fight.detect_again());
            let mut theirs = [0; 2];
            let [plain_touched, strong_touched] = &mut theirs;
            let round = interleaved(
                1,
                &mut [
                    &mut ours,
                    &mut || *plain_touched = black_box(plain(&told, &shapes)),
                    &mut || *strong_touched = black_box(strong(&told, &shapes)),
                    &mut naive_once,
                ],
            );
            (touched[1], touched[2]) = (theirs[0], theirs[1]);
            round.into_iter().zip(&mut times).for_each(|(time, times)| times.push(time));
        }
        let [ours, plain, strong, naive] = times.map(median);
        let naive = if n <= 10_000 { format!("{:.1}", naive / ours) } else { "not run".to_owned() };
        println!(
            "| {n} | {:.3} ms | {:.1} | {:.1} | {naive} | {}, {}, {} |",
            ours * 1e3,
            plain / ours,
            strong / ours,
            touched[0],
            touched[1],
            touched[2],
        );
    }
}
