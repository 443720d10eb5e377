//! Maps.

use stoicheon_core::{Door, Prompt, Push, Solid, Vec3, World, Zone, secs, space::Shape};
use stoicheon_view::Map;

use crate::pictures::{covered, find, has, texts, titles};

fn lock() -> World<()> {
    let mut world = World::<()>::new();
    let gate = world.object("upper_gate").at(Vec3::new(0.0, 0.0, 12.0)).add().unwrap();
    world.attach(gate, Door::swing(90.0).hinge(Vec3::new(-2.0, 0.0, 0.0)).over(secs(1.0))).unwrap();
    let pad = world.object("towpath_pad").at(Vec3::new(6.0, 0.0, 10.0)).add().unwrap();
    world.attach(pad, Zone::boxed(Vec3::new(2.0, 1.0, 2.0))).unwrap();
    let post = world.object("gauge_post").at(Vec3::new(3.0, 0.0, 2.0)).add().unwrap();
    world.attach(post, Prompt::new("Wind").reach(2.0)).unwrap();
    let race = world.object("race").at(Vec3::new(-6.0, 0.0, 6.0)).add().unwrap();
    world.attach(race, Zone::of(Shape::cylinder(1.5, 3.0))).unwrap();
    world.attach(race, Push::along(Vec3::NEG_Z).by(2.0)).unwrap();
    let wall = world.object("wall").at(Vec3::new(-3.0, 0.0, 2.0)).add().unwrap();
    world.attach(wall, Solid::of(Shape::boxed(Vec3::new(1.0, 2.0, 4.0)))).unwrap();
    world.player("ada").at(Vec3::new(6.0, 0.0, 10.0)).add().unwrap();
    world
}

#[test]
fn everything_that_stands_in_a_scene_is_on_its_map() {
    let mut world = lock();
    world.step(&mut ()).unwrap();
    let svg = Map::new("Harrow Lock").draw(&world);
    for name in ["upper_gate", "towpath_pad · 1", "gauge_post", "race", "wall", "ada", "Harrow Lock"] {
        assert!(has(&svg, name), "{name}: {:?}", texts(&svg));
    }
    let about = titles(&svg);
    for words in [
        "upper_gate: a door, 0% open",
        "towpath_pad: a zone, 1 inside",
        "race pushes that way",
        "wall: solid",
    ] {
        assert!(about.iter().any(|title| title == words), "{words}: {about:?}");
    }
    assert!(about.iter().any(|title| title.contains("\"Wind\", key use, reach 2")), "{about:?}");
    // North is up, and east is right.
    let ((gate_x, gate_y), (post_x, post_y)) = (find(&svg, "upper_gate"), find(&svg, "gauge_post"));
    assert!(gate_y > post_y && post_x > gate_x);
    assert_eq!(covered(&svg, 13.0), []);
    // The legend says what is there, and no more.
    assert!(has(&svg, "push") && has(&svg, "occupied zone") && !has(&svg, "cell"));
    assert!(!has(&Map::new("Harrow Lock").without_labels().draw(&world), "gauge_post"));
}

#[test]
fn a_door_is_drawn_as_far_open_as_it_is() {
    let mut world = lock();
    let gate = world.find("upper_gate").unwrap();
    let door = world.find_part::<Door>(gate).unwrap();
    let shut = Map::new("").draw(&world);
    world.command(door, Door::TO_OPEN).unwrap();
    (0..40).for_each(|_| world.step(&mut ()).unwrap());
    let open = Map::new("").draw(&world);
    assert!(titles(&open).contains(&"upper_gate: a door, 100% open".to_owned()));
    assert_ne!(shut, open);
}

#[test]
fn many_that_are_alike_have_one_name_and_names_thin_out_where_there_is_no_room() {
    let mut world = World::<()>::new();
    for number in 0..16_u8 {
        let at = Vec3::new(f32::from(number % 4), 0.0, f32::from(number / 4));
        world.object(&format!("vane_{number}")).tag("vane").at(at).add().unwrap();
    }
    let svg = Map::new("Vanes").draw(&world);
    assert!(has(&svg, "vane × 16") && !has(&svg, "vane_3"), "{:?}", texts(&svg));
    let mut world = World::<()>::new();
    for number in 0..60_u8 {
        // Each is alone of its kind, on a spot of its own no larger than a letter.
        let tag = format!("kind_{number}");
        let at = Vec3::new(f32::from(number % 8) * 0.01, 0.0, f32::from(number / 8) * 0.01);
        world.object(&format!("a_long_name_of_a_post_{number}")).tag(&tag).at(at).add().unwrap();
    }
    let svg = Map::new("Posts").draw(&world);
    assert_eq!(covered(&svg, 13.0), []);
    assert!(texts(&svg).iter().any(|(words, ..)| words.ends_with("names left out for lack of room")));
}

#[test]
fn flat_scenes_are_seen_from_the_side_and_scenes_stand_side_by_side() {
    let mut world = World::<()>::new();
    let ledge = world.object("ledge").at(Vec3::new(0.0, 6.0, 0.0)).add().unwrap();
    world.attach(ledge, Zone::of(Shape::flat_box(4.0, 1.0))).unwrap();
    world.object("floor_mark").at(Vec3::new(0.0, 0.0, 0.0)).add().unwrap();
    let svg = Map::new("Ledges").draw(&world);
    assert!(find(&svg, "ledge").1 < find(&svg, "floor_mark").1, "what is higher is higher up");
    assert!(texts(&svg).iter().any(|(words, ..)| words.ends_with("up is y")));
    assert!(
        texts(&Map::new("Ledges").above().draw(&world)).iter().any(|(words, ..)| words.ends_with("(-z)"))
    );

    let mut world = World::<()>::new();
    for scene in ["lockside", "tunnel"] {
        world.begin_scene(scene);
        world.object(&format!("{scene}_mark")).at(Vec3::new(1.0, 0.0, 1.0)).add().unwrap();
        world.end_scene();
    }
    let svg = Map::new("Canal").draw(&world);
    assert!(find(&svg, "tunnel_mark").0 > find(&svg, "lockside_mark").0 + 300.0);
    assert!(has(&svg, "lockside") && has(&svg, "tunnel"));
}

#[test]
fn the_way_that_was_walked_is_drawn_and_a_world_with_nothing_in_it_too() {
    let mut world = lock();
    let ada = world.find("ada").unwrap();
    let mut map = Map::new("A walk");
    world.walk(ada, Vec3::new(0.0, 0.0, 2.0), 4.0).unwrap();
    for _ in 0..60 {
        world.step(&mut ()).unwrap();
        map.note(&world, [ada]);
    }
    let svg = map.draw(&world);
    assert!(titles(&svg).contains(&"the way of ada".to_owned()) && has(&svg, "way walked"));
    assert!(has(&Map::new("Nothing yet").draw(&World::<()>::new()), "Nothing yet"));
}
