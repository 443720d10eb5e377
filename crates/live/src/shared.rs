//! What the world's thread and those of the pages share: the latest frames, everything as it is now, and who watches.

use std::{
    collections::{BTreeMap, VecDeque},
    sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError, mpsc::Sender},
    time::Duration,
};

use serde_json::Value;
use stoicheon_view::{GroundChange, GroundScene, GroundThing};

use crate::{
    ask::Ask,
    reply::{Reply, Said, Status},
    tape::Line,
};

/// How many frames a page may miss before it is told everything again.
const FRAMES: usize = 256;
/// How many pages may watch.
const PAGES: usize = 16;
/// How many things a page may ask for before the world has looked at them.
const ASKS: usize = 256;

/// What has changed from one frame to the next.
#[derive(Debug, Default)]
pub(crate) struct Frame {
    pub(crate) tick: u64,
    pub(crate) scenes: Option<Vec<GroundScene>>,
    pub(crate) things: Vec<Arc<GroundThing>>,
    pub(crate) at: Vec<(u32, f32, f32)>,
    pub(crate) gone: Vec<u32>,
    pub(crate) cut: Option<u64>,
    pub(crate) tape: Vec<Arc<Line>>,
    pub(crate) state: Option<Arc<Status>>,
}

impl Frame {
    pub(crate) fn put(&mut self, changes: Vec<GroundChange>) {
        for change in changes {
            match change {
                GroundChange::Thing(thing) => self.things.push(Arc::new(thing)),
                GroundChange::At { number, at: [x, y] } => self.at.push((number, x, y)),
                GroundChange::Gone { number } => self.gone.push(number),
                _ => {}
            }
        }
    }

    fn is_empty(&self) -> bool {
        let Self { tick: _, scenes, things, at, gone, cut, tape, state } = self;
        let no_ground = things.is_empty() && at.is_empty() && gone.is_empty();
        no_ground && tape.is_empty() && scenes.is_none() && state.is_none() && cut.is_none()
    }
}

/// A page that watches.
#[derive(Debug, Default)]
pub(crate) struct Page {
    pub(crate) chosen: Option<String>,
    /// What was chosen last has not been looked at yet.
    pub(crate) is_fresh: bool,
    bench: Option<Arc<Value>>,
    is_bench_news: bool,
    made: Option<Arc<Value>>,
    say: Vec<Said>,
    steers_told: Option<bool>,
    /// How many asks of it the world has not looked at.
    waiting: usize,
}

#[derive(Debug, Default)]
struct Inner {
    /// The number of the last frame.
    last: u64,
    tick: u64,
    frames: VecDeque<(u64, Arc<Frame>)>,
    /// Everything as it was after a frame.
    whole: Option<(u64, Arc<Reply>)>,
    /// A page has to be told everything.
    wants_whole: bool,
    pages: BTreeMap<u64, Page>,
    next_page: u64,
    steers: Option<u64>,
    ended: bool,
}

/// Shared by all threads.
#[derive(Debug)]
pub(crate) struct Shared {
    inner: Mutex<Inner>,
    news: Condvar,
    asks: Sender<(u64, Ask)>,
    /// Texts of the wiring, by name.
    texts: Mutex<BTreeMap<String, Arc<str>>>,
}

impl Shared {
    pub(crate) fn new(asks: Sender<(u64, Ask)>) -> Self {
        Self { inner: Mutex::default(), news: Condvar::new(), asks, texts: Mutex::default() }
    }

