//! From the tree to the model: literals are read, words become names. What the tree could not make sense of is
//! left out here; its fault is reported already.

use rowan::ast::support;
use smol_str::SmolStr;
use stoicheon_core::{Arithmetic, Comparison, Seconds, Type, Vec3};

use crate::{
    diagnostic::{Code, Diagnostic},
    model::{
        Atom, Declaration, Expr, ExprKind, Limit, Literal, Name, Object, Part, Path, Player, Playtest, Scene,
        Statement, Step, Var, Wire,
    },
    source::Span,
    syntax::{Node, SyntaxKind as K, Token},
};

pub(crate) fn lower(tree: &Node, diagnostics: &mut Vec<Diagnostic>) -> Scene {
    let mut lower = Lower { diagnostics };
    let mut scene = Scene::default();
    for node in tree.children() {
        match node.kind() {
            K::Scene => scene.name = words(&node).nth(1),
            K::Var => scene.vars.extend(lower.var(&node)),
            K::Signal => scene.signals.extend(lower.declaration(&node)),
            K::Effect => scene.effects.extend(lower.declaration(&node)),
            K::Object => scene.objects.extend(lower.object(&node)),
            K::Wire => scene.wires.extend(lower.wire(&node)),
            K::Rule => scene.rules.extend(lower.first_expr(&node)),
            K::Playtest => scene.playtests.extend(lower.playtest(&node)),
            _ => {}
        }
    }
    scene
}

struct Lower<'d> {
    diagnostics: &'d mut Vec<Diagnostic>,
}

fn tokens(node: &Node) -> impl Iterator<Item = Token> {
    node.children_with_tokens().filter_map(rowan::NodeOrToken::into_token).filter(|t| !t.kind().is_trivia())
}

fn name(token: &Token) -> Name {
    Name { text: SmolStr::new(token.text()), span: token.text_range().into() }
}

/// The words that stand directly in a node, its keywords among them.
fn words(node: &Node) -> impl Iterator<Item = Name> {
    tokens(node).filter(|token| token.kind() == K::Word).map(|token| name(&token))
}

fn child(node: &Node, kind: K) -> Option<Node> {
    node.children().find(|child| child.kind() == kind)
}

fn children(node: &Node, kind: K) -> impl Iterator<Item = Node> {
    node.children().filter(move |child| child.kind() == kind)
}

fn is_expr(kind: K) -> bool {
    matches!(kind, K::Path | K::Literal | K::Vector | K::Paren | K::Unary | K::Binary)
}

fn exprs(node: &Node) -> impl Iterator<Item = Node> {
    node.children().filter(|child| is_expr(child.kind()))
}

fn path_of(node: &Node) -> Option<Path> {
    let mut words = words(node);
    Some(Path { first: words.next()?, second: words.next() })
}

fn path(node: &Node) -> Option<Path> {
    child(node, K::Path).and_then(|path| path_of(&path))
}

fn tags(node: &Node) -> Vec<Name> {
    children(node, K::Tags).flat_map(|tags| words(&tags).skip(1).collect::<Vec<_>>()).collect()
}

