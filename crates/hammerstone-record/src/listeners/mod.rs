//! Rules and hooks: who hears which topic, and what one rule heard.

mod rule_trace;
mod wiring;

pub use rule_trace::{Hearing, Lost, RuleTrace};
pub use wiring::{Diagram, Ear, Loop, Wired, Wiring, loops, never_fired, status_loops};
