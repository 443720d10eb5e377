//! The parts: what each promises, at every tick.

use proptest::prelude::*;
use stoicheon_core::{
    Activity, Blend, Carrier, Catalogue, Choice, Command, Cycle, Denial, Door, Ease, Event, Expr, Held, Item,
    Kept, NewVar, NoAnswer, ObjectId, OpensOn, Part, PartCx, PartId, PartKind, PartState, Rotation, Settings,
    Shake, Snapshot, Span, Stages, Step, Steps, Switch, Tally, Target, Teleporter, Timer, Value, Vec3, World,
    Zone, secs, ticks,
};

fn run(world: &mut World<()>, ticks: usize) {
    (0..ticks).for_each(|_| world.step(&mut ()).unwrap());
}

/// How often a signal was delivered.
fn times(world: &World<()>, signal: &str) -> u64 {
    world.find_signal(signal).map_or(0, |signal| world.delivered(signal))
}

fn tell(world: &mut World<()>, part: PartId, command: &str) {
    tell_for(world, None, part, command, &[]);
}

fn tell_for(
    world: &mut World<()>,
    who: Option<ObjectId>,
    part: PartId,
    command: &str,
    args: &[(&str, Value)],
) {
    let number = world.kind_of(part).unwrap().command(command).unwrap();
    world.command_for(who, part, number, args).unwrap();
}

fn object(world: &mut World<()>, name: &str) -> ObjectId {
    world.object(name).add().unwrap()
}

/// Something that is done to a world.
type Change<'a> = &'a dyn Fn(&mut World<()>);

// ---- Doors.

