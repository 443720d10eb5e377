//! What wires, groups, mailboxes, managers, scenes and causes promise.

use super::support::{PAD, told, told_since, towpath};
use insta::assert_debug_snapshot;
use stoicheon_core::{
    BuildError, Busy, Config, Door, Error, Event, Expr, Group, Refusal, RefusalCounts, Steps, Tick,
    TraceLevel, Vec3, World, Zone, payload, secs,
};

payload! {
    /// The bell was rung.
    #[derive(Clone, Debug, PartialEq)]
    pub struct Rung {
        /// How many strokes.
        pub strokes: u32,
    }
}

/// A note-taking reaction.
macro_rules! note {
    ($text:expr) => {
        |notes: &mut Vec<String>, _, _| notes.push($text.to_owned())
    };
}

fn bell() -> (World<Vec<String>>, stoicheon_core::Signal<()>) {
    let mut world = World::new();
    let bell = world.declare_signal::<()>("bell").unwrap();
    (world, bell)
}

/// Rings in the ticks given, and says in which ticks the wire was taken.
fn ring(
    world: &mut World<Vec<String>>,
    bell: stoicheon_core::Signal<()>,
    ticks: u64,
    rings: &[u64],
) -> Vec<u64> {
    let mut notes = Vec::new();
    for tick in 1..=ticks {
        if rings.contains(&tick) {
            world.emit(bell, ()).unwrap();
        }
        world.step(&mut notes).unwrap();
    }
    let took = world.trace().records().filter(|(_, record)| matches!(record.event, Event::Took { .. }));
    took.map(|(_, record)| record.tick.0).collect()
}

#[test]
fn a_group_hears_those_who_are_in_it_those_who_join_and_not_those_who_leave() {
    let mut scene = towpath();
    let (world, gate) = (&mut scene.world, scene.gate);
    world.on_every(Group::tagged("gate"), Door::ON_OPENING).run(note!("a gate opens")).unwrap();
    let late = world.object("lower_gate").add().unwrap();
    let late_door = world.attach(late, Door::swing(85.0).over(secs(0.1))).unwrap();
    for _ in 0..3 {
        world.command(scene.door.part, Door::TO_TOGGLE).unwrap();
        world.command(late_door.part, Door::TO_TOGGLE).unwrap();
        let mut notes = Vec::new();
        world.step(&mut notes).unwrap();
        match world.now() {
            Tick(1) => {
                assert_eq!(notes, ["a gate opens"], "the other is not in the group yet");
                world.tag(late, "gate").unwrap();
                world.untag(gate, "gate").unwrap();
            }
            Tick(2) => assert!(notes.is_empty(), "both close"),
            _ => assert_eq!(notes, ["a gate opens"], "the first has left the group"),
        }
    }
    // Every door there is, whatever its tags.
    world.on_every(Group::all(), Door::ON_CLOSING).run(note!("some door closes")).unwrap();
    world.command(scene.door.part, Door::TO_CLOSE).unwrap();
    world.command(late_door.part, Door::TO_CLOSE).unwrap();
    let mut notes = Vec::new();
    world.step(&mut notes).unwrap();
    assert_eq!(notes, ["some door closes", "some door closes"]);
}

#[test]
fn an_object_that_leaves_a_group_and_comes_back_at_once_is_heard_once() {
    // Found by the reference model.
    let mut scene = towpath();
    let (world, pad) = (&mut scene.world, scene.pad);
    world.on_every(Group::tagged("pad"), Zone::ON_ENTERED).run(note!("in")).unwrap();
    world.untag(pad, "pad").unwrap();
    world.tag(pad, "pad").unwrap();
    world.put(scene.ada, PAD).unwrap();
    assert_eq!(scene.run(1), ["in"]);
}

#[test]
fn what_was_taken_counts_also_when_the_owner_sleeps_right_after() {
    // Found by the reference model.
    let (mut world, bell) = bell();
    let owner = world.object("keeper").add().unwrap();
    let wire = world.on(bell).owned_by(owner).run(note!("heard")).unwrap();
    ring(&mut world, bell, 2, &[1, 2]);
    world.disable(owner).unwrap();
    world.step(&mut Vec::new()).unwrap();
    assert_eq!(world.wire_counts(wire).unwrap().taken, 2);
}

