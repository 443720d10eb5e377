//! What mends a finding.

use smol_str::SmolStr;

use super::tokens::{solid, span};
use crate::{
    diagnostic::{Code, Diagnostic},
    index::Edit,
    load::Loaded,
    source::{Source, Span},
    syntax::{self, Node, SyntaxKind as K, Token},
};

/// A change of texts that somebody may want.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Change {
    /// What it does, in a few words.
    pub title: String,
    /// The edits, none within another; those of one file in the order of the text.
    pub edits: Vec<Edit>,
    /// It is most likely what was meant.
    pub is_likely: bool,
}

impl Change {
    pub(super) fn new(title: impl Into<String>, edits: Vec<Edit>) -> Self {
        Self { title: title.into(), edits, is_likely: false }
    }
}

impl Edit {
    /// A stretch of text that becomes another; with nothing in it, something is put there.
    pub(crate) fn new(span: Span, text: impl Into<SmolStr>) -> Self {
        Self { span, text: text.into() }
    }
}

impl Loaded {
    /// The changes that mend something that was found, what is most likely first.
    ///
    /// ```
    /// use stoicheon_core::Catalogue;
    /// let text = "object gate { door { over 1s } }\non started { open gaet }\n";
    /// let loaded = stoicheon_script::load("lock.stoi", text, &Catalogue::built_in());
    /// let fixes = loaded.fixes(&loaded.diagnostics()[0]);
    /// assert_eq!((fixes[0].title.as_str(), fixes[0].edits[0].text.as_str()), ("Change to `gate`", "gate"));
    /// ```
    pub fn fixes(&self, found: &Diagnostic) -> Vec<Change> {
        let Some(label) = found.labels.first() else { return Vec::new() };
        let Some(source) = self.sources().get(label.span.file) else { return Vec::new() };
        if source.name().ends_with("(as wiring)") {
            return Vec::new();
        }
        let place =
            Place { source, span: label.span, tree: syntax::parse(source.text(), label.span.file).tree };
        let mut all = Vec::new();
        all.extend(found.help.as_deref().and_then(|help| place.other_word(help)));
        // Where nothing better is known than which names there are.
        let starts = ["did you mean", "there are: ", "there is no ", "none of the "];
        let is_unknown =
            found.help.as_ref().is_none_or(|help| starts.iter().any(|start| help.starts_with(start)));
        let declared = place.declared(found.code).filter(|_| is_unknown);
        let is_missing = |(kind, _): &(&str, Change)| {
            let name = place.text();
            [format!("there is no {kind} `{name}`"), format!("there is no `{name}`")].contains(&found.message)
        };
        all.extend(declared.filter(is_missing).map(|(_, change)| change));
        if matches!(found.code, Code::Unsent | Code::UnusedSignal) {
            all.extend(place.by_game("sent"));
        }
        if matches!(found.code, Code::Unheard | Code::UnusedSignal) {
            all.extend(place.by_game("heard"));
        }
        if found.code.is_suspicion() {
            all.push(place.on_purpose());
        }
        all
    }
}

/// Where something was found.
struct Place<'s> {
    source: &'s Source,
    span: Span,
    tree: Node,
}

/// What stands in the first pair of backticks after some words.
fn quoted<'h>(help: &'h str, after: &str) -> Option<&'h str> {
    help.strip_prefix(after)?.strip_prefix('`')?.split_once('`').map(|(word, _)| word)
}

