//! Random shapes and motions, and the same in the oracle's own terms.

#![allow(dead_code)]

use fastrand::Rng;
use hammerstone::geometry::Moving;
use hammerstone::geometry::{Pose, Shape};
use parry3d_f64::math::{Pose3, Rot3, Vec3};
use parry3d_f64::query;
use parry3d_f64::shape::{Ball, Capsule, Cuboid, SharedShape};

/// So many cases, or as many as the environment's `ORACLE_CASES` says; and numbers from a seed, which is printed: always the
/// same, or the environment's `ORACLE_SEED`, or with `ORACLE_SEED=any` another each time.
#[expect(clippy::print_stderr, reason = "a failing run must say how to repeat it")]
pub(crate) fn cases(usual: u64) -> (u64, Rng) {
    let text = |name: &str| std::env::var(name).ok();
    let read = |name: &str| text(name).and_then(|text| text.parse().ok());
    let any = text("ORACLE_SEED").is_some_and(|seed| seed == "any");
    let seed = if any { fastrand::u64(..) } else { read("ORACLE_SEED").unwrap_or(20_261_125) };
    eprintln!("ORACLE_SEED={seed}");
    (read("ORACLE_CASES").unwrap_or(usual), Rng::with_seed(seed))
}

pub(crate) fn within(rng: &mut Rng, most: f32) -> f32 {
    (rng.f32() * 2.0 - 1.0) * most
}

pub(crate) fn vector(rng: &mut Rng, most: f32) -> [f32; 3] {
    std::array::from_fn(|_| within(rng, most))
}

/// A turn of any direction, up to `degrees` from none.
pub(crate) fn turned(rng: &mut Rng, pose: Pose, degrees: f32) -> Pose {
    let axis = vector(rng, 1.0);
    pose.then_turned(axis, within(rng, degrees)).settled().unwrap()
}

/// Mostly of ordinary size, now and then thin, flat or large.
pub(crate) fn shape(rng: &mut Rng) -> Shape {
    let scale = [1.0, 1.0, 1.0, 0.05, 8.0][rng.usize(..5)];
    let size = |rng: &mut Rng| (0.02 + rng.f32()) * scale;
    match rng.u8(..3) {
        0 => Shape::Sphere { at: vector(rng, 0.5), radius: size(rng) },
        1 => Shape::Capsule { from: vector(rng, scale), to: vector(rng, scale), radius: size(rng) * 0.5 },
        _ => {
            let at = Pose::at(vector(rng, 0.5));
            let pose = turned(rng, at, 180.0);
            Shape::Box { pose, half: [size(rng), size(rng), size(rng)] }
        }
    }
}

/// From its middle to its farthest point.
pub(crate) fn size(shape: &Shape) -> f64 {
    let length = |v: [f32; 3]| v.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>().sqrt();
    match *shape {
        Shape::Sphere { radius, .. } => radius.into(),
        Shape::Capsule { from, to, radius } => {
            length(std::array::from_fn(|i| to[i] - from[i])) * 0.5 + f64::from(radius)
        }
        Shape::Box { half, .. } => length(half),
    }
}

/// A shape on its way from one pose to another.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Way {
    pub(crate) shape: Shape,
    pub(crate) from: Pose,
    pub(crate) to: Pose,
}

impl Way {
    /// How far its farthest point swings in the tick, at the fastest speed that an even mix of the two turns has.
    fn swung(&self) -> f64 {
        let [one, other] = [self.from.turn, self.to.turn].map(|turn| turn.map(f64::from));
        let cosine = one.iter().zip(&other).map(|(a, b)| a * b).sum::<f64>().abs().min(1.0);
        let length = |v: [f32; 3]| v.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>().sqrt();
        let reach = match self.shape {
            Shape::Sphere { at, .. } => length(at),
            Shape::Capsule { from, to, .. } => length(from).max(length(to)),
            Shape::Box { pose, half } => length(pose.at) + length(half),
        };
        4.0 * (cosine.acos() / 2.0).tan() * reach
    }

    pub(crate) fn moving(&self) -> Moving {
        Moving::new(self.shape, self.from, self.to).unwrap()
    }

    /// The pose at `t`, in double precision: straight, and with the quaternions mixed evenly along the shorter way.
    fn at(&self, t: f64) -> Pose3 {
        let place: [f64; 3] = std::array::from_fn(|i| {
            let (from, to) = (f64::from(self.from.at[i]), f64::from(self.to.at[i]));
            from + (to - from) * t
        });
        let (from, to) = (self.from.turn.map(f64::from), self.to.turn.map(f64::from));
        let side = if (0..4).map(|i| from[i] * to[i]).sum::<f64>() < 0.0 { -1.0 } else { 1.0 };
        let turn: [f64; 4] = std::array::from_fn(|i| from[i] + (to[i] * side - from[i]) * t);
        let rotation = Rot3::from_xyzw(turn[0], turn[1], turn[2], turn[3]).normalize();
        Pose3::from_parts(Vec3::from_array(place), rotation)
    }
}

