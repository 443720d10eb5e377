//! Two worlds in one process, joined by a line in memory.
#![allow(clippy::unwrap_used, clippy::float_cmp, reason = "a test fails by panicking, and levels are exact")]

use proptest::prelude::*;
use stoicheon_core::{Catalogue, Event, Key, ObjectId, Side, Values, World};
use stoicheon_link::{AuthorityEnd, Error, Heard, Line, Loopback, PlayerEnd, loopback};
use stoicheon_script::load;

const LOCK: &str = include_str!("../../../cookbook/12_request.stoi");

fn world(text: &str) -> World<()> {
    let loaded = load("request.stoi", text, &Catalogue::built_in());
    assert!(!loaded.has_errors(), "{:?}", loaded.diagnostics());
    let mut world = World::new();
    loaded.build(&mut world).unwrap();
    world
}

/// A player's program and the authority's, in step.
struct Two {
    here: World<()>,
    there: World<()>,
    player: PlayerEnd<Loopback>,
    authority: AuthorityEnd<Loopback>,
    ada: ObjectId,
}

impl Two {
    fn new(tags: &[&str]) -> Self {
        let (mut here, mut there) = (world(LOCK), world(LOCK));
        let mut ada = None;
        for world in [&mut here, &mut there] {
            let mut new = world.player("ada");
            for tag in tags {
                new = new.tag(tag);
            }
            ada = Some(new.add().unwrap());
        }
        let (one, other) = loopback();
        let mut authority = AuthorityEnd::new();
        authority.accept("ada", other).unwrap();
        Self { here, there, player: PlayerEnd::new(one), authority, ada: ada.unwrap() }
    }

    fn go(&mut self, ticks: usize) {
        for _ in 0..ticks {
            self.player.exchange(&mut self.here).unwrap();
            self.here.step(&mut ()).unwrap();
            self.authority.exchange(&mut self.there).unwrap();
            self.there.step(&mut ()).unwrap();
        }
    }

    fn press(&mut self, key: &str) -> Vec<Heard> {
        self.here.press(self.ada, key).unwrap();
        self.go(4);
        self.player.heard().collect()
    }

    fn level(world: &World<()>) -> f64 {
        world.value(world.find_var("level").unwrap()).unwrap().as_number().unwrap()
    }
}

#[test]
fn a_request_is_decided_there_and_the_answer_comes_back() {
    let mut two = Two::new(&["bargee"]);
    two.go(2);
    assert_eq!(two.player.heard().collect::<Vec<_>>(), [Heard::Welcome]);
    assert_eq!(two.authority.players().collect::<Vec<_>>(), ["ada"]);
    assert_eq!((two.here.side(), two.there.side()), (Side::Player, Side::Authority));

    assert_eq!(two.press("fill"), []);
    // What is decided is true there; here only the answer is known, and shown.
    assert_eq!((Two::level(&two.here), Two::level(&two.there)), (0.0, 0.8));
    assert_eq!(two.here.take_effects().count(), 1);
    assert_eq!(two.there.take_effects().count(), 1);
    // The traces say what went over.
    let crossed = |world: &World<()>| {
        let crossed = world.trace().records().filter_map(|(_, record)| match record.event {
            Event::Crossed { signal, here, .. } => Some((world.signal_name(signal)?.to_owned(), here)),
            _ => None,
        });
        crossed.collect::<Vec<_>>()
    };
    assert_eq!(
        (crossed(&two.here), crossed(&two.there)),
        (vec![("fill".into(), false)], vec![("filled".into(), true)])
    );
    // A guard refuses there as it would here.
    assert_eq!(two.press("flood"), []);
    assert_eq!(Two::level(&two.there), 0.8);
}

#[test]
fn whether_anybody_listens_can_be_asked() {
    let mut two = Two::new(&["bargee"]);
    two.go(1);
    for signal in ["fill", "filled", "fil"] {
        two.player.ask(signal).unwrap();
    }
    two.go(2);
    let heard: Vec<_> = two.player.heard().skip(1).collect();
    let listen = |signal: &str, count| Heard::Listen { signal: signal.into(), count };
    assert_eq!(heard, [listen("fill", 1), listen("filled", 1), listen("fil", 0)]);
}

/// A line that says of everything that somebody else sent it, or something else altogether.
#[derive(Debug)]
struct Forger {
    line: Loopback,
    from: &'static str,
    to: &'static str,
}

