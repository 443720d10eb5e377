//! Signals that cross from one world to another: from a player's to the authority's, or from there to all players'.
//!
//! A world knows which of its signals cross and on which side it is; how a message travels is the `link` crate's, or
//! the host's own.

use crate::{
    base::{
        error::Error,
        ids::{ObjectId, SignalId},
        payload::Field,
        value::{Text, Value, Values},
    },
    moment::{messages::Message, queue::Emission, remembered::Remembered},
    plan::crossings::{Crosses, Crossing, Side},
    state::State,
    trace::record::Event,
};

impl State {
    /// Which way a signal crosses, if it does.
    pub fn crosses(&self, signal: impl Into<SignalId>) -> Option<Crosses> {
        self.plan.crossings.get(&signal.into()).map(|crossing| crossing.to)
    }

    /// All signals that cross, by name: the way, and what they carry.
    pub fn crossing_signals(&self) -> impl Iterator<Item = (&str, Crosses, &[Field])> {
        let mut all: Vec<_> = self.plan.crossings.iter().collect();
        all.sort_by_key(|(signal, _)| self.signal_name(**signal));
        all.into_iter().filter_map(|(signal, crossing)| {
            Some((self.signal_name(*signal)?, crossing.to, self.signal_fields(*signal)))
        })
    }

    /// On which side of a link this world is.
    pub fn side(&self) -> Side {
        self.plan.side
    }

    pub(crate) fn set_crossing(&mut self, signal: SignalId, to: Crosses, by: &[Text]) -> Result<(), Error> {
        self.bus.open_lane(signal)?;
        let by = by.iter().map(|tag| self.moment.objects.tag(tag)).collect();
        self.plan.edit().crossings.edit().insert(signal, Crossing { to, by });
        Ok(())
    }

    /// The sender of a signal has none of the tags it asks for.
    pub(crate) fn may_not_send(&self, signal: SignalId, who: Option<ObjectId>) -> bool {
        let Some(Crossing { by, .. }) = self.plan.crossings.get(&signal) else { return false };
        let sender = who.and_then(|who| self.moment.objects.get(who));
        !by.is_empty() && !sender.is_some_and(|sender| sender.has_any(by))
    }

    /// An emission that is about to be delivered: false if it is not, since it crosses or may not be sent.
    pub(crate) fn cross(&mut self, emission: &Emission) -> bool {
        let signal = emission.signal;
        let Some(to) = self.crosses(signal) else { return true };
        let Some(store) = self.bus.signals.lane(signal).map(|lane| lane.store) else { return true };
        let doing = crate::base::doing::Doing {
            who: emission.who,
            cause: emission.cause,
            by: emission.by,
            arrived: emission.arrived,
        };
        if self.may_not_send(signal, emission.who) {
            self.bus.payloads.pop_values(store);
            let name = self.signal_name(signal).unwrap_or_default();
            let who = emission.who.and_then(|who| self.name(who)).unwrap_or("nobody");
            let message = format!("{who} may not send {name}: it is not for everybody");
            self.fault(&message, doing);
            return false;
        }
        let goes = matches!(
            (to, self.plan.side),
            (Crosses::ToAuthority, Side::Player) | (Crosses::ToPlayers, Side::Authority)
        );
        if !goes {
            return true;
        }
        let here = self.plan.side == Side::Authority;
        let values =
            if here { self.bus.payloads.first_values(store) } else { self.bus.payloads.pop_values(store) };
        let carried = values.unwrap_or_default();
        let carried = carried.iter().map(|value| self.to_memory(value)).collect();
        let who = emission.who.and_then(|who| self.name(who)).map(Text::from);
        let name = Text::from(self.signal_name(signal).unwrap_or_default());
        let salt = self.bus.signals.lane(signal).map_or(0, |lane| lane.hash);
        self.bus.trace.note(emission.cause, salt, Event::Crossed { signal, who: emission.who, here });
        self.moment.outgoing.push(Message { signal: name, who, values: carried });
        here
    }

    /// What a message from another world carries, in this one.
    pub(crate) fn values_of(&self, signal: SignalId, message: &Message) -> Result<Values, Error> {
        let fields = self.signal_fields(signal);
        let wrong = || Error::WrongValues {
            name: message.signal.clone(),
            expected: crate::base::payload::list_fields(fields),
            found: message.values.iter().map(Remembered::word).collect::<Vec<_>>().join(", "),
        };
        if fields.len() != message.values.len() {
            return Err(wrong());
        }
        let pairs = fields.iter().zip(&message.values);
        let values = pairs.map(|(field, value)| self.value_of_memory(value, Some(&field.ty)));
        // What comes from outside may be no number at all.
        let counts = |value: &Value| match value {
            Value::Number(number) => number.is_finite(),
            Value::Vector(vector) => vector.is_finite(),
            _ => true,
        };
        values.collect::<Option<Values>>().filter(|values| values.iter().all(counts)).ok_or_else(wrong)
    }
}
