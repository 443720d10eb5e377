//! The parser: a lossless tree and a list of faults, always both.

use logos::Logos;
use rowan::{Checkpoint, GreenNodeBuilder, Language};

use super::kind::{Node, Stoi, SyntaxKind};
use crate::{
    diagnostic::{Code, Diagnostic},
    source::Span,
};

/// A tree and what was wrong with its text.
pub(crate) struct Parsed {
    pub(crate) tree: Node,
    pub(crate) errors: Vec<Diagnostic>,
}

/// How deeply parentheses, blocks and operators may nest. Far more than people write; little enough for any stack.
const DEEPEST: u32 = 100;

/// Parses a text. Every byte of it is in the tree.
pub(crate) fn parse(text: &str) -> Parsed {
    let tokens: Vec<_> = SyntaxKind::lexer(text)
        .spanned()
        .map(|(kind, range)| (kind.unwrap_or(SyntaxKind::Unknown), range))
        .collect();
    let mut parser = Parser {
        text,
        tokens,
        at: 0,
        depth: 0,
        builder: GreenNodeBuilder::new(),
        errors: Vec::new(),
        last_fault: None,
    };
    parser.file();
    Parsed { tree: Node::new_root(parser.builder.finish()), errors: parser.errors }
}

pub(super) struct Parser<'t> {
    text: &'t str,
    tokens: Vec<(SyntaxKind, std::ops::Range<usize>)>,
    at: usize,
    depth: u32,
    builder: GreenNodeBuilder<'static>,
    errors: Vec<Diagnostic>,
    /// Where the last fault was reported, so that one place is reported once.
    last_fault: Option<usize>,
}

/// Looking ahead.
impl<'t> Parser<'t> {
    /// The index of the token that comes next, with `skip` more left out; trivia do not count.
    fn index(&self, skip: usize) -> usize {
        let rest = self.tokens.iter().enumerate().skip(self.at);
        let mut solid = rest.filter(|(_, (kind, _))| !kind.is_trivia());
        solid.nth(skip).map_or(self.tokens.len(), |(index, _)| index)
    }

    pub(super) fn nth(&self, skip: usize) -> SyntaxKind {
        self.tokens.get(self.index(skip)).map_or(SyntaxKind::End, |(kind, _)| *kind)
    }

    pub(super) fn peek(&self) -> SyntaxKind {
        self.nth(0)
    }

    fn nth_text(&self, skip: usize) -> &'t str {
        self.tokens.get(self.index(skip)).map_or("", |(_, range)| &self.text[range.clone()])
    }

    /// Whether the next token is that word.
    pub(super) fn is_word(&self, word: &str) -> bool {
        self.peek() == SyntaxKind::Word && self.nth_text(0) == word
    }

    pub(super) fn nth_is_word(&self, skip: usize, word: &str) -> bool {
        self.nth(skip) == SyntaxKind::Word && self.nth_text(skip) == word
    }

    /// Whether the next token stands on a new line.
    pub(super) fn on_new_line(&self) -> bool {
        self.tokens[self.at..self.index(0)].iter().any(|(kind, _)| *kind == SyntaxKind::Newline)
    }

    /// Whether the token after the next stands on the same line as it.
    pub(super) fn second_on_same_line(&self) -> bool {
        let (first, second) = (self.index(0), self.index(1));
        second < self.tokens.len()
            && !self.tokens[first..second].iter().any(|(kind, _)| *kind == SyntaxKind::Newline)
    }
}

