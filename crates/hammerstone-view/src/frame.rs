//! One tick of a fight as it would be seen, from above and from the side; and several side by side.

use std::collections::BTreeMap;

use hammerstone::CombatantId;
use hammerstone_record::{Came, Figure, Frame, Sort};
use svg::node::element::{ClipPath, Definitions, Group, Line, Path, Rectangle, Title};

use crate::labels::{Area, Held, LEAST, Labels, width};
use crate::look::Look;
use crate::outline::{NOTHING, Seen, Window, axes, both, extent, flat};
use crate::page::{self, AddSome, HIGH, WIDE, fitted, wrapped};

/// Where the column with names and words begins.
const COLUMN: f32 = 900.0;
const MARGIN: f32 = 16.0;
const TOP: f32 = 60.0;
/// Rows of the column, at most.
const ROWS: usize = 22;
const ROW: f32 = 19.0;
/// How often a sweep is drawn between the start of the tick and its end.
const GHOSTS: [f32; 4] = [0.0, 0.25, 0.5, 0.75];

/// Draws one tick: parts by side, open volumes with their sweep over the tick, obstacles, and where they touched, from above and
/// from the side; who is there, and what became true.
///
/// Names that would meet others are left out; where there are more combatants than rows, those who take no part in the tick share
/// one by team.
pub fn frame(frame: &Frame, title: &str, look: &Look) -> String {
    let mut labels = Labels::default();
    let page: Area = [0.0, 0.0, WIDE, HIGH];
    let mut document = page::blank(title, HIGH, look);
    let mut words = Group::new().set("fill", look.ink);
    words = words.add_some(labels.place(
        &fitted(title, 16.0, COLUMN - 100.0),
        (MARGIN, 26.0),
        16.0,
        Held::Start,
        page,
    ));
    words = words.add_some(labels.place(&heading(frame), (MARGIN, 45.0), 11.0, Held::Start, page));
    let sides = sides(&[frame]);
    let (marks, names) = page::sides(look, &sides, WIDE - MARGIN, &mut labels, page);
    document = document.add(marks);
    words = words.add(names);

    let (above, side) = (bounds(&[frame], Seen::Above), bounds(&[frame], Seen::Side));
    let across = both(above, [side[0], above[1], side[2], above[3]]);
    let (wide, deep, high) = (across[2] - across[0], above[3] - above[1], side[3] - side[1]);
    let room = (COLUMN - 2.0 * MARGIN, HIGH - TOP - 78.0);
    let scale = (room.0 / wide).min(room.1 / (deep + high)).min(240.0);
    let split = TOP + room.1 * deep / (deep + high);
    let right = MARGIN + room.0;
    let middle = (across[0] + across[2]) / 2.0;
    let windows = [
        Window {
            up: frame.up,
            seen: Seen::Above,
            middle: [middle, (above[1] + above[3]) / 2.0],
            scale,
            area: [MARGIN, TOP, right, split],
        },
        Window {
            up: frame.up,
            seen: Seen::Side,
            middle: [middle, (side[1] + side[3]) / 2.0],
            scale,
            area: [MARGIN, split + 24.0, right, HIGH - 54.0],
        },
    ];
    for (number, window) in windows.iter().enumerate() {
        let [left, top, ..] = window.area;
        let [one, other] = axes(frame.up, window.seen);
        let seen = match window.seen {
            Seen::Above => format!("from above: {one} to the right, {other} up"),
            Seen::Side => format!("from the side: {one} to the right, {other} up"),
        };
        words = words.add_some(
            labels
                .place(&seen, (left + 4.0, top + 13.0), 10.0, Held::Start, page)
                .map(|text| text.set("fill", look.quiet)),
        );
        let (drawn, written) = panel(frame, window, look, &format!("w{number}"), &mut labels);
        document = document.add(drawn);
        words = words.add(written);
    }
    if frame.figures.is_empty() {
        words = words.add_some(labels.place(
            "nobody is here",
            (MARGIN + room.0 / 2.0, TOP + 80.0),
            12.0,
            Held::Middle,
            page,
        ));
    }
    let (bar, written) = scale_bar(scale, (MARGIN + 4.0, HIGH - 34.0), look, &mut labels, page);
    document = document.add(bar);
    words = words.add(written);
    let (drawn, written) = column(frame, look, &mut labels);
    document = document.add(drawn);
    words = words.add(written);
    let (drawn, written) = key(look, HIGH - 14.0, &mut labels, page);
    document.add(drawn).add(written).add(words).to_string()
}

