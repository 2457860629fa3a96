//! `survey --shard`: a part of the runs of a survey, written to a file that is there whole or not at all.

use std::fs::{self, File, OpenOptions, TryLockError};
use std::io::{self, BufReader, Seek, SeekFrom};
use std::path::{Path, PathBuf};

use hammerstone_record::{PartError, PartHead, PartReader, PartWriter};
use miette::{Severity, miette};

use super::asked::Work;
use super::runs::{Done, Runner};
use crate::args::{Shard, SurveyOptions};
use crate::progress::{self, Told};
use crate::{Failure, Outcome, files, output};

/// What a part is called until it is whole.
const UNFINISHED: &str = "partial";

pub(super) fn shard(work: &Work, shard: Shard, options: &SurveyOptions) -> Result<Outcome, Failure> {
    let Some(out) =
        options.out.as_deref().filter(|out| out.extension().is_some_and(|ending| ending == "csv"))
    else {
        return Err(miette!(help = "say -o part.csv", "a shard is written to a file that ends in .csv"));
    };
    let (number, of) = which(shard)?;
    let head = PartHead::new(work.survey.clone(), number, of);
    let unfinished = PathBuf::from(format!("{}.{UNFINISHED}", out.display()));
    // A part that was there before: whole, or cut on its way here.
    let cut = match out.exists().then(|| examined(out, &head)).transpose()? {
        Some(State::Whole) => {
            output::say(&format!("{} is whole already: {}", out.display(), told(&head)));
            return Ok(Outcome::Fine);
        }
        Some(State::Until(next, byte)) => Some((next, byte)),
        None => None,
    };
    let threads = options.threads.or_else(given_threads);
    let stop = progress::stop();
    // From here on no other process writes it.
    let mut file = locked(&unfinished)?;
    let broken = |error: io::Error| files::unwritable(&unfinished, &error);
    let (mut next, mut byte) = match examined(&unfinished, &head)? {
        State::Whole => return whole(&unfinished, out, &head),
        State::Until(next, byte) => (next, byte),
    };
    // Of the two it goes on with the one that is farther; the other is replaced when it is whole.
    if let Some(cut) = cut.filter(|(of_cut, _)| *of_cut > next) {
        fs::copy(out, &unfinished).map_err(broken)?;
        (next, byte) = cut;
    }
    file.set_len(byte.unwrap_or(0)).and_then(|()| file.seek(SeekFrom::End(0))).map_err(broken)?;
    let copy = file.try_clone().map_err(broken)?;
    let mut writer = match byte {
        None => PartWriter::new(copy, head.clone()).map_err(broken)?,
        Some(_) => {
            output::say(&format!("goes on with run {next} of {} to {}", head.first, head.last));
            PartWriter::go_on(copy, head.clone())
        }
    };
    let told_of = Told::of((head.last + 1).saturating_sub(next), "runs", true);
    let mut runner = Runner::new(work, threads, &stop, told_of)?;
    let mut done = next - 1;
    let all = runner.through(next..=head.last, &mut |ran: &[Done]| {
        for (number, _, ran) in ran {
            writer.write(*number, ran).map_err(broken)?;
            done = *number;
        }
        writer.flush().map_err(broken)
    })?;
    runner.end();
    writer.finish().and_then(|file| file.sync_all()).map_err(broken)?;
    if !all {
        output::complain(&miette!(
            severity = Severity::Warning,
            help = "the same command goes on with it",
            "interrupted after run {done} of {} to {}: they are kept in {}",
            head.first,
            head.last,
            unfinished.display()
        ));
        return Ok(Outcome::Failed);
    }
    whole(&unfinished, out, &head)
}

/// A part that is whole has its name.
fn whole(unfinished: &Path, out: &Path, head: &PartHead) -> Result<Outcome, Failure> {
    fs::rename(unfinished, out).map_err(|error| files::unwritable(out, &error))?;
    output::wrote(&told(head), out);
    Ok(Outcome::Fine)
}

fn told(head: &PartHead) -> String {
    format!("runs {} to {} of {}", head.first, head.last, head.survey.runs())
}

/// How far a part is.
enum State {
    Whole,
    /// The run that comes next, and where it goes in the file; nowhere if there is no head yet.
    Until(u64, Option<u64>),
}

