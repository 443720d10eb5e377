//! What is asked about, found by name.

use stoicheon_core::{About, Event, Near, PartId, RecordId, SignalKind, SmolStr, State, Tick};

use crate::why::history::History;

/// Something that can happen, and that `why` is asked about. It is kept by name: what a scene consists of has other ids when
/// the scene is loaded again.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Question {
    what: What,
}

#[derive(Clone, Debug, PartialEq, Eq)]
enum What {
    Signal(SmolStr),
    Effect(SmolStr),
    Var(SmolStr),
    /// An object, and the word for a state that one of its parts can be in.
    State(SmolStr, SmolStr),
    /// Where a wire was written.
    Wire(SmolStr),
}

/// There is nothing of that name in the world.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct NothingNamed {
    /// What was asked.
    pub found: String,
    /// The closest name, if one is close.
    pub near: Near,
}

impl std::fmt::Display for NothingNamed {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let Self { found, near } = self;
        write!(
            f,
            "expected a signal, an effect, a variable, a state as in `upper_gate is open`, or a wire as in "
        )?;
        write!(f, "`lock.stoi:14`, found {found}{near}")
    }
}

impl std::error::Error for NothingNamed {}

impl Question {
    /// What is asked about: a signal (`upper_gate.opened`, also `upper_gate opened`), an effect, a variable, a state that a
    /// part came to (`upper_gate is open`), or a wire by where it was written (`lock.stoi:14`). In a project, the name of the scene
    /// may be left out where only one scene has the rest.
    ///
    /// # Errors
    /// [`NothingNamed`] if there is nothing of that name.
    pub fn parse(state: &State, asked: &str) -> Result<Self, NothingNamed> {
        let words: Vec<&str> = asked.split_whitespace().collect();
        let names = Names::of(state);
        let what = match words.as_slice() {
            [name] => names.find(name),
            [object, "is", word] => names.state(state, object, word),
            [object, word] => {
                names.find(&format!("{object}.{word}")).or_else(|| names.state(state, object, word))
            }
            _ => None,
        };
        // The wire of a part stands nowhere, and is called after the part.
        let of_part = || names.places.iter().find(|place| *place == asked).cloned().map(What::Wire);
        what.or_else(of_part)
            .map(|what| Self { what })
            .ok_or_else(|| NothingNamed { found: asked.to_owned(), near: names.near(&words.join(".")) })
    }

    /// A question about something that is known.
    pub(crate) fn about_signal(state: &State, signal: stoicheon_core::SignalId) -> Self {
        Self { what: What::Signal(state.signal_name(signal).unwrap_or_default().into()) }
    }

    /// As it is shown.
    pub fn text(&self) -> String {
        match &self.what {
            What::Signal(name) | What::Effect(name) | What::Var(name) | What::Wire(name) => name.to_string(),
            What::State(object, word) => format!("{object} is {word}"),
        }
    }

    /// What happened to it, and what did not.
    pub(crate) fn verbs(&self) -> (&'static str, &'static str) {
        match self.what {
            What::Signal(_) => ("happened", "did not happen"),
            What::Effect(_) => ("was performed", "was not performed"),
            What::Var(_) => ("was set", "was not set"),
            What::State(..) => ("came to hold", "did not come to hold"),
            What::Wire(_) => ("took its signal", "did not take its signal"),
        }
    }

