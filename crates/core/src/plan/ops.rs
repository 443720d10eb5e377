//! Compiled sequences: a flat list of operations with jumps.

use std::sync::Arc;

use serde::{Deserialize, Serialize};
use smallvec::SmallVec;
use smol_str::SmolStr;

use crate::{
    base::{
        clock::Ticks,
        ease::Ease,
        ids::{EffectId, MouldId, PartId, RoutineId, SceneId, SignalId, Tag},
        numbers::Command,
        value::Text,
    },
    plan::{among::Among, expr::Expr, patterns::Pattern, steps::Target},
};

/// A step as it runs.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) enum Op {
    Command {
        part: PartId,
        command: Command,
        args: Box<[(Text, Expr)]>,
    },
    Tell {
        object: Expr,
        word: Text,
        commands: SmallVec<[(u32, Command); 2]>,
        args: Box<[(Text, Expr)]>,
    },
    Wait(Ticks),
    WaitFor(Expr),
    /// Goes on at the next op when the condition holds; at `late` when it took longer.
    Until {
        condition: Arc<Expr>,
        within: Option<Expr>,
        late: u32,
    },
    Emit {
        signal: SignalId,
        values: Vec<Expr>,
    },
    EmitOf {
        object: Expr,
        signal: Text,
        values: Vec<Expr>,
    },
    /// The next op is done on behalf of somebody else.
    For(Expr),
    Wire(Arc<Pattern>),
    Perform {
        effect: EffectId,
        values: Vec<Expr>,
    },
    Set {
        target: Target,
        to: Expr,
    },
    Tween {
        target: Target,
        to: Expr,
        over: Expr,
        ease: Ease,
    },
    Switch {
        object: Expr,
        on: bool,
    },
    Destroy(Expr),
    Spawn {
        mould: MouldId,
        at: Expr,
        local: Option<u8>,
    },
    Send {
        who: Expr,
        spot: Expr,
    },
    SendAway {
        who: Expr,
        scene: Text,
        spot: Text,
    },
    Tag {
        object: Expr,
        tag: Tag,
        on: bool,
    },
    Unless {
        when: Expr,
        goto: u32,
    },
    Goto(u32),
    /// Begins a loop of so many rounds.
    Times(Expr),
    /// Begins a loop with a round for each.
    Each {
        among: Among,
        local: u8,
    },
    /// Begins a loop with a round for each cell.
    Cells {
        /// The object, the column and the row.
        around: Box<[Expr; 3]>,
        within: Option<Expr>,
        locals: [u8; 2],
    },
    /// The next round, or on to `end` when there is none.
    Round {
        end: u32,
    },
    Run {
        routine: RoutineId,
        values: Vec<Expr>,
    },
    Stop,
}

/// A sequence that others run.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Routine {
    pub(crate) name: SmolStr,
    /// How many values it is given.
    pub(crate) values: u8,
    pub(crate) ops: Arc<[Op]>,
    pub(crate) scene: Option<SceneId>,
    /// Its scene was unloaded; loaded again, it declares it again.
    pub(crate) ended: bool,
}