/// Items.
impl Lower<'_> {
    fn var(&mut self, node: &Node) -> Option<Var> {
        let mut words = words(node).skip(1);
        let (name, ty) = (words.next()?, words.next());
        let ty = ty.and_then(|word| self.ty(&word).map(|ty| (ty, word.span)));
        Some(Var { name, ty, first: self.first_expr(node)? })
    }

    fn ty(&mut self, word: &Name) -> Option<Type> {
        let found = Type::ALL.into_iter().find(|ty| ty.word() == word.text);
        if found.is_none() {
            let known: Vec<_> = Type::ALL.iter().map(|ty| ty.word()).collect();
            let message = format!("there is no type `{}`", word.text);
            let help = match crate::check::nearest(&word.text, known.iter().copied()) {
                Some(near) => format!("did you mean `{near}`?"),
                None => format!("the types are {}", known.join(", ")),
            };
            self.diagnostics.push(
                Diagnostic::error(Code::UnknownType, message).at(word.span, "expected a type").help(help),
            );
        }
        found
    }

    fn declaration(&mut self, node: &Node) -> Option<Declaration> {
        let name = words(node).nth(1)?;
        let mut fields = Vec::new();
        for field in child(node, K::Fields).iter().flat_map(|fields| children(fields, K::Field)) {
            let mut words = words(&field);
            let (Some(name), Some(ty)) = (words.next(), words.next()) else { continue };
            // A field of an unknown type still counts, so that one fault is reported and not two.
            let ty = self.ty(&ty).unwrap_or(Type::Number);
            fields.push((name, ty));
        }
        Some(Declaration { name, fields })
    }

    fn object(&mut self, node: &Node) -> Option<Object> {
        let name = words(node).nth(1)?;
        let at = child(node, K::At).and_then(|at| self.place(&at));
        let parts = children(node, K::Part).filter_map(|part| self.part(&part)).collect();
        let wires = children(node, K::Wire).filter_map(|wire| self.wire(&wire)).collect();
        Some(Object { name, at, tags: tags(node), parts, wires })
    }

    fn place(&mut self, node: &Node) -> Option<Vec3> {
        let expr = self.first_expr(node)?;
        match expr.kind {
            ExprKind::Literal(Literal::Vector(at)) => Some(at),
            ExprKind::Bad => None,
            _ => {
                self.bad_literal(expr.span, "expected a place, such as (4, 0, 10)");
                None
            }
        }
    }

    fn part(&mut self, node: &Node) -> Option<Part> {
        let mut kind = None;
        let mut atoms = Vec::new();
        for element in node.children_with_tokens() {
            match element {
                rowan::NodeOrToken::Token(token) if token.kind() == K::Word => {
                    let word = name(&token);
                    if kind.is_some() {
                        atoms.push((Atom::Word(word.text), word.span));
                    } else {
                        kind = Some(word);
                    }
                }
                rowan::NodeOrToken::Node(node) if is_expr(node.kind()) => {
                    let expr = self.expr(&node);
                    match expr.kind {
                        ExprKind::Literal(literal) => atoms.push((Atom::Literal(literal), expr.span)),
                        ExprKind::Bad => {}
                        _ => self.bad_literal(expr.span, "a setting takes a value that is written out"),
                    }
                }
                _ => {}
            }
        }
        Some(Part { kind: kind?, atoms })
    }

    fn wire(&mut self, node: &Node) -> Option<Wire> {
        let order = child(node, K::Order).and_then(|order| self.whole(&order)).unwrap_or(0);
        let cooldown = child(node, K::Cooldown).and_then(|cooldown| {
            let per_who = words(&cooldown).any(|word| word.text == "who");
            self.duration(&cooldown).map(|span| (span, per_who))
        });
        let is_tag = |word: &Name| word.text != "by" && word.text != "or";
        Some(Wire {
            span: range(node),
            signal: path(node)?,
            filter: children(node, K::Filter)
                .flat_map(|f| words(&f).filter(is_tag).collect::<Vec<_>>())
                .collect(),
            guard: child(node, K::Guard).and_then(|guard| self.first_expr(&guard)),
            order,
            cooldown,
            once: child(node, K::Once).is_some(),
            body: child(node, K::Block).map(|block| self.block(&block)).unwrap_or_default(),
        })
    }

    fn playtest(&mut self, node: &Node) -> Option<Playtest> {
        let token = tokens(node).find(|token| token.kind() == K::Text)?;
        let name = Name { text: unquoted(&token), span: token.text_range().into() };
        let mut playtest = Playtest { name, players: Vec::new(), steps: Vec::new() };
        for step in node.children() {
            let span = range(&step);
            match step.kind() {
                K::PlayerStep => {
                    if let (Some(name), Some(at)) = (words(&step).nth(1), path(&step)) {
                        playtest.players.push(Player { name, at, tags: tags(&step) });
                    }
                }
                K::WaitStep => playtest.steps.extend(self.duration(&step).map(|t| (Step::Wait(t), span))),
                K::DoStep => {
                    let Some(player) = words(&step).next() else { continue };
                    for action in children(&step, K::Action) {
                        let step = self.action(&player, &action);
                        playtest.steps.extend(step.map(|step| (step, range(&action))));
                    }
                }
                K::ExpectStep => {
                    let Some(what) = self.first_expr(&step) else { continue };
                    let limit = self.limit(&step);
                    playtest.steps.push((Step::Expect { what, limit }, span));
                }
                K::AlwaysStep => {
                    let always = words(&step).next().is_some_and(|word| word.text == "always");
                    let expr = self.first_expr(&step);
                    playtest.steps.extend(expr.map(|expr| (Step::Always(expr, always), span)));
                }
                _ => {}
            }
        }
        Some(playtest)
    }

    fn limit(&mut self, node: &Node) -> Limit {
        for word in words(node) {
            match word.text.as_str() {
                "within" => return self.duration(node).map_or(Limit::Now, Limit::Within),
                "exactly" => {
                    let count = self.whole(node).and_then(|count| u64::try_from(count).ok());
                    return Limit::Exactly(count.unwrap_or(0), range(node));
                }
                _ => {}
            }
        }
        Limit::Now
    }

    fn action(&mut self, player: &Name, node: &Node) -> Option<Step> {
        let mut words = words(node);
        match words.next()?.text.as_str() {
            "walks" => Some(Step::Walk { player: player.clone(), to: path(node)? }),
            "presses" => Some(Step::Press { player: player.clone(), key: words.next()?.text }),
            _ => self.duration(node).map(Step::Wait),
        }
    }
}

