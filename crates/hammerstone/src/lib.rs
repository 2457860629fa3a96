#![doc = include_str!("../README.md")]
#![warn(clippy::print_stdout, clippy::print_stderr)]

mod encounter;
mod event;
mod fixed;
mod geometry;
mod hooks;
mod ids;
mod lifecycle;
mod orders;
mod resolve;
mod rolls;
mod ruleset;
mod state;
mod tick;
pub mod topic;
mod work;

#[cfg(feature = "audit")]
pub mod audit;

pub use encounter::{Encounter, RestoreError, Saved, Summary, TickError, View};
pub use event::{
    Event, Fact, Facts, Gate, HealthChange, LedgerLine, LedgerStep, Link, Means, Note, Operand, Range,
    SwingEnd, Why,
};
pub use fixed::Fixed;
pub use geometry::{Axis, Pose, Shape};
pub use hooks::{Heard, Hooks, Listen, Topical};
pub use ids::{
    ApplicationId, AttackId, CastId, CombatantId, ContactId, FamilyId, HookId, KindId, LayerId, OrderId,
    OutcomeId, ReasonId, StatusId, SwingId, TagId, TeamId, TopicId,
};
pub use orders::{Order, Orders, Refusal, Touch};
pub use ruleset::{
    Attack, Beat, Cast, Finding, Findings, FirstBeat, Harm, Part, Place, Policy, Problem, Relation,
    Relations, Rounding, Rules, Ruleset, RulesetBuilder, Status, Step,
};
pub use state::{Counts, Life};
