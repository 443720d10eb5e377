//! Wiring as text and as JSON: setting it, turning one into the other, and what that must not change.

use stoicheon_core::{Catalogue, World, playtest::NoHost};
use stoicheon_script::{JsonError, format, from_json, load, schema, to_json};

const SHIPPED: [(&str, &str); 12] = [
    ("harrow_lock", include_str!("../../../demo/harrow_lock.stoi")),
    ("towpath", include_str!("../../../demo/towpath.stoi")),
    ("everything", include_str!("scenes/everything.stoi")),
    ("errands", include_str!("scenes/errands.stoi")),
    ("game", include_str!("scenes/game.stoi")),
    ("players", include_str!("scenes/players.stoi")),
    ("tokens", include_str!("../../../cookbook/02_tokens.stoi")),
    ("herons", include_str!("../../../cookbook/07_herons.stoi")),
    ("weather", include_str!("../../../cookbook/09_weather.stoi")),
    ("request", include_str!("../../../cookbook/12_request.stoi")),
    ("sluices", include_str!("../../../cookbook/14_sluices.stoi")),
    ("drain", include_str!("../../../cookbook/16_drain.stoi")),
];

/// What a scene does in its first playtest, or alone, as a digest; `None` if it has errors.
fn digest(text: &str) -> Option<u64> {
    let loaded = load("scene.stoi", text, &Catalogue::built_in());
    if loaded.has_errors() {
        return None;
    }
    let mut world = World::<()>::with(stoicheon_core::Config { statements: 1000, ..Default::default() });
    loaded.build(&mut world).unwrap();
    match loaded.playtests().next() {
        Some(_) => drop(loaded.run_playtest(0, &mut world, &mut (), &mut NoHost)),
        None => drop((0..30).try_for_each(|_| world.step(&mut ()))),
    }
    Some(world.trace().digest())
}

#[test]
fn everything_that_ships_is_set_as_fmt_sets_it() {
    for (name, text) in SHIPPED {
        assert_eq!(format(text).as_deref(), Ok(text), "{name}");
        // A text with errors would have no digest that another way of writing it could change.
        let loaded = load(name, text, &Catalogue::built_in());
        assert!(!loaded.has_errors(), "{name}: {:?}", loaded.diagnostics());
    }
}

#[test]
fn every_piece_on_the_languages_page_follows_the_grammar_and_is_set_as_fmt_sets_it() {
    let page = include_str!("../../../docs/language.md");
    let (taught, _) = page.split_once("## Grammar").unwrap();
    let pieces: Vec<_> = taught.split("```").skip(1).step_by(2).collect();
    assert!(pieces.len() > 8);
    for piece in pieces {
        let piece = piece.trim_start_matches('\n');
        assert_eq!(format(piece).as_deref(), Ok(piece));
    }
}

