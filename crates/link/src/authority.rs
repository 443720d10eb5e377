//! The authority's end: one for all players.

use stoicheon_core::{ObjectId, Side, State, Text, World};

use crate::{
    Error,
    frame::{FromAuthority, FromPlayer, Known, known, receive, send},
    line::{Broken, Line},
};

/// How many frames of one player are looked at before the others have their turn.
const MOST_AT_ONCE: usize = 256;

/// A line, and whose it is.
#[derive(Debug)]
struct Guest<L> {
    line: L,
    player: Text,
    /// The player's program declares the same signals.
    greeted: bool,
}

/// The ends of all players' lines in the program whose word counts.
#[derive(Debug)]
pub struct AuthorityEnd<L> {
    guests: Vec<Guest<L>>,
}

impl<L> Default for AuthorityEnd<L> {
    fn default() -> Self {
        Self { guests: Vec::new() }
    }
}

impl<L: Line> AuthorityEnd<L> {
    /// No player so far.
    pub fn new() -> Self {
        Self::default()
    }

    /// Adds the line of a player. The host says which player it is; what the player's program says does not count.
    ///
    /// # Errors
    /// [`Error::TwoLines`] while another line of that player is open.
    pub fn accept(&mut self, player: &str, line: L) -> Result<(), Error> {
        if self.guests.iter().any(|guest| guest.player == player) {
            return Err(Error::TwoLines { player: player.into() });
        }
        self.guests.push(Guest { line, player: player.into(), greeted: false });
        Ok(())
    }

    /// The players whose programs fit, in the order their lines came.
    pub fn players(&self) -> impl Iterator<Item = &str> {
        self.guests.iter().filter(|guest| guest.greeted).map(|guest| guest.player.as_str())
    }

    /// Takes in what players have sent, line by line, and sends what the world lets cross. To be called once a frame,
    /// before the world is advanced. A player who was here before joins again; one whose line is broken leaves.
    ///
    /// # Errors
    /// [`Error::World`] for a player who cannot leave; the lines of the others stay open.
    pub fn exchange<G: 'static>(&mut self, world: &mut World<G>) -> Result<(), Error> {
        world.be(Side::Authority);
        let outgoing: Vec<_> = world.take_outgoing().map(FromAuthority::Message).collect();
        let mut open = Vec::new();
        let mut told = Ok(());
        for mut guest in std::mem::take(&mut self.guests) {
            if guest.exchange(world, &outgoing).is_ok() {
                open.push(guest);
            } else if let Some(player) = guest.body(world).filter(|_| guest.greeted) {
                told = told.and(world.leave(player));
            }
        }
        self.guests = open;
        Ok(told?)
    }
}

impl<L: Line> Guest<L> {
    /// The player, if they are in the world.
    fn body(&self, state: &State) -> Option<ObjectId> {
        let player = state.find_player(&self.player)?;
        state.players().find(|here| *here == player)
    }

    fn exchange<G: 'static>(
        &mut self,
        world: &mut World<G>,
        outgoing: &[FromAuthority],
    ) -> Result<(), Broken> {
        for _ in 0..MOST_AT_ONCE {
            let Some(frame) = receive::<FromPlayer>(&mut self.line)? else { break };
            match frame {
                FromPlayer::Hello { signals } => self.greet(&signals, world)?,
                FromPlayer::Message(message) => {
                    let from = self.body(world).filter(|_| self.greeted);
                    if let Err(error) = world.receive(from, &message) {
                        let why = error.to_string().into();
                        send(&mut self.line, &FromAuthority::Refused { signal: message.signal, why })?;
                    }
                }
                FromPlayer::Ask(signal) => {
                    let count = world.find_signal(&signal).map_or(0, |signal| world.listeners(signal));
                    let count = u64::try_from(count).unwrap_or(u64::MAX);
                    send(&mut self.line, &FromAuthority::Listen { signal, count })?;
                }
            }
        }
        if self.greeted {
            outgoing.iter().try_for_each(|message| send(&mut self.line, message))?;
        }
        Ok(())
    }

    /// A program says what it knows, once.
    fn greet<G: 'static>(&mut self, signals: &[Known], world: &mut World<G>) -> Result<(), Broken> {
        if self.greeted {
            return Err(Broken::new("greeted twice"));
        }
        let mut unfit = differences(signals, world);
        // A stranger comes in only if the world knows where they begin: the host may make the player before.
        if unfit.is_empty()
            && self.body(world).is_none()
            && let Err(error) = world.join(&self.player, None)
        {
            unfit.push(error.to_string().into());
        }
        self.greeted = unfit.is_empty();
        send(&mut self.line, &if self.greeted { FromAuthority::Welcome } else { FromAuthority::Unfit(unfit) })
    }
}

/// In what the signals of the two ends differ.
fn differences(theirs: &[Known], state: &State) -> Vec<Text> {
    let ours = known(state);
    let mut found = Vec::new();
    for signal in theirs {
        match ours.iter().find(|known| known.name == signal.name) {
            None => found.push(format!("the player's signal {} does not cross here", signal.name).into()),
            Some(known) if known != signal => {
                found.push(format!("the signal {} carries something else here", signal.name).into());
            }
            Some(_) => {}
        }
    }
    found
}
