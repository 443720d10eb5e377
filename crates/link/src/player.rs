//! The player's end.

use stoicheon_core::{Side, Text, World};

use crate::{
    Error,
    frame::{FromAuthority, FromPlayer, known, receive, send},
    line::Line,
};

/// What the player's end was told since it was asked last.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Heard {
    /// The authority takes what this end sends.
    Welcome,
    /// The authority knows other signals, for each of these reasons; nothing crosses.
    Unfit(Vec<Text>),
    /// A request was not taken.
    Refused {
        /// The signal.
        signal: Text,
        /// Why.
        why: Text,
    },
    /// The answer to [`PlayerEnd::ask`].
    Listen {
        /// The signal.
        signal: Text,
        /// How many wires hear it in the authority's world.
        count: u64,
    },
}

/// The end of a line in a player's own program.
#[derive(Debug)]
pub struct PlayerEnd<L> {
    line: L,
    greeted: bool,
    heard: Vec<Heard>,
}

impl<L: Line> PlayerEnd<L> {
    /// The end of that line. Whose it is, the authority's host knows.
    pub fn new(line: L) -> Self {
        Self { line, greeted: false, heard: Vec::new() }
    }

    /// Asks how many wires hear a signal in the authority's world; [`heard`](Self::heard) has the answer.
    ///
    /// # Errors
    /// A line that is broken.
    pub fn ask(&mut self, signal: &str) -> Result<(), Error> {
        Ok(send(&mut self.line, &FromPlayer::Ask(signal.into()))?)
    }

    /// What it was told since the last call, in order.
    pub fn heard(&mut self) -> impl Iterator<Item = Heard> + use<L> {
        std::mem::take(&mut self.heard).into_iter()
    }

    /// Sends what the world lets cross, and takes in what has come. To be called once a frame, before the world is
    /// advanced.
    ///
    /// # Errors
    /// A line that is broken. A message that the world does not take is left out.
    pub fn exchange<G: 'static>(&mut self, world: &mut World<G>) -> Result<(), Error> {
        if !self.greeted {
            world.be(Side::Player);
            let hello = FromPlayer::Hello { signals: known(world) };
            send(&mut self.line, &hello)?;
            self.greeted = true;
        }
        for message in world.take_outgoing() {
            send(&mut self.line, &FromPlayer::Message(message))?;
        }
        while let Some(frame) = receive::<FromAuthority>(&mut self.line)? {
            match frame {
                FromAuthority::Message(message) => {
                    // What this world does not know of, such as a scene that is not loaded here, is not for it.
                    drop(world.receive(None, &message));
                }
                FromAuthority::Welcome => self.heard.push(Heard::Welcome),
                FromAuthority::Unfit(why) => self.heard.push(Heard::Unfit(why)),
                FromAuthority::Refused { signal, why } => self.heard.push(Heard::Refused { signal, why }),
                FromAuthority::Listen { signal, count } => self.heard.push(Heard::Listen { signal, count }),
            }
        }
        Ok(())
    }
}
