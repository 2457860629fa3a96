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

    /// Which way a body faces, with length 1; straight ahead for one that faces up or down.
    pub(crate) fn facing(&self, pose: Pose) -> Flat {
        let way = self.flat(pose.direction(self.ahead));
        // One who stands upright.
        if (dot(way, way) - 1.0).abs() < 1.0e-5 { way } else { unit(way).unwrap_or([0.0, 1.0]) }
    }

    /// The pose at a place that faces a way of length 1: turned about the up axis, by half angles and without trigonometry.
    pub(crate) fn pose(&self, at: [f32; 3], [sine, cosine]: Flat) -> Pose {
        let (half_sine, half_cosine) = if cosine >= 0.0 {
            let half = ((1.0 + cosine) * 0.5).sqrt();
            (sine / (2.0 * half), half)
        } else {
            let half = ((1.0 - cosine) * 0.5).sqrt().copysign(sine);
            (half, sine / (2.0 * half))
        };
        let [x, y, z] = self.up.vector().map(|along| along * half_sine);
        Pose { at, turn: [x, y, z, half_cosine] }
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

/// How far one turns from one way to another, both of any length, in radians from −π to π.
pub(crate) fn turn_between(from: Flat, to: Flat) -> f32 {
    angle_of([across(from, to), dot(from, to)])
}

/// The sine of the turn from one way to another, times both lengths.
fn across(from: Flat, to: Flat) -> f32 {
    to[0] * from[1] - to[1] * from[0]
}

/// How far a body turns in a tick at most.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Turning {
    /// Its sine and cosine; none for half a turn and more.
    most: Option<Flat>,
}

impl Turning {
    /// By so many radians.
    pub(crate) fn by(angle: f32) -> Turning {
        Turning { most: (angle < std::f32::consts::PI).then(|| way_at(angle)) }
    }

    /// Which way a body faces a tick later that turns from one way to another, both of length 1; none where it need not turn.
    pub(crate) fn turned(self, from: Flat, to: Flat) -> Option<Flat> {
        let (sine, cosine) = (across(from, to), dot(from, to));
        if cosine > 0.0 && sine.abs() <= ALIGNED {
            return None;
        }
        match self.most {
            Some([most_sine, most_cosine]) if cosine < most_cosine => {
                let most_sine = most_sine.copysign(sine);
                let side = from[0] * most_cosine + from[1] * most_sine;
                Some([side, from[1] * most_cosine - from[0] * most_sine])
            }
            _ => Some(to),
        }
    }
}

/// Ways that are off by no more than so many radians are taken for one.
const ALIGNED: f32 = 1.0e-3;

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
    length_and_unit(a).1
}

/// How long a way is, and the same with length 1.
pub(crate) fn length_and_unit(a: Flat) -> (f32, Option<Flat>) {
    let long = length(a);
    (long, (long > 1.0e-6).then(|| times(a, 1.0 / long)))
}
