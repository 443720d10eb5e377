//! Why a part did not do what it was told.

use crate::base::value::{FieldValue, Text, Type, Value};

macro_rules! words {
    ($(#[$about:meta])* $name:ident { $($(#[$what:meta])* $variant:ident $word:literal,)* }) => {
        $(#[$about])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
        #[non_exhaustive]
        pub enum $name {
            $($(#[$what])* $variant,)*
        }

        impl $name {
            const ALL: &'static [Self] = &[$(Self::$variant,)*];

            /// The word a trace and a guard use for it.
            pub fn word(self) -> &'static str {
                match self {
                    $(Self::$variant => $word,)*
                }
            }
        }

        impl FieldValue for $name {
            fn field_type() -> Type {
                Type::one_of(Self::ALL.iter().map(|why| why.word()))
            }
            fn to_value(&self) -> Value {
                Value::Text(Text::new_static(self.word()))
            }
            fn from_value(value: &Value) -> Option<Self> {
                Self::ALL.iter().copied().find(|why| value.as_text() == Some(why.word()))
            }
        }
    };
}

words! {
    /// Why a door or an item did not do what it was told.
    Denial {
        /// The door is locked.
        Locked "locked",
        /// What the door asks for does not hold.
        Condition "condition",
        /// The door asks for an item, and it is not carried.
        Item "item",
        /// Nobody is there to take the item.
        Nobody "nobody",
        /// Somebody has the item already.
        Carried "carried",
        /// Nobody has the item.
        Lying "lying",
        /// The taker's hands are full.
        Full "full",
        /// The taker cannot carry anything.
        Carrier "carrier",
        /// The taker is in another scene.
        Away "away",
    }
}

words! {
    /// Why a player did not answer.
    NoAnswer {
        /// The player declined.
        Declined "declined",
        /// The player took too long.
        Late "late",
        /// The question was withdrawn.
        Withdrawn "withdrawn",
        /// The player is gone.
        Quit "quit",
    }
}
