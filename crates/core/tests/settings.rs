//! What parts say of themselves, settings that change while the world runs, and binds of places, facings and settings.

use stoicheon_core::{
    BuildError, Carrier, Choice, Door, Error, Expr, Kept, Pick, Prompt, Rotation, Tally, Timer, Value, Vec3,
    World, Zone, playtest::PlaytestStep, secs, space::Shape, ticks,
};

fn steps<G: 'static + Default>(world: &mut World<G>, count: usize) {
    (0..count).for_each(|_| world.step(&mut G::default()).unwrap());
}

fn span(count: u64) -> Value {
    Value::Duration(ticks(count))
}

#[test]
fn a_door_says_how_far_it_is_and_goes_on_from_there_at_another_pace() {
    let mut world = World::<()>::new();
    let gate = world.object("gate").add().unwrap();
    let door = world.attach(gate, Door::swing(85.0).over(secs(2.0))).unwrap();
    let openness =
        |world: &World<()>| world.reading(door.part, "openness", None).unwrap().as_number().unwrap();
    world.open(door).unwrap();
    steps(&mut world, 30);
    assert_eq!(openness(&world), 0.5);
    world.change(door.part, "over", span(120)).unwrap();
    steps(&mut world, 30);
    assert_eq!(openness(&world), 0.75);
    // Back again, four times as fast.
    world.change(door.part, "over", span(30)).unwrap();
    world.close(door).unwrap();
    steps(&mut world, 12);
    assert!((openness(&world) - 11.0 / 30.0).abs() < 1e-9, "{}", openness(&world));
    // It stands open for so long, from now on.
    world.open(door).unwrap();
    steps(&mut world, 30);
    world.change(door.part, "stays", span(10)).unwrap();
    steps(&mut world, 10);
    assert_eq!(openness(&world), 1.0);
    steps(&mut world, 2);
    assert!(openness(&world) < 1.0);
}

#[test]
fn a_timer_says_what_is_left_and_keeps_what_has_passed() {
    let mut world = World::<u32>::new();
    let clock = world.object("clock").add().unwrap();
    let timer = world.attach(clock, Timer::after(secs(10.0)).idle()).unwrap();
    world.on(timer.struck).run(|struck: &mut u32, _, _| *struck += 1).unwrap();
    let left = |world: &World<u32>| world.reading(timer.part, "left", None).unwrap();
    assert_eq!(left(&world), span(0));
    world.command(timer.part, Timer::START).unwrap();
    steps(&mut world, 91);
    assert_eq!(left(&world), span(210));
    world.change(timer.part, "after", span(150)).unwrap();
    steps(&mut world, 1);
    assert_eq!(left(&world), span(60 - 1));
    world.change(timer.part, "pace", 2.0).unwrap();
    steps(&mut world, 1);
    assert_eq!(left(&world), Value::Duration(ticks(29)));
    world.command(timer.part, Timer::PAUSE).unwrap();
    steps(&mut world, 50);
    assert_eq!(left(&world), Value::Duration(ticks(28)));
    // Less than has passed already: it strikes at once when it goes on.
    world.change(timer.part, "after", span(5)).unwrap();
    world.command(timer.part, Timer::RESUME).unwrap();
    let mut struck = 0;
    (0..2).for_each(|_| world.step(&mut struck).unwrap());
    assert_eq!((struck, left(&world)), (1, span(0)));
}

#[test]
fn prompts_and_picks_reach_as_far_as_they_are_told_and_labels_change() {
    let mut world = World::<u32>::new();
    let post = world.object("post").at(Vec3::new(5.0, 0.0, 0.0)).add().unwrap();
    let prompt = world.attach(post, Prompt::new("Wind").hold(secs(1.0)).reach(2.0)).unwrap();
    let stone = world.object("stone").at(Vec3::new(0.0, 0.0, 9.0)).add().unwrap();
    let pick = world.attach(stone, Pick::of(Shape::ball(1.0)).reach(3.0)).unwrap();
    world.on(pick.picked).run(|picked: &mut u32, _, _| *picked += 1).unwrap();
    let (ada, bob) = (world.player("ada").add().unwrap(), world.player("bob").add().unwrap());
    let point = |world: &mut World<u32>| {
        let to = PlaytestStep::Point { who: ada, to: Vec3::new(0.0, 0.0, 9.0), button: "primary".into() };
        let ran = stoicheon_core::playtest::Playtest::new("p").step(to);
        let mut picked = 0;
        assert!(ran.run(world, &mut picked).unwrap().passed());
        picked
    };
    assert_eq!((world.offered_to(ada), point(&mut world)), (None, 0));
    world.change(prompt.part, "reach", 6.0).unwrap();
    world.change(prompt.part, "label", "Wind it again").unwrap();
    world.change(pick.part, "reach", 9.0).unwrap();
    steps(&mut world, 1);
    assert_eq!((world.offered_to(ada), point(&mut world)), (Some(prompt.part), 1));
    assert_eq!(world.offer_to(bob).unwrap().label, "Wind it again");
    // Each player has held it for a time of their own.
    world.press(ada, "use").unwrap();
    steps(&mut world, 16);
    let held = |world: &World<u32>, who| world.reading(prompt.part, "held", who);
    assert_eq!((held(&world, Some(ada)), held(&world, Some(bob))), (Some(0.5.into()), Some(0.0.into())));
    assert_eq!(held(&world, None), None);
    // Another key: what is held is another one.
    world.change(prompt.part, "key", "wind").unwrap();
    steps(&mut world, 1);
    assert_eq!(held(&world, Some(ada)), Some(0.0.into()));
    world.change(prompt.part, "reach", 4.0).unwrap();
    steps(&mut world, 1);
    assert_eq!(world.offered_to(ada), None);
}