/// Statements.
impl Lower<'_> {
    fn block(&mut self, node: &Node) -> Vec<Statement> {
        node.children().filter_map(|node| self.statement(&node)).collect()
    }

    fn statement(&mut self, node: &Node) -> Option<Statement> {
        Some(match node.kind() {
            K::CommandStep => Statement::Command { command: words(node).next()?, target: path(node)? },
            K::WaitStep => Statement::Wait(self.duration(node)?),
            K::EmitStep => Statement::Emit { signal: path(node)?, args: self.args(node) },
            K::PerformStep => Statement::Perform { effect: path(node)?, args: self.args(node) },
            K::SwitchStep => {
                Statement::Switch { object: path(node)?, on: words(node).next()?.text == "enable" }
            }
            K::SetStep => self.set(node)?,
            K::IfStep => Statement::If {
                when: self.first_expr(node)?,
                then: child(node, K::Block).map(|block| self.block(&block)).unwrap_or_default(),
                otherwise: match child(node, K::Else) {
                    Some(branch) => match (child(&branch, K::Block), child(&branch, K::IfStep)) {
                        (Some(block), _) => self.block(&block),
                        (None, Some(nested)) => self.statement(&nested).into_iter().collect(),
                        (None, None) => Vec::new(),
                    },
                    None => Vec::new(),
                },
            },
            _ => return None,
        })
    }

    fn set(&mut self, node: &Node) -> Option<Statement> {
        let mut nodes = exprs(node);
        let target = nodes.next()?;
        let var = path_of(&target)?;
        let to = self.expr(&nodes.next()?);
        let with = |how, to: Expr| {
            let var = Expr { span: range(&target), kind: ExprKind::Path(var.clone()) };
            Expr { span: to.span, kind: ExprKind::Arithmetic(how, Box::new(var), Box::new(to)) }
        };
        let to = match tokens(node).map(|token| token.kind()).find(|kind| *kind != K::Word) {
            Some(K::PlusEquals) => with(Arithmetic::Add, to),
            Some(K::MinusEquals) => with(Arithmetic::Subtract, to),
            _ => to,
        };
        Some(Statement::Set { var, to })
    }

    fn args(&mut self, node: &Node) -> Vec<Expr> {
        child(node, K::Args).map(|args| exprs(&args).map(|arg| self.expr(&arg)).collect()).unwrap_or_default()
    }
}

