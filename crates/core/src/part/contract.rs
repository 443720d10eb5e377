//! Parts: ready-made behaviours on an object.
//!
//! A part is a small machine: it takes commands, moves tick by tick while it has to, and says what happened
//! through its signals. It never knows another part; a wire joins them. A game's own parts are written against
//! the same [`Part`] trait as ours.

use std::{any::Any, fmt};

use dyn_clone::DynClone;

use crate::{
    base::{
        clock::TickRate,
        error::BuildError,
        ids::{ObjectId, PartId, SignalId},
        numbers::{Command, PartState},
        value::Value,
    },
    part::{
        cx::{PartCx, ReadCx},
        kind::{Join, PartKind},
        offers::{Aim, Current, Footing, Offer},
        region::Region,
    },
    plan::{expr::Expr, new_var::NewVar},
    space::shape::Shape,
};

/// Whether a part has something to do in the next motion phase.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Activity {
    /// It is called again in the next tick.
    Moving,
    /// It is called no more until it wakes itself in a command.
    Still,
}

dyn_clone::clone_trait_object!(Part);

/// A behaviour an object can have.
///
/// A part is data that can be cloned: snapshots share it with the world until it is called, and then it is cloned.
pub trait Part: fmt::Debug + Any + Send + Sync + DynClone {
    /// What kind of part it is: the same for all parts of its type.
    fn kind(&self) -> &'static PartKind;

    /// The state it is in, as a number of its kind's list of states.
    fn state(&self) -> PartState {
        PartState::default()
    }

    /// Does what it is told; `command` is a number of its kind's list of commands.
    fn command(&mut self, command: Command, cx: &mut PartCx<'_>) {
        let _ = (command, cx);
    }

    /// Moves one tick. Called only while it is [`Activity::Moving`].
    fn motion(&mut self, cx: &mut PartCx<'_>) -> Activity {
        let _ = cx;
        Activity::Still
    }

    /// How far it stands open, from 0 to 1, if that is what it does: asked before it moves, so that views can draw it
    /// [between ticks](crate::State::openness_at).
    fn openness(&self) -> Option<f64> {
        None
    }

    /// Its object takes part from here on: at start-up, or when it was made since. Called before the object's wires are
    /// told that it has started.
    fn started(&mut self, cx: &mut PartCx<'_>) {
        let _ = cx;
    }

    /// The time it [asked](PartCx::ring_in) for is over. Called in the clocks phase.
    fn due(&mut self, cx: &mut PartCx<'_>) {
        let _ = cx;
    }

    /// Its object was hung on another one, or on nothing, by somebody who carries it or sets it down.
    fn hung(&mut self, on: Option<ObjectId>, cx: &mut PartCx<'_>) {
        let _ = (on, cx);
    }

    /// A player is gone: what the part holds for that player and does not keep for their return can go. It is told before the player's
    /// wires and variables go.
    fn quit(&mut self, player: ObjectId, cx: &mut PartCx<'_>) {
        let _ = (player, cx);
    }

    /// The variables it keeps for everybody to read, found as `object.name`. They are declared when it is attached, and
    /// only the part sets them. Its kind lists those that all of its parts have.
    fn variables(&self) -> Vec<NewVar> {
        Vec::new()
    }

    /// Which signals of its own object are commands to it. The wires are made as soon as the object gives the signal,
    /// and are seen like any other.
    fn joins(&self) -> Vec<Join> {
        Vec::new()
    }

    /// While this is so, its object cannot be seen.
    fn hides(&self) -> bool {
        false
    }

    /// While this is so, its object is in nobody's way: neither of bodies, which the host sees to, nor of rays.
    fn lets_through(&self) -> bool {
        false
    }

    /// Everything it is, as data: what [`load`](Self::load) needs to make a blank part of its kind the same.
    fn save(&self, to: &mut Vec<Value>);

