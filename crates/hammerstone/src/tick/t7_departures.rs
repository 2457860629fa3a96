//! Stage 7: the fallen whose time is up are removed; an end that was ordered takes place; places are freed.

use super::t6_passes;
use crate::event::{Event, SwingEnd, Why};
use crate::lifecycle;
use crate::state::{Flow, Life};
use crate::statuses;
use crate::work::{Source, Work};

pub(super) fn settle(work: &mut Work<'_>) {
    work.scratch.source = Source::default();
    remove_the_fallen(work);
    if let Flow::Ending(outcome) = work.state.flow {
        end_everything(work);
        work.state.flow = Flow::Ended(outcome);
        work.publish(Event::EncounterEnded { outcome });
    }
    // What is ordered in answer to a departure waits for the next tick.
    t6_passes::deliver(work);
    for order in &mut work.state.pending {
        order.depth = 0;
    }
    free_places(work);
}

fn remove_the_fallen(work: &mut Work<'_>) {
    for slot in 0..work.state.combatants.slots() {
        let combatants = &work.state.combatants;
        if combatants.life[slot] == Life::Fallen {
            let lies = work.rules.cast(combatants.cast[slot]).lies;
            if lies.is_some_and(|lies| work.state.tick - combatants.fell[slot] >= lies) {
                let subject = combatants.id(slot);
                lifecycle::remove(work, subject, Why::Fallen);
            }
        }
    }
}

fn end_everything(work: &mut Work<'_>) {
    for index in 0..work.state.swings.len() {
        lifecycle::end_swing(work, index, SwingEnd::Cancelled);
    }
    for index in 0..work.state.applications.len() {
        statuses::lift(work, index, Why::Over);
    }
}

fn free_places(work: &mut Work<'_>) {
    let state = &mut *work.state;
    let (marks, contacts, captured) = (&mut state.marks, &mut state.contacts, &mut state.captured);
    state.swings.retain_mut(|swing| {
        if swing.ended.is_some() {
            marks.clear(&mut swing.marks);
            contacts.clear(&mut swing.contacts);
            captured.clear(&mut swing.captured);
        }
        swing.ended.is_none()
    });
    state.flying.retain(|body| body.ended.is_none());
    state.applications.retain(|application| !application.over);
    if state.subscriptions.iter().any(|subscription| subscription.until.is_some()) {
        state.subscriptions.retain(|subscription| subscription.until.is_none());
        work.scratch.listeners.current = false;
    }
    for id in work.scratch.detection.leaving.drain(..) {
        state.registrar.release(id);
    }
}
