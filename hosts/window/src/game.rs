//! The game around the world: bodies that the keys move, what is told to the players, saving and loading.

use std::path::Path;

use stoicheon::{MoveKind, ObjectId, Vec3, World, parts::Door, payload, secs, store};

use crate::lock::{Notes, make};

/// How fast a player walks, in scene units per second.
const PACE: f32 = 4.0;
/// How far from the middle of the canal the water reaches.
pub(crate) const BANK: f32 = 2.0;
/// How far the ground reaches: from its smallest corner to its largest.
const GROUND: (Vec3, Vec3) = (Vec3::new(-5.0, 0.0, -15.0), Vec3::new(9.0, 0.0, 15.0));

/// Shorthand for what can go wrong in a game as a whole.
type Outcome<T = ()> = Result<T, Box<dyn std::error::Error>>;

payload! {
    struct Say { words: stoicheon::Text }
}

payload! {
    struct Bell { strokes: i64 }
}

/// What a player does in a frame. The picture lies on its side: across it is along the canal.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Keys {
    pub(crate) across: f32,
    pub(crate) down: f32,
    pub(crate) uses: bool,
}

/// Somebody who walks.
#[derive(Debug)]
pub(crate) struct Player {
    pub(crate) id: ObjectId,
    pub(crate) name: &'static str,
    at: Vec3,
    uses: bool,
    offered: Option<ObjectId>,
}

/// Why something was said.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Kind {
    Effect,
    Fault,
    Note,
    /// Something is offered to somebody: drawn beside them, and said on the terminal.
    Offer,
}

/// Something that was said.
#[derive(Clone, Debug)]
pub(crate) struct Line {
    pub(crate) words: String,
    pub(crate) kind: Kind,
}

/// The whole game.
#[derive(Debug)]
pub(crate) struct Game {
    pub(crate) world: World<Notes>,
    pub(crate) players: [Player; 2],
    /// How far it is to the next tick, from 0 to 1.
    pub(crate) fraction: f64,
    pub(crate) lines: Vec<Line>,
    /// How many of them were said.
    said: usize,
    notes: Notes,
}

/// Lets the two in, where they left the lock or on its steps.
fn join(world: &mut World<Notes>) -> Outcome<[Player; 2]> {
    let mut join = |name: &'static str, spot| -> Outcome<Player> {
        let id = world.join(name, Some(("harrow_lock", spot)))?;
        world.tag(id, "keeper")?;
        Ok(Player { id, name, at: world.place(id)?, uses: false, offered: None })
    };
    Ok([join("ada", "towpath_steps")?, join("ben", "lock_house")?])
}

impl Game {
    /// The lock on the first day.
    pub(crate) fn new() -> Outcome<Self> {
        let mut world = make()?;
        let players = join(&mut world)?;
        let lines = Vec::new();
        Ok(Self { world, players, fraction: 0.0, lines, said: 0, notes: Notes::default() })
    }

    /// One frame of so many seconds.
    pub(crate) fn frame(&mut self, seconds: f64, keys: [Keys; 2]) -> Outcome {
        for (index, keys) in keys.into_iter().enumerate() {
            self.walk(index, keys, seconds)?;
        }
        let frame = self.world.advance(secs(seconds), &mut self.notes)?;
        self.fraction = frame.fraction;
        if frame.ticks > 0 {
            for player in &mut self.players {
                // Where the world put or sent a body, it is now.
                let sent = |moved: &&stoicheon::Move| {
                    moved.object == player.id && matches!(moved.kind, MoveKind::Sent | MoveKind::Placed)
                };
                if let Some(sent) = self.world.moves().find(sent) {
                    player.at = sent.to.at;
                }
            }
        }
        self.listen();
        self.look();
        Ok(())
    }