/// Draws ticks side by side, all at one scale: over the course of a swing of `attacker`. Whoever stands farther from the swing than a
/// metre and a half is not looked at.
pub fn strip(frames: &[Frame], attacker: CombatantId, title: &str, look: &Look) -> String {
    let mut labels = Labels::default();
    let page: Area = [0.0, 0.0, WIDE, HIGH];
    let mut document = page::blank(title, HIGH, look);
    let mut words = Group::new().set("fill", look.ink);
    words = words.add_some(labels.place(
        &fitted(title, 16.0, COLUMN - 100.0),
        (MARGIN, 26.0),
        16.0,
        Held::Start,
        page,
    ));
    let [[right, back], [_, up]] = match frames.first() {
        Some(frame) => [axes(frame.up, Seen::Above), axes(frame.up, Seen::Side)],
        None => [["", ""]; 2],
    };
    let seen = format!(
        "each moment from above, {right} to the right and {back} up; below that from the side, {right} to the right and {up} up"
    );
    words = words.add_some(
        labels.place(&seen, (MARGIN, 45.0), 10.0, Held::Start, page).map(|text| text.set("fill", look.quiet)),
    );
    let all: Vec<&Frame> = frames.iter().collect();
    let (marks, names) = page::sides(look, &sides(&all), WIDE - MARGIN, &mut labels, page);
    document = document.add(marks);
    words = words.add(names);
    let (above, side) = (about(&all, attacker, Seen::Above), about(&all, attacker, Seen::Side));
    let (low, far) = (above[0].min(side[0]), above[2].max(side[2]));
    let (wide, deep, high) = (far - low, above[3] - above[1], side[3] - side[1]);
    // As many in a row as makes them largest.
    let count = frames.len().max(1);
    let room = |columns: usize| {
        let rows = count.div_ceil(columns);
        let cell = ((WIDE - 2.0 * MARGIN) / columns as f32 - 8.0, (HIGH - TOP - 50.0) / rows as f32 - 8.0);
        (cell, (cell.0 / wide).min((cell.1 - 24.0) / (deep + high)))
    };
    let columns = (1..=count).rev().max_by(|&a, &b| room(a).1.total_cmp(&room(b).1)).unwrap_or(1);
    let (cell, scale) = room(columns);
    let scale = scale.min(240.0);
    for (number, frame) in frames.iter().enumerate() {
        let left = MARGIN + (number % columns) as f32 * (cell.0 + 8.0);
        let top = TOP + (number / columns) as f32 * (cell.1 + 8.0);
        let split = top + 20.0 + (cell.1 - 24.0) * deep / (deep + high);
        let middle = (low + far) / 2.0;
        let heading = format!("{:.2} s", frame.time);
        words = words.add_some(labels.place(&heading, (left + 2.0, top + 12.0), 11.0, Held::Start, page));
        let window = |seen, middle, area| Window { up: frame.up, seen, middle, scale, area };
        let windows = [
            window(
                Seen::Above,
                [middle, (above[1] + above[3]) / 2.0],
                [left, top + 18.0, left + cell.0, split],
            ),
            window(
                Seen::Side,
                [middle, (side[1] + side[3]) / 2.0],
                [left, split + 4.0, left + cell.0, top + cell.1],
            ),
        ];
        for (half, window) in windows.iter().enumerate() {
            let (drawn, written) = panel(frame, window, look, &format!("s{number}-{half}"), &mut labels);
            document = document.add(drawn);
            words = words.add(written);
        }
    }
    let (bar, written) = scale_bar(scale, (MARGIN + 4.0, HIGH - 34.0), look, &mut labels, page);
    document = document.add(bar);
    words = words.add(written);
    let (drawn, written) = key(look, HIGH - 14.0, &mut labels, page);
    document.add(drawn).add(written).add(words).to_string()
}

fn heading(frame: &Frame) -> String {
    let standing = frame.figures.iter().filter(|figure| figure.stands).count();
    let open = frame.volumes.iter().filter(|volume| volume.open).count();
    format!("{:.2} s, tick {}: {standing} stand, {open} volumes are open", frame.time, frame.tick)
}

fn sides<'a>(frames: &[&'a Frame]) -> Vec<(usize, &'a str)> {
    let figures = frames.iter().flat_map(|frame| &frame.figures);
    let mut sides: Vec<_> = figures.map(|figure| (figure.side, figure.team.as_str())).collect();
    sides.sort_unstable();
    sides.dedup();
    sides
}

