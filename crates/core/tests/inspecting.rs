//! Everything that is true now, as data for a game's own inspector.

use stoicheon_core::{
    Door, Ease, Expr, InspectedWait, Lead, Moved, NewVar, Step, Steps, Target, Timer, Value, Vec3, World,
    Zone, secs,
};

#[test]
fn what_is_so_now_is_data_with_all_that_hangs_on_an_object() {
    let mut world = World::<()>::new();
    let pad = world.object("towpath_pad").tag("pad").at(Vec3::new(4.0, 0.0, 10.0)).add().unwrap();
    let zone = world.attach(pad, Zone::boxed(Vec3::splat(2.0))).unwrap();
    let gate = world.object("upper_gate").hung_on(pad).add().unwrap();
    let door = world.attach(gate, Door::swing(85.0).over(secs(1.0))).unwrap();
    let coins = world.declare(NewVar::new("coins", 0).per_player().remembered()).unwrap();
    let level = world.var("level", 0.4).unwrap();
    let ada = world.player("ada").at(Vec3::new(4.0, 0.0, 10.0)).add().unwrap();
    let bob = world.player("bob").at(Vec3::new(40.0, 0.0, 0.0)).add().unwrap();
    let tween = Step::Tween {
        target: Target::Var(level),
        to: 1.0.into(),
        over: Value::Duration(world.rate().ticks(secs(2.0)).unwrap()).into(),
        ease: Ease::Steady,
    };
    let set = Step::Set { target: Target::VarOf(coins, Expr::Who), to: 5.into() };
    let steps = Steps::new().step(set).open(door).step(tween).until(door.is(Door::OPEN));
    let wire = world.on(zone.entered).owned_by(gate).by("player").order(3).times(9).run_steps(steps).unwrap();
    let never = world.on(zone.left).when(Expr::var(level).more_than(0.95)).run_steps([]).unwrap();
    world.advance(secs(0.1), &mut ()).unwrap();
    world.put(ada, Vec3::ZERO).unwrap();
    world.advance(secs(0.1), &mut ()).unwrap();

    let now = world.inspect();
    assert_eq!(now.tick, world.now());
    let pad = now.object("towpath_pad").unwrap();
    assert_eq!((pad.tags[0].as_str(), pad.parts[0].kind), ("pad", "zone"));
    assert!(pad.parts[0].inside.is_empty() && pad.parts[0].shape.is_some());
    let gate = now.object("upper_gate").unwrap();
    assert_eq!((gate.parent, gate.parts[0].state), (Some(pad.object), Some("opening")));
    assert_eq!(gate.wires, [wire]);
    let ((name, of, openness), over) = (&gate.parts[0].readings[0], &gate.parts[0].settings[0]);
    assert_eq!((*name, *of, over.0), ("openness", None, "over"));
    assert!(openness.as_number().is_some_and(|part| (0.0..1.0).contains(&part)));
    let coins = now.variables.iter().find(|var| var.name == "coins").unwrap();
    assert!(coins.remembered && coins.each == Some(vec![(ada, 5.into())]));
    assert_eq!(now.objects.iter().find(|object| object.object == bob).unwrap().player, Some(2));
    // What the wire leads to, in the order of its statements.
    let seen = now.wires.iter().find(|seen| seen.wire == wire).unwrap();
    assert_eq!(
        seen.leads,
        [Lead::Sets(coins.var), Lead::Commands(door.part, Door::TO_OPEN), Lead::Sets(level)]
    );
    assert_eq!((seen.order, seen.times, seen.counts.taken), (3, Some(9), 1));
    assert_eq!((&seen.filter[0][..], seen.last_taken.map(|(_, tick)| tick.0)), ("player", Some(1)));
    let never = now.wires.iter().find(|seen| seen.wire == never).unwrap();
    assert_eq!((never.counts.taken, never.counts.refused.guard), (0, 1));
    assert!(never.last_refusal.is_some());
    let [InspectedWait { who, due: None, until: Some(until), .. }] = &now.waits[..] else {
        panic!("{:?}", now.waits)
    };
    assert_eq!((*who, until), (Some(ada), &door.is(Door::OPEN)));
    let [tween] = &now.tweens[..] else { panic!("{:?}", now.tweens) };
    assert_eq!((tween.moved, tween.to.clone()), (Moved::Var(level, None), 1.0.into()));
    assert!(tween.part > 0.0 && tween.part < 0.2, "{}", tween.part);
}

#[test]
fn what_is_gone_is_not_there_and_what_rings_says_when() {
    let mut world = World::<()>::new();
    let clock = world.object("lock_clock").add().unwrap();
    let timer = world.attach(clock, Timer::after(secs(2.0))).unwrap();
    let lamp = world.object("lamp").add().unwrap();
    let steps: Vec<Step> = vec![Step::Destroy(Expr::Value(lamp.into()))];
    world.on(timer.struck).owned_by(lamp).run_steps(steps).unwrap();
    (0..30).for_each(|_| world.step(&mut ()).unwrap());
    let left = world.inspect_part(timer.part).unwrap().rings_in.unwrap();
    assert!((world.rate().seconds(left).0 - 2.0 + 29.0 / 30.0).abs() < 0.05, "{left:?}");
    assert_eq!(world.inspect().wires[0].leads.len(), 1);
    (0..60).for_each(|_| world.step(&mut ()).unwrap());
    let now = world.inspect();
    assert!(now.object("lamp").is_none() && now.wires.is_empty() && world.inspect_object(lamp).is_none());
    assert_eq!(world.inspect_part(timer.part).unwrap().rings_in, None);
}
