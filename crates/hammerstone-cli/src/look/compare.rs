//! `compare`: two runs, event by event, the cause first.

use std::collections::BTreeSet;
use std::io::{self, Write};
use std::path::Path;

use std::sync::atomic::Ordering;

use hammerstone_record::{Comparison, Difference, Digest, DigestEntry, Paired, PairedRow, Ran};
use hammerstone_scenario::{ChangedValue, Scenario, changed_values};
use miette::miette;
use rayon::prelude::*;
use serde::Serialize;

use crate::args::{CompareOptions, With};
use crate::fight::{pool, ran};
use crate::source::Fight;
use crate::{Failure, Outcome, output, part, progress};

/// How many differences are written before the rest is counted.
const MOST: usize = 20;

pub(crate) fn compare(
    first: &Path,
    second: Option<&Path>,
    options: &CompareOptions,
) -> Result<Outcome, Failure> {
    let CompareOptions { seed, other_seed, rules, set, ticks, .. } = options;
    let (seed, ticks) = (*seed, *ticks);
    let one = Fight::at(first, &With { seed, ticks, ..With::default() })?;
    let seed = other_seed.or(seed);
    let with = With { seed, ticks, rules: rules.clone(), set: set.clone(), choices: false };
    let other = Fight::at(second.unwrap_or(first), &with)?;
    if options.states {
        return states(&one, &other, options);
    }
    if let Some(seeds) = options.seeds {
        return many(&one, &other, seeds, options);
    }
    let ((ours, mut names), (theirs, more)) = (play(&one)?, play(&other)?);
    names.extend(more);
    part::must_be_there(&options.only, &names.iter().map(String::as_str).collect::<Vec<_>>())?;
    let mut comparison = ours.compare(&theirs);
    let all = comparison.differences.len();
    comparison
        .differences
        .retain(|difference| difference.entry().is_some_and(|entry| is_asked(entry, options)));
    let left_out = all - comparison.differences.len();
    let answer = Answer { values: changed(&one, &other), left_out, comparison: &comparison };
    output::answer((options.format, &options.out), &answer, |out| {
        values(out, &answer.values)?;
        text(out, &comparison, left_out)
    })?;
    let fails = options.expect_same && !comparison.differences.is_empty();
    Ok(if fails { Outcome::Failed } else { Outcome::Fine })
}

/// Whether a difference is in the part that was asked for.
fn is_asked(entry: &DigestEntry, options: &CompareOptions) -> bool {
    let parties = [&entry.subject, &entry.target];
    let is_one = |wanted: &String| parties.into_iter().flatten().any(|name| part::fits(wanted, name));
    options.between.is_none_or(|(from, to)| from <= entry.time && entry.time <= to)
        && (options.only.is_empty() || options.only.iter().any(is_one))
}

/// Both with the same seeds: what the change makes of many runs.
fn many(one: &Fight, other: &Fight, seeds: u32, options: &CompareOptions) -> Result<Outcome, Failure> {
    let (Some(first), Some(second)) = (one.scenario(), other.scenario()) else {
        return Err(miette!(help = "name two scenarios", "a log has the rolls of its own seed"));
    };
    let with = With { seed: Some(one.seed()), ticks: options.ticks, ..With::default() };
    let (stop, bar) = (progress::stop(), progress::bar(u64::from(seeds), "seeds"));
    let run = |number: usize| -> Result<Option<(Ran, Ran)>, Failure> {
        if stop.load(Ordering::Relaxed) {
            return Ok(None);
        }
        let both = (ran(first, number as u64, &with)?, ran(second, number as u64, &with)?);
        bar.inc(1);
        Ok(Some(both))
    };
    let all: Vec<Option<(Ran, Ran)>> = pool(None)?
        .install(|| (0..seeds as usize).into_par_iter().map(run).collect::<Result<_, Failure>>())?;
    bar.finish_and_clear();
    let (firsts, seconds): (Vec<Ran>, Vec<Ran>) = all.into_iter().flatten().unzip();
    let Some(paired) = Paired::of(&firsts, &seconds) else {
        return Err(miette!(help = "let it run longer", "interrupted before both had run once"));
    };
    let answer = Many { values: changed(one, other), paired: &paired };
    output::answer((options.format, &options.out), &answer, |out| {
        values(out, &answer.values)?;
        write_many(out, &paired)
    })?;
    if paired.runs < seeds as usize {
        output::complain(&miette!(
            severity = miette::Severity::Warning,
            "interrupted: {} of {seeds} seeds were run by both, and what they came to is kept",
            paired.runs
        ));
    }
    let differs = paired.rows.iter().any(PairedRow::is_shown);
    Ok(if options.expect_same && differs { Outcome::Failed } else { Outcome::Fine })
}

