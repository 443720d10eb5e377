//! Notes of the resolver become things with places: what one word means in several places together is one thing.

use std::{cmp::Reverse, collections::BTreeMap, sync::Arc};

use rustc_hash::FxHashMap;
use smallvec::SmallVec;
use smol_str::{SmolStr, format_smolstr};

use crate::{
    index::{
        NameKind, NamePlace, NameRole, NamedThing,
        decls::{Decl, Decls},
        roles::Roles,
        text_at,
    },
    kits,
    load::AllRead,
    model::File,
    resolve::{Means, Note, Rank},
    source::Span,
    spots::{Spots, path_of},
};

/// What is called by one name: declarations, tags and scenes, as numbers.
struct Groups {
    parents: Vec<usize>,
}

impl Groups {
    fn add(&mut self) -> usize {
        self.parents.push(self.parents.len());
        self.parents.len() - 1
    }

    fn first(&mut self, mut one: usize) -> usize {
        while self.parents[one] != one {
            self.parents[one] = self.parents[self.parents[one]];
            one = self.parents[one];
        }
        one
    }

    fn join(&mut self, one: usize, two: usize) {
        let (one, two) = (self.first(one), self.first(two));
        // What was declared first stands for both.
        let (early, late) = (one.min(two), one.max(two));
        self.parents[late] = early;
    }
}

pub(super) fn things(read: &AllRead, decls: &Decls, notes: Vec<Note>) -> Vec<NamedThing> {
    let mut groups = Groups { parents: Vec::new() };
    let by_span: FxHashMap<Span, usize> = decls.all.iter().map(|decl| (decl.span, groups.add())).collect();
    let numbers: Vec<usize> = decls.all.iter().map(|decl| by_span[&decl.span]).collect();
    let mut tags: BTreeMap<SmolStr, usize> = BTreeMap::new();
    let scenes: BTreeMap<&SmolStr, usize> = decls
        .all
        .iter()
        .filter(|decl| decl.kind == NameKind::Scene)
        .map(|decl| (&decl.name, by_span[&decl.span]))
        .collect();
    let spots = Elsewhere::of(&read.files);
    let mut notes = notes;
    let note = |at: Span, means: Means| Note { at, rank: Rank::Kind, means };
    notes.extend(decls.tags.iter().map(|tag| note(tag.span, Means::Tag(tag.text.clone()))));
    let in_kits = read.files.iter().flat_map(|file| kits::parameters_in(file, &read.catalogue));
    notes.extend(in_kits.map(|(at, declared)| note(at, Means::Declared(declared))));
    for given in read.files.iter().flat_map(|file| &file.given) {
        let is_it = |decl: &&Decl| decl.kind == NameKind::Given && decl.name == given.name.text;
        let known = decls.all.iter().find(is_it);
        notes.extend(known.map(|decl| note(given.name.span, Means::Declared(decl.span))));
    }
    // Of a word that was looked for in several ways, what counts most comes first.
    notes.sort_unstable_by(|one, two| {
        (one.at, Reverse(one.rank), &one.means).cmp(&(two.at, Reverse(two.rank), &two.means))
    });
    notes.dedup();
    let kit_at = |span: Span| {
        let note = notes.get(notes.partition_point(|note| note.at < span)).filter(|note| note.at == span)?;
        match &note.means {
            Means::Declared(kit) => by_span.get(kit).copied(),
            _ => None,
        }
    };
    let mut uses: Vec<(Span, usize)> = Vec::new();
    let mut moulds: Vec<(usize, SmolStr)> = Vec::new();
    for of_word in notes.chunk_by(|one, two| one.at == two.at) {
        let Note { at, rank, .. } = &of_word[0];
        let mut here: SmallVec<[(Span, usize); 2]> = SmallVec::new();
        for Note { means, .. } in of_word.iter().take_while(|note| note.rank == *rank) {
            match means {
                Means::Declared(span) => match by_span.get(span) {
                    Some(number) => here.push((*at, *number)),
                    // A use of a kit without a name is called by the kit's name and a number.
                    None => {
                        let kit = text_at(&read.sources, *span).len();
                        let kit = u32::try_from(kit).unwrap_or(0);
                        let part = Span { end: (at.start + kit).min(at.end), ..*at };
                        here.extend(kit_at(*span).map(|number| (part, number)));
                    }
                },
                Means::Field(span, number) => {
                    let field = decls.fields.get(span).and_then(|fields| fields.get(*number));
                    here.extend(field.and_then(|field| by_span.get(field)).map(|number| (*at, *number)));
                }
                Means::Tag(tag) => {
                    let number = *tags.entry(tag.clone()).or_insert_with(|| groups.add());
                    here.push((*at, number));
                }
                Means::Scene(scene) => here.extend(scenes.get(scene).map(|number| (*at, *number))),
                Means::Elsewhere { scene, path, number } => {
                    let span = spots.0.get(&(scene.clone(), path.clone())).and_then(|path| path.get(*number));
                    here.extend(span.and_then(|span| by_span.get(span)).map(|number| (*at, *number)));
                }
            }
        }
        for pair in here.windows(2) {
            groups.join(pair[0].1, pair[1].1);
        }
        uses.extend(here.first());
    }
    for (decl, number) in decls.all.iter().zip(&numbers) {
        if decl.kind == NameKind::Mould {
            moulds.push((*number, decl.name.clone()));
        }
    }
    // What is made after a mould has its name for a tag.
    for (mould, name) in moulds {
        if let Some(tag) = tags.get(&name) {
            groups.join(mould, *tag);
        }
    }
    gather(read, decls, (&numbers, &tags), &uses, &mut groups)
}

