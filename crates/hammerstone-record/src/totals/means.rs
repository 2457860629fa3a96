//! What attacks come to in many runs: how often they start, land, are kept off, and what they deal.

use std::collections::{BTreeMap, BTreeSet};

use hammerstone::Ruleset;
use hammerstone::event::{
    AttackStarted, CombatantDied, DamageDealt, Event, Gate, HitLanded, HitRefused, Operand, Via,
};
use hammerstone::ids::{CombatantId, StatusId, SwingId};
use serde::Serialize;

use crate::Tick;
use crate::feed::via_name;

/// What one attack of one team came to in a run, or a status, a rule or a reason that dealt damage.
#[derive(Clone, PartialEq, Eq, Debug, Serialize)]
pub struct MeansRan {
    /// The team that used it; empty where damage is credited to no one.
    pub team: String,
    /// `attack`, `status`, `rule` or `host`.
    pub sort: &'static str,
    /// Its name.
    pub name: String,
    /// What was counted.
    #[serde(flatten)]
    pub counts: MeansCounts,
}

/// What is counted of an attack.
#[derive(Clone, Copy, PartialEq, Eq, Default, Debug, Serialize)]
pub struct MeansCounts {
    /// How many swings began.
    pub starts: u64,
    /// How many of them hit at least once.
    pub landed: u64,
    /// How many hits there were.
    pub hits: u64,
    /// How often a target was touched that was invulnerable by a status of an attack of its own.
    pub dodged: u64,
    /// How often a guard took a part of a hit, or a parry or a deflection refused it.
    pub blocked: u64,
    /// Of those, the ones that were refused, and so are no hits.
    pub turned_away: u64,
    /// Damage, in points.
    pub dealt: i64,
    /// What went beyond the health that was left, in points.
    pub overkill: i64,
    /// How many died of it.
    pub kills: u64,
}

impl MeansCounts {
    fn add(&mut self, other: &MeansCounts) {
        self.starts += other.starts;
        self.landed += other.landed;
        self.hits += other.hits;
        self.dodged += other.dodged;
        self.blocked += other.blocked;
        self.turned_away += other.turned_away;
        self.dealt += other.dealt;
        self.overkill += other.overkill;
        self.kills += other.kills;
    }

    /// How often it reached a target that could be struck: hits, and what was dodged or turned away.
    pub fn reached(&self) -> u64 {
        self.hits + self.dodged + self.turned_away
    }
}

/// A team by its number, and the means by their sort and number.
type Key = (Option<usize>, usize, usize);

/// Counts in a run.
#[derive(Clone, Debug, Default)]
pub(crate) struct MeansTally {
    all: BTreeMap<Key, (Via, MeansCounts)>,
    /// Swings that have landed.
    landed: BTreeSet<SwingId>,
    /// Statuses that attacks give their own attacker; none until they were looked up.
    own: Option<BTreeSet<StatusId>>,
}

impl MeansTally {
    fn of(&mut self, tick: &Tick<'_>, who: Option<CombatantId>, via: Via) -> &mut MeansCounts {
        let team = who.and_then(|who| tick.view().team(who)).map(|team| team.index());
        let (sort, number) = match via {
            Via::Attack(id) => (0, id.index()),
            Via::Status(id) => (1, id.index()),
            Via::Rule(id) => (2, id.index()),
            Via::Host(id) => (3, id.index()),
        };
        &mut self.all.entry((team, sort, number)).or_insert((via, MeansCounts::default())).1
    }

    pub(crate) fn observe(&mut self, tick: &Tick<'_>) {
        if tick.anew {
            self.landed.clear();
        }
        for event in tick.facts.events() {
            match *event {
                Event::AttackStarted(AttackStarted { subject, attack, .. }) => {
                    self.of(tick, subject, Via::Attack(attack)).starts += 1;
                }
                Event::HitLanded(HitLanded { hit, swing, attack, attacker, .. }) => {
                    let first = self.landed.insert(swing);
                    let guarded = tick.facts.guards.iter().any(|guarded| guarded.hit == Some(hit));
                    let counts = self.of(tick, attacker, Via::Attack(attack));
                    counts.hits += 1;
                    counts.landed += u64::from(first);
                    counts.blocked += u64::from(guarded);
                }
                Event::HitRefused(HitRefused { attack, attacker, gate, found, .. }) => {
                    let dodged = gate == Gate::Invulnerable
                        && matches!(found, Operand::Status(status) if self.is_own(tick.rules, status));
                    let turned_away = matches!(gate, Gate::Parried | Gate::Deflected);
                    if dodged || turned_away {
                        let counts = self.of(tick, attacker, Via::Attack(attack));
                        counts.dodged += u64::from(dodged);
                        counts.blocked += u64::from(turned_away);
                        counts.turned_away += u64::from(turned_away);
                    }
                }
                Event::DamageDealt(DamageDealt { source, via, amount, overkill, .. }) => {
                    let counts = self.of(tick, source, via);
                    counts.dealt += amount;
                    counts.overkill += overkill.map_or(0, |points| i64::from(points.get()));
                }
                Event::CombatantDied(CombatantDied { killer, via, .. }) => {
                    self.of(tick, killer, via).kills += 1;
                }
                _ => {}
            }
        }
    }

