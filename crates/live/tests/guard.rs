//! Who is let in, and who is sent away.

use serde_json::json;
use stoicheon_live::{Live, LiveError};

use crate::served::{Page, connect, key, lock, request};

fn live() -> Live {
    Live::listen("127.0.0.1:0").unwrap().with_text("canal/lock.stoi", "scene lock\n")
}

#[test]
fn nothing_is_served_without_the_key_or_to_a_foreign_page() {
    let live = live();
    let (key, host) = (key(&live), live.socket());
    let get = |path: &str, more: &str| {
        request(&live, &format!("GET {path} HTTP/1.1\r\nHost: {host}\r\n{more}\r\n")).0
    };
    assert_eq!(get(&format!("/{key}/"), ""), "HTTP/1.1 200 OK");
    assert_eq!(get(&format!("/{key}/live.js"), ""), "HTTP/1.1 200 OK");
    assert_eq!(get("/", ""), "HTTP/1.1 403 No");
    assert_eq!(get(&format!("/{}/", key.replace(|_| true, "0")), ""), "HTTP/1.1 403 No");
    assert_eq!(get(&format!("/{key}/"), "Origin: http://elsewhere.example\r\n"), "HTTP/1.1 403 No");
    // Another name for this machine, a second Host, another method, another file.
    let foreign = format!("GET /{key}/ HTTP/1.1\r\nHost: elsewhere.example:{}\r\n\r\n", host.port());
    assert_eq!(request(&live, &foreign).0, "HTTP/1.1 421 No");
    assert_eq!(get(&format!("/{key}/"), &format!("Host: {host}\r\n")), "HTTP/1.1 421 No");
    let posted = format!("POST /{key}/ HTTP/1.1\r\nHost: {host}\r\n\r\n");
    assert_eq!(request(&live, &posted).0, "HTTP/1.1 405 No");
    assert_eq!(get(&format!("/{key}/../Cargo.toml"), ""), "HTTP/1.1 404 No");
    // No request at all.
    assert_eq!(request(&live, "\0\0rubbish\r\n\r\n").0, "");
}

#[test]
fn only_texts_of_the_wiring_are_shown() {
    let live = live();
    let (key, host) = (key(&live), live.socket());
    let file =
        |name: &str| request(&live, &format!("GET /{key}/file?{name} HTTP/1.1\r\nHost: {host}\r\n\r\n"));
    assert_eq!(file("canal%2Flock.stoi").1, "scene lock\n");
    assert_eq!(file("lock.stoi").1, "scene lock\n");
    for other in ["/etc/passwd", "..%2F..%2Fetc%2Fpasswd", "stoi", ""] {
        assert_eq!(file(other).0, "HTTP/1.1 404 No", "{other}");
    }
}

#[test]
fn a_socket_asks_for_the_key_and_for_its_own_page() {
    let live = live();
    let key = key(&live);
    let own = format!("http://{}", live.socket());
    assert!(connect(&live, &key, Some(&own)).is_ok());
    for (key, origin) in
        [(&key, None), (&key, Some("http://elsewhere.example")), (&"0".repeat(32), Some(own.as_str()))]
    {
        let refused = connect(&live, key, origin).unwrap_err();
        assert!(refused.contains("403"), "{refused}");
    }
}

#[test]
fn a_page_that_sends_rubbish_or_too_much_is_sent_away_and_disturbs_nobody() {
    let (mut live, mut world) = (live(), lock());
    let mut good = Page::open(&live);
    let rubbish: Vec<(String, &str)> = vec![
        ("rubbish".to_owned(), "expected what a page asks for"),
        ("{\"seen\": -1}".to_owned(), "expected what a page asks for"),
        (json!({ "ask": [{ "do": "explode" }] }).to_string(), "expected what a page asks for"),
        (
            json!({ "ask": [{ "do": "go", "who": "ada", "to": [1] }] }).to_string(),
            "expected what a page asks for",
        ),
        (json!({ "ask": vec![json!({ "do": "step" }); 300] }).to_string(), "too much is asked for"),
        (
            format!("{{\"seen\": 0, \"ask\": [], \"more\": \"{}\"}}", "x".repeat(70_000)),
            "that message is too long",
        ),
    ];
    for (text, why) in rubbish {
        let mut bad = Page::open(&live);
        // The one that came first steers.
        good.asks((&mut live, &mut world), &[], 1);
        if why == "too much is asked for" {
            bad.asks((&mut live, &mut world), &[json!({ "do": "steer" })], 0);
        }
        bad.send(&text);
        let told = std::iter::repeat_with(|| bad.read()).find_map(Result::err);
        assert_eq!(told.as_deref(), Some(why));
        let before = world.now();
        good.asks((&mut live, &mut world), &[json!({ "do": "steer" }), json!({ "do": "resume" })], 2);
        assert!(world.now() > before);
    }
}

#[test]
fn only_so_many_pages_may_watch() {
    let live = live();
    let own = format!("http://{}", live.socket());
    let pages: Vec<_> = (0..16).map(|_| connect(&live, &key(&live), Some(&own)).unwrap()).collect();
    assert!(connect(&live, &key(&live), Some(&own)).unwrap_err().contains("503"));
    assert!(live.is_watched());
    drop(pages);
    while live.is_watched() {
        std::thread::yield_now();
    }
    assert!(connect(&live, &key(&live), Some(&own)).is_ok());
}

#[test]
fn it_listens_to_this_machine_alone_unless_told_otherwise() {
    let refused = Live::listen("0.0.0.0:0").unwrap_err();
    assert!(matches!(refused, LiveError::NotLoopback { .. }), "{refused}");
    assert!(Live::listen_to_others("0.0.0.0:0").is_ok());
    for address in ["nowhere", "127.0.0.1:x", ""] {
        assert!(matches!(Live::listen(address).unwrap_err(), LiveError::NoAddress { .. }), "{address}");
    }
    let live = Live::listen("127.0.0.1:0").unwrap();
    let taken = Live::listen(&live.socket().to_string()).unwrap_err().to_string();
    assert!(taken.contains("expected an address to listen on"), "{taken}");
    // The port is free again when nobody listens any more.
    let socket = live.socket().to_string();
    drop(live);
    let mut again = Live::listen(&socket);
    for _ in 0..100 {
        if again.is_ok() {
            break;
        }
        std::thread::sleep(std::time::Duration::from_millis(10));
        again = Live::listen(&socket);
    }
    assert!(again.is_ok());
}
