//! Errors that say what is so, faults the host hears of, and where somebody is when they were sent about.

use stoicheon_core::{
    Blend, BuildError, Command, CommandError, Config, Cx, Door, Error, Event, Expr, Field, Mould, NewVar,
    ObjectId, Place, Prompt, Refusal, Rotation, Signal, Stages, Step, Steps, Target, TraceLevel, Type, Value,
    Values, Vec3, WhenEmpty, World, Zone, payload, secs, ticks,
};

payload! {
    /// A bell.
    pub struct Rung {
        /// How often.
        pub strokes: u32,
    }
}

type Notes = Vec<String>;

fn at(x: f32) -> Vec3 {
    Vec3::new(x, 0.0, 0.0)
}

fn run(world: &mut World<Notes>, ticks: u32) -> Notes {
    let mut notes = Vec::new();
    (0..ticks).for_each(|_| world.step(&mut notes).unwrap());
    notes
}

/// Writes down that a signal came.
fn note<T: stoicheon_core::Payload>(world: &mut World<Notes>, signal: Signal<T>, text: &'static str) {
    world.on(signal).run(move |notes: &mut Notes, _, _| notes.push(text.into())).unwrap();
}

fn faults(world: &mut World<Notes>) -> Notes {
    world.take_faults().map(|fault| fault.message.to_string()).collect()
}

#[test]
fn finding_a_signal_does_not_declare_it_and_says_what_was_meant() {
    let mut world = World::<Notes>::new();
    let gate = world.object("gate").add().unwrap();
    world.attach(gate, Door::swing(85.0)).unwrap();
    world.declare_signal::<Rung>("rung").unwrap();
    for (wrong, near) in [("gate.opend", Some("gate.opened")), ("rugn", Some("rung")), ("weathervane", None)]
    {
        let Err(Error::NoSignalOfName { found, near: told }) = world.signal::<()>(wrong) else {
            panic!("{wrong}")
        };
        assert_eq!((found.as_str(), told.name()), (wrong, near));
        assert_eq!(world.find_signal(wrong), None, "nothing was declared");
    }
    let error = world.signal::<()>("rung").unwrap_err().to_string();
    assert_eq!(error, "signal \"rung\" carries (strokes: whole), and here it is used with ()");
    assert_eq!(world.signal::<Rung>("rung").unwrap().id(), world.find_signal("rung").unwrap());
    assert!(world.signal::<()>("gate.opened").is_ok() && world.signal_of::<()>(gate, "opened").is_ok());
    assert!(matches!(world.signal_of::<()>(gate, "openend"), Err(Error::NoSignalOfName { .. })));
    world.declare_effect::<Rung>("bell").unwrap();
    let error = world.effect::<Rung>("bel").unwrap_err().to_string();
    assert_eq!(
        error,
        "expected the name of an effect, found \"bel\", which none was declared with; did you mean \"bell\"?"
    );
    assert!(matches!(world.effect::<()>("bell"), Err(Error::Build(BuildError::PayloadMismatch { .. }))));
}

#[test]
fn a_name_that_was_declared_too_early_is_the_one_that_is_given_later() {
    let mut world = World::<Notes>::new();
    let opened = world.declare_signal::<()>("gate.opened").unwrap();
    note(&mut world, opened, "opened");
    let gate = world.object("gate").add().unwrap();
    let door = world.attach(gate, Door::swing(85.0).over(secs(0.1))).unwrap();
    assert_eq!(door.opened.id(), opened.id());
    world.command(door.part, Door::TO_OPEN).unwrap();
    assert_eq!(run(&mut world, 10), ["opened"]);
    // Of another payload it cannot be, and nothing is made.
    world.declare_signal::<Rung>("hatch.opened").unwrap();
    let hatch = world.object("hatch").add().unwrap();
    assert!(matches!(
        world.attach(hatch, Door::swing(85.0)),
        Err(Error::Build(BuildError::PayloadMismatch { .. }))
    ));
    assert!(world.parts_of(hatch).is_empty());
    // Nor can two objects give one signal.
    let again = world.object("again").add().unwrap();
    world.declare_signal_of::<()>(again, "opened").unwrap();
    assert!(matches!(
        world.attach(again, Door::swing(85.0)),
        Err(Error::Build(BuildError::NameTaken { .. }))
    ));
}

