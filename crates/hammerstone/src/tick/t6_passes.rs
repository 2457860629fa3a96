//! Stage 6: facts to listeners; what they order is carried out in a further pass, until no one orders anything.

use crate::budget::Cut;
use crate::budget::Source;
use crate::event::{EncounterCut, Link, Listener, Range, TickFacts};
use crate::execute;
use crate::hub;
use crate::work::Work;

pub(super) fn hear(work: &mut Work<'_>) {
    work.rooms.listeners.heard = 0;
    let mut pass = 0;
    loop {
        hub::deliver(work);
        if work.state.pending.is_empty() {
            break;
        }
        pass += 1;
        execute::carry_out_all(work, pass);
    }
    report_cuts(work, pass);
    work.log.load.passes = pass.into();
}

/// Publishes what was cut off in this tick, once for each place. Neither rules nor hooks hear it.
pub(super) fn report_cuts(work: &mut Work<'_>, pass: u16) {
    let source = work.log.source;
    for place in 0..work.log.budget.cuts().len() {
        let Cut { place, by, left_out, heard, depth } = work.log.budget.cuts()[place];
        let chain = chain_to(&mut work.log.tick, heard);
        work.log.source = Source { heard, pass, depth, root: 0 };
        work.log.publish(EncounterCut { place, limit: by, left_out, depth, chain });
    }
    work.log.source = source;
    work.log.budget.forget_cuts();
    work.rooms.listeners.heard = work.log.tick.facts.len();
}

/// Who led to whom, the latest first.
fn chain_to(tick: &mut TickFacts, heard: Option<(u64, Listener)>) -> Range {
    let start = tick.chains.len() as u32;
    let mut heard = heard;
    while let Some((seq, by)) = heard {
        let Ok(place) = tick.facts.binary_search_by_key(&seq, |fact| fact.seq) else { break };
        let fact = &tick.facts[place];
        tick.chains.push(Link { seq, by, topic: fact.event.topic(), subject: fact.event.subject() });
        heard = fact.cause.zip(fact.by);
    }
    Range { start, end: tick.chains.len() as u32 }
}
