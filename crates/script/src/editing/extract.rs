//! A kit made of what stands in a text.

use std::collections::{BTreeMap, BTreeSet};

use smol_str::{SmolStr, format_smolstr};

use super::fixes::{Change, place_of};
use crate::{
    index::{Edit, Index, NameKind, NameRole, NamedThing},
    load::Loaded,
    source::Span,
    syntax::{self, Node, SyntaxKind as K},
};

/// What a kit may consist of.
const MOVED: [K; 8] = [K::Object, K::Lone, K::Spot, K::Var, K::Signal, K::Wire, K::Bind, K::Rule];

impl Loaded {
    /// A kit of the items that stand between two bytes of one of its files, used once where they stood. What they name that is declared elsewhere becomes a parameter, if it
    /// is an object or a spot; where they are named elsewhere, the name of the use comes before. None if something stands there that no kit can have.
    pub fn extracted(&self, file: u32, (start, end): (u32, u32), index: &Index) -> Option<Change> {
        let source = self.sources().get(file)?;
        let tree = syntax::parse(source.text(), file).tree;
        let is_meant = |item: &Node| {
            let range = item.text_range();
            u32::from(range.start()) < end && start < u32::from(range.end())
        };
        let items: Vec<Node> = tree.children().filter(is_meant).collect();
        if start >= end || items.is_empty() || items.iter().any(|item| !MOVED.contains(&item.kind())) {
            return None;
        }
        let whole = place_of(items.first()?, file).to(place_of(items.last()?, file));
        let is_inside = |span: Span| whole.contains(span);
        let mut parameters: BTreeMap<SmolStr, &'static str> = BTreeMap::new();
        let mut outside: Vec<Span> = Vec::new();
        for thing in index.things() {
            let declared: Vec<Span> = places(thing, |role| role == NameRole::Declared);
            let used = thing.places.iter().map(|place| place.span);
            let made_here = declared.iter().any(|span| is_inside(*span));
            if made_here && is_of_scene(thing) {
                outside.extend(used.filter(|span| !is_inside(*span)));
            } else if !made_here && used.into_iter().any(is_inside) && is_of_scene(thing) {
                match thing.kind {
                    NameKind::Object => parameters.insert(thing.name.clone(), "object"),
                    NameKind::Spot => parameters.insert(thing.name.clone(), "spot"),
                    _ => None,
                };
            }
        }
        let names: BTreeSet<&str> = index.things().iter().map(|thing| thing.name.as_str()).collect();
        let (kit, used) = (free("new_kit", &names), free("made", &names));
        let list = |between: fn(&SmolStr, &str) -> String| {
            let all: Vec<_> = parameters.iter().map(|(name, ty)| between(name, ty)).collect();
            all.join(", ")
        };
        let (wants, gives) =
            (list(|name, ty| format!("{name}: {ty}")), list(|name, _| format!("{name}: {name}")));
        let text = source.text().get(whole.start as usize..whole.end as usize)?;
        let lines =
            text.lines().map(|line| if line.is_empty() { String::new() } else { format!("  {line}") });
        let body = lines.collect::<Vec<_>>().join("\n");
        let wants = if wants.is_empty() { String::new() } else { format!("({wants})") };
        let gives = if gives.is_empty() { String::new() } else { format!("({gives})") };
        let before = source.text().get(..whole.start as usize).unwrap_or_default();
        let apart = if before.is_empty() || before.ends_with("\n\n") { "" } else { "\n" };
        let made = format!("{apart}kit {kit}{wants} {{\n{body}\n}}\n\nadd {kit} as {used}{gives}");
        let mut edits = vec![Edit::new(whole, made)];
        edits.extend(outside.into_iter().map(|span| {
            let at = Span { end: span.start, ..span };
            Edit::new(at, format_smolstr!("{used}."))
        }));
        Some(Change::new(format!("Make a kit of these {}", items.len()), edits))
    }
}

fn places(thing: &NamedThing, fits: impl Fn(NameRole) -> bool) -> Vec<Span> {
    thing.places.iter().filter(|place| fits(place.role)).map(|place| place.span).collect()
}

/// Whether a thing is called by its name alone where it is declared, and would be called through the use of a kit then.
fn is_of_scene(thing: &NamedThing) -> bool {
    let kinds = [NameKind::Object, NameKind::Spot, NameKind::Variable, NameKind::Signal];
    kinds.contains(&thing.kind) && thing.whole == thing.name
}

fn free(word: &str, taken: &BTreeSet<&str>) -> SmolStr {
    let numbered = (2..).map(|number| format_smolstr!("{word}_{number}"));
    let mut names = std::iter::once(SmolStr::new(word)).chain(numbered);
    names.find(|name| !taken.contains(name.as_str())).unwrap_or_else(|| word.into())
}