fn vec3(v: [f32; 3]) -> Vec3 {
    Vec3::from_array(v.map(f64::from))
}

fn pose3(pose: &Pose) -> Pose3 {
    let [x, y, z, w] = pose.turn.map(f64::from);
    Pose3::from_parts(vec3(pose.at), Rot3::from_xyzw(x, y, z, w).normalize())
}

/// The shape, and its pose within its carrier.
fn oracle(shape: &Shape) -> (SharedShape, Pose3) {
    match *shape {
        Shape::Sphere { at, radius } => (SharedShape::new(Ball::new(radius.into())), pose3(&Pose::at(at))),
        Shape::Capsule { from, to, radius } => {
            (SharedShape::new(Capsule::new(vec3(from), vec3(to), radius.into())), pose3(&Pose::IDENTITY))
        }
        Shape::Box { pose, half } => (SharedShape::new(Cuboid::new(vec3(half))), pose3(&pose)),
    }
}

/// How thick a shape is about its core: a point, a line, or a box.
fn thickness(shape: &SharedShape) -> f64 {
    let ball = shape.as_ball().map(|ball| ball.radius);
    ball.or(shape.as_capsule().map(|capsule| capsule.radius)).unwrap_or(0.0)
}

/// From a point of a shape's own frame to its core.
fn to_core(shape: &SharedShape, point: Vec3) -> f64 {
    if let Some(capsule) = shape.as_capsule() {
        let (a, b) = (capsule.segment.a, capsule.segment.b);
        let along = ((point - a).dot(b - a) / (b - a).length_squared()).clamp(0.0, 1.0);
        return (point - (a + (b - a) * along)).length();
    }
    let half = shape.as_cuboid().map_or(Vec3::ZERO, |cuboid| cuboid.half_extents);
    (point.abs() - half).max(Vec3::ZERO).length()
}

/// Two ways in the oracle's terms.
pub(crate) struct Pair {
    ways: [Way; 2],
    shapes: [(SharedShape, Pose3); 2],
}

impl Pair {
    pub(crate) fn new(one: Way, other: Way) -> Pair {
        Pair { ways: [one, other], shapes: [oracle(&one.shape), oracle(&other.shape)] }
    }

    fn poses(&self, t: f64) -> [Pose3; 2] {
        std::array::from_fn(|i| self.ways[i].at(t) * self.shapes[i].1)
    }

    /// How far apart they are at `t`, by the library alone; 0 where they overlap.
    ///
    /// In about one case of a million it is off by centimetres, and says that they are apart; never that they overlap.
    pub(crate) fn looked_up(&self, t: f64) -> f64 {
        let poses = self.poses(t);
        let [(one, _), (other, _)] = &self.shapes;
        query::distance(&poses[0], &**one, &poses[1], &**other).unwrap().distance
    }

    /// How far apart they are at `t`; 0 where they overlap.
    ///
    /// Where a capsule is concerned, by a search along its line, over which the distance to anything convex is convex.
    pub(crate) fn distance(&self, t: f64) -> f64 {
        let poses = self.poses(t);
        let searched = [(0, 1), (1, 0)].into_iter().find_map(|(line, other)| {
            let capsule = self.shapes[line].0.as_capsule()?;
            let (target, pose) = (&self.shapes[other].0, poses[other]);
            let at = |s: f64| poses[line] * (capsule.segment.a + (capsule.segment.b - capsule.segment.a) * s);
            let away = |s: f64| to_core(target, pose.inverse() * at(s));
            let (mut low, mut high) = (0.0, 1.0);
            for _ in 0..80 {
                let (left, right) = (low + (high - low) / 3.0, high - (high - low) / 3.0);
                if away(left) < away(right) { high = right } else { low = left }
            }
            Some((away(low) - capsule.radius - thickness(target)).max(0.0))
        });
        searched.unwrap_or_else(|| self.looked_up(t))
    }

    /// When they first touch, if nothing turns.
    pub(crate) fn template(&self) -> Option<f64> {
        let [one, other] = self.poses(0.0);
        let travel = |way: &Way| vec3(way.to.at) - vec3(way.from.at);
        let [v1, v2] = [travel(&self.ways[0]), travel(&self.ways[1])];
        let options = query::ShapeCastOptions::with_max_time_of_impact(1.0);
        let hit = query::cast_shapes(&one, v1, &*self.shapes[0].0, &other, v2, &*self.shapes[1].0, options);
        hit.unwrap().map(|hit| hit.time_of_impact)
    }

    /// What a report may be early by: a millimetre, or 0.1 % of the larger shape's size, or 0.011 % of how far the two swing.
    pub(crate) fn tolerance(&self) -> f64 {
        let size = size(&self.ways[0].shape).max(size(&self.ways[1].shape));
        let swung: f64 = self.ways.iter().map(Way::swung).sum();
        (size * 0.001).max(0.001).max(swung * 0.00011)
    }
}
