//! The ground as data: everything once, and then what has changed.

use stoicheon_core::{
    Door, Expr, Prompt, Rotation, Step, Steps, Value, Vec3, WhenEmpty, World, Zone, secs, space::Shape,
};
use stoicheon_view::{Ground, GroundChange, GroundThing};

fn things(changes: &[GroundChange]) -> Vec<&GroundThing> {
    let all = changes.iter().filter_map(|change| match change {
        GroundChange::Thing(thing) => Some(thing),
        _ => None,
    });
    all.collect()
}

#[test]
fn what_moves_is_told_in_a_few_numbers_and_what_looks_otherwise_whole() {
    let mut world = World::<()>::new();
    let boat = world.object("boat").at(Vec3::new(1.0, 0.0, 0.0)).body().add().unwrap();
    let gate = world.object("gate").at(Vec3::new(4.0, 0.0, 0.0)).add().unwrap();
    let door = world.attach(gate, Door::swing(90.0).over(secs(1.0))).unwrap();
    let pad = world.object("pad").at(Vec3::new(9.0, 0.0, 0.0)).add().unwrap();
    world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap();
    let post = world.object("post").at(Vec3::new(0.0, 0.0, 5.0)).add().unwrap();
    world.attach(post, Prompt::new("Wind")).unwrap();
    let mut ground = Ground::default();
    let first = ground.look_at_all(&world);
    let names: Vec<_> = things(&first).iter().map(|thing| (thing.number, thing.name.as_str())).collect();
    assert_eq!(names, [(0, "boat"), (1, "gate"), (2, "pad"), (3, "post")]);
    assert!(ground.look_at_all(&world).is_empty());

    world.put(boat, Vec3::new(2.0, 0.0, 3.0)).unwrap();
    world.open(door).unwrap();
    world.step(&mut ()).unwrap();
    let changes = ground.look_at(&world, [boat, gate, pad]);
    assert!(matches!(changes[0], GroundChange::At { number: 0, at: [2.0, 3.0] }), "{changes:?}");
    assert_eq!(things(&changes).iter().map(|thing| thing.name.as_str()).collect::<Vec<_>>(), ["gate"]);

    // Into the pad: it is another look, with one inside.
    world.put(boat, Vec3::new(9.0, 0.0, 0.0)).unwrap();
    world.step(&mut ()).unwrap();
    let changes = ground.look_at(&world, [boat, pad]);
    let seen = things(&changes);
    assert_eq!((seen[0].name.as_str(), seen[0].inside, seen[0].marks[0].style), ("pad", 1, "occupied"));

    // What is off is faint, and what is gone is gone; its number comes back to nobody.
    world.disable(pad).unwrap();
    world.destroy(post).unwrap();
    world.step(&mut ()).unwrap();
    let changes = ground.look_at(&world, [pad, post]);
    assert!(things(&changes)[0].faint, "{changes:?}");
    assert!(changes.contains(&GroundChange::Gone { number: 3 }), "{changes:?}");
    let bell = world.object("bell").add().unwrap();
    let changes = ground.look_at(&world, [bell]);
    assert_eq!(things(&changes)[0].number, 4);
    assert_eq!(ground.things().count(), 4);
    assert!(ground.thing_of(post).is_none());
}

#[test]
fn scenes_come_and_go_and_each_is_seen_as_it_lies() {
    let mut world = World::<()>::new();
    let above = world.offer_scene("above", WhenEmpty::Running, |world| {
        world.spot_at("above.steps", None, Vec3::new(1.0, 0.0, 2.0), Rotation::NONE)?;
        let pad = world.object("above.pad").at(Vec3::new(3.0, 5.0, 4.0)).add()?;
        world.attach(pad, Zone::boxed(Vec3::splat(2.0)))?;
        Ok(())
    });
    let side = world.offer_scene("side", WhenEmpty::Running, |world| {
        let plank = world.object("side.plank").at(Vec3::new(3.0, 4.0, 0.0)).add()?;
        let plank = world.attach(plank, Zone::of(Shape::flat_box(2.0, 1.0)))?;
        let ledge = world.spot_at("side.ledge", None, Vec3::new(0.0, 2.0, 0.0), Rotation::NONE)?;
        let send = Step::Send { who: Expr::Who, spot: Value::Spot(ledge).into() };
        world.on(plank.entered).run_steps(Steps::new().step(send))?;
        Ok(())
    });
    world.load_scene(above).unwrap();
    world.load_scene(side).unwrap();
    let mut ground = Ground::default();
    ground.look_at_all(&world);
    let scenes: Vec<_> = ground.scenes().iter().map(|scene| (scene.name.as_deref(), scene.flat)).collect();
    assert_eq!(scenes, [(None, false), (Some("above"), false), (Some("side"), true)]);
    let at = |name: &str| ground.things().find(|thing| thing.of == name).map(|thing| thing.at);
    assert_eq!((at("above.pad"), at("side.plank")), (Some([3.0, 4.0]), Some([3.0, -4.0])));
    let sends = ground.things().find(|thing| thing.of.is_empty()).unwrap();
    assert_eq!(sends.marks[0].points, [3.0, -4.0, 0.0, -2.0]);
    let pad = ground.things().find(|thing| thing.name == "pad").unwrap();
    assert_eq!(pad.marks[0].area_around([0.5, 0.5]), Some(4.0));
    assert_eq!(pad.marks[0].area_around([1.5, 0.5]), None);

    world.unload(above).unwrap();
    world.step(&mut ()).unwrap();
    let changes = ground.look_at_all(&world);
    assert_eq!(changes.iter().filter(|change| matches!(change, GroundChange::Gone { .. })).count(), 2);
}
