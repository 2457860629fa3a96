#![doc = include_str!("../README.md")]
#![warn(clippy::print_stdout, clippy::print_stderr)]

mod budget;
pub mod channel;
mod checksum;
mod columns;
mod conditions;
mod detect;
mod encounter;
pub mod event;
mod execute;
mod fixed;
pub mod flow;
mod forms;
mod gauges;
pub mod geometry;
pub mod hall;
mod holds;
pub mod hooks;
mod hub;
pub mod ids;
pub mod level;
mod lifecycle;
mod log;
mod named;
pub mod orders;
mod resolve;
pub mod rollback;
mod rolls;
mod ruleset;
pub mod scene;
mod sheet;
mod side_by_side;
mod spans;
mod state;
mod statuses;
mod swing;
mod tempo;
mod terms;
mod tick;
pub mod topic;
mod view;
#[cfg(feature = "serde")]
mod wire;
mod work;

#[cfg(feature = "audit")]
pub mod audit;

#[cfg(feature = "serde")]
pub use encounter::{AdoptError, RemovedName, SavedBytesError, StateDifference};
pub use encounter::{Encounter, RestoreError, Restored, Saved, Summary, TickError};
pub use event::Counts;
pub use fixed::{Fixed, NotExact};
pub use log::Load;
pub use ruleset::{Findings, Ruleset, RulesetBuilder};
pub use terms::Life;
pub use view::{BodyView, View};

/// Attacks: their forms, when and how often they strike, and what answers a hit.
pub mod attack {
    pub use crate::ruleset::{
        Attack, Away, Beam, Charge, Clash, ClosingSpeed, Critical, Damage, FallOff, Form, FormKind, Grip,
        HitStop, Knockback, Policy, Prefer, Projectile, Scaling, Sharing, Side, Tie, Timings, When,
    };
    pub use crate::view::{Phase, Progress, SwingView};
}

/// Statuses: how they stack, pulse, protect and end, and when they are given.
pub mod status {
    pub use crate::ruleset::{
        FirstPulse, Grant, Guard, Parry, PreventsDeath, Pulse, SharedDamage, Stacking, Status, Strength,
        Trigger,
    };
    pub use crate::view::{ActiveStatus, Progress};
}

/// Templates: what combatants of one sort have in common, with their parts and lives.
pub mod template {
    pub use crate::ruleset::{Broken, IfItKills, Lives, Part, ReturnTo, Stagger, Template};
}

/// Amounts: the steps from a base to whole points, stats and what changes them, shields, and previews.
pub mod amount {
    pub use crate::resolve::{Luck, Preview, PreviewDamage};
    pub use crate::ruleset::{
        AmountChange, Armour, Direction, HealStep, Keep, Limits, Modifier, Overheal, Role, Rounding, Shield,
        StatChange, Step,
    };
    pub use crate::sheet::StatAccount;
}

/// Gauges beside health, and what attacks cost.
pub mod gauge {
    pub use crate::ruleset::{
        AtEnd, Cancel, CancelOn, Cooldown, Cost, Gauge, GaugeChange, Pool, Refill, Uses,
    };
    pub use crate::terms::NEVER;
}

/// How teams stand to each other.
pub mod team {
    pub use crate::ruleset::{Relation, Relations};
}

/// What can be wrong with a ruleset, and with its bytes.
pub mod findings {
    #[cfg(feature = "serde")]
    pub use crate::ruleset::BytesError;
    pub use crate::ruleset::{Finding, Place, Problem};
}

/// What most games use, for one line at the top of a file. Events, axes and numbers have names that a game may have, too, and stay in
/// their modules.
///
/// ```
/// use hammerstone::prelude::*;
/// ```
pub mod prelude {
    pub use crate::attack::{Attack, Policy};
    pub use crate::event::Facts;
    /// For the methods of facts.
    pub use crate::event::Payload as _;
    pub use crate::geometry::{Pose, Shape};
    pub use crate::hooks::{Heard, Hooks, Host, Listen};
    pub use crate::ids::{AttackId, CombatantId, DamageTypeId, StatusId, SwingId, TeamId, TemplateId};
    pub use crate::orders::{Order, Orders};
    pub use crate::status::Status;
    pub use crate::template::{Part, Template};
    pub use crate::topic;
    pub use crate::{Encounter, Life, Ruleset, RulesetBuilder, TickError, View};
}
