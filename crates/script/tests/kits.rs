//! Kits that are given names: tags, signals, effects, moulds; and what is given by default.

use stoicheon_core::Catalogue;
use stoicheon_script::{Loaded, Project, format, from_json, to_json};

use crate::support::{fails, found, found_certain};

const CANAL: &str = r"
effect say(words: text)
effect sing(words: text)
signal rung(strokes: whole) sent by game
signal whistled(strokes: whole) sent by game
var heard: whole = 0
mould heron { }
mould gull { }
spot steps at (0, 0, 0)
object pad tags landing at (4, 0, 0) { zone box (1, 1, 1) }
object pier tags berth at (0, 0, 20) { zone box (1, 1, 1); signal bumped }
on rung { heard += strokes }
on whistled { heard += strokes * 100 }
";

fn plays(more: &str, lines: &str) {
    let text = format!(
        "{CANAL}{more}\nplaytest \"p\" {{ player ada at steps tags keeper; player bob at steps; {lines} }}"
    );
    assert_eq!(found_certain(&text), [""; 0]);
    assert_eq!(fails(&text), None);
    // The same the way through JSON, and formatted.
    let again = from_json(&to_json(&text).unwrap()).unwrap();
    assert_eq!(fails(&again), None, "{again}");
    assert_eq!(fails(&format(&text).unwrap()), None);
}

#[test]
fn a_kit_takes_tags_signals_effects_and_moulds() {
    let kit = "kit flock(at: object, kind: mould, whom: tag, told: signal, shown: effect) {
          on at.entered by whom { spawn kind at steps; emit told(1); perform shown(\"{count(kind)}\") for who }
          on told(1) { tag nearest kind to at as seen }
        }
        add flock(at: pad, kind: heron, whom: keeper, told: rung, shown: say)
        add flock(at: pier, kind: gull, whom: keeper or bargee, told: whistled, shown: sing)
        object mast tags bargee";
    let lines = "bob walks to pad; expect heard == 0; ada walks to pad; expect heard == 1; expect say exactly 1
        expect count(heron) == 1 and count(gull) == 0; bob walks to pier; expect heard == 1
        ada walks to pier; wait 100ms; expect heard == 101; expect sing exactly 1; expect count(every seen) == 2";
    plays(
        &kit.replace("at: object", "there: object")
            .replace("at.entered", "there.entered")
            .replace("(at:", "(there:")
            .replace("kind to at", "kind to there"),
        lines,
    );
}

#[test]
fn what_is_not_given_is_what_the_kit_says() {
    let kit = "var most: whole = 5
        kit bell(post: object, strokes: whole = 2, whom: tag = player, told: signal = rung, there: spot = steps, pace: duration = 1s) {
          on post.entered by whom while running ignore per who { wait pace; emit told(strokes); send who to there }
        }
        add bell(post: pad)
        add bell(post: pier, strokes: 7, told: whistled, pace: 2s)";
    let lines = "ada walks to pad, waits 1500ms; expect heard == 2 and ada.place == steps.place
        ada walks to pier; wait 1s; expect heard == 2; wait 2s; expect heard == 702";
    plays(kit, lines);
}

#[test]
fn kits_hand_names_on_to_kits() {
    let kit = "kit outer(post: object, whom: tag, told: signal) {
          add inner(place: post, who_may: whom, says: told, also: pier.bumped)
        }
        kit inner(place: object, who_may: tag, says: signal, also: signal) {
          var times: whole = 0
          on place.entered by who_may { times += 1; emit says(times); emit also }
          on also { heard += 1000 }
        }
        add outer as one(post: pad, whom: keeper, told: rung)
        add outer(post: pier, whom: player, told: whistled)";
    let lines = "ada walks to pad; wait 100ms; expect heard == 2001 or heard == 1001
        bob walks to pad; wait 100ms; expect heard == 2001 or heard == 1001";
    plays(kit, lines);
}

#[test]
fn a_kit_in_itself_is_told_of_though_it_is_given_names() {
    let text = format!("{CANAL}kit round(whom: tag) {{ add round(whom: whom) }}\nadd round(whom: player)");
    assert!(found(&text).iter().any(|line| line.contains("used inside itself")), "{:?}", found(&text));
    // One that is given more with each use comes to an end, too.
    let text =
        format!("{CANAL}kit round(whom: tag) {{ add round(whom: whom or player) }}\nadd round(whom: player)");
    assert!(!found(&text).is_empty());
}

#[test]
fn uses_of_kits_that_double_come_to_an_end() {
    // Each level has two of the next, and the last one has two of the first.
    let level = |number: usize| {
        let next = (number + 1) % 32;
        format!(
            "kit level_{number}() {{ spot landing at (0, 0, 0); add level_{next} as one(); add level_{next} as two() }}\n"
        )
    };
    let round = (0..32).map(level).collect::<Vec<_>>().concat();
    let text = format!("scene tower\n{round}add level_0 as top()\nspot steps at (0, 0, 0)\n");
    let read = |_: &str| Ok(text.clone());
    let project = Project::load_noting(
        "canal.stoi",
        "project canal\nscene \"tower.stoi\"",
        &Catalogue::built_in(),
        &read,
    );
    assert!(project.has_errors());
    let found = project.scenes()[0].diagnostics();
    assert!(found.iter().any(|found| found.message.ends_with("is used inside itself")));
    assert!(found.len() < 70, "each use is told of once: {}", found.len());
    let index = project.index();
    let names: Vec<_> = index.find("spot steps").map(|thing| thing.whole.as_str()).collect();
    assert_eq!(names, ["steps"]);
}

