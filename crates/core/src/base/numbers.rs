//! What is told apart by its place in a list of its kind of part.

use serde::{Deserialize, Serialize};

use crate::base::value::{FieldValue, Value};

/// A state of a part: its place in the list of states of its kind.
///
/// The shipped parts name theirs, such as [`Door::OPEN`](crate::Door::OPEN); of any part they are found by word.
///
/// ```
/// use stoicheon_core::{Catalogue, Door, PartState};
/// let door = Catalogue::built_in().part("door").cloned().ok_or("the catalogue has doors")?;
/// assert_eq!(door.state("open"), Some(Door::OPEN));
/// assert_eq!(Door::OPEN, PartState::new(2));
/// # Ok::<(), &str>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(transparent)]
pub struct PartState(u8);

/// A command to a part: its place in the list of commands of its kind.
///
/// The shipped parts name theirs, such as [`Door::TO_OPEN`](crate::Door::TO_OPEN); of any part they are found by word.
///
/// ```
/// use stoicheon_core::{Command, Door, World};
/// let mut world = World::<()>::new();
/// let gate = world.object("gate").add()?;
/// let gate = world.attach(gate, Door::swing(85.0))?;
/// world.command(gate.part, Door::TO_OPEN)?;
/// assert!(world.command(gate.part, Command::new(99)).is_err());
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Command(u8);

macro_rules! numbers {
    ($($of:ident),*) => {$(
        impl $of {
            /// The one at that place, from 0.
            pub const fn new(number: u8) -> Self {
                Self(number)
            }

            /// Its place, from 0.
            pub const fn number(self) -> u8 {
                self.0
            }

            /// The one with that word in a list of them.
            pub(crate) fn of_word<'a>(mut words: impl Iterator<Item = &'a str>, word: &str) -> Option<Self> {
                let number = words.position(|known| known == word)?;
                u8::try_from(number).ok().map(Self)
            }
        }

        impl From<$of> for usize {
            fn from(of: $of) -> Self {
                of.0.into()
            }
        }
    )*};
}

numbers!(PartState, Command);

impl From<bool> for PartState {
    /// Of a part with two states: the second one if that is so.
    fn from(second: bool) -> Self {
        Self(u8::from(second))
    }
}

impl From<PartState> for Value {
    fn from(state: PartState) -> Self {
        u32::from(state.0).into()
    }
}

impl PartState {
    /// The one that a part [saved](crate::Part::save) as a value.
    pub fn from_value(value: &Value) -> Option<Self> {
        u32::from_value(value).and_then(|number| u8::try_from(number).ok()).map(Self)
    }
}
