//! Which lines of a trace are printed, and which are only counted.

use stoicheon_core::{Event, Phase, Record, SignalId};

/// A value that was set to what it is already.
pub(crate) fn changes_nothing(event: &Event) -> bool {
    matches!(event, Event::Set { from, to, .. } | Event::Kept { from, to, .. } if from == to)
}

/// What lines have in common that are counted together.
#[derive(Clone, Copy, PartialEq)]
pub(crate) enum Kind {
    /// Deliveries of a signal.
    Of(SignalId),
    /// Whatever else is of one kind, in one phase.
    Other(Phase, std::mem::Discriminant<Event>),
}

/// How many lines of a kind a tick had, and how many of them were left out.
#[derive(Default)]
pub(crate) struct Folds {
    shown: Vec<(Kind, usize)>,
    pub(crate) left_out: Vec<(Kind, u64)>,
}

impl Folds {
    /// Whether one more of its kind is printed. A fault always is.
    pub(crate) fn shows(&mut self, record: &Record, many: usize) -> bool {
        let kind = match record.event {
            Event::Delivered { signal, .. } => Kind::Of(signal),
            Event::Fault { .. } | Event::Broken { .. } => return true,
            ref event => Kind::Other(record.phase, std::mem::discriminant(event)),
        };
        let Some((_, shown)) = self.shown.iter_mut().find(|(of, _)| *of == kind) else {
            self.shown.push((kind, 0));
            return many > 0;
        };
        *shown += 1;
        if *shown < many {
            return true;
        }
        match self.left_out.iter_mut().find(|(of, _)| *of == kind) {
            Some((_, left_out)) => *left_out += 1,
            None => self.left_out.push((kind, 1)),
        }
        false
    }
}
