//! The shapes that parts, attack hitboxes and obstacles may have.

use std::hash::{Hash, Hasher};

use glam::Vec3;

use super::in_bounds;
use super::look::Line;
use super::pose::{Placement, Pose, Turn};
use super::sweep::{larger, smaller};
use super::triangle::{Corners, across};

/// A hitbox in the frame of what carries it.
///
/// *Units:* metres. *Errors:* [`crate::RulesetBuilder::build`] refuses numbers that are not finite or farther than 1000 km, a radius or an
/// edge that is not above zero, and a capsule of no length.
#[derive(Clone, Copy, PartialEq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Shape {
    /// All points within `radius` of `at`.
    Sphere {
        /// The middle.
        at: [f32; 3],
        /// The radius.
        radius: f32,
    },
    /// All points within `radius` of the line from `from` to `to`.
    Capsule {
        /// One end of the line within.
        from: [f32; 3],
        /// The other end.
        to: [f32; 3],
        /// The radius.
        radius: f32,
    },
    /// A box of any turn.
    Box {
        /// The pose of its middle and axes.
        pose: Pose,
        /// Half of each of its edges.
        half: [f32; 3],
    },
}

impl Shape {
    /// The same in the outer frame of a pose.
    pub(crate) fn moved(self, pose: Pose) -> Shape {
        let outer = Placement::from(pose);
        let place = |at: [f32; 3]| outer.apply(Vec3::from_array(at)).to_array();
        match self {
            Shape::Sphere { at, radius } => Shape::Sphere { at: place(at), radius },
            Shape::Capsule { from, to, radius } => {
                Shape::Capsule { from: place(from), to: place(to), radius }
            }
            Shape::Box { pose, half } => {
                let turn = outer.turn.times(Placement::from(pose).turn);
                Shape::Box {
                    pose: Pose::from(Placement { at: outer.apply(Vec3::from_array(pose.at)), turn }),
                    half,
                }
            }
        }
    }
}

impl Hash for Shape {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        std::mem::discriminant(self).hash(hasher);
        match *self {
            Shape::Sphere { at, radius } => (at.map(f32::to_bits), radius.to_bits()).hash(hasher),
            Shape::Capsule { from, to, radius } => {
                ([from, to].map(|end| end.map(f32::to_bits)), radius.to_bits()).hash(hasher);
            }
            Shape::Box { pose, half } => (pose, half.map(f32::to_bits)).hash(hasher),
        }
    }
}

/// Something that stands in the way of beams, projectiles and lines of sight.
///
/// *Frame:* that of its pose: the world's, until it is moved. *Units:* metres.
#[derive(Clone, Copy, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Obstacle {
    /// A box of any turn.
    Box {
        /// The pose of its middle and axes.
        pose: Pose,
        /// Half of each of its edges.
        half: [f32; 3],
    },
    /// A ball.
    Sphere {
        /// The middle.
        at: [f32; 3],
        /// The radius.
        radius: f32,
    },
    /// All points within `radius` of the line from `from` to `to`, such as a column.
    Capsule {
        /// One end of the line within.
        from: [f32; 3],
        /// The other end.
        to: [f32; 3],
        /// The radius.
        radius: f32,
    },
    /// Everything on one side of a plane, such as the ground.
    HalfSpace {
        /// A point of the plane.
        at: [f32; 3],
        /// Out of what is filled; brought to length 1.
        normal: [f32; 3],
    },
}

impl Shape {
    /// Whether its numbers are within [`super::FARTHEST`], its sizes above zero, its turn of some length.
    pub(crate) fn is_sound(&self) -> bool {
        let size = |size: &f32| *size > 0.0;
        match self {
            Shape::Sphere { at, radius } => in_bounds(at) && in_bounds(&[*radius]) && size(radius),
            Shape::Capsule { from, to, radius } => {
                in_bounds(from) && in_bounds(to) && in_bounds(&[*radius]) && size(radius)
            }
            Shape::Box { pose, half } => pose.settled().is_some() && in_bounds(half) && half.iter().all(size),
        }
    }
}

