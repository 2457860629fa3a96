//! Shields: raised, and gone with what brought them.

use crate::event::{ShieldLapsed, ShieldRaised};
use crate::ids::*;
use crate::log::Log;
use crate::state::{ShieldRow, State};

/// The points of a shield that no status brought.
pub(crate) fn plain_points(state: &State, slot: usize, shield: ShieldId) -> i64 {
    let combatants = &state.combatants;
    let is = |pool: &&ShieldRow| pool.shield == shield && pool.application.is_none();
    combatants.shields.iter(slot).find(is).map_or(0, |pool| pool.points.into())
}

/// A shield has more points: those that a status brought on their own, all others together.
pub(crate) fn raise_shield(
    state: &mut State,
    log: &mut Log,
    subject: CombatantId,
    shield: ShieldId,
    points: i64,
    application: Option<ApplicationId>,
) {
    if points <= 0 {
        return;
    }
    let combatants = &mut state.combatants;
    let is = |pool: &ShieldRow| pool.shield == shield && pool.application == application;
    let pool =
        combatants.shields.find_or_push(subject.slot(), is, ShieldRow { shield, application, points: 0 });
    let before = i64::from(pool.points);
    let left = (before + points).clamp(0, i64::from(i32::MAX));
    pool.points = left as i32;
    log.publish(ShieldRaised { subject, shield, amount: left - before, left });
}

/// The shield that a status brought ends with it.
pub(crate) fn lapse_shield(
    state: &mut State,
    log: &mut Log,
    subject: CombatantId,
    application: ApplicationId,
) {
    let mut lapsed = None;
    state.combatants.shields.take(
        subject.slot(),
        |pool| pool.application == Some(application),
        |pool| lapsed = Some(pool),
    );
    if let Some(ShieldRow { shield, points, .. }) = lapsed {
        log.publish(ShieldLapsed { subject, shield, amount: points.into() });
    }
}

/// Shields that no status brought end: their bearer becomes one of another template.
pub(crate) fn lapse_own_shields(state: &mut State, log: &mut Log, subject: CombatantId) {
    let own = |pool: &&ShieldRow| pool.application.is_none();
    while let Some(shield) = state.combatants.shields.iter(subject.slot()).filter(own).map(|p| p.shield).min()
    {
        let mut points = 0;
        let is = |pool: &ShieldRow| pool.application.is_none() && pool.shield == shield;
        state.combatants.shields.take(subject.slot(), is, |pool| points = pool.points);
        log.publish(ShieldLapsed { subject, shield, amount: points.into() });
    }
}

/// All shields end: their bearer has died, or is away.
pub(crate) fn lapse_shields(state: &mut State, log: &mut Log, subject: CombatantId) {
    loop {
        let shields = &mut state.combatants.shields;
        // In the order of spending, one by one.
        let pools = shields.iter(subject.slot()).map(|pool| (pool.shield, pool.application));
        let Some(first) = pools.min() else { return };
        let mut points = 0;
        let is = |pool: &ShieldRow| (pool.shield, pool.application) == first;
        shields.take(subject.slot(), is, |pool| points = pool.points);
        log.publish(ShieldLapsed { subject, shield: first.0, amount: points.into() });
    }
}
