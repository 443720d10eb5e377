//! Telling parts: commands, and one tick of those that move.

use crate::{
    base::{
        doing::Doing,
        error::{CommandError, Error},
        ids::{ObjectId, PartId, SignalId},
        numbers::Command,
        value::{Text, Value},
    },
    moment::object::Object,
    part::{
        contract::{Activity, Part},
        cx::{Args, PartCx},
        kind::CommandKind,
    },
    state::State,
};

impl State {
    /// Tells a part what to do.
    pub(crate) fn command(&mut self, part: PartId, command: Command, doing: Doing) -> Result<(), Error> {
        self.command_with(part, command, &[], doing)
    }

    /// The error for an object that has ended, if its name is still known.
    pub(crate) fn ended(&self, object: ObjectId) -> Option<Error> {
        self.name(object).map(|name| Error::Ended { name: name.into() })
    }

    /// A command of a part for others, with the word for its kind.
    pub(crate) fn command_kind(
        &self,
        part: PartId,
        command: Command,
    ) -> Result<(&'static str, &'static CommandKind), Error> {
        let object = self.parts.get(part).ok_or(Error::NoSuchPart)?.object;
        let kind = self.kind_of(part).filter(|_| self.moment.objects.get(object).is_some());
        let kind = kind.ok_or(Error::NoSuchPart)?;
        if let Some(command) = kind.commands.get(usize::from(command)) {
            return Ok((kind.name, command));
        }
        Err(Error::Command(CommandError::NoCommandNumber {
            kind: kind.name,
            object: self.name(object).unwrap_or_default().into(),
            known: kind.commands.len(),
            found: command,
        }))
    }

    /// Whether a part has a command for others, and takes what is said with it.
    pub(crate) fn check_command(
        &self,
        part: PartId,
        command: Command,
        args: &[(&str, Value)],
    ) -> Result<(), Error> {
        let (kind, command) = self.command_kind(part, command)?;
        command.check_names(kind, &args.iter().map(|(name, _)| *name))?;
        command.check_types(kind, args)
    }

    /// Tells a part what to do, with values.
    pub(crate) fn command_with(
        &mut self,
        part: PartId,
        command: Command,
        args: &[(Text, Value)],
        doing: Doing,
    ) -> Result<(), Error> {
        let object = self.object_of(part).ok_or(Error::NoSuchPart)?;
        if self.moment.objects.get(object).is_none() {
            return Err(self.ended(object).unwrap_or(Error::NoSuchPart));
        }
        let args = Args::from(args);
        self.part_told(part, doing, &args, |part, cx| part.command(command, cx)).ok_or(Error::NoSuchPart)
    }

    /// Lets something be done with a part, which may ask to be moved from then on.
    pub(crate) fn part_told<R>(
        &mut self,
        id: PartId,
        doing: Doing,
        args: &[(Text, Value)],
        tell: impl FnOnce(&mut dyn Part, &mut PartCx<'_>) -> R,
    ) -> Option<R> {
        let object = self.parts.get(id)?.object;
        let mut part = self.parts.behaviours.take(id)?;
        let mut cx = PartCx { state: self, part: id, object, args, doing, woken: false };
        let told = tell(part.part(), &mut cx);
        let (woken, doing) = (cx.woken, cx.doing);
        self.parts.behaviours.put_back(id, part);
        self.bus.watches.called(id, doing.cause);
        self.review_sight(id);
        if woken {
            self.parts.set_moving(id, Some(doing));
        }
        Some(told)
    }

    /// One tick of everything that moves, by object number, but for what is disabled or frozen.
    pub(crate) fn move_parts(&mut self) {
        if self.parts.places.moving.is_empty() {
            return;
        }
        let mut turn = std::mem::take(&mut self.parts.turn);
        turn.extend(self.parts.places.moving.iter().map(|(_, id)| *id));
        for id in turn.drain(..) {
            let Some(slot) = self.parts.get(id) else { continue };
            if !self.is_awake(slot.object) {
                continue;
            }
            let doing = slot.doing();
            let told = self.part_told(id, doing, &[], |part, cx| {
                let before = part.openness();
                (before, part.motion(cx) == Activity::Still && !cx.woken)
            });
            let Some((before, rests)) = told else { continue };
            if let Some(before) = before {
                self.scratch.moves.note_openness(id, before, self.moment.clock.now);
            }
            if rests {
                self.parts.set_moving(id, None);
            }
        }
        self.parts.turn = turn;
    }

    /// The signals an object gives: its own, then those of its parts.
    pub(crate) fn signals_of(&self, object: &Object) -> impl Iterator<Item = SignalId> {
        let of_parts = object.parts.iter().filter_map(|part| self.parts.get(*part));
        object.signals.iter().copied().chain(of_parts.flat_map(|slot| slot.signals.iter().copied()))
    }

    /// Whether an object is there, enabled, and not in a frozen scene.
    pub(crate) fn is_awake(&self, object: ObjectId) -> bool {
        let object = self.moment.objects.get(object).filter(|object| object.enabled);
        object.is_some_and(|object| !self.moment.scenes.is_frozen(object.scene))
    }
}
