//! What one run came to: how it ended, how long it took, who dealt what, and when someone died.

use crate::{Record, Tick};
use hammerstone::event::{CombatantDied, CombatantJoined, DamageDealt, EncounterEnded};
use std::collections::BTreeMap;

use hammerstone::event::Event;
use hammerstone::ids::CombatantId;
use hammerstone::status::Status;
use hammerstone::{Encounter, Life};
use serde::Serialize;

use super::means::{MeansRan, MeansTally};
use crate::Names;
use crate::feed::via_name;

/// What one run came to.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Ran {
    /// The seed of its rolls.
    pub seed: u64,
    /// How it ended; empty if it did not.
    pub outcome: String,
    /// Ticks in a second.
    pub rate: u32,
    /// How long it took, in ticks.
    pub ticks: u32,
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
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct FighterRan {
    /// Its name.
    pub name: String,
    /// Damage that it dealt, in points.
    pub dealt: i64,
    /// Damage that it took.
    pub taken: i64,
    /// When it first died, in ticks.
    pub died: Option<u32>,
    /// Of what: the name of the attack, the status, the rule or the reason.
    pub died_of: Option<String>,
    /// How long that took from the first damage that it took, in ticks.
    pub time_to_kill: Option<u32>,
    /// For how long it was stunned, in ticks.
    pub stunned: u32,
}

impl Ran {
    /// How long it took, in seconds.
    pub fn seconds(&self) -> f64 {
        f64::from(self.ticks) / f64::from(self.rate)
    }
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
                died: at.map(|tick| tick - 1),
                died_of: died.map(|(_, of)| of),
                time_to_kill: at.map(|tick| tick - hurt.unwrap_or(tick)),
                stunned,
            }
        };
        let means = self.means.finish(rules);
        let mut fighters: Vec<(CombatantId, Fighter)> = self.fighters.into_iter().collect();
        fighters.sort_by_key(|(_, of)| of.number);
        Ran {
            seed,
            outcome: self.outcome,
            rate: rules.rate(),
            ticks: self.ticks,
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
