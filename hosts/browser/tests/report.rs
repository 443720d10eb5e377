//! The report of the shipped canal in a browser: what is chosen in it, and what is lit.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]

use std::{
    fmt::Write,
    path::{Path, PathBuf},
    process::Command,
};

use serde_json::json;
use stoicheon_browser_host::Browser;

const ESCAPE: char = '\u{e00c}';
const RIGHT: char = '\u{e014}';
const DOWN: char = '\u{e015}';

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// The report of a file or a project, written by the command.
fn report(of: &Path, folder: &Path) -> PathBuf {
    let page = folder.join("report.html");
    let command = ["run", "--quiet", "--locked", "-p", "stoicheon-cli", "--", "draw", "report"];
    let drawn = Command::new(env!("CARGO"))
        .current_dir(root())
        .args(command)
        .arg(of)
        .arg("-o")
        .arg(&page)
        .output()
        .unwrap();
    let said = [drawn.stdout, drawn.stderr].concat();
    assert!(drawn.status.success(), "{}", String::from_utf8_lossy(&said));
    page
}

fn opened(page: &Path) -> Browser {
    let browser = Browser::new(1280, 800).unwrap();
    browser.open(page).unwrap();
    browser
}

#[track_caller]
fn is(browser: &Browser, script: &str, expected: &serde_json::Value) {
    assert_eq!(&browser.run(&format!("return {script}")).unwrap(), expected, "{script}");
}

/// Chooses something by its name, as with the keyboard.
fn choose(browser: &Browser, name: &str) {
    browser.run("document.getElementById('choose').value = ''").unwrap();
    browser.write("#choose", &format!("{name}\n")).unwrap();
}

#[test]
fn what_is_chosen_is_lit_in_all_pictures_with_its_causes_and_effects() {
    let folder = tempfile::tempdir().unwrap();
    let page = report(Path::new("demo/canal"), folder.path());
    assert!(std::fs::metadata(&page).unwrap().len() < 2_000_000);
    let browser = opened(&page);
    is(&browser, "location.protocol", &json!("file:"));

    choose(&browser, "lockside.toll_gate.opened");
    // Its causes back to the key that ada pressed, and the time goes there.
    let story =
        "[...document.querySelectorAll('#story li')].map((line) => line.innerText.replace(/\\s+/g, ' '))";
    let told = browser.run(&format!("return {story}")).unwrap();
    let told: Vec<_> = told.as_array().unwrap().iter().map(|line| line.as_str().unwrap()).collect();
    assert_eq!(told.first(), Some(&"1.067s cause ada presses use"), "{told:?}");
    assert!(told.contains(&"1.567s cause lockside.stoi:22 took it"), "{told:?}");
    assert!(told.contains(&"2.567s chosen lockside.toll_gate.opened who ada"), "{told:?}");
    is(&browser, "document.getElementById('now').value", &json!("2.567s · tick 77"));
    // The wire in the wiring, the door on the map, the key in the timeline, the line in the trace, the state among the values.
    let has = |element: &str, class: &str| {
        is(
            &browser,
            &format!("document.querySelector('{element}').classList.contains('{class}')"),
            &json!(true),
        );
    };
    has("#wires [data-key=\"wire:lockside.stoi:22\"]", "cause");
    has("#wires [data-key=\"object:lockside.toll_gate\"]", "pick");
    has("#map [data-of=\"lockside.toll_gate\"]", "pick");
    is(&browser, "document.querySelectorAll('#lanes [data-records].cause').length > 2", &json!(true));
    for (picture, faded) in [("#lanes", "[data-records]:not([data-records=''])"), ("#wires", "[data-key]")] {
        let opacity = |element: &str| {
            format!("getComputedStyle(document.querySelector('{picture} {element}')).opacity")
        };
        is(&browser, &opacity(".cause"), &json!("1"));
        is(
            &browser,
            &opacity(&format!("{}:not(.cause, .pick, .effect)", faded.replace('\'', "\""))),
            &json!("0.22"),
        );
    }
    is(
        &browser,
        "document.querySelector('#rows .pick .text').innerText",
        &json!("lockside.toll_gate.opened who ada"),
    );
    let fact = "[...document.querySelectorAll('#facts tr')].find((row) => row.innerText.includes('door of')).innerText.split('\\t')";
    is(&browser, fact, &json!(["the door of lockside.toll_gate", "open", "since 2.567s"]));
    is(&browser, "document.getElementById('told').textContent.includes('5 causes')", &json!(true));

    // What it led to is lit too.
    choose(&browser, "toll_due");
    has("#wires [data-key=\"variable:tolls\"]", "effect");
    has("#wires [data-key=\"wire:lockside.stoi:22\"]", "cause");
    // A click on a node chooses it; Escape chooses nothing.
    browser.run("document.querySelector('#wires [data-key^=\"effect:\"]').dispatchEvent(new MouseEvent('click', { bubbles: true }))").unwrap();
    is(&browser, "document.querySelectorAll('.pick').length > 0", &json!(true));
    browser.press(ESCAPE).unwrap();
    is(&browser, "document.querySelectorAll('.pick, .cause, .effect').length", &json!(0));
    assert_eq!(browser.console().unwrap(), Vec::<String>::new());
}

