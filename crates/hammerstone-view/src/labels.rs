//! Text in pictures: how wide it is, and where it stands so that no two labels meet.

use std::sync::LazyLock;

use svg::node::element::Text;
use ttf_parser::Face;

/// The font, of which the crate has its own copy.
pub(crate) const FONT: &[u8] = include_bytes!("../fonts/DejaVuSans.ttf");
/// Its name, as pictures ask for it.
pub(crate) const FAMILY: &str = "DejaVu Sans";
/// The least size of any text, in pixels of a picture 1280 wide.
pub(crate) const LEAST: f32 = 9.0;

static FACE: LazyLock<Option<Face<'static>>> = LazyLock::new(|| Face::parse(FONT, 0).ok());

/// How wide a text is at a size, in pixels.
pub(crate) fn width(text: &str, size: f32) -> f32 {
    let Some(face) = FACE.as_ref() else { return text.chars().count() as f32 * size * 0.6 };
    let units = f32::from(face.units_per_em());
    let advance = |letter: char| face.glyph_index(letter).and_then(|glyph| face.glyph_hor_advance(glyph));
    text.chars().map(|letter| f32::from(advance(letter).unwrap_or(0)) * size / units).sum()
}

/// Where a text is held.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub(crate) enum Held {
    Start,
    Middle,
    End,
}

/// A rectangle: left, top, right, bottom.
pub(crate) type Area = [f32; 4];

/// The places that are taken.
#[derive(Clone, Debug, Default)]
pub(crate) struct Labels {
    taken: Vec<Area>,
}

impl Labels {
    /// Nothing may be written here.
    pub(crate) fn take(&mut self, area: Area) {
        self.taken.push(area);
    }

    /// The text at a place, unless it would meet another, or leave `within`.
    pub(crate) fn place(
        &mut self,
        text: &str,
        (x, y): (f32, f32),
        size: f32,
        held: Held,
        within: Area,
    ) -> Option<Text> {
        debug_assert!(size >= LEAST);
        let wide = width(text, size);
        let left = match held {
            Held::Start => x,
            Held::Middle => x - wide / 2.0,
            Held::End => x - wide,
        };
        let area = [left - 1.0, y - size * 0.8, left + wide + 1.0, y + size * 0.25];
        let inside =
            area[0] >= within[0] && area[1] >= within[1] && area[2] <= within[2] && area[3] <= within[3];
        let meets = |other: &Area| {
            area[0] < other[2] && other[0] < area[2] && area[1] < other[3] && other[1] < area[3]
        };
        if text.is_empty() || !inside || self.taken.iter().any(meets) {
            return None;
        }
        self.taken.push(area);
        Some(
            Text::new(text)
                .set("x", format!("{left:.1}"))
                .set("y", format!("{y:.1}"))
                .set("font-size", size)
                .set("font-family", FAMILY),
        )
    }
}
