//! A host with a loop of its own: frames without ticks, ticks without frames, bodies it moves itself, views between ticks.

use stoicheon_core::{Door, MoveKind, Pose, Rotation, Vec3, World, Zone, ZoneHandle, secs};

const HERE: Vec3 = Vec3::ZERO;

fn at(x: f32) -> Vec3 {
    Vec3::new(x, 0.0, 0.0)
}

/// A world of 30 ticks per second with a pad at 5, and Ada at 0; what is entered and left is noted.
fn towpath() -> (World<Vec<String>>, stoicheon_core::ObjectId, ZoneHandle) {
    let mut world = World::new();
    let pad = world.object("towpath_pad").at(at(5.0)).add().unwrap();
    let pad = world.attach(pad, Zone::boxed(Vec3::splat(1.0))).unwrap();
    let ada = world.player("ada").add().unwrap();
    for (signal, word) in [(pad.entered, "entered"), (pad.left, "left")] {
        world
            .on(signal)
            .run(move |notes: &mut Vec<String>, touched, cx| {
                notes.push(format!("{word} {:?} in {}", touched.reason, cx.now().0));
            })
            .unwrap();
    }
    // Everybody is there: from here on they pass what lies between.
    world.step(&mut Vec::new()).unwrap();
    (world, ada, pad)
}

#[test]
fn of_several_frames_without_a_tick_the_last_place_counts() {
    let (mut world, ada, _) = towpath();
    let mut notes = Vec::new();
    for x in [1.0, 2.0, 3.0] {
        world.move_to(ada, at(x)).unwrap();
        assert_eq!(world.advance(secs(0.01), &mut notes).unwrap().ticks, 0);
        assert_eq!(world.place(ada).unwrap(), HERE);
    }
    world.move_to(ada, at(9.0)).unwrap();
    assert_eq!(world.advance(secs(0.02), &mut notes).unwrap().ticks, 1);
    assert_eq!(world.place(ada).unwrap(), at(9.0));
    // What is no place changes nothing of what was handed in before.
    world.move_to(ada, at(9.5)).unwrap();
    assert!(world.move_to(ada, at(f32::NAN)).is_err() && world.put(ada, at(f32::INFINITY)).is_err());
    world.step(&mut Vec::new()).unwrap();
    assert_eq!(world.place(ada).unwrap(), at(9.5));
    // It passed the pad on the way.
    assert_eq!(notes, ["entered Walked in 2", "left Walked in 2"]);
}

#[test]
fn a_place_that_was_put_stays_one_and_the_last_one_counts_in_any_order() {
    for (puts, walked) in
        [([true, false], false), ([false, true], false), ([true, true], false), ([false, false], true)]
    {
        let (mut world, ada, _) = towpath();
        let mut notes = Vec::new();
        for (put, x) in puts.into_iter().zip([3.0, 9.0]) {
            if put { world.put(ada, at(x)) } else { world.move_to(ada, at(x)) }.unwrap();
        }
        world.step(&mut notes).unwrap();
        assert_eq!(
            (world.place(ada).unwrap(), notes.len()),
            (at(9.0), if walked { 2 } else { 0 }),
            "{puts:?}"
        );
        assert_eq!(world.moves().next().unwrap().kind.is_continuous(), walked);
    }
}

#[test]
fn the_way_of_a_frame_is_spread_over_its_ticks() {
    let (mut world, ada, _) = towpath();
    let ben = world.player("ben").at(at(-1.0)).add().unwrap();
    let mut notes = Vec::new();
    world.move_to(ada, at(8.0)).unwrap();
    world.move_to(ben, at(-4.0)).unwrap();
    let frame = world.advance(secs(4.1 / 30.0), &mut notes).unwrap();
    assert_eq!(frame.ticks, 4);
    // At 2, 4, 6, 8: it is past the far border, 5.5, in the third tick.
    assert_eq!(notes, ["entered Walked in 4", "left Walked in 4"]);
    assert_eq!((world.place(ada).unwrap(), world.place(ben).unwrap()), (at(8.0), at(-4.0)));
    let moved: Vec<_> = world.moves().map(|moved| (moved.object, moved.from.at, moved.to.at)).collect();
    assert_eq!(moved, [(ada, HERE, at(8.0)), (ben, at(-1.0), at(-4.0))]);
    // Nothing of it is left for the next tick.
    world.step(&mut notes).unwrap();
    assert_eq!((world.place(ada).unwrap(), world.moves().count()), (at(8.0), 0));
}

