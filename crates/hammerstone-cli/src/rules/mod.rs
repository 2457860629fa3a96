//! Commands about a ruleset by itself: what is doubtful in it, when its attacks do what, and the topics that there are to hear.

mod check;
mod matchups;
mod skeleton;
mod timings;
mod topics;

pub(crate) use check::check;
pub(crate) use timings::timings;
pub(crate) use topics::{handler, topics};
