//! What reached hooks that watch or show, kept until the host confirms the tick.

use crate::event::TickFacts;
use crate::hooks::{Heard, Host, Kept, Predicted, Prediction, Reached};
use crate::view::View;

/// One tick's facts, of which some reached such a hook.
#[derive(Clone, Debug, Default)]
struct KeptTick {
    tick: TickFacts,
    kept: Vec<Kept>,
}

impl KeptTick {
    fn when(&self) -> (u32, u32) {
        (self.tick.epoch, self.tick.tick)
    }
}

/// Ticks that are not confirmed, in their order. It decides nothing: it lies beside the state, and nothing of it is saved.
#[derive(Clone, Debug, Default)]
pub(crate) struct Unconfirmed {
    kept: Vec<KeptTick>,
    /// Memory of ticks that were confirmed.
    spare: Vec<KeptTick>,
    /// The last epoch and tick that were confirmed.
    confirmed: (u32, u32),
    /// How many facts hooks were shown.
    shown: u64,
    /// Whether a driver keeps them instead.
    pub(crate) driven: bool,
}

impl Unconfirmed {
    /// Keeps the tick that ran, if anything of it reached such a hook. One that was confirmed is not kept again.
    pub(crate) fn observe(&mut self, tick: &TickFacts, reached: &[Kept]) {
        let when = (tick.epoch, tick.tick);
        if self.driven || reached.is_empty() || when <= self.confirmed {
            return;
        }
        self.forget_from(when);
        let mut kept = self.spare.pop().unwrap_or_default();
        kept.tick.copy_from(tick);
        kept.kept.clear();
        kept.kept.extend_from_slice(reached);
        self.kept.push(kept);
    }

    /// Forgets the ticks from `when` on: they run again.
    pub(crate) fn forget_from(&mut self, when: (u32, u32)) {
        let place = self.kept.partition_point(|kept| kept.when() < when);
        self.spare.extend(self.kept.drain(place..));
    }

    /// Calls what the ticks up to `when` reached, in order, and gives how many facts reached a hook.
    pub(crate) fn confirm(&mut self, when: (u32, u32), host: &mut dyn Host, view: View<'_>) -> usize {
        if when > self.confirmed {
            self.confirmed = when;
        }
        let place = self.kept.partition_point(|kept| kept.when() <= when);
        let mut calls = 0;
        for kept in self.kept.drain(..place) {
            let facts = kept.tick.as_facts();
            for &Kept { reached: Reached { fact, hook, bound }, key } in &kept.kept {
                let fact = &facts.facts[fact as usize];
                let heard = Heard { fact, event: &fact.event, bound, facts, view };
                match key {
                    None => host.watch(hook, &heard),
                    Some(key) => {
                        self.shown += 1;
                        for what in [Prediction::Shown, Prediction::Confirmed] {
                            let (number, tick) = (self.shown, kept.tick.tick.into());
                            host.show(hook, &Predicted { what, number, tick, key, heard });
                        }
                    }
                }
                calls += 1;
            }
            self.spare.push(kept);
        }
        calls
    }
}
