//! What harm and healing do to health and to what stands before it.

use crate::Fixed;
use crate::budget::Budget;
use crate::event::{Cause, CutAt, Echo, Event, HealthChange, LedgerStep, Means, Note, Range, Why};
use crate::hooks::{Hearing, Lethal};
use crate::ids::*;
use crate::ruleset::{IfItKills, Keep, Passing, Threshold, Upon};
use crate::sheet;
use crate::state::{Life, next};
use crate::statuses;
use crate::view::View;
use crate::work::{Source, Work};

use super::r2_amount::{self, Account, Blow, Ground, Sink, Start, Tally};
use super::{parts_and_shields, r4_fall};

/// What one kind of a blow came to.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Dealt {
    pub(crate) kind: KindId,
    /// What health loses, in points.
    pub(crate) amount: i64,
    /// What heals instead.
    pub(crate) absorbed: i64,
    pub(crate) ledger: Range,
}

/// Harm that goes on to somebody else once its blow is over.
#[derive(Clone, Copy, Debug)]
pub(crate) struct EchoHarm {
    pub(crate) to: CombatantId,
    pub(crate) source: Option<CombatantId>,
    pub(crate) credit: Option<CombatantId>,
    pub(crate) kind: KindId,
    pub(crate) amount: i64,
    pub(crate) status: StatusId,
    pub(crate) echo: Echo,
    pub(crate) absolute: bool,
}

/// A blow so far, over its kinds.
#[derive(Clone, Copy, Debug)]
pub(super) struct Running {
    /// Health that is left, and what went beyond it.
    pub(super) left: i64,
    pub(super) overkill: i64,
    /// What keeps the target alive, and the health that it leaves.
    pub(super) averted: Option<(Cause, i64)>,
}

impl Running {
    pub(super) fn new(health: i64) -> Running {
        Running { left: health, overkill: 0, averted: None }
    }
}

