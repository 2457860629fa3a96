//! A skeleton and its animations as a picture: at rest with the names of joints, and a row for each animation.

use hammerstone::geometry::{Axis, Pose};
use hammerstone_motion::{Animation, Skeleton};
use svg::node::element::{Circle, Group, Line, Path, Rectangle};

use crate::labels::{Area, Held, LEAST, Labels, width};
use crate::look::Look;
use crate::page::{self, AddSome, HIGH, WIDE, fitted};

const MARGIN: f32 = 16.0;
const TOP: f32 = 60.0;
const PAGE: Area = [0.0, 0.0, WIDE, HIGH];
/// How wide the panel at rest is.
const REST: f32 = 330.0;
/// How wide the curve of speeds is.
const CURVE: f32 = 260.0;
/// How many stances of an animation are shown.
const STANCES: usize = 8;
/// How many animations are shown.
const MOST: usize = 6;
/// How often in a second an animation is looked at.
const RATE: u32 = 60;

/// Draws a skeleton: at rest from the front; and, for the first six animations, eight stances from the side,
/// the way of the joint at an end that moves fastest, and its speed over time with the markers.
pub fn skeleton(skeleton: &Skeleton, title: &str, look: &Look) -> String {
    let up = skeleton.up();
    let mut drawing =
        Drawing { skeleton, up, look, labels: Labels::default(), shapes: Group::new(), words: Group::new() };
    drawing.text(&fitted(title, 16.0, WIDE - 40.0), (MARGIN, 26.0), 16.0, Held::Start, false);
    let (joints, animations) = (skeleton.joints().len(), skeleton.animations());
    let more = match animations.len() {
        count if count > MOST => format!("; the first {MOST} are shown"),
        _ => String::new(),
    };
    let plural = if animations.len() == 1 { "" } else { "s" };
    let heading = format!("{joints} joints, {} animation{plural}{more}", animations.len());
    drawing.text(&heading, (MARGIN, 45.0), 11.0, Held::Start, false);
    drawing.rest();
    let shown = animations.len().min(MOST);
    if shown == 0 {
        drawing.text("no animations", (MARGIN + REST + 24.0, TOP + 20.0), 12.0, Held::Start, true);
    }
    let high = (HIGH - TOP - 46.0) / shown.max(2) as f32;
    let scale = drawing.scale_of_rows(shown, high - 60.0);
    for (number, animation) in animations.iter().take(MOST).enumerate() {
        drawing.row(number, animation, TOP + number as f32 * high, high, scale);
    }
    drawing.key(scale);
    let document = page::blank(title, HIGH, look);
    document.add(drawing.shapes).add(drawing.words.set("fill", look.ink)).to_string()
}

/// From where it is seen.
#[derive(Clone, Copy, PartialEq, Eq)]
enum From {
    Front,
    Side,
}

struct Drawing<'a> {
    skeleton: &'a Skeleton,
    up: Axis,
    look: &'a Look,
    labels: Labels,
    shapes: Group,
    words: Group,
}

/// To the right and up.
type Flat = [f32; 2];