impl Place<'_> {
    fn text(&self) -> &str {
        self.source.text().get(self.span.start as usize..self.span.end as usize).unwrap_or_default()
    }

    /// The word that was meant.
    fn other_word(&self, help: &str) -> Option<Change> {
        let meant = quoted(help, "did you mean ");
        let written = || {
            let word = quoted(help, "write ")?;
            // What follows is an example, or nothing; everything else says more than a word can.
            let rest = &help[word.len() + "write ``".len()..];
            (!word.contains(' ') && (rest.is_empty() || rest.starts_with(": "))).then_some(word)
        };
        let word = meant.or_else(written)?;
        let mut span = self.span;
        let text = self.text();
        // Of `gaet.opened` only what is wrong is another word.
        if text == word || text.contains('.') && !word.contains('.') {
            return None;
        }
        // `&&` is one slip, and two signs.
        if let "&" | "|" = text {
            let rest = self.source.text().get(span.end as usize..)?;
            span.end += u32::from(rest.starts_with(text));
        }
        let mut change = Change::new(format!("Change to `{word}`"), vec![Edit::new(span, word)]);
        change.is_likely = meant.is_some();
        Some(change)
    }

    /// The token at the start of what was found.
    fn token(&self) -> Option<Token> {
        self.tree.token_at_offset(self.span.start.into()).right_biased()
    }

    /// The start of the line on which an item begins that stands around the place, with the remarks right before it.
    fn before_item(&self) -> Option<u32> {
        let token = self.token()?;
        let item = token.parent_ancestors().filter(|node| node.kind() != K::File).last()?;
        let start = usize::from(item.text_range().start());
        let text = self.source.text();
        let (_, line) = self.source.lines_of(start..start);
        let mut at = line.start;
        while let Some(before) = text[..at].strip_suffix('\n') {
            let line = before.rfind('\n').map_or(0, |end| end + 1);
            if !before[line..].trim_start().starts_with("//") {
                break;
            }
            at = line;
        }
        u32::try_from(at).ok()
    }

    /// A declaration of what is named and was never declared.
    fn declared(&self, code: Code) -> Option<(&'static str, Change)> {
        let name = self.text();
        // The last name of a path is that of something an object lacks.
        let is_last =
            self.token().and_then(|token| token.prev_token()).is_some_and(|token| token.kind() == K::Dot);
        if !syntax::is_name(name) || is_last {
            return None;
        }
        let (kind, line) = match code {
            Code::UnknownSignal => ("signal", format!("signal {name}{}", self.fields())),
            Code::UnknownEffect => ("effect", format!("effect {name}{}", self.fields())),
            Code::UnknownRoutine => ("routine", format!("routine {name}{} {{ }}", self.fields())),
            Code::UnknownSpot => ("spot", format!("spot {name} at (0, 0, 0)")),
            Code::UnknownObject => ("object", format!("object {name} at (0, 0, 0)")),
            Code::UnknownName => ("variable", format!("var {name}: number = 0")),
            _ => return None,
        };
        let at = self.before_item()?;
        let span = Span { file: self.span.file, start: at, end: at };
        let end = if self.source.text().contains("\r\n") { "\r\n" } else { "\n" };
        let edit = Edit::new(span, format!("{line}{end}{end}"));
        Some((kind, Change::new(format!("Declare the {kind} `{name}`"), vec![edit])))
    }

    /// The fields that what is named would have, as it is given values.
    fn fields(&self) -> String {
        let around = self.token().and_then(|token| token.parent_ancestors().nth(1));
        let args = around.and_then(|around| around.children().find(|child| child.kind() == K::Args));
        let given: Vec<Node> = args.iter().flat_map(Node::children).collect();
        let fields = (1..).zip(&given).map(|(number, value)| {
            let (name, ty) = like(value);
            let name = if given.len() == 1 { name.to_owned() } else { format!("{name}_{number}") };
            format!("{name}: {ty}")
        });
        let fields: Vec<_> = fields.collect();
        if fields.is_empty() { String::new() } else { format!("({})", fields.join(", ")) }
    }

    /// The signal is emitted or listened to by the game.
    fn by_game(&self, word: &str) -> Option<Change> {
        let token = self.token()?;
        let signal = token.parent_ancestors().find(|node| node.kind() == K::Signal)?;
        let fields = signal.children().find(|child| child.kind() == K::Fields);
        let is_whole =
            fields.is_none_or(|fields| fields.last_token().is_some_and(|last| last.kind() == K::RightParen));
        if !is_whole {
            return None;
        }
        let end = u32::from(signal.text_range().end());
        let at = Span { file: self.span.file, start: end, end };
        let title = format!("Say that it is {word} by the game");
        Some(Change::new(title, vec![Edit::new(at, format!(" {word} by game"))]))
    }

    /// A remark that says why it is so: the reason is still to be written.
    fn on_purpose(&self) -> Change {
        let start = self.span.start as usize;
        let (_, line) = self.source.lines_of(start..start);
        let text = &self.source.text()[line.clone()];
        let indent = &text[..text.len() - text.trim_start_matches([' ', '\t']).len()];
        let at = u32::try_from(line.start).unwrap_or(self.span.start);
        let at = Span { file: self.span.file, start: at, end: at };
        let end = if text.ends_with("\r\n") { "\r\n" } else { "\n" };
        Change::new(
            "Say that this is on purpose",
            vec![Edit::new(at, format!("{indent}// on purpose: {end}"))],
        )
    }
}

/// A name and a type for a field that is given a value.
fn like(value: &Node) -> (&'static str, &'static str) {
    let first = solid(value).next();
    match (value.kind(), first.as_ref().map(Token::kind)) {
        (K::Vector, _) => ("at", "vector"),
        (K::Literal, Some(K::Text)) => ("words", "text"),
        (K::Literal, Some(K::Colour)) => ("colour", "colour"),
        (K::Literal, Some(K::Number)) => {
            let text = first.as_ref().map(Token::text).unwrap_or_default();
            match text.trim_start_matches(|letter: char| letter.is_ascii_digit() || letter == '.') {
                "" if text.contains('.') => ("amount", "number"),
                "" => ("count", "whole"),
                "s" | "ms" | "min" | "ticks" | "tick" => ("span", "duration"),
                _ => ("amount", "number"),
            }
        }
        (K::Path, _) => match value.text().to_string().as_str() {
            "who" => ("by", "player"),
            "true" | "false" => ("on", "boolean"),
            place if place.rsplit('.').next() == Some("place") => ("at", "vector"),
            _ => ("amount", "number"),
        },
        (K::Binary, _)
            if solid(value).any(|token| matches!(token.text(), "and" | "or" | "is" | "inside")) =>
        {
            ("on", "boolean")
        }
        _ => ("amount", "number"),
    }
}

/// Where a node stands.
pub(super) fn place_of(node: &Node, file: u32) -> Span {
    span(file, node.text_range())
}
