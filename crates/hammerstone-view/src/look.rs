//! The one visual language of all pictures: a colour and a mark for each side, a shape for each sort of event.
//!
//! Colours are told apart also by those who do not see red and green apart, and differ in lightness; nothing is told by colour alone.

use hammerstone_record::Sort;
use ratatui::style::Color;
use svg::node::element::{Circle, Group, Path};

/// Paper and ink.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub struct Look {
    pub(crate) paper: &'static str,
    pub(crate) ink: &'static str,
    pub(crate) quiet: &'static str,
    pub(crate) rule: &'static str,
    sides: [&'static str; 6],
}

impl Look {
    /// Dark ink on light paper.
    pub const LIGHT: Look = Look {
        paper: "#fbfaf7",
        ink: "#1d2329",
        quiet: "#66707a",
        rule: "#dcd9d2",
        sides: ["#2a6cb0", "#c8641b", "#1f8a70", "#8a5fa8", "#a68a1f", "#5c6670"],
    };

    /// Light ink on dark paper.
    pub const DARK: Look = Look {
        paper: "#101418",
        ink: "#e8e6e1",
        quiet: "#97a1ab",
        rule: "#2b323a",
        sides: ["#6aa9e9", "#f0975a", "#58c4a7", "#c29be0", "#dcc257", "#aab4be"],
    };

    /// These colours as the variables of a style sheet.
    pub(crate) fn variables(&self) -> String {
        let Look { paper, ink, quiet, rule, sides } = self;
        let sides: String = sides.iter().enumerate().map(|(n, side)| format!("--side{n}:{side};")).collect();
        format!("--paper:{paper};--ink:{ink};--quiet:{quiet};--rule:{rule};{sides}")
    }

    /// The colour of a side, by the order in which sides came.
    pub(crate) fn side(&self, number: usize) -> &'static str {
        self.sides[number % self.sides.len()]
    }

    /// The mark of a side: the same as its colour says, for those who do not see it.
    pub(crate) fn side_mark(&self, number: usize, x: f32, y: f32) -> Path {
        let colour = self.side(number);
        let d = match number % 4 {
            0 => format!("M{} {}h8v8h-8z", x - 4.0, y - 4.0),
            1 => format!("M{x} {}l5 9h-10z", y - 5.0),
            2 => format!("M{x} {}l5 5l-5 5l-5 -5z", y - 5.0),
            _ => format!("M{} {}h3v-3h3v3h3v3h-3v3h-3v-3h-3z", x - 4.5, y - 1.5),
        };
        let filled = (number / 4).is_multiple_of(2);
        Path::new().set("d", d).set("fill", if filled { colour } else { "none" }).set("stroke", colour)
    }

    /// The shape of a sort of event at a place, about 8 pixels in size, in a colour.
    pub(crate) fn shape(&self, sort: Sort, x: f32, y: f32, colour: &str) -> Group {
        let path = |d: String, filled: bool| {
            Path::new()
                .set("d", d)
                .set("fill", if filled { colour } else { self.paper })
                .set("stroke", colour)
                .set("stroke-width", 1.4)
        };
        let group = Group::new();
        match sort {
            // On a bar of its own colour, and so with paper around it.
            Sort::Struck => group.add(
                path(format!("M{} {}l8 4l-8 4z", x - 4.0, y - 4.0), true)
                    .set("stroke", self.paper)
                    .set("fill", self.ink),
            ),
            Sort::Damaged => group.add(path(format!("M{} {}h8l-4 7z", x - 4.0, y - 3.5), true)),
            Sort::Healed => group.add(path(format!("M{} {y}h8M{x} {}v8", x - 4.0, y - 4.0), false)),
            Sort::Refused => group.add(
                Circle::new()
                    .set("cx", x)
                    .set("cy", y)
                    .set("r", 2.6)
                    .set("fill", self.paper)
                    .set("stroke", self.quiet)
                    .set("stroke-width", 1.2),
            ),
            Sort::Crossed => group.add(path(format!("M{x} {}l4.5 4.5l-4.5 4.5l-4.5 -4.5z", y - 4.5), false)),
            Sort::Spared => group.add(path(format!("M{} {}h8v4l-4 4l-4 -4z", x - 4.0, y - 4.0), false)),
            Sort::Died => group.add(
                path(format!("M{} {}l9 9M{} {}l-9 9", x - 4.5, y - 4.5, x + 4.5, y - 4.5), false)
                    .set("stroke", self.ink)
                    .set("stroke-width", 2.4),
            ),
            Sort::Returned => group.add(path(format!("M{} {}h8l-4 -7z", x - 4.0, y + 3.5), false)),
            Sort::Said => group.add(path(format!("M{} {}h9v6h-5l-3 3v-3h-1z", x - 4.5, y - 4.5), false)),
            Sort::NotStarted => group.add(path(format!("M{} {}h7v5h-7zl7 5", x - 3.5, y - 2.5), false)),
        }
    }

    /// Where a hit landed: a star of four points.
    pub(crate) fn burst(&self, x: f32, y: f32) -> Group {
        let star = "l1.6 4.4l4.4 1.6l-4.4 1.6l-1.6 4.4l-1.6 -4.4l-4.4 -1.6l4.4 -1.6z";
        let star = Path::new().set("d", format!("M{x:.1} {:.1}{star}", y - 6.0));
        Group::new().add(star.set("fill", self.ink).set("stroke", self.paper).set("stroke-width", 0.8))
    }

    /// The mark of a side in a terminal.
    pub(crate) fn side_letter(number: usize) -> &'static str {
        ["■", "▲", "◆", "✚", "□", "△", "◇", "+"][number % 8]
    }

    /// The colour of a side in a terminal, out of those that every terminal has.
    pub(crate) fn side_colour(number: usize) -> Color {
        [Color::LightBlue, Color::Yellow, Color::Green, Color::Magenta, Color::Cyan, Color::Gray][number % 6]
    }

    /// A sort of event in words, for the key.
    pub(crate) fn sort_text(sort: Sort) -> &'static str {
        match sort {
            Sort::Struck => "hit a target",
            Sort::Damaged => "was damaged",
            Sort::Healed => "was healed",
            Sort::Refused => "a gate refused",
            Sort::Crossed => "threshold",
            Sort::Spared => "death prevented",
            Sort::Died => "died",
            Sort::Returned => "returned",
            Sort::Said => "said",
            Sort::NotStarted => "could not start",
        }
    }
}
