//! Variables, expressions, binds and tweens.

use stoicheon_core::{
    Among, Arithmetic, BuildError, Colour, Comparison, Door, Ease, Error, EvalFault, Event, Expr, Function,
    Kept, Moved, NewVar, ObjectId, Rotation, Step, Target, TickRate, Type, Value, VarId, Vec3, World, secs,
    ticks,
};

fn arithmetic(how: Arithmetic, one: impl Into<Value>, two: impl Into<Value>) -> Expr {
    Expr::Arithmetic(how, Box::new(one.into().into()), Box::new(two.into().into()))
}

fn eval_faults(world: &World<()>) -> Vec<EvalFault> {
    let eval_fault = |event: &Event| {
        if let Event::Miscalculated { eval_fault } = event { Some(*eval_fault) } else { None }
    };
    world.trace().records().filter_map(|(_, record)| eval_fault(&record.event)).collect()
}

/// What an expression gives in a statement, and what went wrong on the way.
fn work_out(expr: Expr) -> (Value, Vec<EvalFault>) {
    let mut world = World::<()>::new();
    let bell = world.declare_signal::<()>("bell").unwrap();
    let result = world.declare(NewVar::new("result", Value::Nothing)).unwrap();
    world.on(bell).run_steps([Step::Set { target: Target::Var(result), to: expr }]).unwrap();
    world.emit(bell, ()).unwrap();
    world.step(&mut ()).unwrap();
    (world.value(result).unwrap().clone(), eval_faults(&world))
}

#[test]
fn arithmetic_keeps_to_the_kinds_of_number() {
    use Arithmetic::{Add, Divide, Multiply, Subtract};
    let span = |count| Value::Duration(ticks(count));
    for (expr, expected) in [
        (arithmetic(Add, 2_i64, 3_i64), 5_i64.into()),
        (arithmetic(Add, 2_i64, 0.5), 2.5.into()),
        (arithmetic(Divide, 7_i64, 2_i64), 3.5.into()),
        (arithmetic(Multiply, 4_i64, 3_i64), 12_i64.into()),
        (arithmetic(Add, ticks(30), ticks(15)), span(45)),
        (arithmetic(Subtract, ticks(30), ticks(10)), span(20)),
        (arithmetic(Multiply, ticks(30), 1.5), span(45)),
        (arithmetic(Divide, ticks(30), 4_i64), TickRate::default().ticks(secs(0.25)).unwrap().into()),
        (arithmetic(Divide, ticks(30), ticks(60)), 0.5.into()),
        (arithmetic(Add, Vec3::X, Vec3::Y), Vec3::new(1.0, 1.0, 0.0).into()),
        (arithmetic(Multiply, 2_i64, Vec3::X), (Vec3::X * 2.0).into()),
        (arithmetic(Add, "five", 1_i64), Value::Nothing),
        (arithmetic(Add, true, 1_i64), Value::Nothing),
    ] {
        assert_eq!(work_out(expr.clone()), (expected, vec![]), "{expr:?}");
    }
}

#[test]
fn what_has_no_answer_has_a_result_that_is_laid_down_and_is_traced() {
    use Arithmetic::{Add, Divide, Multiply, Subtract};
    let call =
        |function, values: &[Value]| Expr::Call(function, values.iter().cloned().map(Expr::Value).collect());
    for (expr, expected, eval_fault) in [
        (arithmetic(Divide, 7_i64, 0_i64), 0.0.into(), EvalFault::DividedByZero),
        (arithmetic(Divide, 0.0, 0.0), 0.0.into(), EvalFault::DividedByZero),
        (arithmetic(Divide, ticks(9), 0_i64), ticks(0).into(), EvalFault::DividedByZero),
        (arithmetic(Divide, Vec3::X, 0.0), Vec3::ZERO.into(), EvalFault::DividedByZero),
        (arithmetic(Multiply, f64::MAX, 2.0), 0.0.into(), EvalFault::NotFinite),
        (arithmetic(Add, f64::NAN, 2.0), 0.0.into(), EvalFault::NotFinite),
        (arithmetic(Add, i64::MAX, 1_i64), i64::MAX.into(), EvalFault::PastRange),
        (arithmetic(Subtract, i64::MIN, 1_i64), i64::MIN.into(), EvalFault::PastRange),
        (arithmetic(Multiply, i64::MAX, -2_i64), i64::MIN.into(), EvalFault::PastRange),
        (arithmetic(Subtract, ticks(3), ticks(5)), ticks(0).into(), EvalFault::PastRange),
        (call(Function::Round, &[1e300.into()]), i64::MAX.into(), EvalFault::PastRange),
        (call(Function::Abs, &[i64::MIN.into()]), i64::MAX.into(), EvalFault::PastRange),
        (call(Function::Remainder, &[5_i64.into(), 0_i64.into()]), 0_i64.into(), EvalFault::DividedByZero),
    ] {
        assert_eq!(work_out(expr.clone()), (expected, vec![eval_fault]), "{expr:?}");
    }
}

