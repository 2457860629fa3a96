//! The timeline of a run: a lane for each combatant.

mod lane;

use lane::one;

use std::collections::BTreeMap;

use hammerstone_record::{Lane, Lanes, Sort, TimelineMark};
use svg::node::element::{Group, Line, Path, Rectangle, Text, Title};

use crate::labels::{Area, Held, LEAST, Labels};
use crate::look::Look;
use crate::page::{self, AddSome, HIGH, WIDE, fitted};

const LEFT: f32 = 150.0;
const RIGHT: f32 = 20.0;
const TOP: f32 = 64.0;
const BOTTOM: f32 = 74.0;
/// The least and the most that a lane is high.
const LANE: (f32, f32) = (26.0, 72.0);

/// What one lane of the picture shows: a combatant, or several of one template and team.
enum Row<'a> {
    One(&'a Lane),
    Several { name: String, team: &'a str, lanes: Vec<&'a Lane> },
}

impl Row<'_> {
    /// The side's number and name.
    fn side(&self) -> (usize, &str) {
        match self {
            Row::One(lane) => (lane.side, &lane.team),
            Row::Several { team, lanes, .. } => (lanes.first().map_or(0, |lane| lane.side), team),
        }
    }
}

/// The rows of the picture. Where there are more combatants than lanes fit, those of one template and team share one, the most numerous
/// first, until all fit.
fn rows(lanes: &[Lane]) -> Vec<Row<'_>> {
    let most = ((HIGH - TOP - BOTTOM) / LANE.0) as usize;
    let mut sorts: BTreeMap<(&str, &str), usize> = BTreeMap::new();
    for lane in lanes {
        *sorts.entry((&lane.team, &lane.template)).or_default() += 1;
    }
    let mut by_number: Vec<_> = sorts.into_iter().filter(|(_, count)| *count > 1).collect();
    by_number.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
    let mut shared: Vec<(&str, &str)> = Vec::new();
    let mut count = lanes.len();
    for (sort, members) in by_number {
        if count <= most {
            break;
        }
        count -= members - 1;
        shared.push(sort);
    }
    let mut rows: Vec<Row<'_>> = Vec::new();
    for lane in lanes {
        let sort = (lane.team.as_str(), lane.template.as_str());
        if !shared.contains(&sort) {
            rows.push(Row::One(lane));
            continue;
        }
        let known = rows.iter_mut().find_map(|row| match row {
            Row::Several { lanes, team, .. } if lanes[0].template == lane.template && *team == lane.team => {
                Some(lanes)
            }
            _ => None,
        });
        match known {
            Some(lanes) => lanes.push(lane),
            None => {
                rows.push(Row::Several { name: lane.template.clone(), team: &lane.team, lanes: vec![lane] })
            }
        }
    }
    rows
}

/// What is needed to draw one row.
struct Frame<'a> {
    look: &'a Look,
    rate: u32,
    /// After how many ticks it begins, and ends.
    began: u32,
    ticks: u32,
    colour: &'static str,
    top: f32,
    high: f32,
}

impl Frame<'_> {
    /// Where a tick begins.
    fn x(&self, tick: u32) -> f32 {
        let (at, all) = (tick.saturating_sub(1 + self.began), self.ticks.saturating_sub(self.began).max(1));
        // What goes on beyond the end of the picture ends there.
        LEFT + at.min(all) as f32 / all as f32 * (WIDE - LEFT - RIGHT)
    }

    fn area(&self) -> Area {
        [LEFT, self.top, WIDE - RIGHT, self.top + self.high]
    }

    /// How high the bar of a swing is.
    fn bar(&self) -> f32 {
        self.high * 0.18
    }

    /// Where a mark stands: what one does on the bar of swings, what was refused above what came to something.
    fn place(&self, mark: &TimelineMark) -> (f32, f32) {
        let y = match mark.sort {
            Sort::Struck | Sort::NotStarted => 2.0 + self.bar() / 2.0,
            Sort::Refused | Sort::Said => self.high * 0.4,
            _ => self.high * 0.64,
        };
        (self.x(mark.tick), self.top + y)
    }

    fn seconds(&self, tick: u32) -> f32 {
        tick.saturating_sub(1) as f32 / self.rate.max(1) as f32
    }
}

