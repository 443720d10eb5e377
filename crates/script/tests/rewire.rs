//! A text that was changed takes the place of what it was, and the moment stays.

use std::sync::Arc;

use stoicheon_core::{Became, Catalogue, Event, ObjectId, Rewired, Value, Vec3, World};
use stoicheon_script::{Loaded, Project, Severity, render};

use crate::support::loaded;

const LOCK: &str = "scene lock
var level: number = 0.4
signal levelled(level: number)

object upper_gate at (0, 0, 12) tags gate { door { slide (0, 2, 0) over 1s } }
object lower_gate at (0, 0, 20) tags gate { door { slide (0, 2, 0) over 1s } }
object pad at (4, 0, 10) { zone box (2, 1, 2) admits player }
object post at (3, 0, 11) { prompt \"Wind the paddle\" key use, reach 2 }
object lamp at (9, 0, 9) { var lit: boolean = false; var hours: whole = 0 }

on pad.entered { level += 0.1 }
on post.answered while running ignore {
  open upper_gate
  wait 5s
  close upper_gate
}
bind lamp.lit = upper_gate is open
never upper_gate is open and lower_gate is open
";

/// A world of a text, and what it was made of, to be changed.
struct Changing {
    world: World<()>,
    text: String,
    loaded: Loaded,
}

impl Changing {
    fn new(text: &str) -> Self {
        let loaded = good(text);
        let mut world = World::new();
        loaded.build(&mut world).unwrap();
        Self { world, text: text.to_owned(), loaded }
    }

    fn step(&mut self, ticks: u32) {
        (0..ticks).for_each(|_| self.world.step(&mut ()).unwrap());
    }

    /// Writes one thing in place of another, once, and lets that take over.
    fn write(&mut self, old: &str, new: &str) -> Rewired {
        assert_eq!(self.text.matches(old).count(), 1, "{old}");
        self.text = self.text.replace(old, new);
        let after = good(&self.text);
        let rewired = after.rewire(&mut self.world, &self.loaded).unwrap();
        self.loaded = after;
        rewired
    }

    fn id(&self, name: &str) -> ObjectId {
        self.world.find(name).unwrap()
    }

    fn state(&self, name: &str) -> &'static str {
        self.world.state_word(self.world.parts_of(self.id(name))[0]).unwrap()
    }

    fn value(&self, name: &str) -> Value {
        let var = self.world.find_var(name).unwrap();
        self.world.value(var).unwrap().clone()
    }

    fn player(&mut self, name: &str, at: Vec3) -> ObjectId {
        self.world.player(name).at(at).add().unwrap()
    }

    fn emit(&mut self, name: &str) {
        let signal = self.world.signal::<stoicheon_core::Values>(name).unwrap();
        self.world.emit(signal, stoicheon_core::Values::new()).unwrap();
    }

    fn press(&mut self, who: ObjectId, key: &str) {
        self.world.press(who, key).unwrap();
        self.step(1);
        self.world.release(who, key).unwrap();
        self.step(1);
    }
}

pub(crate) fn good(text: &str) -> Loaded {
    let loaded = loaded(text);
    let errors = loaded.diagnostics().iter().filter(|found| found.severity == Severity::Error);
    let errors: String = errors.map(|found| render(found, loaded.sources(), false) + "\n").collect();
    assert!(errors.is_empty(), "{errors}");
    loaded
}

