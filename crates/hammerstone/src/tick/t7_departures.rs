//! Stage 7: the dead whose time is up are removed, or away until they return; those whose time has come return, and waves join; an
//! end or a reset that was ordered takes place; places are freed.

use super::t6_passes;
use crate::event::{CountsSoFar, EncounterEnded, SwingEnd, Why};
use crate::flow;
use crate::state::Flow;
use crate::work::{Source, Work};

pub(super) fn settle(work: &mut Work<'_>) {
    work.scratch.source = Source::default();
    if !matches!(work.state.flow, Flow::Ended(_)) {
        flow::lay_to_rest(work);
        flow::arise(work);
        flow::advance_waves(work);
    }
    if let Flow::Ending(outcome) = work.state.flow {
        flow::end_everything(work, SwingEnd::Cancelled, Why::Over);
        work.state.flow = Flow::Ended(outcome);
        work.publish(EncounterEnded { outcome, counts: CountsSoFar });
    }
    // What is ordered in answer to a departure waits for the next tick.
    crate::hub::deliver(work);
    if work.state.resets {
        flow::startup(work);
    }
    t6_passes::report_cuts(work, 0);
    for order in &mut work.state.pending {
        (order.depth, order.root) = (0, 0);
    }
    free_places(work);
}

fn free_places(work: &mut Work<'_>) {
    let Work { state, scratch, .. } = &mut *work;
    let (marks, contacts, captured) = (&mut state.marks, &mut state.contacts, &mut state.captured);
    state.swings.retain_mut(|swing| {
        if swing.ended.is_some() {
            for mark in marks.items(swing.marks) {
                scratch.marks.remove(marks, swing.id, mark.target, |_| false);
            }
            for contact in contacts.items(swing.contacts) {
                scratch.contacts.remove(contacts, swing.id, contact.target, |_| false);
            }
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
        scratch.listeners.current = false;
    }
    if std::mem::take(&mut scratch.listeners.fresh) {
        scratch.listeners.current = false;
    }
    let leaving = &mut scratch.detection.leaving;
    if !leaving.is_empty() {
        let mut sorted = std::mem::take(&mut scratch.gone);
        sorted.clone_from(leaving);
        sorted.sort_unstable();
        state.fired_in_life.retain(|(who, ..)| sorted.binary_search(who).is_err());
        scratch.gone = sorted;
    }
    for id in leaving.drain(..) {
        state.registrar.release(id);
    }
}
