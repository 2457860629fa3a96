//! Commands that look into a fight that ran: explanations, comparisons, pictures, pages, diagrams of listeners.

mod compare;
mod draw;
mod explain;
mod report;
mod state;
mod swing_results;
mod why;
mod wiring;

pub(crate) use compare::{changed_in, compare, play};
pub(crate) use draw::{draw, ending, save};
pub(crate) use explain::explain;
pub(crate) use report::{Gathered, gather, report};
pub(crate) use wiring::{about, wiring};