impl Line for Forger {
    fn send(&mut self, mut frame: Vec<u8>) -> Result<(), stoicheon_link::Broken> {
        assert_eq!(self.from.len(), self.to.len());
        let found = frame.windows(self.from.len()).position(|bytes| bytes == self.from.as_bytes());
        if let Some(at) = found {
            frame[at..at + self.to.len()].copy_from_slice(self.to.as_bytes());
        }
        self.line.send(frame)
    }

    fn receive(&mut self) -> Result<Option<Vec<u8>>, stoicheon_link::Broken> {
        self.line.receive()
    }
}

#[test]
fn who_sent_it_is_whose_line_it_came_by() {
    let (mut here, mut there) = (world(LOCK), world(LOCK));
    let bob = here.player("bob").tag("bargee").add().unwrap();
    there.player("bob").add().unwrap();
    there.player("ada").tag("bargee").add().unwrap();
    let (one, other) = loopback();
    let mut authority = AuthorityEnd::new();
    authority.accept("bob", other).unwrap();
    let mut player = PlayerEnd::new(one.clone());
    player.exchange(&mut here).unwrap();
    authority.exchange(&mut there).unwrap();
    // Bob is no bargee there, whatever they are elsewhere; and the message claims to be from Ada.
    here.press(bob, "fill").unwrap();
    here.step(&mut ()).unwrap();
    let mut line = Forger { line: one, from: "bob", to: "ada" };
    for message in here.take_outgoing() {
        let mut bytes = Vec::new();
        ciborium::into_writer(&ciborium::Value::Map(vec![("Message".into(), to_cbor(&message))]), &mut bytes)
            .unwrap();
        line.send(bytes).unwrap();
    }
    authority.exchange(&mut there).unwrap();
    there.step(&mut ()).unwrap();
    player.exchange(&mut here).unwrap();
    let heard: Vec<_> = player.heard().collect();
    let why = "player \"bob\" may not send the signal \"fill\": they have none of the tags it asks for";
    assert_eq!(heard, [Heard::Welcome, Heard::Refused { signal: "fill".into(), why: why.into() }]);
    assert_eq!(Two::level(&there), 0.0);
}

fn to_cbor(message: &stoicheon_core::Message) -> ciborium::Value {
    ciborium::Value::serialized(message).unwrap()
}

