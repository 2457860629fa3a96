//! What a running game stops at.

use hammerstone_record::Tick;
use serde::{Deserialize, Serialize};

/// What a page asks the game to stop at; empty where nothing.
#[derive(Clone, PartialEq, Eq, Debug, Default, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub(crate) struct Stops {
    /// A topic: its path, or the beginning of it up to a point; `*` stands for any topic.
    pub(crate) topic: String,
    /// The name of a combatant that the fact must be about.
    pub(crate) name: String,
    /// Any death.
    pub(crate) deaths: bool,
    /// A breach that the game's auditor finds.
    pub(crate) breaches: bool,
}

impl Stops {
    /// The first fact of a tick to stop at: its number, and in words.
    pub(crate) fn found(&self, tick: &Tick<'_>) -> Option<(u64, String)> {
        let asks = !self.topic.is_empty() || !self.name.is_empty();
        if !asks && !self.deaths {
            return None;
        }
        let topics = tick.rules.topics();
        tick.facts.facts.iter().find_map(|fact| {
            let path = topics.path(fact.event.topic()).unwrap_or_default();
            let parties = [fact.event.subject(), fact.event.other()];
            let mut names = parties.into_iter().flatten().map(|who| tick.names.of(who));
            let is_topic = self.topic.is_empty() || is_below(path, &self.topic);
            let is_asked = asks && is_topic && (self.name.is_empty() || names.any(|name| name == self.name));
            let stops = is_asked || (self.deaths && path == "combatant.died");
            stops.then(|| {
                let told = hammerstone_record::told(&tick.line(fact));
                (fact.seq, told.unwrap_or_else(|| path.to_owned()))
            })
        })
    }
}

/// Whether a topic is the one that is wanted, or below it.
fn is_below(path: &str, wanted: &str) -> bool {
    let rest = path.strip_prefix(wanted.trim_end_matches(".*").trim_end_matches('.'));
    wanted == "*" || rest.is_some_and(|rest| rest.is_empty() || rest.starts_with('.'))
}
