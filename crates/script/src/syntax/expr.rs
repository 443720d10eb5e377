//! Expressions.

use super::{
    kind::SyntaxKind,
    parser::{DEEPEST, Parser},
};

/// How high the tree of an expression may become: it is walked by recursion.
const HIGHEST: u32 = 2 * DEEPEST;

/// Words that stand between two values or after one: what comes before them is a name.
const INFIX: [&str; 19] = [
    "or", "and", "is", "inside", "tagged", "carries", "in", "not", "of", "about", "for", "to", "over",
    "ease", "within", "exactly", "where", "at", "with",
];

impl Parser<'_> {
    pub(super) fn expr(&mut self) {
        self.deeper(|p| p.binary(1));
    }

    /// The tightness of the operator that comes next, and how many tokens it has.
    fn operator(&self) -> Option<(u8, usize)> {
        Some(match self.peek() {
            SyntaxKind::Word => match self.nth_text(0) {
                "or" => (1, 1),
                "and" => (2, 1),
                "is" if self.nth_is_word(1, "not") => (4, 2),
                "is" | "inside" | "tagged" | "carries" | "in" => (4, 1),
                "not"
                    if ["inside", "tagged", "carries", "in"].iter().any(|word| self.nth_is_word(1, word)) =>
                {
                    (4, 2)
                }
                _ => return None,
            },
            SyntaxKind::Same
            | SyntaxKind::NotSame
            | SyntaxKind::Less
            | SyntaxKind::AtMost
            | SyntaxKind::Greater
            | SyntaxKind::AtLeast => (4, 1),
            SyntaxKind::Plus | SyntaxKind::Minus => (5, 1),
            SyntaxKind::Star | SyntaxKind::Slash => (6, 1),
            _ => return None,
        })
    }

    pub(super) fn binary(&mut self, loosest: u8) {
        let mark = self.mark();
        let around = std::mem::take(&mut self.height);
        if self.is_word("not") && loosest <= 3 {
            self.open(SyntaxKind::Unary);
            self.bump();
            self.deeper(|p| p.binary(4));
            self.close();
        } else {
            self.primary();
        }
        let mut links = 0;
        let mut height = self.height;
        while let Some((tightness, tokens)) = self.operator().filter(|(tightness, _)| *tightness >= loosest) {
            // A long chain is a deep tree too.
            links += 1;
            if links > DEEPEST {
                self.fault(&format!("at most {DEEPEST} operators in a row"));
                self.skip_until(Self::at_item);
                return;
            }
            if height > HIGHEST {
                self.fault(&format!("at most {HIGHEST} operators within each other"));
                self.skip_until(Self::at_item);
                return;
            }
            self.height = 0;
            self.open_at(mark, SyntaxKind::Binary);
            let inside = self.is_word("inside") || self.nth_is_word(1, "inside");
            (0..tokens).for_each(|_| self.bump());
            self.deeper(|p| p.binary(tightness + 1));
            if inside && self.is_word("for") && !self.nth_is_word(1, "each") {
                self.bump();
                self.deeper(|p| p.binary(5));
            }
            height = height.max(self.height) + 1;
            self.close();
        }
        self.height = around.max(height + 1);
    }

    /// A value, with `of` or `about` after it.
    pub(super) fn primary(&mut self) {
        let mark = self.mark();
        self.atom();
        if self.is_word("of") && !self.place {
            self.open_at(mark, SyntaxKind::Of);
            self.bump();
            self.deeper(Self::primary);
            self.close();
        } else if self.is_word("about") {
            self.open_at(mark, SyntaxKind::About);
            self.bump();
            self.deeper(Self::primary);
            self.close();
        }
    }

    /// A value with nothing after it.
    pub(super) fn atom(&mut self) {
        match self.peek() {
            SyntaxKind::Number | SyntaxKind::Text | SyntaxKind::Colour => {
                self.node(SyntaxKind::Literal, Self::bump);
            }
            SyntaxKind::Minus => self.clause(SyntaxKind::Unary, |p| p.deeper(Self::primary)),
            SyntaxKind::Word => self.word(),
            SyntaxKind::LeftParen => {
                let mark = self.mark();
                self.bump();
                self.expr();
                if self.peek() == SyntaxKind::Comma {
                    self.open_at(mark, SyntaxKind::Vector);
                    while self.eat(SyntaxKind::Comma) {
                        self.expr();
                    }
                } else {
                    self.open_at(mark, SyntaxKind::Paren);
                }
                self.expect(SyntaxKind::RightParen, "`)`");
                self.close();
            }
            _ => self.fault("a value"),
        }
    }

    fn word(&mut self) {
        let group_follows = self.nth(1) == SyntaxKind::Word && self.second_on_same_line();
        match self.nth_text(0) {
            "any" | "no" if group_follows => self.clause(SyntaxKind::Quantifier, Self::among),
            // The group takes its own `every`.
            "every" if group_follows => self.node(SyntaxKind::Quantifier, Self::among),
            "nearest" if group_follows => self.clause(SyntaxKind::Nearest, |p| {
                // `nearest gate is open` asks for the state of that one gate.
                p.group(false);
                if p.eat_word("to") {
                    p.deeper(Self::primary);
                }
            }),
            "last" if group_follows && !INFIX.contains(&self.nth_text(1)) => {
                self.clause(SyntaxKind::Last, |p| p.path("a signal or an effect, and what it carries"));
            }
            "count" if self.nth(1) == SyntaxKind::LeftParen => self.clause(SyntaxKind::Count, |p| {
                p.bump();
                p.among();
                p.expect(SyntaxKind::RightParen, "`)`");
            }),
            _ if self.nth(1) == SyntaxKind::LeftParen && self.second_touches() => {
                self.clause(SyntaxKind::Call, Parser::args);
            }
            _ => self.path("a value"),
        }
    }

    /// Some of the objects there are: `every gate inside lock is open`, `player where coins of it > 3`.
    pub(super) fn among(&mut self) {
        self.group(true);
    }

    fn group(&mut self, may_be_in_state: bool) {
        self.node(SyntaxKind::Among, |p| {
            p.eat_word("every");
            p.expect(SyntaxKind::Word, "a tag, or `everyone`");
            if p.is_word("inside") {
                p.clause(SyntaxKind::InsideClause, |p| p.path("an object with a zone"));
            }
            if may_be_in_state && p.is_word("is") {
                p.clause(SyntaxKind::IsClause, |p| {
                    p.eat_word("not");
                    p.expect(SyntaxKind::Word, "a state, such as `open`");
                });
            }
            if p.is_word("where") {
                p.clause(SyntaxKind::WhereClause, |p| p.deeper(|p| p.binary(4)));
            }
        });
    }

    /// `neighbours(garden, 3, 4)`
    pub(super) fn cells(&mut self) {
        if self.nth(0) == SyntaxKind::Word && self.nth(1) == SyntaxKind::LeftParen {
            self.clause(SyntaxKind::Call, Self::args);
        } else {
            self.fault("`neighbours(…)` or `range(…)`, since two names stand for a column and a row");
            self.among();
        }
    }

    /// `(` values `)`
    pub(super) fn args(&mut self) {
        if self.peek() == SyntaxKind::LeftParen {
            self.node(SyntaxKind::Args, |p| p.list(Self::expr));
        }
    }
}