    fn is_own(&mut self, rules: &Ruleset, status: StatusId) -> bool {
        let own = || rules.attacks().iter().flat_map(|attack| attack.self_statuses()).collect();
        self.own.get_or_insert_with(own).contains(&status)
    }

    pub(crate) fn finish(&self, rules: &Ruleset) -> Vec<MeansRan> {
        let team = |number: usize| rules.teams().nth(number).and_then(|team| rules.team_name(team));
        let one = |(&(of, ..), &(via, counts)): (&Key, &(Via, MeansCounts))| {
            let (sort, name) = via_name(via, rules);
            MeansRan {
                team: of.and_then(team).unwrap_or_default().to_owned(),
                sort,
                name: name.to_owned(),
                counts,
            }
        };
        self.all.iter().map(one).collect()
    }
}

/// What one attack of one team came to in many runs.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct MeansPoint {
    /// The team that used it.
    pub team: String,
    /// `attack`, `status`, `rule` or `host`.
    pub sort: &'static str,
    /// Its name.
    pub name: String,
    /// Starts, hits and damage, as means over the runs.
    pub starts: f64,
    /// Hits in a run.
    pub hits: f64,
    /// Damage in a run, in points.
    pub dealt: f64,
    /// Kills in a run.
    pub kills: f64,
    /// The share of its team's damage.
    pub of_team: f64,
    /// The share of its swings that hit at least once; none of what is no attack.
    pub landed: Option<f64>,
    /// Of the times at which it reached a target, the share that was dodged; none where it never did.
    pub dodged: Option<f64>,
    /// The share that was blocked.
    pub blocked: Option<f64>,
    /// The share of its damage that went beyond the health that was left.
    pub overkill: Option<f64>,
}

/// Counts over many runs, by team, sort and name.
#[derive(Clone, PartialEq, Debug, Default)]
pub(crate) struct MeansTotals(BTreeMap<String, BTreeMap<(&'static str, String), MeansCounts>>);

impl MeansTotals {
    pub(crate) fn add(&mut self, ran: &[MeansRan]) {
        for MeansRan { team, sort, name, counts } in ran {
            if !self.0.contains_key(team) {
                self.0.insert(team.clone(), BTreeMap::new());
            }
            if let Some(of_team) = self.0.get_mut(team) {
                of_team.entry((*sort, name.clone())).or_default().add(counts);
            }
        }
    }

    /// What they come to in so many runs, the most damage first.
    pub(crate) fn finish(&self, runs: u64) -> Vec<MeansPoint> {
        let each = |count: f64| count / runs as f64;
        let share = |part: f64, whole: f64| (whole > 0.0).then(|| part / whole);
        let mut points = Vec::new();
        for (team, of_team) in &self.0 {
            let whole: i64 = of_team.values().map(|sum| sum.dealt).sum();
            points.extend(of_team.iter().map(|((sort, name), sum)| {
                let reached = sum.reached() as f64;
                MeansPoint {
                    team: team.clone(),
                    sort,
                    name: name.clone(),
                    starts: each(sum.starts as f64),
                    hits: each(sum.hits as f64),
                    dealt: each(sum.dealt as f64),
                    kills: each(sum.kills as f64),
                    of_team: share(sum.dealt as f64, whole as f64).unwrap_or(0.0),
                    landed: share(sum.landed as f64, sum.starts as f64),
                    dodged: share(sum.dodged as f64, reached),
                    blocked: share(sum.blocked as f64, reached),
                    overkill: share(sum.overkill as f64, (sum.dealt + sum.overkill) as f64),
                }
            }));
        }
        points.sort_by(|a, b| b.dealt.total_cmp(&a.dealt).then(b.starts.total_cmp(&a.starts)));
        points
    }
}
