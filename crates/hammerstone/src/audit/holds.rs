//! What is between several: holds begin and end once, no one has two holders, no one who is held holds; and a pool holds the same for all.

use super::*;

impl Auditor {
    /// Pools: all who stand and share one have the same health.
    pub(super) fn of_pools(&mut self) {
        if self.rules.compiled().pools.is_empty() {
            return;
        }
        let mut left = BTreeMap::new();
        let stand = self.accounts.values().filter(|account| account.life == Life::Standing);
        let of = |account: &Account| self.rules.compiled().template(account.template).pool;
        let mut same = true;
        for (pool, health) in stand.filter_map(|account| Some((of(account)?, account.health))) {
            same &= *left.entry(pool).or_insert(health) == health;
        }
        self.must(same, Law::HealthAddsUp, "a pool holds more for one than for another");
    }

    /// Holds.
    pub(super) fn of_holds(&mut self, event: &Event) {
        match *event {
            Event::HoldBegan(HoldBegan { hold, held, holder, .. }) => {
                let free = |&(other, by): &(CombatantId, CombatantId)| {
                    other != held && other != holder && by != held
                };
                let free = self.holds.values().all(free);
                self.must(free, Law::BegunAndEnded, "one who is held holds, or is held twice");
                let new = self.holds.insert(hold, (held, holder)).is_none();
                self.must(new, Law::BegunAndEnded, "a hold's number came again");
            }
            Event::HoldEnded(HoldEnded { hold, held, holder, .. }) => {
                let ran = self.holds.remove(&hold) == Some((held, holder));
                self.must(ran, Law::BegunAndEnded, "a hold ended that was not there");
            }
            _ => {}
        }
    }
}
