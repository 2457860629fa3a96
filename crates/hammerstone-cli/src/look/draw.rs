//! `draw`: the timeline of a fight, one tick of it, or a swing tick by tick, as a picture.

use std::fs;
use std::path::Path;

use hammerstone_record::{Frame, Lane, Lanes, Sort, Swung};
use hammerstone_view::{Look, frame, png, strip, timeline};
use miette::{IntoDiagnostic, miette};

use super::wiring;
use crate::args::{Asked, DrawOptions};
use crate::part;
use crate::source::Fight;
use crate::{Failure, Outcome, files, output};

/// How many times as large as the SVG a PNG is.
const SCALE: f32 = 1.0;

pub(crate) fn draw(asked: &Asked, options: &DrawOptions) -> Result<Outcome, Failure> {
    let path = asked.file.as_path();
    let out = options.out.as_path();
    ending(out)?;
    let look = if options.dark { Look::DARK } else { Look::LIGHT };
    if files::is_skeleton(path) {
        if options.at.is_some() || options.strip.is_some() || options.timeline || options.wiring {
            return Err(miette!(
                help = "leave --at, --strip, --timeline and --wiring out, or name a scenario that plays it",
                "{} is a skeleton's file, and has no fight to draw",
                path.display()
            ));
        }
        let skeleton = files::skeleton(path, options.frame)?;
        let title = path.file_name().unwrap_or_default().to_string_lossy();
        save(out, &hammerstone_view::skeleton(&skeleton, &title, &look))?;
        return Ok(Outcome::Fine);
    }
    let fight = Fight::of(asked)?;
    let title = fight.title();
    let svg = match (options.at, options.strip) {
        (Some(time), None) => frame(&frame_at(&fight, time)?, title, &look),
        (at, Some(count)) => {
            let lanes = lanes(&fight)?;
            let rate = fight.rules().rate();
            let at = at.map(|time| tick_of(time, rate));
            let (lane, swung) = swing(&lanes, options.attacker.as_deref(), at)?;
            let (from, to) = around_windows(swung, lanes.ticks());
            let hits: Vec<u32> = { lane.marks.iter() }
                .filter(|mark| mark.sort == Sort::Struck && (from..=to).contains(&mark.tick))
                .map(|mark| mark.tick)
                .collect();
            let frames = frames(&fight, &with_hits(spread(from, to, count), &hits))?;
            let title = format!("{title}: {}'s {}", lane.name, swung.attack);
            strip(&frames, lane.id, &title, &look)
        }
        (None, None) if options.wiring => hammerstone_view::wiring(&wiring::diagram(&fight)?, title, &look),
        // With --timeline or without anything.
        (None, None) => {
            let rate = fight.rules().rate();
            let mut lanes = lanes(&fight)?;
            if let Some((from, to)) = options.between {
                lanes.keep_between(tick_of(from, rate), tick_of(to, rate));
            }
            if !options.only.is_empty() {
                let names: Vec<&str> = lanes.all().iter().map(|lane| lane.name.as_str()).collect();
                part::must_be_there(&options.only, &names)?;
                lanes.keep_only(|lane| options.only.iter().any(|wanted| part::fits(wanted, &lane.name)));
            }
            timeline(&lanes, title, rate, &look)
        }
    };
    save(out, &svg)?;
    Ok(Outcome::Fine)
}

/// How the name of a picture ends, which says what it is.
pub(crate) fn ending(out: &Path) -> Result<&str, Failure> {
    match out.extension().and_then(|ending| ending.to_str()) {
        Some(ending @ ("svg" | "png")) => Ok(ending),
        _ => Err(miette!(help = "name a file that ends in .svg or .png", "{} is no picture", out.display())),
    }
}

/// Writes a picture, as its name says.
pub(crate) fn save(out: &Path, svg: &str) -> Result<(), Failure> {
    let bytes =
        if ending(out)? == "png" { png(svg, SCALE).into_diagnostic()? } else { svg.as_bytes().to_vec() };
    fs::write(out, bytes).map_err(|error| files::unwritable(out, &error))?;
    output::wrote("the picture", out);
    Ok(())
}

fn lanes(fight: &Fight) -> Result<Lanes, Failure> {
    let (mut play, mut lanes) = (fight.play(false)?, Lanes::new());
    play.through(&mut [&mut lanes])?;
    Ok(lanes)
}