#[test]
fn functions_do_as_they_say() {
    let call =
        |function, values: &[Value]| Expr::Call(function, values.iter().cloned().map(Expr::Value).collect());
    for (function, values, expected) in [
        (Function::Min, vec![3_i64.into(), 2_i64.into(), 5_i64.into()], Value::Whole(2)),
        (Function::Max, vec![3.0.into(), 2_i64.into()], Value::Number(3.0)),
        (Function::Clamp, vec![7_i64.into(), 0_i64.into(), 5_i64.into()], Value::Whole(5)),
        (Function::Lerp, vec![0.0.into(), 10.0.into(), 0.25.into()], Value::Number(2.5)),
        (Function::Lerp, vec![Vec3::ZERO.into(), Vec3::X.into(), 0.5.into()], (Vec3::X * 0.5).into()),
        (Function::Abs, vec![(-3_i64).into()], Value::Whole(3)),
        (Function::Round, vec![2.5.into()], Value::Whole(3)),
        (Function::Round, vec![(-2.5).into()], Value::Whole(-3)),
        (Function::Floor, vec![(-2.5).into()], Value::Whole(-3)),
        (Function::Ceil, vec![2.1.into()], Value::Whole(3)),
        (Function::Remainder, vec![(-1_i64).into(), 4_i64.into()], Value::Whole(3)),
        (Function::Length, vec![Vec3::new(3.0, 4.0, 0.0).into()], Value::Number(5.0)),
        (Function::Min, vec!["a".into(), 2_i64.into()], Value::Nothing),
    ] {
        assert_eq!(work_out(call(function, &values)), (expected, vec![]), "{function:?} {values:?}");
    }
}

#[test]
fn a_fault_of_a_guard_is_traced_with_the_delivery() {
    let mut world = World::<()>::new();
    let bell = world.declare_signal::<()>("bell").unwrap();
    let none = world.var("none", 0.0).unwrap();
    let share = Expr::Arithmetic(Arithmetic::Divide, Box::new(1.0.into()), Box::new(Expr::var(none)));
    world.on(bell).when(share.more_than(0.5)).run_steps(&[] as &[Step]).unwrap();
    world.emit(bell, ()).unwrap();
    world.step(&mut ()).unwrap();
    assert_eq!(eval_faults(&world), [EvalFault::DividedByZero]);
}

#[test]
fn random_numbers_are_drawn_by_statements_alone_and_are_the_same_for_the_same_seed() {
    let draw = |seed| {
        let mut world = World::<()>::with(stoicheon_core::Config { seed, ..Default::default() });
        let bell = world.declare_signal::<()>("bell").unwrap();
        let drawn = world.var("drawn", 0.0).unwrap();
        let random = Expr::Random(Box::new(2.0.into()), Box::new(4.0.into()));
        assert_eq!(world.evaluate(&random), Value::Nothing);
        assert!(matches!(
            world.bind(Kept::Var(drawn), random.clone()),
            Err(Error::Build(BuildError::RandomBind { .. }))
        ));
        world.on(bell).run_steps([Step::Set { target: Target::Var(drawn), to: random }]).unwrap();
        let mut numbers = Vec::new();
        for _ in 0..20 {
            world.emit(bell, ()).unwrap();
            world.step(&mut ()).unwrap();
            numbers.push(world.value(drawn).unwrap().as_number().unwrap());
        }
        assert!(numbers.iter().all(|number| (2.0..4.0).contains(number)));
        numbers
    };
    assert_eq!(draw(1), draw(1));
    assert_ne!(draw(1), draw(2));
}