#[test]
fn a_delayed_reaction_begins_in_the_clocks_phase_with_the_payload_as_it_was() {
    let mut world = World::<Vec<String>>::new();
    let rung = world.declare_signal::<Rung>("rung").unwrap();
    world
        .on(rung)
        .delay(secs(0.1))
        .run(|notes, rung, cx| notes.push(format!("{} at {}", rung.strokes, cx.now().0)))
        .unwrap();
    world.emit(rung, Rung { strokes: 3 }).unwrap();
    let mut notes = Vec::new();
    for _ in 0..6 {
        world.step(&mut notes).unwrap();
    }
    assert_eq!(notes, ["3 at 4"]);
    assert!(told(&world).contains(&"clocks resumes".to_owned()));
}

#[test]
fn each_busy_policy_does_as_it_says() {
    let policies = [Busy::Overlap, Busy::Ignore, Busy::Restart, Busy::Queue];
    let ends = policies.map(|busy| {
        let (mut world, bell) = bell();
        let done = world.var("done", 0.0).unwrap();
        let steps = Steps::new().wait(secs(0.1)).set(done, Expr::var(done).plus(1.0));
        let wire = world.on(bell).while_running(busy).run_steps(steps).unwrap();
        // Rung in ticks 1, 2 and 3; each reaction takes three ticks.
        ring(&mut world, bell, 12, &[1, 2, 3]);
        let sets = world.trace().records().filter(|(_, record)| matches!(record.event, Event::Set { .. }));
        let ends: Vec<_> = sets.map(|(_, record)| record.tick.0).collect();
        (ends, world.wire_counts(wire).unwrap().refused.running)
    });
    let [overlap, ignore, restart, queue] = ends;
    assert_eq!(overlap, (vec![4, 5, 6], 0));
    assert_eq!(ignore, (vec![4], 2));
    assert_eq!(restart, (vec![6], 0));
    assert_eq!(queue, (vec![4, 7, 10], 0));
}

#[test]
fn cooldowns_limits_and_counts() {
    let (mut world, bell) = bell();
    let shared = world.on(bell).cooldown(secs(0.1)).times(3).run(note!("heard")).unwrap();
    assert_eq!(ring(&mut world, bell, 12, &[1, 2, 3, 4, 7, 11]), [1, 4, 7]);
    let counts = world.wire_counts(shared).unwrap();
    assert_eq!((counts.taken, counts.since), (3, Tick(0)));
    assert_eq!(counts.refused, RefusalCounts { cooling: 2, spent: 1, ..RefusalCounts::default() });
    assert_eq!(counts.refused.all(), 3);

    // Kept per player, nobody is held up by another.
    let mut scene = towpath();
    let bob = scene.world.player("bob").add().unwrap();
    let pressed = scene.world.pressed();
    scene.world.on(pressed).cooldown_per_who(secs(1.0)).run(note!("pressed")).unwrap();
    for who in [scene.ada, bob, scene.ada, bob] {
        scene.world.press(who, "use").unwrap();
    }
    assert_eq!(scene.run(1).len(), 2);
}

#[test]
fn a_mailbox_keeps_payloads_in_order_until_they_are_read() {
    let mut scene = towpath();
    let rung = scene.world.declare_signal::<Rung>("rung").unwrap();
    let loud = scene
        .world
        .on(rung)
        .when_fn("at least two strokes", |_, rung: &Rung, _| rung.strokes >= 2)
        .into_mailbox()
        .unwrap();
    for strokes in 1..=3 {
        scene.world.emit_for(Some(scene.ada), rung, Rung { strokes }).unwrap();
    }
    scene.run(1);
    let letters: Vec<_> = scene.world.take_letters(loud).unwrap().collect();
    assert_eq!(letters.iter().map(|letter| letter.payload.strokes).collect::<Vec<_>>(), [2, 3]);
    assert!(letters.iter().all(|letter| letter.who == Some(scene.ada) && letter.tick == Tick(1)));
    assert_eq!(scene.world.take_letters(loud).unwrap().count(), 0);
    scene.world.cut(loud.wire).unwrap();
    assert_eq!(scene.world.take_letters(loud).err(), Some(Error::NoSuchWire));
}

