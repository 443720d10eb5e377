//! What settings take: as a kind of part says it, and as the catalogue has it.

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::base::value::Type;

/// Makes both lists of types of one: that of kinds, with words that are known when the program is built, and that of the
/// catalogue, which is data.
macro_rules! setting_types {
    (
        alone { $($(#[$alone_about:meta])* $alone:ident,)* }
        words { $($(#[$words_about:meta])* $words:ident,)* }
        word { $($(#[$word_about:meta])* $word:ident,)* }
    ) => {
        /// What a setting takes.
        #[derive(Clone, Copy, Debug, PartialEq, Eq)]
        #[non_exhaustive]
        pub enum SettingType {
            $($(#[$alone_about])* $alone,)*
            $($(#[$words_about])* $words(&'static [&'static str]),)*
            $($(#[$word_about])* $word(&'static str),)*
        }

        /// What a setting takes, as the catalogue has it.
        #[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
        #[serde(rename_all = "snake_case")]
        #[non_exhaustive]
        pub enum SettingInfoType {
            $($(#[$alone_about])* $alone,)*
            $($(#[$words_about])* $words(Vec<SmolStr>),)*
            $($(#[$word_about])* $word(SmolStr),)*
        }

        impl From<SettingType> for SettingInfoType {
            fn from(ty: SettingType) -> Self {
                match ty {
                    $(SettingType::$alone => Self::$alone,)*
                    $(SettingType::$words(words) => {
                        Self::$words(words.iter().copied().map(SmolStr::new_static).collect())
                    })*
                    $(SettingType::$word(word) => Self::$word(SmolStr::new_static(word)),)*
                }
            }
        }
    };
}

impl SettingInfoType {
    /// The type of the value that it has while the world runs, if it may be one: an angle is a number of degrees.
    pub fn value_type(&self) -> Option<Type> {
        Some(match self {
            Self::Angle | Self::Number => Type::Number,
            Self::Seconds | Self::Span => Type::Duration,
            Self::Text | Self::Word => Type::Text,
            Self::Vector => Type::Vector,
            Self::Colour => Type::Colour,
            Self::Rotation => Type::Rotation,
            Self::OneOf(words) => Type::one_of(words.iter().cloned()),
            _ => return None,
        })
    }
}

setting_types! {
    alone {
        /// An angle, with its unit.
        Angle,
        /// A span of time, with its unit.
        Seconds,
        /// Three numbers.
        Vector,
        /// A number.
        Number,
        /// Text.
        Text,
        /// A colour.
        Colour,
        /// Nothing: it is there or it is not.
        Flag,
        /// One or more tags.
        Tags,
        /// Any one word.
        Word,
        /// Two numbers or three, all above zero.
        Size,
        /// A turn, such as `30deg about y`.
        Rotation,
        /// A condition that is looked at while the world runs; `who` is known.
        Condition,
        /// A number that is worked out while the world runs; `who` is known.
        Amount,
        /// Words of the user's own. Words that are no settings are taken for these.
        Words,
        /// Words of the user's own, each with a span of time or two. Words that are no settings are taken for these.
        Spans,
        /// Words of the user's own, each with names and values in braces. Words that are no settings are taken for these.
        Table,
        /// A span of time, or `2s to 5s`: one drawn between two each time.
        Span,
        /// A spot, perhaps of another scene.
        Spot,
    }
    words {
        /// One of these words.
        OneOf,
        /// Nothing: it begins these settings again.
        More,
    }
    word {
        /// A signal; each time it comes, the part is given that command.
        Signal,
    }
}