#[test]
fn a_gate_stays_open_and_its_reaction_waits_on_while_others_change() {
    let mut lock = Changing::new(LOCK);
    let ada = lock.player("ada", Vec3::new(3.0, 0.0, 10.5));
    lock.step(2);
    lock.press(ada, "use");
    lock.step(60);
    assert_eq!(lock.state("upper_gate"), "open");
    let rewired = lock.write("level += 0.1", "level += 0.2");
    insta::assert_snapshot!(rewired, @r"
    kept: 5 objects, 3 variables, 1 wire, 1 waiting reaction
    scene.stoi:11  wire pad.entered: begins again
    ");
    assert_eq!((lock.state("upper_gate"), lock.world.waiting()), ("open", 1));
    lock.step(150);
    assert_eq!(lock.state("upper_gate"), "closed");
}

#[test]
fn what_is_as_it_was_written_becomes_as_it_is_written_now() {
    let mut lock = Changing::new(LOCK);
    lock.step(1);
    let rewired = lock.write("level: number = 0.4", "level: number = 0.9");
    assert_eq!((lock.value("level"), &rewired.changes[0].became), (Value::from(0.9), &Became::Changed));
    lock.world.set(lock.world.find_var("level").unwrap(), 0.5).unwrap();
    lock.step(1);
    let rewired = lock.write("level: number = 0.9", "level: number = 0.1");
    assert_eq!((lock.value("level"), &rewired.changes[0].became), (Value::from(0.5), &Became::Stays));
    lock.write("lamp at (9, 0, 9)", "lamp at (9, 0, 7)");
    assert_eq!(lock.world.place(lock.id("lamp")).unwrap(), Vec3::new(9.0, 0.0, 7.0));
}

#[test]
fn wires_come_in_the_order_of_the_text_and_those_of_the_game_after_them() {
    let mut bells = Changing::new(
        "effect say(words: text)\nobject pad { zone box (2, 2, 2) }
on pad.entered { perform say(\"one\") }
on pad.entered { perform say(\"three\") }
",
    );
    let entered = bells.world.find_signal("pad.entered").unwrap();
    let say = bells.world.find_effect("say").unwrap();
    let entered = bells
        .world
        .signal::<stoicheon_core::Touched>("pad.entered")
        .map(|signal| (entered, signal))
        .unwrap()
        .1;
    bells.world.on(entered).run(move |(), _, cx| cx.perform(say, ["the game".into()])).unwrap();
    bells.step(1);
    bells.write(
        "on pad.entered { perform say(\"three\") }",
        "on pad.entered { perform say(\"two\") }\non pad.entered { perform say(\"three\") }",
    );
    let said = |bells: &mut Changing, name: &str| -> Vec<String> {
        bells.player(name, Vec3::ZERO);
        bells.step(2);
        bells.world.take_effects().map(|effect| effect.values[0].as_text().unwrap().to_owned()).collect()
    };
    assert_eq!(said(&mut bells, "ada"), ["one", "two", "three", "the game"]);
    bells.write("on pad.entered { perform say(\"one\") }\n", "");
    bells.write("perform say(\"two\")", "perform say(\"second\")");
    assert_eq!(said(&mut bells, "cem"), ["second", "three", "the game"]);
}

#[test]
fn what_cannot_take_over_changes_nothing() {
    let mut lock = Changing::new(&LOCK.replace(
        "signal levelled(level: number)",
        "signal levelled(level: number)\non pad.entered { emit levelled(level) }",
    ));
    stoicheon_core::payload! {
        struct Levelled { level: f64 }
    }
    let mut typed = World::<u32>::new();
    let levelled = typed.declare_signal::<Levelled>("levelled").unwrap();
    lock.loaded.build(&mut typed).unwrap();
    typed.on(levelled).run(|heard, _, _| *heard += 1).unwrap();
    typed.player("ada").at(Vec3::new(4.0, 0.0, 10.0)).add().unwrap();
    let other = good(
        &lock
            .text
            .replace("levelled(level: number)", "levelled(level: number, by: number)")
            .replace("emit levelled(level)", "emit levelled(level, 1)")
            .replace("at (9, 0, 9)", "at (1, 1, 1)"),
    );
    let digest = typed.trace().digest();
    let error = other.rewire(&mut typed, &lock.loaded);
    insta::assert_snapshot!(error.unwrap_err(), @r#"signal "levelled" carries (level: number), and here it is used with (level: number, by: number)"#);
    assert_eq!(typed.trace().digest(), digest);
    assert_eq!(typed.place(typed.find("lamp").unwrap()).unwrap(), Vec3::new(9.0, 0.0, 9.0));
    let mut heard = 0;
    (0..3).for_each(|_| typed.step(&mut heard).unwrap());
    assert_eq!(heard, 1);

    let faulty = loaded(&lock.text.replace("level += 0.1", "levle += 0.1"));
    insta::assert_snapshot!(faulty.rewire(&mut lock.world, &lock.loaded).unwrap_err(), @"expected wiring without errors, found some in scene.stoi: mend what its findings say");
    let never = good("object lamp");
    insta::assert_snapshot!(never.rewire(&mut lock.world, &never).unwrap_err(), @"this world was not made of scene.stoi as it is said to have been: begin again with what is written now");
    let twice = lock.loaded.rewire(&mut lock.world, &lock.loaded).unwrap();
    assert_eq!(twice.changes, []);
}

#[test]
fn parts_come_and_go_while_somebody_stands_in_them() {
    let mut lock = Changing::new(LOCK);
    let ada = lock.player("ada", Vec3::new(9.0, 0.0, 9.0));
    lock.step(2);
    lock.write("object lamp at (9, 0, 9) {", "object lamp at (9, 0, 9) { timer every 0.5s; zone ball 2;");
    lock.step(20);
    let zone = lock.world.find_part::<stoicheon_core::Zone>(lock.id("lamp")).unwrap();
    assert_eq!(lock.world.inside(zone).collect::<Vec<_>>(), [ada]);
    assert_eq!(lock.world.delivered(lock.world.find_signal("lamp.struck").unwrap()), 1);
    lock.write("zone ball 2;", "zone ball 3;");
    lock.step(2);
    assert!(
        lock.world.inside_for(ada, zone).unwrap() > stoicheon_core::ticks(15),
        "who is inside stays inside"
    );
    lock.write("zone ball 3;", "zone box (1, 1, 1) admits keeper;");
    lock.step(2);
    assert_eq!(lock.world.count_inside(zone), 0);
    lock.write("zone box (1, 1, 1) admits keeper;", "zone ball 3;");
    lock.step(2);
    assert_eq!(lock.world.count_inside(zone), 1);
    let left = lock.world.find_signal("lamp.left").unwrap();
    let before = lock.world.trace().len();
    lock.write("timer every 0.5s; zone ball 3;", "");
    lock.step(2);
    let told = lock
        .world
        .trace()
        .records_after(before)
        .filter(|(_, record)| matches!(record.event, Event::Left { .. }))
        .count();
    assert_eq!((told, lock.world.find_signal("lamp.left")), (1, None), "{left:?}");
    assert_eq!(lock.world.parts_of(lock.id("lamp")), []);
}

#[test]
fn what_play_has_ended_stays_ended() {
    let mut lock = Changing::new(&LOCK.replace("level += 0.1", "destroy lamp"));
    lock.player("ada", Vec3::new(4.0, 0.0, 10.0));
    lock.step(3);
    assert_eq!(lock.world.find("lamp"), None);
    let rewired = lock.write("var lit: boolean = false", "timer every 2s; var lit: boolean = true");
    assert_eq!((rewired.changes.as_slice(), lock.world.find("lamp")), (&[][..], None));
    let rewired = lock.write("never upper", "on lamp.struck { lamp.hours += 1 }\nnever upper");
    insta::assert_snapshot!(rewired, @r"
    kept: 4 objects, 1 variable, 2 wires, 0 waiting reactions
    scene.stoi:18  wire: not made, this signal is not in the world: its object was destroyed, or the handle belongs to another world
    ");
    lock.step(3);
    let rewired = lock.write("object pad at (4, 0, 10)", "object lamp_2\nobject pad at (4, 0, 10)");
    assert_eq!((rewired.changes.len(), lock.world.find("lamp_2").is_some()), (1, true));
}

#[test]
fn what_is_something_else_begins_again_and_what_hangs_on_it_does_not() {
    let mut lock =
        Changing::new(&LOCK.replace("object lamp at (9, 0, 9)", "object lamp of pad at (0, 2, 0)"));
    let (pad, lamp) = (lock.id("pad"), lock.id("lamp"));
    lock.step(1);
    lock.world.set(lock.world.find_var("lamp.hours").unwrap(), 7).unwrap();
    lock.step(1);
    let rewired = lock.write("object pad at (4, 0, 10) {", "object pad at (4, 0, 12) { body ball 1;");
    insta::assert_snapshot!(rewired, @r"
    kept: 3 objects, 1 variable, 1 wire, 0 waiting reactions
    scene.stoi:7  object pad: begins again
    scene.stoi:9  object lamp: changed, goes on
    scene.stoi:11  wire pad.entered: new
    ");
    assert_ne!(lock.id("pad"), pad);
    assert_eq!((lock.id("lamp"), lock.value("lamp.hours")), (lamp, Value::from(7)));
    assert_eq!(
        (lock.world.parent(lamp), lock.world.place(lamp).unwrap()),
        (Some(lock.id("pad")), Vec3::new(4.0, 2.0, 12.0))
    );
}

#[test]
fn what_was_made_of_a_mould_changes_with_it() {
    let mut pool = Changing::new(
        "signal hatch\nsignal day\nmould heron tags bird { var age: whole = 0; on day { own.age += 1 } }
object pad { zone box (2, 2, 2) }\non hatch { spawn heron at pad }\non every bird.started { emit day }
mould player { var coins: whole = 2 }
",
    );
    let ada = pool.player("ada", Vec3::new(9.0, 0.0, 0.0));
    let [hatch, day] = ["hatch", "day"];
    for signal in [hatch, hatch, day] {
        pool.emit(signal);
        pool.step(2);
    }
    let herons: Vec<_> = pool.world.tagged(pool.world.find_tag("heron").unwrap()).collect();
    let ages = |pool: &Changing| {
        herons.iter().map(|heron| pool.world.property(*heron, "age").cloned()).collect::<Vec<_>>()
    };
    let before = ages(&pool);
    assert_eq!(before, [Some(3.into()), Some(2.into())]);
    let rewired = pool.write("own.age += 1", "own.age += 10");
    insta::assert_snapshot!(rewired, @r"
    kept: 1 object, 0 variables, 2 wires, 0 waiting reactions
    scene.stoi:3  mould heron: changed, goes on
    ");
    pool.write(
        "var age: whole = 0;",
        "var age: whole = 0; var fed: boolean = false; prompt \"Clap\" key use;",
    );
    pool.write("own.age += 10", "own.age += 10; own.fed = true");
    pool.emit(day);
    pool.step(2);
    assert_eq!(ages(&pool), [Some(13.into()), Some(12.into())]);
    assert!(herons.iter().all(|heron| pool.world.property(*heron, "fed") == Some(&true.into())));
    assert!(herons.iter().all(|heron| pool.world.parts_of(*heron).len() == 1));
    pool.write("var coins: whole = 2", "var coins: whole = 5; var hat: text = \"straw\"");
    assert_eq!(pool.world.property(ada, "coins"), Some(&5.into()));
    assert_eq!(pool.world.property(ada, "hat"), Some(&"straw".into()));
    pool.write("mould player { var coins: whole = 5; var hat: text = \"straw\" }\n", "");
    assert_eq!((pool.world.property(ada, "coins"), pool.world.place(ada).is_ok()), (None, true));
    pool.write("on hatch { spawn heron at pad }\n", "");
    pool.write("mould heron tags bird { var age: whole = 0; var fed: boolean = false; prompt \"Clap\" key use; on day { own.age += 10; own.fed = true } }\n", "object rock tags bird\n");
    assert!(herons.iter().all(|heron| pool.world.place(*heron).is_err()));
}

#[test]
fn limits_and_counts_are_kept_where_nothing_is_written_otherwise() {
    let mut bell = Changing::new(
        "signal ring\neffect say(words: text)\nvar hours: whole = 0
on ring times 2 { hours += 1 }\non ring cooldown 10s { hours += 10 }\non ring while running ignore { wait 5s; hours += 100 }
tally rung of ring, goal 5\non rung.reached { perform say(\"five\") }
",
    );
    bell.step(1);
    for _ in 0..2 {
        bell.emit("ring");
        bell.step(1);
    }
    assert_eq!(bell.value("hours"), Value::from(12));
    bell.write("var hours: whole = 0", "// on top\nvar hours: whole = 1");
    bell.write("goal 5", "goal 3");
    bell.emit("ring");
    bell.step(2);
    assert_eq!(
        (bell.value("hours"), bell.world.waiting()),
        (Value::from(12), 1),
        "spent, cooling and running"
    );
    assert_eq!(bell.world.performed(bell.world.find_effect("say").unwrap()), 1, "two and one are three");
    let rewired = bell.write("cooldown 10s", "cooldown 11s");
    assert_eq!((rewired.changes.len(), rewired.kept.waits), (1, 1));
    bell.emit("ring");
    bell.step(1);
    assert_eq!(bell.value("hours"), Value::from(22), "what begins again has not been taken yet");
    let rewired = bell.write("wait 5s", "wait 6s");
    assert_eq!(rewired.changes[0].became, Became::Again { waits: 1 });
    assert_eq!(bell.world.waiting(), 0);
}

#[test]
fn doors_clocks_stages_and_questions_go_on_from_where_they_are() {
    let mut lock = Changing::new(
        "object gate { door { slide (0, 2, 0) over 2s } }\ntimer clock every 2s\ncycle hills: dry 4s, wet 4s, repeat
stages errand per player: stranger, hunting, done\nchoice herons \"Chase them?\" answers yes, no within 20s
on started { open gate }\non pressed(\"hunt\") { errand of who = hunting }\non pressed(\"ask\") { ask herons }
on herons.chosen(no) { errand of who = done }
",
    );
    let [ada, cem] = [lock.player("ada", Vec3::ZERO), lock.player("cem", Vec3::ZERO)];
    lock.step(2);
    lock.press(ada, "hunt");
    lock.press(ada, "ask");
    lock.step(25);
    assert_eq!(lock.state("gate"), "opening");
    let openness =
        |lock: &Changing| lock.world.part_of::<stoicheon_core::Door>(lock.id("gate")).unwrap().openness();
    let before = openness(&lock);
    let rewired = lock.write("over 2s", "over 8s");
    assert_eq!(rewired.changes.len(), 1, "{rewired}");
    assert!((openness(&lock) - before).abs() < 0.02 && before > 0.4, "{before} {}", openness(&lock));
    lock.step(60);
    assert_eq!(
        (lock.state("gate"), lock.world.delivered(lock.world.find_signal("clock.struck").unwrap())),
        ("opening", 1)
    );
    lock.write("clock every 2s", "clock every 1s");
    lock.write("hills: dry 4s, wet 4s", "hills: dry 4s, damp 1s, wet 4s");
    lock.write("stranger, hunting, done", "stranger, waiting, hunting, done");
    let errand = lock.world.find_var("errand.state").unwrap();
    let of = |lock: &Changing, who| lock.world.value_of(errand, who).unwrap().as_text().unwrap().to_owned();
    assert_eq!((of(&lock, ada), of(&lock, cem)), ("hunting".to_owned(), "stranger".to_owned()));
    lock.write("answers yes, no within 20s", "answers yes, no within 30s");
    let choice = lock.world.find_part::<stoicheon_core::Choice>(lock.id("herons")).unwrap();
    lock.world
        .command_for(Some(ada), choice, stoicheon_core::Choice::CHOOSE, &[("answer", "no".into())])
        .unwrap();
    lock.step(2);
    assert_eq!(of(&lock, ada), "done", "she is still asked");
    lock.press(cem, "hunt");
    assert_eq!(of(&lock, cem), "hunting");
    lock.write("on pressed(\"hunt\") { errand of who = hunting }", "");
    lock.write("stranger, waiting, hunting, done", "stranger, done");
    assert_eq!((of(&lock, ada), of(&lock, cem)), ("done".to_owned(), "stranger".to_owned()));
}

#[test]
fn what_is_carried_is_carried_on_or_gone_with_what_is_no_more() {
    let mut lock = Changing::new(
        "mould player { carrier holds 2 }\nobject lamp at (2, 0, 0) { item; prompt \"Take\"; on answered { take lamp } }
object iron at (3, 0, 0) body { item held (0, 1, 0) }\non pressed(\"take\") { take iron }
",
    );
    let ada = lock.player("ada", Vec3::new(1.5, 0.0, 0.0));
    lock.step(2);
    lock.press(ada, "use");
    lock.press(ada, "take");
    assert_eq!([lock.world.parent(lock.id("lamp")), lock.world.parent(lock.id("iron"))], [Some(ada); 2]);
    let rewired = lock.write("held (0, 1, 0)", "held (0, 2, 0)");
    assert!(!rewired.to_string().contains("again"), "{rewired}");
    lock.write("carrier holds 2", "carrier holds 3");
    lock.write("lamp at (2, 0, 0)", "lamp at (5, 0, 0)");
    assert_eq!([lock.world.parent(lock.id("lamp")), lock.world.parent(lock.id("iron"))], [Some(ada); 2]);
    lock.write("object lamp at (5, 0, 0) { item; prompt \"Take\"; on answered { take lamp } }\n", "");
    lock.step(2);
    let load = lock.world.find_var("ada.load").unwrap();
    assert_eq!((lock.world.find("lamp"), lock.world.value(load).unwrap()), (None, &Value::from(1)));
    lock.write("object iron at (3, 0, 0) body", "object iron at (3, 0, 0)");
    lock.step(2);
    assert_eq!(lock.world.value(load).unwrap(), &Value::from(0), "what is something else now is not carried");
}

#[test]
fn a_use_of_a_kit_changes_with_the_kit_and_with_what_it_is_given() {
    let mut pools = Changing::new(
        "effect splash(words: text)
kit catch(water: object, words: text) {\n  var times: whole = 0\n  on water.entered { times += 1; perform splash(words) }\n}
object pool { zone box (2, 2, 2) }\nobject pond at (9, 0, 0) { zone box (2, 2, 2) }
add catch as one(water: pool, words: \"wet\")\nadd catch as two(water: pond, words: \"wet\")
",
    );
    pools.player("ada", Vec3::ZERO);
    pools.step(2);
    let said = |pools: &mut Changing| {
        pools.world.take_effects().map(|effect| effect.values[0].clone()).collect::<Vec<_>>()
    };
    assert_eq!((pools.value("one.times"), said(&mut pools)), (Value::from(1), vec!["wet".into()]));
    let rewired = pools.write("two(water: pond, words: \"wet\")", "two(water: pond, words: \"cold\")");
    assert_eq!((rewired.changes.len(), rewired.kept.wires), (1, 1), "{rewired}");
    pools.write("times += 1;", "times += 10;");
    pools.player("bea", Vec3::ZERO);
    pools.player("cem", Vec3::new(9.0, 0.0, 0.0));
    pools.step(2);
    assert_eq!((pools.value("one.times"), pools.value("two.times")), (Value::from(11), Value::from(10)));
    assert_eq!(said(&mut pools), ["wet".into(), "cold".into()]);
    pools.write("add catch as two(water: pond, words: \"cold\")\n", "");
    assert_eq!((pools.world.find_var("two.times"), pools.world.wires().count()), (None, 1));
}

#[test]
fn it_takes_over_before_the_first_tick_and_in_a_world_that_was_put_aside() {
    let mut lock = Changing::new(LOCK);
    lock.write("level: number = 0.4", "level: number = 0.6");
    let ada = lock.player("ada", Vec3::new(3.0, 0.0, 10.5));
    lock.step(2);
    lock.press(ada, "use");
    lock.step(40);
    let text = serde_json::to_string(&lock.world.snapshot().unwrap()).unwrap();
    let mut other = World::new();
    lock.loaded.build(&mut other).unwrap();
    other.restore(&serde_json::from_str(&text).unwrap()).unwrap();
    lock.world = other;
    let rewired = lock.write("level += 0.1", "level += 0.2");
    assert_eq!((rewired.kept.waits, lock.state("upper_gate")), (1, "open"));
    // A world of another text is put aside in another place.
    let saved: stoicheon_core::Snapshot = serde_json::from_str(&text).unwrap();
    assert!(lock.world.restore(&saved).is_err());
    lock.step(150);
    assert_eq!(lock.state("upper_gate"), "closed");
    let rewired = lock.write("bind lamp.lit = upper_gate is open\n", "");
    assert_eq!(rewired.changes[0].became, Became::Gone { waits: 0 });
    lock.world.set(lock.world.find_var("lamp.lit").unwrap(), true).unwrap();
    lock.step(2);
    assert_eq!(lock.value("lamp.lit"), Value::from(true));
    lock.write("never upper", "bind lamp.lit = lower_gate is open\nnever upper");
    lock.step(1);
    assert_eq!(lock.value("lamp.lit"), Value::from(false));
}

#[test]
fn a_clock_that_begins_again_is_not_rung_by_what_it_was() {
    let mut hills = Changing::new(
        "cycle hills: dry 4s, wet 4s, repeat\neffect say(words: text)\non hills.changed { perform say(\"changed\") }\n",
    );
    hills.step(90);
    let rewired = hills.write("dry 4s, wet 4s", "dry 4s, damp 4s, wet 4s");
    assert_eq!(rewired.changes[0].became, Became::Again { waits: 0 }, "{rewired}");
    let say = hills.world.find_effect("say").unwrap();
    let before = hills.world.performed(say);
    hills.step(115);
    assert_eq!((hills.value("hills.state"), hills.world.performed(say)), ("dry".into(), before));
    hills.step(10);
    assert_eq!((hills.value("hills.state"), hills.world.performed(say)), ("damp".into(), before + 1));
}

#[test]
fn what_was_taken_away_can_come_back() {
    const BELL: &str = "effect say(words: text)\nsignal ring\nspot quay at (1, 0, 0)\nmould boat { var age: whole = 0; on ring { own.age += 1 } }
routine greet(words: text) { perform say(words); wait 1s; perform say(words) }\nvar hours: whole = 0
on pressed(\"go\") { spawn boat at quay; hours += 1; emit ring; do greet(\"hello\") }\n";
    let mut bell = Changing::new("object lamp\n");
    let ada = bell.player("ada", Vec3::ZERO);
    bell.step(1);
    let say = |bell: &Changing| bell.world.performed(bell.world.find_effect("say").unwrap());
    for round in 1..=3_u64 {
        bell.write("object lamp\n", &format!("{BELL}object lamp\n"));
        bell.press(ada, "go");
        assert_eq!((say(&bell), bell.value("hours"), bell.world.waiting()), (round, Value::from(1), 1));
        let boats = bell.world.find_tag("boat").unwrap();
        assert_eq!(bell.world.tagged(boats).count(), 1);
        let rewired = bell.write(BELL, "");
        assert_eq!(rewired.kept.waits, 0, "{rewired}");
        bell.step(40);
        assert_eq!((say(&bell), bell.world.tagged(boats).count(), bell.world.wires().count()), (round, 0, 0));
        assert_eq!((bell.world.find_var("hours"), bell.world.find_spot("quay")), (None, None));
    }
}

#[test]
fn what_the_game_has_made_is_nothing_of_the_texts() {
    let mut lock = Changing::new(LOCK);
    let boat = lock.world.object("boat").add().unwrap();
    lock.world.var("depth", 1.5).unwrap();
    lock.step(1);
    let digest = lock.world.trace().digest();
    for more in ["object boat at (1, 0, 0)", "var depth: number = 2"] {
        let error = good(&format!("{LOCK}{more}\n")).rewire(&mut lock.world, &lock.loaded).unwrap_err();
        assert!(error.to_string().starts_with("expected a name that is not used"), "{error}");
        assert_eq!((lock.world.trace().digest(), lock.world.find("boat")), (digest, Some(boat)));
    }
    lock.write("level: number = 0.4", "level: number = 0.5");
    assert_eq!((lock.world.find("boat"), lock.value("depth")), (Some(boat), Value::from(1.5)));
}

/// Files that are nowhere but here.
fn project(files: &[(&str, &str)]) -> Arc<Project> {
    let read = |path: &str| {
        let found = files.iter().find(|(name, _)| *name == path);
        found.map(|(_, text)| (*text).to_owned()).ok_or_else(|| "there is no such file".to_owned())
    };
    let project = Project::load("canal.stoi", files[0].1, &Catalogue::built_in(), &read);
    let told: Vec<_> = project.parts().flat_map(|part| part.diagnostics().to_vec()).collect();
    let told: Vec<_> = told.iter().filter(|found| found.severity == Severity::Error).collect();
    assert!(told.is_empty(), "{told:?}");
    Arc::new(project)
}

#[test]
fn a_project_changes_what_is_loaded_now_and_the_rest_when_it_is_loaded() {
    const HEAD: &str =
        "project canal\nscene \"lock.stoi\" left running\nscene \"tunnel.stoi\"\nvar tokens: whole = 3\n";
    const LOCK: &str = "scene lock\nspot steps at (5, 0, 0)
object mouth { zone box (2, 2, 2) }\nobject gate tags gate { door { over 0.2s } }
on mouth.entered by player { send who to landing in tunnel }\non gate.opened { tokens += 1 }\n";
    const TUNNEL: &str = "scene tunnel\nspot landing at (0, 0, 3)
object gate tags gate { var seen: whole = 0; door { over 0.2s } }\non gate.started { gate.seen += 1 }\n";
    let one = project(&[("canal.stoi", HEAD), ("lock.stoi", LOCK), ("tunnel.stoi", TUNNEL)]);
    let mut world = World::with(one.config());
    one.build(&mut world).unwrap();
    world.step(&mut ()).unwrap();
    let gate = world.find("lock.gate").unwrap();
    world.command(world.parts_of(gate)[0], stoicheon_core::Door::TO_OPEN).unwrap();
    (0..10).for_each(|_| world.step(&mut ()).unwrap());
    let lock = LOCK.replace("tokens += 1", "tokens += 10").replace("tags gate", "tags gate, tall");
    let tunnel = TUNNEL.replace("seen: whole = 0", "seen: whole = 40");
    let head = HEAD.replace("tokens: whole = 3", "tokens: whole = 7") + "scene \"yard.stoi\"\n";
    let yard = "scene yard\nspot door at (0, 0, 0)\n";
    let two = project(&[
        ("canal.stoi", &head),
        ("lock.stoi", &lock),
        ("tunnel.stoi", &tunnel),
        ("yard.stoi", yard),
    ]);
    let rewired = two.rewire(&mut world, &one).unwrap();
    insta::assert_snapshot!(rewired, @r"
    kept: 1 object, 0 variables, 1 wire, 0 waiting reactions
    canal.stoi:4  variable tokens: stays as play has changed it
    lock.stoi:4  object lock.gate: changed, goes on
    lock.stoi:6  wire lock.gate.opened: begins again
    scene yard: new
    ");
    assert_eq!(
        (world.find("lock.gate"), world.state_word(world.parts_of(gate)[0])),
        (Some(gate), Some("open"))
    );
    let tag = world.find_tag_in(world.find_scene("lock").unwrap(), "tall").unwrap();
    assert_eq!(world.tagged(tag).collect::<Vec<_>>(), [gate]);
    // A player who goes there finds it as it is written now.
    world.join("ada", Some(("tunnel", "landing"))).unwrap();
    (0..2).for_each(|_| world.step(&mut ()).unwrap());
    let seen = world.find_var("tunnel.gate.seen").unwrap();
    assert_eq!(world.value(seen).unwrap(), &Value::from(41));
    world.join("cem", Some(("yard", "door"))).unwrap();
    let error = one.rewire(&mut world, &two).unwrap_err();
    insta::assert_snapshot!(error, @r#"the scene "yard" is loaded and written no more: unload it first, or begin again"#);
    assert_eq!(world.value(seen).unwrap(), &Value::from(41));
    let three =
        project(&[("canal.stoi", &head), ("lock.stoi", &lock), ("tunnel.stoi", TUNNEL), ("yard.stoi", yard)]);
    let rewired = three.rewire(&mut world, &two).unwrap();
    assert_eq!(rewired.changes[0].became, Became::Stays, "{rewired}");
}
