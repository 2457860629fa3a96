//! `survey --gather`: the parts of a survey put together.

use std::fs::File;
use std::io::BufReader;
use std::ops::RangeInclusive;
use std::path::{Path, PathBuf};

use hammerstone_record::{GatherError, Gathered, PartError, PartHead, PartReader, Ran, gather};
use miette::{Severity, miette};

use super::found::{Found, must_be_writable};
use super::part::of_survey;
use super::text;
use crate::args::SurveyOptions;
use crate::progress::Told;
use crate::{Failure, Outcome, output};

pub(super) fn gathered(parts: &[PathBuf], options: &SurveyOptions) -> Result<Outcome, Failure> {
    let heads = parts.iter().map(|path| open(path).map(|part| part.head().clone()));
    let heads: Vec<PartHead> = heads
        .zip(parts)
        .map(|(head, path)| head.map_err(|error| refused(path, &error)))
        .collect::<Result<_, _>>()?;
    all_of_one(parts, &heads)?;
    let survey = &heads[0].survey;
    must_be_writable(survey, options)?;
    let told = Told::of(heads.iter().map(PartHead::runs).sum(), "runs", true);
    let mut found = Found::new(survey, options.csv.as_deref());
    let mut failed = None;
    let gathered = gather(
        &heads,
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
    Ok(whole(parts, &heads, &gathered))
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

/// Refuses parts of several surveys, and names those that are not of the most frequent.
fn all_of_one(parts: &[PathBuf], heads: &[PartHead]) -> Result<(), Failure> {
    let count = |head: &PartHead| heads.iter().filter(|other| other.is_of_one_survey(head)).count();
    let mut most = &heads[0];
    for head in heads {
        if count(head) > count(most) {
            most = head;
        }
    }
    let others: Vec<String> = parts
        .iter()
        .zip(heads)
        .filter(|(_, head)| !head.is_of_one_survey(most))
        .map(|(path, head)| format!("{}: {}", path.display(), of_survey(head)))
        .collect();
    if others.is_empty() {
        return Ok(());
    }
    let first = &others[..others.len().min(8)];
    Err(miette!(
        help = "gather the parts of one survey: of the same files, values, seeds and version",
        "{} of {} parts are of another survey than the others, which are of {}\n{}",
        others.len(),
        parts.len(),
        of_survey(most),
        first.join("\n")
    ))
}

/// Says which runs are missing, or there twice.
fn whole(parts: &[PathBuf], heads: &[PartHead], gathered: &Gathered) -> Outcome {
    let all = heads[0].survey.runs();
    if !gathered.twice.is_empty() {
        let having = |runs: &RangeInclusive<u64>| {
            let has = |head: &&PartHead| head.first <= *runs.start() && *runs.start() <= head.last;
            let have = heads.iter().zip(parts).filter(|(head, _)| has(head));
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
        // Most parts say of how many shards they are.
        let of = heads.iter().map(|head| head.of).max().unwrap_or(1);
        let overlaps = |shard: &u64| {
            let runs = heads[0].survey.shard(*shard, of);
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
