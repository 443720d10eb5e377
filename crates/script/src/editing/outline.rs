//! What a text consists of, piece by piece.

use crate::{
    editing::tokens::{solid, span},
    source::Span,
    syntax::{self, Node, SyntaxKind as K},
};

/// What kind of piece it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum EntryKind {
    /// A scene or a project: its name.
    Scene,
    /// A named constant.
    Given,
    /// A variable.
    Variable,
    /// A signal.
    Signal,
    /// An effect.
    Effect,
    /// An object.
    Object,
    /// A manager.
    Manager,
    /// A mould.
    Mould,
    /// A part of an object.
    Part,
    /// A spot.
    Spot,
    /// A wire.
    Wire,
    /// A bind.
    Bind,
    /// A rule.
    Rule,
    /// A routine.
    Routine,
    /// A kit.
    Kit,
    /// A use of a kit.
    Use,
    /// A playtest.
    Playtest,
}

/// A piece of a text.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Entry {
    /// What kind of piece it is.
    pub kind: EntryKind,
    /// What it is called; a wire by its signal, a rule by what it forbids.
    pub name: String,
    /// A few words more: a type, the kinds of its parts, a guard.
    pub detail: String,
    /// All of it.
    pub span: Span,
    /// Its name.
    pub name_span: Span,
    /// What it consists of.
    pub inner: Vec<Entry>,
}

/// What a text consists of, in its order. `file` is the number for the places.
///
/// ```
/// let text = "object gate { door { over 1s } }\non gate.opened by keeper { close gate }\n";
/// let outline = stoicheon_script::editing::outline(text, 0);
/// let names: Vec<_> = outline.iter().map(|entry| (entry.name.as_str(), entry.detail.as_str())).collect();
/// assert_eq!(names, [("gate", "door"), ("gate.opened", "by keeper")]);
/// ```
pub fn outline(text: &str, file: u32) -> Vec<Entry> {
    inner(&syntax::parse(text, file).tree, file)
}

fn inner(node: &Node, file: u32) -> Vec<Entry> {
    node.children().filter_map(|child| entry(&child, file)).collect()
}

/// A stretch of text in one line, and not too long.
fn shown(node: &Node) -> String {
    const LONGEST: usize = 60;
    let words: Vec<String> = node.text().to_string().split_whitespace().map(str::to_owned).collect();
    let line = words.join(" ");
    if line.chars().count() <= LONGEST { line } else { line.chars().take(LONGEST).chain(['…']).collect() }
}

fn child(node: &Node, kind: K) -> Option<Node> {
    node.children().find(|child| child.kind() == kind)
}

fn entry(node: &Node, file: u32) -> Option<Entry> {
    let kind = match node.kind() {
        K::Scene | K::Project => EntryKind::Scene,
        K::Constant => EntryKind::Given,
        K::Var => EntryKind::Variable,
        K::Signal => EntryKind::Signal,
        K::Effect => EntryKind::Effect,
        K::Object | K::Lone => EntryKind::Object,
        K::Manager => EntryKind::Manager,
        K::Mould => EntryKind::Mould,
        K::Part => EntryKind::Part,
        K::Spot => EntryKind::Spot,
        K::Wire => EntryKind::Wire,
        K::Bind => EntryKind::Bind,
        K::Rule => EntryKind::Rule,
        K::Routine => EntryKind::Routine,
        K::Kit => EntryKind::Kit,
        K::Use => EntryKind::Use,
        K::Playtest => EntryKind::Playtest,
        _ => return None,
    };
    let words: Vec<_> = solid(node).filter(|token| token.kind() == K::Word).collect();
    let word = |number: usize| words.get(number).map(|word| (word.text().to_owned(), word.text_range()));
    let of_node = |node: Node| (shown(&node), node.text_range());
    let path = || child(node, K::Path).map(of_node);
    let (name, at) = match kind {
        EntryKind::Wire | EntryKind::Bind => path()?,
        EntryKind::Rule => node.children().next().map(of_node)?,
        EntryKind::Part => word(0)?,
        EntryKind::Playtest => {
            let text = solid(node).find(|token| token.kind() == K::Text)?;
            (text.text().trim_matches('"').to_owned(), text.text_range())
        }
        EntryKind::Use => {
            let named = words.iter().position(|word| word.text() == "as").and_then(|at| word(at + 1));
            named.or_else(|| word(1))?
        }
        _ => word(1)?,
    };
    let detail = detail(node, kind, word(0).map(|(word, _)| word).unwrap_or_default());
    let inner = match kind {
        EntryKind::Object | EntryKind::Manager | EntryKind::Mould | EntryKind::Kit => inner(node, file),
        _ => Vec::new(),
    };
    Some(Entry { kind, name, detail, span: span(file, node.text_range()), name_span: span(file, at), inner })
}

/// A few words more about a piece.
fn detail(node: &Node, kind: EntryKind, word: String) -> String {
    let clauses = |kinds: &[K]| {
        let clauses = node.children().filter(|child| kinds.contains(&child.kind()));
        clauses.map(|clause| shown(&clause)).collect::<Vec<_>>().join(" ")
    };
    match kind {
        EntryKind::Scene => word,
        EntryKind::Given | EntryKind::Variable => clauses(&[K::Type, K::PerPlayer]),
        EntryKind::Signal | EntryKind::Effect | EntryKind::Routine | EntryKind::Kit => clauses(&[K::Fields]),
        EntryKind::Object | EntryKind::Manager | EntryKind::Mould if node.kind() == K::Lone => word,
        EntryKind::Object | EntryKind::Manager | EntryKind::Mould => {
            let parts = node.children().filter(|child| child.kind() == K::Part);
            let kinds = parts.filter_map(|part| solid(&part).next().map(|word| word.text().to_owned()));
            kinds.collect::<Vec<_>>().join(", ")
        }
        EntryKind::Wire => clauses(&[K::Args, K::Filter, K::Guard, K::During]),
        EntryKind::Use => solid(node).nth(1).map(|kit| kit.text().to_owned()).unwrap_or_default(),
        _ => String::new(),
    }
}
