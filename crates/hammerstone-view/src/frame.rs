//! One tick of a fight as it would be seen, from above and from the side; and several side by side.

use std::collections::BTreeSet;

use hammerstone::ids::CombatantId;
use hammerstone_record::{Came, Figure, Frame, Sort};
use svg::Document;
use svg::node::element::{Group, Path};

use crate::column::{COLUMN, column};
use crate::labels::{Area, Held, Labels, width};
use crate::look::Look;
use crate::outline::{NOTHING, Seen, Window, axes, both, extent, flat};
use crate::page::{self, AddSome, HIGH, WIDE, fitted};
use crate::panel::{panel, scale_bar};

/// The whole page.
const PAGE: Area = [0.0, 0.0, WIDE, HIGH];
pub(crate) const MARGIN: f32 = 16.0;
pub(crate) const TOP: f32 = 60.0;

/// Draws one tick: parts by side, open hitboxes with their sweep over the tick, obstacles, and where they touched, from above and
/// from the side; who is there, and what became true.
///
/// Names that would meet others are left out; where there are more combatants than rows, those who take no part in the tick share
/// one by team.
pub fn frame(frame: &Frame, title: &str, look: &Look) -> String {
    let (mut document, mut words, mut labels) = begun(title, look);
    words = words.add_some(labels.place(&heading(frame), (MARGIN, 45.0), 11.0, Held::Start, PAGE));
    let sides = sides(&[frame]);
    let (marks, names) = page::sides(look, &sides, WIDE - MARGIN, &mut labels, PAGE);
    document = document.add(marks);
    words = words.add(names);

    let seen = Seen::lengthwise(bounds(&[frame], Seen::ABOVE));
    let (above, side) = (bounds(&[frame], seen), bounds(&[frame], seen.sideways()));
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
            seen,
            middle: [middle, (above[1] + above[3]) / 2.0],
            scale,
            area: [MARGIN, TOP, right, split],
        },
        Window {
            up: frame.up,
            seen: seen.sideways(),
            middle: [middle, (side[1] + side[3]) / 2.0],
            scale,
            area: [MARGIN, split + 24.0, right, HIGH - 54.0],
        },
    ];
    for (number, window) in windows.iter().enumerate() {
        let [left, top, ..] = window.area;
        let [one, other] = axes(frame.up, window.seen);
        let from = if window.seen.from_the_side { "from the side" } else { "from above" };
        let seen = format!("{from}: {one} to the right, {other} up");
        words = words.add_some(
            labels
                .place(&seen, (left + 4.0, top + 13.0), 10.0, Held::Start, PAGE)
                .map(|text| text.set("fill", look.quiet)),
        );
        let (drawn, written) = panel(frame, window, look, &format!("w{number}"), None, &mut labels);
        document = document.add(drawn);
        words = words.add(written);
    }
    if frame.figures.is_empty() {
        words = words.add_some(labels.place(
            "no combatants",
            (MARGIN + room.0 / 2.0, TOP + 80.0),
            12.0,
            Held::Middle,
            PAGE,
        ));
    }
    let (bar, written) = scale_bar(scale, (MARGIN + 4.0, HIGH - 34.0), look, &mut labels, PAGE);
    document = document.add(bar);
    words = words.add(written);
    let (drawn, written) = column(frame, look, &mut labels);
    document = document.add(drawn);
    words = words.add(written);
    let (drawn, written) = key(look, HIGH - 14.0, &mut labels, PAGE);
    document.add(drawn).add(written).add(words).to_string()
}

