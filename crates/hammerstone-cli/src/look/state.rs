//! `explain --state`: how everything stands at a time, or what changed between two.

use std::io::{self, Write};

use hammerstone_record::{StateChange, StateLine, StateTable};
use miette::miette;

use crate::args::ExplainOptions;
use crate::source::Fight;
use crate::{Failure, Outcome, output};

pub(crate) fn state(fight: &Fight, options: &ExplainOptions) -> Result<Outcome, Failure> {
    if let (Some(at), Some(since)) = (options.at, options.since)
        && since > at
    {
        let help = "give `--since` a time before that of `--at`";
        return Err(miette!(help = help, "{since} s is later than {at} s"));
    }
    let rules = fight.rules();
    let tick_of = |seconds: f64| rules.ticks(seconds).max(1);
    let mut play = fight.play(false)?;
    let (mut before, mut now) = (None, None);
    while play.tick()? {
        let clock = play.seen().clock;
        if options.since.is_some_and(|since| clock == tick_of(since)) {
            before = Some(StateTable::of(&play.seen()));
        }
        // Where no time is asked for, the last is.
        if options.at.is_none_or(|at| clock == tick_of(at)) {
            now = Some(StateTable::of(&play.seen()));
        }
    }
    let over = || miette!(help = "leave it out for the end", "the fight is over by then");
    let now = now.ok_or_else(over)?;
    match options.since {
        None => output::answer((options.format, &options.out), &now, |out| table(out, fight, &now))?,
        Some(_) => {
            let before = before.ok_or_else(over)?;
            let changes = now.since(&before);
            output::answer((options.format, &options.out), &changes, |out| {
                difference(out, fight, [&before, &now], &changes)
            })?;
        }
    }
    Ok(Outcome::Fine)
}

fn table(out: &mut dyn Write, fight: &Fight, table: &StateTable) -> io::Result<()> {
    writeln!(out, "{}, at {:.2} s\n", fight.title(), table.time)?;
    let columns = [("of", false), ("what", false), ("is", false)];
    let mut last = None;
    let rows: Vec<[String; 3]> = table
        .lines
        .iter()
        .map(|StateLine { of, what, value }| [named(of, &mut last), what.clone(), value.clone()])
        .collect();
    output::table(out, &columns, &rows, "")
}

fn difference(
    out: &mut dyn Write,
    fight: &Fight,
    [before, now]: [&StateTable; 2],
    changes: &[StateChange],
) -> io::Result<()> {
    writeln!(out, "{}, from {:.2} s to {:.2} s\n", fight.title(), before.time, now.time)?;
    if changes.is_empty() {
        return writeln!(out, "everything stands as it did");
    }
    let columns = [("of", false), ("what", false), ("was", false), ("is", false)];
    let mut last = None;
    let or_none = |value: &Option<String>| value.clone().unwrap_or_else(|| "-".to_owned());
    let rows: Vec<[String; 4]> = changes
        .iter()
        .map(|StateChange { of, what, before, now }| {
            [named(of, &mut last), what.clone(), or_none(before), or_none(now)]
        })
        .collect();
    output::table(out, &columns, &rows, "")
}

/// The name of the one of whom a row is, once for rows that follow each other.
fn named<'a>(of: &'a Option<String>, last: &mut Option<&'a str>) -> String {
    let name = of.as_deref().unwrap_or("encounter");
    if last.replace(name) == Some(name) { String::new() } else { name.to_owned() }
}
