//! The plane in which stand-ins walk: across the up axis.

use hammerstone::geometry::{Axis, Pose};

/// A place or a way on the plane: to the side, and ahead of a body that is not turned.
pub(crate) type Flat = [f32; 2];

/// The two axes of the plane.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Plane {
    pub(crate) up: Axis,
    /// Which way a body that is not turned faces.
    ahead: [f32; 3],
    /// What a quarter turn makes of that.
    aside: [f32; 3],
}

impl Plane {
    pub(crate) const fn across(up: Axis) -> Plane {
        // A turn about the up axis takes `ahead` to `aside`.
        let (ahead, aside) = match up {
            Axis::X => ([0.0, 0.0, 1.0], [0.0, -1.0, 0.0]),
            Axis::Y => ([0.0, 0.0, 1.0], [1.0, 0.0, 0.0]),
            Axis::Z => ([0.0, 1.0, 0.0], [-1.0, 0.0, 0.0]),
        };
        Plane { up, ahead, aside }
    }

    pub(crate) fn flat(&self, at: [f32; 3]) -> Flat {
        let along = |axis: [f32; 3]| at[0] * axis[0] + at[1] * axis[1] + at[2] * axis[2];
        [along(self.aside), along(self.ahead)]
    }

    pub(crate) fn height(&self, at: [f32; 3]) -> f32 {
        let up = self.up.vector();
        at[0] * up[0] + at[1] * up[1] + at[2] * up[2]
    }

    /// The place in space, at a height.
    pub(crate) fn place(&self, flat: Flat, height: f32) -> [f32; 3] {
        let up = self.up.vector();
        let mut place = [0.0; 3];
        for (axis, x) in place.iter_mut().enumerate() {
            *x = self.aside[axis] * flat[0] + self.ahead[axis] * flat[1] + up[axis] * height;
        }
        place
    }

    /// Which way a body faces, in radians; 0 for one that is not turned.
    pub(crate) fn facing(&self, pose: Pose) -> f32 {
        angle_of(self.flat(pose.direction(self.ahead)))
    }
}

/// The direction of a way, in radians.
pub(crate) fn angle_of([aside, ahead]: Flat) -> f32 {
    libm::atan2f(aside, ahead)
}

/// The way of length 1 in a direction.
pub(crate) fn way_at(angle: f32) -> Flat {
    [libm::sinf(angle), libm::cosf(angle)]
}

/// From one direction to another the shorter way round, from −π to π.
pub(crate) fn turn_between(from: f32, to: f32) -> f32 {
    use std::f32::consts::{PI, TAU};
    let turn = (to - from) % TAU;
    match turn {
        turn if turn > PI => turn - TAU,
        turn if turn < -PI => turn + TAU,
        turn => turn,
    }
}

pub(crate) fn sum(a: Flat, b: Flat) -> Flat {
    [a[0] + b[0], a[1] + b[1]]
}

pub(crate) fn from_to(from: Flat, to: Flat) -> Flat {
    [to[0] - from[0], to[1] - from[1]]
}

pub(crate) fn times(a: Flat, factor: f32) -> Flat {
    [a[0] * factor, a[1] * factor]
}

pub(crate) fn dot(a: Flat, b: Flat) -> f32 {
    a[0] * b[0] + a[1] * b[1]
}

pub(crate) fn length(a: Flat) -> f32 {
    dot(a, a).sqrt()
}

/// The same way with length 1; none for one of no length.
pub(crate) fn unit(a: Flat) -> Option<Flat> {
    let long = length(a);
    (long > 1.0e-6).then(|| times(a, 1.0 / long))
}
