//! `survey --plan`: how many runs, how long they take, and how much they fill, from a sample that is timed.

use std::io::{self, Write};
use std::time::{Duration, Instant};

use hammerstone_record::{PartHead, PartWriter};
use serde::Serialize;

use super::asked::Work;
use super::runs::ran;
use crate::args::{Out, SurveyAsked, SurveyOptions};
use crate::{Failure, Outcome, output};

/// How long each fight is sampled.
const SAMPLED: Duration = Duration::from_millis(1500);
/// Of how many of its points.
const POINTS: usize = 12;
/// How long a shard should take at least: much longer than it takes to start one, and short enough to lose.
const SHARD: f64 = 20.0 * 60.0;
/// How many shards are asked of a scheduler at most.
const MOST_SHARDS: u64 = 1000;

#[derive(Serialize)]
struct Plan {
    title: String,
    runs: u64,
    /// Hours of one processor.
    processor_hours: f64,
    /// Megabytes of all parts.
    megabytes: f64,
    shards: u64,
    /// How long it takes on so many processors, in seconds.
    takes: Vec<Takes>,
    fights: Vec<FightPlan>,
}

#[derive(Serialize)]
struct Takes {
    processors: u32,
    seconds: f64,
}

#[derive(Serialize)]
struct FightPlan {
    name: String,
    points: usize,
    seeds: u64,
    runs: u64,
    sampled: u64,
    milliseconds: f64,
    bytes: f64,
}

pub(super) fn plan(work: &Work, asked: &SurveyAsked, options: &SurveyOptions) -> Result<Outcome, Failure> {
    let fights =
        (0..work.survey.fights.len()).map(|fight| sampled(work, fight)).collect::<Result<Vec<_>, _>>()?;
    let seconds: f64 = fights.iter().map(|fight| fight.runs as f64 * fight.milliseconds / 1000.0).sum();
    let bytes: f64 = fights.iter().map(|fight| fight.runs as f64 * fight.bytes).sum();
    let runs = work.survey.runs();
    let shards = ((seconds / SHARD).ceil() as u64).clamp(1, MOST_SHARDS.min(runs.max(1)));
    let mut processors = vec![1, 16, 256];
    processors.extend(options.processors);
    processors.sort_unstable();
    processors.dedup();
    let takes = processors.into_iter().map(|processors| {
        // No more at a time than there are runs.
        let at_once = u64::from(processors).min(runs.max(1)) as f64;
        Takes { processors, seconds: seconds / at_once }
    });
    let plan = Plan {
        title: work.survey.title.clone(),
        runs,
        processor_hours: seconds / 3600.0,
        megabytes: bytes / 1.0e6,
        shards,
        takes: takes.collect(),
        fights,
    };
    let what = asked_again(asked, options);
    output::answer((options.format, &Out::default()), &plan, |out| text(out, &plan, &what))?;
    Ok(Outcome::Fine)
}

/// The same survey as it is asked for on the command line.
fn asked_again(asked: &SurveyAsked, options: &SurveyOptions) -> String {
    let mut all = vec![asked.file.as_deref().map_or_else(String::new, |file| file.display().to_string())];
    let with = &asked.with;
    all.extend(options.seeds.map(|seeds| format!("--seeds {seeds}")));
    all.extend(options.vary.iter().map(|of| format!("--vary '{}={}'", of.path, of.values.join(","))));
    all.extend(with.seed.map(|seed| format!("--seed {seed}")));
    all.extend(with.ticks.map(|ticks| format!("--ticks {ticks}")));
    all.extend(with.rules.as_ref().map(|rules| format!("--rules {}", rules.display())));
    all.extend(with.set.iter().map(|(path, value)| format!("--set '{path}={value}'")));
    all.join(" ")
}

/// Runs a fight for a while, on one thread, with values from all over.
fn sampled(work: &Work, fight: usize) -> Result<FightPlan, Failure> {
    let of = &work.survey.fights[fight];
    let count = of.points.len().min(POINTS);
    let places = (0..count).map(|place| place * of.points.len() / count);
    let scenarios = places.map(|point| work.scenario(fight, point)).collect::<Result<Vec<_>, _>>()?;
    // What a run fills is what it fills in a part.
    let head = PartHead::new(work.survey.clone(), 1, 1);
    let mut part = PartWriter::new(Counted(0), head).map_err(written)?;
    part.flush().map_err(written)?;
    let before = part.inner().0;
    let (begun, mut runs) = (Instant::now(), 0u64);
    while (runs < count as u64 || begun.elapsed() < SAMPLED) && runs < of.runs() {
        let mut ran = ran(&scenarios[runs as usize % count], runs / count as u64, &work.fights[fight].with)?;
        of.kept.strip(&mut ran);
        part.write(runs + 1, &ran).map_err(written)?;
        runs += 1;
    }
    let each = begun.elapsed().as_secs_f64() / runs.max(1) as f64;
    part.flush().map_err(written)?;
    Ok(FightPlan {
        name: of.name.clone(),
        points: of.points.len(),
        seeds: of.seeds,
        runs: of.runs(),
        sampled: runs,
        milliseconds: each * 1000.0,
        bytes: (part.inner().0 - before) as f64 / runs.max(1) as f64,
    })
}

fn written(error: io::Error) -> Failure {
    miette::miette!("{error}")
}

/// Counts what is written.
struct Counted(u64);

impl Write for Counted {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0 += bytes.len() as u64;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

const BY_FIGHT: [output::Column<'static>; 7] = [
    ("fight", false),
    ("values", true),
    ("seeds", true),
    ("runs", true),
    ("sampled", true),
    ("a run", true),
    ("in a part", true),
];

fn text(out: &mut dyn Write, plan: &Plan, file: &str) -> io::Result<()> {
    let Plan { title, runs, processor_hours, megabytes, shards, takes, fights } = plan;
    writeln!(out, "{title}: {runs} runs")?;
    writeln!(out, "\x1b[2mtimed here, on one processor\x1b[0m\n")?;
    let rows: Vec<[String; 7]> = fights
        .iter()
        .map(|fight| {
            [
                fight.name.clone(),
                fight.points.to_string(),
                fight.seeds.to_string(),
                fight.runs.to_string(),
                fight.sampled.to_string(),
                format!("{:.2} ms", fight.milliseconds),
                format!("{:.0} bytes", fight.bytes),
            ]
        })
        .collect();
    output::table(out, &BY_FIGHT, &rows, "")?;
    let told = |seconds: f64| output::duration(Duration::from_secs_f64(seconds));
    let size = |megabytes: f64| match megabytes {
        ..1000.0 => format!("{megabytes:.1} MB"),
        ..1.0e6 => format!("{:.1} GB", megabytes / 1.0e3),
        _ => format!("{:.1} TB", megabytes / 1.0e6),
    };
    writeln!(out, "\nprocessor time  {}", told(processor_hours * 3600.0))?;
    for Takes { processors, seconds } in takes.iter().filter(|takes| takes.processors > 1) {
        writeln!(out, "on {processors:<12} {}", told(*seconds))?;
    }
    writeln!(out, "on disk         {}, an eighth of it with gzip", size(*megabytes))?;
    if *shards == 1 {
        return writeln!(out, "\none machine is enough:\n  hammerstone survey {file}");
    }
    writeln!(
        out,
        "\nas an array of {shards}, each of about {}:",
        told(processor_hours * 3600.0 / *shards as f64)
    )?;
    writeln!(out, "  hammerstone survey {file} --shard {shards} -o part-$TASK.csv    in each task")?;
    writeln!(out, "  hammerstone survey --gather part-*.csv")
}
