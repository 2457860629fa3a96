//! `survey`: many seeds and values, in parallel, and what they came to.

use std::fs;
use std::io::{self, Write};
use std::sync::atomic::{AtomicBool, Ordering};

use hammerstone_record::{Interval, MeansPoint, Point, Ran, Running, Spread};
use hammerstone_scenario::{Decimal, Options, Play, Scenario, check_rules, with_literal, with_value};
use hammerstone_view::{Look, survey as picture};
use miette::{IntoDiagnostic, WrapErr, miette};
use rayon::prelude::*;

use crate::args::{Asked, Out, SurveyOptions, Varied, With};
use crate::files::Texts;
use crate::look::{ending, save};
use crate::{Failure, Outcome, files, output, progress};

/// How many runs there may be.
const MOST_RUNS: usize = 1_000_000;
/// What is said of a fight in which all goes by legs and script.
pub(crate) const NO_TACTICS: &str = "no combatant reacts: this fight has no [tactics], so all goes by legs and script, and only rolls differ from run to run";
/// How many combatants the table has.
const MOST_FIGHTERS: usize = 24;

pub(crate) fn survey(asked: &Asked, options: &SurveyOptions) -> Result<Outcome, Failure> {
    if let Some(out) = &options.out {
        ending(out)?;
    }
    // A long survey is not lost for a folder that is not there.
    for file in options.csv.iter().chain(&options.out) {
        files::must_be_writable(file)?;
    }
    let with = &asked.with;
    let texts = Texts::of(Some(&asked.file), with)?;
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
    warn_of_paths(&scenarios, &options.vary, &points);
    let stop = progress::stop();
    let runs = run_all(&scenarios, options, with, &stop)?;
    let done: usize = runs.iter().map(Vec::len).sum();
    let wanted = points.len() * seeds;
    let found: Vec<Point> = points
        .iter()
        .zip(&runs)
        .filter_map(|(values, runs)| Point::of(values.clone(), &runs.iter().collect::<Vec<&Ran>>()))
        .collect();
    let title = &scenarios[0].title;
    let paths: Vec<&str> = options.vary.iter().map(|varied| varied.path.as_str()).collect();
    if let Some(file) = &options.csv {
        let text = csv(&paths, &points, &runs);
        fs::write(file, text).map_err(|error| files::unwritable(file, &error))?;
        output::wrote("every run", file);
    }
    if let Some(out) = &options.out {
        let look = if options.dark { Look::DARK } else { Look::LIGHT };
        save(out, &picture(&found, &paths, title, &look))?;
    }
    let json = serde_json::json!({ "title": title, "tactics": scenarios[0].has_tactics(), "varied": paths, "runs": done, "asked": wanted, "points": found });
    output::answer((options.format, &Out::default()), &json, |out| {
        text(out, title, &paths, &found)?;
        if !scenarios[0].has_tactics() {
            writeln!(out, "\n{NO_TACTICS}")?;
        }
        match options.until {
            Some(until) if done < wanted => writeln!(
                out,
                "\nevery share is known to within {} % after {done} of {wanted} runs",
                (until * 1000.0).round() / 10.0
            ),
            _ => Ok(()),
        }
    })?;
    if done < wanted && stop.load(Ordering::Relaxed) {
        output::complain(&miette!(
            severity = miette::Severity::Warning,
            "interrupted: {done} of {wanted} runs were made, and what they came to is kept"
        ));
    }
    Ok(Outcome::Fine)
}

/// Says where a varied value leaves a path beside its windows: what comes of it is a swing that sweeps while it is closed.
fn warn_of_paths(scenarios: &[Scenario], vary: &[Varied], points: &[Vec<String>]) {
    if vary.is_empty() {
        return;
    }
    let beside = |scenario: &Scenario| {
        let mut doubts = check_rules(&scenario.rules).into_iter();
        doubts.find(|doubt| doubt.finding.number == BESIDE).map(|doubt| doubt.message)
    };
    let found: Vec<(&Vec<String>, String)> = points
        .iter()
        .zip(scenarios)
        .filter_map(|(values, scenario)| Some((values, beside(scenario)?)))
        .collect();
    if let Some((values, message)) = found.first().filter(|_| found.len() < points.len()) {
        let of = vary.iter().zip(values.iter()).map(|(varied, value)| format!("{} = {value}", varied.path));
        output::complain(&miette!(
            severity = miette::Severity::Warning,
            help = "move the keys of the path by as much, or vary them too",
            "with {}, and at {} of {} values in all, {message}",
            of.collect::<Vec<String>>().join(", "),
            found.len(),
            points.len()
        ));
    }
}

/// The finding about paths beside their windows.
const BESIDE: u16 = 28;

/// Every value of each path with every value of the others; one point without any if nothing is varied.
fn crossed(vary: &[Varied]) -> Vec<Vec<String>> {
    vary.iter().fold(vec![Vec::new()], |points, varied| {
        let with = |point: &Vec<String>| {
            let with = |value: &String| point.iter().chain([value]).cloned().collect::<Vec<String>>();
            varied.values.iter().map(with).collect::<Vec<_>>()
        };
        points.iter().flat_map(with).collect()
    })
}

