//! Two runs, event by event: what came in one only, what came to something else, and what it began with.

use crate::{Record, Tick};
use hammerstone::event::{
    AttackStarted, CombatantDied, CombatantReturned, EncounterEnded, EncounterWave, HitRefused, OrderRefused,
    StatusApplied,
};
use std::collections::BTreeMap;

use hammerstone::Ruleset;
use hammerstone::event::{Event, Fact};
use hammerstone::orders::OrderKind;
use serde::Serialize;

use crate::Line;
use crate::blows::{Account, Accounts, Row};
use crate::feed::begins;
use crate::feed::{OperandText, refusal, via_name};

/// What a run came to, to be held against another. Ledgers should be kept.
#[derive(Clone, Debug, Default)]
pub struct Digest {
    accounts: Accounts,
    taken: usize,
    all: Vec<DigestEntry>,
    counts: BTreeMap<Key, u32>,
    ticks: u32,
    /// Ticks of a second.
    rate: u32,
}

/// What makes an event the same in another run, but for which time it is.
type Key = (&'static str, Option<String>, String, Option<String>);

/// One thing that was done or that happened.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct DigestEntry {
    /// `start`, `refused start`, `blow`, `healing`, `refusal`, `status`, `death`, `return`, `wave` or `end`.
    pub sort: &'static str,
    /// Who did it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub subject: Option<String>,
    /// With what.
    pub name: String,
    /// To whom.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub target: Option<String>,
    /// Which of its like it is, from 1.
    pub ordinal: u32,
    /// The tick, from 1, counted on through resets, and when it begins, in seconds.
    pub tick: u32,
    /// When the tick begins, in seconds.
    pub time: f64,
    /// What it came to.
    pub value: String,
    /// The steps that led there, of all its amounts.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub ledger: Vec<Row>,
    /// Points that health lost.
    #[serde(skip)]
    lost: i64,
    /// Its place among all of its run.
    #[serde(skip)]
    place: usize,
}

/// Where two runs differ.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Comparison {
    /// Each difference, the earliest first: so the cause comes before what follows from it.
    pub differences: Vec<Difference>,
    /// Damage and deaths by combatant, where they differ.
    pub totals: Vec<Total>,
    /// How many events both have, and each has alone.
    pub both: usize,
    /// Events of the first run only.
    pub only_first: usize,
    /// Events of the second run only.
    pub only_second: usize,
}

/// An event that differs.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Difference {
    /// As it was in the first run; none if it did not come there.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub first: Option<DigestEntry>,
    /// As it was in the second.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub second: Option<DigestEntry>,
    /// The first line of the ledger that moved: as it was in each.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub moved: Option<[Option<Row>; 2]>,
}

/// What one combatant came to in both runs.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Total {
    /// Its name.
    pub name: String,
    /// Damage that it dealt.
    pub dealt: [i64; 2],
    /// Damage that it took.
    pub taken: [i64; 2],
    /// When it first died, in seconds.
    pub died: [Option<f64>; 2],
}

impl Digest {
    /// None yet.
    pub fn new() -> Digest {
        Digest::default()
    }

    /// All that was done and that happened, in order.
    pub fn entries(&self) -> &[DigestEntry] {
        &self.all
    }

    fn push(&mut self, rules: &Ruleset, key: Key, value: String, ledger: Vec<Row>, lost: i64) {
        let count = self.counts.entry(key.clone()).or_default();
        *count += 1;
        let (sort, subject, name, target) = key;
        let (tick, ordinal) = (self.ticks, *count);
        let time = begins(tick, rules);
        let place = self.all.len();
        self.all.push(DigestEntry {
            sort,
            subject,
            name,
            target,
            ordinal,
            tick,
            time,
            value,
            ledger,
            lost,
            place,
        });
    }

    fn account(&mut self, rules: &Ruleset, account: &Account) {
        let of = |amount: &crate::Amount| match &amount.damage_type {
            Some(damage_type) => format!("{} {damage_type}", amount.amount),
            None => format!("+{}", amount.amount),
        };
        let mut value = account.amounts.iter().map(of).collect::<Vec<_>>().join(", ");
        if account.critical {
            value.push_str(" critical");
        }
        if let Some(part) = &account.part {
            value.push_str(&format!(" on the {part}"));
        }
        let heals = account.blow.is_none() && account.hit.is_none();
        let sort = if heals { "healing" } else { "blow" };
        let lost = account
            .amounts
            .iter()
            .filter(|amount| amount.damage_type.is_some())
            .map(|amount| amount.amount)
            .sum();
        let ledger = account.amounts.iter().flat_map(|amount| amount.ledger.iter().cloned()).collect();
        let key = (sort, account.source.clone(), account.name.clone(), Some(account.target.clone()));
        self.push(rules, key, value, ledger, lost);
    }

