//! What an editor shows: what may come next, colours, folds, the outline.

use stoicheon_core::{Catalogue, TickRate};
use stoicheon_script::{
    Code, Loaded,
    editing::{self, Offer},
    load_noting,
};

/// The canal, with a line that is being written at the end; `|` is where.
const CANAL: &str = r#"
var level: number = 0.4
var coins: whole = 0 per player
signal levelled(level: number, gate: object)
signal bell_rung
effect say(words: text)
given reach_of_hooks: number = 2 "how far a boat hook reaches"
spot towpath_steps at (0, 0, 0) facing north

object upper_gate at (0, 0, 12) tags gate { door { swing 85deg about y, over 2.5s } }
object lower_gate at (0, 0, 24) tags gate {
  door { swing 85deg about y, over 2.5s }
  var lit: boolean = false
  signal painted(colour: colour)
  spot sill at (0, 0, 1)
}
object gauge_post at (3, 0, 11) { prompt "Wind the paddle" key use, hold 1s, reach 2 }
object pad at (4, 0, 10) { zone box (2, 1, 2) admits player }
stages errand per player: stranger, hunting, done
routine greet(words: text) { perform say(words) }
mould heron tags bird { signal gone_off; var courage: whole = 2 }
kit weir(water: object, landing: spot) { on water.entered by player { send who to landing } }
"#;

fn offers(line: &str) -> Vec<Offer> {
    let whole = format!("{CANAL}{line}");
    let at = whole.rfind('|').unwrap();
    let text = whole.replace('|', "");
    let loaded = load_noting("canal.stoi", &text, &Catalogue::built_in(), &|_| Err(String::new()));
    loaded.complete(0, u32::try_from(at).unwrap()).map(|all| all.offers).unwrap_or_default()
}

fn names(line: &str) -> Vec<String> {
    offers(line).iter().map(|offer| offer.name.to_string()).collect()
}

#[track_caller]
fn has(line: &str, wanted: &[&str], not: &[&str]) {
    let names = names(line);
    let lacks: Vec<_> = wanted.iter().filter(|name| !names.iter().any(|known| known == *name)).collect();
    let extra: Vec<_> = not.iter().filter(|name| names.iter().any(|known| known == *name)).collect();
    assert!(lacks.is_empty() && extra.is_empty(), "{line}\n  lacks {lacks:?}, has {extra:?} in\n  {names:?}");
}

