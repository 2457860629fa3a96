//! PNG from SVG, with the crate's own font.

use std::sync::Arc;

use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{Options, Tree, fontdb};

use crate::labels::{FAMILY, FONT};

/// Why no picture was made.
#[derive(Debug, thiserror::Error)]
pub enum NoPicture {
    /// The text is no SVG.
    #[error("the picture is no SVG: {0}")]
    NoSvg(String),
    /// The picture has no size, or too large a one.
    #[error("a picture of {0} by {1} pixels cannot be made")]
    NoSize(u32, u32),
    /// It could not be packed.
    #[error("the picture could not be packed: {0}")]
    NotPacked(String),
}

/// The picture of an SVG as PNG, `scale` times as large.
///
/// *Errors:* [`NoPicture`]. *Determinism:* the same bytes for the same SVG; no font of the machine is looked at.
pub fn png(svg: &str, scale: f32) -> Result<Vec<u8>, NoPicture> {
    let mut fonts = fontdb::Database::new();
    fonts.load_font_data(FONT.to_vec());
    fonts.set_sans_serif_family(FAMILY);
    let options = Options { fontdb: Arc::new(fonts), font_family: FAMILY.to_owned(), ..Options::default() };
    let tree = Tree::from_str(svg, &options).map_err(|error| NoPicture::NoSvg(error.to_string()))?;
    let size = tree.size();
    let (wide, high) = ((size.width() * scale).ceil() as u32, (size.height() * scale).ceil() as u32);
    let mut pixels = Pixmap::new(wide, high).ok_or(NoPicture::NoSize(wide, high))?;
    resvg::render(&tree, Transform::from_scale(scale, scale), &mut pixels.as_mut());
    pixels.encode_png().map_err(|error| NoPicture::NotPacked(error.to_string()))
}
