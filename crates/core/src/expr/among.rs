//! Some of the objects there are: those with a tag, inside a zone, of which something holds.

use serde::{Deserialize, Serialize};
use smallvec::SmallVec;

use super::{Expr, Scope};
use crate::{
    object::{ObjectId, Tag},
    part::PartId,
    value::Value,
};

/// Some of the objects there are, by object number. Disabled objects are among them.
///
/// ```
/// use stoicheon_core::{Among, Expr, World};
/// let mut world = World::<()>::new();
/// let gate = world.tag_named("gate")?;
/// world.object("upper_gate").tag("gate").add()?;
/// world.object("lower_gate").tag("gate").add()?;
/// assert_eq!(world.evaluate(&Expr::Count(Box::new(Among::tagged(gate)))), 2_i64.into());
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Among {
    pub(crate) tag: Tag,
    pub(crate) inside: Option<PartId>,
    pub(crate) such_that: Option<Box<Expr>>,
}

impl Among {
    /// The objects with that tag.
    pub fn tagged(tag: Tag) -> Self {
        Self { tag, inside: None, such_that: None }
    }

    /// Of those, the bodies inside that zone.
    pub fn inside(mut self, zone: PartId) -> Self {
        self.inside = Some(zone);
        self
    }

    /// Of those, the ones for which that holds. The one that is looked at is [`Expr::It`].
    pub fn such_that(mut self, expr: Expr) -> Self {
        self.such_that = Some(Box::new(match self.such_that {
            Some(before) => before.and(expr),
            None => expr,
        }));
        self
    }

    /// The tag.
    pub fn tag(&self) -> Tag {
        self.tag
    }

    /// The zone they are inside.
    pub fn zone(&self) -> Option<PartId> {
        self.inside
    }

    /// What holds for them.
    pub fn condition(&self) -> Option<&Expr> {
        self.such_that.as_deref()
    }
}

/// A state that objects of several kinds can be in, such as `open`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct StateTest {
    pub(crate) word: crate::value::Text,
    /// The number of each kind that has the state, and that of the state.
    pub(crate) kinds: SmallVec<[(u32, u8); 2]>,
}

impl StateTest {
    /// The word for the state.
    pub fn word(&self) -> &str {
        &self.word
    }
}

impl Scope<'_> {
    /// The objects that are meant, by number.
    pub(crate) fn members(&self, among: &Among) -> Vec<ObjectId> {
        self.each_of(among).collect()
    }

    fn each_of<'a>(&'a self, among: &'a Among) -> impl Iterator<Item = ObjectId> + 'a {
        let tagged = self.state.objects.tagged(among.tag);
        tagged.filter(move |object| {
            among.inside.is_none_or(|zone| self.state.is_inside(*object, zone))
                && among.such_that.as_ref().is_none_or(|expr| self.about(*object).holds(expr))
        })
    }

    /// The same scope with `it` being that object.
    fn about(&self, it: ObjectId) -> Self {
        Self { it: Some(it), ..*self }
    }

    pub(super) fn count(&self, among: &Among) -> Value {
        Value::Whole(i64::try_from(self.each_of(among).count()).unwrap_or(i64::MAX))
    }

    pub(super) fn any(&self, among: &Among) -> Value {
        Value::Bool(self.each_of(among).next().is_some())
    }

    pub(super) fn nearest(&self, among: &Among, to: &Expr) -> Value {
        let Some(to) = self.place(&self.value(to)) else { return Value::Nothing };
        if let (Some(nearby), None, None) = (self.nearby, among.inside, &among.such_that) {
            return nearby.find(among.tag, to, self).map_or(Value::Nothing, Value::Object);
        }
        let mut nearest: Option<(f32, ObjectId)> = None;
        for object in self.each_of(among) {
            let Some(at) = self.place(&Value::Object(object)) else { continue };
            let distance = at.distance_squared(to);
            if nearest.is_none_or(|(least, _)| distance < least) {
                nearest = Some((distance, object));
            }
        }
        nearest.map_or(Value::Nothing, |(_, object)| Value::Object(object))
    }

    pub(super) fn is_in_state(&self, object: ObjectId, test: &StateTest) -> bool {
        let parts = self.state.objects.get(object).map_or(&[][..], |object| &object.parts);
        parts.iter().any(|part| {
            let known = self.state.parts.kind_and_state(*part);
            known.is_some_and(|(kind, state)| test.kinds.contains(&(kind, state)))
        })
    }
}
