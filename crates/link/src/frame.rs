//! What is said over a line, as CBOR.

use serde::{Deserialize, Serialize, de::DeserializeOwned};
use stoicheon_core::{Crosses, Field, Message, State, Text};

use crate::line::{Broken, Line};

/// A signal that crosses, as one end knows it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct Known {
    pub(crate) name: Text,
    pub(crate) to: Crosses,
    pub(crate) fields: Vec<Field>,
}

/// All signals of a world that cross.
pub(crate) fn known(state: &State) -> Vec<Known> {
    let all = state.crossing_signals();
    all.map(|(name, to, fields)| Known { name: name.into(), to, fields: fields.to_vec() }).collect()
}

/// What a player's end says.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) enum FromPlayer {
    /// The signals it knows to cross.
    Hello {
        signals: Vec<Known>,
    },
    Message(Message),
    /// How many listen to a signal there?
    Ask(Text),
}

/// What the authority's end says.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) enum FromAuthority {
    Welcome,
    /// The two do not fit each other, for each of these reasons.
    Unfit(Vec<Text>),
    Message(Message),
    /// A signal was not taken.
    Refused {
        signal: Text,
        why: Text,
    },
    /// So many listen to a signal.
    Listen {
        signal: Text,
        count: u64,
    },
}

pub(crate) fn send(line: &mut impl Line, frame: &impl Serialize) -> Result<(), Broken> {
    let mut bytes = Vec::new();
    ciborium::into_writer(frame, &mut bytes).map_err(|error| Broken::new(error.to_string()))?;
    line.send(bytes)
}

/// The next frame. One that cannot be read breaks the line: the sender speaks another language.
pub(crate) fn receive<F: DeserializeOwned>(line: &mut impl Line) -> Result<Option<F>, Broken> {
    let Some(bytes) = line.receive()? else { return Ok(None) };
    let read = ciborium::de::from_reader_with_recursion_limit(bytes.as_slice(), 32);
    read.map(Some).map_err(|error| Broken::new(format!("a frame cannot be read: {error}")))
}
