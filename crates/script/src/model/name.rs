//! Names and paths.

use std::borrow::Cow;

use schemars::{JsonSchema, Schema, SchemaGenerator};
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use smol_str::SmolStr;

use crate::source::Span;

/// A word, or a text, and where it stands.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub(crate) struct Name {
    #[serde(skip)]
    pub(crate) span: Span,
    #[schemars(with = "String")]
    pub(crate) text: SmolStr,
    /// How many uses of kits further out it means something: it was given there.
    #[serde(skip)]
    pub(crate) outward: u8,
}

impl Name {
    pub(crate) fn new(text: impl Into<SmolStr>, span: Span) -> Self {
        Self { span, text: text.into(), outward: 0 }
    }
}

/// `name`, `object.name`, `kit.object.name`
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Path(pub(crate) Vec<Name>);

impl Path {
    pub(crate) fn first(&self) -> &Name {
        &self.0[0]
    }

    /// The last name, and those before it, if there are any.
    pub(crate) fn split_last(&self) -> (&Name, &[Name]) {
        self.0.split_last().unwrap_or((&self.0[0], &[]))
    }

    /// The name, if there is only one.
    pub(crate) fn single(&self) -> Option<&Name> {
        if let [name] = &self.0[..] { Some(name) } else { None }
    }

    pub(crate) fn span(&self) -> Span {
        self.first().span.to(self.split_last().0.span)
    }

    /// As it is written.
    pub(crate) fn text(&self) -> SmolStr {
        match self.single() {
            Some(name) => name.text.clone(),
            None => self.0.iter().map(|name| name.text.as_str()).collect::<Vec<_>>().join(".").into(),
        }
    }
}

impl Serialize for Path {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        self.text().serialize(to)
    }
}

impl<'de> Deserialize<'de> for Path {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let text = String::deserialize(from)?;
        let name = |word: &str| Name::new(word, Span::default());
        Ok(Self(text.split('.').map(name).collect()))
    }
}

impl JsonSchema for Path {
    fn schema_name() -> Cow<'static, str> {
        "Path".into()
    }

    fn json_schema(_: &mut SchemaGenerator) -> Schema {
        schemars::json_schema!({
            "type": "string",
            "description": "A name, or names joined by dots: upper_gate.opened",
            "pattern": r"^[\p{L}_][\p{L}\p{N}_]*(\.[\p{L}_][\p{L}\p{N}_]*)*$"
        })
    }
}
