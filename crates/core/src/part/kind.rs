//! What is known of a kind of part before there is one: its entry in the catalogue.

use crate::{
    base::{
        clock::TickRate,
        error::{BuildError, CommandError, Error, Near},
        ids::SignalId,
        numbers::{Command, PartState},
        payload::{Field, Payload, type_word},
        signal::SignalName,
        value::{FieldValue, Text, Type, Value},
    },
    part::{
        contract::Part,
        setting::{Setting, Settings},
    },
    state::bus::Bus,
};

/// A kind of part.
#[derive(Debug)]
#[non_exhaustive]
pub struct PartKind {
    /// The word for it.
    pub name: &'static str,
    /// What it is for, in one sentence.
    pub about: &'static str,
    /// The states it can be in, the first one first; empty for a part that has none.
    pub states: &'static [&'static str],
    /// The signals it gives.
    pub signals: &'static [SignalKind],
    /// The commands it takes.
    pub commands: &'static [CommandKind],
    /// The variables it keeps, for everybody to read.
    pub variables: &'static [VariableKind],
    /// What its parts say of themselves when they are asked: see [`Part::read`](crate::Part::read).
    pub readings: &'static [ReadingKind],
    /// The setting that lists the words a part of this kind deals in, such as its answers: those that a [`Word`] of its
    /// signals, its variables and its commands can be.
    pub words: Option<&'static str>,
    /// Its settings, in the order a page lists them.
    pub settings: &'static [Setting],
    /// Makes one from settings of the listed types.
    pub build: BuildPart,
    /// Makes one that is about to [`load`](Part::load) what was saved of another.
    pub blank: fn() -> Box<dyn Part>,
}

/// Makes a part from its settings, with every span in ticks of that rate.
pub type BuildPart = fn(&Settings, TickRate) -> Result<Box<dyn Part>, BuildError>;

impl PartKind {
    /// A kind of that name, made from settings by `build`; `blank` makes one that is about to [`load`](Part::load) what was
    /// saved of another. What else it has is said after it.
    ///
    /// ```
    /// use stoicheon_core::{CommandKind, Param, ParamType, PartKind, SignalKind};
    /// # use stoicheon_core::{Part, Value};
    /// # #[derive(Clone, Debug)]
    /// # struct Bell;
    /// # impl Part for Bell {
    /// #     fn kind(&self) -> &'static PartKind { &BELL }
    /// #     fn save(&self, _: &mut Vec<Value>) {}
    /// #     fn load(&mut self, _: &[Value]) -> bool { true }
    /// # }
    /// const BELL: PartKind = PartKind::new("bell", "Rings.", |_, _| Ok(Box::new(Bell)), || Box::new(Bell))
    ///     .with_signals(&[SignalKind::of::<()>("rung", "It was rung.")])
    ///     .with_commands(&[CommandKind::new("ring", "It rings.")]);
    /// assert!(BELL.command("ring").is_some());
    /// ```
    pub const fn new(
        name: &'static str,
        about: &'static str,
        build: BuildPart,
        blank: fn() -> Box<dyn Part>,
    ) -> Self {
        let (states, variables, words) = (&[], &[], None);
        Self {
            name,
            about,
            states,
            signals: &[],
            commands: &[],
            variables,
            readings: &[],
            words,
            settings: &[],
            build,
            blank,
        }
    }

    /// With those states, the first one first.
    pub const fn with_states(mut self, states: &'static [&'static str]) -> Self {
        self.states = states;
        self
    }

    /// With those signals. A kind whose parts have a region, an offer or an aim begins with the signals of that.
    pub const fn with_signals(mut self, signals: &'static [SignalKind]) -> Self {
        self.signals = signals;
        self
    }

    /// With those commands.
    pub const fn with_commands(mut self, commands: &'static [CommandKind]) -> Self {
        self.commands = commands;
        self
    }

    /// With those variables.
    pub const fn with_variables(mut self, variables: &'static [VariableKind]) -> Self {
        self.variables = variables;
        self
    }

    /// With those readings.
    pub const fn with_readings(mut self, readings: &'static [ReadingKind]) -> Self {
        self.readings = readings;
        self
    }

    /// With a setting that lists the words its parts deal in.
    pub const fn with_words(mut self, setting: &'static str) -> Self {
        self.words = Some(setting);
        self
    }

    /// With those settings.
    pub const fn with_settings(mut self, settings: &'static [Setting]) -> Self {
        self.settings = settings;
        self
    }

    /// The number of a state, by name.
    pub fn state(&self, name: &str) -> Option<PartState> {
        PartState::of_word(self.states.iter().copied(), name)
    }

    /// The number of a command, by name.
    pub fn command(&self, name: &str) -> Option<Command> {
        Command::of_word(self.commands.iter().map(|command| command.name), name)
    }

    /// A setting, by name.
    pub fn setting(&self, name: &str) -> Option<&Setting> {
        self.settings.iter().find(|setting| setting.name == name)
    }
}

