//! What a sequence says to others: commands, signals, effects.

use smallvec::SmallVec;
use smol_str::SmolStr;

use crate::{
    base::{
        doing::Doing,
        error::{CommandError, Error},
        ids::{ObjectId, PartId},
        numbers::Command,
    },
    moment::run::Run,
    plan::ops::Op,
    state::State,
};

impl State {
    /// A command, a signal or an effect; on behalf of somebody else, if the statement before it said so.
    pub(crate) fn say(&mut self, op: &Op, run: &mut Run) -> Result<(), Error> {
        let doing = match run.behalf.take() {
            Some(who) => Doing { who: Some(who), ..run.doing },
            None => run.doing,
        };
        match op {
            Op::Command { part, command, args } => {
                let args = self.work_out_args(args, run);
                self.command_with(*part, *command, &args, doing)
            }
            Op::Tell { object, word, commands, args } => {
                let object = self.the_object(object, run)?;
                let (part, command) = self.part_that_takes(object, word, commands)?;
                let args = self.work_out_args(args, run);
                self.command_with(part, command, &args, doing)
            }
            Op::Emit { signal, values } => {
                let values = self.work_out_all(values, run);
                self.bus.emit_values(*signal, &values, doing)
            }
            Op::EmitOf { object, signal, values } => {
                let object = self.the_object(object, run)?;
                let values = self.work_out_all(values, run);
                let signal = self.signal_of_object(object, signal)?;
                self.bus.emit_values(signal, &values, doing)
            }
            Op::Perform { effect, values } => {
                let values = self.work_out_all(values, run);
                self.perform(*effect, values, doing)
            }
            _ => Ok(()),
        }
    }

    fn part_that_takes(
        &self,
        object: ObjectId,
        word: &SmolStr,
        commands: &SmallVec<[(u32, Command); 2]>,
    ) -> Result<(PartId, Command), Error> {
        let mut parts = self.parts_of(object).iter();
        let takes = |part: &PartId| {
            let (kind, _) = self.parts.kind_and_state(*part)?;
            let command = commands.iter().find(|(other, _)| *other == kind);
            command.map(|(_, command)| (*part, *command))
        };
        let name = || self.name(object).unwrap_or_default().into();
        parts.find_map(takes).ok_or_else(|| {
            Error::Command(CommandError::NoSuchCommand { name: name(), command: word.clone() })
        })
    }
}