/// Building the tree.
impl Parser<'_> {
    fn trivia(&mut self) {
        while let Some((kind, range)) = self.tokens.get(self.at).filter(|(kind, _)| kind.is_trivia()) {
            self.builder.token(Stoi::kind_to_raw(*kind), &self.text[range.clone()]);
            self.at += 1;
        }
    }

    /// Takes the next token, whatever it is.
    pub(super) fn bump(&mut self) {
        self.trivia();
        if let Some((kind, range)) = self.tokens.get(self.at) {
            self.builder.token(Stoi::kind_to_raw(*kind), &self.text[range.clone()]);
            self.at += 1;
        }
    }

    pub(super) fn open(&mut self, kind: SyntaxKind) {
        self.trivia();
        self.builder.start_node(Stoi::kind_to_raw(kind));
    }

    pub(super) fn close(&mut self) {
        self.builder.finish_node();
    }

    fn mark(&mut self) -> Checkpoint {
        self.trivia();
        self.builder.checkpoint()
    }

    fn open_at(&mut self, mark: Checkpoint, kind: SyntaxKind) {
        self.builder.start_node_at(mark, Stoi::kind_to_raw(kind));
    }

    /// Takes the next token if it is of that kind.
    pub(super) fn eat(&mut self, kind: SyntaxKind) -> bool {
        let here = self.peek() == kind;
        if here {
            self.bump();
        }
        here
    }

    pub(super) fn eat_word(&mut self, word: &str) -> bool {
        let here = self.is_word(word);
        if here {
            self.bump();
        }
        here
    }

    /// Takes the next token if it is of that kind, and reports a fault if it is not.
    pub(super) fn expect(&mut self, kind: SyntaxKind, what: &str) -> bool {
        // A name that is missing at the end of a line is not the word the next item begins with.
        let here = !(kind == SyntaxKind::Word && self.at_item()) && self.eat(kind);
        if !here {
            self.fault(what);
        }
        here
    }

    /// Reports that something else was expected here.
    pub(super) fn fault(&mut self, expected: &str) {
        let (found, span) = if let Some((_, range)) = self.tokens.get(self.index(0)) {
            let text = &self.text[range.clone()];
            let shown: String = text.chars().take(40).collect();
            let cut = if shown.len() < text.len() { "…" } else { "" };
            (format!("`{shown}{cut}`"), Span { start: range.start, end: range.end })
        } else {
            let end = self.text.trim_end().len();
            ("the end of the file".to_owned(), Span { start: end, end })
        };
        if self.last_fault == Some(span.start) {
            return;
        }
        self.last_fault = Some(span.start);
        let message = format!("expected {expected}, found {found}");
        self.errors.push(Diagnostic::error(Code::Syntax, message).at(span, format!("expected {expected}")));
    }

    /// Puts what cannot be read aside, up to where `stop` says that reading can go on.
    pub(super) fn skip_until(&mut self, stop: impl Fn(&Self) -> bool) {
        if self.peek() == SyntaxKind::End || stop(self) {
            return;
        }
        self.open(SyntaxKind::Bad);
        while self.peek() != SyntaxKind::End && !stop(self) {
            self.bump();
        }
        self.close();
    }

    /// Reports a fault and puts the next token aside, with what follows it on its line, up to a closing brace. It
    /// always takes at least one token, so that nothing is looked at for ever.
    pub(super) fn put_aside(&mut self, expected: &str, stop: impl Fn(&Self) -> bool) {
        self.fault(expected);
        self.open(SyntaxKind::Bad);
        self.bump();
        self.close();
        self.skip_until(|p| p.peek() == SyntaxKind::RightBrace || p.on_new_line() || stop(p));
    }

    /// Goes one level deeper, unless that is too deep: then the fault is reported and the rest put aside.
    pub(super) fn deeper(&mut self, inner: impl FnOnce(&mut Self)) {
        if self.depth >= DEEPEST {
            self.fault(&format!("at most {DEEPEST} levels of nesting"));
            self.skip_until(Self::at_item);
            return;
        }
        self.depth += 1;
        inner(self);
        self.depth -= 1;
    }
}

/// The words that begin an item. On a new line they end whatever was broken before them.
const ITEMS: [&str; 8] = ["scene", "var", "signal", "effect", "object", "on", "never", "playtest"];

