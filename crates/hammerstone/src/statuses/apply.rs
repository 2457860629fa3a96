//! A status is applied, or applied again to one who bears it.

use crate::Fixed;
use crate::event::{BarredBy, Event, StatusApplied, StatusRefreshed, StatusRefused, StatusStacked, Why};
use crate::gauges;
use crate::ids::*;
use crate::log::Log;
use crate::ruleset::{FirstPulse, Given, Rules, Stacking, Status, Strength};
use crate::sheet;
use crate::state::Swing;
use crate::state::{Application, State, StatusAt, next};
use crate::work::Work;
use crate::{conditions, swing};

use super::because::Because;
use super::queue::{Giving, StatusStep};
use super::steps;

/// Gives a list of statuses, as far as their subject stands.
pub(crate) fn give(
    work: &mut Work<'_>,
    list: &[Given],
    subject: CombatantId,
    source: Option<CombatantId>,
    credit: Option<CombatantId>,
    tied: Option<SwingId>,
) {
    for &Given { status, strength, .. } in list {
        apply(work, Giving { subject, status, source, credit, strength, tied });
    }
}

/// As [`give`], for a hit: each only if its conditions hold.
pub(crate) fn give_for(
    work: &mut Work<'_>,
    list: &[Given],
    subject: CombatantId,
    swing: &Swing,
    because: &Because,
) {
    let mut number = 0;
    for given in list {
        let parties = [Some(because.target), swing.attacker];
        let holds = given.when.is_empty() || because.lets(work, parties, &given.when, number);
        number += given.when.iter().map(conditions::count).sum::<u16>();
        if holds {
            let (status, strength) = (given.status, given.strength);
            let (source, credit) = (swing.attacker, swing.credit);
            apply(work, Giving { subject, status, source, credit, strength, tied: None });
        }
    }
}

/// Applies a status, or does what it says of being applied again, if the subject stands; and all that follows from it.
pub(crate) fn apply(work: &mut Work<'_>, giving: Giving) {
    let before = steps::waiting(work);
    steps::add(work, StatusStep::Apply(giving));
    steps::run(work, before);
}

/// As [`apply`]; what follows waits.
pub(super) fn apply_one(work: &mut Work<'_>, giving: Giving) {
    let Giving { subject, status, source, tied, .. } = giving;
    let authored = work.rules.status(status);
    let strength = strength_of(work.rules, work.state, authored, giving.strength, source);
    if authored.barred_by != 0 {
        let bars = sheet::tags(work.rules, &*work.state, subject.slot()) & authored.barred_by;
        if bars != 0 {
            let why = BarredBy::Tags(bars);
            work.log.publish(StatusRefused { subject, source, status, strength, why });
            return;
        }
    }
    let state = &*work.state;
    // What is tied to a swing is an application of its own, and so is what each source gives apart.
    let same = |application: &Application| {
        application.status == status
            && application.runs()
            && application.tied == tied
            && (authored.stacking != Stacking::PerSource || application.source == source)
    };
    let known = { state.statuses_on(subject) }.filter(|&place| same(&state.applications[place])).last();
    match known {
        Some(_) if tied.is_some() => {}
        Some(place) => again(work, place, authored, &giving, strength),
        None => begin(work, authored, &giving, strength),
    }
}

/// The strength that a status comes to, at least 0: what was given, or that times a stat of its source.
fn strength_of(
    rules: &Rules,
    state: &State,
    authored: &Status,
    given: Fixed,
    source: Option<CombatantId>,
) -> Fixed {
    let (Strength::Captured(stat) | Strength::Live(stat)) = authored.strength else { return given };
    let of_source = match source.filter(|&who| state.combatants.is_present(who)) {
        Some(source) => sheet::stat(rules, state, source.slot(), stat),
        None => rules.stats[stat.index()].base,
    };
    (given * of_source).or_nothing()
}

fn again(work: &mut Work<'_>, place: StatusAt, authored: &Status, giving: &Giving, strength: Fixed) {
    let tick = work.state.tick;
    let anew = authored.lasts.map(|lasts| tick + lasts);
    let (credit, team, source_key) = source_of(work.state, giving);
    let known = &mut work.state.applications[place];
    let (application, subject, status) = (known.id, known.subject, known.status);
    let mut stacked = false;
    match authored.stacking {
        Stacking::Refresh | Stacking::PerSource => known.ends = anew,
        Stacking::Extend => {
            known.ends = known.ends.zip(authored.lasts).map(|(end, more)| end.saturating_add(more))
        }
        Stacking::Strongest if strength > known.strength => {
            (known.given, known.strength, known.ends) = (giving.strength, strength, anew);
            (known.source, known.credit, known.team) = (giving.source, credit, team);
            known.source_key = source_key;
        }
        Stacking::Strongest => {
            let (source, why) = (giving.source, BarredBy::Weaker);
            work.log.publish(StatusRefused { subject, source, status, strength, why });
            return;
        }
        Stacking::Stack(most) => {
            known.ends = anew;
            stacked = known.stacks < most;
            known.stacks += u16::from(stacked);
        }
    }
    let Application { strength, stacks, ends, .. } = *known;
    work.log.publish(if stacked {
        Event::StatusStacked(StatusStacked { application, subject, status, strength, stacks, ends })
    } else {
        Event::StatusRefreshed(StatusRefreshed { application, subject, status, strength, stacks, ends })
    });
    raise_shield(work.rules, work.state, work.log, place);
    changed(work.rules, work.state, work.log, authored, subject);
}

