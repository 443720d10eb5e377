//! Values as the people who play read them.

use smol_str::format_smolstr;

use crate::{
    base::value::{Text, Value, shown_number},
    plan::calc::{Calculated, EvalFault},
    state::State,
};

/// How many bytes a text that is put together may have. Without a limit, one that is added to itself in each tick would soon
/// fill the memory.
const LONGEST: usize = 10_000;

impl State {
    /// A value as a text that players read: `2.5`, `Five!`, `2.5 s`, `(4, 0, 10)`, the name of an object.
    ///
    /// ```
    /// use stoicheon_core::{World, ticks};
    /// let world = World::<()>::new();
    /// assert_eq!(world.text_of(&0.30000000000000004.into()), "0.3");
    /// assert_eq!(world.text_of(&ticks(75).into()), "2.5 s");
    /// ```
    pub fn text_of(&self, value: &Value) -> Text {
        value.shown().unwrap_or_else(|| match value {
            Value::Duration(span) => format_smolstr!("{} s", shown_number(self.rate().seconds(*span).0)),
            Value::Object(object) => self.name(*object).unwrap_or_default().into(),
            Value::Spot(spot) => self.spot_name(*spot).unwrap_or_default().into(),
            _ => Text::default(),
        })
    }

    /// Values one after the other as one text.
    pub(crate) fn joined(&self, values: &[Value]) -> Calculated {
        let mut text = String::new();
        values.iter().for_each(|value| text.push_str(&self.text_of(value)));
        if text.len() <= LONGEST {
            return (Value::Text(text.into()), None);
        }
        let end = (0..=LONGEST).rev().find(|end| text.is_char_boundary(*end)).unwrap_or(0);
        text.truncate(end);
        (Value::Text(text.into()), Some(EvalFault::TooLong))
    }
}
