//! Runs to be drawn: lanes over time, single frames, and a playback.

mod frames;
mod lanes;
mod playback;

pub use frames::{Came, Figure, Frame, Hitbox, Touched};
pub use lanes::{Bore, Chosen, GaugeLine, Lane, Lanes, Moment, Sort, Swung, TimelineMark};
pub use playback::Playback;
