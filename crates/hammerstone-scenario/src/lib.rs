//! Rulesets and fights as files.
//!
//! A file goes through three steps: *raw*, as it is written; *resolved*, with every name looked up and everything
//! that is wrong noted at its place; *built*, checked by the library. Nothing here opens a file: texts come in,
//! and the caller says how a ruleset that a scenario names is found.

#![warn(clippy::print_stdout, clippy::print_stderr)]

mod attacks;
mod check;
mod check_mentions;
mod excerpt;
mod expect;
mod flow;
mod numbers;
mod play;
mod problem;
mod raw;
mod rules;
mod scenario;
mod script;
mod statuses;
mod synonyms;
mod values;
mod vary;

pub use check::{Doubt, FINDINGS, Finding};
pub use expect::Verdict;
pub use play::{Options, Play};
pub use problem::{Problem, Unusable};
pub use rules::RulesFile;
pub use scenario::{Opener, Scenario};
pub use vary::{CannotVary, Decimal, has_key, with_value};
