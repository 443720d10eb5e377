//! Random worlds of several scenes, items and players: nothing is lost and nothing is there twice. A model counts.

use std::{collections::BTreeMap, sync::Arc};

use proptest::prelude::*;
use stoicheon::{ObjectId, World, catalogue::Catalogue, parts::Item, script::Project};

const PLAYERS: [&str; 3] = ["ada", "bob", "cid"];
const SCENES: [&str; 3] = ["lockside", "tunnel", "garden"];
const THINGS: [&str; 2] = ["cup", "rope"];

fn item(number: usize) -> String {
    let scene = SCENES[number / THINGS.len()];
    format!("{scene}.{scene}_{}", THINGS[number % THINGS.len()])
}

const ITEMS: usize = SCENES.len() * THINGS.len();

/// The canal: a scene stays loaded, stands still or ends while nobody is in it, as `left` says.
fn canal(left: [&str; 3]) -> Arc<Project> {
    let scenes = SCENES
        .iter()
        .zip(left)
        .map(|(scene, left)| format!("scene \"{scene}.stoi\" left {left}\n"))
        .collect::<Vec<_>>()
        .concat();
    let head = format!("project canal\nshared \"shared.stoi\"\n{scenes}");
    let read = |path: &str| {
        let Some(scene) = SCENES.iter().find(|scene| path == format!("{scene}.stoi")) else {
            return Ok("mould player { carrier holds 2 }".to_owned());
        };
        let thing = |name: &str| format!("object {scene}_{name} at (2, 0, 0) body remember {{ item }}\n");
        let things = THINGS.iter().map(|name| thing(name)).collect::<Vec<_>>().concat();
        Ok(format!("scene {scene}\nspot arrival at (0, 0, 0)\n{things}"))
    };
    let project = Arc::new(Project::load("canal.stoi", &head, &Catalogue::built_in(), &read));
    let told: Vec<_> = project.parts().flat_map(|part| part.diagnostics().to_vec()).collect();
    assert!(!project.has_errors(), "{told:?}");
    project
}

#[derive(Clone, Copy, Debug, PartialEq)]
enum Where {
    In(usize),
    With(usize),
}

#[derive(Clone, Copy, Debug)]
enum Do {
    Join(usize, usize),
    Leave(usize),
    Go(usize, usize),
    Take(usize, usize),
    Drop(usize),
    Aside,
    Reload,
}

fn any_do() -> impl Strategy<Value = Do> {
    let (who, scene) = (0..PLAYERS.len(), 0..SCENES.len());
    prop_oneof![
        2 => (who.clone(), scene.clone()).prop_map(|(who, scene)| Do::Join(who, scene)),
        1 => who.clone().prop_map(Do::Leave),
        5 => (who.clone(), scene).prop_map(|(who, scene)| Do::Go(who, scene)),
        6 => (who.clone(), 0..ITEMS).prop_map(|(who, item)| Do::Take(who, item)),
        4 => who.prop_map(Do::Drop),
        1 => Just(Do::Aside),
        1 => Just(Do::Reload),
    ]
}

/// The world, and beside it what is where.
struct Counted {
    project: Arc<Project>,
    world: World<()>,
    items: Vec<Where>,
    /// Which scene each player is in.
    players: BTreeMap<usize, usize>,
}

impl Counted {
    fn new(project: Arc<Project>) -> Self {
        let mut counted = Self {
            world: World::with(project.config()),
            project,
            items: (0..ITEMS).map(|item| Where::In(item / THINGS.len())).collect(),
            players: BTreeMap::new(),
        };
        counted.project.build(&mut counted.world).unwrap();
        counted.run();
        counted
    }

    fn run(&mut self) {
        (0..4).for_each(|_| self.world.step(&mut ()).unwrap());
    }

    fn player(&self, who: usize) -> ObjectId {
        self.world.find(PLAYERS[who]).unwrap()
    }

    fn hands(&self, who: usize) -> Vec<usize> {
        (0..ITEMS).filter(|item| self.items[*item] == Where::With(who)).collect()
    }

    fn command(&mut self, who: usize, item_number: usize, command: stoicheon::parts::Command) {
        let Some(object) = self.world.find(&item(item_number)) else { return };
        let part = self.world.parts_of(object)[0];
        self.world.command_for(Some(self.player(who)), part, command, &[]).unwrap();
    }

    fn put_down(&mut self, who: usize, scene: usize) {
        self.hands(who).into_iter().for_each(|item| self.items[item] = Where::In(scene));
    }

