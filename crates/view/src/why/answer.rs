//! The whole answer to `why`, as text.

use std::fmt::Write;

use stoicheon_core::{ObjectId, RecordId, State, Tick};

use crate::{
    paint::Paint,
    phrase::clock_time,
    why::{
        history::History,
        misses::{nearest_in, nobody_commands},
        question::Question,
    },
};

/// Asks a world why something happened, or why it did not.
///
/// ```
/// use stoicheon_core::{Expr, Step, World};
/// use stoicheon_view::{Question, Why};
/// let mut world = World::<()>::new();
/// let (bell, rung) = (world.declare_signal::<()>("bell")?, world.declare_signal::<()>("rung")?);
/// let level = world.var("level", 0.4)?;
/// let steps = [Step::Emit { signal: rung.id(), values: Vec::new() }];
/// world.on(bell).when(Expr::var(level).more_than(0.95)).run_steps(steps)?;
/// world.emit(bell, ())?;
/// world.step(&mut ())?;
/// let rung = Question::parse(&world, "rung")?;
/// let answer = Why::new(&world).answer(&rung);
/// assert!(answer.contains("rung did not happen"));
/// assert!(answer.contains("level > 0.95; level is 0.4"));
/// let bell = Question::parse(&world, "bell")?;
/// assert!(Why::new(&world).answer(&bell).contains("the host emits bell"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug)]
pub struct Why<'s> {
    state: &'s State,
    at: Option<Tick>,
    who: Option<ObjectId>,
    paint: Paint,
}

/// How many times are listed when something happened often.
const MOST_TIMES: usize = 8;
/// How many wires are told that could have done it.
const MOST_MISSES: usize = 5;

impl<'s> Why<'s> {
    /// Asks about everything up to now, and about everybody.
    pub fn new(state: &'s State) -> Self {
        Self { state, at: None, who: None, paint: Paint::plain() }
    }

    /// Asks about a moment: the last time that it happened up to then, or why it had not.
    pub fn at(mut self, tick: Tick) -> Self {
        self.at = Some(tick);
        self
    }

    /// Asks about one player: what goes back to them.
    pub fn by(mut self, who: ObjectId) -> Self {
        self.who = Some(who);
        self
    }

    /// In those styles.
    pub fn painted(mut self, paint: Paint) -> Self {
        self.paint = paint;
        self
    }

    /// How often it happened, as far as the trace reaches.
    pub fn times(self, question: &Question) -> usize {
        let history = History::of(self.state);
        self.all(&history, question).len()
    }

    fn all(self, history: &History<'_>, question: &Question) -> Vec<(RecordId, Tick)> {
        let happened = history.iter().filter(|(_, record)| question.is_it(self.state, &record.event));
        let concerns = |id| self.who.is_none_or(|who| history.concerns(id, who));
        happened.filter(|(id, _)| concerns(*id)).map(|(id, record)| (id, record.tick)).collect()
    }

    /// The answer: the chain of causes back to an input; or, if it did not happen, the wires that came nearest, what refused each and
    /// with which values.
    pub fn answer(self, question: &Question) -> String {
        let history = History::of(self.state);
        let all = self.all(&history, question);
        let until = self.at.unwrap_or(self.state.now());
        let chosen = all.iter().rev().find(|(_, tick)| *tick <= until).copied();
        match chosen {
            Some((id, _)) => self.happened(&history, question, &all, id),
            None => match question.as_it_was(&history, until) {
                Some((was, ended)) => self.was(&history, question, &was, ended),
                None => self.did_not(&history.up_to(until), question, &all, until),
            },
        }
    }

    fn time(self, tick: Tick) -> String {
        clock_time(self.state.rate(), tick)
    }

    fn for_whom(self) -> String {
        let name = self.who.and_then(|who| self.state.name(who));
        name.map_or_else(String::new, |name| format!(" for {name}"))
    }

    fn happened(
        self,
        history: &History<'_>,
        question: &Question,
        all: &[(RecordId, Tick)],
        chosen: RecordId,
    ) -> String {
        let (bold, (verb, _)) = (self.paint.signal, question.verbs());
        let mut times: Vec<_> = all.iter().take(MOST_TIMES).map(|(_, tick)| self.time(*tick)).collect();
        if all.len() > MOST_TIMES {
            times.push(format!("and {} more times", all.len() - MOST_TIMES));
        }
        let often = match all.len() {
            1 => format!("once, at {}", times.join("")),
            many => format!("{many} times: {}", times.join(", ")),
        };
        let name = question.text();
        let mut text = format!("{bold}{name}{bold:#} {verb}{} {often}\n\n", self.for_whom());
        for line in history.story(chosen) {
            text.push_str(line.trim_end());
            text.push('\n');
        }
        text
    }

    /// A state that was so from the start.
    fn was(self, history: &History<'_>, question: &Question, was: &str, ended: Option<RecordId>) -> String {
        let bold = self.paint.signal;
        let mut text = format!("{bold}{}{bold:#} {was}\n", question.text());
        if let Some(ended) = ended {
            text.push('\n');
            for line in history.story(ended) {
                let _ = writeln!(text, "{}", line.trim_end());
            }
        }
        text
    }

    fn did_not(
        self,
        history: &History<'_>,
        question: &Question,
        all: &[(RecordId, Tick)],
        until: Tick,
    ) -> String {
        let (bold, dim) = (self.paint.refused, self.paint.phase);
        let (name, whom, (_, verb)) = (question.text(), self.for_whom(), question.verbs());
        let mut text = format!("{bold}{name}{bold:#} {verb}{whom} up to {}", self.time(until));
        if let Some((_, first)) = all.iter().find(|(_, tick)| *tick > until) {
            let _ = write!(text, "; the first time was at {}", self.time(*first));
        }
        text.push_str("\n\n");
        let Some(about) = question.about(history) else {
            return text + "  nothing of that name is there any more\n";
        };
        let found = self.state.why_not_for(about, self.who, Tick(0)..=until);
        // The nearest one is told to the end, also why its own signal never came.
        let mut stories = vec![nearest_in(history, about, self.who, until)];
        let others = found.misses.iter().skip(1).take(MOST_MISSES - 1);
        stories.extend(others.map(|miss| history.miss(miss, about)));
        stories.retain(|story| !story.is_empty());
        if stories.is_empty() {
            let gives = nobody_commands(self.state, about);
            text.push_str(if gives.is_empty() {
                "  no wire leads there\n"
            } else {
                "  no wire leads there\n  "
            });
            text.push_str(&gives.join("\n  "));
            if !gives.is_empty() {
                text.push('\n');
            }
        }
        for (index, story) in stories.iter().enumerate() {
            for (number, line) in story.iter().enumerate() {
                let head = match (index, number) {
                    (0, 0) => "nearest  ",
                    (_, 0) => "also     ",
                    _ => "           ",
                };
                let _ = writeln!(text, "  {dim}{head}{dim:#}{line}");
            }
        }
        if found.misses.len() > MOST_MISSES {
            let _ = writeln!(text, "  … and {} more wires lead there", found.misses.len() - MOST_MISSES);
        }
        text
    }
}
