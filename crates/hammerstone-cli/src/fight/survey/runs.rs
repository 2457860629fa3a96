//! Runs fights in parallel, and hands what they came to on in order.

use std::collections::BTreeMap;
use std::collections::btree_map::Entry;
use std::ops::RangeInclusive;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use hammerstone_record::{Ran, RunOf, Running};
use hammerstone_scenario::{Options, Play, Scenario};
use miette::IntoDiagnostic;
use rayon::prelude::*;

use super::asked::Work;
use crate::Failure;
use crate::args::With;
use crate::progress::Told;

/// How long a batch takes, about: what is done is written after each.
const BATCH: Duration = Duration::from_millis(700);
/// How many runs a batch has at most, and so how many are kept at once.
const MOST: usize = 4096;

/// So many threads; as many as there are processors, if it is not said.
pub(crate) fn pool(threads: Option<u16>) -> Result<rayon::ThreadPool, Failure> {
    let threads = threads.map_or(0, usize::from);
    rayon::ThreadPoolBuilder::new().num_threads(threads).build().into_diagnostic()
}

/// One run of a scenario, with so many seeds beyond the first.
pub(crate) fn ran(scenario: &Scenario, number: u64, with: &With) -> Result<Ran, Failure> {
    let seed = with.seed.unwrap_or(scenario.seed).wrapping_add(number);
    let mut play = Play::new(scenario, Options { seed: Some(seed), ticks: with.ticks, ..Options::default() });
    let mut running = Running::new();
    play.through(&mut [&mut running]).into_diagnostic()?;
    Ok(running.finish(&play.encounter, &play.run.names, seed))
}

/// A run that is done: its number, what it is of, and what it came to.
pub(super) type Done = (u64, RunOf, Ran);

/// Runs of a survey, many at a time.
pub(super) struct Runner<'w> {
    work: &'w Work,
    pool: rayon::ThreadPool,
    stop: &'w AtomicBool,
    told: Told,
    /// Of the points of the batch before.
    scenarios: BTreeMap<(usize, usize), Scenario>,
}

impl<'w> Runner<'w> {
    pub(super) fn new(
        work: &'w Work,
        threads: Option<u16>,
        stop: &'w AtomicBool,
        told: Told,
    ) -> Result<Runner<'w>, Failure> {
        Ok(Runner { work, pool: pool(threads)?, stop, told, scenarios: BTreeMap::new() })
    }

    /// Whether an end was asked for.
    pub(super) fn is_stopped(&self) -> bool {
        self.stop.load(Ordering::Relaxed)
    }

    /// Runs these, in the order in which they are told; fewer, from the first on, if an end is asked for.
    pub(super) fn run(&mut self, runs: &[RunOf]) -> Result<Vec<Ran>, Failure> {
        let mut scenarios = BTreeMap::new();
        for of in runs {
            let place = (of.fight, of.point);
            if let Entry::Vacant(vacant) = scenarios.entry(place) {
                let known = self.scenarios.remove(&place);
                vacant.insert(known.map_or_else(|| self.work.scenario(of.fight, of.point), Ok)?);
            }
        }
        self.scenarios = scenarios;
        let (scenarios, work, stop, told) = (&self.scenarios, self.work, self.stop, &self.told);
        let one = |of: &RunOf| -> Result<Option<Ran>, Failure> {
            if stop.load(Ordering::Relaxed) {
                return Ok(None);
            }
            let mut ran = ran(&scenarios[&(of.fight, of.point)], of.number, &work.fights[of.fight].with)?;
            work.survey.fights[of.fight].kept.strip(&mut ran);
            told.done(1);
            Ok(Some(ran))
        };
        let all: Vec<Option<Ran>> =
            self.pool.install(|| runs.par_iter().map(one).collect::<Result<_, Failure>>())?;
        Ok(all.into_iter().map_while(|ran| ran).collect())
    }

    /// Runs these numbers, and hands each on in their order, batch after batch. Gives whether all were run.
    pub(super) fn through(
        &mut self,
        numbers: RangeInclusive<u64>,
        each: &mut dyn FnMut(&[Done]) -> Result<(), Failure>,
    ) -> Result<bool, Failure> {
        let (mut next, last) = (*numbers.start(), *numbers.end());
        let threads = self.pool.current_num_threads();
        let mut size = 8 * threads;
        while next <= last {
            let begun = Instant::now();
            let batch: Vec<(u64, RunOf)> = (next..=last)
                .take(size)
                .filter_map(|number| Some((number, self.work.survey.run(number)?)))
                .collect();
            let of: Vec<RunOf> = batch.iter().map(|(_, of)| *of).collect();
            let ran = self.run(&of)?;
            let whole = ran.len() == batch.len();
            let ran: Vec<Done> =
                batch.into_iter().zip(ran).map(|((number, of), ran)| (number, of, ran)).collect();
            each(&ran)?;
            if !whole {
                return Ok(false);
            }
            next += ran.len() as u64;
            if begun.elapsed() < BATCH / 2 {
                size = (size * 2).min(MOST);
            } else if begun.elapsed() > BATCH * 2 {
                size = (size / 2).max(threads);
            }
        }
        Ok(true)
    }

    /// Ends what is told of progress.
    pub(super) fn end(&self) {
        self.told.end();
    }
}
