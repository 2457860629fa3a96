//! Health, its maximum, and the thresholds that it crosses.

use crate::Fixed;
use crate::event::{Crossing, HealthChange, HealthChanged, HealthCrossed};
use crate::ids::*;
use crate::log::Log;
use crate::ruleset::{IfItKills, Keep, Rules, Threshold};
use crate::sheet;
use crate::state::State;
use crate::terms::Life;

/// Health becomes `to`; `before` is its maximum until now. Then the thresholds that it went through: downwards from the highest, upwards
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
    let more = match rules.maximum {
        Some((stat, _)) => sheet::stat(rules, state, slot, stat).floor(),
        None => 0,
    };
    own.saturating_add(more).clamp(1, i64::from(i32::MAX))
}