#[test]
fn what_may_come_next() {
    has("|", &["object", "on", "kit", "timer", "playtest"], &["wait", "level"]);
    has("obj|", &["object"], &[]);
    has("object barrier at (0, 0, 0) {\n  |\n}", &["door", "zone", "on", "var"], &["playtest", "wait"]);
    has("object barrier at (0, 0, 0) |", &["tags", "facing", "disabled"], &["door"]);
    has("object barrier { door { | } }", &["swing", "slide", "over"], &["box"]);
    has("object barrier { door { swing 85deg, | } }", &["over", "about"], &["swing"]);
    has("object barrier { zone box (1, 1, 1) admits | }", &["player", "gate", "bird"], &["box"]);
    has("object barrier { push along (1, 0, 0) by |\n}", &["level", "reach_of_hooks"], &[]);
    has("on |", &["levelled", "upper_gate", "pad", "started", "heron"], &["level"]);
    has("on upper_gate.|", &["opened", "closed", "started"], &["entered", "lit"]);
    has("on pad.ent|ered { wait 1s }", &["entered", "left", "occupied"], &["opened"]);
    has("on every |", &["gate", "bird"], &["level"]);
    has("on every gate.| { wait 1s }", &["opened", "painted"], &["entered"]);
    has("on pad.entered by |", &["player", "gate"], &["level"]);
    has("on pad.entered |", &["by", "when", "order", "cooldown"], &["wait"]);
    has("on pad.entered when |", &["level", "upper_gate", "who", "any", "distance"], &["levelled"]);
    has("on pad.entered when lower_gate.|", &["lit", "place", "sill"], &["level"]);
    has("on pad.entered when lower_gate is |", &["open", "closed", "gone"], &["levelled", "level"]);
    has("on pad.entered when errand of who is |", &["stranger", "hunting"], &["open"]);
    has("on pad.entered when every gate is |", &["open"], &[]);
    has("on pad.entered while errand is | { }", &["stranger"], &["open", "gone"]);
    has("on pad.entered while running |", &["ignore", "queue"], &["wait"]);
    has("on pad.entered { | }", &["wait", "emit", "open", "level", "if"], &["object"]);
    has("on pad.entered {\n  wait 2s\n  |\n}", &["wait", "emit", "open"], &["object"]);
    has("on pad.entered { open | }", &["upper_gate", "lower_gate", "every"], &["pad"]);
    has("on pad.entered { emit | }", &["levelled", "bell_rung", "lower_gate"], &["started", "upper_gate"]);
    has("on pad.entered { emit lower_gate.| }", &["painted"], &["opened"]);
    has("on pad.entered { perform | }", &["say"], &["levelled"]);
    has("on pad.entered { do | }", &["greet"], &["say"]);
    has("on pad.entered { spawn | at (0, 0, 0) }", &["heron"], &["pad"]);
    has("on pad.entered { send who to | }", &["towpath_steps", "lower_gate"], &["level", "upper_gate"]);
    has("on pad.entered { send who to lower_gate.| }", &["sill"], &["lit"]);
    has("on pad.entered { tag who as | }", &["gate", "bird"], &[]);
    has("on pad.entered { tween level to 1 over 2s ease | }", &["smooth", "steady"], &[]);
    has("on levelled { var before = level\n  level = | }", &["before", "gate", "level"], &[]);
    has("on levelled { for each one in | { } }", &["gate", "everyone"], &["level"]);
    has("bind lower_gate.lit = |", &["upper_gate", "level", "not"], &["who"]);
    has("bind |", &["lower_gate", "level"], &["say"]);
    has("var more: |", &["number", "one of", "vector"], &["tag"]);
    has("kit two(a: |", &["number", "tag", "signal"], &[]);
    has("add |", &["weir"], &["greet"]);
    has("add weir(|)", &["water", "landing"], &[]);
    has("add weir(water: |)", &["pad", "upper_gate"], &[]);
    has("given |", &[], &["level"]);
    has("object |", &[], &["level", "door"]);
}

#[test]
fn what_may_come_next_in_a_playtest() {
    has("playtest \"a\" {\n  player ada at pad\n  |\n}", &["ada", "expect", "wait", "player"], &["object"]);
    has("playtest \"a\" {\n  player ada at |\n}", &["pad", "towpath_steps"], &["level"]);
    has("playtest \"a\" {\n  player ada at pad\n  ada |\n}", &["walks", "holds", "answers"], &["expect"]);
    has("playtest \"a\" {\n  player ada at pad\n  ada walks to |\n}", &["pad", "towpath_steps"], &[]);
    has("playtest \"a\" {\n  player ada at pad\n  ada answers |\n}", &["gauge_post"], &["pad"]);
    has(
        "playtest \"a\" {\n  player ada at pad\n  expect |\n}",
        &["levelled", "say", "level", "upper_gate"],
        &[],
    );
    has("playtest \"a\" {\n  player ada at pad\n  expect upper_gate.|\n}", &["opened", "place"], &[]);
    has("playtest \"a\" {\n  player ada at pad\n  expect upper_gate is |\n}", &["open"], &["level"]);
    has("playtest \"a\" {\n  player ada at pad\n  expect coins of | == 2\n}", &["ada"], &[]);
    has("playtest \"a\" {\n  given |\n}", &["reach_of_hooks"], &[]);
}

#[test]
fn nothing_is_offered_where_nothing_can_stand() {
    for line in ["// a remark |", "on pad.entered { perform say(\"wo|rds\") }", "var x: number = 12|"] {
        assert_eq!(names(line), Vec::<String>::new(), "{line}");
    }
}

/// The texts of a folder of shipped or faulty wiring.
fn texts(folder: &str) -> Vec<(String, String)> {
    let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR"));
    let mut files: Vec<_> =
        std::fs::read_dir(root.join(folder)).unwrap().map(|entry| entry.unwrap().path()).collect();
    files.retain(|file| file.extension().is_some_and(|ending| ending == "stoi"));
    files.sort();
    let named = files.iter().map(|path| {
        let name = path.file_name().unwrap().to_string_lossy().into_owned();
        (name, std::fs::read_to_string(path).unwrap())
    });
    named.collect()
}

