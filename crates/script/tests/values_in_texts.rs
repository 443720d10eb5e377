//! Values in texts: what is put together, how numbers are written, what a text may have.

use crate::support::{fails, found, found_certain};

/// What `sum` holds when its text has been put together by ada, who stands at the gate.
fn sum(text: &str) -> String {
    let of = |sum: &str| {
        format!(
            r#"var sum: text = ""
            var level: number = 0.1
            var tint: colour = #6fa8b0
            var coins: whole = 2 per player
            var heading: one of (north_bank, south_bank) = south_bank
            object gate {{ door {{ over 1s }} }}
            spot steps at (4, 0, 1.5)
            on pressed("k") {{ level += 0.2; sum = {text} }}
            playtest "p" {{ player ada at gate; ada presses k; expect sum == {sum} }}"#
        )
    };
    assert_eq!(found_certain(&of("\"\"")), [""; 0], "{text}");
    match fails(&of("\"\"")) {
        Some(stoicheon_core::playtest::Found::Readings(read)) => read[0].as_text().unwrap().to_owned(),
        other => format!("{other:?}"),
    }
}

#[test]
fn values_stand_in_texts_as_people_write_them() {
    for (text, wanted) in [
        (r#""{level}""#, "0.3"),
        (r#""{coins of who} of 5""#, "2 of 5"),
        (r#""{who.name}: {gate is open}, {level > 0.2}""#, "ada: false, true"),
        (r#""{2.5s} {90%} {10 / 4} {0 - 3} {4.0} {1 / 3}""#, "2.5 s 0.9 2.5 -3 4 0.333"),
        (r#""{steps.place}, {tint}, {heading}""#, "(4, 0, 1.5), #6fa8b0, south_bank"),
        (r#""{gate}{steps}""#, "gatesteps"),
        (r#""\{level\} \"{level}\"""#, "{level} \"0.3\""),
        (r#""a" + 1 + 2"#, "a12"),
        (r#"1 + 2 + "a""#, "3a"),
        (r#""x" + who + true"#, "xadatrue"),
        (r#""{min(level, 0.2)}{ level }""#, "0.20.3"),
        (r#""–{level}ü""#, "–0.3ü"),
    ] {
        assert_eq!(sum(text), wanted, "{text}");
    }
}

#[test]
fn a_text_that_grows_is_cut() {
    let text = r#"var sum: text = "ü"
        on pressed("k") { repeat 20 { sum += sum } }
        playtest "p" { player ada at a; ada presses k; expect sum == "" }
        spot a at (0, 0, 0)"#;
    let Some(stoicheon_core::playtest::Found::Readings(read)) = fails(text) else { panic!() };
    assert_eq!(read[0].as_text().map(str::len), Some(10_000));
}

#[test]
fn what_is_known_before_play_may_be_put_together_too() {
    let text = r#"var hint: text = "two: {1 + 1}"
        kit sign(what: text, reach: number) { object post { prompt "Read {what}" key use, reach (reach * 2) } }
        add sign as a(what: "the {"" + 3} boards", reach: 2)"#;
    // Quotes do not stand within quotes.
    assert!(!found(text).is_empty());
    let text = text.replace(r#"{"" + 3}"#, "{1 + 2}");
    let text = format!("{text}\nplaytest \"p\" {{ player ada at a.post; expect hint == \"two: 2\" }}");
    assert_eq!(found(&text), [""; 0]);
    assert_eq!(fails(&text), None);
}
