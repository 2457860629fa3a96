//! Statuses that last: they are applied, beat, and end.
//!
//! The order within a tick: what blows and orders give is applied where they are resolved. In stage 5 strengths that follow a
//! stat are looked at anew; then each status, in the order of applying, beats if its beat is due and expires if its time is up, and
//! what it gives upon expiry is applied at once and comes last.

mod apply;
mod beat;
mod end;
mod steps;

pub(crate) use apply::{Giving, apply, first_of, give};
pub(crate) use beat::{beat, follow_stats};
pub(crate) use end::{end_all, expire, lift, lift_family, lift_one_tied, lift_tied, resume};
pub(crate) use steps::{StatusStep, add_gifts, gifts};
