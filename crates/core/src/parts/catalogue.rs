//! The catalogue: what a game offers to its wiring.
//!
//! It is data: a game writes it out, and whoever reads it can check the game's wiring without running the game.

use std::sync::Arc;

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{
        payload::{Field, Payload},
        value::Type,
    },
    part::{kind::PartKind, setting::SettingType},
    parts::{
        blend::Blend,
        body::BodyShape,
        carrier::Carrier,
        choice::Choice,
        cycle::Cycle,
        door::Door,
        item::Item,
        pick::{Pick, Solid},
        prompt::Prompt,
        push::Push,
        shake::Shake,
        stages::Stages,
        switch::Switch,
        tally::Tally,
        teleporter::Teleporter,
        timer::Timer,
        zone::Zone,
    },
};

/// A signal that a part gives or the game emits, or an effect.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MessageInfo {
    /// Its name; that of a part's signal without the object.
    pub name: SmolStr,
    /// When it is given, or what is performed, in one sentence.
    #[serde(default)]
    pub about: SmolStr,
    /// What it carries.
    #[serde(default)]
    pub fields: Arc<[Field]>,
}

/// What a setting takes.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[non_exhaustive]
pub enum SettingInfoType {
    /// An angle, with its unit.
    Angle,
    /// A span of time, with its unit.
    Seconds,
    /// Three numbers.
    Vector,
    /// A number.
    Number,
    /// Text.
    Text,
    /// A colour.
    Colour,
    /// Nothing: it is there or it is not.
    Flag,
    /// One of these words.
    OneOf(Vec<SmolStr>),
    /// One or more tags.
    Tags,
    /// Any one word.
    Word,
    /// Two numbers or three, all above zero.
    Size,
    /// A turn.
    Rotation,
    /// A condition that is looked at while the world runs.
    Condition,
    /// A number that is worked out while the world runs.
    Amount,
    /// Nothing: it begins these settings again.
    More(Vec<SmolStr>),
    /// Words of the user's own.
    Words,
    /// Words of the user's own, each with a span of time or two.
    Spans,
    /// Words of the user's own, each with names and values in braces.
    Table,
    /// A span of time, or one drawn between two each time.
    Span,
    /// A spot, perhaps of another scene.
    Spot,
    /// A signal; each time it comes, the part is given that command.
    Signal(SmolStr),
}

/// A setting of a kind of part.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SettingInfo {
    /// Its name.
    pub name: SmolStr,
    /// What it takes.
    #[serde(rename = "type")]
    pub ty: SettingInfoType,
    /// What it is for, with its default.
    #[serde(default)]
    pub about: SmolStr,
    /// Whether it must be given.
    #[serde(default)]
    pub required: bool,
}

/// A command of a kind of part. In JSON one with nothing to it can be its name alone.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(from = "CommandShape")]
pub struct CommandInfo {
    /// The word for it.
    pub name: SmolStr,
    /// What the part does then, in one sentence.
    #[serde(default)]
    pub about: SmolStr,
    /// What can be said with it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub params: Vec<ParamInfo>,
}

#[derive(Deserialize)]
#[serde(untagged, deny_unknown_fields)]
enum CommandShape {
    Name(SmolStr),
    Whole {
        name: SmolStr,
        #[serde(default)]
        about: SmolStr,
        #[serde(default)]
        params: Vec<ParamInfo>,
    },
}

impl From<CommandShape> for CommandInfo {
    fn from(shape: CommandShape) -> Self {
        match shape {
            CommandShape::Name(name) => Self { name, about: SmolStr::default(), params: Vec::new() },
            CommandShape::Whole { name, about, params } => Self { name, about, params },
        }
    }
}

impl CommandInfo {
    fn of(command: &crate::part::kind::Command) -> Self {
        let params = command.params.iter().map(|param| ParamInfo {
            name: param.name.into(),
            ty: param.ty.type_of(&[]),
            about: param.about.into(),
            required: param.required,
        });
        Self { name: command.name.into(), about: command.about.into(), params: params.collect() }
    }
}

/// Something that is said with a command.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ParamInfo {
    /// The word before it.
    pub name: SmolStr,
    /// Its type. A list without words is that of the part's own words.
    #[serde(rename = "type")]
    pub ty: Type,
    /// What it is for, with its default.
    #[serde(default)]
    pub about: SmolStr,
    /// Whether it must be said.
    #[serde(default)]
    pub required: bool,
}

/// A variable that parts of a kind keep.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct VariableInfo {
    /// Its name, without the object's.
    pub name: SmolStr,
    /// Its type. A list without words is that of the part's own words.
    #[serde(rename = "type")]
    pub ty: Type,
    /// What that means, in one sentence.
    #[serde(default)]
    pub about: SmolStr,
}

