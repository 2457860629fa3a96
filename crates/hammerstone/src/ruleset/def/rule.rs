//! Rules: what answers a fact, as data.

use crate::Fixed;
use crate::event::{Effect, HostValue};
use crate::ids::*;
use crate::state::Life;

/// A rule: on a fact, when that something holds, do something.
///
/// Rules hear a fact before hooks do: the higher priority first, of equals the one that was added first. What they do is carried out
/// in a further pass of the tick, like the orders of hooks.
#[doc(alias("trigger", "event rule"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Rule {
    pub(crate) name: String,
    pub(crate) on: On,
    pub(crate) when: Vec<Condition>,
    pub(crate) does: Vec<Do>,
    pub(crate) limit: Limit,
    pub(crate) priority: i16,
}

/// Which facts a rule hears.
#[derive(Clone, PartialEq, Eq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum On {
    Exact(String),
    Family(String),
}

/// One thing that a rule does, so many ticks after it fires.
#[derive(Clone, Copy, PartialEq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Do {
    pub(crate) action: Reaction,
    pub(crate) after: u32,
}

/// How often a rule fires.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Limit {
    /// Whenever it may.
    #[default]
    Always,
    /// Once in an encounter; after a reset again.
    Once,
    /// Once in each round.
    PerRound,
    /// Once in each life of the fact's subject.
    PerLife,
}

impl Limit {
    /// All limits.
    pub const ALL: [Limit; 4] = [Limit::Always, Limit::Once, Limit::PerRound, Limit::PerLife];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Limit::Always => "always",
            Limit::Once => "once",
            Limit::PerRound => "per-round",
            Limit::PerLife => "per-life",
        }
    }
}

/// Which combatants are meant; what is not said does not matter.
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Group {
    /// Of this team.
    pub team: Option<TeamId>,
    /// Made from this template.
    pub template: Option<TemplateId>,
    /// Carrying all of these tags of their template: bit `n` for tag number `n`.
    pub tags: u64,
}

impl Group {
    /// Those of a team.
    pub fn team(team: TeamId) -> Group {
        Group { team: Some(team), ..Group::default() }
    }

    /// Those made from a template.
    pub fn template(template: TemplateId) -> Group {
        Group { template: Some(template), ..Group::default() }
    }

    /// Those that also carry `tag`.
    pub fn tagged(mut self, tag: TagId) -> Group {
        self.tags |= tag.bit();
        self
    }
}

/// What must hold for a rule to fire, looked at when it hears the fact.
#[derive(Clone, Copy, PartialEq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Condition {
    /// The fact is about one of these.
    Subject(Group),
    /// The other party of the fact is one of these.
    Other(Group),
    /// The subject's share of health is from one number to another.
    Health(Fixed, Fixed),
    /// The fact is about this threshold.
    Threshold(ThresholdId),
    /// It was crossed downwards, or upwards.
    Downwards(bool),
    /// The fact is about this status.
    Status(StatusId),
    /// The fact is about this attack.
    Attack(AttackId),
    /// A flag is up, or down.
    Flag(FlagId, bool),
    /// A counter is from one number to another.
    Counter(CounterId, i64, i64),
    /// A score is from one number to another.
    Score(ScoreId, i64, i64),
    /// The tick is from one to another.
    Time(u32, u32),
    /// The round is from one to another.
    Round(u32, u32),
    /// So many of a group stand, from one number to another.
    Alive(Group, u32, u32),
    /// All waves of the sequence have come.
    WavesOver(WaveId),
}

impl Condition {
    /// The name in files.
    pub const fn name(&self) -> &'static str {
        match self {
            Condition::Subject(_) => "subject",
            Condition::Other(_) => "other",
            Condition::Health(..) => "health",
            Condition::Threshold(_) => "threshold",
            Condition::Downwards(_) => "direction",
            Condition::Status(_) => "status",
            Condition::Attack(_) => "attack",
            Condition::Flag(..) => "flags",
            Condition::Counter(..) => "counters",
            Condition::Score(..) => "scores",
            Condition::Time(..) => "time",
            Condition::Round(..) => "round",
            Condition::Alive(..) => "alive",
            Condition::WavesOver(_) => "waves-over",
        }
    }
}

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
    /// An attack that is nobody's starts at a spot, and counts for a team.
    SpawnAttack(AttackId, TeamId, SpotId),
    /// Somebody goes away for a while.
    SendAway(Target),
    /// Somebody who is dead or away stands again at a spot.
    BringBack(Target, SpotId),
    /// Somebody is removed.
    Remove(Target),
    /// A fact of the host's own.
    Publish(HostTopicId, [RuleValue; 4]),
    /// A line is said, by somebody or by nobody.
    Say(Option<Target>, LineId),
    /// The encounter ends.
    End(OutcomeId),
    /// The encounter begins anew.
    Reset,
}