/// What differs in the files, and in many runs.
#[derive(Serialize)]
struct Many<'a> {
    #[serde(skip_serializing_if = "Vec::is_empty")]
    values: Vec<ChangedValue>,
    #[serde(flatten)]
    paired: &'a Paired,
}

const MANY: [output::Column<'static>; 5] =
    [("", false), ("first", true), ("second", true), ("difference (95 %)", false), ("", false)];

fn write_many(out: &mut dyn Write, paired: &Paired) -> io::Result<()> {
    let Paired { runs, same, rows } = paired;
    writeln!(out, "\x1b[1m{runs} seeds, each run by both\x1b[0m")?;
    let row = |row: &PairedRow| {
        let PairedRow { what, is_share, first, second, difference, interval } = row;
        let (times, unit, decimals) = if *is_share { (100.0, " %", 0) } else { (1.0, "", 2) };
        let number = |value: f64| format!("{:.decimals$}{unit}", value * times);
        let signed = |value: f64| format!("{:+.1$}", value * times, decimals.max(1));
        let verdict = match () {
            () if !row.is_shown() => "no difference shown",
            () if *difference > 0.0 => "more",
            () => "less",
        };
        [
            what.clone(),
            number(*first),
            number(*second),
            format!("{} ({} to {})", signed(*difference), signed(interval.low), signed(interval.high)),
            verdict.to_owned(),
        ]
    };
    let rows: Vec<[String; 5]> = rows.iter().map(row).collect();
    output::table(out, &MANY, &rows, "  ")?;
    writeln!(out, "\n{:.0} % of the seeds end alike in both.", same * 100.0)
}

/// What differs in the files, and in what came of it.
#[derive(Serialize)]
struct Answer<'a> {
    #[serde(skip_serializing_if = "Vec::is_empty")]
    values: Vec<ChangedValue>,
    /// Differences outside the part that was asked for.
    #[serde(skip_serializing_if = "is_zero")]
    left_out: usize,
    #[serde(flatten)]
    comparison: &'a Comparison,
}

fn is_zero(number: &usize) -> bool {
    *number == 0
}

/// Values of the rulesets and of the scenarios that differ; none of logs, which have no files.
fn changed(one: &Fight, other: &Fight) -> Vec<ChangedValue> {
    let (Some(one), Some(other)) = (one.scenario(), other.scenario()) else { return Vec::new() };
    changed_in(one, other)
}

/// Values of the rulesets and of the scenarios that differ.
pub(crate) fn changed_in(one: &Scenario, other: &Scenario) -> Vec<ChangedValue> {
    let mut changed = changed_values(&one.rules.code.text, &other.rules.code.text);
    let scenarios = changed_values(one.text(), other.text());
    // Which ruleset it is, and what it is called, says nothing of its own.
    changed.extend(
        scenarios
            .into_iter()
            .filter(|one| !["scenario.rules", "scenario.title"].contains(&one.path.as_str())),
    );
    changed
}

/// How many values are written before the rest is counted.
const MOST_VALUES: usize = 20;

fn values(out: &mut dyn Write, values: &[ChangedValue]) -> io::Result<()> {
    if values.is_empty() {
        return Ok(());
    }
    writeln!(out, "\x1b[1mValues that differ\x1b[0m")?;
    values.iter().take(MOST_VALUES).try_for_each(|value| writeln!(out, "  {value}"))?;
    if values.len() > MOST_VALUES {
        writeln!(out, "  and {} more; --format json has them all", values.len() - MOST_VALUES)?;
    }
    writeln!(out)
}

