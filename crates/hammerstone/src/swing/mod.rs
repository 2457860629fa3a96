//! What a swing does beside striking: it begins, follows on another, flies.

mod begin;
mod chain;
mod flight;

pub(crate) use begin::{begin_children, begin_ordered, begin_spawned, child};
pub(crate) use chain::{go_on_or_lapse, press};
pub(crate) use flight::{end_body, fly, launch};