/// What happens to a door within a tick.
#[derive(Clone, Debug)]
enum Push {
    Tell(&'static str),
    /// Somebody stands in the way, or not.
    InTheWay(bool),
    Nothing(u8),
}

fn pushes() -> impl Strategy<Value = Vec<Push>> {
    let tell = prop::sample::select(vec![
        "open", "close", "toggle", "force", "lock", "unlock", "block", "clear", "open", "close",
    ]);
    let one = prop_oneof![
        4 => tell.prop_map(Push::Tell),
        1 => any::<bool>().prop_map(Push::InTheWay),
        3 => (1_u8..12).prop_map(Push::Nothing),
    ];
    prop::collection::vec(one, 1..40)
}

/// Where a door can go from each of its states.
fn may_follow(from: PartState, to: PartState) -> bool {
    use std::ops::ControlFlow;
    let next: &[PartState] = match from {
        Door::CLOSED => &[Door::OPENING],
        Door::OPENING => &[Door::OPEN, Door::CLOSING, Door::BLOCKED],
        Door::OPEN => &[Door::CLOSING],
        Door::CLOSING => &[Door::CLOSED, Door::OPENING, Door::BLOCKED],
        _ => &[Door::OPENING, Door::CLOSING],
    };
    let found = next
        .iter()
        .try_for_each(|state| if *state == to { ControlFlow::Break(()) } else { ControlFlow::Continue(()) });
    found.is_break()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    /// Told anything at any tick, a door never jumps, goes from state to state as it may, and comes to rest.
    #[test]
    fn a_door_never_jumps_and_always_ends(
        all in pushes(),
        over in 1_u32..30,
        stays in prop::option::of(1_u32..20),
        careful in any::<bool>(),
    ) {
        let mut world = World::<()>::new();
        let gate = object(&mut world, "gate");
        world.attach(gate, Zone::boxed(Vec3::splat(2.0))).unwrap();
        let mut door = Door::swing(85.0).over(secs(f64::from(over) / 30.0)).opens_on(OpensOn::Touch);
        if let Some(stays) = stays {
            door = door.stays(secs(f64::from(stays) / 30.0));
        }
        if careful {
            door = door.careful();
        }
        let door = world.attach(gate, door).unwrap();
        let barrel = world.object("barrel").at(Vec3::X * 9.0).body().add().unwrap();
        let mut before = 0.0;
        let mut state = Door::CLOSED;
        for push in all.into_iter().chain([Push::InTheWay(false), Push::Tell("close"), Push::Nothing(90)]) {
            let mut ticks = 1;
            match push {
                Push::Tell(command) => tell(&mut world, door.part, command),
                Push::InTheWay(yes) => world.put(barrel, if yes { Vec3::ZERO } else { Vec3::X * 9.0 }).unwrap(),
                Push::Nothing(count) => ticks = count,
            }
            for _ in 0..ticks {
                let since = world.trace().len();
                world.step(&mut ()).unwrap();
                let now = world.part::<Door>(door.part).unwrap();
                let (openness, ended) = (now.openness(), now.state());
                prop_assert!((0.0..=1.0).contains(&openness));
                prop_assert!((openness - before).abs() <= 1.0 / f64::from(over) + 1e-9, "{before} to {openness}");
                before = openness;
                for (_, record) in world.trace().records().filter(|(id, _)| id.number() >= since) {
                    if let Event::Shifted { from, to, part } = record.event && part == door.part {
                        prop_assert_eq!(from, state);
                        prop_assert!(may_follow(from, to), "{from:?} to {to:?}");
                        state = to;
                    }
                }
                prop_assert_eq!(state, ended);
            }
        }
        // Every opening has ended: opened, closed or blocked.
        prop_assert!(matches!(state, Door::OPEN | Door::CLOSED | Door::BLOCKED), "ends in {state:?}");
        prop_assert!(stays.is_none() || state != Door::OPEN);
    }
}

#[test]
fn a_door_says_why_it_does_not_open() {
    let mut world = World::<()>::new();
    let level = world.var("level", 0.0).unwrap();
    let gate = object(&mut world, "gate");
    let high = Expr::var(level).more_than(0.5);
    let door = world.attach(gate, Door::swing(90.0).locked().asks("key").spends().when(high)).unwrap();
    let why = world.on(door.refused).into_mailbox().unwrap();
    let ada = world.player("ada").add().unwrap();
    world.attach(ada, Carrier::new()).unwrap();
    let key = world.object("brass").tag("key").add().unwrap();
    let item = world.attach(key, Item::new()).unwrap();

    let steps: [Change<'_>; 4] = [
        &|_| {},
        &|world| tell(world, door.part, "unlock"),
        &|world| world.set(level, 1.0).unwrap(),
        &|world| tell_for(world, world.find("ada"), item.part, "take", &[]),
    ];
    for step in steps {
        step(&mut world);
        tell_for(&mut world, Some(ada), door.part, "open", &[]);
        run(&mut world, 1);
    }
    let told: Vec<_> = world.take_letters(why).unwrap().map(|letter| letter.payload.why).collect();
    assert_eq!(told, [Denial::Locked, Denial::Condition, Denial::Item]);
    assert_eq!(world.state_word(door.part), Some("opening"));
    // The key was used up.
    assert!(world.find("brass").is_none() && world.carried_by(ada).is_empty());
}

#[test]
fn a_careful_door_closes_when_they_have_left() {
    let mut world = World::<()>::new();
    let gate = object(&mut world, "gate");
    world.attach(gate, Zone::boxed(Vec3::splat(2.0))).unwrap();
    let door = world.attach(gate, Door::swing(85.0).over(secs(0.5)).careful()).unwrap();
    let barrel = world.object("barrel").body().add().unwrap();
    tell(&mut world, door.part, "force");
    run(&mut world, 20);
    tell(&mut world, door.part, "close");
    run(&mut world, 60);
    assert_eq!((world.state_word(door.part), times(&world, "gate.blocked")), (Some("blocked"), 1));
    world.put(barrel, Vec3::X * 9.0).unwrap();
    run(&mut world, 20);
    assert_eq!((world.state_word(door.part), times(&world, "gate.closing")), (Some("closed"), 2));
}

#[test]
fn a_door_that_was_blocked_goes_on_when_it_is_recalled() {
    let lock = |in_the_way: bool| {
        let mut world = World::<()>::new();
        let gate = object(&mut world, "gate");
        world.attach(gate, Zone::boxed(Vec3::splat(2.0))).unwrap();
        let door = world.attach(gate, Door::swing(85.0).over(secs(1.0)).careful().remembered()).unwrap();
        let at = if in_the_way { Vec3::ZERO } else { Vec3::X * 9.0 };
        world.object("barrel").at(at).body().add().unwrap();
        (world, door.part)
    };
    let (mut world, door) = lock(true);
    tell(&mut world, door, "open");
    run(&mut world, 40);
    tell(&mut world, door, "close");
    run(&mut world, 5);
    assert_eq!(world.state_word(door), Some("blocked"));
    let save = world.save().unwrap();
    // Nobody is there any more: nothing would ever tell it to go on.
    let (mut other, door) = lock(false);
    assert!(other.recall(&save).unwrap().is_empty());
    run(&mut other, 40);
    assert_eq!(other.state_word(door), Some("closed"));
    let (mut other, door) = lock(true);
    other.recall(&save).unwrap();
    run(&mut other, 40);
    assert_eq!(other.state_word(door), Some("blocked"));
}

// ---- Time.

#[test]
fn a_timer_loses_nothing_whatever_its_pace() {
    for (pace, ticks, expected) in
        [(1.0, 900, 90), (3.0, 900, 270), (0.5, 900, 45), (30.0, 30, 90), (0.7, 3000, 210)]
    {
        let mut world = World::<()>::new();
        let clock = object(&mut world, "clock");
        let timer = world.attach(clock, Timer::every(secs(1.0 / 3.0)).pace(pace)).unwrap();
        run(&mut world, ticks);
        assert_eq!(times(&world, "clock.struck"), expected, "at {pace}");
        assert_eq!(world.property(clock, "count"), Some(&Value::Whole(i64::try_from(expected).unwrap())));
        // What is still asked for is in the future.
        assert!(world.part::<Timer>(timer.part).is_ok());
    }
}

#[test]
fn a_timer_stands_still_while_its_object_is_off() {
    let mut world = World::<()>::new();
    let clock = object(&mut world, "clock");
    let timer = world.attach(clock, Timer::after(secs(1.0))).unwrap();
    run(&mut world, 20);
    world.disable(clock).unwrap();
    run(&mut world, 100);
    world.enable(clock).unwrap();
    run(&mut world, 9);
    assert_eq!(times(&world, "clock.struck"), 0);
    run(&mut world, 2);
    assert_eq!((times(&world, "clock.struck"), world.state_word(timer.part)), (1, Some("idle")));
    // Told again, it begins again; halted, it forgets.
    tell(&mut world, timer.part, "start");
    run(&mut world, 20);
    tell(&mut world, timer.part, "halt");
    run(&mut world, 40);
    assert_eq!(times(&world, "clock.struck"), 1);
}

#[test]
fn drawn_spans_lie_between_their_ends_and_follow_the_seed() {
    let strikes = |seed| {
        let mut world = World::<()>::with(stoicheon_core::Config { seed, ..Default::default() });
        let clock = object(&mut world, "clock");
        let span = Span { from: secs(1.0), to: Some(secs(2.0)) };
        world.attach(clock, Timer::every(span)).unwrap();
        let mut at = Vec::new();
        for tick in 0..3000_u64 {
            let before = times(&world, "clock.struck");
            run(&mut world, 1);
            if times(&world, "clock.struck") > before {
                at.push(tick);
            }
        }
        at
    };
    let (one, again, other) = (strikes(1), strikes(1), strikes(2));
    assert_eq!(one, again);
    assert_ne!(one, other);
    let gaps: Vec<_> = one.windows(2).map(|pair| pair[1] - pair[0]).collect();
    assert!(gaps.iter().all(|gap| (30..=60).contains(gap)), "{gaps:?}");
    assert!(gaps.iter().any(|gap| *gap < 40) && gaps.iter().any(|gap| *gap > 50));
}

#[test]
fn a_cycle_goes_round_and_can_be_held_skipped_and_turned() {
    let mut world = World::<()>::new();
    let hills = object(&mut world, "hills");
    let cycle =
        Cycle::new().state("dry", secs(1.0)).state("drizzle", secs(0.5)).state("spate", secs(2.0)).repeats();
    let cycle = world.attach(hills, cycle).unwrap();
    let state = |world: &World<()>| world.part::<Cycle>(cycle.part).unwrap().now().to_owned();
    let mut seen = Vec::new();
    for _ in 0..8 {
        run(&mut world, 15);
        seen.push(state(&world));
    }
    assert_eq!(seen, ["dry", "drizzle", "spate", "spate", "spate", "spate", "dry", "dry"]);
    tell(&mut world, cycle.part, "pause");
    run(&mut world, 90);
    assert_eq!(state(&world), "dry");
    tell(&mut world, cycle.part, "resume");
    tell(&mut world, cycle.part, "skip");
    run(&mut world, 1);
    assert_eq!(world.property(hills, "state").unwrap().as_text(), Some("drizzle"));
    tell_for(&mut world, None, cycle.part, "turn", &[("to", "spate".into())]);
    run(&mut world, 1);
    assert_eq!(state(&world), "spate");
    let faults =
        world.trace().records().filter(|(_, record)| matches!(record.event, Event::Fault { .. })).count();
    tell_for(&mut world, None, cycle.part, "turn", &[("to", "hail".into())]);
    run(&mut world, 1);
    let more =
        world.trace().records().filter(|(_, record)| matches!(record.event, Event::Fault { .. })).count();
    assert_eq!((state(&world), more), ("spate".to_owned(), faults + 1));
}

// ---- Players.

#[test]
fn counts_and_stages_are_each_players_own_and_wait_for_who_comes_back() {
    let mut world = World::<()>::new();
    let errand = object(&mut world, "errand");
    let stages =
        world.attach(errand, Stages::new(["stranger", "hunting", "done"]).per_player().remembered()).unwrap();
    let chased = object(&mut world, "chased");
    let tally = world.attach(chased, Tally::new().goal(3).per_player().remembered()).unwrap();
    let (ada, bob) = (world.player("ada").add().unwrap(), world.player("bob").add().unwrap());
    let [stage, count] = ["errand.state", "chased.count"].map(|name| world.find_var(name).unwrap());
    tell_for(&mut world, Some(ada), stages.part, "turn", &[("to", "hunting".into())]);
    for _ in 0..5 {
        tell_for(&mut world, Some(ada), tally.part, "count", &[]);
    }
    tell_for(&mut world, Some(bob), tally.part, "count", &[("by", 2.into())]);
    run(&mut world, 1);
    // At the goal it says so once, and counts no more.
    assert_eq!((times(&world, "chased.reached"), times(&world, "chased.counted")), (1, 4));
    let of = |world: &World<()>, who| {
        (world.value_of(stage, who).unwrap().clone(), world.value_of(count, who).unwrap().clone())
    };
    assert_eq!(of(&world, ada), ("hunting".into(), 3.into()));
    assert_eq!(of(&world, bob), ("stranger".into(), 2.into()));
    world.leave(ada).unwrap();
    run(&mut world, 2);
    let ada = world.join("ada", None).unwrap();
    run(&mut world, 1);
    assert_eq!(of(&world, ada), ("hunting".into(), 3.into()));
    tell_for(&mut world, None, stages.part, "turn", &[("to", "done".into()), ("everyone", true.into())]);
    tell_for(&mut world, None, tally.part, "reset", &[("everyone", true.into())]);
    run(&mut world, 1);
    assert_eq!((of(&world, ada), of(&world, bob)), (("done".into(), 0.into()), ("done".into(), 0.into())));
    assert_eq!(times(&world, "errand.changed"), 3);
    // What a part keeps, nobody else sets, binds or lets glide.
    assert!(world.set(stage, "hunting").unwrap_err().to_string().contains("kept by its stages"));
    assert!(world.bind(Kept::Var(count), 3.into()).is_err());
}

#[test]
fn what_a_wire_of_a_stage_has_begun_ends_with_the_stage() {
    let mut world = World::<()>::new();
    let errand = object(&mut world, "errand");
    let stages = world.attach(errand, Stages::new(["hunting", "done"]).per_player()).unwrap();
    let remind = world.declare_signal::<()>("remind").unwrap();
    let (ada, bob) = (world.player("ada").add().unwrap(), world.player("bob").add().unwrap());
    let said = world.declare(NewVar::new("said", 0).per_player()).unwrap();
    let more = Step::Set {
        target: Target::VarOf(said, Expr::Who),
        to: Expr::VarOf(said, Box::new(Expr::Who)).plus(1),
    };
    let steps = Steps::new().repeat(100, Steps::new().wait(secs(1.0)).step(more));
    world.on(remind).during(stages.part, "hunting").run_steps(steps).unwrap();
    for who in [ada, bob] {
        world.emit_for(Some(who), remind, ()).unwrap();
    }
    run(&mut world, 61);
    tell_for(&mut world, Some(ada), stages.part, "turn", &[("to", "done".into())]);
    run(&mut world, 60);
    let said = |world: &World<()>, who| world.value_of(said, who).unwrap().as_whole().unwrap();
    assert_eq!((said(&world, ada), said(&world, bob), world.waiting()), (2, 4, 1));
    // In another stage it is not taken at all.
    world.emit_for(Some(ada), remind, ()).unwrap();
    run(&mut world, 1);
    assert_eq!(world.waiting(), 1);
    assert!(world.on(remind).during(stages.part, "sleeping").run_steps(Steps::new()).is_err());
}

#[test]
fn a_question_is_put_to_each_alone_and_ends_with_an_answer_in_time_or_not() {
    let mut world = World::<()>::new();
    let asks = object(&mut world, "asks");
    let choice = world.attach(asks, Choice::new("Chase them off?", ["yes", "no"]).within(secs(2.0))).unwrap();
    let chosen = world.on(choice.chosen).into_mailbox().unwrap();
    let declined = world.on(choice.declined).into_mailbox().unwrap();
    let [ada, bob, cid, dot] = ["ada", "bob", "cid", "dot"].map(|name| world.player(name).add().unwrap());
    for who in [ada, bob, cid, dot, ada] {
        tell_for(&mut world, Some(who), choice.part, "ask", &[]);
    }
    run(&mut world, 30);
    assert_eq!(times(&world, "asks.asked"), 4);
    assert_eq!(world.questions_to(ada), [choice.part]);
    assert!(world.choose(ada, choice.part, "perhaps").is_err());
    world.choose(ada, choice.part, "no").unwrap();
    world.choose(ada, choice.part, "yes").unwrap();
    world.decline(bob, choice.part).unwrap();
    world.leave(cid).unwrap();
    run(&mut world, 31);
    let answers: Vec<_> =
        world.take_letters(chosen).unwrap().map(|letter| letter.payload.answer.0.to_string()).collect();
    assert_eq!(answers, ["no"]);
    let why: Vec<_> =
        world.take_letters(declined).unwrap().map(|letter| (letter.who, letter.payload.why)).collect();
    let expected = [(bob, NoAnswer::Declined), (cid, NoAnswer::Quit), (dot, NoAnswer::Late)];
    assert_eq!(why, expected.map(|(who, why)| (Some(who), why)));
    assert_eq!(world.part::<Choice>(choice.part).unwrap().open().count(), 0);
}

#[test]
fn the_time_to_answer_stands_still_while_the_question_is_off() {
    let mut world = World::<()>::new();
    let asks = object(&mut world, "asks");
    let choice = world.attach(asks, Choice::new("Well?", ["yes"]).within(secs(2.0))).unwrap();
    let [ada, bob] = ["ada", "bob"].map(|name| world.player(name).add().unwrap());
    tell_for(&mut world, Some(ada), choice.part, "ask", &[]);
    run(&mut world, 30);
    tell_for(&mut world, Some(bob), choice.part, "ask", &[]);
    run(&mut world, 10);
    world.disable(asks).unwrap();
    run(&mut world, 300);
    world.enable(asks).unwrap();
    let left = |world: &mut World<()>, ticks| {
        run(world, ticks);
        world.part::<Choice>(choice.part).unwrap().open().count()
    };
    assert_eq!(
        [left(&mut world, 19), left(&mut world, 3), left(&mut world, 26), left(&mut world, 4)],
        [2, 1, 1, 0]
    );
}

#[test]
fn what_is_carried_is_listed_at_once_and_set_down_by_who_leaves() {
    let mut world = World::<()>::new();
    let ada = world.player("ada").at(Vec3::X * 3.0).add().unwrap();
    let carrier = world.attach(ada, Carrier::new().holds(2)).unwrap();
    let items = ["copper", "silver", "gold"].map(|name| {
        let object = world.object(name).tag("token").body().add().unwrap();
        (object, world.attach(object, Item::new().held_at(Vec3::Y).shown()).unwrap())
    });
    let took = world.on(carrier.took).into_mailbox().unwrap();
    for (_, item) in &items {
        tell_for(&mut world, Some(ada), item.part, "take", &[]);
    }
    tell_for(&mut world, None, items[2].1.part, "take", &[]);
    run(&mut world, 1);
    let [copper, silver, gold] = items.map(|(object, _)| object);
    assert_eq!(world.carried_by(ada), [copper, silver]);
    assert_eq!(
        world.take_letters(took).unwrap().map(|letter| letter.payload).collect::<Vec<_>>(),
        [Held { item: copper }, Held { item: silver }]
    );
    assert_eq!(times(&world, "gold.refused"), 2);
    assert_eq!(world.place(copper).unwrap(), Vec3::new(3.0, 1.0, 0.0));
    // The one in hand is shown, the other is not; neither is in anybody's way.
    assert!(!world.is_hidden(copper) && world.is_hidden(silver) && !world.is_hidden(gold));
    assert!(world.is_passable(copper) && world.is_passable(silver) && !world.is_passable(gold));
    tell(&mut world, carrier.part, "next");
    run(&mut world, 1);
    assert!(world.is_hidden(copper) && !world.is_hidden(silver));
    let used = world.on(items[1].1.used).into_mailbox().unwrap();
    tell(&mut world, items[1].1.part, "use");
    run(&mut world, 1);
    assert_eq!(world.take_letters(used).unwrap().count(), 1);
    // Who hears that it is used up hears it, though it is gone.
    let heard = world.var("heard", 0).unwrap();
    world.on(items[1].1.consumed).run_steps(Steps::new().set(heard, 1)).unwrap();
    tell(&mut world, items[1].1.part, "consume");
    run(&mut world, 1);
    assert_eq!(world.value(heard).unwrap(), &Value::Whole(1));

    assert_eq!((world.carried_by(ada), world.find("silver")), (&[copper][..], None));
    world.leave(ada).unwrap();
    run(&mut world, 1);
    assert_eq!(world.state_word(items[0].1.part), Some("lying"));
    assert!(!world.is_passable(copper) && world.parent(copper).is_none());
}

// ---- Places and parameters.

#[test]
fn a_switch_weighs_what_stands_on_it() {
    let mut world = World::<()>::new();
    let plate = object(&mut world, "plate");
    world.attach(plate, Zone::boxed(Vec3::splat(2.0))).unwrap();
    let switch = world.attach(plate, Switch::pressure(2.0)).unwrap();
    let body = |world: &mut World<()>, name: &str| world.object(name).at(Vec3::X * 9.0).body().add().unwrap();
    let (crate_one, anvil) = (body(&mut world, "crate"), body(&mut world, "anvil"));
    world.declare(NewVar::new("weight", 1.5).of(anvil)).unwrap();
    let on = |world: &mut World<()>, object, here: bool| {
        world.put(object, if here { Vec3::ZERO } else { Vec3::X * 9.0 }).unwrap();
        run(world, 1);
        world.state_word(switch.part).unwrap().to_owned()
            + &format!(" {:?}", world.property(plate, "load").unwrap().as_number().unwrap())
    };
    assert_eq!(on(&mut world, crate_one, true), "off 1.0");
    assert_eq!(on(&mut world, anvil, true), "on 2.5");
    assert_eq!(on(&mut world, crate_one, false), "off 1.5");
    assert_eq!((times(&world, "plate.turned_on"), times(&world, "plate.turned_off")), (1, 1));
    // One that goes off by itself counts from the last time it was told.
    let lamp = object(&mut world, "lamp");
    let lamp_switch = world.attach(lamp, Switch::new().stays(secs(1.0))).unwrap();
    tell(&mut world, lamp_switch.part, "turn_on");
    run(&mut world, 20);
    tell(&mut world, lamp_switch.part, "turn_on");
    run(&mut world, 20);
    assert_eq!(world.state_word(lamp_switch.part), Some("on"));
    run(&mut world, 12);
    assert_eq!(world.state_word(lamp_switch.part), Some("off"));
}

#[test]
fn two_teleporters_that_lead_to_each_other_let_go() {
    let mut world = World::<()>::new();
    for (name, x, to) in [("one", 0.0, "there"), ("two", 20.0, "here")] {
        let mouth = world.object(name).at(Vec3::X * x).add().unwrap();
        world.attach(mouth, Zone::boxed(Vec3::splat(2.0)).admits("player")).unwrap();
        world.attach(mouth, Teleporter::to(to)).unwrap();
    }
    world.spot_at("here", None, Vec3::ZERO, Rotation::NONE).unwrap();
    world.spot_at("there", None, Vec3::X * 20.0, Rotation::NONE).unwrap();
    let ada = world.player("ada").at(Vec3::X * -5.0).add().unwrap();
    world.walk(ada, Vec3::ZERO, 4.0).unwrap();
    run(&mut world, 60);
    assert_eq!(
        (world.place(ada).unwrap(), times(&world, "one.sent"), times(&world, "two.sent")),
        (Vec3::X * 20.0, 1, 0)
    );
    // Out and in again, it is a teleporter like any other.
    for x in [15.0, 20.0] {
        world.walk(ada, Vec3::X * x, 4.0).unwrap();
        run(&mut world, 60);
    }
    assert_eq!((times(&world, "one.sent"), times(&world, "two.sent")), (1, 1));
}

#[test]
fn a_shake_rests_exactly_and_does_nothing_when_idle() {
    let mut world = World::<()>::new();
    let view = object(&mut world, "view");
    let shake = world.attach(view, Shake::new().strongest()).unwrap();
    let offset = |world: &World<()>| world.property(view, "offset").unwrap().as_vector().unwrap();
    tell_for(&mut world, None, shake.part, "shake", &[("by", 2.0.into()), ("for", ticks(20).into())]);
    run(&mut world, 5);
    assert!(offset(&world).length() > 0.0);
    tell_for(&mut world, None, shake.part, "shake", &[("by", 0.1.into())]);
    run(&mut world, 16);
    assert_eq!((offset(&world), world.state_word(shake.part)), (Vec3::ZERO, Some("resting")));
    // At rest nothing is told and nothing is fed to the digest, tick after tick.
    let (digest, records) = (world.trace().digest(), world.trace().len());
    run(&mut world, 100);
    assert_eq!((world.trace().digest(), world.trace().len()), (digest, records));
}

proptest! {
    /// However often a blend is turned, no number of it jumps, and it ends where it was last told to go.
    #[test]
    fn a_blend_never_jumps(turns in prop::collection::vec((0_usize..3, 0_u32..40, 1_usize..50), 1..12)) {
        let mut world = World::<()>::new();
        let river = object(&mut world, "river");
        let words = ["dry", "drizzle", "spate"];
        let blend = words.iter().zip([0.0, 1.0, 3.0]).fold(Blend::new(), |blend, (word, flow)| {
            blend.setting(word, [("flow", flow.into()), ("foam", (flow > 2.0).into())])
        });
        let blend = world.attach(river, blend).unwrap();
        let flow = |world: &World<()>| world.property(river, "flow").unwrap().as_number().unwrap();
        let mut last = 0;
        for (to, over, count) in turns {
            let fastest = 3.0 / f64::from(over + 1) * 2.0;
            let args = [("to", words[to].into()), ("over", ticks(u64::from(over) + 1).into()), ("ease", Ease::Smooth.word().into())];
            let moves = world.part::<Blend>(blend.part).unwrap().target() != words[to];
            tell_for(&mut world, None, blend.part, "blend", &args);
            last = to;
            for _ in 0..count {
                let before = flow(&world);
                run(&mut world, 1);
                prop_assert!(!moves || (flow(&world) - before).abs() <= fastest + 1e-9);
                prop_assert!((0.0..=3.0).contains(&flow(&world)));
            }
        }
        run(&mut world, 50);
        prop_assert_eq!(flow(&world), [0.0, 1.0, 3.0][last]);
        prop_assert_eq!(world.property(river, "foam"), Some(&Value::Bool(last == 2)));
        prop_assert_eq!(world.state_word(blend.part), Some("settled"));
    }
}

// ---- All of them.

/// A world with every part, in the middle of what it does.
fn busy() -> World<()> {
    let mut world = World::<()>::new();
    world.spot_at("steps", None, Vec3::X * 50.0, Rotation::NONE).unwrap();
    let ada = world.player("ada").add().unwrap();
    world.attach(ada, Carrier::new().holds(3)).unwrap();
    let one = |world: &mut World<()>, name: &str| world.object(name).body().add().unwrap();
    let gate = one(&mut world, "gate");
    let gate = world.attach(gate, Door::fade().over(secs(1.2)).stays(secs(1.0)).asks("token")).unwrap();
    let token = world.object("token").tag("token").body().add().unwrap();
    let item = world.attach(token, Item::new()).unwrap();
    let clock = one(&mut world, "clock");
    world.attach(clock, Timer::every(Span { from: secs(0.3), to: Some(secs(0.8)) }).pace(1.3)).unwrap();
    let hills = one(&mut world, "hills");
    world.attach(hills, Cycle::new().state("dry", secs(0.7)).state("wet", secs(0.9)).repeats()).unwrap();
    let river = one(&mut world, "river");
    let blend = Blend::new().setting("low", [("flow", 0.0.into())]).setting("high", [("flow", 2.0.into())]);
    let blend = world.attach(river, blend).unwrap();
    let view = one(&mut world, "view");
    let shake = world.attach(view, Shake::new()).unwrap();
    let asks = one(&mut world, "asks");
    let choice = world.attach(asks, Choice::new("?", ["yes"]).within(secs(2.0))).unwrap();
    let errand = one(&mut world, "errand");
    let stages = world.attach(errand, Stages::new(["one", "two"]).per_player()).unwrap();
    let chased = one(&mut world, "chased");
    let tally = world.attach(chased, Tally::new().goal(5).per_player()).unwrap();
    let lamp = one(&mut world, "lamp");
    let switch = world.attach(lamp, Switch::new().stays(secs(2.0))).unwrap();
    let drain = world.object("drain").at(Vec3::X * 20.0).add().unwrap();
    world.attach(drain, Zone::boxed(Vec3::splat(2.0))).unwrap();
    world.attach(drain, Teleporter::to("steps").stilled()).unwrap();
    run(&mut world, 2);
    for (part, command, args) in [
        (item.part, "take", vec![]),
        (gate.part, "open", vec![]),
        (blend.part, "blend", vec![("to", "high".into()), ("over", ticks(60).into())]),
        (shake.part, "shake", vec![("for", ticks(60).into())]),
        (choice.part, "ask", vec![]),
        (stages.part, "turn", vec![("to", "two".into())]),
        (tally.part, "count", vec![]),
        (switch.part, "turn_on", vec![]),
    ] {
        tell_for(&mut world, Some(ada), part, command, &args);
    }
    world.walk(ada, Vec3::X * 30.0, 20.0).unwrap();
    run(&mut world, 25);
    world
}

#[test]
fn every_part_goes_on_from_a_snapshot_as_it_would_have() {
    let mut world = busy();
    let snapshot = world.snapshot().unwrap();
    run(&mut world, 150);
    let digest = world.trace().digest();
    let ended = ["drain.sent", "asks.declined", "gate.closed"].map(|signal| times(&world, signal));
    assert_eq!(ended, [1, 1, 1]);
    world.restore(&snapshot).unwrap();
    run(&mut world, 150);
    assert_eq!(world.trace().digest(), digest);
    // And in another world, by way of data.
    let mut other = busy();
    run(&mut other, 40);
    other.restore(&snapshot).unwrap();
    run(&mut other, 150);
    assert_eq!(other.trace().digest(), digest);
}

/// Each number that a part has saved made another one in turn: it is refused, or goes on, and nothing panics.
#[test]
fn damaged_data_of_parts_never_panics() {
    let text = serde_json::to_string(&busy().snapshot().unwrap()).unwrap();
    // What parts have saved stands between the list of them and the end of its values.
    let from = text.find("\"kinds\":[").unwrap();
    let from = from + text[from..].find("\"values\":[").unwrap();
    let mut open = 0_i32;
    let ends = text[from..].find(|c: char| {
        open += i32::from(c == '[') - i32::from(c == ']');
        c == ']' && open == 0
    });
    let to = from + ends.unwrap();
    let is_part = |at: usize| text.as_bytes()[at].is_ascii_digit() || text.as_bytes()[at] == b'.';
    let begins = (from..to).filter(|at| is_part(*at) && !is_part(at - 1)).collect::<Vec<_>>();
    assert!(begins.len() > 80, "{} numbers", begins.len());
    let mut taken = 0;
    let mut world = busy();
    for at in begins {
        let end = at + text[at..].find(|c: char| !c.is_ascii_digit() && c != '.').unwrap();
        for with in ["0", "7", "1e300", "9223372036854775807", "18446744073709551615"] {
            let mut damaged = text.clone();
            damaged.replace_range(at..end, with);
            let Ok(damaged) = serde_json::from_str::<Snapshot>(&damaged) else { continue };
            if world.restore(&damaged).is_err() {
                continue;
            }
            taken += 1;
            for _ in 0..40 {
                let _ = world.step(&mut ());
            }
        }
    }
    assert!(taken > 100, "{taken} were taken");
}

#[test]
fn a_part_reads_nothing_but_what_a_part_of_its_kind_has_saved() {
    let world = busy();
    let mut kinds = 0;
    for object in world.objects() {
        for part in world.parts_of(object) {
            let Some(kind) = world.kind_of(*part) else { continue };
            kinds += 1;
            for wrong in [vec![], vec![Value::Nothing; 3], vec![Value::from("?"); 40]] {
                assert!(
                    !(kind.blank)().load(&wrong) || kind.name == "zone",
                    "a {} reads {wrong:?}",
                    kind.name
                );
            }
        }
    }
    assert!(kinds >= 13);
}

/// Every kind of the catalogue is written down whole, and keeps what it says that it keeps.
#[test]
fn every_kind_says_what_it_is() {
    let catalogue = Catalogue::built_in();
    assert_eq!(catalogue.parts().len(), 19);
    for part in catalogue.parts() {
        let sentence = |about: &str| about.ends_with('.') && about.len() > 8;
        assert!(sentence(&part.about), "{}", part.name);
        let abouts = part.signals.iter().map(|signal| &signal.about);
        let abouts = abouts.chain(part.settings.iter().map(|setting| &setting.about));
        let abouts = abouts.chain(part.commands.iter().map(|command| &command.about));
        let abouts = abouts.chain(part.variables.iter().map(|variable| &variable.about));
        let mut abouts =
            abouts.chain(part.commands.iter().flat_map(|c| c.params.iter().map(|param| &param.about)));
        assert!(abouts.all(|about| sentence(about)), "{}", part.name);
        assert!(part.words.as_ref().is_none_or(|words| part.setting(words).is_some()));
    }
    let world = busy();
    for object in world.objects() {
        for part in world.parts_of(object) {
            let Some(info) = world.kind_of(*part).and_then(|kind| catalogue.part(kind.name)) else {
                continue;
            };
            for variable in &info.variables {
                assert!(world.property(object, &variable.name).is_some(), "{}.{}", info.name, variable.name);
            }
        }
    }
}

// ---- A part of a game's own.

/// Winds itself up each time it is told to, and unwinds by one a second.
#[derive(Clone, Debug, Default)]
struct Spring(i64);

const SPRING: PartKind =
    PartKind::new("spring", "Winds up and unwinds.", |_, _| Ok(Box::new(Spring(0))), || Box::new(Spring(0)))
        .with_commands(&[stoicheon_core::CommandKind::new("wind", "It is wound by three.")]);

impl Part for Spring {
    fn kind(&self) -> &'static PartKind {
        &SPRING
    }
    fn variables(&self) -> Vec<NewVar> {
        vec![NewVar::new("wound", 0)]
    }
    fn command(&mut self, command: Command, cx: &mut PartCx<'_>) {
        self.0 += 3;
        cx.keep(0, None, self.0);
        cx.ring_in(ticks(30));
        // It cannot tell itself what to do.
        let told = cx.command(cx.id(), command, &[]);
        assert!(told.is_err());
    }
    fn due(&mut self, cx: &mut PartCx<'_>) {
        self.0 -= 1;
        cx.keep(0, None, self.0);
        if self.0 > 0 {
            cx.ring_in(ticks(30));
        } else {
            let told = cx.destroy(cx.object());
            cx.check(told);
        }
    }
    fn motion(&mut self, _: &mut PartCx<'_>) -> Activity {
        Activity::Still
    }
    fn save(&self, to: &mut Vec<Value>) {
        to.push(self.0.into());
    }
    fn load(&mut self, saved: &[Value]) -> bool {
        let [Value::Whole(wound)] = saved else { return false };
        self.0 = *wound;
        true
    }
}

