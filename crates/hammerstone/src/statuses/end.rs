//! A status ends, or waits for its bearer's return.

use crate::event::{CutAt, StatusExpired, StatusLifted, StatusResumed, StatusSuspended, Why};
use crate::gauges;
use crate::ids::*;
use crate::lifecycle;
use crate::log::Log;
use crate::resolve;
use crate::ruleset::{Rules, Trigger};
use crate::state::{Application, State, StatusAt};
use crate::terms::Life;
use crate::work::Work;

use super::queue::Giving;
use super::{apply, because, steps};

/// Lifts the status at `index`, unless it is over; and all that follows from it.
pub(crate) fn lift(work: &mut Work<'_>, index: StatusAt, why: Why) {
    let before = steps::waiting(work);
    lift_one(work, index, why);
    steps::run(work, before);
}

/// As [`lift`]; what follows waits.
pub(super) fn lift_one(work: &mut Work<'_>, index: StatusAt, why: Why) {
    let Application { id: application, subject, status, over, .. } = work.state.applications[index];
    if over {
        return;
    }
    work.state.end_application(index);
    work.log.publish(StatusLifted { application, subject, status, why });
    gone(work.rules, work.state, work.log, index);
    let rescued = matches!(why, Why::Ordered | Why::Superseded);
    if rescued && work.rules.status(status).kills_on_expiry.is_some() {
        lifecycle::rise(work, subject);
    }
}

/// The status at `index` has lasted its time. What it gives then is applied at once.
pub(crate) fn expire(work: &mut Work<'_>, index: StatusAt) {
    let Application { id: application, subject, status, source, credit, .. } = work.state.applications[index];
    work.state.end_application(index);
    work.log.publish(StatusExpired { application, subject, status, why: Why::Done });
    gone(work.rules, work.state, work.log, index);
    let authored = work.rules.status(status);
    if let Some(damage_type) = authored.kills_on_expiry
        && work.state.combatants.life_of(subject) == Life::Standing
    {
        return resolve::kill_on_expiry(work, subject, damage_type, status, [source, credit]);
    }
    for grant in authored.grants.iter().filter(|grant| grant.on == Trigger::Expiry) {
        let stands = work.state.combatants.life_of(subject) == Life::Standing;
        let parties = [Some(subject), source];
        let holds = grant.when.is_empty()
            || because::holds(work.ruleset, work.level, work.state, None, parties, &grant.when, 0);
        if stands && holds && work.log.allows(|| CutAt::Given(grant.status, Trigger::Expiry)) {
            let strength = grant.strength;
            apply::apply(
                work,
                Giving { subject, status: grant.status, source, credit, strength, tied: None },
            );
        }
    }
}

/// What the status at `index` brought goes with it.
fn gone(rules: &Rules, state: &mut State, log: &mut Log, index: StatusAt) {
    let Application { id, subject, status, .. } = state.applications[index];
    gauges::lapse_shield(state, log, subject, id);
    // Of one who leaves, nothing is looked at any longer.
    if state.combatants.is_present(subject) {
        apply::changed(rules, state, log, rules.status(status), subject);
    }
}

/// Lifts, in the order of applying, every status that runs on `subject` when this begins and for which `goes` says so.
fn lift_each(
    work: &mut Work<'_>,
    subject: CombatantId,
    why: Why,
    goes: impl Fn(&Rules, &Application) -> bool,
) {
    let before = steps::waiting(work);
    steps::add_lifts(work.rules, work.state, &mut work.rooms.statuses, subject, why, goes);
    steps::run(work, before);
}

/// Lifts every status of the families in `tags`.
pub(crate) fn lift_family(work: &mut Work<'_>, subject: CombatantId, tags: u64, why: Why) {
    lift_each(work, subject, why, |rules, application| rules.status(application.status).tags & tags != 0);
}

/// Lifts what `subject` bears by a swing.
pub(crate) fn lift_tied(work: &mut Work<'_>, subject: CombatantId, swing: SwingId, why: Why) {
    lift_each(work, subject, why, |_, application| application.tied == Some(swing));
}

/// Lifts one status that `subject` bears by a swing.
pub(crate) fn lift_one_tied(work: &mut Work<'_>, subject: CombatantId, swing: SwingId, status: StatusId) {
    lift_each(work, subject, Why::Done, |_, application| {
        application.tied == Some(swing) && application.status == status
    });
}

/// Everything that `subject` bears ends, in the order of applying; what lasts across lives waits, unless its bearer is gone.
pub(crate) fn end_all(work: &mut Work<'_>, subject: CombatantId, why: Why) {
    let tick = work.state.tick;
    each_borne(work, subject, |work, index| {
        let Application { id, status, suspended, over, tied, .. } = work.state.applications[index];
        let lasts = work.rules.status(status).across_lives && tied.is_none();
        if matches!(why, Why::Removed | Why::Reset) || !lasts {
            lift(work, index, why);
        } else if suspended.is_none() && !over {
            work.state.applications[index].suspended = Some(tick);
            work.log.publish(StatusSuspended { application: id, subject, status, why });
        }
    });
}

/// What waited for the return of `subject` goes on with what was left of its time.
pub(crate) fn resume(work: &mut Work<'_>, subject: CombatantId) {
    let tick = work.state.tick;
    each_borne(work, subject, |work, index| {
        let application = &mut work.state.applications[index];
        let Some(since) = application.suspended.take() else { return };
        let waited = tick - since;
        application.ends = application.ends.map(|ends| ends.saturating_add(waited));
        application.due = application.due.map(|due| due.saturating_add(waited));
        let Application { id, status, ends, .. } = *application;
        work.log.publish(StatusResumed { application: id, subject, status, ends });
        apply::changed(work.rules, work.state, work.log, work.rules.status(status), subject);
    });
}

/// Goes through what `subject` bears when this begins, by the place of the applications, which is the order of applying.
fn each_borne(work: &mut Work<'_>, subject: CombatantId, mut each: impl FnMut(&mut Work<'_>, StatusAt)) {
    let places = &mut work.rooms.statuses.of_subject;
    let first = places.len();
    places.extend(work.state.statuses_on(subject));
    places[first..].sort_unstable();
    for place in first..places.len() {
        let index = work.rooms.statuses.of_subject[place];
        each(work, index);
    }
    work.rooms.statuses.of_subject.truncate(first);
}
