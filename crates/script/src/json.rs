//! The JSON form: the same model as a text says, for editors and exporters.

use std::sync::Arc;

use serde::Deserialize;
use serde_json::Value;
use serde_stacker::Deserializer;

use crate::{
    diagnostic::{Diagnostic, Severity},
    files::Files,
    format::format,
    model::File,
    print::print,
};

/// What keeps JSON from being a scene.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum JsonError {
    /// It is not JSON, or not of this form.
    #[error(
        "this is not a wiring file in JSON: {0}; `stoicheon convert --schema` prints what one looks like"
    )]
    Form(#[from] serde_json::Error),
    /// It is of this form, but a name or a literal in it is none.
    #[error("a name or a value in it cannot be written as text: {}", faults.first().map_or("?", |fault| &fault.message))]
    Words {
        /// What the text it leads to is faulted for.
        faults: Vec<Diagnostic>,
        /// That text.
        text: String,
    },
}

/// The JSON form of a text. What the text has of comments is left behind.
///
/// ```
/// let json = stoicheon_script::to_json("scene lock\nvar level: number = 0.4\n").unwrap();
/// assert_eq!(stoicheon_script::from_json(&json).unwrap(), "scene lock\nvar level: number = 0.4\n");
/// ```
///
/// # Errors
/// The faults of a text that does not follow the grammar, or whose literals are none.
pub fn to_json(text: &str) -> Result<String, Vec<Diagnostic>> {
    let file = model_of(text)?;
    // A model has nothing in it that JSON cannot hold.
    Ok(serde_json::to_string_pretty(&file).unwrap_or_default() + "\n")
}

fn model_of(text: &str) -> Result<File, Vec<Diagnostic>> {
    let mut files = Files::default();
    files.parse("", text);
    if files.diagnostics.iter().any(|diagnostic| diagnostic.severity == Severity::Error) {
        return Err(files.diagnostics);
    }
    Ok(files.models.pop().map(Arc::unwrap_or_clone).unwrap_or_default())
}

/// The text of a JSON form, set as [`format()`] sets it.
///
/// # Errors
/// [`JsonError`].
pub fn from_json(json: &str) -> Result<String, JsonError> {
    let value = read_value(json)?;
    if !value.is_object() {
        let message = "expected an object with `scene`, `items` and the like";
        return Err(JsonError::Form(serde::de::Error::custom(message)));
    }
    let file = File::deserialize(Deserializer::new(value))?;
    let text = print(&file);
    let words = |faults| JsonError::Words { faults, text: text.clone() };
    let text_set = format(&text).map_err(words)?;
    // A name that is more than a name could have become something else on the way.
    let again = model_of(&text).map_err(words)?;
    if print(&again) == text && same(&file, &again) {
        return Ok(text_set);
    }
    let message = "a name in it has characters other than letters, digits and underscores";
    let fault = Diagnostic::error(crate::diagnostic::Code::Syntax, message);
    Err(JsonError::Words { faults: vec![fault], text })
}

/// How deep values may be nested. The highest expression a text may have stays below.
const DEEPEST: usize = 2_000;

/// JSON as it is. An expression may be nested deeper than the stack of a thread, so that it grows; but not without end,
/// as a text that is all brackets would have it.
fn read_value(json: &str) -> Result<Value, serde_json::Error> {
    let (mut depth, mut in_text, mut after_backslash) = (0_usize, false, false);
    for byte in json.bytes() {
        match byte {
            _ if after_backslash => after_backslash = false,
            b'\\' if in_text => after_backslash = true,
            b'"' => in_text = !in_text,
            b'[' | b'{' if !in_text => depth += 1,
            b']' | b'}' if !in_text => depth = depth.saturating_sub(1),
            _ => {}
        }
        if depth > DEEPEST {
            let message = format!("expected at most {DEEPEST} levels of nesting, found more");
            return Err(serde::de::Error::custom(message));
        }
    }
    let mut from = serde_json::Deserializer::from_str(json);
    from.disable_recursion_limit();
    let value = Value::deserialize(Deserializer::new(&mut from))?;
    from.end()?;
    Ok(value)
}

/// Whether two models say the same; where in which text they say it does not count.
fn same(one: &File, other: &File) -> bool {
    matches!((serde_json::to_value(one), serde_json::to_value(other)), (Ok(one), Ok(other)) if one == other)
}

/// The JSON Schema of the JSON form.
pub fn schema() -> String {
    let schema = schemars::schema_for!(File);
    serde_json::to_string_pretty(&schema).unwrap_or_default() + "\n"
}