/// The tick that a time lies in, from 1.
fn tick_of(time: f64, rate: u32) -> u32 {
    // A time as it is written elsewhere is rounded to hundredths, so what is that near to the next tick is meant.
    ((time * f64::from(rate) + 0.31).floor() as u32).saturating_add(1)
}

/// How all stood in the tick that a time lies in, counted on through resets. The fight runs no further.
fn frame_at(fight: &Fight, time: f64) -> Result<Frame, Failure> {
    let rate = fight.rules().rate();
    let (mut play, mut left) = (fight.play(false)?, tick_of(time, rate));
    let mut ticks = 0u32;
    while play.tick()? {
        (ticks, left) = (ticks + 1, left - 1);
        if left == 0 {
            return Ok(Frame::of(&play.seen()));
        }
    }
    let last = f64::from(ticks.saturating_sub(1)) / f64::from(rate);
    Err(miette!(help = format!("name a time from 0 to {last:.2}"), "the fight is over before {time} s"))
}

/// The wanted ticks, counted on through resets.
fn frames(fight: &Fight, ticks: &[u32]) -> Result<Vec<Frame>, Failure> {
    let (mut play, mut frames, mut tick) = (fight.play(false)?, Vec::new(), 0);
    while frames.len() < ticks.len() && play.tick()? {
        tick += 1;
        if ticks.contains(&tick) {
            frames.push(Frame::of(&play.seen()));
        }
    }
    Ok(frames)
}

/// The ticks of a swing that matter: its windows, with what comes shortly before and after them.
fn around_windows(swung: &Swung, last: u32) -> (u32, u32) {
    let (from, to) = (swung.from, swung.to.unwrap_or(last));
    let [Some(&(opens, _)), Some(&(_, closes))] = [swung.windows.first(), swung.windows.last()] else {
        return (from, to);
    };
    let closes = closes.unwrap_or(to);
    let around = 2 + closes.saturating_sub(opens) / 4;
    (opens.saturating_sub(around).max(from), (closes + around).min(to))
}

/// So many ticks, evenly from the first to the last, no tick twice.
fn spread(from: u32, to: u32, count: u32) -> Vec<u32> {
    let steps = count.saturating_sub(1).max(1);
    let mut ticks: Vec<u32> = (0..count).map(|i| from + (to - from) * i / steps).collect();
    ticks.dedup();
    ticks
}

/// The same ticks, but for those of hits: each takes the place of the tick that is nearest, of those that are none and not the ends.
fn with_hits(mut ticks: Vec<u32>, hits: &[u32]) -> Vec<u32> {
    for &hit in hits {
        if ticks.contains(&hit) {
            continue;
        }
        let inner = 1..ticks.len().saturating_sub(1);
        let free = ticks
            .iter_mut()
            .enumerate()
            .filter(|(place, tick)| inner.contains(place) && !hits.contains(tick));
        if let Some((_, nearest)) = free.min_by_key(|(_, tick)| tick.abs_diff(hit)) {
            *nearest = hit;
        }
    }
    ticks.sort_unstable();
    ticks
}

/// The swing that is meant: of the attacker, if one is named; that runs at the tick, or else the first whose window opened.
fn swing<'a>(
    lanes: &'a Lanes,
    attacker: Option<&str>,
    at: Option<u32>,
) -> Result<(&'a Lane, &'a Swung), Failure> {
    if let Some(name) = attacker
        && !lanes.all().iter().any(|lane| lane.name == name)
    {
        return Err(files::unknown(name, lanes.all().iter().map(|lane| lane.name.as_str())));
    }
    let runs = |swung: &Swung| match at {
        Some(tick) => swung.from <= tick && swung.to.is_none_or(|to| tick <= to),
        None => !swung.windows.is_empty(),
    };
    let of = |lane: &&Lane| attacker.is_none_or(|name| lane.name == name);
    let swings = lanes.all().iter().filter(of).flat_map(|lane| lane.swings.iter().map(move |s| (lane, s)));
    let found = swings.filter(|(_, swung)| runs(swung)).min_by_key(|(_, swung)| swung.from);
    found.ok_or_else(|| {
        miette!(
            help = "`draw` without --strip shows when who swings; name another --at or --attacker",
            "no swing of that attacker ran then"
        )
    })
}
