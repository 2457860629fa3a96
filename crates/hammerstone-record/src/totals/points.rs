//! What many runs with the same values came to, counted one by one.

use std::collections::BTreeMap;

use serde::Serialize;

use super::histogram::Histogram;
use super::intervals::Interval;
use super::means::{MeansPoint, MeansTotals};
use super::ran::{FighterRan, Ran};

/// How values are spread.
#[derive(Clone, Copy, PartialEq, Debug, Serialize)]
pub struct Spread {
    /// A tenth of them is no more than this.
    pub low: f64,
    /// Half of them is no more than this.
    pub middle: f64,
    /// Nine tenths of them are no more than this.
    pub high: f64,
    /// Their mean.
    pub mean: f64,
    /// How much more the first three may be than they are told: nothing, unless there are more different values than are kept apart
    /// (16,384).
    #[serde(skip_serializing_if = "is_zero")]
    pub within: f64,
}

fn is_zero(value: &f64) -> bool {
    *value == 0.0
}

/// All runs with the same values.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Point {
    /// The values, as they are written.
    pub values: Vec<String>,
    /// How many runs there were.
    pub runs: usize,
    /// Outcomes, the most frequent first.
    pub outcomes: Vec<OutcomePoint>,
    /// How long they took, in seconds.
    pub seconds: Spread,
    /// What each team came to.
    pub teams: Vec<TeamPoint>,
    /// What each combatant came to, in the order in which they first came.
    pub fighters: Vec<FighterPoint>,
    /// What each attack of each team came to, and what else dealt damage, the most damage first.
    pub means: Vec<MeansPoint>,
}

/// How often runs ended in one way.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct OutcomePoint {
    /// The outcome.
    pub name: String,
    /// Its share of the runs.
    pub share: f64,
    /// Where the share of all seeds lies, at 95 %.
    pub interval: Interval,
}

/// What a team came to in many runs.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct TeamPoint {
    /// Its name.
    pub name: String,
    /// Damage that it dealt, in points.
    pub dealt: Spread,
    /// How often one of it died.
    pub deaths: Spread,
    /// The share of the runs in which at least one of it stood at the end.
    pub stood: f64,
    /// Where that lies, at 95 %.
    pub stood_interval: Interval,
}

/// What a combatant came to in many runs.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct FighterPoint {
    /// Its name.
    pub name: String,
    /// The share of the runs in which it was there.
    pub there: f64,
    /// Of those, the share in which it died.
    pub died: f64,
    /// Where that lies, at 95 %.
    pub died_interval: Interval,
    /// When it first died, in seconds, of the runs in which it did.
    pub time: Option<Spread>,
    /// How long it took from the first damage to its first death, in seconds.
    pub time_to_kill: Option<Spread>,
    /// Of what it died first, with the share of its deaths, the most frequent first.
    pub died_of: Vec<(String, f64)>,
    /// Damage that it dealt, of the runs in which it was there.
    pub dealt: Spread,
    /// Damage that it took.
    pub taken: Spread,
    /// For how long it was stunned, in seconds.
    pub stunned: Spread,
}

impl Point {
    /// What these runs came to; of none there is nothing.
    pub fn of<'r>(values: Vec<String>, runs: impl IntoIterator<Item = &'r Ran>) -> Option<Point> {
        let mut tally = PointTally::default();
        runs.into_iter().for_each(|ran| tally.add(ran));
        tally.finish(values)
    }
}

/// Counts runs with the same values one by one, in memory that does not grow with their number: what came of any number of them. Names of
/// combatants, attacks and outcomes are kept, and how often each value came.
#[derive(Clone, PartialEq, Debug, Default)]
pub struct PointTally {
    runs: u64,
    rate: u32,
    outcomes: BTreeMap<String, u64>,
    ticks: Histogram,
    teams: Vec<TeamTally>,
    /// In the order in which they first came.
    fighters: Vec<(String, FighterTally)>,
    places: BTreeMap<String, usize>,
    means: MeansTotals,
}

#[derive(Clone, PartialEq, Debug, Default)]
struct TeamTally {
    name: String,
    dealt: Histogram,
    deaths: Histogram,
    stood: u64,
}

#[derive(Clone, PartialEq, Debug, Default)]
struct FighterTally {
    there: u64,
    deaths: u64,
    died: Histogram,
    time_to_kill: Histogram,
    died_of: BTreeMap<String, u64>,
    dealt: Histogram,
    taken: Histogram,
    stunned: Histogram,
}

