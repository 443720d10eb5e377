//! Playtests: scripted players and what is expected.

use super::{kind::SyntaxKind, parser::Parser};

/// What players do.
const ACTIONS: [&str; 13] = [
    "walks", "points", "goes", "answers", "presses", "releases", "holds", "chooses", "declines", "leaves",
    "joins", "waits", "sees",
];

/// The words of statements that are done at once, and that a playtest may say.
const AT_ONCE: [&str; 9] = ["emit", "set", "enable", "disable", "destroy", "spawn", "send", "tag", "untag"];

impl Parser<'_> {
    pub(super) fn playtest(&mut self) {
        self.bump();
        self.expect(SyntaxKind::Text, "the name of the playtest, in quotes");
        if self.is_word("linked") {
            self.node(SyntaxKind::Linked, Self::bump);
        }
        if self.is_word("seeds") {
            self.node(SyntaxKind::Seeds, Self::seeds);
        }
        self.lines(Self::playtest_step);
    }

    /// Lines in braces.
    fn lines(&mut self, line: impl Fn(&mut Self)) {
        if !self.expect(SyntaxKind::LeftBrace, "`{`") {
            return;
        }
        self.enter_braces();
        while !matches!(self.peek(), SyntaxKind::RightBrace | SyntaxKind::End) && !self.at_item() {
            if !self.eat(SyntaxKind::Semicolon) {
                line(self);
            }
        }
        self.leave_braces();
        self.expect(SyntaxKind::RightBrace, "`}`");
    }

    fn playtest_step(&mut self) {
        match self.nth_text(0) {
            _ if self.peek() == SyntaxKind::LeftBrace => self.block(),
            _ if self.does_something() => self.does(""),
            "cases" if self.nth(1) == SyntaxKind::LeftParen => self.clause(SyntaxKind::Cases, Self::cases),
            word if AT_ONCE.contains(&word) && self.second_on_same_line() => self.statement(),
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
            "expect" => self.clause(SyntaxKind::ExpectStep, Self::expected),
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
                self.clause(SyntaxKind::TogetherStep, |p| p.lines(|p| p.does("what a player does")));
            }
            _ => self.does(
                "player, cases, expect, always, never, allow faults, wait, emit, set, save, reload, suspend, together, statements in braces or what a player does",
            ),
        }
    }

    /// What is expected, and how often or how soon.
    fn expected(&mut self) {
        if self.call_of_path() {
            self.path("a signal");
            self.args();
        } else {
            self.expr();
        }
        if self.is_word("exactly") {
            self.bump();
            self.expect(SyntaxKind::Number, "a whole number");
        } else {
            self.limit();
        }
    }

    /// A dotted name with values, such as `pad.entered(walked)`. A name with values and no dot is read as a function.
    fn call_of_path(&self) -> bool {
        let end = (0..).step_by(2).find(|at| self.nth(at + 1) != SyntaxKind::Dot).unwrap_or(0);
        end > 0 && self.nth(end + 1) == SyntaxKind::LeftParen && self.nth_on_same_line(end + 1)
    }

    /// `(paid, opens) { "too little" (2, false) }`
    fn cases(&mut self) {
        self.list(|p| {
            p.expect(SyntaxKind::Word, "the name of a column");
        });
        self.lines(|p| {
            if !matches!(p.peek(), SyntaxKind::Text | SyntaxKind::LeftParen) {
                return p.put_aside("a case, such as `\"too little\" (2, false)`", |_| false);
            }
            p.node(SyntaxKind::Case, |p| {
                p.eat(SyntaxKind::Text);
                if p.peek() == SyntaxKind::LeftParen {
                    p.args();
                } else {
                    p.fault("the values of the case in parentheses");
                }
            });
        });
    }

    /// Whether a player's name and what they do come next.
    fn does_something(&self) -> bool {
        // A signal may be called as what a player does: `expect walks > 3`.
        let other = ["expect", "always", "never", "wait"].contains(&self.nth_text(0))
            || AT_ONCE.contains(&self.nth_text(0));
        let acts = self.nth(1) == SyntaxKind::Word && ACTIONS.contains(&self.nth_text(1));
        acts && !other && self.second_on_same_line()
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
        if self.nth(0) == SyntaxKind::LeftParen {
            self.deeper(|p| p.binary(5));
        } else {
            self.path("an object, a spot or a place to start at");
        }
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
            "walks" => p.verb("to"),
            "points" => {
                p.verb("at");
                if p.is_word("at") {
                    p.clause(SyntaxKind::At, Self::expr);
                }
                if p.eat_word("with") {
                    p.expect(SyntaxKind::Word, "the name of a button");
                }
            }
            "goes" => p.verb("through"),
            "answers" => {
                p.bump();
                p.path("an object with a prompt");
            }
            "presses" | "releases" => {
                p.bump();
                p.expect(SyntaxKind::Word, "the name of a key");
            }
            "holds" => {
                p.bump();
                p.expect(SyntaxKind::Word, "the name of a key");
                // `holds use for 2s` and `holds use 2s`; `holds use` until it is released.
                if p.eat_word("for") || p.peek() == SyntaxKind::Number && !p.on_new_line() {
                    p.expect(SyntaxKind::Number, "a span of time, such as 2s");
                }
            }
            "chooses" => {
                p.bump();
                p.expect(SyntaxKind::Word, "an answer");
            }
            "sees" => p.clause(SyntaxKind::ExpectStep, Self::expected),
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
                    "`walks to`, `goes through`, `presses`, `holds`, `releases`, `answers`, `chooses`, `declines`, `points at`, \
                     `sees`, `leaves`, `joins` or `waits`",
                );
                p.skip_until(|p| {
                    matches!(p.peek(), SyntaxKind::RightBrace | SyntaxKind::Comma) || p.on_new_line()
                });
            }
        });
    }

    /// A verb, the word that goes with it, and where.
    fn verb(&mut self, word: &str) {
        self.bump();
        if !self.eat_word(word) {
            self.fault(&format!("`{word}`"));
        }
        self.deeper(|p| p.binary(5));
    }
}