/// How far a part is that is there already. One of another survey is left alone.
fn examined(path: &Path, head: &PartHead) -> Result<State, Failure> {
    let file = File::open(path).map_err(|error| files::unwritable(path, &error))?;
    let mut reader = match PartReader::open(BufReader::with_capacity(1 << 16, file)) {
        Ok(reader) => reader,
        Err(PartError::Unreadable(error)) => return Err(files::unwritable(path, &error)),
        // Cut before its head was written, or no part at all: that is left alone.
        Err(error) if is_beginning(path, head) => {
            output::detail(|| format!("{}: {error}", path.display()));
            return Ok(State::Until(head.first, None));
        }
        Err(error) => {
            return Err(miette!(help = "remove it, or write to another file", "{}: {error}", path.display()));
        }
    };
    if reader.head() != head {
        let other = reader.head();
        let why = if !other.is_of_one_survey(head) {
            format!("it is a part of another survey: {}", of_survey(other))
        } else {
            format!(
                "it is shard {} of {} of this survey, and not {} of {}",
                other.shard, other.of, head.shard, head.of
            )
        };
        return Err(miette!(help = "remove it, or write to another file", "{}: {why}", path.display()));
    }
    loop {
        match reader.next_run() {
            Ok(Some(_)) => {}
            Ok(None) => {
                let (next, byte) = reader.sound();
                return Ok(if next > head.last { State::Whole } else { State::Until(next, Some(byte)) });
            }
            Err(PartError::Unreadable(error)) => return Err(files::unwritable(path, &error)),
            Err(_) => {
                let (next, byte) = reader.sound();
                return Ok(State::Until(next, Some(byte)));
            }
        }
    }
}

/// Whether a file is the beginning of what a part of this head begins with.
fn is_beginning(path: &Path, head: &PartHead) -> bool {
    let whole = PartWriter::new(Vec::new(), head.clone()).and_then(PartWriter::finish);
    let found = fs::read(path);
    matches!((whole, found), (Ok(whole), Ok(found)) if whole.starts_with(&found))
}

/// What tells a survey from others.
pub(super) fn of_survey(head: &PartHead) -> String {
    let survey = &head.survey;
    format!(
        "`{}`, {} runs, version {}, fingerprint {}",
        survey.title,
        survey.runs(),
        survey.version,
        survey.fingerprint
    )
}

/// The file, for this process alone.
fn locked(path: &Path) -> Result<File, Failure> {
    let opened = OpenOptions::new().read(true).write(true).create(true).truncate(false).open(path);
    let file = opened.map_err(|error| files::unwritable(path, &error))?;
    match file.try_lock() {
        Err(TryLockError::WouldBlock) => Err(miette!(
            help = "let it end, or write to another file",
            "{} is being written by another process",
            path.display()
        )),
        // A file system without locks is no reason to stop.
        _ => Ok(file),
    }
}

/// Which shard of how many.
fn which(shard: Shard) -> Result<(u64, u64), Failure> {
    let number = |name: &str| -> Option<u64> { std::env::var(name).ok()?.trim().parse().ok() };
    let array = number("SLURM_ARRAY_TASK_ID");
    let index = array.is_none().then(|| number("JOB_COMPLETION_INDEX").map(|index| index + 1)).flatten();
    let no_scheduler = || {
        miette!(
            help = "say which: --shard 3/8; or run it as a task of an array",
            "no scheduler says which shard this is: neither SLURM_ARRAY_TASK_ID nor JOB_COMPLETION_INDEX is set"
        )
    };
    let (number, of) = match shard {
        Shard::Told(number, of) => (number, of),
        Shard::Of(of) => (array.or(index).ok_or_else(no_scheduler)?, of),
        Shard::Scheduler => {
            let Some(task) = array else {
                return Err(match index {
                    None => no_scheduler(),
                    Some(_) => miette!(
                        help = "say of how many: --shard 8",
                        "an indexed job does not say how many indexes it has"
                    ),
                });
            };
            let bounds = ["MIN", "MAX", "COUNT"].map(|name| number(&format!("SLURM_ARRAY_TASK_{name}")));
            match bounds {
                [Some(1), Some(last), Some(count)] if last == count => (task, last),
                _ => {
                    return Err(miette!(
                        help = "say of how many: --shard 8",
                        "the tasks of this array are not 1 to the last, so that it does not say how many shards there are"
                    ));
                }
            }
        }
    };
    if number == 0 || number > of {
        return Err(miette!(
            help = "shards are counted from 1; number the tasks of the array so: --array=1-8",
            "there is no shard {number} of {of}"
        ));
    }
    Ok((number, of))
}

/// How many processors a scheduler gave this task.
fn given_threads() -> Option<u16> {
    std::env::var_os("SLURM_JOB_ID")?;
    let given = ["SLURM_CPUS_PER_TASK", "SLURM_CPUS_ON_NODE"];
    let number = given.iter().find_map(|name| std::env::var(name).ok()?.parse().ok());
    number.or(Some(1))
}
