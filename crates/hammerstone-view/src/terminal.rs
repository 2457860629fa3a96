//! One moment of a fight in the cells of a terminal: the map, who is there, the feed, and what a chosen line is made of.

use hammerstone_record::{Account, Figure, Frame, StateLine, StateTable, Told};
use ratatui::buffer::Buffer;
use ratatui::layout::{Constraint, Layout, Rect};
use ratatui::style::{Modifier, Style};
use ratatui::symbols::Marker;
use ratatui::text::{Line, Span};
use ratatui::widgets::canvas::{Canvas, Context, Line as Stroke};
use ratatui::widgets::{Block, Borders, Clear, Paragraph, Widget, Wrap};

use crate::look::Look;
use crate::outline::{NOTHING, Seen, around, axes, both, extent, flat};

/// What is shown.
#[derive(Clone, Copy, Debug)]
pub struct Screen<'a> {
    /// What the fight is called.
    pub title: &'a str,
    /// The moment.
    pub frame: &'a Frame,
    /// The tick, counted on through resets, the last one, and how many make a second.
    pub clock: (u32, u32, u32),
    /// Everything that is told of the run.
    pub told: &'a [Told],
    /// Which of that is chosen.
    pub chosen: usize,
    /// The places of the lines that are shown, in order; all if there are none.
    pub shown: Option<&'a [usize]>,
    /// What is looked for: lines that have it stand out. Empty for nothing.
    pub wanted: &'a str,
    /// What is being typed: what for, and as far as it is there.
    pub typed: Option<(&'a str, &'a str)>,
    /// What is said at the foot in place of the keys.
    pub note: Option<&'a str>,
    /// How many combatants are scrolled past, where there are more than lines.
    pub scrolled: usize,
    /// What the chosen line is made of, if it is a blow or healing.
    pub account: Option<&'a Account>,
    /// How everything stands, if that is shown in place of the details.
    pub state: Option<&'a StateTable>,
    /// Whether time goes on by itself, and how fast.
    pub playing: bool,
    /// How many times as fast as it was.
    pub speed: f64,
    /// Whether the map is seen from the side.
    pub from_the_side: bool,
    /// Whether the keys are shown.
    pub help: bool,
    /// Whether there may be colours.
    pub colours: bool,
}

/// The keys, for the help.
const KEYS: [(&str, &str); 16] = [
    ("space", "play, pause"),
    ("→ ←", "a tick on, back"),
    ("] [", "a second on, back"),
    ("h r d", "the next hit, refusal, death; H R D the one before"),
    ("↓ ↑", "the next line of the feed, the one before"),
    ("/", "look for a text or a topic; n N the next, the one before"),
    ("f", "only lines with a text or a topic"),
    ("t", "stop where a text or a topic comes"),
    ("j k", "the list of combatants down, up"),
    ("l", "read the files again; a change of them does it by itself"),
    ("+ -", "faster, slower"),
    ("v", "from above, from the side"),
    ("c", "contacts in the feed, or not"),
    ("s", "how everything stands, or the details"),
    ("home end", "the beginning, the end"),
    ("q", "leave"),
];

/// Draws the moment. Where the terminal is small, the map goes first, then the ledger; with less than 24 columns or 6 lines there is
/// only a line that says so.
pub fn screen(screen: &Screen<'_>, area: Rect, cells: &mut Buffer) {
    if area.width < 24 || area.height < 6 {
        Paragraph::new("too small").render(area, cells);
        return;
    }
    let [head, body, foot] =
        Layout::vertical([Constraint::Length(1), Constraint::Min(1), Constraint::Length(1)]).areas(area);
    Paragraph::new(heading(screen)).render(head, cells);
    match (screen.typed, screen.note) {
        (Some((what, text)), _) => {
            let line = vec![Span::raw(format!(" {what}: ")), Span::styled(format!("{text}▏"), strong())];
            Paragraph::new(Line::from(line)).render(foot, cells);
        }
        (None, Some(note)) => Paragraph::new(format!(" {note}")).style(strong()).render(foot, cells),
        (None, None) => {
            Paragraph::new(" space plays · → ← step · h r d jump · / looks for · ? keys · q leaves")
                .style(quiet())
                .render(foot, cells)
        }
    }
    let (wide, tall) = (area.width >= 72, area.height >= 20);
    let (upper, lower) = if tall {
        let [upper, lower] =
            Layout::vertical([Constraint::Percentage(56), Constraint::Percentage(44)]).areas(body);
        (upper, lower)
    } else {
        let [upper, lower] =
            Layout::vertical([Constraint::Percentage(45), Constraint::Percentage(55)]).areas(body);
        (upper, lower)
    };
    if wide {
        let [left, right] = Layout::horizontal([Constraint::Percentage(58), Constraint::Percentage(42)])
            .spacing(1)
            .areas(upper);
        map(screen, left, cells);
        people(screen, right, cells);
        let [left, right] = Layout::horizontal([Constraint::Percentage(58), Constraint::Percentage(42)])
            .spacing(1)
            .areas(lower);
        feed(screen, left, cells);
        match screen.state {
            Some(table) => standing(table, right, cells),
            None => ledger(screen, right, cells),
        }
    } else {
        people(screen, upper, cells);
        match screen.state {
            Some(table) => standing(table, lower, cells),
            None => feed(screen, lower, cells),
        }
    }
    if screen.help {
        keys(area, cells);
    }
}

