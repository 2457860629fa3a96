#![doc = include_str!("../README.md")]
#![warn(clippy::print_stdout, clippy::print_stderr)]

mod detect;
mod encounter;
mod event;
mod fixed;
pub mod geometry;
mod hooks;
mod ids;
mod lifecycle;
mod orders;
mod resolve;
mod rolls;
mod ruleset;
mod state;
mod swing;
mod tick;
pub mod topic;
mod work;

#[cfg(feature = "audit")]
pub mod audit;

pub use detect::BeamLine;
pub use encounter::{Encounter, FlyingBody, RestoreError, Saved, Summary, TickError, View};
pub use event::{
    Event, Fact, Facts, Gate, HealthChange, LedgerLine, LedgerStep, Link, Means, Note, Operand, Range,
    SwingEnd, Why,
};
pub use fixed::Fixed;
pub use geometry::{Axis, Obstacle, Pose, Shape};
pub use hooks::{Attempt, Heard, Hooks, Listen, Topical, Verdict};
pub use ids::{
    ApplicationId, AttackId, CastId, CombatantId, ContactId, FamilyId, HookId, KindId, LayerId, ObstacleId,
    OrderId, OutcomeId, ReasonId, StatusId, SwingId, TagId, TeamId, TopicId,
};
pub use orders::{Marker, Order, Orders, Refusal, Touch};
pub use ruleset::{
    Attack, Beam, Beat, Cast, Charge, Clash, Finding, Findings, FirstBeat, Form, Harm, Part, Place, Policy,
    Prefer, Problem, Relation, Relations, Rounding, Rules, Ruleset, RulesetBuilder, Sharing, Side, Status,
    Step, Throw, Tie, Timings, When,
};
pub use state::{Counts, Life};