#[test]
fn managers_are_found_by_role_are_told_first_and_outlive_scenes() {
    let mut world = World::<Vec<String>>::new();
    assert_eq!(
        world.manager("riverkeeper").unwrap_err().to_string(),
        "no manager has the role \"riverkeeper\"; the roles are: none"
    );
    let scene = world.begin_scene("harrow_lock");
    let lamp = world.object("lamp").add().unwrap();
    let keeper = world.manager_for("riverkeeper").add().unwrap();
    let taken = world.manager_for("riverkeeper").add().unwrap_err();
    let Error::Build(BuildError::RoleTaken { first, second, .. }) = &taken else { panic!("{taken}") };
    assert!(first.file.ends_with("wires.rs") && second.line == first.line + 1, "{taken}");
    for (object, name) in [(lamp, "lamp"), (keeper, "keeper")] {
        let started = world.started_of(object).unwrap();
        world.on(started).run(note!(name)).unwrap();
    }
    let bell = world.declare_signal::<()>("bell").unwrap();
    world.on(bell).run(note!("a wire of the scene")).unwrap();
    world.on(bell).owned_by(keeper).run(note!("the keeper")).unwrap();
    let mut notes = Vec::new();
    world.step(&mut notes).unwrap();
    assert_eq!(notes, ["keeper", "lamp"], "managers first");

    world.unload(scene).unwrap();
    world.step(&mut notes).unwrap();
    notes.clear();
    world.emit(bell, ()).unwrap();
    world.step(&mut notes).unwrap();
    assert_eq!(notes, ["the keeper"]);
    assert_eq!(world.manager("riverkeeper"), Ok(keeper));
    assert_eq!(world.find("lamp"), None);
    assert_eq!(world.unload(scene), Err(Error::NoSuchScene));
}

#[test]
fn what_is_spawned_in_a_delivery_takes_part_from_the_next_tick_on() {
    let mut scene = towpath();
    let bell = scene.world.declare_signal::<()>("bell").unwrap();
    scene
        .world
        .on(bell)
        .run(|_: &mut Vec<String>, (), cx| {
            let lamp = cx.object("lamp").at(Vec3::ZERO).add()?;
            let zone = cx.attach(lamp, Zone::boxed(Vec3::ONE))?;
            let started = cx.started_of(lamp)?;
            cx.on(started).run(note!("started")).map(drop)?;
            cx.on(zone.entered).run(note!("entered")).map(drop)
        })
        .unwrap();
    scene.world.emit(bell, ()).unwrap();
    assert!(scene.run(1).is_empty(), "not in this tick");
    assert_eq!(scene.run(1), ["started", "entered"], "ada stands where the lamp was put");
    assert_eq!(told_since(&scene.world, 2)[0], "touch ada enters lamp (appeared)");
}