fn quiet() -> Style {
    Style::new().add_modifier(Modifier::DIM)
}

fn strong() -> Style {
    Style::new().add_modifier(Modifier::BOLD)
}

fn of_side(screen: &Screen<'_>, side: usize) -> Style {
    if screen.colours { Style::new().fg(Look::side_colour(side)) } else { Style::new() }
}

fn heading(screen: &Screen<'_>) -> Line<'static> {
    let (tick, last, rate) = screen.clock;
    let seconds = |tick: u32| f64::from(tick.saturating_sub(1)) / f64::from(rate.max(1));
    let stand = screen.frame.figures.iter().filter(|figure| figure.stands).count();
    let state = if screen.playing { "plays" } else { "paused" };
    Line::from(vec![
        Span::styled(format!(" {:.2} s", seconds(tick)), strong()),
        Span::raw(format!(
            " of {:.2}, tick {tick} · {stand} stand · {state}, {}x · ",
            seconds(last + 1),
            screen.speed
        )),
        Span::styled(screen.title.to_owned(), quiet()),
    ])
}

fn boxed(title: &str) -> Block<'_> {
    Block::new()
        .borders(Borders::TOP)
        .border_style(quiet())
        .title(Span::styled(format!(" {title} "), strong()))
}

/// The moment as a map.
fn map(screen: &Screen<'_>, area: Rect, cells: &mut Buffer) {
    let frame = screen.frame;
    let places = frame.figures.iter().map(|figure| flat(figure.at, frame.up, Seen::ABOVE));
    let field = places.fold(NOTHING, |field, [u, v]| both(field, [u, v, u, v]));
    let seen = if screen.from_the_side { Seen::lengthwise(field).sideways() } else { Seen::ABOVE };
    let [across, upward] = axes(frame.up, seen);
    let from = if screen.from_the_side { "from the side" } else { "from above" };
    let title = format!("{from}: {across} to the right, {upward} up");
    let block = boxed(&title);
    let inner = block.inner(area);
    let parts = frame.figures.iter().flat_map(|figure| &figure.parts).map(|part| part.at(1.0));
    let open = || frame.hitboxes.iter().filter(|hitbox| hitbox.open);
    let shapes = parts.chain(open().map(|hitbox| hitbox.end));
    let mut bounds = shapes.map(|shape| extent(&shape, frame.up, seen)).fold(NOTHING, both);
    if bounds[0] > bounds[2] {
        bounds = [-3.0, -3.0, 3.0, 3.0];
    }
    // In whole steps, so that the map does not tremble while they walk.
    const STEP: f32 = 2.0;
    let low = |value: f32| ((value - 0.5) / STEP).floor() * STEP;
    let high = |value: f32| ((value + 0.5) / STEP).ceil() * STEP;
    let bounds = [low(bounds[0]), low(bounds[1]), high(bounds[2]), high(bounds[3])];
    // A cell is about twice as high as wide.
    let (columns, rows) = (f32::from(inner.width.max(1)), f32::from(inner.height.max(1)) * 2.0);
    let metre = ((bounds[2] - bounds[0]) / columns).max((bounds[3] - bounds[1]) / rows);
    let middle = [(bounds[0] + bounds[2]) / 2.0, (bounds[1] + bounds[3]) / 2.0];
    let half = [columns * metre / 2.0, rows * metre / 2.0];
    let range = |axis: usize| [f64::from(middle[axis] - half[axis]), f64::from(middle[axis] + half[axis])];
    let colour = |side: usize| of_side(screen, side).fg.unwrap_or_default();
    let sides = |who: Option<hammerstone::ids::CombatantId>| {
        who.and_then(|who| frame.figures.iter().find(|figure| figure.id == who))
            .map_or(5, |figure| figure.side)
    };
    Canvas::default()
        .block(block)
        .marker(Marker::Braille)
        .x_bounds(range(0))
        .y_bounds(range(1))
        .paint(|context| {
            for figure in frame.figures.iter().filter(|figure| figure.stands) {
                for part in &figure.parts {
                    outline(context, &around(&part.at(1.0), frame.up, seen), colour(figure.side));
                }
            }
            context.layer();
            for hitbox in open() {
                let points = around(&hitbox.end, frame.up, seen);
                outline(context, &points, colour(sides(hitbox.attacker)));
                // Filled, so that it is told from a body without colour.
                hatch(context, &points, colour(sides(hitbox.attacker)));
            }
        })
        .render(area, cells);
    let cell = |place: [f32; 3]| {
        let [u, v] = flat(place, frame.up, seen);
        let column = (u - middle[0] + half[0]) / metre;
        let row = (middle[1] + half[1] - v) / metre / 2.0;
        let inside = column >= 0.0 && row >= 0.0 && column < columns && row * 2.0 < rows;
        inside.then(|| (inner.x + column as u16, inner.y + row as u16))
    };
    marks(screen, inner, cells, &cell);
}

