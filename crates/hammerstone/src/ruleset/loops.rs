//! Statuses that bring each other back within one tick.

use std::collections::BTreeSet;

use super::{FirstBeat, Gift, Rules, Status, Upon};
use crate::ids::*;

impl Rules {
    /// The statuses that may be given within the same tick because `status` is: it lifts one that would have killed, whose bearer is back on
    /// its feet and is given what it is given then; or it kills at once, is prevented from it, and something is given on that occasion.
    ///
    /// Conditions and limits are not looked at. Empty for a status that this ruleset does not have.
    pub fn brings(&self, status: StatusId) -> Vec<StatusId> {
        let mut brought = BTreeSet::new();
        let Some(given) = self.statuses.get(status.index()) else { return Vec::new() };
        let may_lift = given.lifts | given.lends != 0;
        let returns =
            may_lift && self.statuses.iter().any(|other| other.dooms.is_some() && lifts(given, other));
        let at_once = given.beat.as_ref().is_some_and(|beat| {
            beat.first == FirstBeat::AtOnce && !beat.absolute && beat.harm.iter().any(|harm| harm.high > 0)
        });
        let averts = at_once && self.statuses.iter().any(|other| other.reprieve.is_some());
        if !returns && !averts {
            return Vec::new();
        }
        for gift in self.all_gifts() {
            let comes = match gift.upon {
                Upon::Returns => returns,
                Upon::Averted => averts,
                _ => false,
            };
            if comes && !gift.to_other {
                brought.insert(gift.status);
            }
        }
        brought.into_iter().collect()
    }

    /// Whether the application of one status may end another that is borne, so that it can begin anew.
    pub fn lifts(&self, status: StatusId, other: StatusId) -> bool {
        let both = self.statuses.get(status.index()).zip(self.statuses.get(other.index()));
        both.is_some_and(|(status, other)| lifts(status, other))
    }

    fn all_gifts(&self) -> impl Iterator<Item = &Gift> {
        let templates = self.casts.iter().flat_map(|cast| &cast.gifts);
        templates.chain(self.statuses.iter().flat_map(|status| &status.gifts))
    }
}

fn lifts(status: &Status, other: &Status) -> bool {
    other.tags & status.lifts != 0 || other.lifted_by & status.lends != 0
}
