//! Rules and hooks: who hears which topic, and what one rule heard.

mod about;
mod rule_trace;
mod wave_trace;
mod wiring;

pub use about::{About, OfTemplate};
pub use rule_trace::{Hearing, Lost, RuleTrace, why_not};
pub use wave_trace::{WaveStage, WaveStep, WaveTrace};
pub use wiring::{Diagram, Ear, Loop, Wired, Wiring, loops, never_fired, status_loops};