impl Obstacle {
    /// Its numbers, for comparing and hashing by their bits.
    fn numbers(&self) -> (u8, [u32; 10]) {
        let mut bits = [0; 10];
        let (sort, numbers): (u8, &[&[f32]]) = match self {
            Obstacle::Box { pose, half } => (0, &[&pose.at, &pose.turn, half]),
            Obstacle::Sphere { at, radius } => (1, &[at, std::slice::from_ref(radius)]),
            Obstacle::HalfSpace { at, normal } => (2, &[at, normal]),
            Obstacle::Capsule { from, to, radius } => (3, &[from, to, std::slice::from_ref(radius)]),
        };
        for (bits, number) in bits.iter_mut().zip(numbers.iter().copied().flatten()) {
            *bits = number.to_bits();
        }
        (sort, bits)
    }

    /// Whether it is a solid: its numbers are finite, its sizes above zero, its normal of some length.
    pub fn is_solid(&self) -> bool {
        self.settled().is_some()
    }

    /// What is placed by `pose` in its frame, seen from outside.
    pub fn placed(self, pose: Pose) -> Obstacle {
        if pose == Pose::IDENTITY {
            return self;
        }
        let placement = Placement::from(pose);
        let place = |at: [f32; 3]| placement.apply(Vec3::from_array(at)).to_array();
        match self {
            Obstacle::Box { pose, half } => {
                Obstacle::Box { pose: Pose::from(placement.with_inner(pose.into())), half }
            }
            Obstacle::Sphere { at, radius } => Obstacle::Sphere { at: place(at), radius },
            Obstacle::Capsule { from, to, radius } => {
                Obstacle::Capsule { from: place(from), to: place(to), radius }
            }
            Obstacle::HalfSpace { at, normal } => {
                let normal = placement.turn.rotate(Vec3::from_array(normal)).to_array();
                Obstacle::HalfSpace { at: place(at), normal }
            }
        }
    }

    /// With turns and normals at length 1, or `None` if it is no solid: a number that is not finite or out of bounds, an edge or
    /// radius that is not above zero, a normal of no length.
    pub(crate) fn settled(self) -> Option<Obstacle> {
        let finite = in_bounds;
        match self {
            Obstacle::Box { pose, half } => {
                let sound = finite(&half) && half.iter().all(|&edge| edge > 0.0);
                Some(Obstacle::Box { pose: pose.settled().filter(|_| sound)?, half })
            }
            Obstacle::Sphere { at, radius } => (finite(&at) && finite(&[radius]) && radius > 0.0)
                .then_some(Obstacle::Sphere { at: at.map(|x| x + 0.0), radius }),
            Obstacle::Capsule { from, to, radius } => {
                let sound = finite(&from) && finite(&to) && finite(&[radius]) && radius > 0.0;
                let [from, to] = [from, to].map(|end| end.map(|x| x + 0.0));
                sound.then_some(Obstacle::Capsule { from, to, radius })
            }
            Obstacle::HalfSpace { at, normal } => {
                let length = Vec3::from_array(normal).length();
                let sound = finite(&at) && length.is_finite() && length > 1.0e-6;
                // One that is already as long as rounding lets it be is kept, so that settling twice changes nothing.
                let is_one = (length - 1.0).abs() <= 4.0 * f32::EPSILON;
                let normal = normal.map(|x| if is_one { x } else { x / length } + 0.0);
                sound.then_some(Obstacle::HalfSpace { at: at.map(|x| x + 0.0), normal })
            }
        }
    }
}

impl PartialEq for Obstacle {
    fn eq(&self, other: &Obstacle) -> bool {
        self.numbers() == other.numbers()
    }
}

impl Eq for Obstacle {}

impl Hash for Obstacle {
    fn hash<H: Hasher>(&self, state: &mut H) {
        self.numbers().hash(state);
    }
}

/// A shape as the sweep sees it, in its carrier's frame: something without thickness, and how thick it is.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Core {
    pub(crate) form: CoreForm,
    /// How thick it is about what is without thickness.
    pub(crate) radius: f32,
    /// The farthest that the core lies from the origin of its frame; its thickness not counted.
    pub(crate) reach: f32,
    /// Its middle, and from there to its farthest point.
    pub(crate) middle: Vec3,
    pub(crate) size: f32,
}

