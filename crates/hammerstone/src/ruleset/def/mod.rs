//! What is authored, as it was written: plain data, which nothing changes once it is defined.

mod answer;
mod attack;
mod filter;
mod flow;
mod form;
mod gauge;
mod grip;
mod limits;
mod line;
mod path;
mod pool;
mod reading;
mod rule;
mod stat;
mod status;
mod steps;
mod teams;
mod template;

pub use answer::{Away, ClosingSpeed, FallOff, HitStop, Knockback, Stagger};
pub use attack::{Attack, Damage, Policy};
pub(crate) use attack::{Chance, Given};
pub use filter::Filter;
pub use flow::{Growth, IfItKills, Lives, ReturnTo, WaveLeader, Waves};
pub(crate) use flow::{MOST_IN_A_WAVE, Spot, Threshold};
pub(crate) use form::Within;
pub use form::{Beam, Charge, Clash, Form, FormKind, Prefer, Projectile, Sharing, Side, Tie, When};
pub(crate) use gauge::GaugeMaximum;
pub use gauge::{AtEnd, Cancel, CancelOn, Cooldown, Cost, Gauge, GaugeChange, Refill, Uses};
pub use grip::Grip;
pub use limits::Limits;
pub use line::{Audience, Line};
pub(crate) use path::Path;
pub use pool::Pool;
pub use reading::{Amount, OF_A_HIT, Party, Portion, Reading, Term};
pub use rule::{
    Comparison, Condition, Count, Counting, Credit, Crossings, Dealing, Group, Healing, Held, Limit,
    Reaction, Rule, RuleValue, ScoreValue, SwingPhase, Tactic, Target,
};
pub(crate) use rule::{DEEPEST, On};
pub(crate) use stat::Stat;
pub use stat::{AmountChange, Direction, Modifier, Role, Scaling, StatChange};
pub use status::{
    FirstPulse, Grant, Guard, Parry, PreventsDeath, Pulse, SharedDamage, Stacking, Status, Strength, Trigger,
};
pub use steps::{Armour, Critical, HealStep, Keep, Overheal, Rounding, Shield, Step};
pub use teams::{Relation, Relations};
pub use template::{Broken, Part, Template};

use std::hash::{Hash, Hasher};

use crate::Fixed;
use crate::geometry::Axis;
use crate::ids::*;
use crate::terms::HostTopic;

/// Everything that was defined, in the order of ids. From this alone a ruleset is made, and its fingerprint and bytes are of this.
#[derive(Clone, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Definitions {
    pub(crate) rate: u32,
    pub(crate) up: Axis,
    pub(crate) damage_types: Vec<String>,
    pub(crate) teams: Vec<String>,
    pub(crate) layers: Vec<String>,
    pub(crate) tags: Vec<String>,
    pub(crate) reasons: Vec<String>,
    pub(crate) outcomes: Vec<String>,
    pub(crate) attacks: Vec<Attack>,
    pub(crate) templates: Vec<Template>,
    pub(crate) statuses: Vec<Status>,
    pub(crate) stats: Vec<Stat>,
    pub(crate) shields: Vec<Shield>,
    pub(crate) gauges: Vec<Gauge>,
    pub(crate) pools: Vec<Pool>,
    pub(crate) filters: Vec<Filter>,
    pub(crate) own_steps: Vec<String>,
    pub(crate) steps: Vec<Step>,
    pub(crate) heal_steps: Vec<HealStep>,
    pub(crate) critical: Option<Critical>,
    /// The share of damage, by relation.
    pub(crate) relation_shares: [Fixed; 4],
    pub(crate) armour: Armour,
    pub(crate) overheal: Option<Overheal>,
    /// A stat whose whole points are added to everyone's maximum of health, and what health keeps when that changes.
    pub(crate) maximum: Option<(StatId, Keep)>,
    /// Damage without a source is credited to the one who damaged last within so many ticks.
    pub(crate) death_credit: Option<u32>,
    /// By how many ticks stops may put off the end of a swing in all.
    pub(crate) hit_stop_limit: u32,
    /// The stat that is the speed of swings, and that of moves.
    pub(crate) attack_speed: Option<StatId>,
    pub(crate) movement: Option<StatId>,
    pub(crate) floor: i64,
    pub(crate) cap: i64,
    pub(crate) rounding: Rounding,
    pub(crate) assist_window: u32,
    pub(crate) cascade_depth: u16,
    pub(crate) cascade_per_root: u32,
    pub(crate) cascade_per_tick: u32,
    pub(crate) move_limit: Metres,
    pub(crate) both_land: bool,
    pub(crate) rewind: Rewind,
    pub(crate) child_limit: u16,
    pub(crate) host_topics: Vec<HostTopic>,
    pub(crate) flags: Vec<String>,
    pub(crate) counters: Vec<String>,
    /// Flags and counters that each combatant has.
    pub(crate) combatant_flags: Vec<String>,
    pub(crate) combatant_counters: Vec<String>,
    pub(crate) scores: Vec<String>,
    pub(crate) values: Vec<String>,
    pub(crate) thresholds: Vec<String>,
    pub(crate) lines: Vec<Line>,
    pub(crate) spots: Vec<Spot>,
    pub(crate) obstacle_names: Vec<String>,
    pub(crate) words: Vec<String>,
    pub(crate) waves: Vec<Waves>,
    pub(crate) rule_book: Vec<Rule>,
    pub(crate) choices: Vec<String>,
    /// How teams stand to each other where that was said.
    pub(crate) stances: Vec<(TeamId, TeamId, Relation)>,
}

/// By how many ticks swings may be rewound at most.
pub(crate) const MOST_REWOUND: u32 = 1000;

/// By how many ticks swings may be rewound. None adds nothing to the fingerprint, so that a ruleset without it has the one that it had before
/// there was such a thing.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Rewind(pub(crate) u32);

impl Hash for Rewind {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        if self.0 > 0 {
            self.0.hash(hasher);
        }
    }
}

/// A length in metres that is compared by its bits.
#[derive(Clone, Copy, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Metres(pub(crate) f32);

impl Hash for Metres {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        self.0.to_bits().hash(hasher);
    }
}