/// Marks and names of combatants, and touches. A name stands beside its mark where it covers no other, or is left out.
fn marks(
    screen: &Screen<'_>,
    inner: Rect,
    cells: &mut Buffer,
    cell: &dyn Fn([f32; 3]) -> Option<(u16, u16)>,
) {
    let mut taken: Vec<(u16, u16)> = Vec::new();
    let mut names = Vec::new();
    for figure in &screen.frame.figures {
        let Some((x, y)) = cell(figure.at) else { continue };
        let mark = if figure.stands { Look::side_letter(figure.side) } else { "x" };
        let style = if figure.stands { of_side(screen, figure.side) } else { quiet() };
        cells.set_string(x, y, mark, style.add_modifier(Modifier::BOLD));
        taken.push((x, y));
        names.push((x, y, &figure.name, style));
    }
    for touch in &screen.frame.touches {
        let Some((x, y)) = cell(touch.point) else { continue };
        let mark = if touch.came == hammerstone_record::Came::Hit { "*" } else { "o" };
        cells.set_string(x, y, mark, strong());
        taken.push((x, y));
    }
    for (x, y, name, style) in names {
        let long = name.chars().count() as u16;
        let beside = [(x + 1, y), (x.wrapping_sub(long), y), (x, y.wrapping_sub(1)), (x, y + 1)];
        let free = |&(left, row): &(u16, u16)| {
            let inside = left >= inner.left()
                && left.saturating_add(long) <= inner.right()
                && row >= inner.top()
                && row < inner.bottom();
            inside && (left..left + long).all(|column| !taken.contains(&(column, row)))
        };
        if let Some(&(left, row)) = beside.iter().find(|place| free(place)) {
            cells.set_string(left, row, name, style);
            // And a cell after it, so that two names are told apart.
            taken.extend((left..=left + long).map(|column| (column, row)));
        }
    }
}

fn outline(context: &mut Context<'_>, points: &[[f32; 2]], color: ratatui::style::Color) {
    for (place, from) in points.iter().enumerate() {
        let to = points[(place + 1) % points.len()];
        let [x1, y1, x2, y2] = [from[0], from[1], to[0], to[1]].map(f64::from);
        context.draw(&Stroke { x1, y1, x2, y2, color });
    }
}

/// Lines from each point of an outline to the one across.
fn hatch(context: &mut Context<'_>, points: &[[f32; 2]], color: ratatui::style::Color) {
    let count = points.len();
    for place in 0..count / 2 {
        let (from, to) = (points[place], points[count - 1 - place]);
        let [x1, y1, x2, y2] = [from[0], from[1], to[0], to[1]].map(f64::from);
        context.draw(&Stroke { x1, y1, x2, y2, color });
    }
}