    fn lock(&self) -> MutexGuard<'_, Inner> {
        // A thread that panicked has left tables that are whole: each is changed in one step.
        self.inner.lock().unwrap_or_else(PoisonError::into_inner)
    }

    pub(crate) fn put_text(&self, name: &str, text: &str) {
        let mut texts = self.texts.lock().unwrap_or_else(PoisonError::into_inner);
        texts.insert(name.to_owned(), text.into());
    }

    pub(crate) fn text(&self, name: &str) -> Option<Arc<str>> {
        let texts = self.texts.lock().unwrap_or_else(PoisonError::into_inner);
        // Wires are shown with the name of their file alone where that is enough.
        let ends = |known: &str| known.strip_suffix(name).is_some_and(|rest| rest.ends_with('/'));
        let mut near = texts.iter().filter(|(known, _)| ends(known));
        let only = near.next().filter(|_| near.next().is_none()).map(|(_, text)| text);
        texts.get(name).or(only).cloned()
    }

    /// The world's thread: something has changed.
    pub(crate) fn push(&self, frame: Frame) {
        let mut inner = self.lock();
        inner.take(frame);
        drop(inner);
        self.news.notify_all();
    }

    /// Whether a page has to be told everything.
    pub(crate) fn wants_whole(&self) -> bool {
        self.lock().wants_whole
    }

    /// The world's thread: everything as it is now, with the frame pushed last.
    pub(crate) fn push_whole(&self, reply: Reply) {
        let mut inner = self.lock();
        inner.wants_whole = false;
        inner.last += 1;
        inner.tick = reply.tick;
        let seen = inner.last;
        inner.frames.clear();
        inner.whole = Some((seen, Arc::new(Reply { seen, whole: true, ..reply })));
        drop(inner);
        self.news.notify_all();
    }

    /// Nobody has to be told of frames.
    pub(crate) fn is_watched(&self) -> bool {
        !self.lock().pages.is_empty()
    }

    pub(crate) fn pages(&self) -> usize {
        self.lock().pages.len()
    }

    /// What each page has chosen, and whether it has not seen that yet.
    pub(crate) fn chosen(&self) -> Vec<(u64, String, bool)> {
        let mut inner = self.lock();
        let chosen = inner.pages.iter_mut().filter_map(|(id, page)| {
            let fresh = std::mem::take(&mut page.is_fresh);
            Some((*id, page.chosen.clone()?, fresh))
        });
        chosen.collect()
    }

    pub(crate) fn put_bench(&self, page: u64, bench: Value) {
        let mut inner = self.lock();
        if let Some(page) = inner.pages.get_mut(&page)
            && page.bench.as_deref() != Some(&bench)
        {
            page.bench = Some(Arc::new(bench));
            page.is_bench_news = true;
            drop(inner);
            self.news.notify_all();
        }
    }

    pub(crate) fn put_made(&self, page: u64, made: Value) {
        if let Some(page) = self.lock().pages.get_mut(&page) {
            page.made = Some(Arc::new(made));
        }
        self.news.notify_all();
    }

    pub(crate) fn say(&self, page: u64, said: Said) {
        let mut inner = self.lock();
        if let Some(page) = inner.pages.get_mut(&page) {
            page.say.push(said);
        }
        drop(inner);
        self.news.notify_all();
    }

    /// The world's thread has looked at what a page asked for.
    pub(crate) fn looked_at(&self, page: u64) {
        if let Some(page) = self.lock().pages.get_mut(&page) {
            page.waiting = page.waiting.saturating_sub(1);
        }
    }

    pub(crate) fn end(&self) {
        self.lock().ended = true;
        self.news.notify_all();
    }

    /// A page comes; nothing if there are too many.
    pub(crate) fn open(&self) -> Option<u64> {
        let mut inner = self.lock();
        if inner.pages.len() >= PAGES || inner.ended {
            return None;
        }
        inner.next_page += 1;
        let id = inner.next_page;
        inner.pages.insert(id, Page::default());
        inner.steers.get_or_insert(id);
        Some(id)
    }

    pub(crate) fn close(&self, page: u64) {
        let mut inner = self.lock();
        inner.pages.remove(&page);
        if inner.steers == Some(page) {
            inner.steers = inner.pages.keys().next().copied();
        }
        if inner.pages.is_empty() {
            // Nobody is told of frames from now on, and what there is grows old.
            inner.frames.clear();
            inner.whole = None;
        }
        drop(inner);
        self.news.notify_all();
    }

    /// What a page asks for; false if it asks for too much.
    pub(crate) fn ask(&self, page: u64, asks: Vec<Ask>) -> bool {
        let mut inner = self.lock();
        for ask in asks {
            let steers = inner.steers == Some(page);
            let Some(own) = inner.pages.get_mut(&page) else { return false };
            match ask {
                Ask::Choose { what } => {
                    own.chosen = what;
                    (own.is_fresh, own.bench) = (true, None);
                }
                Ask::Steer => inner.steers = Some(page),
                _ if !steers => {
                    own.say.push(Said::no("another page steers: take over first"));
                }
                ask => {
                    own.waiting += 1;
                    if own.waiting > ASKS {
                        return false;
                    }
                    // The world may have ended meanwhile.
                    let _ = self.asks.send((page, ask));
                }
            }
        }
        true
    }

    /// What has changed since a page asked last; waits a little for news. Nothing when the world has ended.
    pub(crate) fn reply(&self, page: u64, seen: u64, patience: Duration) -> Option<Reply> {
        let mut inner = self.lock();
        if !inner.has_news(page, seen) {
            inner.wants_whole |= !inner.can_follow(seen);
            let waited = self.news.wait_timeout_while(inner, patience, |inner| !inner.has_news(page, seen));
            inner = waited.unwrap_or_else(PoisonError::into_inner).0;
        }
        (!inner.ended).then(|| inner.reply(page, seen))
    }
}

