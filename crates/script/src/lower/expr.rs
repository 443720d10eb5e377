//! Expressions.

use rowan::ast::support;

use super::{Lower, child, exprs, has_word, tokens};
use crate::{
    model::{Among, Axis, Expr, ExprKind, Literal, Name, Quantity},
    syntax::{Node, SyntaxKind as K},
};
use stoicheon_core::{Arithmetic, Comparison};

impl Lower<'_> {
    pub(super) fn first_expr(&mut self, node: &Node) -> Option<Expr> {
        exprs(node).next().map(|expr| self.expr(&expr))
    }

    /// The values in parentheses. A list that could not be read to its end has one more that is bad, so that they are
    /// not counted.
    pub(super) fn args(&mut self, node: &Node) -> Vec<Expr> {
        let Some(args) = child(node, K::Args) else { return Vec::new() };
        let mut values: Vec<_> = exprs(&args).map(|arg| self.expr(&arg)).collect();
        if support::token(&args, K::RightParen).is_none() {
            values.push(Expr { span: self.range(&args), kind: ExprKind::Bad });
        }
        values
    }

    pub(super) fn expr(&mut self, node: &Node) -> Expr {
        Expr { span: self.range(node), kind: self.expr_kind(node).unwrap_or(ExprKind::Bad) }
    }

    fn boxed(&mut self, node: Option<Node>) -> Option<Box<Expr>> {
        node.map(|node| Box::new(self.expr(&node)))
    }

    fn expr_kind(&mut self, node: &Node) -> Option<ExprKind> {
        match node.kind() {
            K::Path => self.path_of(node).map(ExprKind::Name),
            K::Paren => self.first_expr(node).map(|expr| expr.kind),
            K::Literal => {
                let token = tokens(node).next()?;
                if token.kind() == K::Text {
                    return self.text_with_values(&token);
                }
                self.literal(&token).map(ExprKind::Literal)
            }
            K::Vector => self.vector(node),
            K::Unary => self.unary(node),
            K::Binary => self.binary(node),
            K::Of => {
                let mut sides = exprs(node);
                let (one, two) = (sides.next()?, sides.next()?);
                let path = self.named(&one, "expected a variable that each player has")?;
                Some(ExprKind::Of(path, self.boxed(Some(two))?))
            }
            K::About => {
                let mut sides = exprs(node);
                let angle = self.boxed(sides.next())?;
                let axis = self.expr(&sides.next()?);
                let axis = match &axis.kind {
                    ExprKind::Name(path) => match path.single() {
                        Some(name) if matches!(name.text.as_str(), "x" | "y" | "z") => {
                            Axis::Named(name.clone())
                        }
                        _ => Axis::Vector(axis),
                    },
                    _ => Axis::Vector(axis),
                };
                Some(ExprKind::About(angle, Box::new(axis)))
            }
            K::Call => {
                let name = self.words(node).next()?;
                Some(ExprKind::Call(name, self.args(node)))
            }
            K::Last => self.path(node).map(ExprKind::Last),
            K::Count => Some(ExprKind::Count(Box::new(self.among_in(node)?))),
            K::Quantifier => {
                let among = self.among_in(node)?;
                let quantity = match () {
                    () if has_word(node, "any") => Quantity::Any,
                    () if has_word(node, "no") => Quantity::No,
                    () => Quantity::Every,
                };
                Some(ExprKind::Quantity(quantity, Box::new(among)))
            }
            K::Nearest => {
                let among = self.among_in(node)?;
                let to = exprs(node).next();
                Some(ExprKind::Nearest(Box::new(among), self.boxed(to)))
            }
            _ => None,
        }
    }

    pub(super) fn among_in(&mut self, node: &Node) -> Option<Among> {
        let node = child(node, K::Among)?;
        let of = self.words(&node).find(|word| word.text != "every")?;
        let state = child(&node, K::IsClause);
        let word = |clause: &Node| self.words(clause).skip(1).find(|word| word.text != "not");
        let name = state.as_ref().and_then(word);
        Some(Among {
            span: self.range(&node),
            of,
            inside: child(&node, K::InsideClause).and_then(|inside| self.path(&inside)),
            is_not: state.is_some_and(|state| has_word(&state, "not")),
            state: name,
            such_that: child(&node, K::WhereClause).and_then(|such| self.first_expr(&such)),
        })
    }

    fn unary(&mut self, node: &Node) -> Option<ExprKind> {
        let inner = self.first_expr(node)?;
        if support::token(node, K::Minus).is_none() {
            return Some(ExprKind::Not(Box::new(inner)));
        }
        Some(match inner.kind {
            ExprKind::Literal(Literal::Number(number)) => ExprKind::Literal(Literal::Number(-number)),
            ExprKind::Literal(Literal::Whole(number)) => ExprKind::Literal(Literal::Whole(-number)),
            ExprKind::Literal(Literal::Degrees(angle)) => ExprKind::Literal(Literal::Degrees(-angle)),
            kind => ExprKind::Negate(Box::new(Expr { span: inner.span, kind })),
        })
    }

    fn binary(&mut self, node: &Node) -> Option<ExprKind> {
        let mut sides = exprs(node);
        let (one, two, third) = (sides.next(), sides.next(), sides.next());
        let operator = tokens(node).next()?;
        let not = has_word(node, "not");
        let compared = match operator.kind() {
            K::Same => Some(Comparison::Equal),
            K::NotSame => Some(Comparison::NotEqual),
            K::Less => Some(Comparison::Less),
            K::AtMost => Some(Comparison::AtMost),
            K::Greater => Some(Comparison::Greater),
            K::AtLeast => Some(Comparison::AtLeast),
            _ => None,
        };
        if let Some(how) = compared {
            return Some(ExprKind::Compare(how, self.boxed(one)?, self.boxed(two)?));
        }
        let arithmetic = match operator.kind() {
            K::Plus => Some(Arithmetic::Add),
            K::Minus => Some(Arithmetic::Subtract),
            K::Star => Some(Arithmetic::Multiply),
            K::Slash => Some(Arithmetic::Divide),
            _ => None,
        };
        if let Some(how) = arithmetic {
            return Some(ExprKind::Arithmetic(how, self.boxed(one)?, self.boxed(two)?));
        }
        let word = self.words(node).find(|word| word.text != "not")?;
        match word.text.as_str() {
            "and" => Some(ExprKind::And(self.boxed(one)?, self.boxed(two)?)),
            "or" => Some(ExprKind::Or(self.boxed(one)?, self.boxed(two)?)),
            "inside" => {
                let zone = self.named(&two?, "expected an object with a zone")?;
                let span = third.map(|span| Box::new(self.expr(&span)));
                Some(ExprKind::Inside { body: self.boxed(one)?, zone, span, not })
            }
            "in" => {
                let scene = self.single(&two?, "expected the name of a scene")?;
                Some(ExprKind::InScene { object: self.boxed(one)?, scene, not })
            }
            "tagged" => {
                let tag = self.single(&two?, "expected a tag")?;
                Some(ExprKind::Tagged { object: self.boxed(one)?, tag, not })
            }
            "carries" => {
                let tag = self.single(&two?, "expected a tag")?;
                Some(ExprKind::Carries { object: self.boxed(one)?, tag, not })
            }
            _ => {
                let state =
                    self.single(&two?, "expected a state, such as `open`; values are compared with `==`")?;
                Some(ExprKind::Is { subject: self.boxed(one)?, state, not })
            }
        }
    }

    /// An expression that must be a bare name.
    fn named(&mut self, node: &Node, message: &str) -> Option<crate::model::Path> {
        if node.kind() == K::Path {
            return self.path_of(node);
        }
        self.bad_literal(self.range(node), message);
        None
    }

    /// An expression that must be one word.
    fn single(&mut self, node: &Node, message: &str) -> Option<Name> {
        let path = self.named(node, message)?;
        if let Some(name) = path.single() {
            return Some(name.clone());
        }
        self.bad_literal(path.span(), message);
        None
    }

    fn vector(&mut self, node: &Node) -> Option<ExprKind> {
        let parts: Vec<_> = exprs(node).map(|part| self.expr(&part)).collect();
        if matches!(parts.len(), 2 | 3) {
            return Some(ExprKind::Vector(parts));
        }
        let message = "expected three numbers, such as (4, 0, 10), or two in a flat scene";
        self.bad_literal(self.range(node), message);
        None
    }
}
