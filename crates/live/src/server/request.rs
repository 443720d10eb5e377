//! What a connection asks for.

use std::io::Read;

use httparse::Status;

/// The longest head of a request, in bytes.
const LONGEST: usize = 16 * 1024;
/// How many headers it may have.
const HEADERS: usize = 64;

/// The head of a request.
#[derive(Debug, Default)]
pub(super) struct Request {
    pub(super) method: String,
    /// The path, and what comes after the question mark.
    pub(super) path: String,
    headers: Vec<(String, String)>,
    /// What came after the head.
    pub(super) rest: Vec<u8>,
}

impl Request {
    /// Reads the head of a request; nothing if it is none, is too long, or does not come.
    pub(super) fn read(from: &mut impl Read) -> Option<Self> {
        let mut bytes = Vec::new();
        let mut piece = [0; 2048];
        while bytes.len() <= LONGEST {
            let count = from.read(&mut piece).ok().filter(|count| *count > 0)?;
            bytes.extend_from_slice(&piece[..count]);
            let mut headers = [httparse::EMPTY_HEADER; HEADERS];
            let mut parsed = httparse::Request::new(&mut headers);
            if let Status::Complete(end) = parsed.parse(&bytes).ok()? {
                return Some(Self::of(&parsed, bytes[end..].to_vec()));
            }
        }
        None
    }

    fn of(parsed: &httparse::Request<'_, '_>, rest: Vec<u8>) -> Self {
        let text = |value: &[u8]| String::from_utf8_lossy(value).into_owned();
        Self {
            method: parsed.method.unwrap_or_default().to_owned(),
            path: parsed.path.unwrap_or_default().to_owned(),
            headers: parsed
                .headers
                .iter()
                .map(|header| (header.name.to_owned(), text(header.value)))
                .collect(),
            rest,
        }
    }

    /// A header by its name. One that is there twice is none: nobody can say which counts.
    pub(super) fn header(&self, name: &str) -> Option<&str> {
        let mut found = self.headers.iter().filter(|(known, _)| known.eq_ignore_ascii_case(name));
        let (_, value) = found.next()?;
        found.next().is_none().then_some(value.trim())
    }
}
