//! Serving the page: a thread that takes connections, and one for each of them.

mod guard;
mod request;
mod socket;

use std::{
    io::Write as _,
    net::{SocketAddr, TcpListener, TcpStream, ToSocketAddrs},
    sync::{
        Arc,
        atomic::{AtomicBool, AtomicUsize, Ordering},
    },
    thread,
    time::Duration,
};

use crate::{
    error::LiveError,
    server::{
        guard::{Guard, Way},
        request::Request,
    },
    shared::Shared,
};

/// The files of the page.
const FILES: [(&str, &str, &str); 11] = [
    ("", "text/html; charset=utf-8", include_str!("../page/index.html")),
    ("live.css", "text/css; charset=utf-8", include_str!("../page/live.css")),
    ("live.js", "text/javascript; charset=utf-8", include_str!("../page/live.js")),
    ("ground.js", "text/javascript; charset=utf-8", include_str!("../page/ground.js")),
    ("tape.js", "text/javascript; charset=utf-8", include_str!("../page/tape.js")),
    ("bench.js", "text/javascript; charset=utf-8", include_str!("../page/bench.js")),
    ("clock.js", "text/javascript; charset=utf-8", include_str!("../page/clock.js")),
    ("world.js", "text/javascript; charset=utf-8", include_str!("../page/world.js")),
    ("beside.js", "text/javascript; charset=utf-8", include_str!("../page/beside.js")),
    ("made.js", "text/javascript; charset=utf-8", include_str!("../page/made.js")),
    ("keys.js", "text/javascript; charset=utf-8", include_str!("../page/keys.js")),
];

/// Nothing is loaded from anywhere else, and no other page may hold this one in a frame.
const POLICY: &str = "default-src 'none'; style-src 'self'; script-src 'self'; connect-src 'self'; img-src data:; \
     frame-ancestors 'none'; base-uri 'none'; form-action 'none'";

/// How many connections there may be at once.
const CONNECTIONS: usize = 64;
/// How long a connection may take to say what it wants, or to take its answer.
const PATIENCE: Duration = Duration::from_secs(5);

/// The thread that takes connections ends when this is dropped.
#[derive(Debug)]
pub(crate) struct Server {
    guard: Arc<Guard>,
    socket: SocketAddr,
    ended: Arc<AtomicBool>,
}

impl Server {
    pub(crate) fn start(address: &str, to_others: bool, shared: Arc<Shared>) -> Result<Self, LiveError> {
        let no_address = |reason: String| LiveError::NoAddress { address: address.to_owned(), reason };
        let told = |error: std::io::Error| no_address(error.to_string());
        let wanted = address.to_socket_addrs().map_err(told)?.next();
        let wanted = wanted.ok_or_else(|| no_address("it names no machine".to_owned()))?;
        if !wanted.ip().is_loopback() && !to_others {
            return Err(LiveError::NotLoopback { address: address.to_owned() });
        }
        let listener = TcpListener::bind(wanted).map_err(told)?;
        let socket = listener.local_addr().map_err(told)?;
        let guard = Arc::new(Guard::new(socket, to_others)?);
        let ended = Arc::new(AtomicBool::new(false));
        let (keeper, is_over) = (guard.clone(), ended.clone());
        let take = move || take(&listener, &keeper, &shared, &is_over);
        thread::Builder::new().name("live page".to_owned()).spawn(take).map_err(told)?;
        Ok(Self { guard, socket, ended })
    }

    pub(crate) fn url(&self) -> String {
        format!("http://{}/{}/", self.socket, self.guard.key())
    }

    pub(crate) fn socket(&self) -> SocketAddr {
        self.socket
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        self.ended.store(true, Ordering::Release);
        // One more connection wakes the thread that takes them; if it does not come, the thread ends with the process.
        let _ = TcpStream::connect_timeout(&self.socket, Duration::from_millis(200));
    }
}

/// Takes connections, each into a thread of its own, so that none has to wait for another.
fn take(listener: &TcpListener, guard: &Arc<Guard>, shared: &Arc<Shared>, ended: &AtomicBool) {
    let count = Arc::new(AtomicUsize::new(0));
    for stream in listener.incoming() {
        if ended.load(Ordering::Acquire) {
            return;
        }
        let Ok(stream) = stream else {
            // The system may have no more connections for now.
            thread::sleep(Duration::from_millis(20));
            continue;
        };
        if count.load(Ordering::Acquire) >= CONNECTIONS {
            continue;
        }
        count.fetch_add(1, Ordering::AcqRel);
        let (guard, shared, left) = (guard.clone(), shared.clone(), Left(count.clone()));
        let serve = move || {
            let _left = left;
            serve(stream, &guard, &shared);
        };
        // Without a thread the connection is closed, and with it what would have counted it down.
        let _ = thread::Builder::new().name("live connection".to_owned()).spawn(serve);
    }
}

/// Counts a connection down when it ends.
struct Left(Arc<AtomicUsize>);

impl Drop for Left {
    fn drop(&mut self) {
        self.0.fetch_sub(1, Ordering::AcqRel);
    }
}

/// Answers one request. Each has a connection of its own.
fn serve(mut stream: TcpStream, guard: &Guard, shared: &Arc<Shared>) {
    // A page of many small messages waits for none of them.
    let is_set = stream.set_nodelay(true).is_ok()
        && stream.set_read_timeout(Some(PATIENCE)).is_ok()
        && stream.set_write_timeout(Some(PATIENCE)).is_ok();
    let Some(request) = Request::read(&mut stream).filter(|_| is_set) else { return };
    match guard.way(&request) {
        Way::Refused(status, why) => {
            answer(&mut stream, status, "text/plain; charset=utf-8", &format!("{why}\n"));
        }
        Way::Socket => socket::open(stream, &request, shared),
        Way::Text(name) => match shared.text(&name) {
            Some(text) => answer(&mut stream, 200, "text/plain; charset=utf-8", &text),
            None => answer(&mut stream, 404, "text/plain", "no text of the wiring has that name\n"),
        },
        Way::File(name) => match FILES.iter().find(|(known, ..)| *known == name) {
            Some((_, kind, text)) => answer(&mut stream, 200, kind, text),
            None => answer(&mut stream, 404, "text/plain", "there is no such file\n"),
        },
    }
}

fn answer(stream: &mut TcpStream, status: u16, kind: &str, text: &str) {
    let head = format!(
        "HTTP/1.1 {status} {}\r\nContent-Type: {kind}\r\nContent-Length: {}\r\nContent-Security-Policy: {POLICY}\r\n\
         Cache-Control: no-store\r\nReferrer-Policy: no-referrer\r\nX-Content-Type-Options: nosniff\r\nConnection: close\r\n\r\n",
        if status == 200 { "OK" } else { "No" },
        text.len(),
    );
    // Who has gone away meanwhile gets no answer.
    let _ = stream.write_all(head.as_bytes()).and_then(|()| stream.write_all(text.as_bytes()));
}