/// What is without thickness.
#[derive(Clone, Copy, Debug)]
pub(crate) enum CoreForm {
    /// A line, of no length for a sphere.
    Line { from: Vec3, to: Vec3 },
    /// A box.
    Block { pose: Placement, half: Vec3 },
    /// A half-space.
    HalfSpace { at: Vec3, normal: Vec3 },
    /// A triangle of a level.
    Triangle { corners: Corners },
}

/// A core where it is at one moment.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Solid {
    Line { from: Vec3, to: Vec3 },
    Block { middle: Vec3, turn: Turn, half: Vec3 },
    HalfSpace { at: Vec3, normal: Vec3 },
    Triangle { corners: Corners },
}

impl Core {
    /// So many times as large, about the origin of its frame.
    pub(crate) fn scaled(&self, size: f32) -> Core {
        let form = match self.form {
            CoreForm::Line { from, to } => CoreForm::Line { from: from * size, to: to * size },
            CoreForm::Block { pose, half } => {
                CoreForm::Block { pose: Placement { at: pose.at * size, ..pose }, half: half * size }
            }
            CoreForm::HalfSpace { at, normal } => CoreForm::HalfSpace { at: at * size, normal },
            CoreForm::Triangle { corners } => {
                CoreForm::Triangle { corners: corners.map(|corner| corner * size) }
            }
        };
        Core {
            form,
            radius: self.radius * size,
            reach: self.reach * size,
            middle: self.middle * size,
            size: self.size * size,
        }
    }
}

impl From<Shape> for Core {
    fn from(shape: Shape) -> Core {
        match shape {
            Shape::Sphere { at, radius } => Core::line(at, at, radius),
            Shape::Capsule { from, to, radius } => Core::line(from, to, radius),
            Shape::Box { pose, half } => {
                let (pose, half) = (Placement::from(pose), Vec3::from_array(half));
                let size = half.length();
                Core {
                    form: CoreForm::Block { pose, half },
                    radius: 0.0,
                    reach: pose.at.length() + size,
                    middle: pose.at,
                    size,
                }
            }
        }
    }
}

impl From<Obstacle> for Core {
    fn from(obstacle: Obstacle) -> Core {
        match obstacle {
            Obstacle::Box { pose, half } => Shape::Box { pose, half }.into(),
            Obstacle::Sphere { at, radius } => Shape::Sphere { at, radius }.into(),
            Obstacle::Capsule { from, to, radius } => Shape::Capsule { from, to, radius }.into(),
            Obstacle::HalfSpace { at, normal } => {
                let form = CoreForm::HalfSpace { at: Vec3::from_array(at), normal: Vec3::from_array(normal) };
                Core { form, radius: 0.0, reach: 0.0, middle: Vec3::ZERO, size: 0.0 }
            }
        }
    }
}

impl Core {
    /// A line of some thickness.
    pub(crate) fn line(from: [f32; 3], to: [f32; 3], radius: f32) -> Core {
        let (from, to) = (Vec3::from_array(from), Vec3::from_array(to));
        let (one, other) = (from.length(), to.length());
        let reach = if other > one { other } else { one };
        let (middle, size) = ((from + to) * 0.5, (to - from).length() * 0.5 + radius);
        Core { form: CoreForm::Line { from, to }, radius, reach, middle, size }
    }

    /// A triangle.
    pub(crate) fn triangle(corners: Corners) -> Core {
        let far = |from: Vec3| {
            let lengths = corners.map(|corner| (corner - from).length());
            lengths.into_iter().fold(0.0, |most: f32, length| if length > most { length } else { most })
        };
        let middle = (corners[0] + corners[1] + corners[2]) / 3.0;
        let form = CoreForm::Triangle { corners };
        Core { form, radius: 0.0, reach: far(Vec3::ZERO), middle, size: far(middle) }
    }

