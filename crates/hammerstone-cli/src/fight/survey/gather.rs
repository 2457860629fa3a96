//! `survey --gather`: the parts of a survey put together.

use std::fs::File;
use std::io::BufReader;
use std::ops::RangeInclusive;
use std::path::{Path, PathBuf};

use hammerstone_record::{GatherError, Gathered, PartError, PartHead, PartReader, Ran, Surveyed, gather};
use miette::{Severity, miette};

use super::found::{Found, must_be_writable};
use super::part::of_survey;
use super::text;
use crate::args::SurveyOptions;
use crate::progress::Told;
use crate::{Failure, Outcome, output};

pub(super) fn gathered(parts: &[PathBuf], options: &SurveyOptions) -> Result<Outcome, Failure> {
    let (survey, runs, of) = all_of_one(parts)?;
    let survey = &survey;
    must_be_writable(survey, options)?;
    let told = Told::of(runs.iter().cloned().map(length).sum(), "runs", true);
    let mut found = Found::new(survey, options.csv.as_deref());
    let mut failed = None;
    let gathered = gather(
        &runs,
        survey.runs(),
        |part| open(&parts[part]),
        |number, ran: Ran| {
            told.done(1);
            if let (None, Some(of)) = (&failed, survey.run(number)) {
                failed = found.add(of, &ran).err();
            }
        },
    );
    told.end();
    let gathered = gathered.map_err(|error| match error {
        GatherError::Part { part, error } => refused(&parts[part], &error),
        GatherError::Differs { run, parts: [one, other] } => miette!(
            help = "one of them was made by another build or on a machine that does not work as it should: run both shards again",
            "run {run} came out differently in {} and {}",
            parts[one].display(),
            parts[other].display()
        ),
    })?;
    if let Some(failure) = failed {
        return Err(failure);
    }
    found.finish()?;
    text::answer(survey, &found, options, None)?;
    Ok(whole(parts, survey, (&runs, of), &gathered))
}

fn open(path: &Path) -> Result<PartReader<BufReader<File>>, PartError> {
    PartReader::open(BufReader::with_capacity(1 << 18, File::open(path)?))
}

fn refused(path: &Path, error: &PartError) -> Failure {
    let help = match error {
        PartError::Cut { .. } => "give its shard the same command again: it goes on where it was cut",
        PartError::Broken { .. } => "remove it, and run its shard again",
        PartError::Unreadable(_) => "name parts that are there",
        PartError::NoPart(_) | PartError::OtherForm { .. } => {
            "name parts that `survey --shard` of this version wrote"
        }
    };
    miette!(help = help, "{}: {error}", path.display())
}

/// How many runs a stretch has.
fn length(runs: RangeInclusive<u64>) -> u64 {
    (runs.end() + 1).saturating_sub(*runs.start())
}

/// The survey of these parts, the runs of each, and of how many shards they are. Parts of several surveys are refused, and those named that
/// are not of the most frequent. Heads may be long, so that one of each survey is kept.
fn all_of_one(parts: &[PathBuf]) -> Result<(Surveyed, Vec<RangeInclusive<u64>>, u64), Failure> {
    let (mut surveys, mut counts): (Vec<PartHead>, Vec<usize>) = (Vec::new(), Vec::new());
    let (mut runs, mut which, mut most) = (Vec::new(), Vec::new(), 1);
    for path in parts {
        let part = open(path).map_err(|error| refused(path, &error))?;
        let head = part.head();
        runs.push(head.numbers());
        most = most.max(head.of);
        let known = surveys.iter().position(|known| known.is_of_one_survey(head));
        let place = known.unwrap_or_else(|| {
            surveys.push(head.clone());
            counts.push(0);
            surveys.len() - 1
        });
        counts[place] += 1;
        which.push(place);
    }
    // Of equals the first.
    let frequent = (0..surveys.len()).rev().max_by_key(|&place| counts[place]).unwrap_or(0);
    let others: Vec<String> = parts
        .iter()
        .zip(&which)
        .filter(|(_, place)| **place != frequent)
        .map(|(path, &place)| format!("{}: {}", path.display(), of_survey(&surveys[place])))
        .collect();
    let of_all = surveys.swap_remove(frequent);
    if others.is_empty() {
        return Ok((of_all.survey, runs, most));
    }
    let first = &others[..others.len().min(8)];
    Err(miette!(
        help = "gather the parts of one survey: of the same files, values, seeds and version",
        "{} of {} parts are of another survey than the others, which are of {}\n{}",
        others.len(),
        parts.len(),
        of_survey(&of_all),
        first.join("\n")
    ))
}

/// Says which runs are missing, or there twice.
fn whole(
    parts: &[PathBuf],
    survey: &Surveyed,
    (runs_of, of): (&[RangeInclusive<u64>], u64),
    gathered: &Gathered,
) -> Outcome {
    let all = survey.runs();
    if !gathered.twice.is_empty() {
        let having = |runs: &RangeInclusive<u64>| {
            let have = runs_of.iter().zip(parts).filter(|(of_part, _)| of_part.contains(runs.start()));
            have.map(|(_, path)| path.display().to_string()).collect::<Vec<String>>().join(" and ")
        };
        output::complain(&miette!(
            severity = Severity::Warning,
            help = "they came out the same, and count once",
            "runs {} are in several parts: {}",
            ranges(&gathered.twice),
            having(&gathered.twice[0])
        ));
    }
    if !gathered.missing.is_empty() {
        let overlaps = |shard: &u64| {
            let runs = survey.shard(*shard, of);
            gathered
                .missing
                .iter()
                .any(|missing| missing.start() <= runs.end() && runs.start() <= missing.end())
        };
        let shards: Vec<u64> = (1..=of).filter(overlaps).collect();
        let listed: Vec<String> = shards.iter().take(40).map(u64::to_string).collect();
        output::complain(&miette!(
            severity = Severity::Warning,
            help = format!("run what is missing of {of} shards: {}", listed.join(", ")),
            "{} of {all} runs are missing: {}",
            all - gathered.runs,
            ranges(&gathered.missing)
        ));
    }
    match gathered.missing.is_empty() && gathered.twice.is_empty() {
        true => Outcome::Fine,
        false => Outcome::Failed,
    }
}

fn ranges(runs: &[RangeInclusive<u64>]) -> String {
    const SHOWN: usize = 12;
    let told = |runs: &RangeInclusive<u64>| match runs.start() == runs.end() {
        true => runs.start().to_string(),
        false => format!("{} to {}", runs.start(), runs.end()),
    };
    let mut all: Vec<String> = runs.iter().take(SHOWN).map(told).collect();
    if runs.len() > SHOWN {
        all.push(format!("and {} more stretches", runs.len() - SHOWN));
    }
    all.join(", ")
}