/// Health as bars, with gauges, holds and statuses. Where there are more than lines, those who take part in the tick come first, and the rest is counted.
fn people(screen: &Screen<'_>, area: Rect, cells: &mut Buffer) {
    let block = boxed("combatants");
    let inner = block.inner(area);
    block.render(area, cells);
    let mut figures: Vec<&Figure> = screen.frame.figures.iter().collect();
    let room = usize::from(inner.height);
    let more = figures.len().saturating_sub(room);
    let mut past = 0;
    if more > 0 {
        let open = |figure: &Figure| {
            screen.frame.hitboxes.iter().any(|hitbox| hitbox.open && hitbox.attacker == Some(figure.id))
        };
        let told = |figure: &Figure| screen.frame.told.iter().any(|text| text.contains(&figure.name));
        figures.sort_by_key(|figure| (!told(figure), !open(figure), !figure.stands));
        let room = room.saturating_sub(1);
        past = screen.scrolled.min(figures.len().saturating_sub(room));
        figures = figures.split_off(past);
        figures.truncate(room);
    }
    // Gauges have bars of their own where there are lines for all of them; else they are words.
    let gauges: usize = figures.iter().map(|figure| gauges_of(figure).len()).sum();
    let with_bars = more == 0 && figures.len() + gauges <= room;
    let named = figures.iter().flat_map(|figure| {
        let gauges = gauges_of(figure).iter().filter(|_| with_bars).map(|(name, ..)| name);
        gauges.chain(Some(&figure.name)).map(|name| name.chars().count())
    });
    let longest = named.max().unwrap_or(0).min(16);
    let wide = usize::from(inner.width).saturating_sub(longest + 14).clamp(4, 16);
    let mut lines: Vec<Line<'_>> = Vec::new();
    for figure in &figures {
        let name: String = figure.name.chars().take(longest).collect();
        let style = if figure.stands { of_side(screen, figure.side) } else { quiet() };
        let mark = if figure.stands { Look::side_letter(figure.side) } else { "x" };
        let mut line = vec![Span::styled(format!("{mark} {name:longest$} "), style)];
        line.extend(bar(figure.health, wide, ["█", "░"], style));
        line.push(Span::styled(if with_bars { figure.borne() } else { figure.rest() }, quiet()));
        lines.push(Line::from(line));
        for (name, points, max) in gauges_of(figure).iter().filter(|_| with_bars) {
            let name: String = name.chars().take(longest).collect();
            let mut line = vec![Span::styled(format!("  {name:>longest$} "), quiet())];
            line.extend(bar((*points, *max), wide, ["━", "╌"], style));
            lines.push(Line::from(line));
        }
    }
    if more > 0 {
        let below = screen.frame.figures.len() - figures.len() - past;
        lines.push(Line::styled(format!("{past} above, {below} below: j k"), quiet()));
    }
    if lines.is_empty() {
        lines.push(Line::styled("no combatants", quiet()));
    }
    Paragraph::new(lines).render(inner, cells);
}

/// What is drawn of its gauges: all, as long as it stands.
fn gauges_of(figure: &Figure) -> &[(String, i64, i64)] {
    if figure.stands { &figure.gauges } else { &[] }
}

/// A bar of so many cells, then both numbers.
fn bar((now, most): (i64, i64), wide: usize, [full, empty]: [&str; 2], style: Style) -> [Span<'static>; 3] {
    let share = if most > 0 { now.max(0) as f64 / most as f64 } else { 0.0 };
    // Where anything is left, there is a piece of a bar.
    let filled = ((share * wide as f64).ceil() as usize).min(wide);
    [
        Span::styled(full.repeat(filled), style),
        Span::styled(empty.repeat(wide - filled), quiet()),
        Span::raw(format!(" {now}/{most} ")),
    ]
}

/// The feed around the chosen line.
fn feed(screen: &Screen<'_>, area: Rect, cells: &mut Buffer) {
    let block = boxed("events");
    let inner = block.inner(area);
    block.render(area, cells);
    let room = usize::from(inner.height);
    let (clock, _, rate) = screen.clock;
    let all: Vec<usize>;
    let list = match screen.shown {
        Some(list) => list,
        None => {
            all = (0..screen.told.len()).collect();
            &all
        }
    };
    let at = list.partition_point(|&place| place < screen.chosen);
    let first = at.saturating_sub(room.saturating_sub(1) / 2).min(list.len().saturating_sub(room));
    let mut lines: Vec<Line<'_>> = Vec::new();
    let wanted = screen.wanted.to_lowercase();
    for &place in list.iter().skip(first).take(room) {
        let told = &screen.told[place];
        let seconds = f64::from(told.clock.saturating_sub(1)) / f64::from(rate.max(1));
        let pointer = if place == screen.chosen { ">" } else { " " };
        let text = format!("{pointer}{seconds:>7.2}s {} {}", told.mark, told.text);
        let mut style = match told.clock {
            _ if place == screen.chosen => strong().add_modifier(Modifier::REVERSED),
            then if then == clock => strong(),
            then if then > clock => quiet(),
            _ => Style::new(),
        };
        if !wanted.is_empty() && told.text.to_lowercase().contains(&wanted) {
            style = style.add_modifier(Modifier::UNDERLINED);
        }
        if place == screen.chosen {
            // The one that is read is read whole.
            lines.extend(
                wrapped(&text, usize::from(inner.width)).into_iter().map(|text| Line::styled(text, style)),
            );
        } else {
            lines.push(Line::styled(text, style));
        }
    }
    if lines.is_empty() {
        lines.push(Line::styled("no line has that", quiet()));
    }
    Paragraph::new(lines).render(inner, cells);
}

