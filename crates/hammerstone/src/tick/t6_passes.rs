//! Stage 6: facts to listeners; what they order is carried out in a further pass, until nobody orders anything.

use super::t1_intake;
use crate::budget::Cut;
use crate::event::{EncounterCut, Link, Listener, Range};
use crate::hub;
use crate::work::{Scratch, Source, Work};

pub(super) fn hear(work: &mut Work<'_>) {
    work.scratch.listeners.heard = 0;
    let mut pass = 0;
    loop {
        hub::deliver(work);
        if work.state.pending.is_empty() {
            break;
        }
        pass += 1;
        t1_intake::carry_out_all(work, pass);
    }
    report_cuts(work, pass);
}

/// Publishes what was cut off in this tick, once for each place. Neither rules nor hooks hear it.
pub(super) fn report_cuts(work: &mut Work<'_>, pass: u16) {
    let source = work.scratch.source;
    for place in 0..work.budget.cuts().len() {
        let Cut { place, by, left_out, heard, depth } = work.budget.cuts()[place];
        let chain = chain_to(work.scratch, heard);
        work.scratch.source = Source { heard, pass, depth, root: 0 };
        work.publish(EncounterCut { place, limit: by, left_out, depth, chain });
    }
    work.scratch.source = source;
    work.budget.forget_cuts();
    work.scratch.listeners.heard = work.scratch.facts.len();
}

/// Who led to whom, the latest first.
fn chain_to(scratch: &mut Scratch, heard: Option<(u64, Listener)>) -> Range {
    let start = scratch.chains.len() as u32;
    let mut heard = heard;
    while let Some((seq, by)) = heard {
        let Ok(place) = scratch.facts.binary_search_by_key(&seq, |fact| fact.seq) else { break };
        let fact = &scratch.facts[place];
        scratch.chains.push(Link { seq, by, topic: fact.event.topic(), subject: fact.event.subject() });
        heard = fact.cause.zip(fact.by);
    }
    Range { start, end: scratch.chains.len() as u32 }
}
