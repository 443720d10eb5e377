//! A sequence under way.

use serde::{Deserialize, Serialize};

use crate::{
    base::{
        clock::{Tick, Ticks},
        doing::Doing,
        ids::{ObjectId, SignalId, WireId},
        value::{Value, Values},
    },
    plan::expr::Expr,
    space::grid::Cell,
};

/// Where a sequence stands within its wire's own statements or a routine's.
#[derive(Clone, Copy, Debug, Default, Serialize, Deserialize)]
pub(crate) struct Frame {
    /// The routine; `None` for the wire's own.
    pub(crate) routine: Option<u32>,
    /// The next statement.
    pub(crate) at: u32,
    /// Where its own values begin among those that are kept.
    pub(crate) base: u32,
}

/// A loop under way.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) enum Loop {
    Times(i64),
    Each {
        left: Vec<ObjectId>,
        local: u8,
    },
    /// The last one left has its turn first.
    Cells {
        left: Vec<Cell>,
        locals: [u8; 2],
    },
}

/// A sequence under way.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Run {
    pub(crate) wire: WireId,
    /// The signal it reacts to.
    pub(crate) signal: SignalId,
    pub(crate) values: Values,
    pub(crate) doing: Doing,
    /// Since when it waits.
    pub(crate) since: Tick,
    pub(crate) frame: Frame,
    /// Where it goes on when the routine under way has ended, the innermost last.
    pub(crate) calls: Vec<Frame>,
    pub(crate) loops: Vec<Loop>,
    pub(crate) locals: Vec<Value>,
    /// How long before the tick under way the moment is at which it stands: it goes on from there.
    #[serde(default)]
    pub(crate) late: Ticks,
    /// On whose behalf the next statement is done; nothing waits in between.
    #[serde(skip)]
    pub(crate) behalf: Option<ObjectId>,
}

impl Run {
    pub(crate) fn new(wire: WireId, signal: SignalId, values: Values, doing: Doing, since: Tick) -> Self {
        Self {
            wire,
            signal,
            values,
            doing,
            since,
            frame: Frame::default(),
            calls: Vec::new(),
            loops: Vec::new(),
            locals: Vec::new(),
            late: Ticks::ZERO,
            behalf: None,
        }
    }

    /// No routine's own values begin past those that are kept.
    pub(crate) fn is_sound(&self) -> bool {
        self.calls.iter().chain([&self.frame]).all(|frame| frame.base as usize <= self.locals.len())
    }

    pub(crate) fn keep(&mut self, local: u8, value: Value) {
        let at = self.frame.base as usize + usize::from(local);
        if self.locals.len() <= at {
            self.locals.resize(at + 1, Value::Nothing);
        }
        self.locals[at] = value;
    }

    /// The same expression with what only this sequence knows written out, for people.
    pub(crate) fn fill(&self, expr: &Expr) -> Expr {
        let who = self.doing.who.map(Value::Object);
        expr.filled(self.locals(), &self.values, who.as_ref())
    }

    pub(crate) fn locals(&self) -> &[Value] {
        self.locals.get(self.frame.base as usize..).unwrap_or_default()
    }
}