#[test]
fn what_a_closure_cannot_take_is_refused_and_is_a_fault() {
    let mut world = World::<Notes>::new();
    let field = Field { name: "strokes".into(), ty: Type::Whole };
    world.declare_signal_with("rung", vec![field]).unwrap();
    let rung = world.signal::<Rung>("rung").unwrap();
    let wire = world.on(rung).run(|notes: &mut Notes, rung, _| notes.push(rung.strokes.to_string())).unwrap();
    let values = world.signal::<Values>("rung").unwrap();
    for strokes in [2, -1, 3] {
        world.emit(values, Values::from_iter([Value::Whole(strokes)])).unwrap();
    }
    assert_eq!(run(&mut world, 1), ["2", "3"]);
    let why = |event| match event {
        Event::Refused { why, .. } => Some(why),
        _ => None,
    };
    let refused: Vec<_> = world.trace().records().filter_map(|(_, record)| why(record.event)).collect();
    assert_eq!(refused, [Refusal::Payload]);
    let told = faults(&mut world);
    assert_eq!(told.len(), 1);
    assert!(told[0].starts_with("signal \"rung\" carries (Whole(-1))"), "{}", told[0]);
    let counts = world.wire_counts(wire).unwrap();
    assert_eq!((counts.taken, counts.refused.payload), (2, 1));
    // What the declared fields cannot hold is refused at once.
    let error = world.emit(values, Values::from_iter([Value::from("two")])).unwrap_err();
    assert!(matches!(error, Error::WrongValues { .. }), "{error}");
}

#[test]
fn what_was_refused_before_is_no_fault() {
    let mut world = World::<Notes>::new();
    let field = Field { name: "strokes".into(), ty: Type::Whole };
    world.declare_signal_with("rung", vec![field]).unwrap();
    let rung = world.signal::<Rung>("rung").unwrap();
    let bob = world.player("bob").add().unwrap();
    let heard = |notes: &mut Notes, rung: &Rung, _: &mut Cx<'_, Notes>| notes.push(rung.strokes.to_string());
    world.on(rung).by("keeper").run(heard).unwrap();
    world.on(rung).when(Expr::Field(0).more_than(0_i64)).run(heard).unwrap();
    let values = world.signal::<Values>("rung").unwrap();
    world.emit_for(Some(bob), values, Values::from_iter([Value::Whole(-1)])).unwrap();
    assert_eq!((run(&mut world, 1), faults(&mut world)), (Notes::new(), Notes::new()));
    let why = |event| if let Event::Refused { why, .. } = event { Some(why) } else { None };
    let refused: Vec<_> = world.trace().records().filter_map(|(_, record)| why(record.event)).collect();
    assert!(matches!(refused[..], [Refusal::Who, Refusal::Guard { .. }]), "{refused:?}");
}

#[test]
fn an_error_of_a_closure_reaches_the_host_at_every_trace_level() {
    for level in [TraceLevel::Off, TraceLevel::Counts, TraceLevel::Full] {
        let mut world = World::<Notes>::with(Config { trace: level, ..Config::default() });
        let gate = world.object("gate").add().unwrap();
        let bell = world.declare_signal::<()>("bell").unwrap();
        let wire = world.on(bell).owned_by(gate).run(|_, (), _| Err("the rope is torn")).unwrap();
        world.emit(bell, ()).unwrap();
        run(&mut world, 1);
        let told: Vec<_> = world.take_faults().collect();
        assert_eq!(told.len(), 1, "{level:?}");
        assert_eq!(
            (told[0].message.as_str(), told[0].object, told[0].wire),
            ("the rope is torn", Some(gate), Some(wire))
        );
        assert_eq!((world.take_faults().count(), world.faults_so_far()), (0, 1));
    }
}