impl Inner {
    fn take(&mut self, frame: Frame) {
        self.tick = frame.tick;
        self.last += 1;
        if frame.is_empty()
            && let Some((number, last)) = self.frames.back_mut()
            && last.is_empty()
        {
            // Only time has passed; who misses such a frame has missed nothing.
            *number = self.last;
            return;
        }
        self.frames.push_back((self.last, Arc::new(frame)));
        if self.frames.len() > FRAMES {
            self.frames.pop_front();
        }
    }

    /// The number of the frame from which on all frames are here.
    fn since(&self) -> u64 {
        self.frames.front().map_or(self.last, |(number, _)| number.saturating_sub(1))
    }

    /// Whether a page that has seen that frame can be told the rest by frames.
    fn can_follow(&self, seen: u64) -> bool {
        seen > 0 && seen <= self.last && seen >= self.since()
    }

    fn has_news(&self, id: u64, seen: u64) -> bool {
        let own = self.pages.get(&id).is_none_or(|page| {
            page.is_bench_news
                || page.made.is_some()
                || !page.say.is_empty()
                || page.steers_told != Some(self.steers == Some(id))
        });
        if self.can_follow(seen) {
            own || self.last > seen || self.ended
        } else {
            self.ended || self.whole.as_ref().is_some_and(|(number, _)| self.can_follow(*number))
        }
    }

    fn reply(&mut self, id: u64, seen: u64) -> Reply {
        let mut reply = Reply { seen: self.last, tick: self.tick, ..Reply::default() };
        let known = if self.can_follow(seen) {
            seen
        } else if let Some((number, whole)) =
            self.whole.as_ref().filter(|(number, _)| self.can_follow(*number))
        {
            reply = Reply { seen: self.last, tick: self.tick, ..whole.as_ref().clone() };
            *number
        } else {
            self.wants_whole = true;
            return Reply { seen: 0, tick: self.tick, ..Reply::default() };
        };
        let new = self.frames.iter().filter(|(number, _)| *number > known);
        new.for_each(|(_, frame)| add(&mut reply, frame));
        let steers = self.steers == Some(id);
        if let Some(page) = self.pages.get_mut(&id) {
            if std::mem::take(&mut page.is_bench_news) || reply.whole {
                reply.bench.clone_from(&page.bench);
            }
            reply.made = page.made.take();
            reply.say = std::mem::take(&mut page.say);
            if page.steers_told != Some(steers) || reply.whole {
                page.steers_told = Some(steers);
                reply.steers = Some(steers);
            }
        }
        reply
    }
}

/// With what a later frame has.
fn add(reply: &mut Reply, frame: &Frame) {
    if let Some(scenes) = &frame.scenes {
        reply.scenes.clone_from(scenes);
    }
    for thing in &frame.things {
        reply.things.retain(|known| known.number != thing.number);
        reply.at.retain(|(number, ..)| *number != thing.number);
        reply.gone.retain(|number| *number != thing.number);
        reply.things.push(thing.clone());
    }
    if reply.at.is_empty() {
        reply.at.clone_from(&frame.at);
    } else {
        reply.at.retain(|(number, ..)| !frame.at.iter().any(|(newer, ..)| newer == number));
        reply.at.extend(&frame.at);
    }
    for gone in &frame.gone {
        reply.things.retain(|known| known.number != *gone);
        reply.at.retain(|(number, ..)| number != gone);
        reply.gone.push(*gone);
    }
    if let Some(cut) = frame.cut {
        reply.tape.retain(|line| line.n <= cut);
        reply.cut = Some(reply.cut.map_or(cut, |earlier| earlier.min(cut)));
    }
    reply.tape.extend(frame.tape.iter().cloned());
    if let Some(state) = &frame.state {
        reply.state = Some(state.clone());
    }
}
