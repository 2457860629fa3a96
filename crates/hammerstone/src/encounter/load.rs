//! What a tick had to do, counted when it is over.

use crate::event::Counts;
use crate::log::{Load, Log};
use crate::state::State;
use crate::work::Rooms;

/// What the tick had to do that has just run, where these were the counts and the number of the next fact before it.
pub(super) fn load(state: &State, log: &Log, rooms: &Rooms, before: Counts, first_fact: u64) -> Load {
    let detection = &rooms.detection;
    let hitboxes = detection.hitboxes.len() as u32;
    let open = |count: usize| if hitboxes > 0 { count as u32 } else { 0 };
    Load {
        swings: state.swings.len() as u32,
        hitboxes,
        bodies: open(detection.bodies.len()),
        touches: open(detection.touches.len()),
        attempts: (state.counts.attempts - before.attempts) as u32,
        statuses: state.applications.len() as u32,
        facts: (state.next_fact - first_fact) as u32,
        heard: log.tick.facts.iter().map(|fact| fact.reached).sum(),
        ..log.load
    }
}
