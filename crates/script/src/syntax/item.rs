//! Items: what a file consists of.

use super::{kind::SyntaxKind, parser::Parser};
use crate::suggest::nearest;

/// The words that begin an item. On a new line they end whatever was broken before them.
pub(super) const ITEMS: [&str; 22] = [
    "scene",
    "project",
    "shared",
    "catalogue",
    "places",
    "ticks",
    "players",
    "seeds",
    "given",
    "var",
    "signal",
    "effect",
    "object",
    "manager",
    "mould",
    "spot",
    "on",
    "bind",
    "never",
    "routine",
    "kit",
    "playtest",
];

/// Statements that do not begin an item, whatever follows.
const STATEMENTS: [&str; 19] = [
    "wait", "emit", "perform", "do", "set", "tween", "enable", "disable", "destroy", "spawn", "send", "tag",
    "untag", "if", "repeat", "for", "open", "close", "stop",
];

/// What may stand before the braces of a wire.
const CLAUSES: &str = "by, when, order, cooldown, delay, once, times, while running or `{`";
const CLAUSE_WORDS: [&str; 8] = ["by", "when", "order", "cooldown", "delay", "once", "times", "while"];

impl Parser<'_> {
    /// Whether the next token is the first of its line, and a word that begins an item.
    pub(super) fn at_item_word(&self) -> bool {
        self.peek() == SyntaxKind::Word
            && (ITEMS.contains(&self.nth_text(0)) || self.is_word("add") && self.nth(1) == SyntaxKind::Word)
            && self.at_line_start()
    }

    /// Whether an item begins here. Within braces a member or a statement may begin with the same word; but where a
    /// closing brace is missing somewhere, one that is not set in at all begins an item.
    pub(super) fn at_item(&self) -> bool {
        self.at_item_word() && (!self.inside_braces() || self.lacks_a_brace() && self.at_column_one())
    }

    pub(super) fn file(&mut self) {
        self.open_file();
        while self.peek() != SyntaxKind::End {
            let before = self.position();
            self.item();
            if self.at_item() || self.peek() == SyntaxKind::End {
                continue;
            }
            let same_line = !self.on_new_line();
            if same_line {
                self.fault("the end of the line");
            }
            // What stands on a line of its own is looked at as an item, and told of, in the next round.
            if same_line || self.position() == before {
                self.skip_line();
            }
        }
        self.close_file();
    }

    fn item(&mut self) {
        match self.nth_text(0) {
            "scene" if self.nth(1) == SyntaxKind::Text => self.clause(SyntaxKind::SceneFile, |p| {
                p.bump();
                if p.is_word("left") {
                    p.bump();
                    p.expect(SyntaxKind::Word, "unloaded, frozen or running");
                }
            }),
            "ticks" => self.clause(SyntaxKind::Ticks, |p| {
                p.expect(SyntaxKind::Number, "how many ticks, such as 60");
                if !(p.eat_word("per") && p.eat_word("second")) {
                    p.fault("`per second`");
                }
            }),
            "players" => self.clause(SyntaxKind::Players, |p| {
                if !(p.eat_word("up") && p.eat_word("to")) {
                    p.fault("`up to`");
                }
                p.expect(SyntaxKind::Number, "how many players, such as 4");
            }),
            "seeds" => self.node(SyntaxKind::Seeds, Self::seeds),
            "scene" => self.clause(SyntaxKind::Scene, |p| {
                p.expect(SyntaxKind::Word, "the name of the scene");
            }),
            "project" => self.clause(SyntaxKind::Project, |p| {
                p.expect(SyntaxKind::Word, "the name of the project");
            }),
            "shared" => self.clause(SyntaxKind::Shared, |p| {
                p.expect(SyntaxKind::Text, "the path of a file, in quotes");
            }),
            "catalogue" => self.clause(SyntaxKind::CatalogueFile, |p| {
                p.expect(SyntaxKind::Text, "the path of a file, in quotes");
            }),
            "places" => self.clause(SyntaxKind::PlacesFile, |p| {
                p.expect(SyntaxKind::Text, "the path of a file, in quotes");
            }),
            "given" => self.node(SyntaxKind::Constant, |p| p.constant(true)),
            "playtest" => self.node(SyntaxKind::Playtest, Self::playtest),
            "kit" => self.node(SyntaxKind::Kit, Self::kit),
            "manager" => self.node(SyntaxKind::Manager, |p| p.object("the role of the manager")),
            _ if self.scene_item() => {}
            _ => self.fault(
                "scene, given, var, signal, effect, object, manager, mould, spot, on, bind, never, routine, kit, add \
                 or playtest",
            ),
        }
    }

    /// `given stone_reach: number = 6 "how far one may point"`; without a type, a value for one.
    pub(super) fn constant(&mut self, declares: bool) {
        self.bump();
        self.expect(SyntaxKind::Word, "a name");
        if declares && self.eat(SyntaxKind::Colon) {
            self.ty();
        }
        if self.expect(
            SyntaxKind::Equals,
            if declares { "`:` and a type, or `=` and a value" } else { "`=` and a value" },
        ) {
            self.expr();
        }
        if declares && self.peek() == SyntaxKind::Text && !self.on_new_line() {
            self.node(SyntaxKind::AboutText, Self::bump);
        }
    }

    /// `seeds 1, 2, 3`
    pub(super) fn seeds(&mut self) {
        self.bump();
        self.expect(SyntaxKind::Number, "a whole number");
        while self.peek() == SyntaxKind::Comma && self.nth(1) == SyntaxKind::Number {
            self.bump();
            self.bump();
        }
    }

    /// What can stand in a kit too.
    fn scene_item(&mut self) -> bool {
        match self.nth_text(0) {
            "var" => self.node(SyntaxKind::Var, Self::var),
            "signal" => self.node(SyntaxKind::Signal, |p| p.declaration("the name of the signal")),
            "effect" => self.node(SyntaxKind::Effect, |p| p.declaration("the name of the effect")),
            "object" => self.node(SyntaxKind::Object, |p| p.object("the name of the object")),
            "mould" => self.node(SyntaxKind::Mould, |p| p.object("the name of the mould")),
            "spot" => self.node(SyntaxKind::Spot, Self::spot),
            "on" => self.node(SyntaxKind::Wire, Self::wire),
            "bind" => self.node(SyntaxKind::Bind, Self::bind),
            "never" => self.clause(SyntaxKind::Rule, Self::expr),
            "routine" => self.node(SyntaxKind::Routine, |p| {
                p.declaration("the name of the routine");
                p.block();
            }),
            "add" => self.node(SyntaxKind::Use, Self::use_item),
            word if self.peek() == SyntaxKind::Word
                && self.nth(1) == SyntaxKind::Word
                && self.second_on_same_line()
                && !STATEMENTS.contains(&word)
                && !matches!(self.nth(2), SyntaxKind::Equals | SyntaxKind::Dot) =>
            {
                self.node(SyntaxKind::Lone, |p| {
                    p.bump();
                    p.expect(SyntaxKind::Word, "a name");
                    p.settings();
                });
            }
            _ => return false,
        }
        true
    }

    pub(super) fn var(&mut self) {
        self.bump();
        self.expect(SyntaxKind::Word, "the name of the variable");
        self.expect(SyntaxKind::Colon, "`:` and the type of the variable");
        self.ty();
        if self.expect(SyntaxKind::Equals, "`=` and its first value") {
            self.expr();
        }
        if self.is_word("per") && self.nth_is_word(1, "player") {
            self.node(SyntaxKind::PerPlayer, |p| {
                p.bump();
                p.bump();
            });
        }
        if self.is_word("remember") && !self.on_new_line() {
            self.node(SyntaxKind::Flag, Self::bump);
        }
    }

    fn ty(&mut self) {
        self.node(SyntaxKind::Type, |p| {
            if p.is_word("one") && p.nth_is_word(1, "of") {
                p.bump();
                p.bump();
                if p.peek() == SyntaxKind::LeftParen {
                    p.list(|p| {
                        p.expect(SyntaxKind::Word, "a word of the list");
                    });
                } else {
                    p.fault("`(` and the words of the list");
                }
            } else {
                p.expect(SyntaxKind::Word, "a type");
            }
        });
    }

    /// Names and types; the parameters of a kit may say what they are where nothing is given.
    fn fields(&mut self, of_kit: bool) {
        if self.peek() == SyntaxKind::LeftParen {
            self.node(SyntaxKind::Fields, |p| {
                p.list(|p| {
                    p.node(SyntaxKind::Field, |p| {
                        p.expect(SyntaxKind::Word, "a name");
                        p.expect(SyntaxKind::Colon, "`:` and a type");
                        p.ty();
                        if of_kit && p.eat(SyntaxKind::Equals) {
                            p.expr();
                        }
                    });
                });
            });
        }
    }

    pub(super) fn declaration(&mut self, what: &str) {
        let (signal, kit) = (self.is_word("signal"), self.is_word("kit"));
        self.bump();
        self.expect(SyntaxKind::Word, what);
        self.fields(kit);
        if signal && self.is_word("crosses") && !self.on_new_line() {
            self.clause(SyntaxKind::Crosses, |p| {
                if !p.eat_word("to") {
                    p.fault("`to`");
                }
                p.expect(SyntaxKind::Word, "authority or players");
                if p.eat_word("by") {
                    p.expect(SyntaxKind::Word, "a tag of those who may send it");
                    while p.eat_word("or") {
                        p.expect(SyntaxKind::Word, "a tag of those who may send it");
                    }
                }
            });
        }
        while signal && (self.is_word("sent") || self.is_word("heard")) && !self.on_new_line() {
            self.clause(SyntaxKind::ByGame, |p| {
                if !p.eat_word("by") {
                    p.fault("`by game`");
                } else if !p.eat_word("game") {
                    p.fault("`game`");
                }
            });
        }
    }

    fn bind(&mut self) {
        self.bump();
        if self.is_word("each") {
            self.bump();
        }
        self.path("the variable to keep");
        if self.expect(SyntaxKind::Equals, "`=` and what it is kept equal to") {
            self.expr();
        }
    }

    fn kit(&mut self) {
        self.declaration("the name of the kit");
        if !self.expect(SyntaxKind::LeftBrace, "`{`") {
            return;
        }
        self.enter_braces();
        while !matches!(self.peek(), SyntaxKind::RightBrace | SyntaxKind::End) && !self.at_item() {
            if !self.scene_item() && !self.eat(SyntaxKind::Semicolon) {
                let expected = "var, signal, object, mould, spot, on, bind, never, routine, add or `}`";
                self.put_aside(expected, |_| false);
            }
        }
        self.leave_braces();
        self.expect(SyntaxKind::RightBrace, "`}`");
    }

    fn use_item(&mut self) {
        self.bump();
        self.expect(SyntaxKind::Word, "the name of a kit");
        if self.eat_word("as") {
            self.expect(SyntaxKind::Word, "a name for this use");
        }
        if self.peek() == SyntaxKind::LeftParen {
            self.node(SyntaxKind::Fields, |p| {
                p.list(|p| {
                    p.node(SyntaxKind::Given, |p| {
                        let named = p.peek() == SyntaxKind::Word && p.nth(1) == SyntaxKind::Colon;
                        if !named {
                            p.fault("the name of a parameter, `:` and a value, such as `landing: steps`");
                            p.expr();
                            return;
                        }
                        p.bump();
                        if p.expect(SyntaxKind::Colon, "`:` and a value") {
                            p.expr();
                        }
                    });
                });
            });
        }
    }

    /// A condition. One that sets is put aside as a whole: half of it means something else.
    fn guard(&mut self) {
        let mark = self.mark();
        self.expr();
        if self.peek() == SyntaxKind::Equals {
            self.fault(CLAUSES);
            self.bump();
            self.expr();
            self.open_at(mark, SyntaxKind::Bad);
            self.close();
        }
    }

    pub(super) fn wire(&mut self) {
        self.bump();
        self.eat_word("every");
        self.path("the signal to listen to");
        self.args();
        loop {
            match self.nth_text(0) {
                "by" => self.clause(SyntaxKind::Filter, |p| {
                    p.expect(SyntaxKind::Word, "a tag of those who may cause it");
                    while p.eat_word("or") {
                        p.expect(SyntaxKind::Word, "a tag of those who may cause it");
                    }
                }),
                "when" => self.clause(SyntaxKind::Guard, Self::guard),
                "order" => self.clause(SyntaxKind::Order, |p| {
                    p.eat(SyntaxKind::Minus);
                    p.expect(SyntaxKind::Number, "a whole number");
                }),
                "cooldown" => self.clause(SyntaxKind::Cooldown, |p| {
                    p.expect(SyntaxKind::Number, "a span of time, such as 2s");
                    if p.is_word("per") && p.nth_is_word(1, "who") {
                        p.bump();
                        p.bump();
                    }
                }),
                "delay" => self.clause(SyntaxKind::Delay, |p| {
                    p.expect(SyntaxKind::Number, "a span of time, such as 2s");
                }),
                "times" => self.clause(SyntaxKind::Times, |p| {
                    p.expect(SyntaxKind::Number, "a whole number");
                }),
                "while" if self.nth_is_word(1, "running") => self.clause(SyntaxKind::Busy, |p| {
                    p.bump();
                    p.expect(SyntaxKind::Word, "ignore, restart, queue or overlap");
                    if p.is_word("per") && p.nth_is_word(1, "who") {
                        p.bump();
                        p.bump();
                    }
                }),
                "while" => self.clause(SyntaxKind::During, |p| {
                    p.path("the stages it belongs to");
                    if !p.eat_word("is") {
                        p.fault("`is` and one of the stages");
                    }
                    p.expect(SyntaxKind::Word, "one of the stages");
                }),
                "once" => self.node(SyntaxKind::Once, Self::bump),
                "," => self.bump(),
                // A slip before the braces does not take what is in them along.
                _ if self.is_slip() => self.put_aside(CLAUSES, |p| {
                    p.peek() == SyntaxKind::LeftBrace || CLAUSE_WORDS.contains(&p.nth_text(0))
                }),
                _ => break,
            }
        }
        if self.peek() == SyntaxKind::LeftBrace {
            self.block();
        } else {
            self.fault(CLAUSES);
        }
    }

    /// Whether what stands here belongs to the wire, though it is no clause: on its line, or as good as the word of one.
    fn is_slip(&self) -> bool {
        let is_word = self.peek() == SyntaxKind::Word && !self.at_item();
        self.on_its_line() || is_word && nearest(self.nth_text(0), CLAUSE_WORDS.into_iter()).is_some()
    }
}
