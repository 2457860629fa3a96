//! What stands before health, and what breaks.

use crate::Fixed;
use crate::event::{GuardBroken, PartBroken, ShieldAbsorbed, ShieldBroken, ShieldLapsed, ShieldRaised, Why};
use crate::ids::*;
use crate::state::{Pool, State};
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
            work.publish(GuardBroken { subject, status, amount });
        }
    }
    for &Absorbed { place, shield, amount, left, .. } in &tally.shields {
        work.state.combatants.pools.get_mut(place).points = left as i32;
        work.publish(ShieldAbsorbed { subject, shield, amount, left });
        if left == 0 {
            work.publish(ShieldBroken { subject, shield });
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

/// The points of a shield that no status brought.
pub(super) fn plain_points(state: &State, slot: usize, shield: ShieldId) -> i64 {
    let combatants = &state.combatants;
    let is = |pool: &&Pool| pool.shield == shield && pool.application.is_none();
    combatants.pools.items(combatants.shields[slot]).find(is).map_or(0, |pool| pool.points.into())
}

/// A shield has more points: those that a status brought on their own, all others together.
pub(crate) fn raise(
    work: &mut Work<'_>,
    subject: CombatantId,
    shield: ShieldId,
    points: i64,
    application: Option<ApplicationId>,
) {
    if points <= 0 {
        return;
    }
    let combatants = &mut work.state.combatants;
    let chain = &mut combatants.shields[subject.slot()];
    let is = |pool: &Pool| pool.shield == shield && pool.application == application;
    let place = combatants
        .pools
        .find(*chain, is)
        .unwrap_or_else(|| combatants.pools.push(chain, Pool { shield, application, points: 0 }));
    let pool = combatants.pools.get_mut(place);
    let before = i64::from(pool.points);
    let left = (before + points).clamp(0, i64::from(i32::MAX));
    pool.points = left as i32;
    work.publish(ShieldRaised { subject, shield, amount: left - before, left });
}

/// The shield that a status brought ends with it.
pub(crate) fn lapse(work: &mut Work<'_>, subject: CombatantId, application: ApplicationId) {
    let combatants = &mut work.state.combatants;
    let chain = &mut combatants.shields[subject.slot()];
    let mut lapsed = None;
    combatants.pools.take(chain, |pool| pool.application == Some(application), |pool| lapsed = Some(pool));
    if let Some(Pool { shield, points, .. }) = lapsed {
        work.publish(ShieldLapsed { subject, shield, amount: points.into() });
    }
}

/// All shields end: their bearer has died, or is away.
pub(crate) fn lapse_all(work: &mut Work<'_>, subject: CombatantId) {
    loop {
        let combatants = &mut work.state.combatants;
        let chain = &mut combatants.shields[subject.slot()];
        // In the order of spending, one by one.
        let pools = combatants.pools.items(*chain).map(|pool| (pool.shield, pool.application));
        let Some(first) = pools.min() else { return };
        let mut points = 0;
        let is = |pool: &Pool| (pool.shield, pool.application) == first;
        combatants.pools.take(chain, is, |pool| points = pool.points);
        work.publish(ShieldLapsed { subject, shield: first.0, amount: points.into() });
    }
}

/// A part loses what health lost by a blow on it, and breaks once in a life.
pub(super) fn wear_part(work: &mut Work<'_>, subject: CombatantId, part: u16, amount: i64) {
    let slot = subject.slot();
    let combatants = &mut work.state.combatants;
    let authored = &work.rules.template(combatants.template[slot]).parts[usize::from(part)];
    let Some(points) = authored.points else { return };
    if combatants.is_broken(slot, part) {
        return;
    }
    let chain = &mut combatants.part_losses[slot];
    let lists = &mut combatants.part_loss_lists;
    let place = lists.find(*chain, |(of, _)| *of == part).unwrap_or_else(|| lists.push(chain, (part, 0)));
    let (_, lost) = lists.get_mut(place);
    *lost = lost.saturating_add(amount as i32);
    if i64::from(*lost) >= points {
        combatants.broken[slot] |= 1 << part;
        work.publish(PartBroken { subject, part, amount });
    }
}