/// What is said with a command is looked at where it is said, and nothing is done if it does not fit.
#[test]
fn what_is_said_with_a_command_must_fit() {
    let mut world = World::<Vec<String>>::new();
    let river = world.object("river").add().unwrap();
    let river = world
        .attach(
            river,
            Blend::new().setting("calm", [("level", 0.into())]).setting("spate", [("level", 4.into())]),
        )
        .unwrap();
    let gate = world.object("gate").add().unwrap();
    let gate = world.attach(gate, Door::swing(85.0)).unwrap();
    let twice = "`blend` of a blend takes `to` once, found it twice";
    let cases: [(_, _, &[(&str, Value)], _); 6] = [
        (river.part, Blend::BLEND, &[("to", "spate".into()), ("to", "calm".into())], twice),
        (river.part, Blend::BLEND, &[("ovr", 1.into())], "found \"ovr\"; did you mean \"over\"?"),
        (river.part, Blend::BLEND, &[], "`blend` of a blend needs `to`, found none"),
        (river.part, Blend::BLEND, &[("to", 3.into())], "`blend` of a blend takes `to: word`, found whole"),
        (
            river.part,
            Blend::BLEND,
            &[("to", "spate".into()), ("over", 1.5.into())],
            "`blend` of a blend takes `over: duration`, found number",
        ),
        (gate.part, Door::TO_OPEN, &[("to", 3.into())], "`open` of a door takes nothing more, found \"to\""),
    ];
    let bell = world.declare_signal::<()>("bell").unwrap();
    for (part, command, said, expected) in cases {
        let error = world.command_for(None, part, command, said).unwrap_err().to_string();
        assert!(error.contains(expected), "{error}");
        let said = said.to_vec();
        let note = move |notes: &mut Vec<String>, (): &(), cx: &mut Cx<'_, _>| {
            notes.push(cx.command_for(None, part, command, &said).unwrap_err().to_string());
            Ok::<(), Error>(())
        };
        world.on(bell).run(note).unwrap();
    }
    let args = vec![("too".into(), "spate".into())];
    let steps = [Step::Command { part: river.part, command: Blend::BLEND, args }];
    assert!(matches!(
        world.on(bell).run_steps(steps),
        Err(Error::Command(CommandError::NoSuchArgument { .. }))
    ));
    let before = world.snapshot().unwrap();
    world.emit(bell, ()).unwrap();
    let mut notes = Vec::new();
    world.step(&mut notes).unwrap();
    assert_eq!(notes.len(), cases.len());
    assert!(cases.iter().zip(&notes).all(|((.., expected), note)| note.contains(expected)), "{notes:#?}");
    assert_eq!(world.part::<Blend>(river.part).unwrap().target(), "calm");

    // What fits is taken.
    world.restore(&before).unwrap();
    let over = Value::Duration(ticks(30));
    world.command_for(None, river.part, Blend::BLEND, &[("to", "spate".into()), ("over", over)]).unwrap();
    world.step(&mut notes).unwrap();
    assert_eq!(world.part::<Blend>(river.part).unwrap().target(), "spate");
}

#[test]
fn commands_and_parts_that_are_none_are_told_by_name() {
    let mut world = World::<Notes>::new();
    let gate = world.object("gate").add().unwrap();
    let door = world.attach(gate, Door::swing(85.0)).unwrap();
    let known = Door::KIND.commands.len();
    let error = world.command(door.part, Command::new(99)).unwrap_err().to_string();
    assert!(error.contains(&format!("of a door, below {known}, found 99 for \"gate\"")), "{error}");
    let bell = world.declare_signal::<()>("bell").unwrap();
    let steps = [Step::Command { part: door.part, command: Command::new(99), args: Vec::new() }];
    assert!(
        matches!(world.on(bell).run_steps(steps), Err(Error::Command(CommandError::NoCommandNumber { found, .. })) if found.number() == 99)
    );
    assert_eq!(world.listeners(bell), 0);
    world.on(bell).run(move |_, (), cx| cx.command(door.part, Command::new(99))).unwrap();
    world.emit(bell, ()).unwrap();
    run(&mut world, 1);
    assert_eq!(faults(&mut world).len(), 1);
    let error = world.part::<Prompt>(door.part).unwrap_err().to_string();
    assert!(error.contains("the door of \"gate\"") && error.contains("not a Prompt"), "{error}");
}

/// Three scenes with a spot each, where the coordinates of one mean something else in the others.
fn scenes(world: &mut World<Notes>) {
    for name in ["lockside", "tunnel"] {
        let make = move |world: &mut World<Notes>| {
            let spot = format!("{name}_steps");
            world
                .spot_at(&spot, None, at(if name == "tunnel" { 40.0 } else { 0.0 }), Rotation::NONE)
                .map(drop)
        };
        let scene = world.offer_scene(name, WhenEmpty::Running, make);
        world.load_scene(scene).unwrap();
    }
    world.end_scene();
}

