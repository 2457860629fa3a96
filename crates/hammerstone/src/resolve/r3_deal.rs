//! What damage does to health and to what stands before it.

use std::num::NonZeroU32;

use crate::Fixed;
use crate::budget::{Budget, Source};
use crate::event::{Cause, CutAt, DamageDealt, HealthChange, LedgerStep, Note, Range, TickFacts, Via};
use crate::hooks::Host;
use crate::ids::*;
use crate::log::Log;
use crate::ruleset::Dealing;
use crate::sheet::StatsOf;
use crate::state::{State, next};
use crate::work::Work;
use crate::{gauges, holds};

use super::buffers::{Blows, Dealt, PassedDamage};
use super::r2_amount::{self, Account, AmountContext, Ground, Sink, Start, Tally};
use super::r3_passed::{deal_echoes, takers, transferred};
use super::r3_spared::{lived_through, prevents_death};
use super::{breaks, r3_heal, r4_death};

/// A blow so far, over its damage types.
#[derive(Clone, Copy, Debug)]
pub(super) struct Running {
    /// Health that is left, and what went beyond it.
    pub(super) left: i64,
    pub(super) overkill: i64,
    /// What keeps the target alive, and the health that it leaves.
    pub(super) spared: Option<(Cause, i64)>,
}

impl Running {
    pub(super) fn new(health: i64) -> Running {
        Running { left: health, overkill: 0, spared: None }
    }
}

/// What came of one blow.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Outcome {
    /// Whether the target lives.
    pub(crate) lives: bool,
    /// What its health lost.
    pub(crate) lost: i64,
    pub(crate) critical: bool,
}

/// Deals one blow: each damage type with its own ledger, then one change of health, and the death if it is gone.
/// Damage that is passed on waits in the room's buffers.
///
/// Nothing that follows at once deals another blow: pulses, expiries and orders have their own time, and passed damage comes later.
pub(crate) fn deal<'s>(
    work: &mut Work<'_>,
    blow: &AmountContext,
    damages: impl Iterator<Item = (DamageTypeId, Start<'s>)>,
) -> Outcome {
    let slot = blow.target.slot();
    let from = i64::from(work.state.combatants.health[slot]);
    let (critical, running) = work_out(work, blow, damages);
    let blow = &AmountContext { critical, ..*blow };
    let Work { rules, state, log, rooms, .. } = work;
    breaks::settle(rules, state, log, (blow.target, blow.hit), &rooms.blows.tally);
    publish_dealt(state, log, &rooms.blows.dealt, blow);
    let lost = from - running.left;
    if lost > 0 {
        let max = state.combatants.max[slot].into();
        gauges::set_health(rules, state, log, blow.target, running.left, max, HealthChange::Damage);
    }
    let lives = running.left > 0;
    if lives {
        for &Dealt { absorbed, ledger, .. } in rooms.blows.dealt.iter().filter(|dealt| dealt.absorbed > 0) {
            r3_heal::add_health(rules, state, log, blow, absorbed, ledger);
        }
        if lost > 0 || running.spared.is_some() {
            lived_through(work, blow, &running);
        }
        if lost > 0 {
            holds::note_loss(work, blow.target, lost);
        }
    } else {
        r4_death::death(work, blow, running.overkill);
    }
    breaks::end_what_broke(work, blow.target);
    Outcome { lives, lost, critical: critical.is_some() }
}

