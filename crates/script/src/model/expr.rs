//! Expressions, as they are written.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use smol_str::SmolStr;
use stoicheon_core::{Arithmetic, Comparison};

use super::{Name, Path, is_default};
use crate::source::Span;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub(crate) struct Expr {
    #[serde(skip)]
    pub(crate) span: Span,
    pub(crate) kind: ExprKind,
}

impl Expr {
    /// The expressions directly inside it, those of a group left out.
    pub(crate) fn parts(&self) -> Vec<&Self> {
        match &self.kind {
            ExprKind::Literal(_)
            | ExprKind::Name(_)
            | ExprKind::Last(_)
            | ExprKind::Count(_)
            | ExprKind::Quantity(..)
            | ExprKind::Bad => Vec::new(),
            ExprKind::Call(_, args) => args.iter().collect(),
            ExprKind::Nearest(_, to) => to.iter().map(|to| &**to).collect(),
            ExprKind::Vector(parts) | ExprKind::Text(parts) => parts.iter().collect(),
            ExprKind::Of(_, one)
            | ExprKind::About(one, _)
            | ExprKind::Not(one)
            | ExprKind::Negate(one)
            | ExprKind::Is { subject: one, .. }
            | ExprKind::Inside { body: one, span: None, .. }
            | ExprKind::Tagged { object: one, .. }
            | ExprKind::Carries { object: one, .. }
            | ExprKind::InScene { object: one, .. } => vec![one],
            ExprKind::Inside { body: one, span: Some(two), .. }
            | ExprKind::And(one, two)
            | ExprKind::Or(one, two)
            | ExprKind::Compare(_, one, two)
            | ExprKind::Arithmetic(_, one, two) => vec![one, two],
        }
    }
}

