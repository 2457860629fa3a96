//! What a game's level puts in the way of projectiles, beams and lines of sight: solids, triangle meshes and height fields that never
//! change while a fight runs.
//!
//! *Frame:* the world's. *Units:* metres. A level is shared: any number of encounters and threads use one, and it stands in no saved state.
//! What moves, comes or goes is an [obstacle](crate::orders::Orders::add_obstacle).
//!
//! ```
//! use hammerstone::geometry::Obstacle;
//! use hammerstone::level::{HeightField, Level};
//! # use hammerstone::prelude::*;
//! # fn main() -> Result<(), Box<dyn std::error::Error>> {
//! let mut b = Level::builder();
//! b.solid(Obstacle::Box { pose: Pose::at([4.0, 1.0, 0.0]), half: [0.5, 1.0, 3.0] });
//! b.mesh(&[[0.0, 0.0, 5.0], [2.0, 0.0, 5.0], [1.0, 2.0, 5.0]], &[[0, 1, 2]]);
//! let level = b.build()?;
//! let met = level.ray([0.0, 1.0, 0.0], [10.0, 1.0, 0.0]).unwrap();
//! assert_eq!((met.distance, met.place.shape), (3.5, 0));
//!
//! # let rules = Ruleset::builder(60).build()?;
//! let mut fight = Encounter::in_level(&rules, &level, 7);
//! # fight.tick()?;
//! # Ok(())
//! # }
//! ```

mod builder;
#[cfg(feature = "serde")]
mod bytes;
mod tree;

use std::sync::Arc;

use glam::Vec3;

pub use builder::{HeightField, LevelBuilder, LevelError, LevelShape, Mesh};
#[cfg(feature = "serde")]
pub use bytes::LevelBytesError;

use crate::geometry::{
    Core, FirstTouch, Impact, Motion, Moving, Obstacle, Placement, Pose, Swept, crossing, larger, smaller,
    sweep_until,
};
use tree::{Path, Tree};

/// What never moves and never goes, made by [`Level::builder`]. Cloning it shares it.
///
/// *Determinism:* answers do not depend on how it is searched: the least time or distance wins, then the shape that was given first,
/// then the triangle.
#[derive(Clone, Debug, Default)]
pub struct Level(Arc<Inner>);

#[derive(Debug, Default)]
struct Inner {
    shapes: Vec<LevelShape>,
    /// Everything but half-spaces.
    tree: Tree,
    /// The numbers of half-spaces, which no box holds.
    planes: Vec<u32>,
    fingerprint: u64,
}

/// A place in a level: which shape, from 0 in the order in which they were given; and which triangle of a mesh or a height field.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct InLevel {
    /// The number of the shape.
    pub shape: u32,
    /// The number of the triangle; none for a solid. Each cell of a height field has two, row by row.
    pub triangle: Option<u32>,
}

/// Where a line meets a level.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct LineMeets {
    /// How far from where it begins, in metres; 0 if it begins within a solid.
    pub distance: f32,
    /// Where, in metres in the world.
    pub point: [f32; 3],
    /// What it meets.
    pub place: InLevel,
}

/// Where a moving shape meets a level.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct ShapeMeets {
    /// When and where; the normal is out of the level.
    pub touch: FirstTouch,
    /// What it meets.
    pub place: InLevel,
}

impl Level {
    /// Starts an empty level.
    pub fn builder() -> LevelBuilder {
        LevelBuilder::default()
    }

    /// 64 bits that differ, but for chance, wherever two levels differ. It stands in saved states.
    pub fn fingerprint(&self) -> u64 {
        self.0.fingerprint
    }

    /// The shapes, in the order in which they were given.
    pub fn shapes(&self) -> &[LevelShape] {
        &self.0.shapes
    }

