//! The command answers why: what happened, what did not, and what came of every expectation of the cookbook when it is turned
//! into its opposite.

use std::{fs, path::Path};

use crate::support::{Folder, root};

/// An expectation turned into its opposite; what it waited for is waited for first.
fn opposite(line: &str) -> String {
    let (indent, expected) = line.split_once("expect ").unwrap();
    let (body, within) = match expected.rsplit_once(" within ") {
        Some((body, within)) if !within.contains(' ') => (body, Some(within)),
        _ => (expected, None),
    };
    let first = within.map_or_else(String::new, |within| format!("{indent}expect {body} within {within}\n"));
    if let Some((event, times)) = body.rsplit_once(" exactly ") {
        return format!("{indent}expect {event} exactly {}", times.parse::<u64>().unwrap() + 1);
    }
    let name = body.split('(').next().unwrap_or(body);
    let is_name = name.chars().all(|letter| letter.is_ascii_alphanumeric() || "_.".contains(letter));
    let is_event = is_name && (body.ends_with(')') || name == body);
    let is_bool = ["river.foam", "ready", "inside", "lamp"].contains(&body);
    if is_event && !is_bool && !body.starts_with("steps_between") {
        return format!("{first}{indent}expect {body} exactly 77");
    }
    format!("{first}{indent}expect not ({body})")
}

/// What `stoicheon test` says of a file of the cookbook in which one line is another.
fn told(file: &Path, number: usize, line: &str) -> String {
    let text = fs::read_to_string(file).unwrap();
    let changed: Vec<_> =
        text.lines().enumerate().map(|(index, old)| if index == number { line } else { old }).collect();
    let name = file.file_name().unwrap().to_str().unwrap();
    let folder = Folder::of(&[]);
    // A scene of a project is played with the rest of it.
    let siblings = file.parent().unwrap();
    let is_project = siblings.file_name().unwrap() != "cookbook";
    if is_project {
        for sibling in fs::read_dir(siblings).unwrap() {
            let sibling = sibling.unwrap().path();
            fs::copy(&sibling, folder.path(sibling.file_name().unwrap().to_str().unwrap())).unwrap();
        }
    }
    folder.write(name, &changed.join("\n"));
    folder.call(&["test", if is_project { "." } else { name }]).ends(1).text
}

/// The lines of the story of the first playtest that failed.
fn story(text: &str) -> Vec<&str> {
    let failed = text.lines().skip_while(|line| !line.starts_with("failed"));
    failed.skip(1).take_while(|line| line.starts_with("        ")).map(str::trim).collect()
}

fn wiring_files(folder: &Path, found: &mut Vec<std::path::PathBuf>) {
    let mut all: Vec<_> = fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    all.sort();
    for path in all {
        if path.is_dir() {
            wiring_files(&path, found);
        } else if path.extension().is_some_and(|ending| ending == "stoi") {
            found.push(path);
        }
    }
}

#[test]
fn every_expectation_of_the_cookbook_turned_into_its_opposite_is_answered_with_a_wire_and_a_value() {
    let mut files = Vec::new();
    wiring_files(&root().join("cookbook"), &mut files);
    let (mut asked, mut unwired) = (0, 0);
    for file in files {
        let text = fs::read_to_string(&file).unwrap();
        for (number, line) in text.lines().enumerate() {
            if !line.trim_start().starts_with("expect ") {
                continue;
            }
            let turned = opposite(line);
            let text = told(&file, number, &turned);
            let story = story(&text);
            let said = format!("{}:{}\n{turned}\n{text}", file.display(), number + 1);
            let found = story.iter().find_map(|line| line.strip_prefix("found")).expect(&said).trim();
            assert!(!["it does not hold", "something else", ""].contains(&found), "no value: {said}");
            let reasons =
                story.iter().skip_while(|line| !line.starts_with("nearest") && !line.starts_with("last"));
            let reasons: Vec<_> = reasons.collect();
            let is_wire = |line: &&str| {
                [".stoi:", "the bind at", " took it", " took ", "would have"]
                    .iter()
                    .any(|words| line.contains(words))
            };
            // What a player did, or what never changes, has no wire: the answer says so.
            let says_none = |line: &&str| {
                [
                    "no wire took part in it",
                    "no wire leads to it",
                    "has been so since the start",
                    "nothing that it reads has changed",
                ]
                .iter()
                .any(|words| line.contains(words))
            };
            let is_wired = reasons.iter().any(|line| is_wire(line));
            assert!(is_wired || reasons.iter().any(|line| says_none(line)), "no wire: {said}");
            asked += 1;
            unwired += usize::from(!is_wired);
        }
    }
    assert!(asked > 260, "{asked}");
    assert!(unwired < asked / 3, "{unwired} of {asked} name no wire");
}

