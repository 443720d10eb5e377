//! Objects and spots: what they consist of.

use super::{item::ITEMS, kind::SyntaxKind, parser::Parser};
use crate::suggest::nearest;

const CLAUSE_WORDS: [&str; 7] = ["at", "facing", "tags", "of", "disabled", "body", "remember"];

/// What may follow the name of an object.
const CLAUSES: &str = "`at`, `facing`, `tags`, `of`, `disabled`, `body`, `remember` or `{`";

impl Parser<'_> {
    pub(super) fn spot(&mut self) {
        self.bump();
        self.expect(SyntaxKind::Word, "the name of the spot");
        if !self.is_word("at") {
            self.fault("`at` and a place");
        }
        self.place_clauses();
    }

    pub(super) fn place_clauses(&mut self) {
        loop {
            match self.nth_text(0) {
                "at" => self.clause(SyntaxKind::At, Self::place),
                "facing" => self.clause(SyntaxKind::Facing, Self::place),
                _ => break,
            }
        }
    }

    /// Nothing of a place belongs to anybody, so `of` after it does not belong to the place.
    pub(super) fn place(&mut self) {
        self.place = true;
        self.expr();
        self.place = false;
    }

    pub(super) fn object(&mut self, what: &str) {
        self.bump();
        self.expect(SyntaxKind::Word, what);
        loop {
            match self.nth_text(0) {
                "at" | "facing" => self.place_clauses(),
                "tags" => self.tags(),
                "disabled" | "body" | "remember" => self.node(SyntaxKind::Flag, Self::bump),
                "of" => self.clause(SyntaxKind::Parent, |p| p.path("the object it hangs on")),
                _ if self.is_slip_of_object() => {
                    // A slip before the braces does not take what is in them along.
                    self.put_aside(CLAUSES, |p| {
                        p.peek() == SyntaxKind::LeftBrace || CLAUSE_WORDS[..4].contains(&p.nth_text(0))
                    });
                }
                _ => break,
            }
        }
        if self.eat(SyntaxKind::LeftBrace) {
            self.enter_braces();
            while !matches!(self.peek(), SyntaxKind::RightBrace | SyntaxKind::End) && !self.at_item() {
                self.member();
            }
            self.leave_braces();
            self.expect(SyntaxKind::RightBrace, "`}`");
        }
    }

    /// Whether more stands on the line, before any braces.
    pub(super) fn on_its_line(&self) -> bool {
        let ends = [SyntaxKind::LeftBrace, SyntaxKind::RightBrace, SyntaxKind::Semicolon, SyntaxKind::End];
        !ends.contains(&self.peek()) && !self.on_new_line() && !ITEMS.contains(&self.nth_text(0))
    }

    /// Whether what stands here belongs to the object, though it is none of its clauses. In braces, what is on its line may
    /// be the next item, such as `timer fuse`.
    fn is_slip_of_object(&self) -> bool {
        let near = || nearest(self.nth_text(0), CLAUSE_WORDS.into_iter()).is_some();
        self.on_its_line() && (!self.inside_braces() || self.peek() != SyntaxKind::Word || near())
    }

    pub(super) fn member(&mut self) {
        match self.nth_text(0) {
            "on" => self.node(SyntaxKind::Wire, Self::wire),
            "var" => self.node(SyntaxKind::Var, Self::var),
            "signal" => self.node(SyntaxKind::Signal, |p| p.declaration("the name of the signal")),
            "spot" => self.node(SyntaxKind::Spot, Self::spot),
            _ if self.peek() == SyntaxKind::Word => self.node(SyntaxKind::Part, Self::part),
            _ => {
                if !self.eat(SyntaxKind::Semicolon) {
                    self.put_aside("a part, var, signal, spot, on or `}`", |_| false);
                }
            }
        }
    }

    pub(super) fn tags(&mut self) {
        self.clause(SyntaxKind::Tags, |p| {
            p.expect(SyntaxKind::Word, "a tag");
            while p.peek() == SyntaxKind::Comma && p.nth(1) == SyntaxKind::Word {
                p.bump();
                p.bump();
            }
        });
    }

    /// A kind of part and its settings: in braces, or to the end of the line.
    pub(super) fn part(&mut self) {
        self.bump();
        self.settings();
    }

    /// Words and values to the end of the line, or in braces, which may come after some of them.
    pub(super) fn settings(&mut self) {
        let mut braces = false;
        loop {
            match self.peek() {
                SyntaxKind::RightBrace | SyntaxKind::End => break,
                SyntaxKind::Semicolon if !braces => break,
                _ if !braces && self.on_new_line() => break,
                _ if braces && self.at_item() => break,
                SyntaxKind::LeftBrace if braces => self.deeper(|p| {
                    p.node(SyntaxKind::Group, |p| {
                        p.settings();
                    });
                }),
                SyntaxKind::LeftBrace => {
                    self.bump();
                    self.enter_braces();
                    braces = true;
                }
                SyntaxKind::Colon => self.bump(),
                // `lock.rung`, which is a path and no word.
                SyntaxKind::Word if self.nth(1) == SyntaxKind::Dot => self.atom(),
                SyntaxKind::Word if self.is_word("when") || self.is_word("by") => {
                    // What is worked out while the world runs.
                    self.bump();
                    self.expr();
                }
                SyntaxKind::Word if self.is_word("turned") => {
                    self.bump();
                    self.primary();
                }
                SyntaxKind::Comma | SyntaxKind::Semicolon | SyntaxKind::Word => self.bump(),
                SyntaxKind::Number | SyntaxKind::Text | SyntaxKind::Colour | SyntaxKind::LeftParen => {
                    self.atom();
                }
                SyntaxKind::Minus => self.clause(SyntaxKind::Unary, Self::atom),
                _ => self.put_aside("a setting", |_| false),
            }
        }
        if braces {
            self.leave_braces();
            self.expect(SyntaxKind::RightBrace, "`}`");
        }
    }
}