/// The fight with other values in its files.
fn scenario(texts: &Texts, vary: &[Varied], values: &[String]) -> Result<Scenario, Failure> {
    let mut with = texts.copy();
    for (varied, value) in vary.iter().zip(values) {
        let path = varied.path.as_str();
        // A number keeps the unit that stands there.
        with.set(path, |text| match Decimal::parse(value) {
            Some(number) => with_value(text, path, number),
            None => with_literal(text, path, value),
        })?;
    }
    let of = || vary.iter().zip(values).map(|(varied, value)| format!("{} = {value}", varied.path));
    with.read().wrap_err_with(|| format!("with {}", of().collect::<Vec<String>>().join(", ")))
}

/// How many seeds of each point run before it is looked at whether that is enough.
const BATCH: usize = 50;

/// Every run of every point, in order of seeds; fewer if it is interrupted, or if every share is known well enough.
fn run_all(
    scenarios: &[Scenario],
    options: &SurveyOptions,
    with: &With,
    stop: &AtomicBool,
) -> Result<Vec<Vec<Ran>>, Failure> {
    let seeds = options.seeds as usize;
    let bar = progress::bar((scenarios.len() * seeds) as u64, "runs");
    let pool = pool(options.threads)?;
    let mut runs: Vec<Vec<Ran>> = vec![Vec::new(); scenarios.len()];
    let step = if options.until.is_some() { BATCH } else { seeds };
    let mut from = 0;
    while from < seeds && !stop.load(Ordering::Relaxed) {
        let to = (from + step).min(seeds);
        let wanted: Vec<(usize, usize)> = match options.until {
            None => {
                (0..scenarios.len()).flat_map(|point| (from..to).map(move |seed| (point, seed))).collect()
            }
            Some(until) => (0..scenarios.len())
                .filter(|&point| !is_known(&runs[point], until))
                .flat_map(|point| (from..to).map(move |seed| (point, seed)))
                .collect(),
        };
        if wanted.is_empty() {
            break;
        }
        let one = |&(point, number): &(usize, usize)| -> Result<Option<Ran>, Failure> {
            if stop.load(Ordering::Relaxed) {
                return Ok(None);
            }
            let ran = ran(&scenarios[point], number, with)?;
            bar.inc(1);
            Ok(Some(ran))
        };
        let all: Vec<Option<Ran>> =
            pool.install(|| wanted.par_iter().map(one).collect::<Result<_, Failure>>())?;
        for ((point, _), ran) in wanted.iter().zip(all) {
            runs[*point].extend(ran);
        }
        from = to;
    }
    bar.finish_and_clear();
    Ok(runs)
}

/// Whether the share of each outcome is known to within so much, at 95 %.
fn is_known(runs: &[Ran], until: f64) -> bool {
    let point = Point::of(Vec::new(), &runs.iter().collect::<Vec<_>>());
    point.is_some_and(|point| point.outcomes.iter().all(|one| one.interval.half() <= until))
}

/// So many threads; as many as there are processors, if it is not said.
pub(crate) fn pool(threads: Option<u16>) -> Result<rayon::ThreadPool, Failure> {
    let threads = threads.map_or(0, usize::from);
    rayon::ThreadPoolBuilder::new().num_threads(threads).build().into_diagnostic()
}

/// One run of a scenario, with so many seeds beyond the first.
pub(crate) fn ran(scenario: &Scenario, number: usize, with: &With) -> Result<Ran, Failure> {
    let seed = with.seed.unwrap_or(scenario.seed).wrapping_add(number as u64);
    let mut play = Play::new(scenario, Options { seed: Some(seed), ticks: with.ticks, ..Options::default() });
    let mut running = Running::new();
    play.through(&mut [&mut running]).into_diagnostic()?;
    Ok(running.finish(&play.encounter, &play.run.names, seed))
}

const BY_POINT: [output::Column<'static>; 6] = [
    ("values", false),
    ("runs", true),
    ("how it ends", false),
    ("seconds", false),
    ("damage dealt", false),
    ("deaths", false),
];

const BY_FIGHTER: [output::Column<'static>; 7] = [
    ("who", false),
    ("there", true),
    ("died", true),
    ("after seconds", false),
    ("damage dealt", false),
    ("damage taken", false),
    ("stunned for seconds", false),
];

