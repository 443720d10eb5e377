//! Places: where objects stand, from a file that another program wrote.

use std::{
    collections::{BTreeMap, BTreeSet},
    mem::take,
    sync::Arc,
};

use logos::Logos as _;
use smol_str::SmolStr;
use stoicheon_core::Catalogue;

use crate::{
    diagnostic::{Code, Diagnostic},
    files::{Files, Read},
    model::{Atom, File, Items, Name, Object, Part},
    source::{Source, Span},
    suggest::{nearest, suggest},
    syntax,
};

/// Settings of which a kind of part has one if it matters where its object stands: a form, a reach, a hinge.
const PLACED: [&str; 3] = ["ball", "reach", "hinge"];

/// How many names one finding lists.
const LISTED: usize = 8;

/// A file of places that was read.
#[derive(Clone, Debug)]
pub(crate) struct PlacesRead {
    scene_number: u32,
    /// Its path, where the wiring names it.
    written: Name,
    /// What it has a place for, in its order.
    all: Vec<Name>,
    /// Those of them that the wiring says nothing of, and that have neither parts nor tags, and nothing hangs on them.
    idle: Vec<Name>,
}

/// What the wiring says of an object counts; the rest is taken from its place.
fn settle(object: &mut Object, place: Object) {
    if object.at.is_none() && object.of.is_none() {
        object.at = place.at;
        object.of = place.of;
        object.facing = object.facing.take().or(place.facing);
    }
    let known: BTreeSet<_> = object.tags.iter().map(|tag| tag.text.clone()).collect();
    object.tags.extend(place.tags.into_iter().filter(|tag| !known.contains(&tag.text)));
    for part in place.parts.into_iter().rev() {
        match object.parts.iter_mut().find(|own| own.kind.text == part.kind.text) {
            Some(own) => form_of(own, part),
            None => object.parts.insert(0, part),
        }
    }
}

/// A part takes its form from the place, unless it says which form it has.
fn form_of(own: &mut Part, place: Part) {
    const FORMS: [&str; 7] = ["box", "ball", "capsule", "cylinder", "below", "above", "behind"];
    let says =
        own.settings.iter().any(|atom| matches!(atom, Atom::Word(word) if FORMS.contains(&&*word.text)));
    if !says {
        let after = take(&mut own.settings);
        own.settings = place.settings.into_iter().chain(after).collect();
    }
}

impl Files<'_> {
    /// Reads the places that the files from that one on name, and joins them with the objects there.
    pub(crate) fn places(&mut self, from: usize, read: Read<'_>) {
        let wiring = from..self.models.len();
        let mut seen = BTreeSet::new();
        let named: Vec<_> = self.models[wiring.clone()].iter().flat_map(|file| file.places.clone()).collect();
        for written in named {
            let name = self.sources.beside(&written.text);
            if seen.insert(name.clone()) {
                self.places_of(&written, &name, wiring.clone(), read);
            }
        }
    }

    fn places_of(&mut self, written: &Name, name: &str, wiring: std::ops::Range<usize>, read: Read<'_>) {
        let text = match read(&written.text) {
            Ok(text) => text,
            Err(why) => {
                let message = format!("the places \"{}\" could not be read", written.text);
                self.diagnostics.push(Diagnostic::error(Code::File, message).at(written.span, why));
                return;
            }
        };
        // What another program wrote was made wiring of, whose lines are none of that file.
        let is_wiring = name.rsplit_once('.').is_some_and(|(_, ending)| ending == "stoi");
        self.parse(&if is_wiring { name.to_owned() } else { format!("{name} (as wiring)") }, &text);
        let Some(places) = self.models.pop() else { return };
        let mut places = Arc::unwrap_or_clone(places);
        if let Some(fault) = only_places(&places, written) {
            self.diagnostics.push(fault);
            return;
        }
        let all: Vec<_> = places.items.objects.iter().map(|object| object.name.clone()).collect();
        let holds: BTreeSet<SmolStr> = places.items.objects.iter().filter_map(hangs_on).collect();
        let mut own = BTreeMap::new();
        for (number, file) in self.models.iter().enumerate().filter(|(number, _)| wiring.contains(number)) {
            let objects = file.items.objects.iter().enumerate();
            own.extend(objects.map(|(at, object)| (object.name.text.clone(), (number, at))));
        }
        let here = self.placed.iter().filter(|read| read.scene_number == self.scene_number);
        let before = here.flat_map(|read| &read.all).map(|name| (name.text.clone(), name.span));
        let before: BTreeMap<SmolStr, Span> = before.collect();
        let mut rest = Vec::new();
        for place in take(&mut places.items.objects) {
            match own.get(&place.name.text) {
                Some((file, at)) => {
                    // Two places that the wiring says nothing of are told of as two objects.
                    let first = before.get(&place.name.text);
                    self.diagnostics.extend(first.map(|first| two_places(&place.name, *first)));
                    settle(&mut Arc::make_mut(&mut self.models[*file]).items.objects[*at], place);
                }
                None => rest.push(place),
            }
        }
        let is_idle = |object: &&Object| {
            object.parts.is_empty() && object.tags.is_empty() && !holds.contains(&object.name.text)
        };
        let idle = rest.iter().filter(is_idle).map(|object| object.name.clone()).collect();
        places.items.objects = rest;
        self.models.push(Arc::new(places));
        let scene_number = self.scene_number;
        self.placed.push(PlacesRead { scene_number, written: written.clone(), all, idle });
    }

    /// What has a place and no use, and what would need a place and has none.
    pub(crate) fn check_places(&mut self, catalogue: &Catalogue) {
        let placed = take(&mut self.placed);
        if placed.is_empty() {
            return;
        }
        let files: BTreeSet<u32> =
            placed.iter().filter_map(|read| read.all.first()).map(|name| name.span.file).collect();
        let texts = (0..).map_while(|number| Some((number, self.sources.get(number)?)));
        let texts = texts.filter(|(number, _)| !files.contains(number));
        let words: BTreeSet<&str> = texts.flat_map(|(_, source)| words(source)).collect();
        let mut found = Vec::new();
        for read in &placed {
            found.extend(without_use(read, &words));
        }
        let mut scenes: BTreeMap<u32, Vec<&PlacesRead>> = BTreeMap::new();
        for read in &placed {
            scenes.entry(read.scene_number).or_default().push(read);
        }
        for (number, read) in scenes {
            let files = self.models.iter().filter(|file| file.scene_number == number);
            for object in
                files.flat_map(|file| &file.items.objects).filter(|object| lacks_place(object, catalogue))
            {
                found.push(without_place(object, &read));
            }
        }
        self.diagnostics.extend(found);
    }
}