#[test]
fn who_has_left_a_scene_is_not_sent_about_in_it() {
    let mut world = World::<Notes>::new();
    scenes(&mut world);
    let ada = world.join("ada", Some(("lockside", "lockside_steps"))).unwrap();
    let bell = world.declare_signal::<()>("bell").unwrap();
    let spot = world.find_spot("lockside_steps").unwrap();
    let steps = [Step::Wait(secs(0.2)), Step::Send { who: Expr::Who, spot: Expr::from(Value::Spot(spot)) }];
    world.on(bell).run_steps(steps).unwrap();
    world.emit_for(Some(ada), bell, ()).unwrap();
    run(&mut world, 2);
    world.bring(ada, "tunnel", "tunnel_steps").unwrap();
    run(&mut world, 20);
    assert_eq!((world.place(ada).unwrap(), world.scene_of(ada)), (at(40.0), world.find_scene("tunnel")));
    let told = faults(&mut world);
    assert_eq!(told.len(), 1);
    assert!(told[0].contains("tunnel") && told[0].contains("lockside"), "{}", told[0]);
    assert!(!world.trace().records().any(|(_, record)| matches!(record.event, Event::Sent { .. })));
}

/// Two zones, each of which sends a body that enters to the other, after these statements.
fn doors(world: &mut World<Notes>, before: &[Step], place: bool) -> ObjectId {
    let [near, far] = [("near", 0.0), ("far", 40.0)].map(|(name, x)| {
        let pad = world.object(name).at(at(x)).add().unwrap();
        let spot = world.spot_at("arrival", Some(pad), at(x), Rotation::NONE).unwrap();
        (world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap(), spot, x)
    });
    for (zone, (_, spot, x)) in [(near.0, far), (far.0, near)] {
        let go = world.declare_signal::<()>(&format!("go_{x}")).unwrap();
        let emit = Step::Emit { signal: go.id(), values: Vec::new() };
        world.on(zone.entered).run_steps([before, &[emit]].concat()).unwrap();
        let step = if place {
            Step::Set { target: Target::Place(Expr::Who), to: Expr::from(Value::Vector(at(x))) }
        } else {
            Step::Send { who: Expr::Who, spot: Expr::from(Value::Spot(spot)) }
        };
        world.on(go).run_steps([step]).unwrap();
    }
    world.player("ada").at(at(5.0)).add().unwrap()
}

fn count(world: &World<Notes>, is_it: impl Fn(&Event) -> bool) -> usize {
    world.trace().records().filter(|(_, record)| is_it(&record.event)).count()
}

#[test]
fn an_arrival_does_not_send_on_by_way_of_signals_until_it_has_walked_out_or_time_has_passed() {
    for place in [false, true] {
        let mut world = World::<Notes>::new();
        let ada = doors(&mut world, &[], place);
        world.walk(ada, at(0.0), 10.0).unwrap();
        run(&mut world, 60);
        assert_eq!(
            world.place(ada).unwrap(),
            at(40.0),
            "there, and not back again: {:#?}",
            super::support::told(&world)
        );
        let stays = count(&world, |event| matches!(event, Event::StaysHere { .. }));
        assert_eq!(stays, 1);
        // Out and in again: and back.
        world.walk(ada, at(45.0), 20.0).unwrap();
        run(&mut world, 20);
        world.walk(ada, at(40.0), 20.0).unwrap();
        run(&mut world, 20);
        assert_eq!(world.place(ada).unwrap(), at(0.0));
    }
}

#[test]
fn arrive_wait_and_go_on() {
    let mut world = World::<Notes>::new();
    let ada = doors(&mut world, &[Step::Wait(secs(0.5))], false);
    world.walk(ada, at(0.0), 10.0).unwrap();
    run(&mut world, 120);
    let sent = count(&world, |event| matches!(event, Event::Sent { .. }));
    assert!((5..=8).contains(&sent), "{sent} times in four seconds");
    assert_eq!(count(&world, |event| matches!(event, Event::StaysHere { .. })), 0);
}

