//! What kind of thing each word of a text is, for its colour.

use rowan::NodeOrToken;

use crate::{
    editing::tokens::{solid, span, word_before},
    source::Span,
    syntax::{self, Node, SyntaxKind as K, Token},
};

/// What a word or a sign is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum Class {
    /// A remark.
    Comment,
    /// A number, with its unit.
    Number,
    /// A text in quotes.
    Text,
    /// A colour.
    Colour,
    /// A sign between values.
    Operator,
    /// A word of the language.
    Keyword,
    /// A kind of part, or a type.
    Type,
    /// A setting of a part.
    Setting,
    /// A state, or another word of a list.
    State,
    /// A command or a function.
    Function,
    /// What means the same everywhere: `who`, `it`, `own`.
    Known,
    /// A name of something.
    Name,
    /// The name of a signal, where only one can stand.
    Signal,
}

/// A stretch of text, and what it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Classed {
    /// Where.
    pub span: Span,
    /// What.
    pub class: Class,
}

/// What each word and sign of a text is, in its order; brackets, commas and what is no token are left out. `file` is the number for the places.
///
/// ```
/// use stoicheon_script::editing::{Class, classes};
/// let text = "on pad.entered { open gate }";
/// let classes: Vec<_> = classes(text, 0).into_iter().map(|word| word.class).collect();
/// assert_eq!(classes, [Class::Keyword, Class::Name, Class::Signal, Class::Function, Class::Name]);
/// ```
pub fn classes(text: &str, file: u32) -> Vec<Classed> {
    let tree = syntax::parse(text, file).tree;
    let tokens = tree.descendants_with_tokens().filter_map(NodeOrToken::into_token);
    let classed = tokens.filter_map(|token| {
        let class = class(&token)?;
        Some(Classed { span: span(file, token.text_range()), class })
    });
    classed.collect()
}

fn class(token: &Token) -> Option<Class> {
    Some(match token.kind() {
        K::Comment => Class::Comment,
        K::Number => Class::Number,
        K::Text => Class::Text,
        K::Colour => Class::Colour,
        K::Word => word(token),
        K::Space | K::Newline | K::Unknown => return None,
        K::LeftParen | K::RightParen | K::LeftBrace | K::RightBrace => return None,
        K::Comma | K::Semicolon | K::Colon | K::Dot => return None,
        _ => Class::Operator,
    })
}

/// The place of a word among the words that stand directly in its node.
fn place(token: &Token) -> usize {
    let Some(parent) = token.parent() else { return 0 };
    solid(&parent).filter(|other| other.kind() == K::Word).position(|other| other == *token).unwrap_or(0)
}

fn word(token: &Token) -> Class {
    let Some(parent) = token.parent() else { return Class::Name };
    let text = token.text();
    let first = || place(token) == 0;
    match parent.kind() {
        K::Path => of_path(token, &parent),
        K::Type if text == "one" || text == "of" => Class::Keyword,
        K::Type => Class::Type,
        K::Lone if place(token) == 1 => Class::Name,
        K::Part | K::Lone if first() => Class::Type,
        K::Part | K::Lone | K::Group => Class::Setting,
        K::CommandStep | K::Call if first() => Class::Function,
        K::Arg if first() => Class::Setting,
        K::IsClause | K::During if !matches!(text, "is" | "not" | "while") => Class::State,
        K::Field | K::Given if first() => Class::Name,
        K::Cases => {
            if first() {
                Class::Keyword
            } else {
                Class::Name
            }
        }
        // `lamp is lit`: the state is a path of its own there.
        K::Binary | K::Unary | K::Of | K::About | K::Quantifier | K::Nearest | K::Last | K::Count => {
            Class::Keyword
        }
        K::Among => match text {
            "every" | "any" | "no" => Class::Keyword,
            "everyone" => Class::Known,
            _ => Class::Name,
        },
        K::Action => action(token),
        K::DoStep => Class::Name,
        K::Filter | K::Crosses if matches!(text, "by" | "or" | "crosses" | "to") => Class::Keyword,
        K::Filter => Class::Name,
        K::Crosses if matches!(text, "authority" | "players") => Class::Keyword,
        K::Crosses => Class::Name,
        K::Tags if !first() => Class::Name,
        K::TagStep | K::SpawnStep | K::KeepStep | K::ForStep | K::Use if is_name(token) => Class::Name,
        K::SendStep | K::PlayerStep if is_name(token) => Class::Name,
        kind if declares(kind) && place(token) == 1 => Class::Name,
        K::Bad => Class::Name,
        _ => Class::Keyword,
    }
}

/// A word of a path: by what stands around that.
fn of_path(token: &Token, path: &Node) -> Class {
    let around = path.parent();
    let kind = around.as_ref().map(Node::kind);
    let is_last = path.last_token().as_ref() == Some(token);
    let asked = || word_before(path).is_some_and(|word| matches!(word.text(), "is" | "not"));
    match token.text() {
        "who" | "it" | "own" | "true" | "false" | "everyone" => Class::Known,
        _ if kind == Some(K::Binary) && asked() => Class::State,
        _ if is_last && matches!(kind, Some(K::Wire | K::EmitStep | K::PerformStep)) => Class::Signal,
        _ => Class::Name,
    }
}

/// What is done by a player; before it may stand who it is.
fn action(token: &Token) -> Class {
    const NAMED: [&str; 4] = ["presses", "releases", "holds", "chooses"];
    let before = token.parent().and_then(|parent| {
        let words: Vec<Token> = solid(&parent).filter(|other| other.kind() == K::Word).collect();
        let at = words.iter().position(|other| other == token)?;
        words.get(at.checked_sub(1)?).cloned()
    });
    match before {
        Some(before) if NAMED.contains(&before.text()) => Class::State,
        Some(before) if matches!(before.text(), "in" | "tags" | "with") => Class::Name,
        _ => Class::Keyword,
    }
}

/// Whether a word of a statement is a name, and not one of its own.
fn is_name(token: &Token) -> bool {
    const OWN: [&str; 15] = [
        "tag", "untag", "as", "spawn", "at", "var", "for", "each", "in", "add", "send", "to", "every",
        "player", "tags",
    ];
    place(token) > 0 && !OWN.contains(&token.text())
}

/// Whether the second word of a node of that kind is the name of what is declared.
fn declares(kind: K) -> bool {
    matches!(
        kind,
        K::Scene
            | K::Project
            | K::Var
            | K::Signal
            | K::Effect
            | K::Object
            | K::Manager
            | K::Mould
            | K::Spot
            | K::Routine
            | K::Kit
            | K::Constant
    )
}
