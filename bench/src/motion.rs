//! Bodies that play animations out of a file, without the fight that their poses go into.

use hammerstone::geometry::{Axis, Pose};
use hammerstone_motion::{Animator, Axes, Clip, Skeleton};

/// The shipped mason: nineteen joints, four animations.
pub const MASON: &[u8] = include_bytes!("../../scenarios/bones/mason.glb");

pub fn read() -> Skeleton {
    let mut alone = |_: &str| Err(String::new());
    Skeleton::from_bytes(MASON, "", Axes::same(Axis::Y), &mut alone).expect("it is shipped")
}

/// So many bodies: half of them walk, the others go over to a sweep each second.
pub struct Troupe {
    skeleton: Skeleton,
    bodies: Vec<Animator>,
    tick: u32,
}

impl Troupe {
    pub fn new(n: usize) -> Troupe {
        Troupe { skeleton: read(), bodies: vec![Animator::default(); n], tick: 0 }
    }

    /// Poses of all joints of all bodies.
    pub fn tick(&mut self) -> Vec<Pose> {
        self.tick += 1;
        let [walk, sweep] = ["walk", "sweep"].map(|name| self.skeleton.animation(name));
        let now = f64::from(self.tick) / 60.0;
        let mut all = Vec::new();
        for (number, body) in self.bodies.iter_mut().enumerate() {
            let clip = match number % 2 {
                0 => Clip::again(walk, now + number as f64 * 0.01),
                _ => Clip { of: now as u64, ..Clip::once(sweep, now % 1.0) },
            };
            body.play(&self.skeleton, clip, 6);
            all.extend(body.poses(&self.skeleton));
        }
        all
    }
}
