//! Playtests: scripted players and what is expected.

use super::{kind::SyntaxKind, parser::Parser};

impl Parser<'_> {
    pub(super) fn playtest(&mut self) {
        self.bump();
        self.expect(SyntaxKind::Text, "the name of the playtest, in quotes");
        if !self.expect(SyntaxKind::LeftBrace, "`{`") {
            return;
        }
        self.enter_braces();
        while !matches!(self.peek(), SyntaxKind::RightBrace | SyntaxKind::End) && !self.at_item() {
            if self.eat(SyntaxKind::Semicolon) {
                continue;
            }
            self.playtest_step();
        }
        self.leave_braces();
        self.expect(SyntaxKind::RightBrace, "`}`");
    }

    fn playtest_step(&mut self) {
        if self.is_word("player") {
            self.node(SyntaxKind::PlayerStep, |p| {
                p.bump();
                p.expect(SyntaxKind::Word, "the name of the player");
                if p.eat_word("at") {
                    p.path("an object to start at");
                } else {
                    p.fault("`at`");
                }
                if p.is_word("tags") {
                    p.tags();
                }
            });
        } else if self.is_word("expect") {
            self.node(SyntaxKind::ExpectStep, |p| {
                p.bump();
                p.expr();
                if p.is_word("within") {
                    p.bump();
                    p.expect(SyntaxKind::Number, "a span of time, such as 2s");
                } else if p.is_word("exactly") {
                    p.bump();
                    p.expect(SyntaxKind::Number, "a whole number");
                }
            });
        } else if self.is_word("always") || self.is_word("never") {
            self.node(SyntaxKind::AlwaysStep, |p| {
                p.bump();
                p.expr();
            });
        } else if self.is_word("wait") {
            self.node(SyntaxKind::WaitStep, |p| {
                p.bump();
                p.expect(SyntaxKind::Number, "a span of time, such as 2s");
            });
        } else if self.peek() == SyntaxKind::Word && self.second_on_same_line() {
            self.node(SyntaxKind::DoStep, |p| {
                p.bump();
                p.action();
                while p.eat(SyntaxKind::Comma) {
                    p.action();
                }
            });
        } else {
            self.put_aside("player, expect, always, never, wait or what a player does", |_| false);
        }
    }

    fn action(&mut self) {
        self.node(SyntaxKind::Action, |p| {
            if p.is_word("walks") {
                p.bump();
                if !p.eat_word("to") {
                    p.fault("`to`");
                }
                p.path("an object to walk to");
            } else if p.is_word("presses") {
                p.bump();
                p.expect(SyntaxKind::Word, "the name of a key");
            } else if p.is_word("holds") {
                p.bump();
                p.expect(SyntaxKind::Word, "the name of a key");
                p.expect(SyntaxKind::Number, "a span of time, such as 2s");
            } else if p.is_word("points") {
                p.bump();
                if !p.eat_word("at") {
                    p.fault("`at`");
                }
                p.path("an object to point at");
            } else if p.is_word("leaves") {
                p.bump();
            } else if p.is_word("waits") {
                p.bump();
                p.expect(SyntaxKind::Number, "a span of time, such as 2s");
            } else {
                p.fault("`walks to`, `presses`, `holds`, `points at`, `leaves` or `waits`");
                p.skip_until(|p| {
                    matches!(p.peek(), SyntaxKind::RightBrace | SyntaxKind::Comma) || p.on_new_line()
                });
            }
        });
    }
}
