//! The body: makes its object able to touch zones, with a shape.

use crate::{
    base::{
        clock::TickRate,
        error::BuildError,
        ids::{PartId, SignalId},
        value::Value,
    },
    part::{
        contract::{Part, PartSpec},
        kind::PartKind,
        region::{SHAPE_SETTINGS, shape_from},
        setting::Settings,
    },
    space::shape::Shape,
};

/// What an object touches zones with, beside [`NewObject::body`](crate::NewObject::body): one ball, one capsule, or one
/// box of three sizes around its place.
#[derive(Clone, Debug)]
pub struct BodyShape(Shape);

impl BodyShape {
    /// What is known of bodies.
    pub const KIND: PartKind = PartKind {
        name: "body",
        about: "Gives its object a body that can touch zones: one ball, one capsule, or one box with three sizes.",
        states: &[],
        signals: &[],
        commands: &[],
        variables: &[],
        readings: &[],
        words: None,
        settings: &SHAPE_SETTINGS,
        build: |settings, rate| Self::from_settings(settings)?.into_part(rate),
        blank: || Box::new(Self(Shape::ball(1.0))),
    };

    /// A body of that shape.
    pub fn of(shape: Shape) -> Self {
        Self(shape)
    }

    fn from_settings(settings: &Settings) -> Result<Self, BuildError> {
        Ok(Self(shape_from(settings)?.ok_or(BuildError::BadBody)?))
    }
}

impl Part for BodyShape {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn save(&self, to: &mut Vec<Value>) {
        self.0.save(to);
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let Some((shape, [])) = Shape::load(saved) else { return false };
        self.0 = shape;
        true
    }

    fn body(&self) -> Option<&Shape> {
        Some(&self.0)
    }
}

impl PartSpec for BodyShape {
    type Handle = PartId;

    fn into_part(self, _: TickRate) -> Result<Box<dyn Part>, BuildError> {
        self.0.check_body()?;
        Ok(Box::new(self))
    }

    fn handle(part: PartId, _: &[SignalId]) -> PartId {
        part
    }
}
