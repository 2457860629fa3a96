//! `timings`: when each attack of a ruleset does what.

use std::io::Write;
use std::path::Path;

use super::skeleton;
use crate::args::FrameOptions;
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
pub(crate) fn timings(path: &Path, frame: FrameOptions) -> Result<Outcome, Failure> {
    if files::is_skeleton(path) {
        return skeleton::timings(path, frame);
    }
    let file = match files::authored(path)? {
        Authored::Ruleset(rules) => *rules,
        Authored::Scenario(scenario) => scenario.rules,
    };
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
    let mut out = output::open(None)?;
    output::written(writeln!(out, "{}: ticks of 1/{} s\n", path.display(), rules.rate()))?;
    output::written(output::table(&mut out, &HEADS, &rows, ""))?;
    output::written(skeleton::animated(&mut out, &file))?;
    output::written(out.flush())?;
    Ok(Outcome::Fine)
}
