//! What a text says, as plain data: names are still names, and every piece knows where it stands.
//!
//! It is also the JSON form of a scene: everything but the places is written, and the schema is made from it.

mod expr;
mod items;
mod moves;
mod name;
mod playtest;
mod statement;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use stoicheon_core::{Seconds, Type};

pub(crate) use expr::{ARITHMETIC, Among, Axis, COMPARISONS, Expr, ExprKind, Literal, Quantity, sign};
pub(crate) use items::{Item, Items};
pub(crate) use moves::{Moves, Shift};
pub(crate) use name::{Name, Path};
pub(crate) use playtest::{Case, Cases, Limit, Player, Playtest, PlaytestStep, SpanValue, Step};
pub(crate) use statement::{Arg, Objects, Sign, Statement, StatementKind, Target, Where};

use crate::source::Span;

pub(crate) fn is_default<T: Default + PartialEq>(value: &T) -> bool {
    *value == T::default()
}

/// Everything one file says.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
#[schemars(title = "A Stoicheon wiring file")]
pub(crate) struct File {
    /// The name of the scene.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) scene: Option<Name>,
    /// The name of the project, in the file that is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) project: Option<Name>,
    /// The files of a project's scenes.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) scenes: Vec<SceneFile>,
    /// Ticks per second.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) ticks: Option<Count>,
    /// How many players there may be at one time.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) players: Option<Count>,
    /// Where random numbers begin; playtests run with each of them.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) seeds: Vec<u64>,
    /// Which scene of a project it belongs to, from 1; 0 for what all of them share, and for a file that stands alone.
    #[serde(skip)]
    pub(crate) scene_number: u32,
    /// The number of its source.
    #[serde(skip)]
    pub(crate) source: u32,
    /// The shortest span of time that is written in it, in seconds, and where.
    #[serde(skip)]
    pub(crate) shortest: Option<(f64, Span)>,
    /// Files whose declarations count here too.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) shared: Vec<Name>,
    /// Files in which a game says what it offers.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) catalogues: Vec<Name>,
    /// Files that say where objects stand.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) places: Vec<Name>,
    /// Values for constants that are declared elsewhere.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) given: Vec<Given>,
    /// What it consists of, in the order of the text.
    #[serde(skip_serializing_if = "is_default")]
    pub(crate) items: Items,
    /// Patterns to be used.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) kits: Vec<Kit>,
    /// Scripted runs with expectations.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub(crate) playtests: Vec<Playtest>,
}

/// A scene of a project.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct SceneFile {
    pub(crate) file: Name,
    /// What becomes of it while nobody is in it: unloaded, frozen or running.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) left: Option<Name>,
}

/// A whole number with its place in the text.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub(crate) struct Count {
    #[serde(skip)]
    pub(crate) span: Span,
    pub(crate) count: u32,
}

/// A type, as it is written. One that does not exist is told of and then taken for `number`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub(crate) struct TypeRef {
    #[serde(skip)]
    pub(crate) span: Span,
    #[schemars(with = "expr::TypeSchema")]
    pub(crate) ty: Type,
}

/// A named constant, which a project, a playtest or the host may set before play.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Constant {
    pub(crate) name: Name,
    #[serde(rename = "type")]
    pub(crate) ty: TypeRef,
    pub(crate) value: Expr,
    /// What it is for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) about: Option<Name>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Var {
    pub(crate) name: Name,
    #[serde(rename = "type")]
    pub(crate) ty: TypeRef,
    pub(crate) first: Expr,
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) per_player: bool,
    /// It is remembered when its scene is unloaded, and in a save.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) remember: bool,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Field {
    pub(crate) name: Name,
    #[serde(rename = "type")]
    pub(crate) ty: TypeRef,
}

/// A signal or an effect.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Declaration {
    pub(crate) name: Name,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) fields: Vec<Field>,
    /// It crosses to other worlds.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) crosses: Option<Crossing>,
    /// The game itself emits it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub(crate) sent_by_game: bool,
    /// The game itself listens to it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub(crate) heard_by_game: bool,
}

/// `crosses to authority by keeper`
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Crossing {
    /// authority or players.
    pub(crate) to: Name,
    /// The tags of those who may send it; none for anybody.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) by: Vec<Name>,
}

/// An object, a manager or a mould.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Object {
    #[serde(skip)]
    pub(crate) span: Span,
    pub(crate) name: Name,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) at: Option<Expr>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) facing: Option<Expr>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) tags: Vec<Name>,
    /// The object it hangs on: it is placed and faces as seen from there.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) of: Option<Path>,
    /// It begins disabled.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) disabled: bool,
    /// It is a body, which can touch zones.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) body: bool,
    /// Where it is, and whether it is there, is remembered when its scene is unloaded, and in a save.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) remember: bool,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) parts: Vec<Part>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) vars: Vec<Var>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) signals: Vec<Declaration>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) spots: Vec<Spot>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) wires: Vec<Wire>,
}

impl Object {
    /// An object with nothing to it yet.
    pub(crate) fn new(name: Name, span: Span) -> Self {
        Self {
            span,
            name,
            at: None,
            facing: None,
            tags: Vec::new(),
            of: None,
            disabled: false,
            body: false,
            remember: false,
            parts: Vec::new(),
            vars: Vec::new(),
            signals: Vec::new(),
            spots: Vec::new(),
            wires: Vec::new(),
        }
    }
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Spot {
    pub(crate) name: Name,
    pub(crate) at: Expr,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) facing: Option<Expr>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Part {
    pub(crate) kind: Name,
    /// The names of settings and their values in a row; only the kind can tell which is which.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) settings: Vec<Atom>,
}

/// A word or a value among the settings of a part.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Atom {
    Word(Name),
    Value(Expr),
    /// What stands in braces.
    Group(Vec<Atom>),
}

