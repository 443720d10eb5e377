//! Statements, as they are written.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use stoicheon_core::Arithmetic;

use super::{Among, Expr, Name, Path, Wire, is_default};
use crate::source::Span;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub(crate) struct Statement {
    #[serde(skip)]
    pub(crate) span: Span,
    pub(crate) kind: StatementKind,
}

/// What a statement sets.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Target {
    Name(Path),
    /// A variable that each player has, of one of them; of all for `everyone`.
    Of(Path, Expr),
}

impl Target {
    pub(crate) fn path(&self) -> &Path {
        match self {
            Self::Name(path) | Self::Of(path, _) => path,
        }
    }
}

/// Where somebody is sent: a spot, or what holds one.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub(crate) enum Where {
    Named(Path),
    /// `checkpoint of who`
    Held(Expr),
}

/// One object, or every one of some.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Objects {
    One(Expr),
    Every(Among),
}

/// `over 6s`, said with a command.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct Arg {
    pub(crate) name: Name,
    pub(crate) value: Expr,
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum StatementKind {
    /// A command to a part: `open upper_gate`.
    Tell {
        command: Name,
        who: Objects,
        /// What is said with it.
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        args: Vec<Arg>,
    },
    Wait(Expr),
    Until {
        condition: Expr,
        #[serde(default, skip_serializing_if = "Option::is_none")]
        within: Option<Expr>,
        #[serde(rename = "else", default, skip_serializing_if = "Vec::is_empty")]
        otherwise: Vec<Statement>,
    },
    Emit {
        signal: Path,
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        values: Vec<Expr>,
        /// Whom it goes back to, if not to who caused this.
        #[serde(rename = "for", default, skip_serializing_if = "Option::is_none")]
        behalf: Option<Expr>,
    },
    Perform {
        effect: Path,
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        values: Vec<Expr>,
        /// Whom it goes back to, if not to who caused this.
        #[serde(rename = "for", default, skip_serializing_if = "Option::is_none")]
        behalf: Option<Expr>,
    },
    /// A wire that is made when the statement is reached.
    On(Box<Wire>),
    Do {
        routine: Path,
        #[serde(default, skip_serializing_if = "Vec::is_empty")]
        values: Vec<Expr>,
    },
    Set {
        target: Target,
        /// What is done with the value that is there, for `+=` and the like.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        with: Option<Sign>,
        to: Expr,
    },
    Tween {
        target: Target,
        to: Expr,
        over: Expr,
        #[serde(default, skip_serializing_if = "Option::is_none")]
        ease: Option<Name>,
    },
    /// A value the sequence keeps for itself.
    Keep {
        name: Name,
        value: Expr,
    },
    Enable(Objects),
    Disable(Objects),
    Destroy(Objects),
    Spawn {
        mould: Name,
        at: Expr,
        #[serde(rename = "as", default, skip_serializing_if = "Option::is_none")]
        name: Option<Name>,
    },
    Send {
        who: Objects,
        spot: Where,
        #[serde(rename = "in", default, skip_serializing_if = "Option::is_none")]
        scene: Option<Name>,
    },
    Tag {
        who: Objects,
        tag: Name,
        /// The tag is taken away.
        #[serde(default, skip_serializing_if = "is_default")]
        away: bool,
    },
    If {
        when: Expr,
        then: Vec<Statement>,
        #[serde(rename = "else", default, skip_serializing_if = "Vec::is_empty")]
        otherwise: Vec<Statement>,
    },
    Repeat {
        times: Expr,
        #[serde(rename = "do")]
        body: Vec<Statement>,
    },
    RepeatWhile {
        condition: Expr,
        #[serde(rename = "do")]
        body: Vec<Statement>,
    },
    ForEach {
        name: Name,
        among: Among,
        #[serde(rename = "do")]
        body: Vec<Statement>,
    },
    /// `for each column, row in neighbours(garden, 3, 4)`, `… in range(garden, 3, 4, 2)`
    ForEachCell {
        column: Name,
        row: Name,
        cells: Name,
        of: Vec<Expr>,
        #[serde(rename = "do")]
        body: Vec<Statement>,
    },
    Stop,
}

/// What `+=`, `-=`, `*=` and `/=` do.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Sign {
    Plus,
    Minus,
    Times,
    DividedBy,
}

impl From<Sign> for Arithmetic {
    fn from(sign: Sign) -> Self {
        match sign {
            Sign::Plus => Self::Add,
            Sign::Minus => Self::Subtract,
            Sign::Times => Self::Multiply,
            Sign::DividedBy => Self::Divide,
        }
    }
}