    fn walk(&mut self, index: usize, keys: Keys, seconds: f64) -> Outcome {
        let way = Vec3::new(keys.down, 0.0, keys.across).normalize_or_zero() * PACE;
        let from = self.players[index].at;
        #[expect(clippy::cast_possible_truncation, reason = "a part of a second")]
        let to = (from + way * seconds as f32).clamp(GROUND.0, GROUND.1);
        let at = if self.is_wet(to) { from } else { to };
        let player = &mut self.players[index];
        player.at = at;
        self.world.move_to(player.id, at)?;
        match (keys.uses, player.uses) {
            (true, false) => self.world.press(player.id, "use")?,
            (false, true) => self.world.release(player.id, "use")?,
            _ => {}
        }
        player.uses = keys.uses;
        Ok(())
    }

    /// Whether there is water: it is crossed over a gate that is shut.
    fn is_wet(&self, at: Vec3) -> bool {
        let over = |gate: &str| -> Option<bool> {
            let gate = self.world.find(gate)?;
            let shut = self.world.part_of::<Door>(gate).ok()?.openness() == 0.0;
            Some(shut && (self.world.place(gate).ok()?.z - at.z).abs() < 0.6)
        };
        let gates = ["harrow_lock.upper_gate", "harrow_lock.lower_gate"];
        at.x.abs() < BANK && !gates.into_iter().any(|gate| over(gate) == Some(true))
    }

    /// What the world wants to be shown.
    fn listen(&mut self) {
        for effect in self.world.take_effects() {
            let words = if let Some(say) = effect.payload::<Say>() {
                say.words.to_string()
            } else if let Some(bell) = effect.payload::<Bell>() {
                format!("The bell rings {}.", if bell.strokes == 1 { "once" } else { "twice" })
            } else {
                effect.name.to_string()
            };
            self.lines.push(Line { words, kind: Kind::Effect });
        }
        for fault in self.world.take_faults() {
            let whose = fault.object.and_then(|object| self.world.name(object)).unwrap_or("somewhere");
            let words = format!("fault at {whose}: {}", fault.message);
            self.lines.push(Line { words, kind: Kind::Fault });
        }
    }

    /// What is offered to each, if it is another thing than before.
    fn look(&mut self) {
        for player in &mut self.players {
            let offer = self.world.offer_to(player.id);
            let offered = offer.as_ref().map(|offer| offer.object);
            if std::mem::replace(&mut player.offered, offered) == offered {
                continue;
            }
            if let Some(offer) = offer {
                let words = format!("{} can: {}", player.name, offer.label);
                self.lines.push(Line { words, kind: Kind::Offer });
            }
        }
    }

    /// How often a player was let through.
    pub(crate) fn passages(&self, player: &Player) -> i64 {
        let passages = self.world.find_var("harrow_lock.passages");
        let count = passages.and_then(|passages| self.world.value_of(passages, player.id).ok());
        count.and_then(stoicheon::Value::as_whole).unwrap_or_default()
    }

    /// Says what is new on the terminal.
    pub(crate) fn say(&mut self) {
        self.lines.iter().skip(self.said).for_each(|line| println!("{}", line.words));
        self.said = self.lines.len();
    }

    fn note(&mut self, words: String, kind: Kind) {
        self.lines.push(Line { words, kind });
    }

    /// Saves; what goes wrong is said.
    pub(crate) fn save(&mut self, file: &Path) {
        let saved = self.world.save().map_err(|error| error.to_string());
        let saved = saved.and_then(|save| store::write(file, &save).map_err(|error| error.to_string()));
        match saved {
            Ok(()) => self.note("Saved.".to_owned(), Kind::Note),
            Err(error) => self.note(format!("not saved: {error}"), Kind::Fault),
        }
    }

    /// Goes on from a save, in a new world; what goes wrong is said, and then everything stays as it is.
    pub(crate) fn load(&mut self, file: &Path) {
        let loaded = (|| -> Outcome<_> {
            let save = store::read(file)?;
            let mut world = make()?;
            world.recall(&save)?;
            let players = join(&mut world)?;
            Ok((world, players))
        })();
        match loaded {
            Ok((world, players)) => {
                (self.world, self.players) = (world, players);
                let [ada, ben] = [0, 1].map(|player| self.passages(&self.players[player]));
                self.note(format!("Loaded: {ada} passages of ada, {ben} of ben."), Kind::Note);
            }
            Err(error) => self.note(format!("not loaded: {error}"), Kind::Fault),
        }
    }
}
