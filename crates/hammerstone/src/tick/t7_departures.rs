//! Stage 7: the dead whose time is up are removed, or away until they return; those whose time has come return, and waves join; an
//! end or a reset that was ordered takes place; places are freed.

use super::t6_passes;
use crate::budget::Source;
use crate::event::{CountsSoFar, EncounterEnded, HostValue, SwingEnd, Text, Why};
use crate::flow;
use crate::geometry::Pose;
use crate::orders::{Order, Poses};
use crate::state::{Flow, State};
use crate::work::{Departures, Work};

pub(super) fn settle(work: &mut Work<'_>) {
    work.log.source = Source::default();
    if !matches!(work.state.flow, Flow::Ended(_)) {
        flow::lay_to_rest(work);
        flow::arise(work);
        flow::advance_waves(work);
    }
    if let Flow::Ending(outcome) = work.state.flow {
        flow::end_everything(work, SwingEnd::Cancelled, Why::Over);
        work.state.flow = Flow::Ended(outcome);
        work.log.publish(EncounterEnded { outcome, counts: CountsSoFar });
    }
    // What is ordered in answer to a departure waits for the next tick.
    crate::hub::deliver(work);
    // Hooks that pose parts do so for the next tick.
    work.state.pending.append(&mut work.rooms.detection.posed.waiting);
    if work.state.resets {
        flow::startup(work);
    }
    t6_passes::report_cuts(work, 0);
    for order in &mut work.state.pending {
        (order.depth, order.root) = (0, 0);
    }
    // As long as all that facts name has its place.
    crate::hub::keep_keys(work);
    free_places(work);
    keep_poses(work.state);
    keep_text(work.state);
    flow::forget_readings(work.state);
}

/// Of the poses that were given only those are kept that orders which wait name, and what lies between them.
fn keep_poses(state: &mut State) {
    let State { pending, given_poses, .. } = state;
    let (mut first, mut end) = (u32::MAX, 0);
    for order in &mut *pending {
        if let Some(poses) = order.order.poses() {
            if poses.of(given_poses).is_none_or(<[Pose]>::is_empty) {
                *poses = Poses::NONE;
                continue;
            }
            (first, end) = (first.min(poses.first), end.max(poses.first + poses.count));
        }
    }
    given_poses.truncate(end as usize);
    given_poses.drain(..given_poses.len().min(first as usize));
    for order in pending {
        if let Some(poses) = order.order.poses()
            && poses.count > 0
        {
            poses.first -= first;
        }
    }
}

/// The same of texts.
fn keep_text(state: &mut State) {
    let State { pending, given_text, .. } = state;
    if given_text.is_empty() {
        return;
    }
    let texts = |order: &mut Order, act: &mut dyn FnMut(&mut Text)| match order {
        Order::Publish { values, .. } => {
            for value in values {
                if let HostValue::Text(text) = value {
                    act(text);
                }
            }
        }
        Order::TellChoice { texts, .. } => texts.iter_mut().for_each(act),
        _ => {}
    };
    let (mut first, mut end) = (u32::MAX, 0);
    for order in &mut *pending {
        texts(&mut order.order, &mut |text| {
            if text.of(given_text).is_some() {
                (first, end) = (first.min(text.start), end.max(text.start + text.len));
            } else {
                *text = Text::NONE;
            }
        });
    }
    given_text.truncate(end as usize);
    given_text.drain(..given_text.len().min(first as usize));
    for order in pending {
        texts(&mut order.order, &mut |text| {
            if text.start != u32::MAX {
                text.start -= first;
            }
        });
    }
}

fn free_places(work: &mut Work<'_>) {
    let Work { state, log, rooms, .. } = &mut *work;
    let (marks, contacts, captured) = (&mut state.struck, &mut state.contacts, &mut state.captured);
    let hitbox_poses = &mut state.hitbox_poses;
    state.swings.retain_mut(|swing| {
        if swing.ended.is_some() {
            for mark in marks.items(swing.struck) {
                rooms.known.struck.remove(marks, swing.id, mark.target, |_| false);
            }
            for contact in contacts.items(swing.contacts) {
                rooms.known.contacts.remove(contacts, swing.id, contact.target, |_| false);
            }
            marks.clear(&mut swing.struck);
            contacts.clear(&mut swing.contacts);
            captured.clear(&mut swing.captured);
            hitbox_poses.clear(&mut swing.guided);
        }
        swing.ended.is_none()
    });
    state.flying.retain(|body| body.ended.is_none());
    state.applications.retain(|application| !application.over);
    if state.subscriptions.iter().any(|subscription| subscription.until.is_some()) {
        state.subscriptions.retain(|subscription| subscription.until.is_none());
        rooms.listeners.current = false;
    }
    if !state.pauses.is_empty() {
        let known = |id| state.subscriptions.binary_search_by_key(&id, |known| known.id).is_ok();
        let before = state.pauses.len();
        state.pauses.retain(|pause| pause.to.is_none() && known(pause.id));
        rooms.listeners.current &= state.pauses.len() == before;
    }
    rooms.listeners.current &= !std::mem::take(&mut rooms.listeners.fresh);
    if !rooms.listeners.current {
        log.heard_topics.clear();
    }
    let Departures { leaving, gone } = &mut rooms.departures;
    if !leaving.is_empty() {
        gone.clone_from(leaving);
        gone.sort_unstable();
        state.fired_in_life.retain(|(who, ..)| gone.binary_search(who).is_err());
        state.rolled.retain(|(who, ..)| who.is_none_or(|who| gone.binary_search(&who).is_err()));
    }
    for id in leaving.drain(..) {
        state.registrar.release(id);
    }
}
