//! The syntax: tokens, the lossless tree, and the parser that makes it.

mod expr;
mod hints;
mod item;
mod kind;
mod object;
mod parser;
mod playtest;
mod statement;

pub(crate) use kind::{Node, SyntaxKind, Token};
pub(crate) use parser::{Parsed, open_braces, parse, parse_items, parse_value};

/// Whether a text is one word that can be a name.
pub(crate) fn is_name(text: &str) -> bool {
    use logos::Logos as _;
    let mut tokens = SyntaxKind::lexer(text);
    matches!(tokens.next(), Some(Ok(SyntaxKind::Word))) && tokens.next().is_none()
}
