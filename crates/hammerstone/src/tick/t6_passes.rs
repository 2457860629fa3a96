//! Stage 6: facts to listeners; what they order is carried out in a further pass, until nobody orders anything.

use super::t1_intake;
use crate::event::{Event, Fact, Link, Range};
use crate::hooks::{Heard, Topical};
use crate::ids::*;
use crate::orders::{Orders, Refusal};
use crate::state::{State, Subscription};
use crate::view::View;
use crate::work::{Scratch, Source, Work, facts};

/// Who hears each topic, derived from the subscription table whenever that has changed.
#[derive(Clone, Debug, Default)]
pub(crate) struct Listeners {
    /// For each topic, places in the subscription table in the order of hearing.
    by_topic: Vec<Vec<u32>>,
    /// Whether this still follows from the table. Set to false by whatever changes or replaces the table.
    pub(crate) current: bool,
    /// How many of the tick's facts have been heard.
    heard: usize,
}

pub(super) fn hear(work: &mut Work<'_>) {
    work.scratch.listeners.heard = 0;
    let mut pass = 0;
    let mut given = 0;
    loop {
        deliver(work);
        if work.state.pending.is_empty() {
            break;
        }
        pass += 1;
        given = cut_cascades(work, given, pass);
        t1_intake::carry_out_all(work, pass);
    }
}

/// Calls the listeners of every fact that has not been heard, in the order of the facts.
///
/// What is refused as a cascade is published, but no hook reacts to it: what it ordered would be refused again, for ever.
pub(super) fn deliver(work: &mut Work<'_>) {
    if work.state.subscriptions.is_empty() {
        work.scratch.listeners.heard = work.scratch.facts.len();
        return;
    }
    derive_listeners(work);
    while let Some(&fact) = work.scratch.facts.get(work.scratch.listeners.heard) {
        work.scratch.listeners.heard += 1;
        if fact.depth > work.rules.cascade_limit {
            continue;
        }
        let topic = fact.event.topic();
        for i in 0..work.scratch.listeners.by_topic[topic.index()].len() {
            let place = work.scratch.listeners.by_topic[topic.index()][i] as usize;
            let subscription = &mut work.state.subscriptions[place];
            if hears(subscription, &fact) {
                if subscription.listen.once {
                    subscription.until = Some(fact.seq + 1);
                }
                let hook = subscription.hook;
                call(work, &fact, hook);
            }
        }
    }
}

fn hears(subscription: &Subscription, fact: &Fact) -> bool {
    let matches =
        |wanted: Option<CombatantId>, found: Option<CombatantId>| wanted.is_none() || wanted == found;
    fact.seq >= subscription.from
        && subscription.until.is_none_or(|until| fact.seq < until)
        && matches(subscription.listen.subject, fact.event.subject())
        && matches(subscription.listen.other, fact.event.other())
}

fn call(work: &mut Work<'_>, fact: &Fact, hook: HookId) {
    let Work { rules, state, scratch, hearing } = work;
    let facts = facts(state, scratch);
    let State { tick, pending, registrar, combatants, swings, flying, applications, .. } = &mut **state;
    let view = View { rules, tick: *tick, combatants, swings, flying, applications };
    let heard = Heard { fact, event: &fact.event, facts, view };
    let mut orders =
        Orders { queue: pending, registrar, heard: Some((fact.seq, hook)), depth: fact.depth + 1 };
    hearing.hear(hook, &heard, &mut orders);
}

/// Refuses those of the pending orders that lie too deep, or are too many for one tick. Gives the number of orders so far.
fn cut_cascades(work: &mut Work<'_>, given: u32, pass: u16) -> u32 {
    let pending = work.state.pending.len() as u32;
    let (limit, most) = (work.rules.cascade_limit, work.rules.cascade_orders);
    let deep = work.state.pending.iter().any(|order| order.depth > limit);
    if !deep && given.saturating_add(pending) <= most {
        return given + pending;
    }
    let mut given = given;
    let mut all = std::mem::take(&mut work.state.pending);
    all.retain(|order| {
        let fits = order.depth <= limit && given < most;
        if fits {
            given += 1;
        } else {
            // Too many is as deep as can be: nobody reacts to it either.
            let depth = order.depth.max(limit + 1);
            work.scratch.source = Source { heard: order.heard, pass, depth };
            let chain = chain_to(work.scratch, order.heard);
            work.publish(Event::EncounterCut { order: Some(order.number), depth: order.depth, chain });
            t1_intake::refuse(work, order, Refusal::Cascade);
        }
        fits
    });
    work.state.pending = all;
    given
}

/// Who led to whom, the latest first.
fn chain_to(scratch: &mut Scratch, heard: Option<(u64, HookId)>) -> Range {
    let start = scratch.chains.len() as u32;
    let first = scratch.facts.first().map_or(0, |fact| fact.seq);
    let mut heard = heard;
    while let Some((seq, hook)) = heard {
        let Some(fact) = seq.checked_sub(first).and_then(|i| scratch.facts.get(i as usize)) else { break };
        scratch.chains.push(Link { seq, hook, topic: fact.event.topic(), subject: fact.event.subject() });
        heard = fact.cause.zip(fact.by);
    }
    Range { start, end: scratch.chains.len() as u32 }
}

fn derive_listeners(work: &mut Work<'_>) {
    let table = &work.state.subscriptions;
    let listeners = &mut work.scratch.listeners;
    if std::mem::replace(&mut listeners.current, true) {
        return;
    }
    listeners.by_topic.iter_mut().for_each(Vec::clear);
    listeners.by_topic.resize(work.rules.topics.count(), Vec::new());
    for (place, subscription) in table.iter().enumerate() {
        let place = place as u32;
        match subscription.listen.topical {
            Topical::Exact(topic) => listeners.by_topic[topic.index()].push(place),
            Topical::Family(family) => {
                for topic in work.rules.topics.members(family) {
                    listeners.by_topic[topic.index()].push(place);
                }
            }
            Topical::Everything => listeners.by_topic.iter_mut().for_each(|list| list.push(place)),
        }
    }
    for list in &mut listeners.by_topic {
        list.sort_by_key(|&place| {
            let subscription = &table[place as usize];
            (std::cmp::Reverse(subscription.listen.priority), subscription.number)
        });
    }
}
