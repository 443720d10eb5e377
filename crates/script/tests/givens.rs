//! Named constants: where they are set, and what is said of what cannot be.

use std::sync::Arc;

use stoicheon_core::{Catalogue, Vec3, World, ticks};
use stoicheon_script::{Givens, Loaded, Project, from_json, load, to_json};

use crate::support::{found, loaded};

const STONES: &str = r#"
given reach: number = 6 "how far one may point"
given wide: number = reach / 2
given pause: duration = 500ms
given kind: one of (heron, gull) = heron
given cry: text = "Kree"
given at: vector = (1, 2, 3)
given many: whole = 2
given loud: boolean = false
var told: text = "{reach} {wide} {pause} {kind} {cry} {at} {many} {loud}"
"#;

fn told(loaded: &Loaded) -> String {
    assert!(!loaded.has_errors(), "{:?}", loaded.diagnostics());
    let mut world = World::<()>::new();
    loaded.build(&mut world).unwrap();
    world.value(world.find_var("told").unwrap()).unwrap().as_text().unwrap().to_owned()
}

#[test]
fn what_is_given_is_known_before_play_and_set_from_outside() {
    let text = STONES.replace(" {pause}", "");
    let stones = loaded(&text);
    assert_eq!(told(&stones), "6 3 heron Kree (1, 2, 3) 2 false");
    let givens = Givens::new()
        .set("reach", 9.0)
        .set("kind", "gull")
        .set("cry", "A \"{b}\"\n")
        .set("at", Vec3::new(-1.0, 0.5, 0.0))
        .set("many", 3_i64)
        .set("loud", true)
        .set("pause", ticks(3));
    assert_eq!(told(&stones.with_given(&givens)), "9 4.5 gull A \"{b}\"\n (-1, 0.5, 0) 3 true");
    let written = Givens::new().written("reach = 1 + 1").unwrap().written("cry=Meow").unwrap();
    let written = written.written("pause=2s").unwrap().written("kind = gull").unwrap();
    assert_eq!(told(&stones.with_given(&written)), "2 1 gull Meow (1, 2, 3) 2 false");
    for wrong in ["reach", "=3", "a b=3", ""] {
        assert!(Givens::new().written(wrong).is_err(), "{wrong}");
    }
    let listed: Vec<_> = stones.given().map(|given| given.name).collect();
    assert_eq!(listed, ["reach", "wide", "pause", "kind", "cry", "at", "many", "loud"]);
    let json = to_json(&text).unwrap();
    assert_eq!(told(&loaded(&from_json(&json).unwrap())), "6 3 heron Kree (1, 2, 3) 2 false");
}

#[test]
fn what_cannot_be_given_is_told_of_and_changes_nothing() {
    let stones = loaded(&STONES.replace(" {pause}", ""));
    for (name, value, says) in [
        ("raech", "3", "there is no given value `raech`"),
        ("reach", "far", "there is no `far`"),
        ("reach", "\"x\"", "`reach` is a number, found text"),
        ("kind", "5", "`kind` is one word of a list, found a whole number"),
        ("kind", "swan", "`swan` is not one of the words"),
        ("pause", "", "expected a value between the braces, found the end of the value"),
        ("many", "1.5", "`many` is a whole number, found a number"),
        ("many", "2 3", "expected `}` after the value, found `3`"),
        ("wide", "reach * many * reach * told", "what is given must be known before the world runs"),
    ] {
        let other = stones.with_given(&Givens::new().written(&format!("{name}={value}")).unwrap());
        let messages: Vec<_> = other.diagnostics().iter().map(|found| found.message.clone()).collect();
        assert!(messages.iter().any(|message| message == says), "{name}={value}: {messages:?}");
        assert!(other.has_errors());
    }
    assert!(stones.with_given(&Givens::new().set("reach", f64::NAN)).has_errors());
    assert!(!stones.has_errors());
}

#[test]
fn a_project_gives_values_to_all_its_scenes() {
    let read = |path: &str| match path {
        "a.stoi" => {
            Ok("scene a\ngiven reach: number = 6\nvar told: number = reach\nspot steps at (0, 0, 0)"
                .to_owned())
        }
        "b.stoi" => Ok("scene b\nvar told: number = depth\nspot steps at (0, 0, 0)".to_owned()),
        "all.stoi" => Ok("given depth: number = 1".to_owned()),
        _ => Err("no such file".to_owned()),
    };
    let head =
        "project p\nscene \"a.stoi\"\nscene \"b.stoi\" left running\nshared \"all.stoi\"\ngiven reach = 8\n";
    let values = |project: Project| {
        assert!(!project.has_errors(), "{:?}", project.parts().map(Loaded::diagnostics).collect::<Vec<_>>());
        let project = Arc::new(project);
        let mut world = World::<()>::with(project.config());
        project.build(&mut world).unwrap();
        ["a.told", "b.told"]
            .map(|name| world.value(world.find_var(name).unwrap()).unwrap().as_number().unwrap())
    };
    let project = Project::load("p.stoi", head, &Catalogue::built_in(), &read);
    assert_eq!(values(project.with_given(&Givens::new().set("depth", 3.0))), [8.0, 3.0]);
    assert_eq!(values(project.with_given(&Givens::new().set("reach", 2.0))), [2.0, 1.0]);
    assert!(project.with_given(&Givens::new().set("width", 2.0)).has_errors());
    assert_eq!(values(project), [8.0, 1.0]);
    let wrong = Project::load("p.stoi", &format!("{head}given width = 2"), &Catalogue::built_in(), &read);
    assert!(wrong.has_errors());
}

#[test]
fn what_is_made_of_itself_twice_over_takes_no_longer() {
    let doubled = |number: usize| format!("given a{number}: number = a{0} + a{0}\n", number - 1);
    let text = format!("given a0: number = 1\n{}", (1..200).map(doubled).collect::<String>());
    assert_eq!(found(&format!("{text}var all: number = a199 / a198")), [""; 0]);
    let circle = text.replace("a0: number = 1", "a0: number = a199");
    let told = found(&circle);
    assert_eq!(told.len(), 1, "{told:?}");
    assert!(load("c.stoi", &circle, &Catalogue::built_in()).has_errors());
}