fn loaded(name: &str, text: &str) -> Loaded {
    load_noting(name, text, &Catalogue::built_in(), &|_| Err("nothing is read here".to_owned()))
}

/// What a change makes of a text that stands alone.
fn changed(loaded: &Loaded, change: &editing::Change) -> String {
    let name = loaded.name().to_owned();
    let edited = loaded.sources().edited(&change.edits);
    edited.into_iter().find(|(known, _)| *known == name).map(|(_, text)| text).unwrap()
}

#[test]
fn what_mends_a_finding_mends_it() {
    let mut mended = 0;
    for (name, text) in texts("tests/faulty") {
        let before = loaded(&name, &text);
        let kinds = |loaded: &Loaded| -> Vec<(Code, String)> {
            loaded.diagnostics().iter().map(|found| (found.code, found.message.clone())).collect()
        };
        let known = kinds(&before);
        for found in before.diagnostics() {
            // What stands in several files, or is of a kit that is used twice, may be wrong in other ways then.
            for fix in before.fixes(found) {
                if fix.title.starts_with("Say that this is on purpose") {
                    continue;
                }
                let after = loaded(&name, &changed(&before, &fix));
                let now = kinds(&after);
                let count = |all: &[(Code, String)]| {
                    all.iter()
                        .filter(|(code, message)| (code, message) == (&found.code, &found.message))
                        .count()
                };
                assert!(count(&now) < count(&known), "{name}: {} does not mend {}", fix.title, found.message);
                mended += 1;
            }
        }
    }
    assert!(mended > 60, "{mended}");
}

#[test]
fn anything_can_be_asked_at_any_byte() {
    for folder in ["tests/faulty", "../../cookbook", "../../demo"] {
        for (number, (name, text)) in texts(folder).into_iter().enumerate() {
            // Cut off somewhere, as it is while somebody writes.
            let cut = (0..text.len()).rev().step_by(97).find(|at| text.is_char_boundary(*at)).unwrap_or(0);
            for text in [text.as_str(), &text[..cut]] {
                let loaded = loaded(&name, text);
                let index = loaded.index();
                editing::folds(text, 0);
                editing::outline(text, 0);
                loaded.hints(0, &index);
                for found in loaded.diagnostics() {
                    loaded.fixes(found);
                }
                for byte in (number % 131..=text.len()).step_by(131) {
                    let byte = u32::try_from(byte).unwrap();
                    loaded.complete(0, byte);
                    loaded.describe(0, byte, index.at(0, byte), TickRate::default());
                    loaded.call(0, byte);
                    loaded.rewrites(0, byte);
                    loaded.extracted(0, (byte / 2, byte), &index);
                }
            }
        }
    }
}

#[test]
fn every_byte_that_means_something_has_one_class() {
    for (name, text) in texts("../../cookbook") {
        let classes = editing::classes(&text, 0);
        let mut last = 0;
        for word in &classes {
            assert!(last <= word.span.start && word.span.start < word.span.end, "{name}: {word:?}");
            let between = &text[last as usize..word.span.start as usize];
            assert!(
                between.chars().all(|sign| " \n(){},;:.".contains(sign)),
                "{name}: {between:?} has no class"
            );
            last = word.span.end;
        }
    }
}