    fn act(&mut self, act: Do) {
        match act {
            Do::Join(who, scene) if !self.players.contains_key(&who) => {
                self.world.join(PLAYERS[who], Some((SCENES[scene], "arrival"))).unwrap();
                self.players.insert(who, scene);
            }
            Do::Leave(who) => {
                let Some(scene) = self.players.remove(&who) else { return };
                self.world.leave(self.player(who)).unwrap();
                self.put_down(who, scene);
            }
            Do::Go(who, scene) if self.players.contains_key(&who) => {
                self.world.bring(self.player(who), SCENES[scene], "arrival").unwrap();
                self.players.insert(who, scene);
            }
            Do::Take(who, item) if self.players.contains_key(&who) => {
                self.command(who, item, Item::TAKE);
                let here = self.items[item] == Where::In(self.players[&who]);
                if here && self.hands(who).len() < 2 {
                    self.items[item] = Where::With(who);
                }
            }
            Do::Drop(who) => {
                let Some(item) = self.hands(who).first().copied() else { return };
                self.command(who, item, Item::DROP);
                self.items[item] = Where::In(self.players[&who]);
            }
            Do::Aside => {
                let snapshot = self.world.snapshot().unwrap();
                let mut fresh = World::with(self.project.config());
                self.project.build(&mut fresh).unwrap();
                fresh.restore(&snapshot).unwrap();
                self.world = fresh;
            }
            Do::Reload => {
                let save = self.world.save().unwrap();
                let mut fresh = World::with(self.project.config());
                self.project.build(&mut fresh).unwrap();
                let mut mismatches = fresh.recall(&save).unwrap();
                mismatches.extend(fresh.rejoin(&save).unwrap());
                assert!(mismatches.is_empty(), "{mismatches:?}");
                self.world = fresh;
                // What is carried is in a hand only while the world lives.
                for (who, scene) in self.players.clone() {
                    self.put_down(who, scene);
                }
            }
            _ => {}
        }
        self.run();
        self.count();
    }

    /// Everything that can be seen is where the model says, and nothing is there that should not be.
    fn count(&self) {
        for (who, scene) in &self.players {
            let id = self.player(*who);
            assert_eq!(self.world.scene_of(id), self.world.find_scene(SCENES[*scene]), "{}", PLAYERS[*who]);
            let mut carried: Vec<_> = self.world.carried_by(id).to_vec();
            carried.sort();
            let mut hands: Vec<_> =
                self.hands(*who).iter().map(|number| self.world.find(&item(*number)).unwrap()).collect();
            hands.sort();
            assert_eq!(carried, hands, "what {} carries", PLAYERS[*who]);
        }
        for (number, place) in self.items.iter().enumerate() {
            let Where::In(scene) = place else { continue };
            let known = self.world.find_scene(SCENES[*scene]).unwrap();
            if self.world.is_loaded(known) {
                let object = self.world.find(&item(number));
                let found = object.and_then(|object| self.world.scene_of(object));
                assert_eq!(found, Some(known), "{} lies in {}", item(number), SCENES[*scene]);
            }
        }
    }

    /// Somebody goes and looks everywhere.
    fn look_everywhere(&mut self) {
        for scene in 0..SCENES.len() {
            let act = if self.players.contains_key(&0) { Do::Go(0, scene) } else { Do::Join(0, scene) };
            self.act(act);
        }
    }
}

fn left() -> impl Strategy<Value = [&'static str; 3]> {
    let one = || prop_oneof![Just("unloaded"), Just("frozen"), Just("running")];
    [one(), one(), one()]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64.max(ProptestConfig::default().cases / 4), ..ProptestConfig::default() })]

    #[test]
    fn nothing_is_lost_and_nothing_is_there_twice(left in left(), acts in prop::collection::vec(any_do(), 1..40)) {
        let mut counted = Counted::new(canal(left));
        acts.into_iter().for_each(|act| counted.act(act));
        counted.look_everywhere();
    }
}

#[test]
fn what_is_dropped_in_another_scene_is_there_when_somebody_comes_back() {
    let mut counted = Counted::new(canal(["unloaded"; 3]));
    let [ada, cup] = [0, 0];
    for act in [
        Do::Join(ada, 0),
        Do::Take(ada, cup),
        Do::Go(ada, 1),
        Do::Drop(ada),
        Do::Go(ada, 0),
        Do::Reload,
        Do::Aside,
        Do::Go(ada, 1),
        Do::Take(ada, cup),
        Do::Go(ada, 0),
    ] {
        counted.act(act);
    }
    assert_eq!(counted.items[cup], Where::With(ada));
    let cup = counted.world.find(&item(0)).unwrap();
    assert_eq!(counted.world.carried_by(counted.player(ada)), [cup]);
}

#[test]
fn nobody_takes_what_lies_in_another_scene() {
    let mut counted = Counted::new(canal(["running"; 3]));
    for act in [Do::Join(0, 0), Do::Join(1, 1), Do::Take(1, 0), Do::Take(0, 2)] {
        counted.act(act);
    }
    assert_eq!(counted.items[..3], [Where::In(0), Where::In(0), Where::In(1)]);
    let (cup, rope) = (item(0), item(2));
    let refused = |name: &str| {
        let signal = counted.world.find_signal(&format!("{name}.refused")).unwrap();
        counted.world.delivered(signal)
    };
    assert_eq!((refused(&cup), refused(&rope)), (1, 1));
}