const BY_DEATH: [output::Column<'static>; 3] =
    [("who", false), ("killed in seconds", false), ("died of", false)];

const BY_MEANS: [output::Column<'static>; 9] = [
    ("by", false),
    ("of team", false),
    ("starts", true),
    ("hits", true),
    ("landed", true),
    ("dodged", true),
    ("blocked", true),
    ("damage", true),
    ("kills, overkill", true),
];

fn text(out: &mut dyn Write, title: &str, paths: &[&str], points: &[Point]) -> io::Result<()> {
    let runs: usize = points.iter().map(|point| point.runs).sum();
    writeln!(out, "{title}: {runs} runs")?;
    writeln!(
        out,
        "\x1b[2mshares with their 95 % interval in brackets; numbers are the median, and p10 to p90\x1b[0m"
    )?;
    let share = |share: f64| format!("{:.0} %", share * 100.0);
    if !paths.is_empty() {
        writeln!(out, "\nvalues: {}", paths.join(", "))?;
    }
    let rows: Vec<[String; 6]> = points
        .iter()
        .map(|point| {
            let outcomes = point.outcomes.iter().map(|one| {
                let Interval { low, high } = one.interval;
                format!("{} {} ({:.0} to {:.0})", one.name, share(one.share), low * 100.0, high * 100.0)
            });
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
    let rows: Vec<[String; 7]> = point
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
                spread(&fighter.stunned, 2),
            ]
        })
        .collect();
    writeln!(out)?;
    output::table(out, &BY_FIGHTER, &rows, "")?;
    let killed = point.fighters.iter().take(MOST_FIGHTERS).filter_map(|fighter| {
        let time = fighter.time_to_kill.as_ref()?;
        Some([fighter.name.clone(), spread(time, 2), died_of(&fighter.died_of)])
    });
    let rows: Vec<[String; 3]> = killed.collect();
    if !rows.is_empty() {
        writeln!(out, "\n\x1b[2mtime to kill: from the first damage to the first death\x1b[0m")?;
        output::table(out, &BY_DEATH, &rows, "")?;
    }
    match point.fighters.len().saturating_sub(MOST_FIGHTERS) {
        0 => {}
        more => writeln!(out, "and {more} more; --format json has them all")?,
    }
    writeln!(
        out,
        "\n\x1b[2mwhat was used, as means over the runs. landed: the share of its swings that hit; dodged, blocked: of the times that it reached a target\x1b[0m"
    )?;
    let rows: Vec<[String; 9]> = point.means.iter().take(MOST_FIGHTERS).map(by_means).collect();
    output::table(out, &BY_MEANS, &rows, "")?;
    match point.means.len().saturating_sub(MOST_FIGHTERS) {
        0 => Ok(()),
        more => writeln!(out, "and {more} more; --format json has them all"),
    }
}

fn percent(share: f64) -> String {
    format!("{:.0} %", share * 100.0)
}

/// The three most frequent means, with their shares.
fn died_of(of: &[(String, f64)]) -> String {
    let shown: Vec<String> =
        of.iter().take(3).map(|(name, share)| format!("{name} {}", percent(*share))).collect();
    if shown.is_empty() { "-".to_owned() } else { shown.join(", ") }
}

fn by_means(means: &MeansPoint) -> [String; 9] {
    let share = |share: Option<f64>| share.map_or("-".to_owned(), percent);
    // What strikes no one has no rates.
    let strikes = means.hits > 0.0 || means.dealt > 0.0 || means.dodged.is_some();
    let rate = |of: Option<f64>| if strikes { share(of) } else { "-".to_owned() };
    let team = if means.team.is_empty() { "-" } else { &means.team };
    let number = |number: f64| if number > 0.0 { format!("{number:.1}") } else { "-".to_owned() };
    let damage = if means.dealt > 0.0 {
        format!("{:.1} ({})", means.dealt, percent(means.of_team))
    } else {
        "-".to_owned()
    };
    let kills = match means.overkill.filter(|_| means.kills > 0.0) {
        Some(overkill) => format!("{:.2}, {}", means.kills, percent(overkill)),
        None => number(means.kills),
    };
    [
        if means.sort == "attack" { means.name.clone() } else { format!("{} ({})", means.name, means.sort) },
        team.to_owned(),
        number(means.starts),
        number(means.hits),
        rate(means.landed),
        rate(means.dodged),
        rate(means.blocked),
        damage,
        kills,
    ]
}

fn spread(spread: &Spread, decimals: usize) -> String {
    let Spread { low, middle, high, .. } = spread;
    if low == high {
        return format!("{middle:.decimals$}");
    }
    format!("{middle:.decimals$} ({low:.decimals$} to {high:.decimals$})")
}

/// A line for each run.
fn csv(paths: &[&str], points: &[Vec<String>], runs: &[Vec<Ran>]) -> String {
    let mut heads: Vec<String> = paths.iter().map(|path| output::quoted(path)).collect();
    heads.extend(["seed", "outcome", "seconds", "hits"].map(str::to_owned));
    for team in runs.iter().flatten().next().map_or(&[][..], |ran| &ran.teams) {
        heads.extend(
            ["dealt", "deaths", "standing"].map(|what| output::quoted(&format!("{} {what}", team.name))),
        );
    }
    let mut text = heads.join(",") + "\n";
    for (values, runs) in points.iter().zip(runs) {
        for ran in runs {
            let mut cells: Vec<String> = values.iter().map(|value| output::quoted(value)).collect();
            cells.extend([
                ran.seed.to_string(),
                output::quoted(&ran.outcome),
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
