//! What pages are told: what has changed since the world was looked at last, or everything.

use std::{sync::Arc, time::Instant};

use stoicheon_core::{Event, ObjectId, State};
use stoicheon_view::GroundChange;

use crate::{
    bench,
    history::History,
    live::{BENCH, LINES, Live, TAPE},
    reply::{OfferSeen, Player, Question, Reply, Status},
    shared::Frame,
    tape::{self, Line},
};

impl Live {
    /// What has changed since the world was looked at last.
    pub(super) fn look(&mut self, state: &State, frame: &mut Frame) {
        let (now, records) = (state.now().0, state.trace().len());
        frame.tick = now;
        let Some((shown, seen)) = self.shown else { return };
        self.look_after_taking_over(state, frame);
        if shown == now && seen == records {
            return;
        }
        let mut dirty: Vec<ObjectId> = state.moves().map(|moved| moved.object).collect();
        dirty.extend(&self.swinging);
        let mut about_records = Vec::new();
        let (mut all, mut switched) = (false, Vec::new());
        // Without records nothing says when somebody is asked.
        let mut asks_change = !state.trace().is_on();
        for (id, record) in state.trace().records_after(seen) {
            let about = tape::objects_of(state, &record);
            all |= tape::changes_scenes(&record.event);
            let lit = about.iter().filter_map(|object| Some(self.ground.thing_of(*object)?.number)).collect();
            about_records.extend(about);
            asks_change |= tape::changes_questions(state, &record.event);
            if let Event::Enabled { object } | Event::Disabled { object } = record.event {
                switched.push(object);
            }
            if let Event::Shifted { part, .. } = record.event
                && let Some(object) = state.object_of(part)
            {
                self.swings(state, object);
            }
            frame.tape.push(Arc::new(Line::of(state, id, &record, lit)));
        }
        self.tape.extend(frame.tape.iter().cloned());
        while self.tape.len() > TAPE {
            self.tape.pop_front();
        }
        if !switched.is_empty() {
            switched.sort_unstable();
            about_records.extend(tape::what_hangs_on(state, &switched));
        }
        // Few records are about what has moved as well; those are looked at twice.
        about_records.sort_unstable();
        about_records.dedup();
        dirty.append(&mut about_records);
        let changes = if all { self.look_at_all(state) } else { self.ground.look_at(state, dirty) };
        frame.put(changes);
        if asks_change {
            self.questions = None;
        }
        self.shown = Some((now, records));
    }

    /// A door that is on its way looks otherwise after every tick.
    fn swings(&mut self, state: &State, object: ObjectId) {
        let on_its_way =
            |part: &stoicheon_core::PartId| matches!(state.state_word(*part), Some("opening" | "closing"));
        if state.parts_of(object).iter().any(on_its_way) {
            self.swinging.insert(object);
        } else {
            self.swinging.remove(&object);
        }
    }

    /// Everything as it is now, at another tick or for a page that has just come.
    pub(super) fn look_at_all(&mut self, state: &State) -> Vec<GroundChange> {
        self.swinging.clear();
        self.questions = None;
        for object in state.objects() {
            self.swings(state, object);
        }
        self.ground.look_at_all(state)
    }

    /// Tells the pages.
    pub(super) fn tell(&mut self, state: &State, mut frame: Frame) {
        frame.tick = state.now().0;
        if self.shown.is_none() || !self.was_watched || self.shared.wants_whole() {
            self.was_watched = true;
            self.look_at_all(state);
            let records = state.trace().len();
            let lines = state.trace().records_after(records.saturating_sub(LINES));
            let lit = |record: &stoicheon_core::Record| {
                let objects = tape::objects_of(state, record).into_iter();
                objects.filter_map(|object| Some(self.ground.thing_of(object)?.number)).collect::<Vec<_>>()
            };
            let tape: Vec<_> =
                lines.map(|(id, record)| Arc::new(Line::of(state, id, &record, lit(&record)))).collect();
            // What happened while nobody watched.
            if self.tape.back().is_none_or(|line| line.n < records) {
                self.tape = tape.iter().cloned().collect();
            }
            self.status = Arc::new(self.status_of(state));
            self.shared.push_whole(Reply {
                tick: frame.tick,
                scenes: self.ground.scenes().to_vec(),
                things: self.ground.things().cloned().map(Arc::new).collect(),
                tape,
                state: Some(self.status.clone()),
                ..Reply::default()
            });
            self.shown = Some((frame.tick, records));
            self.scenes_told = self.ground.scenes().len();
        } else {
            if self.scenes_told != self.ground.scenes().len() {
                self.scenes_told = self.ground.scenes().len();
                frame.scenes = Some(self.ground.scenes().to_vec());
            }
            let status = self.status_of(state);
            if *self.status != status {
                self.status = Arc::new(status);
                frame.state = Some(self.status.clone());
            }
            self.shared.push(frame);
        }
        let began = Instant::now();
        let is_time = began >= self.bench_at;
        for (page, what, is_fresh) in self.shared.chosen() {
            if is_fresh || is_time {
                self.shared.put_bench(page, bench::of(state, &what));
            }
        }
        if is_time {
            // What costs long is looked at seldom, so that it never takes more than a fiftieth of the time.
            self.bench_at = began + BENCH.max(began.elapsed() * 50);
        }
    }

    fn status_of(&mut self, state: &State) -> Status {
        let history = self.history.as_ref();
        let now = state.now().0;
        let players: Vec<ObjectId> = state.players().collect();
        if self.questions.is_none() {
            let all = players.iter().map(|player| (*player, questions(state, *player)));
            self.questions = Some(all.filter(|(_, asked)| !asked.is_empty()).collect());
        }
        Status {
            title: self.title.clone(),
            rate: state.rate().per_second(),
            paused: self.hold.paused,
            times: self.hold.times,
            paced: self.hold.paced,
            from: history.and_then(History::first).unwrap_or(now),
            to: if self.hold.paused { history.and_then(History::last).unwrap_or(now).max(now) } else { 0 },
            looking_back: history.is_some_and(|history| history.has_future(state)),
            players: players.iter().map(|player| self.player(state, *player)).collect(),
            trouble: self.trouble.clone(),
            findings: self.saved.findings.clone(),
            is_other: self.saved.is_other,
            restarts: self.saved.restarts,
            took_over: self.taken.told.clone(),
            untraced: !state.trace().is_on(),
            pages: self.shared.pages(),
        }
    }

    fn player(&self, state: &State, player: ObjectId) -> Player {
        let thing = self.ground.thing_of(player);
        let offer = state.offer_to(player);
        let asked = self.questions.iter().flatten().find(|(who, _)| *who == player);
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

fn questions(state: &State, player: ObjectId) -> Vec<Question> {
    let asked = state.questions_to(player).into_iter();
    let one = |part| {
        let choice = state.part::<stoicheon_core::Choice>(part).ok()?;
        let answers = choice.answers().iter().map(ToString::to_string).collect();
        Some(Question { text: choice.question().to_owned(), answers })
    };
    asked.filter_map(one).collect()
}
