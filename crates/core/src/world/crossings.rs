//! Signals that cross, for the host.

use crate::{
    base::{
        error::{Error, NoSuchSignal},
        ids::{ObjectId, SignalId},
        signal::Signal,
        value::{Text, Values},
    },
    moment::messages::Message,
    plan::crossings::{Crosses, Side},
    world::World,
};

impl<G: 'static> World<G> {
    /// Says that a signal crosses to another world; `by` are tags, one of which the sender must have.
    ///
    /// # Errors
    /// [`Error::NoSuchSignal`].
    pub fn let_cross(&mut self, signal: impl Into<SignalId>, to: Crosses, by: &[&str]) -> Result<(), Error> {
        let by: Vec<_> = by.iter().copied().map(Text::from).collect();
        self.state.set_crossing(signal.into(), to, &by)
    }

    /// Says on which side of a link this world is.
    pub fn be(&mut self, side: Side) {
        self.state.plan.edit().side = side;
    }

    /// What is to be delivered in other worlds, since the last call, in order.
    pub fn take_outgoing(&mut self) -> impl Iterator<Item = Message> + use<G> {
        std::mem::take(&mut self.state.moment.outgoing).into_iter()
    }

    /// Takes in what comes from another world; it is delivered in the next tick. In the authority's world `from` is the
    /// player whose link it came by: whatever the message says, it goes back to that player.
    ///
    /// # Errors
    /// [`Error::UnknownName`] for a signal that does not cross this way, or a player who is not here;
    /// [`Error::NotYours`] for one that this player may not send; [`Error::WrongValues`].
    pub fn receive(&mut self, from: Option<ObjectId>, message: &Message) -> Result<(), Error> {
        let unknown =
            || Error::UnknownName { kind: "a signal that crosses to here", found: message.signal.clone() };
        let signal = self.state.find_signal(&message.signal).ok_or_else(unknown)?;
        let to = self.state.crosses(signal).ok_or_else(unknown)?;
        let who = match (self.state.plan.side, to) {
            (Side::Authority, Crosses::ToAuthority) => {
                let nobody = || Error::UnknownName { kind: "a player who is here", found: "nobody".into() };
                Some(from.filter(|from| self.state.moment.objects.get(*from).is_some()).ok_or_else(nobody)?)
            }
            (Side::Player, Crosses::ToPlayers) => message.who.as_ref().and_then(|who| self.state.find(who)),
            _ => return Err(unknown()),
        };
        // What the authority sends, it may.
        if self.state.plan.side == Side::Authority && self.state.may_not_send(signal, who) {
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
                expected: crate::base::payload::list_fields(self.state.signal_fields(signal)),
                found: crate::base::payload::list_types(&values),
            });
        }
        self.emit_for::<Values>(who, Signal::new(signal), values)
    }
}