fn gates(world: &mut World<()>) -> [stoicheon_core::DoorHandle; 3] {
    [(0.0, "one"), (5.0, "two"), (9.0, "three")].map(|(x, name)| {
        let gate = world.object(name).at(Vec3::X * x).tag("gate").add().unwrap();
        world.attach(gate, Door::swing(85.0).over(secs(0.1))).unwrap()
    })
}

#[test]
fn groups_are_counted_asked_for_any_and_searched_for_the_nearest() {
    let mut world = World::<()>::new();
    let handles = gates(&mut world);
    let tag = world.tag_named("gate").unwrap();
    let open = Expr::StateOf { object: Box::new(Expr::It), test: world.state_test("open") };
    let all = || Box::new(Among::tagged(tag));
    let that_are_open = Box::new(Among::tagged(tag).such_that(open));
    let nearest = |x: f32| Expr::Nearest { among: all(), to: Box::new((Vec3::X * x).into()) };
    let name = |world: &World<()>, expr: &Expr| {
        let object = world.evaluate(expr).as_object();
        object.and_then(|object| world.name(object)).map(str::to_owned)
    };
    assert_eq!(world.evaluate(&Expr::Count(all())), Value::Whole(3));
    assert_eq!(world.evaluate(&Expr::Any(that_are_open.clone())), Value::Bool(false));
    // Between two that are as near, the one that was made first.
    assert_eq!(name(&world, &nearest(7.0)).as_deref(), Some("two"));
    assert_eq!(name(&world, &nearest(100.0)).as_deref(), Some("three"));
    world.command(handles[1].part, Door::TO_OPEN).unwrap();
    (0..5).for_each(|_| world.step(&mut ()).unwrap());
    assert_eq!(world.evaluate(&Expr::Count(that_are_open)), Value::Whole(1));
    let two = world.find("two").unwrap();
    world.untag(two, "gate").unwrap();
    assert_eq!(name(&world, &nearest(5.0)).as_deref(), Some("three"));
    world.destroy(world.find("one").unwrap()).unwrap();
    world.step(&mut ()).unwrap();
    assert_eq!(world.evaluate(&Expr::Count(all())), Value::Whole(1));
}

#[test]
fn each_player_has_a_variable_of_their_own_until_it_is_set_for_all() {
    let mut world = World::<()>::new();
    let errand = NewVar::new("errand", "stranger").of_type(Type::one_of(["stranger", "hunting", "done"]));
    let errand = world.declare(errand.per_player()).unwrap();
    let [ada, bob] = ["ada", "bob"].map(|name| world.player(name).add().unwrap());
    let of = |world: &World<()>, who| world.value_of(errand, who).unwrap().as_text().unwrap().to_owned();
    world.set_of(errand, ada, "hunting").unwrap();
    world.step(&mut ()).unwrap();
    assert_eq!([of(&world, ada), of(&world, bob)], ["hunting", "stranger"]);
    assert!(matches!(world.set_of(errand, ada, "fishing"), Err(Error::WrongType { .. })));
    world.set(errand, "done").unwrap();
    world.step(&mut ()).unwrap();
    assert_eq!([of(&world, ada), of(&world, bob)], ["done", "done"]);
    let cleo = world.player("cleo").add().unwrap();
    assert_eq!(of(&world, cleo), "done");
}

struct Lamps {
    world: World<()>,
    level: VarId,
    lit: VarId,
    glow: VarId,
}

fn lamps() -> Lamps {
    let mut world = World::new();
    let level = world.var("level", 0.0).unwrap();
    let lamp = world.object("lamp").add().unwrap();
    let lit = world.declare(NewVar::new("lit", false).of(lamp)).unwrap();
    let glow = world.declare(NewVar::new("glow", 0.0).of(lamp)).unwrap();
    Lamps { world, level, lit, glow }
}