#[test]
fn a_parameter_may_be_called_as_a_setting_is() {
    let kit = "kit gate(admits: tag, offset: vector, to: signal, over: duration) {
          object pen at (0, 0, 9) {
            zone box (1, 1, 1) offset offset, admits admits
            door { slide (0, 2, 0) over over }
            on entered { open own; emit to(1) }
          }
        }
        add gate as g(admits: keeper, offset: (0, 0, 1), to: rung, over: 300ms)
        on pressed(\"w\") { emit whistled(1) }
        spot in_pen at (0, 0, 10)";
    let lines = "bob walks to in_pen; expect heard == 0; ada walks to in_pen; expect heard == 1
        expect g.pen is opening or g.pen is open";
    plays(kit, lines);
}

#[test]
fn a_kit_that_is_given_names_is_not_unused() {
    let kit = "kit k(whom: tag) { on pad.entered by whom { perform say(\"x\") } }";
    let unused = format!("scene s\n{CANAL}{kit}");
    assert!(found(&unused).iter().any(|line| line.starts_with("unused-kit")));
    assert!(
        !found(&format!("{unused}\nadd k(whom: player)")).iter().any(|line| line.starts_with("unused-kit"))
    );
}

#[test]
fn a_name_may_stand_for_several_of_its_kind() {
    let kit = "signal done
        signal over
        on done { heard += 1000 }
        on over { heard += 10000 }
        kit relay(calls: signal, out: signal, cheers: effect, litter: mould, folk: tag) {
          on calls when who tagged folk { perform cheers(\"{strokes}\"); emit out for who; spawn litter at steps }
          on calls when who not tagged folk { tag pad as litter }
          object post at (0, 0, 9) { on calls { tag own as folk } }
        }
        kit outer(all: signal) {
          add relay as inner(calls: all, out: done, cheers: say, litter: gull, folk: player)
        }
        add relay as one(calls: rung or whistled, out: done or over, cheers: say or sing, litter: heron or gull,
          folk: keeper or bargee)
        add outer as two(all: whistled)";
    // Ada is a keeper, and Bob nobody the first use knows.
    let lines = "emit rung(2) for ada; expect heard == 11002; expect say(\"2\") exactly 1; expect sing(\"2\") exactly 1
        expect count(heron) == 1 and count(gull) == 1; expect one.post tagged keeper and one.post tagged bargee
        emit whistled(1) for bob; expect heard == 12102; expect say(\"1\") exactly 1; expect sing exactly 1
        expect pad tagged gull and count(gull) == 3";
    plays(kit, lines);
}

#[test]
fn what_is_given_to_a_kit_means_what_it_means_where_it_is_given() {
    // A signal, an effect and a mould of each name there is three times: outside, in one kit, and in the other.
    let kit = "signal done
        on done { heard += 1 }
        kit relay(calls: signal, back: signal) {
          signal done
          on calls { emit back }
          object post at (0, 0, 9) { signal go; on calls { perform say(\"post\") } }
        }
        kit outer() {
          signal done
          signal go sent by game
          var inner: whole = 0
          on done { inner += 1 }
          add relay(calls: go, back: done)
        }
        kit between(c: signal, b: signal) { add relay(calls: c, back: b) }
        kit both(b: signal) {
          signal done
          var here: whole = 0
          on done { here += 1 }
          add relay(calls: o.go, back: b or done)
        }
        add outer as o()
        add between(c: o.go, b: done)
        add both as t(b: done)";
    // Two signals of one name in two scopes are two.
    let lines =
        "emit o.go; expect o.inner == 1 and heard == 2 and t.here == 1; expect say(\"post\") exactly 3";
    plays(kit, lines);
}

#[test]
fn items_of_a_kit_may_stand_on_one_line() {
    let kit = "kit k(at: vector) { object lamp at at on rung { perform say(\"a\") } var n: whole = 0 }
        kit m() { var n: whole = 0 spot x at (1, 1, 1) object lamp at (0, 0, 1) timer fuse after 3s }
        add k(at: (0, 0, 0))
        add m as one()";
    plays(kit, "emit rung(1); expect say exactly 1; expect one.fuse is running");
}

#[test]
fn a_spot_of_another_scene_may_be_called_as_the_parameter_it_is_given_to() {
    let head = "project canal\nscene \"lock.stoi\"\nscene \"tunnel.stoi\"\n";
    let lock = "scene lock\nmould heron { }\nsignal rung sent by game\nkit flock(landing: spot) { on rung { spawn heron at landing; send who to landing } }\nadd flock(landing: landing in tunnel)\n";
    let read = |path: &str| match path {
        "lock.stoi" => Ok(lock.to_owned()),
        _ => Ok("scene tunnel\nspot landing at (0, 0, 0)\n".to_owned()),
    };
    let project = Project::load_noting("canal.stoi", head, &Catalogue::built_in(), &read);
    let found: Vec<_> =
        project.parts().flat_map(Loaded::diagnostics).map(|found| found.message.as_str()).collect();
    assert_eq!(found, Vec::<&str>::new());
    let index = project.index();
    assert_eq!(
        index.find("parameter flock.landing").map(|thing| thing.places.len()).collect::<Vec<_>>(),
        [4]
    );
}