/// Items.
impl Parser<'_> {
    pub(super) fn at_item(&self) -> bool {
        self.peek() == SyntaxKind::Word
            && ITEMS.contains(&self.nth_text(0))
            && (self.at == 0 || self.on_new_line())
    }

    fn file(&mut self) {
        self.builder.start_node(Stoi::kind_to_raw(SyntaxKind::File));
        while self.peek() != SyntaxKind::End {
            let before = self.at;
            self.item();
            if !self.at_item() && self.peek() != SyntaxKind::End {
                if self.at == before || !self.on_new_line() {
                    self.fault("the end of the line");
                }
                self.skip_until(Self::at_item);
            }
        }
        self.trivia();
        self.close();
    }

    fn item(&mut self) {
        match self.nth_text(0) {
            "scene" => self.node(SyntaxKind::Scene, |p| {
                p.bump();
                p.expect(SyntaxKind::Word, "the name of the scene");
            }),
            "var" => self.node(SyntaxKind::Var, Self::var),
            "signal" => self.node(SyntaxKind::Signal, |p| p.declaration("the name of the signal")),
            "effect" => self.node(SyntaxKind::Effect, |p| p.declaration("the name of the effect")),
            "object" => self.node(SyntaxKind::Object, Self::object),
            "on" => self.node(SyntaxKind::Wire, Self::wire),
            "never" => self.node(SyntaxKind::Rule, |p| {
                p.bump();
                p.expr();
            }),
            "playtest" => self.node(SyntaxKind::Playtest, Self::playtest),
            _ => self.fault("scene, var, signal, effect, object, on, never or playtest"),
        }
    }

    pub(super) fn node(&mut self, kind: SyntaxKind, inner: impl FnOnce(&mut Self)) {
        self.open(kind);
        inner(self);
        self.close();
    }

    fn var(&mut self) {
        self.bump();
        self.expect(SyntaxKind::Word, "the name of the variable");
        self.expect(SyntaxKind::Colon, "`:` and the type of the variable");
        self.expect(SyntaxKind::Word, "a type");
        if self.expect(SyntaxKind::Equals, "`=` and its first value") {
            self.expr();
        }
    }

    fn declaration(&mut self, what: &str) {
        self.bump();
        self.expect(SyntaxKind::Word, what);
        if self.peek() == SyntaxKind::LeftParen {
            self.node(SyntaxKind::Fields, |p| {
                p.list(|p| {
                    p.node(SyntaxKind::Field, |p| {
                        p.expect(SyntaxKind::Word, "the name of a field");
                        p.expect(SyntaxKind::Colon, "`:` and the type of the field");
                        p.expect(SyntaxKind::Word, "a type");
                    });
                });
            });
        }
    }

    /// `(`, things with commas between them, `)`.
    fn list(&mut self, mut thing: impl FnMut(&mut Self)) {
        self.bump();
        while !matches!(self.peek(), SyntaxKind::RightParen | SyntaxKind::End) && !self.at_item() {
            let before = self.at;
            thing(self);
            if !self.eat(SyntaxKind::Comma) && self.peek() != SyntaxKind::RightParen {
                self.fault("`,` or `)`");
                if self.at == before || self.on_new_line() {
                    break;
                }
            }
        }
        self.expect(SyntaxKind::RightParen, "`)`");
    }

    fn object(&mut self) {
        self.bump();
        self.expect(SyntaxKind::Word, "the name of the object");
        loop {
            if self.is_word("at") {
                self.node(SyntaxKind::At, |p| {
                    p.bump();
                    p.expr();
                });
            } else if self.is_word("tags") {
                self.tags();
            } else {
                break;
            }
        }
        if self.eat(SyntaxKind::LeftBrace) {
            while !matches!(self.peek(), SyntaxKind::RightBrace | SyntaxKind::End) {
                if self.is_word("on") {
                    self.node(SyntaxKind::Wire, Self::wire);
                } else if self.peek() == SyntaxKind::Word {
                    if self.at_item() {
                        break;
                    }
                    self.node(SyntaxKind::Part, Self::part);
                } else if !self.eat(SyntaxKind::Semicolon) {
                    self.put_aside("a part, a wire or `}`", |_| false);
                }
            }
            self.expect(SyntaxKind::RightBrace, "`}`");
        }
    }

    pub(super) fn tags(&mut self) {
        self.node(SyntaxKind::Tags, |p| {
            p.bump();
            p.expect(SyntaxKind::Word, "a tag");
            while p.peek() == SyntaxKind::Comma && p.nth(1) == SyntaxKind::Word {
                p.bump();
                p.bump();
            }
        });
    }

    /// A kind of part and its settings: in braces, or to the end of the line.
    fn part(&mut self) {
        self.bump();
        let braces = self.eat(SyntaxKind::LeftBrace);
        loop {
            match self.peek() {
                SyntaxKind::RightBrace | SyntaxKind::End => break,
                SyntaxKind::Semicolon if !braces => break,
                _ if !braces && self.on_new_line() => break,
                SyntaxKind::Comma | SyntaxKind::Semicolon | SyntaxKind::Word => self.bump(),
                SyntaxKind::Number | SyntaxKind::Text | SyntaxKind::LeftParen | SyntaxKind::Minus => {
                    self.primary();
                }
                _ => {
                    self.put_aside("a setting", |_| false);
                }
            }
        }
        if braces {
            self.expect(SyntaxKind::RightBrace, "`}`");
        }
    }

    fn wire(&mut self) {
        self.bump();
        self.path("the signal to listen to");
        loop {
            match self.nth_text(0) {
                "by" => self.node(SyntaxKind::Filter, |p| {
                    p.bump();
                    p.expect(SyntaxKind::Word, "a tag of whoever may cause it");
                    while p.eat_word("or") {
                        p.expect(SyntaxKind::Word, "a tag of whoever may cause it");
                    }
                }),
                "when" => self.node(SyntaxKind::Guard, |p| {
                    p.bump();
                    p.expr();
                }),
                "order" => self.node(SyntaxKind::Order, |p| {
                    p.bump();
                    p.eat(SyntaxKind::Minus);
                    p.expect(SyntaxKind::Number, "a whole number");
                }),
                "cooldown" => self.node(SyntaxKind::Cooldown, |p| {
                    p.bump();
                    p.expect(SyntaxKind::Number, "a span of time, such as 2s");
                    if p.is_word("per") && p.nth_is_word(1, "who") {
                        p.bump();
                        p.bump();
                    }
                }),
                "once" => self.node(SyntaxKind::Once, Self::bump),
                "," => self.bump(),
                _ => break,
            }
        }
        if self.peek() == SyntaxKind::LeftBrace {
            self.block();
        } else {
            self.fault("by, when, order, cooldown, once or `{`");
        }
    }

    /// A name, or two joined by a dot.
    pub(super) fn path(&mut self, what: &str) {
        self.node(SyntaxKind::Path, |p| {
            if p.expect(SyntaxKind::Word, what) && p.eat(SyntaxKind::Dot) {
                p.expect(SyntaxKind::Word, "the name of one of its signals");
            }
        });
    }
}