/// How often binds set something.
fn kept(world: &World<()>) -> usize {
    world.trace().records().filter(|(_, record)| matches!(record.event, Event::Kept { .. })).count()
}

#[test]
fn a_bind_follows_what_it_reads_through_other_binds_and_is_looked_at_only_then() {
    let Lamps { mut world, level, lit, glow } = lamps();
    // Made in the wrong order on purpose: each comes after what it reads all the same.
    let glowing = Expr::var(lit).and(Expr::var(level).more_than(0.8));
    let bright = world.declare(NewVar::new("bright", false)).unwrap();
    world.bind(Kept::Var(bright), glowing).unwrap();
    world.bind(Kept::Var(lit), Expr::var(level).more_than(0.5)).unwrap();
    world.step(&mut ()).unwrap();
    for (to, expected) in
        [(0.6, (true, false)), (0.9, (true, true)), (0.7, (true, false)), (0.1, (false, false))]
    {
        world.set(level, to).unwrap();
        world.step(&mut ()).unwrap();
        let now = (world.value(lit).unwrap().as_bool(), world.value(bright).unwrap().as_bool());
        assert_eq!(now, (Some(expected.0), Some(expected.1)), "{to}");
    }
    let before = kept(&world);
    world.set(glow, 1.0).unwrap();
    (0..10).for_each(|_| world.step(&mut ()).unwrap());
    assert_eq!(kept(&world), before, "nothing it reads has changed");
}

#[test]
fn a_bind_is_true_again_before_the_next_signal_is_delivered() {
    let Lamps { mut world, level, lit, .. } = lamps();
    world.bind(Kept::Var(lit), Expr::var(level).more_than(0.5)).unwrap();
    let [up, look] = ["up", "look"].map(|name| world.declare_signal::<()>(name).unwrap());
    let seen = world.var("seen", false).unwrap();
    let raise = [Step::Set { target: Target::Var(level), to: 1.0.into() }];
    world.on(up).run_steps(raise).unwrap();
    let note = [Step::Set { target: Target::Var(seen), to: Expr::var(lit) }];
    world.on(look).run_steps(note).unwrap();
    world.emit(up, ()).unwrap();
    world.emit(look, ()).unwrap();
    world.step(&mut ()).unwrap();
    assert_eq!(world.value(seen).unwrap(), &Value::Bool(true));
}

#[test]
fn what_a_bind_keeps_cannot_be_set_and_a_circle_of_binds_cannot_be_made() {
    let Lamps { mut world, level, lit, glow } = lamps();
    world.bind(Kept::Var(lit), Expr::var(level).more_than(0.5)).unwrap();
    assert!(matches!(world.set(lit, true), Err(Error::Bound { .. })));
    assert!(matches!(
        world.bind(Kept::Var(lit), true.into()),
        Err(Error::Build(BuildError::BoundTwice { .. }))
    ));
    let from_glow = Expr::var(glow).plus(1.0);
    world.bind(Kept::Var(level), from_glow).unwrap();
    let from_lit = Expr::Call(Function::Max, vec![Expr::var(level), 0.0.into()]);
    let circle = world.bind(Kept::Var(glow), from_lit).unwrap_err();
    let Error::Build(BuildError::BindCircle { circle }) = &circle else { panic!("{circle}") };
    let names: Vec<_> = circle.iter().map(|link| link.split(' ').next().unwrap()).collect();
    assert_eq!(names, ["lamp.glow", "level", "lamp.glow"]);
    // What could not be made has left nothing behind.
    world.set(glow, 3.0).unwrap();
    world.step(&mut ()).unwrap();
    assert_eq!(world.value(level).unwrap(), &Value::Number(4.0));
}

