//! Tweens: values that go from where they are to another value over a time.

use crate::{
    base::{
        clock::{Ticks, ticks},
        doing::{Doing, Way},
        ease::{Ease, Moved},
        error::Error,
        geometry::Pose,
        ids::{ObjectId, VarId},
        value::Value,
    },
    moment::tweens::Tween,
    plan::calc::between,
    state::State,
    trace::record::Event,
};

impl State {
    /// Begins a tween from where the value is. One that moves it already gives way.
    pub(crate) fn tween(
        &mut self,
        moved: Moved,
        to: Value,
        length: Ticks,
        ease: Ease,
        doing: Doing,
    ) -> Result<(), Error> {
        if let Moved::Var(var, _) = moved {
            self.check_free(var)?;
        }
        self.begin_tween(moved, to, length, ease, doing)
    }

    /// A part lets a variable it keeps go to another value.
    pub(crate) fn glide_var(
        &mut self,
        var: VarId,
        to: Value,
        length: Ticks,
        ease: Ease,
        doing: Doing,
    ) -> Result<(), Error> {
        self.begin_tween(Moved::Var(var, None), to, length, ease, doing)
    }

    fn begin_tween(
        &mut self,
        moved: Moved,
        to: Value,
        length: Ticks,
        ease: Ease,
        mut doing: Doing,
    ) -> Result<(), Error> {
        let (from, to) = match moved {
            Moved::Var(var, who) => {
                let from = self.moment.vars.get(var, who).cloned().ok_or(Error::NoSuchVar)?;
                (from, self.moment.vars.check(var, to)?)
            }
            Moved::Place(object) => (self.place(object)?.into(), to),
            Moved::Facing(object) => {
                (self.moment.objects.get(object).ok_or(Error::NoSuchObject)?.facing.into(), to)
            }
        };
        doing = doing.later();
        let until = self.moment.clock.now + length;
        let event = Event::Tweens { moved, to: to.clone(), until };
        doing.cause = self.bus.trace.note(doing.cause, 0, event).or(doing.cause);
        self.moment.tweens.stop(moved);
        self.moment.tweens.0.edit().insert(moved, Tween { from, to, done: 0, length, ease, doing });
        Ok(())
    }

    /// One tick of every tween, in the order they began.
    pub(crate) fn move_tweens(&mut self) {
        let mut index = 0;
        while let Some((moved, _)) = self.moment.tweens.0.get_index(index) {
            let moved = *moved;
            if self.moment.scenes.frozen > 0 && self.moment.scenes.is_frozen(self.scene_of_moved(moved)) {
                index += 1;
                continue;
            }
            let Some((_, tween)) = self.moment.tweens.0.edit().get_index_mut(index) else { return };
            tween.done += 1;
            let doing = tween.doing;
            let over = tween.done >= tween.length.whole();
            let part = tween.ease.part((ticks(tween.done).count() / tween.length.count()).min(1.0));
            let value = if over { tween.to.clone() } else { between(&tween.from, &tween.to, part).0 };
            if over {
                self.moment.tweens.0.edit().shift_remove_index(index);
            }
            let put = match moved {
                Moved::Var(var, who) => self.put_var(var, who, value, doing, over),
                Moved::Place(object) => self.glide(object, &value, doing),
                Moved::Facing(object) => self.turn(object, &value, doing),
            };
            if put.is_err() && !over {
                // What it moved is gone.
                self.moment.tweens.0.edit().shift_remove_index(index);
            } else if !over {
                index += 1;
            }
        }
    }

    fn glide(&mut self, id: ObjectId, to: &Value, doing: Doing) -> Result<(), Error> {
        let object = self.moment.objects.get_mut(id).ok_or(Error::NoSuchObject)?;
        if let Some(body) = &mut object.body {
            body.course = None;
        }
        let to = Pose { at: to.as_vector().unwrap_or(object.at), ..object.pose() };
        self.relocate(id, to, Way::Walked, doing.cause)?;
        self.bus.trace.feed(&(id, to.at));
        Ok(())
    }

    fn turn(&mut self, id: ObjectId, to: &Value, doing: Doing) -> Result<(), Error> {
        let Value::Rotation(facing) = to else { return Ok(()) };
        self.face(id, *facing, doing.cause)
    }
}
