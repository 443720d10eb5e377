//! Alarms: when parts want to be called in the clocks phase.

use crate::{
    base::{
        clock::{Tick, Ticks, ticks},
        doing::Doing,
        ids::{ObjectId, PartId, SceneId},
    },
    moment::alarms::Alarm,
    state::State,
};

impl State {
    /// Sets the alarm of a part, or takes it away.
    pub(crate) fn set_alarm(&mut self, part: PartId, span: Option<Ticks>, doing: Doing) {
        let Some(slot) = self.parts.get(part) else { return };
        let (object, before) = (slot.object, slot.alarm());
        if let Alarm::Set(key, _) = before {
            self.moment.alarms.0.edit().remove(&key);
        }
        let alarm = match span {
            None => Alarm::None,
            Some(span) if self.is_awake(object) => {
                // What is called again from its own alarm goes on from the moment that rang for.
                let late = self.scratch.ringing.filter(|(ringing, _)| *ringing == part);
                let late = late.map_or(Ticks::ZERO, |(_, late)| late);
                let (due, late) = span.after(self.moment.clock.now, late);
                let key = (due, self.moment.waiting.next_number());
                self.moment.alarms.0.edit().insert(key, part);
                Alarm::Set(key, late)
            }
            Some(span) => Alarm::Paused(span),
        };
        if let Some(slot) = self.parts.get_mut(part) {
            slot.set_alarm(alarm, Doing { by: None, ..doing.later() });
        }
    }

    pub(crate) fn rings_in(&self, part: PartId) -> Option<Ticks> {
        match self.parts.get(part)?.alarm() {
            Alarm::None => None,
            Alarm::Set((due, _), late) => Some(self.left_until(due, late)),
            Alarm::Paused(left) => Some(left),
        }
    }

    /// The part whose alarm is due first is called.
    pub(crate) fn ring(&mut self) {
        let Some((_, part)) = self.moment.alarms.0.edit().pop_first() else { return };
        let Some(slot) = self.parts.get_mut(part) else { return };
        let doing = slot.alarm_for();
        let late = if let Alarm::Set(_, late) = slot.alarm() { late } else { Ticks::ZERO };
        slot.set_alarm(Alarm::None, Doing::default());
        self.scratch.ringing = Some((part, late));
        self.part_told(part, doing, &[], crate::part::contract::Part::due);
        self.scratch.ringing = None;
    }

    /// How long it is until a moment so long before a tick.
    fn left_until(&self, due: Tick, late: Ticks) -> Ticks {
        ticks(due.0.saturating_sub(self.moment.clock.now.0)).saturating_sub(late)
    }

    /// The alarms of an object stand still, or go on, as the object does.
    pub(crate) fn review_alarms(&mut self, object: ObjectId) {
        let Some(known) = self.moment.objects.get(object) else { return };
        let (parts, awake) = (known.parts.clone(), self.is_awake(object));
        for part in parts {
            let Some((alarm, doing)) = self.parts.get(part).map(|slot| (slot.alarm(), slot.alarm_for()))
            else {
                continue;
            };
            match alarm {
                Alarm::Set((due, _), late) if !awake => {
                    let left = self.left_until(due, late);
                    self.set_alarm(part, None, doing);
                    if let Some(slot) = self.parts.get_mut(part) {
                        slot.set_alarm(Alarm::Paused(left), doing);
                    }
                }
                Alarm::Paused(left) if awake => self.set_alarm(part, Some(left), doing),
                _ => {}
            }
        }
    }

    /// The same for all objects of a scene.
    pub(crate) fn review_alarms_of(&mut self, scene: SceneId) {
        let of = self.moment.objects.iter().filter(|(_, object)| object.scene == Some(scene));
        let of: Vec<_> = of.filter(|(_, object)| !object.parts.is_empty()).map(|(id, _)| id).collect();
        of.into_iter().for_each(|object| self.review_alarms(object));
    }

    /// The alarms of a part that ends.
    pub(crate) fn end_alarm(&mut self, part: PartId) {
        self.set_alarm(part, None, Doing::default());
    }
}
