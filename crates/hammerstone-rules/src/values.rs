//! Times, numbers, shapes and poses out of files.

use hammerstone::Fixed;
use hammerstone::geometry::{Axis, Pose, Shape};
use toml::Spanned;

use crate::problem::Reading;
use crate::raw;

/// The shapes of which one is to be given.
#[derive(Clone, Copy)]
pub struct Shapes<'a> {
    pub sphere: Option<&'a raw::Sphere>,
    pub capsule: Option<&'a raw::Capsule>,
    pub block: Option<&'a raw::Block>,
}

/// An axis, and degrees about it.
pub type Turned = ([f32; 3], f32);

/// How long anything in a file may last, in ticks.
const LONGEST: f64 = 10_000_000.0;
/// How far from the origin anything in a file may be, in metres.
const FARTHEST: f64 = 1.0e6;

impl Reading<'_> {
    /// A time in ticks: `"0.4s"`, rounded to the nearest tick, or `"24 ticks"`.
    pub fn time(&mut self, time: &raw::Time, rate: u32) -> Option<u32> {
        let text = time.as_ref().trim();
        let number = |text: &str| text.trim().parse::<f64>().ok();
        let ticks = match (text.strip_suffix("ticks").or(text.strip_suffix("tick")), text.strip_suffix('s')) {
            (Some(ticks), _) => number(ticks).filter(|ticks| ticks.fract() == 0.0 || !ticks.is_finite()),
            (None, Some(seconds)) => number(seconds).map(|seconds| (seconds * f64::from(rate)).round()),
            (None, None) => None,
        };
        let (message, fix) = match ticks {
            Some(ticks) if (0.0..=LONGEST).contains(&ticks) => return Some(ticks as u32),
            Some(ticks) if ticks < 0.0 => {
                (format!("the time `{text}` is negative"), "give 0s or more".to_owned())
            }
            Some(_) => (
                format!("the time `{text}` is too long or not finite"),
                format!("the most is {LONGEST} ticks"),
            ),
            None => (format!("`{text}` is not a time"), "write \"0.4s\" or \"24 ticks\"".to_owned()),
        };
        self.problem(time.span(), "here", message, Some(fix));
        None
    }

    /// A number in single precision.
    pub fn number(&mut self, number: &raw::Number) -> Option<f32> {
        self.finite(*number.as_ref(), number)
    }

    /// Whether a number is from one to another; the problem is told if not.
    pub fn is_within(&mut self, number: &raw::Number, least: f64, most: f64) -> bool {
        let value = *number.as_ref();
        let is_within = (least..=most).contains(&value);
        if !is_within {
            self.problem(number.span(), "here", format!("{value} is outside {least} to {most}"), None);
        }
        is_within
    }

    pub fn vector(&mut self, vector: &raw::Vector) -> Option<[f32; 3]> {
        let mut out = [0.0; 3];
        for (out, &value) in out.iter_mut().zip(vector.as_ref()) {
            *out = self.finite(value, vector)?;
        }
        Some(out)
    }

    fn finite<T>(&mut self, value: f64, place: &Spanned<T>) -> Option<f32> {
        if value.is_finite() && value.abs() <= FARTHEST {
            return Some(value as f32);
        }
        let message = format!("{value} is not a finite number within {FARTHEST}");
        self.problem(place.span(), "here", message, Some("give an ordinary number".to_owned()));
        None
    }

    /// A time scale from 0 to 2, in whole sixteenths.
    pub fn sixteenths(&mut self, scale: &raw::Number) -> Option<u8> {
        let sixteenths = *scale.as_ref() * 16.0;
        if (0.0..=32.0).contains(&sixteenths) && sixteenths.fract() == 0.0 {
            return Some(sixteenths as u8);
        }
        let nearest = sixteenths.round().clamp(0.0, 32.0) / 16.0;
        let message = format!("{} is no time scale", scale.as_ref());
        let fix = format!("give whole sixteenths from 0 to 2, such as {nearest}");
        self.problem(scale.span(), "here", message, Some(fix));
        None
    }

    /// An exact number with at most four decimals.
    pub fn exact(&mut self, number: &raw::Number) -> Option<Fixed> {
        let exact = Fixed::from_decimal(*number.as_ref());
        if exact.is_none() {
            let message = format!("{} cannot be kept exactly", number.as_ref());
            let fix = "give a finite number with at most four decimals".to_owned();
            self.problem(number.span(), "here", message, Some(fix));
        }
        exact
    }

    /// The one shape that is given; `what` and its span are named if there is none, or if there are several.
    pub fn shape(
        &mut self,
        what: &str,
        span: std::ops::Range<usize>,
        shapes: Shapes<'_>,
    ) -> Option<Shape> {
        let Shapes { sphere, capsule, block } = shapes;
        let given =
            usize::from(sphere.is_some()) + usize::from(capsule.is_some()) + usize::from(block.is_some());
        if given > 1 {
            let message = format!("{what} has {given} shapes");
            self.problem(span, "several shapes", message, Some("keep one".to_owned()));
            return None;
        }
        if let Some(sphere) = sphere {
            return Some(Shape::Sphere {
                at: self.vector(&sphere.at)?,
                radius: self.number(&sphere.radius)?,
            });
        }
        if let Some(capsule) = capsule {
            let (from, to) = (self.vector(&capsule.from)?, self.vector(&capsule.to)?);
            return Some(Shape::Capsule { from, to, radius: self.number(&capsule.radius)? });
        }
        if let Some(block) = block {
            let (pose, half) = self.block(block)?;
            return Some(Shape::Box { pose, half });
        }
        let fix = "add `sphere = { at = [0, 1, 0], radius = 0.4 }`, a `capsule` with `from`, `to`, `radius`, or a `box` with `at`, `half`";
        self.problem(span, "no shape", format!("{what} has no shape"), Some(fix.to_owned()));
        None
    }

    pub fn block(&mut self, block: &raw::Block) -> Option<(Pose, [f32; 3])> {
        let at = self.vector(&block.at)?;
        let pose = self.turned(Pose::at(at), block.turn.as_ref())?;
        Some((pose, self.vector(&block.half)?))
    }

    /// A pose turned as it is written, if it is.
    pub fn turned(&mut self, pose: Pose, turn: Option<&raw::Turn>) -> Option<Pose> {
        let Some(turn) = turn else { return Some(pose) };
        let (axis, degrees) = self.turn(turn)?;
        Some(pose.turned(axis, degrees))
    }

    /// An axis, and degrees about it.
    pub fn turn(&mut self, turn: &raw::Turn) -> Option<Turned> {
        let axis = self.vector(&turn.about)?;
        if axis == [0.0; 3] {
            let fix = "give a direction, such as [0, 1, 0]".to_owned();
            self.problem(turn.about.span(), "no length", "the axis has no length".to_owned(), Some(fix));
            return None;
        }
        Some((axis, self.number(&turn.degrees)?))
    }

    /// A pose at a place, turned by so many degrees about the up axis.
    pub fn pose(&mut self, at: &raw::Vector, facing: Option<&raw::Number>, up: Axis) -> Option<Pose> {
        let pose = Pose::at(self.vector(at)?);
        match facing {
            Some(degrees) => Some(pose.facing(up, self.number(degrees)?)),
            None => Some(pose),
        }
    }

    /// A pose as a script gives it: turned about the up axis, then raised about its own +X.
    pub fn stand(&mut self, stand: &raw::Stand, up: Axis) -> Option<Pose> {
        let pose = self.pose(&stand.at, stand.facing.as_ref(), up)?;
        match &stand.raised {
            Some(degrees) => Some(pose.then_turned([1.0, 0.0, 0.0], -self.number(degrees)?)),
            None => Some(pose),
        }
    }

    /// A whole number from `least` to `most`.
    pub fn whole(&mut self, number: &Spanned<i64>, least: i64, most: i64) -> Option<i64> {
        let value = *number.as_ref();
        if (least..=most).contains(&value) {
            return Some(value);
        }
        let message = format!("{value} is outside {least} to {most}");
        self.problem(number.span(), "here", message, None);
        None
    }
}
