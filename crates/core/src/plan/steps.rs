//! Sequences: reactions as plain data, which can wait over many ticks.
//!
//! A sequence is written as a tree of [`Step`]s and compiled to a flat list with jumps, so that where it stands
//! is a few numbers.

use crate::{
    base::{
        clock::Seconds,
        ease::Ease,
        ids::{EffectId, MouldId, PartId, PropertyName, RoutineId, SignalId, VarId},
        numbers::Command,
        value::Text,
    },
    plan::{
        among::Among,
        expr::{Expr, PartOf},
        patterns::NewWire,
    },
};

/// What a statement changes.
#[derive(Clone, Debug, PartialEq, serde::Serialize, serde::Deserialize)]
#[non_exhaustive]
pub enum Target {
    /// A variable; one that each player has, for all of them.
    Var(VarId),
    /// A variable that each player has, of one of them.
    VarOf(VarId, Expr),
    /// A variable of an object that is known only then.
    Property(Expr, PropertyName),
    /// The place of an object.
    Place(Expr),
    /// Which way an object faces.
    Facing(Expr),
    /// The velocity of a body.
    Velocity(Expr),
    /// A setting of a part that may change while the world runs.
    Setting(PartOf, Text),
    /// A value the sequence keeps for itself.
    Local(u8),
}

/// One statement.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Step {
    /// Tells a part what to do; `command` is a number of its kind's list.
    Command {
        /// The part.
        part: PartId,
        /// The command.
        command: Command,
        /// What is said with it, by name.
        args: Vec<(Text, Expr)>,
    },
    /// Tells an object that is known only then what to do: its first part that takes the command.
    Tell {
        /// The object.
        object: Expr,
        /// The word for the command.
        command: Text,
        /// What is said with it, by name.
        args: Vec<(Text, Expr)>,
    },
    /// Goes on after that time.
    Wait(Seconds),
    /// Goes on after a time that is known only then; at the shortest one tick.
    WaitFor(Expr),
    /// Goes on when the condition holds: at once, or in the clocks phase after it came to hold.
    Until {
        /// The condition.
        condition: Expr,
        /// How long it may take.
        within: Option<Expr>,
        /// What is done when it took longer, before going on.
        otherwise: Vec<Step>,
    },
    /// Emits a signal.
    Emit {
        /// The signal.
        signal: SignalId,
        /// Its payload, field for field.
        values: Vec<Expr>,
    },
    /// Emits a signal of an object that is known only then.
    EmitOf {
        /// The object.
        object: Expr,
        /// The name of the signal, without the object's.
        signal: Text,
        /// Its payload, field for field.
        values: Vec<Expr>,
    },
    /// Does something on behalf of somebody else, to whom it goes back: a command, a signal or an effect.
    For {
        /// On whose behalf.
        who: Expr,
        /// What is done.
        step: Box<Step>,
    },
    /// Makes a wire. It sleeps and ends with the owner of the wire that makes it.
    Wire(Box<NewWire>),
    /// Asks the host to perform an effect.
    Perform {
        /// The effect.
        effect: EffectId,
        /// Its values, field for field.
        values: Vec<Expr>,
    },
    /// Sets something.
    Set {
        /// What.
        target: Target,
        /// What it is from now on.
        to: Expr,
    },
    /// Lets something go to another value over a time, and goes on at once.
    Tween {
        /// What: not a value of the sequence's own.
        target: Target,
        /// Where to.
        to: Expr,
        /// How long it takes.
        over: Expr,
        /// How it sets out and arrives.
        ease: Ease,
    },
    /// Enables an object.
    Enable(Expr),
    /// Disables an object.
    Disable(Expr),
    /// Ends an object.
    Destroy(Expr),
    /// Makes an object after a mould.
    Spawn {
        /// The mould.
        mould: MouldId,
        /// Where: an object, a spot or a place.
        at: Expr,
        /// Where the sequence keeps which one it is.
        local: Option<u8>,
    },
    /// Sends a body to a spot: it is there at once, passes nothing on the way, and faces as the spot says.
    Send {
        /// The body.
        who: Expr,
        /// The spot.
        spot: Expr,
    },
    /// Sends a body to a spot of another scene, in upkeep; if this world does not know that, the host is told.
    SendAway {
        /// The body.
        who: Expr,
        /// The scene.
        scene: Text,
        /// The spot there.
        spot: Text,
    },
    /// Gives an object a tag.
    Tag(Expr, Text),
    /// Takes a tag away.
    Untag(Expr, Text),
    /// One branch or the other.
    If {
        /// The condition.
        when: Expr,
        /// If it holds.
        then: Vec<Step>,
        /// If it does not.
        otherwise: Vec<Step>,
    },
    /// Again and again, that often.
    Repeat {
        /// How often.
        times: Expr,
        /// What.
        steps: Vec<Step>,
    },
    /// Again and again, as long as the condition holds when it is about to begin.
    RepeatWhile {
        /// The condition.
        when: Expr,
        /// What.
        steps: Vec<Step>,
    },
    /// Once for each of some objects: those that are meant when it begins, by number, without those that are gone
    /// when their turn comes.
    ForEach {
        /// The objects.
        among: Among,
        /// Where the sequence keeps whose turn it is.
        local: u8,
        /// What.
        steps: Vec<Step>,
    },
    /// Once for each of some cells of a grid, by column, then row: those that share an edge with a cell, or all that are no
    /// more than so many steps from it. Cells past the shape that is pointed at are among them.
    ForEachCell {
        /// The object with the grid.
        object: Expr,
        /// The column of the cell they are around.
        column: Expr,
        /// Its row.
        row: Expr,
        /// How many steps away they may be, from 0 to 100; `None` for the neighbours alone.
        within: Option<Expr>,
        /// Where the sequence keeps the column and the row whose turn it is.
        locals: [u8; 2],
        /// What.
        steps: Vec<Step>,
    },
    /// Runs a routine, and goes on when it has ended.
    Run {
        /// The routine.
        routine: RoutineId,
        /// Its values, one for each that it keeps from the start.
        values: Vec<Expr>,
    },
    /// Ends the whole sequence, also from within a routine.
    Stop,
}