/// What must be seen of the ticks of a swing: who swings, its volumes, and whoever is near in the first of the ticks.
fn about(frames: &[&Frame], attacker: CombatantId, seen: Seen) -> [f32; 4] {
    const NEAR: f32 = 1.5;
    let mut own: Vec<Frame> = frames.iter().map(|&frame| frame.clone()).collect();
    let reach = |frame: &Frame, seen| {
        let parts =
            frame.figures.iter().filter(|figure| figure.id == attacker).flat_map(|figure| &figure.parts);
        let parts = parts.map(|part| extent(&part.at(1.0), frame.up, seen));
        let volumes = frame.volumes.iter().filter(|volume| volume.attacker == Some(attacker));
        parts.chain(volumes.map(|volume| extent(&volume.end, frame.up, seen))).fold(NOTHING, both)
    };
    let whole = frames.iter().map(|frame| reach(frame, Seen::Above)).fold(NOTHING, both);
    for frame in &mut own {
        let up = frame.up;
        frame.figures.retain(|figure| {
            let [u, v] = flat(figure.at, up, Seen::Above);
            u >= whole[0] - NEAR && v >= whole[1] - NEAR && u <= whole[2] + NEAR && v <= whole[3] + NEAR
        });
        frame.volumes.retain(|volume| volume.attacker == Some(attacker));
    }
    let swung = frames.iter().map(|frame| reach(frame, seen)).fold(NOTHING, both);
    both(bounds(&own.iter().collect::<Vec<_>>(), seen), swung)
}

/// What must be seen of the ticks: everybody, and all volumes that are open.
fn bounds(frames: &[&Frame], seen: Seen) -> [f32; 4] {
    let mut all = NOTHING;
    for frame in frames {
        for part in frame.figures.iter().flat_map(|figure| &figure.parts) {
            all = both(all, extent(&part.at(1.0), frame.up, seen));
        }
        for figure in &frame.figures {
            let place = hammerstone::Shape::Sphere { at: figure.at, radius: 0.2 };
            all = both(all, extent(&place, frame.up, seen));
        }
        for volume in frame.volumes.iter().filter(|volume| volume.open) {
            all = both(all, extent(&volume.end, frame.up, seen));
        }
    }
    if all[0] > all[2] {
        return [-2.0, -1.0, 2.0, 1.0];
    }
    let room = 0.06 * (all[2] - all[0]).max(all[3] - all[1]) + 0.25;
    [all[0] - room, all[1] - room, all[2] + room, all[3] + room]
}