#[test]
fn the_trace_is_walked_and_filtered_with_the_keyboard_and_the_map_goes_along() {
    let folder = tempfile::tempdir().unwrap();
    let browser = opened(&report(Path::new("demo/canal"), folder.path()));
    let place = "document.querySelector('#map g[data-of=bob][transform]')?.getAttribute('transform') ?? ''";
    browser.press(RIGHT).unwrap();
    let before = browser.run(&format!("return {place}")).unwrap();
    (0..8).for_each(|_| browser.press(RIGHT).unwrap());
    is(&browser, "document.getElementById('now').value", &json!("0.300s · tick 9"));
    let after = browser.run(&format!("return {place}")).unwrap();
    assert_ne!(before, after, "bob walks");
    assert_ne!(after, json!(""), "bob is on the map");

    let shown = "Number(document.getElementById('count').textContent.split(' ')[0])";
    let all = browser.run(&format!("return {shown}")).unwrap().as_u64().unwrap();
    browser.write("#about", "weir_pool").unwrap();
    let some = browser.run(&format!("return {shown}")).unwrap().as_u64().unwrap();
    assert!(0 < some && some < all, "{some} of {all}");
    browser.run("document.getElementById('about').value = ''").unwrap();

    browser.run("document.getElementById('rows').focus()").unwrap();
    browser.press(DOWN).unwrap();
    let first = browser.run("return document.querySelector('#rows .pick').id").unwrap();
    browser.press(DOWN).unwrap();
    let active =
        browser.run("return document.getElementById('rows').getAttribute('aria-activedescendant')").unwrap();
    assert_ne!(first, active);
    is(&browser, "document.querySelector('#rows [aria-selected=true]').id", &active);
    // Light and dark are told apart by more than one colour, and the pictures go along.
    let paper = "getComputedStyle(document.body).backgroundColor";
    let light = browser.run(&format!("return {paper}")).unwrap();
    browser.click("#theme").unwrap();
    assert_ne!(browser.run(&format!("return {paper}")).unwrap(), light);
    is(
        &browser,
        "getComputedStyle(document.querySelector('#map svg')).filter.includes('invert')",
        &json!(true),
    );
    assert_eq!(browser.console().unwrap(), Vec::<String>::new());
}

#[test]
fn a_failed_playtest_has_its_story_and_what_the_checker_found_is_there() {
    let folder = tempfile::tempdir().unwrap();
    let scene = folder.path().join("lock.stoi");
    let text = "scene lock\nsignal unused\nobject gate { door { swing 85deg about y, over 1s } }\n\
                on pressed(\"k\") when gate is open { close gate; emit unused }\n\
                playtest \"it <b>opens</b>\" {\n  player ada at (0, 0, 0)\n  ada presses k\n  expect gate is open within 1s\n}\n";
    std::fs::write(&scene, text).unwrap();
    let browser = opened(&report(&scene, folder.path()));
    is(
        &browser,
        "document.querySelector('#playtests .bad').innerText.includes('it <b>opens</b>')",
        &json!(true),
    );
    is(
        &browser,
        "document.querySelector('#playtests pre').innerText.includes('lock.stoi:4 refused: gate is open')",
        &json!(true),
    );
    is(&browser, "document.querySelector('#findings pre').innerText.includes('unused')", &json!(true));
    is(&browser, "document.querySelector('header .bad').innerText", &json!("1 of 1 playtests failed"));
    choose(&browser, "lock.stoi:4");
    is(&browser, "document.querySelectorAll('#rows .refused.pick').length", &json!(1));
    assert_eq!(browser.console().unwrap(), Vec::<String>::new());
}

#[test]
fn a_hundred_thousand_records_stay_usable() {
    let folder = tempfile::tempdir().unwrap();
    let scene = folder.path().join("lamps.stoi");
    let mut text = "scene lamps\nvar total: number = 0\n".to_owned();
    for lamp in 0..40 {
        writeln!(text, "object lamp_{lamp} at ({lamp}, 0, 0) {{ timer every 100ms }}").unwrap();
        let least = lamp % 5 * 4000;
        writeln!(text, "on lamp_{lamp}.struck when total >= {least} {{ total += 1 }}").unwrap();
    }
    std::fs::write(&scene, text + "playtest \"long\" { wait 100s }\n").unwrap();
    let page = report(&scene, folder.path());
    let browser = opened(&page);
    let count = "Number(document.getElementById('count').textContent.split(' ')[0])";
    let records = browser.run(&format!("return {count}")).unwrap().as_u64().unwrap();
    assert!(records > 100_000, "{records}");
    // The browser has few lines of it at a time.
    is(&browser, "document.querySelectorAll('#rows .row').length < 80", &json!(true));
    choose(&browser, "lamps.lamp_7.struck");
    (0..10).for_each(|_| browser.press('n').unwrap());
    browser
        .run("document.getElementById('time').value = 2500; document.getElementById('time').oninput()")
        .unwrap();
    browser.click("#refused").unwrap();
    let refused = browser.run(&format!("return {count}")).unwrap().as_u64().unwrap();
    assert!(0 < refused && refused < records, "{refused} of {records}");
    let taken =
        "[...document.querySelectorAll('#rows .row')].some((row) => / took it|→/.test(row.innerText))";
    is(&browser, taken, &json!(false));
    let lanes = "document.querySelectorAll('#lanes [data-records]').length";
    let lanes = browser.run(&format!("return {lanes}")).unwrap().as_u64().unwrap();
    assert!(lanes > 100, "the timeline of that moment is there: {lanes}");
    assert_eq!(browser.console().unwrap(), Vec::<String>::new());
}