    /// Its triangles with their places, in no order that means anything: for pictures.
    pub fn triangles(&self) -> impl Iterator<Item = (InLevel, [[f32; 3]; 3])> + '_ {
        self.0.tree.stones().filter_map(|(place, stone)| match stone {
            Stone::Triangle(corners) => Some((*place, corners.map(|corner| corner.to_array()))),
            Stone::Solid(_) => None,
        })
    }

    /// Its solids, in the order in which they were given.
    pub fn solids(&self) -> impl Iterator<Item = (InLevel, Obstacle)> + '_ {
        (0..).zip(&self.0.shapes).filter_map(|(shape, of)| match of {
            LevelShape::Solid(solid) => Some((InLevel { shape, triangle: None }, *solid)),
            LevelShape::Mesh(_) | LevelShape::HeightField(_) => None,
        })
    }

    /// Whether there is nothing in it.
    pub fn is_empty(&self) -> bool {
        self.0.shapes.is_empty()
    }

    /// Where the line from `from` to `to` first meets the level, if it does; none for numbers that are not finite.
    pub fn ray(&self, from: [f32; 3], to: [f32; 3]) -> Option<LineMeets> {
        let (start, way) = (Vec3::from_array(from), Vec3::from_array(to) - Vec3::from_array(from));
        let reach = way.length();
        // Written so that what is not a number meets nothing.
        if !(reach > 0.0 && reach.is_finite()) {
            return None;
        }
        let along = way / reach;
        let (distance, place) = self.line_meets(start, along, reach)?;
        Some(LineMeets { distance, point: (start + along * distance + 0.0).to_array(), place })
    }

    /// When a shape on its way first meets the level, if it does; as exact as [`crate::geometry::first_touch`].
    pub fn sweep(&self, shape: &Moving) -> Option<ShapeMeets> {
        let (impact, place) = self.sweep_meets(&shape.swept)?;
        let (point, normal) = (impact.point.to_array(), impact.normal.to_array());
        Some(ShapeMeets { touch: FirstTouch { toi: impact.toi, point, normal }, place })
    }

    /// What a hitbox meets first in the tick.
    pub(crate) fn sweep_meets(&self, hitbox: &Swept) -> Option<(Impact, InLevel)> {
        if self.is_empty() {
            return None;
        }
        let start = hitbox.start();
        let mut first: Option<(Impact, InLevel)> = None;
        let mut meet = |swept: &Swept, place: InLevel| {
            let until = first.as_ref().map_or(1.0, |(impact, _)| impact.toi);
            if let Some(impact) = sweep_until(hitbox, swept, start, swept.start(), until)
                && first.as_ref().is_none_or(|(best, at)| (impact.toi, place) < (best.toi, *at))
            {
                first = Some((impact, place));
            }
            first.as_ref().map_or(f32::INFINITY, |(impact, _)| impact.toi)
        };
        let mut most = f32::INFINITY;
        for &shape in &self.0.planes {
            if let LevelShape::Solid(plane) = &self.0.shapes[shape as usize] {
                most = meet(&Swept::still((*plane).into()), InLevel { shape, triangle: None });
            }
        }
        self.0.tree.seek(&Path::of(hitbox, &start), most, |place, stone| meet(&stone.swept(), place));
        first
    }

    /// How far a line goes from `from` along `along`, of length 1, before it meets the level; none beyond `reach`.
    pub(crate) fn line_meets(&self, from: Vec3, along: Vec3, reach: f32) -> Option<(f32, InLevel)> {
        if self.is_empty() {
            return None;
        }
        let mut first: Option<(f32, InLevel)> = None;
        let mut meet = |distance: Option<f32>, place: InLevel| {
            if let Some(distance) = distance.filter(|&distance| distance < reach)
                && first.is_none_or(|best| (distance, place) < best)
            {
                first = Some((distance, place));
            }
            first.map_or(f32::INFINITY, |(distance, _)| distance / reach)
        };
        let mut most = f32::INFINITY;
        for &shape in &self.0.planes {
            if let LevelShape::Solid(plane) = &self.0.shapes[shape as usize] {
                most = meet(enters(plane, from, along), InLevel { shape, triangle: None });
            }
        }
        let path = Path::line(from, along * reach);
        self.0.tree.seek(&path, most, |place, stone| meet(stone.entered(from, along), place));
        first
    }
}

impl PartialEq for Level {
    /// Two levels are the same if their fingerprints are.
    fn eq(&self, other: &Level) -> bool {
        self.fingerprint() == other.fingerprint()
    }
}

impl Eq for Level {}

/// One thing that can be met: a solid, or a triangle.
#[derive(Clone, Copy, Debug)]
enum Stone {
    Solid(Obstacle),
    Triangle([Vec3; 3]),
}

impl Stone {
    /// A box along the axes that holds it, its lowest and its highest corner.
    fn bounds(&self) -> (Vec3, Vec3) {
        if let Stone::Triangle([a, b, c]) = *self {
            return (smaller(smaller(a, b), c), larger(larger(a, b), c));
        }
        let swept = self.swept();
        let (middle, half) = swept.start().bounds();
        let (middle, half) = (middle + swept.carrier.from.at, half + Vec3::splat(swept.core.radius));
        (middle - half, middle + half)
    }

