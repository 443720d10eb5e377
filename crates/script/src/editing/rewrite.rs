//! Other ways to write what is written: a guard for a wire, one wire for a group in place of one for each.

use rowan::NodeOrToken;

use super::{
    fixes::{Change, place_of},
    tokens::{solid, span},
};
use crate::{
    index::Edit,
    load::Loaded,
    resolve::{Notes, Resolver, Thing},
    source::Span,
    syntax::{self, Node, SyntaxKind as K, Token},
};

impl Loaded {
    /// The other ways to write what stands at a byte of one of its files.
    pub fn rewrites(&self, file: u32, byte: u32) -> Vec<Change> {
        let Some(source) = self.sources().get(file) else { return Vec::new() };
        let tree = syntax::parse(source.text(), file).tree;
        let end: u32 = tree.text_range().end().into();
        let token = tree.token_at_offset(byte.min(end).into()).right_biased();
        let around = token.and_then(|token| token.parent_ancestors().find(|node| node.kind() == K::Wire));
        let Some(wire) = around else { return Vec::new() };
        let mut all = Vec::new();
        all.extend(guarded(&wire, file));
        all.extend(self.for_group(&wire, file, source.text()));
        all
    }

    /// One wire on every one of a group, for several that differ in nothing but the object.
    fn for_group(&self, wire: &Node, file: u32, text: &str) -> Option<Change> {
        let (_, pattern) = shape(wire)?;
        let siblings = wire.parent()?.children().filter(|node| node.kind() == K::Wire);
        let same = siblings.filter_map(|other| {
            let (object, other_pattern) = shape(&other)?;
            (other_pattern == pattern).then_some((other, object))
        });
        let same: Vec<(Node, String)> = same.collect();
        if same.len() < 2 {
            return None;
        }
        let tag = self.tag_of_exactly(same.iter().map(|(_, object)| object.as_str()))?;
        let mut edits = Vec::new();
        for (number, (other, _)) in same.iter().enumerate() {
            if number == 0 {
                edits.extend(on_every(other, &object_of(other)?, &tag, file));
            } else {
                edits.push(Edit::new(with_lines(place_of(other, file), text), ""));
            }
        }
        Some(Change::new(format!("Write one wire on every `{tag}` for these {}", same.len()), edits))
    }

    /// A tag that some objects have, and no others.
    fn tag_of_exactly<'o>(&self, objects: impl Iterator<Item = &'o str>) -> Option<String> {
        let mut ignored = Vec::new();
        let scenes = self.scenes.as_deref();
        let resolver =
            Resolver::noting(&self.files, &self.catalogue, scenes, self.view, &mut ignored, Notes::default());
        let find = |name: &str| {
            let (thing, _) = resolver.names.scopes[resolver.names.home].things.get(name).copied()?;
            if let Thing::Object(object) = thing { Some(object) } else { None }
        };
        let mut wanted: Vec<usize> = objects.map(find).collect::<Option<_>>()?;
        wanted.sort_unstable();
        let is_it = |members: &Vec<usize>| {
            let mut members = members.clone();
            members.sort_unstable();
            members == wanted
        };
        let tagged = &resolver.names.tagged;
        tagged.iter().find(|(_, members)| is_it(members)).map(|(tag, _)| tag.to_string())
    }
}

/// A condition to be written, where a wire has none.
fn guarded(wire: &Node, file: u32) -> Option<Change> {
    if wire.children().any(|child| child.kind() == K::Guard) {
        return None;
    }
    let block = wire.children().find(|child| child.kind() == K::Block)?;
    let at = u32::from(block.text_range().start());
    let at = Span { file, start: at, end: at };
    Some(Change::new("Give it a guard", vec![Edit::new(at, "when true ")]))
}

/// The first word of the path that a wire listens to, if there are two.
fn object_of(wire: &Node) -> Option<Token> {
    let path = wire.children().find(|child| child.kind() == K::Path)?;
    let words: Vec<Token> = solid(&path).filter(|token| token.kind() == K::Word).collect();
    if let [object, _] = &words[..] { Some(object.clone()) } else { None }
}

/// The object that a wire listens to, and all its words without that one.
fn shape(wire: &Node) -> Option<(String, Vec<String>)> {
    if solid(wire).any(|token| token.text() == "every") {
        return None;
    }
    let object = object_of(wire)?.text().to_owned();
    let tokens = wire.descendants_with_tokens().filter_map(NodeOrToken::into_token);
    let words = tokens
        .filter(|token| !token.kind().is_trivia())
        .map(|token| if is_head(&token, &object) { "\0".to_owned() } else { token.text().to_owned() });
    let words = words.collect();
    Some((object, words))
}

/// Whether a word is that object's name, and not the part of another.
fn is_head(token: &Token, object: &str) -> bool {
    let of_path = |path: &Node| solid(path).next().as_ref() == Some(token);
    token.text() == object && token.parent().is_some_and(|path| path.kind() == K::Path && of_path(&path))
}

/// The edits that turn a wire on one object into one on every one of a group.
fn on_every(wire: &Node, object: &Token, tag: &str, file: u32) -> Vec<Edit> {
    let tokens = wire.descendants_with_tokens().filter_map(NodeOrToken::into_token);
    let heads = tokens.filter(|token| is_head(token, object.text()));
    let edit = |token: Token| {
        let new = if token == *object { format!("every {tag}") } else { "it".to_owned() };
        Edit::new(span(file, token.text_range()), new)
    };
    heads.map(edit).collect()
}

/// A stretch of text with the rest of its last line, and the empty lines before it.
fn with_lines(mut span: Span, text: &str) -> Span {
    let rest = text.get(span.end as usize..).unwrap_or_default();
    let end = rest.find('\n').map_or(rest.len(), |end| end + 1);
    if rest[..end].trim().is_empty() {
        span.end += u32::try_from(end).unwrap_or(0);
    }
    let before = text.get(..span.start as usize).unwrap_or_default();
    let line = before.trim_end_matches([' ', '\t']);
    let kept = line.trim_end_matches(['\n', '\r', ' ', '\t']);
    // One line end stays, as the end of what comes before.
    if line.ends_with('\n') && line.len() > kept.len() + 1 {
        span.start = u32::try_from(kept.len() + 1 + usize::from(text[kept.len()..].starts_with("\r\n")))
            .unwrap_or(span.start);
    }
    span
}
