//! The parser: a lossless tree and a list of faults, always both.

use logos::Logos;
use rowan::{Checkpoint, GreenNodeBuilder, Language};

use super::{
    hints::Found,
    kind::{Node, Stoi, SyntaxKind},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    source::Span,
};

/// A tree and what was wrong with its text.
pub(crate) struct Parsed {
    pub(crate) tree: Node,
    pub(crate) errors: Vec<Diagnostic>,
    /// How many braces are opened and not closed.
    pub(crate) open: i64,
}

/// How deeply parentheses, blocks and operators may nest. Far more than people write; little enough for any stack.
pub(super) const DEEPEST: u32 = 100;

/// Parses a text, which is the file of that number. Every byte of it is in the tree.
pub(crate) fn parse(text: &str, file: u32) -> Parsed {
    let mut parser = Parser::new(text, file, 0);
    parser.file();
    parser.end()
}

/// Parses some items of a text, which begin that far into the file. `lacks_a_brace`: more braces are opened than closed in the whole text.
pub(crate) fn parse_items(text: &str, file: u32, begins: usize, lacks_a_brace: bool) -> Parsed {
    let mut parser = Parser { lacks_a_brace, ..Parser::new(text, file, begins) };
    parser.file();
    parser.end()
}

/// How many braces a text opens and does not close.
pub(crate) fn open_braces(text: &str) -> i64 {
    SyntaxKind::lexer(text).map(|kind| kind.map_or(0, opens)).sum()
}

fn opens(kind: SyntaxKind) -> i64 {
    match kind {
        SyntaxKind::LeftBrace => 1,
        SyntaxKind::RightBrace => -1,
        _ => 0,
    }
}

/// Parses a value that stands in a text, of which it begins that far into the file.
pub(crate) fn parse_value(text: &str, file: u32, begins: usize) -> Parsed {
    let mut parser = Parser { whole: "the value", ..Parser::new(text, file, begins) };
    parser.open_file();
    if parser.peek() == SyntaxKind::End {
        parser.fault("a value between the braces");
    } else {
        parser.expr();
        if parser.peek() != SyntaxKind::End {
            parser.fault("`}` after the value");
            parser.skip_until(|_| false);
        }
    }
    parser.close_file();
    parser.end()
}

pub(super) struct Parser<'t> {
    text: &'t str,
    file: u32,
    /// Where the text begins in the file.
    begins: usize,
    /// What ends where the text does.
    whole: &'static str,
    tokens: Vec<(SyntaxKind, std::ops::Range<usize>)>,
    at: usize,
    depth: u32,
    /// How high the tree of the expression is that was read last.
    pub(super) height: u32,
    builder: GreenNodeBuilder<'static>,
    errors: Vec<Diagnostic>,
    /// Where the last fault was reported, so that one place is reported once.
    last_fault: Option<u32>,
    /// How many braces are open around.
    braces: u32,
    /// Where they were opened, and the one that is about to be closed.
    opened: Vec<Option<Span>>,
    /// How many braces are opened and not closed.
    open: i64,
    /// More braces are opened than closed in the whole text.
    lacks_a_brace: bool,
    /// A place is being read: `of` after it says what the object hangs on.
    pub(super) place: bool,
}

impl<'t> Parser<'t> {
    fn new(text: &'t str, file: u32, begins: usize) -> Self {
        let tokens: Vec<_> = SyntaxKind::lexer(text)
            .spanned()
            .map(|(kind, range)| (kind.unwrap_or(SyntaxKind::Unknown), range))
            .collect();
        let open = tokens.iter().map(|(kind, _)| opens(*kind)).sum();
        Self {
            text,
            file,
            begins,
            whole: "the file",
            tokens,
            at: 0,
            depth: 0,
            height: 0,
            builder: GreenNodeBuilder::new(),
            errors: Vec::new(),
            last_fault: None,
            braces: 0,
            opened: Vec::new(),
            open,
            lacks_a_brace: open > 0,
            place: false,
        }
    }

    fn end(self) -> Parsed {
        Parsed { tree: Node::new_root(self.builder.finish()), errors: self.errors, open: self.open }
    }
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

    pub(super) fn nth_text(&self, skip: usize) -> &'t str {
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

    /// Whether no line ends before the token that comes after so many others.
    pub(super) fn nth_on_same_line(&self, skip: usize) -> bool {
        let to = self.index(skip).min(self.tokens.len());
        !self.tokens[self.at.min(to)..to].iter().any(|(kind, _)| *kind == SyntaxKind::Newline)
    }

    /// Whether the token after the next stands on the same line as it.
    pub(super) fn second_on_same_line(&self) -> bool {
        let (first, second) = (self.index(0), self.index(1));
        second < self.tokens.len()
            && !self.tokens[first..second].iter().any(|(kind, _)| *kind == SyntaxKind::Newline)
    }
}

