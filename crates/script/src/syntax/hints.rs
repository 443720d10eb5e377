//! What somebody may have meant whose signs and words are those of other languages.

use super::kind::SyntaxKind;
use crate::suggest::nearest;

/// Words that statements begin with and that no command can be.
const STATEMENTS: [&str; 15] = [
    "wait", "emit", "perform", "repeat", "enable", "disable", "destroy", "spawn", "send", "untag", "tween",
    "stop", "var", "if", "for",
];

/// Words that begin items or statements, as far as they are written with a capital elsewhere.
const KEYWORDS: [&str; 24] = [
    "scene", "var", "signal", "effect", "object", "manager", "mould", "spot", "on", "bind", "never",
    "routine", "kit", "add", "playtest", "if", "else", "wait", "emit", "perform", "do", "open", "close",
    "expect",
];

/// The token that was found, the ones around it, and what was expected.
pub(super) struct Found<'t> {
    pub(super) text: &'t str,
    pub(super) kind: SyntaxKind,
    pub(super) before: &'t str,
    pub(super) after: &'t str,
    pub(super) expected: &'t str,
}

impl Found<'_> {
    /// What to write instead, if it is known what was meant.
    pub(super) fn hint(&self) -> Option<String> {
        let in_wire = self.expected.starts_with("by, when");
        let in_object = self.expected.starts_with("`at`");
        let hint = match self.text {
            "&" => "write `and`: level > 1 and level < 2",
            "|" => "write `or`: level < 1 or level > 2",
            "!" => "write `not`: not (level > 1)",
            "'" => "a text stands in double quotes: \"Mind the gap.\"",
            "," if in_object && self.before == ")" => {
                "leave the comma out: object pad at (1, 2, 3) tags quay"
            }
            "," if in_object => "a place stands in parentheses: at (4, 0, 10)",
            "(" if in_object => "a place follows `at`: at (4, 0, 10)",
            "and" if in_wire => "several tags are joined by `or`: by keeper or bargee",
            "if" if in_wire => "write `when`: on pad.entered when level > 0.5",
            "=" if in_wire => "`==` compares and `=` sets: write `==` here",
            text if text.starts_with('#') => "a comment begins with `//`",
            text if text.starts_with('"') && self.kind == SyntaxKind::Unknown => {
                "this text has no end: put a `\"` behind it, on the same line"
            }
            _ if in_wire && self.before == "," => {
                "a wire has one signal: write one for each of them, or give their objects a tag and write `on every TAG.signal`"
            }
            _ => return self.word(),
        };
        Some(hint.to_owned())
    }

    fn word(&self) -> Option<String> {
        if self.kind != SyntaxKind::Word {
            return None;
        }
        let small = self.text.to_lowercase();
        if small != self.text && KEYWORDS.contains(&small.as_str()) {
            return Some(format!("write `{small}`: the words of the language are in small letters"));
        }
        let statement = self.expected.starts_with("a statement");
        if statement && self.after == "(" {
            let name = self.text;
            return Some(format!(
                "say what is done with it: `perform {name}(…)` for an effect, `emit {name}(…)` for a signal, `do {name}(…)` for a routine"
            ));
        }
        let near = if statement {
            nearest(self.text, STATEMENTS.into_iter())
        } else {
            nearest(self.text, self.words_expected())
        };
        near.map(|near| format!("did you mean `{near}`?"))
    }

    /// The words of a list of what was expected.
    fn words_expected(&self) -> impl Iterator<Item = &str> {
        let parts = self.expected.split(['`', ',']).flat_map(|part| part.split(" or "));
        parts.map(str::trim).filter(|word| word.len() > 1 && !word.contains(' '))
    }
}