    /// It as the world knows it now, or knew it last.
    pub(crate) fn about(&self, history: &History<'_>) -> Option<About> {
        let state = history.state;
        let once = |event: &Event| match event {
            Event::Delivered { signal, .. } => Some(About::Signal(*signal)),
            Event::Set { var, .. } | Event::Kept { var, .. } => Some(About::Var(*var)),
            Event::Shifted { part, .. } => Some(About::Part(*part)),
            Event::Took { wire } | Event::Refused { wire, .. } => Some(About::Wire(*wire)),
            _ => None,
        };
        let now = match &self.what {
            What::Signal(name) => state.find_signal(name).map(About::Signal),
            What::Effect(name) => state.find_effect(name).map(About::Effect),
            What::Var(name) => state.find_var(name).map(About::Var),
            What::State(object, word) => state.find(object).and_then(|object| {
                let has =
                    |part: &&PartId| state.kind_of(**part).is_some_and(|kind| kind.state(word).is_some());
                state.parts_of(object).iter().find(has).copied().map(About::Part)
            }),
            What::Wire(place) => state.wire_at(place).map(About::Wire),
        };
        now.or_else(|| {
            let mut events = history.iter().rev().map(|(_, record)| &record.event);
            events.find(|event| self.concerns(state, event)).and_then(once)
        })
    }

    /// Whether an event is about it, whether it happened in it or not.
    fn concerns(&self, state: &State, event: &Event) -> bool {
        match (&self.what, event) {
            (What::State(object, word), Event::Shifted { part, .. }) => {
                let of = state.object_of(*part).and_then(|object| state.name(object));
                of == Some(object) && state.kind_of(*part).is_some_and(|kind| kind.state(word).is_some())
            }
            (What::Wire(place), Event::Took { wire } | Event::Refused { wire, .. }) => {
                state.wire_place(*wire).is_some_and(|at| is_at(&at.to_string(), place))
            }
            _ => self.is_it(state, event),
        }
    }

    /// Whether it happened in an event.
    pub(crate) fn is_it(&self, state: &State, event: &Event) -> bool {
        match (&self.what, event) {
            (What::Signal(name), Event::Delivered { signal, .. }) => state.signal_name(*signal) == Some(name),
            (What::Effect(name), Event::Performed { effect, .. }) => state.effect_name(*effect) == Some(name),
            (What::Var(name), Event::Set { var, from, to, .. } | Event::Kept { var, from, to, .. }) => {
                from != to && state.var_name(*var) == Some(name)
            }
            (What::State(object, word), Event::Shifted { part, to, .. }) => {
                let kind = state.kind_of(*part).and_then(|kind| kind.states.get(usize::from(*to)));
                kind == Some(&word.as_str())
                    && state.object_of(*part).and_then(|object| state.name(object)) == Some(object)
            }
            (What::Wire(place), Event::Took { wire }) => {
                state.wire_place(*wire).is_some_and(|at| is_at(&at.to_string(), place))
            }
            _ => false,
        }
    }

    /// What is to be said of a state that nothing led to, since it was so from the start: with what ended that, if anything did by then.
    pub(crate) fn as_it_was(&self, history: &History<'_>, until: Tick) -> Option<(String, Option<RecordId>)> {
        let What::State(_, word) = &self.what else { return None };
        let Some(About::Part(part)) = self.about(history) else { return None };
        let kind = history.state.kind_of(part)?;
        let mut shifts = history.iter().filter(|(_, record)| self.concerns(history.state, &record.event));
        let Some((id, record)) = shifts.next() else {
            let is_so = history.state.state_word(part) == Some(word);
            return is_so.then(|| ("has held since the start".to_owned(), None));
        };
        let Event::Shifted { from, .. } = record.event else { return None };
        if kind.states.get(usize::from(from)) != Some(&word.as_str()) {
            return None;
        }
        if record.tick > until {
            return Some(("has held since the start".to_owned(), None));
        }
        let time = crate::phrase::clock_time(history.state.rate(), record.tick);
        Some((format!("held from the start until {time}"), Some(id)))
    }

    /// The part that gives the signal, if it is a part's.
    pub(crate) fn giver(&self, state: &State) -> Option<(PartId, &'static SignalKind)> {
        let What::Signal(name) = &self.what else { return None };
        let (object, word) = name.rsplit_once('.')?;
        let object = state.find(object)?;
        state.parts_of(object).iter().find_map(|part| {
            let kind = state.kind_of(*part)?.signals.iter().find(|kind| kind.name == word)?;
            Some((*part, kind))
        })
    }
}

