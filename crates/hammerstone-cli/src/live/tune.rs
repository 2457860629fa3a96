//! What each change of a fight did: with its own seed, and over many that both sides share.

use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};

use hammerstone_record::{OutcomePoint, Paired, PairedRow, Point, Ran, Spread};
use hammerstone_scenario::{ChangedValue, Scenario, literal_at, with_literal};
use rayon::prelude::*;

use super::Version;
use super::shown::{Row, Shown};
use crate::Failure;
use crate::args::With;
use crate::fight::{pool, ran};
use crate::files::Texts;
use crate::look::{changed_in, play};
use crate::source::Fight;

/// With more changes than these, those of one section are one.
const SINGLE: usize = 6;
/// What stands where nothing was changed.
const AS_IT_IS: &str = "as the baseline";
/// After how many seeds it is said what was found so far.
const STEPS: [u32; 3] = [30, 100, 300];

/// Finds out, on a thread of its own, what changes did; another call puts an end to the one before.
pub(super) struct Tuning {
    seeds: u32,
    generation: Arc<AtomicU64>,
}

/// A change, or those of a section, with the fight that has only it, and the fight that has all but it.
struct Part {
    alone: Option<Scenario>,
    without: Option<Scenario>,
}

impl Tuning {
    pub(super) fn new(seeds: u32) -> Tuning {
        Tuning { seeds, generation: Arc::default() }
    }

    pub(super) fn stop(&self) {
        self.generation.fetch_add(1, Ordering::AcqRel);
    }

    pub(super) fn begin(&mut self, base: &Version, now: &Version, with: &With, shown: &Arc<Shown>) {
        let own = self.generation.fetch_add(1, Ordering::AcqRel) + 1;
        let changes = changed_in(&base.scenario, &now.scenario);
        let (base, now, with, shown) = (base.clone(), now.clone(), with.clone(), Arc::clone(shown));
        let run = Run {
            seeds: self.seeds,
            generation: Arc::clone(&self.generation),
            own,
            with,
            base: Arc::clone(&base.scenario),
            now: Arc::clone(&now.scenario),
        };
        if changes.is_empty() {
            shown.rows(run.rows(vec![AS_IT_IS.to_owned()]));
            std::thread::spawn(move || drop(run.as_it_is(&shown)));
            return;
        }
        // Labels at once, what they did as it becomes known.
        let (labels, of_each) = grouped(&changes);
        let rows = run.rows(labels);
        shown.rows(rows.clone());
        std::thread::spawn(move || {
            let parts: Vec<Part> = of_each
                .into_iter()
                .map(|(_, changes)| Part {
                    alone: made(&base.texts, &now.texts, &changes),
                    without: made(&now.texts, &base.texts, &changes),
                })
                .collect();
            // Where it cannot be run, the page says so of the whole fight.
            let _ = run.through(rows, &parts, &shown);
        });
    }
}

/// The changes as parts, each with its label: one by one, or by section where there are many.
fn grouped(changes: &[ChangedValue]) -> (Vec<String>, Vec<(String, Vec<String>)>) {
    let mut parts: Vec<(String, Vec<String>)> = Vec::new();
    for change in changes {
        let label = if changes.len() <= SINGLE {
            change.to_string()
        } else {
            change.path.splitn(3, '.').take(2).collect::<Vec<_>>().join(".")
        };
        match parts.iter_mut().find(|(known, _)| *known == label) {
            Some((_, paths)) => paths.push(change.path.clone()),
            None => parts.push((label, vec![change.path.clone()])),
        }
    }
    if changes.len() > SINGLE {
        for (label, paths) in &mut parts {
            label.push_str(&format!(": {} values", paths.len()));
        }
    }
    // All of one part are the whole.
    if let [(label, _)] = parts.as_slice() {
        return (vec![label.clone()], Vec::new());
    }
    let whole = format!("all {} changes", changes.len());
    (std::iter::once(whole).chain(parts.iter().map(|(label, _)| label.clone())).collect(), parts)
}

