//! The authority's end: one for all players.

use stoicheon_core::{Side, State, Text, World};

use crate::{
    Error,
    frame::{FromAuthority, FromPlayer, Known, known, receive, send},
    line::{Broken, Line},
};

/// How many frames of one player are looked at before the others have their turn.
const MOST_AT_ONCE: usize = 256;

/// A line, and whose it is once that was said.
#[derive(Debug)]
struct Guest<L> {
    line: L,
    player: Option<Text>,
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

    /// One more line.
    pub fn accept(&mut self, line: L) {
        self.guests.push(Guest { line, player: None });
    }

    /// The players whose lines are open, in the order they came.
    pub fn players(&self) -> impl Iterator<Item = &str> {
        self.guests.iter().filter_map(|guest| guest.player.as_deref())
    }

    /// Takes in what players have sent, line by line, and sends what the world lets cross. To be called once a frame,
    /// before the world is advanced. A player who was here before joins again; one whose line is broken leaves.
    ///
    /// # Errors
    /// [`Error::World`] for a player who cannot leave; the lines of the others stay open.
    pub fn exchange<G: 'static>(&mut self, world: &mut World<G>) -> Result<(), Error> {
        world.be(Side::Authority);
        let outgoing: Vec<_> = world.outgoing().map(FromAuthority::Message).collect();
        let mut open = Vec::new();
        let mut told = Ok(());
        for mut guest in std::mem::take(&mut self.guests) {
            let taken: Vec<_> = open.iter().filter_map(|guest: &Guest<L>| guest.player.clone()).collect();
            if guest.exchange(world, &outgoing, &taken).is_ok() {
                open.push(guest);
            } else if let Some(player) = guest.player.and_then(|player| world.find(&player)) {
                told = told.and(world.leave(player));
            }
        }
        self.guests = open;
        Ok(told?)
    }
}

impl<L: Line> Guest<L> {
    fn exchange<G: 'static>(
        &mut self,
        world: &mut World<G>,
        outgoing: &[FromAuthority],
        taken: &[Text],
    ) -> Result<(), Error> {
        for _ in 0..MOST_AT_ONCE {
            let Some(frame) = receive::<FromPlayer>(&mut self.line)? else { break };
            match frame {
                FromPlayer::Hello { player, signals } => self.greet(player, &signals, taken, world)?,
                FromPlayer::Message(message) => {
                    let from = self.player.as_ref().and_then(|player| world.find(player));
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
        if self.player.is_some() {
            outgoing.iter().try_for_each(|message| send(&mut self.line, message))?;
        }
        Ok(())
    }

    /// A line says whose it is, once.
    fn greet<G: 'static>(
        &mut self,
        player: Text,
        signals: &[Known],
        taken: &[Text],
        world: &mut World<G>,
    ) -> Result<(), Error> {
        if self.player.is_some() || taken.contains(&player) {
            return Err(Broken::new(format!("{player} is here already")).into());
        }
        let unfit = differences(signals, world);
        if !unfit.is_empty() {
            send(&mut self.line, &FromAuthority::Unfit(unfit))?;
            return Ok(());
        }
        // A stranger comes in only if the world knows where he begins: the host may make him before.
        if world.find(&player).is_none()
            && let Err(error) = world.join(&player, None)
        {
            send(&mut self.line, &FromAuthority::Unfit(vec![error.to_string().into()]))?;
            return Ok(());
        }
        self.player = Some(player);
        Ok(send(&mut self.line, &FromAuthority::Welcome)?)
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