/// What the command says, called in the folder of the whole work.
fn say(args: &[&str]) -> crate::support::Said {
    Folder::of(&[]).call(args)
}

fn demo() -> String {
    root().join("demo/canal").display().to_string()
}

#[test]
fn why_tells_the_chain_back_to_an_input_with_what_the_guards_had_seen() {
    let said = say(&["why", &demo(), "toll_gate", "opened"]).ends(0);
    insta::assert_snapshot!(said.text);
    // Before the world was saved and made again it happened as well; by then it is another world.
    say(&["why", &demo(), "say at", "2.5s"]).complains("expected a signal").ends(2);
    say(&["why", &demo(), "say", "at", "2.5s"])
        .ends(0)
        .says("2 times: 1.567s, 8.500s")
        .says("shared.stoi:12 took it");
    say(&["why", &demo(), "tolls", "for", "ada"])
        .ends(0)
        .says("was set for ada once")
        .says("ada presses use");
    let bob = say(&["why", &demo(), "tolls", "for", "bob"]).ends(0);
    bob.says("was not set for bob").says("it came to tolls 0 → 1 for ada");
    let early = say(&["why", &demo(), "toll_gate is open", "at", "1s"]).ends(0);
    early
        .says("did not come to hold up to 1.000s; the first time was at 2.567s")
        .says("lockside.toll_gate.answered never came");
}