/// The fight of some texts with the values of others at these paths; none where it has no such place, or is no fight then.
fn made(of: &Texts, with: &Texts, paths: &[String]) -> Option<Scenario> {
    let mut texts = of.copy();
    for path in paths {
        let literal = literal_at(&with.scenario.1, path).or_else(|_| literal_at(&with.rules.1, path)).ok()?;
        texts.set(path, |text| with_literal(text, path, literal)).ok()?;
    }
    texts.read().ok()
}

struct Run {
    seeds: u32,
    generation: Arc<AtomicU64>,
    own: u64,
    with: With,
    base: Arc<Scenario>,
    now: Arc<Scenario>,
}

impl Run {
    fn is_over(&self) -> bool {
        self.generation.load(Ordering::Acquire) != self.own
    }

    fn rows(&self, labels: Vec<String>) -> Vec<Row> {
        let row = |(place, label)| Row { label, whole: place == 0, running: true, ..Row::default() };
        labels.into_iter().enumerate().map(row).collect()
    }

    /// Shows what is known, unless a newer change has taken the place of this one meanwhile.
    fn tell(&self, shown: &Shown, rows: Vec<Row>) {
        if !self.is_over() {
            shown.rows(rows);
        }
    }

    /// How it ends over many seeds, where nothing was changed.
    fn as_it_is(&self, shown: &Shown) -> Result<(), Failure> {
        let mut row = self.rows(vec![AS_IT_IS.to_owned()]).remove(0);
        let first = ran(&self.now, 0, &self.with)?;
        row.here = end(&first);
        self.tell(shown, vec![row.clone()]);
        let pool = pool(None)?;
        let mut all: Vec<Ran> = Vec::new();
        for step in self.steps() {
            all.extend(self.more(&pool, &self.now, all.len()..step as usize)?);
            if self.is_over() {
                return Ok(());
            }
            let Some(point) = Point::of(Vec::new(), &all) else { break };
            row.seeds = point.runs;
            row.ends = Some(ends(&point));
            self.tell(shown, vec![row.clone()]);
        }
        row.running = false;
        self.tell(shown, vec![row]);
        Ok(())
    }

    /// After how many seeds it is said what was found so far.
    fn steps(&self) -> impl Iterator<Item = u32> + use<> {
        let seeds = self.seeds;
        STEPS.into_iter().filter(move |step| *step < seeds).chain((seeds > 0).then_some(seeds))
    }

    /// Runs with the seeds of these numbers; fewer where it is over.
    fn more(
        &self,
        pool: &rayon::ThreadPool,
        scenario: &Scenario,
        numbers: std::ops::Range<usize>,
    ) -> Result<Vec<Ran>, Failure> {
        let one = |number| match self.is_over() {
            true => Ok(None),
            false => ran(scenario, number as u64, &self.with).map(Some),
        };
        let all: Vec<Option<Ran>> =
            pool.install(|| numbers.into_par_iter().map(one).collect::<Result<_, Failure>>())?;
        Ok(all.into_iter().flatten().collect())
    }

