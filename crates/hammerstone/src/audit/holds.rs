//! Holds: each begins and ends once, no one has two holders, and no one who is held holds.

use super::*;

impl Auditor {
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
