//! What a rule does.

use super::*;

/// The target of a reaction.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Target {
    /// The subject of the fact.
    Subject,
    /// The other party of the fact.
    Other,
    /// All of a group that stand, by their places.
    Each(Group),
    /// All who follow the subject and stand, by their places.
    Followers,
}

/// What a counter becomes.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Count {
    /// So much more.
    Add(i64),
    /// Just that.
    Set(i64),
}

/// How much is scored.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum ScoreValue {
    /// So much.
    Points(i64),
    /// What is attached to the fact's subject.
    Value(ValueId),
}

/// A value that a rule publishes.
#[derive(Clone, Copy, PartialEq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum RuleValue {
    /// Just that.
    Value(HostValue),
    /// The fact's subject.
    Subject,
    /// The other party of the fact.
    Other,
    /// What a counter is then.
    Counter(CounterId),
}

/// The source of a status that a rule gives: the combatant who gets the credit for its damage and kills.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Credit {
    /// No source, and the rule does not say so. `check` asks about it.
    #[default]
    Unsaid,
    /// No source.
    Nobody,
    /// The subject of the fact.
    Subject,
    /// The other party of the fact.
    Other,
}

impl Credit {
    /// Those that can be said.
    pub const ALL: [Credit; 3] = [Credit::Nobody, Credit::Subject, Credit::Other];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Credit::Unsaid | Credit::Nobody => "nobody",
            Credit::Subject => "subject",
            Credit::Other => "other",
        }
    }
}

/// What a rule does. Each is an order, and may be refused as one.
#[derive(Clone, Copy, PartialEq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Reaction {
    /// A flag goes up or down.
    Flag(FlagId, bool),
    /// A counter changes.
    Count(CounterId, Count),
    /// Something is scored, to the credit of the other party's owner.
    Score(ScoreId, ScoreValue),
    /// A sequence of waves begins.
    Waves(WaveId),
    /// The next round begins.
    NextRound,
    /// A status is applied, at a strength; its source is one of the parties of the fact, or none.
    Apply(Target, StatusId, Fixed, Credit),
    /// A status is lifted.
    Lift(Target, StatusId),
    /// Damage, for a reason.
    Damage(Target, DamageTypeId, Fixed, ReasonId),
    /// Healing by points, for a reason.
    Heal(Target, u32, ReasonId),
    /// An attack is started.
    Start(Target, AttackId),
    /// An attack that is no one's starts at a spot, and counts for a team.
    SpawnAttack(AttackId, TeamId, SpotId),
    /// Someone goes away for a while.
    SendAway(Target),
    /// Someone who is dead or away stands again at a spot.
    BringBack(Target, SpotId),
    /// Someone is removed.
    Remove(Target),
    /// All obstacles of a name go to a spot, over so many ticks.
    MoveObstacle(ObstacleNameId, SpotId, u32),
    /// All obstacles of a name are at a spot, without a way there.
    PlaceObstacle(ObstacleNameId, SpotId),
    /// All obstacles of a name are cleared away.
    RemoveObstacle(ObstacleNameId),
    /// A fact of the host's own.
    Publish(HostTopicId, [RuleValue; 4]),
    /// A line is said, by someone or by no one.
    Say(Option<Target>, LineId),
    /// The encounter ends.
    End(OutcomeId),
    /// The encounter begins anew.
    Reset,
}

impl Reaction {
    /// Its target, if it has one.
    pub(crate) fn target(&self) -> Option<Target> {
        match *self {
            Reaction::Apply(target, ..)
            | Reaction::Lift(target, _)
            | Reaction::Damage(target, ..)
            | Reaction::Heal(target, ..)
            | Reaction::Start(target, _)
            | Reaction::SendAway(target)
            | Reaction::BringBack(target, _)
            | Reaction::Remove(target) => Some(target),
            Reaction::Say(target, _) => target,
            _ => None,
        }
    }

    /// The name of the obstacles that it is about, if it is about any.
    pub(crate) fn obstacles(&self) -> Option<ObstacleNameId> {
        match *self {
            Reaction::MoveObstacle(name, ..)
            | Reaction::PlaceObstacle(name, _)
            | Reaction::RemoveObstacle(name) => Some(name),
            _ => None,
        }
    }

    /// Whether it is for those who do not stand.
    pub(crate) fn is_for(&self, life: Life) -> bool {
        match self {
            Reaction::BringBack(..) => matches!(life, Life::Dead | Life::Away),
            _ => life == Life::Standing,
        }
    }

    /// The name in files.
    pub const fn name(&self) -> &'static str {
        match self {
            Reaction::Flag(_, true) => "raise-flag",
            Reaction::Flag(_, false) => "lower-flag",
            Reaction::Count(..) => "count",
            Reaction::Score(..) => "score",
            Reaction::Waves(_) => "start-waves",
            Reaction::NextRound => "next-round",
            Reaction::Apply(..) => "apply",
            Reaction::Lift(..) => "lift",
            Reaction::Damage(..) => "damage",
            Reaction::Heal(..) => "heal",
            Reaction::Start(..) => "start",
            Reaction::SpawnAttack(..) => "spawn-attack",
            Reaction::SendAway(_) => "send-away",
            Reaction::BringBack(..) => "bring-back",
            Reaction::Remove(_) => "remove",
            Reaction::MoveObstacle(..) => "move-obstacle",
            Reaction::PlaceObstacle(..) => "place-obstacle",
            Reaction::RemoveObstacle(_) => "remove-obstacle",
            Reaction::Publish(..) => "publish",
            Reaction::Say(..) => "say",
            Reaction::End(_) => "end",
            Reaction::Reset => "reset",
        }
    }
}
