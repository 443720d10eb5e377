//! Some of the objects there are: those with a tag, inside a zone, of which something holds.

use crate::{
    act::scope::Scope,
    base::{ids::ObjectId, value::Value},
    plan::{
        among::{Among, StateTest},
        expr::Expr,
    },
};

impl Scope<'_> {
    /// The objects that are meant, by number.
    pub(crate) fn members(&self, among: &Among) -> Vec<ObjectId> {
        self.each_of(among).collect()
    }

    /// One of them, each as likely as any other.
    pub(crate) fn draw_one(&self, among: &Among) -> Value {
        let members = self.members(among);
        let Some(last) = members.len().checked_sub(1) else { return Value::Nothing };
        #[expect(
            clippy::cast_possible_truncation,
            clippy::cast_sign_loss,
            reason = "below the length of a list"
        )]
        #[expect(clippy::cast_precision_loss, reason = "no group has 2^52 members")]
        let index = (self.state.draw() * members.len() as f64) as usize;
        Value::Object(members[index.min(last)])
    }

    fn each_of<'a>(&'a self, among: &'a Among) -> impl Iterator<Item = ObjectId> + 'a {
        let tagged = self.state.moment.objects.tagged(among.tag);
        tagged.filter(move |object| {
            among.inside.is_none_or(|zone| self.state.is_inside(*object, zone))
                && among.such_that.as_ref().is_none_or(|expr| self.about(*object).holds(expr))
        })
    }

    /// The same scope with `it` being that object.
    fn about(&self, it: ObjectId) -> Self {
        Self { it: Some(it), ..*self }
    }

    pub(crate) fn count(&self, among: &Among) -> Value {
        Value::Whole(i64::try_from(self.each_of(among).count()).unwrap_or(i64::MAX))
    }

    pub(crate) fn any(&self, among: &Among) -> Value {
        Value::Bool(self.first_of(among).is_some())
    }

    /// The first of them, by object number.
    pub(crate) fn first_of(&self, among: &Among) -> Option<ObjectId> {
        self.each_of(among).next()
    }

    pub(crate) fn nearest(&self, among: &Among, to: &Expr) -> Value {
        let Some(to) = self.place(&self.value(to)) else { return Value::Nothing };
        if let (Some(nearby), None, None) = (self.nearby, among.inside, &among.such_that)
            && nearby.looks_up()
        {
            return nearby.find(among.tag, to, self).map_or(Value::Nothing, Value::Object);
        }
        let mut nearest: Option<(f32, ObjectId)> = None;
        for object in self.each_of(among) {
            let Some(at) = self.state.moment.objects.get(object).map(|object| object.at) else { continue };
            let distance = at.distance_squared(to);
            if nearest.is_none_or(|(least, _)| distance < least) {
                nearest = Some((distance, object));
            }
        }
        nearest.map_or(Value::Nothing, |(_, object)| Value::Object(object))
    }

    pub(crate) fn is_in_state(&self, object: ObjectId, test: &StateTest) -> bool {
        let parts = self.state.moment.objects.get(object).map_or(&[][..], |object| &object.parts);
        parts.iter().any(|part| {
            let known = self.state.parts.kind_and_state(*part);
            known.is_some_and(|(kind, state)| test.kinds.contains(&(kind, state)))
        })
    }
}
