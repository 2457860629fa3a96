//! What a swing does beside striking: it begins, follows on another, flies, parts from what it touched, ends.

mod begin;
mod chain;
mod end;
mod flight;
mod known;
mod lookup;
mod part;
mod press;

pub(crate) use begin::{Spawned, begin_children, begin_spawned, child};
pub(crate) use chain::go_on_or_lapse;
pub(crate) use end::{close_window, end_swing, free_hands, lives_on, stun};
pub(crate) use flight::{end_body, fly, launch, stop_body};
pub(crate) use known::Known;
pub(crate) use part::{part_contacts, part_from};
pub(crate) use press::{drop_press, may_start, start, start_waiting};