#[test]
fn what_stands_here() {
    let about = |line: &str, word: &str| {
        let text = format!("{CANAL}{line}");
        let loaded = loaded("canal.stoi", &text);
        let byte = u32::try_from(text.rfind(word).unwrap() + 1).unwrap();
        let index = loaded.index();
        let found = loaded.describe(0, byte, index.at(0, byte), TickRate::default());
        found.map(|found| format!("{} — {}", found.code, found.about)).unwrap_or_default()
    };
    assert_eq!(about("never level > 1", "level >"), "var level: number = 0.4 — read in canal.stoi:23");
    assert_eq!(
        about("// How high.\nvar height: number = 2 remember", "height"),
        "var height: number = 2 remember — How high.\n\nused nowhere"
    );
    assert_eq!(about("on pad.entered { wait 1.5s }", "1.5s"), " — 45 ticks at 30 a second");
    assert_eq!(about("on pad.entered { wait 10ms }", "10ms"), " — 0.30 ticks at 30 a second");
    assert_eq!(
        about("on levelled { emit bell_rung }", "levelled"),
        "signal levelled(level: number, gate: object) — taken in canal.stoi:23"
    );
    assert_eq!(
        about("on levelled when level > 0.5 { emit bell_rung }", "level >"),
        "field level: number — read in canal.stoi:23"
    );
    assert!(
        about("on upper_gate.opened { wait 1s }", "opened").starts_with("opened — The door is fully open")
    );
    assert!(about("on pad.entered { close lower_gate }", "close").starts_with("door close — "));
    assert!(about("bind lower_gate.lit = upper_gate is open", "open").starts_with("door open"));
    assert!(about("object z { push along (1, 0, 0) by 2 }", "along").starts_with("push along — "));
    assert!(about("object z { prompt \"Ring\" reach 2 }", "prompt").contains("Signals: "));
    assert_eq!(
        about("never reach_of_hooks > 3", "reach_of_hooks"),
        "given reach_of_hooks: number = 2 \"how far a boat hook reaches\" — read in canal.stoi:23"
    );
}

#[test]
fn what_is_being_given_values() {
    let call = |line: &str| {
        let text = format!("{CANAL}{line}");
        let at = text.rfind('|').unwrap();
        let text = text.replace('|', "");
        let call = loaded("canal.stoi", &text).call(0, u32::try_from(at).unwrap());
        call.map(|call| {
            (
                call.name.to_string(),
                call.takes.get(call.at).map(|(name, _)| name.to_string()).unwrap_or_default(),
            )
        })
    };
    let is = |name: &str, at: &str| Some((name.to_owned(), at.to_owned()));
    assert_eq!(call("on started { emit levelled(|"), is("levelled", "level"));
    assert_eq!(call("on started { emit levelled(min(1, 2), | }"), is("levelled", "gate"));
    assert_eq!(call("on started { perform say(\"a, b\"|) }"), is("say", "words"));
    assert_eq!(call("on started { do greet(|) }"), is("greet", "words"));
    assert_eq!(call("add weir(water: pad, landing: |)"), is("weir", "landing"));
    assert_eq!(call("add weir as lower(landing: |)"), is("weir", "landing"));
    assert_eq!(call("never distance(pad, |) > 2"), is("distance", "two"));
    assert_eq!(call("on levelled(|) { }"), is("levelled", "level"));
    assert_eq!(call("on started { emit levelled(1, pad, |) }"), is("levelled", ""));
    assert_eq!(call("on started { wait 1s | }"), None);
    assert_eq!(call("object a at (1, |2, 3)"), None);
}

#[test]
fn which_wire_comes_when() {
    let text = "signal bell\nvar a: number = 0\non bell { a = 1 }\non bell order -3 { a = 2 }\non started { emit bell }\nnever a > 2\n";
    let loaded = loaded("lock.stoi", text);
    let hints = loaded.hints(0, &loaded.index());
    let lines = hints
        .iter()
        .map(|hint| (text[..hint.span.end as usize].matches('\n').count() + 1, hint.text.as_str()));
    assert_eq!(lines.collect::<Vec<_>>(), [(1, "taken by 2 wires"), (3, "2 of 2"), (4, "1 of 2")]);
}

#[test]
fn what_may_come_next_behind_a_dot_and_every() {
    has(
        "mould rook { var wet: boolean = true\n  on gone_away { own.| }\n  signal gone_away\n}",
        &["wet", "place"],
        &["wait"],
    );
    has("bind each gate.|", &["lit"], &[]);
    has("tally done of every |", &["gate", "bird"], &["goal"]);
    has("tally done of every gate.|", &["opened"], &[]);
    has("on pad.entered { lower_gate.| }", &["lit"], &["wait", "sill"]);
}

#[test]
fn what_a_setting_of_two_words_takes() {
    has("object z { door { opens on | } }", &["touch"], &["swing"]);
    has("object z { prompt \"Ring\" | }", &["reach", "hold"], &["label"]);
    has("choice ask \"Go?\" answers yes, no\non ask.chosen(|) { wait 1s }", &["yes", "no"], &[]);
}