/// Expressions and literals.
impl Lower<'_> {
    fn first_expr(&mut self, node: &Node) -> Option<Expr> {
        exprs(node).next().map(|expr| self.expr(&expr))
    }

    fn expr(&mut self, node: &Node) -> Expr {
        Expr { span: range(node), kind: self.expr_kind(node).unwrap_or(ExprKind::Bad) }
    }

    fn boxed(&mut self, node: Option<Node>) -> Option<Box<Expr>> {
        node.map(|node| Box::new(self.expr(&node)))
    }

    fn expr_kind(&mut self, node: &Node) -> Option<ExprKind> {
        match node.kind() {
            K::Path => path_of(node).map(ExprKind::Path),
            K::Paren => self.first_expr(node).map(|expr| expr.kind),
            K::Literal => {
                let token: Token = tokens(node).next()?;
                self.literal(&token).map(ExprKind::Literal)
            }
            K::Vector => self.vector(node).map(|vector| ExprKind::Literal(Literal::Vector(vector))),
            K::Unary => {
                let inner = self.first_expr(node)?;
                Some(match (support::token(node, K::Minus), inner.kind) {
                    (Some(_), ExprKind::Literal(Literal::Number(number))) => {
                        ExprKind::Literal(Literal::Number(-number))
                    }
                    (Some(_), ExprKind::Literal(Literal::Angle(angle))) => {
                        ExprKind::Literal(Literal::Angle(-angle))
                    }
                    (Some(_), kind) => ExprKind::Negate(Box::new(Expr { span: inner.span, kind })),
                    (None, kind) => ExprKind::Not(Box::new(Expr { span: inner.span, kind })),
                })
            }
            K::Binary => self.binary(node),
            _ => None,
        }
    }

    fn binary(&mut self, node: &Node) -> Option<ExprKind> {
        let mut sides = exprs(node);
        let (one, two) = (sides.next(), sides.next());
        let operator = tokens(node).next()?;
        let not = words(node).any(|word| word.text == "not");
        let compare = |how| Some((how, one.clone(), two.clone()));
        let compared = match operator.kind() {
            K::Same => compare(Comparison::Equal),
            K::NotSame => compare(Comparison::NotEqual),
            K::Less => compare(Comparison::Less),
            K::AtMost => compare(Comparison::AtMost),
            K::Greater => compare(Comparison::Greater),
            K::AtLeast => compare(Comparison::AtLeast),
            _ => None,
        };
        if let Some((how, one, two)) = compared {
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
        let word = words(node).find(|word| word.text != "not")?;
        match word.text.as_str() {
            "and" => Some(ExprKind::And(self.boxed(one)?, self.boxed(two)?)),
            "or" => Some(ExprKind::Or(self.boxed(one)?, self.boxed(two)?)),
            "inside" => {
                let zone = self.named(&two?, "expected an object with a zone")?;
                Some(ExprKind::Inside { body: self.boxed(one)?, zone, not })
            }
            _ => {
                let object = self.named(&one?, "expected an object whose state can be asked")?;
                let state = self.named(&two?, "expected a state, such as `open`")?;
                Some(ExprKind::Is { object, state: state.first, not })
            }
        }
    }

    /// An expression that must be a bare name.
    fn named(&mut self, node: &Node, message: &str) -> Option<Path> {
        if node.kind() == K::Path {
            return path_of(node);
        }
        self.bad_literal(range(node), message);
        None
    }

    fn vector(&mut self, node: &Node) -> Option<Vec3> {
        let parts: Vec<_> = exprs(node).map(|part| self.expr(&part)).collect();
        let number = |expr: &Expr| match expr.kind {
            ExprKind::Literal(Literal::Number(number)) => Some(number),
            _ => None,
        };
        let numbers: Option<Vec<_>> = parts.iter().map(number).collect();
        match numbers.as_deref() {
            #[expect(clippy::cast_possible_truncation, reason = "places are of single precision")]
            Some([x, y, z]) => Some(Vec3::new(*x as f32, *y as f32, *z as f32)),
            _ if parts.iter().any(|part| matches!(part.kind, ExprKind::Bad)) => None,
            _ => {
                self.bad_literal(range(node), "expected three numbers, such as (4, 0, 10)");
                None
            }
        }
    }

    fn literal(&mut self, token: &Token) -> Option<Literal> {
        if token.kind() == K::Text {
            return Some(Literal::Text(unquoted(token)));
        }
        let text = token.text();
        let digits = text.find(|c: char| !c.is_ascii_digit() && c != '.').unwrap_or(text.len());
        let (number, unit) = text.split_at(digits);
        let number: f64 = number.parse().ok()?;
        match unit {
            "" => Some(Literal::Number(number)),
            "%" => Some(Literal::Number(number / 100.0)),
            "deg" => Some(Literal::Angle(number)),
            "s" => Some(Literal::Duration(Seconds(number))),
            "ms" => Some(Literal::Duration(Seconds(number / 1000.0))),
            _ => {
                self.bad_literal(token.text_range().into(), "the units are s, ms, deg and %");
                None
            }
        }
    }

    /// The span of time that stands directly in a node.
    fn duration(&mut self, node: &Node) -> Option<Seconds> {
        let token = support::token(node, K::Number)?;
        match self.literal(&token)? {
            Literal::Duration(span) if span.0 > 0.0 && span.0 <= 1e9 => Some(span),
            Literal::Duration(_) => {
                self.bad_literal(token.text_range().into(), "expected a span above 0 s and up to 1e9 s");
                None
            }
            _ => {
                self.bad_literal(token.text_range().into(), "expected a span of time, such as 2s or 400ms");
                None
            }
        }
    }

    /// The whole number that stands directly in a node, with its sign.
    fn whole(&mut self, node: &Node) -> Option<i32> {
        let token = support::token(node, K::Number)?;
        let sign = if support::token(node, K::Minus).is_some() { "-" } else { "" };
        let number = format!("{sign}{}", token.text()).parse();
        if number.is_err() {
            self.bad_literal(token.text_range().into(), "expected a whole number");
        }
        number.ok()
    }

    fn bad_literal(&mut self, span: Span, message: &str) {
        self.diagnostics.push(Diagnostic::error(Code::BadLiteral, message).at(span, "not this"));
    }
}

/// What stands between the quotes, with `\n`, `\"` and `\\` resolved.
fn unquoted(token: &Token) -> SmolStr {
    let quoted = token.text();
    let inner = quoted.get(1..quoted.len() - 1).unwrap_or_default();
    let mut text = String::with_capacity(inner.len());
    let mut chars = inner.chars();
    while let Some(c) = chars.next() {
        text.push(match (c, c == '\\') {
            (_, true) => match chars.next() {
                Some('n') => '\n',
                Some(other) => other,
                None => '\\',
            },
            (c, false) => c,
        });
    }
    text.into()
}

/// Where a node stands. The parser keeps blanks out of the nodes that they surround.
fn range(node: &Node) -> Span {
    node.text_range().into()
}
