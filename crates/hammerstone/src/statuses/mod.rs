//! Statuses that last: they are applied, pulse, and end.
//!
//! The order within a tick: what blows and orders give is applied where they are resolved. In stage 5 strengths that follow a
//! stat are looked at anew; then each status, in the order of applying, pulses if its pulse is due and expires if its time is up, and
//! what it gives on expiry is applied at once and comes last.

mod apply;
mod because;
mod drains;
mod end;
mod pulse;
mod queue;
mod steps;

pub(crate) use apply::{apply, give, give_for};
pub(crate) use because::Because;
pub(crate) use drains::{gauge_by, gauge_to, pay_held, pay_landed, pay_start, refill};
pub(crate) use end::{end_all, expire, lift, lift_family, lift_one_tied, lift_tied, resume};
pub(crate) use pulse::{follow_stats, pulse};
pub(crate) use queue::{Giving, Queue};
pub(crate) use steps::{Granting, add_grants, grants};