#[test]
fn a_bind_for_each_of_a_group_keeps_those_who_join_later_too() {
    let mut world = World::<()>::new();
    gates(&mut world);
    let [tag, lamp] = ["gate", "lamp"].map(|tag| world.tag_named(tag).unwrap());
    let lit = world.property_named("lit").unwrap();
    let open = world.state_test("open");
    let add = |world: &mut World<()>, name: &str, x: f32| -> ObjectId {
        let lamp = world.object(name).at(Vec3::X * x).tag("lamp").add().unwrap();
        world.declare(NewVar::new("lit", false).of(lamp)).unwrap();
        lamp
    };
    let first = add(&mut world, "first", 1.0);
    let nearest = Expr::Nearest { among: Box::new(Among::tagged(tag)), to: Box::new(Expr::It) };
    world.bind(Kept::Each(lamp, lit), Expr::StateOf { object: Box::new(nearest), test: open }).unwrap();
    let second = add(&mut world, "second", 8.0);
    let gate = world.find("three").unwrap();
    world.command(world.parts_of(gate)[0], Door::TO_OPEN).unwrap();
    (0..6).for_each(|_| world.step(&mut ()).unwrap());
    let lit_of = |world: &World<()>, lamp| world.property(lamp, "lit").unwrap().as_bool().unwrap();
    assert_eq!([lit_of(&world, first), lit_of(&world, second)], [false, true]);
    // It goes to where another gate is nearest.
    world.put(second, Vec3::X * 4.0).unwrap();
    world.step(&mut ()).unwrap();
    assert!(!lit_of(&world, second));
}

#[test]
fn a_tween_starts_where_the_value_is_arrives_exactly_and_gives_way_to_whatever_comes_after() {
    let Lamps { mut world, glow, .. } = lamps();
    let bell = world.declare_signal::<()>("bell").unwrap();
    let tween = |to: f64, ease| Step::Tween {
        target: Target::Var(glow),
        to: to.into(),
        over: ticks(10).into(),
        ease,
    };
    world.on(bell).run_steps([tween(1.0, Ease::Steady)]).unwrap();
    world.emit(bell, ()).unwrap();
    let mut seen = Vec::new();
    for _ in 0..12 {
        world.step(&mut ()).unwrap();
        seen.push(world.value(glow).unwrap().as_number().unwrap());
    }
    let expected: Vec<f64> = (0..=10).map(|tick| f64::from(tick) / 10.0).chain([1.0]).collect();
    assert_eq!(seen, expected);
    // Back again, and half-way something sets it.
    world.set(glow, 0.0).unwrap();
    world.emit(bell, ()).unwrap();
    (0..5).for_each(|_| world.step(&mut ()).unwrap());
    world.set(glow, 7.0).unwrap();
    (0..12).for_each(|_| world.step(&mut ()).unwrap());
    assert_eq!(world.value(glow).unwrap(), &Value::Number(7.0));
}

#[test]
fn every_way_to_ease_begins_at_nothing_ends_at_all_and_never_goes_back() {
    for ease in Ease::ALL {
        let parts: Vec<_> = (0..=100).map(|part| ease.part(f64::from(part) / 100.0)).collect();
        assert_eq!((parts[0], parts[100]), (0.0, 1.0), "{ease:?}");
        assert!(parts.is_sorted(), "{ease:?}");
    }
}

#[test]
fn objects_glide_and_turn_and_a_zone_sees_them_pass() {
    let mut world = World::<()>::new();
    let float = world.object("float").body().add().unwrap();
    let pad = world.object("pad").at(Vec3::X * 5.0).add().unwrap();
    let pad = world.attach(pad, stoicheon_core::Zone::boxed(Vec3::splat(0.5))).unwrap();
    let east = Rotation::about(Vec3::Y, -90.0);
    world
        .on(world.started())
        .run(move |(), (), cx| {
            cx.tween(Moved::Place(float), Vec3::X * 10.0, secs(0.2), Ease::Smooth)?;
            cx.tween(Moved::Facing(float), east, secs(0.2), Ease::Steady)
        })
        .unwrap();
    (0..8).for_each(|_| world.step(&mut ()).unwrap());
    assert_eq!(world.place(float).unwrap(), Vec3::X * 10.0);
    assert_eq!(world.facing(float).unwrap(), east);
    assert_eq!((world.delivered(pad.entered), world.delivered(pad.left)), (1, 1));
}

