//! `explain --attacker --target`: the outcome of each swing, why a gate refused, and the distance of a miss.

use std::io::{self, Write};

use hammerstone_record::Record;
use hammerstone_record::{Near, RefusedStart, Results, SwingResult, SwingResults, TargetResult};
use miette::miette;
use serde::Serialize;

use crate::args::ExplainOptions;
use crate::source::Fight;
use crate::{Failure, Outcome, files, output};

/// How many tries are written before the rest is counted.
const MOST: usize = 40;

pub(crate) fn swing_results(fight: &Fight, options: &ExplainOptions) -> Result<Outcome, Failure> {
    let (attacker, target) = (options.attacker.as_deref(), options.target.as_deref());
    let mut play = fight.play(false)?;
    let mut swing_results = SwingResults::new(attacker, target);
    let mut ticks = 0;
    while play.tick()? {
        swing_results.observe(&play.seen());
        ticks = play.seen().clock;
    }
    for name in [attacker, target].into_iter().flatten() {
        if !swing_results.joined().any(|joined| joined == name) {
            return Err(files::unknown(name, swing_results.joined()));
        }
    }
    let last = f64::from(ticks) / f64::from(fight.rules().rate());
    let (from, to) = options.at.map(|at| (at, at)).or(options.between).unwrap_or((0.0, last));
    if from > last {
        let help = format!("name a time from 0 to {last:.2}");
        return Err(miette!(help = help, "the fight is over before {from} s"));
    }
    let all = swing_results.finish(play.encounter());
    let chosen = Chosen {
        swings: all.swings.iter().filter(|one| one.runs_between(from, to)).collect(),
        refused_starts: all.refused_starts.iter().filter(|one| one.is_between(from, to)).collect(),
    };
    let asked = options.at.is_some() || options.between.is_some();
    let heading = heading(attacker, target, asked.then_some((from, to)));
    output::answer((options.format, &options.out), &chosen, |out| {
        text(out, (attacker, target), &heading, &chosen, &all)
    })?;
    Ok(Outcome::Fine)
}

/// The results of the time that is asked about.
#[derive(Serialize)]
struct Chosen<'a> {
    swings: Vec<&'a SwingResult>,
    refused_starts: Vec<&'a RefusedStart>,
}

fn heading(attacker: Option<&str>, target: Option<&str>, span: Option<(f64, f64)>) -> String {
    let mut text = match (attacker, target) {
        (Some(attacker), Some(target)) => format!("{attacker} at {target}"),
        (Some(attacker), None) => attacker.to_owned(),
        (None, Some(target)) => format!("everyone at {target}"),
        (None, None) => "everyone".to_owned(),
    };
    match span {
        Some((from, to)) if from == to => text.push_str(&format!(", at {from:.2}s")),
        Some((from, to)) => text.push_str(&format!(", between {from:.2}s and {to:.2}s")),
        None => {}
    }
    text
}

fn count(number: usize, one: &str, several: &str) -> String {
    match number {
        0 => format!("no {one}"),
        1 => format!("1 {one}"),
        number => format!("{number} {several}"),
    }
}

fn text(
    out: &mut dyn Write,
    (attacker, target): (Option<&str>, Option<&str>),
    heading: &str,
    chosen: &Chosen<'_>,
    all: &Results,
) -> io::Result<()> {
    let Chosen { swings, refused_starts } = chosen;
    write!(out, "{heading}: {}", count(swings.len(), "swing", "swings"))?;
    let refused: usize = refused_starts.iter().map(|one| one.times as usize).sum();
    if refused > 0 {
        write!(out, ", {}", count(refused, "start refused", "starts refused"))?;
    }
    writeln!(out)?;
    if swings.is_empty() && refused_starts.is_empty() {
        let times: Vec<String> = all.swings.iter().take(12).map(|one| format!("{:.2}s", one.from)).collect();
        let later = if all.swings.len() > 12 { ", and later" } else { "" };
        return match times.is_empty() {
            true if target.is_some() && attacker.is_none() => {
                writeln!(out, "no swing met it; with --attacker also how near those of one came")
            }
            true => writeln!(out, "none in the whole fight, and none was refused"),
            false => writeln!(out, "swings begin at {}{later}", times.join(", ")),
        };
    }
    let mut starts = refused_starts.iter().peekable();
    for one in swings.iter().take(MOST) {
        while let Some(refused) = starts.next_if(|refused| refused.from <= one.from) {
            write_refused(out, refused)?;
        }
        write_one(out, one)?;
    }
    if swings.len() > MOST {
        return writeln!(
            out,
            "\nand {} more; name --attacker, --target, --at or --between",
            swings.len() - MOST
        );
    }
    starts.try_for_each(|refused| write_refused(out, refused))
}

