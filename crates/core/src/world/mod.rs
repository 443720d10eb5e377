//! The world: what runs the phases of the order law.

pub(crate) mod attach;
pub(crate) mod build;
pub(crate) mod closures;
pub(crate) mod crossings;
pub(crate) mod cx;
pub(crate) mod cx_for;
pub(crate) mod deliver;
pub(crate) mod faults;
pub(crate) mod handed_in;
pub(crate) mod host;
pub(crate) mod input;
pub(crate) mod journal;
pub(crate) mod law;
pub(crate) mod listing;
pub(crate) mod mailbox;
pub(crate) mod new_object;
pub(crate) mod new_wire;
pub(crate) mod on;
pub(crate) mod part_wires;
pub(crate) mod refusal;
pub(crate) mod rewire;
pub(crate) mod saves;
pub(crate) mod scenes;
pub(crate) mod snapshot;
pub(crate) mod spawning;
pub(crate) mod world_data;

use std::{
    collections::{BTreeMap, VecDeque},
    fmt,
    ops::Deref,
};

use crate::{
    act::travel::Arrival,
    base::{
        clock::{Tick, TickRate, Ticks},
        error::Error,
        ids::SceneId,
        signal::Signal,
        value::Text,
    },
    moment::runaway::Runaway,
    payload,
    state::State,
    trace::{Trace, TraceLevel},
    world::{
        closures::Fresh, deliver::Stores, handed_in::Journal, input::Inputs, scenes::Maker,
        world_data::WorldKey,
    },
};

/// How a world is made.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Config {
    /// Ticks per second. Default 30.
    pub rate: TickRate,
    /// How many ticks one `advance` runs at most; time past that is let go, and reported. Default 8.
    pub catch_up: u32,
    /// How many rounds of deliveries a tick may take. Default 10,000.
    pub rounds: u32,
    /// How many signals a tick may deliver. Default 1,000,000.
    pub deliveries: u32,
    /// How many statements of sequences a tick may run. Default 1,000,000.
    pub statements: u32,
    /// How many objects there may be before nothing more can be spawned while the world runs. Default 100,000.
    pub objects: u32,
    /// How much is recorded. Default everything.
    pub trace: TraceLevel,
    /// How many records are kept. Default 16,384.
    pub kept: usize,
    /// How far back a snapshot may be restored that was taken before a wire was cut: for so long, what the wire's
    /// closure holds is kept. Default not at all.
    pub rollback: Ticks,
    /// Where the world's random numbers begin. Default 0.
    pub seed: u64,
}

impl Default for Config {
    fn default() -> Self {
        Self {
            rate: TickRate::default(),
            catch_up: 8,
            rounds: 10_000,
            deliveries: 1_000_000,
            statements: 1_000_000,
            objects: 100_000,
            trace: TraceLevel::Full,
            kept: 16_384,
            rollback: Ticks::ZERO,
            seed: 0,
        }
    }
}

payload! {
    /// A key was pressed or released. Whose it was goes with the signal.
    #[derive(Clone, Debug, PartialEq)]
    pub struct Key {
        /// The name of the key or of the action bound to it.
        pub key: Text,
    }
}

/// The signals every world gives.
#[derive(Clone, Copy, Debug)]
pub(crate) struct OwnSignals {
    pub(crate) started: Signal<()>,
    pub(crate) pressed: Signal<Key>,
    pub(crate) released: Signal<Key>,
    pub(crate) joined: Signal<()>,
    pub(crate) quit: Signal<()>,
    pub(crate) arrived: Signal<Arrival>,
}