    /// Where it is when its frame is at `placement`.
    pub(crate) fn at(&self, placement: Placement) -> Solid {
        match self.form {
            CoreForm::Line { from, to } => {
                Solid::Line { from: placement.apply(from), to: placement.apply(to) }
            }
            CoreForm::Block { pose, half } => {
                Solid::Block { middle: placement.apply(pose.at), turn: placement.turn.times(pose.turn), half }
            }
            CoreForm::HalfSpace { at, normal } => {
                Solid::HalfSpace { at: placement.apply(at), normal: placement.turn.rotate(normal) }
            }
            CoreForm::Triangle { corners } => {
                Solid::Triangle { corners: corners.map(|corner| placement.apply(corner)) }
            }
        }
    }
}

impl From<Line<f32>> for Solid {
    fn from(line: Line<f32>) -> Solid {
        Solid::Line { from: line.from.into(), to: line.to.into() }
    }
}

impl Solid {
    /// A box along the axes that holds it: its middle and half of its edges.
    pub(crate) fn bounds(&self) -> (Vec3, Vec3) {
        match *self {
            Solid::Line { from, to } => ((from + to) * 0.5, ((to - from) * 0.5).abs()),
            Solid::Block { middle, turn, half } => {
                let edge = |axis: Vec3, half: f32| turn.rotate(axis * half).abs();
                (middle, edge(Vec3::X, half.x) + edge(Vec3::Y, half.y) + edge(Vec3::Z, half.z))
            }
            // Only obstacles are half-spaces, and these are not asked.
            Solid::HalfSpace { at, .. } => (at, Vec3::ZERO),
            Solid::Triangle { corners: [a, b, c] } => {
                let (low, high) = (smaller(smaller(a, b), c), larger(larger(a, b), c));
                ((low + high) * 0.5, (high - low) * 0.5)
            }
        }
    }

    /// The farthest that it lies along `direction`.
    pub(crate) fn extent(&self, direction: Vec3) -> f32 {
        match *self {
            Solid::Line { from, to } => {
                let (one, other) = (direction.dot(from), direction.dot(to));
                if one > other { one } else { other }
            }
            Solid::Block { middle, turn, half } => {
                let local = turn.back(direction).abs();
                direction.dot(middle) + local.dot(half)
            }
            Solid::HalfSpace { .. } => f32::INFINITY,
            Solid::Triangle { corners } => {
                let along = corners.map(|corner| direction.dot(corner));
                along.into_iter().fold(f32::NEG_INFINITY, |most, x| if x > most { x } else { most })
            }
        }
    }

    pub(crate) fn shifted(&self, by: Vec3) -> Solid {
        match *self {
            Solid::Line { from, to } => Solid::Line { from: from + by, to: to + by },
            Solid::Block { middle, turn, half } => Solid::Block { middle: middle + by, turn, half },
            Solid::HalfSpace { at, normal } => Solid::HalfSpace { at: at + by, normal },
            Solid::Triangle { corners } => Solid::Triangle { corners: corners.map(|corner| corner + by) },
        }
    }

    pub(crate) fn middle(&self) -> Vec3 {
        match *self {
            Solid::Line { from, to } => (from + to) * 0.5,
            Solid::Block { middle, .. } => middle,
            Solid::HalfSpace { at, .. } => at,
            Solid::Triangle { corners: [a, b, c] } => (a + b + c) / 3.0,
        }
    }

    /// Its ends, if it is a line.
    pub(crate) fn line(&self) -> Option<Line<f32>> {
        match *self {
            Solid::Line { from, to } => Some(Line { from: from.into(), to: to.into() }),
            _ => None,
        }
    }

    /// The side of a plane or a triangle on which `point` lies, of length 1; none for what has no sides.
    pub(crate) fn side_towards(&self, point: Vec3) -> Option<Vec3> {
        match self {
            Solid::HalfSpace { normal, .. } => Some(*normal),
            Solid::Triangle { corners } => {
                let normal = across(corners);
                let normal = normal / normal.length();
                Some(if (point - corners[0]).dot(normal) < 0.0 { -normal } else { normal })
            }
            Solid::Line { .. } | Solid::Block { .. } => None,
        }
    }
}