impl Atom {
    pub(crate) fn span(&self) -> Span {
        self.edge(<[Self]>::first).to(self.edge(<[Self]>::last))
    }

    /// Where the first or the last of it stands. Asking each group for both would double with every level.
    fn edge(&self, of: impl Fn(&[Self]) -> Option<&Self>) -> Span {
        let mut atom = self;
        loop {
            match atom {
                Self::Word(name) => return name.span,
                Self::Value(expr) => return expr.span,
                Self::Group(atoms) => match of(atoms) {
                    Some(inner) => atom = inner,
                    None => return Span::default(),
                },
            }
        }
    }
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Wire {
    #[serde(skip)]
    pub(crate) span: Span,
    /// The signal; `object.signal` for an object's own.
    pub(crate) on: Path,
    /// It listens to that signal of every object with the tag that the path begins with.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) every: bool,
    /// What the fields of the signal must be, one after the other; `_` for anything.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) pattern: Vec<Expr>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) by: Vec<Name>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) when: Option<Expr>,
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) order: i32,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) cooldown: Option<SecondsValue>,
    /// The cooldown is for each one who causes the signal.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) cooldown_per_who: bool,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) delay: Option<SecondsValue>,
    /// How often it is taken at most.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) times: Option<u32>,
    /// ignore, restart, queue or overlap.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) while_running: Option<Name>,
    /// A reaction keeps only those out who caused it.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) running_per_who: bool,
    /// The stage it belongs to.
    #[serde(rename = "while", default, skip_serializing_if = "Option::is_none")]
    pub(crate) during: Option<During>,
    #[serde(rename = "do")]
    pub(crate) body: Vec<Statement>,
}

impl Wire {
    /// A wire with nothing to it but what it listens to.
    pub(crate) fn bare(on: Path, every: bool, span: Span) -> Self {
        Self {
            span,
            on,
            every,
            pattern: Vec::new(),
            by: Vec::new(),
            when: None,
            order: 0,
            cooldown: None,
            cooldown_per_who: false,
            delay: None,
            times: None,
            while_running: None,
            running_per_who: false,
            during: None,
            body: Vec::new(),
        }
    }
}

/// `while errand is hunting`
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct During {
    pub(crate) stages: Path,
    #[serde(rename = "is")]
    pub(crate) stage: Name,
}

/// A span of time, in seconds.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub(crate) struct SecondsValue(pub(crate) f64);

impl From<SecondsValue> for Seconds {
    fn from(value: SecondsValue) -> Self {
        Self(value.0)
    }
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Bind {
    #[serde(skip)]
    pub(crate) span: Span,
    pub(crate) keep: Path,
    /// It keeps the variable of that name of each object with the tag that the path begins with.
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) each: bool,
    pub(crate) to: Expr,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Routine {
    #[serde(skip)]
    pub(crate) span: Span,
    pub(crate) name: Name,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) fields: Vec<Field>,
    #[serde(rename = "do")]
    pub(crate) body: Vec<Statement>,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Kit {
    pub(crate) name: Name,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) parameters: Vec<Parameter>,
    pub(crate) items: Items,
    /// Counts the kits that are made of others, in which names stand for parameters; 0 for one as it was written.
    #[serde(skip)]
    pub(crate) made: u32,
    /// The scene it was written in, if it was made of another.
    #[serde(skip)]
    pub(crate) home: Option<u32>,
}

/// A parameter of a kit.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Parameter {
    pub(crate) name: Name,
    #[serde(rename = "type")]
    pub(crate) ty: ParamTypeRef,
    /// What it is where a use does not give it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) default: Option<Expr>,
}

impl Parameter {
    /// Whether a name stands for it, and no value.
    pub(crate) fn is_name(&self) -> bool {
        !matches!(self.ty.ty, ParamType::Value(_))
    }

    /// Whether a name may stand for it: that of a spot of another scene, too.
    pub(crate) fn may_be_name(&self) -> bool {
        self.is_name() || matches!(self.ty.ty, ParamType::Value(Type::Spot))
    }
}

/// The type of a parameter, as it is written.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub(crate) struct ParamTypeRef {
    #[serde(skip)]
    pub(crate) span: Span,
    pub(crate) ty: ParamType,
}

/// What a parameter of a kit is.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum ParamType {
    Tag,
    Signal,
    Effect,
    Mould,
    #[serde(untagged)]
    Value(#[schemars(with = "expr::TypeSchema")] Type),
}

impl ParamType {
    /// Those that are names, in the order a page lists them.
    pub(crate) const NAMES: [Self; 4] = [Self::Tag, Self::Signal, Self::Effect, Self::Mould];

    pub(crate) fn word(&self) -> &'static str {
        match self {
            Self::Tag => "tag",
            Self::Signal => "signal",
            Self::Effect => "effect",
            Self::Mould => "mould",
            Self::Value(ty) => ty.word(),
        }
    }
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Use {
    #[serde(skip)]
    pub(crate) span: Span,
    pub(crate) kit: Name,
    /// What the use is called; by default the kit's name and a number.
    #[serde(rename = "as", default, skip_serializing_if = "Option::is_none")]
    pub(crate) name: Option<Name>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) given: Vec<Given>,
    /// What is given could not be read, and is told of.
    #[serde(skip)]
    pub(crate) torn: bool,
    /// The kit that was made for it, in which names stand for parameters; 0 for the one as it was written.
    #[serde(skip)]
    pub(crate) made: u32,
}

/// A value for a parameter of a kit, or for a constant.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Given {
    pub(crate) name: Name,
    pub(crate) value: Expr,
}
