//! `timings`: when each attack of a ruleset does what.

use std::io::Write;
use std::path::Path;

use crate::files::Authored;
use crate::{Failure, Outcome, files, output};

const HEADS: [&str; 9] =
    ["attack", "form", "charge", "wind-up", "windows", "recovery", "hands free", "total", "chain, reach"];

/// A row for each attack, in ticks; windows and chains by their first and last tick, counted from 1.
pub(crate) fn timings(path: &Path) -> Result<Outcome, Failure> {
    let rules = match files::authored(path)? {
        Authored::Rules(rules) => rules.ruleset,
        Authored::Scenario(scenario) => scenario.rules.ruleset,
    };
    let mut rows: Vec<[String; 9]> = vec![HEADS.map(str::to_owned)];
    for attack in rules.attacks() {
        let Some(id) = rules.find_attack(attack.name()) else { continue };
        let times = rules.timings(id);
        let or_dash = |text: Option<String>| text.unwrap_or_else(|| "-".to_owned());
        let windows: Vec<String> =
            times.windows.iter().map(|(first, last)| format!("{first}-{last}")).collect();
        let chain = times.chain.map(|(first, last, next)| format!("{first}-{last} to {next}, "));
        let reach = times.reach.map_or("by its bearer".to_owned(), |reach| format!("{reach:.2} m"));
        rows.push([
            attack.name().to_owned(),
            attack.form().name().to_owned(),
            or_dash(times.charge.map(|(least, most)| format!("{least} to {most}"))),
            or_dash(times.wind_up.map(|ticks| ticks.to_string())),
            if windows.is_empty() { "by markers".to_owned() } else { windows.join(" ") },
            times.recovery.to_string(),
            times.frees.to_string(),
            times.total.to_string(),
            format!("{}{reach}", chain.unwrap_or_default()),
        ]);
    }
    let mut out = output::open(None)?;
    output::written(writeln!(out, "{}: ticks of 1/{} s\n", path.display(), rules.rate()))?;
    let width = |column: usize| rows.iter().map(|row| row[column].chars().count()).max().unwrap_or(0);
    let widths: [usize; 9] = std::array::from_fn(width);
    for (i, row) in rows.iter().enumerate() {
        let mut line = String::new();
        for (column, (cell, width)) in row.iter().zip(widths).enumerate() {
            // Words to the left, numbers to the right.
            let cell = match column {
                3 | 5..=7 => format!("{cell:>width$}  "),
                _ => format!("{cell:width$}  "),
            };
            line.push_str(&cell);
        }
        let line = line.trim_end();
        output::written(if i == 0 {
            writeln!(out, "\x1b[1m{line}\x1b[0m")
        } else {
            writeln!(out, "{line}")
        })?;
    }
    output::written(out.flush())?;
    Ok(Outcome::Fine)
}
