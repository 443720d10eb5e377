//! A delivery as text: the signal, then the wires that took it, in order, with what they changed, then those that did
//! not, and why.

use std::fmt::Write;

use stoicheon_core::{Event, Field, Record, RecordId, Refusal, SignalId, Values, WireId};

use crate::{
    phrase::{thousands, typed_text},
    trace_text::{Entry, Printer},
};

/// Where the right-hand note of a line begins, if the line is not longer.
const NOTE_COLUMN: usize = 64;

/// A wire that a signal came to.
struct Heard<'a> {
    took: RecordId,
    wire: WireId,
    /// Why it did not take it.
    why: Option<&'a Refusal>,
    place: String,
}

/// How the lines of the wires of one delivery are laid out.
struct Columns {
    /// The longest place.
    places: usize,
    /// Some wire has an order other than 0.
    orders: bool,
}

impl Printer<'_> {
    pub(crate) fn delivery(&mut self, id: RecordId, record: &Record, block: &[Entry]) {
        let Event::Delivered { signal, .. } = record.event else { return };
        let wires: Vec<_> = block
            .iter()
            .filter_map(|(took, record)| match &record.event {
                Event::Took { wire } if record.cause == Some(id) => Some((*took, *wire, None)),
                Event::Refused { wire, why } if record.cause == Some(id) => Some((*took, *wire, Some(why))),
                _ => None,
            })
            .map(|(took, wire, why)| Heard { took, wire, why, place: self.place(wire) })
            .collect();
        self.delivery_head(record, &wires);
        let columns = Columns {
            places: wires.iter().map(|heard| heard.place.chars().count()).max().unwrap_or(0),
            orders: wires.iter().any(|heard| self.state.wire_order(heard.wire) != Some(0)),
        };
        let fields = self.state.signal_fields(signal);
        for pass in [true, false] {
            let of_pass: Vec<_> = wires.iter().filter(|heard| heard.why.is_none() == pass).collect();
            for (number, heard) in (1..).zip(of_pass.iter().take(self.many)) {
                match heard.why {
                    None => self.taken(number, heard, &columns, block),
                    Some(why) => self.refused(heard, why, &columns, fields),
                }
            }
            if of_pass.len() > self.many {
                let more = thousands((of_pass.len() - self.many) as u64);
                let word = if pass { "that took it" } else { "that did not" };
                self.line(&format!("{:15}… and {more} more {word}", ""));
            }
        }
    }

    /// What a signal carries, in parentheses.
    fn payload(&self, signal: SignalId, values: &Values) -> String {
        let fields = self.state.signal_fields(signal).iter().zip(values);
        let payload: Vec<_> = fields
            .map(|(field, value)| {
                format!("{} {}", field.name, typed_text(self.state, Some(&field.ty), value))
            })
            .collect();
        if payload.is_empty() { String::new() } else { format!("({})", payload.join(", ")) }
    }

    /// A signal with what it carries and who caused it.
    pub(crate) fn signal(&self, event: &Event) -> String {
        let Event::Delivered { signal, who, values, .. } = event else { return String::new() };
        let name = self.state.signal_name(*signal).unwrap_or("a signal that is gone");
        format!("{name}{}{}", self.payload(*signal, values), self.who_note(*who))
    }

    /// The signal, what it carries, who caused it, and how many took it.
    fn delivery_head(&mut self, record: &Record, wires: &[Heard<'_>]) {
        let Event::Delivered { signal, who, ref values, .. } = record.event else { return };
        let name = self.state.signal_name(signal).unwrap_or("a signal that is gone");
        let payload = self.payload(signal, values);
        let taken = wires.iter().filter(|heard| heard.why.is_none()).count();
        let (note, noted) = match (taken, wires.len()) {
            (_, 0) => ("nobody listens".to_owned(), self.paint.phase),
            (0, all) => (format!("taken by none of {all}"), self.paint.refused),
            (taken, all) => (format!("taken by {taken} of {all}"), anstyle::Style::new()),
        };
        let who = self.who_note(who);
        let width = 13 + name.chars().count() + payload.chars().count() + who.chars().count();
        let gap = NOTE_COLUMN.saturating_sub(width).max(2);
        let style = if wires.is_empty() { self.paint.unheard } else { self.paint.signal };
        let head = self.phase(record.phase);
        self.line(&format!("{head}{style}{name}{style:#}{payload}{who}{:gap$}{noted}{note}{noted:#}", ""));
    }

    /// Where a wire was written, and its order, in their columns.
    fn left_of(&self, heard: &Heard<'_>, columns: &Columns) -> String {
        let mut left = String::new();
        if self.places {
            let (style, place, widest) = (self.paint.place, &heard.place, columns.places);
            let _ = write!(left, "{style}{place:<widest$}{style:#}  ");
        }
        if columns.orders {
            let order = format!("order {}", self.state.wire_order(heard.wire).unwrap_or(0));
            let _ = write!(left, "{order:<10}");
        }
        left
    }

    /// A wire that took it, and what it changed.
    fn taken(&mut self, number: usize, heard: &Heard<'_>, columns: &Columns, block: &[Entry]) {
        let left = self.left_of(heard, columns);
        let style = self.paint.took;
        let indent =
            18 + if self.places { columns.places + 2 } else { 0 } + if columns.orders { 10 } else { 0 };
        let mut changes = self.changes(heard.took, block).into_iter();
        let first = changes.next().unwrap_or_default();
        self.line(&format!("{:13}{style}{number:>3}{style:#}  {left}{first}", ""));
        for change in changes {
            self.line(&format!("{:indent$}{change}", ""));
        }
    }

    /// A wire that did not take it, and why.
    fn refused(&mut self, heard: &Heard<'_>, why: &Refusal, columns: &Columns, fields: &[Field]) {
        let left = self.left_of(heard, columns);
        let style = self.paint.refused;
        let why = self.refusal(heard.wire, why, fields);
        self.line(&format!("{:15}{style}–{style:#}  {left}{style}{why}{style:#}", ""));
    }
}
