//! Questions about two moving shapes, for hosts, pictures and explanations.

use glam::Vec3;

use super::near::nearest;
use super::sweep::{Swept, sweep};
use super::{Core, Motion, Placement, Pose, Shape, Solid};

/// A shape whose carrier goes from one pose to another in the course of a tick.
#[derive(Clone, Copy, Debug)]
pub struct Moving {
    pub(crate) swept: Swept,
}

/// The first touch of two shapes within a tick.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct FirstTouch {
    /// When, from 0 at the start of the tick to 1 at its end; 0 where they overlap at the start.
    pub toi: f32,
    /// Where, on the surface of the target, in metres in the world.
    pub point: [f32; 3],
    /// Out of the target, of length 1.
    pub normal: [f32; 3],
}

/// How near two shapes come within a tick.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct Approach {
    /// When, from 0 at the start of the tick to 1 at its end.
    pub time: f32,
    /// How far apart they are then, in metres; 0 where they touch.
    pub distance: f32,
    /// The nearest point of the first, in metres in the world.
    pub on_first: [f32; 3],
    /// The nearest point of the second.
    pub on_second: [f32; 3],
}

/// A number of a shape or a pose that is not finite, or beyond [`FARTHEST`](super::FARTHEST); a size that is not above zero; a turn of
/// no length.
#[derive(Clone, Copy, PartialEq, Eq, Debug, thiserror::Error)]
#[error("a {what} is not finite, is farther than 1 000 000 metres, or has no size; give ordinary numbers")]
pub struct OutOfBounds {
    /// What it is: `shape` or `pose`.
    pub what: &'static str,
}

impl Moving {
    /// A shape carried from pose to pose: straight, and along the shorter arc.
    ///
    /// *Errors:* numbers [out of bounds](OutOfBounds).
    pub fn new(shape: Shape, from: Pose, to: Pose) -> Result<Moving, OutOfBounds> {
        let carrier = Motion::between(sound(from)?, sound(to)?);
        Ok(Moving { swept: Swept::fixed(core_of(shape)?, carrier) })
    }

    /// A shape that also moves within its carrier's frame, from one pose of that frame to another.
    ///
    /// *Errors:* numbers [out of bounds](OutOfBounds).
    pub fn within(
        shape: Shape,
        local_from: Pose,
        local_to: Pose,
        from: Pose,
        to: Pose,
    ) -> Result<Moving, OutOfBounds> {
        let local = Motion::between(sound(local_from)?, sound(local_to)?);
        let carrier = Motion::between(sound(from)?, sound(to)?);
        Ok(Moving { swept: Swept::on_path(core_of(shape)?, local, carrier) })
    }

    /// The first part of its way, until `time`: what was `time` is 1 then. In between it is where it was but for how turns are mixed.
    pub fn until(&self, time: f32) -> Moving {
        Moving { swept: self.swept.until(time) }
    }

    /// The shape where it is at `time`, from 0 at the start of the tick to 1 at its end, in the world.
    pub fn at(&self, time: f32) -> Shape {
        let radius = self.swept.core.radius;
        match self.swept.at(time, Vec3::ZERO) {
            Solid::Line { from, to } if from == to => Shape::Sphere { at: from.to_array(), radius },
            Solid::Line { from, to } => Shape::Capsule { from: from.to_array(), to: to.to_array(), radius },
            Solid::Block { middle, turn, half } => {
                let pose = Pose::from(Placement { at: middle, turn });
                Shape::Box { pose, half: half.to_array() }
            }
            // No shape is one.
            Solid::HalfSpace { at, .. } | Solid::Triangle { corners: [at, ..] } => {
                Shape::Sphere { at: at.to_array(), radius }
            }
        }
    }
}

fn sound(pose: Pose) -> Result<Pose, OutOfBounds> {
    pose.settled().ok_or(OutOfBounds { what: "pose" })
}

fn core_of(shape: Shape) -> Result<Core, OutOfBounds> {
    if shape.is_sound() { Ok(shape.into()) } else { Err(OutOfBounds { what: "shape" }) }
}

impl From<Swept> for Moving {
    fn from(swept: Swept) -> Moving {
        Moving { swept }
    }
}

/// When `shape` first touches `target` within the tick; what stage 3 of the tick asks of each pair.
///
/// *Accuracy:* touching means nearer than 0.8 millimetres, or 0.08 % of the larger shape's size, or 0.01 % of how far the two swing
/// in the tick, whichever is most. No touch is missed, at any speed. *Source:* conservative advancement (Mirtich, 1996).
pub fn first_touch(shape: &Moving, target: &Moving) -> Option<FirstTouch> {
    let impact = sweep(&shape.swept, &target.swept)?;
    Some(FirstTouch { toi: impact.toi, point: impact.point.to_array(), normal: impact.normal.to_array() })
}

/// How near two shapes come within the tick, and when.
///
/// *Accuracy:* the distance is within a millimetre of the least, unless that would take more than a thousand looks.
/// *Method:* the tick is halved where, by the speed at which they can close in, something nearer may hide
/// (Piyavskii, "An algorithm for finding the absolute extremum of a function", 1972).
pub fn nearest_approach(first: &Moving, second: &Moving) -> Approach {
    approach(first, second, f32::INFINITY)
}

/// As [`nearest_approach`], if they come nearer than a limit, in metres: that they do not is known sooner.
pub fn nearest_approach_below(first: &Moving, second: &Moving, limit: f32) -> Option<Approach> {
    Some(approach(first, second, limit)).filter(|approach| approach.distance < limit)
}

/// How near they come; where that is not below the limit, anything that is not below it either.
fn approach(first: &Moving, second: &Moving, limit: f32) -> Approach {
    const CLOSE: f32 = 0.001;
    const MOST: usize = 1000;
    let (one, other) = (&first.swept, &second.swept);
    let speed = one.closing_bound(other);
    let mut best = look(one, other, 0.0);
    let end = look(one, other, 1.0);
    let mut stretches = vec![(best, end)];
    if end.distance < best.distance {
        best = end;
    }
    for _ in 0..MOST {
        // What may hide in a stretch is no nearer than both its ends and the speed allow.
        let least =
            |(a, b): &(Approach, Approach)| (a.distance + b.distance - speed * (b.time - a.time)) * 0.5;
        let Some(place) =
            (0..stretches.len()).min_by(|&i, &j| least(&stretches[i]).total_cmp(&least(&stretches[j])))
        else {
            break;
        };
        let (a, b) = stretches.swap_remove(place);
        let least = least(&(a, b));
        if least >= limit || least >= best.distance - CLOSE || best.distance <= 0.0 {
            break;
        }
        let middle = look(one, other, (a.time + b.time) * 0.5);
        if middle.distance < best.distance {
            best = middle;
        }
        stretches.extend([(a, middle), (middle, b)]);
    }
    best
}

fn look(one: &Swept, other: &Swept, time: f32) -> Approach {
    let origin = other.carrier.from.at;
    let (on_one, on_other) = nearest(&one.at(time, origin), &other.at(time, origin));
    let apart = on_one - on_other;
    let length = apart.length();
    let direction = if length > 0.0 { apart / length } else { Vec3::ZERO };
    let gap = length - one.core.radius - other.core.radius;
    Approach {
        time,
        distance: if gap > 0.0 { gap } else { 0.0 },
        on_first: (origin + on_one - direction * one.core.radius).to_array(),
        on_second: (origin + on_other + direction * other.core.radius).to_array(),
    }
}