impl PointTally {
    /// Counts a run. In which order runs come matters to the order in which combatants are told, and to nothing else.
    pub fn add(&mut self, ran: &Ran) {
        self.runs += 1;
        self.rate = ran.rate;
        count(&mut self.outcomes, &ran.outcome);
        self.ticks.add(ran.ticks.into());
        for (place, team) in ran.teams.iter().enumerate() {
            if place == self.teams.len() {
                self.teams.push(TeamTally { name: team.name.clone(), ..TeamTally::default() });
            }
            let tally = &mut self.teams[place];
            tally.dealt.add(team.dealt);
            tally.deaths.add(team.deaths.into());
            tally.stood += u64::from(team.stand > 0);
        }
        for fighter in &ran.fighters {
            let place = match self.places.get(&fighter.name) {
                Some(place) => *place,
                None => {
                    self.places.insert(fighter.name.clone(), self.fighters.len());
                    self.fighters.push((fighter.name.clone(), FighterTally::default()));
                    self.fighters.len() - 1
                }
            };
            self.fighters[place].1.add(fighter);
        }
        self.means.add(&ran.means);
    }

    /// How many runs were counted.
    pub fn runs(&self) -> u64 {
        self.runs
    }

    /// Half of the widest interval of the shares of outcomes; all where no run was counted.
    pub fn uncertainty(&self) -> f64 {
        let half = |&ended: &u64| Interval::of_share(ended, self.runs).half();
        self.outcomes.values().map(half).reduce(f64::max).unwrap_or(1.0)
    }

    /// What the runs came to; of none there is nothing.
    pub fn finish(&self, values: Vec<String>) -> Option<Point> {
        let (all, rate) = (self.runs as f64, f64::from(self.rate));
        let outcome = |(name, &ended): (&String, &u64)| OutcomePoint {
            name: name.clone(),
            share: ended as f64 / all,
            interval: Interval::of_share(ended, self.runs),
        };
        let mut outcomes: Vec<OutcomePoint> = self.outcomes.iter().map(outcome).collect();
        outcomes.sort_by(|a, b| b.share.total_cmp(&a.share));
        let team = |team: &TeamTally| {
            Some(TeamPoint {
                name: team.name.clone(),
                dealt: team.dealt.spread(1.0)?,
                deaths: team.deaths.spread(1.0)?,
                stood: team.stood as f64 / all,
                stood_interval: Interval::of_share(team.stood, self.runs),
            })
        };
        let fighter = |(name, of): &(String, FighterTally)| {
            Some(FighterPoint {
                name: name.clone(),
                there: of.there as f64 / all,
                died: of.deaths as f64 / of.there as f64,
                died_interval: Interval::of_share(of.deaths, of.there),
                time: of.died.spread(rate),
                time_to_kill: of.time_to_kill.spread(rate),
                died_of: by_frequency(&of.died_of),
                dealt: of.dealt.spread(1.0)?,
                taken: of.taken.spread(1.0)?,
                stunned: of.stunned.spread(rate)?,
            })
        };
        Some(Point {
            values,
            runs: self.runs as usize,
            outcomes,
            seconds: self.ticks.spread(rate)?,
            teams: self.teams.iter().filter_map(team).collect(),
            fighters: self.fighters.iter().filter_map(fighter).collect(),
            means: self.means.finish(self.runs),
        })
    }
}

impl FighterTally {
    fn add(&mut self, ran: &FighterRan) {
        self.there += 1;
        if let Some(died) = ran.died {
            self.deaths += 1;
            self.died.add(died.into());
        }
        if let Some(time) = ran.time_to_kill {
            self.time_to_kill.add(time.into());
        }
        if let Some(of) = &ran.died_of {
            count(&mut self.died_of, of);
        }
        self.dealt.add(ran.dealt);
        self.taken.add(ran.taken);
        self.stunned.add(ran.stunned.into());
    }
}

/// Counts a name once more.
fn count(counts: &mut BTreeMap<String, u64>, name: &str) {
    match counts.get_mut(name) {
        Some(count) => *count += 1,
        None => drop(counts.insert(name.to_owned(), 1)),
    }
}

/// What there is, each with its share, the most frequent first.
fn by_frequency(counts: &BTreeMap<String, u64>) -> Vec<(String, f64)> {
    let all: u64 = counts.values().sum();
    let mut shares: Vec<(String, f64)> =
        counts.iter().map(|(name, of)| (name.clone(), *of as f64 / all as f64)).collect();
    shares.sort_by(|a, b| b.1.total_cmp(&a.1));
    shares
}
