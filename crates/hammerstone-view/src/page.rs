//! What pictures have in common: the blank page, the key of sides, and text that fits.

use svg::Document;
use svg::node::element::{Group, Rectangle, Text, Title};

use crate::labels::{Area, Held, Labels, width};
use crate::look::Look;

/// How wide pictures are.
pub(crate) const WIDE: f32 = 1280.0;
/// The height that pictures are made for.
pub(crate) const HIGH: f32 = 800.0;

/// A page with nothing on it but its title for those who cannot see it.
pub(crate) fn blank(title: &str, high: f32, look: &Look) -> Document {
    Document::new()
        .set("xmlns", "http://www.w3.org/2000/svg")
        .set("viewBox", (0.0, 0.0, WIDE, high))
        .set("width", WIDE)
        .set("height", high)
        .add(Title::new(title))
        .add(Rectangle::new().set("width", WIDE).set("height", high).set("fill", look.paper))
}

/// The names of sides with their marks, in a line that ends at `right` at the top of the page; marks, then words.
pub(crate) fn sides(
    look: &Look,
    sides: &[(usize, &str)],
    right: f32,
    labels: &mut Labels,
    page: Area,
) -> (Group, Group) {
    let (mut marks, mut words) = (Group::new(), Group::new());
    let mut x = right;
    for &(number, side) in sides.iter().rev() {
        if let Some(text) = labels.place(side, (x, 26.0), 11.0, Held::End, page) {
            x -= width(side, 11.0) + 10.0;
            marks = marks.add(look.side_mark(number, x, 22.0));
            labels.take([x - 6.0, 14.0, x + 6.0, 30.0]);
            words = words.add(text);
            x -= 18.0;
        }
    }
    (marks, words)
}

/// Adds a node if there is one.
pub(crate) trait AddSome: Sized {
    fn add_some(self, node: Option<Text>) -> Self;
}

impl AddSome for Group {
    fn add_some(self, node: Option<Text>) -> Group {
        match node {
            Some(node) => self.add(node),
            None => self,
        }
    }
}

/// The text, cut so that it is no wider.
pub(crate) fn fitted(text: &str, size: f32, wide: f32) -> String {
    let mut cut: String = text.to_owned();
    while width(&cut, size) > wide && cut.chars().count() > 2 {
        cut = cut.chars().take(cut.chars().count() - 2).collect::<String>() + "…";
    }
    cut
}

/// The text in lines that are no wider, but for single words that are.
pub(crate) fn wrapped(text: &str, size: f32, wide: f32) -> Vec<String> {
    let mut lines: Vec<String> = Vec::new();
    for word in text.split(' ') {
        match lines.last_mut() {
            Some(line) if width(&format!("{line} {word}"), size) <= wide => {
                line.push(' ');
                line.push_str(word);
            }
            _ => lines.push(word.to_owned()),
        }
    }
    lines
}
