//! Pictures as PNG, with a font of their own, so that they are the same on every machine.

use std::sync::Arc;

use resvg::{
    tiny_skia::{Pixmap, Transform},
    usvg::{Options, Tree, fontdb::Database},
};

/// Why a picture could not become a PNG.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum PngError {
    /// It is no SVG that can be drawn.
    #[error("the picture cannot be drawn: {0}")]
    Svg(String),
    /// It has no size, or is too large to be drawn.
    #[error("a picture of {width} by {height} pixels cannot be drawn")]
    Size {
        /// How wide it is.
        width: f32,
        /// How high it is.
        height: f32,
    },
}

/// A picture that this crate has drawn, as PNG, a pixel for each unit of the picture.
///
/// # Errors
/// [`PngError`] when it cannot be drawn.
///
/// ```
/// use stoicheon_core::World;
/// use stoicheon_view::{Map, png};
/// let world = World::<()>::new();
/// let bytes = png(&Map::new("Nothing yet").draw(&world))?;
/// assert!(bytes.starts_with(b"\x89PNG"));
/// # Ok::<(), stoicheon_view::PngError>(())
/// ```
pub fn png(svg: &str) -> Result<Vec<u8>, PngError> {
    let mut fonts = Database::new();
    fonts.load_font_data(epaint_default_fonts::UBUNTU_LIGHT.to_vec());
    fonts.load_font_data(epaint_default_fonts::HACK_REGULAR.to_vec());
    fonts.set_sans_serif_family("Ubuntu");
    fonts.set_monospace_family("Hack");
    let options = Options { fontdb: Arc::new(fonts), ..Options::default() };
    let tree = Tree::from_str(svg, &options).map_err(|error| PngError::Svg(error.to_string()))?;
    let size = tree.size();
    let too_large = || PngError::Size { width: size.width(), height: size.height() };
    let (width, height) = (pixels(size.width()), pixels(size.height()));
    let mut canvas = Pixmap::new(width, height).ok_or_else(too_large)?;
    resvg::render(&tree, Transform::identity(), &mut canvas.as_mut());
    canvas.encode_png().map_err(|error| PngError::Svg(error.to_string()))
}

#[expect(
    clippy::cast_possible_truncation,
    clippy::cast_sign_loss,
    reason = "it is held between 0 and 32,000"
)]
fn pixels(length: f32) -> u32 {
    length.ceil().clamp(0.0, 32_000.0) as u32
}
