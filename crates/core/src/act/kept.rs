//! Binds that keep what is no variable: where objects are, which way they face, and settings of parts.

use std::cell::Cell;

use crate::{
    act::{nearby::Nearby, scope::Scope},
    base::{
        doing::{Doing, Way},
        error::Error,
        geometry::Pose,
        ids::{BindId, ObjectId, PartId, RecordId},
        payload::type_word,
        value::Value,
    },
    plan::{
        binds::Kept,
        expr::{Expr, PartOf},
    },
    state::State,
};

/// Something of one object that a bind keeps.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Thing {
    Place(ObjectId),
    Facing(ObjectId),
    Setting(PartId, u8),
}

impl Kept {
    /// What it keeps of one object, if it is no variable.
    pub(crate) fn thing(self) -> Option<Thing> {
        Some(match self {
            Self::Place(object) => Thing::Place(object),
            Self::Facing(object) => Thing::Facing(object),
            Self::Setting(part, setting) => Thing::Setting(part, setting),
            Self::Var(_) | Self::Each(..) | Self::EachPlace(_) | Self::EachFacing(_) => return None,
        })
    }
}

impl State {
    /// Lets it be what a bind gives.
    pub(crate) fn keep_thing(
        &mut self,
        id: BindId,
        thing: Thing,
        it: Option<ObjectId>,
        (to, cause): (&Expr, Option<RecordId>),
        nearby: Option<&Nearby>,
    ) {
        let eval_fault = Cell::new(None);
        let value = Scope { it, nearby, ..Scope::of(self, &eval_fault) }.value(to);
        self.note_eval_fault(eval_fault.get(), cause);
        let found = type_word(&value);
        let doing = Doing { cause, ..Doing::default() };
        let done = match (thing, value) {
            (Thing::Place(object), Value::Vector(at)) => {
                self.keep_pose(object, |pose| Pose { at, ..pose }, cause)
            }
            (Thing::Facing(object), Value::Rotation(facing)) => {
                self.keep_pose(object, |pose| Pose { facing, ..pose }, cause)
            }
            (Thing::Setting(part, setting), value) => match self.setting_name(part, setting) {
                Some(name) => self.change_setting(part, name, value, doing),
                None => Ok(()),
            },
            _ => {
                let place = &self.plan.binds[id.0 as usize].place;
                let message = format!("nothing is kept: the bind at {place} gives {found}");
                return self.note_fault(message.into(), 0, it, doing);
            }
        };
        match done {
            // It is gone, and its bind with it.
            Ok(()) | Err(Error::NoSuchObject | Error::NoSuchPart | Error::Ended { .. }) => {}
            Err(error) => self.fault(&error, doing),
        }
    }

    /// Moves an object as a tween does: a body passes what lies between.
    fn keep_pose(
        &mut self,
        object: ObjectId,
        to: impl FnOnce(Pose) -> Pose,
        cause: Option<RecordId>,
    ) -> Result<(), Error> {
        let from = self.moment.objects.get(object).ok_or(Error::NoSuchObject)?.pose();
        let to = to(from);
        if from == to {
            return Ok(());
        }
        self.relocate(object, to, Way::Walked, cause)?;
        self.bus.trace.feed(&(object, to.at));
        self.bus.trace.feed(&Value::Rotation(to.facing));
        Ok(())
    }

    /// Whether what a bind would keep is there, and may change.
    pub(crate) fn check_kept(&self, kept: Kept) -> Result<(), Error> {
        match kept {
            Kept::Place(object) | Kept::Facing(object) => {
                self.moment.objects.get(object).map(|_| ()).ok_or(Error::NoSuchObject)
            }
            Kept::Setting(part, setting) => {
                let name = self.setting_name(part, setting).ok_or(Error::NoSuchPart)?;
                self.check_live(part, name).map(|_| ())
            }
            _ => Ok(()),
        }
    }

    /// Refuses to set what a bind keeps that is no variable.
    pub(crate) fn check_thing_free(&self, kept: Kept) -> Result<(), Error> {
        let bind = self.plan.kept_things.get(&kept).and_then(|bind| self.plan.binds.get(bind.0 as usize));
        match bind.filter(|bind| !bind.ended) {
            Some(bind) => Err(Error::Bound { name: self.kept_name(kept).into(), place: bind.place.clone() }),
            None => Ok(()),
        }
    }

    /// Changes a setting, if no bind keeps it.
    pub(crate) fn set_setting(
        &mut self,
        part: PartId,
        name: &str,
        to: Value,
        doing: Doing,
    ) -> Result<(), Error> {
        self.check_thing_free(Kept::Setting(part, self.setting_of(part, name)?))?;
        self.change_setting(part, name, to, doing)
    }

    pub(crate) fn setting_name(&self, part: PartId, setting: u8) -> Option<&'static str> {
        self.kind_of(part)?.settings.get(usize::from(setting)).map(|setting| setting.name)
    }

    /// The number of a setting of a part that may change.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`] or [`Error::FixedSetting`].
    pub fn setting_of(&self, part: PartId, name: &str) -> Result<u8, Error> {
        let known = self.check_live(part, name)?;
        let settings = self.kind_of(part).map_or(&[][..], |kind| kind.settings);
        let number = settings.iter().position(|setting| setting.name == known).unwrap_or_default();
        Ok(u8::try_from(number).unwrap_or(u8::MAX))
    }

    /// What of what binds keep an expression reads, as far as it names it.
    pub(crate) fn things_read(&self, expr: &Expr, found: &mut Vec<Kept>) {
        match expr {
            Expr::Place(of) => found.extend(named(of).map(Kept::Place)),
            Expr::Facing(of) | Expr::Forward(of) => found.extend(named(of).map(Kept::Facing)),
            Expr::Direction(one, two) | Expr::Distance(one, two) => {
                found.extend([one, two].into_iter().filter_map(|of| named(of)).map(Kept::Place));
            }
            Expr::Reading { part: PartOf::Part(part), name, .. } => {
                let setting = self.setting_of(*part, name).ok();
                found.extend(setting.map(|setting| Kept::Setting(*part, setting)));
            }
            _ => {}
        }
        for operand in expr.operands() {
            self.things_read(operand, found);
        }
    }
}

/// The object that an expression names.
fn named(of: &Expr) -> Option<ObjectId> {
    if let Expr::Value(Value::Object(object)) = of { Some(*object) } else { None }
}