impl VariableInfo {
    fn of(variable: &crate::part::kind::VariableKind) -> Self {
        Self { name: variable.name.into(), ty: variable.ty.type_of(&[]), about: variable.about.into() }
    }
}

/// A kind of part, as the catalogue has it.
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PartInfo {
    /// The word for it.
    pub name: SmolStr,
    /// What it is for, in one sentence.
    #[serde(default)]
    pub about: SmolStr,
    /// The states it can be in, the first one first.
    #[serde(default)]
    pub states: Vec<SmolStr>,
    /// The signals it gives.
    #[serde(default)]
    pub signals: Vec<MessageInfo>,
    /// The commands it takes.
    #[serde(default)]
    pub commands: Vec<CommandInfo>,
    /// The variables it keeps, for everybody to read.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub variables: Vec<VariableInfo>,
    /// The setting that lists the words it deals in.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub words: Option<SmolStr>,
    /// Its settings.
    #[serde(default)]
    pub settings: Vec<SettingInfo>,
    /// What makes one; not there for a kind that was read from data.
    #[serde(skip)]
    pub kind: Option<&'static PartKind>,
}

impl PartInfo {
    /// What is known of a kind.
    pub fn of(kind: &'static PartKind) -> Self {
        let words = |words: &[&str]| words.iter().copied().map(SmolStr::from).collect();
        let setting = |setting: &crate::part::setting::Setting| SettingInfo {
            name: setting.name.into(),
            ty: SettingInfoType::of(setting.ty),
            about: setting.about.into(),
            required: setting.required,
        };
        let signal = |signal: &crate::part::kind::SignalKind| MessageInfo {
            name: signal.name.into(),
            about: signal.about.into(),
            fields: signal.fields().into(),
        };
        Self {
            name: kind.name.into(),
            about: kind.about.into(),
            states: words(kind.states),
            signals: kind.signals.iter().map(signal).collect(),
            commands: kind.commands.iter().map(CommandInfo::of).collect(),
            variables: kind.variables.iter().map(VariableInfo::of).collect(),
            words: kind.words.map(SmolStr::from),
            settings: kind.settings.iter().map(setting).collect(),
            kind: Some(kind),
        }
    }

    /// The number of a state, by name.
    pub fn state(&self, name: &str) -> Option<u8> {
        index_of(&self.states, name)
    }

    /// The number of a command, by name.
    pub fn command(&self, name: &str) -> Option<u8> {
        let mut commands = self.commands.iter();
        commands.position(|command| command.name == name).and_then(|index| u8::try_from(index).ok())
    }

    /// A setting, by name.
    pub fn setting(&self, name: &str) -> Option<&SettingInfo> {
        self.settings.iter().find(|setting| setting.name == name)
    }
}

fn index_of(words: &[SmolStr], name: &str) -> Option<u8> {
    words.iter().position(|word| word == name).and_then(|index| u8::try_from(index).ok())
}

impl SettingInfoType {
    fn of(ty: SettingType) -> Self {
        match ty {
            SettingType::Angle => Self::Angle,
            SettingType::Seconds => Self::Seconds,
            SettingType::Vector => Self::Vector,
            SettingType::Number => Self::Number,
            SettingType::Text => Self::Text,
            SettingType::Colour => Self::Colour,
            SettingType::Flag => Self::Flag,
            SettingType::OneOf(words) => Self::OneOf(words.iter().copied().map(SmolStr::from).collect()),
            SettingType::Tags => Self::Tags,
            SettingType::Word => Self::Word,
            SettingType::Size => Self::Size,
            SettingType::Rotation => Self::Rotation,
            SettingType::Condition => Self::Condition,
            SettingType::Amount => Self::Amount,
            SettingType::Words => Self::Words,
            SettingType::Spans => Self::Spans,
            SettingType::Table => Self::Table,
            SettingType::Span => Self::Span,
            SettingType::Spot => Self::Spot,
            SettingType::Signal(command) => Self::Signal(command.into()),
            SettingType::More(words) => Self::More(words.iter().copied().map(SmolStr::from).collect()),
        }
    }
}

/// A role that a manager of the game fills.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct RoleInfo {
    /// The role.
    pub name: SmolStr,
    /// What it is for, in one sentence.
    #[serde(default)]
    pub about: SmolStr,
    /// The signals the manager gives itself.
    #[serde(default)]
    pub signals: Vec<MessageInfo>,
}

