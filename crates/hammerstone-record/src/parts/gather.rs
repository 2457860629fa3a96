//! Puts parts together again.

use std::io::Read;
use std::ops::RangeInclusive;

use super::{PartError, PartReader};
use crate::Ran;

/// Which runs the parts have.
#[derive(Clone, PartialEq, Eq, Default, Debug)]
pub struct Gathered {
    /// How many were gathered, each once.
    pub runs: u64,
    /// Those that no part has.
    pub missing: Vec<RangeInclusive<u64>>,
    /// Those that several parts have, and that were counted once.
    pub twice: Vec<RangeInclusive<u64>>,
}

/// Why parts cannot be gathered.
#[derive(Debug, thiserror::Error)]
pub enum GatherError {
    /// A part cannot be read.
    #[error("{error}")]
    Part {
        /// Which part.
        part: usize,
        /// Why.
        #[source]
        error: PartError,
    },
    /// Two parts have the same run, and it came out differently.
    #[error("run {run} came out differently in two parts")]
    Differs {
        /// The run.
        run: u64,
        /// The two parts.
        parts: [usize; 2],
    },
}

/// Hands each run of parts of one survey of so many runs to `each`, in the order of their numbers, whatever the order of the parts. Of each
/// part it takes the runs that it has ([`PartHead::numbers`](super::PartHead::numbers)). Parts that have no run in common are read one after
/// the other; `open` is asked for each when it is its turn. The memory that it takes does not grow with the number of runs.
///
/// *Errors:* a part that is cut or broken; a run that came out differently in two parts.
pub fn gather<R: Read>(
    parts: &[RangeInclusive<u64>],
    runs: u64,
    mut open: impl FnMut(usize) -> Result<PartReader<R>, PartError>,
    mut each: impl FnMut(u64, Ran),
) -> Result<Gathered, GatherError> {
    let mut order: Vec<usize> = (0..parts.len()).filter(|&part| !parts[part].is_empty()).collect();
    order.sort_by_key(|&part| (*parts[part].start(), part));
    let mut waiting = order.into_iter().peekable();
    // Each with the run that comes next, which is the same for all.
    let mut reading: Vec<(usize, PartReader<R>, Ran)> = Vec::new();
    let mut gathered = Gathered::default();
    let mut next = 1;
    loop {
        if reading.is_empty()
            && let Some(&part) = waiting.peek()
        {
            let first = *parts[part].start();
            note(&mut gathered.missing, next, first - 1);
            next = next.max(first);
        }
        while let Some(part) = waiting.next_if(|&part| *parts[part].start() <= next) {
            let mut reader = open(part).map_err(|error| GatherError::Part { part, error })?;
            if let Some((_, ran)) = reader.next_run().map_err(|error| GatherError::Part { part, error })? {
                reading.push((part, reader, ran));
            }
        }
        if reading.is_empty() {
            if waiting.peek().is_some() {
                continue;
            }
            break;
        }
        let mut found: Option<(usize, Ran)> = None;
        let mut place = 0;
        while place < reading.len() {
            let (part, reader, ran) = &mut reading[place];
            let part = *part;
            let ran = match reader.next_run().map_err(|error| GatherError::Part { part, error })? {
                Some((_, following)) => {
                    place += 1;
                    std::mem::replace(ran, following)
                }
                None => reading.remove(place).2,
            };
            match &found {
                None => found = Some((part, ran)),
                Some((_, known)) if *known == ran => note(&mut gathered.twice, next, next),
                Some((first, _)) => return Err(GatherError::Differs { run: next, parts: [*first, part] }),
            }
        }
        if let Some((_, ran)) = found {
            gathered.runs += 1;
            each(next, ran);
        }
        next += 1;
    }
    note(&mut gathered.missing, next, runs);
    Ok(gathered)
}

/// Adds runs to those that are known, as one stretch where they follow on.
fn note(runs: &mut Vec<RangeInclusive<u64>>, first: u64, last: u64) {
    if first > last {
        return;
    }
    match runs.last_mut() {
        Some(before) if *before.end() + 1 >= first => *before = *before.start()..=last.max(*before.end()),
        _ => runs.push(first..=last),
    }
}
