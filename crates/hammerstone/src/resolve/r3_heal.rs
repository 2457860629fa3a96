//! What healing does to health.

use crate::Fixed;
use crate::event::{HealApplied, HealthChange, LedgerStep, Note, Range, Via};
use crate::gauges;
use crate::hooks::Host;
use crate::ids::*;
use crate::log::Log;
use crate::ruleset::{Amount, Rules};
use crate::sheet::StatsOf;
use crate::state::State;
use crate::work::Work;

use super::r2_amount::{Account, AmountContext, Ground, Sink, Start, Tally};
use super::r3_deal::By;

/// Healing through its steps.
pub(crate) fn heal(work: &mut Work<'_>, blow: &AmountContext, start: Start<'_>) {
    let Work { ruleset, rules, state, log, rooms, host, .. } = work;
    let tally = &mut rooms.blows.tally;
    let ground = Ground::new(ruleset, state, &[]);
    let ledger = &mut log.tick.ledger;
    let first = ledger.len() as u32;
    let amount = if log.keep_ledgers {
        amount_of_healing(ground, blow, start, tally, *host, ledger)
    } else {
        amount_of_healing(ground, blow, start, tally, *host, &mut ())
    };
    let ledger = Range { start: first, end: ledger.len() as u32 };
    add_health(rules, state, log, blow, amount, ledger);
}

/// The points that are healed, before what is missing of the maximum.
pub(super) fn amount_of_healing(
    ground: Ground<'_>,
    blow: &AmountContext,
    start: Start<'_>,
    tally: &mut Tally,
    host: &mut dyn Host,
    sink: &mut impl Sink,
) -> i64 {
    Account { ground, blow, damage_type: None, amount: Fixed::ZERO, tally, host, sink }.of_healing(start)
}

/// Health rises by `amount`, as far as its maximum allows; of the excess a share goes into a shield, if the ruleset says so.
pub(super) fn add_health(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    blow: &AmountContext,
    amount: i64,
    mut ledger: Range,
) {
    let AmountContext { target, source, via, .. } = *blow;
    let slot = target.slot();
    let combatants = &state.combatants;
    let (from, max) = (i64::from(combatants.health[slot]), i64::from(combatants.max[slot]));
    let missing = max - from;
    let healed = if amount < missing { amount } else { missing };
    let excess = amount - healed;
    if excess > 0 && log.keep_ledgers {
        // Its lines lie together: those of an absorbed damage type may have others after them.
        let lines = &mut log.tick.ledger;
        if ledger.end as usize != lines.len() {
            let start = lines.len() as u32;
            lines.extend_from_within(ledger.start as usize..ledger.end as usize);
            ledger = Range { start, end: lines.len() as u32 };
        }
        let (before, after) = (Fixed::whole(amount), Fixed::whole(healed));
        lines.line(LedgerStep::Maximum, before, after, Note::Left(missing));
        ledger.end += 1;
    }
    log.publish(HealApplied { source, target, via, amount: healed, excess, ledger });
    if healed > 0 {
        gauges::set_health(rules, state, log, target, from + healed, max, HealthChange::Heal);
    }
    if let Some(overheal) = rules.overheal.filter(|_| excess > 0) {
        let has = gauges::plain_points(state, slot, overheal.shield);
        let room = i64::from(overheal.most) - has;
        let share = (Fixed::whole(excess) * overheal.share).floor();
        let more = if share < room { share } else { room };
        gauges::raise_shield(state, log, target, overheal.shield, more, None);
    }
}

/// Healing by order; the target was seen to stand.
pub(crate) fn host_heal(
    work: &mut Work<'_>,
    target: CombatantId,
    points: u32,
    reason: ReasonId,
    source: Option<CombatantId>,
) {
    let dealer = StatsOf::of(work.state, source);
    let blow = AmountContext { dealer, ..AmountContext::plain(target, source, Via::Host(reason)) };
    heal(work, &blow, Start::Named(Fixed::whole(points.into())));
}

/// Healing by a rule; the target was seen to stand.
pub(crate) fn rule_heal(work: &mut Work<'_>, by: By, target: CombatantId, amount: &Amount, values: &[Fixed]) {
    let blow = by.context(work.state, target);
    heal(work, &blow, Start::Read(amount, values));
}
