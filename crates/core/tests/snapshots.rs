//! Snapshots as a game uses them: in any order, with players who leave, with closures that go, with what is gone.

use stoicheon_core::{
    Config, Door, Group, Prompt, SaveError, Snapshot, Step, Steps, TraceLevel, Vec3, World, Zone, secs, ticks,
};

fn run(world: &mut World<u32>, ticks: u32) {
    (0..ticks).for_each(|_| world.step(&mut 0).unwrap());
}

#[test]
fn snapshots_are_taken_up_in_any_order() {
    let mut world = World::<u32>::new();
    let level = world.var("level", 0.0).unwrap();
    let mut taken = Vec::new();
    for number in 0..5_u8 {
        world.set(level, f64::from(number)).unwrap();
        run(&mut world, 1);
        taken.push((world.snapshot().unwrap(), world.trace().digest()));
    }
    for number in [4, 0, 3, 3, 1, 2, 4] {
        let (snapshot, digest) = &taken[number];
        world.restore(snapshot).unwrap();
        assert_eq!(world.now().0, number as u64 + 1);
        assert_eq!(world.trace().digest(), *digest);
        assert_eq!(world.value(level).unwrap().as_number(), Some(f64::from(u8::try_from(number).unwrap())));
        run(&mut world, 3);
    }
}

#[test]
fn what_was_made_and_destroyed_since_is_gone_and_there_again() {
    let mut world = World::<u32>::new();
    let kept = world.object("upper_gate").add().unwrap();
    let door = world.attach(kept, Door::swing(85.0)).unwrap();
    run(&mut world, 1);
    let before = world.snapshot().unwrap();
    world.destroy(kept).unwrap();
    for number in 0..40 {
        world.object(&format!("post_{number}")).tag("post").add().unwrap();
    }
    run(&mut world, 2);
    assert!(world.find("upper_gate").is_none() && world.find("post_39").is_some());
    world.restore(&before).unwrap();
    assert_eq!(world.find("upper_gate"), Some(kept));
    assert!(world.find("post_39").is_none());
    assert_eq!(world.objects().count(), 1);
    world.command(door.part, Door::TO_OPEN).unwrap();
    run(&mut world, 1);
    assert_eq!(world.state_word(door.part), Some("opening"));
}

#[test]
fn of_two_players_the_one_who_left_is_back_and_is_offered_what_they_were() {
    let mut world = World::<u32>::new();
    let post = world.object("gauge_post").add().unwrap();
    let prompt = world.attach(post, Prompt::new("Wind").reach(2.0)).unwrap();
    let [ada, bob] = [("ada", 1.0), ("bob", 9.0)]
        .map(|(name, x)| world.player(name).at(Vec3::new(x, 0.0, 0.0)).add().unwrap());
    run(&mut world, 2);
    assert_eq!((world.offered_to(ada), world.offered_to(bob)), (Some(prompt.part), None));
    let before = world.snapshot().unwrap();
    world.leave(ada).unwrap();
    world.put(post, Vec3::new(9.0, 0.0, 0.0)).unwrap();
    run(&mut world, 20);
    assert_eq!((world.offered_to(ada), world.offered_to(bob)), (None, Some(prompt.part)));
    world.restore(&before).unwrap();
    assert_eq!((world.offered_to(ada), world.offered_to(bob)), (Some(prompt.part), None));
    run(&mut world, 1);
    assert_eq!((world.offered_to(ada), world.offered_to(bob)), (Some(prompt.part), None));
}

#[test]
fn a_closure_that_was_let_go_is_missed_and_one_within_the_rollback_is_not() {
    for (rollback, goes) in [(0, false), (60, true)] {
        let mut world = World::<u32>::with(Config { rollback: ticks(rollback), ..Config::default() });
        let bell = world.declare_signal::<()>("bell").unwrap();
        let wire = world.on(bell).run(|count: &mut u32, (), _| *count += 1).unwrap();
        run(&mut world, 1);
        let before = world.snapshot().unwrap();
        world.cut(wire).unwrap();
        run(&mut world, 3);
        let digest = world.trace().digest();
        let back = world.restore(&before);
        assert_eq!(back.is_ok(), goes, "{back:?}");
        let mut count = 0;
        world.emit(bell, ()).unwrap();
        world.step(&mut count).unwrap();
        assert_eq!(count, u32::from(goes));
        if !goes {
            assert!(matches!(back, Err(SaveError::Mismatch { .. })));
            assert_ne!(world.trace().digest(), digest, "it went on from where it was");
            assert_eq!(world.now().0, 5);
        }
    }
}

#[test]
fn a_world_built_alike_takes_it_up_and_one_built_otherwise_says_what_it_lacks() {
    let build = |wires: usize| {
        let mut world = World::<u32>::new();
        let pad = world.object("towpath_pad").add().unwrap();
        let pad = world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap();
        for _ in 0..wires {
            world.on(pad.entered).run(|count: &mut u32, _, _| *count += 1).unwrap();
        }
        world
    };
    let mut world = build(2);
    run(&mut world, 3);
    let snapshot = world.snapshot().unwrap();
    let mut alike = build(2);
    alike.restore(&snapshot).unwrap();
    alike.player("ada").add().unwrap();
    let mut count = 0;
    (0..2).for_each(|_| alike.step(&mut count).unwrap());
    assert_eq!((count, alike.now().0), (2, 5));
    let mut other = build(1);
    run(&mut other, 1);
    let error = other.restore(&snapshot).unwrap_err().to_string();
    assert!(error.contains("the closure of the wire made at"), "{error}");
    assert_eq!(other.now().0, 1);
}

