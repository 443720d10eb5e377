//! A world that is shown, and a page that asks.

use std::{
    io::{Read, Write},
    net::TcpStream,
};

use serde_json::{Value, json};
use stoicheon_core::{Door, Prompt, Vec3, World, Zone, secs};
use stoicheon_live::Live;
use tungstenite::{Message, WebSocket, client::IntoClientRequest};

/// A lock with a pad that opens its gate, and a player on the towpath.
pub(crate) fn lock() -> World<()> {
    let mut world = World::new();
    let pad = world.object("towpath_pad").at(Vec3::new(4.0, 0.0, 0.0)).add().unwrap();
    let pad = world.attach(pad, Zone::boxed(Vec3::new(2.0, 2.0, 2.0))).unwrap();
    let gate = world.object("upper_gate").at(Vec3::new(8.0, 0.0, 0.0)).add().unwrap();
    let gate = world.attach(gate, Door::swing(85.0).over(secs(1.0))).unwrap();
    let post = world.object("gauge_post").at(Vec3::new(0.0, 0.0, 1.0)).add().unwrap();
    let post = world.attach(post, Prompt::new("Wind the paddle")).unwrap();
    let level = world.var("level", 0.5).unwrap();
    let bell = world.declare_signal::<()>("bell").unwrap();
    world.on(pad.entered).run(move |(), _, cx| cx.open(gate)).unwrap();
    world.on(post.answered).run(move |(), (), cx| cx.set(level, 1.0)).unwrap();
    world.on(bell).run(move |(), (), cx| cx.close(gate)).unwrap();
    world.player("ada").at(Vec3::new(0.0, 0.0, 0.0)).add().unwrap();
    world
}

/// A page that talks to a world in the same thread.
pub(crate) struct Page {
    socket: WebSocket<TcpStream>,
    seen: u64,
}

pub(crate) fn connect(live: &Live, key: &str, origin: Option<&str>) -> Result<WebSocket<TcpStream>, String> {
    let stream = TcpStream::connect(live.socket()).unwrap();
    let mut request = format!("ws://{}/{key}/socket", live.socket()).into_client_request().unwrap();
    if let Some(origin) = origin {
        request.headers_mut().insert("Origin", origin.parse().unwrap());
    }
    let opened = tungstenite::client(request, stream);
    opened.map(|(socket, _)| socket).map_err(|error| error.to_string())
}

pub(crate) fn key(live: &Live) -> String {
    live.address().trim_end_matches('/').rsplit('/').next().unwrap().to_owned()
}

impl Page {
    pub(crate) fn open(live: &Live) -> Self {
        let origin = format!("http://{}", live.socket());
        Self { socket: connect(live, &key(live), Some(&origin)).unwrap(), seen: 0 }
    }

    pub(crate) fn send(&mut self, text: &str) {
        self.socket.send(Message::text(text.to_owned())).unwrap();
    }

    pub(crate) fn read(&mut self) -> Result<Value, String> {
        match self.socket.read() {
            Ok(Message::Text(text)) => Ok(serde_json::from_str(&text).unwrap()),
            Ok(Message::Close(frame)) => Err(frame.map(|frame| frame.reason.to_string()).unwrap_or_default()),
            other => Err(format!("{other:?}")),
        }
    }

    /// The length of the answer to a page that has seen everything, in bytes.
    pub(crate) fn length(&mut self) -> usize {
        self.send(&json!({ "seen": self.seen }).to_string());
        let Message::Text(text) = self.socket.read().unwrap() else { panic!("expected text") };
        text.len()
    }

    /// Asks, lets the world take it in and run so many ticks, and gives all that it is told then.
    pub(crate) fn asks(
        &mut self,
        (live, world): (&mut Live, &mut World<()>),
        ask: &[Value],
        ticks: usize,
    ) -> Vec<Value> {
        let mut told = Vec::new();
        self.send(&json!({ "seen": self.seen, "ask": ask }).to_string());
        told.extend(self.told());
        live.show(world, &mut ()).unwrap();
        for _ in 0..ticks {
            // A page may hold the time.
            world.advance(live.pace(secs(1.0 / 30.0 + 1e-9)), &mut ()).unwrap();
            live.show(world, &mut ()).unwrap();
        }
        loop {
            self.send(&json!({ "seen": self.seen }).to_string());
            let before = self.seen;
            let reply = self.told();
            let is_last = self.seen == before && before > 0;
            told.extend(reply);
            if is_last {
                return told;
            }
            live.show(world, &mut ()).unwrap();
            if self.seen > 0 && before > 0 {
                return told;
            }
        }
    }

    fn told(&mut self) -> Option<Value> {
        let reply = self.read().unwrap();
        self.seen = reply["seen"].as_u64().unwrap();
        (self.seen > 0).then_some(reply)
    }
}

/// All lines of the tape in these replies.
pub(crate) fn tape(told: &[Value]) -> Vec<String> {
    let lines = told.iter().filter_map(|reply| reply["tape"].as_array()).flatten();
    lines.map(|line| line["text"].as_str().unwrap().to_owned()).collect()
}

/// What was said to the page.
pub(crate) fn said(told: &[Value]) -> Vec<String> {
    let all = told.iter().filter_map(|reply| reply["say"].as_array()).flatten();
    all.map(|said| format!("{} {}", said["kind"].as_str().unwrap(), said["text"].as_str().unwrap())).collect()
}

/// The last status in these replies.
pub(crate) fn state(told: &[Value]) -> Value {
    told.iter().rev().map(|reply| &reply["state"]).find(|state| !state.is_null()).unwrap().clone()
}

/// The first line of an answer to a request, and its body.
pub(crate) fn request(live: &Live, head: &str) -> (String, String) {
    let mut stream = TcpStream::connect(live.socket()).unwrap();
    stream.write_all(head.as_bytes()).unwrap();
    let mut text = String::new();
    stream.read_to_string(&mut text).unwrap();
    let (head, body) = text.split_once("\r\n\r\n").unwrap_or((&text, ""));
    (head.lines().next().unwrap_or_default().to_owned(), body.to_owned())
}
