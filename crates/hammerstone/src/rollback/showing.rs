//! What hooks were shown, and what they have to be told when ticks have been run again.

use crate::event::{Fact, FactKey, TickFacts};
use crate::hooks::{Heard, Host, Kept, Predicted, Prediction};
use crate::ids::HookId;
use crate::view::View;

/// A fact that reached a hook.
#[derive(Clone, Copy, Debug)]
struct ShownFact {
    kept: Kept,
    /// Its number; 0 as long as the hook has not been told, and for hooks that only watch.
    number: u64,
}

/// The facts of a tick that reached hooks that watch or show, with the tick's tables.
#[derive(Debug, Default)]
pub(super) struct ShownTick {
    tick: u64,
    facts: TickFacts,
    list: Vec<ShownFact>,
}

impl ShownFact {
    /// Whether the hook has to be told.
    fn is_new(&self) -> bool {
        self.number == 0 && self.kept.key.is_some()
    }
}

impl ShownTick {
    pub(super) fn clear(&mut self) {
        self.list.clear();
    }

    /// Keeps what reached such hooks.
    pub(super) fn keep(&mut self, tick: u64, facts: &TickFacts, reached: &[Kept]) {
        self.tick = tick;
        if !reached.is_empty() {
            self.facts.copy_from(facts);
            self.list.extend(reached.iter().map(|&kept| ShownFact { kept, number: 0 }));
        }
    }

    fn heard<'a>(&'a self, shown: &ShownFact, view: View<'a>) -> Heard<'a> {
        let facts = self.facts.as_facts();
        let fact = self.fact(shown);
        Heard { fact, event: &fact.event, bound: shown.kept.reached.bound, facts, view }
    }

    fn fact(&self, shown: &ShownFact) -> &Fact {
        &self.facts.facts[shown.kept.reached.fact as usize]
    }

    fn tell(&self, shown: &ShownFact, what: Prediction, view: View<'_>, host: &mut dyn Host) {
        let heard = self.heard(shown, view);
        match shown.kept.key {
            Some(key) => {
                let (number, tick) = (shown.number, self.tick);
                host.show(shown.kept.reached.hook, &Predicted { what, number, tick, key, heard });
            }
            // One that only watches hears of what is sure.
            None => host.watch(shown.kept.reached.hook, &heard),
        }
    }
}

/// A fact that was shown, in a tick that was taken back.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
struct Old {
    hook: HookId,
    key: FactKey,
    /// Which of the ticks, and which fact of it.
    tick: usize,
    place: usize,
    /// Whether it is still there.
    is_met: bool,
}

/// What hooks have been shown, and what was taken back since they were last told.
#[derive(Debug, Default)]
pub(super) struct Showing {
    /// The last tick first.
    taken_back: Vec<ShownTick>,
    spare: Vec<ShownTick>,
    /// How many facts were shown.
    numbers: u64,
    /// What was taken back, by hook, key, and order.
    old: Vec<Old>,
    /// What is to be told: which fact of which tick, and what.
    calls: Vec<(usize, usize, Prediction)>,
}

impl Showing {
    /// A tick is run again: what it showed is held against what it comes to. The last tick is taken back first.
    pub(super) fn take_back(&mut self, shown: &mut ShownTick) {
        if shown.list.iter().any(|shown| shown.number > 0) {
            let spare = self.spare.pop().unwrap_or_default();
            self.taken_back.push(std::mem::replace(shown, spare));
        }
    }

    /// Tells hooks that show of all that has become of facts since they were last told.
    pub(super) fn tell<'a>(
        &mut self,
        ticks: impl Iterator<Item = &'a mut ShownTick>,
        view: View<'_>,
        host: &mut dyn Host,
    ) {
        let mut new: Vec<&mut ShownTick> =
            ticks.filter(|tick| tick.list.iter().any(ShownFact::is_new)).collect();
        self.list_old();
        self.keep_the_same(&mut new);
        self.number_the_rest(&mut new);
        for old in &self.old {
            if !old.is_met {
                self.calls.push((old.tick, old.place, Prediction::Retracted));
            }
        }
        // Those that were retracted, the first tick first, and then the others in their order.
        let order = |&(tick, place, what): &(usize, usize, Prediction)| match what {
            Prediction::Retracted => (0, usize::MAX - tick, place),
            _ => (1, tick, place),
        };
        self.calls.sort_unstable_by_key(order);
        // Nothing is told twice, also where a hook panics.
        let mut old = std::mem::take(&mut self.taken_back);
        for (tick, place, what) in self.calls.drain(..) {
            let tick = if what == Prediction::Retracted { &old[tick] } else { &*new[tick] };
            tick.tell(&tick.list[place], what, view, host);
        }
        self.spare.append(&mut old);
    }

    /// Tells that a tick is sure.
    pub(super) fn confirm(&mut self, shown: &ShownTick, view: View<'_>, host: &mut dyn Host) {
        for fact in &shown.list {
            shown.tell(fact, Prediction::Confirmed, view, host);
        }
    }

    fn list_old(&mut self) {
        self.old.clear();
        for (tick, shown) in self.taken_back.iter().enumerate() {
            for (place, fact) in shown.list.iter().enumerate() {
                if let (Some(key), true) = (fact.kept.key, fact.number > 0) {
                    let hook = fact.kept.reached.hook;
                    self.old.push(Old { hook, key, tick, place, is_met: false });
                }
            }
        }
        self.old.sort_unstable_by_key(|old| (old.hook, old.key, usize::MAX - old.tick, old.place));
    }

    /// What is there as it was needs no word.
    fn keep_the_same(&mut self, new: &mut [&mut ShownTick]) {
        for tick in new {
            for place in 0..tick.list.len() {
                let fact = &tick.list[place];
                let is_same = |(before, shown): (&ShownTick, &ShownFact)| {
                    let (one, other) = (before.facts.as_facts(), tick.facts.as_facts());
                    before.tick == tick.tick
                        && one.names_and_says(before.fact(shown), &other, tick.fact(fact))
                };
                if let Some(number) = self.meet(fact, is_same) {
                    tick.list[place].number = number;
                }
            }
        }
    }

    /// Of the rest, those that were shown have changed, and the others come up for the first time.
    fn number_the_rest(&mut self, new: &mut [&mut ShownTick]) {
        for (at, tick) in new.iter_mut().enumerate() {
            for place in 0..tick.list.len() {
                let fact = tick.list[place];
                if !fact.is_new() {
                    continue;
                }
                let (number, what) = match self.meet(&fact, |_| true) {
                    Some(number) => (number, Prediction::Changed),
                    None => {
                        self.numbers += 1;
                        (self.numbers, Prediction::Shown)
                    }
                };
                tick.list[place].number = number;
                self.calls.push((at, place, what));
            }
        }
    }

    /// The number of the first fact of this hook and key that was taken back and not met, and that fits.
    fn meet(&mut self, fact: &ShownFact, fits: impl Fn((&ShownTick, &ShownFact)) -> bool) -> Option<u64> {
        let sought = (fact.kept.reached.hook, fact.kept.key.filter(|_| fact.is_new())?);
        let first = self.old.partition_point(|old| (old.hook, old.key) < sought);
        for old in self.old[first..].iter_mut().take_while(|old| (old.hook, old.key) == sought) {
            let tick = &self.taken_back[old.tick];
            let shown = &tick.list[old.place];
            if !old.is_met && fits((tick, shown)) {
                old.is_met = true;
                return Some(shown.number);
            }
        }
        None
    }
}
