//! Statements: what a reaction does.

use super::{kind::SyntaxKind, parser::Parser};

impl Parser<'_> {
    /// `{` statements `}`
    pub(super) fn block(&mut self) {
        self.deeper(|p| {
            p.node(SyntaxKind::Block, |p| {
                p.expect(SyntaxKind::LeftBrace, "`{`");
                while !matches!(p.peek(), SyntaxKind::RightBrace | SyntaxKind::End) {
                    if p.eat(SyntaxKind::Semicolon) {
                        continue;
                    }
                    if p.at_item() {
                        break;
                    }
                    p.statement();
                }
                p.expect(SyntaxKind::RightBrace, "`}`");
            });
        });
    }

    fn statement(&mut self) {
        if self.peek() != SyntaxKind::Word {
            return self.no_statement();
        }
        if self.is_word("if") {
            self.node(SyntaxKind::IfStep, Self::if_step);
        } else if self.is_word("wait") {
            self.node(SyntaxKind::WaitStep, |p| {
                p.bump();
                p.expect(SyntaxKind::Number, "a span of time, such as 2s");
            });
        } else if self.is_word("emit") {
            self.node(SyntaxKind::EmitStep, |p| {
                p.bump();
                p.path("the signal to emit");
                p.args();
            });
        } else if self.is_word("perform") {
            self.node(SyntaxKind::PerformStep, |p| {
                p.bump();
                p.path("the effect to perform");
                p.args();
            });
        } else if self.is_word("enable") || self.is_word("disable") {
            self.node(SyntaxKind::SwitchStep, |p| {
                p.bump();
                p.path("an object");
            });
        } else if matches!(self.nth(1), SyntaxKind::Equals | SyntaxKind::PlusEquals | SyntaxKind::MinusEquals)
        {
            self.node(SyntaxKind::SetStep, Self::set_step);
        } else if self.is_word("set") && self.nth(1) == SyntaxKind::Word {
            self.node(SyntaxKind::SetStep, |p| {
                p.bump();
                p.set_step();
            });
        } else if self.nth(1) == SyntaxKind::Word && self.second_on_same_line() {
            self.node(SyntaxKind::CommandStep, |p| {
                p.bump();
                p.path("an object");
            });
        } else {
            self.no_statement();
        }
    }

    fn no_statement(&mut self) {
        let expected = "a statement, such as `open upper_gate`, `wait 2s` or `level = 1`";
        self.put_aside(expected, |p| p.peek() == SyntaxKind::Semicolon);
    }

    fn set_step(&mut self) {
        self.path("a variable");
        if matches!(self.peek(), SyntaxKind::PlusEquals | SyntaxKind::MinusEquals) {
            self.bump();
            self.expr();
        } else if self.expect(SyntaxKind::Equals, "`=` and a value") {
            self.expr();
        }
    }

    fn if_step(&mut self) {
        self.bump();
        self.expr();
        self.block();
        if self.is_word("else") {
            self.node(SyntaxKind::Else, |p| {
                p.bump();
                if p.is_word("if") {
                    p.deeper(|p| p.node(SyntaxKind::IfStep, Self::if_step));
                } else {
                    p.block();
                }
            });
        }
    }
}
