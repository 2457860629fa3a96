//! What statuses bring about and have still to do.

use crate::Fixed;
use crate::event::Why;
use crate::ids::*;
use crate::state::StatusAt;

/// A status on its way to a combatant that stands.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Giving {
    pub(crate) subject: CombatantId,
    pub(crate) status: StatusId,
    pub(crate) source: Option<CombatantId>,
    /// Who gets the credit, where that was settled before.
    pub(crate) credit: Option<CombatantId>,
    pub(crate) strength: Fixed,
    /// The swing with which it ends.
    pub(crate) tied: Option<SwingId>,
}

impl Giving {
    /// By `source`, at the authored strength.
    pub(crate) fn plain(subject: CombatantId, status: StatusId, source: Option<CombatantId>) -> Giving {
        Giving { subject, status, source, credit: None, strength: Fixed::ONE, tied: None }
    }
}

/// A step that is still to be done.
#[derive(Clone, Copy, Debug)]
pub(crate) enum StatusStep {
    /// Apply a status, if its subject stands.
    Apply(Giving),
    /// Lift an application, if it runs.
    Lift(ApplicationId, Why),
    /// A status has begun and has lifted those that it lifts: now it takes effect.
    TakeEffect(CombatantId, StatusId),
}

/// The buffers of the room.
#[derive(Clone, Debug, Default)]
pub(crate) struct Queue {
    /// Steps that are still to be done, the next last.
    pub(super) steps: Vec<StatusStep>,
    /// The roots of the applications that began in this tick, in their order.
    pub(crate) roots_of_new: Vec<u32>,
    /// The places of what a combatant bears, while they are gone through.
    pub(super) of_subject: Vec<StatusAt>,
    /// The places of statuses whose pulse or end is due.
    pub(crate) due: Vec<StatusAt>,
}
