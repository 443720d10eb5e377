//! A picture in memory: filled forms, lines, rings and words.

use embedded_graphics::{
    Drawable, Pixel,
    draw_target::DrawTarget,
    geometry::{OriginDimensions, Point, Size},
    mono_font::{MonoFont, MonoTextStyle, ascii::FONT_9X18},
    pixelcolor::BinaryColor,
    text::{Baseline, Text},
};
use stoicheon::glam::Vec2;
use tiny_skia::{FillRule, LineCap, Paint, Path, PathBuilder, Pixmap, Rect, Stroke, Transform};

/// A place in the picture, in pixels from its upper left corner.
pub(crate) type Spot = Vec2;

/// Red, green, blue, and how opaque, each from 0 to 1.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Colour(pub(crate) f32, pub(crate) f32, pub(crate) f32, pub(crate) f32);

impl Colour {
    fn skia(self) -> tiny_skia::Color {
        let part = |part: f32| part.clamp(0.0, 1.0);
        let clear = tiny_skia::Color::TRANSPARENT;
        tiny_skia::Color::from_rgba(part(self.0), part(self.1), part(self.2), part(self.3)).unwrap_or(clear)
    }

    fn paint(self) -> Paint<'static> {
        let mut paint = Paint::default();
        paint.set_color(self.skia());
        paint
    }
}

const FONT: MonoFont<'static> = FONT_9X18;

/// The picture.
#[derive(Debug)]
pub(crate) struct Canvas(Pixmap);

impl Canvas {
    /// A picture of that size; `None` if there is none of it.
    pub(crate) fn new(width: u32, height: u32) -> Option<Self> {
        Pixmap::new(width, height).map(Self)
    }

    /// The pixels, row by row, as `0x00RRGGBB`.
    pub(crate) fn pixels(&self) -> impl Iterator<Item = u32> {
        self.0.pixels().iter().map(|pixel| u32::from_be_bytes([0, pixel.red(), pixel.green(), pixel.blue()]))
    }

    pub(crate) fn clear(&mut self, colour: Colour) {
        self.0.fill(colour.skia());
    }

    fn fill_path(&mut self, path: Option<&Path>, colour: Colour) {
        if let Some(path) = path {
            self.0.fill_path(path, &colour.paint(), FillRule::Winding, Transform::identity(), None);
        }
    }

    fn stroke(&mut self, path: Option<&Path>, width: f32, colour: Colour) {
        if let Some(path) = path {
            let stroke = Stroke { width, line_cap: LineCap::Butt, ..Stroke::default() };
            self.0.stroke_path(path, &colour.paint(), &stroke, Transform::identity(), None);
        }
    }

    /// A filled form with those corners.
    pub(crate) fn fill(&mut self, corners: &[Spot], colour: Colour) {
        let mut path = PathBuilder::new();
        for (number, corner) in corners.iter().enumerate() {
            if number == 0 { path.move_to(corner.x, corner.y) } else { path.line_to(corner.x, corner.y) }
        }
        path.close();
        self.fill_path(path.finish().as_ref(), colour);
    }

    pub(crate) fn rectangle(&mut self, corner: Spot, size: Spot, colour: Colour) {
        if let Some(rect) = Rect::from_xywh(corner.x, corner.y, size.x, size.y) {
            self.0.fill_rect(rect, &colour.paint(), Transform::identity(), None);
        }
    }

    pub(crate) fn circle(&mut self, middle: Spot, radius: f32, colour: Colour) {
        self.fill_path(PathBuilder::from_circle(middle.x, middle.y, radius).as_ref(), colour);
    }

    /// A circle as a line of that width.
    pub(crate) fn ring(&mut self, middle: Spot, radius: f32, width: f32, colour: Colour) {
        self.stroke(PathBuilder::from_circle(middle.x, middle.y, radius).as_ref(), width, colour);
    }

    /// A part of a ring, from 0 to 1, from the top on, clockwise.
    pub(crate) fn arc(&mut self, middle: Spot, radius: f32, width: f32, part: f32, colour: Colour) {
        let steps: u16 = 64;
        let mut path = PathBuilder::new();
        for step in 0..=steps {
            let turn = part.clamp(0.0, 1.0) * f32::from(step) / f32::from(steps) * std::f32::consts::TAU;
            let at = middle + Spot::new(turn.sin(), -turn.cos()) * radius;
            if step == 0 { path.move_to(at.x, at.y) } else { path.line_to(at.x, at.y) }
        }
        self.stroke(path.finish().as_ref(), width, colour);
    }

    pub(crate) fn line(&mut self, from: Spot, to: Spot, width: f32, colour: Colour) {
        let mut path = PathBuilder::new();
        path.move_to(from.x, from.y);
        path.line_to(to.x, to.y);
        self.stroke(path.finish().as_ref(), width, colour);
    }

    /// Words that begin there, with their upper left corner.
    pub(crate) fn text(&mut self, words: &str, corner: Spot, colour: Colour) {
        let style = MonoTextStyle::new(&FONT, BinaryColor::On);
        #[expect(clippy::cast_possible_truncation, reason = "whole pixels")]
        let corner = Point::new(corner.x.round() as i32, corner.y.round() as i32);
        let text = Text::with_baseline(words, corner, style, Baseline::Top);
        let Ok(_) = text.draw(&mut Ink { canvas: self, colour });
    }

    /// Words with their middle there, on a ground of their own.
    pub(crate) fn label(&mut self, words: &str, middle: Spot, colour: Colour, ground: Colour) {
        let size = FONT.character_size;
        #[expect(clippy::cast_precision_loss, reason = "a label is short")]
        let size = Spot::new((size.width as usize * words.chars().count()) as f32, size.height as f32);
        let corner = (middle - size * 0.5).round();
        self.rectangle(corner - Spot::new(6.0, 2.0), size + Spot::new(12.0, 4.0), ground);
        self.text(words, corner, colour);
    }
}

/// What text is drawn with: pixel by pixel, in one colour.
struct Ink<'a> {
    canvas: &'a mut Canvas,
    colour: Colour,
}

impl OriginDimensions for Ink<'_> {
    fn size(&self) -> Size {
        Size::new(self.canvas.0.width(), self.canvas.0.height())
    }
}

impl DrawTarget for Ink<'_> {
    type Color = BinaryColor;
    type Error = std::convert::Infallible;

    fn draw_iter<I: IntoIterator<Item = Pixel<BinaryColor>>>(
        &mut self,
        pixels: I,
    ) -> Result<(), Self::Error> {
        let (width, colour) = (self.canvas.0.width(), self.colour.skia().premultiply().to_color_u8());
        let height = self.canvas.0.height();
        for Pixel(at, lit) in pixels {
            let (Ok(x), Ok(y)) = (u32::try_from(at.x), u32::try_from(at.y)) else { continue };
            if lit == BinaryColor::On && x < width && y < height {
                self.canvas.0.pixels_mut()[(y * width + x) as usize] = colour;
            }
        }
        Ok(())
    }
}
