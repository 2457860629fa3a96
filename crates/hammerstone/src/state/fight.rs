//! The rows of the state that are not combatants.

use super::Chain;
use crate::event::{Gate, SwingEnd};
use crate::hooks::Listen;
use crate::ids::*;
use crate::orders::Order;

/// An order that waits to be carried out.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Pending {
    pub(crate) order: Order,
    pub(crate) number: OrderId,
    /// The fact that a hook heard, and which hook, when it gave the order.
    pub(crate) heard: Option<(u64, HookId)>,
    pub(crate) depth: u16,
}

/// One activation of an attack.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Swing {
    pub(crate) id: SwingId,
    pub(crate) attacker: CombatantId,
    pub(crate) attack: AttackId,
    /// The attacker's team when the swing began.
    pub(crate) team: TeamId,
    /// Which start of this attack by this attacker it is, from 1.
    pub(crate) start: u32,
    /// Ticks since the start when the present tick is over.
    pub(crate) clock: u32,
    /// The open window, counted from 1; 0 while none is open.
    pub(crate) window: u16,
    pub(crate) ended: Option<SwingEnd>,
    /// The struck list.
    pub(crate) marks: Chain,
    pub(crate) contacts: Chain,
}

/// What a swing remembers of one target in one of its lives.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Mark {
    pub(crate) target: CombatantId,
    pub(crate) life: u32,
    /// Hits in the whole swing.
    pub(crate) hits: u32,
    /// Hits in the window that was struck last, and which that was.
    pub(crate) hits_in_window: u32,
    pub(crate) window: u16,
    /// The gates whose refusal has been published: bit `n` for the gate at place `n` of their order.
    pub(crate) refused: u16,
}

/// A volume of a swing that touches a target.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Contact {
    pub(crate) id: ContactId,
    pub(crate) volume: u16,
    pub(crate) target: CombatantId,
    pub(crate) part: u16,
    /// The tick in which the volumes last touched.
    pub(crate) seen: u32,
}

/// One application of a status.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Application {
    pub(crate) id: ApplicationId,
    pub(crate) subject: CombatantId,
    pub(crate) status: StatusId,
    pub(crate) source: Option<CombatantId>,
    /// The stable key of the source, which may be gone when the status still beats; 0 without a source.
    pub(crate) source_key: u64,
    /// The tick in which it was applied.
    pub(crate) applied: u32,
    /// The last tick in which it still beats.
    pub(crate) ends: Option<u32>,
    /// The tick of the next beat.
    pub(crate) due: Option<u32>,
    pub(crate) beats: u32,
    pub(crate) over: bool,
}

/// A hook that listens.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Subscription {
    pub(crate) number: u64,
    pub(crate) hook: HookId,
    pub(crate) listen: Listen,
    /// The first fact that it may hear.
    pub(crate) from: u64,
    /// The first fact that it may no longer hear, once it has ended.
    pub(crate) until: Option<u64>,
}

/// Attempts, and what became of them, since the encounter began.
///
/// An attempt is one swing, one target and one tick in which they met.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Counts {
    /// Meetings in all.
    pub attempts: u64,
    /// Those that landed.
    pub hits: u64,
    pub(crate) refused: [u64; Gate::ALL.len()],
}

impl Counts {
    /// Those that `gate` refused.
    pub fn refused_by(&self, gate: Gate) -> u64 {
        self.refused[gate as usize]
    }

    /// Those that were refused, by any gate.
    pub fn refusals(&self) -> u64 {
        self.refused.iter().sum()
    }
}
