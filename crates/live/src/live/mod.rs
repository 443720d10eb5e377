//! The page's end in a game: what it is shown once a frame.

mod act;
mod look;
mod take_over;

use std::{
    any::{Any, TypeId},
    collections::{BTreeSet, VecDeque},
    net::SocketAddr,
    sync::{
        Arc,
        mpsc::{Receiver, channel},
    },
    time::{Duration, Instant},
};

use stoicheon_core::{Advance, Error, ObjectId, Seconds, World, secs};
use stoicheon_view::Ground;
use take_over::TakenOver;

use crate::{
    ask::Ask,
    deeds::Deeds,
    error::LiveError,
    history::{History, KeptGame},
    reply::{Question, Said, Status},
    server::Server,
    shared::{Frame, Shared},
    tape::Line,
    walk::Steering,
    wiring::{LiveWiring, Offered, Typed},
};

/// How many records a page gets that has just come.
const LINES: u64 = 4_000;
/// How many lines of the tape are kept.
const TAPE: usize = 20_000;
/// How often what is chosen is looked at again.
const BENCH: Duration = Duration::from_millis(100);
/// How long the past is kept, in seconds.
const PAST: u64 = 600;

/// A page that shows a running world.
///
/// The page is served from threads of its own; the world is looked at only in [`show`](Self::show), and only while a page watches.
#[derive(Debug)]
pub struct Live {
    shared: Arc<Shared>,
    asks: Receiver<(u64, Ask)>,
    server: Server,
    title: String,
    ground: Ground,
    /// Doors on their way.
    swinging: BTreeSet<ObjectId>,
    steering: Steering,
    history: Option<History>,
    /// The latest lines of the tape, also of ticks that one has gone back from.
    tape: VecDeque<Arc<Line>>,
    /// The tick shown last, and how many records there were then.
    shown: Option<(u64, u64)>,
    /// The tick after which was looked at what goes on.
    noted: Option<u64>,
    status: Arc<Status>,
    was_watched: bool,
    /// When what is chosen is looked at again.
    bench_at: Instant,
    /// How many scenes the pages know of.
    scenes_told: usize,
    hold: Hold,
    trouble: Option<String>,
    saved: SavedWiring,
    taken: TakenOver,
    /// What players are asked; nothing when it has to be looked up again.
    questions: Option<Vec<(ObjectId, Vec<Question>)>>,
    wiring: Option<LiveWiring>,
    typed: Typed,
    deeds: Deeds,
    /// What a playtest can be made of.
    offered: Option<Offered>,
}

/// How the time goes.
#[derive(Debug)]
struct Hold {
    paused: bool,
    times: f64,
    /// The game asks how much time passes.
    paced: bool,
}

/// What is saved while the world runs, and whether the world restarts with that.
#[derive(Debug, Default)]
struct SavedWiring {
    findings: Vec<String>,
    /// It is another than the world was made of.
    is_other: bool,
    /// The game can make its world again.
    restarts: bool,
    wants_restart: bool,
}

impl Live {
    /// Listens on a loopback address, such as `127.0.0.1:0`, where the system chooses the port.
    ///
    /// # Errors
    /// [`LiveError::NotLoopback`], [`LiveError::NoAddress`] or [`LiveError::NoKey`].
    pub fn listen(address: &str) -> Result<Self, LiveError> {
        Self::listen_at(address, false)
    }

    /// The same on an address that others may reach. Who has the key in the address can do with the world what they like.
    ///
    /// # Errors
    /// As for [`listen`](Self::listen).
    pub fn listen_to_others(address: &str) -> Result<Self, LiveError> {
        Self::listen_at(address, true)
    }

