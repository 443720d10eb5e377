//! The cookbook: every need is shown, and its playtests fail when the mistake is made that they guard against.

use std::{
    fs,
    path::{Path, PathBuf},
};

use assert_cmd::Command;

fn cookbook() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../cookbook")
}

fn stoicheon(args: &[&str], path: &Path) -> (i32, String) {
    let out = Command::cargo_bin("stoicheon").unwrap().args(args).arg(path).output().unwrap();
    (out.status.code().unwrap(), String::from_utf8(out.stdout).unwrap())
}

#[test]
fn every_need_of_the_cookbook_is_met() {
    let (code, out) = stoicheon(&["test"], &cookbook());
    assert_eq!(code, 0, "{out}");
    let passed: Vec<_> = out.lines().filter(|line| line.starts_with("passed ")).collect();
    for need in 1..=30 {
        let name = format!("/{need:02}_");
        assert!(passed.iter().any(|line| line.contains(&name)), "nothing shows need {need}");
    }
    // One line for each playtest, and one for all of them.
    assert_eq!(out.lines().count(), passed.len() + 1, "{out}");
    let (code, out) = stoicheon(&["check"], &cookbook());
    assert_eq!(code, 0, "{out}");
}

/// A file, what stands in it, and the mistake in its place.
const MISTAKES: &[(&str, &str, &str)] = &[
    ("01_shaking_view.stoi", "for 400ms", "for 40s"),
    ("01_shaking_view.stoi", "on footfall {", "on footfall when view is resting {"),
    ("02_tokens.stoi", " when who tagged keeper and thing is lying", " when thing is lying"),
    ("02_tokens.stoi", "holds 2", "holds 3"),
    ("02_tokens.stoi", "drop who.hand", "stop"),
    ("03_regatta.stoi", "finished once", "finished"),
    ("04_catch_floor.stoi", ", when not who tagged flying", ""),
    ("04_catch_floor.stoi", ", stilled", ""),
    ("05_tunnel/tunnel.stoi", "in lockside", "in lockside, arrivals"),
    ("06_lock_clock.stoi", "{ pause lock_clock }", "{ halt lock_clock; start lock_clock; pause lock_clock }"),
    ("06_lock_clock.stoi", "by 3", "by 2"),
    ("07_herons.stoi", "while errand is done order 10", "order 10"),
    (
        "07_herons.stoi",
        "on errand.changed(hunting) while errand is hunting {",
        "on errand.changed(hunting) {",
    ),
    ("07_herons.stoi", "when errand is hunting, ", ""),
    ("07_ferry_bells.stoi", "; reset rung", ""),
    ("07_ferry_bells.stoi", "coins of who += 1", "coins of who = 1"),
    ("08_spring_plank.stoi", "{ who.velocity = (0, 0, 0) }", "{ }"),
    ("08_spring_plank.stoi", "admits player\n  push", "admits horse\n  push"),
    ("09_weather.stoi", " over 2s, ease smooth", ""),
    ("09_weather.stoi", "by river.flow", "by 0.2"),
    ("10_field_gate.stoi", ", closes on leaving", ""),
    ("11_stepping_stones.stoi", " when distance <= reach", ""),
    ("11_stepping_stones.stoi", "object hedge at (2, 0, 6)", "object hedge at (2, 0, 60)"),
    ("12_request.stoi", "crosses to authority by bargee", "crosses to authority"),
    ("12_request.stoi", "wanted <= 1 and ", ""),
    ("13_lock_house.stoi", ", when house_door is closed", ""),
    ("13_lock_house.stoi", "stays 2s", "stays 20s"),
    ("14_sluices.stoi", "open every sluice", "open nearest sluice"),
    ("14_sluices.stoi", "over 1s; remember } }\n  object far", "over 1s } }\n  object far"),
    ("14_sluices.stoi", "; spends", ""),
    ("14_sluices.stoi", "opens on touch; asks iron", "opens on touch"),
    ("14_sluices.stoi", "opens on touch, when every sluice is closed", "opens on touch"),
    ("15_rotten_plank.stoi", "when plank is closed { open plank }", "{ open plank }"),
    ("16_drain.stoi", "(2, 2, 2) admits player", "(2, 2, 2)"),
    ("16_drain.stoi", ", stilled", ""),
    ("17_landing.stoi", "on trap.entered(walked)", "on trap.entered"),
    ("17_landing.stoi", "on landing.vacated", "on landing.left"),
    ("18_closing_time.stoi", "answered once", "answered"),
    ("18_closing_time.stoi", "  wait until heron_king is gone\n", ""),
    ("19_vanes.stoi", "disable a1.post; ", ""),
    ("19_vanes.stoi", "add vane as d4(place: (6, 0, 6))\n", ""),
    ("20_garden_beds.stoi", "hex_flat", "hex_pointy"),
    ("20_garden_beds.stoi", "object cloth at (0, 0, 0) disabled", "object cloth at (0, 0, 0)"),
    ("20_garden_beds.stoi", "neighbours(pointed, column, row)", "range(pointed, column, row, 1)"),
    ("20_garden_beds.stoi", "range(flat, 0, 0, 2)", "neighbours(flat, 0, 0)"),
    ("21_courage.stoi", "own.courage -= 1", "own.courage -= 2"),
    ("21_courage.stoi", "emit own.gone for who", "emit own.gone for nest"),
    ("21_courage.stoi", "  on whistle { own.courage += 1 }\n", ""),
    ("22_tally_board.stoi", "{toll + 0.2}; before", "{toll}; before"),
    ("22_tally_board.stoi", "who.name + \" with \" + coins of who", "who.name + \" with \""),
    ("23_stone_reach.stoi", "given reach = 9", "given reach = 3"),
    ("23_stone_reach.stoi", "reach (reach + sure_footed)", "reach 9"),
    ("23_stone_reach.stoi", "given pause = 100ms", "given pause = 1s"),
    ("24_quarter_bells.stoi", "wait quarter", "wait 267ms"),
    ("24_quarter_bells.stoi", "low 50ms", "low 67ms"),
    ("24_quarter_bells.stoi", "pulse 250ms", "pulse 267ms"),
    ("25_checkpoints.stoi", "ignore per who", "ignore"),
    ("25_checkpoints.stoi", " while running ignore per who", ""),
    ("25_checkpoints.stoi", "set_back(who, checkpoint of who)", "set_back(who, bank)"),
    ("25_checkpoints.stoi", "emit caught(who.name) for p", "emit caught(who.name)"),
    ("25_checkpoints.stoi", "destroy who", "disable who"),
    ("26_spring_board.stoi", "who.velocity.y = 6", "who.velocity = (0, 6, 0)"),
    ("26_spring_board.stoi", "wind.x += 2", "wind = (2, 0, 0)"),
    ("26_spring_board.stoi", "tween lamp.place.y to 5", "tween lamp.place to (0, 5, 0)"),
    ("26_spring_board.stoi", "direction(lamp, who)", "direction(who, lamp)"),
    ("27_passages/lockside.stoi", ", whom: keeper or bargee", ""),
    ("27_passages/lockside.stoi", "keeper or bargee", "keeper"),
    ("27_passages/doors.stoi", "whom: tag = player", "whom: tag = bargee"),
    ("27_passages/doors.stoi", "spot arrival at here facing way", "spot arrival at here"),
    ("27_passages/tunnel.stoi", "{ home of who = ladder in tunnel }", "{ }"),
    ("27_passages/doors.stoi", "bank in lockside per player", "ladder in tunnel per player"),
    ("27_passages/lockside.stoi", "east.mouth.entered or hatch.mouth.entered", "east.mouth.entered"),
    ("28_rehearsals.stoi", "tokens of who >= toll", "tokens of who > toll"),
    ("28_rehearsals.stoi", "on struck by player when strokes > 0", "on struck when strokes > 0"),
    ("28_rehearsals.stoi", "_, \"secondary\"", "_, \"primary\""),
    ("28_rehearsals.stoi", "hold 1s", "hold 4s"),
    ("28_rehearsals.stoi", "signal filled(now: number) crosses to players", "signal filled(now: number)"),
    ("29_soundings.stoi", "bind lamp.glow = gate.openness", "bind lamp.glow = gate.openness / 2"),
    ("29_soundings.stoi", "wait until gate.openness >= 0.5", "wait 2s"),
    ("29_soundings.stoi", "{ clock.timer.after = 5s }", "{ clock.timer.after = 9s }"),
    ("29_soundings.stoi", "bind stone.pick.reach = 4 + wound * 2", "bind stone.pick.reach = 4"),
    ("29_soundings.stoi", "post.prompt.hold += 1s; ", ""),
    ("29_soundings.stoi", "(0, gate.door.openness * 4, 0)", "(0, gate.door.openness, 0)"),
    ("30_footfalls.stoi", "gait of player, every 0.8", "gait of player, every 0.7"),
    ("30_footfalls.stoi", "planks_way.stepped by horse", "planks_way.stepped"),
    ("30_footfalls.stoi", "on ferry.rested(9)", "on ferry.rested(3)"),
    ("30_footfalls.stoi", "bind leaf.facing = gate.leaf_facing", ""),
    ("30_footfalls.stoi", "adding, top 2", "adding"),
];

