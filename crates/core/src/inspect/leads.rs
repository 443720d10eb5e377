//! What the reaction of a wire leads to.

use smol_str::SmolStr;

use crate::{
    base::{
        ids::{EffectId, MouldId, PartId, PropertyName, SignalId, VarId, WireId},
        numbers::Command,
        value::Text,
    },
    plan::{
        expr::{Expr, PartOf},
        ops::Op,
        steps::Target,
    },
    state::State,
};

/// What a reaction does to something: one of the things a wire leads to.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Lead {
    /// It emits a signal.
    Emits(SignalId),
    /// It emits the signal of that name of an object that is known only then.
    EmitsOf(Expr, Text),
    /// It tells a part what to do.
    Commands(PartId, Command),
    /// It tells an object that is known only then what to do, by the word for the command.
    Tells(Expr, Text),
    /// It tells every object that has a tag what to do, by the word for the command.
    TellsEvery(SmolStr, Text),
    /// It sets or tweens a variable.
    Sets(VarId),
    /// It sets or tweens a variable of an object that is known only then.
    SetsOf(Expr, PropertyName),
    /// It sets or tweens the place, the facing or the velocity of an object.
    Moves(Expr),
    /// It changes a setting of a part.
    Changes(PartOf, Text),
    /// It asks the host to perform an effect.
    Performs(EffectId),
    /// It sends a body to a spot.
    Sends(Expr),
    /// It sends a body to a spot of another scene.
    SendsAway(Text, Text),
    /// It enables an object, or disables it.
    Switches(Expr, bool),
    /// It destroys an object.
    Destroys(Expr),
    /// It makes an object of a mould.
    Spawns(MouldId),
    /// It gives an object a tag, or takes it away.
    Tags(Expr, SmolStr, bool),
}

impl State {
    /// What the reaction of a wire leads to, in the order of its statements, also in the routines it runs and the wires it
    /// makes; each once. Nothing for a closure, which nobody can look into.
    pub fn wire_leads(&self, wire: WireId) -> Vec<Lead> {
        let mut found = Vec::new();
        if let Some(ops) = self.moment.wires.get(wire).and_then(|wire| wire.ops.as_deref()) {
            self.gather(ops, &mut Vec::new(), &mut found);
        }
        found
    }

    /// `ran` are the routines that were looked into already.
    fn gather(&self, ops: &[Op], ran: &mut Vec<u32>, found: &mut Vec<Lead>) {
        // What stands for each of a group in the rounds of a loop.
        let mut each: Vec<(u8, SmolStr)> = Vec::new();
        for op in ops {
            if let Op::Each { among, local } = op {
                each.retain(|(other, _)| other != local);
                each.push((*local, self.tag_word(among.tag()).into()));
            }
            match op {
                Op::Run { routine, .. } if !ran.contains(&routine.0) => {
                    ran.push(routine.0);
                    if let Some(routine) = self.plan.routines.get(routine.0 as usize) {
                        self.gather(&routine.ops, ran, found);
                    }
                }
                Op::Wire(pattern) => self.gather(&pattern.ops, ran, found),
                other => {
                    let lead = self.lead(other).map(|lead| match lead {
                        Lead::Tells(Expr::Local(local), word) => {
                            match each.iter().find(|(other, _)| *other == local) {
                                Some((_, tag)) => Lead::TellsEvery(tag.clone(), word),
                                None => Lead::Tells(Expr::Local(local), word),
                            }
                        }
                        other => other,
                    });
                    if let Some(lead) = lead
                        && !found.contains(&lead)
                    {
                        found.push(lead);
                    }
                }
            }
        }
    }

    fn lead(&self, op: &Op) -> Option<Lead> {
        Some(match op {
            Op::Emit { signal, .. } => Lead::Emits(*signal),
            Op::EmitOf { object, signal, .. } => Lead::EmitsOf(object.clone(), signal.clone()),
            Op::Command { part, command, .. } => Lead::Commands(*part, *command),
            Op::Tell { object, word, .. } => Lead::Tells(object.clone(), word.clone()),
            Op::Perform { effect, .. } => Lead::Performs(*effect),
            Op::Set { target, .. } | Op::Tween { target, .. } => match target {
                Target::Var(var) | Target::VarOf(var, _) => Lead::Sets(*var),
                Target::Property(object, name) => Lead::SetsOf(object.clone(), *name),
                Target::Place(object) | Target::Facing(object) | Target::Velocity(object) => {
                    Lead::Moves(object.clone())
                }
                Target::Setting(part, name) => Lead::Changes(part.clone(), name.clone()),
                Target::Local(_) => return None,
            },
            Op::Switch { object, on } => Lead::Switches(object.clone(), *on),
            Op::Destroy(object) => Lead::Destroys(object.clone()),
            Op::Spawn { mould, .. } => Lead::Spawns(*mould),
            Op::Send { spot, .. } => Lead::Sends(spot.clone()),
            Op::SendAway { scene, spot, .. } => Lead::SendsAway(scene.clone(), spot.clone()),
            Op::Tag { object, tag, on } => Lead::Tags(object.clone(), self.tag_word(*tag).into(), *on),
            _ => return None,
        })
    }
}
