//! What can be folded away.

use rowan::NodeOrToken;

use crate::{
    editing::tokens::span,
    source::Span,
    syntax::{self, SyntaxKind as K, Token},
};

/// A stretch of text that can be folded away.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Fold {
    /// From its first sign to behind its last: from one brace to the other.
    pub span: Span,
    /// It is a remark of several lines.
    pub is_comment: bool,
}

/// What of a text can be folded away: everything in braces or parentheses that goes over several lines, and remarks of several lines. In the order in which they begin.
///
/// ```
/// let text = "// The gate\n// opens outwards.\non rung {\n  open gate\n}\n";
/// let folds: Vec<_> = stoicheon_script::editing::folds(text, 0).iter().map(|fold| fold.is_comment).collect();
/// assert_eq!(folds, [true, false]);
/// ```
pub fn folds(text: &str, file: u32) -> Vec<Fold> {
    let tree = syntax::parse(text, file).tree;
    let mut folds = Vec::new();
    let mut open: Vec<(K, Token)> = Vec::new();
    let mut comments: Option<(Token, Token)> = None;
    let mut newlines = 0;
    let over_lines = |span: Span| {
        let inside = text.get(span.start as usize..span.end as usize);
        inside.is_some_and(|inside| inside.contains('\n'))
    };
    let from_to = |one: &Token, two: &Token| span(file, one.text_range().cover(two.text_range()));
    for token in tree.descendants_with_tokens().filter_map(NodeOrToken::into_token) {
        match token.kind() {
            K::Space => continue,
            K::Newline => {
                newlines += 1;
                continue;
            }
            K::Comment => {
                // A remark behind something else is none of several lines.
                let goes_on = newlines == 1 && comments.is_some();
                comments = match comments.take() {
                    Some((first, _)) if goes_on => Some((first, token)),
                    before => {
                        folds.extend(
                            before
                                .map(|(first, last)| Fold { span: from_to(&first, &last), is_comment: true }),
                        );
                        (newlines > 0 || token.text_range().start() == 0.into())
                            .then(|| (token.clone(), token))
                    }
                };
                newlines = 0;
                continue;
            }
            K::LeftBrace | K::LeftParen => open.push((token.kind(), token.clone())),
            K::RightBrace | K::RightParen => {
                let wanted = if token.kind() == K::RightBrace { K::LeftBrace } else { K::LeftParen };
                // What was never closed is left open.
                if let Some(at) = open.iter().rposition(|(kind, _)| *kind == wanted) {
                    let (_, first) = open.swap_remove(at);
                    open.truncate(at);
                    folds.push(Fold { span: from_to(&first, &token), is_comment: false });
                }
            }
            _ => {}
        }
        folds.extend(
            comments.take().map(|(first, last)| Fold { span: from_to(&first, &last), is_comment: true }),
        );
        newlines = 0;
    }
    folds.extend(comments.map(|(first, last)| Fold { span: from_to(&first, &last), is_comment: true }));
    folds.retain(|fold| over_lines(fold.span));
    folds.sort_by_key(|fold| fold.span);
    folds
}
