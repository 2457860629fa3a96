//! Combatants with the statuses that they bear.

use super::{Application, Combatants, State, StatusAt};
use crate::ids::*;

/// Combatants and the statuses that they bear.
#[derive(Clone, Copy)]
pub(crate) struct Bearers<'a> {
    pub(crate) combatants: &'a Combatants,
    pub(crate) applications: &'a [Application],
}

impl<'a> From<&'a State> for Bearers<'a> {
    fn from(state: &'a State) -> Bearers<'a> {
        Bearers { combatants: &state.combatants, applications: &state.applications }
    }
}

impl<'a> Bearers<'a> {
    /// The places of the statuses that `who` bears, also suspended ones, the latest first.
    pub(crate) fn statuses_on(self, who: CombatantId) -> impl Iterator<Item = StatusAt> + use<'a> {
        // Also for one who is being removed, whose statuses are about to end.
        let here = self.combatants.has_place(who);
        let place_of = move |id: &ApplicationId| {
            self.applications.binary_search_by_key(id, |a| a.id).ok().map(StatusAt::new)
        };
        self.combatants.statuses_of.iter_if(who.slot(), here).filter_map(place_of)
    }

    /// The statuses that run on the combatant in `slot`, the latest first.
    pub(crate) fn running_on(self, slot: usize) -> impl Iterator<Item = &'a Application> + use<'a> {
        let who = self.combatants.id(slot);
        self.statuses_on(who).map(move |place| &self.applications[place]).filter(|a| a.runs())
    }
}
