//! Stage 6: facts to listeners; what they order is carried out in a further pass, until nobody orders anything.

use super::t1_intake;
use crate::event::{Delivery, Event, Fact, Link, Listener, Range};
use crate::flow;
use crate::hooks::{Heard, Listen, Topical};
use crate::ids::*;
use crate::orders::{Orders, Refusal};
use crate::ruleset::Rules;
use crate::sheet;
use crate::state::{Pending, State, Subscription};
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

/// Lets every fact that has not been heard be heard, in the order of the facts: by rules, then by hooks, the higher priority first, of
/// equals the one that subscribed first.
///
/// What is refused as a cascade is published, but nobody reacts to it: what they ordered would be refused again, for ever.
pub(crate) fn deliver(work: &mut Work<'_>) {
    let rules = work.rules;
    if work.state.subscriptions.is_empty() && rules.rule_book.is_empty() {
        work.scratch.listeners.heard = work.scratch.facts.len();
        return;
    }
    derive_listeners(work);
    while let Some(&fact) = work.scratch.facts.get(work.scratch.listeners.heard) {
        let place = work.scratch.listeners.heard;
        work.scratch.listeners.heard += 1;
        if fact.depth > rules.cascade_limit {
            continue;
        }
        if !rules.rule_book.is_empty() {
            flow::hear(work, &fact, place);
        }
        let topic = fact.event.topic().index();
        for i in 0..work.scratch.listeners.by_topic[topic].len() {
            let subscription = work.scratch.listeners.by_topic[topic][i] as usize;
            if hears(rules, work.state, &work.state.subscriptions[subscription], &fact) {
                reach(work, &fact, place, subscription);
            }
        }
    }
}

/// As [`deliver`], for facts that were heard before.
#[cfg(feature = "figures")]
pub(crate) fn deliver_again(work: &mut Work<'_>) {
    work.scratch.listeners.heard = 0;
    work.scratch.watched.clear();
    deliver(work);
    work.state.pending.clear();
}

fn hears(rules: &Rules, state: &State, subscription: &Subscription, fact: &Fact) -> bool {
    let Listen { subject, other, team, tag, .. } = subscription.listen;
    let matches =
        |wanted: Option<CombatantId>, found: Option<CombatantId>| wanted.is_none() || wanted == found;
    fact.seq >= subscription.from
        && subscription.until.is_none_or(|until| fact.seq < until)
        && matches(subject, fact.event.subject())
        && matches(other, fact.event.other())
        && ((team.is_none() && tag.is_none()) || is_of(rules, state, fact.event.subject(), team, tag))
}

fn is_of(
    rules: &Rules,
    state: &State,
    who: Option<CombatantId>,
    team: Option<TeamId>,
    tag: Option<TagId>,
) -> bool {
    let combatants = &state.combatants;
    let here = who.filter(|who| combatants.generation.get(who.slot()) == Some(&who.generation));
    here.is_some_and(|who| {
        team.is_none_or(|team| combatants.team[who.slot()] == team)
            && tag.is_none_or(|tag| sheet::tags(rules, state, who.slot()) & tag.bit() != 0)
    })
}

/// The fact at `place` reaches the hook of the subscription at `place`: it is called, or it is noted for a hook that watches.
fn reach(work: &mut Work<'_>, fact: &Fact, place: usize, subscription: usize) {
    let Work { rules, state, scratch, hearing } = work;
    let Subscription { id, hook, ref listen, ref mut until, .. } = state.subscriptions[subscription];
    if listen.once {
        *until = Some(fact.seq + 1);
    }
    scratch.facts[place].reached += 1;
    if scratch.keep_deliveries {
        let (listener, subscription) = (Listener::Hook(hook), Some(id));
        scratch.deliveries.push(Delivery { seq: fact.seq, listener, subscription, pass: fact.pass });
    }
    if hearing.watches(hook) {
        scratch.watched.push((place as u32, hook));
        return;
    }
    let facts = facts(state, scratch);
    let (view, pending, registrar) = View::beside_orders(rules, state);
    let heard = Heard { fact, event: &fact.event, facts, view };
    let by = Some((fact.seq, Listener::Hook(hook)));
    let mut orders = Orders { queue: pending, registrar, heard: by, depth: fact.depth + 1 };
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
            work.scratch.source.pass = pass;
            cut(work, order);
        }
        fits
    });
    work.state.pending = all;
    given
}

/// An order is refused as a cascade, with what led to it.
pub(crate) fn cut(work: &mut Work<'_>, pending: &Pending) {
    // Too many is as deep as can be: nobody reacts to it either.
    let depth = pending.depth.max(work.rules.cascade_limit + 1);
    let source = work.scratch.source;
    work.scratch.source = Source { heard: pending.heard, depth, ..source };
    let chain = chain_to(work.scratch, pending.heard);
    work.publish(Event::EncounterCut { order: Some(pending.number), depth: pending.depth, chain });
    t1_intake::refuse(work, pending, Refusal::Cascade);
    work.scratch.source = source;
}

/// Who led to whom, the latest first.
fn chain_to(scratch: &mut Scratch, heard: Option<(u64, Listener)>) -> Range {
    let start = scratch.chains.len() as u32;
    let first = scratch.facts.first().map_or(0, |fact| fact.seq);
    let mut heard = heard;
    while let Some((seq, by)) = heard {
        let Some(fact) = seq.checked_sub(first).and_then(|i| scratch.facts.get(i as usize)) else { break };
        scratch.chains.push(Link { seq, by, topic: fact.event.topic(), subject: fact.event.subject() });
        heard = fact.cause.zip(fact.by);
    }
    Range { start, end: scratch.chains.len() as u32 }
}

impl Listeners {
    /// Takes in the subscription at `place` of the table, if it is the last; else all are looked at anew.
    pub(crate) fn subscribed(&mut self, rules: &Rules, state: &State, place: usize) {
        if self.current && place + 1 == state.subscriptions.len() {
            self.take_in(rules, &state.subscriptions, place);
        } else {
            self.current = false;
        }
    }

    /// Puts the subscription at `place`, which is later than all that are there, behind those of its priority.
    fn take_in(&mut self, rules: &Rules, table: &[Subscription], place: usize) {
        let listen = &table[place].listen;
        let mut put = |topic: TopicId| {
            let list = &mut self.by_topic[topic.index()];
            let before = |other: &u32| table[*other as usize].listen.priority >= listen.priority;
            list.insert(list.partition_point(before), place as u32);
        };
        match listen.topical {
            Topical::Exact(topic) => put(topic),
            Topical::Family(family) => rules.topics.members(family).iter().copied().for_each(put),
            Topical::Everything => (0..rules.topics.count()).map(TopicId::new).for_each(put),
        }
    }
}

fn derive_listeners(work: &mut Work<'_>) {
    let listeners = &mut work.scratch.listeners;
    if std::mem::replace(&mut listeners.current, true) {
        return;
    }
    listeners.by_topic.iter_mut().for_each(Vec::clear);
    listeners.by_topic.resize(work.rules.topics.count(), Vec::new());
    for place in 0..work.state.subscriptions.len() {
        listeners.take_in(work.rules, &work.state.subscriptions, place);
    }
}