/// Works out what each damage type comes to. Gives chance and multiplier of a critical blow, and what becomes of the target.
fn work_out<'s>(
    work: &mut Work<'_>,
    blow: &AmountContext,
    damages: impl Iterator<Item = (DamageTypeId, Start<'s>)>,
) -> (Option<(Fixed, Fixed)>, Running) {
    let Work { ruleset, state, log, rooms, host, .. } = work;
    let Blows { terms, tally, dealt, echoes, .. } = &mut rooms.blows;
    let Log { tick: TickFacts { ledger, .. }, budget, source: cause, keep_ledgers, .. } = &mut **log;
    let ground = Ground::new(ruleset, state, &terms.amends);
    let critical = r2_amount::critical(&ground, blow);
    let blow = &AmountContext { critical, ..*blow };
    let mut running = Running::new(state.combatants.health[blow.target.slot()].into());
    dealt.clear();
    tally.clear();
    for (damage_type, start) in damages {
        let first = ledger.len() as u32;
        let before = (tally.absorbed(), running.overkill);
        let running = &mut running;
        let on_the_way = OnTheWay { running, tally, echoes, budget, cause: *cause };
        let (amount, absorbed) = if *keep_ledgers {
            one_damage_type(&ground, blow, damage_type, start, on_the_way, *host, ledger)
        } else {
            one_damage_type(&ground, blow, damage_type, start, on_the_way, *host, &mut ())
        };
        let ledger = Range { start: first, end: ledger.len() as u32 };
        let by_shields = tally.absorbed() - before.0;
        let overkill = running.overkill - before.1;
        dealt.push(Dealt { damage_type, amount, absorbed, by_shields, overkill, ledger });
    }
    (critical, running)
}

/// Publishes what was dealt, by damage type, all as one blow. Damage that is absorbed heals, and is published as that.
fn publish_dealt(state: &mut State, log: &mut Log, dealt: &[Dealt], blow: &AmountContext) {
    let AmountContext { target, source, via, hit, echo, way, .. } = *blow;
    let point = way.filter(|_| echo.is_none()).map(|(_, point)| point.to_array());
    let (number, critical) = (next(&mut state.next_blow), blow.critical.is_some());
    let points = |points: i64| NonZeroU32::new(u32::try_from(points).unwrap_or(u32::MAX));
    for &Dealt { damage_type, amount, by_shields, overkill, ledger, .. } in
        dealt.iter().filter(|dealt| dealt.absorbed == 0)
    {
        log.publish(DamageDealt {
            damage_type,
            blow: number,
            hit,
            source,
            target,
            via,
            amount,
            absorbed: points(by_shields),
            overkill: points(overkill),
            critical,
            echo,
            point,
            ledger,
        });
    }
}

/// What is noted while the damage types of a blow are worked out.
pub(super) struct OnTheWay<'a> {
    pub(super) running: &'a mut Running,
    pub(super) tally: &'a mut Tally,
    pub(super) echoes: &'a mut Vec<PassedDamage>,
    pub(super) budget: &'a mut Budget,
    pub(super) cause: Source,
}

/// The amount of one damage type that health loses, or that heals: all of it, or what is left of health.
pub(super) fn one_damage_type(
    ground: &Ground<'_>,
    blow: &AmountContext,
    damage_type: DamageTypeId,
    start: Start<'_>,
    on_the_way: OnTheWay<'_>,
    host: &mut dyn Host,
    sink: &mut impl Sink,
) -> (i64, i64) {
    let OnTheWay { running, tally, echoes, budget, cause } = on_the_way;
    let account = Account {
        ground: *ground,
        blow,
        damage_type: Some(damage_type),
        amount: Fixed::ZERO,
        tally,
        host,
        sink,
    };
    let amount = match start {
        Start::Bare(points) => account.bare(points),
        start => account.of_damage(start),
    };
    let mut line = |step, before: i64, after: i64, note| {
        sink.line(step, Fixed::whole(before), Fixed::whole(after), note);
    };
    if amount < 0 {
        line(LedgerStep::Absorption, amount, -amount, Note::None);
        return (0, -amount);
    }
    let mut amount = amount;
    // Damage by a status that kills on expiry is never passed on.
    let mine = matches!(start, Start::Bare(_));
    if let Some(passed) = transferred(ground, blow, damage_type, amount).filter(|_| !mine) {
        let before = amount;
        for (to, points) in takers(ground, blow.target, &passed) {
            if budget.allows(cause, || CutAt::PassedOn(passed.status, passed.echo)) {
                echoes.push(PassedDamage { to, amount: points, ..passed });
                amount -= points;
            }
        }
        if amount != before {
            line(LedgerStep::Transferred, before, amount, Note::Transferred(passed.status, passed.to));
        }
    }
    let lethal = amount > 0 && running.left > 0 && amount >= running.left;
    if lethal && running.spared.is_none() && !blow.absolute {
        running.spared = prevents_death(ground, blow, damage_type, amount, (budget, cause), host);
    }
    if let Some((by, leaves)) = running.spared {
        let may = if leaves < running.left { running.left - leaves } else { 0 };
        if amount > may {
            line(LedgerStep::PreventsDeath, amount, may, Note::PreventsDeath(by));
            amount = may;
        }
    }
    if amount > running.left {
        line(LedgerStep::Health, amount, running.left, Note::Left(running.left));
        running.overkill = running.overkill.saturating_add(amount - running.left);
        amount = running.left;
    }
    running.left -= amount;
    (amount, 0)
}

