//! Two arms over the same seeds: what one change makes of many fights.

use std::collections::BTreeSet;

use serde::Serialize;

use super::intervals::Interval;
use super::ran::Ran;

/// What two arms came to over the same seeds.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct Paired {
    /// How many seeds both ran.
    pub runs: usize,
    /// The share of the seeds with the same outcome in both.
    pub same: f64,
    /// What is compared: outcomes, the duration, teams, combatants.
    pub rows: Vec<PairedRow>,
}

/// One thing that is compared.
#[derive(Clone, PartialEq, Debug, Serialize)]
pub struct PairedRow {
    /// What it is, in words.
    pub what: String,
    /// Whether it is a share of the runs; else a mean.
    pub is_share: bool,
    /// In the first arm.
    pub first: f64,
    /// In the second.
    pub second: f64,
    /// How much more it is in the second.
    pub difference: f64,
    /// Where that lies, at 95 %.
    pub interval: Interval,
}

impl PairedRow {
    /// Whether these runs show that it is another: zero lies out of the interval.
    pub fn is_shown(&self) -> bool {
        !self.interval.has(0.0)
    }
}

impl Paired {
    /// Of runs with the same seeds, in the same order; of none there is nothing.
    pub fn of(first: &[Ran], second: &[Ran]) -> Option<Paired> {
        let pairs: Vec<(&Ran, &Ran)> = first.iter().zip(second).collect();
        let (one, _) = pairs.first()?;
        let share = |what: String, is: &dyn Fn(&Ran) -> bool| {
            let count = |of: &dyn Fn(&(&Ran, &Ran)) -> bool| pairs.iter().filter(|pair| of(pair)).count();
            let [in_first, in_second] = [count(&|(one, _)| is(one)), count(&|(_, two)| is(two))];
            let gained = count(&|(one, two)| !is(one) && is(two));
            let lost = count(&|(one, two)| is(one) && !is(two));
            let of_all = |count: usize| count as f64 / pairs.len() as f64;
            let (first, second) = (of_all(in_first), of_all(in_second));
            let interval = Interval::of_paired_shares(gained, lost, pairs.len());
            PairedRow { what, is_share: true, first, second, difference: second - first, interval }
        };
        let mean = |what: String, of: &dyn Fn(&Ran) -> f64| {
            let all = |values: &mut dyn Iterator<Item = f64>| values.sum::<f64>() / pairs.len() as f64;
            let (first, second) = (
                all(&mut pairs.iter().map(|(one, _)| of(one))),
                all(&mut pairs.iter().map(|(_, two)| of(two))),
            );
            let apart: Vec<f64> = pairs.iter().map(|(one, two)| of(two) - of(one)).collect();
            let interval = Interval::of_mean(&apart);
            PairedRow { what, is_share: false, first, second, difference: second - first, interval }
        };
        let outcomes: BTreeSet<&str> =
            pairs.iter().flat_map(|(one, two)| [one.outcome.as_str(), two.outcome.as_str()]).collect();
        let mut rows: Vec<PairedRow> = outcomes
            .into_iter()
            .map(|name| share(format!("ends {name}"), &|ran| ran.outcome == name))
            .collect();
        rows.sort_by(|one, two| (two.first + two.second).total_cmp(&(one.first + one.second)));
        rows.push(mean("seconds".to_owned(), &Ran::seconds));
        for (place, team) in one.teams.iter().enumerate() {
            let of = |ran: &Ran, what: &dyn Fn(&super::ran::TeamRan) -> f64| {
                ran.teams.get(place).map_or(0.0, what)
            };
            rows.push(mean(format!("damage by the {}", team.name), &|ran| {
                of(ran, &|team| team.dealt as f64)
            }));
            rows.push(mean(format!("deaths of the {}", team.name), &|ran| {
                of(ran, &|team| f64::from(team.deaths))
            }));
        }
        let mut names: Vec<&str> = Vec::new();
        for fighter in pairs.iter().flat_map(|(one, two)| one.fighters.iter().chain(&two.fighters)) {
            if !names.contains(&fighter.name.as_str()) {
                names.push(&fighter.name);
            }
            if names.len() >= MOST_FIGHTERS {
                break;
            }
        }
        for name in names {
            let died = |ran: &Ran| ran.fighters.iter().any(|one| one.name == name && one.died.is_some());
            rows.push(share(format!("{name} dies"), &died));
        }
        let same = pairs.iter().filter(|(one, two)| one.outcome == two.outcome).count();
        Some(Paired { runs: pairs.len(), same: same as f64 / pairs.len() as f64, rows })
    }
}

/// How many combatants are compared one by one.
const MOST_FIGHTERS: usize = 40;