/// A sequence, written in Rust.
///
/// ```
/// use stoicheon_core::{Door, Steps, World, secs};
/// let mut world = World::<()>::new();
/// let gate = world.object("upper_gate").add()?;
/// let door = world.attach(gate, Door::swing(85.0))?;
/// let rung = world.declare_signal::<()>("rung")?;
/// world.on(rung).run_steps(Steps::new().open(door).wait(secs(5.0)).close(door))?;
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Steps(pub Vec<Step>);

impl Steps {
    /// A sequence that does nothing yet.
    pub fn new() -> Self {
        Self::default()
    }

    /// And then that step.
    pub fn step(mut self, step: Step) -> Self {
        self.0.push(step);
        self
    }

    /// And then waits.
    pub fn wait(self, span: Seconds) -> Self {
        self.step(Step::Wait(span))
    }

    /// And then waits until the condition holds, however long it takes.
    pub fn until(self, condition: Expr) -> Self {
        self.step(Step::Until { condition, within: None, otherwise: Vec::new() })
    }

    /// And then sets a variable.
    pub fn set(self, var: VarId, to: impl Into<Expr>) -> Self {
        self.step(Step::Set { target: Target::Var(var), to: to.into() })
    }

    /// And then does those steps that often.
    pub fn repeat(self, times: i64, steps: Self) -> Self {
        self.step(Step::Repeat { times: times.into(), steps: steps.0 })
    }
}

impl AsRef<[Step]> for Steps {
    fn as_ref(&self) -> &[Step] {
        &self.0
    }
}
