//! Settings that describe a shape, for every kind of part that has one.

use smol_str::SmolStr;

use crate::{
    base::{clock::Ticks, error::BuildError, geometry::Rotation},
    part::{
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    payload,
    plan::expr::Expr,
    space::{reason::Reason, shape::Shape},
};

/// What a part watches that wants to be told who comes and goes.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Region {
    /// What it looks like; without one, the host says who is inside.
    pub shape: Option<Shape>,
    /// Bodies with one of these tags; with none, everybody.
    pub admits: Vec<SmolStr>,
    /// Asked once when somebody comes to the border; `who` is the body that comes.
    pub guard: Option<Expr>,
    /// How often it tells of each body inside.
    pub pulse: Option<Ticks>,
    /// How far outside the border a body may stand before it counts as having left, in scene units.
    pub margin: f64,
}

impl Region {
    /// Whether its shape can be, and its margin.
    ///
    /// # Errors
    /// What is wrong with the shape; [`BuildError::BadNumber`] for a margin that is not from 0 up.
    pub fn check(&self) -> Result<(), BuildError> {
        self.shape.as_ref().map_or(Ok(()), Shape::check)?;
        if self.margin >= 0.0 && self.margin.is_finite() {
            return Ok(());
        }
        Err(BuildError::BadNumber { setting: "margin", expected: "a number from 0 up", found: self.margin })
    }
}

payload! {
    /// Somebody came into a zone or went out of it. Who it was goes with the signal.
    #[derive(Clone, Copy, Debug, PartialEq)]
    pub struct Touched {
        /// How.
        pub reason: Reason,
    }
}

payload! {
    /// Somebody has been inside a zone for a while. Who it is goes with the signal.
    #[derive(Clone, Copy, Debug, PartialEq)]
    pub struct Pulse {
        /// For how long.
        pub inside_for: Ticks,
    }
}

/// The settings of one form, which `also` begins again.
const OF_A_FORM: &[&str] = &[
    "box", "ball", "capsule", "cylinder", "radius", "height", "below", "above", "behind", "offset", "turned",
];

/// The settings that describe a shape, to be listed by a kind of part; [`shape_from`] reads them.
pub const SHAPE_SETTINGS: [Setting; 12] = [
    Setting::optional(
        "box",
        SettingType::Size,
        "The full size of a box around the object's place, in scene units. With two numbers the box is \
                 unlimited along the third axis, for flat scenes.",
    ),
    Setting::optional("ball", SettingType::Number, "The radius of a ball."),
    Setting::optional(
        "capsule",
        SettingType::Vector,
        "The line of a capsule, from end to end; `radius` sets its thickness.",
    ),
    Setting::optional(
        "cylinder",
        SettingType::Number,
        "The radius of an upright cylinder; `height` sets its height.",
    ),
    Setting::optional("radius", SettingType::Number, "The radius of a capsule."),
    Setting::optional("height", SettingType::Number, "The height of a cylinder."),
    Setting::optional("below", SettingType::Flag, "Everything below the object's place."),
    Setting::optional("above", SettingType::Flag, "Everything above the object's place."),
    Setting::optional(
        "behind",
        SettingType::Vector,
        "Everything behind the object's place, against the direction given.",
    ),
    Setting::optional(
        "offset",
        SettingType::Vector,
        "The middle of the shape, relative to the object's place. Default (0, 0, 0).",
    ),
    Setting::optional("turned", SettingType::Rotation, "A rotation in addition to the object's facing."),
    Setting::optional(
        "also",
        SettingType::More(OF_A_FORM),
        "Starts another form; the shape is the union of all forms.",
    ),
];

/// The shape that settings describe, if they describe any.
///
/// # Errors
/// [`BuildError::TwoForms`] for more than one form without `also` between them; [`BuildError::MissingSize`] for a capsule without
/// a radius or a cylinder without a height; what is wrong with a size.
pub fn shape_from(settings: &Settings) -> Result<Option<Shape>, BuildError> {
    let Some(mut shape) = form_from(settings)? else { return Ok(None) };
    for more in settings.more("also") {
        shape = shape.and(form_from(more)?.ok_or(BuildError::MissingForm)?);
    }
    shape.check()?;
    Ok(Some(shape))
}

fn form_from(settings: &Settings) -> Result<Option<Shape>, BuildError> {
    let missing = |form, setting| BuildError::MissingSize { form, setting };
    let mut forms = Vec::new();
    if let Some((size, flat)) = settings.size("box") {
        forms.push(if flat { Shape::flat_box(size.x, size.y) } else { Shape::boxed(size) });
    }
    if let Some(radius) = settings.number("ball") {
        forms.push(Shape::ball(radius));
    }
    if let Some(along) = settings.vector("capsule") {
        forms.push(Shape::capsule(along, settings.number("radius").ok_or(missing("capsule", "radius"))?));
    }
    if let Some(radius) = settings.number("cylinder") {
        forms.push(Shape::cylinder(radius, settings.number("height").ok_or(missing("cylinder", "height"))?));
    }
    if settings.has("below") {
        forms.push(Shape::below());
    }
    if settings.has("above") {
        forms.push(Shape::half_space(glam::Vec3::NEG_Y));
    }
    if let Some(normal) = settings.vector("behind") {
        forms.push(Shape::half_space(normal));
    }
    if forms.len() > 1 {
        return Err(BuildError::TwoForms);
    }
    let turned = settings.rotation("turned").unwrap_or(Rotation::NONE);
    let offset = settings.vector("offset").unwrap_or_default();
    Ok(forms.pop().map(|form| form.turned(turned).offset(offset)))
}
