//! How everything stood over a whole run, as what changed.

use std::collections::{BTreeMap, BTreeSet};

use hammerstone::ids::CombatantId;
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
    told: BTreeMap<Option<CombatantId>, Told>,
    #[serde(skip)]
    numbers: Vec<i64>,
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

/// What is told of one combatant, or of the encounter.
#[derive(Clone, Debug, Default)]
struct Told {
    /// The numbers from which it was told.
    numbers: Vec<i64>,
    places: Vec<usize>,
    /// The last tick in which it was there.
    seen: u32,
}

impl StateHistory {
    /// Tells the lines of a table, which are all that is known of one, and notes what is otherwise than before.
    fn tell(&mut self, table: StateTable, told: &mut Told, changed: &mut Changed) {
        let before = std::mem::take(&mut told.places);
        let mut next: Changed = Vec::new();
        for line in table.lines {
            let key = (line.of, line.what);
            let place = *self.places.entry(key.clone()).or_insert_with(|| {
                self.keys.push(key);
                self.now.push(None);
                self.keys.len() - 1
            });
            // Of several of one name, such as statuses from several sources, all are told.
            match next.iter_mut().find(|(of, _)| *of == place) {
                Some((_, Some(others))) => *others = format!("{others}; {}", line.value),
                _ => next.push((place, Some(line.value))),
            }
        }
        told.places.extend(next.iter().map(|(place, _)| *place));
        next.extend(
            before.into_iter().filter(|place| !told.places.contains(place)).map(|place| (place, None)),
        );
        for (place, value) in next {
            if self.now[place] != value {
                self.now[place].clone_from(&value);
                changed.push((place, value));
            }
        }
    }

    /// What is known of the encounter, and of each combatant of which a number is otherwise.
    fn look(&mut self, tick: &Tick<'_>, told: &mut BTreeMap<Option<CombatantId>, Told>) -> Changed {
        let mut changed = Changed::new();
        let combatants = tick.view().combatants().map(Some);
        for who in std::iter::once(None).chain(combatants) {
            let of_one = told.entry(who).or_default();
            of_one.seen = tick.clock;
            let Some(who) = who else {
                self.tell(StateTable::of_encounter(tick), of_one, &mut changed);
                continue;
            };
            self.numbers.clear();
            StateTable::lasting_numbers(tick, who, &mut self.numbers);
            if self.numbers != of_one.numbers {
                of_one.numbers.clone_from(&self.numbers);
                self.tell(StateTable::lasting(tick, who), of_one, &mut changed);
            }
        }
        let left = |of_one: &Told| of_one.seen != tick.clock;
        if told.values().any(left) {
            // A name that another bears by now was told anew.
            let here: BTreeSet<usize> = { told.values() }
                .filter(|&of_one| !left(of_one))
                .flat_map(|of_one| of_one.places.clone())
                .collect();
            for (_, gone) in told.extract_if(.., |_, of_one| left(of_one)) {
                for place in gone.places.into_iter().filter(|place| !here.contains(place)) {
                    self.now[place] = None;
                    changed.push((place, None));
                }
            }
        }
        changed.sort_by_key(|(place, _)| *place);
        changed
    }
}

impl Record for StateHistory {
    fn observe(&mut self, tick: &Tick<'_>) {
        if self.until.is_some() {
            return;
        }
        let mut told = std::mem::take(&mut self.told);
        let changed = self.look(tick, &mut told);
        self.told = told;
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
