//! Starts: at once, in place of a swing that may be cancelled, or once they are possible.

use crate::event::{AttackLapsed, SwingEnd};
use crate::gauges;
use crate::geometry::Pose;
use crate::ids::*;
use crate::ruleset::Rules;
use crate::sheet;
use crate::state::{Charging, Press, State, SwingAt};
use crate::statuses;
use crate::tempo;
use crate::terms::{Life, NEVER, NORMAL, Refusal};
use crate::work::Work;

use super::{begin, end_swing};

/// Whether a combatant who stands and is in no chain could start an attack in the tick `now`.
pub(crate) fn may_start(
    rules: &Rules,
    state: &State,
    subject: CombatantId,
    attack: AttackId,
    now: u32,
) -> Result<(), Refusal> {
    let busy = !rules.attack(attack).alongside && state.combatants.running[subject.slot()] > 0;
    if busy && gauges::cancelled_by(rules, state, subject, attack).is_none() {
        return Err(Refusal::Busy { ticks: frees_in(rules, state, subject, now) });
    }
    gauges::is_ready(rules, state, subject, attack, now)
}

/// In how many ticks from `now` the hands of a combatant are free, if no hit stops its clock.
fn frees_in(rules: &Rules, state: &State, subject: CombatantId, now: u32) -> u32 {
    let busy = |&at: &SwingAt| {
        let swing = &state.swings[at];
        swing.attacker == Some(subject) && swing.busy && swing.ended.is_none()
    };
    let of_swing = |at: SwingAt| {
        let swing = &state.swings[at];
        let plan = rules.attack_plan(swing.attack);
        let pace = u32::from(tempo::pace(rules, state, at, swing.launched));
        if rules.attack(swing.attack).marked.is_some()
            || matches!(swing.charging, Charging::Held(..))
            || pace == 0
        {
            return NEVER;
        }
        let left = plan.frees.saturating_sub(swing.clock).saturating_mul(u32::from(NORMAL));
        let stopped = (state.combatants.stopped_until[subject.slot()] + 1).saturating_sub(now);
        let ticks = left.saturating_sub(swing.left_over.into()).div_ceil(pace);
        ticks.max(1).saturating_add(if swing.launched { 0 } else { stopped })
    };
    let bound = state.combatants.running[subject.slot()].into();
    SwingAt::all(&state.swings).filter(busy).take(bound).map(of_swing).max().unwrap_or(NEVER)
}

/// Starts an attack, or has the start wait, as its attack says; a start that waited before is given up for it.
pub(crate) fn start(work: &mut Work<'_>, subject: CombatantId, press: Press) {
    if let Err(place) = work.state.presses.binary_search_by_key(&subject, |(who, _)| *who) {
        if may_start(work.rules, work.state, subject, press.attack, work.state.tick).is_ok() {
            return begin_now(work, subject, press.swing, press.attack, press.aim);
        }
        work.state.presses.insert(place, (subject, press));
        return;
    }
    drop_press(work.state, subject).into_iter().for_each(|earlier| {
        work.log.publish(AttackLapsed { subject, attack: earlier.attack });
    });
    start(work, subject, press);
}

/// The start that waits is given up.
pub(crate) fn drop_press(state: &mut State, subject: CombatantId) -> Option<Press> {
    let place = state.presses.binary_search_by_key(&subject, |(who, _)| *who).ok()?;
    Some(state.presses.remove(place).1)
}

/// Starts that have waited until now are carried out once they can be, and lapse when their time is up.
pub(crate) fn start_waiting(work: &mut Work<'_>) {
    let mut place = 0;
    while place < work.state.presses.len() {
        let (subject, press) = work.state.presses[place];
        let stands = work.state.combatants.life_of(subject) == Life::Standing
            && !sheet::is_stunned(work.rules, &*work.state, subject.slot());
        if stands && may_start(work.rules, work.state, subject, press.attack, work.state.tick).is_ok() {
            work.state.presses.remove(place);
            work.log.begin_root();
            begin_now(work, subject, press.swing, press.attack, press.aim);
        } else if !stands || work.state.tick >= press.until {
            work.state.presses.remove(place);
            work.log.publish(AttackLapsed { subject, attack: press.attack });
        } else {
            place += 1;
        }
    }
}

/// An attack starts that may: what it takes the place of is cancelled, and what it costs is paid.
fn begin_now(work: &mut Work<'_>, subject: CombatantId, swing: SwingId, attack: AttackId, aim: Option<Pose>) {
    if !work.rules.attack(attack).alongside
        && let Some(index) = gauges::cancelled_by(work.rules, work.state, subject, attack)
    {
        work.state.set_step(subject, None);
        end_swing(work, index, SwingEnd::Cancelled);
    }
    begin_paid(work, subject, swing, attack, aim);
}

/// An attack begins, and what it costs is paid.
pub(super) fn begin_paid(
    work: &mut Work<'_>,
    subject: CombatantId,
    swing: SwingId,
    attack: AttackId,
    aim: Option<Pose>,
) {
    begin::begin_ordered(work.rules, work.state, work.log, swing, subject, attack, aim);
    gauges::spend_start(work.rules, work.state, subject, attack);
    statuses::pay_start(work, subject, attack);
}