#[test]
fn a_prompt_that_is_destroyed_in_the_middle_of_a_hold_is_cancelled_and_withdrawn() {
    for ends in ["destroyed", "disabled"] {
        let mut world = World::<Notes>::new();
        let wheel = world.object("wheel").add().unwrap();
        let prompt = world.attach(wheel, Prompt::new("Wind").hold(secs(1.0)).reach(3.0)).unwrap();
        note(&mut world, prompt.cancelled, "cancelled");
        note(&mut world, prompt.withdrawn, "withdrawn");
        note(&mut world, prompt.answered, "answered");
        let ada = world.player("ada").add().unwrap();
        run(&mut world, 2);
        world.press(ada, "use").unwrap();
        run(&mut world, 5);
        if ends == "destroyed" {
            world.destroy(wheel).unwrap();
        } else {
            world.disable(wheel).unwrap();
        }
        assert_eq!(run(&mut world, 40), ["cancelled", "withdrawn"], "{ends}");
    }
}

#[test]
fn an_owner_that_was_off_for_a_moment_of_a_delivery_does_not_hear_it() {
    let mut world = World::<Notes>::new();
    let gate = world.object("gate").add().unwrap();
    let bell = world.declare_signal::<()>("bell").unwrap();
    let turns = [Step::Disable(Expr::from(gate)), Step::Enable(Expr::from(gate))];
    world.on(bell).order(-1).times(1).run_steps(turns).unwrap();
    world.on(bell).owned_by(gate).run(|notes: &mut Notes, (), _| notes.push("heard".into())).unwrap();
    world.emit(bell, ()).unwrap();
    assert_eq!(run(&mut world, 1), Notes::new());
    let asleep = |event: &Event| matches!(event, Event::Refused { why: Refusal::Asleep, .. });
    assert_eq!(count(&world, asleep), 1);
    world.emit(bell, ()).unwrap();
    assert_eq!(run(&mut world, 1), ["heard"], "the next one it hears");
    assert_eq!(count(&world, asleep), 1);
}

#[test]
fn what_a_stage_of_a_player_has_begun_ends_when_they_leave() {
    let mut world = World::<Notes>::new();
    let ferry = world.object("ferry").add().unwrap();
    let stages = world.attach(ferry, Stages::new(["moored", "crossing"]).per_player()).unwrap();
    let bell = world.declare_signal::<()>("bell").unwrap();
    let late = world.declare_signal::<()>("late").unwrap();
    note(&mut world, late, "late");
    let emit = Step::Emit { signal: late.id(), values: Vec::new() };
    world.on(bell).during(stages.part, "moored").run_steps([Step::Wait(secs(1.0)), emit]).unwrap();
    let ada = world.player("ada").add().unwrap();
    run(&mut world, 1);
    world.emit_for(Some(ada), bell, ()).unwrap();
    run(&mut world, 2);
    world.leave(ada).unwrap();
    run(&mut world, 2);
    let ada = world.player("ada").add().unwrap();
    let to = [("to", "crossing".into())];
    world.command_for(Some(ada), stages.part, Stages::TURN, &to).unwrap();
    assert_eq!(run(&mut world, 60), Notes::new());
}

#[test]
fn spawns_without_end_are_ended_by_an_error_that_names_the_wire() {
    let mut world = World::<Notes>::with(Config { objects: 2_000, ..Config::default() });
    let mould = world.mould(Mould::new("rat")).unwrap();
    let bell = world.declare_signal::<()>("bell").unwrap();
    let spawn = Step::Spawn { mould, at: Expr::from(Value::Vector(Vec3::ZERO)), local: None };
    let every = Steps::new().step(spawn.clone()).step(spawn);
    let place = Place { file: "rats.stoi".into(), line: 7 };
    world.on(bell).written_at(place).run_steps(every).unwrap();
    let mut ended = None;
    for _ in 0..1_500 {
        world.emit(bell, ()).unwrap();
        if let Err(error) = world.step(&mut Vec::new()) {
            ended = Some(error);
            break;
        }
    }
    let error = ended.unwrap().to_string();
    assert!(error.contains("2000") && error.contains("rats.stoi:7"), "{error}");
    assert!(world.objects().count() <= 2_000);
    // The world goes on, and what is destroyed makes room.
    run(&mut world, 1);
    let first = world.objects().next().unwrap();
    world.destroy(first).unwrap();
    run(&mut world, 1);
}