/// One window onto a tick; drawings, then words.
fn panel(frame: &Frame, window: &Window, look: &Look, name: &str, labels: &mut Labels) -> (Group, Group) {
    let [left, top, right, bottom] = window.area;
    let clip = ClipPath::new().set("id", name).add(
        Rectangle::new().set("x", left).set("y", top).set("width", right - left).set("height", bottom - top),
    );
    let ground = Rectangle::new()
        .set("x", left)
        .set("y", top)
        .set("width", right - left)
        .set("height", bottom - top)
        .set("fill", "none")
        .set("stroke", look.rule);
    let mut drawn = Group::new().set("clip-path", format!("url(#{name})"));
    let path = |data: String| Path::new().set("d", data);
    for obstacle in &frame.obstacles {
        if let Some(data) = window.obstacle(obstacle) {
            drawn = drawn
                .add(path(data).set("fill", look.rule).set("stroke", look.quiet).set("stroke-width", 0.8));
        }
    }
    let colour = |who: Option<CombatantId>| {
        let figure = who.and_then(|who| frame.figures.iter().find(|figure| figure.id == who));
        figure.map_or(look.quiet, |figure| look.side(figure.side))
    };
    let mut figures: Vec<&Figure> = frame.figures.iter().collect();
    // Those who lie are beneath those who stand.
    figures.sort_by_key(|figure| figure.stands);
    for figure in figures {
        let mut group = Group::new().add(Title::new(describe(figure)));
        let colour = look.side(figure.side);
        for part in &figure.parts {
            let data = path(window.outline(&part.at(1.0))).set("stroke", colour).set("stroke-width", 1);
            group = group.add(match figure.stands {
                true => data.set("fill", colour).set("fill-opacity", 0.22),
                false => data.set("fill", "none").set("stroke-opacity", 0.45).set("stroke-dasharray", "2 2"),
            });
        }
        let [x, y] = window.at(figure.at);
        if figure.stands && window.seen == Seen::Above {
            let ahead = window.at(std::array::from_fn(|i| figure.at[i] + figure.facing[i] * 0.6));
            group = group.add(
                path(format!("M{x:.1} {y:.1}L{:.1} {:.1}", ahead[0], ahead[1]))
                    .set("stroke", colour)
                    .set("stroke-width", 1.6),
            );
            group = group.add(look.side_mark(figure.side, x, y));
        } else if !figure.stands {
            group = group.add(look.shape(Sort::Fell, x, y, colour));
        }
        drawn = drawn.add(group);
    }
    for volume in frame.volumes.iter().rev() {
        let colour = colour(volume.attacker);
        let end = path(window.outline(&volume.end)).set("stroke", colour);
        if !volume.open {
            drawn = drawn.add(end.set("fill", "none").set("stroke-dasharray", "1 3").set("stroke-width", 1));
            continue;
        }
        let mut group = Group::new().add(Title::new(volume.attack.as_str()));
        let still = volume.moving.at(0.0) == volume.moving.at(1.0) || volume.end != volume.moving.at(1.0);
        if !still {
            for time in GHOSTS {
                let data = window.outline(&volume.moving.at(time));
                group = group.add(path(data).set("fill", colour).set("fill-opacity", 0.13));
            }
        }
        drawn =
            drawn.add(group.add(end.set("fill", colour).set("fill-opacity", 0.4).set("stroke-width", 1.8)));
    }
    for touch in &frame.touches {
        let ([x, y], tip) = (
            window.at(touch.point),
            window.at(std::array::from_fn(|i| touch.point[i] + touch.normal[i] * 0.5)),
        );
        let line = path(format!("M{x:.1} {y:.1}L{:.1} {:.1}", tip[0], tip[1]));
        let mut group = Group::new().add(line.set("stroke", look.ink).set("stroke-width", 1.2));
        group = match touch.came {
            Came::Hit => group.add(look.burst(x, y)),
            Came::Refused => group.add(look.shape(Sort::Refused, x, y, look.quiet)),
            Came::Nothing => group.add(path(format!("M{:.1} {y:.1}h4", x - 2.0)).set("stroke", look.ink)),
        };
        drawn = drawn.add(group);
        if window.holds([x, y]) {
            labels.take([x - 6.0, y - 6.0, x + 6.0, y + 6.0]);
        }
    }
    let written = names(frame, window, look, labels);
    (Group::new().add(Definitions::new().add(clip)).add(ground).add(drawn), written)
}

fn describe(figure: &Figure) -> String {
    let (health, max) = figure.health;
    let mut text = format!("{} of the {}, {health} of {max}", figure.name, figure.team);
    if !figure.stands {
        text.push_str(", fallen");
    }
    for status in &figure.statuses {
        text.push_str(", ");
        text.push_str(status);
    }
    text
}

/// Names beside their combatants: first of those who take part in the tick; from the side, where many stand behind each other, only
/// of these.
fn names(frame: &Frame, window: &Window, look: &Look, labels: &mut Labels) -> Group {
    let mut group = Group::new();
    let mut figures: Vec<&Figure> = frame.figures.iter().collect();
    figures.sort_by_key(|figure| (!takes_part(frame, figure), !figure.stands));
    if window.seen == Seen::Side {
        figures.retain(|figure| takes_part(frame, figure));
    } else {
        for figure in &figures {
            let [x, y] = window.at(figure.at);
            if window.holds([x, y]) {
                labels.take([x - 4.0, y - 4.0, x + 4.0, y + 4.0]);
            }
        }
    }
    for figure in figures {
        let boxes = figure.parts.iter().map(|part| {
            let [a, b, c, d] = extent(&part.at(1.0), frame.up, window.seen);
            [a, b, c, d]
        });
        let extent = boxes.fold(NOTHING, both);
        let [x, y] = window.at(figure.at);
        if !window.holds([x, y]) {
            continue;
        }
        let half = if extent[0] <= extent[2] { (extent[2] - extent[0]) * 0.5 * window.scale } else { 4.0 };
        let tall = if extent[1] <= extent[3] { (extent[3] - extent[1]) * 0.5 * window.scale } else { 4.0 };
        let y = if window.seen == Seen::Side && extent[1] <= extent[3] {
            y - (extent[1] + extent[3]) * 0.5 * window.scale
                + flat(figure.at, frame.up, window.seen)[1] * window.scale
        } else {
            y
        };
        let places = [
            (x + half + 4.0, y + 3.5, Held::Start),
            (x - half - 4.0, y + 3.5, Held::End),
            (x, y - tall - 5.0, Held::Middle),
            (x, y + tall + 12.0, Held::Middle),
            (x + half + 4.0, y - tall, Held::Start),
            (x + half + 4.0, y + tall, Held::Start),
        ];
        let text = places
            .into_iter()
            .find_map(|(x, y, held)| labels.place(&figure.name, (x, y), 10.0, held, window.area));
        let ink = if figure.stands { look.ink } else { look.quiet };
        group = group.add_some(text.map(|text| text.set("fill", ink)));
    }
    group
}