#[test]
fn a_part_of_ones_own_has_alarms_and_variables_and_may_end_itself() {
    let mut world = World::<()>::new();
    let toy = object(&mut world, "toy");
    let spring = world.attach_kind(toy, &SPRING, &Settings::default()).unwrap();
    tell(&mut world, spring, "wind");
    run(&mut world, 31);
    assert_eq!(world.property(toy, "wound"), Some(&Value::Whole(2)));
    run(&mut world, 61);
    assert!(world.find("toy").is_none());
    run(&mut world, 100);
    assert!(world.command(spring, Command::default()).is_err());
}

#[test]
fn parts_and_reactions_come_due_in_the_order_they_began_to_wait() {
    let order = |first_timer: bool| {
        let mut world = World::<Vec<&'static str>>::new();
        let clock = world.object("clock").add().unwrap();
        let timer = world.attach(clock, Timer::after(secs(1.0)).idle()).unwrap();
        let done = world.declare_signal::<()>("done").unwrap();
        let go = world.declare_signal::<()>("go").unwrap();
        let start = Step::Command { part: timer.part, command: Timer::START, args: Vec::new() };
        let starts = Steps::new().step(start);
        let emits = Step::Emit { signal: done.id(), values: Vec::new() };
        let waits = Steps::new().wait(secs(1.0)).step(emits);
        let (one, two) = if first_timer { (starts, waits) } else { (waits, starts) };
        world.on(go).run_steps(one).unwrap();
        world.on(go).run_steps(two).unwrap();
        world.on(timer.struck).run(|seen: &mut Vec<_>, _, _| seen.push("struck")).unwrap();
        world.on(done).run(|seen: &mut Vec<_>, (), _| seen.push("done")).unwrap();
        world.emit(go, ()).unwrap();
        let mut seen = Vec::new();
        (0..40).try_for_each(|_| world.step(&mut seen)).unwrap();
        seen
    };
    assert_eq!((order(true), order(false)), (vec!["struck", "done"], vec!["done", "struck"]));
}

