//! What each form of the wiring language does when it runs.

use stoicheon::{ObjectId, Vec3, World, catalogue::Catalogue, script, view::TraceText};

/// A scene with a keeper, a walker, and whatever the text says.
struct Scene {
    world: World<()>,
    ada: ObjectId,
    bob: ObjectId,
    text: TraceText,
}

const COMMON: &str = "
    var level: number = 0
    var open_for: number = 0
    effect say(words: text)
    signal rung(strokes: whole)
    object pad at (10, 0, 0) { zone box (2, 2, 2) }
    object gate { door { slide (0, 3, 0), over 100ms } }
    on rung by nobody_at_all { perform say(\"\") }
    on started { if level > 99 { emit rung(1) } }
    object nowhere tags nobody_at_all
";

fn scene(text: &str) -> Scene {
    let loaded = script::load("lock.stoi", &format!("{COMMON}{text}"), &Catalogue::built_in());
    // Not all that all scenes have is used in each.
    let certain = loaded.diagnostics().iter().filter(|found| !found.code.is_suspicion());
    let found: Vec<_> = certain.map(|found| script::render(found, loaded.sources(), false)).collect();
    assert!(found.is_empty(), "{}", found.join("\n"));
    let mut world = World::new();
    loaded.build(&mut world).unwrap();
    let ada = world.player("ada").tag("keeper").add().unwrap();
    let bob = world.player("bob").tag("walker").add().unwrap();
    Scene { world, ada, bob, text: TraceText::plain().without_places() }
}

impl Scene {
    /// Presses a key for somebody and says what was performed in that tick.
    fn press(&mut self, who: ObjectId, key: &str) -> Vec<String> {
        self.world.press(who, key).unwrap();
        self.step()
    }

    fn step(&mut self) -> Vec<String> {
        self.world.step(&mut ()).unwrap();
        self.world.take_effects().map(|effect| effect.values[0].as_text().unwrap().to_owned()).collect()
    }

    fn number(&self, name: &str) -> f64 {
        let var = self.world.find_var(name).unwrap();
        self.world.value(var).unwrap().as_number().unwrap()
    }

    fn trace(&mut self) -> String {
        self.text.new_ticks(&self.world)
    }
}

#[test]
fn branches_and_assignments() {
    let mut scene = scene(
        r#"
        on pressed {
          if key == "up" { level += 2 }
          else if key == "down" { level -= 1 }
          else if key == "set" { set level = level * 10 + 6 / 3 }
          else { level = -(level) }
        }
        "#,
    );
    for (key, level) in [("up", 2.0), ("up", 4.0), ("down", 3.0), ("set", 32.0), ("other", -32.0)] {
        scene.press(scene.ada, key);
        assert!((scene.number("level") - level).abs() < 1e-9, "{key}: {}", scene.number("level"));
    }
}

#[test]
fn conditions() {
    let mut scene = scene(
        r#"
        on pressed when who inside pad                           { perform say("inside") }
        on pressed when who not inside pad                       { perform say("outside") }
        on pressed when not (level >= 1 or key == "x") and true  { perform say("low") }
        on pressed when gate is not closed and gate is not open  { perform say("on its way") }
        on pressed when who == nowhere                           { perform say("never") }
        "#,
    );
    assert_eq!(scene.press(scene.ada, "a"), ["outside", "low"]);
    assert_eq!(scene.press(scene.ada, "x"), ["outside"]);
    scene.world.put(scene.ada, Vec3::new(10.0, 0.0, 0.0)).unwrap();
    scene.step();
    assert_eq!(scene.press(scene.ada, "a"), ["inside", "low"]);
    assert_eq!(scene.press(scene.bob, "x"), ["outside"], "who is asked each time");
    let gate = scene.world.find("gate").unwrap();
    let door = scene.world.parts_of(gate)[0];
    scene.world.command(door, stoicheon::parts::Door::TO_OPEN).unwrap();
    scene.step();
    assert_eq!(scene.press(scene.bob, "x"), ["outside", "on its way"]);
}

#[test]
fn filters_limits_and_cooldowns() {
    let mut scene = scene(
        r#"
        on pressed by keeper or guard  order 1                      { perform say("keeper") }
        on pressed by walker           order 2, once                { perform say("first walker") }
        on pressed                     order 3, cooldown 1s         { perform say("shared") }
        on pressed                     order 4, cooldown 1s per who { perform say("each") }
        object guardhouse tags guard, walker, keeper
        "#,
    );
    assert_eq!(scene.press(scene.ada, "a"), ["keeper", "shared", "each"]);
    assert_eq!(scene.press(scene.bob, "a"), ["first walker", "each"]);
    assert_eq!(scene.press(scene.bob, "a"), [""; 0]);
    assert_eq!(scene.press(scene.ada, "a"), ["keeper"]);
    for _ in 0..30 {
        scene.step();
    }
    assert_eq!(scene.press(scene.bob, "a"), ["shared", "each"]);
}

#[test]
fn a_wire_inside_an_object_sleeps_and_wakes_with_it() {
    let mut scene = scene(
        r#"
        object lamp {
          on pressed when key == "light" { perform say("lit") }
        }
        on pressed when key == "off" { disable lamp }
        on pressed when key == "on"  { enable lamp }
        "#,
    );
    assert_eq!(scene.press(scene.ada, "light"), ["lit"]);
    scene.press(scene.ada, "off");
    assert_eq!(scene.press(scene.ada, "light"), [""; 0]);
    scene.press(scene.ada, "on");
    assert_eq!(scene.press(scene.ada, "light"), ["lit"]);
}

#[test]
fn commands_waits_and_payloads() {
    let mut scene = scene(
        r#"
        on pressed when key == "open" { open gate; wait 200ms; toggle gate; emit rung(2 + 1) }
        on rung when strokes > 2 { level = strokes; perform say("three strokes") }
        on gate.closed { perform say("shut") }
        on gate.started { perform say("the gate is there") }
        "#,
    );
    assert_eq!(scene.press(scene.ada, "open"), ["the gate is there"]);
    let mut said = Vec::new();
    for _ in 0..20 {
        said.extend(scene.step());
    }
    assert_eq!(said, ["three strokes", "shut"]);
    assert!((scene.number("level") - 3.0).abs() < 1e-9);
    // Opened already: the trace says that nothing moved.
    scene.press(scene.ada, "open");
    for _ in 0..4 {
        scene.step();
    }
    scene.trace();
    scene.press(scene.ada, "open");
    assert!(scene.trace().contains("gate is open already"));
}

/// One tick each of what a trace can say of a wire.
#[test]
fn the_trace_words_every_refusal() {
    let mut scene = scene(
        r#"
        on pressed                           order 1           { perform say(key) }
        object mooring tags walker
        on pressed by walker                 order 2           { level = 1 }
        on pressed when level > 5 and key == "x" order 3       { level = 1 }
        on pressed once                      order 4           { open_for += 1 }
        on pressed cooldown 1s               order 5           { open gate }
        object lamp { on pressed             order 6           { level = 1 } }
        on pressed when key == "off"         order 7           { disable lamp; wait 1s; enable lamp }
        "#,
    );
    scene.press(scene.ada, "off");
    scene.trace();
    scene.press(scene.ada, "off");
    insta::assert_snapshot!(scene.trace());
    for _ in 0..30 {
        scene.step();
    }
    let later = scene.trace();
    assert!(later.contains("goes on after 1.000s  who ada\n               lamp is enabled"), "{later}");
}

/// What Rust alone can do, in the words of the trace.
#[test]
fn the_trace_words_what_comes_and_goes() {
    let mut scene = scene("on pad.left { perform say(reason) }");
    let bell = scene.world.declare_signal::<()>("bell").unwrap();
    let pad = scene.world.find("pad").unwrap();
    scene
        .world
        .on(bell)
        .while_running(stoicheon::plan::Busy::Restart)
        .delay(stoicheon::secs(0.1))
        .when_fn("somebody is there", |(), (), _| true)
        .run(move |(), (), cx| {
            cx.object("lantern").add()?;
            cx.destroy(pad)?;
            cx.fault("the wick is wet");
            cx.destroy(pad)
        })
        .unwrap();
    scene.world.put(scene.ada, Vec3::new(10.0, 0.0, 0.0)).unwrap();
    for ring in [true, true, false, false, false, false] {
        if ring {
            scene.world.emit_for(Some(scene.bob), bell, ()).unwrap();
        }
        scene.step();
    }
    insta::assert_snapshot!(scene.trace());
}