    /// Seen from its own middle, so that the numbers are small wherever it stands.
    fn swept(&self) -> Swept {
        let (at, core) = match *self {
            Stone::Triangle(corners) => {
                let middle = (corners[0] + corners[1] + corners[2]) / 3.0;
                (middle, Core::triangle(corners.map(|corner| corner - middle)))
            }
            Stone::Solid(Obstacle::Box { pose, half }) => (
                Vec3::from_array(pose.at),
                Obstacle::Box { pose: Pose { at: [0.0; 3], ..pose }, half }.into(),
            ),
            Stone::Solid(Obstacle::Sphere { at, radius }) => {
                (Vec3::from_array(at), Core::line([0.0; 3], [0.0; 3], radius))
            }
            Stone::Solid(Obstacle::Capsule { from, to, radius }) => {
                let (one, other) = (Vec3::from_array(from), Vec3::from_array(to));
                let middle = (one + other) * 0.5;
                (middle, Core::line((one - middle).to_array(), (other - middle).to_array(), radius))
            }
            Stone::Solid(plane @ Obstacle::HalfSpace { .. }) => (Vec3::ZERO, plane.into()),
        };
        // The skin is for what rounding takes from large shapes, and what stands still loses little.
        let core = Core { size: core.size * 0.01, ..core };
        Swept::fixed(core, Motion::resting(Placement { at, ..Placement::from(Pose::IDENTITY) }))
    }

    /// Where a ray enters it, in metres from its start.
    fn entered(&self, from: Vec3, along: Vec3) -> Option<f32> {
        match self {
            Stone::Solid(solid) => enters(solid, from, along),
            Stone::Triangle(corners) => crossing(from, along, corners),
        }
    }
}

/// Where a ray enters a solid, in metres from its start; 0 if it starts within.
pub(crate) fn enters(obstacle: &Obstacle, from: Vec3, along: Vec3) -> Option<f32> {
    match *obstacle {
        Obstacle::Sphere { at, radius } => enters_ball(Vec3::from_array(at), radius, from, along),
        Obstacle::Capsule { from: one, to: other, radius } => {
            enters_capsule((Vec3::from_array(one), Vec3::from_array(other)), radius, from, along)
        }
        Obstacle::HalfSpace { at, normal } => {
            let normal = Vec3::from_array(normal);
            let above = (from - Vec3::from_array(at)).dot(normal);
            let towards = -along.dot(normal);
            if above <= 0.0 {
                return Some(0.0);
            }
            (towards > 0.0).then(|| above / towards)
        }
        Obstacle::Box { pose, half } => {
            let placement = Placement::from(pose);
            let (local, along) = (placement.turn.back(from - placement.at), placement.turn.back(along));
            let (mut near, mut far) = (0.0f32, f32::INFINITY);
            for axis in 0..3 {
                if along[axis] == 0.0 {
                    if local[axis].abs() > half[axis] {
                        return None;
                    }
                    continue;
                }
                let (one, other) =
                    ((-half[axis] - local[axis]) / along[axis], (half[axis] - local[axis]) / along[axis]);
                let (enter, leave) = if one < other { (one, other) } else { (other, one) };
                near = if enter > near { enter } else { near };
                far = if leave < far { leave } else { far };
            }
            (near <= far).then_some(near)
        }
    }
}

fn enters_ball(at: Vec3, radius: f32, from: Vec3, along: Vec3) -> Option<f32> {
    let away = from - at;
    let (b, c) = (away.dot(along), away.dot(away) - radius * radius);
    if c <= 0.0 {
        return Some(0.0);
    }
    let root = b * b - c;
    (b < 0.0 && root >= 0.0).then(|| -b - root.sqrt())
}

/// By its two balls, and by the wall between them.
fn enters_capsule((one, other): (Vec3, Vec3), radius: f32, from: Vec3, along: Vec3) -> Option<f32> {
    let balls = [one, other].map(|at| enters_ball(at, radius, from, along));
    let axis = other - one;
    let (square, away) = (axis.dot(axis), from - one);
    // Without what goes along the axis, the wall is a circle.
    let (flat_along, flat_away) =
        (along - axis * (along.dot(axis) / square), away - axis * (away.dot(axis) / square));
    let (a, b) = (flat_along.dot(flat_along), flat_away.dot(flat_along));
    let c = flat_away.dot(flat_away) - radius * radius;
    let within = |distance: f32| {
        let share = (away + along * distance).dot(axis) / square;
        (0.0..=1.0).contains(&share)
    };
    let root = b * b - a * c;
    let wall = match c <= 0.0 {
        true => Some(0.0),
        false if a > 0.0 && root >= 0.0 && b < 0.0 => Some((-b - root.sqrt()) / a),
        false => None,
    };
    let all = balls.into_iter().chain([wall.filter(|&distance| within(distance))]).flatten();
    all.reduce(|one, other| if other < one { other } else { one })
}
