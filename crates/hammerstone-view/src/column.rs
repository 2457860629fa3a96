//! The column beside one tick: who is there, and what became true.

use std::collections::BTreeMap;

use hammerstone_record::{Figure, Frame};
use svg::node::element::{Group, Line, Rectangle};

use crate::frame::{MARGIN, TOP, sides};
use crate::labels::{Area, Held, LEAST, Labels, width};
use crate::look::Look;
use crate::page::{AddSome, HIGH, WIDE, fitted, wrapped};
use crate::panel::takes_part;

/// Where it begins.
pub(crate) const COLUMN: f32 = 900.0;
/// Its rows, at most.
const ROWS: usize = 22;
const ROW: f32 = 19.0;

/// A row of the column.
enum Row<'a> {
    One(&'a Figure),
    /// One whose gauges follow.
    WithGauges(&'a Figure),
    /// A gauge of the one above, by its place.
    Gauge(&'a Figure, usize),
    /// A team's number and name, with those who are gathered.
    Several(usize, &'a str, Vec<&'a Figure>),
}

/// Who is there, and the events of the tick.
pub(crate) fn column(frame: &Frame, look: &Look, labels: &mut Labels) -> (Group, Group) {
    let (mut drawn, mut written) = (Group::new(), Group::new().set("fill", look.ink));
    let mut y = TOP + 12.0;
    for row in rows_of(frame) {
        (drawn, written) = one_row(&row, y, look, labels, (drawn, written));
        y += ROW;
    }
    y += 8.0;
    drawn = drawn.add(
        Line::new()
            .set("x1", COLUMN)
            .set("x2", AREA[2])
            .set("y1", y - 4.0)
            .set("y2", y - 4.0)
            .set("stroke", look.rule),
    );
    y += 12.0;
    written = written.add_some(labels.place("in this tick", (COLUMN + 2.0, y), 11.0, Held::Start, AREA));
    (drawn, events(frame, y + 17.0, labels, written))
}

const AREA: Area = [COLUMN, TOP, WIDE - MARGIN, HIGH - 54.0];

/// One row for each combatant and, if they fit, each gauge, as far as there is room for all; else for those who take part, and one for each team.
fn rows_of(frame: &Frame) -> Vec<Row<'_>> {
    let mut figures: Vec<&Figure> = frame.figures.iter().collect();
    figures.sort_by_key(|figure| (figure.side, !figure.stands));
    let mut rows: Vec<Row<'_>> = Vec::new();
    let gauges: usize = figures.iter().filter(|figure| figure.stands).map(|figure| figure.gauges.len()).sum();
    if figures.len() + gauges <= ROWS {
        for figure in figures {
            if figure.stands && !figure.gauges.is_empty() {
                rows.push(Row::WithGauges(figure));
                rows.extend((0..figure.gauges.len()).map(|place| Row::Gauge(figure, place)));
            } else {
                rows.push(Row::One(figure));
            }
        }
        return rows;
    }
    if figures.len() <= ROWS {
        rows.extend(figures.into_iter().map(Row::One));
        return rows;
    }
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
    rows
}

/// A row: the side, the name, health or a gauge as a bar and a number, and what else there is to say.
fn one_row(
    row: &Row<'_>,
    y: f32,
    look: &Look,
    labels: &mut Labels,
    (mut drawn, mut written): (Group, Group),
) -> (Group, Group) {
    let (side, name, now, most, rest) = match row {
        Row::One(figure) => {
            let rest = if figure.stands { figure.rest() } else { "dead".to_owned() };
            (figure.side, figure.name.clone(), figure.health.0, figure.health.1, rest)
        }
        Row::WithGauges(figure) => {
            (figure.side, figure.name.clone(), figure.health.0, figure.health.1, figure.borne())
        }
        Row::Gauge(figure, place) => {
            let (name, points, max) = figure.gauges[*place].clone();
            (figure.side, name, points, max, String::new())
        }
        Row::Several(side, team, all) => {
            let standing = all.iter().filter(|figure| figure.stands).count();
            let sum = |of: fn(&Figure) -> i64| all.iter().map(|figure| of(figure)).sum::<i64>();
            let name = format!("{} of the {team}", all.len());
            (*side, name, sum(|f| f.health.0), sum(|f| f.health.1), format!("{standing} stand"))
        }
    };
    let is_gauge = matches!(row, Row::Gauge(..));
    if is_gauge {
        let name = labels.place(&fitted(&name, 10.0, 110.0), (COLUMN + 26.0, y), 10.0, Held::Start, AREA);
        written = written.add_some(name.map(|text| text.set("fill", look.quiet)));
    } else {
        drawn = drawn.add(look.side_mark(side, COLUMN + 6.0, y - 4.0));
        let name = fitted(&name, 11.0, 120.0);
        written = written.add_some(labels.place(&name, (COLUMN + 16.0, y), 11.0, Held::Start, AREA));
    }
    let (left, wide) = (COLUMN + 142.0, 90.0);
    let share = if most > 0 { (now as f32 / most as f32).clamp(0.0, 1.0) } else { 0.0 };
    // A gauge is thinner than health.
    let (top, high) = if is_gauge { (y - 6.5, 5.0) } else { (y - 9.0, 10.0) };
    let bar =
        |wide: f32| Rectangle::new().set("x", left).set("y", top).set("width", wide).set("height", high);
    drawn = drawn
        .add(bar(wide * share).set("fill", look.side(side)).set("fill-opacity", 0.55))
        .add(bar(wide).set("fill", "none").set("stroke", look.quiet).set("stroke-width", 0.8));
    let text = format!("{now}/{most}");
    written = written.add_some(labels.place(&text, (left + wide + 6.0, y), 10.0, Held::Start, AREA));
    let from = left + wide + 12.0 + width(&text, 10.0);
    let rest = fitted(&rest, LEAST, AREA[2] - from - 2.0);
    let rest = labels.place(&rest, (from, y), LEAST, Held::Start, AREA);
    written = written.add_some(rest.map(|text| text.set("fill", look.quiet)));
    (drawn, written)
}

/// The events of the tick in sentences, as far as there is room.
fn events(frame: &Frame, mut y: f32, labels: &mut Labels, mut written: Group) -> Group {
    if frame.told.is_empty() {
        written = written.add_some(labels.place("no new events", (COLUMN + 6.0, y), 10.0, Held::Start, AREA));
    }
    for (number, text) in frame.told.iter().enumerate() {
        let lines = wrapped(text, 10.0, AREA[2] - COLUMN - 12.0);
        let room = (AREA[3] - y) / 14.0;
        if (lines.len() as f32) > room - 1.0 && number + 1 < frame.told.len() || lines.len() as f32 > room {
            let more = format!("and {} more", frame.told.len() - number);
            written = written.add_some(labels.place(&more, (COLUMN + 6.0, y), 10.0, Held::Start, AREA));
            break;
        }
        for (number, line) in lines.iter().enumerate() {
            let x = COLUMN + if number == 0 { 6.0 } else { 16.0 };
            let line = fitted(line, 10.0, AREA[2] - x - 2.0);
            written = written.add_some(labels.place(&line, (x, y), 10.0, Held::Start, AREA));
            y += 14.0;
        }
    }
    written
}
