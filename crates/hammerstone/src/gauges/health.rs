//! Health, its maximum, and the thresholds that it crosses.

use crate::Fixed;
use crate::event::{Crossing, HealthChange, HealthChanged, HealthCrossed};
use crate::ids::*;
use crate::log::Log;
use crate::ruleset::{IfItKills, Keep, Rules, Threshold};
use crate::sheet;
use crate::state::{State, sharers};
use crate::terms::Life;

/// Health becomes `to`, also that of all who share it; `before` is its maximum until now. Then the thresholds that it went through: downwards from the highest, upwards
/// from the lowest. Of a blow that kills, only those that fire all the same.
pub(crate) fn set_health(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    subject: CombatantId,
    to: i64,
    before: i64,
    why: HealthChange,
) {
    change_health(rules, state, log, subject, to, before, why);
    let slot = subject.slot();
    let Some(pool) = rules.template(state.combatants.template[slot]).pool else { return };
    let max = state.combatants.max[slot];
    let others: Vec<CombatantId> = standing_sharers(state, pool).filter(|&other| other != subject).collect();
    for other in others {
        let combatants = &mut state.combatants;
        let before = std::mem::replace(&mut combatants.max[other.slot()], max);
        if i64::from(combatants.health[other.slot()]) != to || before != max {
            change_health(rules, state, log, other, to, before.into(), HealthChange::Pool);
        }
    }
}

/// Health of one becomes `to`, whatever others share of it.
fn change_health(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    subject: CombatantId,
    to: i64,
    before: i64,
    why: HealthChange,
) {
    let combatants = &mut state.combatants;
    let slot = subject.slot();
    let (from, max) = (combatants.health[slot].into(), combatants.max[slot].into());
    combatants.health[slot] = to as i32;
    let thresholds = &rules.template_plan(combatants.template[slot]).thresholds;
    log.publish(HealthChanged { subject, from, to, max, why });
    let mut cross = |threshold: &Threshold, downwards: bool| {
        let was = threshold.is_below(from, before);
        let fires = to > 0 || threshold.if_it_kills == IfItKills::Fire;
        if was != downwards && threshold.is_below(to, max) == downwards && fires {
            let direction = if downwards { Crossing::Down } else { Crossing::Up };
            log.publish(HealthCrossed { subject, threshold: threshold.id, direction });
        }
    };
    thresholds.iter().for_each(|threshold| cross(threshold, true));
    thresholds.iter().rev().for_each(|threshold| cross(threshold, false));
}

/// Those who share a pool and stand, by rising id.
pub(crate) fn standing_sharers(state: &State, pool: PoolId) -> impl Iterator<Item = CombatantId> {
    sharers(&state.pools, pool).filter(|&who| state.combatants.life_of(who) == Life::Standing)
}

/// A combatant has come to have its template, or has it no longer: it shares the pool that the template names.
pub(crate) fn share_pool(rules: &Rules, state: &mut State, who: CombatantId, shares: bool) {
    let Some(pool) = rules.template(state.combatants.template[who.slot()]).pool else { return };
    match (state.pools.binary_search(&(pool, who)), shares) {
        (Err(place), true) => state.pools.insert(place, (pool, who)),
        (Ok(place), false) => _ = state.pools.remove(place),
        _ => {}
    }
}

/// What is left of the pool that a combatant shares with others who stand, and its maximum.
pub(crate) fn pooled(rules: &Rules, state: &State, who: CombatantId) -> Option<(i64, i64)> {
    let pool = rules.template(state.combatants.template[who.slot()]).pool?;
    let other = standing_sharers(state, pool).find(|&other| other != who)?.slot();
    let combatants = &state.combatants;
    Some((combatants.health[other].into(), combatants.max[other].into()))
}

/// The maximum of health follows from what the combatant has by itself and from the stat that adds to it. Health keeps its share or
/// its points.
pub(crate) fn refresh_maximum(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    subject: CombatantId,
    keep: Option<Keep>,
) {
    let slot = subject.slot();
    let combatants = &state.combatants;
    // That of the others is looked at when they return.
    if combatants.life[slot] != Life::Standing {
        return;
    }
    let (health, old) = (i64::from(combatants.health[slot]), i64::from(combatants.max[slot]));
    let new = maximum_of(rules, state, subject);
    if new == old {
        return;
    }
    let usual = rules.maximum.map_or(Keep::Share, |(_, keep)| keep);
    let kept = match keep.unwrap_or(usual) {
        Keep::Share => Fixed::ratio(health * new, old).nearest(),
        Keep::Points => health,
    };
    state.combatants.max[slot] = new as i32;
    set_health(rules, state, log, subject, kept.clamp(1, new), old, HealthChange::Maximum);
}

/// What the maximum of health comes to: at least 1 point.
pub(crate) fn maximum_of(rules: &Rules, state: &State, who: CombatantId) -> i64 {
    let slot = who.slot();
    let own = i64::from(state.combatants.own_max[slot]);
    if rules.template(state.combatants.template[slot]).pool.is_some() {
        return own;
    }
    let more = match rules.maximum {
        Some((stat, _)) => sheet::stat(rules, state, slot, stat).floor(),
        None => 0,
    };
    own.saturating_add(more).clamp(1, i64::from(i32::MAX))
}