/// Whether one swings in the tick or is spoken of.
fn takes_part(frame: &Frame, figure: &Figure) -> bool {
    let swings = |volume: &hammerstone_record::Volume| volume.attacker == Some(figure.id);
    let spoken = |text: &String| {
        text.split(|letter: char| letter.is_whitespace() || letter == '\'').any(|word| word == figure.name)
    };
    frame.volumes.iter().any(swings) || frame.told.iter().any(spoken)
}

/// A length that is round, in metres.
fn scale_bar(scale: f32, (x, y): (f32, f32), look: &Look, labels: &mut Labels, page: Area) -> (Group, Group) {
    let lengths = [0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0];
    let metres = lengths.into_iter().rev().find(|metres| metres * scale <= 220.0).unwrap_or(0.1);
    let end = x + metres * scale;
    let bar = Path::new()
        .set("d", format!("M{x:.1} {:.1}v8m0 -4H{end:.1}m0 -4v8", y - 4.0))
        .set("stroke", look.ink)
        .set("fill", "none");
    let text = labels.place(&format!("{metres} m"), (end + 6.0, y + 4.0), 10.0, Held::Start, page);
    (Group::new().add(bar), Group::new().set("fill", look.ink).add_some(text))
}

/// A row of the column.
enum Row<'a> {
    One(&'a Figure),
    /// A team's number and name, with those who are gathered.
    Several(usize, &'a str, Vec<&'a Figure>),
}

