//! Reports: the data that their page reads.

use std::io::Read;

use base64::{Engine, prelude::BASE64_STANDARD};
use serde_json::Value as Json;
use stoicheon_core::{Door, Expr, Steps, Vec3, World, Zone, secs};
use stoicheon_view::{Report, ReportedFinding, ReportedPlaytest};

/// What the page reads.
fn data(page: &str) -> Json {
    let (_, rest) = page.split_once("<script id=\"data\" type=\"application/json\">").unwrap();
    let (data, _) = rest.split_once("</script>").unwrap();
    serde_json::from_str(data).unwrap()
}

fn numbers(list: &Json) -> Vec<usize> {
    list.as_array().unwrap().iter().map(|number| usize::try_from(number.as_u64().unwrap()).unwrap()).collect()
}

fn texts(list: &Json) -> Vec<&str> {
    list.as_array().unwrap().iter().map(|text| text.as_str().unwrap()).collect()
}

fn walked(ticks: usize) -> String {
    let mut world = World::<()>::new();
    let pad = world.object("towpath_pad").at(Vec3::new(4.0, 0.0, 0.0)).add().unwrap();
    let pad = world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap();
    let gate = world.object("upper_gate").at(Vec3::new(0.0, 0.0, 6.0)).add().unwrap();
    let gate = world.attach(gate, Door::swing(85.0).over(secs(1.0))).unwrap();
    let level = world.var("level", 0.4).unwrap();
    world.var("spare", 7.0).unwrap();
    world.on(pad.entered).run_steps(Steps::new().open(gate).set(level, 0.9)).unwrap();
    world.on(pad.left).when(Expr::var(level).more_than(0.95)).run_steps([]).unwrap();
    let mut report = Report::new("Harrow Lock").of("a walk").with_wiring(&world);
    let ada = world.player("ada").add().unwrap();
    world.walk(ada, Vec3::new(900.0, 0.0, 0.0), 4.0).unwrap();
    for _ in 0..ticks {
        world.step(&mut ()).unwrap();
        report.note(&world);
    }
    report.with_world(&world).html()
}

#[test]
fn each_record_has_its_cause_who_and_what_it_is_about_in_columns_of_one_length() {
    let data = data(&walked(90));
    let records = &data["records"];
    let count = records["ticks"].as_array().unwrap().len();
    for column in ["causes", "phases", "events", "texts", "who", "about"] {
        assert_eq!(records[column].as_array().unwrap().len(), count, "{column}");
    }
    let causes = numbers(&records["causes"]);
    assert!(
        causes.iter().enumerate().all(|(index, cause)| *cause <= index),
        "causes come before: {causes:?}"
    );
    let (words, things) = (texts(&records["words"]), texts(&records["things"]));
    let text = |index: usize| words[numbers(&records["texts"])[index]];
    let opened = (0..count).find(|index| text(*index).starts_with("upper_gate.opened")).unwrap();
    // Its chain leads back to who walked.
    let chain: Vec<&str> =
        std::iter::successors(Some(opened), |index| causes[*index].checked_sub(1)).map(text).collect();
    assert!(chain.last().unwrap().starts_with("ada sets out for"), "{chain:?}");
    assert_eq!(things[numbers(&records["who"])[opened] - 1], "object:ada");
    let about: Vec<&str> = numbers(&records["about"][opened]).iter().map(|thing| things[*thing]).collect();
    assert_eq!(about, ["signal:upper_gate.opened", "object:upper_gate"]);
    // What was refused names its wire and what it read.
    let refused = (0..count).find(|index| text(*index).contains("0.95")).unwrap();
    assert!(text(refused).contains("0.9"), "{}", text(refused));
}

#[test]
fn values_have_what_they_were_at_first_and_each_change() {
    let data = data(&walked(90));
    let records = &data["records"];
    let words = texts(&records["words"]);
    let values = records["values"].as_array().unwrap();
    let index = |name: &str| values.iter().position(|value| value["name"] == name).unwrap();
    let history = |name: &str| -> Vec<&str> {
        let index = index(name);
        let first = usize::try_from(values[index]["first"].as_u64().unwrap()).unwrap();
        let changes =
            records["changes"].as_array().unwrap().iter().map(numbers).filter(|change| change[1] == index);
        std::iter::once(words[first]).chain(changes.map(|change| words[change[2]])).collect()
    };
    assert_eq!(history("level"), ["0.4", "0.9"]);
    assert_eq!(history("the door of upper_gate"), ["closed", "opening", "open"]);
    // What nothing changes is there too.
    assert_eq!(history("spare"), ["7"]);
}