impl Reaction {
    /// What it brings about.
    pub const fn effect(&self) -> Effect {
        match self {
            Reaction::Flag(..) => Effect::Flag,
            Reaction::Count(..) => Effect::Count,
            Reaction::Score(..) => Effect::Score,
            Reaction::Waves(_) => Effect::Waves,
            Reaction::NextRound => Effect::Round,
            Reaction::Apply(..) => Effect::Apply,
            Reaction::Lift(..) => Effect::Lift,
            Reaction::Damage(..) => Effect::Damage,
            Reaction::Heal(..) => Effect::Heal,
            Reaction::Start(..) | Reaction::SpawnAttack(..) => Effect::Start,
            Reaction::SendAway(_) => Effect::SendAway,
            Reaction::BringBack(..) => Effect::BringBack,
            Reaction::Remove(_) => Effect::Remove,
            Reaction::Publish(..) => Effect::Publish,
            Reaction::Say(..) => Effect::Say,
            Reaction::End(_) => Effect::End,
            Reaction::Reset => Effect::Reset,
        }
    }

    /// Its target, if it has one.
    pub(crate) fn whom(&self) -> Option<Target> {
        match *self {
            Reaction::Apply(whom, ..)
            | Reaction::Lift(whom, _)
            | Reaction::Damage(whom, ..)
            | Reaction::Heal(whom, ..)
            | Reaction::Start(whom, _)
            | Reaction::SendAway(whom)
            | Reaction::BringBack(whom, _)
            | Reaction::Remove(whom) => Some(whom),
            Reaction::Say(whom, _) => whom,
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
            Reaction::Publish(..) => "publish",
            Reaction::Say(..) => "say",
            Reaction::End(_) => "end",
            Reaction::Reset => "reset",
        }
    }
}

impl Rule {
    /// A rule that hears one topic, by its path, such as `combatant.died`.
    pub fn on(name: &str, topic: &str) -> Rule {
        Rule::new(name, On::Exact(topic.to_owned()))
    }

    /// A rule that hears a path and all below it.
    pub fn on_family(name: &str, family: &str) -> Rule {
        Rule::new(name, On::Family(family.to_owned()))
    }

    fn new(name: &str, on: On) -> Rule {
        Rule {
            name: name.to_owned(),
            on,
            when: Vec::new(),
            does: Vec::new(),
            limit: Limit::Always,
            priority: 0,
        }
    }

    /// Only if this holds too.
    pub fn when(mut self, condition: Condition) -> Rule {
        self.when.push(condition);
        self
    }

    /// Then do this. Called again, this as well, in the order of calling.
    pub fn does(self, action: Reaction) -> Rule {
        self.does_after(0, action)
    }

    /// As [`does`](Self::does), so many ticks later. Whoever has died or left by then is refused.
    pub fn does_after(mut self, ticks: u32, action: Reaction) -> Rule {
        self.does.push(Do { action, after: ticks });
        self
    }

    /// How often.
    pub fn limit(mut self, limit: Limit) -> Rule {
        self.limit = limit;
        self
    }

    /// Higher hears first.
    pub fn priority(mut self, priority: i16) -> Rule {
        self.priority = priority;
        self
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// The path that it listens to, and whether to all below it as well.
    pub fn listens_to(&self) -> (&str, bool) {
        match &self.on {
            On::Exact(path) => (path, false),
            On::Family(path) => (path, true),
        }
    }

    /// How often it fires.
    pub fn limit_of(&self) -> Limit {
        self.limit
    }

    /// Its priority.
    pub fn priority_of(&self) -> i16 {
        self.priority
    }

    /// What must hold.
    pub fn conditions(&self) -> &[Condition] {
        &self.when
    }

    /// What it does, and how many ticks later.
    pub fn reactions(&self) -> impl Iterator<Item = (u32, &Reaction)> {
        self.does.iter().map(|one| (one.after, &one.action))
    }
}
