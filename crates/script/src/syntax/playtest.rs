//! Playtests: scripted players and what is expected.

use super::{kind::SyntaxKind, parser::Parser};

impl Parser<'_> {
    pub(super) fn playtest(&mut self) {
        self.bump();
        self.expect(SyntaxKind::Text, "the name of the playtest, in quotes");
        if self.is_word("seeds") {
            self.node(SyntaxKind::Seeds, Self::seeds);
        }
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
        match self.nth_text(0) {
            "given" => self.node(SyntaxKind::Constant, |p| p.constant(false)),
            "player" => self.clause(SyntaxKind::PlayerStep, |p| {
                p.expect(SyntaxKind::Word, "the name of the player");
                if p.is_word("at") {
                    p.start();
                } else {
                    p.fault("`at`");
                }
            }),
            "expect" if self.nth_is_word(1, "in") && self.nth_is_word(2, "order") => {
                self.clause(SyntaxKind::OrderStep, |p| {
                    p.bump();
                    p.bump();
                    p.path("a signal or an effect");
                    while p.eat(SyntaxKind::Comma) {
                        p.path("a signal or an effect");
                    }
                    p.limit();
                });
            }
            "expect" => self.clause(SyntaxKind::ExpectStep, |p| {
                p.expr();
                if p.is_word("exactly") {
                    p.bump();
                    p.expect(SyntaxKind::Number, "a whole number");
                } else {
                    p.limit();
                }
            }),
            "always" | "never" => self.clause(SyntaxKind::AlwaysStep, Self::expr),
            "wait" if self.nth_is_word(1, "until") => self.clause(SyntaxKind::WaitUntilStep, |p| {
                p.bump();
                p.expr();
                p.limit();
            }),
            "wait" => self.clause(SyntaxKind::WaitStep, |p| {
                p.expect(SyntaxKind::Number, "a span of time, such as 2s");
            }),
            "save" | "reload" | "suspend"
                if !self.second_on_same_line() || self.nth(1) != SyntaxKind::Word =>
            {
                self.node(SyntaxKind::KeepWorldStep, Self::bump);
            }
            "allow" if self.nth_is_word(1, "faults") => self.node(SyntaxKind::AllowFaults, |p| {
                p.bump();
                p.bump();
            }),
            "together" if self.nth(1) == SyntaxKind::LeftBrace => {
                self.clause(SyntaxKind::TogetherStep, |p| {
                    p.bump();
                    p.enter_braces();
                    while !matches!(p.peek(), SyntaxKind::RightBrace | SyntaxKind::End) && !p.at_item() {
                        if !p.eat(SyntaxKind::Semicolon) {
                            p.does("what a player does");
                        }
                    }
                    p.leave_braces();
                    p.expect(SyntaxKind::RightBrace, "`}`");
                });
            }
            _ => self.does(
                "player, expect, always, never, allow faults, wait, save, reload, suspend, together or what a player does",
            ),
        }
    }

    /// What a player does.
    fn does(&mut self, expected: &str) {
        if self.peek() != SyntaxKind::Word || !self.second_on_same_line() {
            return self.put_aside(expected, |_| false);
        }
        self.clause(SyntaxKind::DoStep, |p| {
            p.action();
            while p.eat(SyntaxKind::Comma) {
                p.action();
            }
        });
    }

    /// `at towpath_steps in lockside tags keeper`
    fn start(&mut self) {
        self.bump();
        self.path("an object or a spot to start at");
        if self.eat_word("in") {
            self.expect(SyntaxKind::Word, "the name of a scene");
        }
        if self.is_word("tags") {
            self.tags();
        }
    }

    fn limit(&mut self) {
        if self.eat_word("within") {
            self.expect(SyntaxKind::Number, "a span of time, such as 2s");
        }
    }

    fn action(&mut self) {
        self.node(SyntaxKind::Action, |p| match p.nth_text(0) {
            "walks" => p.verb("to", "an object to walk to"),
            "points" => p.verb("at", "an object to point at"),
            "goes" => p.verb("through", "an object to go through"),
            "answers" => {
                p.bump();
                p.path("an object with a prompt");
            }
            "presses" => {
                p.bump();
                p.expect(SyntaxKind::Word, "the name of a key");
            }
            "holds" => {
                p.bump();
                p.expect(SyntaxKind::Word, "the name of a key");
                // `holds use for 2s` and `holds use 2s`.
                p.eat_word("for");
                p.expect(SyntaxKind::Number, "a span of time, such as 2s");
            }
            "chooses" => {
                p.bump();
                p.expect(SyntaxKind::Word, "an answer");
            }
            "leaves" | "declines" => p.bump(),
            "joins" => {
                p.bump();
                if p.is_word("at") {
                    p.start();
                }
            }
            "waits" => {
                p.bump();
                p.expect(SyntaxKind::Number, "a span of time, such as 2s");
            }
            _ => {
                p.fault(
                    "`walks to`, `goes through`, `presses`, `holds`, `answers`, `chooses`, `declines`, `points at`, \
                     `leaves`, `joins` or `waits`",
                );
                p.skip_until(|p| {
                    matches!(p.peek(), SyntaxKind::RightBrace | SyntaxKind::Comma) || p.on_new_line()
                });
            }
        });
    }

    /// A verb, the word that goes with it, and where.
    fn verb(&mut self, word: &str, what: &str) {
        self.bump();
        if !self.eat_word(word) {
            self.fault(&format!("`{word}`"));
        }
        self.path(what);
    }
}