#[test]
fn tallies_carriers_and_choices_change_too() {
    let mut world = World::<u32>::new();
    let boats = world.object("boats").add().unwrap();
    let tally = world.attach(boats, Tally::new().goal(5)).unwrap();
    world.on(tally.reached).run(|reached: &mut u32, (), _| *reached += 1).unwrap();
    world.command_for(None, tally.part, Tally::COUNT, &[("by", 3.into())]).unwrap();
    steps(&mut world, 1);
    let mut reached = 0;
    world.change(tally.part, "goal", 2.0).unwrap();
    world.step(&mut reached).unwrap();
    world.change(tally.part, "goal", 1.0).unwrap();
    world.step(&mut reached).unwrap();
    assert_eq!(reached, 1, "it is reached once");
    world.change(tally.part, "goal", 9.0).unwrap();
    world.command_for(None, tally.part, Tally::COUNT, &[("by", 7.into())]).unwrap();
    world.step(&mut reached).unwrap();
    assert_eq!(reached, 2);

    let ada = world.player("ada").add().unwrap();
    let carrier = world.attach(ada, Carrier::new().holds(1)).unwrap();
    world.change(carrier.part, "holds", 3.0).unwrap();
    let desk = world.object("desk").add().unwrap();
    let choice = world.attach(desk, Choice::new("Pay?", ["yes", "no"]).within(secs(3.0))).unwrap();
    world.command_for(Some(ada), choice.part, Choice::ASK, &[]).unwrap();
    world.change(choice.part, "question", "Pay two?").unwrap();
    steps(&mut world, 31);
    assert_eq!(world.reading(carrier.part, "holds", None), Some(3.0.into()));
    assert_eq!(world.reading(choice.part, "question", None), Some("Pay two?".into()));
    assert_eq!(world.reading(choice.part, "left", Some(ada)), Some(span(60)));
    assert_eq!(world.reading(choice.part, "left", None), None);
}

#[test]
fn what_may_not_change_is_refused_and_changes_nothing() {
    let mut world = World::<()>::new();
    let gate = world.object("gate").add().unwrap();
    let door = world.attach(gate, Door::swing(85.0)).unwrap();
    let post = world.object("post").add().unwrap();
    let prompt = world.attach(post, Prompt::new("Wind")).unwrap();
    let boats = world.object("boats").add().unwrap();
    let tally = world.attach(boats, Tally::new().goal(5).per_player()).unwrap();
    let refused = |told: Result<(), Error>| told.unwrap_err().to_string();
    assert_eq!(
        refused(world.change(door.part, "ovr", span(3))),
        "a door has no setting \"ovr\" that may change while the world runs; did you mean \"over\"?",
    );
    assert!(matches!(world.change(door.part, "swing", 3.0), Err(Error::FixedSetting { .. })));
    assert_eq!(
        refused(world.change(prompt.part, "reach", "far")),
        "`reach` of a prompt is a number, found text"
    );
    for fixed in [200, 4] {
        assert!(world.bind(Kept::Setting(prompt.part, fixed), 1.0.into()).is_err());
    }
    // Out of its range: told as a fault, and left as it is.
    for (part, setting, to) in [
        (prompt.part, "reach", Value::from(-1.0)),
        (prompt.part, "reach", f64::NAN.into()),
        (tally.part, "goal", 3.0.into()),
    ] {
        let before = (world.faults_so_far(), world.reading(part, setting, None));
        world.change(part, setting, to).unwrap();
        steps(&mut world, 1);
        assert_eq!((world.faults_so_far(), world.reading(part, setting, None)), (before.0 + 1, before.1));
    }
    world.destroy(gate).unwrap();
    steps(&mut world, 1);
    assert_eq!(world.reading(door.part, "openness", None), None);
    assert!(world.change(door.part, "over", span(3)).is_err());
}

