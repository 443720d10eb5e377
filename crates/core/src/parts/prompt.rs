//! The prompt: something offered to a player who is near, to be answered with a key.

use crate::{
    base::{
        clock::{Seconds, TickRate, secs},
        error::BuildError,
        ids::{PartId, SignalId},
        signal::{Signal, SignalName},
        value::Value,
    },
    part::{
        contract::{Part, PartSpec},
        cx::{PartCx, ReadCx},
        kind::{ParamType, PartKind, ReadingKind, SignalKind},
        offers::{Offer, Progress},
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    plan::expr::Expr,
};

/// A prompt. Made in Rust with [`Prompt::new`].
///
/// Each player is offered one at a time: the nearest that is in reach and makes sense; of two as near, that of the
/// object made first. Holding its key that long answers it; letting go, or leaving its reach, cancels.
#[derive(Clone, Debug)]
pub struct Prompt {
    offer: Offer,
    hold: Option<Seconds>,
    when: Option<Expr>,
}

/// A prompt's signals, and the part.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct PromptHandle {
    /// The part.
    pub part: PartId,
    /// The prompt is offered to a player.
    pub offered: Signal<()>,
    /// It is offered no longer.
    pub withdrawn: Signal<()>,
    /// Its key is being held; given every tick while somebody listens.
    pub progress: Signal<Progress>,
    /// The key was let go too soon, or the prompt withdrawn.
    pub cancelled: Signal<()>,
    /// The key was pressed, or held for long enough.
    pub answered: Signal<()>,
}

impl Prompt {
    /// The signal `answered` of any object with a prompt.
    pub const ON_ANSWERED: SignalName<()> = SignalName::new("answered");
    /// The signal `offered` of any object with a prompt.
    pub const ON_OFFERED: SignalName<()> = SignalName::new("offered");
    /// The signal `withdrawn` of any object with a prompt.
    pub const ON_WITHDRAWN: SignalName<()> = SignalName::new("withdrawn");

    /// What is known of prompts.
    pub const KIND: PartKind = PartKind {
        name: "prompt",
        about: "A prompt that is offered to a player nearby and answered with a key.",
        states: &[],
        signals: &[
            SignalKind::named(Self::ON_OFFERED, "The prompt is offered to a player."),
            SignalKind::named(Self::ON_WITHDRAWN, "The prompt is no longer offered to that player."),
            SignalKind::of::<Progress>(
                "progress",
                "Its key is held; emitted every tick while a wire listens.",
            ),
            SignalKind::of::<()>("cancelled", "Its key was released too early, or the prompt was withdrawn."),
            SignalKind::named(Self::ON_ANSWERED, "Its key was pressed, or held long enough."),
        ],
        commands: &[],
        variables: &[],
        readings: &[ReadingKind::new(
            "held",
            ParamType::Number,
            "How far the player has held the key, from 0 to 1.",
        )
        .per_player()
        .ticking()],
        words: None,
        settings: &[
            Setting::required(
                "label",
                SettingType::Text,
                "The text that the player reads; the word `label` may be left out.",
            )
            .live(),
            Setting::optional("key", SettingType::Word, "The key or action that answers it. Default use.")
                .live(),
            Setting::optional(
                "hold",
                SettingType::Seconds,
                "How long the key must be held. Default a press is enough.",
            )
            .live(),
            Setting::optional(
                "reach",
                SettingType::Number,
                "The largest distance to the player, in scene units. Default 2.",
            )
            .live(),
            Setting::optional(
                "sight",
                SettingType::Flag,
                "Nothing solid may be between the player and the prompt.",
            ),
            Setting::optional(
                "facing",
                SettingType::Angle,
                "The largest angle between the player's facing and the prompt. Default any angle.",
            ),
            Setting::optional(
                "when",
                SettingType::Condition,
                "Offered only while this condition is true; `who` is the player.",
            ),
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::new("")),
    };

    /// A prompt with that label, answered by pressing `use` within 2 scene units.
    pub fn new(label: &str) -> Self {
        Self { offer: Offer::new(label, "use"), hold: None, when: None }
    }

    /// Answered with that key, or whatever is bound to that action.
    pub fn key(mut self, key: &str) -> Self {
        self.offer.key = key.into();
        self
    }

