//! Which part of a trace is shown.

use stoicheon_core::{Event, State, Tick};

use crate::{trace_record::SeenRecord, trace_text::Entry};

/// Which part of a trace is shown: all of it, unless something is asked for. What is asked for in different ways must all be so.
///
/// ```
/// use stoicheon_core::World;
/// use stoicheon_view::{TraceFilter, TraceText};
/// let mut world = World::<()>::new();
/// let (bell, horn) = (world.declare_signal::<()>("bell")?, world.declare_signal::<()>("horn")?);
/// world.emit(bell, ())?;
/// world.emit(horn, ())?;
/// world.step(&mut ())?;
/// let text = TraceText::plain().only(TraceFilter::new().about("horn")).new_ticks(&world);
/// assert!(text.contains("horn") && !text.contains("bell"));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct TraceFilter {
    names: Vec<String>,
    who: Option<String>,
    from: Option<Tick>,
    to: Option<Tick>,
    refused: bool,
    effects: bool,
}

impl TraceFilter {
    /// Everything.
    pub fn new() -> Self {
        Self::default()
    }

    /// What is about something of that name: an object and what belongs to it, a signal, a variable, an effect, a scene, or a wire as
    /// `lock.stoi:14`. Several names are joined by "or".
    pub fn about(mut self, name: &str) -> Self {
        self.names.push(name.to_owned());
        self
    }

    /// What goes back to a player or a body, by name.
    pub fn by(mut self, who: &str) -> Self {
        self.who = Some(who.to_owned());
        self
    }

    /// From that tick on.
    pub fn from(mut self, tick: Tick) -> Self {
        self.from = Some(tick);
        self
    }

    /// Up to that tick.
    pub fn to(mut self, tick: Tick) -> Self {
        self.to = Some(tick);
        self
    }

    /// Only signals that some wire refused.
    pub fn refused(mut self) -> Self {
        self.refused = true;
        self
    }

    /// Only what performed an effect.
    pub fn effects(mut self) -> Self {
        self.effects = true;
        self
    }

    /// Whether everything is shown.
    pub fn is_all(&self) -> bool {
        *self == Self::default()
    }

    /// Whether a record is shown, alone.
    pub fn shows(
        &self,
        state: &State,
        (id, record): (stoicheon_core::RecordId, &stoicheon_core::Record),
    ) -> bool {
        self.shows_block(state, &(id, record.clone()), &[])
    }

    /// Whether a record is shown with what follows from it at once.
    pub(crate) fn shows_block(&self, state: &State, head: &Entry, block: &[Entry]) -> bool {
        if self.is_all() {
            return true;
        }
        let (_, record) = head;
        if self.from.is_some_and(|from| record.tick < from) || self.to.is_some_and(|to| record.tick > to) {
            return false;
        }
        let all = || std::iter::once(head).chain(block);
        if self.refused && !all().any(|(_, record)| matches!(record.event, Event::Refused { .. })) {
            return false;
        }
        if self.effects && !all().any(|(_, record)| matches!(record.event, Event::Performed { .. })) {
            return false;
        }
        if self.names.is_empty() && self.who.is_none() {
            return true;
        }
        let seen: Vec<_> = all().map(|(id, record)| SeenRecord::of(state, *id, record)).collect();
        let is_named = |name: &String| seen.iter().any(|record| record.names(name));
        let is_theirs = |who: &String| seen.iter().any(|record| record.who.as_ref() == Some(who));
        (self.names.is_empty() || self.names.iter().any(is_named)) && self.who.iter().all(is_theirs)
    }
}
