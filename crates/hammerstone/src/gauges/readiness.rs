//! Whether an attack can be started now: what it costs, its cooldown, its uses. And what a start takes of these.

use crate::ids::*;
use crate::ruleset::{CancelOn, Rules};
use crate::state::{State, SwingAt, UsesRow};
use crate::terms::{NEVER, Refusal};

/// Whether a combatant could start an attack in the tick `now`, but for what its hands are doing.
pub(crate) fn is_ready(
    rules: &Rules,
    state: &State,
    subject: CombatantId,
    attack: AttackId,
    now: u32,
) -> Result<(), Refusal> {
    if !rules.uses.readiness {
        return Ok(());
    }
    let slot = subject.slot();
    let (authored, plan) = (rules.attack(attack), rules.attack_plan(attack));
    if let Some(key) = plan.cooldown {
        let until =
            state.combatants.cooldowns.iter(slot).find(|(of, _)| *of == key).map_or(0, |(_, until)| *until);
        if until > now {
            let ticks = if until == NEVER { NEVER } else { until - now };
            return Err(Refusal::CoolingDown { ticks });
        }
    }
    if let Some(uses) = authored.uses {
        let spent = state.combatants.uses.iter(slot).find(|row| row.attack == attack);
        if let Some(row) = spent
            && row.spent_at(now, uses.refill) >= uses.max
        {
            let ticks = uses.refill.map_or(NEVER, |refill| row.comes_at(now, refill) - now);
            return Err(Refusal::NoUses { ticks });
        }
    }
    for cost in authored.costs.iter().filter(|cost| cost.start > 0) {
        let row = state.combatants.gauges.iter(slot).find(|row| row.gauge == cost.gauge);
        let found = row.map_or(0, |row| i64::from(row.points));
        if found < cost.start {
            let ticks = row.map_or(NEVER, |row| row.ticks_to(rules, now, cost.start));
            let (gauge, wanted) = (cost.gauge, cost.start as u32);
            return Err(Refusal::NotEnough { gauge, wanted, found: found as u32, ticks });
        }
    }
    Ok(())
}

/// A start uses up a use, and begins a cooldown.
pub(crate) fn spend_start(rules: &Rules, state: &mut State, subject: CombatantId, attack: AttackId) {
    if !rules.uses.readiness {
        return;
    }
    let (slot, now) = (subject.slot(), state.tick);
    let authored = rules.attack(attack);
    if let (Some(cooldown), Some(key)) = (&authored.cooldown, rules.attack_plan(attack).cooldown) {
        // One that counts from the end is on its way until then.
        let until = if cooldown.from_end { NEVER } else { now.saturating_add(cooldown.lasts) };
        set_cooldown(state, slot, key, until);
    }
    if let Some(uses) = authored.uses {
        let rows = &mut state.combatants.uses;
        let row = rows.find_or_push(slot, |row| row.attack == attack, UsesRow::new(attack, now));
        let spent = row.spent_at(now, uses.refill);
        if spent == 0 {
            row.since = now;
        } else if let Some(refill) = uses.refill {
            row.since += (now - row.since) / refill * refill;
        }
        row.spent = spent + 1;
    }
}

/// A swing has ended: a cooldown that counts from its end begins.
pub(crate) fn begin_cooldown(rules: &Rules, state: &mut State, subject: CombatantId, attack: AttackId) {
    let authored = rules.attack(attack);
    if let (Some(cooldown), Some(key)) = (&authored.cooldown, rules.attack_plan(attack).cooldown)
        && cooldown.from_end
        && state.combatants.has_place(subject)
    {
        let until = state.tick.saturating_add(cooldown.lasts);
        set_cooldown(state, subject.slot(), key, until);
    }
}

fn set_cooldown(state: &mut State, slot: usize, key: u16, until: u32) {
    let (_, known) = state.combatants.cooldowns.find_or_push(slot, |(of, _)| *of == key, (key, until));
    *known = until;
}

/// The swing of `subject` that may be cancelled into `attack` now, if its hands are bound by one that may.
pub(crate) fn cancelled_by(
    rules: &Rules,
    state: &State,
    subject: CombatantId,
    attack: AttackId,
) -> Option<SwingAt> {
    if !rules.uses.readiness || state.combatants.running[subject.slot()] != 1 {
        return None;
    }
    let busy = |at: &SwingAt| {
        let swing = &state.swings[*at];
        swing.attacker == Some(subject) && swing.busy && swing.ended.is_none()
    };
    let at = SwingAt::all(&state.swings).find(busy)?;
    let swing = &state.swings[at];
    let may = rules.attack_plan(swing.attack).cancels.iter().any(|cancel| {
        let on = match cancel.on {
            CancelOn::Any => true,
            CancelOn::Hit => swing.targets > 0 && !swing.guarded,
            CancelOn::Guarded => swing.guarded,
            CancelOn::Miss => swing.targets == 0,
        };
        on && cancel.into.contains(&attack) && (cancel.from..cancel.to).contains(&swing.clock)
    });
    may.then_some(at)
}