/// All the health that is left goes, whatever would lessen damage: a status that kills on expiry has expired.
pub(crate) fn kill_on_expiry(
    work: &mut Work<'_>,
    target: CombatantId,
    damage_type: DamageTypeId,
    status: StatusId,
    [source, credit]: [Option<CombatantId>; 2],
) {
    work.rooms.blows.terms.clear();
    let blow =
        AmountContext { credit, absolute: true, ..AmountContext::plain(target, source, Via::Status(status)) };
    let left = work.state.combatants.health[target.slot()].into();
    deal(work, &blow, std::iter::once((damage_type, Start::Bare(left))));
    deal_echoes(work);
}

/// Damage that no attack and no status deals; the target was seen to stand.
pub(crate) fn host_damage(
    work: &mut Work<'_>,
    target: CombatantId,
    damage_type: DamageTypeId,
    amount: Fixed,
    reason: ReasonId,
    source: Option<CombatantId>,
    absolute: bool,
) {
    work.rooms.blows.terms.clear();
    let dealer = StatsOf::of(work.state, source);
    let team = work.state.team_of(source);
    let blow =
        AmountContext { absolute, dealer, team, ..AmountContext::plain(target, source, Via::Host(reason)) };
    deal(work, &blow, std::iter::once((damage_type, Start::Named(amount))));
    deal_echoes(work);
}

/// On whose behalf a rule deals damage or heals.
#[derive(Clone, Copy, Debug)]
pub(crate) struct By {
    pub(crate) rule: RuleId,
    pub(crate) source: Option<CombatantId>,
    /// Who gets the credit, as it was when the rule fired.
    pub(crate) credit: Option<CombatantId>,
}

impl By {
    /// What it deals to a target, or heals.
    pub(super) fn context(self, state: &State, target: CombatantId) -> AmountContext {
        let By { rule, source, credit } = self;
        let (dealer, team) = (StatsOf::of(state, source), state.team_of(source));
        let via = Via::Rule(rule);
        AmountContext { credit, dealer, team, ..AmountContext::plain(target, source, via) }
    }
}

/// Damage by a rule; the target was seen to stand and to be vulnerable.
pub(crate) fn rule_damage(
    work: &mut Work<'_>,
    by: By,
    target: CombatantId,
    dealing: &Dealing,
    values: &[Fixed],
) {
    work.rooms.blows.terms.clear();
    let steps = work.rules.steps.iter().enumerate();
    let skipped = steps.filter(|(_, step)| dealing.skips.contains(step));
    let skips = skipped.fold(0, |skips, (place, _)| skips | 1 << place);
    let blow = AmountContext { skips, ..by.context(work.state, target) };
    let mut values = values;
    let damages = dealing.amounts.iter().map(|(damage_type, amount)| {
        let (own, rest) = values.split_at_checked(amount.terms.len()).unwrap_or((values, &[]));
        values = rest;
        (*damage_type, Start::Read(amount, own))
    });
    deal(work, &blow, damages);
    deal_echoes(work);
}