/// A copy of the cookbook with one mistake in it.
fn with_mistake(file: &str, from: &str, to: &str) -> (tempfile::TempDir, PathBuf) {
    let folder = tempfile::tempdir().unwrap();
    let text = fs::read_to_string(cookbook().join(file)).unwrap();
    assert!(text.contains(from), "{file} has no `{from}`");
    let copy = folder.path().join(file);
    fs::create_dir_all(copy.parent().unwrap()).unwrap();
    let beside = Path::new(file).parent().filter(|parent| *parent != Path::new(""));
    if let Some(project) = beside {
        for entry in fs::read_dir(cookbook().join(project)).unwrap() {
            let path = entry.unwrap().path();
            fs::copy(&path, folder.path().join(project).join(path.file_name().unwrap())).unwrap();
        }
    }
    fs::write(&copy, text.replace(from, to)).unwrap();
    let path = beside.map_or(copy, |project| folder.path().join(project));
    (folder, path)
}

#[test]
fn every_mistake_makes_a_playtest_fail() {
    for (file, from, to) in MISTAKES {
        let (_folder, path) = with_mistake(file, from, to);
        let (code, out) = stoicheon(&["test"], &path);
        let failed = out.lines().filter(|line| line.starts_with("failed ")).count();
        assert!(code == 1 && failed > 0, "{file}: `{from}` became `{to}`, and nothing fails:\n{out}");
    }
    // Each need has one that shows.
    for need in 1..=30 {
        let name = format!("{need:02}_");
        assert!(MISTAKES.iter().any(|(file, ..)| file.starts_with(&name)), "need {need}");
    }
}

