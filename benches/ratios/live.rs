//! The live page: what a page that watches costs the world's thread, for a scene of 1,000 objects of which 100 move.

use std::{
    net::TcpStream,
    sync::{
        Arc,
        atomic::{AtomicBool, Ordering},
    },
    thread,
    time::Duration,
};

use stoicheon::{ObjectId, Vec3, World, live::Live, parts::Zone, secs};
use tungstenite::{Message, client::IntoClientRequest};

use crate::{Ratios, Timed};

/// A frame at 60 in a second.
const FRAME: f64 = 1.0 / 60.0;

/// 900 pads, each with a wire, and 100 bodies that walk to and fro over some of them.
struct Scene {
    world: World<()>,
    bodies: Vec<ObjectId>,
    frames: u32,
}

#[expect(clippy::cast_precision_loss, reason = "small numbers")]
fn place(number: u32, across: u32, apart: f32, from: f32) -> Vec3 {
    Vec3::new((number % across) as f32 * apart + from, 0.0, (number / across) as f32 * apart + from)
}

impl Scene {
    fn new() -> Self {
        let mut world = World::<()>::new();
        for number in 0..900 {
            let pad = world.object(&format!("pad_{number}")).at(place(number, 30, 6.0, 0.0)).add().unwrap();
            let pad = world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap();
            world.on(pad.entered).run(|(), _, _| {}).unwrap();
        }
        let body = |number: u32| format!("body_{number}");
        let bodies = (0..100)
            .map(|number| world.object(&body(number)).at(place(number, 10, 18.0, 3.0)).body().add().unwrap());
        let bodies = bodies.collect();
        world.step(&mut ()).unwrap();
        Self { world, bodies, frames: 0 }
    }

    /// Every two seconds they turn round.
    fn frame(&mut self) {
        if self.frames.is_multiple_of(120) {
            let far = if (self.frames / 120).is_multiple_of(2) { 6.0 } else { -6.0 };
            for (number, body) in self.bodies.iter().enumerate() {
                let along = if number % 2 == 0 { Vec3::X } else { Vec3::Z };
                let from = self.world.place(*body).unwrap();
                self.world.walk(*body, from + along * far, 3.0).unwrap();
            }
        }
        self.frames += 1;
    }
}

/// A page that asks 60 times a second.
fn watch(live: &Live, ended: Arc<AtomicBool>) {
    let stream = TcpStream::connect(live.socket()).unwrap();
    let key = live.address().trim_end_matches('/').rsplit('/').next().unwrap().to_owned();
    let mut request = format!("ws://{}/{key}/socket", live.socket()).into_client_request().unwrap();
    request.headers_mut().insert("Origin", format!("http://{}", live.socket()).parse().unwrap());
    let (mut socket, _) = tungstenite::client(request, stream).unwrap();
    thread::spawn(move || {
        let mut seen = 0;
        while !ended.load(Ordering::Relaxed) {
            if socket.send(Message::text(format!("{{\"seen\":{seen}}}"))).is_err() {
                return;
            }
            let Ok(Message::Text(reply)) = socket.read() else { return };
            let reply: serde_json::Value = serde_json::from_str(&reply).unwrap();
            seen = reply["seen"].as_u64().unwrap_or(0);
            thread::sleep(Duration::from_millis(16));
        }
    });
}

fn watched(ended: &Arc<AtomicBool>) -> Timed<'static> {
    let (mut scene, mut live) = (Scene::new(), Live::listen("127.0.0.1:0").unwrap());
    watch(&live, ended.clone());
    Timed::new(1, move || {
        scene.frame();
        scene.world.advance(live.pace(secs(FRAME)), &mut ()).unwrap();
        live.show(&mut scene.world, &mut ()).unwrap();
    })
}

fn without() -> Timed<'static> {
    let mut scene = Scene::new();
    Timed::new(1, move || {
        scene.frame();
        scene.world.advance(secs(FRAME), &mut ()).unwrap();
    })
}

pub(crate) fn rows(ratios: &mut Ratios) {
    let ended = Arc::new(AtomicBool::new(false));
    // A twentieth of the frame more than without it.
    let peer = without().and(FRAME * 1e9 / 20.0);
    ratios.row("live.watched", 1.0, watched(&ended), "the frame without it, and 5 % of 1/60 s", peer);
    ratios.row("live.added", 1.05, watched(&ended), "the frame without it", without());
    ended.store(true, Ordering::Relaxed);
}
