//! The course, with the engine's sensors and with the world's own zones.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]

use stoicheon::view::TraceText;
use stoicheon_physics_host::{Course, Heard, Zones};

/// Runs the course in frames of that many seconds; what was heard, and the trace.
fn run(zones: Zones, frame: f64) -> (Heard, String) {
    let (mut course, mut text, mut trace) = (Course::new(zones).unwrap(), TraceText::plain(), String::new());
    let mut passed = 0.0;
    while passed < 16.0 {
        passed += frame;
        course.frame(frame).unwrap();
        trace.push_str(&course.trace(&mut text));
        // The leaf is in the way until the walker fits under it.
        let under = (7.7..8.3).contains(&course.walker_at());
        assert!(!under || course.leaf_at() > 0.7, "{} under {}", course.walker_at(), course.leaf_at());
    }
    (course.heard, trace)
}

#[test]
fn sensors_of_the_engine_and_zones_of_the_world_tell_the_same_in_the_same_order() {
    let (told, trace) = run(Zones::Told, 1.0 / 60.0);
    // The lines of closures change with the file.
    insta::with_settings!({filters => vec![(r"lib\.rs:\d+", "lib.rs")]}, {
        insta::assert_snapshot!("trace", trace);
    });
    let (shaped, _) = run(Zones::Shaped, 1.0 / 60.0);
    assert_eq!(told, shaped);
}

#[test]
fn frames_of_any_length_give_the_same() {
    let (even, trace) = run(Zones::Told, 1.0 / 60.0);
    for frame in [1.0 / 30.0, 0.1, 1.0 / 75.0] {
        let (heard, other) = run(Zones::Told, frame);
        assert_eq!((&heard, &other), (&even, &trace), "frames of {frame} s");
    }
}
