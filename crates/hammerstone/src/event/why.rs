//! Reasons and means: what the fields of events say.

use crate::ids::*;
use crate::named::named;

named! {
    /// Why a swing ended.
    pub enum SwingEnd {
        /// Its time was up.
        Done = "done",
        /// It was cancelled: by an order, because its attacker left, or because the encounter ended.
        Cancelled = "cancelled",
        /// Its attacker died.
        Died = "died",
        /// It struck as many targets as it can.
        Spent = "spent",
        /// It met an obstacle.
        Obstacle = "obstacle",
        /// It was deflected.
        Deflected = "deflected",
        /// It was parried.
        Parried = "parried",
        /// It clashed with another.
        Clashed = "clashed",
        /// Its body's time was up, or a marker never came.
        Expired = "expired",
        /// The encounter began anew.
        Reset = "reset",
        /// The ruleset was tuned, and its time was up under the new one, or it is put together otherwise.
        Adopted = "adopted",
    }
}

named! {
    /// Which of two that touch moved in the tick.
    pub enum Moved {
        /// Neither: they were put together, or a window opened.
        Neither = "neither",
        /// The hitbox.
        Attacker = "attacker",
        /// The target.
        Target = "target",
        /// Both.
        Both = "both",
    }
}

named! {
    /// Why something that lasted came to its end, or why someone left.
    pub enum Why {
        /// By order.
        Ordered = "ordered",
        /// Its bearer died, or its corpse time was over.
        Died = "died",
        /// Its bearer went away.
        Away = "away",
        /// Its bearer was removed.
        Removed = "removed",
        /// Its time was up.
        Done = "done",
        /// Its swing ended.
        SwingEnded = "ended",
        /// The encounter ended.
        Over = "over",
        /// The hitboxes came apart.
        Apart = "apart",
        /// Its guard or its shield was broken.
        Broken = "broken",
        /// It was used up.
        Spent = "spent",
        /// Another status lifted it.
        Superseded = "superseded",
        /// The encounter began anew.
        Reset = "reset",
        /// One who was down was lifted up again.
        LiftedUp = "lifted-up",
    }
}

/// How damage or healing came about.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Via {
    /// A blow of an attack.
    Attack(AttackId),
    /// A pulse of a status.
    Status(StatusId),
    /// The host, for a named reason.
    Host(ReasonId),
    /// A rule.
    Rule(RuleId),
}

named! {
    /// Why health changed.
    pub enum HealthChange {
        /// Damage.
        Damage = "damage",
        /// Healing.
        Heal = "heal",
        /// A change of its maximum.
        Maximum = "maximum",
        /// A return to the fight.
        Return = "return",
        /// A change of another who shares the same pool.
        Pool = "pool",
    }
}

named! {
    /// Why a gauge changed.
    pub enum GaugeWhy {
        /// A hit drained it.
        Hit = "hit",
        /// An attack cost it.
        Cost = "cost",
        /// It filled or ran out by itself.
        Refill = "refill",
        /// An order or a rule changed it.
        Ordered = "ordered",
        /// It turned, being empty or full.
        Turned = "turned",
        /// Its maximum changed.
        Maximum = "maximum",
        /// A life began.
        Life = "life",
    }
}

named! {
    /// Damage that goes on from one to another. It never goes on a second time.
    pub enum Echo {
        /// Back to the one who dealt it.
        Reflected = "reflected",
        /// To the one who takes a share for its first target.
        Transferred = "transferred",
    }
}

/// Why a status was not applied.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum BarredBy {
    /// Its bearer carries tags that bar it: bit `n` for tag number `n`.
    Tags(u64),
    /// The one that is there is as strong.
    Weaker,
}

/// Which lines of a tick's tables belong to a fact; see [`crate::event::Facts`].
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Range {
    /// The first line.
    pub start: u32,
    /// The line after the last.
    pub end: u32,
}

impl Range {
    pub(crate) fn of<T>(self, table: &[T]) -> &[T] {
        table.get(self.start as usize..self.end as usize).unwrap_or(&[])
    }
}