#[test]
fn an_empty_world_and_data_that_was_cut_off() {
    let mut world = World::<u32>::new();
    let text = serde_json::to_string(&world.snapshot().unwrap()).unwrap();
    world.restore(&serde_json::from_str(&text).unwrap()).unwrap();
    run(&mut world, 1);
    for len in (0..text.len()).step_by(97) {
        assert!(serde_json::from_str::<Snapshot>(&text[..len]).is_err(), "cut off at {len}");
    }
}

#[test]
fn a_group_a_wait_and_a_count_go_on_from_where_they_were() {
    let mut world = World::<u32>::with(Config { trace: TraceLevel::Off, ..Config::default() });
    let mut posts = Vec::new();
    for number in 0..20_u8 {
        let at = Vec3::new(f32::from(number) * 4.0, 0.0, 0.0);
        let post = world.object(&format!("post_{number}")).at(at).tag("post").add().unwrap();
        posts.push(world.attach(post, Zone::boxed(Vec3::splat(2.0))).unwrap());
    }
    let total = world.var("total", 0_i64).unwrap();
    let up = Step::Set {
        target: stoicheon_core::Target::Var(total),
        to: stoicheon_core::Expr::var(total).plus(1_i64),
    };
    let steps = Steps::new().wait(secs(0.2)).step(up);
    world.on_every(Group::tagged("post"), Zone::ON_ENTERED).run_steps(steps).unwrap();
    let ada = world.player("ada").at(Vec3::new(-4.0, 0.0, 0.0)).add().unwrap();
    run(&mut world, 1);
    world.walk(ada, Vec3::new(80.0, 0.0, 0.0), 20.0).unwrap();
    run(&mut world, 40);
    let before = world.snapshot().unwrap();
    let mut seen = Vec::new();
    for _ in 0..3 {
        let (waits, heard) = (world.waiting(), world.delivered(posts[3].entered));
        run(&mut world, 200);
        seen.push((waits, heard, world.value(total).unwrap().clone(), world.delivered(posts[19].entered)));
        world.restore(&before).unwrap();
    }
    assert!(seen[0].0 > 0 && seen[0].1 == 1 && seen[0].3 == 1, "{seen:?}");
    assert_eq!(seen[0].2, 20_i64.into());
    assert!(seen.iter().all(|one| *one == seen[0]), "{seen:?}");
}

/// Five gates whose doors take longer and longer, all told to open; gate 1 ends in the third tick, gate 4 turns back.
fn five_doors(world: &mut World<u32>) -> Vec<(stoicheon_core::ObjectId, stoicheon_core::PartId)> {
    let gates = (0..5_u8).map(|number| {
        let gate = world.object(&format!("gate_{number}")).add().unwrap();
        let door = Door::slide(Vec3::X).over(secs(0.05 + 0.1 * f64::from(number)));
        (gate, world.attach(gate, door).unwrap().part)
    });
    gates.collect()
}

fn third_tick(world: &mut World<u32>, gates: &[(stoicheon_core::ObjectId, stoicheon_core::PartId)]) {
    world.destroy(gates[1].0).unwrap();
    world.command(gates[4].1, Door::TO_CLOSE).unwrap();
}

#[test]
fn doors_on_their_way_are_where_they_were_and_go_on_whatever_became_of_the_others() {
    let play = |world: &mut World<u32>, gates: &[_], from: u64| {
        let mut digests = Vec::new();
        for tick in from..40 {
            if tick == 3 {
                third_tick(world, gates);
            }
            run(world, 1);
            digests.push(world.trace().digest());
        }
        digests
    };
    let mut world = World::<u32>::new();
    let gates = five_doors(&mut world);
    run(&mut world, 1);
    gates.iter().for_each(|(_, door)| world.command(*door, Door::TO_OPEN).unwrap());
    let mut taken = vec![world.snapshot().unwrap()];
    for tick in 0..40 {
        if tick == 3 {
            third_tick(&mut world, &gates);
        }
        run(&mut world, 1);
        taken.push(world.snapshot().unwrap());
    }
    world.restore(&taken[0]).unwrap();
    let straight = play(&mut world, &gates, 0);
    for from in [39_u64, 2, 20, 4, 0, 5, 3, 1, 38] {
        let data = serde_json::to_string(&taken[usize::try_from(from).unwrap()]).unwrap();
        world.restore(&taken[usize::try_from(from).unwrap()]).unwrap();
        assert_eq!(play(&mut world, &gates, from), straight[usize::try_from(from).unwrap()..], "from {from}");
        // And in a world that never saw them move.
        let mut other = World::<u32>::new();
        let others = five_doors(&mut other);
        run(&mut other, 1);
        other.restore(&serde_json::from_str::<Snapshot>(&data).unwrap()).unwrap();
        assert_eq!(
            play(&mut other, &others, from),
            straight[usize::try_from(from).unwrap()..],
            "data of {from}"
        );
    }
}
