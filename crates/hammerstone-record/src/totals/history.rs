//! How everything stood over a whole run, as what changed.

use std::borrow::Cow;
use std::collections::BTreeMap;

use hammerstone::ids::CombatantId;
use serde::Serialize;

use super::state::StateTable;
use crate::{Record, Tick};

/// So many changes are kept; where there are more, they are told in coarser steps of time, so that no page becomes too large and no part of a
/// fight is left out.
const MOST: usize = 120_000;

/// Places among the keys, and how each stands now.
type Changed = Vec<(usize, Option<String>)>;

/// What is known of an encounter and its combatants, from each tick on as what is otherwise than before: what
/// [`StateTable`] tells, without what only counts down.
#[derive(Clone, Debug, Serialize)]
pub struct StateHistory {
    /// What is told: the combatant, if it is of one, and what it is.
    keys: Vec<(Option<String>, String)>,
    /// From a tick on: the place among the keys, and how it stands; none if it is there no longer.
    changes: Vec<(u32, Changed)>,
    /// How many ticks are told together: each change at most so many ticks less one late.
    grain: u32,
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
    #[serde(skip)]
    most: usize,
    /// Of the last step of time: where each place among the keys lies in it.
    #[serde(skip)]
    lies_at: BTreeMap<usize, usize>,
}

impl Default for StateHistory {
    fn default() -> Self {
        StateHistory::keeping(MOST)
    }
}

impl StateHistory {
    /// Nothing yet.
    pub fn new() -> StateHistory {
        StateHistory::default()
    }

    /// One that keeps at most so many changes, if only of one step of time there are no more.
    pub fn keeping(most: usize) -> StateHistory {
        StateHistory {
            keys: Vec::new(),
            changes: Vec::new(),
            grain: 1,
            places: BTreeMap::new(),
            now: Vec::new(),
            encounter: Told::default(),
            told: Vec::new(),
            namings: 0,
            numbers: Vec::new(),
            count: 0,
            most: most.max(1),
            lies_at: BTreeMap::new(),
        }
    }

    /// How many ticks are told together: a change is told at most so many ticks less one late. 1 unless there were too many changes.
    pub fn grain(&self) -> u32 {
        self.grain
    }

    /// Adds what changed; with the changes of the same step of time.
    fn add(&mut self, tick: u32, changed: Changed) {
        match self.changes.last_mut().filter(|(from, _)| *from / self.grain == tick / self.grain) {
            Some((from, known)) => {
                *from = tick;
                for (place, value) in changed {
                    match self.lies_at.get(&place) {
                        Some(&at) => known[at].1 = value,
                        None => {
                            self.lies_at.insert(place, known.len());
                            known.push((place, value));
                            self.count += 1;
                        }
                    }
                }
            }
            None => {
                self.count += changed.len();
                self.lies_at = changed.iter().enumerate().map(|(at, (place, _))| (*place, at)).collect();
                self.changes.push((tick, changed));
            }
        }
    }

    /// Tells all in steps of time that are twice as long, until there are few enough.
    fn thin(&mut self) {
        while self.count > self.most && self.changes.len() > 1 {
            self.grain *= 2;
            let all = std::mem::take(&mut self.changes);
            self.count = 0;
            all.into_iter().for_each(|(tick, changed)| self.add(tick, changed));
        }
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
        if !self.look(tick) {
            return;
        }
        let changed = self.compare();
        if changed.is_empty() {
            return;
        }
        self.add(tick.clock, changed);
        self.thin();
    }
}
