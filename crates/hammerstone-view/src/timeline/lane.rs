//! One combatant over time.

use super::*;
use crate::labels::width;
use hammerstone_record::{Bore, GaugeLine, Swung};

/// One combatant: health behind, swings above, marks in the middle, statuses below.
pub(super) fn one(frame: &Frame<'_>, lane: &Lane, labels: &mut Labels) -> (Group, Group) {
    let (look, colour) = (frame.look, frame.colour);
    let mut drawn = Group::new();
    let mut written = Group::new().set("fill", look.ink);
    let end = lane.to.unwrap_or(frame.ticks + 1);
    drawn = drawn.add(health(frame, lane, end));
    for &(from, to) in &lane.down {
        drawn = drawn.add(hatched(frame, from, to.unwrap_or(end)));
    }
    let mut shapes = Group::new();
    for mark in &lane.marks {
        let (x, y) = frame.place(mark);
        let tip = format!("{:.2} s: {} {}", frame.seconds(mark.tick), Look::sort_text(mark.sort), mark.text);
        shapes = shapes.add(look.shape(mark.sort, x, y, colour).add(Title::new(tip)));
        labels.take([x - 5.0, y - 5.0, x + 5.0, y + 5.0]);
    }
    (drawn, written) = swings(frame, lane, end, labels, (drawn, written));
    (drawn, written) = choices(frame, lane, labels, (drawn, written));
    (drawn, written) = gauges(frame, lane, end, labels, (drawn, written));
    (drawn, written) = statuses(frame, lane, end, labels, (drawn, written));
    for mark in &lane.marks {
        let text = match mark.sort {
            Sort::Damaged | Sort::Healed | Sort::Crossed | Sort::Said => mark.text.as_str(),
            _ => continue,
        };
        let (x, y) = frame.place(mark);
        written = written.add_some(labels.place(text, (x + 6.0, y + 3.5), LEAST, Held::Start, frame.area()));
    }
    (drawn.add(shapes), written)
}

/// What it chose by its tactics, as short strokes below its swings, with names where there is room.
fn choices(
    frame: &Frame<'_>,
    lane: &Lane,
    labels: &mut Labels,
    (mut drawn, mut written): (Group, Group),
) -> (Group, Group) {
    let top = frame.top + 4.0 + frame.bar();
    for chosen in &lane.choices {
        let x = frame.x(chosen.tick);
        let at = chosen.at.as_ref().map_or(String::new(), |at| format!(", at {at}"));
        let tip = match &chosen.dropped {
            None => format!("{:.2} s: chooses {}{at}", frame.seconds(chosen.tick), chosen.choice),
            Some(why) => format!("{:.2} s: drops {}: {why}", frame.seconds(chosen.tick), chosen.choice),
        };
        let stroke = Path::new().set("d", format!("M{x:.1} {top:.1}v4")).set("stroke", frame.look.ink);
        drawn = drawn.add(stroke.set("stroke-width", 0.8).set("fill", "none").add(Title::new(tip)));
        let place = (x + 2.0, top + 1.0 + 2.0 * LEAST);
        if frame.high >= 44.0
            && chosen.dropped.is_none()
            && let Some(text) = labels.place(&chosen.choice, place, LEAST, Held::Start, frame.area())
        {
            written = written.add(text.set("fill", frame.look.quiet).set("font-style", "italic"));
        }
    }
    (drawn, written)
}

/// A stretch in which the combatant did not stand.
fn hatched(frame: &Frame<'_>, from: u32, to: u32) -> Path {
    let (mut at, to) = (frame.x(from), frame.x(to));
    let mut hatch = String::new();
    while at < to {
        hatch.push_str(&format!("M{at:.1} {:.1}l4 {:.1}", frame.top + frame.high - 3.0, 6.0 - frame.high));
        at += 6.0;
    }
    Path::new().set("d", hatch).set("stroke", frame.look.rule).set("fill", "none")
}

/// Swings as bars above, filled while a window is open.
fn swings(
    frame: &Frame<'_>,
    lane: &Lane,
    end: u32,
    labels: &mut Labels,
    (mut drawn, mut written): (Group, Group),
) -> (Group, Group) {
    let (colour, bar) = (frame.colour, frame.bar());
    let levels = levels(&lane.swings, end);
    let all = levels.iter().map(|level| level + 1).max().unwrap_or(1) as f32;
    // Those that run at once share the height of one.
    let (high, step) = (((bar + 1.0) / all - 1.0).max(1.6), (bar + 1.0) / all);
    for (swung, &level) in lane.swings.iter().zip(&levels) {
        let y = frame.top + 2.0 + step * level as f32;
        let stretch = |x: f32, to: f32| {
            let wide = (to - x).max(1.0);
            Rectangle::new().set("x", x).set("y", y).set("width", wide).set("height", high)
        };
        let (x, to) = (frame.x(swung.from), frame.x(swung.to.map_or(end, |to| to + 1)));
        let whole = stretch(x, to).set("fill", "none").set("stroke", colour).set("stroke-width", 0.8);
        drawn = drawn.add(whole);
        for &(opens, closes) in &swung.windows {
            let (x, to) = (frame.x(opens), frame.x(closes.map_or(end, |to| to + 1)));
            drawn = drawn.add(stretch(x, to).set("fill", colour));
        }
        let place = (x + 1.0, frame.top + 2.0 + bar + LEAST);
        // Lanes that are low have no room for them beside what matters more.
        if frame.high >= 34.0
            && let Some(text) = labels.place(&swung.attack, place, LEAST, Held::Start, frame.area())
        {
            written = written.add(text.set("fill", frame.look.quiet));
        }
    }
    (drawn, written)
}

