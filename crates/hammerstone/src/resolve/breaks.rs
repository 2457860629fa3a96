//! What stands before health, and what breaks.

use crate::Fixed;
use crate::event::{GuardBroken, Guarded, ShieldAbsorbed, ShieldBroken, Why};
use crate::ids::*;
use crate::log::Log;
use crate::ruleset::Rules;
use crate::state::State;
use crate::statuses;
use crate::work::Work;

use super::r2_amount::{Absorbed, Tally};

/// What guards and shields took is theirs no longer; what is used up is broken.
pub(super) fn settle(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    (subject, hit): (CombatantId, Option<u64>),
    tally: &Tally,
) {
    if let Some((id, took)) = tally.guard
        && let Some(index) = state.application_index(id)
    {
        let application = &mut state.applications[index];
        let before = application.guarded;
        application.guarded = before + took;
        let (amount, status) = (application.guarded, application.status);
        log.tick.guards.push(Guarded { hit, subject, status, took });
        if breaks(rules, status).is_some_and(|limit| amount >= limit && before < limit) {
            log.publish(GuardBroken { subject, status, amount });
        }
    }
    for &Absorbed { place, shield, amount, left, .. } in &tally.shields {
        state.combatants.shields.get_mut(place).points = left as i32;
        log.publish(ShieldAbsorbed { subject, shield, amount, left });
        if left == 0 {
            log.publish(ShieldBroken { subject, shield });
        }
    }
    if tally.shields.iter().any(|absorbed| absorbed.left == 0) {
        state.combatants.shields.take(subject.slot(), |pool| pool.points == 0, |_| ());
    }
}

/// After how much the guard of a status breaks.
fn breaks(rules: &Rules, status: StatusId) -> Option<Fixed> {
    let guard = rules.status(status).guard.as_ref()?;
    guard.breaks_after.map(Fixed::whole)
}

/// Statuses whose guard or shield was broken by the blow end, unless they have ended with their bearer.
pub(super) fn end_what_broke(work: &mut Work<'_>, subject: CombatantId) {
    let Work { rules, state, rooms, .. } = &*work;
    let guard = rooms.blows.tally.guard.map(|(id, _)| id).filter(|&id| {
        let application = state.application_index(id).map(|place| &state.applications[place]);
        application.is_some_and(|application| {
            breaks(rules, application.status).is_some_and(|limit| application.guarded >= limit)
        })
    });
    if let Some(id) = guard {
        lift_broken(work, subject, id);
    }
    for place in 0..work.rooms.blows.tally.shields.len() {
        if let Absorbed { left: 0, application: Some(id), .. } = work.rooms.blows.tally.shields[place] {
            lift_broken(work, subject, id);
        }
    }
}

fn lift_broken(work: &mut Work<'_>, subject: CombatantId, id: ApplicationId) {
    if let Some(index) = work.state.application_index(id)
        && work.state.applications[index].subject == subject
    {
        statuses::lift(work, index, Why::Broken);
    }
}
