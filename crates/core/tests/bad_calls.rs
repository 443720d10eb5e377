//! Calls that cannot be taken give typed errors, and change nothing.

use super::support::{self, towpath};
use stoicheon_core::{
    BuildError, Config, Door, Error, Expr, Group, NoSuchSignal, Pose, SaveError, SignalName, Snapshot, Steps,
    TickRate, Value, Vec3, World, Zone, payload, secs, space::Shape,
};

payload! {
    /// One payload.
    pub struct One {
        /// A number.
        pub number: f64,
    }
    /// Another.
    pub struct Two {
        /// A number, by another name.
        pub count: f64,
    }
}

#[test]
fn spans_and_frames_that_are_no_time_are_refused() {
    let rate = TickRate::new(30).unwrap();
    for span in [0.0, -1.0, f64::NAN, f64::INFINITY, 1e10] {
        assert!(matches!(rate.ticks(secs(span)), Err(BuildError::BadDuration { .. })), "{span}");
    }
    let (mut world, before) = (World::<()>::new(), 0);
    let bell = world.declare_signal::<()>("bell").unwrap();
    for span in [0.0, -1.0, f64::NAN] {
        assert!(matches!(
            world.on(bell).cooldown(secs(span)).run(|(), (), _| ()),
            Err(Error::Build(BuildError::BadDuration { .. }))
        ));
        assert!(matches!(
            world.on(bell).delay(secs(span)).run(|(), (), _| ()),
            Err(Error::Build(BuildError::BadDuration { .. }))
        ));
        let wait = world.on(bell).run_steps(Steps::new().wait(secs(span)));
        assert!(matches!(wait, Err(Error::Build(BuildError::BadDuration { .. }))));
    }
    assert_eq!(world.listeners(bell), before, "no half-made wire is left");
    for frame in [-0.1, f64::NAN, f64::INFINITY] {
        assert!(matches!(world.advance(secs(frame), &mut ()), Err(Error::BadFrame { .. })));
    }
    assert_eq!((world.now().0, world.trace().len()), (0, 0));
    assert_eq!(TickRate::new(0), Err(BuildError::BadTickRate { found: 0 }));
    assert_eq!(TickRate::new(1001), Err(BuildError::BadTickRate { found: 1001 }));
}

#[test]
fn stale_ids_are_refused() {
    let mut scene = towpath();
    scene.world.destroy(scene.gate).unwrap();
    scene.run(1);
    let (world, gate, door) = (&mut scene.world, scene.gate, scene.door);
    assert_eq!(world.destroy(gate), Err(Error::NoSuchObject));
    assert_eq!(world.enable(gate), Err(Error::NoSuchObject));
    assert_eq!(world.put(gate, Vec3::ZERO), Err(Error::NoSuchObject));
    assert_eq!(world.walk(gate, Vec3::ZERO, 1.0), Err(Error::NoSuchObject));
    assert_eq!(world.tag(gate, "gate"), Err(Error::NoSuchObject));
    assert_eq!(world.command(door.part, Door::TO_OPEN), Err(Error::NoSuchPart));
    assert_eq!(world.part::<Door>(door.part).err(), Some(Error::NoSuchPart));
    assert_eq!(world.emit(door.opened, ()), Err(NoSuchSignal.into()));
    assert_eq!(world.on(door.opened).run(|_, (), _| ()).err(), Some(NoSuchSignal.into()));
    let bell = world.declare_signal::<()>("bell").unwrap();
    assert_eq!(world.on(bell).owned_by(gate).run(|_, (), _| ()).err(), Some(Error::NoSuchObject));
    assert_eq!(world.attach(gate, Zone::boxed(Vec3::ONE)).err(), Some(Error::NoSuchObject));
    // A new object in the old one's place is not taken for it.
    let other = world.object("lower_gate").add().unwrap();
    assert_ne!(other, gate);
    assert_eq!(world.place(gate), Err(Error::NoSuchObject));
}

