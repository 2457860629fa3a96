//! The facts of a tick as they are published, and what they follow from.

use crate::budget::{Budget, Source};
use crate::event::{Counts, CutAt, Event, Fact, Published, Stage, Text, TickFacts};
use crate::ids::*;
use crate::ruleset::Rules;
use crate::state::State;

/// What a tick had to do, in numbers: what its time goes by. Counted in every tick; no part of the state.
#[doc(alias("profiling", "metrics"))]
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
#[non_exhaustive]
pub struct Load {
    /// Orders that were carried out or refused, of the host, of hooks and of rules.
    pub orders: u32,
    /// Those that were refused.
    pub refused_orders: u32,
    /// Swings that ran.
    pub swings: u32,
    /// Hitboxes that were open.
    pub hitboxes: u32,
    /// Combatants that could be struck; 0 where no hitbox was open, so that nobody was looked for.
    pub bodies: u32,
    /// Pairs of a hitbox and a part that touched.
    pub touches: u32,
    /// Attempts to hit.
    pub attempts: u32,
    /// Statuses that run.
    pub statuses: u32,
    /// Facts, also those that were counted and not written.
    pub facts: u32,
    /// Calls of hooks, and firings and refusals of rules to fire.
    pub heard: u32,
    /// Further passes, in which orders of hooks were carried out.
    pub passes: u32,
}

/// Memory that is used again each tick and decides nothing: between ticks it holds the facts of the last one.
/// Takes in facts. It borrows nothing else, so that a stage may publish while it walks through the state.
#[derive(Clone, Debug, Default)]
pub(crate) struct Log {
    /// The facts of the tick with their tables.
    pub(crate) tick: TickFacts,
    /// The number of the next fact. The state has it between ticks.
    next: u64,
    /// Where the facts come from that are being published.
    pub(crate) source: Source,
    /// What may still follow in this tick.
    pub(crate) budget: Budget,
    /// By topic: whether any rule or hook may hear it. Empty where that is not known.
    pub(crate) heard_topics: Vec<bool>,
    /// Whether only those topics are written.
    pub(crate) only_heard: bool,
    pub(crate) keep_ledgers: bool,
    pub(crate) keep_deliveries: bool,
    pub(crate) keep_gates: bool,
    pub(crate) keep_keys: bool,
    /// The stage of the tick that runs; none between ticks.
    pub(crate) stage: Option<Stage>,
    /// What the tick has had to do so far.
    pub(crate) load: Load,
}

impl Log {
    /// A tick begins, whose number the state has.
    pub(crate) fn begin_tick(&mut self, rules: &Rules, state: &State) {
        (self.tick.epoch, self.tick.tick) = (state.registrar.epoch.0, state.tick);
        self.next = state.next_fact;
        self.budget.begin_tick(rules);
    }

    /// The tick is over: the state knows the number of the next fact.
    pub(crate) fn end_tick(&mut self, state: &mut State) {
        state.next_fact = self.next;
        self.stage = None;
        self.tick.counts = state.counts;
    }

    pub(crate) fn clear_facts(&mut self) {
        let TickFacts { facts, ledger, assists, chains, values, deliveries, declined, losses, .. } =
            &mut self.tick;
        facts.clear();
        ledger.clear();
        assists.clear();
        chains.clear();
        values.clear();
        deliveries.clear();
        declined.clear();
        losses.clear();
        self.tick.gates.clear();
        self.tick.keys.clear();
        self.tick.text.clear();
        self.tick.published.clear();
        self.tick.guards.clear();
    }

    /// Forgets everything that belongs to another state, and keeps the memory.
    pub(crate) fn forget(&mut self, counts: Counts) {
        self.clear_facts();
        self.tick.counts = counts;
        self.forget_all_but_facts();
    }

    /// The same after a reset: the facts of the tick may still be read.
    pub(crate) fn forget_all_but_facts(&mut self) {
        self.source = Source::default();
        self.heard_topics.clear();
    }

    /// The number of the next fact.
    pub(crate) fn next(&self) -> u64 {
        self.next
    }

    /// Facts from here on follow from a new root.
    pub(crate) fn begin_root(&mut self) {
        self.source.root = self.budget.root();
    }

    /// The root from which the fact at `place` follows: one of its own if the tick's stages published it by themselves.
    pub(crate) fn root_of(&mut self, place: usize) -> u32 {
        let fact = &mut self.tick.facts[place];
        if fact.root == 0 {
            fact.root = self.budget.root();
        }
        fact.root
    }

    /// The topic of a fact of this tick.
    pub(crate) fn topic_of(&self, seq: u64) -> Option<TopicId> {
        let facts = &self.tick.facts;
        let place = facts.binary_search_by_key(&seq, |fact| fact.seq).ok()?;
        Some(facts[place].event.topic())
    }

    /// Whether one more reaction fits; see [`Budget::allows`].
    pub(crate) fn allows(&mut self, place: impl FnOnce() -> CutAt) -> bool {
        self.budget.allows(self.source, place)
    }

    /// Publishes a fact and gives its number. One that is not written is not put together.
    #[inline]
    pub(crate) fn publish(&mut self, payload: impl Published) -> u64 {
        let seq = self.next;
        self.next += 1;
        if !self.only_heard || self.heard_topics.get(payload.topic().index()) != Some(&false) {
            self.write(seq, payload.into());
        }
        seq
    }

    /// A text that was handed over is from here on one of the tick's.
    pub(crate) fn tell(&mut self, text: Text, given: &[u8]) -> Text {
        let told = &mut self.tick.text;
        let text = text.of(given).unwrap_or_default();
        told.push_str(text);
        Text { start: (told.len() - text.len()) as u32, len: text.len() as u32 }
    }

    fn write(&mut self, seq: u64, event: Event) {
        debug_assert!(
            self.stage.is_none_or(|stage| event.info().stages.contains(&stage)),
            "the table of facts does not say that {} is published by {:?}",
            event.info().path,
            self.stage,
        );
        let Source { heard, pass, depth, root } = self.source;
        self.tick.facts.push(Fact {
            seq,
            cause: heard.map(|(seq, _)| seq),
            by: heard.map(|(_, listener)| listener),
            pass,
            depth,
            reached: 0,
            root,
            event,
        });
    }
}