/// A signal that every part of a kind gives.
#[derive(Debug)]
pub struct SignalKind {
    /// Its name, without the object's.
    pub name: &'static str,
    /// When it is given, in one sentence.
    pub about: &'static str,
    fields: fn() -> Option<Vec<Field>>,
    declare: fn(&mut Bus, &str) -> Result<SignalId, Error>,
    know: fn(&mut Bus),
}

impl SignalKind {
    /// A signal of that name that carries a `T`.
    pub const fn of<T: Payload>(name: &'static str, about: &'static str) -> Self {
        Self {
            name,
            about,
            fields: T::fields,
            declare: |bus, name| bus.declare::<T>(name).map(crate::base::signal::Signal::id),
            know: |bus| {
                bus.payloads.store_of::<T>();
            },
        }
    }

    /// The signal of a name that is known with what it carries.
    pub const fn named<T: Payload>(signal: SignalName<T>, about: &'static str) -> Self {
        Self::of::<T>(signal.name(), about)
    }

    /// What it carries.
    pub fn fields(&self) -> Vec<Field> {
        (self.fields)().unwrap_or_default()
    }

    /// Makes a place for what it carries, in an order that does not depend on when a part is first made.
    pub(crate) fn know(&self, bus: &mut Bus) {
        (self.know)(bus);
    }

    pub(crate) fn declare(&self, bus: &mut Bus, object: &str) -> Result<SignalId, Error> {
        (self.declare)(bus, &format!("{object}.{}", self.name))
    }
}

/// A command that a kind of part takes.
#[derive(Debug)]
#[non_exhaustive]
pub struct CommandKind {
    /// The word for it.
    pub name: &'static str,
    /// What the part does then, in one sentence.
    pub about: &'static str,
    /// What can be said with it.
    pub params: &'static [Param],
}

impl CommandKind {
    /// A command with nothing to it.
    pub const fn new(name: &'static str, about: &'static str) -> Self {
        Self { name, about, params: &[] }
    }

    /// A command with which something can be said.
    pub const fn with(name: &'static str, about: &'static str, params: &'static [Param]) -> Self {
        Self { name, about, params }
    }
}

impl CommandKind {
    /// Whether it takes what is said, by name, and needs nothing else.
    pub(crate) fn check_names<'a>(
        &self,
        kind: &'static str,
        said: &(impl Iterator<Item = &'a str> + Clone),
    ) -> Result<(), Error> {
        let command = self.name;
        let names = || self.params.iter().map(|param| param.name);
        if let Some(found) = said.clone().find(|name| !names().any(|known| known == *name)) {
            let known: Vec<_> = names().map(|name| format!("`{name}`")).collect();
            let known = if known.is_empty() { "nothing more".to_owned() } else { known.join(", ") };
            let near = Near::of(found, &mut names());
            return Err(Error::Command(CommandError::NoSuchArgument {
                kind,
                command,
                found: found.into(),
                known,
                near,
            }));
        }
        let times = |param: &Param| said.clone().filter(|name| *name == param.name).count();
        if let Some(param) = self.params.iter().find(|param| times(param) > 1) {
            return Err(Error::Command(CommandError::ArgumentTwice { kind, command, argument: param.name }));
        }
        let missing = |param: &&Param| param.required && !said.clone().any(|name| name == param.name);
        let missing = self.params.iter().find(missing);
        missing.map_or(Ok(()), |param| {
            Err(Error::Command(CommandError::MissingArgument { kind, command, missing: param.name }))
        })
    }

    /// Whether what is said with it has the types it takes.
    pub(crate) fn check_types(&self, kind: &'static str, said: &[(&str, Value)]) -> Result<(), Error> {
        for (name, value) in said {
            let Some(param) = self.params.iter().find(|param| param.name == *name) else { continue };
            // A list without words is that of the part, which only the part knows.
            let expected = param.ty.type_of(&[]);
            let (command, argument) = (self.name, param.name);
            // Nobody is an object too, as in a variable.
            let nobody = matches!((&expected, value), (Type::Object, Value::Nothing));
            if !nobody && expected.hold(value.clone()).is_none() {
                let found = type_word(value);
                return Err(Error::Command(CommandError::WrongArgument {
                    kind,
                    command,
                    argument,
                    expected,
                    found,
                }));
            }
        }
        Ok(())
    }
}