    fn event(&mut self, rules: &Ruleset, line: &Line<'_>) {
        let name = |who| line.names.of(who).to_owned();
        let (key, value) = match line.fact.event {
            Event::AttackStarted(AttackStarted { subject, attack, .. }) => {
                let what = rules.attack_name(attack).unwrap_or_default().to_owned();
                (("start", subject.map(name), what, None), String::new())
            }
            Event::OrderRefused(OrderRefused {
                kind: OrderKind::Start,
                attack: Some(attack),
                subject,
                why,
                ..
            }) => {
                let what = rules.attack_name(attack).unwrap_or_default().to_owned();
                (("refused start", subject.map(name), what, None), refusal(why, rules))
            }
            Event::HitRefused(HitRefused { attack, attacker, target, gate, found, .. }) => {
                let what = format!("{}, {}", rules.attack_name(attack).unwrap_or_default(), gate.name());
                let key = ("refusal", attacker.map(name), what, Some(name(target)));
                (key, format!("found {}", OperandText(found, rules, line.names)))
            }
            Event::StatusApplied(StatusApplied { subject, source, status, strength, .. }) => {
                let what = rules.status_name(status).unwrap_or_default().to_owned();
                (("status", source.map(name), what, Some(name(subject))), format!("strength {strength}"))
            }
            Event::CombatantDied(CombatantDied { subject, killer, via, overkill, .. }) => {
                let (_, by) = via_name(via, rules);
                (
                    ("death", None, "dies".to_owned(), Some(name(subject))),
                    match killer {
                        Some(killer) => format!("by {}'s {by}, overkill {overkill}", name(killer)),
                        None => format!("by {by}, overkill {overkill}"),
                    },
                )
            }
            Event::CombatantReturned(CombatantReturned { subject, health, .. }) => {
                (("return", None, "returns".to_owned(), Some(name(subject))), format!("with {health}"))
            }
            Event::EncounterWave(EncounterWave { waves, wave, count, .. }) => {
                let what = format!("{} {wave}", rules.waves_name(waves).unwrap_or_default());
                (("wave", None, what, None), format!("{count} come"))
            }
            Event::EncounterEnded(EncounterEnded { outcome, .. }) => (
                ("end", None, "the end".to_owned(), None),
                rules.outcome_name(outcome).unwrap_or_default().to_owned(),
            ),
            _ => return,
        };
        self.push(rules, key, value, Vec::new(), 0);
    }

    /// Holds this run against another: an event is the same if the same did the same to the same, at nearly the same time. Of several
    /// that may be the same those are taken that are least apart; what would be more than a second apart is not the same, but for
    /// deaths, returns, waves and the end, of which the first is the first.
    pub fn compare(&self, other: &Digest) -> Comparison {
        let mut like: BTreeMap<_, [Vec<&DigestEntry>; 2]> = BTreeMap::new();
        for (run, digest) in [self, other].into_iter().enumerate() {
            for entry in &digest.all {
                let key = (entry.sort, &entry.subject, &entry.name, &entry.target);
                like.entry(key).or_default()[run].push(entry);
            }
        }
        let mut differences = Vec::new();
        let (mut both, mut only_first, mut only_second) = (0, 0, 0);
        for (key, [first, second]) in &like {
            // What comes seldom is the same, however far apart.
            let paired = match key.0 {
                "death" | "return" | "wave" | "end" => in_order(first, second),
                _ => pairs(first, second, self.rate),
            };
            for pair in paired {
                match pair {
                    (Some(_), None) => only_first += 1,
                    (None, _) => only_second += 1,
                    (Some(one), Some(two)) => {
                        both += 1;
                        if (one.tick, &one.value) == (two.tick, &two.value) {
                            continue;
                        }
                    }
                }
                let moved = pair.0.zip(pair.1).and_then(|(one, two)| moved(&one.ledger, &two.ledger));
                let [first, second] = [pair.0, pair.1].map(Option::<&DigestEntry>::cloned);
                differences.push(Difference { first, second, moved });
            }
        }
        differences.sort_by_key(Difference::place);
        Comparison { differences, totals: totals([self, other]), both, only_first, only_second }
    }
}

/// Events that may be the same.
type Pair<'a> = (Option<&'a DigestEntry>, Option<&'a DigestEntry>);

/// Pairs events of one sort, each in order of time, so that the sum of the times that they are apart is least; one without another
/// counts as a little less than half a second.
fn pairs<'a>(first: &[&'a DigestEntry], second: &[&'a DigestEntry], rate: u32) -> Vec<Pair<'a>> {
    let alone = (u64::from(rate).saturating_sub(1) / 2).max(1);
    // What begins alike and ends alike needs no search.
    let same = |(one, two): &(&&DigestEntry, &&DigestEntry)| one.tick == two.tick;
    let before = first.iter().zip(second).take_while(same).count();
    let after = { first[before..].iter().rev() }.zip(second[before..].iter().rev()).take_while(same).count();
    let middle = [&first[before..first.len() - after], &second[before..second.len() - after]];
    let mut found: Vec<Pair<'a>> = Vec::new();
    let together = |one: &[&'a DigestEntry], two: &[&'a DigestEntry]| -> Vec<Pair<'a>> {
        one.iter().zip(two).map(|(one, two)| (Some(*one), Some(*two))).collect()
    };
    found.extend(together(&first[..before], &second[..before]));
    found.extend(least_apart(middle[0], middle[1], alone));
    found.extend(together(&first[first.len() - after..], &second[second.len() - after..]));
    found
}