fn is_at(whole: &str, place: &str) -> bool {
    whole.strip_suffix(place).is_some_and(|rest| rest.is_empty() || rest.ends_with(['/', '\\']))
}

/// The names that can be asked about, now and as far as the trace reaches.
struct Names {
    signals: Vec<SmolStr>,
    effects: Vec<SmolStr>,
    vars: Vec<SmolStr>,
    objects: Vec<SmolStr>,
    places: Vec<SmolStr>,
}

impl Names {
    fn of(state: &State) -> Self {
        let mut signals: Vec<SmolStr> = state.signal_names().map(SmolStr::from).collect();
        let mut vars: Vec<SmolStr> =
            state.vars().filter_map(|var| state.var_name(var)).map(SmolStr::from).collect();
        let mut objects: Vec<SmolStr> =
            state.objects().filter_map(|object| state.name(object)).map(SmolStr::from).collect();
        let mut places: Vec<SmolStr> = state
            .wires()
            .filter_map(|wire| state.wire_place(wire))
            .map(|place| place.to_string().into())
            .collect();
        for (_, record) in state.trace().records() {
            let (list, name) = match record.event {
                Event::Delivered { signal, .. } => (&mut signals, state.signal_name(signal)),
                Event::Set { var, .. } | Event::Kept { var, .. } => (&mut vars, state.var_name(var)),
                Event::Shifted { part, .. } => {
                    (&mut objects, state.object_of(part).and_then(|object| state.name(object)))
                }
                Event::Took { wire } | Event::Refused { wire, .. } if !state.is_wired(wire) => {
                    places.extend(state.wire_place(wire).map(|place| SmolStr::from(place.to_string())));
                    continue;
                }
                _ => continue,
            };
            if let Some(name) = name
                && list.last().is_none_or(|last| last != name)
            {
                list.push(name.into());
            }
        }
        for list in [&mut signals, &mut vars, &mut objects, &mut places] {
            list.sort_unstable();
            list.dedup();
        }
        let effects =
            state.effects().filter_map(|effect| state.effect_name(effect)).map(SmolStr::from).collect();
        Self { signals, effects, vars, objects, places }
    }

    /// The closest name, with or without its scene.
    fn near(&self, found: &str) -> Near {
        let all = [&self.signals, &self.effects, &self.vars];
        let all = || all.into_iter().flatten().map(SmolStr::as_str);
        let in_scene = all().filter_map(|name| name.split_once('.').map(|(_, rest)| rest));
        Near::of(found, &mut all().chain(in_scene))
    }

    fn find(&self, name: &str) -> Option<What> {
        let found = only(name, &self.signals).map(What::Signal);
        let found = found.or_else(|| only(name, &self.effects).map(What::Effect));
        let found = found.or_else(|| only(name, &self.vars).map(What::Var));
        found.or_else(|| {
            let is_place = name.rsplit_once(':').is_some_and(|(_, line)| line.parse::<u32>().is_ok());
            let there = self.places.iter().any(|place| is_at(place, name));
            (is_place && there).then(|| What::Wire(name.into()))
        })
    }

    fn state(&self, state: &State, object: &str, word: &str) -> Option<What> {
        let object = only(object, &self.objects)?;
        // Of an object that is gone, any word that a part can be in is taken.
        let can_be = state.find(&object).is_none_or(|object| {
            let parts = state.parts_of(object).iter();
            parts.filter_map(|part| state.kind_of(*part)).any(|kind| kind.state(word).is_some())
        });
        can_be.then(|| What::State(object, word.into()))
    }
}

/// In a project a whole name begins with that of the scene; the rest is enough where only one has it.
fn only(name: &str, names: &[SmolStr]) -> Option<SmolStr> {
    if let Some(whole) = names.iter().find(|other| *other == name) {
        return Some(whole.clone());
    }
    let ends_so = |other: &&SmolStr| other.strip_suffix(name).is_some_and(|scene| scene.ends_with('.'));
    let mut found = names.iter().filter(ends_so);
    found.next().filter(|_| found.next().is_none()).cloned()
}
