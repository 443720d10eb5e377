//! The page's end in a game: what it is shown once a frame.

use std::{
    any::{Any, TypeId},
    collections::BTreeSet,
    net::SocketAddr,
    sync::{
        Arc,
        mpsc::{Receiver, channel},
    },
    time::{Duration, Instant},
};

use stoicheon_core::{Advance, Error, ObjectId, Seconds, State, World, secs};
use stoicheon_view::Ground;

use crate::{
    ask::Ask,
    bench,
    deeds::Deeds,
    does::does,
    error::LiveError,
    history::{History, KeptGame, Wound},
    reply::{OfferSeen, Player, Question, Reply, Said, Status},
    server::Server,
    shared::{Frame, Shared},
    tape::{self, Line},
    walk::{Lie, Steering},
    wiring::{LiveWiring, Typed},
};

/// How many records a page gets that has just come.
const LINES: u64 = 4_000;
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
    steering: Steering,
    history: Option<History>,
    /// The tick shown last, and how many records there were then.
    shown: Option<(u64, u64)>,
    /// The tick after which was looked at what goes on.
    noted: Option<u64>,
    status: Arc<Status>,
    was_watched: bool,
    bench_at: Instant,
    paused: bool,
    times: f64,
    paced: bool,
    trouble: Option<String>,
    /// What a player is asked is looked up again when something was recorded.
    questions: Vec<(ObjectId, Vec<Question>)>,
    wiring: Option<LiveWiring>,
    typed: Typed,
    deeds: Deeds,
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
            steering: Steering::default(),
            history: None,
            shown: None,
            noted: None,
            status: Arc::default(),
            was_watched: false,
            bench_at: Instant::now(),
            paused: false,
            times: 1.0,
            paced: false,
            trouble: None,
            questions: Vec::new(),
            wiring: None,
            typed: Typed::default(),
            deeds: Deeds::default(),
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
        self.paced = true;
        if self.paused { secs(0.0) } else { secs(frame.0 * self.times) }
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
            Err(error @ Error::Tick(_)) => (self.trouble, self.paused) = (Some(error.to_string()), true),
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
                    self.paused = true;
                    self.look(world, &mut frame);
                    self.step(world, game, keep)?;
                    None
                }
                Ask::Pause => {
                    self.paused = true;
                    None
                }
                Ask::Resume => {
                    self.paused = false;
                    None
                }
                Ask::Pace { times } if times > 0.0 && times <= 16.0 => {
                    self.times = times;
                    None
                }
                Ask::Pace { times } => {
                    Some(Said::no(format!("expected a pace up to 16 times as fast, found {times}")))
                }
                Ask::Line { who, text } => self.line(page, who.as_deref(), &text, world),
                Ask::Offer { since } => self.offer(page, since, world),
                Ask::Make { name, expected, write } => self.make(page, &name, &expected, write, world),
                ask => self.does(ask, world),
            };
            if let Some(said) = said {
                self.shared.say(page, said);
            }
        }
        self.begin_typed(world);
        if !self.paused {
            self.steering.before_tick(Lie { ground: &self.ground }, world);
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

    /// Begins what was typed, as far as it can begin now.
    fn begin_typed<G: 'static>(&mut self, world: &mut World<G>) {
        let mut said = Vec::new();
        self.typed.begin(world, &mut said);
        said.into_iter().for_each(|(page, said)| self.shared.say(page, said));
    }

    fn line<G: 'static>(
        &mut self,
        page: u64,
        who: Option<&str>,
        text: &str,
        world: &World<G>,
    ) -> Option<Said> {
        let Some(wiring) = &self.wiring else {
            return Some(Said::no("this page knows nothing of the wiring, so that no line can be read"));
        };
        match wiring.read(world, who, text) {
            Ok(line) => {
                self.branch(world.now().0);
                self.deeds.push(world, None, line.text().to_owned());
                self.typed.push(page, line);
                None
            }
            Err(reason) => Some(Said::no(reason)),
        }
    }

    fn offer(&self, page: u64, since: u64, state: &State) -> Option<Said> {
        match (&self.wiring, self.deeds.began) {
            (Some(wiring), Some(0)) => {
                self.shared.put_made(page, wiring.offer(&self.deeds, state, since));
                None
            }
            (Some(_), _) => {
                Some(Said::no("a playtest begins with the world, and this world had begun before"))
            }
            (None, _) => {
                Some(Said::no("this page knows nothing of the wiring, so that no playtest can be made"))
            }
        }
    }

    fn make(&self, page: u64, name: &str, expected: &[String], write: bool, state: &State) -> Option<Said> {
        let wiring = self.wiring.as_ref()?;
        let (text, story) = wiring.make(&self.deeds, state, name, expected);
        let passes = story.is_empty();
        self.shared.put_made(page, serde_json::json!({ "text": text, "story": story }));
        match (write, passes) {
            (true, true) => {
                Some(wiring.write(&text).map_or_else(Said::no, |text| Said { kind: "done", text }))
            }
            (true, false) => Some(Said::no("nothing is written: it does not pass")),
            (false, _) => None,
        }
    }

    /// After ticks of the game.
    fn note<G: 'static>(&mut self, world: &mut World<G>, game: &G, keep: &mut dyn FnMut(&G) -> KeptGame) {
        let now = world.now().0;
        if self.noted != Some(now) {
            self.noted = Some(now);
            let mut said = Vec::new();
            self.typed.tick(world, &mut said);
            said.into_iter().for_each(|(page, said)| self.shared.say(page, said));
            self.deeds.tick(world, |who| world.is_walking(who));
        }
        let Some(history) = &mut self.history else { return };
        if let Some(branch) = history.note(world, || keep(game)) {
            self.deeds.cut(branch);
        }
    }

    /// Something new is done: what came after this tick did not happen.
    fn branch(&mut self, now: u64) {
        if let Some(history) = &mut self.history
            && history.cut(now)
        {
            self.deeds.cut(now);
        }
    }

    fn does<G: 'static>(&mut self, ask: Ask, world: &mut World<G>) -> Option<Said> {
        self.branch(world.now().0);
        if matches!(ask, Ask::Join { .. })
            && let Some(history) = &mut self.history
        {
            // Who joins is there at once, which no tick says again.
            history.keep_next();
        }
        self.deeds.before(world, &ask);
        let lie = Lie { ground: &self.ground };
        let done = does(ask.clone(), (&mut self.steering, &mut self.deeds), lie, world);
        if done.is_ok() {
            self.deeds.after(world, &ask);
        }
        done.err().map(Said::no)
    }

    /// One tick on: one that has been, if nothing was handed in since, or else a new one.
    fn step<G: 'static>(
        &mut self,
        world: &mut World<G>,
        game: &mut G,
        keep: &mut dyn FnMut(&G) -> KeptGame,
    ) -> Result<(), LiveError> {
        self.steering.before_tick(Lie { ground: &self.ground }, world);
        self.trouble = None;
        match world.step(game) {
            Err(error @ Error::Tick(_)) => self.trouble = Some(error.to_string()),
            other => other?,
        }
        self.note(world, game, keep);
        Ok(())
    }

    fn wind<G: 'static>(
        &mut self,
        (world, game): (&mut World<G>, &mut G),
        tick: u64,
        put: &mut dyn FnMut(&mut G, &(dyn Any + Send)),
        frame: &mut Frame,
    ) -> Option<Said> {
        self.paused = true;
        self.trouble = None;
        self.look(world, frame);
        self.typed.clear();
        self.steering.let_go();
        let history = self.history.as_ref()?;
        let wound = history.wind((world, game), tick, put);
        // What is recorded from here on follows what was recorded then.
        let records = world.trace().len();
        frame.cut = Some(frame.cut.map_or(records, |cut| cut.min(records)));
        frame.tape.retain(|line| line.n <= records);
        let changes = self.ground.look_at_all(world);
        frame.put(changes);
        self.shown = self.shown.map(|(_, seen)| (u64::MAX, seen.min(records)));
        match wound {
            Ok(Wound::There) => None,
            Ok(Wound::Before(there)) => {
                Some(Said::no(format!("tick {tick} cannot be gone to exactly; this is tick {there}")))
            }
            Err(reason) => Some(Said::no(reason)),
        }
    }

    /// What has changed since the world was looked at last.
    fn look(&mut self, state: &State, frame: &mut Frame) {
        let (now, records) = (state.now().0, state.trace().len());
        frame.tick = now;
        let Some((shown, seen)) = self.shown else { return };
        if shown == now && seen == records {
            return;
        }
        let mut dirty: BTreeSet<ObjectId> = state.moves().map(|moved| moved.object).collect();
        let mut all = false;
        for (id, record) in state.trace().records_after(seen) {
            let about = tape::objects_of(state, &record);
            all |= tape::changes_scenes(&record.event);
            let lit = about.iter().filter_map(|object| Some(self.ground.thing_of(*object)?.number)).collect();
            dirty.extend(about);
            frame.tape.push(Arc::new(Line::of(state, id, &record, lit)));
        }
        let changes = if all { self.ground.look_at_all(state) } else { self.ground.look_at(state, dirty) };
        frame.put(changes);
        if seen != records {
            self.questions.clear();
        }
        self.shown = Some((now, records));
    }

    /// Tells the pages.
    fn tell(&mut self, state: &State, mut frame: Frame) {
        frame.tick = state.now().0;
        let status = self.status_of(state);
        if self.shown.is_none() || !self.was_watched || self.shared.wants_whole() {
            self.was_watched = true;
            self.ground.look_at_all(state);
            let records = state.trace().len();
            let lines = state.trace().records_after(records.saturating_sub(LINES));
            let lit = |record: &stoicheon_core::Record| {
                let objects = tape::objects_of(state, record).into_iter();
                objects.filter_map(|object| Some(self.ground.thing_of(object)?.number)).collect::<Vec<_>>()
            };
            let tape =
                lines.map(|(id, record)| Arc::new(Line::of(state, id, &record, lit(&record)))).collect();
            self.status = Arc::new(status);
            self.shared.push_whole(Reply {
                tick: frame.tick,
                scenes: self.ground.scenes().to_vec(),
                things: self.ground.things().cloned().map(Arc::new).collect(),
                tape,
                state: Some(self.status.clone()),
                ..Reply::default()
            });
            self.shown = Some((frame.tick, records));
        } else {
            if *self.status != status {
                self.status = Arc::new(status);
                frame.state = Some(self.status.clone());
            }
            self.shared.push(frame);
        }
        let is_time = self.bench_at.elapsed() >= BENCH;
        for (page, what, is_fresh) in self.shared.chosen() {
            if is_fresh || is_time {
                self.shared.put_bench(page, bench::of(state, &what));
            }
        }
        if is_time {
            self.bench_at = Instant::now();
        }
    }

    fn status_of(&mut self, state: &State) -> Status {
        let history = self.history.as_ref();
        let now = state.now().0;
        let players: Vec<ObjectId> = state.players().collect();
        if self.questions.is_empty() && !players.is_empty() {
            self.questions = players.iter().map(|player| (*player, questions(state, *player))).collect();
        }
        Status {
            title: self.title.clone(),
            rate: state.rate().per_second(),
            paused: self.paused,
            times: self.times,
            paced: self.paced,
            from: history.and_then(History::first).unwrap_or(now),
            to: if self.paused { history.and_then(History::last).unwrap_or(now).max(now) } else { 0 },
            looking_back: history.is_some_and(|history| history.has_future(state)),
            players: players.iter().map(|player| self.player(state, *player)).collect(),
            trouble: self.trouble.clone(),
            untraced: !state.trace().is_on(),
            pages: self.shared.pages(),
        }
    }

    fn player(&self, state: &State, player: ObjectId) -> Player {
        let thing = self.ground.thing_of(player);
        let offer = state.offer_to(player);
        let asked = self.questions.iter().find(|(who, _)| *who == player);
        Player {
            name: state.name(player).unwrap_or_default().to_owned(),
            scene: thing.map(|thing| thing.scene),
            thing: thing.map(|thing| thing.number),
            held: offer.as_ref().and_then(|offer| offer.held),
            offer: offer.map(|offer| OfferSeen {
                of: state.name(offer.object).unwrap_or_default().to_owned(),
                label: offer.label.to_string(),
                key: offer.key.to_string(),
            }),
            questions: asked.map(|(_, asked)| asked.clone()).unwrap_or_default(),
            follows: self.steering.followed_by(player).and_then(|whom| state.name(whom)).map(str::to_owned),
            carries: state
                .carried_by(player)
                .iter()
                .filter_map(|item| state.name(*item))
                .map(str::to_owned)
                .collect(),
        }
    }
}

impl Drop for Live {
    fn drop(&mut self) {
        self.shared.end();
    }
}

fn questions(state: &State, player: ObjectId) -> Vec<Question> {
    let asked = state.questions_to(player).into_iter();
    let one = |part| {
        let choice = state.part::<stoicheon_core::Choice>(part).ok()?;
        let answers = choice.answers().iter().map(ToString::to_string).collect();
        Some(Question { text: choice.question().to_owned(), answers })
    };
    asked.filter_map(one).collect()
}