#[test]
fn why_not_names_the_door_that_was_locked_and_what_would_have_been_needed() {
    let folder = Folder::of(&[(
        "lock.stoi",
        "scene lock\nvar level: number = 0.4\nsignal filled(to: number) sent by game\n\
         object gate at (0, 0, 12) {\n  door { swing 85deg, over 1s; opens on touch; locked }\n  \
         zone box (4, 2, 4) admits player\n}\n\
         object lower at (0, 0, 2) { door { swing 85deg } }\n\
         object post at (3, 0, 11) { prompt \"Wind\" key use, reach 2 }\n\
         on post.answered when level > 0.95 { open lower }\non filled { level = to }\n\
         playtest \"touches\" { player ada at (0, 0, 20); ada walks to gate }\n\
         playtest \"winds\" { player ada at post; emit filled(0.5); wait 1s; ada presses use }\n",
    )]);
    let touched = folder.call(&["why", "lock.stoi", "gate opened"]).ends(0);
    touched.says("the door of gate took gate.entered").says("it came to gate.refused(why locked)  who ada");
    let wound = folder.call(&["why", "lock.stoi", "--playtest", "winds", "lower is open"]).ends(0);
    insta::assert_snapshot!(wound.text, @r"
    lower is open did not come to hold up to 1.100s

      nearest  lock.stoi:10 refused: level > 0.95; level is 0.5
                 level has been so since 0.033s, by lock.stoi:11
                 after post.answered  who ada, at 1.067s
                 after ada presses use, at 1.067s
    ");
    let never = folder.call(&["why", "lock.stoi", "lower opened"]).ends(0);
    never
        .says("lock.stoi:10 would have (open lower): post.answered never came")
        .says("the prompt of post gives answered");
    folder.call(&["why", "lock.stoi", "gate opned"]).ends(2).complains("did you mean \"gate.opened\"?");
    folder.call(&["why", "lock.stoi", "gate opened", "for", "zoe"]).ends(2).complains("it has ada");
    folder.call(&["why", "lock.stoi", "gate opened", "at", "99s"]).ends(2).complains("before 99s");
    folder.call(&["why", "lock.stoi", "gate opened", "at", "-1s"]).ends(2).complains("-1");
}

#[test]
fn look_shows_what_everything_is_at_a_moment_to_people_and_to_programs() {
    let said = say(&["look", &demo(), "at", "1.2s"]).ends(0);
    insta::assert_snapshot!(said.text);
    let gate = say(&["look", &demo(), "toll_gate", "at", "1.9s"]).ends(0);
    gate.says("door    opening").says("taken  once, last at 1.567s").says_not("weir_pool");
    let json = say(&["look", &demo(), "at", "1.9s", "--json"]).ends(0).text;
    let json: serde_json::Value = serde_json::from_str(&json).unwrap();
    let gate = json["objects"]
        .as_array()
        .unwrap()
        .iter()
        .find(|object| object["name"] == "lockside.toll_gate")
        .unwrap();
    assert_eq!((&gate["parts"][0]["kind"], &gate["parts"][0]["state"]), (&"door".into(), &"opening".into()));
    assert!((gate["parts"][0]["readings"][0]["value"].as_f64().unwrap() - 1.0 / 3.0).abs() < 0.02, "{gate}");
    say(&["look", &demo(), "tol_gate"]).ends(2).complains("did you mean toll_gate?");
    say(&["look", &demo(), "ada", "bob"]).ends(2).complains("expected one name");
    say(&["look", &demo(), "at", "900s"]).ends(2).complains("it ends at 12.567s");
    say(&["look", &demo(), "at", "dawn"]).ends(2).complains("found dawn");
}

#[test]
fn a_trace_is_narrowed_to_what_is_asked_for() {
    let only = say(&["play", &demo(), "--only", "toll_gate"]).ends(0);
    let only =
        only.says("lockside.toll_gate opening → open").says_not("weir_pool").says("digest 89db9d696308e343");
    assert!(!only.text.contains("tick 19"), "a tick of which nothing is shown has no line");
    say(&["play", &demo(), "--who", "bob", "--to", "1s"]).ends(0).says("bob enters").says_not("who ada");
    say(&["play", &demo(), "--effects", "--from", "8s"])
        .ends(0)
        .says("Mind your head.")
        .says_not("Thank you");
    let lock = root().join("demo/harrow_lock.stoi").display().to_string();
    let refused = say(&["play", &lock, "--refused", "--from", "3s", "--to", "4s"]).ends(0);
    refused.says("refused: abs(level - 0) < 0.05; level is 1").says_not("tick 1\n");
    let lines = say(&["play", &demo(), "--json", "--only", "toll_due"]).ends(0).text;
    let lines: Vec<serde_json::Value> =
        lines.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let record = &lines[0]["record"];
    assert_eq!(
        (&record["event"], &record["about"], &record["who"]),
        (&"delivered".into(), &"toll_due".into(), &"ada".into())
    );
    say(&["play", &demo(), "--only", "nosuch"])
        .ends(0)
        .complains("nothing that happened is what was asked for");
    say(&["play", &demo(), "--from", "soon"]).ends(2).complains("--from takes a time such as 3.2s");
    // Set for everybody, it is told for each player who had their own.
    let herons = root().join("cookbook/07_herons.stoi").display().to_string();
    let new_day = say(&["play", &herons, "--from", "59s", "--only", "errand"]).ends(0);
    new_day.says("errand.state thanked → stranger for ada");
}

#[test]
fn build_servers_get_results_and_findings_in_their_own_forms() {
    let folder = Folder::of(&[
        (
            "good.stoi",
            "object gate { door { swing 85deg } }\nplaytest \"stays shut & quiet\" { wait 1s; expect gate is closed }\n\
                       playtest \"opens\" { wait 1s; expect gate is open }\n",
        ),
        ("bad.stoi", "on started { open gaet }\n"),
    ]);
    folder.call(&["test", ".", "--junit", "out.xml"]).ends(1);
    let text = folder.read("out.xml");
    let tree = roxmltree::Document::parse(&text).unwrap();
    let all = |tag: &'static str| tree.descendants().filter(move |node| node.has_tag_name(tag));
    assert_eq!((all("testcase").count(), all("failure").count(), all("error").count()), (3, 1, 1), "{text}");
    let failure = all("failure").next().unwrap();
    assert!(failure.attribute("message").unwrap().starts_with("expected  gate is open"), "{text}");
    assert!(all("testcase").any(|case| case.attribute("name") == Some("stays shut & quiet")));

    folder.call(&["check", ".", "--sarif", "out.sarif"]).ends(1).says("bad.stoi");
    let log: serde_json::Value = serde_json::from_str(&folder.read("out.sarif")).unwrap();
    let result = &log["runs"][0]["results"][0];
    assert_eq!((&log["version"], &result["level"]), (&"2.1.0".into(), &"error".into()));
    let place = &result["locations"][0]["physicalLocation"];
    assert_eq!(
        (&place["artifactLocation"]["uri"], &place["region"]["startLine"]),
        (&"bad.stoi".into(), &1.into())
    );
    assert!(result["message"]["text"].as_str().unwrap().contains("gaet"), "{result}");
    folder.call(&["check", ".", "--sarif", "nowhere/out.sarif"]).ends(2).complains("nowhere/out.sarif");
}

#[test]
fn pictures_are_written_whole_and_in_the_form_that_their_name_says() {
    let folder = Folder::of(&[]);
    let demo = demo();
    for picture in ["map", "wiring", "timeline"] {
        folder.call(&["draw", picture, &demo]).ends(0).says("<svg").says("toll_gate");
        folder.call(&["draw", picture, &demo, "-o", "out.svg"]).ends(0);
        assert!(folder.read("out.svg").starts_with("<svg"));
        folder.call(&["draw", picture, &demo, "-o", "out.jpg"]).ends(2).complains("ends in .svg or .png");
    }
    folder.call(&["draw", "report", &demo]).ends(0).says("<!DOCTYPE html>").says("object:lockside.toll_gate");
    folder.call(&["draw", "report", &demo, "-o", "out.html"]).ends(0);
    let page = folder.read("out.html");
    for words in ["3 playtests passed", "nobody stays in the pool", "two bargees go through", "Nothing."] {
        assert!(page.contains(words), "{words}");
    }
    assert!(
        page.len() < 2_000_000 && !page.contains("src=") && !page.contains("href=\"http"),
        "{}",
        page.len()
    );
    folder
        .call(&["draw", "report", &demo, "-o", "out.svg"])
        .ends(2)
        .complains("ends in .html, found out.svg");
    folder.call(&["draw", "report", "nowhere", "-o", "out.html"]).ends(2);
    assert_eq!(folder.read("out.html"), page, "a call that fails leaves it as it was");
    folder.call(&["draw", "map", &demo, "at", "0s", "-o", "out.png"]).ends(0);
    assert!(fs::read(folder.path("out.png")).unwrap().starts_with(b"\x89PNG"));
    folder.call(&["draw", "map", &demo, "at", "0s"]).ends(0).says("south_mouth").says("weir_pool");
    folder.call(&["draw", "map", &demo, "at", "99s"]).ends(2).complains("it ends at 12.567s");
    folder.call(&["draw", "wiring", &demo, "--around", "tol_gate"]).ends(2).complains("found tol_gate");
    folder
        .call(&["draw", "wiring", &demo, "--around", "toll_gate"])
        .ends(0)
        .says("toll_due")
        .says_not("south_mouth");
    folder.call(&["draw", "timeline", &demo, "--to", "1s"]).ends(0).says("weir_pool").says_not("toll_due");
    assert_eq!(folder.names(), ["out.html", "out.png", "out.svg"]);
}

#[test]
fn one_player_is_answered_with_what_became_of_them_and_a_state_that_was_so_all_the_time_with_that() {
    let folder = Folder::of(&[(
        "two.stoi",
        "scene two\nvar tolls: whole = 0 per player\nsignal due(amount: whole)\n\
         object gate at (0, 0, 6) { door { swing 85deg, over 1s } }\n\
         object pad at (0, 0, 4) { zone box (2, 2, 2) admits player }\n\
         on pad.entered when tolls of who >= 1 { open gate }\non pad.entered { emit due(1) for who }\n\
         on due { tolls of who += amount }\n\
         playtest \"two\" {\n  player ada at (0, 0, 0)\n  player bob at (5, 0, 0)\n  ada walks to pad\n  bob walks to pad\n  \
         ada walks to (0, 0, 0), walks to pad\n  bob leaves\n  wait 2s\n}\n",
    )]);
    let why = |args: &[&str]| folder.call(&[&["why", "two.stoi"], args].concat()).ends(0);
    why(&["gate opened"]).says("happened once").says("tolls of who is 1 since").says("by two.stoi:8");
    // What became of ada does not hide what became of bob, who has left.
    let bob = why(&["gate opened", "for", "bob"]).says("did not happen for bob");
    bob.says("refused: tolls of who >= 1; tolls of who is 0").says("who bob").says_not("who ada");
    why(&["gate is closed", "at", "1s"]).says("gate is closed has held since the start");
    why(&["gate is closed"])
        .says("held from the start until")
        .says("gate closed → opening")
        .says("ada sets out");
}

#[test]
fn what_the_page_about_looking_shows_is_what_the_command_says() {
    let page = fs::read_to_string(root().join("docs/looking.md")).unwrap();
    let mut shown = 0;
    for block in page.split("```text\n").skip(1) {
        let (block, _) = block.split_once("```").unwrap();
        let (call, expected) = block.strip_prefix("$ stoicheon ").unwrap().split_once('\n').unwrap();
        let line = format!("cd \"{}\" && stoicheon {call}", root().display());
        let said = Folder::of(&[]).shell(&line).ends(0);
        assert_eq!(said.text, expected, "{call}");
        shown += 1;
    }
    assert_eq!(shown, 4);
}
