//! Places and turns in double precision: `+ − × ÷ √` and what `libm` computes, in a fixed order.

use hammerstone::geometry::Pose;

/// A quaternion `[x, y, z, w]`.
pub(crate) type Turn = [f64; 4];
pub(crate) type Place = [f64; 3];

pub(crate) const UNTURNED: Turn = [0.0, 0.0, 0.0, 1.0];

/// A place and a turn in an outer frame.
#[derive(Clone, Copy, PartialEq, Debug)]
pub(crate) struct Local {
    pub(crate) at: Place,
    pub(crate) turn: Turn,
}

impl Local {
    pub(crate) const SAME: Local = Local { at: [0.0; 3], turn: UNTURNED };

    /// What stands so in this frame, in the outer frame.
    pub(crate) fn then(self, inner: Local) -> Local {
        let moved = rotated(self.turn, inner.at);
        Local { at: [0, 1, 2].map(|axis| self.at[axis] + moved[axis]), turn: times(self.turn, inner.turn) }
    }

    /// A place of the outer frame, in this one.
    pub(crate) fn within(self, place: Place) -> Place {
        let [x, y, z, w] = self.turn;
        rotated([-x, -y, -z, w], [0, 1, 2].map(|axis| place[axis] - self.at[axis]))
    }

    /// Between two: places along a line, turns evenly along the shorter arc.
    pub(crate) fn between(self, other: Local, share: f64) -> Local {
        Local { at: on_line(self.at, other.at, share), turn: on_arc(self.turn, other.turn, share) }
    }

    pub(crate) fn pose(self) -> Pose {
        Pose { at: self.at.map(|x| x as f32 + 0.0), turn: self.turn.map(|x| x as f32 + 0.0) }
    }
}

pub(crate) fn times(a: Turn, b: Turn) -> Turn {
    let ([ax, ay, az, aw], [bx, by, bz, bw]) = (a, b);
    [
        aw * bx + ax * bw + ay * bz - az * by,
        aw * by - ax * bz + ay * bw + az * bx,
        aw * bz + ax * by - ay * bx + az * bw,
        aw * bw - ax * bx - ay * by - az * bz,
    ]
}

fn cross(a: Place, b: Place) -> Place {
    [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
}

pub(crate) fn rotated([x, y, z, w]: Turn, place: Place) -> Place {
    let axis = [x, y, z];
    let once = cross(axis, place);
    let twice = cross(axis, once);
    [0, 1, 2].map(|i| place[i] + 2.0 * (w * once[i] + twice[i]))
}

/// At length 1; none if it has no length.
pub(crate) fn unit(turn: Turn) -> Option<Turn> {
    let length = turn.iter().fold(0.0, |sum, x| sum + x * x).sqrt();
    (length.is_finite() && length > 1.0e-9).then(|| turn.map(|x| x / length))
}

/// About an axis of length 1.
pub(crate) fn about(axis: Place, degrees: f64) -> Turn {
    let half = degrees * (std::f64::consts::PI / 360.0);
    let sine = libm::sin(half);
    [axis[0] * sine, axis[1] * sine, axis[2] * sine, libm::cos(half)]
}

pub(crate) fn distance(a: Place, b: Place) -> f64 {
    a.iter().zip(b).fold(0.0, |sum, (a, b)| sum + (a - b) * (a - b)).sqrt()
}

/// How far one turn is from another, in degrees from 0 to 180.
pub(crate) fn degrees_between(a: Turn, b: Turn) -> f64 {
    let dot = a.iter().zip(b).fold(0.0, |sum, (a, b)| sum + a * b);
    let b = if dot < 0.0 { b.map(|x| -x) } else { b };
    quarter(a, b) * (360.0 / std::f64::consts::PI)
}

/// Half of the angle of the turn from one to the other: from their difference and their sum, which is exact for small angles, too.
fn quarter(a: Turn, b: Turn) -> f64 {
    let (mut less, mut more) = (0.0, 0.0);
    for (a, b) in a.into_iter().zip(b) {
        less += (a - b) * (a - b);
        more += (a + b) * (a + b);
    }
    2.0 * libm::atan2(less.sqrt(), more.sqrt())
}

pub(crate) fn on_line(from: Place, to: Place, share: f64) -> Place {
    [0, 1, 2].map(|axis| from[axis] + (to[axis] - from[axis]) * share)
}

/// Evenly along the shorter arc between two turns of length 1.
pub(crate) fn on_arc(from: Turn, to: Turn, share: f64) -> Turn {
    let dot = from.iter().zip(to).fold(0.0, |sum, (a, b)| sum + a * b);
    let to = if dot < 0.0 { to.map(|x| -x) } else { to };
    let angle = quarter(from, to);
    let sine = libm::sin(angle);
    // So near to each other, the line is the arc.
    let (one, other) = match sine > 1.0e-9 {
        true => (libm::sin((1.0 - share) * angle) / sine, libm::sin(share * angle) / sine),
        false => (1.0 - share, share),
    };
    let mixed = [0, 1, 2, 3].map(|i| from[i] * one + to[i] * other);
    unit(mixed).unwrap_or(from)
}
