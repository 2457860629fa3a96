//! What damage does to health and to what stands before it.

use crate::Fixed;
use crate::budget::{Budget, Source};
use crate::event::{Cause, CutAt, DamageDealt, HealthChange, LedgerStep, Note, Range, TickFacts, Via};
use crate::gauges;
use crate::hooks::Host;
use crate::ids::*;
use crate::log::Log;
use crate::sheet::StatsOf;
use crate::state::{State, next};
use crate::work::Work;

use super::buffers::{Blows, Dealt, PassedDamage};
use super::r2_amount::{self, Account, AmountContext, Ground, Sink, Start, Tally};
use super::r3_passed::{deal_echoes, transferred};
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

/// Deals one blow: each damage type with its own ledger, then one change of health, and the death if it is gone.
/// Gives whether the target lives, and what its health lost. Damage that is passed on waits in the room's buffers.
///
/// Nothing that follows at once deals another blow: pulses, expiries and orders have their own time, and passed damage comes later.
pub(crate) fn deal(
    work: &mut Work<'_>,
    blow: &AmountContext,
    damages: impl Iterator<Item = (DamageTypeId, Start)>,
) -> (bool, i64) {
    let slot = blow.target.slot();
    let from = i64::from(work.state.combatants.health[slot]);
    let (critical, running) = work_out(work, blow, damages);
    let blow = &AmountContext { critical, ..*blow };
    let Work { rules, state, log, rooms, .. } = work;
    breaks::settle(rules, state, log, blow.target, &rooms.blows.tally);
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
    } else {
        r4_death::death(work, blow, running.overkill);
    }
    breaks::end_what_broke(work, blow.target);
    (lives, lost)
}

/// Works out what each damage type comes to. Gives chance and multiplier of a critical blow, and what becomes of the target.
fn work_out(
    work: &mut Work<'_>,
    blow: &AmountContext,
    damages: impl Iterator<Item = (DamageTypeId, Start)>,
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
        let running = &mut running;
        let on_the_way = OnTheWay { running, tally, echoes, budget, cause: *cause };
        let (amount, absorbed) = if *keep_ledgers {
            one_damage_type(&ground, blow, damage_type, start, on_the_way, *host, ledger)
        } else {
            one_damage_type(&ground, blow, damage_type, start, on_the_way, *host, &mut ())
        };
        let ledger = Range { start: first, end: ledger.len() as u32 };
        dealt.push(Dealt { damage_type, amount, absorbed, ledger });
    }
    (critical, running)
}

/// Publishes what was dealt, by damage type, all as one blow. Damage that is absorbed heals, and is published as that.
fn publish_dealt(state: &mut State, log: &mut Log, dealt: &[Dealt], blow: &AmountContext) {
    let AmountContext { target, source, via, hit, echo, way, .. } = *blow;
    let point = way.filter(|_| echo.is_none()).map(|(_, point)| point.to_array());
    let (number, critical) = (next(&mut state.next_blow), blow.critical.is_some());
    for &Dealt { damage_type, amount, ledger, .. } in dealt.iter().filter(|dealt| dealt.absorbed == 0) {
        log.publish(DamageDealt {
            damage_type,
            blow: number,
            hit,
            source,
            target,
            via,
            amount,
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
    start: Start,
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
    if let Some(echo) = transferred(ground, blow, damage_type, amount).filter(|_| !mine)
        && budget.allows(cause, || CutAt::PassedOn(echo.status, echo.echo))
    {
        line(LedgerStep::Transferred, amount, amount - echo.amount, Note::Transferred(echo.status, echo.to));
        amount -= echo.amount;
        echoes.push(echo);
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