/// A value that is written out.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Literal {
    Number(f64),
    Whole(i64),
    /// In degrees.
    Degrees(f64),
    Seconds(f64),
    /// In ticks of the world.
    Ticks(u64),
    Text(#[schemars(with = "String")] SmolStr),
    /// `#rrggbb` or `#rrggbbaa`.
    Colour(#[schemars(with = "String")] SmolStr),
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum ExprKind {
    Literal(Literal),
    /// A variable, a field, an object, a spot, a word: whatever has that name.
    Name(Path),
    /// A variable of somebody.
    Of(Path, Box<Expr>),
    Call(Name, Vec<Expr>),
    /// In a playtest: a value of a signal or an effect as it came last.
    Last(Path),
    Count(Box<Among>),
    /// Whether all, some or none of a group are meant.
    Quantity(Quantity, Box<Among>),
    Nearest(Box<Among>, Option<Box<Expr>>),
    /// Values one after the other as one text.
    Text(Vec<Expr>),
    Vector(Vec<Expr>),
    /// A turn.
    About(Box<Expr>, Box<Axis>),
    Not(Box<Expr>),
    Negate(Box<Expr>),
    And(Box<Expr>, Box<Expr>),
    Or(Box<Expr>, Box<Expr>),
    Compare(
        #[schemars(with = "ComparisonSchema")]
        #[serde(with = "comparison")]
        Comparison,
        Box<Expr>,
        Box<Expr>,
    ),
    Arithmetic(
        #[schemars(with = "ArithmeticSchema")]
        #[serde(with = "arithmetic")]
        Arithmetic,
        Box<Expr>,
        Box<Expr>,
    ),
    /// `upper_gate is open`, `errand is not hunting`, `heron is gone`
    Is {
        subject: Box<Expr>,
        state: Name,
        #[serde(default, skip_serializing_if = "is_default")]
        not: bool,
    },
    /// `who inside pad`, `who inside pad for 2s`
    Inside {
        body: Box<Expr>,
        zone: Path,
        #[serde(default, rename = "for", skip_serializing_if = "Option::is_none")]
        span: Option<Box<Expr>>,
        #[serde(default, skip_serializing_if = "is_default")]
        not: bool,
    },
    /// `who tagged keeper`
    Tagged {
        object: Box<Expr>,
        tag: Name,
        #[serde(default, skip_serializing_if = "is_default")]
        not: bool,
    },
    /// `who carries token`: an item with that tag.
    Carries {
        object: Box<Expr>,
        tag: Name,
        #[serde(default, skip_serializing_if = "is_default")]
        not: bool,
    },
    /// Whether it is in a scene of the project.
    InScene {
        object: Box<Expr>,
        scene: Name,
        #[serde(default, skip_serializing_if = "is_default")]
        not: bool,
    },
    /// It could not be read; the fault is reported already.
    #[serde(skip)]
    Bad,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Axis {
    /// x, y or z.
    Named(Name),
    Vector(Expr),
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Quantity {
    Any,
    No,
    Every,
}

/// Some of the objects there are.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Among {
    #[serde(skip)]
    pub(crate) span: Span,
    /// A tag, or `everyone`.
    pub(crate) of: Name,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) inside: Option<Path>,
    #[serde(rename = "is", default, skip_serializing_if = "Option::is_none")]
    pub(crate) state: Option<Name>,
    #[serde(default, skip_serializing_if = "is_default")]
    pub(crate) is_not: bool,
    #[serde(rename = "where", default, skip_serializing_if = "Option::is_none")]
    pub(crate) such_that: Option<Expr>,
}

/// The signs of comparison, for JSON and for texts.
pub(crate) const COMPARISONS: [(Comparison, &str); 6] = [
    (Comparison::Equal, "=="),
    (Comparison::NotEqual, "!="),
    (Comparison::Less, "<"),
    (Comparison::AtMost, "<="),
    (Comparison::Greater, ">"),
    (Comparison::AtLeast, ">="),
];

/// The signs of arithmetic, for JSON and for texts.
pub(crate) const ARITHMETIC: [(Arithmetic, &str); 4] = [
    (Arithmetic::Add, "+"),
    (Arithmetic::Subtract, "-"),
    (Arithmetic::Multiply, "*"),
    (Arithmetic::Divide, "/"),
];

pub(crate) fn sign<T: PartialEq>(table: &[(T, &'static str)], of: &T) -> &'static str {
    table.iter().find(|(one, _)| one == of).map_or("?", |(_, sign)| sign)
}

macro_rules! by_sign {
    ($module:ident, $schema:ident, $ty:ty, $table:ident, [$($sign:literal),*]) => {
        mod $module {
            use serde::{Deserialize, Deserializer, Serialize, Serializer, de::Error};

            pub(super) fn serialize<S: Serializer>(how: &$ty, to: S) -> Result<S::Ok, S::Error> {
                super::sign(&super::$table, how).serialize(to)
            }

            pub(super) fn deserialize<'de, D: Deserializer<'de>>(from: D) -> Result<$ty, D::Error> {
                let text = String::deserialize(from)?;
                let found = super::$table.iter().find(|(_, sign)| *sign == text);
                found.map(|(how, _)| *how).ok_or_else(|| D::Error::custom(format!(
                    "expected one of {}, found \"{text}\"", [$($sign),*].join(" ")
                )))
            }
        }

        struct $schema;

        impl JsonSchema for $schema {
            fn schema_name() -> std::borrow::Cow<'static, str> {
                stringify!($module).into()
            }

            fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
                schemars::json_schema!({ "enum": [$($sign),*] })
            }
        }
    };
}

by_sign!(
    comparison,
    ComparisonSchema,
    stoicheon_core::Comparison,
    COMPARISONS,
    ["==", "!=", "<", "<=", ">", ">="]
);
by_sign!(arithmetic, ArithmeticSchema, stoicheon_core::Arithmetic, ARITHMETIC, ["+", "-", "*", "/"]);

/// A type, for the schema.
pub(crate) struct TypeSchema;

impl JsonSchema for TypeSchema {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Type".into()
    }

    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        let plain: Vec<_> = stoicheon_core::Type::PLAIN.iter().map(stoicheon_core::Type::word).collect();
        schemars::json_schema!({
            "oneOf": [
                { "enum": plain },
                {
                    "type": "object",
                    "properties": {
                        "one_of": { "type": "array", "items": { "type": "string" }, "minItems": 1 }
                    },
                    "required": ["one_of"],
                    "additionalProperties": false
                }
            ]
        })
    }
}