/// Where the states of two fights first differ.
#[derive(Serialize)]
struct Differs {
    tick: u32,
    time: f64,
    part: String,
    combatant: Option<String>,
    row: Option<usize>,
    first: String,
    second: String,
    /// All parts that differ.
    parts: Vec<String>,
}

/// Runs both side by side, and compares their states after each tick.
fn states(one: &Fight, other: &Fight, options: &CompareOptions) -> Result<Outcome, Failure> {
    let (mut ours, mut theirs) = (one.play(false)?, other.play(false)?);
    let (mut ticks, mut found) = (0u32, None);
    let lengths = loop {
        match (ours.tick()?, theirs.tick()?) {
            (true, true) => ticks += 1,
            both => break both,
        }
        if ours.encounter().same_state(theirs.encounter()) {
            continue;
        }
        let saves = [ours.encounter(), theirs.encounter()].map(hammerstone::Encounter::save);
        let [Ok(first), Ok(second)] = saves else { continue };
        let mut all = first.differences(&second);
        // That two seeds are two seeds is no news.
        all.retain(|one| !matches!(one.field.as_str(), "seed" | "first_fingerprint"));
        let Some(difference) = all.first() else { continue };
        let [first, second] = difference.values();
        let name = difference.combatant.map(|who| ours.names().of(who).to_owned());
        found = Some(Differs {
            tick: ticks,
            time: f64::from(ticks - 1) / f64::from(one.rules().rate()),
            combatant: name.filter(|name| !name.is_empty()),
            part: difference.field.clone(),
            row: difference.row,
            first,
            second,
            parts: all.iter().map(|one| one.field.clone()).collect(),
        });
        break (true, true);
    };
    output::answer((options.format, &options.out), &found, |out| {
        match &found {
            None => writeln!(out, "the same states after each of {ticks} ticks")?,
            Some(Differs { tick, time, part, combatant, row, first, second, parts }) => {
                write!(out, "the states differ from tick {tick} on, at {time:.2}s: `{part}`")?;
                match (combatant, row) {
                    (Some(name), _) => write!(out, " of {name}")?,
                    (None, Some(row)) => write!(out, ", row {row}")?,
                    (None, None) => {}
                }
                writeln!(out)?;
                writeln!(out, "  {first} in the first, {second} in the second")?;
                if parts.len() > 1 {
                    writeln!(out, "and so do {}", parts[1..].join(", "))?;
                }
            }
        }
        match lengths {
            (true, false) => writeln!(out, "the second is over then, and the first goes on"),
            (false, true) => writeln!(out, "the first is over then, and the second goes on"),
            _ => Ok(()),
        }
    })?;
    let differ = found.is_some() || lengths.0 != lengths.1;
    Ok(if options.expect_same && differ { Outcome::Failed } else { Outcome::Fine })
}

/// What a fight comes to, and the names of all in it.
pub(crate) fn play(fight: &Fight) -> Result<(Digest, BTreeSet<String>), Failure> {
    let mut digest = Digest::new();
    let mut play = fight.play(true)?;
    play.through(&mut [&mut digest])?;
    let parties = digest.entries().iter().flat_map(|entry| [&entry.subject, &entry.target]);
    let mut names: BTreeSet<String> = parties.flatten().cloned().collect();
    let seen = play.seen();
    names.extend(seen.view().combatants().map(|who| seen.names.of(who).to_owned()));
    Ok((digest, names))
}