    fn listen_at(address: &str, to_others: bool) -> Result<Self, LiveError> {
        let (send, asks) = channel();
        let shared = Arc::new(Shared::new(send));
        let server = Server::start(address, to_others, shared.clone())?;
        Ok(Self {
            shared,
            asks,
            server,
            title: "a world".to_owned(),
            ground: Ground::default(),
            swinging: BTreeSet::new(),
            steering: Steering::default(),
            history: None,
            tape: VecDeque::new(),
            shown: None,
            noted: None,
            status: Arc::default(),
            was_watched: false,
            bench_at: Instant::now(),
            scenes_told: 0,
            hold: Hold { paused: false, times: 1.0, paced: false },
            trouble: None,
            saved: SavedWiring::default(),
            taken: TakenOver::default(),
            questions: None,
            wiring: None,
            typed: Typed::default(),
            deeds: Deeds::default(),
            offered: None,
        })
    }

    /// The same with a title for the page.
    pub fn titled(mut self, title: &str) -> Self {
        title.clone_into(&mut self.title);
        self
    }

    /// The same with the wiring that the world was made of: lines can be typed, and playtests made of what was done.
    pub fn with_wiring(mut self, wiring: LiveWiring) -> Self {
        for (name, text) in wiring.texts() {
            self.shared.put_text(&name, &text);
        }
        self.wiring = Some(wiring);
        self
    }

    /// The same with a text of the wiring, by the name that wires of it are traced with: the page shows it beside.
    pub fn with_text(self, name: &str, text: &str) -> Self {
        self.shared.put_text(name, text);
        self
    }

    /// The address of the page, with the key without which nothing is served.
    pub fn address(&self) -> String {
        self.server.url()
    }

    /// Where it listens.
    pub fn socket(&self) -> SocketAddr {
        self.server.socket()
    }

    /// Whether a page watches.
    pub fn is_watched(&self) -> bool {
        self.shared.is_watched()
    }

    /// How much time the world is to be given for a frame that took so long: none while the page holds it, less or more when it slows it
    /// down or speeds it up. A game that does not ask cannot be held.
    pub fn pace(&mut self, frame: Seconds) -> Seconds {
        self.hold.paced = true;
        if self.hold.paused { secs(0.0) } else { secs(frame.0 * self.hold.times) }
    }

    /// What the checker says of the wiring as it is saved now, and whether it is another than the world was made of. Pages show it; the
    /// world goes on as it was.
    pub fn tell_saved(&mut self, findings: Vec<String>, is_other: bool) {
        (self.saved.findings, self.saved.is_other) = (findings, is_other);
    }

    /// Whether a page asks for a restart of the world. Pages ask only if this is asked: a game that can restart asks once a frame,
    /// makes its world again, and says [`restarted`](Self::restarted).
    pub fn wants_restart(&mut self) -> bool {
        self.saved.restarts = true;
        std::mem::take(&mut self.saved.wants_restart)
    }

    /// The world that is shown from now on is another one, made of that wiring: nothing that was before is known of it.
    pub fn restarted(&mut self, wiring: Option<LiveWiring>) {
        for (name, text) in wiring.iter().flat_map(LiveWiring::texts) {
            self.shared.put_text(&name, &text);
        }
        self.wiring = wiring;
        (self.history, self.shown, self.noted, self.trouble) = (None, None, None, None);
        (self.ground, self.steering, self.typed) = (Ground::default(), Steering::default(), Typed::default());
        (self.deeds, self.offered, self.taken) = (Deeds::default(), None, self.taken.of_another());
        self.tape.clear();
        self.questions = None;
        self.swinging.clear();
        (self.saved.findings, self.saved.is_other, self.was_watched) = (Vec::new(), false, false);
    }

    /// What became of the ticks of a frame: a tick that was ended since it would not come to rest is told on the page, which holds the
    /// world then.
    ///
    /// # Errors
    /// Any other error.
    pub fn took(&mut self, advanced: Result<Advance, Error>) -> Result<(), LiveError> {
        match advanced {
            Ok(advance) if advance.ticks == 0 => {}
            Ok(_) => self.trouble = None,
            Err(error @ Error::Tick(_)) => (self.trouble, self.hold.paused) = (Some(error.to_string()), true),
            Err(error) => return Err(error.into()),
        }
        Ok(())
    }

