//! Hitboxes, where they are, when two of them first touch, and how near they come.
//!
//! *Frame:* metres, right-handed; a ruleset names its up axis. *Determinism:* only `+ − × ÷ √`, in a fixed order, in
//! single precision, and in double precision where a box is not met by a ball; every machine gets the same bits.
//!
//! ```
//! use hammerstone::geometry::{Moving, first_touch, nearest_approach};
//! use hammerstone::geometry::{Pose, Shape};
//! # fn main() -> Result<(), hammerstone::geometry::OutOfBounds> {
//! let pebble = Shape::Sphere { at: [0.0; 3], radius: 0.1 };
//! let shot = Moving::new(pebble, Pose::at([-5.0, 0.0, 0.0]), Pose::at([5.0, 0.0, 0.0]))?;
//! let still = |y| Moving::new(pebble, Pose::at([0.0, y, 0.0]), Pose::at([0.0, y, 0.0]));
//! let touch = first_touch(&shot, &still(0.0)?).unwrap();
//! assert!((touch.toi - 0.48).abs() < 0.001 && touch.normal[0] < -0.999);
//! assert!(first_touch(&shot, &still(0.5)?).is_none());
//! let near = nearest_approach(&shot, &still(0.5)?);
//! assert!((near.distance - 0.3).abs() < 0.002 && (near.time - 0.5).abs() < 0.05);
//! # Ok(())
//! # }
//! ```

/// How far from the origin of its frame anything may be, and how large, in metres; and how fast, in metres a second. What goes beyond is
/// refused wherever it comes in: single precision would leave it no shape.
pub const FARTHEST: f32 = 1.0e6;

/// Whether all of these are finite and within [`FARTHEST`].
pub(crate) fn in_bounds(numbers: &[f32]) -> bool {
    numbers.iter().all(|x| x.abs() <= FARTHEST)
}

mod batch;
mod flat;
mod look;
mod near;
mod number;
mod pose;
mod query;
mod shape;
mod sweep;
mod triangle;

pub use flat::Flat;
pub use pose::{Axis, Frame, Pose};
pub use query::{
    Approach, FirstTouch, Moving, OutOfBounds, first_touch, nearest_approach, nearest_approach_below,
};
pub use shape::{Obstacle, Shape};

pub(crate) use batch::{Batch, Pairs};
pub(crate) use look::{Line, Look};
pub(crate) use pose::{Bits, Motion, Placement, between};
pub(crate) use shape::{Core, Solid};
pub(crate) use sweep::{Impact, Swept, Way, impact, larger, smaller, sweep, sweep_until, sweep_ways};
pub(crate) use triangle::{across, crossing};