    /// Becomes what was saved. False if that cannot be read; the part is not used then.
    fn load(&mut self, saved: &[Value]) -> bool;

    /// What of it is to be remembered when its scene is unloaded and in a [`Save`](crate::Save), by the names of fields:
    /// what it is now, and nothing of its settings. Empty for a part that remembers nothing.
    fn remembered(&self) -> Vec<(&'static str, Value)> {
        Vec::new()
    }

    /// Whether one of its [variables](Self::variables) can hold a value that a save has for it, which is of the right
    /// type; if not, the variable keeps its first value.
    fn can_hold(&self, variable: usize, value: &Value) -> bool {
        let _ = (variable, value);
        true
    }

    /// Becomes what it remembers; a field may be missing. False if that is nothing it can be, and then it stays as it is.
    fn recall(&mut self, fields: &[(&str, Value)], cx: &mut PartCx<'_>) -> bool {
        let _ = (fields, cx);
        false
    }

    /// The region it watches, for parts that want to be told who comes and goes. The first signals of its kind are
    /// [`Zone::SIGNALS`](crate::Zone::SIGNALS) then.
    fn region(&self) -> Option<&Region> {
        None
    }

    /// The shape that its object touches zones with, for a part that makes it a body.
    fn body(&self) -> Option<&Shape> {
        None
    }

    /// What it offers to players who are near. The first signals of its kind are those of a [`Prompt`](crate::Prompt) then.
    fn offer(&self) -> Option<&Offer> {
        None
    }

    /// What it does to the velocity of those inside the zones of its object.
    fn current(&self) -> Option<&Current> {
        None
    }

    /// Whose way it is told, for a part that is told how bodies [go](Self::strode).
    fn footing(&self) -> Option<&Footing> {
        None
    }

    /// At the end of a tick's motion: the bodies whose way it is [told](Self::footing) that have moved in this tick, by number, each with
    /// how far, in scene units. Called when there are any, and in the next tick too if the last call said true.
    fn strode(&mut self, moved: &[(ObjectId, f64)], cx: &mut PartCx<'_>) -> bool {
        let _ = (moved, cx);
        false
    }

    /// What it is to a ray. The first signal of its kind is that of a [`Pick`](crate::Pick) then, if it can be picked.
    fn aim(&self) -> Option<&Aim> {
        None
    }

    /// What it wants to be worked out while the world runs, by the names of its settings. The world keeps these; they
    /// can be [replaced](crate::World::set_asked).
    fn asks(&self) -> Vec<(&'static str, Expr)> {
        Vec::new()
    }

    /// What one of its kind's [readings](PartKind::readings) is now, or one of its settings that may change; for the player
    /// `of` names, if there is one for each. Nothing if it cannot be said, as without a player.
    fn read(&self, name: &str, of: &ReadCx<'_>) -> Option<Value> {
        let _ = (name, of);
        None
    }

    /// One of its settings that may change is something else from now on; the value has the setting's type.
    ///
    /// # Errors
    /// When it is out of its range; then nothing has changed.
    fn change(&mut self, setting: &str, to: &Value, cx: &mut PartCx<'_>) -> Result<(), BuildError> {
        let _ = (setting, to, cx);
        Err(BuildError::BadSettings { expected: "a setting that may change" })
    }

    /// Takes another shape; false for a part that has none.
    fn reshape(&mut self, shape: &Shape) -> bool {
        let _ = shape;
        false
    }
}

/// How a part is described in Rust before an object has it, and what its user gets in return.
pub trait PartSpec {
    /// A small `Copy` handle with the part's signals.
    type Handle: Copy;

    /// Makes the part, with every span in ticks of that rate.
    ///
    /// # Errors
    /// When a setting is out of its range.
    fn into_part(self, rate: TickRate) -> Result<Box<dyn Part>, BuildError>;

    /// The handle; the signals come in the order of the kind's list.
    fn handle(part: PartId, signals: &[SignalId]) -> Self::Handle;
}
