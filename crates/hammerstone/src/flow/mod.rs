//! What becomes of the whole encounter: rules, waves, lives, and beginning anew.

mod actions;
mod afterlife;
mod reset;
mod rules;
mod waves;

pub(crate) use actions::{fire, undelay};
pub(crate) use afterlife::{arise, lay_to_rest, note_fall};
pub(crate) use reset::{begin_anew, end_everything, wind_up};
pub(crate) use rules::hear;
pub(crate) use waves::{advance as advance_waves, start as start_waves};
