//! Parts of a tick by themselves, for measuring.

use super::Encounter;
use crate::event::EncounterRound;
use crate::hooks::Hooks;
use crate::ids::*;
use crate::resolve;
use crate::tick;

impl Encounter {
    /// Runs detection alone, once more over the poses and open windows as they stand, and gives how many parts were
    /// touched. Changes nothing; only for measuring.
    pub fn detect_again(&mut self) -> usize {
        tick::detect_only(&mut self.work(&mut ()))
    }

    /// Works out the amounts of one blow so many times over, with a ledger or without, and gives their sum. Changes nothing; only for measuring.
    pub fn amounts_again(
        &mut self,
        attacker: CombatantId,
        attack: AttackId,
        target: CombatantId,
        (times, with_ledger): (usize, bool),
    ) -> i64 {
        let Encounter { rules, state, rooms, .. } = self;
        resolve::work_out_again(
            rules,
            state,
            &mut rooms.blows,
            attacker,
            attack,
            target,
            (times, with_ledger),
        )
    }

    /// Lets the facts of the last tick be heard once more, so many times over. What hooks order is dropped; only for measuring.
    pub fn deliver_again<W>(&mut self, hooks: &Hooks<W>, world: &mut W, times: usize) {
        let host = &mut hooks.with(world);
        let work = &mut self.work(host);
        for _ in 0..times {
            crate::hub::deliver_again(work);
        }
    }

    /// Publishes a fact so many times and forgets them; only for measuring.
    pub fn publish_again(&mut self, times: usize) {
        for i in 0..times {
            self.log.publish(EncounterRound { round: i as u32 });
        }
        self.log.clear_facts();
    }
}
