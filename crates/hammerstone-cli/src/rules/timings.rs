//! `timings`: when each attack of a ruleset does what.

use std::io::{self, Write};
use std::path::Path;

use super::{matchups, skeleton};
use crate::args::{FrameOptions, TableFormat, TimingsOptions};
use crate::files::Authored;
use crate::{Failure, Outcome, files, output};

const HEADS: [output::Column<'static>; 10] = [
    ("attack", false),
    ("form", false),
    ("charge", false),
    ("startup", true),
    ("windows", false),
    ("recovery", true),
    ("hands free", true),
    ("total", true),
    ("advantage", true),
    ("chain, reach", false),
];

/// A row for each attack, in ticks; windows and chains by their first and last tick, counted from 1. The advantage is by how many
/// ticks the stun of a hit outlasts the attacker's bound hands.
///
/// Of a skeleton's file: its joints and its animations.
pub(crate) fn timings(
    path: &Path,
    frame: FrameOptions,
    options: &TimingsOptions,
) -> Result<Outcome, Failure> {
    if files::is_skeleton(path) {
        return skeleton::timings(path, frame);
    }
    let file = match files::authored(path)? {
        Authored::Ruleset(rules) => *rules,
        Authored::Scenario(scenario) => scenario.rules,
    };
    if options.matchups {
        return matchups::matchups(path, &file, options);
    }
    let rules = &file.ruleset;
    let mut rows: Vec<[String; 10]> = Vec::new();
    for attack in rules.attacks() {
        let Some(id) = rules.find_attack(attack.name()) else { continue };
        let Some(times) = rules.timings(id) else { continue };
        let or_dash = |text: Option<String>| text.unwrap_or_else(|| "-".to_owned());
        let windows: Vec<String> =
            times.windows.iter().map(|(first, last)| format!("{first}-{last}")).collect();
        let early = if times.is_cut_off() { " (before it strikes)" } else { "" };
        let chain = times.chain.map(|(first, last, next)| format!("{first}-{last} to {next}{early}, "));
        let reach = times.reach.map_or("by its bearer".to_owned(), |reach| format!("{reach:.2} m"));
        rows.push([
            attack.name().to_owned(),
            attack.form().name().to_owned(),
            or_dash(times.charge.map(|(least, most)| format!("{least} to {most}"))),
            or_dash(times.startup.map(|ticks| ticks.to_string())),
            if windows.is_empty() { "by markers".to_owned() } else { windows.join(" ") },
            times.recovery.to_string(),
            times.frees.to_string(),
            times.total.to_string(),
            or_dash(times.advantage.map(|ticks| format!("{ticks:+}"))),
            format!("{}{reach}", chain.unwrap_or_default()),
        ]);
    }
    let heading = format!("{}: ticks of 1/{} s\n", path.display(), rules.rate());
    written(options, &heading, &HEADS, &rows, &|out| skeleton::animated(out, &file))?;
    Ok(Outcome::Fine)
}

/// Writes a table in the format that is asked for; in text under a heading, and with what comes after it.
pub(super) fn written<const CELLS: usize>(
    options: &TimingsOptions,
    heading: &str,
    heads: &[output::Column<'_>; CELLS],
    rows: &[[String; CELLS]],
    after: &dyn Fn(&mut dyn Write) -> io::Result<()>,
) -> Result<(), Failure> {
    let to = options.out.out.as_deref();
    let mut out = match options.format {
        TableFormat::Text => output::open(to)?,
        TableFormat::Json | TableFormat::Csv => output::open_plain(to)?,
    };
    let written = match options.format {
        TableFormat::Text => writeln!(out, "{heading}")
            .and_then(|()| output::table(&mut out, heads, rows, ""))
            .and_then(|()| after(&mut out)),
        TableFormat::Json => {
            let row = |row: &[String; CELLS]| {
                let cells = heads.iter().zip(row).map(|((head, _), cell)| ((*head).to_owned(), value(cell)));
                serde_json::Value::Object(cells.collect())
            };
            let rows: Vec<serde_json::Value> = rows.iter().map(row).collect();
            serde_json::to_writer_pretty(&mut out, &rows)
                .map_err(io::Error::from)
                .and_then(|()| writeln!(out))
        }
        TableFormat::Csv => {
            let line = |cells: &mut dyn Iterator<Item = &str>| {
                cells.map(output::quoted).collect::<Vec<_>>().join(",")
            };
            writeln!(out, "{}", line(&mut heads.iter().map(|(head, _)| *head))).and_then(|()| {
                rows.iter().try_for_each(|row| writeln!(out, "{}", line(&mut row.iter().map(String::as_str))))
            })
        }
    };
    output::written(written.and_then(|()| out.flush()))?;
    if let Some(path) = to {
        output::wrote("the table", path);
    }
    Ok(())
}

/// A cell for programs: a number where it is one, and nothing for a dash.
fn value(cell: &str) -> serde_json::Value {
    match cell.parse::<f64>() {
        _ if cell == "-" => serde_json::Value::Null,
        Ok(number) if number.fract() == 0.0 && number.abs() < 1.0e15 => (number as i64).into(),
        Ok(number) => number.into(),
        Err(_) => cell.into(),
    }
}
