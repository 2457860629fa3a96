//! What stands before health, and what breaks.

use crate::Fixed;
use crate::event::{GuardBroken, ShieldAbsorbed, ShieldBroken, Why};
use crate::ids::*;
use crate::statuses;
use crate::work::Work;

use super::r2_amount::{Absorbed, Tally};

/// What guards and shields took is theirs no longer; what is used up is broken.
pub(super) fn settle(work: &mut Work<'_>, subject: CombatantId, tally: &Tally) {
    if let Some((id, took)) = tally.guard
        && let Some(index) = work.state.application_index(id)
    {
        let application = &mut work.state.applications[index];
        let before = application.guarded;
        application.guarded = before + took;
        let (amount, status) = (application.guarded, application.status);
        if breaks(work, status).is_some_and(|limit| amount >= limit && before < limit) {
            work.log.publish(GuardBroken { subject, status, amount });
        }
    }
    for &Absorbed { place, shield, amount, left, .. } in &tally.shields {
        work.state.combatants.pools.get_mut(place).points = left as i32;
        work.log.publish(ShieldAbsorbed { subject, shield, amount, left });
        if left == 0 {
            work.log.publish(ShieldBroken { subject, shield });
        }
    }
    if tally.shields.iter().any(|absorbed| absorbed.left == 0) {
        let combatants = &mut work.state.combatants;
        let chain = &mut combatants.shields[subject.slot()];
        combatants.pools.take(chain, |pool| pool.points == 0, |_| ());
    }
}

/// After how much the guard of a status breaks.
fn breaks(work: &Work<'_>, status: StatusId) -> Option<Fixed> {
    let guard = work.rules.status(status).guard.as_ref()?;
    guard.breaks_after.map(Fixed::whole)
}

/// Statuses whose guard or shield was broken by the blow end, unless they have ended with their bearer.
pub(super) fn end_what_broke(work: &mut Work<'_>, subject: CombatantId, tally: &Tally) {
    let guard = tally.guard.map(|(id, _)| id).filter(|&id| {
        let place = work.state.application_index(id);
        place.is_some_and(|place| {
            let application = &work.state.applications[place];
            breaks(work, application.status).is_some_and(|limit| application.guarded >= limit)
        })
    });
    let broken = tally.shields.iter().filter(|absorbed| absorbed.left == 0);
    let shields = broken.filter_map(|absorbed| absorbed.application);
    for id in guard.into_iter().chain(shields) {
        if let Some(index) = work.state.application_index(id)
            && work.state.applications[index].subject == subject
        {
            statuses::lift(work, index, Why::Broken);
        }
    }
}
