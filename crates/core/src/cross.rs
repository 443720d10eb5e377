//! Signals that cross from one world to another: from a player's to the authority's, or from there to all players'.
//!
//! A world knows which of its signals cross and on which side it is; how a message travels is the `link` crate's, or
//! the host's own.

use serde::{Deserialize, Serialize};

use crate::{
    error::{Error, NoSuchSignal},
    memory::Remembered,
    object::{ObjectId, Tags},
    payload::Field,
    queue::Emission,
    signal::{Signal, SignalId},
    state::State,
    trace::Event,
    value::{Text, Value, Values},
    world::World,
};

/// On which side of a link a world is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub enum Side {
    /// It is the only one: what crosses is delivered here.
    #[default]
    Alone,
    /// A player's: what crosses to the authority is delivered there, and not here.
    Player,
    /// The one whose word counts: what crosses to players is delivered here and there.
    Authority,
}

/// Which way a signal crosses.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Crosses {
    /// From players' worlds to the authority's.
    ToAuthority,
    /// From the authority's world to all players'.
    ToPlayers,
}

/// Which way a signal crosses, and who may send it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct Crossing {
    pub(crate) to: Crosses,
    /// One of these tags is asked of whoever sends it; none of nobody in particular.
    pub(crate) by: Tags,
}

/// A signal on its way to another world: names instead of ids, since those are each world's own.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Message {
    /// The whole name of the signal.
    pub signal: Text,
    /// The player it goes back to. The authority does not believe it: it knows whose link it came by.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub who: Option<Text>,
    /// What it carries.
    #[serde(default)]
    pub values: Vec<Remembered>,
}

impl State {
    /// Which way a signal crosses, if it does.
    pub fn crosses(&self, signal: impl Into<SignalId>) -> Option<Crosses> {
        self.crossings.get(&signal.into()).map(|crossing| crossing.to)
    }

    /// All signals that cross, by name: the way, and what they carry.
    pub fn crossing_signals(&self) -> impl Iterator<Item = (&str, Crosses, &[Field])> {
        let mut all: Vec<_> = self.crossings.iter().collect();
        all.sort_by_key(|(signal, _)| self.signal_name(**signal));
        all.into_iter().filter_map(|(signal, crossing)| {
            Some((self.signal_name(*signal)?, crossing.to, self.signal_fields(*signal)))
        })
    }

    /// On which side of a link this world is.
    pub fn side(&self) -> Side {
        self.side
    }

    pub(crate) fn set_crossing(&mut self, signal: SignalId, to: Crosses, by: &[Text]) -> Result<(), Error> {
        self.bus.open_lane(signal)?;
        let by = by.iter().map(|tag| self.objects.tag(tag)).collect();
        self.crossings.edit().insert(signal, Crossing { to, by });
        Ok(())
    }

    /// Whoever sends a signal has none of the tags it asks for.
    fn may_not_send(&self, signal: SignalId, who: Option<ObjectId>) -> bool {
        let Some(Crossing { by, .. }) = self.crossings.get(&signal) else { return false };
        let sender = who.and_then(|who| self.objects.get(who));
        !by.is_empty() && !sender.is_some_and(|sender| sender.has_any(by))
    }

    /// An emission that is about to be delivered: false if it is not, since it crosses or may not be sent.
    pub(crate) fn cross(&mut self, emission: &Emission) -> bool {
        let signal = emission.signal;
        let Some(to) = self.crosses(signal) else { return true };
        let Some(store) = self.bus.signals.lane(signal).map(|lane| lane.store) else { return true };
        let doing = crate::bus::Doing {
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
            (to, self.side),
            (Crosses::ToAuthority, Side::Player) | (Crosses::ToPlayers, Side::Authority)
        );
        if !goes {
            return true;
        }
        let here = self.side == Side::Authority;
        let values =
            if here { self.bus.payloads.first_values(store) } else { self.bus.payloads.pop_values(store) };
        let carried = values.unwrap_or_default();
        let carried = carried.iter().map(|value| self.to_memory(value)).collect();
        let who = emission.who.and_then(|who| self.name(who)).map(Text::from);
        let name = Text::from(self.signal_name(signal).unwrap_or_default());
        let salt = self.bus.signals.lane(signal).map_or(0, |lane| lane.hash);
        self.bus.trace.note(emission.cause, salt, Event::Crossed { signal, who: emission.who, here });
        self.outgoing.push(Message { signal: name, who, values: carried });
        here
    }

    /// What a message from another world carries, in this one.
    fn values_of(&self, signal: SignalId, message: &Message) -> Result<Values, Error> {
        let fields = self.signal_fields(signal);
        let wrong = || Error::WrongValues {
            name: message.signal.clone(),
            expected: crate::payload::list_fields(fields),
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

impl<G: 'static> World<G> {
    /// Says that a signal crosses to another world; `by` are tags, one of which whoever sends it must have.
    ///
    /// # Errors
    /// [`Error::NoSuchSignal`].
    pub fn let_cross(&mut self, signal: impl Into<SignalId>, to: Crosses, by: &[&str]) -> Result<(), Error> {
        let by: Vec<_> = by.iter().copied().map(Text::from).collect();
        self.state.set_crossing(signal.into(), to, &by)
    }

    /// Says on which side of a link this world is.
    pub fn be(&mut self, side: Side) {
        self.state.side = side;
    }

    /// What is to be delivered in other worlds, since the last call, in order.
    pub fn outgoing(&mut self) -> impl Iterator<Item = Message> + use<G> {
        std::mem::take(&mut self.state.outgoing).into_iter()
    }

    /// Takes in what comes from another world; it is delivered in the next tick. In the authority's world `from` is the
    /// player whose link it came by: whatever the message says, it goes back to him.
    ///
    /// # Errors
    /// [`Error::UnknownName`] for a signal that does not cross this way, or a player who is not here;
    /// [`Error::NotYours`] for one that this player may not send; [`Error::WrongValues`].
    pub fn receive(&mut self, from: Option<ObjectId>, message: &Message) -> Result<(), Error> {
        let unknown =
            || Error::UnknownName { kind: "a signal that crosses to here", found: message.signal.clone() };
        let signal = self.state.find_signal(&message.signal).ok_or_else(unknown)?;
        let to = self.state.crosses(signal).ok_or_else(unknown)?;
        let who = match (self.state.side, to) {
            (Side::Authority, Crosses::ToAuthority) => {
                let nobody = || Error::UnknownName { kind: "a player who is here", found: "nobody".into() };
                Some(from.filter(|from| self.state.objects.get(*from).is_some()).ok_or_else(nobody)?)
            }
            (Side::Player, Crosses::ToPlayers) => message.who.as_ref().and_then(|who| self.state.find(who)),
            _ => return Err(unknown()),
        };
        // What the authority sends, it may.
        if self.state.side == Side::Authority && self.state.may_not_send(signal, who) {
            let player = who.and_then(|who| self.state.name(who)).unwrap_or_default().into();
            return Err(Error::NotYours { signal: message.signal.clone(), player });
        }
        let values = self.state.values_of(signal, message)?;
        // A payload that is typed in Rust may refuse what its fields would hold.
        let store = self.state.bus.open_lane(signal).map_err(|NoSuchSignal| unknown())?.store;
        let fits = self.state.bus.payloads.reads(store, &values);
        if !fits {
            return Err(Error::WrongValues {
                name: message.signal.clone(),
                expected: crate::payload::list_fields(self.state.signal_fields(signal)),
                found: crate::payload::list_types(&values),
            });
        }
        self.emit_for::<Values>(who, Signal::new(signal), values)
    }
}
