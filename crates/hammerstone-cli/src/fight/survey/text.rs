//! What a survey came to, as tables, JSON and pictures.

use std::io::{self, Write};

use hammerstone_record::{Interval, MeansPoint, Point, Spread, Surveyed};
use hammerstone_view::{Look, survey as picture};
use serde_json::{Value, json};

use super::NO_TACTICS;
use super::found::{Found, of_fight};
use crate::args::{Out, SurveyOptions};
use crate::look::save;
use crate::{Failure, output};

/// How many combatants the table has.
const MOST_FIGHTERS: usize = 24;

/// Tells what all runs came to, for people or programs, and draws it; with a last word about the runs.
pub(super) fn answer(
    survey: &Surveyed,
    found: &Found<'_>,
    options: &SurveyOptions,
    last: Option<String>,
) -> Result<(), Failure> {
    let look = if options.dark { Look::DARK } else { Look::LIGHT };
    for (number, (fight, points)) in survey.fights.iter().zip(&found.points).enumerate() {
        if let Some(out) = &options.out {
            let varied: Vec<&str> = fight.varied.iter().map(String::as_str).collect();
            save(&of_fight(out, survey, number), &picture(points, &varied, &fight.title, &look))?;
        }
    }
    let fights = || survey.fights.iter().zip(&found.points);
    let one = |(fight, points): (&hammerstone_record::SurveyedFight, &Vec<Point>)| {
        let runs: usize = points.iter().map(|point| point.runs).sum();
        json!({ "title": fight.title, "tactics": fight.tactics, "varied": fight.varied, "runs": runs, "asked": fight.runs(), "points": points })
    };
    let json = match survey.sweep {
        false => fights().next().map_or(Value::Null, one),
        true => {
            let named = fights().map(|(fight, points)| {
                let mut told = json!({ "fight": fight.name });
                if let (Some(told), Value::Object(rest)) = (told.as_object_mut(), one((fight, points))) {
                    told.extend(rest);
                }
                told
            });
            json!({ "title": survey.title, "runs": found.runs, "asked": survey.runs(), "fights": named.collect::<Vec<Value>>() })
        }
    };
    output::answer((options.format, &Out::default()), &json, |out| {
        if survey.sweep {
            let count = survey.fights.len();
            let fights = if count == 1 { "fight" } else { "fights" };
            writeln!(out, "{}: {count} {fights}, {} runs\n", survey.title, found.runs)?;
        }
        for (number, (fight, points)) in fights().enumerate() {
            if number > 0 {
                writeln!(out)?;
            }
            table(out, &fight.title, &fight.varied, points)?;
            if !fight.tactics {
                writeln!(out, "\n{NO_TACTICS}")?;
            }
        }
        last.iter().try_for_each(|last| writeln!(out, "\n{last}"))
    })
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

fn table(out: &mut dyn Write, title: &str, paths: &[String], points: &[Point]) -> io::Result<()> {
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
    // What was not kept of the runs has no table.
    if !rows.is_empty() {
        writeln!(out)?;
        output::table(out, &BY_FIGHTER, &rows, "")?;
    }
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
    if point.means.is_empty() {
        return Ok(());
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
