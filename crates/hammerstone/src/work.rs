//! What a stage of the tick works with: the rules, the state, and scratch memory.

use crate::budget::Budget;
use crate::event::{CutAt, Declined, Delivery, Event, Fact, Facts, LedgerLine, Link, Listener, Stage};
use crate::geometry::Impact;
use crate::hooks::{Hearing, KeptTerms};
use crate::ids::*;
use crate::lookup::Lookup;
use crate::orders::Order;
use crate::resolve::{Dealt, PassedDamage, Tally};
use crate::ruleset::Rules;
use crate::state::{Counts, State, next};
use crate::statuses::StatusStep;

/// Memory that is used again each tick and decides nothing.
#[derive(Clone, Debug, Default)]
pub(crate) struct Scratch {
    pub(crate) facts: Vec<Fact>,
    pub(crate) ledger: Vec<LedgerLine>,
    pub(crate) assists: Vec<CombatantId>,
    pub(crate) chains: Vec<Link>,
    pub(crate) values: Vec<(ValueId, i64)>,
    pub(crate) deliveries: Vec<Delivery>,
    pub(crate) declined: Vec<Declined>,
    /// What reached watching hooks: facts by their place, and the hook.
    pub(crate) watched: Vec<(u32, HookId)>,
    /// The epoch and the tick of the facts; and the counts, if the state has begun anew since.
    pub(crate) epoch: u32,
    pub(crate) tick: u32,
    pub(crate) counts: Option<Counts>,
    /// Whether the encounter begins anew when the tick is over.
    pub(crate) resets: bool,
    pub(crate) keep_deliveries: bool,
    pub(crate) only_wanted: bool,
    /// What a rule orders.
    pub(crate) orders: Vec<Order>,
    pub(crate) detection: crate::detect::Detection,
    pub(crate) candidates: Vec<HitCandidate>,
    /// Where struck entries and contacts stand.
    pub(crate) marks: Lookup,
    pub(crate) contacts: Lookup,
    pub(crate) listeners: crate::hub::Listeners,
    /// Those whose places become free, by their places.
    pub(crate) gone: Vec<CombatantId>,
    /// Who damaged one who dies.
    pub(crate) contributors: Vec<crate::state::Contributor>,
    /// The places of what a combatant bears.
    pub(crate) statuses_of: Vec<usize>,
    /// The places of statuses whose pulse or end is due.
    pub(crate) due: Vec<usize>,
    /// What intercepts attached to the blow that is being resolved.
    pub(crate) terms: KeptTerms,
    pub(crate) tally: Tally,
    pub(crate) dealt: Vec<Dealt>,
    pub(crate) echoes: Vec<PassedDamage>,
    /// What statuses still have to do, the next last; and the roots of those that began in this tick.
    pub(crate) status_steps: Vec<StatusStep>,
    pub(crate) roots_of_new: Vec<u32>,
    pub(crate) source: Source,
    pub(crate) keep_ledgers: bool,
    /// The stage of the tick that runs; none between ticks.
    pub(crate) stage: Option<Stage>,
}

impl Scratch {
    pub(crate) fn clear_facts(&mut self) {
        self.facts.clear();
        self.ledger.clear();
        self.assists.clear();
        self.chains.clear();
        self.values.clear();
        self.deliveries.clear();
        self.declined.clear();
        self.watched.clear();
        self.counts = None;
        self.roots_of_new.clear();
    }

    /// Forgets everything that belongs to another state, and keeps the memory.
    pub(crate) fn forget(&mut self) {
        self.clear_facts();
        self.forget_all_but_facts();
    }

    /// The same after a reset: the facts of the tick may still be read.
    pub(crate) fn forget_all_but_facts(&mut self) {
        self.candidates.clear();
        self.terms.clear();
        self.echoes.clear();
        self.detection.leaving.clear();
        self.detection.beams.clear();
        self.detection.hitboxes.clear();
        self.listeners.current = false;
        self.marks.forget();
        self.contacts.forget();
        self.source = Source::default();
    }
}

/// Where the facts come from that are being published.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Source {
    pub(crate) heard: Option<(u64, Listener)>,
    pub(crate) pass: u16,
    pub(crate) depth: u16,
    pub(crate) root: u32,
}

/// A swing and a target that met in this tick.
#[derive(Clone, Copy, Debug)]
pub(crate) struct HitCandidate {
    pub(crate) swing: SwingId,
    pub(crate) target: CombatantId,
    pub(crate) part: u16,
    pub(crate) impact: Impact,
    /// Which struck list of the swing it is on: a group or a body where these have their own, else 0.
    pub(crate) list: u16,
    /// The projectile, from 1; 0 if there is none.
    pub(crate) body: u16,
    /// How far along a beam, in metres; 0 for what is none.
    pub(crate) depth: f32,
    /// What the attack prefers about the part; less is better.
    pub(crate) rank: i64,
}

/// The stage's one argument.
pub(crate) struct Work<'a> {
    pub(crate) rules: &'a Rules,
    pub(crate) state: &'a mut State,
    pub(crate) scratch: &'a mut Scratch,
    pub(crate) budget: &'a mut Budget,
    pub(crate) hearing: &'a mut dyn Hearing,
}

impl Work<'_> {
    /// What is published from here on follows from a new root.
    pub(crate) fn begin_root(&mut self) {
        self.scratch.source.root = self.budget.root();
    }

    /// The root from which the fact at `place` follows: one of its own if the tick's stages published it by themselves.
    pub(crate) fn root_of(&mut self, place: usize) -> u32 {
        let fact = &mut self.scratch.facts[place];
        if fact.root == 0 {
            fact.root = self.budget.root();
        }
        fact.root
    }

    /// The topic of a fact of this tick.
    pub(crate) fn topic_of(&self, seq: u64) -> Option<TopicId> {
        let facts = &self.scratch.facts;
        let place = facts.binary_search_by_key(&seq, |fact| fact.seq).ok()?;
        Some(facts[place].event.topic())
    }

    /// Whether one thing more may follow from what is being carried out; see [`Budget::allows`].
    pub(crate) fn allows(&mut self, place: impl FnOnce() -> CutAt) -> bool {
        self.budget.allows(self.scratch.source, place)
    }

    /// Publishes a fact and gives its number.
    pub(crate) fn publish(&mut self, payload: impl Into<Event>) -> u64 {
        let event = payload.into();
        debug_assert!(
            self.scratch.stage.is_none_or(|stage| event.info().stages.contains(&stage)),
            "the table of facts does not say that {} is published by {:?}",
            event.info().path,
            self.scratch.stage,
        );
        let seq = next(&mut self.state.next_fact);
        if self.scratch.only_wanted && !self.scratch.listeners.want(self.rules, event.topic()) {
            return seq;
        }
        let Source { heard, pass, depth, root } = self.scratch.source;
        self.scratch.facts.push(Fact {
            seq,
            cause: heard.map(|(seq, _)| seq),
            by: heard.map(|(_, listener)| listener),
            pass,
            depth,
            reached: 0,
            root,
            event,
        });
        seq
    }
}

/// The facts of the tick so far.
pub(crate) fn facts<'a>(state: &State, scratch: &'a Scratch) -> Facts<'a> {
    Facts {
        epoch: scratch.epoch,
        tick: scratch.tick,
        facts: &scratch.facts,
        ledger: &scratch.ledger,
        assists: &scratch.assists,
        chains: &scratch.chains,
        values: &scratch.values,
        deliveries: &scratch.deliveries,
        declined: &scratch.declined,
        counts: scratch.counts.unwrap_or(state.counts),
    }
}