/// Something that is said with a command: `to` in `blend river to spate over 6s`.
#[derive(Debug)]
#[non_exhaustive]
pub struct Param {
    /// The word before it.
    pub name: &'static str,
    /// What it is.
    pub ty: ParamType,
    /// What it is for, with its default.
    pub about: &'static str,
    /// Whether it must be said.
    pub required: bool,
}

impl Param {
    /// One that may be left out.
    pub const fn optional(name: &'static str, ty: ParamType, about: &'static str) -> Self {
        Self { name, ty, about, required: false }
    }

    /// One that must be said.
    pub const fn required(name: &'static str, ty: ParamType, about: &'static str) -> Self {
        Self { name, ty, about, required: true }
    }
}

/// What is said with a command, and what a variable of a part holds. It is worked out when the command is given.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum ParamType {
    /// True or false.
    Flag,
    /// A number.
    Number,
    /// A whole number.
    Whole,
    /// Text.
    Text,
    /// A span of time.
    Span,
    /// Three numbers.
    Vector,
    /// A turn.
    Rotation,
    /// An object.
    Object,
    /// One of the words this part deals in.
    Word,
    /// One of these words.
    OneOf(&'static [&'static str]),
}

impl ParamType {
    /// The type of its values, for a part that deals in those words.
    pub fn type_of(self, words: &[smol_str::SmolStr]) -> Type {
        match self {
            Self::Flag => Type::Bool,
            Self::Number => Type::Number,
            Self::Whole => Type::Whole,
            Self::Text => Type::Text,
            Self::Span => Type::Duration,
            Self::Vector => Type::Vector,
            Self::Rotation => Type::Rotation,
            Self::Object => Type::Object,
            Self::Word => Type::one_of(words.iter().cloned()),
            Self::OneOf(words) => Type::one_of(words.iter().copied()),
        }
    }
}

/// A variable that parts of a kind keep. If the kind has a setting `per player`, and that is given, each player has one
/// of it; if it has one called `remember`, and that is given, it is remembered.
#[derive(Debug)]
#[non_exhaustive]
pub struct VariableKind {
    /// Its name, without the object's.
    pub name: &'static str,
    /// What it holds.
    pub ty: ParamType,
    /// What that means, in one sentence.
    pub about: &'static str,
}

impl VariableKind {
    /// A variable of that name.
    pub const fn new(name: &'static str, ty: ParamType, about: &'static str) -> Self {
        Self { name, ty, about }
    }
}

/// Something that parts of a kind say of themselves, worked out when it is asked for: how far a door stands open.
#[derive(Debug)]
#[non_exhaustive]
pub struct ReadingKind {
    /// Its name, without the object's.
    pub name: &'static str,
    /// What it is.
    pub ty: ParamType,
    /// What that means, in one sentence.
    pub about: &'static str,
    /// Whether there is one for each player.
    pub per_player: bool,
    /// Whether it may change with every tick, though nothing happens to the part: what is left of a time.
    pub ticking: bool,
}

impl ReadingKind {
    /// A reading of that name. It may change whenever the part is called.
    pub const fn new(name: &'static str, ty: ParamType, about: &'static str) -> Self {
        Self { name, ty, about, per_player: false, ticking: false }
    }

    /// There is one for each player.
    pub const fn per_player(mut self) -> Self {
        self.per_player = true;
        self
    }

    /// It may change with every tick, though the part is not called.
    pub const fn ticking(mut self) -> Self {
        self.ticking = true;
        self
    }
}

/// A signal of its own object that is a command to a part.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Join {
    /// The signal, without the object's name.
    pub signal: &'static str,
    /// The command.
    pub command: Command,
    /// When its turn comes among the wires of that signal.
    pub order: i32,
}

impl Join {
    /// That signal, without the object's name, is that command.
    pub const fn new(signal: &'static str, command: Command) -> Self {
        Self { signal, command, order: 0 }
    }

    /// Its turn comes there among the wires of the signal; 0 without.
    pub const fn order(mut self, order: i32) -> Self {
        self.order = order;
        self
    }
}

/// One of the words a part deals in, in the payload of a signal of its kind: an answer, a state of a cycle.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash)]
pub struct Word(pub Text);

impl FieldValue for Word {
    fn field_type() -> Type {
        Type::one_of([] as [Text; 0])
    }

    fn to_value(&self) -> Value {
        Value::Text(self.0.clone())
    }

    fn from_value(value: &Value) -> Option<Self> {
        value.as_text().map(|text| Self(text.into()))
    }
}
