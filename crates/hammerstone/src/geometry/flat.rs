//! Games in a plane: places with two coordinates, and headings in degrees.

use super::{Pose, Shape};

/// How a game in a plane lies in the space of the library, whose up axis is then +Y: its x is X, and its y goes along Z.
///
/// *Frame:* what moves looks along its own x, and its y is where a right angle takes its x. *Units:* metres, and degrees from x towards y,
/// which is clockwise on the screen where y points down. Pictures of a fight, seen from above, show the plane as the game does.
///
/// ```
/// use hammerstone::geometry::Flat;
/// let flat = Flat::Y_DOWN;
/// let pose = flat.pose([4.0, 3.0], 90.0);
/// let ([x, y], heading) = flat.read(pose);
/// assert_eq!([x, y], [4.0, 3.0]);
/// assert!((heading - 90.0).abs() < 1e-3);
/// ```
#[doc(alias("2d", "two dimensions", "top down", "side view"))]
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Flat {
    down: bool,
}

impl Flat {
    /// The y of the game points down the screen.
    pub const Y_DOWN: Flat = Flat { down: true };
    /// It points up.
    pub const Y_UP: Flat = Flat { down: false };

    /// One who is at a place, with a heading in degrees from x towards y.
    pub fn pose(self, place: [f32; 2], degrees: f32) -> Pose {
        // What looks along +Z turns to +X by a quarter, from where its heading counts on.
        let turn = if self.down { 90.0 - degrees } else { 90.0 + degrees };
        Pose::at(self.point(place)).turned([0.0, 1.0, 0.0], turn)
    }

    /// A place of the plane, in the world.
    pub const fn point(self, [x, y]: [f32; 2]) -> [f32; 3] {
        [x, 0.0, if self.down { y } else { -y }]
    }

    /// A place in the world, in the plane: what it lies above or below it is left out.
    pub const fn read_point(self, [x, _, z]: [f32; 3]) -> [f32; 2] {
        [x, if self.down { z } else { -z }]
    }

    /// A place and a heading, in degrees from -180 to 180.
    pub fn read(self, pose: Pose) -> ([f32; 2], f32) {
        let [x, y] = self.read_point(pose.direction([0.0, 0.0, 1.0]));
        (self.read_point(pose.at), libm::atan2f(y, x).to_degrees())
    }

    /// A place in the frame of one who carries it: so far ahead, so far towards where its y is. For hitboxes, paths, and where projectiles
    /// and beams begin.
    pub const fn local(self, [ahead, aside]: [f32; 2]) -> [f32; 3] {
        [if self.down { -aside } else { aside }, 0.0, ahead]
    }

    /// A circle, in the frame of one who carries it.
    pub const fn circle(self, at: [f32; 2], radius: f32) -> Shape {
        Shape::Sphere { at: self.local(at), radius }
    }

    /// All points so near to a line, in the frame of one who carries it.
    pub const fn capsule(self, from: [f32; 2], to: [f32; 2], radius: f32) -> Shape {
        Shape::Capsule { from: self.local(from), to: self.local(to), radius }
    }

    /// A rectangle with half of its edges, turned by degrees from x towards y, in the frame of one who carries it. It is as high as it is
    /// long, which nothing in the plane can tell.
    pub fn rectangle(self, at: [f32; 2], [ahead, aside]: [f32; 2], degrees: f32) -> Shape {
        let turn = if self.down { -degrees } else { degrees };
        let pose = Pose::at(self.local(at)).turned([0.0, 1.0, 0.0], turn);
        let high = if ahead > aside { ahead } else { aside };
        Shape::Box { pose, half: [aside, high, ahead] }
    }
}