fn write_refused(out: &mut dyn Write, one: &RefusedStart) -> io::Result<()> {
    let RefusedStart { attacker, attack, from, to, times, why, until, .. } = one;
    let (times, when) = match times {
        1 => ("".to_owned(), format!("{from:.2}s")),
        times => (format!(" {times} times"), format!("{from:.2} to {to:.2}s")),
    };
    writeln!(out, "\n\x1b[1m{when}: {attacker} does not start {attack}\x1b[0m, refused{times}: {why}")?;
    match until {
        Some(until) => writeln!(out, "  from {until:.2}s on it could, if nothing else came between"),
        None => Ok(()),
    }
}

fn write_one(out: &mut dyn Write, one: &SwingResult) -> io::Result<()> {
    let SwingResult { swing, attack, attacker, from, to, windows, outcome, targets, rewound, .. } = one;
    let until = to.map_or("the end".to_owned(), |to| format!("{to:.2}s"));
    let open: Vec<String> = windows.iter().map(|(from, to)| format!("{from:.2} to {to:.2}s")).collect();
    let open = if open.is_empty() { "never open".to_owned() } else { format!("open {}", open.join(", ")) };
    writeln!(out, "\n\x1b[1m{from:.2}s: {attacker}'s {attack}: {outcome}\x1b[0m")?;
    writeln!(out, "  \x1b[2mswing {swing}, {from:.2}s to {until}, {open}\x1b[0m")?;
    if let Some(ticks) = rewound {
        writeln!(out, "  {}", rewound_by(*ticks))?;
    }
    targets.iter().try_for_each(|target| write_target(out, target, outcome))
}

fn write_target(out: &mut dyn Write, one: &TargetResult, whole: &str) -> io::Result<()> {
    let TargetResult { target, answers, near, outcome, fix, also, .. } = one;
    if outcome == whole {
        writeln!(out, "  at {target}")?;
    } else {
        writeln!(out, "  \x1b[1m{target}\x1b[0m: {outcome}")?;
    }
    for answer in answers {
        let (time, part) = (answer.time, &answer.part);
        match (answer.hit, answer.gate, &answer.wanted, &answer.found) {
            (Some(hit), ..) => {
                writeln!(out, "    {time:>6.2}s * hit {hit}, on the {part}; explain it with --hit {hit}")?
            }
            (None, Some(gate), Some(wanted), Some(found)) => {
                writeln!(
                    out,
                    "    {time:>6.2}s o refused on the {part}, by the gate {gate}: wanted {wanted}, found {found}"
                )?;
            }
            _ => {}
        }
        if let Some(fix) = &answer.fix {
            writeln!(out, "            to let it pass: {fix}")?;
        }
    }
    near.iter().try_for_each(|near| write_near(out, near))?;
    if let Some(fix) = fix.as_ref().filter(|_| answers.is_empty()) {
        writeln!(out, "    to let it strike: {fix}")?;
    }
    also.iter().try_for_each(|also| writeln!(out, "    also, {also}"))
}

/// Says that a swing is tested against the past.
pub(super) fn rewound_by(ticks: u16) -> String {
    let ticks = if ticks == 1 { "1 tick".to_owned() } else { format!("{ticks} ticks") };
    format!("rewound by {ticks}: tested against where its target was then")
}

fn write_near(out: &mut dyn Write, near: &Near) -> io::Result<()> {
    let Near { obstacle, time, distance, hitbox, body, part, layer, .. } = near;
    let which = match *obstacle {
        "window" => "with no window open".to_owned(),
        "layer" => format!("open, but not for the layer {layer}"),
        _ => "open".to_owned(),
    };
    let body = body.map_or(String::new(), |body| format!(" of body {body}"));
    let apart = if *distance <= 0.0 { "overlapped".to_owned() } else { format!("{distance:.2} m apart") };
    writeln!(out, "    {time:>6.2}s   nearest {which}: hitbox {hitbox}{body} and the {part}, {apart}")
}