#[test]
fn a_timer_begins_before_its_object_is_told_that_it_has_started() {
    let mut world = World::<()>::new();
    let clock = object(&mut world, "clock");
    let timer = world.attach(clock, Timer::every(secs(1.0))).unwrap();
    let started = world.started_of(clock).unwrap();
    let pause = Step::Command { part: timer.part, command: Timer::PAUSE, args: Vec::new() };
    world.on(started).run_steps(Steps::new().step(pause)).unwrap();
    run(&mut world, 1);
    assert_eq!(world.state_word(timer.part), Some("paused"));
}

#[test]
fn what_a_part_hears_of_its_own_object_is_a_wire_like_any_other() {
    let mut world = World::<()>::new();
    world.spot_at("away", None, Vec3::X * 9.0, Rotation::NONE).unwrap();
    let pad = object(&mut world, "pad");
    // Whichever part comes first.
    let door = world.attach(pad, Door::swing(90.0).opens_on(OpensOn::Touch)).unwrap();
    world.attach(pad, Teleporter::to("away")).unwrap();
    let zone = world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap();
    let seen = world.var("seen", Vec3::ZERO).unwrap();
    let see = Step::Set { target: Target::Var(seen), to: Expr::Place(Box::new(Expr::Who)) };
    world.on(zone.entered).order(10).run_steps(Steps::new().step(see)).unwrap();
    let ada = world.player("ada").add().unwrap();
    run(&mut world, 1);
    let wires = world.trace().records().filter_map(|(_, record)| match record.event {
        Event::Took { wire } => Some(world.wire_place(wire)?.to_string()),
        _ => None,
    });
    let wires: Vec<_> = wires.filter(|place| place.starts_with("the ")).collect();
    assert_eq!(wires, ["the door of pad", "the teleporter of pad"]);
    assert_eq!(world.listeners(zone.entered), 3);
    // The wire between them saw her where she was.
    assert_eq!(
        (world.value(seen).unwrap(), world.place(ada).unwrap()),
        (&Value::from(Vec3::ZERO), Vec3::X * 9.0)
    );
    assert_eq!(world.state_word(door.part), Some("opening"));
    // With the object they sleep.
    world.disable(pad).unwrap();
    run(&mut world, 1);
    assert_eq!(world.listeners(zone.entered), 1);
}

