#![doc = include_str!("../README.md")]
#![warn(clippy::print_stdout, clippy::print_stderr)]

mod budget;
pub mod channel;
mod detect;
mod encounter;
mod event;
mod fixed;
mod flow;
pub mod geometry;
mod hooks;
mod ids;
mod lifecycle;
mod listeners;
mod lookup;
mod orders;
mod resolve;
mod rolls;
mod ruleset;
mod save;
mod scene;
mod sheet;
mod state;
mod statuses;
mod swing;
mod tick;
pub mod topic;
mod view;
mod watch;
mod work;

#[cfg(feature = "audit")]
pub mod audit;

pub use detect::BeamLine;
pub use encounter::{Encounter, Summary, TickError};
pub use event::{
    Barred, Cause, CutAt, CutBy, Declined, Delivery, Echo, Event, Fact, Facts, Gate, HealthChange, HostValue,
    LedgerLine, LedgerStep, Link, Listener, Means, Note, Operand, Range, SwingEnd, ValueSort, Why,
};
pub use fixed::Fixed;
pub use geometry::{Axis, Obstacle, Pose, Shape};
pub use hooks::{Attempt, Heard, Hooks, Lethal, Listen, StepCall, Terms, Topical, Verdict};
pub use ids::{
    ApplicationId, AttackId, CastId, CombatantId, ContactId, CounterId, FamilyId, FlagId, HookId,
    HostTopicId, KindId, LayerId, LineId, ObstacleId, OrderId, OutcomeId, OwnStepId, ReasonId, RuleId,
    ScoreId, ShieldId, SpotId, StatId, StatusId, SubscriptionId, SwingId, TagId, TeamId, ThresholdId,
    TopicId, ValueId, WaveId,
};
pub use orders::{Ending, Marker, Order, Orders, Refusal, Touch};
pub use resolve::{Luck, Preview, PreviewKind};
pub use ruleset::{
    Action, Again, AmountChange, Armour, Attack, Away, Beam, Beat, Broken, By, Cast, Charge, Clash,
    Condition, Count, Credit, Critical, Draw, FallOff, Finding, Findings, FirstBeat, Flow, Form, Gift, Group,
    Growth, Guard, Harm, HealStep, IfItKills, Keep, Limit, Lives, Overheal, Part, Party, Passing, Place,
    Policy, Prefer, Problem, Push, Relation, Relations, Reprieve, ReturnTo, Rounding, Rule, RuleValue, Rules,
    Ruleset, RulesetBuilder, Sharing, Shield, Side, Stagger, StatChange, Status, Step, Stop, Strength, Throw,
    Tie, Timings, Upon, Waves, When, Whom, Worth,
};
pub use save::{RestoreError, Saved};
pub use scene::{Scene, ScenePart, SceneVolume};
pub use sheet::StatAccount;
pub use state::{Counts, Life};
pub use view::{Borne, FlyingBody, View};
