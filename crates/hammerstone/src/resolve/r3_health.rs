//! What damage and healing do to health and to what stands before it.

use crate::Fixed;
use crate::budget::Budget;
use crate::budget::Source;
use crate::event::{
    Cause, CombatantSpared, CutAt, DamageDealt, Echo, HealApplied, HealthChange, LedgerStep, Note, Range,
    Via, Why,
};
use crate::gauges;
use crate::hooks::{DeathAttempt, Hearing};
use crate::ids::*;
use crate::ruleset::{SharedDamage, Trigger};
use crate::state::{Life, next};
use crate::statuses;
use crate::view::View;
use crate::work::Work;

use super::buffers::{Dealt, PassedDamage};
use super::r2_amount::{self, Account, AmountContext, Ground, Sink, Start, Tally};
use super::{breaks, r4_death};

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
/// Gives whether the target lives, and what its health lost. What goes on to others waits in the scratch memory.
pub(crate) fn deal(
    work: &mut Work<'_>,
    blow: &AmountContext,
    damages: impl Iterator<Item = (DamageTypeId, Start)>,
) -> (bool, i64) {
    let AmountContext { target, source, via, hit, echo, .. } = *blow;
    let slot = target.slot();
    let from = i64::from(work.state.combatants.health[slot]);
    let mut running = Running::new(from);
    let mut dealt = std::mem::take(&mut work.rooms.blows.dealt);
    let mut tally = std::mem::take(&mut work.rooms.blows.tally);
    let mut echoes = std::mem::take(&mut work.rooms.blows.echoes);
    dealt.clear();
    tally.clear();
    let ground = Ground { rules: work.rules, state: work.state, amends: &work.rooms.blows.terms.amends };
    let blow = &AmountContext { critical: r2_amount::critical(&ground, blow), ..*blow };
    let Ground { rules, state, amends } = ground;
    let cause = work.log.source;
    let ledger = &mut work.log.tick.ledger;
    for (damage_type, start) in damages {
        let first = ledger.len() as u32;
        let ground = Ground { rules, state, amends };
        let (running, tally, echoes) = (&mut running, &mut tally, &mut echoes);
        let on_the_way = OnTheWay { running, tally, echoes, budget: &mut work.log.budget, cause };
        let (amount, absorbed) = if work.log.keep_ledgers {
            one_damage_type(&ground, blow, damage_type, start, on_the_way, work.hearing, ledger)
        } else {
            one_damage_type(&ground, blow, damage_type, start, on_the_way, work.hearing, &mut ())
        };
        let ledger = Range { start: first, end: ledger.len() as u32 };
        dealt.push(Dealt { damage_type, amount, absorbed, ledger });
    }
    let number = next(&mut work.state.next_blow);
    breaks::settle(work, target, &tally);
    let critical = blow.critical.is_some();
    for &Dealt { damage_type, amount, absorbed, ledger } in &dealt {
        if absorbed == 0 {
            work.log.publish(DamageDealt {
                damage_type,
                blow: number,
                hit,
                source,
                target,
                via,
                amount,
                critical,
                echo,
                ledger,
            });
        }
    }
    let lost = from - running.left;
    if lost > 0 {
        let max = work.state.combatants.max[slot].into();
        gauges::set_health(work, target, running.left, max, HealthChange::Damage);
    }
    let lives = running.left > 0;
    if lives {
        for &Dealt { absorbed, ledger, .. } in dealt.iter().filter(|dealt| dealt.absorbed > 0) {
            mend(work, blow, absorbed, ledger);
        }
        if lost > 0 || running.spared.is_some() {
            lived_through(work, blow, &running, &dealt, &mut echoes);
        }
    } else {
        r4_death::death(work, blow, running.overkill);
    }
    breaks::end_what_broke(work, target, &tally);
    (work.rooms.blows.dealt, work.rooms.blows.tally, work.rooms.blows.echoes) = (dealt, tally, echoes);
    (lives, lost)
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
    hearing: &mut dyn Hearing,
    sink: &mut impl Sink,
) -> (i64, i64) {
    let OnTheWay { running, tally, echoes, budget, cause } = on_the_way;
    let account = Account {
        ground: *ground,
        blow,
        damage_type: Some(damage_type),
        amount: Fixed::ZERO,
        tally,
        hearing,
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
        running.spared = prevents_death(ground, blow, damage_type, amount, (budget, cause), hearing);
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

/// The share that somebody takes for the target, by the first of the statuses that say so whose source stands.
fn transferred(
    ground: &Ground<'_>,
    blow: &AmountContext,
    damage_type: DamageTypeId,
    amount: i64,
) -> Option<PassedDamage> {
    if blow.echo.is_some() || !ground.rules.uses.transfers {
        return None;
    }
    let state = ground.state;
    let mut first: Option<(ApplicationId, PassedDamage)> = None;
    for application in state.running_on(blow.target.slot()) {
        let Some(passing) = ground.rules.status(application.status).transfers else { continue };
        let Some(to) = application.source.filter(|&to| to != blow.target) else { continue };
        let share = passed_on(&passing, damage_type, amount);
        if share > 0
            && state.combatants.life_of(to) == Life::Standing
            && first.is_none_or(|(id, _)| application.id < id)
        {
            let AmountContext { source, credit, absolute, .. } = *blow;
            let (status, echo) = (application.status, Echo::Transferred);
            let damage =
                PassedDamage { to, source, credit, damage_type, amount: share, status, echo, absolute };
            first = Some((application.id, damage));
        }
    }
    first.map(|(_, damage)| damage)
}

fn passed_on(passing: &SharedDamage, damage_type: DamageTypeId, amount: i64) -> i64 {
    if passing.damage_type.is_none_or(|only| only == damage_type) {
        (Fixed::whole(amount) * passing.share).floor()
    } else {
        0
    }
}

/// What keeps the target alive: of its statuses the one that was applied first, then the host's hooks.
fn prevents_death(
    ground: &Ground<'_>,
    blow: &AmountContext,
    damage_type: DamageTypeId,
    amount: i64,
    (budget, from): (&mut Budget, Source),
    hearing: &mut dyn Hearing,
) -> Option<(Cause, i64)> {
    let Ground { rules, state, .. } = *ground;
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
    let lethal = DeathAttempt { target, source, via, damage_type, amount, view: View::of(rules, state) };
    let may = |hook: HookId, limit: u32| used(Cause::Hook(hook)) < limit;
    // A hook that could answer is not asked where its answer could not count.
    if budget.is_spent(from) {
        let cut = hearing.may_prevent_death(&may).map(Cause::Hook);
        cut.map(|cause| budget.allows(from, || CutAt::Spared(cause)));
        return None;
    }
    let (hook, leaves) = hearing.prevents_death(&lethal, &may)?;
    let cause = Cause::Hook(hook);
    budget.allows(from, || CutAt::Spared(cause)).then_some((cause, leaves))
}

/// What follows for one who was damaged and lives: what spared the death, who damaged, what goes back.
fn lived_through(
    work: &mut Work<'_>,
    blow: &AmountContext,
    running: &Running,
    dealt: &[Dealt],
    echoes: &mut Vec<PassedDamage>,
) {
    let AmountContext { target, source, .. } = *blow;
    let slot = target.slot();
    if let Some((by, _)) = running.spared {
        work.state.combatants.count_prevented_death(slot, by);
        work.log.publish(CombatantSpared { subject: target, by });
        // Before the status that spared it ends: it may be the one that gives.
        statuses::grants(work, Trigger::Spared, target, source);
        if let Cause::Status(status) = by
            && work.rules.status(status).prevents_death.is_some_and(|prevents_death| prevents_death.ends)
            && let Some(index) = statuses::first_of(work.state, target, status)
        {
            statuses::lift(work, index, Why::Spent);
        }
    }
    let Some(source) = source.filter(|&source| source != target) else { return };
    if dealt.iter().all(|dealt| dealt.amount == 0) {
        return;
    }
    work.state.combatants.note_contributor(slot, source, work.state.tick);
    let reflects = blow.echo.is_none() && work.rules.uses.reflects;
    if !reflects || work.state.combatants.life_of(source) != Life::Standing {
        return;
    }
    let credit = Some(work.state.combatants.credit[slot]);
    for application in work.state.running_on(slot) {
        let Some(passing) = work.rules.status(application.status).reflects else { continue };
        for &Dealt { damage_type, amount, .. } in dealt {
            let amount = passed_on(&passing, damage_type, amount);
            let (status, echo) = (application.status, Echo::Reflected);
            if amount > 0 && work.log.allows(|| CutAt::PassedOn(status, echo)) {
                let source_of_it = Some(target);
                echoes.push(PassedDamage {
                    to: source,
                    source: source_of_it,
                    credit,
                    damage_type,
                    amount,
                    status,
                    echo,
                    absolute: false,
                });
            }
        }
    }
}

/// What was passed on by the blow that is over reaches those to whom it goes, as long as they stand. It goes on no further.
pub(crate) fn deal_echoes(work: &mut Work<'_>) {
    let mut echoes = std::mem::take(&mut work.rooms.blows.echoes);
    work.rooms.blows.terms.clear();
    for echo in echoes.drain(..) {
        if work.state.combatants.life_of(echo.to) == Life::Standing {
            let credit = echo.credit;
            let blow = AmountContext {
                credit,
                echo: Some(echo.echo),
                absolute: echo.absolute,
                ..AmountContext::plain(echo.to, echo.source, Via::Status(echo.status))
            };
            deal(work, &blow, std::iter::once((echo.damage_type, Start::Named(Fixed::whole(echo.amount)))));
        }
    }
    work.rooms.blows.echoes = echoes;
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
    let dealer = work.state.whose(source);
    let team = work.state.team_of(source);
    let blow =
        AmountContext { absolute, dealer, team, ..AmountContext::plain(target, source, Via::Host(reason)) };
    deal(work, &blow, std::iter::once((damage_type, Start::Named(amount))));
    deal_echoes(work);
}

/// Healing by order; the target was seen to stand.
pub(crate) fn host_heal(
    work: &mut Work<'_>,
    target: CombatantId,
    points: u32,
    reason: ReasonId,
    source: Option<CombatantId>,
) {
    let dealer = work.state.whose(source);
    let blow = AmountContext { dealer, ..AmountContext::plain(target, source, Via::Host(reason)) };
    heal(work, &blow, Start::Named(Fixed::whole(points.into())));
}

/// Healing through its steps.
pub(crate) fn heal(work: &mut Work<'_>, blow: &AmountContext, start: Start) {
    let first = work.log.tick.ledger.len() as u32;
    let mut tally = std::mem::take(&mut work.rooms.blows.tally);
    let ground = Ground { rules: work.rules, state: work.state, amends: &[] };
    let ledger = &mut work.log.tick.ledger;
    let amount = if work.log.keep_ledgers {
        amount_of_healing(ground, blow, start, &mut tally, work.hearing, ledger)
    } else {
        amount_of_healing(ground, blow, start, &mut tally, work.hearing, &mut ())
    };
    work.rooms.blows.tally = tally;
    let end = work.log.tick.ledger.len() as u32;
    mend(work, blow, amount, Range { start: first, end });
}

/// The points that are healed, before what is missing of the maximum.
pub(super) fn amount_of_healing(
    ground: Ground<'_>,
    blow: &AmountContext,
    start: Start,
    tally: &mut Tally,
    hearing: &mut dyn Hearing,
    sink: &mut impl Sink,
) -> i64 {
    Account { ground, blow, damage_type: None, amount: Fixed::ZERO, tally, hearing, sink }.of_healing(start)
}

/// Health rises by `amount`, as far as its maximum allows; of the excess a share goes into a shield, if the ruleset says so.
fn mend(work: &mut Work<'_>, blow: &AmountContext, amount: i64, mut ledger: Range) {
    let AmountContext { target, source, via, .. } = *blow;
    let slot = target.slot();
    let combatants = &work.state.combatants;
    let (from, max) = (i64::from(combatants.health[slot]), i64::from(combatants.max[slot]));
    let missing = max - from;
    let healed = if amount < missing { amount } else { missing };
    let excess = amount - healed;
    if excess > 0 && work.log.keep_ledgers {
        // Its lines lie together: those of an absorbed damage type may have others after them.
        let lines = &mut work.log.tick.ledger;
        if ledger.end as usize != lines.len() {
            let start = lines.len() as u32;
            lines.extend_from_within(ledger.start as usize..ledger.end as usize);
            ledger = Range { start, end: lines.len() as u32 };
        }
        let (before, after) = (Fixed::whole(amount), Fixed::whole(healed));
        lines.line(LedgerStep::Maximum, before, after, Note::Left(missing));
        ledger.end += 1;
    }
    work.log.publish(HealApplied { source, target, via, amount: healed, excess, ledger });
    if healed > 0 {
        gauges::set_health(work, target, from + healed, max, HealthChange::Heal);
    }
    if let Some(overheal) = work.rules.overheal.filter(|_| excess > 0) {
        let has = gauges::plain_points(work.state, slot, overheal.shield);
        let room = i64::from(overheal.most) - has;
        let share = (Fixed::whole(excess) * overheal.share).floor();
        let more = if share < room { share } else { room };
        gauges::raise_shield(work, target, overheal.shield, more, None);
    }
}
