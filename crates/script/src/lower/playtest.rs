//! Playtests.

use rowan::ast::support;

use super::{Lower, child, children, has_word};
use crate::{
    model::{
        Case, Cases, ExprKind, Limit, Name, Path, Player, Playtest, PlaytestStep, SpanValue, Step, Where,
    },
    syntax::{Node, SyntaxKind as K},
};

impl Lower<'_> {
    pub(super) fn playtest(&mut self, node: &Node) -> Option<Playtest> {
        let seeds = child(node, K::Seeds).map(|seeds| self.seeds(&seeds)).unwrap_or_default();
        let (given, players, steps) = (Vec::new(), Vec::new(), Vec::new());
        let cases = child(node, K::Cases).filter(|cases| child(cases, K::Bad).is_none());
        let cases = cases.map(|cases| self.cases(&cases));
        let linked = child(node, K::Linked).is_some();
        let (span, name) = (self.range(node), self.text(node)?);
        let mut playtest = Playtest { span, name, linked, seeds, given, cases, players, steps };
        for node in node.children() {
            if node.kind() == K::Cases {
                if playtest.cases.as_ref().is_some_and(|cases| cases.span != self.range(&node)) {
                    self.bad_literal(self.range(&node), "expected one table of cases for a playtest");
                }
            } else if node.kind() == K::Constant {
                playtest.given.extend(self.given(&node));
            } else if node.kind() != K::PlayerStep {
                self.step(&node, &mut playtest.steps);
            } else if let Some(name) = self.words(&node).nth(1) {
                // A player without a place is one all the same: what is said of them is not wrong, too.
                let nowhere = Where::Held(crate::model::Expr { span: name.span, kind: ExprKind::Bad });
                let at =
                    self.path(&node).map(Where::Named).or_else(|| self.somewhere(&node)).unwrap_or(nowhere);
                let scene = self.after(&node, "in");
                playtest.players.push(Player { name, at, scene, tags: self.tags(&node) });
            }
        }
        Some(playtest)
    }

    fn step(&mut self, node: &Node, steps: &mut Vec<PlaytestStep>) {
        let span = self.range(node);
        let step = match node.kind() {
            K::WaitStep => self.span_value(node).map(Step::Wait),
            K::WaitUntilStep => {
                let within = self.within(node);
                self.first_expr(node).map(|what| Step::Until { what, within })
            }
            K::DoStep => {
                let Some(player) = self.words(node).next() else { return };
                for action in children(node, K::Action) {
                    let span = self.range(&action);
                    let step = self.action(&player, &action);
                    steps.extend(step.map(|step| PlaytestStep { span, step }));
                }
                None
            }
            K::TogetherStep => {
                let mut inner = Vec::new();
                node.children().for_each(|node| self.step(&node, &mut inner));
                Some(Step::Together(inner))
            }
            K::ExpectStep => self.expected(node),
            K::OrderStep => {
                let what: Vec<Path> =
                    children(node, K::Path).filter_map(|path| self.path_of(&path)).collect();
                let within = self.within(node);
                (!what.is_empty()).then_some(Step::InOrder { what, within })
            }
            K::AlwaysStep => {
                let always = self.words(node).next().is_some_and(|word| word.text == "always");
                self.first_expr(node).map(if always { Step::Always } else { Step::Never })
            }
            K::AllowFaults => Some(Step::AllowFaults),
            K::KeepWorldStep => self.words(node).next().map(|word| match word.text.as_str() {
                "save" => Step::Save,
                "reload" => Step::Reload,
                _ => Step::Suspend,
            }),
            // A block is what it stands in, too.
            K::Block => Some(Step::Block(self.block(node))),
            _ => self.statement(node).map(Step::Does),
        };
        steps.extend(step.map(|step| PlaytestStep { span, step }));
    }

    fn expected(&mut self, node: &Node) -> Option<Step> {
        let limit = self.limit(node);
        if child(node, K::Args).is_some() {
            let values = self.args(node);
            return self.path(node).map(|what| Step::ExpectWith { what, values, limit });
        }
        self.first_expr(node).map(|what| match what.kind {
            // No function gives what holds or not: it is a signal, and what it carries.
            ExprKind::Call(name, values) => Step::ExpectWith { what: Path(vec![name]), values, limit },
            _ => Step::Expect { what, limit },
        })
    }

    fn within(&mut self, node: &Node) -> Option<SpanValue> {
        if has_word(node, "within") { self.span_value(node) } else { None }
    }

    fn limit(&mut self, node: &Node) -> Limit {
        if has_word(node, "exactly") {
            let count = self.whole(node).and_then(|count| u64::try_from(count).ok());
            return Limit::Exactly(count.unwrap_or(0));
        }
        self.within(node).map_or(Limit::Now, Limit::Within)
    }

    fn action(&mut self, player: &Name, node: &Node) -> Option<Step> {
        let player = player.clone();
        if let Some(seen) = child(node, K::ExpectStep) {
            return self.expected(&seen).map(|what| Step::Sees { player, what: Box::new(what) });
        }
        let words: Vec<_> = self.words(node).collect();
        match words.first()?.text.as_str() {
            "walks" => Some(Step::Walk { player, to: self.somewhere(node)? }),
            "goes" => Some(Step::GoThrough { player, at: self.somewhere(node)? }),
            "answers" => Some(Step::Answer { player, prompt: self.path(node)? }),
            "joins" => {
                let (at, scene) = (self.path(node), self.after(node, "in"));
                Some(Step::Join { player, at, scene, tags: self.tags(node) })
            }
            "holds" => {
                let key = words.get(1)?.clone();
                match support::token(node, K::Number) {
                    Some(_) => Some(Step::Hold { player, key, span: self.span_value(node)? }),
                    None => Some(Step::KeyDown { player, key }),
                }
            }
            "releases" => Some(Step::KeyUp { player, key: words.get(1)?.clone() }),
            "points" => Some(Step::Point {
                player,
                at: self.somewhere(node)?,
                from_there: child(node, K::At).and_then(|at| self.first_expr(&at)),
                button: self.after(node, "with"),
            }),
            "chooses" => Some(Step::Choose { player, answer: Some(words.get(1)?.clone()) }),
            "declines" => Some(Step::Choose { player, answer: None }),
            "leaves" => Some(Step::Leave { player }),
            "presses" => Some(Step::Press { player, key: words.get(1)?.clone() }),
            _ => self.span_value(node).map(|span| Step::Pause { player, span }),
        }
    }

    /// An object, a spot or a place.
    fn somewhere(&mut self, node: &Node) -> Option<Where> {
        let expr = self.first_expr(node)?;
        match expr.kind {
            ExprKind::Name(path) => Some(Where::Named(path)),
            ExprKind::Bad => None,
            _ => Some(Where::Held(expr)),
        }
    }

    fn cases(&mut self, node: &Node) -> Cases {
        let names = self.words(node).skip(1).collect();
        let rows: Vec<_> = children(node, K::Case).collect();
        let span = self.range(node);
        let rows = rows.iter().map(|row| Case {
            span: self.range(row),
            name: support::token(row, K::Text).and_then(|_| self.text(row)),
            values: self.args(row),
        });
        Cases { span, names, rows: rows.collect() }
    }
}
