//! A small game around a world, whole: a loop that moves its own bodies, two scenes of a project, closures on them, a part of
//! the game's own, a display, saves, and going back for an input that came late.
//!
//! `cargo run --example host` plays it without a window, for twelve seconds of play.

#![allow(missing_docs, clippy::print_stdout, reason = "an example shows what it did")]
#![allow(unreachable_pub, clippy::missing_errors_doc, reason = "a test plays the same game")]

use std::{collections::VecDeque, error::Error, sync::Arc};

use stoicheon::{
    Move, ObjectId, Ticks, Value, Vec3, World,
    catalogue::Catalogue,
    parts::{
        Command, Door, PartState,
        custom::{CommandKind, Part, PartCx, PartKind, Setting, SettingType, SignalKind},
    },
    payload,
    save::Snapshot,
    script::Project,
    secs, store, ticks,
};

/// The wiring files: a game has them in a folder, and reads them with `stoicheon::files`.
fn file(name: &str) -> Result<String, String> {
    let text = match name {
        "canal.stoi" => {
            r#"project canal
            scene "lockside.stoi"
            scene "tunnel.stoi" left frozen
            shared "shared.stoi""#
        }
        "shared.stoi" => "effect say(words: text)",
        "lockside.stoi" => {
            r#"scene lockside
            spot quay at (0, 0, 0) facing east
            object gate at (4, 0, 0) {
              door { slide (0, 3, 0) over 1s; remember }
              prompt "Wind the gate" key use, hold 0.5s, reach 2
            }
            object mouth at (10, 0, 0) { zone box (2, 2, 2) admits player }
            on gate.answered when gate is closed { open gate }
            on mouth.entered { send who to landing in tunnel }"#
        }
        "tunnel.stoi" => {
            r#"scene tunnel
            spot landing at (20, 0, 0) facing east
            object niche at (24, 0, 0) { lantern { burns 1s }; zone box (2, 2, 2) admits player }
            on niche.entered { light niche; perform say("Light!") }"#
        }
        _ => return Err("there is no such file".to_owned()),
    };
    Ok(text.to_owned())
}

/// A part of the game's own: a lantern that burns for a while.
#[derive(Clone, Debug)]
struct Lantern {
    burns: Ticks,
    lit: bool,
}
const LANTERN: PartKind = PartKind::new(
    "lantern",
    "Burns for a while once it is lit.",
    |settings, rate| {
        let burns = rate.ticks(settings.seconds("burns").unwrap_or(secs(1.0)))?;
        Ok(Box::new(Lantern { burns, lit: false }))
    },
    || Box::new(Lantern { burns: ticks(1), lit: false }),
)
.with_states(&["dark", "lit"])
.with_signals(&[SignalKind::of::<()>("burnt_out", "It is dark again.")])
.with_commands(&[CommandKind::new("light", "It burns from now on.")])
.with_settings(&[Setting::required("burns", SettingType::Seconds, "For how long it burns.")]);

impl Part for Lantern {
    fn kind(&self) -> &'static PartKind {
        &LANTERN
    }
    fn state(&self) -> PartState {
        self.lit.into()
    }
    fn command(&mut self, _: Command, cx: &mut PartCx<'_>) {
        cx.shift(self.state(), true.into());
        self.lit = true;
        cx.ring_in(self.burns);
    }
    fn due(&mut self, cx: &mut PartCx<'_>) {
        cx.shift(self.state(), false.into());
        self.lit = false;
        cx.emit(0, ());
    }
    fn save(&self, to: &mut Vec<Value>) {
        to.extend([Value::Duration(self.burns), self.lit.into()]);
    }
    fn load(&mut self, saved: &[Value]) -> bool {
        let [Value::Duration(burns), Value::Bool(lit)] = saved else { return false };
        *self = Self { burns: *burns, lit: *lit };
        true
    }
}

payload! {
    /// Words for the player to read.
    struct Say { words: stoicheon::Text }
}
/// The game's own state, which its closures change. It goes back with the world, so it can be cloned.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Game {
    pub gates_opened: u32,
    pub lights_out: u32,
}

/// A world made of the project, with the game's closures on its scenes whenever those are loaded.
fn make() -> Result<World<Game>, Box<dyn Error>> {
    let catalogue = Catalogue::built_in().with_part(&LANTERN);
    let project = Arc::new(Project::load("canal.stoi", &file("canal.stoi")?, &catalogue, &file));
    if let Some(finding) = project.parts().find_map(|part| part.diagnostics().first()) {
        return Err(finding.message.clone().into());
    }
    let mut world = World::with(project.config());
    project.build(&mut world)?;
    world.on_load("lockside", |world| {
        let opened = world.signal::<()>("lockside.gate.opened")?;
        world.on(opened).run(|game: &mut Game, (), _| game.gates_opened += 1).map(drop)
    })?;
    world.on_load("tunnel", |world| {
        let burnt_out = world.signal::<()>("tunnel.niche.burnt_out")?;
        world.on(burnt_out).run(|game: &mut Game, (), _| game.lights_out += 1).map(drop)
    })?;
    Ok(world)
}

