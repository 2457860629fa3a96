//! Rules: what answers a fact, as data.

mod condition;
mod reaction;

pub(crate) use condition::DEEPEST;
pub use condition::{Comparison, Condition, Crossings, Group, Held, SwingPhase};
pub use reaction::{
    Count, Counting, Credit, Dealing, Healing, Reaction, RuleValue, ScoreValue, Tactic, Target,
};

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
    /// The choice that it is a case of.
    pub(crate) choice: Option<ChoiceId>,
}

/// Which facts a rule hears.
#[derive(Clone, PartialEq, Eq, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum On {
    Exact(String),
    Family(String),
}

/// One thing that a rule does, so many ticks after it fires.
#[derive(Clone, PartialEq, Debug, Hash)]
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
            choice: None,
        }
    }

    /// Only if this holds too.
    pub fn when(mut self, condition: Condition) -> Rule {
        self.when.push(condition);
        Condition::chances_last(&mut self.when);
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

    /// What must hold: all of these, in this order; what rolls comes last.
    pub fn conditions(&self) -> &[Condition] {
        &self.when
    }

    /// All conditions with those that lie in them, by their numbers.
    pub fn all_conditions(&self) -> Vec<&Condition> {
        self.when.iter().flat_map(Condition::with_inner).collect()
    }

    /// The choice that it is a case of.
    pub fn choice(&self) -> Option<ChoiceId> {
        self.choice
    }

    /// What it does, and how many ticks later.
    pub fn reactions(&self) -> impl Iterator<Item = (u32, &Reaction)> {
        self.does.iter().map(|one| (one.after, &one.action))
    }
}