#[test]
fn a_way_across_all_there_is_has_a_middle() {
    let (mut world, ada, _) = towpath();
    world.put(ada, at(-3e38)).unwrap();
    world.step(&mut Vec::new()).unwrap();
    world.move_to(ada, at(3e38)).unwrap();
    world.advance(secs(2.1 / 30.0), &mut Vec::new()).unwrap();
    assert_eq!((world.place(ada).unwrap(), world.take_faults().count()), (at(3e38), 0));
}

#[test]
fn who_is_sent_elsewhere_in_the_middle_of_a_frame_stays_there_and_the_host_is_told() {
    let (mut world, ada, pad) = towpath();
    let spot = world.spot_at("weir_steps", None, at(50.0), Rotation::NONE).unwrap();
    world.on(pad.entered).run(move |_: &mut Vec<String>, _, cx| cx.send(ada, spot)).unwrap();
    let ben = world.player("ben").at(at(-1.0)).add().unwrap();
    let mut notes = Vec::new();
    world.move_to(ada, at(10.0)).unwrap();
    world.move_to(ben, at(-11.0)).unwrap();
    world.advance(secs(5.1 / 30.0), &mut notes).unwrap();
    assert_eq!(world.place(ada).unwrap(), at(50.0));
    assert_eq!(world.place(ben).unwrap(), at(-11.0));
    let kinds: Vec<_> = world.moves().map(|moved| (moved.object, moved.kind)).collect();
    assert_eq!(kinds, [(ada, MoveKind::Sent), (ben, MoveKind::Walked)]);
    // The host, told so, goes on from there; the next frame is as any.
    world.move_to(ada, at(53.0)).unwrap();
    world.advance(secs(3.1 / 30.0), &mut notes).unwrap();
    assert_eq!(world.place(ada).unwrap(), at(53.0));
}

#[test]
fn the_host_is_asked_before_each_tick() {
    let (mut world, ada, _) = towpath();
    let (mut notes, mut asked) = (Vec::new(), Vec::new());
    let frame = world.advance_with(secs(3.1 / 30.0), &mut notes, |world, _| {
        asked.push(world.now().0);
        world.move_to(ada, world.place(ada).unwrap() + at(2.0)).unwrap();
    });
    assert_eq!((frame.unwrap().ticks, asked), (3, vec![1, 2, 3]));
    assert_eq!(world.place(ada).unwrap(), at(6.0));
    assert_eq!(notes, ["entered Walked in 4", "left Walked in 4"]);
}

#[test]
fn somebody_who_is_destroyed_leaves_or_hangs_on_something_in_the_middle_of_a_frame() {
    let (mut world, ada, pad) = towpath();
    world.on(pad.entered).run(move |_: &mut Vec<String>, _, cx| cx.destroy(ada)).unwrap();
    let ben = world.player("ben").add().unwrap();
    let mut notes = Vec::new();
    world.move_to(ada, at(10.0)).unwrap();
    world.move_to(ben, at(2.0)).unwrap();
    world.leave(ben).unwrap();
    world.advance(secs(5.1 / 30.0), &mut notes).unwrap();
    assert!(world.place(ada).is_err() && world.place(ben).is_err());
    assert_eq!(world.pose_at(ada, 0.5), Err(stoicheon_core::Error::NoSuchObject));
    // What was left of their ways is nobody's fault.
    assert_eq!(world.take_faults().count(), 0);
}

