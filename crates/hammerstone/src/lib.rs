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
mod sheet;
mod state;
mod statuses;
mod swing;
mod tick;
pub mod topic;
mod view;
mod work;

#[cfg(feature = "audit")]
pub mod audit;

pub use detect::BeamLine;
pub use encounter::{Encounter, RestoreError, Saved, Summary, TickError};
pub use event::{
    Barred, Cause, Echo, Event, Fact, Facts, Gate, HealthChange, LedgerLine, LedgerStep, Link, Means, Note,
    Operand, Range, SwingEnd, Why,
};
pub use fixed::Fixed;
pub use geometry::{Axis, Obstacle, Pose, Shape};
pub use hooks::{Attempt, Heard, Hooks, Lethal, Listen, StepCall, Terms, Topical, Verdict};
pub use ids::{
    ApplicationId, AttackId, CastId, CombatantId, ContactId, FamilyId, HookId, KindId, LayerId, ObstacleId,
    OrderId, OutcomeId, OwnStepId, ReasonId, ShieldId, StatId, StatusId, SwingId, TagId, TeamId, TopicId,
};
pub use orders::{Marker, Order, Orders, Refusal, Touch};
pub use resolve::{Luck, Preview, PreviewKind};
pub use ruleset::{
    Again, AmountChange, Armour, Attack, Away, Beam, Beat, Broken, By, Cast, Charge, Clash, Critical, Draw,
    FallOff, Finding, Findings, FirstBeat, Flow, Form, Gift, Guard, Harm, HealStep, Keep, Overheal, Part,
    Party, Passing, Place, Policy, Prefer, Problem, Push, Relation, Relations, Reprieve, Rounding, Rules,
    Ruleset, RulesetBuilder, Sharing, Shield, Side, Stagger, StatChange, Status, Step, Stop, Strength, Throw,
    Tie, Timings, Upon, When,
};
pub use sheet::StatAccount;
pub use state::{Counts, Life};
pub use view::{Borne, FlyingBody, View};
