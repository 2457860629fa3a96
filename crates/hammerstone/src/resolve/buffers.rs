//! What one blow carries with it on its way.

use super::r2_amount::Tally;
use crate::event::{Echo, Range};
use crate::hooks::KeptTerms;
use crate::ids::*;
use crate::state::Contributor;

/// The buffers of the room.
#[derive(Clone, Debug, Default)]
pub(crate) struct Blows {
    /// What intercepts attached to the blow that is being resolved.
    pub(crate) terms: KeptTerms,
    pub(crate) tally: Tally,
    pub(super) dealt: Vec<Dealt>,
    pub(super) echoes: Vec<PassedDamage>,
    /// Who damaged a combatant that dies.
    pub(super) contributors: Vec<Contributor>,
}

impl Blows {
    /// Forgets everything that belongs to another state, and keeps the memory.
    pub(crate) fn forget(&mut self) {
        self.terms.clear();
        self.echoes.clear();
    }
}

/// What one damage type of a blow came to.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Dealt {
    pub(crate) damage_type: DamageTypeId,
    /// What health loses, in points.
    pub(crate) amount: i64,
    /// What heals instead.
    pub(crate) absorbed: i64,
    /// What shields took.
    pub(crate) by_shields: i64,
    /// What went beyond the health that was left.
    pub(crate) overkill: i64,
    pub(crate) ledger: Range,
}

/// Damage that is passed on to another combatant once its blow is over.
#[derive(Clone, Copy, Debug)]
pub(crate) struct PassedDamage {
    pub(crate) to: CombatantId,
    pub(crate) source: Option<CombatantId>,
    pub(crate) credit: Option<CombatantId>,
    pub(crate) damage_type: DamageTypeId,
    pub(crate) amount: i64,
    pub(crate) status: StatusId,
    pub(crate) echo: Echo,
    pub(crate) absolute: bool,
}
