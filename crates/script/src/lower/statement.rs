//! Statements.

use super::{Lower, child, children, exprs, has_word, tokens};
use crate::{
    model::{Arg, Expr, ExprKind, Objects, Sign, Statement, StatementKind, Target, Where},
    syntax::{Node, SyntaxKind as K},
};

impl Lower<'_> {
    pub(super) fn block(&mut self, node: &Node) -> Vec<Statement> {
        node.children().filter_map(|node| self.statement(&node)).collect()
    }

    fn block_in(&mut self, node: &Node) -> Vec<Statement> {
        child(node, K::Block).map(|block| self.block(&block)).unwrap_or_default()
    }

    pub(super) fn statement(&mut self, node: &Node) -> Option<Statement> {
        Some(Statement { span: self.range(node), kind: self.statement_kind(node)? })
    }

    fn statement_kind(&mut self, node: &Node) -> Option<StatementKind> {
        Some(match node.kind() {
            K::CommandStep => {
                let args = children(node, K::Arg).collect::<Vec<_>>().into_iter().filter_map(|arg| {
                    Some(Arg { name: self.words(&arg).next()?, value: self.first_expr(&arg)? })
                });
                let args = args.collect();
                StatementKind::Tell { command: self.words(node).next()?, who: self.objects(node)?, args }
            }
            K::WaitStep => StatementKind::Wait(self.first_expr(node)?),
            K::UntilStep => StatementKind::Until {
                condition: self.first_expr(node)?,
                within: child(node, K::Within).and_then(|within| self.first_expr(&within)),
                otherwise: self.otherwise(node),
            },
            K::EmitStep => StatementKind::Emit {
                signal: self.path(node)?,
                values: self.args(node),
                behalf: self.behalf(node),
            },
            K::PerformStep => StatementKind::Perform {
                effect: self.path(node)?,
                values: self.args(node),
                behalf: self.behalf(node),
            },
            K::Wire => StatementKind::On(Box::new(self.wire(node)?)),
            K::RoutineStep => StatementKind::Do { routine: self.path(node)?, values: self.args(node) },
            K::SpawnStep => StatementKind::Spawn {
                mould: self.words(node).nth(1)?,
                at: child(node, K::At).and_then(|at| self.first_expr(&at))?,
                name: self.after(node, "as"),
            },
            K::SwitchStep => {
                let who = self.objects(node)?;
                match self.words(node).next()?.text.as_str() {
                    "enable" => StatementKind::Enable(who),
                    "disable" => StatementKind::Disable(who),
                    _ => StatementKind::Destroy(who),
                }
            }
            K::SendStep => {
                let spot = self.expr(&exprs(node).last()?);
                let spot = match spot.kind {
                    ExprKind::Name(path) => Where::Named(path),
                    ExprKind::Bad => return None,
                    _ => Where::Held(spot),
                };
                StatementKind::Send { who: self.objects(node)?, spot, scene: self.after(node, "in") }
            }
            K::TagStep => StatementKind::Tag {
                who: self.objects(node)?,
                tag: self.after(node, "as")?,
                away: has_word(node, "untag"),
            },
            K::TweenStep => {
                let mut nodes = exprs(node);
                let target = nodes.next()?;
                StatementKind::Tween {
                    target: self.target(&target)?,
                    to: self.expr(&nodes.next()?),
                    over: self.expr(&nodes.next()?),
                    ease: self.after(node, "ease"),
                }
            }
            K::KeepStep => {
                StatementKind::Keep { name: self.words(node).nth(1)?, value: self.first_expr(node)? }
            }
            K::SetStep => self.set(node)?,
            K::IfStep => StatementKind::If {
                when: self.first_expr(node)?,
                then: self.block_in(node),
                otherwise: self.otherwise(node),
            },
            K::RepeatStep => {
                let (expr, body) = (self.first_expr(node)?, self.block_in(node));
                if has_word(node, "while") {
                    StatementKind::RepeatWhile { condition: expr, body }
                } else {
                    StatementKind::Repeat { times: expr, body }
                }
            }
            K::ForStep => {
                let name = self.after(node, "each")?;
                if tokens(node).any(|token| token.kind() == K::Comma) {
                    let cells = child(node, K::Call)?;
                    let ExprKind::Call(cells, of) = self.expr(&cells).kind else { return None };
                    let row = self.words(node).nth(3)?;
                    let body = self.block_in(node);
                    return Some(StatementKind::ForEachCell { column: name, row, cells, of, body });
                }
                StatementKind::ForEach { name, among: self.among_in(node)?, body: self.block_in(node) }
            }
            K::StopStep => StatementKind::Stop,
            _ => return None,
        })
    }

    fn behalf(&mut self, node: &Node) -> Option<Expr> {
        child(node, K::Behalf).and_then(|behalf| self.first_expr(&behalf))
    }

    fn otherwise(&mut self, node: &Node) -> Vec<Statement> {
        let Some(branch) = child(node, K::Else) else { return Vec::new() };
        match (child(&branch, K::Block), child(&branch, K::IfStep)) {
            (Some(block), _) => self.block(&block),
            (None, Some(nested)) => self.statement(&nested).into_iter().collect(),
            (None, None) => Vec::new(),
        }
    }

    fn objects(&mut self, node: &Node) -> Option<Objects> {
        match self.among_in(node) {
            Some(among) => Some(Objects::Every(among)),
            None => self.first_expr(node).map(Objects::One),
        }
    }

    fn target(&mut self, node: &Node) -> Option<Target> {
        match self.expr(node) {
            Expr { kind: ExprKind::Name(path), .. } => Some(Target::Name(path)),
            Expr { kind: ExprKind::Of(path, whose), .. } => Some(Target::Of(path, *whose)),
            _ => None,
        }
    }

    fn set(&mut self, node: &Node) -> Option<StatementKind> {
        let mut nodes = exprs(node);
        let target = nodes.next()?;
        let target = self.target(&target)?;
        let to = self.expr(&nodes.next()?);
        let with = tokens(node).find_map(|token| match token.kind() {
            K::PlusEquals => Some(Sign::Plus),
            K::MinusEquals => Some(Sign::Minus),
            K::TimesEquals => Some(Sign::Times),
            K::DivideEquals => Some(Sign::DividedBy),
            _ => None,
        });
        Some(StatementKind::Set { target, with, to })
    }
}