/// Where a piece of the map is at the end.
fn last_place(data: &Json, piece: &str) -> String {
    let all =
        data["film"]["changes"].as_array().unwrap().iter().flat_map(|changes| changes.as_array().unwrap());
    let mut mine = all.filter(|change| change[0] == piece.parse::<usize>().unwrap());
    mine.next_back().unwrap()[1].as_str().unwrap().to_owned()
}

#[test]
fn a_long_run_keeps_a_bounded_number_of_moments_and_the_last_one_is_right() {
    let (short, long) = (walked(90), walked(5_000));
    let piece = |page: &str| {
        let (_, rest) = page.split_once("data-of=\"ada\" display=\"none\" id=\"piece-").unwrap();
        rest.split_once('"').unwrap().0.to_owned()
    };
    let moments = |page: &str| data(page)["film"]["ticks"].as_array().unwrap().len();
    assert_eq!(moments(&short), 90);
    assert!((400..=1_100).contains(&moments(&long)), "{}", moments(&long));
    // She walks to the right edge in both.
    let x = |page: &str| {
        let place = last_place(&data(page), &piece(page));
        place.split(' ').next().unwrap().parse::<f64>().unwrap()
    };
    assert!(x(&short) > 600.0 && x(&long) > 800.0, "{} {}", x(&short), x(&long));
}

#[test]
fn a_long_timeline_is_cut_and_compressed() {
    let mut world = World::<()>::with(stoicheon_core::Config { kept: 1_000_000, ..Default::default() });
    let bells: Vec<_> =
        (0..20).map(|bell| world.declare_signal::<()>(&format!("bell_{bell}")).unwrap()).collect();
    for _ in 0..300 {
        bells.iter().for_each(|bell| world.emit(*bell, ()).unwrap());
        world.step(&mut ()).unwrap();
    }
    let data = data(&Report::new("Bells").with_world(&world).html());
    let pieces = data["pieces"].as_array().unwrap();
    assert!(pieces.len() > 8, "{}", pieces.len());
    let mut seen = 0;
    for (piece, next) in pieces.iter().zip(pieces.iter().skip(1).map(Some).chain([None])) {
        let bytes = BASE64_STANDARD.decode(piece["svg"].as_str().unwrap()).unwrap();
        let mut svg = String::new();
        flate2::read::ZlibDecoder::new(&bytes[..]).read_to_string(&mut svg).unwrap();
        let tree = roxmltree::Document::parse(&svg).unwrap();
        let records = |node: &roxmltree::Node<'_, '_>| {
            node.attribute("data-records").is_some_and(|all| !all.is_empty())
        };
        let here = tree.descendants().filter(records).count();
        assert!(here <= 1_000, "{here}");
        seen += here;
        // One begins where the last ends.
        assert!(next.is_none_or(|next| next["from"] == piece["to"]));
    }
    // What is at a cut is in both.
    assert!((6_000..7_000).contains(&seen), "{seen}");
}

#[test]
fn nothing_that_a_text_says_becomes_a_part_of_the_page() {
    let mut world = World::<()>::new();
    let say = world.var("said", "</script><script>alert(1)</script>").unwrap();
    let bell = world.declare_signal::<()>("bell").unwrap();
    world.on(bell).run_steps(Steps::new().set(say, "<img src=x onerror=alert(2)>")).unwrap();
    world.emit(bell, ()).unwrap();
    world.step(&mut ()).unwrap();
    let finding = ReportedFinding::new(true, "<b>bad</b>");
    let failed = ReportedPlaytest::new("<i>it</i>", "1s", vec!["expected <u>".to_owned()]);
    let passed = ReportedPlaytest::new("that", "2s", Vec::new());
    let report = Report::new("<h1>")
        .with_world(&world)
        .with_finding(finding)
        .with_playtest(failed)
        .with_playtest(passed);
    let page = report.html();
    for bad in ["<script>alert", "<img", "<b>bad", "<i>it", "<u>", "<h1>\n"] {
        assert!(!page.contains(bad), "{bad}");
    }
    assert_eq!(page.matches("</script>").count(), 2);
    assert!(page.contains("1 of 2 playtests failed") && page.contains("1 found by the checker"));
    // Of nothing at all there is a page too.
    assert!(Report::new("Nothing").html().contains("There are none."));
}