#[test]
fn a_frame_in_the_middle_of_its_ticks_is_in_no_snapshot() {
    let (mut world, ada, _) = towpath();
    let mut notes = Vec::new();
    world.move_to(ada, at(3.0)).unwrap();
    let before = world.snapshot().unwrap();
    world.move_to(ada, at(9.0)).unwrap();
    world.step(&mut notes).unwrap();
    world.restore(&before).unwrap();
    assert_eq!(world.moves().count(), 0);
    // What was handed in by then is in it, and can be replaced again.
    world.move_to(ada, at(4.0)).unwrap();
    world.step(&mut notes).unwrap();
    assert_eq!(world.place(ada).unwrap(), at(4.0));
}

#[test]
fn poses_between_ticks_glide_but_for_what_was_put_or_sent() {
    let (mut world, ada, _) = towpath();
    let barge = world.object("barge").at(at(-10.0)).add().unwrap();
    let crate_ = world.object("crate").at(at(-10.0)).add().unwrap();
    let post = world.object("post").at(at(40.0)).add().unwrap();
    world.hang(crate_, Some(barge)).unwrap();
    let mut notes = Vec::new();
    world.step(&mut notes).unwrap();
    world.move_to(ada, at(2.0)).unwrap();
    world.face(barge, Rotation::about(Vec3::Y, 90.0)).unwrap();
    world.put(post, at(44.0)).unwrap();
    world.step(&mut notes).unwrap();
    let turned = |degrees| Pose { at: at(-10.0), facing: Rotation::about(Vec3::Y, degrees) };
    let halfway = |world: &World<_>, object| world.pose_at(object, 0.5).unwrap();
    assert_eq!(halfway(&world, ada).at, at(1.0));
    assert!(halfway(&world, barge).facing.quat().abs_diff_eq(turned(45.0).facing.quat(), 1e-6));
    assert!(halfway(&world, crate_).facing.quat().abs_diff_eq(turned(45.0).facing.quat(), 1e-6));
    assert_eq!(halfway(&world, post).at, at(44.0));
    assert_eq!(world.pose_at(ada, 0.0).unwrap().at, HERE);
    assert_eq!(world.pose_at(ada, 7.0).unwrap().at, at(2.0));
    assert_eq!(world.pose_at(ada, f64::NAN).unwrap().at, HERE);
    let kinds: Vec<_> = world.moves().map(|moved| moved.kind).collect();
    assert_eq!(kinds, [MoveKind::Walked, MoveKind::Walked, MoveKind::Carried, MoveKind::Placed]);
    // In a tick in which nothing moves, everything is where it is.
    world.step(&mut notes).unwrap();
    assert_eq!(world.pose_at(ada, 0.5).unwrap().at, at(2.0));
}

#[test]
fn doors_stand_between_ticks_where_they_are_on_their_way() {
    let mut world = World::<()>::new();
    let gate = world.object("upper_gate").add().unwrap();
    let door = world.attach(gate, Door::slide(Vec3::X).over(secs(0.1))).unwrap();
    let pad = world.attach(gate, Zone::boxed(Vec3::splat(1.0))).unwrap();
    world.step(&mut ()).unwrap();
    assert_eq!(world.openness_at(door.part, 0.5), Some(0.0));
    assert_eq!(world.openness_at(pad.part, 0.5), None);
    world.command(door.part, Door::TO_OPEN).unwrap();
    let mut seen = Vec::new();
    for _ in 0..5 {
        world.step(&mut ()).unwrap();
        seen.push(world.openness_at(door.part, 0.5).map(|open| (open * 6.0).round() / 6.0));
    }
    assert_eq!(seen, [1.0, 3.0, 5.0, 6.0, 6.0].map(|sixths| Some(sixths / 6.0)));
}

#[test]
fn a_world_goes_to_another_thread_and_comes_back() {
    let play = |threads: bool| {
        let (mut world, ada, _) = towpath();
        let mut notes = Vec::new();
        for x in [2.0, 5.0, 9.0] {
            world.move_to(ada, at(x)).unwrap();
            if threads {
                (world, notes) = std::thread::spawn(move || {
                    world.step(&mut notes).unwrap();
                    (world, notes)
                })
                .join()
                .unwrap();
            } else {
                world.step(&mut notes).unwrap();
            }
        }
        (world.trace().digest(), notes)
    };
    assert_eq!(play(true), play(false));
    assert_eq!(play(true).1.len(), 2);
}