fn in_order<'a>(first: &[&'a DigestEntry], second: &[&'a DigestEntry]) -> Vec<Pair<'a>> {
    let longer = first.len().max(second.len());
    (0..longer).map(|place| (first.get(place).copied(), second.get(place).copied())).collect()
}

/// More than so many pairs are not searched, but taken in order.
const SEARCHED: usize = 4_000_000;

fn least_apart<'a>(first: &[&'a DigestEntry], second: &[&'a DigestEntry], alone: u64) -> Vec<Pair<'a>> {
    let (rows, columns) = (first.len(), second.len());
    if rows.saturating_mul(columns) > SEARCHED {
        return in_order(first, second);
    }
    // The least cost from each place on, from the end.
    let width = columns + 1;
    let mut cost = vec![0u64; (rows + 1) * width];
    let apart = |row: usize, column: usize| u64::from(first[row].tick.abs_diff(second[column].tick));
    for row in (0..=rows).rev() {
        for column in (0..=columns).rev() {
            let left = (rows - row + columns - column) as u64 * alone;
            cost[row * width + column] = match (row < rows, column < columns) {
                (true, true) => (apart(row, column) + cost[(row + 1) * width + column + 1])
                    .min(alone + cost[(row + 1) * width + column])
                    .min(alone + cost[row * width + column + 1]),
                _ => left,
            };
        }
    }
    let (mut row, mut column, mut found) = (0, 0, Vec::new());
    while row < rows || column < columns {
        let here = cost[row * width + column];
        let both = row < rows && column < columns;
        if both && here == apart(row, column) + cost[(row + 1) * width + column + 1] {
            found.push((Some(first[row]), Some(second[column])));
            (row, column) = (row + 1, column + 1);
        } else if row < rows && (column == columns || here == alone + cost[(row + 1) * width + column]) {
            found.push((Some(first[row]), None));
            row += 1;
        } else {
            found.push((None, Some(second[column])));
            column += 1;
        }
    }
    found
}

impl Record for Digest {
    fn observe(&mut self, tick: &Tick<'_>) {
        let Tick { rules, clock, .. } = *tick;
        (self.ticks, self.rate) = (clock, rules.rate());
        self.accounts.observe(tick);
        let accounts: Vec<Account> = self.accounts.all()[self.taken..].to_vec();
        self.taken += accounts.len();
        // Blows come of what has started, and the rest of blows.
        let is_start = |fact: &&Fact| matches!(fact.event, Event::AttackStarted(_) | Event::OrderRefused(_));
        for fact in tick.facts.facts.iter().filter(is_start) {
            self.event(rules, &tick.line(fact));
        }
        for account in accounts {
            self.account(rules, &account);
        }
        for fact in tick.facts.facts.iter().filter(|fact| !is_start(fact)) {
            self.event(rules, &tick.line(fact));
        }
    }
}

impl Difference {
    /// The earlier of both ticks, and the place of the event in its run: what comes of another in the same tick comes after it.
    fn place(&self) -> (u32, usize) {
        self.first.iter().chain(&self.second).map(|entry| (entry.tick, entry.place)).min().unwrap_or_default()
    }

    /// The event, as it was in the first run, or else in the second.
    pub fn entry(&self) -> Option<&DigestEntry> {
        self.first.as_ref().or(self.second.as_ref())
    }
}

/// The first line of two ledgers that is another, by what it came to or by why.
fn moved(first: &[Row], second: &[Row]) -> Option<[Option<Row>; 2]> {
    let longer = if first.len() > second.len() { first.len() } else { second.len() };
    let place = (0..longer).find(|&place| first.get(place) != second.get(place))?;
    Some([first.get(place).cloned(), second.get(place).cloned()])
}

fn totals(runs: [&Digest; 2]) -> Vec<Total> {
    let mut totals: BTreeMap<String, Total> = BTreeMap::new();
    for (run, digest) in runs.into_iter().enumerate() {
        for entry in &digest.all {
            let mut of = |name: &String, change: &dyn Fn(&mut Total)| {
                let new = || Total { name: name.clone(), dealt: [0; 2], taken: [0; 2], died: [None; 2] };
                change(totals.entry(name.clone()).or_insert_with(new));
            };
            if let Some(who) = &entry.subject {
                of(who, &|total| total.dealt[run] += entry.lost);
            }
            if let Some(target) = &entry.target {
                of(target, &|total| total.taken[run] += entry.lost);
                if entry.sort == "death" {
                    of(target, &|total| {
                        total.died[run].get_or_insert(entry.time);
                    });
                }
            }
        }
    }
    let differs = |total: &Total| {
        total.dealt[0] != total.dealt[1] || total.taken[0] != total.taken[1] || total.died[0] != total.died[1]
    };
    totals.into_values().filter(differs).collect()
}
