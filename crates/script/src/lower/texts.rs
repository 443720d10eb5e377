//! Texts with values in them: `"{count} of 5"`.

use super::{Lower, exprs};
use crate::{
    model::{Expr, ExprKind, Literal},
    syntax::{Token, parse_value},
};

/// A piece of a text: where it begins and ends in it, and whether it is a value.
struct Piece {
    from: usize,
    to: usize,
    value: bool,
}

/// Where the values of a quoted text are, each between braces; and where a brace stands that has no partner.
fn pieces(quoted: &str) -> Result<Vec<Piece>, usize> {
    let (mut pieces, mut from, mut open) = (Vec::new(), 1, None);
    let mut letters = quoted.char_indices();
    while let Some((at, letter)) = letters.next() {
        match (letter, open) {
            ('\\', _) => {
                letters.next();
            }
            ('{', None) => {
                pieces.push(Piece { from, to: at, value: false });
                open = Some(at);
            }
            ('}', Some(brace)) => {
                pieces.push(Piece { from: brace + 1, to: at, value: true });
                (from, open) = (at + 1, None);
            }
            ('{' | '}', _) => return Err(at),
            _ => {}
        }
    }
    match open {
        Some(brace) => Err(brace),
        None => {
            pieces.push(Piece { from, to: quoted.len() - 1, value: false });
            Ok(pieces)
        }
    }
}

impl Lower<'_> {
    /// A text, with the values that stand in it.
    pub(super) fn text_with_values(&mut self, token: &Token) -> Option<ExprKind> {
        let quoted = token.text();
        let begins = u32::from(token.text_range().start());
        let span = |from: usize, to: usize| {
            let at = |offset: usize| rowan::TextSize::new(begins + u32::try_from(offset).unwrap_or(u32::MAX));
            rowan::TextRange::new(at(from), at(to))
        };
        let pieces = match pieces(quoted) {
            Ok(pieces) => pieces,
            Err(brace) => {
                let message = "expected a value between braces in the text, such as {count}, found a brace \
                               by itself; a brace as such is \\{ or \\}";
                self.bad_literal(self.span(span(brace, brace + 1)), message);
                return None;
            }
        };
        if pieces.len() == 1 {
            return Some(ExprKind::Literal(Literal::Text(self.unquoted(token)?)));
        }
        let mut parts = Vec::new();
        let mut sound = true;
        for piece in pieces {
            let (text, range) = (&quoted[piece.from..piece.to], span(piece.from, piece.to));
            if piece.value {
                let begins_here = self.begins + range.start();
                let read = parse_value(text, self.file, begins_here.into());
                let shortest = None;
                let diagnostics = &mut *self.diagnostics;
                let mut inner = Lower { file: self.file, begins: begins_here, shortest, diagnostics };
                let found = exprs(&read.tree).next().map(|node| inner.expr(&node));
                sound &= read.errors.is_empty();
                self.diagnostics.extend(read.errors);
                parts.extend(found);
            } else if !text.is_empty() {
                let text = self.resolved(text, self.span(range))?;
                parts.push(Expr { span: self.span(range), kind: ExprKind::Literal(Literal::Text(text)) });
            }
        }
        sound.then_some(ExprKind::Text(parts))
    }
}