fn source_of(state: &State, giving: &Giving) -> (Option<CombatantId>, Option<TeamId>, u64) {
    let present = giving.source.filter(|&source| state.combatants.is_present(source));
    let combatants = &state.combatants;
    let credit = giving.credit.or(present.map(|source| combatants.credit[source.slot()])).or(giving.source);
    (credit, state.team_of(present), present.map_or(0, |source| combatants.key[source.slot()]))
}

fn begin(work: &mut Work<'_>, authored: &Status, giving: &Giving, strength: Fixed) {
    let Giving { subject, status, source, tied, .. } = *giving;
    let state = &mut *work.state;
    let tick = state.tick;
    let (credit, team, source_key) = source_of(state, giving);
    let id = ApplicationId::new(next(&mut state.next_application), state.registrar.epoch);
    let ends = authored.lasts.map(|lasts| tick + lasts);
    let due = authored.pulse.as_ref().map(|pulse| match pulse.first {
        FirstPulse::After => tick + pulse.every,
        FirstPulse::AtOnce => tick,
    });
    state.applications.push(Application {
        id,
        subject,
        status,
        source,
        credit,
        team,
        source_key,
        given: giving.strength,
        strength,
        stacks: 1,
        tied,
        guarded: Fixed::ZERO,
        suspended: None,
        applied: tick,
        ends,
        due,
        pulses: 0,
        over: false,
    });
    let place = StatusAt::new(state.applications.len() - 1);
    work.rooms.statuses.roots_of_new.push(work.log.source.root);
    let combatants = &mut state.combatants;
    combatants.statuses_of.push(subject.slot(), id);
    work.log.publish(StatusApplied { application: id, subject, source, status, strength, stacks: 1, ends });
    raise_shield(work.rules, work.state, work.log, place);
    steps::add(work, StatusStep::TakeEffect(subject, status));
    supersede(work, authored, subject, id);
}

/// A status that has begun changes the maximum and stuns, if it does.
pub(super) fn take_effect(work: &mut Work<'_>, subject: CombatantId, status: StatusId) {
    let authored = work.rules.status(status);
    changed(work.rules, work.state, work.log, authored, subject);
    if authored.roots {
        work.state.combatants.goal_ticks[subject.slot()] = 0;
    }
    if authored.stuns {
        swing::stun(work, subject);
    }
}

/// Brings the shield of the status at `place` up to what it is worth.
fn raise_shield(rules: &Rules, state: &mut State, log: &mut Log, place: StatusAt) {
    let Application { id, subject, status, strength, stacks, .. } = state.applications[place];
    let Some((shield, points)) = rules.status(status).shield else { return };
    let values = (Fixed::whole(points) * strength * Fixed::whole(stacks.into())).floor();
    let has = {
        let combatants = &state.combatants;
        let mut pools = combatants.shields.iter(subject.slot());
        pools.find(|pool| pool.application == Some(id)).map_or(0, |pool| i64::from(pool.points))
    };
    gauges::raise_shield(state, log, subject, shield, values - has, Some(id));
}

/// Lifts what a new status lifts: the families that it names, and what the tags that it adds lift.
fn supersede(work: &mut Work<'_>, authored: &Status, subject: CombatantId, new: ApplicationId) {
    if authored.lifts == 0 && authored.adds_tags == 0 {
        return;
    }
    steps::add_lifts(
        work.rules,
        work.state,
        &mut work.rooms.statuses,
        subject,
        Why::Superseded,
        |rules, application| {
            let other = rules.status(application.status);
            application.id != new
                && (other.tags & authored.lifts != 0 || other.lifted_by & authored.adds_tags != 0)
        },
    );
}

/// A status that changes the stat on which maxima depend has come, gone or become another.
pub(super) fn changed(
    rules: &Rules,
    state: &mut State,
    log: &mut Log,
    authored: &Status,
    subject: CombatantId,
) {
    if let Some((stat, _)) = rules.maximum
        && authored.stats.iter().any(|change| change.stat == stat)
    {
        gauges::refresh_maximum(rules, state, log, subject, None);
        gauges::refresh_gauges(rules, state, log, subject);
    }
}