#[test]
fn places_facings_and_settings_are_kept() {
    let mut world = World::<u32>::new();
    let level = world.var("level", 0.0).unwrap();
    let float = world.object("float").body().add().unwrap();
    let up = |factor: f64| {
        let y = Expr::Arithmetic(
            stoicheon_core::Arithmetic::Multiply,
            Box::new(Expr::var(level)),
            Box::new(factor.into()),
        );
        Expr::Vector(Box::new([0.0.into(), y, 0.0.into()]))
    };
    world.bind(Kept::Place(float), up(10.0)).unwrap();
    let turn = Expr::Turn { degrees: Box::new(Expr::var(level)), about: Vec3::Y };
    world.bind(Kept::Facing(float), turn).unwrap();
    let post = world.object("post").add().unwrap();
    let prompt = world.attach(post, Prompt::new("Wind")).unwrap();
    let reach = world.setting_of(prompt.part, "reach").unwrap();
    world.bind(Kept::Setting(prompt.part, reach), Expr::var(level).plus(1.0)).unwrap();
    let thin = world.object("thin").at(Vec3::new(0.0, 5.0, 0.0)).add().unwrap();
    let zone = world.attach(thin, Zone::boxed(Vec3::new(2.0, 0.01, 2.0))).unwrap();
    world.on(zone.entered).run(|crossed: &mut u32, _, _| *crossed += 1).unwrap();
    let twice = world.bind(Kept::Place(float), up(1.0));
    assert!(matches!(twice, Err(Error::Build(BuildError::BoundTwice { .. }))), "{twice:?}");

    let mut crossed = 0;
    world.step(&mut crossed).unwrap();
    world.set(level, 1.0).unwrap();
    (0..2).for_each(|_| world.step(&mut crossed).unwrap());
    assert_eq!((world.place(float).unwrap(), crossed), (Vec3::new(0.0, 10.0, 0.0), 1));
    assert_eq!(world.facing(float).unwrap(), Rotation::about(Vec3::Y, 1.0));
    assert_eq!(world.reading(prompt.part, "reach", None), Some(2.0.into()));
    // Nothing else sets what a bind keeps.
    let before = world.faults_so_far();
    world.change(prompt.part, "reach", 9.0).unwrap();
    world.step(&mut crossed).unwrap();
    assert_eq!(
        (world.faults_so_far(), world.reading(prompt.part, "reach", None)),
        (before + 1, Some(2.0.into()))
    );
    // It is as it was in a world that takes the snapshot up.
    let snapshot = world.snapshot().unwrap();
    world.set(level, 3.0).unwrap();
    (0..2).for_each(|_| world.step(&mut crossed).unwrap());
    assert_eq!(world.reading(prompt.part, "reach", None), Some(4.0.into()));
    world.restore(&snapshot).unwrap();
    assert_eq!(world.reading(prompt.part, "reach", None), Some(2.0.into()));
    assert_eq!(world.place(float).unwrap(), Vec3::new(0.0, 10.0, 0.0));
    // What it is bound to goes out of its range: a fault, and the last one stays.
    let before = world.faults_so_far();
    world.set(level, -3.0).unwrap();
    (0..2).for_each(|_| world.step(&mut crossed).unwrap());
    assert_eq!(world.faults_so_far(), before + 1);
    assert_eq!(world.reading(prompt.part, "reach", None), Some(2.0.into()));
}

#[test]
fn two_that_chase_each_other_go_a_step_at_a_time_and_circles_are_refused() {
    let mut world = World::<()>::new();
    let [one, two] = ["one", "two"].map(|name| world.object(name).add().unwrap());
    let beside = |of: Expr| {
        let place = Expr::Place(Box::new(of));
        Expr::Arithmetic(
            stoicheon_core::Arithmetic::Add,
            Box::new(place),
            Box::new(Vec3::new(1.0, 0.0, 0.0).into()),
        )
    };
    let circle = world.bind(Kept::Place(one), beside(one.into())).unwrap_err().to_string();
    assert!(circle.contains("one.place"), "{circle}");
    world.bind(Kept::Place(one), beside(two.into())).unwrap();
    let circle = world.bind(Kept::Place(two), beside(one.into())).unwrap_err().to_string();
    assert!(circle.contains("one.place") && circle.contains("two.place"), "{circle}");
    // One that is known only then is not told from another: it goes on a step at a time.
    let it = world.var("it", Value::Object(one)).unwrap();
    world.bind(Kept::Place(two), beside(Expr::var(it))).unwrap();
    steps(&mut world, 10);
    let at = world.place(one).unwrap().x;
    assert!((1.0..200.0).contains(&at), "{at}");

    let (near, tag) = (world.object("near").tag("float").add().unwrap(), world.tag_named("float").unwrap());
    world.bind(Kept::EachPlace(tag), Expr::Vector(Box::new([2.0.into(), 0.0.into(), 0.0.into()]))).unwrap();
    let later = world.object("later").tag("float").add().unwrap();
    steps(&mut world, 2);
    assert_eq!([near, later].map(|float| world.place(float).unwrap().x), [2.0, 2.0]);
}
