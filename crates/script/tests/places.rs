//! Where things stand is said by another file.

use stoicheon_core::{Catalogue, Rotation, Vec3, World, secs};
use stoicheon_script::{Loaded, Project, load_with, render};

fn read(name: &str, wiring: &str, files: &[(&str, &str)]) -> Loaded {
    let text = |path: &str| {
        let found = files.iter().find(|(name, _)| *name == path);
        found.map(|(_, text)| (*text).to_owned()).ok_or_else(|| "there is no such file".to_owned())
    };
    load_with(name, wiring, &Catalogue::built_in(), &text)
}

fn report(loaded: &Loaded) -> String {
    let all = loaded.diagnostics().iter().map(|found| render(found, loaded.sources(), false));
    all.collect::<Vec<_>>().join("\n\n")
}

const PLACES: &str = "object quay at (10, 0, 0) facing 90deg about y\n\
    object pad at (0, 0, 5) of quay tags old, pad { zone box (2, 2, 2), offset (0, 1, 0) }\n\
    object lamp at (0, 4, 0) of quay tags lamp { zone ball 1 }\n\
    object gate at (0, 0, 12) facing 180deg about y\n\
    spot steps at (3, 0, 3)\n";

#[test]
fn an_object_stands_where_its_place_is_unless_the_wiring_says() {
    let wiring = "scene lockside\nplaces \"quay.gltf\"\n\
        object pad tags wet { zone admits player }\n\
        object lamp { zone ball 3, admits player }\n\
        object gate at (1, 0, 1) { door { swing 85deg about y } }\n\
        on pad.entered { open gate }\n\
        playtest \"walk\" { player ada at steps; ada walks to pad; expect gate is open }\n";
    let loaded = read("lockside.stoi", wiring, &[("quay.gltf", PLACES)]);
    assert_eq!(report(&loaded), "");
    let mut world = World::<()>::new();
    loaded.build(&mut world).unwrap();
    let at = |name: &str| world.pose_at(world.find(name).unwrap(), 1.0).unwrap();
    // It hangs on the quay, which is turned: what is 5 before that is 5 beside it.
    assert!(at("pad").at.distance(Vec3::new(15.0, 0.0, 0.0)) < 1e-4, "{}", at("pad").at);
    assert!(at("lamp").at.distance(Vec3::new(10.0, 4.0, 0.0)) < 1e-4);
    // Where the wiring says `at`, the turn of the place does not count either.
    assert_eq!((at("gate").at, at("gate").facing), (Vec3::new(1.0, 0.0, 1.0), Rotation::default()));
    let has = |name: &str, tag: &str| world.has_tag(world.find(name).unwrap(), tag);
    assert!(has("pad", "wet") && has("pad", "old") && has("lamp", "lamp"));

    // The box of the place, and who is admitted of the wiring; the ball of the wiring counts.
    let ada = world.player("ada").add().unwrap();
    for (inside, place) in
        [("pad", Vec3::new(15.0, 1.5, 0.0)), ("lamp", Vec3::new(10.0, 1.5, 0.0)), ("", Vec3::ZERO)]
    {
        world.move_to(ada, place).unwrap();
        world.advance(secs(0.1), &mut ()).unwrap();
        for zone in ["pad", "lamp"] {
            let part = world.parts_of(world.find(zone).unwrap())[0];
            assert_eq!(world.is_inside(ada, part), zone == inside, "{place} in {zone}");
        }
    }
}

#[test]
fn what_is_missing_on_either_side_is_told() {
    let wiring = "scene lockside\nplaces \"quay.gltf\"\nplaces \"gone.glb\"\nplaces \"wired.stoi\"\n\
        object gte { door { swing 85deg about y } }\n\
        object barge body\n\
        object bell { timer after 2s }\n\
        object moods { var mood: number = 1 }\n\
        object mast of barge { zone ball 2 }\n\
        manager lamp {}\n";
    let wired = "object reed at (0, 0, 0)\non started { }\n";
    let loaded = read("lockside.stoi", wiring, &[("quay.gltf", PLACES), ("wired.stoi", wired)]);
    insta::assert_snapshot!(report(&loaded));
    assert!(loaded.has_errors());

    let files =
        [("quay.gltf", PLACES), ("more.stoi", "object gate at (1, 0, 0)\nobject lamp at (1, 0, 0)\n")];
    let wiring = "scene twice\nplaces \"quay.gltf\"\nplaces \"more.stoi\"\nobject gate { zone ball 1 }\n";
    let twice = report(&read("twice.stoi", wiring, &files));
    assert!(twice.contains("there are two places for `gate`"), "{twice}");
    assert!(twice.contains("there is already an object `lamp`"), "{twice}");

    let trees: Vec<_> = (0..30).map(|tree| format!("object tree_{tree} at ({tree}, 0, 0)\n")).collect();
    let many = trees.concat();
    let wiring = "scene park\nplaces \"park.gltf\"\non started { destroy tree_2 }\n";
    let loaded = read("park.stoi", wiring, &[("park.gltf", &many)]);
    assert!(report(&loaded).contains("29 places are not used: `tree_0`, `tree_1`, `tree_3`"));
    assert!(report(&loaded).contains("`tree_8` and 21 more"), "{}", report(&loaded));
    assert_eq!(loaded.counts().0, 30);
}

/// Each scene of a project has its own places, and what is wrong with them is among its findings.
#[test]
fn scenes_of_a_project_take_places_of_their_own() {
    let read = |path: &str| match path {
        "lockside.stoi" => Ok("scene lockside\nplaces \"quay.gltf\"\nobject pad { zone told }\n".to_owned()),
        "tunnel.stoi" => Ok("scene tunnel\nplaces \"quay.gltf\"\nobject pad\n".to_owned()),
        "quay.gltf" => Ok("object pad at (1, 0, 0)\nobject gate at (2, 0, 0)\n".to_owned()),
        _ => Err("there is no such file".to_owned()),
    };
    let head = "project canal\nscene \"lockside.stoi\"\nscene \"tunnel.stoi\"\n\
        playtest \"at the gate\" { player ada at tunnel.gate; wait 1s; expect ada inside lockside.pad }\n";
    let project = std::sync::Arc::new(Project::load("canal.stoi", head, &Catalogue::built_in(), &read));
    assert!(!project.has_errors(), "{:?}", project.head().diagnostics());
    let mut world = World::<()>::with(project.config());
    project.build(&mut world).unwrap();
    world.load_scene(world.find_scene("tunnel").unwrap()).unwrap();
    for pad in ["lockside.pad", "tunnel.pad"] {
        assert_eq!(world.pose_at(world.find(pad).unwrap(), 1.0).unwrap().at, Vec3::X);
    }
    // The playtest names the gate of one of them; words are looked for, and not what they mean.
    assert!(project.scenes().iter().all(|scene| scene.diagnostics().is_empty()));
    let other = head.replace("tunnel.gate", "tunnel.pad");
    let project = Project::load("canal.stoi", &other, &Catalogue::built_in(), &read);
    for scene in project.scenes() {
        assert!(report(scene).contains("one place is not used: `gate`"), "{}", report(scene));
    }
}