/// Draws ticks side by side, all at one scale: over the course of a swing of `attacker`, with the way to its target to the right. Combatants
/// that stand farther from the swing than a metre and a half are left out; those that are seen at all are seen whole.
pub fn strip(frames: &[Frame], attacker: CombatantId, title: &str, look: &Look) -> String {
    let (mut document, mut words, mut labels) = begun(title, look);
    let seen = towards_target(frames, attacker);
    let frames = &near(frames, attacker, seen)[..];
    let [[right, back], [_, up]] = match frames.first() {
        Some(frame) => [axes(frame.up, seen), axes(frame.up, seen.sideways())],
        None => [["", ""]; 2],
    };
    let told = format!(
        "each moment from above, {right} to the right and {back} up; below that from the side, {right} to the right and {up} up; faint: hitboxes of others"
    );
    words = words.add_some(
        labels.place(&told, (MARGIN, 45.0), 10.0, Held::Start, PAGE).map(|text| text.set("fill", look.quiet)),
    );
    let all: Vec<&Frame> = frames.iter().collect();
    let (marks, names) = page::sides(look, &sides(&all), WIDE - MARGIN, &mut labels, PAGE);
    document = document.add(marks);
    words = words.add(names);
    let (above, side) = (about(frames, attacker, seen), about(frames, attacker, seen.sideways()));
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
        words = words.add_some(labels.place(&heading, (left + 2.0, top + 12.0), 11.0, Held::Start, PAGE));
        let window = |seen, middle, area| Window { up: frame.up, seen, middle, scale, area };
        let windows = [
            window(seen, [middle, (above[1] + above[3]) / 2.0], [left, top + 18.0, left + cell.0, split]),
            window(
                seen.sideways(),
                [middle, (side[1] + side[3]) / 2.0],
                [left, split + 4.0, left + cell.0, top + cell.1],
            ),
        ];
        for (half, window) in windows.iter().enumerate() {
            let (drawn, written) =
                panel(frame, window, look, &format!("s{number}-{half}"), Some(attacker), &mut labels);
            document = document.add(drawn);
            words = words.add(written);
        }
    }
    let (bar, written) = scale_bar(scale, (MARGIN + 4.0, HIGH - 34.0), look, &mut labels, PAGE);
    document = document.add(bar);
    words = words.add(written);
    let (drawn, written) = key(look, HIGH - 14.0, &mut labels, PAGE);
    document.add(drawn).add(written).add(words).to_string()
}

/// The page with its title, the words that go on it, and the places that are taken.
fn begun(title: &str, look: &Look) -> (Document, Group, Labels) {
    let mut labels = Labels::default();
    let placed = labels.place(&fitted(title, 16.0, COLUMN - 100.0), (MARGIN, 26.0), 16.0, Held::Start, PAGE);
    let words = Group::new().set("fill", look.ink).add_some(placed);
    (page::blank(title, HIGH, look), words, labels)
}

fn heading(frame: &Frame) -> String {
    let standing = frame.figures.iter().filter(|figure| figure.stands).count();
    let open = frame.hitboxes.iter().filter(|hitbox| hitbox.open).count();
    format!("{:.2} s, tick {}: {standing} stand, {open} hitboxes are open", frame.time, frame.tick)
}

pub(crate) fn sides<'a>(frames: &[&'a Frame]) -> Vec<(usize, &'a str)> {
    let figures = frames.iter().flat_map(|frame| &frame.figures);
    let mut sides: Vec<_> = figures.map(|figure| (figure.side, figure.team.as_str())).collect();
    sides.sort_unstable();
    sides.dedup();
    sides
}

/// The way to the first place that the attacker's hitboxes met, or else to the nearest of another team, or where it looks.
fn towards_target(frames: &[Frame], attacker: CombatantId) -> Seen {
    let places = frames.iter().filter_map(|frame| {
        let own = frame.figures.iter().find(|figure| figure.id == attacker)?;
        Some((frame, own))
    });
    let met = places.clone().find_map(|(frame, own)| {
        let of_it = frame.touches.iter().filter(|touch| touch.attacker == Some(attacker));
        let touch = of_it.min_by_key(|touch| touch.came != Came::Hit)?;
        let target = frame.figures.iter().find(|figure| figure.id == touch.target);
        Seen::along(own.at, target.map_or(touch.point, |target| target.at), frame.up)
    });
    let near = || {
        let (frame, own) = places.clone().next()?;
        let apart = |at: [f32; 3]| (0..3).map(|axis| (at[axis] - own.at[axis]).powi(2)).sum::<f32>();
        let others = frame.figures.iter().filter(|other| other.stands && other.side != own.side);
        let nearest = others.min_by(|one, other| apart(one.at).total_cmp(&apart(other.at)));
        let ahead = std::array::from_fn(|axis| own.at[axis] + own.facing[axis]);
        Seen::along(own.at, nearest.map_or(ahead, |other| other.at), frame.up)
    };
    met.or_else(near).unwrap_or(Seen::ABOVE)
}

