//! Rules: what answers a fact, as data.

mod reaction;

pub use reaction::{Count, Credit, Reaction, RuleValue, ScoreValue, Target};

use crate::Fixed;
use crate::ids::*;
use crate::terms::HostValue;
use crate::terms::Life;

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
    /// A field of the fact, by its name in the feed, holds this. All topics that the rule hears must have the field.
    Field(WordId, Held),
}

/// What a field of a fact holds.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Held {
    /// A number from one to another: a count, an amount, metres, metres a second. Numbers in single precision are taken to the nearest
    /// ten-thousandth.
    Between(Fixed, Fixed),
    /// Yes or no.
    Truth(bool),
    /// A word out of the field's list, or the name of a part.
    Word(WordId),
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
            Condition::Field(..) => "fact",
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

    /// As [`does`](Self::does), so many ticks later. A target that has died or left by then is refused.
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
