//! Renaming: the edits, and what keeps them from being made.

use std::collections::BTreeMap;

use smol_str::SmolStr;
use stoicheon_core::Catalogue;

use crate::{
    index::{Index, NameKind, NamedThing},
    source::{Sources, Span},
    syntax,
};

/// A stretch of text that becomes another.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Edit {
    /// What is replaced.
    pub span: Span,
    /// By what.
    pub text: SmolStr,
}

/// Why something is not renamed.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum NotRenamed {
    /// The new name is none.
    #[error(
        "expected a name of letters, digits and underscores that does not begin with a digit, found `{0}`"
    )]
    NoName(String),
    /// It has that name.
    #[error("it is called `{0}` already")]
    Same(SmolStr),
    /// The word means something everywhere.
    #[error("`{0}` is a reserved name; choose another")]
    Reserved(SmolStr),
    /// The game, or every world, has something of that name.
    #[error("the catalogue has {kind} `{name}`; choose another name")]
    InCatalogue {
        /// What kind of thing, with its article.
        kind: &'static str,
        /// The new name.
        name: SmolStr,
    },
    /// It is not the wiring's to name.
    #[error("every world has the {kind} `{name}`: it cannot have another name")]
    EveryWorlds {
        /// What kind of thing.
        kind: &'static str,
        /// Its name.
        name: SmolStr,
    },
    /// It stands in a file that is made of another one.
    #[error("it stands in {0}, which another program writes: rename it there")]
    Elsewhere(String),
    /// Another thing would be meant somewhere.
    #[error("`{new}` is taken: {what}")]
    Taken {
        /// The new name.
        new: SmolStr,
        /// What would be meant instead.
        what: String,
    },
}

impl NamedThing {
    /// What must be changed so that it has another name. Whether that name means something else somewhere shows once the changed texts
    /// are read: see [`Index::was_renamed`].
    ///
    /// # Errors
    /// [`NotRenamed`]
    pub fn renamed(
        &self,
        new: &str,
        sources: &Sources,
        catalogue: &Catalogue,
    ) -> Result<Vec<Edit>, NotRenamed> {
        if !syntax::is_name(new) {
            return Err(NotRenamed::NoName(new.to_owned()));
        }
        if self.name == new {
            return Err(NotRenamed::Same(new.into()));
        }
        // Every player has that tag, and is made after the mould of that name.
        if matches!(self.kind, NameKind::Tag | NameKind::Mould) && self.name == stoicheon_core::PLAYER {
            return Err(NotRenamed::EveryWorlds { kind: self.kind.word(), name: self.name.clone() });
        }
        let reserved =
            ["who", "it", "own", "true", "false", "everyone", "every", "each", "player", "game", "none"];
        if reserved.contains(&new) {
            return Err(NotRenamed::Reserved(new.into()));
        }
        let kind = match self.kind {
            NameKind::Signal if crate::resolve::OWN_SIGNALS.contains(&new) => Some("a signal"),
            NameKind::Signal if catalogue.signals().iter().any(|known| known.name == new) => Some("a signal"),
            NameKind::Effect if catalogue.effects().iter().any(|known| known.name == new) => {
                Some("an effect")
            }
            NameKind::Object | NameKind::Manager
                if catalogue.roles().iter().any(|known| known.name == new) =>
            {
                Some("a manager")
            }
            _ => None,
        };
        if let Some(kind) = kind {
            return Err(NotRenamed::InCatalogue { kind, name: new.into() });
        }
        for place in &self.places {
            let name = sources.get(place.span.file).map_or("", |source| source.name());
            if name.ends_with("(as wiring)") {
                return Err(NotRenamed::Elsewhere(name.trim_end_matches(" (as wiring)").to_owned()));
            }
        }
        Ok(self.places.iter().map(|place| Edit { span: place.span, text: new.into() }).collect())
    }
}

/// Texts after edits, by the numbers of their files.
pub(crate) fn edited(sources: &Sources, edits: &[Edit]) -> BTreeMap<u32, String> {
    let mut texts: BTreeMap<u32, String> = BTreeMap::new();
    let mut edits: Vec<&Edit> = edits.iter().collect();
    edits.sort_by_key(|edit| std::cmp::Reverse(edit.span));
    for Edit { span, text } in edits {
        let Some(source) = sources.get(span.file) else { continue };
        let whole = texts.entry(span.file).or_insert_with(|| source.text().to_owned());
        let range = span.start as usize..span.end as usize;
        if whole.get(range.clone()).is_some() {
            whole.replace_range(range, text);
        }
    }
    texts
}

impl Sources {
    /// The files that edits change: the name of each, and its text afterwards.
    pub fn edited(&self, edits: &[Edit]) -> Vec<(String, String)> {
        let named = |(file, text): (u32, String)| Some((self.get(file)?.name().to_owned(), text));
        edited(self, edits).into_iter().filter_map(named).collect()
    }
}

impl Index {
    /// Whether this index is of the texts that another one was of before edits that rename something: all names mean what they meant.
    ///
    /// # Errors
    /// [`NotRenamed::Taken`] if a word means another thing now.
    pub fn was_renamed(&self, before: &Self, edits: &[Edit]) -> Result<(), NotRenamed> {
        let new = edits.first().map(|edit| edit.text.clone()).unwrap_or_default();
        // After the end of each edit, how much further on everything is.
        let mut shifts: BTreeMap<u32, Vec<(u32, i64)>> = BTreeMap::new();
        let mut sorted: Vec<&Edit> = edits.iter().collect();
        sorted.sort_by_key(|edit| edit.span);
        for edit in sorted {
            let grows =
                i64::try_from(edit.text.len()).unwrap_or(0) - i64::from(edit.span.end - edit.span.start);
            let all = shifts.entry(edit.span.file).or_default();
            let before = all.last().map_or(0, |(_, total)| *total);
            all.push((edit.span.end, before + grows));
        }
        // Where something stands after the edits before it.
        let moved = |span: Span| -> (u32, i64) {
            let all = shifts.get(&span.file).map_or(&[][..], Vec::as_slice);
            let before = all.partition_point(|(end, _)| *end <= span.start);
            let by = before.checked_sub(1).map_or(0, |last| all[last].1);
            (span.file, i64::from(span.start) + by)
        };
        let now: BTreeMap<(u32, i64), usize> = (self.things.iter().enumerate())
            .flat_map(|(number, thing)| thing.places.iter().map(move |place| (place, number)))
            .map(|(place, number)| ((place.span.file, i64::from(place.span.start)), number))
            .collect();
        for thing in &before.things {
            let mut meant = thing.places.iter().map(|place| now.get(&moved(place.span)));
            let first = meant.next().flatten();
            let same = first.is_some() && meant.all(|other| other == first);
            let count = first.map_or(0, |first| self.things[*first].places.len());
            if !same || count != thing.places.len() {
                let kind = thing.kind.word();
                let what = format!("the {kind} `{}` would no longer mean what it means", thing.whole);
                return Err(NotRenamed::Taken { new, what });
            }
        }
        Ok(())
    }
}
