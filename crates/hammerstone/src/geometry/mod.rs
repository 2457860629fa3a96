//! Volumes, where they are, and when two of them first touch.
//!
//! *Frame:* metres, right-handed; a ruleset names its up axis. *Determinism:* only single-precision
//! `+ − × ÷ √` on `Vec3`, in a fixed order, so that every machine gets the same bits.

mod pose;
mod shape;
mod sweep;

pub use pose::{Axis, Pose};
pub use shape::Shape;

pub(crate) use pose::{Motion, between};
pub(crate) use shape::Core;
pub(crate) use sweep::{Impact, Swept, first_touch};
