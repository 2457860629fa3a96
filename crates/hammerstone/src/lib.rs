#![doc = include_str!("../README.md")]
#![warn(clippy::print_stdout, clippy::print_stderr)]

mod budget;
pub mod channel;
mod detect;
mod encounter;
pub mod event;
mod execute;
mod fixed;
mod flow;
mod forms;
mod gauges;
pub mod geometry;
mod hooks;
mod hub;
mod ids;
mod lifecycle;
mod log;
mod named;
mod orders;
mod resolve;
mod rolls;
mod ruleset;
mod scene;
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
    BarredBy, Cause, CutAt, CutBy, Declined, Delivery, Echo, Event, Fact, Facts, Gate, GatePassed,
    HealthChange, HostValue, LedgerLine, LedgerStep, Link, Listener, Note, Operand, Range, SwingEnd,
    ValueSort, Via, Why,
};
pub use fixed::Fixed;
pub use geometry::{Axis, Obstacle, Pose, Shape};
pub use hooks::{
    DeathAttempt, Heard, HitContext, HookSort, Hooks, Host, Lent, Listen, StepCall, Terms, Topical, Verdict,
};
pub use ids::{
    ApplicationId, AttackId, CombatantId, ContactId, CounterId, DamageTypeId, FamilyId, FlagId, HookId,
    HostTopicId, LayerId, LineId, ObstacleId, OrderId, OutcomeId, OwnStepId, ReasonId, RuleId, ScoreId,
    ShieldId, SpotId, StatId, StatusId, SubscriptionId, SwingId, TagId, TeamId, TemplateId, ThresholdId,
    TopicId, ValueId, WaveId,
};
pub use orders::{
    Definition, Marker, Order, OrderKind, Orders, Quantity, Refusal, SwingTrait, Touch, Unsubscribe,
};
pub use resolve::{Luck, Preview, PreviewDamage};
#[cfg(feature = "serde")]
pub use ruleset::BytesError;
pub use ruleset::{
    AmountChange, Armour, Attack, Away, Beam, Broken, Charge, Clash, Condition, Count, Credit, Critical,
    Damage, Direction, FallOff, Finding, Findings, FirstPulse, Form, FormKind, Grant, Group, Growth, Guard,
    HealStep, HitStop, IfItKills, Keep, Knockback, Limit, Lives, Modifier, Overheal, Part, Place, Policy,
    Prefer, PreventsDeath, Problem, Projectile, Pulse, Reaction, Relation, Relations, ReturnTo, Role,
    Rounding, Rule, RuleValue, Ruleset, RulesetBuilder, Scaling, ScoreValue, SharedDamage, Sharing, Shield,
    Side, Stacking, Stagger, StatChange, Status, Step, Strength, Target, Template, Tie, Timings, Trigger,
    Waves, When,
};
pub use scene::{Scene, SceneHitbox, ScenePart};
pub use sheet::StatAccount;
pub use state::{Counts, Life};
pub use view::{ActiveStatus, FlyingBody, View};
