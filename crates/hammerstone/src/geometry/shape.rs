//! The shapes that parts and attack volumes may have.

use glam::Vec3;

/// A volume in the frame of what carries it.
///
/// *Units:* metres. *Errors:* [`crate::RulesetBuilder::build`] refuses numbers that are not finite,
/// a radius that is not above zero, and a capsule of no length.
#[derive(Clone, Copy, PartialEq, Debug)]
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
}

/// A shape as the sweep sees it: a line (of no length for a sphere) and how thick it is.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Core {
    pub(crate) from: Vec3,
    pub(crate) to: Vec3,
    pub(crate) radius: f32,
}

impl From<Shape> for Core {
    fn from(shape: Shape) -> Core {
        let (from, to, radius) = match shape {
            Shape::Sphere { at, radius } => (at, at, radius),
            Shape::Capsule { from, to, radius } => (from, to, radius),
        };
        Core { from: Vec3::from_array(from), to: Vec3::from_array(to), radius }
    }
}

impl Core {
    /// The farthest that the line within lies from the origin of its frame.
    pub(crate) fn reach(&self) -> f32 {
        let square = self.from.dot(self.from);
        let other = self.to.dot(self.to);
        (if other > square { other } else { square }).sqrt()
    }
}
