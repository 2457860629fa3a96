//! Filters of facts, for subscriptions.

use super::{Condition, On};

/// Which facts a subscription asks for, beside its topics and parties: those of a topic, or of a path and all below it, for which
/// conditions hold when they are heard.
///
/// It is what a rule is without anything that it does: a subscription [fits](crate::hooks::Listen::fitting) one, and hears what a rule
/// with the same conditions would answer. No chance is asked: a subscription rolls nothing.
///
/// ```
/// use hammerstone::flow::{Condition, Filter, Group, Party};
/// use hammerstone::prelude::*;
/// let mut b = Ruleset::builder(60);
/// let masons = b.team("masons");
/// let by_masons = Condition::Is(Party::Other, Group::team(masons));
/// let filter = b.filter(Filter::on_family("by masons", "damage.dealt").when(by_masons));
/// # b.damage_type("crush");
/// let rules = b.build().unwrap();
/// let heard = Listen::all().fitting(filter);
/// # let _ = (rules, heard);
/// ```
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Filter {
    pub(crate) name: String,
    pub(crate) on: On,
    pub(crate) when: Vec<Condition>,
}

impl Filter {
    /// Facts of one topic, by its path, such as `combatant.died`.
    pub fn on(name: &str, topic: &str) -> Filter {
        Filter { name: name.to_owned(), on: On::Exact(topic.to_owned()), when: Vec::new() }
    }

    /// Facts of a path and of all below it.
    pub fn on_family(name: &str, family: &str) -> Filter {
        Filter { name: name.to_owned(), on: On::Family(family.to_owned()), when: Vec::new() }
    }

    /// Only if this holds too.
    pub fn when(mut self, condition: Condition) -> Filter {
        self.when.push(condition);
        self
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// What must hold, all of it.
    pub fn conditions(&self) -> &[Condition] {
        &self.when
    }
}