const COLUMNS: [output::Column<'static>; 5] =
    [("first", true), ("second", true), ("what", false), ("in the first", false), ("in the second", false)];

const TOTALS: [output::Column<'static>; 4] =
    [("", false), ("damage dealt", false), ("damage taken", false), ("died", false)];

fn text(out: &mut dyn Write, comparison: &Comparison, left_out: usize) -> io::Result<()> {
    let Comparison { differences, totals, both, only_first, only_second } = comparison;
    let elsewhere = match left_out {
        1 => "1 difference lies elsewhere".to_owned(),
        more => format!("{more} differences lie elsewhere"),
    };
    let Some(cause) = differences.first() else {
        if left_out > 0 {
            return writeln!(out, "no difference in this part; {elsewhere}");
        }
        let digest = if *both == 1 { "event" } else { "events" };
        return writeln!(out, "the same: {both} {digest} in both, at the same times, with the same amounts");
    };
    let heading = if left_out > 0 { "The first in this part" } else { "Where it began" };
    writeln!(out, "\x1b[1m{heading}\x1b[0m")?;
    if let Some(entry) = cause.entry() {
        let [first, second] = sides(cause);
        writeln!(out, "  {:.2}s, {}: {first} in the first, {second} in the second", entry.time, what(entry))?;
    }
    if let Some(moved) = &cause.moved {
        let row = |row: &Option<hammerstone_record::Row>| match row {
            Some(row) if row.note.is_empty() => format!("{} {}", row.step, row.after),
            Some(row) => format!("{} {} ({})", row.step, row.after, row.note),
            None => "nothing".to_owned(),
        };
        let [first, second] = moved;
        writeln!(out, "  by its step: {} in the first, {} in the second", row(first), row(second))?;
    }
    writeln!(out, "\n\x1b[1mWhat differs\x1b[0m")?;
    let time = |entry: &Option<DigestEntry>| {
        entry.as_ref().map_or("-".to_owned(), |entry| format!("{:.2}s", entry.time))
    };
    let row = |difference: &Difference| {
        let named = difference.entry().map(what).unwrap_or_default();
        let (first, second) = (&difference.first, &difference.second);
        [time(first), time(second), named, value(first), value(second)]
    };
    let rows: Vec<[String; 5]> = differences.iter().take(MOST).map(row).collect();
    output::table(out, &COLUMNS, &rows, "  ")?;
    if differences.len() > MOST {
        writeln!(out, "  and {} more; --format json has them all", differences.len() - MOST)?;
    }
    if left_out > 0 {
        writeln!(out, "  {elsewhere}")?;
    }
    writeln!(out, "\n\x1b[1mWhat it came to\x1b[0m")?;
    let pair =
        |[first, second]: [String; 2]| if first == second { first } else { format!("{first}, {second}") };
    let died = |time: Option<f64>| time.map_or("-".to_owned(), |time| format!("{time:.2}s"));
    let rows: Vec<[String; 4]> = totals
        .iter()
        .map(|total| {
            let numbers = |numbers: [i64; 2]| pair(numbers.map(|number| number.to_string()));
            [total.name.clone(), numbers(total.dealt), numbers(total.taken), pair(total.died.map(died))]
        })
        .collect();
    output::table(out, &TOTALS, &rows, "  ")?;
    writeln!(
        out,
        "\n{both} events came in both, {only_first} in the first only, {only_second} in the second only."
    )
}

/// What an event came to in both runs; where that is the same, when it came.
fn sides(difference: &Difference) -> [String; 2] {
    let both = [&difference.first, &difference.second];
    let values = both.map(value);
    if values[0] != values[1] {
        return values;
    }
    both.map(|entry| entry.as_ref().map_or(String::new(), |entry| format!("at {:.2}s", entry.time)))
}

fn value(entry: &Option<DigestEntry>) -> String {
    entry.as_ref().map_or("not there".to_owned(), |entry| {
        if entry.value.is_empty() { "there".to_owned() } else { entry.value.clone() }
    })
}

/// An event in words: who did what to target, for which time.
fn what(entry: &DigestEntry) -> String {
    let mut text = match (entry.sort, &entry.subject, &entry.target) {
        ("death" | "return", _, Some(target)) => format!("{target} {}", entry.name),
        ("refusal", who, Some(target)) => {
            format!("{}'s {} at {target}", who.as_deref().unwrap_or("environment"), entry.name)
        }
        ("start", who, _) => format!("{} starts {}", who.as_deref().unwrap_or("the environment"), entry.name),
        ("refused start", who, _) => {
            format!("{} is refused the start of {}", who.as_deref().unwrap_or("the environment"), entry.name)
        }
        (_, Some(who), Some(target)) => format!("{who}'s {} on {target}", entry.name),
        (_, None, Some(target)) => format!("{} on {target}", entry.name),
        _ => entry.name.clone(),
    };
    if entry.ordinal > 1 {
        text.push_str(&format!(", number {}", entry.ordinal));
    }
    text
}
