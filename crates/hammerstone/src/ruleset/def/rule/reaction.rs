//! What a rule does.

use super::*;
use crate::named::named;
use crate::ruleset::def::{Amount, GaugeChange, Party, Step};

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

impl Count {
    /// What a counter becomes that is at `from`.
    pub(crate) fn of(self, from: i64) -> i64 {
        match self {
            Count::Add(more) => from.saturating_add(more),
            Count::Set(to) => to,
        }
    }
}

/// How a counter takes an amount.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Counting {
    /// It has so much more.
    Add,
    /// It becomes just that.
    Set,
}

impl Counting {
    /// With a number.
    pub fn by(self, number: i64) -> Count {
        match self {
            Counting::Add => Count::Add(number),
            Counting::Set => Count::Set(number),
        }
    }
}

/// How much is scored.
#[derive(Clone, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum ScoreValue {
    /// So much.
    Points(i64),
    /// What is attached to the fact's subject.
    Value(ValueId),
    /// An amount, rounded as damage is.
    Amount(Amount),
}

/// A value that a rule publishes.
#[derive(Clone, PartialEq, Debug, Hash)]
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
    /// A sum of readings, as they were when the rule heard its fact: of an exact field as it is, of a whole one rounded as damage is.
    Amount(Amount),
    /// A text: a word of the ruleset, at most [`Text::MOST`](crate::event::Text::MOST) bytes long.
    Text(WordId),
}

/// Which party of the fact is the source of what a rule does: it gets the credit for its damage and kills.
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

    /// The party of the fact, if it is one.
    pub const fn party(self) -> Option<Party> {
        match self {
            Credit::Unsaid | Credit::Nobody => None,
            Credit::Subject => Some(Party::Subject),
            Credit::Other => Some(Party::Other),
        }
    }

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Credit::Unsaid | Credit::Nobody => "nobody",
            Credit::Subject => "subject",
            Credit::Other => "other",
        }
    }
}

named! {
    /// What the game's own minds are asked to do with a combatant. The core moves no one.
    pub enum Tactic {
        /// Stay with one.
        Follow = "follow",
        /// Get away from one.
        Flee = "flee",
        /// Stay where it is.
        HoldPlace = "hold-place",
        /// What it did before it was asked for something.
        AsUsual = "as-usual",
    }
}

/// Damage that a rule deals: one blow, with a ledger for each damage type.
///
/// It is refused for those who do not stand and for those who are invulnerable, and takes every step of amounts that it does not skip.
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, PartialEq, Eq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Dealing {
    pub(crate) amounts: Vec<(DamageTypeId, Amount)>,
    pub(crate) by: Credit,
    pub(crate) skips: Vec<Step>,
}

impl Dealing {
    /// Damage of one type.
    pub fn of(damage_type: DamageTypeId, amount: impl Into<Amount>) -> Dealing {
        Dealing { amounts: Vec::new(), by: Credit::Unsaid, skips: Vec::new() }.and(damage_type, amount)
    }

    /// And damage of another type, in the same blow.
    pub fn and(mut self, damage_type: DamageTypeId, amount: impl Into<Amount>) -> Dealing {
        self.amounts.push((damage_type, amount.into()));
        self
    }

    /// Its source.
    pub fn by(mut self, credit: Credit) -> Dealing {
        self.by = credit;
        self
    }

    /// It does not take this step.
    pub fn skips(mut self, step: Step) -> Dealing {
        self.skips.push(step);
        self
    }
}

/// Healing that a rule gives.
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, PartialEq, Eq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Healing {
    pub(crate) amount: Amount,
    pub(crate) by: Credit,
}

impl Healing {
    /// So much.
    pub fn of(amount: impl Into<Amount>) -> Healing {
        Healing { amount: amount.into(), by: Credit::Unsaid }
    }

    /// Its source.
    pub fn by(mut self, credit: Credit) -> Healing {
        self.by = credit;
        self
    }
}

/// What a rule does. Each is an order, and may be refused as one.
#[derive(Clone, PartialEq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Reaction {
    /// A flag goes up or down.
    Flag(FlagId, bool),
    /// A counter changes.
    Count(CounterId, Count),
    /// A counter has an amount more, or is set to it; rounded as damage is.
    CountAmount(CounterId, Counting, Amount),
    /// A flag of each target goes up or down.
    CombatantFlag(Target, CombatantFlagId, bool),
    /// A counter of each target has an amount more, or is set to it; rounded as damage is.
    CombatantCount(Target, CombatantCounterId, Counting, Amount),
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
    /// Damage.
    Damage(Target, Dealing),
    /// Healing.
    Heal(Target, Healing),
    /// A gauge of each target has an amount more or less, or is set to it; rounded as damage is. Those without the gauge are refused.
    Gauge(Target, GaugeId, GaugeChange, Amount, Credit),
    /// An attack is started.
    Start(Target, AttackId),
    /// An attack without an attacker starts at a spot, and counts for a team; its hits are credited to one of the parties of the fact, or to
    /// none.
    SpawnAttack(AttackId, TeamId, SpotId, Credit),
    /// Each target is at a spot, without a way there.
    Teleport(Target, SpotId),
    /// Each target moves away from the party of the fact that it is not, or from the subject: so many metres over so many ticks. Below 0 it
    /// moves towards it.
    Push(Target, Fixed, u32),
    /// Each target goes over to another team.
    ChangeTeam(Target, TeamId),
    /// The time of each target goes otherwise: so many sixteenths of a tick pass for it in one; 16 is as usual.
    ScaleTime(Target, u8),
    /// Each target becomes one of another template.
    Transform(Target, TemplateId),
    /// Holds between each target and others end.
    LetGo(Target),
    /// The game's own minds are asked to do something with each target, about the party of the fact that it is not.
    Request(Target, Tactic),
    /// No more waves of a sequence come.
    StopWaves(WaveId),
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
    /// A line is said, by someone or by no one, with a value for each number in it.
    Say(Option<Target>, LineId, Vec<Amount>),
    /// The encounter ends.
    End(OutcomeId),
    /// The encounter begins anew.
    Reset,
    /// All obstacles of a name let everything through from then on, or are in the way again.
    OpenObstacle(ObstacleNameId, bool),
}