/// Draws the timeline of a run. `rate` is the ticks of a second. Labels that would meet others are left out; the JSON Lines have them all.
pub fn timeline(lanes: &Lanes, title: &str, rate: u32, look: &Look) -> String {
    let rows = rows(lanes.all());
    let high = ((HIGH - TOP - BOTTOM) / rows.len().max(1) as f32).clamp(LANE.0, LANE.1);
    let height = TOP + BOTTOM + high * rows.len() as f32;
    let mut sides: Vec<(usize, &str)> = rows.iter().map(Row::side).collect();
    sides.sort_unstable();
    sides.dedup();
    let mut labels = Labels::default();
    let mut document = page::blank(title, height, look);
    let page: Area = [0.0, 0.0, WIDE, height];
    let mut words = Group::new().set("fill", look.ink);
    let frame = |number: usize, side: usize| Frame {
        look,
        rate,
        began: lanes.began(),
        ticks: lanes.ticks(),
        colour: look.side(side),
        top: TOP + high * number as f32,
        high,
    };
    let whole = frame(0, 0);
    document = document.add(axis(&whole, &mut labels, height));
    words = words.add_some(labels.place(title, (16.0, 26.0), 16.0, Held::Start, page));
    let seconds = |ticks: u32| ticks as f32 / rate.max(1) as f32;
    let from = match lanes.began() {
        0 => String::new(),
        began => format!("{:.2} to ", seconds(began)),
    };
    let length = format!("{} combatants, {from}{:.2} s", lanes.all().len(), seconds(lanes.ticks()));
    words = words.add_some(labels.place(&length, (16.0, 44.0), 11.0, Held::Start, page));
    let (marks, names) = page::sides(look, &sides, WIDE - RIGHT, &mut labels, page);
    document = document.add(marks);
    words = words.add(names);
    for moment in lanes.moments() {
        let x = whole.x(moment.tick);
        document = document.add(
            Line::new()
                .set("x1", x)
                .set("x2", x)
                .set("y1", TOP - 4.0)
                .set("y2", height - BOTTOM)
                .set("stroke", look.quiet)
                .set("stroke-dasharray", "2 3"),
        );
        let held = if x > WIDE - 120.0 { Held::End } else { Held::Start };
        words = words.add_some(labels.place(&moment.text, (x, TOP - 8.0), 10.0, held, page));
    }
    for (number, row) in rows.iter().enumerate() {
        let (side, _) = row.side();
        let frame = frame(number, side);
        document = document.add(
            Line::new()
                .set("x1", 0.0)
                .set("x2", WIDE)
                .set("y1", frame.top + high)
                .set("y2", frame.top + high)
                .set("stroke", look.rule),
        );
        document = document.add(look.side_mark(side, 18.0, frame.top + high / 2.0));
        labels.take([10.0, frame.top, 26.0, frame.top + high]);
        let name = match row {
            Row::One(lane) => lane.name.clone(),
            Row::Several { name, lanes, .. } => format!("{} × {name}", lanes.len()),
        };
        let names: Area = [28.0, frame.top, LEFT - 4.0, frame.top + high];
        let name = fitted(&name, 11.0, names[2] - names[0] - 4.0);
        words = words.add_some(labels.place(
            &name,
            (30.0, frame.top + high / 2.0 + 4.0),
            11.0,
            Held::Start,
            names,
        ));
        let (drawn, written) = match row {
            Row::One(lane) => one(&frame, lane, &mut labels),
            Row::Several { lanes, .. } => several(&frame, lanes, &mut labels),
        };
        document = document.add(drawn);
        words = words.add(written);
    }
    let chooses = lanes.all().iter().any(|lane| !lane.choices.is_empty());
    document = document.add(key(look, height, &mut labels, page, chooses));
    document.add(words).to_string()
}

