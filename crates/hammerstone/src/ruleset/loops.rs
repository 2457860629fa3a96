//! What reactions bring about, and statuses that bring each other back within one tick.

use std::collections::BTreeSet;

use super::{FirstPulse, Grant, Reaction, Ruleset, Status, Trigger};
use crate::event::Effect;
use crate::ids::*;

impl Ruleset {
    /// The statuses that may be given within the same tick because `status` is: it lifts one that would have killed, whose bearer is back on
    /// its feet and is given what it is given then; or it kills at once, is prevented from it, and something is given on that occasion.
    ///
    /// Conditions and limits are not looked at. Empty for a status that this ruleset does not have.
    pub fn brings(&self, status: StatusId) -> Vec<StatusId> {
        let mut brought = BTreeSet::new();
        let Some(given) = self.0.statuses.get(status.index()) else { return Vec::new() };
        let may_lift = given.lifts | given.adds_tags != 0;
        let returns = may_lift
            && self.0.statuses.iter().any(|other| other.kills_on_expiry.is_some() && lifts(given, other));
        let at_once = given.pulse.as_ref().is_some_and(|pulse| {
            pulse.first == FirstPulse::AtOnce
                && !pulse.absolute
                && pulse.damage.iter().any(|damage| damage.high > 0)
        });
        let averts = at_once && self.0.statuses.iter().any(|other| other.prevents_death.is_some());
        if !returns && !averts {
            return Vec::new();
        }
        for grant in self.all_grants() {
            let comes = match grant.on {
                Trigger::Returns => returns,
                Trigger::Spared => averts,
                _ => false,
            };
            if comes && !grant.to_other {
                brought.insert(grant.status);
            }
        }
        brought.into_iter().collect()
    }

    /// Whether the application of one status may end another that is there, so that it can begin anew.
    pub fn lifts(&self, status: StatusId, other: StatusId) -> bool {
        let both = self.0.statuses.get(status.index()).zip(self.0.statuses.get(other.index()));
        both.is_some_and(|(status, other)| lifts(status, other))
    }

    fn all_grants(&self) -> impl Iterator<Item = &Grant> {
        let templates = self.0.templates.iter().flat_map(|template| &template.grants);
        templates.chain(self.0.statuses.iter().flat_map(|status| &status.grants))
    }
}

fn lifts(status: &Status, other: &Status) -> bool {
    other.tags & status.lifts != 0 || other.lifted_by & status.adds_tags != 0
}

impl Reaction {
    /// What it brings about.
    pub const fn effect(&self) -> Effect {
        match self {
            Reaction::Flag(..) => Effect::Flag,
            Reaction::Count(..) | Reaction::CountAmount(..) => Effect::Count,
            Reaction::CombatantCount(..) => Effect::CombatantCount,
            Reaction::CombatantFlag(..) => Effect::CombatantFlag,
            Reaction::Score(..) => Effect::Score,
            Reaction::Waves(_) => Effect::Waves,
            Reaction::NextRound => Effect::Round,
            Reaction::Apply(..) => Effect::Apply,
            Reaction::Lift(..) => Effect::Lift,
            Reaction::Damage(..) => Effect::Damage,
            Reaction::Heal(..) => Effect::Heal,
            Reaction::Gauge(..) => Effect::Gauge,
            Reaction::Start(..) | Reaction::SpawnAttack(..) => Effect::Start,
            Reaction::Teleport(..) | Reaction::Push(..) | Reaction::StopWaves(_) => Effect::Place,
            Reaction::ChangeTeam(..) => Effect::Team,
            Reaction::ScaleTime(..) => Effect::Time,
            Reaction::Transform(..) => Effect::Transform,
            Reaction::LetGo(_) => Effect::LetGo,
            Reaction::Request(..) => Effect::Request,
            Reaction::SendAway(_) => Effect::SendAway,
            Reaction::BringBack(..) => Effect::BringBack,
            Reaction::Remove(_) => Effect::Remove,
            Reaction::MoveObstacle(..)
            | Reaction::PlaceObstacle(..)
            | Reaction::OpenObstacle(..)
            | Reaction::RemoveObstacle(_) => Effect::Obstacle,
            Reaction::Publish(..) => Effect::Publish,
            Reaction::Say(..) => Effect::Say,
            Reaction::End(_) => Effect::End,
            Reaction::Reset => Effect::Reset,
        }
    }
}