    /// Shows the world as it is after a frame, and does in it what pages ask for. Going back leaves the game's own state as it is,
    /// unless that is `()`: see [`show_cloned`](Self::show_cloned).
    ///
    /// # Errors
    /// What the world says to a tick that a page asks for, but for one that would not come to rest: the page tells of that.
    pub fn show<G: 'static>(&mut self, world: &mut World<G>, game: &mut G) -> Result<(), LiveError> {
        let keeps = TypeId::of::<G>() == TypeId::of::<()>();
        self.frame((world, game), keeps, &mut |_| None, &mut |_, _| {})
    }

    /// The same for a game whose own state can be kept: going back goes back in that too.
    ///
    /// # Errors
    /// As for [`show`](Self::show).
    pub fn show_cloned<G: Clone + Send + 'static>(
        &mut self,
        world: &mut World<G>,
        game: &mut G,
    ) -> Result<(), LiveError> {
        let keep = &mut |game: &G| -> KeptGame { Some(Box::new(game.clone())) };
        self.frame((world, game), true, keep, &mut |game, kept| {
            if let Some(kept) = kept.downcast_ref::<G>() {
                game.clone_from(kept);
            }
        })
    }

    fn frame<G: 'static>(
        &mut self,
        (world, game): (&mut World<G>, &mut G),
        keeps: bool,
        keep: &mut dyn FnMut(&G) -> KeptGame,
        put: &mut dyn FnMut(&mut G, &(dyn Any + Send)),
    ) -> Result<(), LiveError> {
        let rate = u64::from(world.rate().per_second());
        if self.history.is_none() {
            world.keep_inputs(true);
            self.history = Some(History::new(rate, rate * PAST));
            self.deeds.begin(world);
        }
        let mut frame = Frame::default();
        self.note(world, game, keep);
        while let Ok((page, ask)) = self.asks.try_recv() {
            self.shared.looked_at(page);
            let said = match ask {
                Ask::Wind { tick, anyway } => {
                    if keeps || anyway {
                        self.wind((world, game), tick, put, &mut frame)
                    } else {
                        Some(Said {
                            kind: "ask",
                            text: format!(
                                "The game keeps a state of its own, which stays as it is. Go to tick {tick} anyway?"
                            ),
                        })
                    }
                }
                // A tick that has been is gone through again.
                Ask::Step if self.history.as_ref().is_some_and(|history| history.has_future(world)) => {
                    let next = world.now().0 + 1;
                    self.wind((world, game), next, put, &mut frame)
                }
                Ask::Step => {
                    self.hold.paused = true;
                    self.look(world, &mut frame);
                    if self.catch_up(world) {
                        self.step(world, game, keep)?;
                    }
                    None
                }
                Ask::Restart => {
                    self.saved.wants_restart = self.saved.restarts;
                    None
                }
                Ask::Pause => {
                    self.hold.paused = true;
                    None
                }
                Ask::Resume => {
                    self.hold.paused = false;
                    None
                }
                Ask::Pace { times } if times > 0.0 && times <= 16.0 => {
                    self.hold.times = times;
                    None
                }
                Ask::Pace { times } => {
                    Some(Said::no(format!("expected a pace up to 16 times as fast, found {times}")))
                }
                Ask::Line { who, text } => self.line(page, who.as_deref(), &text, world),
                Ask::Offer { since } => self.offer(page, since, world),
                Ask::Make { name, expected, write } => self.make(page, &name, &expected, write),
                ask => self.does(&ask, world),
            };
            if let Some(said) = said {
                self.shared.say(page, said);
            }
        }
        self.begin_typed(world);
        if !self.hold.paused && self.catch_up(world) {
            self.before_tick(world);
        }
        if self.shared.is_watched() {
            self.look(world, &mut frame);
            self.tell(world, frame);
        } else {
            self.was_watched = false;
            self.shown = None;
        }
        Ok(())
    }
}

impl Drop for Live {
    fn drop(&mut self) {
        self.shared.end();
    }
}
