//! Random worlds go back in time, over and over: what they did meanwhile leaves no trace, and the snapshots stay what
//! they were. A world that never left says what must come of it.

use std::sync::Arc;

use proptest::prelude::*;
use stoicheon::{
    Message, Vec3, World,
    catalogue::Catalogue,
    plan::Side,
    save::Snapshot,
    script::Project,
    store::{Form, to_bytes},
};

const PLAYERS: [&str; 3] = ["ada", "bob", "cid"];
const SCENES: [&str; 3] = ["lockside", "tunnel", "garden"];
/// What becomes of each scene while nobody is in it.
const LEFT: [&str; 3] = ["unloaded", "frozen", "running"];

/// What the scenes share: a mould, a signal that crosses, a routine, and players with carriers.
const SHARED: &str = "
mould player { carrier holds 2 }
mould leaf tags drifting { var age: number = 0; zone ball 1; prompt \"Catch\" }
var level: number = 0.5 remember
var leaves: whole = 0
signal fill(wanted: number) crosses to authority by bargee
signal filled(now: number) crosses to players
effect say(words: text)
routine call(words: text) { perform say(words); wait 300ms; perform say(words) }
on fill { level = wanted; emit filled(level) }
on every leaf.entered cooldown 1s per who { leaves += 1 }
on filled { do call(\"filled\") }
on joined { tag who as bargee }
";

/// A scene: a zone, a door and a prompt, things that wait, glide, keep and count, and things that come and go.
fn scene(name: &str) -> String {
    format!(
        "
scene {name}
spot arrival at (0, 0, 0)
var passed: whole = 0 per player remember
var glow: number = 0
object pad at (4, 0, 0) {{ zone box (2, 2, 2) }}
object gate at (8, 0, 0) {{ door {{ swing 85deg, over 400ms }} prompt \"Wind\" key use, hold 200ms, reach 3 }}
object lamp at (8, 2, 0) {{ var lit: boolean = false }}
object boat at (-4, 0, 0) body tags floating
object cup at (2, 0, 0) body remember {{ item }}
timer gust every 700ms to 1300ms
bind lamp.lit = gate is open
on pad.entered {{ passed of who += 1; spawn leaf at who as l; l.age = 2; tag boat as wet; boat.velocity = (1, 0, 0) }}
on pad.left while running restart {{ wait 500ms; untag boat as wet; tween glow to 1 over 1s ease smooth }}
on gate.answered while running queue {{ toggle gate; wait until gate is open within 2s; emit fill(level + 0.1) }}
on gate.opened times 3 {{ disable pad; wait 600ms; enable pad; destroy nearest leaf to gate }}
on gust.struck when leaves > 0 {{ boat.velocity = (0, 0, 0); wait 100ms; glow = 0 }}
never count(drifting) > 40
"
    )
}

fn canal() -> Arc<Project> {
    let scenes = SCENES.iter().zip(LEFT).map(|(scene, left)| format!("scene \"{scene}.stoi\" left {left}\n"));
    let head = format!("project canal\nshared \"shared.stoi\"\n{}", scenes.collect::<String>());
    let read = |path: &str| {
        Ok(path.strip_suffix(".stoi").filter(|name| SCENES.contains(name)).map_or(SHARED.to_owned(), scene))
    };
    let project = Arc::new(Project::load("canal.stoi", &head, &Catalogue::built_in(), &read));
    let told: Vec<_> = project.parts().flat_map(|part| part.diagnostics().to_vec()).collect();
    assert!(!project.has_errors(), "{told:#?}");
    project
}

fn world(project: &Arc<Project>) -> World<()> {
    let mut world = World::with(project.config());
    project.build(&mut world).unwrap();
    world.be(Side::Authority);
    world.step(&mut ()).unwrap();
    world
}

#[derive(Clone, Copy, Debug)]
enum Do {
    Join(usize, usize),
    Leave(usize),
    Bring(usize, usize),
    Walk(usize, i8),
    Key(usize, bool),
    Take(usize, usize),
    Receive(usize, u8),
    Destroy(usize),
    Steps(u8),
}

fn any_do() -> impl Strategy<Value = Do> {
    let (who, scene) = (0..PLAYERS.len(), 0..SCENES.len());
    prop_oneof![
        3 => (who.clone(), scene.clone()).prop_map(|(who, scene)| Do::Join(who, scene)),
        1 => who.clone().prop_map(Do::Leave),
        2 => (who.clone(), scene.clone()).prop_map(|(who, scene)| Do::Bring(who, scene)),
        6 => (who.clone(), -2_i8..10).prop_map(|(who, to)| Do::Walk(who, to)),
        3 => (who.clone(), any::<bool>()).prop_map(|(who, down)| Do::Key(who, down)),
        2 => (who.clone(), scene.clone()).prop_map(|(who, scene)| Do::Take(who, scene)),
        2 => (who, any::<u8>()).prop_map(|(who, wanted)| Do::Receive(who, wanted)),
        1 => scene.prop_map(Do::Destroy),
        9 => (1_u8..25).prop_map(Do::Steps),
    ]
}

fn act(world: &mut World<()>, what: Do) {
    let of_scene =
        |world: &World<()>, scene: usize, thing: &str| world.find(&format!("{}.{thing}", SCENES[scene]));
    let find = |world: &World<()>, who: usize| world.find(PLAYERS[who]);
    // What is not here cannot be told anything, which is no concern of this test.
    match what {
        Do::Join(who, scene) => drop(world.join(PLAYERS[who], Some((SCENES[scene], "arrival")))),
        Do::Leave(who) => drop(find(world, who).map(|who| world.leave(who))),
        Do::Bring(who, to) => drop(find(world, who).map(|who| world.bring(who, SCENES[to], "arrival"))),
        Do::Walk(who, to) => {
            let to = Vec3::new(f32::from(to), 0.0, 0.0);
            drop(find(world, who).map(|who| world.walk(who, to, 6.0)));
        }
        Do::Key(who, true) => drop(find(world, who).map(|who| world.press(who, "use"))),
        Do::Key(who, false) => drop(find(world, who).map(|who| world.release(who, "use"))),
        Do::Take(who, scene) => {
            let cup = of_scene(world, scene, "cup").map(|cup| world.parts_of(cup)[0]);
            if let (Some(who), Some(cup)) = (find(world, who), cup) {
                world.command_for(Some(who), cup, stoicheon::parts::Item::TAKE, &[]).unwrap();
            }
        }
        Do::Receive(who, wanted) => {
            let values = vec![stoicheon::save::Remembered::Number(f64::from(wanted) / 255.0)];
            let message = Message::new("fill", None, values);
            drop(find(world, who).map(|who| world.receive(Some(who), &message)));
        }
        Do::Destroy(scene) => drop(of_scene(world, scene, "boat").map(|boat| world.destroy(boat))),
        Do::Steps(ticks) => (0..ticks).for_each(|_| world.step(&mut ()).unwrap()),
    }
}

/// What can be seen of a world, and what it would be as data.
fn all_of(world: &World<()>) -> (u64, Vec<u8>) {
    (world.trace().digest(), data(&world.snapshot().unwrap()))
}

fn data(snapshot: &Snapshot) -> Vec<u8> {
    to_bytes(snapshot, Form::Cbor).unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 16, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_world_that_goes_back_in_time_is_as_one_that_never_left(
        program in proptest::collection::vec((any_do(), proptest::collection::vec(any_do(), 0..12)), 1..40),
    ) {
        let project = canal();
        let (mut stays, mut returns) = (world(&project), world(&project));
        let mut kept: Vec<(Snapshot, (u64, Vec<u8>))> = Vec::new();
        for (what, astray) in program {
            if !astray.is_empty() {
                let snapshot = returns.snapshot().unwrap();
                let before = all_of(&returns);
                astray.into_iter().for_each(|what| act(&mut returns, what));
                returns.restore(&snapshot).unwrap();
                prop_assert!(all_of(&returns) == before, "what it did meanwhile is left");
                kept.push((snapshot, before));
            }
            act(&mut stays, what);
            act(&mut returns, what);
            prop_assert_eq!(stays.trace().digest(), returns.trace().digest(), "{:?}", what);
            prop_assert_eq!(stays.save().unwrap(), returns.save().unwrap(), "{:?}", what);
        }
        // Far back and in any order; the snapshots are what they were, in this world and in one that is built alike.
        let mut another = world(&project);
        for (snapshot, before) in kept.into_iter().rev() {
            prop_assert!(data(&snapshot) == before.1, "a snapshot has changed");
            returns.restore(&snapshot).unwrap();
            prop_assert!(all_of(&returns) == before);
            another.restore(&snapshot).unwrap();
            prop_assert!(all_of(&another) == before);
        }
    }
}
