//! Statements: what a reaction does.

use super::{kind::SyntaxKind, parser::Parser};

impl Parser<'_> {
    /// `{` statements `}`
    pub(super) fn block(&mut self) {
        self.deeper(|p| {
            p.node(SyntaxKind::Block, |p| {
                p.expect(SyntaxKind::LeftBrace, "`{`");
                p.enter_braces();
                while !matches!(p.peek(), SyntaxKind::RightBrace | SyntaxKind::End) {
                    if p.eat(SyntaxKind::Semicolon) {
                        continue;
                    }
                    if p.at_item() {
                        break;
                    }
                    p.statement();
                }
                p.leave_braces();
                p.expect(SyntaxKind::RightBrace, "`}`");
            });
        });
    }

    pub(super) fn statement(&mut self) {
        if self.peek() != SyntaxKind::Word {
            return self.no_statement();
        }
        let sets = |p: &Self, at: usize| {
            matches!(
                p.nth(at),
                SyntaxKind::Equals
                    | SyntaxKind::PlusEquals
                    | SyntaxKind::MinusEquals
                    | SyntaxKind::TimesEquals
                    | SyntaxKind::DivideEquals
            )
        };
        // `name =`, `name.name =` and `name of …` set something, whatever the name is.
        let dotted = (0..).step_by(2).find(|at| self.nth(at + 1) != SyntaxKind::Dot).unwrap_or(0);
        if sets(self, dotted + 1) || self.nth_is_word(dotted + 1, "of") {
            return self.node(SyntaxKind::SetStep, Self::set_step);
        }
        match self.nth_text(0) {
            "if" => self.node(SyntaxKind::IfStep, Self::if_step),
            "wait" if self.nth_is_word(1, "until") => self.node(SyntaxKind::UntilStep, Self::until_step),
            "wait" => self.clause(SyntaxKind::WaitStep, Self::expr),
            "repeat" => self.clause(SyntaxKind::RepeatStep, |p| {
                p.eat_word("while");
                p.expr();
                p.block();
            }),
            "for" => self.clause(SyntaxKind::ForStep, Self::for_step),
            "emit" => self.saying(SyntaxKind::EmitStep, "the signal to emit"),
            "perform" => self.saying(SyntaxKind::PerformStep, "the effect to perform"),
            "on" if self.nth(1) == SyntaxKind::Word => self.deeper(|p| {
                p.node(SyntaxKind::Wire, Self::wire);
            }),
            "do" => self.clause(SyntaxKind::RoutineStep, |p| {
                p.path("the routine to run");
                p.args();
            }),
            "spawn" => self.clause(SyntaxKind::SpawnStep, |p| {
                p.expect(SyntaxKind::Word, "the name of a mould");
                if p.is_word("at") {
                    p.clause(SyntaxKind::At, Self::expr);
                } else {
                    p.fault("`at` and a place");
                }
                if p.eat_word("as") {
                    p.expect(SyntaxKind::Word, "a name for it");
                }
            }),
            "enable" | "disable" | "destroy" => self.clause(SyntaxKind::SwitchStep, Self::objects),
            "send" => self.clause(SyntaxKind::SendStep, |p| {
                p.objects();
                if p.eat_word("to") {
                    p.target("a spot");
                } else {
                    p.fault("`to` and a spot");
                }
                if p.eat_word("in") {
                    p.expect(SyntaxKind::Word, "the name of a scene");
                }
            }),
            "tag" | "untag" => self.clause(SyntaxKind::TagStep, |p| {
                p.objects();
                if p.eat_word("as") {
                    p.expect(SyntaxKind::Word, "a tag");
                } else {
                    p.fault("`as` and a tag");
                }
            }),
            "tween" => self.node(SyntaxKind::TweenStep, Self::tween_step),
            "var" => self.clause(SyntaxKind::KeepStep, |p| {
                p.expect(SyntaxKind::Word, "a name");
                if p.expect(SyntaxKind::Equals, "`=` and a value") {
                    p.expr();
                }
            }),
            "stop" => self.node(SyntaxKind::StopStep, Self::bump),
            "set" if self.nth(1) == SyntaxKind::Word => self.clause(SyntaxKind::SetStep, Self::set_step),
            _ if self.second_on_same_line() && self.begins_objects() => {
                self.node(SyntaxKind::CommandStep, |p| {
                    p.bump();
                    p.objects();
                    p.said();
                });
            }
            _ => self.no_statement(),
        }
    }

    /// Whether what follows the word of a command is whom it is for: a word, or an expression in parentheses. Without a
    /// blank before those the word is no command.
    fn begins_objects(&self) -> bool {
        let next = self.nth(1);
        next == SyntaxKind::Word || next == SyntaxKind::LeftParen && !self.second_touches()
    }

    /// What is said with a command, to the end of the line: `to spate over 6s, ease smooth`.
    fn said(&mut self) {
        loop {
            let follows = usize::from(self.peek() == SyntaxKind::Comma);
            let is_word = self.nth(follows) == SyntaxKind::Word && self.nth_on_same_line(follows);
            if !is_word || self.nth_is_word(follows, "for") && self.nth_is_word(follows + 1, "each") {
                return;
            }
            self.eat(SyntaxKind::Comma);
            self.node(SyntaxKind::Arg, |p| {
                p.bump();
                if p.on_new_line() || matches!(p.peek(), SyntaxKind::RightBrace | SyntaxKind::Semicolon) {
                    p.fault("a value");
                } else {
                    p.expr();
                }
            });
        }
    }

    /// `emit rung(2) for ada`: a name, values, and whom it goes back to.
    fn saying(&mut self, kind: SyntaxKind, what: &str) {
        self.clause(kind, |p| {
            p.path(what);
            p.args();
            if p.is_word("for") && !p.nth_is_word(1, "each") {
                p.clause(SyntaxKind::Behalf, Self::primary);
            }
        });
    }

    fn no_statement(&mut self) {
        let expected = "a statement, such as `open upper_gate`, `wait 2s` or `level = 1`";
        self.put_aside(expected, |p| p.peek() == SyntaxKind::Semicolon);
    }

    /// An object, or every one of some.
    fn objects(&mut self) {
        if self.is_word("every") || self.is_word("everyone") {
            self.among();
        } else {
            self.primary();
        }
    }

    /// A variable; `level`, `lamp.lit`, `coins of who`, `errand of everyone`.
    fn target(&mut self, what: &str) {
        let mark = self.mark();
        self.path(what);
        if self.is_word("of") {
            self.open_at(mark, SyntaxKind::Of);
            self.bump();
            self.deeper(Self::primary);
            self.close();
        }
    }

    fn set_step(&mut self) {
        self.target("a variable");
        if matches!(
            self.peek(),
            SyntaxKind::PlusEquals
                | SyntaxKind::MinusEquals
                | SyntaxKind::TimesEquals
                | SyntaxKind::DivideEquals
        ) {
            self.bump();
            self.expr();
        } else if self.expect(SyntaxKind::Equals, "`=` and a value") {
            self.expr();
        }
    }

    fn tween_step(&mut self) {
        self.bump();
        self.target("a variable");
        if self.eat_word("to") {
            self.expr();
        } else {
            self.fault("`to` and a value");
        }
        if self.eat_word("over") {
            self.expr();
        } else {
            self.fault("`over` and a span of time");
        }
        if self.eat_word("ease") {
            self.expect(SyntaxKind::Word, "steady, smooth, soft_start or soft_end");
        }
    }

    fn until_step(&mut self) {
        self.bump();
        self.bump();
        self.expr();
        if self.is_word("within") {
            self.clause(SyntaxKind::Within, Self::expr);
            self.else_branch();
        }
    }

    fn for_step(&mut self) {
        if !self.eat_word("each") {
            self.fault("`each`");
        }
        self.expect(SyntaxKind::Word, "a name for the one whose turn it is");
        let cells = self.eat(SyntaxKind::Comma);
        if cells {
            self.expect(SyntaxKind::Word, "a name for the row of the cell");
        }
        if !self.eat_word("in") {
            self.fault("`in`");
        }
        if cells {
            self.cells();
        } else {
            self.among();
        }
        self.block();
    }

    fn if_step(&mut self) {
        self.bump();
        self.expr();
        self.block();
        self.else_branch();
    }

    fn else_branch(&mut self) {
        if self.is_word("else") {
            self.clause(SyntaxKind::Else, |p| {
                if p.is_word("if") {
                    p.deeper(|p| p.node(SyntaxKind::IfStep, Self::if_step));
                } else {
                    p.block();
                }
            });
        }
    }
}