/// Deals one blow: each kind with its own ledger, then one change of health, and the fall if it is gone.
/// Gives whether the target lives, and what its health lost. What goes on to others waits in the scratch memory.
pub(crate) fn deal(
    work: &mut Work<'_>,
    blow: &Blow,
    harms: impl Iterator<Item = (KindId, Start)>,
) -> (bool, i64) {
    let Blow { target, source, means, hit, echo, .. } = *blow;
    let slot = target.slot();
    let from = i64::from(work.state.combatants.health[slot]);
    let mut running = Running::new(from);
    let mut dealt = std::mem::take(&mut work.scratch.dealt);
    let mut tally = std::mem::take(&mut work.scratch.tally);
    let mut echoes = std::mem::take(&mut work.scratch.echoes);
    dealt.clear();
    tally.clear();
    let ground = Ground { rules: work.rules, state: work.state, amends: &work.scratch.terms.amends };
    let blow = &Blow { critical: r2_amount::critical(&ground, blow), ..*blow };
    let Ground { rules, state, amends } = ground;
    let cause = work.scratch.source;
    let ledger = &mut work.scratch.ledger;
    for (kind, start) in harms {
        let first = ledger.len() as u32;
        let ground = Ground { rules, state, amends };
        let (running, tally, echoes) = (&mut running, &mut tally, &mut echoes);
        let on_the_way = OnTheWay { running, tally, echoes, budget: work.budget, cause };
        let (amount, absorbed) = if work.scratch.keep_ledgers {
            one_kind(&ground, blow, kind, start, on_the_way, work.hearing, ledger)
        } else {
            one_kind(&ground, blow, kind, start, on_the_way, work.hearing, &mut ())
        };
        let ledger = Range { start: first, end: ledger.len() as u32 };
        dealt.push(Dealt { kind, amount, absorbed, ledger });
    }
    let number = next(&mut work.state.next_blow);
    parts_and_shields::settle(work, target, &tally);
    let critical = blow.critical.is_some();
    for &Dealt { kind, amount, absorbed, ledger } in &dealt {
        if absorbed == 0 {
            work.publish(Event::DamageDealt {
                kind,
                blow: number,
                hit,
                source,
                target,
                means,
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
        set_health(work, target, running.left, max, HealthChange::Damage);
    }
    let lives = running.left > 0;
    if lives {
        for &Dealt { absorbed, ledger, .. } in dealt.iter().filter(|dealt| dealt.absorbed > 0) {
            mend(work, blow, absorbed, ledger);
        }
        if lost > 0 || running.averted.is_some() {
            lived_through(work, blow, &running, &dealt, &mut echoes);
        }
    } else {
        r4_fall::fall(work, blow, running.overkill);
    }
    parts_and_shields::end_what_broke(work, target, &tally);
    (work.scratch.dealt, work.scratch.tally, work.scratch.echoes) = (dealt, tally, echoes);
    (lives, lost)
}

/// What is noted while the kinds of a blow are worked out.
pub(super) struct OnTheWay<'a> {
    pub(super) running: &'a mut Running,
    pub(super) tally: &'a mut Tally,
    pub(super) echoes: &'a mut Vec<EchoHarm>,
    pub(super) budget: &'a mut Budget,
    pub(super) cause: Source,
}

/// The amount of one kind that health loses, or that heals: all of it, or what is left of health.
pub(super) fn one_kind(
    ground: &Ground<'_>,
    blow: &Blow,
    kind: KindId,
    start: Start,
    on_the_way: OnTheWay<'_>,
    hearing: &mut dyn Hearing,
    sink: &mut impl Sink,
) -> (i64, i64) {
    let OnTheWay { running, tally, echoes, budget, cause } = on_the_way;
    let account =
        Account { ground: *ground, blow, kind: Some(kind), amount: Fixed::ZERO, tally, hearing, sink };
    let amount = match start {
        Start::Bare(points) => account.bare(points),
        start => account.of_harm(start),
    };
    let mut line = |step, before: i64, after: i64, note| {
        sink.line(step, Fixed::whole(before), Fixed::whole(after), note);
    };
    if amount < 0 {
        line(LedgerStep::Absorption, amount, -amount, Note::None);
        return (0, -amount);
    }
    let mut amount = amount;
    // What dooms is nobody else's to take.
    let mine = matches!(start, Start::Bare(_));
    if let Some(echo) = transferred(ground, blow, kind, amount).filter(|_| !mine)
        && budget.allows(cause, || CutAt::PassedOn(echo.status, echo.echo))
    {
        line(LedgerStep::Transferred, amount, amount - echo.amount, Note::Transferred(echo.status, echo.to));
        amount -= echo.amount;
        echoes.push(echo);
    }
    let lethal = amount > 0 && running.left > 0 && amount >= running.left;
    if lethal && running.averted.is_none() && !blow.absolute {
        running.averted = reprieve(ground, blow, kind, amount, (budget, cause), hearing);
    }
    if let Some((by, leaves)) = running.averted {
        let may = if leaves < running.left { running.left - leaves } else { 0 };
        if amount > may {
            line(LedgerStep::Reprieve, amount, may, Note::Reprieve(by));
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
fn transferred(ground: &Ground<'_>, blow: &Blow, kind: KindId, amount: i64) -> Option<EchoHarm> {
    if blow.echo.is_some() || !ground.rules.uses.transfers {
        return None;
    }
    let state = ground.state;
    let mut first: Option<(ApplicationId, EchoHarm)> = None;
    for application in state.running_on(blow.target.slot()) {
        let Some(passing) = ground.rules.status(application.status).transfers else { continue };
        let Some(to) = application.source.filter(|&to| to != blow.target) else { continue };
        let share = passed_on(&passing, kind, amount);
        if share > 0
            && state.combatants.life_of(to) == Life::Standing
            && first.is_none_or(|(id, _)| application.id < id)
        {
            let Blow { source, credit, absolute, .. } = *blow;
            let (status, echo) = (application.status, Echo::Transferred);
            let harm = EchoHarm { to, source, credit, kind, amount: share, status, echo, absolute };
            first = Some((application.id, harm));
        }
    }
    first.map(|(_, harm)| harm)
}

fn passed_on(passing: &Passing, kind: KindId, amount: i64) -> i64 {
    if passing.kind.is_none_or(|only| only == kind) {
        (Fixed::whole(amount) * passing.share).floor()
    } else {
        0
    }
}

/// What keeps the target alive: of its statuses the one that was applied first, then the host's hooks.
fn reprieve(
    ground: &Ground<'_>,
    blow: &Blow,
    kind: KindId,
    amount: i64,
    (budget, from): (&mut Budget, Source),
    hearing: &mut dyn Hearing,
) -> Option<(Cause, i64)> {
    let Ground { rules, state, .. } = *ground;
    let slot = blow.target.slot();
    let used = |cause: Cause| state.combatants.reprieves_by(slot, cause);
    let borne = rules.uses.reprieves.then(|| state.running_on(slot)).into_iter().flatten();
    let asked = borne.filter_map(|application| {
        let reprieve = rules.status(application.status).reprieve?;
        let cause = Cause::Status(application.status);
        (used(cause) < reprieve.limit).then_some((application.id, cause, reprieve.leaves))
    });
    if let Some((_, cause, leaves)) = asked.min_by_key(|(id, ..)| *id) {
        return budget.allows(from, || CutAt::Averted(cause)).then_some((cause, leaves));
    }
    let Blow { target, source, means, .. } = *blow;
    let lethal = Lethal { target, source, means, kind, amount, view: View::of(rules, state) };
    let may = |hook: HookId, limit: u32| used(Cause::Hook(hook)) < limit;
    // A hook that could answer is not asked where its answer could not count.
    if budget.is_spent(from) {
        let cut = hearing.may_reprieve(&may).map(Cause::Hook);
        cut.map(|cause| budget.allows(from, || CutAt::Averted(cause)));
        return None;
    }
    let (hook, leaves) = hearing.reprieve(&lethal, &may)?;
    let cause = Cause::Hook(hook);
    budget.allows(from, || CutAt::Averted(cause)).then_some((cause, leaves))
}

/// What follows for one who was harmed and lives: what averted the fall, who harmed, what goes back.
fn lived_through(
    work: &mut Work<'_>,
    blow: &Blow,
    running: &Running,
    dealt: &[Dealt],
    echoes: &mut Vec<EchoHarm>,
) {
    let Blow { target, source, .. } = *blow;
    let slot = target.slot();
    if let Some((by, _)) = running.averted {
        work.state.combatants.count_reprieve(slot, by);
        work.publish(Event::DeathAverted { subject: target, by });
        // Before the status that averted it ends: it may be the one that gives.
        statuses::gifts(work, Upon::Averted, target, source);
        if let Cause::Status(status) = by
            && work.rules.status(status).reprieve.is_some_and(|reprieve| reprieve.ends)
            && let Some(index) = statuses::first_of(work.state, target, status)
        {
            statuses::lift(work, index, Why::Spent);
        }
    }
    let Some(source) = source.filter(|&source| source != target) else { return };
    if dealt.iter().all(|dealt| dealt.amount == 0) {
        return;
    }
    work.state.combatants.note_harmer(slot, source, work.state.tick);
    let reflects = blow.echo.is_none() && work.rules.uses.reflects;
    if !reflects || work.state.combatants.life_of(source) != Life::Standing {
        return;
    }
    let credit = Some(work.state.combatants.credit[slot]);
    for application in work.state.running_on(slot) {
        let Some(passing) = work.rules.status(application.status).reflects else { continue };
        for &Dealt { kind, amount, .. } in dealt {
            let amount = passed_on(&passing, kind, amount);
            let (status, echo) = (application.status, Echo::Reflected);
            if amount > 0 && work.budget.allows(work.scratch.source, || CutAt::PassedOn(status, echo)) {
                let source_of_it = Some(target);
                echoes.push(EchoHarm {
                    to: source,
                    source: source_of_it,
                    credit,
                    kind,
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
    let mut echoes = std::mem::take(&mut work.scratch.echoes);
    work.scratch.terms.clear();
    for echo in echoes.drain(..) {
        if work.state.combatants.life_of(echo.to) == Life::Standing {
            let credit = echo.credit;
            let blow = Blow {
                credit,
                echo: Some(echo.echo),
                absolute: echo.absolute,
                ..Blow::plain(echo.to, echo.source, Means::Status(echo.status))
            };
            deal(work, &blow, std::iter::once((echo.kind, Start::Named(Fixed::whole(echo.amount)))));
        }
    }
    work.scratch.echoes = echoes;
}

/// All the health that is left goes, whatever would lessen harm: what dooms its bearer has expired.
pub(crate) fn doom(
    work: &mut Work<'_>,
    target: CombatantId,
    kind: KindId,
    status: StatusId,
    [source, credit]: [Option<CombatantId>; 2],
) {
    work.scratch.terms.clear();
    let blow = Blow { credit, absolute: true, ..Blow::plain(target, source, Means::Status(status)) };
    let left = work.state.combatants.health[target.slot()].into();
    deal(work, &blow, std::iter::once((kind, Start::Bare(left))));
    deal_echoes(work);
}

/// Harm that no attack and no status deals; the target was seen to stand.
pub(crate) fn host_harm(
    work: &mut Work<'_>,
    target: CombatantId,
    kind: KindId,
    amount: Fixed,
    reason: ReasonId,
    source: Option<CombatantId>,
    absolute: bool,
) {
    work.scratch.terms.clear();
    let dealer = work.state.whose(source);
    let team = work.state.team_of(source);
    let blow = Blow { absolute, dealer, team, ..Blow::plain(target, source, Means::Host(reason)) };
    deal(work, &blow, std::iter::once((kind, Start::Named(amount))));
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
    let blow = Blow { dealer, ..Blow::plain(target, source, Means::Host(reason)) };
    heal(work, &blow, Start::Named(Fixed::whole(points.into())));
}

/// Healing through its steps.
pub(crate) fn heal(work: &mut Work<'_>, blow: &Blow, start: Start) {
    let first = work.scratch.ledger.len() as u32;
    let mut tally = std::mem::take(&mut work.scratch.tally);
    let ground = Ground { rules: work.rules, state: work.state, amends: &[] };
    let ledger = &mut work.scratch.ledger;
    let amount = if work.scratch.keep_ledgers {
        amount_of_healing(ground, blow, start, &mut tally, work.hearing, ledger)
    } else {
        amount_of_healing(ground, blow, start, &mut tally, work.hearing, &mut ())
    };
    work.scratch.tally = tally;
    let end = work.scratch.ledger.len() as u32;
    mend(work, blow, amount, Range { start: first, end });
}

/// The points that are healed, before what is missing of the maximum.
pub(super) fn amount_of_healing(
    ground: Ground<'_>,
    blow: &Blow,
    start: Start,
    tally: &mut Tally,
    hearing: &mut dyn Hearing,
    sink: &mut impl Sink,
) -> i64 {
    Account { ground, blow, kind: None, amount: Fixed::ZERO, tally, hearing, sink }.of_healing(start)
}

/// Health rises by `amount`, as far as its maximum allows; of the excess a share goes into a shield, if the ruleset says so.
fn mend(work: &mut Work<'_>, blow: &Blow, amount: i64, mut ledger: Range) {
    let Blow { target, source, means, .. } = *blow;
    let slot = target.slot();
    let combatants = &work.state.combatants;
    let (from, max) = (i64::from(combatants.health[slot]), i64::from(combatants.max[slot]));
    let missing = max - from;
    let healed = if amount < missing { amount } else { missing };
    let excess = amount - healed;
    if excess > 0 && work.scratch.keep_ledgers {
        // Its lines lie together: those of an absorbed kind may have others after them.
        let lines = &mut work.scratch.ledger;
        if ledger.end as usize != lines.len() {
            let start = lines.len() as u32;
            lines.extend_from_within(ledger.start as usize..ledger.end as usize);
            ledger = Range { start, end: lines.len() as u32 };
        }
        let (before, after) = (Fixed::whole(amount), Fixed::whole(healed));
        lines.line(LedgerStep::Maximum, before, after, Note::Left(missing));
        ledger.end += 1;
    }
    work.publish(Event::HealApplied { source, target, means, amount: healed, excess, ledger });
    if healed > 0 {
        set_health(work, target, from + healed, max, HealthChange::Heal);
    }
    if let Some(overheal) = work.rules.overheal.filter(|_| excess > 0) {
        let has = parts_and_shields::plain_points(work.state, slot, overheal.shield);
        let room = i64::from(overheal.most) - has;
        let share = (Fixed::whole(excess) * overheal.share).floor();
        let more = if share < room { share } else { room };
        parts_and_shields::raise(work, target, overheal.shield, more, None);
    }
}

/// Health becomes `to`; `before` is its maximum until now. Then the thresholds that it went through: downwards from the highest, upwards
/// from the lowest. Of a blow that kills, only those that fire all the same.
fn set_health(work: &mut Work<'_>, subject: CombatantId, to: i64, before: i64, why: HealthChange) {
    let combatants = &mut work.state.combatants;
    let slot = subject.slot();
    let (from, max) = (combatants.health[slot].into(), combatants.max[slot].into());
    combatants.health[slot] = to as i32;
    let thresholds = &work.rules.cast(combatants.cast[slot]).thresholds;
    work.publish(Event::HealthChanged { subject, from, to, max, why });
    let mut cross = |threshold: &Threshold, downwards: bool| {
        let was = threshold.is_below(from, before);
        let fires = to > 0 || threshold.if_it_kills == IfItKills::Fire;
        if was != downwards && threshold.is_below(to, max) == downwards && fires {
            work.publish(Event::HealthCrossed { subject, threshold: threshold.id, downwards });
        }
    };
    thresholds.iter().for_each(|threshold| cross(threshold, true));
    thresholds.iter().rev().for_each(|threshold| cross(threshold, false));
}

/// The maximum of health follows from what the combatant has by itself and from the stat that adds to it. Health keeps its share or
/// its points.
pub(crate) fn refresh_maximum(work: &mut Work<'_>, subject: CombatantId, keep: Option<Keep>) {
    let slot = subject.slot();
    let combatants = &work.state.combatants;
    // That of the others is looked at when they return.
    if combatants.life[slot] != Life::Standing {
        return;
    }
    let (health, old) = (i64::from(combatants.health[slot]), i64::from(combatants.max[slot]));
    let new = maximum_of(work, subject);
    if new == old {
        return;
    }
    let usual = work.rules.maximum.map_or(Keep::Share, |(_, keep)| keep);
    let kept = match keep.unwrap_or(usual) {
        Keep::Share => Fixed::ratio(health * new, old).nearest(),
        Keep::Points => health,
    };
    work.state.combatants.max[slot] = new as i32;
    set_health(work, subject, kept.clamp(1, new), old, HealthChange::Maximum);
}

/// What the maximum of health comes to: at least 1 point.
pub(crate) fn maximum_of(work: &Work<'_>, who: CombatantId) -> i64 {
    let slot = who.slot();
    let own = i64::from(work.state.combatants.own_max[slot]);
    let more = match work.rules.maximum {
        Some((stat, _)) => sheet::stat(work.rules, &*work.state, slot, stat).floor(),
        None => 0,
    };
    own.saturating_add(more).clamp(1, i64::from(i32::MAX))
}