impl Drawing<'_> {
    fn text(&mut self, text: &str, at: (f32, f32), size: f32, held: Held, quiet: bool) {
        let placed = self.labels.place(text, at, size, held, PAGE);
        let placed = placed.map(|text| if quiet { text.set("fill", self.look.quiet) } else { text });
        self.words = std::mem::take(&mut self.words).add_some(placed);
    }

    fn add(&mut self, node: impl svg::Node) {
        self.shapes = std::mem::take(&mut self.shapes).add(node);
    }

    /// Places of joints as they are seen. A figure with y up faces +z, and its left is at +x; with another axis up, it is turned as
    /// files are.
    fn flat(&self, poses: &[Pose], from: From) -> Vec<Flat> {
        let one = |&Pose { at: [x, y, z], .. }: &Pose| match (self.up, from) {
            (Axis::Y, From::Front) => [x, y],
            (Axis::Y, From::Side) => [z, y],
            (Axis::Z, From::Front) => [x, z],
            (Axis::Z, From::Side) => [-y, z],
            (Axis::X, From::Front) => [-y, x],
            (Axis::X, From::Side) => [z, x],
        };
        poses.iter().map(one).collect()
    }

    fn stance(&self, animation: usize, seconds: f64, from: From) -> Vec<Flat> {
        self.flat(&self.skeleton.poses(&self.skeleton.stance(animation, seconds)), from)
    }

    /// Lines from each joint to the one that carries it.
    fn bones(&mut self, places: &[Flat], at: impl Fn(Flat) -> (f32, f32), wide: f32) {
        let mut d = String::new();
        for (joint, &place) in self.skeleton.joints().iter().zip(places) {
            if let Some(parent) = joint.parent {
                let (from, to) = (at(places[parent]), at(place));
                d += &format!("M{:.1} {:.1}L{:.1} {:.1}", from.0, from.1, to.0, to.1);
            }
        }
        let path = Path::new().set("d", d).set("fill", "none").set("stroke", self.look.side(0));
        self.add(path.set("stroke-width", wide).set("stroke-linecap", "round"));
        for &place in places {
            let (x, y) = at(place);
            let joint = Circle::new().set("cx", format!("{x:.1}")).set("cy", format!("{y:.1}"));
            self.add(joint.set("r", wide * 0.9).set("fill", self.look.side(0)));
        }
    }

    fn frame(&mut self, [left, top, right, bottom]: Area) {
        let frame = Rectangle::new().set("x", left).set("y", top).set("width", right - left);
        let frame = frame.set("height", bottom - top).set("fill", "none").set("stroke", self.look.rule);
        self.add(frame);
    }

    /// At rest, with the names of joints beside it.
    fn rest(&mut self) {
        let area = [MARGIN, TOP, MARGIN + REST, HIGH - 46.0];
        self.frame(area);
        self.text("at rest, from the front", (area[0] + 4.0, TOP + 13.0), 10.0, Held::Start, true);
        let places = self.flat(&self.skeleton.poses(&self.skeleton.rest()), From::Front);
        let bounds = places.iter().fold([f32::MAX, f32::MAX, f32::MIN, f32::MIN], |bounds, &[u, v]| {
            [bounds[0].min(u), bounds[1].min(v), bounds[2].max(u), bounds[3].max(v)]
        });
        let (wide, high) = ((bounds[2] - bounds[0]).max(0.1), (bounds[3] - bounds[1]).max(0.1));
        let scale = ((REST - 190.0) / wide).min((area[3] - area[1] - 60.0) / high);
        let middle = [(bounds[0] + bounds[2]) / 2.0, (bounds[1] + bounds[3]) / 2.0];
        let (x, y) = ((area[0] + area[2]) / 2.0, (area[1] + area[3]) / 2.0 + 8.0);
        let at = move |[u, v]: Flat| (x + (u - middle[0]) * scale, y - (v - middle[1]) * scale);
        self.bones(&places, at, 2.4);
        for &place in &places {
            let (x, y) = at(place);
            self.labels.take([x - 3.0, y - 3.0, x + 3.0, y + 3.0]);
        }
        let names: Vec<String> = self.skeleton.joints().iter().map(|joint| joint.name.clone()).collect();
        for (name, &place) in names.iter().zip(&places) {
            let (jx, jy) = at(place);
            // On the side on which it is; in the middle, wherever there is room.
            let right = place[0] >= middle[0] - 0.01 * wide;
            let sides = if right {
                [(6.0, Held::Start), (-6.0, Held::End)]
            } else {
                [(-6.0, Held::End), (6.0, Held::Start)]
            };
            let lower = [3.0, 12.0, -6.0];
            let placed = sides.into_iter().flat_map(|side| lower.map(|down| (side, down))).find_map(
                |((aside, held), down)| self.labels.place(name, (jx + aside, jy + down), LEAST, held, area),
            );
            self.words = std::mem::take(&mut self.words).add_some(placed);
        }
    }

    /// How large all rows can be drawn: no stance is higher than the room, and none reaches far into the cells beside its own.
    fn scale_of_rows(&self, shown: usize, high: f32) -> f32 {
        let cell = self.cell();
        let mut scale = 240.0f32;
        for animation in 0..shown {
            let [low, far] = self.extent(animation);
            scale = scale.min(1.7 * cell / (far[0] - low[0]).max(0.1)).min(high / (far[1] - low[1]).max(0.1));
        }
        scale
    }

    fn cell(&self) -> f32 {
        (WIDE - 2.0 * MARGIN - REST - 24.0 - CURVE - 24.0) / STANCES as f32
    }

    /// What an animation needs, from the side.
    fn extent(&self, animation: usize) -> [Flat; 2] {
        let (mut low, mut far) = ([f32::MAX; 2], [f32::MIN; 2]);
        for seconds in times(&self.skeleton.animations()[animation], 3 * STANCES) {
            for place in self.stance(animation, seconds, From::Side) {
                for axis in 0..2 {
                    (low[axis], far[axis]) = (low[axis].min(place[axis]), far[axis].max(place[axis]));
                }
            }
        }
        [low, far]
    }

    /// One animation: its stances, and how fast its fastest end is.
    fn row(&mut self, number: usize, animation: &Animation, top: f32, high: f32, scale: f32) {
        let left = MARGIN + REST + 24.0;
        let fastest = self.skeleton.fastest_ends(number, RATE).first().copied();
        let told = match &fastest {
            Some(speed) => format!(
                "{}, {:.2} s: {} moves fastest, {:.1} m/s at {:.2} s",
                animation.name,
                animation.seconds,
                self.skeleton.joints()[speed.joint].name,
                speed.most,
                speed.at
            ),
            None => format!("{}, {:.2} s", animation.name, animation.seconds),
        };
        let room = WIDE - 2.0 * MARGIN - REST - 24.0 - CURVE;
        self.text(&fitted(&told, 11.0, room), (left, top + 12.0), 11.0, Held::Start, false);
        let [low, far] = self.extent(number);
        let (cell, bottom) = (self.cell(), top + high - 16.0);
        for (place, seconds) in times(animation, STANCES).into_iter().enumerate() {
            let x = left + place as f32 * cell;
            let middle = (low[0] + far[0]) / 2.0;
            let at = move |[u, v]: Flat| {
                (x + cell / 2.0 + (u - middle) * scale, bottom - 14.0 - (v - low[1]) * scale)
            };
            if let Some(speed) = &fastest {
                let [from, to] = [seconds - animation.seconds / STANCES as f64, seconds];
                let way = |part: i32| {
                    let seconds = from + (to - from) * f64::from(part) / 12.0;
                    at(self.stance(number, seconds.max(0.0), From::Side)[speed.joint])
                };
                let d: String = (0..=12)
                    .map(|part| (part, way(part)))
                    .map(|(part, (x, y))| format!("{}{x:.1} {y:.1}", if part == 0 { 'M' } else { 'L' }))
                    .collect();
                let way = Path::new().set("d", d).set("fill", "none").set("stroke", self.look.side(1));
                self.add(way.set("stroke-width", 1.2));
            }
            let places = self.stance(number, seconds, From::Side);
            self.bones(&places, at, 1.6);
            self.text(&format!("{seconds:.2} s"), (x + cell / 2.0, bottom), LEAST, Held::Middle, true);
        }
        if let Some(speed) = fastest {
            self.curve(
                number,
                animation,
                speed.joint,
                [WIDE - MARGIN - CURVE, top + 20.0, WIDE - MARGIN, bottom - 12.0],
            );
        }
    }

    /// The speed of a joint over time, with the markers.
    fn curve(&mut self, number: usize, animation: &Animation, joint: usize, area: Area) {
        self.frame(area);
        let [left, top, right, bottom] = area;
        let steps = ((animation.seconds * f64::from(RATE)).ceil() as usize).clamp(1, 400);
        let long = animation.seconds / steps as f64;
        let place =
            |step: usize| self.skeleton.poses(&self.skeleton.stance(number, long * step as f64))[joint].at;
        let places: Vec<[f32; 3]> = (0..=steps).map(place).collect();
        let speeds: Vec<f32> = places
            .windows(2)
            .map(|pair| {
                let way = [0, 1, 2].map(|axis| pair[1][axis] - pair[0][axis]);
                way.iter().map(|x| x * x).sum::<f32>().sqrt() / long.max(1.0e-6) as f32
            })
            .collect();
        let most = speeds.iter().copied().fold(0.01, f32::max);
        let x = |seconds: f64| left + (right - left) * (seconds / animation.seconds.max(1.0e-6)) as f32;
        let y = |speed: f32| bottom - (bottom - top - 6.0) * speed / most;
        let mut d = String::new();
        for (step, &speed) in speeds.iter().enumerate() {
            let (x, y) = (x(long * (step as f64 + 0.5)), y(speed));
            d += &format!("{}{x:.1} {y:.1}", if step == 0 { 'M' } else { 'L' });
        }
        let line = Path::new().set("d", d).set("fill", "none").set("stroke", self.look.side(1));
        self.add(line.set("stroke-width", 1.6));
        for marker in &animation.markers {
            let x = x(marker.at);
            let line = Line::new().set("x1", x).set("x2", x).set("y1", top).set("y2", bottom);
            self.add(line.set("stroke", self.look.ink).set("stroke-dasharray", "3 3"));
            let name = format!("{} {:.2} s", marker.name, marker.at);
            let held =
                if x + width(&name, LEAST) + 6.0 > right { (-3.0, Held::End) } else { (3.0, Held::Start) };
            // The next lower where another stands.
            let placed = (0..4).find_map(|row| {
                let at = (x + held.0, top + 11.0 + 11.0 * row as f32);
                self.labels.place(&name, at, LEAST, held.1, area)
            });
            self.words = std::mem::take(&mut self.words).add_some(placed);
        }
        self.text(&format!("{most:.1} m/s"), (right, top - 4.0), LEAST, Held::End, true);
        self.text("0 s", (left, bottom + 11.0), LEAST, Held::Start, true);
        self.text(&format!("{:.2} s", animation.seconds), (right, bottom + 11.0), LEAST, Held::End, true);
    }

    fn key(&mut self, scale: f32) {
        let y = HIGH - 14.0;
        let metre = 0.5 * scale;
        let bar = format!(
            "M{} {}v6M{} {}h{metre:.1}M{:.1} {}v6",
            MARGIN,
            y - 27.0,
            MARGIN,
            y - 24.0,
            MARGIN + metre,
            y - 27.0
        );
        self.add(Path::new().set("d", bar).set("stroke", self.look.ink).set("fill", "none"));
        self.text("0.5 m in the rows", (MARGIN + metre + 6.0, y - 20.0), 10.0, Held::Start, false);
        let bone =
            Line::new().set("x1", MARGIN).set("x2", MARGIN + 14.0).set("y1", y - 4.0).set("y2", y - 4.0);
        self.add(bone.set("stroke", self.look.side(0)).set("stroke-width", 2.4));
        self.text("bone", (MARGIN + 20.0, y), 10.0, Held::Start, true);
        let way = Line::new().set("x1", 90.0).set("x2", 104.0).set("y1", y - 4.0).set("y2", y - 4.0);
        self.add(way.set("stroke", self.look.side(1)).set("stroke-width", 1.6));
        self.text(
            "the end that moves fastest: its way since the stance before, and its speed",
            (110.0, y),
            10.0,
            Held::Start,
            true,
        );
    }
}

/// So many times, evenly from the start of an animation to its end.
fn times(animation: &Animation, count: usize) -> Vec<f64> {
    let steps = (count.max(2) - 1) as f64;
    (0..count).map(|step| animation.seconds * step as f64 / steps).collect()
}
