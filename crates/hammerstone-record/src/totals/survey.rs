//! What many runs came to: how they ended, how long they took, who dealt what, and when someone died.

use crate::{Record, Tick};
use hammerstone::event::{CombatantDied, CombatantJoined, DamageDealt, EncounterEnded};
use std::collections::BTreeMap;

use hammerstone::event::Event;
use hammerstone::ids::CombatantId;
use hammerstone::status::Status;
use hammerstone::{Encounter, Life};
use serde::Serialize;

use super::intervals::Interval;
use super::means::{MeansPoint, MeansRan, MeansTally};
use crate::Names;
use crate::feed::via_name;

/// What one run came to.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Ran {
    /// The seed of its rolls.
    pub seed: u64,
    /// How it ended; empty if it did not.
    pub outcome: String,
    /// How long it took, in seconds.
    pub seconds: f64,
    /// How many hits landed.
    pub hits: u64,
    /// What each team came to, in their order.
    pub teams: Vec<TeamRan>,
    /// What each combatant came to, in the order in which they joined.
    pub fighters: Vec<FighterRan>,
    /// What each attack of each team came to, and what else dealt damage.
    pub means: Vec<MeansRan>,
}

/// What a team came to in one run.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct TeamRan {
    /// Its name.
    pub name: String,
    /// Damage that it dealt, in points.
    pub dealt: i64,
    /// How often one of it died.
    pub deaths: u32,
    /// How many stood at the end.
    pub stand: usize,
}

/// What a combatant came to in one run.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct FighterRan {
    /// Its name.
    pub name: String,
    /// Damage that it dealt, in points.
    pub dealt: i64,
    /// Damage that it took.
    pub taken: i64,
    /// When it first died, in seconds.
    pub died: Option<f64>,
    /// Of what: the name of the attack, the status, the rule or the reason.
    pub died_of: Option<String>,
    /// How long that took from the first damage that it took, in seconds.
    pub time_to_kill: Option<f64>,
    /// For how long it was stunned, in seconds.
    pub stunned: f64,
}

/// What is known of one combatant in a run.
#[derive(Clone, Debug, Default)]
struct Fighter {
    /// As which it joined, from 0.
    number: usize,
    dealt: i64,
    taken: i64,
    /// The tick in which it first took damage.
    hurt: Option<u32>,
    /// The tick of its first death, and of what.
    died: Option<(u32, String)>,
    /// Ticks.
    stunned: u32,
}

/// Gathers what a run comes to.
#[derive(Clone, Debug, Default)]
pub struct Running {
    fighters: BTreeMap<CombatantId, Fighter>,
    dealt: BTreeMap<usize, i64>,
    deaths: BTreeMap<usize, u32>,
    means: MeansTally,
    outcome: String,
    hits: (u64, u64),
    ticks: u32,
}

impl Running {
    /// Nothing yet.
    pub fn new() -> Running {
        Running::default()
    }

    fn fighter(&mut self, who: CombatantId) -> &mut Fighter {
        let number = self.fighters.len();
        self.fighters.entry(who).or_insert(Fighter { number, ..Fighter::default() })
    }

    /// What it came to, after its last tick.
    pub fn finish(self, encounter: &Encounter, names: &Names, seed: u64) -> Ran {
        let (rules, view) = (encounter.rules(), encounter.view());
        let seconds = |tick: u32| f64::from(tick) / f64::from(rules.rate());
        let team = |team: hammerstone::ids::TeamId| TeamRan {
            name: rules.team_name(team).unwrap_or_default().to_owned(),
            dealt: self.dealt.get(&team.index()).copied().unwrap_or(0),
            deaths: self.deaths.get(&team.index()).copied().unwrap_or(0),
            stand: view.standing(team),
        };
        let fighter = |(who, Fighter { dealt, taken, hurt, died, stunned, .. }): (CombatantId, Fighter)| {
            let at = died.as_ref().map(|(tick, _)| *tick);
            FighterRan {
                name: names.of(who).to_owned(),
                dealt,
                taken,
                died: at.map(|tick| seconds(tick - 1)),
                died_of: died.map(|(_, of)| of),
                time_to_kill: at.map(|tick| seconds(tick - hurt.unwrap_or(tick))),
                stunned: seconds(stunned),
            }
        };
        let means = self.means.finish(rules);
        let mut fighters: Vec<(CombatantId, Fighter)> = self.fighters.into_iter().collect();
        fighters.sort_by_key(|(_, of)| of.number);
        Ran {
            seed,
            outcome: self.outcome,
            seconds: seconds(self.ticks),
            hits: self.hits.0 + self.hits.1,
            teams: rules.teams().map(team).collect(),
            fighters: fighters.into_iter().map(fighter).collect(),
            means,
        }
    }
}

