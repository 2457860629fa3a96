//! `survey`: many seeds and values, in parallel, and what they came to.

use std::fs;
use std::io::{self, IsTerminal, Write};
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

use hammerstone_record::{Point, Ran, Running, Spread};
use hammerstone_scenario::{Decimal, Options, Play, Scenario, has_key, with_value};
use hammerstone_view::{Look, survey as picture};
use indicatif::{ProgressBar, ProgressStyle};
use miette::{IntoDiagnostic, WrapErr, miette};
use rayon::prelude::*;

use crate::args::{SurveyOptions, Varied};
use crate::files::Texts;
use crate::look::{ending, save};
use crate::{Failure, Outcome, files, output};

/// How many runs there may be.
const MOST_RUNS: usize = 1_000_000;
/// How many combatants the table has.
const MOST_FIGHTERS: usize = 24;

pub(crate) fn survey(path: Option<&Path>, options: &SurveyOptions) -> Result<Outcome, Failure> {
    if let Some(out) = &options.out {
        ending(out)?;
    }
    // A long survey is not lost for a folder that is not there.
    for file in options.csv.iter().chain(&options.out) {
        files::must_be_writable(file)?;
    }
    let texts = Texts::of(path)?;
    let points = crossed(&options.vary);
    let seeds = options.seeds as usize;
    if points.len().saturating_mul(seeds) > MOST_RUNS {
        return Err(miette!(
            help = "take fewer seeds, or larger steps",
            "{} values with {seeds} seeds each are more than {MOST_RUNS} runs",
            points.len()
        ));
    }
    let scenarios = points
        .iter()
        .map(|values| scenario(&texts, &options.vary, values))
        .collect::<Result<Vec<Scenario>, Failure>>()?;
    let stop = Arc::new(AtomicBool::new(false));
    let asked = Arc::clone(&stop);
    // Where no handler can be set the survey cannot be interrupted halfway, but for being ended.
    let _ = ctrlc::set_handler(move || asked.store(true, Ordering::Relaxed));
    let runs = run_all(&scenarios, options, &stop)?;
    let done: usize = runs.iter().map(Vec::len).sum();
    let wanted = points.len() * seeds;
    let names = |values: &[Decimal]| values.iter().map(Decimal::to_string).collect::<Vec<String>>();
    let found: Vec<Point> = points
        .iter()
        .zip(&runs)
        .filter_map(|(values, runs)| Point::of(names(values), &runs.iter().collect::<Vec<&Ran>>()))
        .collect();
    let title = &scenarios[0].title;
    let paths: Vec<&str> = options.vary.iter().map(|varied| varied.path.as_str()).collect();
    if let Some(file) = &options.csv {
        let text = csv(&paths, &points, &runs);
        fs::write(file, text).map_err(|error| files::unwritable(file, &error))?;
    }
    if let Some(out) = &options.out {
        let look = if options.dark { Look::DARK } else { Look::LIGHT };
        save(out, &picture(&found, &paths, title, &look))?;
    }
    let json = serde_json::json!({ "title": title, "varied": paths, "runs": done, "asked": wanted, "points": found });
    output::answer(options.format, &json, |out| text(out, title, &paths, &found))?;
    if done < wanted {
        output::complain(&miette!(
            severity = miette::Severity::Warning,
            "interrupted: {done} of {wanted} runs were made, and what they came to is kept"
        ));
    }
    Ok(Outcome::Fine)
}

/// Every value of each path with every value of the others; one point without any if nothing is varied.
fn crossed(vary: &[Varied]) -> Vec<Vec<Decimal>> {
    vary.iter().fold(vec![Vec::new()], |points, varied| {
        let with = |point: &Vec<Decimal>| {
            let with = |&value| point.iter().copied().chain([value]).collect::<Vec<Decimal>>();
            varied.values.iter().map(with).collect::<Vec<_>>()
        };
        points.iter().flat_map(with).collect()
    })
}

/// The fight with other values in its files.
fn scenario(texts: &Texts, vary: &[Varied], values: &[Decimal]) -> Result<Scenario, Failure> {
    let mut with = texts.copy();
    for (varied, &value) in vary.iter().zip(values) {
        let path = varied.path.as_str();
        let (file, text) = if has_key(&with.scenario.1, path) { &mut with.scenario } else { &mut with.rules };
        *text = with_value(text, path, value).map_err(|why| {
            miette!(
                help = format!("a path names keys of {file} or of the scenario, with dots between"),
                "{why}"
            )
        })?;
    }
    let of = || vary.iter().zip(values).map(|(varied, value)| format!("{} = {value}", varied.path));
    with.read().wrap_err_with(|| format!("with {}", of().collect::<Vec<String>>().join(", ")))
}

