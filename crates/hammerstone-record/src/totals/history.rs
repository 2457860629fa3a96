//! How everything stood over a whole run, as what changed.

use std::collections::BTreeMap;

use serde::Serialize;

use super::state::StateTable;
use crate::{Record, Tick};

/// So many changes are kept; then no more, so that no page becomes too large.
const MOST: usize = 60_000;

/// Places among the keys, and how each stands now.
type Changed = Vec<(usize, Option<String>)>;

/// What is known of an encounter and its combatants, from each tick on as what is otherwise than before: what
/// [`StateTable`] tells, without what only counts down.
#[derive(Clone, Debug, Default, Serialize)]
pub struct StateHistory {
    /// What is told: the combatant, if it is of one, and what it is.
    keys: Vec<(Option<String>, String)>,
    /// From a tick on: the place among the keys, and how it stands; none if it is there no longer.
    changes: Vec<(u32, Changed)>,
    /// The tick from which on changes are no longer kept, if there were too many.
    until: Option<u32>,
    #[serde(skip)]
    places: BTreeMap<(Option<String>, String), usize>,
    #[serde(skip)]
    now: Vec<Option<String>>,
    #[serde(skip)]
    count: usize,
}

impl StateHistory {
    /// Nothing yet.
    pub fn new() -> StateHistory {
        StateHistory::default()
    }

    /// How something stood when a tick was over.
    pub fn at(&self, of: Option<&str>, what: &str, tick: u32) -> Option<&str> {
        let place = *self.places.get(&(of.map(str::to_owned), what.to_owned()))?;
        let mut then = None;
        for (_, changes) in self.changes.iter().take_while(|(from, _)| *from <= tick) {
            then = changes.iter().rfind(|(of, _)| *of == place).map_or(then, |(_, value)| value.as_deref());
        }
        then
    }
}

impl Record for StateHistory {
    fn observe(&mut self, tick: &Tick<'_>) {
        if self.until.is_some() {
            return;
        }
        let table = StateTable::lasting(tick);
        let mut next: Vec<Option<String>> = vec![None; self.now.len()];
        for line in table.lines {
            let key = (line.of, line.what);
            let place = *self.places.entry(key.clone()).or_insert_with(|| {
                self.keys.push(key);
                self.keys.len() - 1
            });
            if place >= next.len() {
                next.resize(place + 1, None);
                self.now.resize(place + 1, None);
            }
            // Of several of one name, such as statuses from several sources, all are told.
            next[place] = Some(match next[place].take() {
                Some(others) => format!("{others}; {}", line.value),
                None => line.value,
            });
        }
        let changed = next.iter().zip(&self.now).enumerate().filter(|(_, (next, now))| next != now);
        let changed: Changed = changed.map(|(place, (next, _))| (place, next.clone())).collect();
        self.now = next;
        if changed.is_empty() {
            return;
        }
        self.count += changed.len();
        if self.count > MOST {
            self.until = Some(tick.clock);
            return;
        }
        self.changes.push((tick.clock, changed));
    }
}
