#![doc = include_str!("../README.md")]
//!
//! # How a file is read
//!
//! A file goes through three steps: *raw*, as it is written; *resolved*, with every name looked up and everything that is wrong noted at
//! its place; *built*, checked by the library. Nothing here opens a file: the text comes in.

#![warn(clippy::print_stdout, clippy::print_stderr)]

#[macro_use]
mod tables;

mod attacks;
mod bases;
mod gauges;
mod include;
mod statuses;
mod synonyms;

/// What the crate of scenarios reads with, too. It is no part of the interface and changes at any time.
macro_rules! shared {
    ($($name:ident),*) => {$(
        #[allow(missing_docs, unreachable_pub, reason = "shared with the crate of scenarios, and with no one else")]
        #[doc(hidden)]
        pub mod $name;
    )*};
}

shared!(excerpt, flow, motion, numbers, problem, raw, read, rules, values);

pub use motion::{Bound, Motion, Opener, Played, Rig};
pub use problem::{Problem, Unusable};
pub use rules::{Allowed, RulesFile};
