//! The account of an amount.

use crate::Fixed;
use crate::ids::*;
use crate::ruleset::def::{HealStep, Modifier, Reading, Relation, Role, Step};

/// What brought a change about.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Cause {
    /// What a template says.
    Template(TemplateId),
    /// A status.
    Status(StatusId),
    /// The host, for a named reason.
    Host(ReasonId),
    /// A hook.
    Hook(HookId),
}

/// One line of an amount's account.
#[doc(alias("damage breakdown", "combat log"))]
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
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
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum LedgerStep {
    /// A step of the ruleset.
    Step(Step),
    /// A step of the ruleset for healing.
    Heal(HealStep),
    /// What an order named, in place of the base step.
    Named,
    /// Raised by the charge that the swing was released with.
    Charge,
    /// Times the strength of the status.
    Strength,
    /// Once for each time that the status counts.
    Pile,
    /// What came below nothing heals.
    Absorption,
    /// A share that someone else takes.
    Transferred,
    /// Kept from being lethal.
    PreventsDeath,
    /// Cut down to the health that was left.
    Health,
    /// Cut down to what was missing of the maximum.
    Maximum,
    /// By the speed at which hitbox and part closed in.
    Speed,
    /// A reading that a rule adds.
    Reading,
    /// Kept within the floor and the cap of the rule's amount.
    AmountLimits,
}

impl LedgerStep {
    /// All lines that are no step of the ruleset.
    pub const BESIDE: [LedgerStep; 12] = [
        LedgerStep::Named,
        LedgerStep::Charge,
        LedgerStep::Strength,
        LedgerStep::Pile,
        LedgerStep::Absorption,
        LedgerStep::Transferred,
        LedgerStep::PreventsDeath,
        LedgerStep::Health,
        LedgerStep::Maximum,
        LedgerStep::Speed,
        LedgerStep::Reading,
        LedgerStep::AmountLimits,
    ];

    /// The line's name in the feed; the host's own steps have names of their own ([`crate::Ruleset::own_step_name`]).
    pub const fn name(self) -> &'static str {
        match self {
            LedgerStep::Step(step) => step.name(),
            LedgerStep::Heal(step) => step.name(),
            LedgerStep::Named => "named",
            LedgerStep::Charge => "charge",
            LedgerStep::Strength => "strength",
            LedgerStep::Pile => "stacks",
            LedgerStep::Absorption => "absorption",
            LedgerStep::Transferred => "transferred",
            LedgerStep::PreventsDeath => "death-prevented",
            LedgerStep::Health => "health",
            LedgerStep::Maximum => "maximum",
            LedgerStep::Speed => "speed",
            LedgerStep::Reading => "reading",
            LedgerStep::AmountLimits => "amount-limits",
        }
    }

    /// The host's own step, if it is one.
    pub const fn own(self) -> Option<OwnStepId> {
        match self {
            LedgerStep::Step(Step::Own(own)) | LedgerStep::Heal(HealStep::Own(own)) => Some(own),
            _ => None,
        }
    }
}

/// By what a line of a ledger changed the amount.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
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
    /// A stat of one side.
    Stat {
        /// Whose.
        of: Role,
        /// Which.
        stat: StatId,
        /// What it is.
        value: Fixed,
        /// What each point of it adds, in points or as a share.
        by: Modifier,
    },
    /// A critical blow.
    Critical {
        /// The chance that it had.
        chance: Fixed,
        /// What it multiplies by.
        times: Fixed,
    },
    /// Changed by a template, a status or an intercept. A share is of the amount as it was before all shares of the step.
    Changed {
        /// By what.
        cause: Cause,
        /// By how much.
        by: Modifier,
        /// The reason that an intercept gives for it.
        note: Option<ReasonId>,
    },
    /// The share of a relation between teams.
    Relation(Relation, Fixed),
    /// The share that a guard takes.
    Guard(StatusId, Fixed),
    /// Armour by a stat: flat, or on a curve by its half.
    Armour {
        /// The stat.
        stat: StatId,
        /// What it is.
        value: Fixed,
        /// How much of it halves the amount, for armour on a curve.
        half: Option<Fixed>,
    },
    /// What is left at a distance, in metres.
    Distance {
        /// How far.
        metres: Fixed,
        /// The share that is left.
        share: Fixed,
    },
    /// The host gave no code for its step.
    NoCode,
    /// Raised to the floor.
    Floor(i64),
    /// Cut to the cap.
    Cap(i64),
    /// What a shield has left.
    Shield(ShieldId, i64),
    /// The status by which someone else takes a share.
    Transferred(StatusId, CombatantId),
    /// What kept the target alive.
    PreventsDeath(Cause),
    /// The health that was left, or was missing.
    Left(i64),
    /// The number reached the limit of what it can hold and was kept there.
    Saturated,
    /// The speed at which hitbox and part closed in, in metres a second.
    Speed {
        /// How fast.
        speed: Fixed,
        /// The share that it deals.
        share: Fixed,
    },
    /// A reading of a rule.
    Reading {
        /// What was read.
        of: Reading,
        /// What was found when the fact was heard.
        value: Fixed,
        /// What it is multiplied by.
        times: Fixed,
    },
    /// Raised or cut to the limits of an attack, a template or a status.
    Limited {
        /// Whose limits.
        by: LimitOf,
        /// To so many points.
        points: i64,
    },
}

/// What has limits of its own.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum LimitOf {
    /// The attack that strikes.
    Attack(AttackId),
    /// The status that pulses, or that the target bears.
    Status(StatusId),
    /// The template of the target.
    Template(TemplateId),
}
