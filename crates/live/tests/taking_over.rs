//! Wiring that is saved takes over while a page watches, and one can go back to before it did.

use serde_json::{Value, json};
use stoicheon_core::{Catalogue, Error, Rewired, Value as Level, World};
use stoicheon_live::Live;
use stoicheon_script::{Loaded, load};

use crate::served::{Page, said, state};

const LOCK: &str = "var level: number = 0.5
object gate at (8, 0, 0) { door { swing 85deg about y; over 1s } }
object pad at (4, 0, 0) { zone box (2, 2, 2) }
on pad.entered { level += 1; open gate }
";

/// A world, the texts it was made of, and the page.
struct Saving {
    live: Live,
    world: World<()>,
    texts: Vec<Loaded>,
    page: Page,
}

impl Saving {
    fn new() -> Self {
        let text = read(LOCK);
        let mut world = World::new();
        text.build(&mut world).unwrap();
        world.player("ada").add().unwrap();
        let live = Live::listen("127.0.0.1:0").unwrap();
        let page = Page::open(&live);
        let mut saving = Self { live, world, texts: vec![text], page };
        saving.asks(&[], 1);
        saving
    }

    fn asks(&mut self, ask: &[Value], ticks: usize) -> Vec<Value> {
        self.page.asks((&mut self.live, &mut self.world), ask, ticks)
    }

    fn save(&mut self, text: &str) -> Result<Rewired, Error> {
        self.texts.push(read(text));
        let (all, last) = (self.texts.clone(), self.texts.len() - 1);
        let taken =
            self.live.rewire(&mut self.world, None, move |world, from| all[last].rewire(world, &all[from]));
        if taken.is_err() {
            self.texts.pop();
        }
        taken
    }

    fn level(&self) -> Level {
        let level = self.world.value(self.world.find_var("level").unwrap());
        level.unwrap().clone()
    }

    fn gate(&self) -> &'static str {
        let gate = self.world.find("gate").unwrap();
        self.world.state_word(self.world.parts_of(gate)[0]).unwrap()
    }
}

fn read(text: &str) -> Loaded {
    load("lock.stoi", text, &Catalogue::built_in())
}

fn walk(along: i32) -> Value {
    json!({ "do": "walk", "who": "ada", "along": [along, 0] })
}

fn wind(tick: u64) -> Value {
    json!({ "do": "wind", "tick": tick })
}

#[test]
fn what_is_saved_takes_over_and_the_moment_stays() {
    let mut saving = Saving::new();
    saving.asks(&[walk(1)], 60);
    saving.asks(&[walk(0), json!({ "do": "pause" })], 40);
    saving.asks(&[json!({ "do": "resume" })], 40);
    assert_eq!((saving.level(), saving.gate()), (1.5.into(), "open"));
    saving.save(&format!("\n\n{}", LOCK.replace("level += 1", "level += 10"))).unwrap();
    let told = saving.asks(&[], 1);
    let took = &state(&told)["took_over"];
    assert_eq!(took["kept"], "kept: 2 objects, 1 variable, 0 wires, 0 waiting reactions");
    assert_eq!(took["changes"], json!([["lock.stoi:6", "wire pad.entered: begins again"]]));
    // The tape says that it was so, and its lines are where they are written now.
    let tape: Vec<_> =
        told.iter().flat_map(|told| told["tape"].as_array().cloned().unwrap_or_default()).collect();
    assert!(tape.iter().any(|line| line["text"] == "the wiring is changed"), "{tape:?}");
    assert!(tape.iter().any(|line| line["wire"] == "lock.stoi:4"), "{tape:?}");
    assert_eq!((saving.level(), saving.gate()), (1.5.into(), "open"));
    saving.asks(&[walk(-1)], 60);
    saving.asks(&[walk(1)], 60);
    assert!(saving.level().as_number() >= Some(11.5), "{:?}", saving.level());
}

#[test]
fn one_goes_back_to_before_it_took_over_and_on_with_what_is_saved_now() {
    let mut saving = Saving::new();
    saving.asks(&[walk(1)], 10);
    saving.asks(&[walk(0)], 30);
    assert_eq!(saving.level(), 0.5.into());
    let before = saving.world.now().0;
    let digest = saving.world.trace().digest();
    saving.asks(&[], 40);
    saving.save(&LOCK.replace("level += 1", "level += 10")).unwrap();
    saving.asks(&[], 40);
    saving.save(&LOCK.replace("level += 1", "level += 100")).unwrap();
    saving.asks(&[], 40);
    let last = saving.world.now().0;

    // There it is as it was, with the wiring of then; and forth again it is as it came to be.
    let end = saving.world.trace().digest();
    for _ in 0..2 {
        let told = saving.asks(&[wind(before)], 1);
        assert_eq!(
            (said(&told).len(), saving.world.now().0, saving.world.trace().digest()),
            (0, before, digest)
        );
        let told = saving.asks(&[wind(last)], 1);
        assert_eq!((said(&told).len(), saving.world.now().0, saving.world.trace().digest()), (0, last, end));
    }
    // On from there, what is saved now takes over: on a branch of its own.
    saving.asks(&[wind(before)], 1);
    let told = saving.asks(&[json!({ "do": "resume" }), walk(1)], 50);
    assert_eq!(saving.level(), 100.5.into());
    assert_eq!(
        (state(&told)["took_over"]["number"].clone(), state(&told)["took_over"]["tick"].clone()),
        (json!(3), json!(before))
    );
    let told = saving.asks(&[wind(last)], 0);
    assert_eq!(said(&told).len(), 1, "what came after it did not happen");

    // A tick at a time, too.
    saving.asks(&[wind(before - 10), walk(1)], 1);
    saving.asks(&[json!({ "do": "step" })], 1);
    assert_eq!(saving.world.now().0, before - 9);
    saving.asks(&[json!({ "do": "resume" })], 60);
    assert_eq!(saving.level(), 100.5.into());
}

#[test]
fn what_cannot_take_over_leaves_everything_as_it_was() {
    let mut saving = Saving::new();
    saving.asks(&[walk(1)], 60);
    let error = saving.save("object gate {").unwrap_err();
    assert!(error.to_string().contains("mend what its findings say"), "{error}");
    saving.asks(&[], 10);
    assert_eq!(saving.level(), 1.5.into());
    let first = saving.world.now().0;
    saving.asks(&[wind(first - 30)], 1);
    saving.asks(&[json!({ "do": "resume" })], 5);
    assert_eq!(saving.world.now().0, first - 25);
}
