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
pub mod json;
mod play;
mod sheet;
pub mod worlds;

pub use build::{build, build_with};
pub use canonical::facts_hash;
pub use hooks::{Told, World, hooks};
pub use play::{busy, play, play_ticking, play_under};
pub use sheet::{Fight, Op, Sheet, cases, fights};

/// The code of pages that lie in no crate.
#[cfg(doctest)]
mod pages {
    #[doc = include_str!("../../docs/in-code/01.md")]
    struct InCode01;
    #[doc = include_str!("../../docs/in-code/02.md")]
    struct InCode02;
    #[doc = include_str!("../../docs/in-code/03.md")]
    struct InCode03;
    #[doc = include_str!("../../docs/in-code/04.md")]
    struct InCode04;
    #[doc = include_str!("../../docs/in-code/05.md")]
    struct InCode05;
    #[doc = include_str!("../../docs/in-code/06.md")]
    struct InCode06;
    #[doc = include_str!("../../docs/in-code/07.md")]
    struct InCode07;
    #[doc = include_str!("../../docs/in-code/08.md")]
    struct InCode08;
    #[doc = include_str!("../../docs/in-code/09.md")]
    struct InCode09;
    #[doc = include_str!("../../docs/in-code/10.md")]
    struct InCode10;
    #[doc = include_str!("../../docs/in-code/11.md")]
    struct InCode11;
    #[doc = include_str!("../../docs/in-code/12.md")]
    struct InCode12;
    #[doc = include_str!("../../README.md")]
    struct Readme;
    #[doc = include_str!("../../docs/in-your-game.md")]
    struct InYourGame;
}
