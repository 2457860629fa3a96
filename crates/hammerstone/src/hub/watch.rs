//! What reached hooks that only watch, kept until the host confirms the tick.

use crate::event::TickFacts;
use crate::hooks::{Heard, Host, Reached};
use crate::view::View;

/// One tick's facts, of which some reached a watching hook.
#[derive(Clone, Debug, Default)]
struct Kept {
    tick: TickFacts,
    reached: Vec<Reached>,
}

impl Kept {
    fn when(&self) -> (u32, u32) {
        (self.tick.epoch, self.tick.tick)
    }
}

/// Ticks that are not confirmed, in their order. It decides nothing: it lies beside the state, and nothing of it is saved.
#[derive(Clone, Debug, Default)]
pub(crate) struct Unconfirmed {
    kept: Vec<Kept>,
    /// Memory of ticks that were confirmed.
    spare: Vec<Kept>,
    /// The last epoch and tick that were confirmed.
    confirmed: (u32, u32),
}

impl Unconfirmed {
    /// Keeps the tick that ran, if anything of it reached a watching hook. One that was confirmed is not kept again.
    pub(crate) fn observe(&mut self, tick: &TickFacts, reached: &[Reached]) {
        let when = (tick.epoch, tick.tick);
        if reached.is_empty() || when <= self.confirmed {
            return;
        }
        self.forget_from(when);
        let mut kept = self.spare.pop().unwrap_or_default();
        kept.tick.copy_from(tick);
        kept.reached.clear();
        kept.reached.extend_from_slice(reached);
        self.kept.push(kept);
    }

    /// Forgets the ticks from `when` on: they run again.
    pub(crate) fn forget_from(&mut self, when: (u32, u32)) {
        let place = self.kept.partition_point(|kept| kept.when() < when);
        self.spare.extend(self.kept.drain(place..));
    }

    /// Calls what the ticks up to `when` reached, in order, and gives how many calls that were.
    pub(crate) fn confirm(&mut self, when: (u32, u32), host: &mut dyn Host, view: View<'_>) -> usize {
        if when > self.confirmed {
            self.confirmed = when;
        }
        let place = self.kept.partition_point(|kept| kept.when() <= when);
        let mut calls = 0;
        for kept in self.kept.drain(..place) {
            let facts = kept.tick.as_facts();
            for &Reached { fact, hook, bound } in &kept.reached {
                let fact = &facts.facts[fact as usize];
                host.watch(hook, &Heard { fact, event: &fact.event, bound, facts, view });
                calls += 1;
            }
            self.spare.push(kept);
        }
        calls
    }
}