/// Where it stands.
impl Parser<'_> {
    /// Whether the next token is the first of its line.
    pub(super) fn at_line_start(&self) -> bool {
        self.at == 0 || self.on_new_line()
    }

    /// Whether the token after the next follows it without a blank.
    pub(super) fn second_touches(&self) -> bool {
        self.index(1) == self.index(0) + 1
    }

    pub(super) fn inside_braces(&self) -> bool {
        self.braces > 0
    }

    pub(super) fn lacks_a_brace(&self) -> bool {
        self.lacks_a_brace
    }

    /// Whether the next token begins its line without a blank before it.
    pub(super) fn at_column_one(&self) -> bool {
        let index = self.index(0);
        self.tokens.get(index).is_some_and(|(_, range)| {
            range.start == 0 || self.text.as_bytes().get(range.start - 1) == Some(&b'\n')
        })
    }

    /// Asked right behind the brace, or where there should be one.
    pub(super) fn enter_braces(&mut self) {
        let last = self.at.checked_sub(1).and_then(|at| self.tokens.get(at));
        let brace = last.filter(|(kind, _)| *kind == SyntaxKind::LeftBrace);
        let begins = self.begins;
        let span = brace.map(|(_, range)| Span::new(self.file, begins + range.start, begins + range.end));
        self.opened.truncate(self.braces as usize);
        self.opened.push(span);
        self.braces += 1;
    }

    /// Asked before the closing brace is expected; where it was opened is known until the next one is entered or left.
    pub(super) fn leave_braces(&mut self) {
        self.braces = self.braces.saturating_sub(1);
        self.opened.truncate(self.braces as usize + 1);
    }

    pub(super) fn position(&self) -> usize {
        self.at
    }

    pub(super) fn open_file(&mut self) {
        self.builder.start_node(Stoi::kind_to_raw(SyntaxKind::File));
    }

    pub(super) fn close_file(&mut self) {
        self.trivia();
        self.close();
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

    pub(super) fn mark(&mut self) -> Checkpoint {
        self.trivia();
        self.builder.checkpoint()
    }

    pub(super) fn open_at(&mut self, mark: Checkpoint, kind: SyntaxKind) {
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
        let here = !(kind == SyntaxKind::Word && self.at_item_word()) && self.eat(kind);
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
            let (start, end) = (self.begins + range.start, self.begins + range.end);
            (format!("`{shown}{cut}`"), Span::new(self.file, start, end))
        } else {
            let end = self.begins + self.text.trim_end().len();
            (format!("the end of {}", self.whole), Span::new(self.file, end, end))
        };
        if self.last_fault == Some(span.start) {
            return;
        }
        self.last_fault = Some(span.start);
        let message = format!("expected {expected}, found {found}");
        // A long list is not said twice.
        let label = if expected.len() > 60 { "not this".to_owned() } else { format!("expected {expected}") };
        let mut fault = Diagnostic::error(Code::Syntax, message).at(span, label);
        if expected == "`}`"
            && let Some(Some(open)) = self.opened.last()
        {
            fault = fault.at(*open, "opened here");
        }
        let found = Found {
            text: self.nth_text(0),
            kind: self.peek(),
            before: self.token_before(),
            after: self.nth_text(1),
            expected,
        };
        self.errors.push(match found.hint() {
            Some(hint) => fault.help(hint),
            None => fault,
        });
    }

    /// The text of the last token that was taken.
    fn token_before(&self) -> &str {
        let mut before = self.tokens[..self.at.min(self.tokens.len())].iter().rev();
        before.find(|(kind, _)| !kind.is_trivia()).map_or("", |(_, range)| &self.text[range.clone()])
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

    /// Puts the rest of the line aside, with what stands in braces that it opens.
    pub(super) fn skip_line(&mut self) {
        let mut open = 0_u32;
        self.open(SyntaxKind::Bad);
        loop {
            match self.peek() {
                SyntaxKind::End => break,
                SyntaxKind::LeftBrace => open += 1,
                SyntaxKind::RightBrace => open = open.saturating_sub(1),
                _ => {}
            }
            self.bump();
            if self.at_item() && (open == 0 || self.at_column_one()) || open == 0 && self.on_new_line() {
                break;
            }
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

/// Shapes that come up everywhere.
impl Parser<'_> {
    pub(super) fn node(&mut self, kind: SyntaxKind, inner: impl FnOnce(&mut Self)) {
        self.open(kind);
        inner(self);
        self.close();
    }

    /// `(`, things with commas between them, `)`.
    pub(super) fn list(&mut self, mut thing: impl FnMut(&mut Self)) {
        self.bump();
        while !matches!(self.peek(), SyntaxKind::RightParen | SyntaxKind::End) && !self.at_item_word() {
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

    /// A name, or several joined by dots.
    pub(super) fn path(&mut self, what: &str) {
        self.node(SyntaxKind::Path, |p| {
            if p.expect(SyntaxKind::Word, what) {
                while p.eat(SyntaxKind::Dot) {
                    p.expect(SyntaxKind::Word, "a name after the dot");
                }
            }
        });
    }

    /// A keyword and what comes after it, as a node.
    pub(super) fn clause(&mut self, kind: SyntaxKind, inner: impl FnOnce(&mut Self)) {
        self.node(kind, |p| {
            p.bump();
            inner(p);
        });
    }
}