    fn through(&self, mut rows: Vec<Row>, parts: &[Part], shown: &Shown) -> Result<(), Failure> {
        // With this seed: all, then each alone.
        let before = ran(&self.base, 0, &self.with)?;
        let arms: Vec<Option<&Scenario>> =
            std::iter::once(Some(&*self.now)).chain(parts.iter().map(|part| part.alone.as_ref())).collect();
        for (place, arm) in arms.iter().enumerate() {
            if self.is_over() {
                return Ok(());
            }
            rows[place].here = match arm {
                Some(arm) => self.here(&before, arm)?,
                None => "it cannot be tried alone".to_owned(),
            };
            self.tell(shown, rows.clone());
        }
        let withouts: Vec<Option<&Scenario>> = parts.iter().map(|part| part.without.as_ref()).collect();
        let mut base: Vec<Ran> = Vec::new();
        let mut arms_ran: Vec<Vec<Ran>> = vec![Vec::new(); arms.len()];
        let mut withouts_ran: Vec<Vec<Ran>> = vec![Vec::new(); withouts.len()];
        let pool = pool(None)?;
        for step in self.steps() {
            let more = base.len()..step as usize;
            let run = |scenario: &Scenario| self.more(&pool, scenario, more.clone());
            base.extend(run(&self.base)?);
            for (ran, arm) in arms_ran.iter_mut().zip(&arms) {
                ran.extend(arm.map(&run).transpose()?.unwrap_or_default());
            }
            for (ran, arm) in withouts_ran.iter_mut().zip(&withouts) {
                ran.extend(arm.map(&run).transpose()?.unwrap_or_default());
            }
            if self.is_over() {
                return Ok(());
            }
            for (place, row) in rows.iter_mut().enumerate() {
                let Some(paired) = Paired::of(&base, &arms_ran[place]) else { continue };
                row.seeds = paired.runs;
                row.share = told(&paired, &before.outcome);
                row.rows = paired.rows;
                let without = place.checked_sub(1).and_then(|place| Paired::of(&base, &withouts_ran[place]));
                let share = without.and_then(|without| told(&without, &before.outcome));
                row.without = share.map(|share| in_words(&share));
            }
            self.tell(shown, rows.clone());
        }
        rows.iter_mut().for_each(|row| row.running = false);
        self.tell(shown, rows);
        Ok(())
    }

    /// What became otherwise with this seed.
    fn here(&self, before: &Ran, arm: &Scenario) -> Result<String, Failure> {
        let after = ran(arm, 0, &self.with)?;
        let fight = |scenario: &Scenario| Fight::of_scenario(scenario.clone(), &self.with);
        let (one, other) = (fight(&self.base), fight(arm));
        let (first, _) = play(&one)?;
        let comparison = first.compare(&play(&other)?.0);
        let Some(entry) = comparison.differences.first().and_then(|difference| difference.entry()) else {
            return Ok("the same".to_owned());
        };
        let ends = match (end(before), end(&after)) {
            (one, other) if one == other => one,
            (one, other) => format!("{one} → {other}"),
        };
        Ok(format!("{ends}, first difference {:.2} s", entry.time))
    }
}

/// How a run ended, and when.
fn end(ran: &Ran) -> String {
    let outcome = if ran.outcome.is_empty() { "no outcome" } else { &ran.outcome };
    format!("{outcome} {:.1} s", ran.seconds())
}

/// How many runs end, each outcome with its interval at 95 %, and how long they take.
fn ends(point: &Point) -> String {
    let outcome = |one: &OutcomePoint| {
        let name = if one.name.is_empty() { "no outcome" } else { &one.name };
        let [share, low, high] = [one.share, one.interval.low, one.interval.high].map(|share| share * 100.0);
        format!("{name} {share:.0} % ({low:.0} to {high:.0})")
    };
    let outcomes: Vec<String> = point.outcomes.iter().map(outcome).collect();
    let Spread { low, middle, high, .. } = point.seconds;
    format!("{}; median {middle:.1} s, p10 to p90 {low:.1} to {high:.1} s", outcomes.join(", "))
}

/// What is told first: how often it ends as it did with this seed; or, where that never changed, how long it takes.
fn told(paired: &Paired, outcome: &str) -> Option<PairedRow> {
    let wanted = format!("ends {outcome}");
    let share = paired.rows.iter().find(|row| row.what == wanted && row.difference != 0.0);
    let seconds = || paired.rows.iter().find(|row| !row.is_share);
    share.or_else(seconds).cloned()
}

fn in_words(row: &PairedRow) -> String {
    let (times, unit, decimals) = if row.is_share { (100.0, " %", 0) } else { (1.0, "", 1) };
    format!("{:.decimals$} → {:.decimals$}{unit}", row.first * times, row.second * times)
}
