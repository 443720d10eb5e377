//! To bytes and back.

use std::io::Cursor;

use serde::{Deserialize, Serialize, de::DeserializeOwned};

use serde_json::Serializer;

use crate::{StoreError, pretty_json::PrettyJson};

/// What a file can hold.
pub trait Content: Serialize + DeserializeOwned + Sized {
    /// What the file says of itself.
    const WORD: &'static str;
    /// What it is, for messages.
    const ABOUT: &'static str;

    /// The bytes of a file that holds it, as [`to_bytes`].
    ///
    /// # Errors
    /// As for [`to_bytes`].
    fn encode(&self, form: Form) -> Result<Vec<u8>, StoreError> {
        encode(self, form)
    }

    /// What the bytes of a file hold, as [`from_bytes`].
    ///
    /// # Errors
    /// As for [`from_bytes`].
    fn decode(bytes: &[u8]) -> Result<Self, StoreError> {
        decode(bytes)
    }
}

/// How it is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Form {
    /// For people.
    Json,
    /// Small: CBOR.
    Cbor,
}

/// What is in a file.
#[derive(Debug, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(deny_unknown_fields)]
#[schemars(title = "A Stoicheon save")]
pub(crate) struct Envelope<T> {
    /// What the file holds: `stoicheon save`.
    pub(crate) holds: String,
    /// The thing itself.
    pub(crate) content: T,
}

/// Only what it says of itself.
#[derive(Debug, Deserialize)]
struct Label {
    holds: String,
}

/// The bytes of a file that holds it.
///
/// # Errors
/// [`StoreError::Unfit`].
pub fn to_bytes<T: Content>(content: &T, form: Form) -> Result<Vec<u8>, StoreError> {
    content.encode(form)
}

pub(crate) fn encode<T: Content>(content: &T, form: Form) -> Result<Vec<u8>, StoreError> {
    let envelope = Envelope { holds: T::WORD.to_owned(), content };
    match form {
        Form::Json => {
            let mut bytes = Vec::new();
            let mut to = Serializer::with_formatter(&mut bytes, PrettyJson::default());
            envelope.serialize(&mut to).map_err(unfit)?;
            bytes.push(b'\n');
            Ok(bytes)
        }
        Form::Cbor => {
            let mut bytes = Vec::new();
            ciborium::into_writer(&envelope, &mut bytes).map_err(unfit)?;
            Ok(bytes)
        }
    }
}

fn unfit(error: impl std::fmt::Display) -> StoreError {
    StoreError::Unfit { reason: error.to_string() }
}

/// What the bytes of a file hold, in whichever form.
///
/// # Errors
/// [`StoreError::Foreign`], [`StoreError::OtherContent`] or [`StoreError::Damaged`].
pub fn from_bytes<T: Content>(bytes: &[u8]) -> Result<T, StoreError> {
    T::decode(bytes)
}

pub(crate) fn decode<T: Content>(bytes: &[u8]) -> Result<T, StoreError> {
    let first = bytes.iter().copied().find(|byte| !byte.is_ascii_whitespace());
    let found = match first {
        Some(b'{') => serde_json::from_slice::<Envelope<T>>(bytes).map_err(|error| error.to_string()),
        // A map with a known number of entries.
        Some(0xa0..=0xbf) => from_cbor::<Envelope<T>>(bytes),
        None => return Err(StoreError::Foreign { found: "an empty file".to_owned() }),
        Some(_) => return Err(StoreError::Foreign { found: "something else".to_owned() }),
    };
    let reason = match found {
        Ok(envelope) if envelope.holds == T::WORD => return Ok(envelope.content),
        Ok(_) => String::new(),
        Err(reason) => reason,
    };
    let label = match first {
        Some(b'{') => serde_json::from_slice::<Label>(bytes).ok(),
        _ => from_cbor::<Label>(bytes).ok(),
    };
    Err(match label {
        Some(label) if label.holds == T::WORD => StoreError::Damaged { reason },
        Some(label) => StoreError::OtherContent { expected: T::ABOUT, found: format!("\"{}\"", label.holds) },
        None if first == Some(b'{') && !bytes.trim_ascii_end().ends_with(b"}") => {
            StoreError::Damaged { reason: format!("it ends too early ({reason})") }
        }
        None => StoreError::Foreign { found: format!("something else ({reason})") },
    })
}

fn from_cbor<T: DeserializeOwned>(bytes: &[u8]) -> Result<T, String> {
    let mut reader = Cursor::new(bytes);
    let found = ciborium::from_reader(&mut reader).map_err(|error| error.to_string())?;
    // What comes after the end is not ours.
    match usize::try_from(reader.position()) {
        Ok(at) if at == bytes.len() => Ok(found),
        _ => Err("more bytes follow its end".to_owned()),
    }
}