/// What a game offers to its wiring: kinds of part, the built-in ones and its own; its signals, effects and roles.
///
/// ```
/// use stoicheon_core::{Catalogue, payload};
/// payload! {
///     /// A fish was landed.
///     pub struct Landed { pub weight: f64 }
/// }
/// let catalogue = Catalogue::built_in().with_signal::<Landed>("landed", "A fish was landed.");
/// let json = serde_json::to_string(&catalogue)?;
/// let read: Catalogue = serde_json::from_str(&json)?;
/// assert_eq!(read.signals()[0].fields[0].name, "weight");
/// # Ok::<(), serde_json::Error>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Catalogue {
    #[serde(default)]
    parts: Vec<PartInfo>,
    #[serde(default)]
    signals: Vec<MessageInfo>,
    #[serde(default)]
    effects: Vec<MessageInfo>,
    #[serde(default)]
    roles: Vec<RoleInfo>,
}

impl Default for Catalogue {
    fn default() -> Self {
        Self::built_in()
    }
}

fn message<T: Payload>(name: &str, about: &str) -> MessageInfo {
    MessageInfo { name: name.into(), about: about.into(), fields: T::fields().unwrap_or_default().into() }
}

impl Catalogue {
    /// What every game has.
    pub fn built_in() -> Self {
        let parts = [
            &Zone::KIND,
            &BodyShape::KIND,
            &Door::KIND,
            &Prompt::KIND,
            &Pick::KIND,
            &Solid::KIND,
            &Push::KIND,
            &Teleporter::KIND,
            &Choice::KIND,
            &Switch::KIND,
            &Timer::KIND,
            &Cycle::KIND,
            &Tally::KIND,
            &Stages::KIND,
            &Item::KIND,
            &Carrier::KIND,
            &Shake::KIND,
            &Blend::KIND,
        ];
        let parts = parts.map(PartInfo::of).into();
        Self { parts, signals: Vec::new(), effects: Vec::new(), roles: Vec::new() }
    }

    /// Adds a kind of part; one of the same name is replaced.
    pub fn with_part(mut self, kind: &'static PartKind) -> Self {
        self.parts.retain(|known| known.name != kind.name);
        self.parts.push(PartInfo::of(kind));
        self
    }

    /// Adds a signal that the game gives or listens to.
    pub fn with_signal<T: Payload>(mut self, name: &str, about: &str) -> Self {
        self.signals.push(message::<T>(name, about));
        self
    }

    /// Adds an effect that the game performs.
    pub fn with_effect<T: Payload>(mut self, name: &str, about: &str) -> Self {
        self.effects.push(message::<T>(name, about));
        self
    }

    /// Adds a role that a manager of the game fills.
    pub fn with_role(mut self, name: &str, about: &str) -> Self {
        self.roles.push(RoleInfo { name: name.into(), about: about.into(), signals: Vec::new() });
        self
    }

    /// Adds everything another catalogue has. A kind of part that is here already, and can be made, stays.
    pub fn and(mut self, other: &Self) -> Self {
        for part in &other.parts {
            match self.parts.iter_mut().find(|known| known.name == part.name) {
                Some(known) if known.kind.is_some() => {}
                Some(known) => *known = part.clone(),
                None => self.parts.push(part.clone()),
            }
        }
        let add = |to: &mut Vec<MessageInfo>, from: &[MessageInfo]| {
            for message in from {
                if !to.iter().any(|known| known.name == message.name) {
                    to.push(message.clone());
                }
            }
        };
        add(&mut self.signals, &other.signals);
        add(&mut self.effects, &other.effects);
        for role in &other.roles {
            if !self.roles.iter().any(|known| known.name == role.name) {
                self.roles.push(role.clone());
            }
        }
        self
    }

    /// The same without the kinds of part that every game has: what is worth writing out.
    pub fn without_built_in(mut self) -> Self {
        let built_in = Self::built_in();
        self.parts.retain(|part| built_in.part(&part.name).is_none());
        self
    }

    /// All kinds of part, in the order a page lists them.
    pub fn parts(&self) -> &[PartInfo] {
        &self.parts
    }

    /// The kind of part of that name.
    pub fn part(&self, name: &str) -> Option<&PartInfo> {
        self.parts.iter().find(|kind| kind.name == name)
    }

    /// The signals the game gives or listens to.
    pub fn signals(&self) -> &[MessageInfo] {
        &self.signals
    }

    /// The effects the game performs.
    pub fn effects(&self) -> &[MessageInfo] {
        &self.effects
    }

    /// The roles that managers of the game fill.
    pub fn roles(&self) -> &[RoleInfo] {
        &self.roles
    }
}
