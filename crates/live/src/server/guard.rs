//! Who is let in: those who have the key and come from the page itself.

use std::net::SocketAddr;

use percent_encoding::percent_decode_str;

use crate::{error::LiveError, server::request::Request};

/// Where a request leads.
#[derive(Debug, PartialEq, Eq)]
pub(super) enum Way {
    File(String),
    /// A text of the wiring.
    Text(String),
    Socket,
    Refused(u16, &'static str),
}

/// Knows the key, and by which names this server may be called.
#[derive(Debug)]
pub(super) struct Guard {
    key: String,
    socket: SocketAddr,
    to_others: bool,
}

impl Guard {
    pub(super) fn new(socket: SocketAddr, to_others: bool) -> Result<Self, LiveError> {
        let mut bytes = [0_u8; 16];
        getrandom::fill(&mut bytes).map_err(|error| LiveError::NoKey { reason: error.to_string() })?;
        let key = format!("{:032x}", u128::from_ne_bytes(bytes));
        Ok(Self { key, socket, to_others })
    }

    pub(super) fn key(&self) -> &str {
        &self.key
    }

    pub(super) fn way(&self, request: &Request) -> Way {
        // A name that somebody else has pointed at this machine is not this server's.
        let Some(host) = request.header("Host").filter(|host| self.is_called(host)) else {
            return Way::Refused(421, "this server is called by its address alone");
        };
        let origin = request.header("Origin");
        if origin.is_some_and(|origin| origin != format!("http://{host}")) {
            return Way::Refused(403, "another page may not ask here");
        }
        let (path, query) = request.path.split_once('?').unwrap_or((&request.path, ""));
        let Some(rest) = path.strip_prefix('/').and_then(|path| self.without_key(path)) else {
            return Way::Refused(403, "the key is missing: open the address that was printed");
        };
        if request.method != "GET" {
            return Way::Refused(405, "this page is only read");
        }
        let is_upgrade = request.header("Upgrade").is_some_and(|to| to.eq_ignore_ascii_case("websocket"));
        match (rest, is_upgrade, origin) {
            ("socket", true, Some(_)) => Way::Socket,
            ("socket", true, None) => Way::Refused(403, "a page says from where it comes"),
            ("socket", false, _) => Way::Refused(426, "this is a socket"),
            ("file", ..) => Way::Text(percent_decode_str(query).decode_utf8_lossy().into_owned()),
            (rest, ..) => Way::File(rest.to_owned()),
        }
    }

    /// The path after the key. All of it is compared, whatever differs first.
    fn without_key<'p>(&self, path: &'p str) -> Option<&'p str> {
        let (key, rest) = path.split_once('/')?;
        let same = key.len() == self.key.len()
            && key.bytes().zip(self.key.bytes()).fold(0, |differs, (one, two)| differs | (one ^ two)) == 0;
        same.then_some(rest)
    }

    fn is_called(&self, host: &str) -> bool {
        let Some((name, port)) = host.rsplit_once(':') else { return false };
        let is_own =
            ["127.0.0.1", "localhost", "[::1]"].contains(&name) || name == self.socket.ip().to_string();
        // Who listens to others is called by names that nobody here knows.
        port == self.socket.port().to_string() && (is_own || self.to_others)
    }
}
