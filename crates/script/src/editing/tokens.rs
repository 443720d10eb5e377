//! Small things about tokens that everything here asks.

use rowan::NodeOrToken;

use crate::{
    source::Span,
    syntax::{Node, Token},
};

/// Where a stretch of a tree stands.
pub(super) fn span(file: u32, range: rowan::TextRange) -> Span {
    Span { file, start: range.start().into(), end: range.end().into() }
}

/// The tokens that stand directly in a node and mean something.
pub(super) fn solid(node: &Node) -> impl Iterator<Item = Token> {
    let tokens = node.children_with_tokens().filter_map(NodeOrToken::into_token);
    tokens.filter(|token| !token.kind().is_trivia())
}

/// The sibling before a node that is a token and means something.
pub(super) fn word_before(node: &Node) -> Option<Token> {
    let mut at = node.prev_sibling_or_token();
    while let Some(NodeOrToken::Token(token)) = &at {
        if !token.kind().is_trivia() {
            return Some(token.clone());
        }
        at = token.prev_sibling_or_token();
    }
    None
}