/// Every run of every point, in order of seeds; fewer if it is interrupted.
fn run_all(
    scenarios: &[Scenario],
    options: &SurveyOptions,
    stop: &AtomicBool,
) -> Result<Vec<Vec<Ran>>, Failure> {
    let seeds = options.seeds as usize;
    let threads = options.threads.map_or(0, usize::from);
    let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().into_diagnostic()?;
    let bar = if io::stderr().is_terminal() {
        ProgressBar::new((scenarios.len() * seeds) as u64)
    } else {
        ProgressBar::hidden()
    };
    if let Ok(style) = ProgressStyle::with_template("{bar:40} {pos} of {len} runs, {eta} left") {
        bar.set_style(style);
    }
    let one = |number: usize| -> Result<Option<Ran>, Failure> {
        if stop.load(Ordering::Relaxed) {
            return Ok(None);
        }
        let scenario = &scenarios[number / seeds];
        let seed = options.seed.unwrap_or(scenario.seed).wrapping_add((number % seeds) as u64);
        let mut play = Play::new(scenario, Options { seed: Some(seed), ..Options::default() });
        let mut running = Running::new();
        play.through(&mut [&mut running]).into_diagnostic()?;
        bar.inc(1);
        Ok(Some(running.finish(&play.encounter, &play.run.names, seed)))
    };
    let all: Vec<Option<Ran>> = pool
        .install(|| (0..scenarios.len() * seeds).into_par_iter().map(one).collect::<Result<_, Failure>>())?;
    bar.finish_and_clear();
    let mut runs: Vec<Vec<Ran>> = vec![Vec::new(); scenarios.len()];
    for (number, ran) in all.into_iter().enumerate() {
        runs[number / seeds].extend(ran);
    }
    Ok(runs)
}

const BY_POINT: [output::Column<'static>; 6] = [
    ("values", false),
    ("runs", true),
    ("how it ends", false),
    ("seconds", false),
    ("damage dealt", false),
    ("deaths", false),
];

const BY_FIGHTER: [output::Column<'static>; 6] = [
    ("who", false),
    ("there", true),
    ("died", true),
    ("after seconds", false),
    ("damage dealt", false),
    ("damage taken", false),
];

fn text(out: &mut dyn Write, title: &str, paths: &[&str], points: &[Point]) -> io::Result<()> {
    let runs: usize = points.iter().map(|point| point.runs).sum();
    writeln!(out, "{title}: {runs} runs")?;
    writeln!(out, "\x1b[2mspreads are the median, and p10 to p90 in brackets\x1b[0m")?;
    let share = |share: f64| format!("{:.0} %", share * 100.0);
    if !paths.is_empty() {
        writeln!(out, "\nvalues: {}", paths.join(", "))?;
    }
    let rows: Vec<[String; 6]> = points
        .iter()
        .map(|point| {
            let outcomes = point.outcomes.iter().map(|(name, of)| format!("{name} {}", share(*of)));
            let dealt = point.teams.iter().map(|team| format!("{} {}", team.name, spread(&team.dealt, 0)));
            let deaths = point.teams.iter().map(|team| format!("{} {}", team.name, spread(&team.deaths, 0)));
            let joined = |texts: Vec<String>| texts.join(", ");
            [
                if point.values.is_empty() { "as written".to_owned() } else { point.values.join(", ") },
                point.runs.to_string(),
                joined(outcomes.collect()),
                spread(&point.seconds, 2),
                joined(dealt.collect()),
                joined(deaths.collect()),
            ]
        })
        .collect();
    writeln!(out)?;
    output::table(out, &BY_POINT, &rows, "")?;
    let [point] = points else {
        return writeln!(out, "\n--format json has every combatant at each value, --csv every run");
    };
    let rows: Vec<[String; 6]> = point
        .fighters
        .iter()
        .take(MOST_FIGHTERS)
        .map(|fighter| {
            [
                fighter.name.clone(),
                share(fighter.there),
                share(fighter.died),
                fighter.time.as_ref().map_or("-".to_owned(), |time| spread(time, 2)),
                spread(&fighter.dealt, 0),
                spread(&fighter.taken, 0),
            ]
        })
        .collect();
    writeln!(out)?;
    output::table(out, &BY_FIGHTER, &rows, "")?;
    match point.fighters.len().saturating_sub(MOST_FIGHTERS) {
        0 => Ok(()),
        more => writeln!(out, "and {more} more; --format json has them all"),
    }
}

fn spread(spread: &Spread, decimals: usize) -> String {
    let Spread { low, middle, high, .. } = spread;
    if low == high {
        return format!("{middle:.decimals$}");
    }
    format!("{middle:.decimals$} ({low:.decimals$} to {high:.decimals$})")
}

/// A line for each run.
fn csv(paths: &[&str], points: &[Vec<Decimal>], runs: &[Vec<Ran>]) -> String {
    let quoted = |text: &str| {
        if text.contains([',', '"', '\n']) {
            format!("\"{}\"", text.replace('"', "\"\""))
        } else {
            text.to_owned()
        }
    };
    let mut heads: Vec<String> = paths.iter().map(|path| quoted(path)).collect();
    heads.extend(["seed", "outcome", "seconds", "hits"].map(str::to_owned));
    for team in runs.iter().flatten().next().map_or(&[][..], |ran| &ran.teams) {
        heads.extend(["dealt", "deaths", "standing"].map(|what| quoted(&format!("{} {what}", team.name))));
    }
    let mut text = heads.join(",") + "\n";
    for (values, runs) in points.iter().zip(runs) {
        for ran in runs {
            let mut cells: Vec<String> = values.iter().map(Decimal::to_string).collect();
            cells.extend([
                ran.seed.to_string(),
                quoted(&ran.outcome),
                format!("{:.4}", ran.seconds),
                ran.hits.to_string(),
            ]);
            for team in &ran.teams {
                cells.extend([team.dealt.to_string(), team.deaths.to_string(), team.stand.to_string()]);
            }
            text.push_str(&(cells.join(",") + "\n"));
        }
    }
    text
}