/// The groups as things, in the order of what is declared.
fn gather(
    read: &AllRead,
    decls: &Decls,
    (numbers, tags): (&[usize], &BTreeMap<SmolStr, usize>),
    uses: &[(Span, usize)],
    groups: &mut Groups,
) -> Vec<NamedThing> {
    let roles = Roles::of(&read.files);
    let mut things: FxHashMap<usize, NamedThing> = FxHashMap::default();
    for (decl, number) in decls.all.iter().zip(numbers) {
        let whole = match &decl.owner {
            Some(owner) if !matches!(decl.kind, NameKind::Player | NameKind::Local) => {
                format_smolstr!("{owner}.{}", decl.name)
            }
            _ => decl.name.clone(),
        };
        let thing = things.entry(groups.first(*number)).or_insert_with(|| NamedThing {
            kind: decl.kind,
            name: decl.name.clone(),
            scene: decl.scene.clone(),
            whole,
            places: Vec::new(),
            is_games: false,
        });
        thing.is_games |= decl.is_games;
        thing.places.push(NamePlace { span: decl.span, role: NameRole::Declared });
    }
    for (tag, number) in tags {
        things.entry(groups.first(*number)).or_insert_with(|| NamedThing {
            kind: NameKind::Tag,
            name: tag.clone(),
            scene: None,
            whole: tag.clone(),
            places: Vec::new(),
            is_games: false,
        });
    }
    for (at, number) in uses {
        if let Some(thing) = things.get_mut(&groups.first(*number))
            // What stands for something is no use of its name: `everyone` means those tagged player.
            && text_at(&read.sources, *at) == thing.name
        {
            thing.places.push(NamePlace { span: *at, role: roles.at(*at) });
        }
    }
    // They are sorted by where they stand.
    let mut all: Vec<NamedThing> = things.into_values().filter(|thing| !thing.places.is_empty()).collect();
    for thing in &mut all {
        thing.places.sort();
        // A declaration may have been noted as a use of itself, too.
        thing.places.dedup_by_key(|place| place.span);
    }
    all.sort_unstable_by_key(|thing| (thing.places.first().map(|place| place.span), thing.kind));
    all
}

/// The spots of all scenes, by the scene and the path: where each name of the path is declared.
struct Elsewhere(BTreeMap<(SmolStr, SmolStr), Vec<Span>>);

impl Elsewhere {
    fn of(files: &[Arc<File>]) -> Self {
        let spots = Spots::of(files);
        let mut all = BTreeMap::new();
        for (number, scene) in files.iter().filter_map(|file| Some((file.scene_number, file.scene.as_ref()?)))
        {
            spots.each(number, &mut |names| {
                let spans = names.iter().map(|name| name.span).collect();
                all.insert((scene.text.clone(), path_of(names)), spans);
            });
        }
        Self(all)
    }
}