/// Everything running: objects, wires, the clock.
///
/// `G` is the game's own state; every reaction in Rust gets it, mutably. A world for wiring alone is a `World<()>`.
///
/// ```
/// use stoicheon_core::{Door, Vec3, World, Zone, secs};
///
/// #[derive(Default)]
/// struct Game { welcomed: u32 }
///
/// let mut world = World::<Game>::new();
/// let pad = world.object("towpath_pad").at(Vec3::new(4.0, 0.0, 10.0)).add()?;
/// let pad = world.attach(pad, Zone::boxed(Vec3::new(2.0, 1.0, 2.0)))?;
/// let gate = world.object("upper_gate").at(Vec3::new(0.0, 0.0, 12.0)).add()?;
/// let gate = world.attach(gate, Door::swing(85.0).over(secs(1.0)))?;
/// let ada = world.player("ada").at(Vec3::new(4.0, 0.0, 0.0)).add()?;
///
/// world.on(pad.entered).run(move |game, _touched, cx| {
///     game.welcomed += 1;
///     cx.open(gate)
/// })?;
///
/// let mut game = Game::default();
/// world.walk(ada, Vec3::new(4.0, 0.0, 10.0), 5.0)?;
/// while world.part::<Door>(gate.part)?.openness() < 1.0 {
///     world.advance(secs(1.0 / 60.0), &mut game)?;
/// }
/// assert_eq!(game.welcomed, 1);
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
pub struct World<G = ()> {
    pub(crate) state: State,
    pub(crate) stores: Stores<G>,
    /// Closures wired in the course of a delivery.
    fresh: Vec<Fresh<G>>,
    inputs: Inputs,
    /// How scenes are made that can be loaded.
    makers: BTreeMap<SceneId, Maker<G>>,
    /// What else is wired when a scene has been made.
    wirers: BTreeMap<SceneId, Vec<Maker<G>>>,
    /// Closures of wires that were cut, and when they may be let go.
    forgetting: VecDeque<(Tick, u32, u32)>,
    config: Config,
    own: OwnSignals,
    /// A tick is under way. Still set between ticks only when a reaction panicked.
    in_tick: bool,
    key: WorldKey,
    /// The last tick before the frame under way, and how many of its ticks are to run, this one among them.
    frame_began: Tick,
    ticks_left: u32,
    /// How many closures were let go so far.
    forgotten: u64,
    /// What the world was made of before it was rewired and after, each time.
    was_made_of: Vec<crate::base::shared::Shared<BTreeMap<smol_str::SmolStr, u64>>>,
    /// What is handed in, if somebody keeps it.
    journal: Option<Box<Journal>>,
}

impl<G> Deref for World<G> {
    type Target = State;
    fn deref(&self) -> &State {
        &self.state
    }
}

impl<G> fmt::Debug for World<G> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("World").field("now", &self.state.now()).finish_non_exhaustive()
    }
}

impl<G: 'static> Default for World<G> {
    fn default() -> Self {
        Self::new()
    }
}

impl<G: 'static> World<G> {
    /// An empty world of 30 ticks per second that records everything.
    pub fn new() -> Self {
        Self::with(Config::default())
    }

    /// An empty world.
    pub fn with(config: Config) -> Self {
        let trace = Trace::new(config.trace, config.kept);
        let runaway = Runaway::new(config.deliveries, config.rounds, config.statements);
        let mut state = State::new(config.rate, trace, runaway, config.seed);
        state.most_objects = config.objects;
        let own = OwnSignals {
            started: own_signal(&mut state, "started"),
            pressed: own_signal(&mut state, "pressed"),
            released: own_signal(&mut state, "released"),
            joined: own_signal(&mut state, "joined"),
            quit: own_signal(&mut state, "quit"),
            arrived: own_signal(&mut state, "arrived"),
        };
        Self {
            state,
            stores: Stores::default(),
            fresh: Vec::new(),
            inputs: Inputs::default(),
            makers: BTreeMap::new(),
            wirers: BTreeMap::new(),
            forgetting: VecDeque::new(),
            config,
            own,
            in_tick: false,
            key: WorldKey::next(),
            frame_began: Tick(0),
            ticks_left: 1,
            forgotten: 0,
            was_made_of: Vec::new(),
            journal: None,
        }
    }

    /// Given once, at start-up, when everything is there and every object was told that it has started.
    pub fn started(&self) -> Signal<()> {
        self.own.started
    }

    /// A player pressed a key.
    pub fn pressed(&self) -> Signal<Key> {
        self.own.pressed
    }

    /// A player released a key.
    pub fn released(&self) -> Signal<Key> {
        self.own.released
    }

    /// The effects asked for since the last call, in order.
    pub fn take_effects(&mut self) -> impl Iterator<Item = crate::moment::effects::Effect> + use<G> {
        std::mem::take(&mut self.state.outbox.effects).into_iter()
    }

    /// The bodies that were sent to scenes which are not in this world, since the last call, in order: the host takes
    /// them there.
    pub fn take_leaving(&mut self) -> impl Iterator<Item = crate::moment::leaving::Leaving> + use<G> {
        std::mem::take(&mut self.state.outbox.leaving).into_iter()
    }

    /// A reaction panicked in the middle of a tick, so the world can go on no more.
    pub(crate) fn check_whole(&self) -> Result<(), Error> {
        if self.in_tick { Err(Error::BrokenOff) } else { Ok(()) }
    }
}

/// Declares a signal of the world's own. In an empty world its name is free, so this cannot fail.
fn own_signal<T: crate::base::payload::Payload>(state: &mut State, name: &str) -> Signal<T> {
    state.bus.declare(name).unwrap_or_else(|_| Signal::new(crate::base::ids::SignalId::default()))
}

/// A world can go to another thread, whatever the game's own state is: that stays with the host, and closures are `Send`.
const fn can_be_sent<T: Send>() {}
const _: () = can_be_sent::<World<std::rc::Rc<()>>>();