#[test]
fn a_wire_is_cut_once() {
    let mut scene = towpath();
    let wire = scene.world.on(scene.zone.left).run(|_, _, _| ()).unwrap();
    scene.world.cut(wire).unwrap();
    assert_eq!(scene.world.cut(wire), Err(Error::NoSuchWire));
    assert_eq!(scene.world.wire_counts(wire).err(), Some(Error::NoSuchWire));
    // Within a reaction too: the second cut fails, and the fault is on record.
    let bell = scene.world.declare_signal::<()>("bell").unwrap();
    let wire = scene
        .world
        .on(bell)
        .order(1)
        .run(|notes: &mut Vec<String>, (), _| notes.push("heard".into()))
        .unwrap();
    scene
        .world
        .on(bell)
        .run(move |_: &mut Vec<String>, (), cx| {
            cx.cut(wire)?;
            cx.cut(wire)
        })
        .unwrap();
    scene.world.emit(bell, ()).unwrap();
    assert!(scene.run(1).is_empty());
    assert!(
        support::told(&scene.world).iter().any(|line| line.contains("fault: this wire is not in the world"))
    );
}

#[test]
fn one_name_has_one_payload() {
    let mut world = World::<()>::new();
    world.declare_signal::<One>("rung").unwrap();
    let error = world.declare_signal::<Two>("rung").unwrap_err();
    assert_eq!(
        error.to_string(),
        "signal \"rung\" carries (number: number), and here it is used with (count: number)"
    );
    assert!(matches!(
        world.declare_effect::<One>("bell").and(world.declare_effect::<Two>("bell")),
        Err(Error::Build(BuildError::PayloadMismatch { .. }))
    ));
    let lamp = world.object("lamp").tag("lit").add().unwrap();
    world.declare_signal_of::<One>(lamp, "flicker").unwrap();
    let flicker = SignalName::<Two>::new("flicker");
    let group = world.on_every(Group::tagged("lit"), flicker).run(|(), _, _| ());
    assert!(matches!(group, Err(Error::Build(BuildError::PayloadMismatch { .. }))), "{group:?}");
}

#[test]
fn names_values_places_and_sizes_are_checked() {
    let mut world = World::<()>::new();
    for name in ["", "1st", "a b", "a..b", ".a", "é!"] {
        assert!(
            matches!(world.object(name).add(), Err(Error::Build(BuildError::BadName { .. }))),
            "{name:?}"
        );
        assert!(matches!(world.var(name, 1.0), Err(Error::Build(BuildError::BadName { .. }))), "{name:?}");
    }
    let gate = world.object("gate").add().unwrap();
    assert!(matches!(world.object("gate").add(), Err(Error::Build(BuildError::NameTaken { .. }))));
    assert!(matches!(
        world.object("far").at(Vec3::NAN).add(),
        Err(Error::Build(BuildError::BadPlace { .. }))
    ));
    assert!(matches!(
        world.put(gate, Vec3::splat(f32::INFINITY)),
        Err(Error::Build(BuildError::BadPlace { .. }))
    ));
    assert!(matches!(world.walk(gate, Vec3::ZERO, 1.0), Err(Error::NotABody { .. })));
    let ada = world.player("ada").add().unwrap();
    for speed in [0.0, -1.0, f64::NAN] {
        assert!(
            matches!(world.walk(ada, Vec3::ONE, speed), Err(Error::Build(BuildError::BadNumber { .. }))),
            "{speed}"
        );
    }
    for size in [Vec3::ZERO, Vec3::new(1.0, -1.0, 1.0), Vec3::NAN] {
        assert!(
            matches!(world.attach(gate, Zone::boxed(size)), Err(Error::Build(BuildError::BadSize { .. }))),
            "{size}"
        );
    }
    for door in
        [Door::swing(0.0), Door::swing(f64::NAN), Door::swing(90.0).about(Vec3::ZERO), Door::slide(Vec3::NAN)]
    {
        assert!(world.attach(gate, door).is_err());
    }
    assert!(world.parts_of(gate).is_empty(), "no half-made part is left");
    let level = world.var("level", 1.0).unwrap();
    assert!(matches!(world.set(level, true), Err(Error::WrongType { .. })));
    assert_eq!(world.value(level), Ok(&1.0.into()));
}

