//! What was so at a record, since when, and what made it so.

use stoicheon_core::{Event, ObjectId, PartId, Record, RecordId, State, Tick};

use crate::{
    phrase::{clock_time, part_text},
    trace_text::{short_place, with_printer},
};

/// The records that are kept, to be walked in both directions.
pub(crate) struct History<'s> {
    pub(crate) state: &'s State,
    records: Vec<(RecordId, Record)>,
}

impl<'s> History<'s> {
    pub(crate) fn of(state: &'s State) -> Self {
        Self { state, records: state.trace().records().collect() }
    }

    /// Only what had happened by then.
    pub(crate) fn up_to(mut self, tick: Tick) -> Self {
        self.records.truncate(self.records.partition_point(|(_, record)| record.tick <= tick));
        self
    }

    /// How often a signal was delivered.
    pub(crate) fn delivered(&self, signal: stoicheon_core::SignalId) -> usize {
        let is_it = |record: &Record| matches!(record.event, Event::Delivered { signal: other, .. } if other == signal);
        self.records.iter().filter(|(_, record)| is_it(record)).count()
    }

    pub(crate) fn get(&self, id: RecordId) -> Option<&Record> {
        let first = self.records.first()?.0.number();
        let at = usize::try_from(id.number().checked_sub(first)?).ok()?;
        self.records.get(at).map(|(_, record)| record)
    }

    pub(crate) fn iter(&self) -> impl DoubleEndedIterator<Item = (RecordId, &Record)> {
        self.records.iter().map(|(id, record)| (*id, record))
    }

    /// What came before a record, or all of it.
    pub(super) fn before(&self, id: Option<RecordId>) -> &[(RecordId, Record)] {
        &self.records[..self.records.partition_point(|(other, _)| id.is_none_or(|id| *other < id))]
    }

    pub(super) fn after(&self, id: Option<RecordId>) -> &[(RecordId, Record)] {
        &self.records[self.records.partition_point(|(other, _)| id.is_none_or(|id| *other <= id))..]
    }

    /// Whether nothing has made room for later records.
    pub(super) fn is_whole(&self) -> bool {
        self.records.first().is_none_or(|(id, _)| id.number() == 1)
    }

    /// How many wires took a delivery, and how many refused it.
    pub(crate) fn heard(&self, id: RecordId) -> (usize, usize) {
        let rest = self.after(Some(id)).iter();
        let own = rest.take_while(|(_, record)| !matches!(record.event, Event::Delivered { .. }));
        own.filter(|(_, record)| record.cause == Some(id)).fold((0, 0), |(took, refused), (_, record)| {
            match record.event {
                Event::Took { .. } => (took + 1, refused),
                Event::Refused { .. } => (took, refused + 1),
                _ => (took, refused),
            }
        })
    }

    /// The chain of causes of a record, itself first. One of a sequence that waits again and again is as long as the trace, so it
    /// is walked only as far as it is asked for.
    pub(crate) fn chain(&self, from: RecordId) -> impl Iterator<Item = RecordId> {
        std::iter::successors(self.get(from).map(|_| from), |id| {
            self.get(*id)?.cause.filter(|cause| self.get(*cause).is_some())
        })
    }

    /// The player it goes back to, as far as its chain of causes says.
    pub(crate) fn who(&self, id: RecordId) -> Option<ObjectId> {
        self.chain(id).find_map(|id| match self.get(id)?.event {
            Event::Delivered { who, .. } | Event::Resumed { who, .. } | Event::HandedIn { who, .. } => {
                Some(who)
            }
            Event::Key { who, .. } | Event::Pointed { who, .. } => Some(Some(who)),
            Event::Entered { body, .. } | Event::Left { body, .. } | Event::Arrived { body, .. } => {
                Some(Some(body))
            }
            _ => None,
        })?
    }

    /// Whether a record is about a player: it goes back to them, or it is their variable that was set.
    pub(crate) fn concerns(&self, id: RecordId, who: ObjectId) -> bool {
        match self.get(id).map(|record| &record.event) {
            Some(Event::Set { of: Some(of), .. }) => *of == who,
            _ => self.who(id) == Some(who),
        }
    }

    /// Whether a wire or a bind took part in what led to a record.
    pub(super) fn is_wired(&self, id: RecordId) -> bool {
        self.chain(id).any(|id| {
            matches!(
                self.get(id).map(|record| &record.event),
                Some(Event::Took { .. } | Event::Resumed { .. } | Event::Kept { .. })
            )
        })
    }

    /// What did it: the wire whose reaction it was, the bind, or the part or the input it began with.
    pub(super) fn maker(&self, id: RecordId) -> Option<String> {
        let place = |wire| self.state.wire_place(wire).map(short_place);
        if let Event::Kept { bind, .. } = self.get(id)?.event {
            return self.state.bound(bind).map(|(.., place)| format!("the bind at {}", short_place(place)));
        }
        for id in self.chain(id) {
            match &self.get(id)?.event {
                Event::Took { wire } | Event::Resumed { wire, .. } => return place(*wire),
                Event::Key { who, .. } => return self.state.name(*who).map(str::to_owned),
                Event::HandedIn { .. } => return Some("the host".to_owned()),
                _ => {}
            }
        }
        None
    }

    /// A record as a line: its time, its phase and what happened.
    pub(crate) fn line(&self, id: RecordId) -> String {
        let Some(record) = self.get(id) else { return String::new() };
        let time = clock_time(self.state.rate(), record.tick);
        let text = with_printer(self.state, |printer| printer.link(&record.event));
        format!("{time:>9}  {:<7}  {text}", record.phase.word())
    }
}

/// The name of what a part belongs to, with its kind.
pub(crate) fn part_name(state: &State, part: PartId) -> String {
    let kind = state.kind_of(part).map_or("part", |kind| kind.name);
    format!("the {kind} of {}", part_text(state, part))
}
