//! Events, in the order in which they happen: the table that declares them, and what their fields hold.

mod counts;
mod cut;
mod fact;
mod facts;
mod field;
mod gate;
mod key;
mod ledger;
mod same;
mod shown;
mod table;
mod why;

pub use crate::terms::{HostValue, Text, ValueSort};
pub use counts::Counts;
pub use cut::{CutAt, CutBy};
pub use fact::{Declined, Delivery, Fact, Facts, Guarded, Link, Listener, Loss, NotFired, TickFacts};
pub(crate) use facts::Published;
pub use facts::{Effect, Payload, Stage, TopicInfo};
pub use field::{CountsSoFar, Crossing, FieldInfo, FieldType, FieldValue, Tag};
pub use gate::{Gate, GatePassed, Operand};
pub use key::FactKey;
pub use ledger::{Cause, LedgerLine, LedgerStep, LimitOf, Note};
pub use shown::Shown;
pub use table::*;
pub use why::{BarredBy, Echo, GaugeWhy, HealthChange, Moved, Range, SwingEnd, Via, Why};

use crate::ids::{CombatantId, DamageTypeId, TopicId};

fn combatants_in(values: &[HostValue; 4]) -> impl Iterator<Item = CombatantId> {
    values.iter().filter_map(|value| if let HostValue::Who(who) = *value { Some(who) } else { None })
}

/// The id of a topic that every ruleset has, by its path.
pub(crate) fn fixed_paths() -> impl Iterator<Item = &'static str> {
    TOPICS[..usize::from(topics::COUNT)].iter().map(|info| info.path)
}

/// What is known of a topic among `damage_types` many of damage.
pub(crate) fn info_of(topic: TopicId, damage_types: usize) -> &'static TopicInfo {
    let fixed = usize::from(topics::COUNT);
    let place = topic.index();
    let place = if place < fixed + damage_types { place.min(fixed) } else { fixed + 1 };
    &TOPICS[place]
}

/// The topic of damage of `damage type`: `damage.dealt.TYPE`.
pub(crate) fn damage_topic(damage_type: DamageTypeId) -> TopicId {
    TopicId(topics::COUNT + damage_type.0)
}
