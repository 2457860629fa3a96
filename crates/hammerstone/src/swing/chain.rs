//! Chains: one attack follows on another, if the attacker presses in time.

use crate::event::{AttackChained, AttackLapsed, SwingEnd};
use crate::gauges;
use crate::state::SwingAt;
use crate::work::Work;

use super::press;

/// Chains whose press has come go on; those whose input window has closed without one lapse. From the last place to the first,
/// since steps go while they are gone through.
pub(crate) fn go_on_or_lapse(work: &mut Work<'_>) {
    let tick = work.state.tick;
    for place in (0..work.state.steps.len()).rev() {
        let (subject, step) = work.state.steps[place];
        let slot = subject.slot();
        // While its clock stands, the input window stands too.
        if work.state.is_stopped(subject) {
            let (_, step) = &mut work.state.steps[place];
            (step.opens, step.lapses) = (step.opens + 1, step.lapses + 1);
            continue;
        }
        match step.pressed {
            Some(swing) if tick >= step.opens => {
                let running = SwingAt::all(&work.state.swings).find(|&place| {
                    let s = &work.state.swings[place];
                    s.attacker == Some(subject) && s.attack == step.from && s.ended.is_none()
                });
                if let Some(index) = running {
                    super::end_swing(work, index, SwingEnd::Done);
                }
                // Something else that binds the hands goes first, and what it costs must be there; the press is lost with the chain.
                let ready = gauges::is_ready(work.rules, work.state, subject, step.next, work.state.tick);
                if work.state.combatants.running[slot] > 0 || ready.is_err() {
                    work.state.set_step(subject, None);
                    work.log.publish(AttackLapsed { subject, attack: step.next });
                    continue;
                }
                work.log.publish(AttackChained { subject, attack: step.next, swing });
                press::begin_paid(work, subject, swing, step.next, None);
                // Beginning has noted the step after it, if there is one; otherwise the chain is over.
                if work.state.step_of(subject) == Some(step) {
                    work.state.set_step(subject, None);
                }
            }
            None if tick >= step.lapses => {
                work.state.set_step(subject, None);
                work.log.publish(AttackLapsed { subject, attack: step.next });
            }
            _ => {}
        }
    }
}