#[test]
fn expressions_never_panic() {
    let mut world = World::<()>::new();
    let level = world.var("level", f64::MAX).unwrap();
    let of = |expr: &Expr| world.evaluate(expr);
    let zero =
        Expr::Arithmetic(stoicheon_core::Arithmetic::Divide, Box::new(1.0.into()), Box::new(0.0.into()));
    assert_eq!(of(&zero), 0.0.into());
    assert_eq!(of(&Expr::var(level).plus(Expr::var(level))), 0.0.into(), "what is not finite is 0");
    assert_eq!(of(&Expr::from("high").plus(1.0)), Value::Nothing);
    assert_eq!(of(&Expr::from("high").less_than(1.0)), Value::Nothing);
    assert_eq!(of(&Expr::field(7).not()), Value::Nothing);
}

#[test]
fn a_world_that_was_broken_off_goes_on_only_from_a_snapshot() {
    let mut world = World::<()>::new();
    let bell = world.declare_signal::<()>("bell").unwrap();
    world.on(bell).run(|(), (), _| assert!(std::hint::black_box(false), "a reaction fails")).unwrap();
    let snapshot = world.snapshot().unwrap();
    world.emit(bell, ()).unwrap();
    let broken = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| world.step(&mut ())));
    assert!(broken.is_err());
    assert_eq!(world.step(&mut ()), Err(Error::BrokenOff));
    assert_eq!(world.emit(bell, ()), Err(Error::BrokenOff));
    world.restore(&snapshot).unwrap();
    world.step(&mut ()).unwrap();
}

#[test]
fn a_foreign_or_damaged_snapshot_is_refused_or_restored_and_never_panics() {
    let mut scene = towpath();
    scene.world.on(scene.zone.entered).run(|_, _, _| ()).unwrap();
    scene.run(2);
    let snapshot = scene.world.snapshot().unwrap();
    let mut other =
        World::<Vec<String>>::with(Config { rate: TickRate::new(60).unwrap(), ..Config::default() });
    assert!(matches!(other.restore(&snapshot), Err(SaveError::Mismatch { .. })));
    let mut bare = World::<Vec<String>>::new();
    let refused = bare.restore(&snapshot).unwrap_err().to_string();
    assert!(refused.starts_with("the snapshot does not fit this world: "), "{refused}");

    // Each number of it made another one in turn.
    let text = serde_json::to_string(&snapshot).unwrap();
    let digits: Vec<_> = text.char_indices().filter(|(_, c)| c.is_ascii_digit()).map(|(at, _)| at).collect();
    for at in digits {
        let mut damaged = text.clone();
        damaged.replace_range(at..=at, "7");
        let Ok(damaged) = serde_json::from_str::<Snapshot>(&damaged) else { continue };
        let mut scene = towpath();
        scene.world.on(scene.zone.entered).run(|_, _, _| ()).unwrap();
        if scene.world.restore(&damaged).is_ok() {
            scene.world.put(scene.ada, support::PAD).ok();
            let _ = scene.world.step(&mut Vec::new());
        }
    }
}

#[test]
fn bodies_have_the_shapes_of_the_build() {
    let capsule = Shape::capsule(Vec3::Y, 0.3);
    let expected = if cfg!(feature = "shaped-bodies") { Ok(()) } else { Err(BuildError::NoShapedBodies) };
    assert_eq!(capsule.check_body(), expected);
    assert_eq!(Shape::boxed(Vec3::ONE).check_body(), expected);
    assert_eq!(Shape::ball(0.3).check_body(), Ok(()));
    // A shape that no body has counts as a point.
    let touches =
        |x: f32| Shape::boxed(Vec3::ONE).touches(Pose::default(), Some(&capsule), Pose::at(Vec3::X * x));
    assert_eq!([0.2, 0.7, 0.9].map(touches), [true, cfg!(feature = "shaped-bodies"), false]);
}
