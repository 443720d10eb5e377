//! What a line does not say, and what one would count for: how many wires take a signal, and which of several comes when.

use std::collections::BTreeMap;

use smol_str::SmolStr;

use crate::{
    index::{Index, NameKind, NameRole},
    load::Loaded,
    resolve::{Cx, NoIds, Notes, Resolver},
    source::Span,
};

/// A few words to be shown in a text that are not in it.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Hint {
    /// Behind which place.
    pub span: Span,
    /// The words.
    pub text: String,
    /// What they mean, in a sentence.
    pub about: String,
}

impl Loaded {
    /// Hints for one of its files, in the order of the text. `index` is the one of all its wiring.
    pub fn hints(&self, file: u32, index: &Index) -> Vec<Hint> {
        let mut hints = taken(file, index);
        hints.extend(self.ranks(file));
        hints.sort_by_key(|hint| hint.span);
        hints
    }

    /// Of several wires that take the same signal, which one is how early.
    fn ranks(&self, file: u32) -> Vec<Hint> {
        let mut ignored = Vec::new();
        let scenes = self.scenes.as_deref();
        let resolver =
            Resolver::noting(&self.files, &self.catalogue, scenes, self.view, &mut ignored, Notes::default());
        // What several wires take, with the order and the place of each.
        let mut rivals: BTreeMap<SmolStr, Vec<(i32, usize, Span)>> = BTreeMap::new();
        for index in 0..resolver.names.wires.len() {
            let placed = resolver.names.wires[index];
            let wire = placed.written;
            let cx = Cx::written_in(placed.owner, placed.scope, &NoIds);
            let heard = if wire.every {
                Some(smol_str::format_smolstr!("every {}", wire.on.text()))
            } else {
                resolver.whole_signal_in(&wire.on, &cx)
            };
            if let Some(heard) = heard {
                rivals.entry(heard).or_default().push((wire.order, index, wire.on.span()));
            }
        }
        let mut hints = Vec::new();
        for (heard, mut wires) in rivals.into_iter().filter(|(_, wires)| wires.len() > 1) {
            // By their order, then as they were wired.
            wires.sort_by_key(|(order, index, _)| (*order, *index));
            let count = wires.len();
            let here = (1..).zip(&wires).filter(|(_, (_, _, span))| span.file == file);
            for (number, (order, _, span)) in here {
                let about = format!(
                    "{number} of the {count} wires on `{heard}`, by order, then as they are written; this one has order {order}"
                );
                let hint = Hint { span: *span, text: format!("{number} of {count}"), about };
                // A kit that is used several times has one line for all of them.
                if !hints.iter().any(|known: &Hint| known.span == hint.span) {
                    hints.push(hint);
                }
            }
        }
        hints
    }
}

/// How many wires take each signal that is declared.
fn taken(file: u32, index: &Index) -> Vec<Hint> {
    let signals = index.things().iter().filter(|thing| thing.kind == NameKind::Signal);
    let hints = signals.flat_map(|thing| {
        let count = |role: NameRole| thing.places.iter().filter(|place| place.role == role).count();
        let (taken, sent) = (count(NameRole::Taken), count(NameRole::Sent));
        let word = if taken == 1 { "wire" } else { "wires" };
        let declared = thing
            .places
            .iter()
            .filter(move |place| place.role == NameRole::Declared && place.span.file == file);
        declared.map(move |place| Hint {
            span: place.span,
            text: format!("taken by {taken} {word}"),
            about: format!(
                "`{}`: emitted by {sent} {}, taken by {taken} {word}",
                thing.whole,
                if sent == 1 { "statement" } else { "statements" }
            ),
        })
    });
    hints.collect()
}