#[test]
fn tweens_move_after_doors_and_walks_in_the_order_they_began() {
    let mut world = World::<()>::new();
    let handles = gates(&mut world);
    let ada = world.player("ada").at(Vec3::Z * 50.0).add().unwrap();
    let [late, early] = ["late", "early"].map(|name| world.var(name, 0.0).unwrap());
    let gate = handles[0].part;
    world
        .on(world.started())
        .run(move |(), (), cx| {
            cx.tween(Moved::Var(early, None), 1.0, secs(0.1), Ease::Steady)?;
            cx.tween(Moved::Var(late, None), 1.0, secs(0.1), Ease::Steady)?;
            cx.command(gate, Door::TO_OPEN)
        })
        .unwrap();
    world.walk(ada, Vec3::Z * 50.4, 4.0).unwrap();
    (0..3).for_each(|_| world.step(&mut ()).unwrap());
    let moved: Vec<_> = world
        .trace()
        .records()
        .filter(|(_, record)| record.tick.0 == 3)
        .filter_map(|(_, record)| match record.event {
            Event::Shifted { .. } => Some("door"),
            Event::Arrived { .. } => Some("walk"),
            Event::Set { var, .. } => {
                world.var_name(var).map(|name| if name == "early" { "early" } else { "late" })
            }
            _ => None,
        })
        .collect();
    assert_eq!(moved, ["door", "walk", "early", "late"]);
}

#[test]
fn data_of_a_snapshot_whose_binds_are_not_there_is_refused_as_it_is_read() {
    let Lamps { mut world, level, lit, .. } = lamps();
    world.bind(Kept::Var(lit), Expr::var(level).more_than(0.5)).unwrap();
    world.step(&mut ()).unwrap();
    let mut saved = serde_json::to_value(world.snapshot().unwrap()).unwrap();
    saved["plan"]["binds"] = serde_json::json!([]);
    let damaged = serde_json::from_value::<stoicheon_core::Snapshot>(saved);
    assert!(damaged.unwrap_err().to_string().contains("its list of binds is damaged"));
    world.set(level, 1.0).unwrap();
    world.step(&mut ()).unwrap();
    assert_eq!(world.value(lit).unwrap(), &Value::Bool(true));
}

#[test]
fn colours_and_turns_blend() {
    let blue: Colour = "#0000ff".parse().unwrap();
    assert_eq!(Colour([0, 0, 0, 0]).toward(blue, 0.5), Colour([0, 0, 128, 128]));
    for bad in ["", "#", "#12345", "#1234567", "0000ff", "#gggggg", "#ééé"] {
        assert!(bad.parse::<Colour>().is_err(), "{bad}");
    }
    let half = Rotation::NONE.toward(Rotation::about(Vec3::Y, 90.0), 0.5);
    let (axis, degrees) = half.axis_and_degrees();
    assert!((degrees - 45.0).abs() < 1e-3 && (axis - Vec3::Y).length() < 1e-5, "{degrees} about {axis}");
    assert_eq!(Rotation::about(Vec3::ZERO, 90.0), Rotation::NONE);
    assert_eq!(Rotation::about(Vec3::Y, f64::NAN), Rotation::NONE);
}

#[test]
fn a_comparison_of_what_cannot_be_compared_is_nothing_and_no_guard_takes_it_for_true() {
    let world = World::<()>::new();
    let compare = |how, one: Value, two: Value| world.evaluate(&Expr::from(one).compare(how, two));
    assert_eq!(compare(Comparison::Equal, 1_i64.into(), 1.0.into()), Value::Bool(true));
    assert_eq!(compare(Comparison::Less, 1_i64.into(), 1.5.into()), Value::Bool(true));
    assert_eq!(compare(Comparison::Less, Vec3::X.into(), Vec3::Y.into()), Value::Nothing);
    assert_eq!(compare(Comparison::Equal, "1".into(), 1_i64.into()), Value::Nothing);
    assert_eq!(compare(Comparison::Equal, f64::NAN.into(), f64::NAN.into()), Value::Nothing);
    assert_eq!(world.evaluate(&Expr::from(Value::Nothing).not()), Value::Nothing);
}