/// Who is there, and what became true.
fn column(frame: &Frame, look: &Look, labels: &mut Labels) -> (Group, Group) {
    let (mut drawn, mut written) = (Group::new(), Group::new().set("fill", look.ink));
    let area: Area = [COLUMN, TOP, WIDE - MARGIN, HIGH - 54.0];
    let mut figures: Vec<&Figure> = frame.figures.iter().collect();
    figures.sort_by_key(|figure| (figure.side, !figure.stands));
    let mut rows: Vec<Row<'_>> = Vec::new();
    if figures.len() <= ROWS {
        rows.extend(figures.into_iter().map(Row::One));
    } else {
        let mut teams: BTreeMap<(usize, &str), Vec<&Figure>> = BTreeMap::new();
        let most = ROWS.saturating_sub(sides(&[frame]).len());
        for figure in figures {
            if rows.len() < most && takes_part(frame, figure) {
                rows.push(Row::One(figure));
            } else {
                teams.entry((figure.side, &figure.team)).or_default().push(figure);
            }
        }
        rows.extend(teams.into_iter().take(ROWS).map(|((side, team), all)| Row::Several(side, team, all)));
    }
    let mut y = TOP + 12.0;
    for row in &rows {
        let (side, name, now, most, rest) = match row {
            Row::One(figure) => {
                let statuses = figure.statuses.join(", ");
                let rest = if figure.stands { statuses } else { "fallen".to_owned() };
                (figure.side, figure.name.clone(), figure.health.0, figure.health.1, rest)
            }
            Row::Several(side, team, all) => {
                let standing = all.iter().filter(|figure| figure.stands).count();
                let sum = |of: fn(&Figure) -> i64| all.iter().map(|figure| of(figure)).sum::<i64>();
                let name = format!("{} of the {team}", all.len());
                (*side, name, sum(|f| f.health.0), sum(|f| f.health.1), format!("{standing} stand"))
            }
        };
        drawn = drawn.add(look.side_mark(side, COLUMN + 6.0, y - 4.0));
        let name = fitted(&name, 11.0, 120.0);
        written = written.add_some(labels.place(&name, (COLUMN + 16.0, y), 11.0, Held::Start, area));
        let (left, wide) = (COLUMN + 142.0, 90.0);
        let share = if most > 0 { (now as f32 / most as f32).clamp(0.0, 1.0) } else { 0.0 };
        let bar = |wide: f32| {
            Rectangle::new().set("x", left).set("y", y - 9.0).set("width", wide).set("height", 10.0)
        };
        drawn = drawn
            .add(bar(wide * share).set("fill", look.side(side)).set("fill-opacity", 0.55))
            .add(bar(wide).set("fill", "none").set("stroke", look.quiet).set("stroke-width", 0.8));
        let text = format!("{now}/{most}");
        written = written.add_some(labels.place(&text, (left + wide + 6.0, y), 10.0, Held::Start, area));
        let from = left + wide + 12.0 + width(&text, 10.0);
        let rest = fitted(&rest, LEAST, area[2] - from - 2.0);
        written = written.add_some(
            labels.place(&rest, (from, y), LEAST, Held::Start, area).map(|text| text.set("fill", look.quiet)),
        );
        y += ROW;
    }
    y += 8.0;
    drawn = drawn.add(
        Line::new()
            .set("x1", COLUMN)
            .set("x2", area[2])
            .set("y1", y - 4.0)
            .set("y2", y - 4.0)
            .set("stroke", look.rule),
    );
    y += 12.0;
    written = written.add_some(labels.place("in this tick", (COLUMN + 2.0, y), 11.0, Held::Start, area));
    y += 17.0;
    if frame.told.is_empty() {
        written = written.add_some(labels.place(
            "nothing new became true",
            (COLUMN + 6.0, y),
            10.0,
            Held::Start,
            area,
        ));
    }
    for (number, text) in frame.told.iter().enumerate() {
        let lines = wrapped(text, 10.0, area[2] - COLUMN - 12.0);
        let room = (area[3] - y) / 14.0;
        if (lines.len() as f32) > room - 1.0 && number + 1 < frame.told.len() || lines.len() as f32 > room {
            let more = format!("and {} more", frame.told.len() - number);
            written = written.add_some(labels.place(&more, (COLUMN + 6.0, y), 10.0, Held::Start, area));
            break;
        }
        for (number, line) in lines.iter().enumerate() {
            let x = COLUMN + if number == 0 { 6.0 } else { 16.0 };
            written = written.add_some(labels.place(
                &fitted(line, 10.0, area[2] - x - 2.0),
                (x, y),
                10.0,
                Held::Start,
                area,
            ));
            y += 14.0;
        }
    }
    (drawn, written)
}

/// What the drawing means.
fn key(look: &Look, y: f32, labels: &mut Labels, page: Area) -> (Group, Group) {
    let mut drawn = Group::new();
    let mut written = Group::new().set("fill", look.quiet);
    let mut x = MARGIN;
    let items: [(&str, Group); 5] = [
        ("hit, with the normal of the part", look.burst(x + 4.0, y - 3.0)),
        ("a gate refused", look.shape(Sort::Refused, 0.0, 0.0, look.quiet)),
        ("fallen", look.shape(Sort::Fell, 0.0, 0.0, look.quiet)),
        (
            "open volume, with its sweep over the tick",
            Group::new().add(
                Path::new()
                    .set("d", "M-4 -4h8v8h-8z")
                    .set("fill", look.quiet)
                    .set("fill-opacity", 0.4)
                    .set("stroke", look.quiet),
            ),
        ),
        (
            "volume whose window is shut",
            Group::new().add(
                Path::new()
                    .set("d", "M-4 -4h8v8h-8z")
                    .set("fill", "none")
                    .set("stroke", look.quiet)
                    .set("stroke-dasharray", "1 3"),
            ),
        ),
    ];
    for (number, (text, shape)) in items.into_iter().enumerate() {
        let shape = match number {
            0 => shape,
            _ => shape.set("transform", format!("translate({:.1} {:.1})", x + 4.0, y - 3.0)),
        };
        drawn = drawn.add(shape);
        written = written.add_some(labels.place(text, (x + 14.0, y), 10.0, Held::Start, page));
        x += width(text, 10.0) + 34.0;
    }
    written = written.add_some(labels.place(
        "names that would meet others are left out",
        (x, y),
        10.0,
        Held::Start,
        page,
    ));
    (drawn, written)
}
