//! What is found only with all scenes of a project in sight: in their playtests, and where two of them do something to what they share.

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

use crate::{
    diagnostic::{Code, Diagnostic},
    load::{AllRead, Loaded, sort},
    on_purpose::without_explained,
    resolve::{Notes, Resolver, View},
    source::{Sources, Span},
};

/// Playtests may speak of every scene, so all of them are looked at with the names of all; and only there is seen what two scenes do to what
/// they share.
pub(crate) fn check(all: &AllRead, head: &mut Loaded, scenes: &mut [Loaded]) {
    let mut ignored = Vec::new();
    let notes = if all.noting { Notes::wanted() } else { Notes::default() };
    let known = all.scenes.as_deref();
    let mut resolver =
        Resolver::noting(&all.files, &all.catalogue, known, View::Playtests(0), &mut ignored, notes);
    // What is wrong with the names themselves was told of before.
    resolver.report.diagnostics.clear();
    resolver.check(&all.files);
    resolver.check_suspicious(&all.files, &all.sources);
    let found = std::mem::take(resolver.report.diagnostics);
    tell(head, found, &mut resolver, &all.sources);
    let played = all.files.iter().filter(|file| !file.playtests.is_empty());
    let played: BTreeSet<u32> = played.map(|file| file.scene_number).collect();
    for scene in &mut *scenes {
        if played.contains(&scene.scene_number()) {
            let found = resolver.playtests_of(&all.files, scene.scene_number());
            tell(scene, found, &mut resolver, &all.sources);
        }
    }
    hand_down(head, scenes);
}

/// A part of the project has these findings as well, and what was noted with them.
fn tell(part: &mut Loaded, mut found: Vec<Diagnostic>, resolver: &mut Resolver<'_, '_>, sources: &Sources) {
    part.played_notes = part.notes.as_ref().map(|_| Arc::new(resolver.report.notes.take()));
    without_explained(&mut found, sources);
    part.diagnostics.extend(found);
    sort(&mut part.diagnostics);
}

/// What was found with all scenes in sight is told where it stands, and once.
fn hand_down(head: &mut Loaded, scenes: &mut [Loaded]) {
    let mut of_scenes: BTreeMap<u32, Vec<Diagnostic>> = BTreeMap::new();
    let mut of_head = Vec::new();
    let mut told = BTreeSet::new();
    for found in std::mem::take(&mut head.diagnostics) {
        let key = key(&found);
        match head.sources.get(key.1.file).map_or(0, |source| source.scene_number) {
            0 if told.insert(key) => of_head.push(found),
            0 => {}
            number => of_scenes.entry(number).or_default().push(found),
        }
    }
    for scene in scenes {
        let Some(found) = of_scenes.remove(&scene.scene_number()) else { continue };
        let mut told: BTreeSet<_> = scene.diagnostics.iter().map(key).collect();
        scene.diagnostics.extend(found.into_iter().filter(|found| told.insert(key(found))));
        sort(&mut scene.diagnostics);
    }
    // Files of a scene that could not be read belong to none.
    head.diagnostics = of_head.into_iter().chain(of_scenes.into_values().flatten()).collect();
    sort(&mut head.diagnostics);
}

/// What a finding is known again by.
fn key(found: &Diagnostic) -> (Code, Span, String) {
    let at = found.labels.first().map(|label| label.span).unwrap_or_default();
    (found.code, at, found.message.clone())
}
