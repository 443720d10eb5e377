//! Messages as bytes: a header with a length, and JSON.

use std::io::{self, BufRead, Read};

use lsp_server::Message;

/// Longer messages are not taken: no text that wiring is read from is longer, either.
const LONGEST: usize = 1 << 30;

/// What came in.
#[derive(Debug)]
pub(crate) enum Incoming {
    Message(Message),
    /// Something that is no message, and why.
    Rubbish(String),
}

/// Reads the next message; none once the other side has closed.
///
/// # Errors
/// What reading says. What was read and is no message is [`Incoming::Rubbish`], and reading goes on behind it.
pub(crate) fn read(from: &mut impl BufRead) -> io::Result<Option<Incoming>> {
    let mut length = None;
    loop {
        let mut line = Vec::new();
        if from.read_until(b'\n', &mut line)? == 0 {
            return Ok(None);
        }
        let line = String::from_utf8_lossy(&line);
        let line = line.trim_end();
        if line.is_empty() {
            break;
        }
        let (name, value) = line.split_once(':').unwrap_or((line, ""));
        if name.eq_ignore_ascii_case("content-length") {
            length = value.trim().parse::<usize>().ok();
        }
    }
    let Some(length) = length else {
        return Ok(Some(Incoming::Rubbish("expected a header `Content-Length: BYTES`".to_owned())));
    };
    if length > LONGEST {
        let copied = io::copy(&mut from.take(length as u64), &mut io::sink())?;
        return Ok(Some(Incoming::Rubbish(format!(
            "expected a message of up to {LONGEST} bytes, found {copied}"
        ))));
    }
    // What is announced may never come: it is not made room for before it does.
    let mut body = Vec::new();
    if from.take(length as u64).read_to_end(&mut body)? < length {
        return Ok(None);
    }
    Ok(Some(match serde_json::from_slice(&body) {
        Ok(message) => Incoming::Message(message),
        Err(error) => Incoming::Rubbish(format!("expected a message in JSON: {error}")),
    }))
}