impl Record for Running {
    fn observe(&mut self, tick: &Tick<'_>) {
        let (facts, rules, view) = (&tick.facts, tick.rules, tick.view());
        self.ticks = tick.clock;
        if tick.anew {
            self.hits.0 += self.hits.1;
        }
        self.hits.1 = facts.counts.hits;
        self.means.observe(tick);
        for event in facts.events() {
            match *event {
                Event::CombatantJoined(CombatantJoined { subject, .. }) => {
                    self.fighter(subject);
                }
                Event::DamageDealt(DamageDealt { source, target, amount, .. }) => {
                    let now = self.ticks;
                    let fighter = self.fighter(target);
                    fighter.taken += amount;
                    fighter.hurt.get_or_insert(now);
                    if let Some(source) = source {
                        self.fighter(source).dealt += amount;
                        if let Some(team) = view.team(source) {
                            *self.dealt.entry(team.index()).or_default() += amount;
                        }
                    }
                }
                Event::CombatantDied(CombatantDied { subject, team, via, .. }) => {
                    let tick = self.ticks;
                    let of = || (tick, via_name(via, rules).1.to_owned());
                    self.fighter(subject).died.get_or_insert_with(of);
                    *self.deaths.entry(team.index()).or_default() += 1;
                }
                Event::EncounterEnded(EncounterEnded { outcome, .. }) => {
                    rules.outcome_name(outcome).unwrap_or_default().clone_into(&mut self.outcome)
                }
                _ => {}
            }
        }
        if rules.statuses().iter().any(Status::is_stun) {
            for (&who, fighter) in &mut self.fighters {
                fighter.stunned += u32::from(view.life(who) == Life::Standing && view.is_stunned(who));
            }
        }
    }
}

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
}

impl Spread {
    /// The spread of some values, by the nearest rank; of none there is none.
    pub fn of(mut values: Vec<f64>) -> Option<Spread> {
        values.sort_by(f64::total_cmp);
        let rank = |share: f64| {
            let place = (share * values.len() as f64).ceil() as usize;
            values.get(place.saturating_sub(1)).copied()
        };
        let mean = values.iter().sum::<f64>() / values.len() as f64;
        Some(Spread { low: rank(0.1)?, middle: rank(0.5)?, high: rank(0.9)?, mean })
    }
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
    /// The share of the runs at whose end at least one of it stood.
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
    pub fn of(values: Vec<String>, runs: &[&Ran]) -> Option<Point> {
        let count = runs.len() as f64;
        let mut outcomes: BTreeMap<&str, usize> = BTreeMap::new();
        for run in runs {
            *outcomes.entry(&run.outcome).or_default() += 1;
        }
        let outcome = |(name, ended): (&str, usize)| OutcomePoint {
            name: name.to_owned(),
            share: ended as f64 / count,
            interval: Interval::of_share(ended, runs.len()),
        };
        let mut outcomes: Vec<OutcomePoint> = outcomes.into_iter().map(outcome).collect();
        outcomes.sort_by(|a, b| b.share.total_cmp(&a.share));
        let first = runs.first()?;
        let teams = (0..first.teams.len()).filter_map(|place| {
            let all = || runs.iter().filter_map(move |run| run.teams.get(place));
            let stood = all().filter(|team| team.stand > 0).count();
            Some(TeamPoint {
                name: first.teams[place].name.clone(),
                dealt: Spread::of(all().map(|team| team.dealt as f64).collect())?,
                deaths: Spread::of(all().map(|team| f64::from(team.deaths)).collect())?,
                stood: stood as f64 / count,
                stood_interval: Interval::of_share(stood, runs.len()),
            })
        });
        let mut order: Vec<&str> = Vec::new();
        let mut known: BTreeMap<&str, Vec<&FighterRan>> = BTreeMap::new();
        for fighter in runs.iter().flat_map(|run| &run.fighters) {
            let all = known.entry(&fighter.name).or_default();
            if all.is_empty() {
                order.push(&fighter.name);
            }
            all.push(fighter);
        }
        let fighters = order.into_iter().filter_map(|name| {
            let all = &known[name];
            let died: Vec<f64> = all.iter().filter_map(|fighter| fighter.died).collect();
            let died_of = by_frequency(all.iter().filter_map(|fighter| fighter.died_of.as_deref()));
            Some(FighterPoint {
                name: name.to_owned(),
                there: all.len() as f64 / count,
                died: died.len() as f64 / all.len() as f64,
                died_interval: Interval::of_share(died.len(), all.len()),
                time: Spread::of(died),
                time_to_kill: Spread::of(all.iter().filter_map(|fighter| fighter.time_to_kill).collect()),
                died_of,
                stunned: Spread::of(all.iter().map(|fighter| fighter.stunned).collect())?,
                dealt: Spread::of(all.iter().map(|fighter| fighter.dealt as f64).collect())?,
                taken: Spread::of(all.iter().map(|fighter| fighter.taken as f64).collect())?,
            })
        });
        Some(Point {
            values,
            runs: runs.len(),
            outcomes,
            seconds: Spread::of(runs.iter().map(|run| run.seconds).collect())?,
            teams: teams.collect(),
            fighters: fighters.collect(),
            means: MeansPoint::of(runs),
        })
    }
}

/// What there is, each with its share, the most frequent first.
fn by_frequency<'a>(all: impl Iterator<Item = &'a str>) -> Vec<(String, f64)> {
    let mut counts: BTreeMap<&str, usize> = BTreeMap::new();
    let mut count = 0;
    for one in all {
        *counts.entry(one).or_default() += 1;
        count += 1;
    }
    let mut shares: Vec<(String, f64)> =
        counts.into_iter().map(|(name, of)| (name.to_owned(), of as f64 / count as f64)).collect();
    shares.sort_by(|a, b| b.1.total_cmp(&a.1));
    shares
}