/// What must be seen of the ticks of a swing: the attacker, its hitboxes, and all others that are in the ticks, whole.
fn about(frames: &[Frame], attacker: CombatantId, seen: Seen) -> [f32; 4] {
    let mut own = frames.to_vec();
    own.iter_mut().for_each(|frame| frame.hitboxes.retain(|hitbox| hitbox.attacker == Some(attacker)));
    let swung = frames.iter().map(|frame| reach(frame, attacker, seen)).fold(NOTHING, both);
    both(bounds(&own.iter().collect::<Vec<_>>(), seen), swung)
}

/// How far the parts of the attacker and its hitboxes reach in a tick.
fn reach(frame: &Frame, attacker: CombatantId, seen: Seen) -> [f32; 4] {
    let parts = frame.figures.iter().filter(|figure| figure.id == attacker).flat_map(|figure| &figure.parts);
    let parts = parts.map(|part| extent(&part.at(1.0), frame.up, seen));
    let hitboxes = frame.hitboxes.iter().filter(|hitbox| hitbox.attacker == Some(attacker));
    parts.chain(hitboxes.map(|hitbox| extent(&hitbox.end, frame.up, seen))).fold(NOTHING, both)
}

/// The ticks without combatants that are not near the swing in any of them, and without their hitboxes, so that the same combatants are
/// there in all moments.
fn near(frames: &[Frame], attacker: CombatantId, seen: Seen) -> Vec<Frame> {
    const NEAR: f32 = 1.5;
    let whole = frames.iter().map(|frame| reach(frame, attacker, seen)).fold(NOTHING, both);
    let is_near = |frame: &Frame, figure: &Figure| {
        let [u, v] = flat(figure.at, frame.up, seen);
        u >= whole[0] - NEAR && v >= whole[1] - NEAR && u <= whole[2] + NEAR && v <= whole[3] + NEAR
    };
    let near: BTreeSet<CombatantId> = { frames.iter() }
        .flat_map(|frame| {
            frame.figures.iter().filter(|figure| is_near(frame, figure)).map(|figure| figure.id)
        })
        .collect();
    let mut own = frames.to_vec();
    for frame in &mut own {
        frame.figures.retain(|figure| near.contains(&figure.id));
        frame.hitboxes.retain(|hitbox| hitbox.attacker.is_none_or(|who| near.contains(&who)));
        frame.touches.retain(|touch| near.contains(&touch.target));
    }
    own
}

/// What must be seen of the ticks: everyone, and all hitboxes that are open.
fn bounds(frames: &[&Frame], seen: Seen) -> [f32; 4] {
    let mut all = NOTHING;
    for frame in frames {
        for part in frame.figures.iter().flat_map(|figure| &figure.parts) {
            all = both(all, extent(&part.at(1.0), frame.up, seen));
        }
        for figure in &frame.figures {
            let place = hammerstone::geometry::Shape::Sphere { at: figure.at, radius: 0.2 };
            all = both(all, extent(&place, frame.up, seen));
        }
        for hitbox in frame.hitboxes.iter().filter(|hitbox| hitbox.open) {
            all = both(all, extent(&hitbox.end, frame.up, seen));
        }
    }
    if all[0] > all[2] {
        return [-2.0, -1.0, 2.0, 1.0];
    }
    let room = 0.06 * (all[2] - all[0]).max(all[3] - all[1]) + 0.25;
    [all[0] - room, all[1] - room, all[2] + room, all[3] + room]
}

/// What the drawing means.
fn key(look: &Look, y: f32, labels: &mut Labels, page: Area) -> (Group, Group) {
    let mut drawn = Group::new();
    let mut written = Group::new().set("fill", look.quiet);
    let mut x = MARGIN;
    let items: [(&str, Group); 5] = [
        ("hit, with the normal of the part", look.burst(x + 4.0, y - 3.0)),
        ("a gate refused", look.shape(Sort::Refused, 0.0, 0.0, look.quiet)),
        ("died", look.shape(Sort::Died, 0.0, 0.0, look.quiet)),
        (
            "open hitbox, with its sweep over the tick",
            Group::new().add(
                Path::new()
                    .set("d", "M-4 -4h8v8h-8z")
                    .set("fill", look.quiet)
                    .set("fill-opacity", 0.4)
                    .set("stroke", look.quiet),
            ),
        ),
        (
            "hitbox whose window is shut",
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