#[test]
fn an_expectation_that_is_not_met_is_told_with_what_led_there() {
    let (_folder, path) = with_mistake("03_regatta.stoi", "banner exactly 1", "banner exactly 2");
    let (code, out) = stoicheon(&["test"], &path);
    assert_eq!(code, 1);
    let shown = out.replace(&path.display().to_string(), "regatta.stoi");
    let shown: Vec<_> = shown.lines().map(|line| line.split(", in ").next().unwrap()).collect();
    insta::assert_snapshot!(shown.join("\n"));

    // A condition shows what changed last of what it reads; what came too often, its last time.
    let (_folder, path) = with_mistake("07_herons.stoi", "coins of ada == 100", "coins of ada == 200");
    let (code, out) = stoicheon(&["test"], &path);
    assert_eq!(code, 1);
    let last = out.lines().skip_while(|line| !line.contains("  last  ")).take(4);
    let last: Vec<_> = last.map(|line| line.trim().split(", at ").next().unwrap()).collect();
    let led = ["07_herons.stoi:25 took it", "miller.answered  who ada", "ada presses use"];
    assert_eq!(last[0], "last      coins 0 → 100 for ada");
    assert_eq!(last[1..], led.map(|link| format!("after {link}")));
    let (_folder, path) = with_mistake("18_closing_time.stoi", "show exactly 21", "show exactly 20");
    let (_, out) = stoicheon(&["test"], &path);
    assert!(out.contains("last      ") && out.contains("after 18_closing_time.stoi:"), "{out}");
}

#[test]
fn without_the_manager_the_check_says_so() {
    let text = fs::read_to_string(cookbook().join("03_regatta.stoi")).unwrap();
    let from = text.find("manager").unwrap();
    let to = text.find("spot start").unwrap();
    let (_folder, path) = with_mistake("03_regatta.stoi", &text[from..to], "");
    let (code, out) = stoicheon(&["check"], &path);
    assert_eq!(code, 1);
    assert!(out.contains("there is no object `umpire`"), "{out}");
}

#[test]
fn the_trace_says_how_many_vanes_took_the_wind() {
    let (code, out) = stoicheon(&["play"], &cookbook().join("19_vanes.stoi"));
    assert_eq!(code, 0, "{out}");
    let winds: Vec<_> = out.lines().filter(|line| line.contains("wind(from")).map(str::trim_end).collect();
    let taken: Vec<_> = winds.iter().filter_map(|line| line.split("taken by ").nth(1)).collect();
    assert_eq!(taken, ["16 of 16", "13 of 15", "15 of 15"], "{out}");
}

/// The lines of a text that are neither blank nor comments nor of a playtest.
fn scene_lines(text: &str) -> usize {
    let mut in_playtest = false;
    let mut count = 0;
    for line in text.lines().filter(|line| !line.trim().is_empty() && !line.trim().starts_with("//")) {
        in_playtest |= line.starts_with("playtest ");
        count += usize::from(!in_playtest);
        in_playtest &= line != "}";
    }
    count
}

#[test]
fn a_need_takes_one_short_scene_and_a_pair_of_doors_a_short_kit() {
    let folders = fs::read_dir(cookbook()).unwrap().map(|entry| entry.unwrap().path());
    let scenes: Vec<_> =
        folders.filter(|path| path.extension().is_some_and(|ending| ending == "stoi")).collect();
    assert!(scenes.len() >= 28);
    for scene in scenes {
        let lines = scene_lines(&fs::read_to_string(&scene).unwrap());
        assert!((5..=30).contains(&lines), "{} has {lines} lines", scene.display());
    }
    let doors = fs::read_to_string(cookbook().join("27_passages/doors.stoi")).unwrap();
    let kit: Vec<_> = doors.lines().skip_while(|line| !line.starts_with("kit passage")).collect();
    let lines = kit.iter().position(|line| *line == "}").unwrap() + 1;
    assert!(lines < 12, "the pair of doors has {lines} lines");
}