#[test]
fn setting_keeps_comments_and_lines_and_moves_only_blanks() {
    let text = "// first\nscene   lock // its name\n\n\n\nvar level:number=0.4\nobject gate at(0,0,12)tags gate{door{swing 85deg about y,over 1s}\nvar lit : boolean = false // on\n}\non gate . opened\nwhen level>0.5 and\nlevel < 0.9\norder - 10,cooldown 2s per who\n{ // begins\nlevel = - 0.5+max( 1,2 ) ;wait 5s\nif level>1{stop}else{ wait until gate is open\nwithin 2s\n}\n\n}\n// last";
    insta::assert_snapshot!(format(text).unwrap(), @r"
    // first
    scene lock // its name

    var level: number = 0.4
    object gate at (0, 0, 12) tags gate { door { swing 85deg about y, over 1s }
      var lit: boolean = false // on
    }
    on gate.opened
      when level > 0.5 and
      level < 0.9
      order -10, cooldown 2s per who
    { // begins
      level = -0.5 + max(1, 2); wait 5s
      if level > 1 { stop } else { wait until gate is open
          within 2s
      }
    }
    // last
    ");
}

#[test]
fn a_text_with_faults_is_not_set() {
    assert_eq!(format("object 7").unwrap_err().len(), 1);
}

#[test]
fn json_says_what_the_text_says() {
    for (name, text) in SHIPPED {
        let json = to_json(text).unwrap();
        let back = from_json(&json).unwrap();
        assert_eq!(to_json(&back).unwrap(), json, "{name}");
        assert_eq!(digest(&back), digest(text), "{name}");
        assert_eq!(format(&back).as_deref(), Ok(back.as_str()), "{name} is set as it comes");
    }
}

#[test]
fn json_reads_as_people_would_guess() {
    let text = "var level: number = 0.4\n\non rung(2) by keeper when level > 0.95 and upper_gate is closed order 10 {\n  open upper_gate\n  wait 5s\n}\n";
    insta::assert_snapshot!(to_json(text).unwrap());
}

/// Pieces of the shipped scenes deleted, doubled and swapped, with a fixed seed: whatever is a scene is the same scene
/// by way of JSON.
#[test]
fn json_keeps_the_meaning_of_texts_taken_apart() {
    use rand_pcg::{
        Pcg32,
        rand_core::{Rng as _, SeedableRng as _},
    };
    let mut random = Pcg32::seed_from_u64(11);
    let mut pick = |below: usize| usize::try_from(random.next_u32()).unwrap() % below.max(1);
    let (mut texts, mut scenes) = (0, 0);
    for case in 0..4000 {
        let text = SHIPPED[case % SHIPPED.len()].1;
        let mut pieces: Vec<&str> = text.split_inclusive(|c: char| !c.is_alphanumeric()).collect();
        for _ in 0..=pick(2) {
            let (one, two) = (pick(pieces.len()), pick(pieces.len()));
            match pick(3) {
                0 => drop(pieces.remove(one)),
                1 => pieces.insert(two, pieces[one]),
                _ => pieces.swap(one, two),
            }
        }
        let text = pieces.concat();
        let Ok(json) = to_json(&text) else { continue };
        texts += 1;
        let back = from_json(&json).unwrap_or_else(|error| panic!("{error}\n{text}"));
        assert_eq!(to_json(&back).as_ref(), Ok(&json), "{text}");
        let meant = digest(&text);
        scenes += usize::from(meant.is_some());
        assert_eq!(digest(&back), meant, "{text}\nby way of JSON:\n{back}");
    }
    assert!(texts > 400 && scenes > 100, "{texts} texts, {scenes} scenes");
}

#[test]
fn the_schema_that_is_committed_is_current_and_what_ships_follows_it() {
    let committed = include_str!("../../../docs/wiring.schema.json");
    assert_eq!(schema(), committed, "write it again: stoicheon convert --schema >docs/wiring.schema.json");
    let schema: serde_json::Value = serde_json::from_str(committed).unwrap();
    let rules = jsonschema::validator_for(&schema).unwrap();
    for (name, text) in SHIPPED {
        let json: serde_json::Value = serde_json::from_str(&to_json(text).unwrap()).unwrap();
        let faults: Vec<_> = rules.iter_errors(&json).map(|fault| fault.to_string()).collect();
        assert!(faults.is_empty(), "{name}: {faults:?}");
    }
    for wrong in
        [r#"{"objcts": []}"#, r#"{"items": [{"var": {"name": "a"}}]}"#, r#"{"items": [{"wire": 3}]}"#]
    {
        let json: serde_json::Value = serde_json::from_str(wrong).unwrap();
        assert!(!rules.is_valid(&json), "{wrong}");
        assert!(matches!(from_json(wrong), Err(JsonError::Form(_))), "{wrong}");
    }
}

#[test]
fn json_with_names_that_are_none_is_refused() {
    for name in ["", "two words", "a.b", "a }\\nobject b", "1st", "on"] {
        let json = format!(r#"{{"items": [{{"object": {{"name": "{name}"}}}}]}}"#);
        let found = from_json(&json);
        let as_text = found.as_ref().is_ok_and(|text| text == &format!("object {name}\n"));
        // A keyword is a name like any other where a name is expected.
        assert!(found.is_err() || (as_text && name == "on"), "{name:?}: {found:?}");
    }
    assert!(matches!(from_json("{"), Err(JsonError::Form(_))));
    assert!(matches!(from_json("[]"), Err(JsonError::Form(_))));
}

/// Every kind of part has a page, which names all it has, and whose example is good.
#[test]
fn every_part_has_a_page_that_is_true() {
    let folder = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/parts");
    for part in Catalogue::built_in().parts() {
        let page = std::fs::read_to_string(folder.join(format!("{}.md", part.name))).unwrap();
        let settings = part.settings.iter().map(|setting| (&setting.name, &setting.about));
        let commands = part.commands.iter().map(|command| (&command.name, &command.about));
        let signals = part.signals.iter().map(|signal| (&signal.name, &signal.about));
        let variables = part.variables.iter().map(|variable| (&variable.name, &variable.about));
        let readings = part.readings.iter().map(|reading| (&reading.name, &reading.about));
        for setting in part.settings.iter().filter(|setting| setting.live) {
            let mut rows = page.lines().filter(|line| line.starts_with(&format!("| `{}`", setting.name)));
            let says = rows.any(|row| row.ends_with("Can change while the world runs. |"));
            assert!(says, "{}.md does not say that {} may change", part.name, setting.name);
        }
        for (name, about) in settings.chain(commands).chain(signals).chain(variables).chain(readings) {
            let mut rows = page.lines().filter(|line| line.starts_with(&format!("| `{name}`")));
            let about = about.replace('|', "\\|");
            assert!(rows.any(|row| row.contains(&about)), "{}.md does not say of {name}: {about}", part.name);
        }
        let example = page.split("```stoi\n").nth(1).and_then(|rest| rest.split("```").next()).unwrap();
        let loaded = load(&part.name, example, &Catalogue::built_in());
        assert!(!loaded.has_errors(), "{}.md: {:?}", part.name, loaded.diagnostics());
        for number in 0..loaded.playtests().count() {
            let mut world = World::<()>::new();
            loaded.build(&mut world).unwrap();
            let verdict = loaded.playtest(number, &mut world).unwrap().run(&mut world, &mut ()).unwrap();
            assert!(verdict.passed(), "{}.md: {verdict:?}", part.name);
        }
    }
}

/// Marks stand under what they mean, in columns of a terminal, and long lines are cut around them.
#[test]
fn marks_stand_where_they_should() {
    let drawn = |text: &str| {
        let loaded = load("lock.stoi", text, &Catalogue::built_in());
        let found = loaded.diagnostics().iter().find(|found| found.message.contains("gaet")).unwrap();
        let drawn = stoicheon_script::render(found, loaded.sources(), false);
        let lines: Vec<_> = drawn.lines().map(str::to_owned).collect();
        // The columns before the mark, as a terminal that knows wide letters counts them.
        let wide = |letter: char| if ('一'..='龥').contains(&letter) { 2 } else { 1 };
        let columns = |text: &str| text.chars().map(wide).sum::<usize>();
        let mark = lines[2].find('~').unwrap();
        let word = lines[1].find("gaet").unwrap();
        assert_eq!(columns(&lines[1][..word]), columns(&lines[2][..mark]), "{drawn}");
        assert!(columns(&lines[1]) < 130, "{drawn}");
        lines[0].split("  ").next().unwrap().to_owned()
    };
    assert_eq!(drawn("on pressed(\"k\") { open gaet }"), "lock.stoi:1:24");
    assert_eq!(drawn("on pressed(\"k\") {\topen\tgaet }"), "lock.stoi:1:24");
    assert_eq!(drawn("// 水門\non pressed(\"水門 ü\") { open gaet }"), "lock.stoi:2:27");
    assert_eq!(drawn(&format!("on pressed(\"{}\") {{ open gaet }}", "x".repeat(500))), "lock.stoi:1:523");
    assert_eq!(drawn(&format!("on pressed(\"{}\") {{ open gaet }}", "水".repeat(500))), "lock.stoi:1:523");
    assert_eq!(drawn(&format!("on pressed(\"k\") {{ open gaet }} // {}", "x".repeat(500))), "lock.stoi:1:24");
    assert_eq!(drawn("on pressed(\"k\") { open gaet }\r\n"), "lock.stoi:1:24");
}