#[test]
fn what_does_not_fit_is_refused_and_changes_nothing() {
    let mut two = Two::new(&["bargee"]);
    two.go(2);
    two.player.heard().for_each(drop);
    let ada = two.there.find("ada");
    let message = |text: &str| serde_json(text);
    for (text, expected) in [
        (r#"{"signal":"fil","values":[1.0]}"#, "a signal that crosses to here"),
        (r#"{"signal":"pressed","values":["fill"]}"#, "a signal that crosses to here"),
        (r#"{"signal":"filled","values":[1.0]}"#, "a signal that crosses to here"),
        (r#"{"signal":"fill","values":[]}"#, "fill"),
        (r#"{"signal":"fill","values":["much"]}"#, "fill"),
        (r#"{"signal":"fill","values":[1.0, 2.0]}"#, "fill"),
    ] {
        let error = two.there.receive(ada, &message(text)).unwrap_err();
        assert!(error.to_string().contains(expected), "{text}: {error}");
    }
    // Nobody's line sends nothing.
    assert!(two.there.receive(None, &message(r#"{"signal":"fill","values":[0.5]}"#)).is_err());
    two.go(2);
    assert_eq!(Two::level(&two.there), 0.0);
}

fn serde_json(text: &str) -> stoicheon_core::Message {
    let value: ciborium::Value = json_to_cbor(text);
    value.deserialized().unwrap()
}

/// Just enough for what is written above.
fn json_to_cbor(text: &str) -> ciborium::Value {
    use ciborium::Value;
    let signal = text.split('"').nth(3).unwrap();
    let list = text.split(['[', ']']).nth(1).unwrap();
    let one = |item: &str| match item.trim().strip_prefix('"') {
        Some(word) => Value::from(word.trim_end_matches('"')),
        None => Value::from(item.trim().parse::<f64>().unwrap()),
    };
    let values = list.split(',').filter(|item| !item.trim().is_empty()).map(one).collect();
    Value::Map(vec![("signal".into(), signal.into()), ("values".into(), Value::Array(values))])
}

#[test]
fn two_programs_that_do_not_fit_say_so_at_once() {
    let (mut here, mut there) = (
        world(
            &LOCK
                .replace("fill(wanted: number)", "fill(wanted: number, why: text)")
                .replace("fill(0.8)", "fill(0.8, \"\")")
                .replace("fill(7)", "fill(7, \"\")"),
        ),
        world(&LOCK.replace("filled", "full_now")),
    );
    let (one, other) = loopback();
    let (mut player, mut authority) = (PlayerEnd::new(one), AuthorityEnd::new());
    authority.accept("ada", other).unwrap();
    player.exchange(&mut here).unwrap();
    authority.exchange(&mut there).unwrap();
    player.exchange(&mut here).unwrap();
    let heard: Vec<_> = player.heard().collect();
    let why =
        ["the signal fill carries something else here", "the player's signal filled does not cross here"];
    assert_eq!(heard, [Heard::Unfit(why.map(Into::into).to_vec())]);
    assert_eq!(authority.players().count(), 0);
    assert!(there.find("ada").is_none());
}

#[test]
fn whose_line_ends_leaves_and_a_misspelled_signal_is_found_at_load() {
    let mut two = Two::new(&["bargee"]);
    two.go(2);
    assert!(two.there.find("ada").is_some());
    let Two { mut there, mut authority, player, .. } = two;
    drop(player);
    authority.exchange(&mut there).unwrap();
    there.step(&mut ()).unwrap();
    assert!(there.find("ada").is_none());

    let loaded =
        load("request.stoi", &LOCK.replace("emit fill(0.8)", "emit fil(0.8)"), &Catalogue::built_in());
    assert_eq!(loaded.diagnostics()[0].help.as_deref(), Some("did you mean `fill`?"));
    let loaded = load(
        "request.stoi",
        &LOCK.replace("crosses to authority", "crosses to everybody"),
        &Catalogue::built_in(),
    );
    assert!(loaded.diagnostics()[0].message.contains("cannot cross to `everybody`"));
}

#[test]
fn a_stranger_is_told_why_and_disturbs_nobody() {
    let mut two = Two::new(&["bargee"]);
    two.go(2);
    let (one, other) = loopback();
    two.authority.accept("zed", other).unwrap();
    let mut stranger = PlayerEnd::new(one);
    let mut theirs = world(LOCK);
    stranger.exchange(&mut theirs).unwrap();
    two.go(2);
    stranger.exchange(&mut theirs).unwrap();
    let heard: Vec<_> = stranger.heard().collect();
    assert!(matches!(&heard[..], [Heard::Unfit(why)] if why[0].contains("zed")), "{heard:?}");
    assert_eq!(two.authority.players().collect::<Vec<_>>(), ["ada"]);
    // Nobody else comes in as Ada while she is here.
    let (_one, other) = loopback();
    assert!(matches!(two.authority.accept("ada", other), Err(Error::TwoLines { .. })));
    two.go(2);
    assert!(two.there.find("ada").is_some());
    assert_eq!(two.authority.players().count(), 1);
}

#[test]
fn alone_a_signal_that_crosses_is_delivered_here_to_those_who_may() {
    let mut world = world(LOCK);
    let bob = world.player("bob").add().unwrap();
    world.press(bob, "fill").unwrap();
    world.step(&mut ()).unwrap();
    let faults =
        world.trace().records().filter(|(_, record)| matches!(record.event, Event::Fault { .. })).count();
    assert_eq!((faults, Two::level(&world), world.take_outgoing().count()), (1, 0.0, 0));
    let pressed = world.pressed();
    world.emit_for(Some(bob), pressed, Key { key: "none".into() }).unwrap();
    let fill = world.signal::<Values>("fill").unwrap();
    world.tag(bob, "bargee").unwrap();
    world.emit_for(Some(bob), fill, Values::from_iter([0.5.into()])).unwrap();
    world.step(&mut ()).unwrap();
    assert_eq!(Two::level(&world), 0.5);
}

proptest! {
    /// Whatever comes over a line, nobody panics; a frame that cannot be read ends the line.
    #[test]
    fn what_comes_over_a_line_never_panics(frames in prop::collection::vec(prop::collection::vec(any::<u8>(), 0..64), 1..8)) {
        let mut there = world(LOCK);
        let (mut one, other) = loopback();
        let mut authority = AuthorityEnd::new();
        authority.accept("ada", other).unwrap();
        for frame in frames {
            one.send(frame).unwrap();
        }
        authority.exchange(&mut there).unwrap();
        there.step(&mut ()).unwrap();
        prop_assert_eq!(authority.players().count(), 0);
        let (mut line, back) = loopback();
        line.send(vec![0xff; 3]).unwrap();
        let told = PlayerEnd::new(back).exchange(&mut there);
        prop_assert!(matches!(told, Err(Error::Broken(_))));
    }
}