// ---- Who wins.

/// Of several that would write one value in a tick, the law says which does, and the trace shows them all.
#[test]
fn of_two_that_write_one_value_the_law_says_who_wins_and_the_trace_shows_both() {
    let mut world = World::<()>::new();
    let level = world.var("level", 0.0).unwrap();
    let go = world.declare_signal::<()>("go").unwrap();
    let set = |to: f64| Steps::new().set(level, to);
    world.on(go).order(2).run_steps(set(2.0)).unwrap();
    world.on(go).order(1).run_steps(set(1.0)).unwrap();
    let tween = Step::Tween {
        target: Target::Var(level),
        to: 9.0.into(),
        over: Value::Duration(ticks(10)).into(),
        ease: Ease::Steady,
    };
    world.on(go).order(0).run_steps(Steps::new().step(tween)).unwrap();
    world.emit(go, ()).unwrap();
    run(&mut world, 1);
    let written = |world: &World<()>| -> Vec<String> {
        let events = world.trace().records().filter_map(|(_, record)| match record.event {
            Event::Set { from, to, .. } => Some(format!("{from:?} to {to:?}")),
            Event::Tweens { .. } => Some("tweens".to_owned()),
            Event::Fault { message, .. } => Some(message.to_string()),
            _ => None,
        });
        events.collect()
    };
    // Of statements the later one; what is set ends what glides.
    assert_eq!(written(&world), ["tweens", "Number(0.0) to Number(1.0)", "Number(1.0) to Number(2.0)"]);
    run(&mut world, 20);
    assert_eq!(world.value(level).unwrap(), &Value::Number(2.0));
    // What a part keeps, only the part writes: the other is a fault.
    let clock = object(&mut world, "clock");
    world.attach(clock, Timer::every(secs(1.0))).unwrap();
    let count = world.find_var("clock.count").unwrap();
    world.on(go).order(3).run_steps(Steps::new().set(count, 70)).unwrap();
    world.emit(go, ()).unwrap();
    run(&mut world, 1);
    let last = written(&world).pop().unwrap();
    assert_eq!(last, "variable \"clock.count\" is kept by its timer: command that instead");
    // And so what a bind keeps.
    let full = world.var("full", false).unwrap();
    world.bind(Kept::Var(full), Expr::var(level).more_than(1.0)).unwrap();
    run(&mut world, 1);
    assert!(world.set(full, false).is_err());
    assert_eq!(world.value(full).unwrap(), &Value::Bool(true));
}
