//! How everything stood over a whole run, as what changed.

use std::borrow::Cow;
use std::collections::BTreeMap;

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
    encounter: Told,
    /// By slot; of none where no combatant was.
    #[serde(skip)]
    told: Vec<Told>,
    /// How often combatants had been named when they were told.
    #[serde(skip)]
    namings: u64,
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
    of: Option<CombatantId>,
    /// The numbers from which it was told.
    numbers: Vec<i64>,
    /// Places among the keys, and how each stands.
    lines: Vec<(usize, String)>,
    /// The last tick in which it was there.
    seen: u32,
}

impl StateHistory {
    /// The lines of a table with the places of their keys.
    fn placed(&mut self, table: StateTable) -> Vec<(usize, String)> {
        let lines = table.lines.into_iter().map(|line| {
            let key = (line.of, line.what);
            let place = *self.places.entry(key.clone()).or_insert_with(|| {
                self.keys.push(key);
                self.keys.len() - 1
            });
            (place, line.value)
        });
        lines.collect()
    }

    /// Takes in what is known of the encounter, and of each combatant of which a number is otherwise or that is called otherwise. Gives
    /// whether anything was taken in, or has gone.
    fn look(&mut self, tick: &Tick<'_>) -> bool {
        let mut told = std::mem::take(&mut self.told);
        if self.namings != tick.names.namings() {
            self.namings = tick.names.namings();
            told.clear();
        }
        let lines = self.placed(StateTable::of_encounter(tick));
        let mut differs = self.encounter.lines != lines;
        self.encounter = Told { lines, ..Told::default() };
        for who in tick.view().combatants() {
            if told.len() <= who.slot() {
                told.resize_with(who.slot() + 1, Told::default);
            }
            let of_one = &mut told[who.slot()];
            let is_new = of_one.of != Some(who);
            (of_one.of, of_one.seen) = (Some(who), tick.clock);
            self.numbers.clear();
            StateTable::lasting_numbers(tick, who, &mut self.numbers);
            if is_new || self.numbers != of_one.numbers {
                of_one.numbers.clone_from(&self.numbers);
                of_one.lines = self.placed(StateTable::lasting(tick, who));
                differs = true;
            }
        }
        for of_one in told.iter_mut().filter(|of_one| of_one.of.is_some() && of_one.seen != tick.clock) {
            *of_one = Told::default();
            differs = true;
        }
        self.told = told;
        differs
    }

    /// What stands otherwise than before.
    fn compare(&mut self) -> Changed {
        self.now.resize(self.keys.len(), None);
        let mut next: Vec<Option<Cow<'_, str>>> = vec![None; self.keys.len()];
        let all = std::iter::once(&self.encounter).chain(&self.told);
        for (place, value) in all.flat_map(|of_one| &of_one.lines) {
            // Of several of one name, such as statuses from several sources, all are told.
            next[*place] = Some(match next[*place].take() {
                Some(others) => Cow::Owned(format!("{others}; {value}")),
                None => Cow::Borrowed(value),
            });
        }
        let mut changed = Changed::new();
        for (place, (next, now)) in next.into_iter().zip(&mut self.now).enumerate() {
            if next.as_deref() != now.as_deref() {
                *now = next.map(Cow::into_owned);
                changed.push((place, now.clone()));
            }
        }
        changed
    }
}

impl Record for StateHistory {
    fn observe(&mut self, tick: &Tick<'_>) {
        if self.until.is_some() || !self.look(tick) {
            return;
        }
        let changed = self.compare();
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
