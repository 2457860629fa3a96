//! What many runs came to, as a picture.

use hammerstone_record::{Interval, MeansPoint, OutcomePoint, Point, Spread};
use svg::node::element::{Group, Line, Path, Rectangle};

use crate::labels::{Area, Held, Labels};
use crate::look::Look;
use crate::page::{self, AddSome, HIGH, WIDE, fitted};

const MARGIN: f32 = 16.0;
const TOP: f32 = 64.0;
/// How many combatants are shown.
const MOST: usize = 28;

/// How many attacks are shown, and how high the row of each is.
const MOST_MEANS: usize = 8;
const MEANS_ROW: f32 = 20.0;

/// Outcomes have the colours and marks from here on: those before are the teams'.
const OUTCOMES: usize = 2;

/// Draws a survey. Of one point: when each combatant died and what it dealt, from the tenth to the nine-tenth value with the middle one
/// marked. Of several: how they ended, how long they took and who died, from value to value. Beyond 28, combatants are left out, those
/// that died in most runs being kept.
pub fn survey(points: &[Point], varied: &[&str], title: &str, look: &Look) -> String {
    let mut drawing = Drawing { look, labels: Labels::default(), shapes: Group::new(), words: Group::new() };
    let runs: usize = points.iter().map(|point| point.runs).sum();
    drawing.text(&fitted(title, 16.0, WIDE - 40.0), (MARGIN, 26.0), 16.0, Held::Start, false);
    let what = match varied {
        [] => format!("{runs} runs with different seeds"),
        varied => format!("{runs} runs over {}", varied.join(" and ")),
    };
    drawing.text(&fitted(&what, 11.0, WIDE - 40.0), (MARGIN, 45.0), 11.0, Held::Start, false);
    match points {
        [] => drawing.text("no run was made", (MARGIN, TOP + 20.0), 12.0, Held::Start, false),
        [point] => drawing.one(point),
        points if varied.len() == 2 && is_whole(points) => drawing.heat(points, varied),
        points => drawing.several(points, varied),
    }
    let document = page::blank(title, HIGH, look);
    document.add(drawing.shapes).add(drawing.words.set("fill", look.ink)).to_string()
}

/// Whether both of two values take several, so that the points make a field.
fn is_whole(points: &[Point]) -> bool {
    let several =
        |axis: usize| points.iter().any(|point| point.values.get(axis) != points[0].values.get(axis));
    several(0) && several(1)
}

struct Drawing<'a> {
    look: &'a Look,
    labels: Labels,
    shapes: Group,
    words: Group,
}

/// A panel with its scale: from where to where, and up to which value.
#[derive(Clone, Copy)]
struct Panel {
    left: f32,
    right: f32,
    top: f32,
    bottom: f32,
    most: f64,
}

impl Panel {
    fn x(&self, value: f64) -> f32 {
        self.left + (value / self.most) as f32 * (self.right - self.left)
    }

    fn y(&self, value: f64) -> f32 {
        self.bottom - (value / self.most) as f32 * (self.bottom - self.top)
    }
}

/// A round number that is no less.
fn round_up(value: f64) -> f64 {
    if value <= 0.0 {
        return 1.0;
    }
    let unit = 10f64.powf(value.log10().floor());
    let steps = [1.0, 1.5, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0];
    steps.into_iter().map(|step| step * unit).find(|&round| round >= value * 0.999).unwrap_or(value)
}

/// Where a share lies, in whole percents.
fn between(interval: &Interval) -> String {
    format!("{:.0} to {:.0}", interval.low * 100.0, interval.high * 100.0)
}

/// Round values from 0 up to the most, 4 to 6 of them.
fn ticks(most: f64) -> Vec<f64> {
    let rough = most / 5.0;
    let unit = 10f64.powf(rough.log10().floor());
    let steps = [1.0, 2.0, 2.5, 5.0, 10.0].map(|step| step * unit);
    let step = steps.into_iter().find(|step| *step >= rough * 0.999).unwrap_or(rough);
    (0..=8).map(|number| f64::from(number) * step).take_while(|value| *value <= most * 1.001).collect()
}