fn two_places(name: &Name, first: Span) -> Diagnostic {
    Diagnostic::error(Code::NameTaken, format!("there are two places for `{}`", name.text))
        .at(name.span, "the second one")
        .at(first, "the first one")
        .help("rename one of them in the other program")
}

fn hangs_on(object: &Object) -> Option<SmolStr> {
    object.of.as_ref().and_then(|of| of.0.first()).map(|name| name.text.clone())
}

/// A file of places in which there is something else.
fn only_places(file: &File, written: &Name) -> Option<Diagnostic> {
    let File { items, .. } = file;
    let rest = Items { objects: Vec::new(), spots: Vec::new(), ..items.clone() };
    let bare = File { items: rest, scene_number: 0, source: 0, ..file.clone() };
    (bare != File::default()).then(|| {
        let message = format!("expected only objects and spots in \"{}\", found other items", written.text);
        Diagnostic::error(Code::Misplaced, message)
            .at(written.span, "more than places")
            .help(format!("share it instead: shared \"{}\"", written.text))
    })
}

fn words(source: &Source) -> impl Iterator<Item = &str> {
    let tokens = syntax::SyntaxKind::lexer(source.text()).spanned();
    let words = tokens.filter(|(kind, _)| *kind == Ok(syntax::SyntaxKind::Word));
    words.map(|(_, range)| &source.text()[range])
}

fn without_use(read: &PlacesRead, words: &BTreeSet<&str>) -> Option<Diagnostic> {
    let idle: Vec<_> = read.idle.iter().filter(|name| !words.contains(name.text.as_str())).collect();
    let first = idle.first()?;
    let many = idle.len();
    let listed: Vec<_> = idle.iter().take(LISTED).map(|name| format!("`{}`", name.text)).collect();
    let more = if many > LISTED { format!(" and {} more", many - LISTED) } else { String::new() };
    let (what, them) =
        if many == 1 { ("one place is", "it") } else { (&*format!("{many} places are"), "them") };
    let were = if many == 1 { "it was" } else { "they were" };
    let message = format!("{what} not used: {}{more}", listed.join(", "));
    Some(
        Diagnostic::warning(Code::UnusedPlace, message)
            .at(read.written.span, format!("nothing in the wiring names {them}"))
            .at(first.span, "the first of them")
            .help(format!("name {them} in the wiring, or give {them} tags or parts where {were} placed")),
    )
}

/// Whether an object has something about it that stands somewhere, and is nowhere.
fn lacks_place(object: &Object, catalogue: &Catalogue) -> bool {
    let is_placed = |part: &Part| {
        let info = catalogue.part(&part.kind.text);
        info.is_some_and(|info| info.settings.iter().any(|setting| PLACED.contains(&&*setting.name)))
    };
    let Object { vars, signals, wires, parts, .. } = object;
    let is_bare = parts.is_empty() && vars.is_empty() && signals.is_empty() && wires.is_empty();
    object.at.is_none() && object.of.is_none() && (object.body || is_bare || parts.iter().any(is_placed))
}

fn without_place(object: &Object, read: &[&PlacesRead]) -> Diagnostic {
    let name = &object.name.text;
    let names = || read.iter().flat_map(|read| &read.all).map(|name| name.text.as_str());
    let help = match nearest(name, names()) {
        Some(_) => suggest(name, "place", names()),
        None => format!("give it a place: object {name} at (0, 0, 0)"),
    };
    let files: Vec<_> = read.iter().map(|read| format!("\"{}\"", read.written.text)).collect();
    let message = format!("there is no place for `{name}` in {}", files.join(" or "));
    let span: Span = object.name.span;
    Diagnostic::warning(Code::Unplaced, message).at(span, "stands at (0, 0, 0)").help(help)
}