#[test]
fn a_save_is_read_as_far_as_it_fits_and_everybody_is_put_somewhere() {
    let mut before = World::<Notes>::new();
    scenes(&mut before);
    for (name, scene) in [("ada", "lockside"), ("bob", "tunnel"), ("keeper", "lockside")] {
        before.join(name, Some((scene, &format!("{scene}_steps")))).unwrap();
    }
    run(&mut before, 50);
    let save = before.save().unwrap();
    // Where `tunnel` is no scene any more, and `keeper` is a manager.
    let mut after = World::<Notes>::new();
    let make =
        |world: &mut World<Notes>| world.spot_at("lockside_steps", None, at(3.0), Rotation::NONE).map(drop);
    let lockside = after.offer_scene("lockside", WhenEmpty::Running, make);
    after.load_scene(lockside).unwrap();
    after.end_scene();
    after.manager_for("keeper").add().unwrap();
    let mut mismatches = after.recall(&save).unwrap();
    mismatches.extend(after.rejoin(&save).unwrap());
    let told: Vec<_> = mismatches.iter().map(ToString::to_string).collect();
    assert!(told.iter().any(|line| line.contains("tunnel")), "{told:?}");
    assert!(told.iter().any(|line| line.contains("keeper")), "{told:?}");
    for name in ["ada", "bob"] {
        let player = after.find(name).unwrap();
        assert_eq!(after.scene_of(player), Some(lockside), "{name} is somewhere");
    }
    assert_eq!(after.now(), before.now(), "its time goes on");
    run(&mut after, 1);
    assert_eq!(after.now().0, 51);
}

#[test]
fn a_message_that_was_sent_is_not_sent_again_after_a_snapshot() {
    let make = || {
        let mut world = World::<Notes>::new();
        let ring = world.declare_signal::<()>("ring").unwrap();
        world.let_cross(ring, stoicheon_core::Crosses::ToAuthority, &[]).unwrap();
        world.be(stoicheon_core::Side::Player);
        (world, ring)
    };
    let (mut world, ring) = make();
    world.emit(ring, ()).unwrap();
    run(&mut world, 1);
    let waiting = world.snapshot().unwrap();
    assert_eq!(world.take_outgoing().count(), 1);
    let sent = world.snapshot().unwrap();
    for (snapshot, left) in [(waiting, 1), (sent, 0)] {
        let (mut other, _) = make();
        other.restore(&snapshot).unwrap();
        assert_eq!(other.take_outgoing().count(), left);
        assert_eq!(other.trace().digest(), world.trace().digest());
    }
}

#[test]
fn ten_thousand_things_that_hang_on_each_other_are_taken_up_again() {
    let make = || {
        let mut world = World::<Notes>::new();
        let mut last = None;
        for number in 0..10_000 {
            let link = world.object(&format!("link_{number}")).add().unwrap();
            if let Some(last) = last.filter(|_| number % 50 != 0) {
                world.hang(link, Some(last)).unwrap();
            }
            last = Some(link);
        }
        world
    };
    let mut world = make();
    run(&mut world, 1);
    let snapshot = world.snapshot().unwrap();
    let mut other = make();
    other.restore(&snapshot).unwrap();
    other.put(other.find("link_0").unwrap(), at(5.0)).unwrap();
    run(&mut other, 1);
    assert_eq!(other.place(other.find("link_49").unwrap()).unwrap(), at(5.0));
    assert_eq!(other.place(other.find("link_50").unwrap()).unwrap(), at(0.0));
}

#[test]
fn values_a_save_cannot_have_are_told_of_and_begin_again() {
    let make = || {
        let mut world = World::<Notes>::new();
        let toll = world.object("toll").add().unwrap();
        world.attach(toll, stoicheon_core::Tally::new().remembered()).unwrap();
        world.declare(NewVar::new("level", 0.4).remembered()).unwrap();
        world
    };
    let text = serde_json::to_string(&make().save().unwrap()).unwrap();
    assert!(text.contains("\"toll.count\":0"), "{text}");
    let wrong = serde_json::from_str(&text.replace("\"toll.count\":0", "\"toll.count\":-3")).unwrap();
    let mut world = make();
    let mismatches = world.recall(&wrong).unwrap();
    assert_eq!(mismatches.len(), 1, "{mismatches:?}");
    assert!(mismatches[0].to_string().contains("toll"), "{}", mismatches[0]);
    assert_eq!(world.save().unwrap(), make().save().unwrap());
}
