//! Generated fights: rulesets, orders and hooks from a few small numbers, so that a failing one shrinks well. Other crates' tests play them.

#![expect(
    missing_docs,
    reason = "what an order or a number of a generated fight does is read where it is played"
)]

mod attack;
mod build;
mod canonical;
mod carrying;
mod flow;
pub mod forms;
mod hooks;
#[cfg(feature = "json")]
pub mod json;
mod play;
mod sheet;
pub mod worlds;

pub use build::{build, build_with};
pub use canonical::facts_hash;
pub use hooks::{Told, World, hooks};
pub use play::{busy, play, play_ticking, play_under};
pub use sheet::{Fight, Op, Sheet, cases, fights};
