//! One view of one tick: parts, hitboxes with their sweep, obstacles, touches, names, and the bar that tells the scale.

use hammerstone::ids::CombatantId;
use hammerstone_record::{Came, Figure, Frame, Hitbox, Sort, Touched};
use svg::node::element::{ClipPath, Definitions, Group, Path, Rectangle, Title};

use crate::labels::{Area, Held, Labels};
use crate::look::Look;
use crate::outline::{NOTHING, Window, both, extent, flat};
use crate::page::AddSome;

/// How often a sweep is drawn between the start of the tick and its end.
const GHOSTS: [f32; 4] = [0.0, 0.25, 0.5, 0.75];

/// One window onto a tick; drawings, then words. If it is about one combatant, hitboxes of others are faint.
pub(crate) fn panel(
    frame: &Frame,
    window: &Window,
    look: &Look,
    name: &str,
    about: Option<CombatantId>,
    labels: &mut Labels,
) -> (Group, Group) {
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
    for data in frame.obstacles.iter().filter_map(|obstacle| window.obstacle(obstacle)) {
        let block = path(data).set("fill", look.rule).set("stroke", look.quiet).set("stroke-width", 0.8);
        drawn = drawn.add(block);
    }
    for data in frame.open.iter().filter_map(|obstacle| window.obstacle(obstacle)) {
        let line = path(data).set("fill", "none").set("stroke", look.quiet).set("stroke-width", 0.8);
        drawn = drawn.add(line.set("stroke-dasharray", "3 3"));
    }
    if !frame.triangles.is_empty() {
        let data: String = frame.triangles.iter().map(|corners| window.triangle(corners)).collect();
        let mesh = path(data)
            .set("fill", look.rule)
            .set("fill-opacity", 0.5)
            .set("stroke", look.quiet)
            .set("stroke-width", 0.5);
        drawn = drawn.add(mesh);
    }
    let mut figures: Vec<&Figure> = frame.figures.iter().collect();
    // Those who lie are beneath those who stand.
    figures.sort_by_key(|figure| figure.stands);
    for figure in figures {
        drawn = drawn.add(one_figure(figure, window, look));
    }
    for hitbox in frame.hitboxes.iter().rev() {
        let asked = about.is_none_or(|who| hitbox.attacker == Some(who));
        let one = one_hitbox(frame, hitbox, window, look);
        drawn = drawn.add(if asked { one } else { one.set("opacity", 0.25) });
    }
    for touch in &frame.touches {
        drawn = drawn.add(one_touch(touch, window, look));
        let [x, y] = window.at(touch.point);
        if window.holds([x, y]) {
            labels.take([x - 6.0, y - 6.0, x + 6.0, y + 6.0]);
        }
    }
    let written = names(frame, window, look, labels);
    (Group::new().add(Definitions::new().add(clip)).add(ground).add(drawn), written)
}

fn path(data: String) -> Path {
    Path::new().set("d", data)
}

/// A combatant: its parts, where it looks, and the mark of its side.
fn one_figure(figure: &Figure, window: &Window, look: &Look) -> Group {
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
    if !figure.stands {
        return group.add(look.shape(Sort::Died, x, y, colour));
    }
    if !window.seen.from_the_side {
        let ahead = window.at(std::array::from_fn(|i| figure.at[i] + figure.facing[i] * 0.6));
        let line = path(format!("M{x:.1} {y:.1}L{:.1} {:.1}", ahead[0], ahead[1]));
        group = group.add(line.set("stroke", colour).set("stroke-width", 1.6));
        group = group.add(look.side_mark(figure.side, x, y));
    }
    group
}

/// A hitbox with its sweep through the tick.
fn one_hitbox(frame: &Frame, hitbox: &Hitbox, window: &Window, look: &Look) -> Group {
    let attacker = hitbox.attacker.and_then(|who| frame.figures.iter().find(|figure| figure.id == who));
    let colour = attacker.map_or(look.quiet, |figure| look.side(figure.side));
    let end = path(window.outline(&hitbox.end)).set("stroke", colour);
    if !hitbox.open {
        return Group::new()
            .add(end.set("fill", "none").set("stroke-dasharray", "1 3").set("stroke-width", 1));
    }
    let mut group = Group::new().add(Title::new(hitbox.attack.as_str()));
    let still = hitbox.moving.at(0.0) == hitbox.moving.at(1.0) || hitbox.end != hitbox.moving.at(1.0);
    if !still {
        for time in GHOSTS {
            let data = window.outline(&hitbox.moving.at(time));
            group = group.add(path(data).set("fill", colour).set("fill-opacity", 0.13));
        }
    }
    group.add(end.set("fill", colour).set("fill-opacity", 0.4).set("stroke-width", 1.8))
}

/// Where a hitbox met a part, with the normal.
fn one_touch(touch: &Touched, window: &Window, look: &Look) -> Group {
    let [x, y] = window.at(touch.point);
    let tip = window.at(std::array::from_fn(|i| touch.point[i] + touch.normal[i] * 0.5));
    let line = path(format!("M{x:.1} {y:.1}L{:.1} {:.1}", tip[0], tip[1]));
    let group = Group::new().add(line.set("stroke", look.ink).set("stroke-width", 1.2));
    match touch.came {
        Came::Hit => group.add(look.burst(x, y)),
        Came::Refused => group.add(look.shape(Sort::Refused, x, y, look.quiet)),
        Came::Nothing => group.add(path(format!("M{:.1} {y:.1}h4", x - 2.0)).set("stroke", look.ink)),
    }
}

fn describe(figure: &Figure) -> String {
    let (health, max) = figure.health;
    let mut text = format!("{} of the {}, {health} of {max}", figure.name, figure.team);
    if !figure.stands {
        text.push_str(", dead");
    }
    let rest = figure.rest();
    if !rest.is_empty() {
        text.push_str(", ");
        text.push_str(&rest);
    }
    text
}

/// Names beside their combatants: first of those who take part in the tick; from the side, where many stand behind each other, only
/// of these.
fn names(frame: &Frame, window: &Window, look: &Look, labels: &mut Labels) -> Group {
    let mut group = Group::new();
    let mut figures: Vec<&Figure> = frame.figures.iter().collect();
    figures.sort_by_key(|figure| (!takes_part(frame, figure), !figure.stands));
    if window.seen.from_the_side {
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
        let y = if window.seen.from_the_side && extent[1] <= extent[3] {
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
pub(crate) fn takes_part(frame: &Frame, figure: &Figure) -> bool {
    let swings = |hitbox: &hammerstone_record::Hitbox| hitbox.attacker == Some(figure.id);
    let spoken = |text: &String| {
        text.split(|letter: char| letter.is_whitespace() || letter == '\'').any(|word| word == figure.name)
    };
    frame.hitboxes.iter().any(swings) || frame.told.iter().any(spoken)
}

/// A length that is round, in metres.
pub(crate) fn scale_bar(
    scale: f32,
    (x, y): (f32, f32),
    look: &Look,
    labels: &mut Labels,
    page: Area,
) -> (Group, Group) {
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
