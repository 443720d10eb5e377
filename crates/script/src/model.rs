//! What a text says, as plain data: names are still names, and every piece knows where it stands.

use smol_str::SmolStr;
use stoicheon_core::{Arithmetic, Comparison, Seconds, Type, Vec3};

use crate::source::Span;

/// A word and where it stands.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Name {
    pub(crate) text: SmolStr,
    pub(crate) span: Span,
}

/// `name` or `object.name`
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Path {
    pub(crate) first: Name,
    pub(crate) second: Option<Name>,
}

impl Path {
    pub(crate) fn span(&self) -> Span {
        let end = self.second.as_ref().map_or(self.first.span.end, |second| second.span.end);
        Span { start: self.first.span.start, end }
    }

    /// As it is written.
    pub(crate) fn text(&self) -> SmolStr {
        match &self.second {
            Some(second) => smol_str::format_smolstr!("{}.{}", self.first.text, second.text),
            None => self.first.text.clone(),
        }
    }
}

#[derive(Debug, Default)]
pub(crate) struct Scene {
    pub(crate) name: Option<Name>,
    pub(crate) vars: Vec<Var>,
    pub(crate) signals: Vec<Declaration>,
    pub(crate) effects: Vec<Declaration>,
    pub(crate) objects: Vec<Object>,
    pub(crate) wires: Vec<Wire>,
    pub(crate) rules: Vec<Expr>,
    pub(crate) playtests: Vec<Playtest>,
}

impl Scene {
    /// All wires, those inside objects too, in the order of the text.
    pub(crate) fn all_wires(&self) -> Vec<(&Wire, Option<&Name>)> {
        let nested =
            self.objects.iter().flat_map(|object| object.wires.iter().map(|wire| (wire, Some(&object.name))));
        let mut all: Vec<_> = self.wires.iter().map(|wire| (wire, None)).chain(nested).collect();
        all.sort_by_key(|(wire, _)| wire.span);
        all
    }
}

#[derive(Debug)]
pub(crate) struct Var {
    pub(crate) name: Name,
    pub(crate) ty: Option<(Type, Span)>,
    pub(crate) first: Expr,
}

/// A signal or an effect.
#[derive(Debug)]
pub(crate) struct Declaration {
    pub(crate) name: Name,
    pub(crate) fields: Vec<(Name, Type)>,
}

#[derive(Debug)]
pub(crate) struct Object {
    pub(crate) name: Name,
    pub(crate) at: Option<Vec3>,
    pub(crate) tags: Vec<Name>,
    pub(crate) parts: Vec<Part>,
    pub(crate) wires: Vec<Wire>,
}

#[derive(Debug)]
pub(crate) struct Part {
    pub(crate) kind: Name,
    /// Setting names and values in a row; only the kind can tell which is which.
    pub(crate) atoms: Vec<(Atom, Span)>,
}

#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Atom {
    Word(SmolStr),
    Literal(Literal),
}

#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Literal {
    Number(f64),
    /// In degrees.
    Angle(f64),
    Duration(Seconds),
    Text(SmolStr),
    Vector(Vec3),
}

#[derive(Debug)]
pub(crate) struct Wire {
    pub(crate) span: Span,
    pub(crate) signal: Path,
    pub(crate) filter: Vec<Name>,
    pub(crate) guard: Option<Expr>,
    pub(crate) order: i32,
    pub(crate) cooldown: Option<(Seconds, bool)>,
    pub(crate) once: bool,
    pub(crate) body: Vec<Statement>,
}

#[derive(Debug)]
pub(crate) enum Statement {
    Command { command: Name, target: Path },
    Wait(Seconds),
    Emit { signal: Path, args: Vec<Expr> },
    Perform { effect: Path, args: Vec<Expr> },
    Set { var: Path, to: Expr },
    Switch { object: Path, on: bool },
    If { when: Expr, then: Vec<Statement>, otherwise: Vec<Statement> },
}

#[derive(Clone, Debug)]
pub(crate) struct Expr {
    pub(crate) span: Span,
    pub(crate) kind: ExprKind,
}

#[derive(Clone, Debug)]
pub(crate) enum ExprKind {
    Literal(Literal),
    Path(Path),
    Not(Box<Expr>),
    Negate(Box<Expr>),
    And(Box<Expr>, Box<Expr>),
    Or(Box<Expr>, Box<Expr>),
    Compare(Comparison, Box<Expr>, Box<Expr>),
    Arithmetic(Arithmetic, Box<Expr>, Box<Expr>),
    /// `object is state`
    Is {
        object: Path,
        state: Name,
        not: bool,
    },
    /// `who inside zone`
    Inside {
        body: Box<Expr>,
        zone: Path,
        not: bool,
    },
    /// It could not be read; the fault is reported already.
    Bad,
}

#[derive(Debug)]
pub(crate) struct Playtest {
    pub(crate) name: Name,
    pub(crate) players: Vec<Player>,
    pub(crate) steps: Vec<(Step, Span)>,
}

#[derive(Debug)]
pub(crate) struct Player {
    pub(crate) name: Name,
    pub(crate) at: Path,
    pub(crate) tags: Vec<Name>,
}

#[derive(Debug)]
pub(crate) enum Step {
    Walk {
        player: Name,
        to: Path,
    },
    Press {
        player: Name,
        key: SmolStr,
    },
    Wait(Seconds),
    Expect {
        what: Expr,
        limit: Limit,
    },
    /// True for `always`, false for `never`.
    Always(Expr, bool),
}

#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Limit {
    Now,
    Within(Seconds),
    Exactly(u64, Span),
}