/// Expressions.
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
                "is" | "inside" => (4, 1),
                "not" if self.nth_is_word(1, "inside") => (4, 2),
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

    fn binary(&mut self, loosest: u8) {
        let mark = self.mark();
        if self.is_word("not") && loosest <= 3 {
            self.open(SyntaxKind::Unary);
            self.bump();
            self.deeper(|p| p.binary(4));
            self.close();
        } else {
            self.primary();
        }
        let mut links = 0;
        while let Some((tightness, tokens)) = self.operator().filter(|(tightness, _)| *tightness >= loosest) {
            // A long chain is a deep tree too.
            links += 1;
            if links > DEEPEST {
                self.fault(&format!("at most {DEEPEST} operators in a row"));
                self.skip_until(Self::at_item);
                return;
            }
            self.open_at(mark, SyntaxKind::Binary);
            (0..tokens).for_each(|_| self.bump());
            self.deeper(|p| p.binary(tightness + 1));
            self.close();
        }
    }

    pub(super) fn primary(&mut self) {
        match self.peek() {
            SyntaxKind::Number | SyntaxKind::Text => self.node(SyntaxKind::Literal, Self::bump),
            SyntaxKind::Minus => self.node(SyntaxKind::Unary, |p| {
                p.bump();
                p.deeper(Self::primary);
            }),
            SyntaxKind::Word => self.path("a value"),
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

    /// `(` values `)`
    pub(super) fn args(&mut self) {
        if self.peek() == SyntaxKind::LeftParen {
            self.node(SyntaxKind::Args, |p| p.list(Self::expr));
        }
    }
}
