//! Alarms: when parts want to be called in the clocks phase.

use crate::{
    base::{
        clock::Ticks,
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
        if let Alarm::Set(key) = before {
            self.moment.alarms.0.edit().remove(&key);
        }
        let alarm = match span {
            None => Alarm::None,
            Some(span) if self.is_awake(object) => {
                let key = (self.moment.clock.now + span, self.moment.waiting.next_number());
                self.moment.alarms.0.edit().insert(key, part);
                Alarm::Set(key)
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
            Alarm::Set((due, _)) => Some(Ticks(due.0.saturating_sub(self.moment.clock.now.0))),
            Alarm::Paused(left) => Some(left),
        }
    }

    /// The part whose alarm is due first is called.
    pub(crate) fn ring(&mut self) {
        let Some((_, part)) = self.moment.alarms.0.edit().pop_first() else { return };
        let Some(slot) = self.parts.get_mut(part) else { return };
        let doing = slot.alarm_for();
        slot.set_alarm(Alarm::None, Doing::default());
        self.part_told(part, doing, &[], crate::part::contract::Part::due);
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
                Alarm::Set((due, _)) if !awake => {
                    let left = Ticks(due.0.saturating_sub(self.moment.clock.now.0));
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
