//! The account of an amount.

use crate::Fixed;
use crate::ruleset::Step;

/// One line of an amount's account.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct LedgerLine {
    /// What was done.
    pub step: LedgerStep,
    /// The amount before.
    pub before: Fixed,
    /// The amount after.
    pub after: Fixed,
    /// By what: the step's own number, if it has one.
    pub note: Note,
}

/// What a line of a ledger stands for.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum LedgerStep {
    /// A step of the ruleset.
    Step(Step),
    /// What an order named, in place of the base step.
    Named,
    /// Raised by the charge that the swing was released with.
    Charge,
    /// Cut down to the health that was left.
    Health,
}

impl LedgerStep {
    /// The line's name in the feed.
    pub const fn name(self) -> &'static str {
        match self {
            LedgerStep::Step(step) => step.name(),
            LedgerStep::Named => "named",
            LedgerStep::Charge => "charge",
            LedgerStep::Health => "health",
        }
    }
}

/// By what a line of a ledger changed the amount.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Note {
    /// Nothing to add.
    None,
    /// Rolled within this range, in points.
    Rolled {
        /// The least.
        low: i64,
        /// The most.
        high: i64,
    },
    /// Times this.
    Times(Fixed),
    /// Raised to the floor.
    Floor(i64),
    /// Cut to the cap.
    Cap(i64),
    /// The health that was left.
    Left(i64),
    /// The number reached the limit of what it can hold and was kept there.
    Saturated,
}