    /// The key must be held so long.
    pub fn hold(mut self, span: Seconds) -> Self {
        self.hold = Some(span);
        self
    }

    /// The player must be so near, in scene units.
    pub fn reach(mut self, reach: f64) -> Self {
        self.offer.reach = reach;
        self
    }

    /// Nothing solid may be between the player and the prompt.
    pub fn in_sight(mut self) -> Self {
        self.offer.sight = true;
        self
    }

    /// It may be at most so many degrees to the side of where the player faces.
    pub fn facing(mut self, degrees: f64) -> Self {
        self.offer.facing = Some(degrees);
        self
    }

    /// Offered only while this holds; `who` is the player.
    pub fn when(mut self, condition: Expr) -> Self {
        self.when = Some(condition);
        self
    }

    fn from_settings(settings: &Settings) -> Self {
        let mut prompt = Self::new(settings.text("label").unwrap_or_default());
        prompt.offer.key = settings.word("key").unwrap_or("use").into();
        prompt.offer.reach = settings.number("reach").unwrap_or(2.0);
        prompt.offer.sight = settings.has("sight");
        prompt.offer.facing = settings.angle("facing");
        prompt.hold = settings.seconds("hold");
        prompt.when = settings.expr("when").cloned();
        prompt
    }
}

impl Part for Prompt {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn save(&self, to: &mut Vec<Value>) {
        let Offer { label, key, hold, reach, sight, facing } = &self.offer;
        to.extend([Value::Text(label.clone()), Value::Text(key.clone()), (*hold).into()]);
        to.extend([(*reach).into(), (*sight).into(), facing.unwrap_or(-1.0).into()]);
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let [
            Value::Text(label),
            Value::Text(key),
            Value::Duration(hold),
            Value::Number(reach),
            Value::Bool(sight),
            Value::Number(facing),
        ] = saved
        else {
            return false;
        };
        let (label, key) = (label.clone(), key.clone());
        let facing = (*facing >= 0.0).then_some(*facing);
        self.offer = Offer { label, key, hold: *hold, reach: *reach, sight: *sight, facing };
        true
    }

    fn offer(&self) -> Option<&Offer> {
        Some(&self.offer)
    }

    fn read(&self, name: &str, of: &ReadCx<'_>) -> Option<Value> {
        let Offer { label, key, hold, reach, .. } = &self.offer;
        Some(match name {
            "label" => Value::Text(label.clone()),
            "key" => Value::Text(key.clone()),
            "hold" => Value::Duration(*hold),
            "reach" => (*reach).into(),
            "held" => of.held()?.into(),
            _ => return None,
        })
    }

    fn change(&mut self, setting: &str, to: &Value, _: &mut PartCx<'_>) -> Result<(), BuildError> {
        let mut offer = self.offer.clone();
        match (setting, to) {
            ("label", Value::Text(label)) => offer.label = label.clone(),
            ("key", Value::Text(key)) => offer.key = key.clone(),
            ("hold", Value::Duration(hold)) => offer.hold = *hold,
            ("reach", Value::Number(reach)) => offer.reach = *reach,
            _ => {}
        }
        offer.check()?;
        self.offer = offer;
        Ok(())
    }

    fn asks(&self) -> Vec<(&'static str, Expr)> {
        self.when.iter().map(|when| ("when", when.clone())).collect()
    }
}

impl PartSpec for Prompt {
    type Handle = PromptHandle;

    fn into_part(mut self, rate: TickRate) -> Result<Box<dyn Part>, BuildError> {
        self.offer.check()?;
        if let Some(span) = self.hold.filter(|span| *span != secs(0.0)) {
            self.offer.hold = rate.ticks(span)?;
        }
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> PromptHandle {
        PromptHandle {
            part,
            offered: Signal::nth(signals, Offer::OFFERED),
            withdrawn: Signal::nth(signals, Offer::WITHDRAWN),
            progress: Signal::nth(signals, Offer::PROGRESS),
            cancelled: Signal::nth(signals, Offer::CANCELLED),
            answered: Signal::nth(signals, Offer::ANSWERED),
        }
    }
}
