//! How much may follow from something within one tick, and what was cut off since it was too much.
//!
//! A *root* is what begins by itself: an order of the host, a blow, a pulse, an expiry, a delayed action, a wave. Whatever follows from
//! it is counted, one for each single target, at the moment at which it is collected: statuses that are given on an occasion, prevented
//! deaths, damage that is passed on, each firing of a rule and each of its reactions, orders of hooks, child attacks. What an attack or a
//! status declares for its own hit is free, and endings are never cut.

use std::collections::BTreeMap;

use crate::event::{CutAt, CutBy, Listener};
use crate::ruleset::Rules;

/// Where the facts come from that are being published.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Source {
    pub(crate) heard: Option<(u64, Listener)>,
    pub(crate) pass: u16,
    pub(crate) depth: u16,
    pub(crate) root: u32,
}

/// What was cut at one place.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Cut {
    pub(crate) place: CutAt,
    pub(crate) by: CutBy,
    /// How many firings, reactions, orders, statuses, … did not begin.
    pub(crate) left_out: u32,
    /// What had been heard where it was first cut, and how deep that lay.
    pub(crate) heard: Option<(u64, Listener)>,
    pub(crate) depth: u16,
}

/// The account of one tick. It is scratch memory: between ticks it is empty.
#[derive(Clone, Debug, Default)]
pub(crate) struct Budget {
    depth: u16,
    per_root: u32,
    per_tick: u32,
    /// What each root of the tick has led to.
    spent: Vec<u32>,
    total: u32,
    /// The place of each cut in the list below.
    places: BTreeMap<CutAt, usize>,
    cuts: Vec<Cut>,
}

impl Budget {
    /// A tick begins.
    pub(crate) fn begin_tick(&mut self, rules: &Rules) {
        (self.depth, self.per_root, self.per_tick) =
            (rules.cascade_depth, rules.cascade_per_root, rules.cascade_per_tick);
        self.total = 0;
        self.spent.clear();
        // The first stands for facts of the tick's own stages that no root claims.
        self.spent.push(0);
        self.forget_cuts();
    }

    /// A new root.
    pub(crate) fn root(&mut self) -> u32 {
        self.spent.push(0);
        self.spent.len() as u32 - 1
    }

    /// Whether one thing more may follow from `source`. It is counted if it may, and noted as cut if not.
    ///
    /// Outside a tick everything may.
    pub(crate) fn allows(&mut self, source: Source, place: impl FnOnce() -> CutAt) -> bool {
        let Some(spent) = self.spent.get_mut(source.root as usize) else { return true };
        let by = if source.depth > self.depth {
            CutBy::Depth
        } else if self.total >= self.per_tick {
            CutBy::Tick
        } else if *spent >= self.per_root {
            CutBy::Root
        } else {
            *spent += 1;
            self.total += 1;
            return true;
        };
        self.note(source, by, place());
        false
    }

    /// Whether nothing more may follow from `source`, without counting anything.
    pub(crate) fn is_spent(&self, source: Source) -> bool {
        self.spent.get(source.root as usize).is_some_and(|&spent| {
            source.depth > self.depth || self.total >= self.per_tick || spent >= self.per_root
        })
    }

    /// Something was cut off at a place.
    pub(crate) fn note(&mut self, source: Source, by: CutBy, place: CutAt) {
        let Source { heard, depth, .. } = source;
        let next = self.cuts.len();
        let known = *self.places.entry(place).or_insert(next);
        match self.cuts.get_mut(known) {
            Some(cut) => cut.left_out = cut.left_out.saturating_add(1),
            None => self.cuts.push(Cut { place, by, left_out: 1, heard, depth }),
        }
    }

    /// What was cut, in the order in which the places were first met.
    pub(crate) fn cuts(&self) -> &[Cut] {
        &self.cuts
    }

    pub(crate) fn forget_cuts(&mut self) {
        self.cuts.clear();
        self.places.clear();
    }
}