/// As few decimals as tell a value.
fn plain(value: f64) -> String {
    let text = format!("{value:.2}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

fn share(of: f64) -> String {
    format!("{:.0} %", of * 100.0)
}

impl Drawing<'_> {
    fn text(&mut self, text: &str, at: (f32, f32), size: f32, held: Held, quiet: bool) {
        let page: Area = [0.0, 0.0, WIDE, HIGH];
        let placed = self.labels.place(text, at, size, held, page);
        let placed = placed.map(|text| if quiet { text.set("fill", self.look.quiet) } else { text });
        self.words = std::mem::replace(&mut self.words, Group::new()).add_some(placed);
    }

    fn shape(&mut self, shape: impl svg::Node) {
        self.shapes = std::mem::replace(&mut self.shapes, Group::new()).add(shape);
    }

    fn rule(&mut self, (x1, y1): (f32, f32), (x2, y2): (f32, f32)) {
        let line = Line::new().set("x1", x1).set("y1", y1).set("x2", x2).set("y2", y2);
        let line = line.set("stroke", self.look.rule);
        self.shape(line);
    }

    /// From a tenth to nine tenths, the middle value marked.
    fn band(&mut self, panel: &Panel, y: f32, spread: &Spread, colour: &str) {
        let (low, middle, high) = (panel.x(spread.low), panel.x(spread.middle), panel.x(spread.high));
        let bar = Rectangle::new()
            .set("x", low)
            .set("y", y - 5.0)
            .set("width", (high - low).max(1.0))
            .set("height", 10.0);
        self.shape(bar.set("fill", colour).set("fill-opacity", 0.35));
        let mark = Path::new().set("d", format!("M{middle:.1} {:.1}v14", y - 7.0));
        self.shape(mark.set("stroke", self.look.ink).set("stroke-width", 2));
    }

    /// Values along the foot of a panel.
    fn scale(&mut self, panel: &Panel, unit: &str) {
        for value in ticks(panel.most) {
            let x = panel.x(value);
            self.rule((x, panel.top), (x, panel.bottom));
            self.text(&format!("{}{unit}", plain(value)), (x, panel.bottom + 14.0), 10.0, Held::Middle, true);
        }
    }

    /// One point: a row for each combatant.
    fn one(&mut self, point: &Point) {
        let look = self.look;
        let mut x = MARGIN + 70.0;
        self.text("how it ends", (MARGIN, TOP + 12.0), 10.0, Held::Start, true);
        for (number, OutcomePoint { name, share: of, interval }) in point.outcomes.iter().enumerate() {
            let wide = (*of as f32) * (WIDE - 2.0 * MARGIN - 70.0);
            let bar = Rectangle::new().set("x", x).set("y", TOP).set("width", wide).set("height", 18.0);
            self.shape(
                bar.set("fill", look.side(OUTCOMES + number))
                    .set("fill-opacity", 0.35)
                    .set("stroke", look.paper),
            );
            self.text(
                &fitted(&format!("{name} {} ({})", share(*of), between(interval)), 11.0, wide - 8.0),
                (x + 6.0, TOP + 13.0),
                11.0,
                Held::Start,
                false,
            );
            x += wide;
        }
        let attacks: Vec<&MeansPoint> =
            point.means.iter().filter(|means| means.dealt > 0.0).take(MOST_MEANS).collect();
        let below = 46.0 + MEANS_ROW * attacks.len() as f32;
        let mut fighters: Vec<_> = point.fighters.iter().collect();
        let left_out = fighters.len().saturating_sub(MOST);
        if left_out > 0 {
            fighters.sort_by(|a, b| b.died.total_cmp(&a.died));
            fighters.truncate(MOST);
        }
        let top = TOP + 62.0;
        let row = ((HIGH - 60.0 - below - top) / fighters.len().max(1) as f32).min(44.0);
        let bottom = top + row * fighters.len() as f32;
        let longest =
            fighters.iter().filter_map(|fighter| fighter.time).map(|time| time.high).fold(0.0, f64::max);
        let most = fighters.iter().map(|fighter| fighter.dealt.high).fold(0.0, f64::max);
        let when = Panel { left: 250.0, right: 760.0, top, bottom, most: round_up(longest) };
        let dealt = Panel { left: 810.0, right: 1250.0, top, bottom, most: round_up(most) };
        self.text("died in", (214.0, top - 12.0), 11.0, Held::Middle, false);
        self.text("when it died, in seconds", (when.left, top - 12.0), 11.0, Held::Start, false);
        self.text("damage that it dealt, in points", (dealt.left, top - 12.0), 11.0, Held::Start, false);
        self.scale(&when, " s");
        self.scale(&dealt, "");
        for (number, fighter) in fighters.into_iter().enumerate() {
            let y = top + row * (number as f32 + 0.5);
            self.text(&fitted(&fighter.name, 11.0, 160.0), (MARGIN, y + 4.0), 11.0, Held::Start, false);
            self.text(&share(fighter.died), (232.0, y + 4.0), 10.0, Held::End, true);
            if let Some(time) = &fighter.time {
                self.band(&when, y, time, look.side(1));
            }
            self.band(&dealt, y, &fighter.dealt, look.side(0));
        }
        self.means(&attacks, bottom + 58.0);
        let more = if left_out > 0 {
            format!(" · {left_out} that died in fewest runs are left out")
        } else {
            String::new()
        };
        let key = format!("bars: p10 to p90; stroke: the median{more}");
        self.text(&key, (MARGIN, HIGH - 14.0), 10.0, Held::Start, true);
    }

    /// A row for each attack: what became of its swings, and its share of its team's damage.
    fn means(&mut self, all: &[&MeansPoint], top: f32) {
        let look = self.look;
        let bottom = top + MEANS_ROW * all.len() as f32;
        let most = all.iter().map(|means| means.dealt).fold(0.0, f64::max);
        let fate = Panel { left: 250.0, right: 760.0, top, bottom, most: 1.0 };
        let dealt = Panel { left: 810.0, right: 1250.0, top, bottom, most: round_up(most) };
        if all.is_empty() {
            return;
        }
        let heads = "of its swings that landed, and of its touches that were dodged and blocked";
        self.text(heads, (fate.left, top - 12.0), 11.0, Held::Start, false);
        self.text(
            "damage in a run, in points (share of its team's)",
            (dealt.left, top - 12.0),
            11.0,
            Held::Start,
            false,
        );
        for (number, means) in all.iter().enumerate() {
            let y = top + MEANS_ROW * (number as f32 + 0.5);
            self.text(&fitted(&means.name, 11.0, 130.0), (MARGIN, y + 4.0), 11.0, Held::Start, false);
            self.text(&fitted(&means.team, 10.0, 90.0), (150.0, y + 4.0), 10.0, Held::Start, true);
            let shares =
                [("landed", means.landed, 2), ("dodged", means.dodged, 3), ("blocked", means.blocked, 4)];
            for (place, (word, of, colour)) in shares.into_iter().enumerate() {
                let left = fate.left + 172.0 * place as f32;
                let wide = 60.0;
                let frame =
                    Rectangle::new().set("x", left).set("y", y - 5.0).set("width", wide).set("height", 10.0);
                self.shape(frame.set("fill", "none").set("stroke", look.rule));
                let Some(of) = of else {
                    self.text("-", (left + wide + 8.0, y + 4.0), 10.0, Held::Start, true);
                    continue;
                };
                let bar = Rectangle::new()
                    .set("x", left)
                    .set("y", y - 5.0)
                    .set("width", wide * of as f32)
                    .set("height", 10.0);
                self.shape(bar.set("fill", look.side(colour)).set("fill-opacity", 0.45));
                self.text(
                    &format!("{} {word}", share(of)),
                    (left + wide + 8.0, y + 4.0),
                    10.0,
                    Held::Start,
                    true,
                );
            }
            let width = dealt.x(means.dealt) - dealt.left;
            let bar = Rectangle::new()
                .set("x", dealt.left)
                .set("y", y - 5.0)
                .set("width", width)
                .set("height", 10.0);
            self.shape(bar.set("fill", look.side(0)).set("fill-opacity", 0.35));
            let words = format!("{:.1} ({})", means.dealt, share(means.of_team));
            let room = width + 100.0 > dealt.right - dealt.left;
            let (x, held) = if room {
                (dealt.left + width - 6.0, Held::End)
            } else {
                (dealt.left + width + 6.0, Held::Start)
            };
            self.text(&words, (x, y + 4.0), 10.0, held, !room);
        }
    }

    /// Several points: three panels over the values.
    fn several(&mut self, points: &[Point], varied: &[&str]) {
        let (left, right) = (64.0f32, 1070.0f32);
        let x = |place: usize| {
            left + 14.0 + place as f32 / (points.len() - 1).max(1) as f32 * (right - left - 28.0)
        };
        let each = (HIGH - TOP - 70.0) / 3.0;
        let panel = |number: usize, most: f64| Panel {
            left,
            right,
            top: TOP + 24.0 + each * number as f32,
            bottom: TOP + each * (number as f32 + 1.0) - 12.0,
            most,
        };
        let ends = panel(0, 1.0);
        let longest = points.iter().map(|point| point.seconds.high).fold(0.0, f64::max);
        let takes = panel(1, round_up(longest));
        let most =
            points.iter().flat_map(|point| &point.teams).map(|team| team.deaths.mean).fold(0.0, f64::max);
        let deaths = panel(2, round_up(most));
        for (panel, words, unit) in [
            (&ends, "how it ends: share of the runs", "%"),
            (&takes, "duration in seconds: median, and p10 to p90 as a band", ""),
            (&deaths, "deaths: mean by team", ""),
        ] {
            self.text(words, (left, panel.top - 7.0), 11.0, Held::Start, false);
            let values = if unit == "%" { vec![0.0, 0.5, 1.0] } else { ticks(panel.most) };
            for value in values {
                let y = panel.y(value);
                self.rule((left, y), (right, y));
                let text = if unit == "%" { share(value) } else { plain(value) };
                self.text(&text, (left - 6.0, y + 3.5), 10.0, Held::End, true);
            }
        }
        let mut outcomes: Vec<&str> = Vec::new();
        for OutcomePoint { name, .. } in points.iter().flat_map(|point| &point.outcomes) {
            if !outcomes.contains(&name.as_str()) {
                outcomes.push(name);
            }
        }
        for (number, outcome) in outcomes.iter().enumerate() {
            let found = |point: &Point| point.outcomes.iter().find(|one| one.name == *outcome).cloned();
            let of = |point: &Point| found(point).map_or(0.0, |one| one.share);
            let low = |point: &Point| ends.y(found(point).map_or(0.0, |one| one.interval.low));
            let high = |point: &Point| ends.y(found(point).map_or(0.0, |one| one.interval.high));
            let band = |end: &dyn Fn(&Point) -> f32| -> Vec<(f32, f32)> {
                points.iter().enumerate().map(|(place, point)| (x(place), end(point))).collect()
            };
            self.band_between(&band(&high), &band(&low), OUTCOMES + number);
            self.way(
                points.iter().enumerate().map(|(place, point)| (x(place), ends.y(of(point)))),
                OUTCOMES + number,
            );
            self.named(outcome, OUTCOMES + number, ends.top + 14.0 + number as f32 * 20.0);
        }
        self.durations(points, x, &takes);
        self.way(
            points.iter().enumerate().map(|(place, point)| (x(place), takes.y(point.seconds.middle))),
            0,
        );
        let teams = points.first().map_or(0, |point| point.teams.len());
        for number in 0..teams {
            let of = |point: &Point| point.teams.get(number).map_or(0.0, |team| team.deaths.mean);
            self.way(points.iter().enumerate().map(|(place, point)| (x(place), deaths.y(of(point)))), number);
            let name = points[0].teams[number].name.clone();
            self.named(&name, number, deaths.top + 14.0 + number as f32 * 20.0);
        }
        // Values whose labels would meet others go without.
        for (place, point) in points.iter().enumerate() {
            self.text(&point.values.join(", "), (x(place), HIGH - 40.0), 10.0, Held::Middle, false);
        }
        let below = format!("values of {}", varied.join(", "));
        self.text(
            &fitted(&below, 11.0, right - left),
            ((left + right) / 2.0, HIGH - 20.0),
            11.0,
            Held::Middle,
            false,
        );
    }

    /// From p10 to p90 of the duration.
    fn durations(&mut self, points: &[Point], x: impl Fn(usize) -> f32, takes: &Panel) {
        let way = |of: &dyn Fn(&Spread) -> f64| -> Vec<(f32, f32)> {
            points.iter().enumerate().map(|(place, point)| (x(place), takes.y(of(&point.seconds)))).collect()
        };
        self.band_between(&way(&|seconds| seconds.high), &way(&|seconds| seconds.low), 0);
    }

    /// What lies between two lines.
    fn band_between(&mut self, high: &[(f32, f32)], low: &[(f32, f32)], number: usize) {
        let mut band = String::new();
        for (x, y) in high.iter().chain(low.iter().rev()) {
            band.push_str(&format!("{}{x:.1} {y:.1}", if band.is_empty() { "M" } else { "L" }));
        }
        let colour = self.look.side(number);
        self.shape(Path::new().set("d", band + "z").set("fill", colour).set("fill-opacity", 0.18));
    }

    /// Several points over two values: a field for each pair, the darker the more often they end in the most frequent way.
    fn heat(&mut self, points: &[Point], varied: &[&str]) {
        let mut of: [Vec<&str>; 2] = [Vec::new(), Vec::new()];
        for point in points {
            for (axis, value) in of.iter_mut().zip(&point.values) {
                if !axis.contains(&value.as_str()) {
                    axis.push(value);
                }
            }
        }
        let mut sums: Vec<(&str, f64)> = Vec::new();
        for one in points.iter().flat_map(|point| &point.outcomes) {
            match sums.iter_mut().find(|(name, _)| *name == one.name) {
                Some((_, sum)) => *sum += one.share,
                None => sums.push((&one.name, one.share)),
            }
        }
        let most = sums.iter().max_by(|one, two| one.1.total_cmp(&two.1)).map_or("", |(name, _)| *name);
        let [across, down] = &of;
        let (left, top) = (150.0f32, TOP + 36.0);
        let field = (
            (WIDE - left - MARGIN) / across.len().max(1) as f32,
            (HIGH - top - 70.0) / down.len().max(1) as f32,
        );
        let heading = format!("share of the runs that end {most}, and the median of the seconds");
        self.text(&heading, (left, TOP + 12.0), 11.0, Held::Start, false);
        for (place, value) in across.iter().enumerate() {
            let x = left + field.0 * (place as f32 + 0.5);
            self.text(&fitted(value, 10.0, field.0 - 4.0), (x, top - 8.0), 10.0, Held::Middle, false);
        }
        for (place, value) in down.iter().enumerate() {
            let y = top + field.1 * (place as f32 + 0.5) + 4.0;
            self.text(&fitted(value, 10.0, left - 40.0), (left - 8.0, y), 10.0, Held::End, false);
        }
        for point in points {
            let at = |axis: usize| {
                let value = point.values.get(axis)?;
                of[axis].iter().position(|known| known == value)
            };
            let (Some(column), Some(row)) = (at(0), at(1)) else { continue };
            let of_it = point.outcomes.iter().find(|one| one.name == most).map_or(0.0, |one| one.share);
            let (x, y) = (left + field.0 * column as f32, top + field.1 * row as f32);
            let cell = Rectangle::new()
                .set("x", x + 1.0)
                .set("y", y + 1.0)
                .set("width", (field.0 - 2.0).max(1.0))
                .set("height", (field.1 - 2.0).max(1.0));
            self.shape(
                cell.set("fill", self.look.side(OUTCOMES))
                    .set("fill-opacity", format!("{:.3}", 0.06 + of_it * 0.7))
                    .set("stroke", self.look.rule),
            );
            let middle = (x + field.0 / 2.0, y + field.1 / 2.0);
            self.text(&share(of_it), (middle.0, middle.1 + 1.0), 12.0, Held::Middle, false);
            let seconds = format!("{} s", plain(point.seconds.middle));
            if field.1 > 34.0 && field.0 > 46.0 {
                self.text(&seconds, (middle.0, middle.1 + 15.0), 10.0, Held::Middle, false);
            }
        }
        let named = [("across", varied.first()), ("down", varied.get(1))];
        let named = named.map(|(way, path)| format!("{way}: {}", path.copied().unwrap_or_default()));
        self.text(&named.join(" · "), (left, HIGH - 44.0), 11.0, Held::Start, false);
        self.text(
            "the darker, the more often; what is not the most frequent is in --format json",
            (left, HIGH - 26.0),
            10.0,
            Held::Start,
            true,
        );
    }

    /// A line through points, told from others by its dashes and marks as well as its colour.
    fn way(&mut self, points: impl Iterator<Item = (f32, f32)>, number: usize) {
        let look = self.look;
        let mut data = String::new();
        let mut marks = Group::new();
        for (x, y) in points {
            data.push_str(&format!("{}{x:.1} {y:.1}", if data.is_empty() { "M" } else { "L" }));
            marks = marks.add(look.side_mark(number, x, y));
        }
        let dash = ["", "6 3", "2 3", "8 3 2 3"][number % 4];
        let way = Path::new().set("d", data).set("fill", "none").set("stroke", look.side(number));
        self.shape(way.set("stroke-width", 1.8).set("stroke-dasharray", dash));
        self.shape(marks);
    }

    fn named(&mut self, name: &str, number: usize, y: f32) {
        self.shape(self.look.side_mark(number, 1092.0, y - 4.0));
        self.text(&fitted(name, 11.0, 150.0), (1106.0, y), 11.0, Held::Start, false);
    }
}