/// Seconds along the bottom.
fn axis(frame: &Frame<'_>, labels: &mut Labels, height: f32) -> Group {
    let look = frame.look;
    let [began, seconds] = [frame.began, frame.ticks].map(|ticks| ticks as f32 / frame.rate.max(1) as f32);
    let steps = [0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 60.0, 120.0, 300.0];
    let step = steps.into_iter().find(|step| (seconds - began) / step <= 16.0).unwrap_or(600.0);
    let mut group = Group::new().set("fill", look.quiet);
    let mut time = (began / step).ceil() * step;
    while time <= seconds {
        let x = frame.x((time * frame.rate as f32).round() as u32 + 1);
        group = group.add(
            Line::new()
                .set("x1", x)
                .set("x2", x)
                .set("y1", TOP)
                .set("y2", height - BOTTOM)
                .set("stroke", look.rule),
        );
        let text = if step < 1.0 { format!("{time:.1} s") } else { format!("{time:.0} s") };
        let place = (x, height - BOTTOM + 15.0);
        group = group.add_some(labels.place(&text, place, 10.0, Held::Middle, [0.0, 0.0, WIDE, height]));
        time += step;
    }
    group
}

/// What the shapes mean.
fn key(look: &Look, height: f32, labels: &mut Labels, page: Area, chooses: bool) -> Group {
    let mut group = Group::new().set("fill", look.quiet);
    let (mut x, y) = (16.0, height - 34.0);
    for sort in Sort::ALL {
        let text = Look::sort_text(sort);
        group = group.add(look.shape(sort, x + 4.0, y, look.quiet));
        group = group.add_some(labels.place(text, (x + 13.0, y + 4.0), 10.0, Held::Start, page));
        x += crate::labels::width(text, 10.0) + 30.0;
    }
    let rest = "tinted: health · bar above: a swing, filled while a window is open · bars below: statuses, holds, time scales · dotted: gauges · hatched: dead or away · labels that would meet others are left out";
    let choices = if chooses { " · short strokes: choices" } else { "" };
    group.add_some(labels.place(&format!("{rest}{choices}"), (16.0, height - 14.0), 10.0, Held::Start, page))
}

/// Several combatants: how many of them stand, and when each died.
fn several(frame: &Frame<'_>, lanes: &[&Lane], labels: &mut Labels) -> (Group, Group) {
    let mut changes: BTreeMap<u32, i64> = BTreeMap::new();
    for lane in lanes {
        *changes.entry(lane.from).or_default() += 1;
        let mut down: Option<u32> = None;
        for &(from, to) in &lane.down {
            // Who died and then went away is down once.
            if down.is_none() {
                *changes.entry(from).or_default() -= 1;
                down = Some(from);
            }
            if let Some(to) = to {
                *changes.entry(to).or_default() += 1;
                down = None;
            }
        }
        if let (Some(to), None) = (lane.to, down) {
            *changes.entry(to).or_default() -= 1;
        }
    }
    let floor = frame.top + frame.high - 1.0;
    let y = |standing: i64| floor - standing as f32 / lanes.len() as f32 * (frame.high - 3.0);
    let first = changes.keys().next().copied().unwrap_or(1);
    let mut line = format!("M{:.1} {floor:.1}", frame.x(first));
    let mut written = Group::new().set("fill", frame.look.ink);
    let mut standing = 0;
    for (&tick, change) in &changes {
        standing += change;
        let x = frame.x(tick);
        line.push_str(&format!("H{x:.1}V{:.1}", y(standing)));
        let place = (x + 2.0, frame.top + frame.high * 0.5 + 3.0);
        let text = standing.to_string();
        written = written.add_some(labels.place(&text, place, LEAST, Held::Start, frame.area()));
    }
    line.push_str(&format!("H{:.1}", frame.x(frame.ticks + 1)));
    let area = format!("{line}V{floor:.1}Z");
    let mut drawn =
        Group::new().add(Path::new().set("d", area).set("fill", frame.colour).set("fill-opacity", 0.16)).add(
            Path::new()
                .set("d", line)
                .set("fill", "none")
                .set("stroke", frame.colour)
                .set("stroke-width", 1.2),
        );
    for lane in lanes {
        for mark in lane.marks.iter().filter(|mark| matches!(mark.sort, Sort::Died | Sort::Returned)) {
            let tip =
                format!("{:.2} s: {} {}", frame.seconds(mark.tick), lane.name, Look::sort_text(mark.sort));
            let shape = frame.look.shape(mark.sort, frame.x(mark.tick), floor - 6.0, frame.colour);
            drawn = drawn.add(shape.add(Title::new(tip)));
        }
    }
    (drawn, written)
}