/// Of each swing, how many bars of swings that run at the same time lie above its own; 3 at most.
fn levels(swings: &[Swung], end: u32) -> Vec<usize> {
    let mut busy: Vec<u32> = Vec::new();
    let level = |swung: &Swung| {
        let to = swung.to.unwrap_or(end);
        let free = busy.iter().position(|until| *until < swung.from).unwrap_or(busy.len());
        match busy.get_mut(free) {
            Some(until) => *until = to,
            None => busy.push(to),
        }
        free.min(3)
    };
    swings.iter().map(level).collect()
}

/// Statuses as thin bars below, in at most three rows.
fn statuses(
    frame: &Frame<'_>,
    lane: &Lane,
    end: u32,
    labels: &mut Labels,
    (mut drawn, mut written): (Group, Group),
) -> (Group, Group) {
    let (mut ends, mut rows): (Vec<u32>, Vec<(usize, &Bore)>) = (Vec::new(), Vec::new());
    for bore in &lane.statuses {
        let to = bore.to.unwrap_or(end);
        let free = ends.iter().position(|end| *end <= bore.from);
        let row = free.unwrap_or(ends.len());
        if row == ends.len() {
            ends.push(to);
        } else {
            ends[row] = to;
        }
        if row <= 2 {
            rows.push((row, bore));
        }
    }
    let y = |row: usize| frame.top + frame.high - 4.0 - 4.0 * row as f32;
    for &(row, bore) in &rows {
        let (x, to) = (frame.x(bore.from), frame.x(bore.to.unwrap_or(end)));
        let status = Rectangle::new()
            .set("x", x)
            .set("y", y(row))
            .set("width", (to - x).max(1.5))
            .set("height", 2.4)
            .set("fill", frame.look.quiet);
        drawn = drawn.add(status);
    }
    // Those that begin at once are named together, above all bars that lie there.
    for together in rows.chunk_by(|one, next| one.1.from == next.1.from) {
        let from = together[0].1.from;
        let names: Vec<&str> = together.iter().map(|(_, bore)| bore.status.as_str()).collect();
        let names = names.join(", ");
        let (x, until) = (frame.x(from), frame.x(from) + width(&names, LEAST));
        let lies =
            |(_, bore): &&(usize, &Bore)| frame.x(bore.from) < until && frame.x(bore.to.unwrap_or(end)) > x;
        let highest = rows.iter().filter(lies).map(|(row, _)| *row).max().unwrap_or(0);
        let place = (x, y(highest) - 1.5);
        written = written.add_some(labels.place(&names, place, LEAST, Held::Start, frame.area()));
    }
    (drawn, written)
}

/// Gauges beside health as dotted lines, the first two; each is named where it begins.
fn gauges(
    frame: &Frame<'_>,
    lane: &Lane,
    end: u32,
    labels: &mut Labels,
    (mut drawn, mut written): (Group, Group),
) -> (Group, Group) {
    let floor = frame.top + frame.high - 1.0;
    for (GaugeLine { name, held }, dash) in lane.gauges.iter().zip(["1.5 2.5", "5 2"]) {
        let mut line = String::new();
        for &(tick, points, max) in held {
            let share = if max > 0 { points as f32 / max as f32 } else { 0.0 };
            let (x, y) = (frame.x(tick), floor - share * (frame.high - 3.0));
            line.push_str(&if line.is_empty() {
                format!("M{x:.1} {y:.1}")
            } else {
                format!("H{x:.1}V{y:.1}")
            });
        }
        line.push_str(&format!("H{:.1}", frame.x(end)));
        let way = Path::new().set("d", line).set("fill", "none").set("stroke", frame.look.ink);
        drawn = drawn.add(way.set("stroke-width", 1).set("stroke-dasharray", dash));
        // Beside its first change that has room for it.
        let named = held.iter().skip(1).take(60).find_map(|&(tick, points, max)| {
            let share = if max > 0 { points as f32 / max as f32 } else { 0.0 };
            let (x, y) = (frame.x(tick) + 3.0, floor - share * (frame.high - 3.0));
            let places = [y - 3.0, y + LEAST + 2.0];
            places.into_iter().find_map(|y| labels.place(name, (x, y), LEAST, Held::Start, frame.area()))
        });
        let halo = |text: Text| {
            text.set("stroke", frame.look.paper).set("stroke-width", 3).set("paint-order", "stroke")
        };
        written = written.add_some(named.map(halo));
    }
    (drawn, written)
}

/// Health as a tinted area with a line on top.
fn health(frame: &Frame<'_>, lane: &Lane, end: u32) -> Group {
    let floor = frame.top + frame.high - 1.0;
    let y = |health: i64, max: i64| {
        let share = if max > 0 { health as f32 / max as f32 } else { 0.0 };
        floor - share * (frame.high - 3.0)
    };
    let mut line = String::new();
    let mut before = None;
    for &(tick, health, max) in &lane.health {
        let (x, y) = (frame.x(tick), y(health, max));
        match before {
            None => line.push_str(&format!("M{x:.1} {y:.1}")),
            Some(_) => line.push_str(&format!("H{x:.1}V{y:.1}")),
        }
        before = Some(y);
    }
    let (start, end) = (frame.x(lane.from), frame.x(end));
    line.push_str(&format!("H{end:.1}"));
    let area = format!("{line}V{floor:.1}H{start:.1}Z");
    Group::new().add(Path::new().set("d", area).set("fill", frame.colour).set("fill-opacity", 0.16)).add(
        Path::new().set("d", line).set("fill", "none").set("stroke", frame.colour).set("stroke-width", 1.2),
    )
}
