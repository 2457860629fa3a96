//! A run in numbers: damage by attacker, target and attack, deaths, refusals by gate, and the combatants that stand over time.

use crate::{Record, Tick};
use hammerstone::event::{CombatantDied, DamageDealt, EncounterEnded};
use std::collections::BTreeMap;

use hammerstone::Counts;
use hammerstone::event::Event;
use serde::Serialize;

use crate::feed::begins;
use crate::feed::via_name;

/// Damage of one damage type that one dealt to another by one means.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct Dealt {
    /// Who dealt it, if anyone.
    pub source: Option<String>,
    /// Who took it.
    pub target: String,
    /// The name of the attack, the status or the reason.
    pub by: String,
    /// The damage type.
    pub damage_type: String,
    /// How often.
    pub times: u64,
    /// How much in all, in points.
    pub amount: i64,
}

/// A death.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Fall {
    /// When, in seconds, counted on through resets.
    pub time: f64,
    /// Who died.
    pub who: String,
    /// To whom.
    pub to: Option<String>,
    /// By what.
    pub by: String,
    /// How far beyond nothing, in points.
    pub overkill: i64,
}

/// The numbers of a run.
#[derive(Clone, Debug, Default)]
pub struct Tally {
    dealt: BTreeMap<(String, String, String, String), (u64, i64)>,
    deaths: Vec<Fall>,
    standing: Vec<(u32, Vec<usize>)>,
    counts: Counts,
    /// Of the epochs before this one.
    before: Counts,
    ticks: u32,
    outcome: Option<String>,
}

impl Tally {
    /// Nothing counted.
    pub fn new() -> Tally {
        Tally::default()
    }

    /// Damage by source, target, means and damage type, the most first.
    pub fn dealt(&self) -> Vec<Dealt> {
        let one = |(key, value): (&(String, String, String, String), &(u64, i64))| {
            let (source, target, by, damage_type) = key.clone();
            let source = Some(source).filter(|source| !source.is_empty());
            Dealt { source, target, by, damage_type, times: value.0, amount: value.1 }
        };
        let mut all: Vec<Dealt> = self.dealt.iter().map(one).collect();
        all.sort_by_key(|dealt| std::cmp::Reverse(dealt.amount));
        all
    }

    /// Who died, in order.
    pub fn deaths(&self) -> &[Fall] {
        &self.deaths
    }

    /// How many of each team stood, from each tick on in which that may have changed.
    pub fn standing(&self) -> &[(u32, Vec<usize>)] {
        &self.standing
    }

    /// Attempts, hits and refusals, of all epochs.
    pub fn counts(&self) -> Counts {
        self.before.plus(&self.counts)
    }

    /// How many ticks ran, of all epochs.
    pub fn ticks(&self) -> u32 {
        self.ticks
    }

    /// How it ended, if it did.
    pub fn outcome(&self) -> Option<&str> {
        self.outcome.as_deref()
    }
}

impl Record for Tally {
    fn observe(&mut self, tick: &Tick<'_>) {
        let Tick { facts, rules, names, clock, .. } = *tick;
        let view = tick.view();
        if tick.anew {
            self.before = self.before.plus(&self.counts);
        }
        (self.counts, self.ticks) = (facts.counts, clock);
        let mut changed = self.standing.is_empty();
        for event in facts.events() {
            match *event {
                Event::DamageDealt(DamageDealt { damage_type, source, target, via, amount, .. }) => {
                    let source = source.map_or("", |who| names.of(who));
                    let (_, by) = via_name(via, rules);
                    let key = [
                        source,
                        names.of(target),
                        by,
                        rules.damage_type_name(damage_type).unwrap_or_default(),
                    ]
                    .map(str::to_owned);
                    let (times, sum) = self.dealt.entry(key.into()).or_default();
                    (*times, *sum) = (*times + 1, *sum + amount);
                }
                Event::CombatantDied(CombatantDied { subject, killer, via, overkill, .. }) => {
                    changed = true;
                    self.deaths.push(Fall {
                        time: begins(self.ticks, rules),
                        who: names.of(subject).to_owned(),
                        to: killer.map(|who| names.of(who).to_owned()),
                        by: via_name(via, rules).1.to_owned(),
                        overkill,
                    });
                }
                Event::EncounterEnded(EncounterEnded { outcome, .. }) => {
                    self.outcome = Some(rules.outcome_name(outcome).unwrap_or_default().to_owned())
                }
                Event::CombatantJoined(_)
                | Event::CombatantReturned(_)
                | Event::CombatantAway(_)
                | Event::CombatantRemoved(_) => changed = true,
                _ => {}
            }
        }
        if changed {
            let standing = rules.teams().map(|team| view.standing(team)).collect();
            self.standing.push((self.ticks, standing));
        }
    }
}
