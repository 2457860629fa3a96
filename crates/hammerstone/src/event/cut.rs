//! Where a limit on what may follow within a tick cut something off.

use crate::ids::*;
use crate::named::named;
use crate::ruleset::def::{Trigger, When};

use super::{Cause, Echo, Listener};

/// A place at which reactions were cut. Each has one `encounter.cut` a tick, with a count.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum CutAt {
    /// Orders of a rule or a hook that heard a topic. A rule that acts after a delay, or was ordered to fire, has no topic.
    Heard(Listener, Option<TopicId>),
    /// A status that is given on an occasion.
    Given(StatusId, Trigger),
    /// A status that is given when a gauge is empty or full.
    AtEnd(StatusId),
    /// What would have kept a target alive. The death stands.
    Spared(Cause),
    /// Damage that a status passes on to another combatant.
    PassedOn(StatusId, Echo),
    /// An attack that another one starts, on an occasion.
    Child(AttackId, When),
    /// A projectile of an attack that would have flown back.
    Deflected(AttackId),
}

named! {
    /// Which limit of the ruleset cut something off ([`crate::RulesetBuilder::cascade_limit`]).
    pub enum CutBy {
        /// Reactions to reactions lay too deep.
        Depth = "depth",
        /// One root had led to as many reactions as it may.
        Root = "root",
        /// The reactions of the whole tick were as many as they may be.
        Tick = "tick",
        /// Too many attacks had started each other ([`crate::RulesetBuilder::child_limit`]).
        Links = "links",
        /// As many delayed reactions wait as may.
        Waiting = "waiting",
    }
}