type Outcome = Result<(), stoicheon::Error>;

/// A player with a body that the game moves.
struct Player {
    id: ObjectId,
    at: Vec3,
    holds: bool,
}

impl Player {
    /// One frame of walking to the right, and what the world is told of it. The gate is in the way while it is not open.
    fn step(&mut self, uses: bool, world: &mut World<Game>) -> Outcome {
        // In the tunnel there is no gate: then there is no part of that kind to ask.
        let gate = world.find("lockside.gate").and_then(|gate| world.part_of::<Door>(gate).ok());
        let most = if gate.is_some_and(|gate| gate.openness() < 1.0) { 3.0 } else { f32::MAX };
        self.at.x = (self.at.x + 4.0 / 75.0).min(most);
        world.move_to(self.id, self.at)?;
        match (uses, self.holds) {
            (true, false) => world.press(self.id, "use")?,
            (false, true) => world.release(self.id, "use")?,
            _ => (),
        }
        self.holds = uses;
        Ok(())
    }
}

/// What the game shows.
#[derive(Default)]
struct Display {
    lines: Vec<String>,
    hud: String,
    /// The longest step of the body on the screen without being sent.
    glide: f32,
    drawn: Option<Vec3>,
}

impl Display {
    fn draw(&mut self, world: &mut World<Game>, player: ObjectId, fraction: f64) -> Outcome {
        let at = world.pose_at(player, fraction)?.at;
        let sent = world.moves().any(|moved| moved.object == player && !moved.kind.is_continuous());
        if let Some(before) = self.drawn.filter(|_| !sent) {
            self.glide = self.glide.max(before.distance(at));
        }
        self.drawn = Some(at);
        let hud = world.offer_to(player).map_or_else(String::new, |offer| {
            let held = offer.held.map_or(0.0, |held| (held * 4.0).floor() * 25.0);
            format!("[{}] {}, held {held}%", offer.key, offer.label)
        });
        if hud != self.hud && !hud.is_empty() {
            self.lines.push(hud.clone());
        }
        self.hud = hud;
        let said = world.take_effects().filter_map(|effect| effect.payload::<Say>());
        self.lines.extend(said.map(|say| format!("\"{}\"", say.words)));
        self.lines.extend(world.take_faults().map(|fault| fault.message.to_string()));
        Ok(())
    }
}

/// What was after each of the last ticks, and what the player had done in it: to go back to.
type Past = VecDeque<(Snapshot, Game, Vec3)>;

/// Plays, and gives back what was shown.
pub fn play() -> Result<Vec<String>, Box<dyn Error>> {
    let (mut world, mut game, mut display) = (make()?, Game::default(), Display::default());
    let id = world.join("ada", Some(("lockside", "quay")))?;
    let mut ada = Player { id, at: world.place(id)?, holds: false };
    let mut past = Past::new();
    for frame in 0..900 {
        // Here nobody sits at the keys: the one for use is held from the second second on.
        ada.step((150..210).contains(&frame), &mut world)?;
        let frame = world.advance(secs(1.0 / 75.0), &mut game)?;
        display.draw(&mut world, id, frame.fraction)?;
        if frame.ticks > 0 {
            // Where the world put or sent the body, the game's own goes along.
            let sent = |moved: &&Move| moved.object == id && !moved.kind.is_continuous();
            if let Some(sent) = world.moves().find(sent) {
                ada.at = sent.to.at;
            }
            past.push_back((world.snapshot()?, game.clone(), ada.at));
            past.drain(..past.len().saturating_sub(8));
        }
    }
    display.lines.push(format!("gates opened: {}, lights out: {}", game.gates_opened, game.lights_out));

    // An input came late: back by eight ticks, and forward again. Without another input it comes as it came.
    let now = (world.trace().digest(), game.clone());
    if let Some((then, game_then, _)) = past.pop_front() {
        world.restore(&then)?;
        game = game_then;
        for (_, _, at) in past {
            world.move_to(id, at)?;
            world.step(&mut game)?;
        }
    }
    let told = if now == (world.trace().digest(), game) { "the same" } else { "another story" };
    display.lines.push(format!("eight ticks back and forward again: {told}"));

    // A save, and another day.
    let bytes = store::to_bytes(&world.save()?, store::Form::Json)?;
    let mut tomorrow = make()?;
    tomorrow.recall(&store::from_bytes(&bytes)?)?;
    let gate_then = tomorrow.find("lockside.gate").ok_or("the first scene is loaded")?;
    let openness = tomorrow.part_of::<Door>(gate_then)?.openness();
    display.lines.push(format!("the day after: the gate is open by {openness}"));
    display.lines.push(format!("the longest step on the screen: {:.3}", display.glide));
    Ok(display.lines)
}

fn main() -> Result<(), Box<dyn Error>> {
    play()?.into_iter().for_each(|line| println!("{line}"));
    Ok(())
}
