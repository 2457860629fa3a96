//! Reasons and means: what the fields of events say.

use crate::ids::*;

/// Why a swing ended.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum SwingEnd {
    /// Its time was up.
    Done,
    /// It was cancelled: by an order, because its attacker left, or because the encounter ended.
    Cancelled,
    /// Its attacker died.
    Died,
    /// It struck as many targets as it can.
    Spent,
    /// It met an obstacle.
    Obstacle,
    /// It was deflected.
    Deflected,
    /// It clashed with another.
    Clashed,
    /// Its body's time was up, or a marker never came.
    Expired,
    /// The encounter began anew.
    Reset,
}

impl SwingEnd {
    /// The reason's name in the feed.
    pub const fn name(self) -> &'static str {
        match self {
            SwingEnd::Done => "done",
            SwingEnd::Cancelled => "cancelled",
            SwingEnd::Died => "died",
            SwingEnd::Spent => "spent",
            SwingEnd::Obstacle => "obstacle",
            SwingEnd::Deflected => "deflected",
            SwingEnd::Clashed => "clashed",
            SwingEnd::Expired => "expired",
            SwingEnd::Reset => "reset",
        }
    }
}

/// Why something that lasted came to its end, or why somebody left.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Why {
    /// By order.
    Ordered,
    /// Its bearer died, or its corpse time was over.
    Died,
    /// Its bearer went away.
    Away,
    /// Its bearer was removed.
    Removed,
    /// Its time was up.
    Done,
    /// Its swing ended.
    SwingEnded,
    /// The encounter ended.
    Over,
    /// The hitboxes came apart.
    Apart,
    /// Its guard or its shield was broken.
    Broken,
    /// It was used up.
    Spent,
    /// Another status lifted it.
    Superseded,
    /// The encounter began anew.
    Reset,
    /// One who was down was lifted up again.
    LiftedUp,
}

impl Why {
    /// The reason's name in the feed.
    pub const fn name(self) -> &'static str {
        match self {
            Why::Ordered => "ordered",
            Why::Died => "died",
            Why::Away => "away",
            Why::Removed => "removed",
            Why::Done => "done",
            Why::SwingEnded => "ended",
            Why::Over => "over",
            Why::Apart => "apart",
            Why::Broken => "broken",
            Why::Spent => "spent",
            Why::Superseded => "superseded",
            Why::Reset => "reset",
            Why::LiftedUp => "lifted-up",
        }
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
}

/// Why health changed.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum HealthChange {
    /// Damage.
    Damage,
    /// Healing.
    Heal,
    /// A change of its maximum.
    Maximum,
    /// A return to the fight.
    Return,
}

impl HealthChange {
    /// The reason's name in the feed.
    pub const fn name(self) -> &'static str {
        match self {
            HealthChange::Damage => "damage",
            HealthChange::Heal => "heal",
            HealthChange::Maximum => "maximum",
            HealthChange::Return => "return",
        }
    }
}

/// Damage that goes on from one to another. It never goes on a second time.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Echo {
    /// Back to whoever dealt it.
    Reflected,
    /// To whoever takes a share for its first target.
    Transferred,
}

impl Echo {
    /// The name in the feed.
    pub const fn name(self) -> &'static str {
        match self {
            Echo::Reflected => "reflected",
            Echo::Transferred => "transferred",
        }
    }
}

/// Why a status was not applied.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum BarredBy {
    /// Its bearer carries tags that bar it: bit `n` for tag number `n`.
    Tags(u64),
    /// What is borne is as strong.
    Weaker,
}

/// Which lines of a tick's tables belong to a fact; see [`crate::Facts`].
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
