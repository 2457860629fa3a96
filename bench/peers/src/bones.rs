//! Combatants of sixteen bones, beside hosts that test their own bones with the geometry crate, four times in each tick.
//!
//! *plain*: all bones are placed and put into a tree at each substep, as one writes it first. *careful*: only while something swings, and
//! only the bones of bodies near a blade.

use std::hint::black_box;

use hammerstone::geometry::{Pose, Shape};
use hammerstone_bench::{BLADE, BONES, Bones, Ossuary, body, interleaved, posed};
use parry3d::math::{Pose3, Rotation, Vec3};
use parry3d::partitioning::{Bvh, BvhBuildStrategy};
use parry3d::query::intersection_test;
use parry3d::shape::{Capsule, Shape as _};

const SUBSTEPS: u32 = 4;

/// What a host would write: bodies near a blade first, then its bones, at each substep; each target once a swing.
struct Host {
    home: Vec<Pose>,
    tick: u32,
    blade: Capsule,
    bone: Capsule,
    /// The swings that run: the attacker, the tick of the start, and the targets struck.
    swings: Vec<(usize, u32, Vec<usize>)>,
    hits: usize,
    careful: bool,
}

fn v([x, y, z]: [f32; 3]) -> Vec3 {
    Vec3::new(x, y, z)
}

fn pose(pose: Pose) -> Pose3 {
    let [x, y, z, w] = pose.turn;
    Pose3::from_parts(v(pose.at), Rotation::from_xyzw(x, y, z, w).normalize())
}

fn between(from: &Pose3, to: &Pose3, t: f32) -> Pose3 {
    Pose3::from_parts(from.translation.lerp(to.translation, t), from.rotation.slerp(to.rotation, t))
}

/// The blade of a swing that runs so many ticks, at a substep.
fn blade_at(bodies: &[Vec<Pose3>; 2], owner: usize, ticks: u32, t: f32) -> Pose3 {
    let carrier = between(&bodies[0][owner], &bodies[1][owner], t);
    let degrees = -70.0 + 14.0 * (ticks as f32 + t);
    carrier * Pose3::from_parts(Vec3::ZERO, Rotation::from_rotation_y(degrees.to_radians()))
}

impl Host {
    fn new(home: &[Pose], careful: bool) -> Host {
        let Shape::Capsule { from, to, radius } = BLADE else { unreachable!("the blade is a capsule") };
        let blade = Capsule::new(v(from), v(to), radius);
        let bone = Capsule::new(Vec3::ZERO, Vec3::new(0.0, 0.18, 0.0), 0.07);
        Host { home: home.to_vec(), tick: 0, blade, bone, swings: Vec::new(), hits: 0, careful }
    }

    /// One substep over all bones.
    fn plain(&mut self, bodies: &[Vec<Pose3>; 2], bones: &[Vec<Pose3>; 2], tick: u32, t: f32) {
        let placed: Vec<Pose3> = (0..self.home.len())
            .flat_map(|i| {
                let carrier = between(&bodies[0][i], &bodies[1][i], t);
                (0..BONES).map(move |bone| carrier * between(&bones[0][bone], &bones[1][bone], t))
            })
            .collect();
        let boxes = placed.iter().enumerate().map(|(i, pose)| (i, self.bone.compute_aabb(pose)));
        let tree = Bvh::from_iter(BvhBuildStrategy::Binned, boxes);
        for (owner, since, struck) in &mut self.swings {
            let blade = blade_at(bodies, *owner, tick - *since, t);
            for place in tree.intersect_aabb(&self.blade.compute_aabb(&blade)) {
                let i = place as usize / BONES;
                if i % 2 == *owner % 2 || struck.contains(&i) {
                    continue;
                }
                let test = intersection_test(&blade, &self.blade, &placed[place as usize], &self.bone);
                if test.expect("capsules can be tested").intersecting {
                    struck.push(i);
                    self.hits += 1;
                }
            }
        }
    }

    fn tick(&mut self) {
        let (before, now) = (self.tick.saturating_sub(1) as f32, self.tick as f32);
        self.tick += 1;
        let tick = self.tick;
        let starts = |i: &usize| (*i as u32 + tick).is_multiple_of(100);
        self.swings.extend((0..self.home.len()).filter(starts).map(|i| (i, tick, Vec::new())));
        self.swings.retain(|(_, since, _)| tick - since < 10);
        if self.swings.is_empty() && self.careful {
            return;
        }
        let at = |t: f32| -> Vec<Pose3> {
            self.home.iter().enumerate().map(|(i, home)| pose(body(i, home, t))).collect()
        };
        let bones = |t: f32| -> Vec<Pose3> { (0..BONES).map(|bone| pose(posed(bone, t))).collect() };
        let (bodies, bones) = ([at(before), at(now)], [bones(before), bones(now)]);
        for substep in 1..=SUBSTEPS {
            let t = substep as f32 / SUBSTEPS as f32;
            if !self.careful {
                self.plain(&bodies, &bones, tick, t);
                continue;
            }
            for (owner, since, struck) in &mut self.swings {
                let carrier = between(&bodies[0][*owner], &bodies[1][*owner], t);
                let blade = blade_at(&bodies, *owner, tick - *since, t);
                for i in 0..self.home.len() {
                    // As far as a blade and bones reach together, and teams as they stand.
                    let near = bodies[1][i].translation.distance(carrier.translation) < 4.5;
                    if !near || i % 2 == *owner % 2 || struck.contains(&i) {
                        continue;
                    }
                    let carrier = between(&bodies[0][i], &bodies[1][i], t);
                    let touches = (0..BONES).any(|bone| {
                        let at = carrier * between(&bones[0][bone], &bones[1][bone], t);
                        intersection_test(&blade, &self.blade, &at, &self.bone)
                            .expect("capsules can be tested")
                            .intersecting
                    });
                    if touches {
                        struck.push(i);
                        self.hits += 1;
                    }
                }
            }
        }
    }
}

pub fn print() {
    const TICKS: usize = 100;
    println!(
        "| combatants of {BONES} bones | ours, a tick: all ordered; pulled | plain ÷ ours: ordered; pulled | careful ÷ ours: ordered; pulled | hits: ours, pulled, plain, careful |"
    );
    println!("|---|---|---|---|---|");
    for n in [40, 100] {
        let mut ours = Ossuary::new(n, Bones::Ordered);
        let mut pulled = Ossuary::new(n, Bones::Pulled);
        let [mut plain, mut careful] = [false, true].map(|careful| Host::new(ours.home(), careful));
        let times = interleaved(
            20,
            &mut [
                &mut || (0..TICKS).for_each(|_| ours.tick()),
                &mut || (0..TICKS).for_each(|_| plain.tick()),
                &mut || (0..TICKS).for_each(|_| careful.tick()),
                &mut || (0..TICKS).for_each(|_| pulled.tick()),
            ],
        );
        println!(
            "| {n} | {:.0}; {:.0} µs | {:.1}; {:.1} | {:.1}; {:.1} | {}, {}, {}, {} |",
            times[0] / TICKS as f64 * 1e6,
            times[3] / TICKS as f64 * 1e6,
            times[1] / times[0],
            times[1] / times[3],
            times[2] / times[0],
            times[2] / times[3],
            ours.hits,
            pulled.hits,
            black_box(plain.hits),
            black_box(careful.hits),
        );
    }
    println!();
}
