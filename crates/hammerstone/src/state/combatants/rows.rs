//! What lists of combatants hold.

use super::*;

/// Who damaged a combatant, and when last.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Contributor {
    pub(crate) who: CombatantId,
    pub(crate) tick: u32,
}

/// Points of a shield that someone has.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Pool {
    pub(crate) shield: ShieldId,
    /// The status that brought them, if one did.
    pub(crate) application: Option<ApplicationId>,
    pub(crate) points: i32,
}

/// What the host changes in a stat, for a reason.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct HostChange {
    pub(crate) stat: StatId,
    pub(crate) reason: ReasonId,
    pub(crate) by: Modifier,
}

/// What becomes of one who has several lives.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Afterlife {
    /// Where it joined.
    pub(crate) home: Pose,
    /// Lives that are left after this one.
    pub(crate) spare: u32,
    /// The tick in which it returns, while it is dead or away and will.
    pub(crate) back: Option<u32>,
}
