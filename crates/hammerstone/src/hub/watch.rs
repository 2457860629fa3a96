//! What reached hooks that only watch, kept until the host confirms the tick.

use crate::event::{Delivery, Fact, Facts, LedgerLine, Link};
use crate::hooks::{Heard, Hooks};
use crate::ids::*;
use crate::state::Counts;
use crate::view::View;
use crate::work::Scratch;

/// One tick's facts, of which some reached a watching hook.
#[derive(Clone, Debug, Default)]
struct Kept {
    epoch: u32,
    tick: u32,
    facts: Vec<Fact>,
    ledger: Vec<LedgerLine>,
    assists: Vec<CombatantId>,
    chains: Vec<Link>,
    values: Vec<(ValueId, i64)>,
    deliveries: Vec<Delivery>,
    counts: Counts,
    reached: Vec<(u32, HookId)>,
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
    pub(crate) fn observe(&mut self, scratch: &Scratch, counts: Counts) {
        let when = (scratch.epoch, scratch.tick);
        if scratch.watched.is_empty() || when <= self.confirmed {
            return;
        }
        self.forget_from(when);
        let mut kept = self.spare.pop().unwrap_or_default();
        (kept.epoch, kept.tick, kept.counts) = (scratch.epoch, scratch.tick, counts);
        kept.facts.clone_from(&scratch.facts);
        kept.ledger.clone_from(&scratch.ledger);
        kept.assists.clone_from(&scratch.assists);
        kept.chains.clone_from(&scratch.chains);
        kept.values.clone_from(&scratch.values);
        kept.deliveries.clone_from(&scratch.deliveries);
        kept.reached.clone_from(&scratch.watched);
        self.kept.push(kept);
    }

    /// Forgets the ticks from `when` on: they run again.
    pub(crate) fn forget_from(&mut self, when: (u32, u32)) {
        let place = self.kept.partition_point(|kept| (kept.epoch, kept.tick) < when);
        self.spare.extend(self.kept.drain(place..));
    }

    /// Calls what the ticks up to `when` reached, in order, and gives how many calls that were.
    pub(crate) fn confirm<W>(
        &mut self,
        when: (u32, u32),
        hooks: &Hooks<W>,
        world: &mut W,
        view: View<'_>,
    ) -> usize {
        if when > self.confirmed {
            self.confirmed = when;
        }
        let place = self.kept.partition_point(|kept| (kept.epoch, kept.tick) <= when);
        let mut calls = 0;
        for kept in self.kept.drain(..place) {
            let facts = Facts {
                epoch: kept.epoch,
                tick: kept.tick,
                facts: &kept.facts,
                ledger: &kept.ledger,
                assists: &kept.assists,
                chains: &kept.chains,
                values: &kept.values,
                deliveries: &kept.deliveries,
                declined: &[],
                counts: kept.counts,
            };
            for &(fact, hook) in &kept.reached {
                let fact = &kept.facts[fact as usize];
                hooks.show(world, hook, &Heard { fact, event: &fact.event, facts, view });
                calls += 1;
            }
            self.spare.push(kept);
        }
        calls
    }
}
