//! A kind of part as data: what the catalogue says of its signals, settings, commands and variables.

use std::sync::Arc;

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::{
        numbers::{Command, PartState},
        payload::Field,
        value::Type,
    },
    part::{
        kind::{CommandKind, PartKind},
        setting_type::SettingInfoType,
    },
};

/// A signal that a part gives or the game emits, or an effect.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
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

/// A setting of a kind of part.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
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
    /// Whether it may change while the world runs.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub live: bool,
}

/// Something a part says of itself, worked out when it is asked for.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
pub struct ReadingInfo {
    /// Its name, without the object's.
    pub name: SmolStr,
    /// Its type.
    #[serde(rename = "type")]
    pub ty: Type,
    /// What that means, in one sentence.
    #[serde(default)]
    pub about: SmolStr,
    /// Whether there is one for each player.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub per_player: bool,
    /// Whether it may change with every tick, though nothing happens to the part.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub ticking: bool,
}

/// A command of a kind of part. In JSON one with nothing to it can be its name alone.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(from = "CommandShape")]
#[non_exhaustive]
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
    fn of(command: &CommandKind) -> Self {
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
#[non_exhaustive]
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
#[non_exhaustive]
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
#[non_exhaustive]
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
    /// What it says of itself when it is asked.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub readings: Vec<ReadingInfo>,
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
            ty: setting.ty.into(),
            about: setting.about.into(),
            required: setting.required,
            live: setting.live,
        };
        let reading = |reading: &crate::part::kind::ReadingKind| ReadingInfo {
            name: reading.name.into(),
            ty: reading.ty.type_of(&[]),
            about: reading.about.into(),
            per_player: reading.per_player,
            ticking: reading.ticking,
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
            readings: kind.readings.iter().map(reading).collect(),
            words: kind.words.map(SmolStr::from),
            settings: kind.settings.iter().map(setting).collect(),
            kind: Some(kind),
        }
    }

    /// The number of a state, by name.
    pub fn state(&self, name: &str) -> Option<PartState> {
        PartState::of_word(self.states.iter().map(SmolStr::as_str), name)
    }

    /// The number of a command, by name.
    pub fn command(&self, name: &str) -> Option<Command> {
        Command::of_word(self.commands.iter().map(|command| command.name.as_str()), name)
    }

    /// Something it says of itself, by name: the type, whether there is one for each player, and whether it may change with
    /// every tick. Settings that may change are among them.
    pub fn reading(&self, name: &str) -> Option<ReadingInfo> {
        let setting = || {
            let setting = self.setting(name).filter(|setting| setting.live)?;
            let (name, about) = (setting.name.clone(), setting.about.clone());
            let ty = setting.ty.value_type()?;
            Some(ReadingInfo { name, ty, about, per_player: false, ticking: false })
        };
        self.readings.iter().find(|reading| reading.name == name).cloned().or_else(setting)
    }

    /// A setting, by name.
    pub fn setting(&self, name: &str) -> Option<&SettingInfo> {
        self.settings.iter().find(|setting| setting.name == name)
    }
}
