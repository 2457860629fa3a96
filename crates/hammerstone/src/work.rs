//! What a stage of the tick works with: the rules, the state, and scratch memory.

use crate::event::{Event, Fact, Facts, LedgerLine, Link};
use crate::geometry::Impact;
use crate::hooks::{Hearing, KeptTerms};
use crate::ids::*;
use crate::resolve::{Dealt, EchoHarm, Tally};
use crate::ruleset::Rules;
use crate::state::{State, next};

/// Memory that is used again each tick and decides nothing.
#[derive(Clone, Debug, Default)]
pub(crate) struct Scratch {
    pub(crate) facts: Vec<Fact>,
    pub(crate) ledger: Vec<LedgerLine>,
    pub(crate) assists: Vec<CombatantId>,
    pub(crate) chains: Vec<Link>,
    pub(crate) detection: crate::detect::Detection,
    pub(crate) meetings: Vec<Meeting>,
    pub(crate) listeners: crate::tick::Listeners,
    /// Who harmed one who falls.
    pub(crate) harmers: Vec<crate::state::Harmer>,
    /// The places of statuses whose beat or end is due.
    pub(crate) due: Vec<usize>,
    /// What intercepts attached to the blow that is being resolved.
    pub(crate) terms: KeptTerms,
    pub(crate) tally: Tally,
    pub(crate) dealt: Vec<Dealt>,
    pub(crate) echoes: Vec<EchoHarm>,
    pub(crate) gifts: Vec<crate::ruleset::Gift>,
    pub(crate) source: Source,
    pub(crate) keep_ledgers: bool,
}

impl Scratch {
    pub(crate) fn clear_facts(&mut self) {
        self.facts.clear();
        self.ledger.clear();
        self.assists.clear();
        self.chains.clear();
    }

    /// Forgets everything that belongs to another state, and keeps the memory.
    pub(crate) fn forget(&mut self) {
        self.clear_facts();
        self.meetings.clear();
        self.terms.clear();
        self.echoes.clear();
        self.detection.leaving.clear();
        self.detection.beams.clear();
        self.listeners.current = false;
        self.source = Source::default();
    }
}

/// Where the facts come from that are being published.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Source {
    pub(crate) heard: Option<(u64, HookId)>,
    pub(crate) pass: u16,
    pub(crate) depth: u16,
}

/// A swing and a target that met in this tick.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Meeting {
    pub(crate) swing: SwingId,
    pub(crate) target: CombatantId,
    pub(crate) part: u16,
    pub(crate) impact: Impact,
    /// Which struck list of the swing it is on: a group or a body where these have their own, else 0.
    pub(crate) list: u16,
    /// The thrown body, from 1; 0 if there is none.
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
    pub(crate) hearing: &'a mut dyn Hearing,
}

impl Work<'_> {
    /// Publishes a fact and gives its number.
    pub(crate) fn publish(&mut self, event: Event) -> u64 {
        let seq = next(&mut self.state.next_fact);
        let Source { heard, pass, depth } = self.scratch.source;
        self.scratch.facts.push(Fact {
            seq,
            cause: heard.map(|(seq, _)| seq),
            by: heard.map(|(_, hook)| hook),
            pass,
            depth,
            event,
        });
        seq
    }
}

/// The facts of the tick so far.
pub(crate) fn facts<'a>(state: &State, scratch: &'a Scratch) -> Facts<'a> {
    Facts {
        tick: state.tick,
        facts: &scratch.facts,
        ledger: &scratch.ledger,
        assists: &scratch.assists,
        chains: &scratch.chains,
        counts: state.counts,
    }
}
