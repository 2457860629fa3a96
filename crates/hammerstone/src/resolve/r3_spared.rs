//! What keeps a combatant alive, and what follows for one who was damaged and lives.

use crate::budget::{Budget, Source};
use crate::event::{Cause, CombatantSpared, CutAt, Why};
use crate::gauges;
use crate::hooks::{DeathAttempt, Host};
use crate::ids::*;
use crate::ruleset::Trigger;
use crate::statuses::{self, Granting};
use crate::view::View;
use crate::work::Work;

use super::r2_amount::{AmountContext, Ground};
use super::r3_deal::Running;
use super::r3_passed::reflect;

/// What keeps the target alive: of its statuses the one that was applied first, then the host's hooks.
pub(super) fn prevents_death(
    ground: &Ground<'_>,
    blow: &AmountContext,
    damage_type: DamageTypeId,
    amount: i64,
    (budget, from): (&mut Budget, Source),
    host: &mut dyn Host,
) -> Option<(Cause, i64)> {
    let Ground { ruleset, rules, state, .. } = *ground;
    let slot = blow.target.slot();
    let used = |cause: Cause| state.combatants.prevents_death_by(slot, cause);
    let statuses_of = rules.uses.prevented_deaths.then(|| state.running_on(slot)).into_iter().flatten();
    let asked = statuses_of.filter_map(|application| {
        let prevents_death = rules.status(application.status).prevents_death?;
        let cause = Cause::Status(application.status);
        (used(cause) < prevents_death.limit).then_some((application.id, cause, prevents_death.leaves))
    });
    if let Some((_, cause, leaves)) = asked.min_by_key(|(id, ..)| *id) {
        return budget.allows(from, || CutAt::Spared(cause)).then_some((cause, leaves));
    }
    let AmountContext { target, source, via, .. } = *blow;
    let lethal = DeathAttempt { target, source, via, damage_type, amount, view: View::of(ruleset, state) };
    // A hook that could answer is not asked where its answer could not count.
    if budget.is_spent(from) {
        let cut = host.may_prevent_death(&lethal).map(Cause::Hook);
        cut.map(|cause| budget.allows(from, || CutAt::Spared(cause)));
        return None;
    }
    let (hook, leaves) = host.prevent_death(&lethal)?;
    let leaves = if leaves < 1 { 1 } else { leaves };
    let cause = Cause::Hook(hook);
    budget.allows(from, || CutAt::Spared(cause)).then_some((cause, leaves))
}

/// What follows for one who was damaged and lives: what spared the death, who damaged, what goes back.
pub(super) fn lived_through(work: &mut Work<'_>, blow: &AmountContext, running: &Running) {
    let AmountContext { target, source, .. } = *blow;
    let slot = target.slot();
    if let Some((by, _)) = running.spared {
        work.state.combatants.count_prevented_death(slot, by);
        work.log.publish(CombatantSpared { subject: target, by });
        // Before the status that spared it ends: it may be the one that gives.
        let granting = Granting { on: Trigger::Spared, bearer: target, other: source, because: None };
        statuses::grants(work, granting);
        if let Cause::Status(status) = by
            && work.rules.status(status).prevents_death.is_some_and(|prevents_death| prevents_death.ends)
            && let Some(index) = work.state.first_status(target, status)
        {
            statuses::lift(work, index, Why::Spent);
        }
    }
    // What has no attacker may have been set going by someone all the same.
    let Some(by) = source.or(blow.credit).filter(|&by| by != target) else { return };
    if work.rooms.blows.dealt.iter().any(|dealt| dealt.amount > 0) {
        let tick = work.state.tick;
        work.state.combatants.note_contributor(slot, by, tick);
        if let Some(pool) = work.rules.template(work.state.combatants.template[slot]).pool {
            let others: Vec<_> = gauges::standing_sharers(work.state, pool).collect();
            for other in others.into_iter().filter(|other| ![target, by].contains(other)) {
                work.state.combatants.note_contributor(other.slot(), by, tick);
            }
        }
        if let Some(source) = source.filter(|_| blow.echo.is_none()) {
            reflect(work.rules, work.state, work.log, &mut work.rooms.blows, target, source);
        }
    }
}
