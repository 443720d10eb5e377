//! The catalogue: what a game offers to its wiring.
//!
//! It is data: a game writes it out, and a reader can check the game's wiring without running the game.

use serde::{Deserialize, Serialize};
use smol_str::SmolStr;

use crate::{
    base::payload::Payload,
    part::{
        info::{MessageInfo, PartInfo},
        kind::PartKind,
    },
    parts::{
        blend::Blend,
        body::BodyShape,
        carrier::Carrier,
        choice::Choice,
        cycle::Cycle,
        door::Door,
        gait::Gait,
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

/// A role that a manager of the game fills.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[non_exhaustive]
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
            &Gait::KIND,
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