/// A text in lines of so many letters, those after the first indented.
fn wrapped(text: &str, width: usize) -> Vec<String> {
    const INDENT: usize = 12;
    let mut lines = vec![String::new()];
    for word in text.split_inclusive(' ') {
        let last = lines.last_mut();
        let has_room =
            last.as_ref().is_some_and(|line| line.chars().count() + word.trim_end().chars().count() <= width);
        match last {
            Some(line) if has_room || line.trim().is_empty() => line.push_str(word),
            _ => lines.push(format!("{:INDENT$}{word}", "")),
        }
    }
    lines
}

/// How everything stands: the encounter, then each combatant.
fn standing(table: &StateTable, area: Rect, cells: &mut Buffer) {
    let block = boxed("how everything stands");
    let inner = block.inner(area);
    block.render(area, cells);
    let line = |of: &[StateLine]| {
        let name = of[0].of.as_deref().unwrap_or("the encounter");
        let told: Vec<String> = of.iter().map(|line| format!("{} {}", line.what, line.value)).collect();
        Line::from(vec![Span::styled(format!("{name}: "), strong()), Span::raw(told.join(" · "))])
    };
    let lines: Vec<Line<'_>> = table.lines.chunk_by(|one, next| one.of == next.of).map(line).collect();
    Paragraph::new(lines).wrap(Wrap { trim: true }).render(inner, cells);
}

/// What the chosen line is made of.
fn ledger(screen: &Screen<'_>, area: Rect, cells: &mut Buffer) {
    let block = boxed("details");
    let inner = block.inner(area);
    block.render(area, cells);
    let Some(account) = screen.account else {
        let text = screen.told.get(screen.chosen).map_or("", |told| told.text.as_str());
        let hint = "h goes to the next hit, whose amounts stand here step by step";
        let lines = vec![Line::styled(text, strong()), Line::default(), Line::styled(hint, quiet())];
        Paragraph::new(lines).wrap(Wrap { trim: true }).render(inner, cells);
        return;
    };
    let mut lines = Vec::new();
    let by = account.source.as_deref().unwrap_or("environment");
    let part = account.part.as_ref().map_or(String::new(), |part| format!(", {part}"));
    lines.push(Line::styled(format!("{by}'s {} on {}{part}", account.name, account.target), strong()));
    for amount in &account.amounts {
        let damage_type = amount.damage_type.as_deref().unwrap_or("healing");
        let critical = if account.critical { ", critical" } else { "" };
        lines.push(Line::from(format!("{damage_type}: {}{critical}", amount.amount)));
        for row in &amount.ledger {
            lines.push(Line::from(vec![
                Span::raw(format!(" {:<11} {:>9} ", row.step, row.after)),
                Span::styled(row.note.clone(), quiet()),
            ]));
        }
    }
    if let Some([from, to, max]) = account.health {
        lines.push(Line::from(format!("health {from} to {to}, of {max}")));
    }
    lines.extend(account.followed.iter().map(|text| Line::from(format!("then {text}"))));
    lines.extend(
        account
            .heard
            .iter()
            .map(|heard| Line::styled(format!("{} heard by {}", heard.topic, heard.by.join(", ")), quiet())),
    );
    Paragraph::new(lines).wrap(Wrap { trim: false }).render(inner, cells);
}

/// The keys, over everything else.
fn keys(area: Rect, cells: &mut Buffer) {
    let wide = area.width.min(64);
    let high = area.height.min(KEYS.len() as u16 + 2);
    let place = Rect::new(area.x + (area.width - wide) / 2, area.y + (area.height - high) / 2, wide, high);
    Clear.render(place, cells);
    let lines: Vec<Line<'_>> = KEYS
        .iter()
        .map(|(key, words)| Line::from(vec![Span::styled(format!(" {key:<9}"), strong()), Span::raw(*words)]))
        .collect();
    Paragraph::new(lines).block(Block::bordered().title(" keys ")).render(place, cells);
}
