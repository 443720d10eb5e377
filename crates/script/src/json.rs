//! The JSON form: the same model as a text says, for editors and exporters.

use crate::{
    diagnostic::{Diagnostic, Severity},
    format::format,
    load::Files,
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
    Ok(files.models.pop().unwrap_or_default())
}

/// The text of a JSON form, set as [`format()`] sets it.
///
/// # Errors
/// [`JsonError`].
pub fn from_json(json: &str) -> Result<String, JsonError> {
    let value: serde_json::Value = serde_json::from_str(json)?;
    if !value.is_object() {
        let message = "expected an object with `scene`, `items` and the like";
        return Err(JsonError::Form(serde::de::Error::custom(message)));
    }
    let file: File = serde_json::from_value(value)?;
    let text = print(&file);
    let words = |faults| JsonError::Words { faults, text: text.clone() };
    let text_set = format(&text).map_err(words)?;
    // A name that is more than a name could have become something else on the way.
    let again = model_of(&text).map_err(words)?;
    if print(&again) == text {
        return Ok(text_set);
    }
    let message = "a name in it is not made of letters, digits and underscores alone";
    let fault = Diagnostic::error(crate::diagnostic::Code::Syntax, message);
    Err(JsonError::Words { faults: vec![fault], text })
}

/// The JSON Schema of the JSON form.
pub fn schema() -> String {
    let schema = schemars::schema_for!(File);
    serde_json::to_string_pretty(&schema).unwrap_or_default() + "\n"
}
