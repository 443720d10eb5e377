//! Variables that are set and never read, and states that are written once and never again.

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

use logos::Logos as _;
use rustc_hash::FxHashMap;
use smol_str::SmolStr;

use crate::{
    diagnostic::{Code, Diagnostic},
    model::{File, Name, Statement, StatementKind, Var},
    resolve::{Resolver, View, walk, words::Listed},
    source::{Sources, Span},
    syntax::SyntaxKind,
};

/// How often each word stands in a text, those in braces within a text too.
fn count_words(text: &str) -> FxHashMap<SmolStr, usize> {
    let mut counts: FxHashMap<&str, usize> = FxHashMap::default();
    let mut tokens = SyntaxKind::lexer(text);
    while let Some(token) = tokens.next() {
        match token {
            Ok(SyntaxKind::Word) => *counts.entry(tokens.slice()).or_default() += 1,
            Ok(SyntaxKind::Text) if tokens.slice().contains('{') => {
                let words = tokens.slice().split(|letter: char| !letter.is_alphanumeric() && letter != '_');
                words.filter(|word| !word.is_empty()).for_each(|word| *counts.entry(word).or_default() += 1);
            }
            _ => {}
        }
    }
    counts.into_iter().map(|(word, count)| (word.into(), count)).collect()
}

/// How often some words stand in all texts. What a text says is counted once, however often it is read.
fn count_all<'w>(wanted: impl Iterator<Item = &'w str>, sources: &Sources) -> BTreeMap<&'w str, usize> {
    let mut counts: BTreeMap<&str, usize> = wanted.map(|word| (word, 0)).collect();
    for source in sources.iter() {
        for (word, count) in source.words.get_or_init(|| count_words(source.text())) {
            if let Some(all) = counts.get_mut(word.as_str()) {
                *all += count;
            }
        }
    }
    counts
}

impl Resolver<'_, '_> {
    /// Words are counted, so that whatever has the same name counts as reading it.
    pub(super) fn check_unread(&mut self, files: &[Arc<File>], sources: &Sources) {
        // What all scenes share can be read in each of them.
        if !matches!(self.names.view, View::Alone | View::Playtests(0)) {
            return;
        }
        let mut declared: BTreeMap<&str, usize> = BTreeMap::new();
        let vars = files.iter().flat_map(|file| {
            let kits = file.kits.iter().filter(|kit| kit.made == 0).map(|kit| &kit.items);
            std::iter::once(&file.items).chain(kits).flat_map(|items| {
                let objects = items.objects.iter().chain(&items.managers).chain(&items.moulds);
                items.vars.iter().chain(objects.flat_map(|object| &object.vars))
            })
        });
        let vars: Vec<_> = vars.collect();
        vars.iter().for_each(|var| *declared.entry(&var.name.text).or_default() += 1);
        let mut set: BTreeMap<SmolStr, usize> = BTreeMap::new();
        for body in bodies(files) {
            count_set(body, &mut set);
        }
        // What a scene shares is for others, too.
        let alone = self.names.view == View::Alone;
        let is_told = |var: &&&Var| !alone || var.name.span.file == 0;
        let suspects = vars.iter().filter(|var| set.contains_key(&*var.name.text)).filter(is_told);
        let suspects: Vec<_> = suspects.collect();
        let states = self.states();
        if suspects.is_empty() && states.is_empty() {
            return;
        }
        let wanted = suspects.iter().map(|var| var.name.text.as_str());
        let words = count_all(wanted.chain(states.iter().map(|(_, word)| word.text.as_str())), sources);
        for var in suspects {
            let name = &*var.name.text;
            let of = |count: Option<&usize>| count.copied().unwrap_or(0);
            if of(words.get(name)) == of(declared.get(name)) + of(set.get(name)) {
                let found = Diagnostic::warning(Code::Unread, format!("`{name}` is set, but nothing reads it"))
                    .at(var.name.span, "read nowhere in the wiring")
                    .help(format!("remove it; or, if the game reads it, say why it is here: // on purpose: the game shows {name}"));
                self.wrong(found);
            }
        }
        let mut listed: BTreeMap<SmolStr, BTreeSet<Span>> = BTreeMap::new();
        for (_, word) in &states {
            listed.entry(word.text.clone()).or_default().insert(word.span);
        }
        for (object, word) in &states {
            if words.get(word.text.as_str()).copied().unwrap_or(0) == listed[&word.text].len() {
                let state = &word.text;
                let message =
                    format!("nothing asks whether `{object}` is `{state}`, and nothing turns to it");
                let found = Diagnostic::warning(Code::Unasked, message)
                    .at(word.span, "spoken of nowhere else")
                    .help("remove it; or is it spelled differently elsewhere?");
                self.wrong(found);
            }
        }
    }

    /// The words of all stages, each with its object.
    fn states(&self) -> Vec<(SmolStr, Name)> {
        let mut all = Vec::new();
        for object in &self.names.objects {
            let of_states = object.parts.iter().filter(|(_, info)| info.name == "stages");
            for (part, info) in of_states {
                let entries = Listed::of(info, part).entries;
                // It is in the first one from the start.
                all.extend(entries.iter().skip(1).map(|entry| (object.name.clone(), entry.word.clone())));
            }
        }
        all
    }
}

/// The bodies of all wires and routines.
fn bodies(files: &[Arc<File>]) -> Vec<&[Statement]> {
    let mut all: Vec<&[Statement]> = Vec::new();
    for file in files {
        let kits = file.kits.iter().filter(|kit| kit.made == 0).map(|kit| &kit.items);
        for items in std::iter::once(&file.items).chain(kits) {
            let objects = items.objects.iter().chain(&items.managers).chain(&items.moulds);
            let wires = items.wires.iter().chain(objects.flat_map(|object| &object.wires));
            all.extend(wires.map(|wire| wire.body.as_slice()));
            all.extend(items.routines.iter().map(|routine| routine.body.as_slice()));
        }
    }
    all
}

/// How often statements set something, by its last name.
fn count_set(body: &[Statement], set: &mut BTreeMap<SmolStr, usize>) {
    walk(body, &mut |statement| {
        if let StatementKind::Set { target, .. } = &statement.kind {
            *set.entry(target.path().split_last().0.text.clone()).or_default() += 1;
        }
    });
}
