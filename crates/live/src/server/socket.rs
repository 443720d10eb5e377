//! One page: it asks, and is told what has changed.

use std::{
    io::Write as _,
    net::TcpStream,
    time::{Duration, Instant},
};

use tungstenite::{
    Message, WebSocket,
    handshake::derive_accept_key,
    protocol::{CloseFrame, Role, WebSocketConfig, frame::coding::CloseCode},
};

use crate::{ask::Poll, reply::Reply, server::request::Request, shared::Shared};

/// The longest message of a page, in bytes.
const LONGEST: usize = 64 * 1024;
/// How many messages a page may send in a second.
const BUSIEST: u32 = 400;
/// How long a page waits for news before it is told that there is none.
const PATIENCE: Duration = Duration::from_millis(40);

/// Answers a request for a socket, and talks to the page until it goes.
pub(super) fn open(mut stream: TcpStream, request: &Request, shared: &Shared) {
    let key =
        request.header("Sec-WebSocket-Key").filter(|_| request.header("Sec-WebSocket-Version") == Some("13"));
    let Some(accept) = key.map(|key| derive_accept_key(key.as_bytes())) else {
        return super::answer(&mut stream, 400, "text/plain", "this is no request for a socket\n");
    };
    let Some(page) = shared.open() else {
        return super::answer(&mut stream, 503, "text/plain", "too many pages watch already\n");
    };
    let head = format!(
        "HTTP/1.1 101 Switching Protocols\r\nUpgrade: websocket\r\nConnection: Upgrade\r\nSec-WebSocket-Accept: {accept}\r\n\r\n"
    );
    // A page that is hidden may say nothing for long.
    if stream.write_all(head.as_bytes()).is_ok() && stream.set_read_timeout(None).is_ok() {
        let limits = WebSocketConfig::default().max_message_size(Some(LONGEST)).max_frame_size(Some(LONGEST));
        let rest = request.rest.clone();
        let mut socket = WebSocket::from_partially_read(stream, rest, Role::Server, Some(limits));
        if let Some(reason) = talk(&mut socket, page, shared) {
            // It may be gone already.
            let _ = socket.close(Some(CloseFrame { code: CloseCode::Policy, reason: reason.into() }));
            let _ = socket.flush();
        }
    }
    shared.close(page);
}

/// Until the page goes or says what it may not: then why it is sent away.
fn talk(socket: &mut WebSocket<TcpStream>, page: u64, shared: &Shared) -> Option<&'static str> {
    let (mut second, mut messages) = (Instant::now(), 0);
    loop {
        let text = match socket.read() {
            Ok(Message::Text(text)) => text,
            Ok(Message::Ping(_) | Message::Pong(_)) => continue,
            Ok(Message::Close(_)) => {
                let _ = socket.flush();
                return None;
            }
            Ok(_) => return Some("expected text"),
            Err(tungstenite::Error::Capacity(_)) => return Some("that message is too long"),
            Err(_) => return None,
        };
        messages += 1;
        if second.elapsed() >= Duration::from_secs(1) {
            (second, messages) = (Instant::now(), 1);
        } else if messages > BUSIEST {
            return Some("too many messages");
        }
        let Ok(poll) = serde_json::from_str::<Poll>(&text) else {
            return Some("expected what a page asks for");
        };
        if !shared.ask(page, poll.ask) {
            return Some("too much is asked for");
        }
        let reply: Reply = shared.reply(page, poll.seen, PATIENCE)?;
        let Ok(text) = serde_json::to_string(&reply) else {
            return Some("what has happened cannot be written");
        };
        if socket.send(Message::text(text)).is_err() {
            return None;
        }
    }
}
