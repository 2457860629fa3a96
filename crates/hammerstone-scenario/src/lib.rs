//! Fights as files.
//!
//! A file goes through three steps: *raw*, as it is written; *resolved*, with every name looked up and everything
//! that is wrong noted at its place; *built*, checked by the library. Nothing here opens a file: texts come in,
//! and the caller says how a ruleset that a scenario names is found. Rulesets are read by [`hammerstone_rules`].

#![warn(clippy::print_stdout, clippy::print_stderr)]

mod check;
mod fight;
mod raw;
mod schema;
mod tactics;

pub use check::{Doubt, FINDINGS, Finding, Looked, Pool, check_rules, check_skeleton};
pub use fight::*;
pub use hammerstone_rules::{Problem, RulesFile, Unusable};
pub use schema::{FileSort, schema};
pub use tactics::Minds;

/// All forms of the two sorts of files, for the page that lists their fields. It is no part of the interface.
#[doc(hidden)]
pub fn forms() -> [Vec<hammerstone_rules::raw::Described>; 2] {
    [hammerstone_rules::raw::forms(), raw::forms()]
}