#[test]
fn why_leads_back_to_the_input() {
    let mut scene = towpath();
    scene.world.on(scene.zone.entered).run_steps(Steps::new().open(scene.door)).unwrap();
    scene.world.put(scene.ada, PAD).unwrap();
    scene.run(5);
    let opened = scene.door.opened.id();
    let trace = scene.world.trace();
    let (last, _) = trace
        .records()
        .find(|(_, record)| matches!(record.event, Event::Delivered { signal, .. } if signal == opened))
        .unwrap();
    let chain: Vec<_> = trace
        .why(last)
        .into_iter()
        .map(|id| {
            let record = trace.get(id).unwrap();
            let event = format!("{:?}", record.event);
            format!("{} {}", record.phase.word(), event.split([' ', '{']).next().unwrap())
        })
        .collect();
    assert_debug_snapshot!(chain, @r#"
    [
        "settle Delivered",
        "motion Shifted",
        "settle Shifted",
        "settle Took",
        "settle Delivered",
        "touch Entered",
        "intake Placed",
    ]
    "#);
}

#[test]
fn why_not_gives_the_wires_that_came_nearest_and_what_refused_each() {
    let mut scene = towpath();
    let (world, door) = (&mut scene.world, scene.door);
    let level = world.var("level", 0.4).unwrap();
    let entered = scene.zone.entered;
    let guard = door.is(Door::CLOSED).and(Expr::var(level).more_than(0.95));
    let guarded = world.on(entered).when(guard).run_steps(Steps::new().open(door)).unwrap();
    let filtered = world.on(entered).by("horse").run_steps(Steps::new().open(door)).unwrap();
    let unasked = world.on(door.closed).run_steps(Steps::new().open(door)).unwrap();
    world.put(scene.ada, PAD).unwrap();
    scene.run(3);
    let world = &scene.world;

    // Asked about a signal that never came: the sequences that would have led to it, the nearest first.
    let why_not = world.why_not(door.opened, Tick(0)..=Tick(9));
    assert_eq!(why_not.happened, 0);
    let wires: Vec<_> = why_not.misses.iter().map(|miss| miss.wire).collect();
    assert_eq!(wires, [guarded, filtered, unasked]);
    let Some(Refusal::Guard { condition: 1, readings }) = &why_not.misses[0].why else {
        panic!("{why_not:?}")
    };
    assert_eq!(readings.as_slice(), [0.4.into()], "the value the guard saw");
    assert_eq!(why_not.misses[1].why, Some(Refusal::Who));
    assert_eq!(why_not.misses[2].refused, None, "its signal never came");

    // Asked about a wire, and about a stretch of time in which nothing was refused.
    assert_eq!(world.why_not(filtered, Tick(0)..=Tick(9)).misses.len(), 1);
    assert!(world.why_not(filtered, Tick(2)..=Tick(9)).misses.is_empty());
    assert_eq!(world.why_not(entered, Tick(0)..=Tick(9)).happened, 1);
}

#[test]
fn each_trace_level_keeps_what_it_says() {
    let run = |trace| {
        let mut world = World::<Vec<String>>::with(Config { trace, kept: 4, ..Config::default() });
        let bell = world.declare_signal::<()>("bell").unwrap();
        world.on(bell).run(note!("heard")).unwrap();
        world.on(bell).by("keeper").run(note!("by a keeper")).unwrap();
        ring(&mut world, bell, 3, &[1, 2]);
        let trace = world.trace();
        (
            trace.len(),
            trace.records().count(),
            trace.digest() != 0,
            trace.totals().delivered,
            trace.totals().refused,
        )
    };
    assert_eq!(run(TraceLevel::Off), (0, 0, false, 0, 0));
    assert_eq!(run(TraceLevel::Counts), (0, 0, false, 3, 2));
    let (records, kept, digest, delivered, refused) = run(TraceLevel::Full);
    assert!(records > 4 && kept == 4, "the ring is bounded");
    assert_eq!((digest, delivered, refused), (true, 3, 2));
}

#[test]
fn records_are_the_same_whether_many_are_kept_or_few() {
    let lines = |kept| {
        let mut world = World::<Vec<String>>::with(Config { kept, ..Config::default() });
        let bell = world.declare_signal::<()>("bell").unwrap();
        for _ in 0..3 {
            world.on(bell).run(note!("heard")).unwrap();
        }
        ring(&mut world, bell, 9, &[1, 2, 3, 4, 5, 6, 7, 8, 9]);
        let text = |(id, record)| format!("{id:?} {record:?}");
        (world.trace().digest(), world.trace().records().map(text).collect::<Vec<_>>())
    };
    let (digest, all) = lines(1000);
    for kept in 1..60 {
        let (same, few) = lines(kept);
        assert_eq!(digest, same);
        assert_eq!(few.as_slice(), &all[all.len().saturating_sub(kept)..], "{kept} kept");
    }
}

#[test]
fn a_snapshot_brings_back_what_was_destroyed_and_cut_since() {
    let mut scene = towpath();
    let bell = scene.world.declare_signal::<()>("bell").unwrap();
    scene.world.on(bell).owned_by(scene.gate).run(note!("the gate hears")).unwrap();
    scene.world.command(scene.door.part, Door::TO_OPEN).unwrap();
    scene.run(2);
    let half_open = scene.world.part::<Door>(scene.door.part).unwrap().openness();
    let snapshot = scene.world.snapshot().unwrap();
    scene.world.destroy(scene.gate).unwrap();
    scene.run(1);
    // Its closure was let go at once: this world keeps none back for going back to.
    let refused = scene.world.restore(&snapshot).unwrap_err();
    assert!(refused.to_string().contains("wires.rs"), "{refused}");
    assert_eq!(scene.world.find("upper_gate"), None, "nothing was changed");

    let mut world =
        World::<Vec<String>>::with(Config { rollback: stoicheon_core::ticks(10), ..Config::default() });
    let gate = world.object("upper_gate").add().unwrap();
    let door = world.attach(gate, Door::swing(85.0).over(secs(0.1))).unwrap();
    let bell = world.declare_signal::<()>("bell").unwrap();
    world.on(bell).owned_by(gate).run(note!("the gate hears")).unwrap();
    world.command(door.part, Door::TO_OPEN).unwrap();
    let mut notes = Vec::new();
    world.step(&mut notes).unwrap();
    world.step(&mut notes).unwrap();
    let snapshot = world.snapshot().unwrap();
    world.destroy(gate).unwrap();
    world.step(&mut notes).unwrap();
    world.restore(&snapshot).unwrap();
    assert!((world.part::<Door>(door.part).unwrap().openness() - half_open).abs() < 1e-9);
    world.emit(bell, ()).unwrap();
    world.step(&mut notes).unwrap();
    assert_eq!(notes, ["the gate hears"]);
    assert!(world.part::<Door>(door.part).unwrap().openness() > half_open, "the door goes on");
}