impl Reaction {
    /// A line without numbers is said, by someone or by no one.
    pub fn say(speaker: Option<Target>, line: LineId) -> Reaction {
        Reaction::Say(speaker, line, Vec::new())
    }

    /// Its target, if it has one.
    pub(crate) fn target(&self) -> Option<Target> {
        match *self {
            Reaction::Apply(target, ..)
            | Reaction::CombatantFlag(target, ..)
            | Reaction::CombatantCount(target, ..)
            | Reaction::Gauge(target, ..)
            | Reaction::Lift(target, _)
            | Reaction::Damage(target, ..)
            | Reaction::Heal(target, ..)
            | Reaction::Start(target, _)
            | Reaction::SendAway(target)
            | Reaction::Teleport(target, _)
            | Reaction::Push(target, ..)
            | Reaction::ChangeTeam(target, _)
            | Reaction::ScaleTime(target, _)
            | Reaction::Transform(target, _)
            | Reaction::LetGo(target)
            | Reaction::Request(target, _)
            | Reaction::BringBack(target, _)
            | Reaction::Remove(target) => Some(target),
            Reaction::Say(target, ..) => target,
            _ => None,
        }
    }

    /// The amounts that it works out, in their order.
    pub(crate) fn amounts(&self) -> impl Iterator<Item = &Amount> {
        const NONE: (&[(DamageTypeId, Amount)], &[Amount]) = (&[], &[]);
        let (dealt, others) = match self {
            Reaction::Damage(_, Dealing { amounts, .. }) => (amounts.as_slice(), &[][..]),
            Reaction::Say(_, _, amounts) => (&[][..], amounts.as_slice()),
            Reaction::Heal(_, Healing { amount, .. })
            | Reaction::CountAmount(_, _, amount)
            | Reaction::CombatantCount(_, _, _, amount)
            | Reaction::Gauge(_, _, _, amount, _)
            | Reaction::Score(_, ScoreValue::Amount(amount)) => (&[][..], std::slice::from_ref(amount)),
            _ => NONE,
        };
        let published = if let Reaction::Publish(_, values) = self { values.as_slice() } else { &[] };
        let published = published.iter().filter_map(|value| match value {
            RuleValue::Amount(amount) => Some(amount),
            _ => None,
        });
        dealt.iter().map(|(_, amount)| amount).chain(others).chain(published)
    }

    /// What it says of the source of what it does; none if there could not be one.
    pub fn credit(&self) -> Option<Credit> {
        match self {
            Reaction::Apply(_, _, _, credit)
            | Reaction::SpawnAttack(_, _, _, credit)
            | Reaction::Gauge(_, _, _, _, credit) => Some(*credit),
            Reaction::Damage(_, Dealing { by, .. }) | Reaction::Heal(_, Healing { by, .. }) => Some(*by),
            _ => None,
        }
    }

    /// The name of the obstacles that it is about, if it is about any.
    pub(crate) fn obstacles(&self) -> Option<ObstacleNameId> {
        match *self {
            Reaction::MoveObstacle(name, ..)
            | Reaction::PlaceObstacle(name, _)
            | Reaction::OpenObstacle(name, _)
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
            Reaction::Count(..) | Reaction::CountAmount(..) | Reaction::CombatantCount(..) => "count",
            Reaction::Gauge(_, _, change, ..) => change.name(),
            Reaction::CombatantFlag(_, _, true) => "raise-flag",
            Reaction::CombatantFlag(_, _, false) => "lower-flag",
            Reaction::Score(..) => "score",
            Reaction::Waves(_) => "start-waves",
            Reaction::NextRound => "next-round",
            Reaction::Apply(..) => "apply",
            Reaction::Lift(..) => "lift",
            Reaction::Damage(..) => "damage",
            Reaction::Heal(..) => "heal",
            Reaction::Start(..) => "start",
            Reaction::SpawnAttack(..) => "spawn-attack",
            Reaction::Teleport(..) => "teleport",
            Reaction::Push(..) => "push",
            Reaction::ChangeTeam(..) => "change-team",
            Reaction::ScaleTime(..) => "time-scale",
            Reaction::Transform(..) => "transform",
            Reaction::LetGo(_) => "let-go",
            Reaction::Request(..) => "request",
            Reaction::StopWaves(_) => "stop-waves",
            Reaction::SendAway(_) => "send-away",
            Reaction::BringBack(..) => "bring-back",
            Reaction::Remove(_) => "remove",
            Reaction::MoveObstacle(..) => "move-obstacle",
            Reaction::PlaceObstacle(..) => "place-obstacle",
            Reaction::RemoveObstacle(_) => "remove-obstacle",
            Reaction::OpenObstacle(_, true) => "open-obstacle",
            Reaction::OpenObstacle(_, false) => "close-obstacle",
            Reaction::Publish(..) => "publish",
            Reaction::Say(..) => "say",
            Reaction::End(_) => "end",
            Reaction::Reset => "reset",
        }
    }
}
