//! The carrier: who can take items, how many, and which of them is in hand.

use crate::{
    base::{
        clock::TickRate,
        error::BuildError,
        ids::{ObjectId, PartId, SignalId},
        numbers::Command,
        signal::Signal,
        value::{Type, Value},
    },
    part::{
        contract::{Part, PartSpec},
        cx::{PartCx, ReadCx},
        kind::{CommandKind, ParamType, PartKind, SignalKind, VariableKind},
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    parts::item::Item,
    payload,
    plan::new_var::NewVar,
    state::State,
};

payload! {
    /// What became of an item. Its carrier goes with the signal.
    #[derive(Clone, Copy, Debug, PartialEq)]
    pub struct Held {
        /// The item.
        pub item: ObjectId,
    }
}

/// What makes a body able to take items. Made in Rust with [`Carrier::new`].
///
/// Items are carried in the order they were taken. One of them is in the carrier's hand: the one taken first, until the
/// command `next` says otherwise.
#[derive(Clone, Debug, Default)]
pub struct Carrier {
    holds: Option<u32>,
    items: Vec<ObjectId>,
    hand: usize,
}

/// A carrier's signals, and the part to command.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct CarrierHandle {
    /// The part.
    pub part: PartId,
    /// It has taken an item.
    pub took: Signal<Held>,
    /// It no longer carries an item.
    pub lost: Signal<Held>,
    /// Another item is in hand.
    pub in_hand: Signal<Held>,
}

impl Carrier {
    /// The number of the command `next`.
    pub const NEXT: Command = Command::new(0);
    /// What an item tells it that is taken.
    pub(crate) const ACCEPT: Command = Command::new(1);
    /// What an item tells it that is its own no more.
    pub(crate) const RELEASE: Command = Command::new(2);
    const HAND: usize = 0;
    const LOAD: usize = 1;

    /// What is known of carriers.
    pub const KIND: PartKind = PartKind {
        name: "carrier",
        about: "Lets its object carry items, one of them in hand.",
        states: &[],
        signals: &[
            SignalKind::of::<Held>("took", "It has taken an item."),
            SignalKind::of::<Held>("lost", "It no longer carries an item."),
            SignalKind::of::<Held>("in_hand", "Another item is in hand."),
        ],
        // What items tell it beside has no words.
        commands: &[CommandKind::new("next", "Puts the next item in hand.")],
        variables: &[
            VariableKind { name: "hand", ty: ParamType::Object, about: "The item in hand, if there is one." },
            VariableKind { name: "load", ty: ParamType::Whole, about: "The number of items it carries." },
        ],
        readings: &[],
        words: None,
        settings: &[Setting::optional(
            "holds",
            SettingType::Number,
            "The largest number of items it can carry. Default no limit.",
        )
        .live()],
        build: |settings, rate| Self::from_settings(settings)?.into_part(rate),
        blank: || Box::new(Self::new()),
    };

    /// A carrier of any number of items.
    pub fn new() -> Self {
        Self::default()
    }

    /// At most so many.
    pub fn holds(mut self, most: u32) -> Self {
        self.holds = Some(most);
        self
    }

    fn from_settings(settings: &Settings) -> Result<Self, BuildError> {
        let holds = settings.number("holds").map(whole_number).transpose()?;
        Ok(Self { holds, ..Self::new() })
    }

    /// The items, in the order they were taken.
    pub fn items(&self) -> &[ObjectId] {
        &self.items
    }

    /// The item in hand.
    pub fn hand(&self) -> Option<ObjectId> {
        self.items.get(self.hand).copied()
    }

    pub(crate) fn is_full(&self) -> bool {
        self.holds.is_some_and(|most| self.items.len() >= most as usize)
    }

    fn review(&self, before: Option<ObjectId>, cx: &mut PartCx<'_>) {
        let now = self.hand();
        #[expect(clippy::cast_possible_wrap, reason = "nobody carries 2^63 items")]
        cx.keep(Self::LOAD, None, self.items.len() as i64);
        if now == before {
            return;
        }
        cx.keep(Self::HAND, None, now.map_or(Value::Nothing, Value::Object));
        for (item, on) in [(before, false), (now, true)] {
            let Some(item) = item else { continue };
            cx.put_in_hand(item, on);
        }
        if let Some(item) = now {
            cx.emit(2, Held { item });
        }
    }
}

fn whole_number(found: f64) -> Result<u32, BuildError> {
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "it was looked at before")]
    if (1.0..=1e6).contains(&found) && found.fract() == 0.0 {
        return Ok(found as u32);
    }
    Err(BuildError::BadNumber { setting: "holds", expected: "a whole number from 1 up", found })
}

impl Part for Carrier {
    fn read(&self, name: &str, _: &ReadCx<'_>) -> Option<Value> {
        (name == "holds").then(|| self.holds.map_or(Value::Nothing, |most| Value::Number(most.into())))
    }

    /// What it carries beyond that it keeps, and takes no more.
    fn change(&mut self, setting: &str, to: &Value, _: &mut PartCx<'_>) -> Result<(), BuildError> {
        if let ("holds", Value::Number(most)) = (setting, to) {
            self.holds = Some(whole_number(*most)?);
        }
        Ok(())
    }

    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn save(&self, to: &mut Vec<Value>) {
        to.push(self.holds.map_or(-1, i64::from).into());
        to.push(i64::try_from(self.hand).unwrap_or_default().into());
        to.extend(self.items.iter().map(|item| Value::Object(*item)));
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let [Value::Whole(holds), Value::Whole(hand), items @ ..] = saved else { return false };
        let items: Option<Vec<_>> = items.iter().map(Value::as_object).collect();
        let (Some(items), Ok(hand)) = (items, usize::try_from(*hand)) else { return false };
        *self = Self { holds: u32::try_from(*holds).ok(), items, hand };
        true
    }

    fn variables(&self) -> Vec<NewVar> {
        vec![NewVar::new("hand", Value::Nothing).of_type(Type::Object), NewVar::new("load", 0)]
    }

    fn command(&mut self, command: Command, cx: &mut PartCx<'_>) {
        let before = self.hand();
        cx.act_for(Some(cx.object()));
        match (command, cx.arg("item").and_then(Value::as_object)) {
            (Self::NEXT, _) if !self.items.is_empty() => {
                self.hand = self.hand.saturating_add(1) % self.items.len();
            }
            (Self::ACCEPT, Some(item)) if !self.items.contains(&item) => {
                self.items.push(item);
                cx.emit(0, Held { item });
            }
            (Self::RELEASE, Some(item)) => {
                let Some(index) = self.items.iter().position(|other| *other == item) else { return };
                self.items.remove(index);
                if self.hand > index || self.hand >= self.items.len() {
                    self.hand = self.hand.saturating_sub(1);
                }
                cx.emit(1, Held { item });
            }
            _ => return,
        }
        self.review(before, cx);
    }
}

impl PartSpec for Carrier {
    type Handle = CarrierHandle;

    fn into_part(self, _: TickRate) -> Result<Box<dyn Part>, BuildError> {
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> CarrierHandle {
        CarrierHandle {
            part,
            took: Signal::nth(signals, 0),
            lost: Signal::nth(signals, 1),
            in_hand: Signal::nth(signals, 2),
        }
    }
}

impl State {
    fn carrier_of(&self, object: ObjectId) -> Option<PartId> {
        self.parts_of(object).iter().copied().find(|part| self.part::<Carrier>(*part).is_ok())
    }

    /// What an object carries, in the order it was taken.
    pub fn carried_by(&self, object: ObjectId) -> &[ObjectId] {
        let carrier = self.carrier_of(object).and_then(|part| self.part::<Carrier>(part).ok());
        carrier.map_or(&[], Carrier::items)
    }

    /// The first item with a tag that an object carries.
    pub fn carries(&self, object: ObjectId, tag: &str) -> Option<ObjectId> {
        self.carried_by(object).iter().copied().find(|item| self.has_tag(*item, tag))
    }
}

impl PartCx<'_> {
    /// Tells the carrier of an item about it; true if it is in hand then.
    pub(crate) fn command_carrier(&mut self, who: ObjectId, command: Command) -> bool {
        let Some(carrier) = self.carrier_of(who) else { return false };
        let item = self.object();
        // These commands are between items and carriers, and no others can give them.
        let told = self.command_unlisted(carrier, command, &[("item".into(), item.into())]);
        self.check(told);
        self.part::<Carrier>(carrier).is_ok_and(|carrier| carrier.hand() == Some(item))
    }

    /// Uses an item up.
    pub(crate) fn consume(&mut self, item: ObjectId) {
        let part = self.parts_of(item).iter().copied().find(|part| self.part::<Item>(*part).is_ok());
        if let Some(part) = part {
            let told = self.command(part, Item::CONSUME, &[]);
            self.check(told);
        }
    }

    /// An item is in its carrier's hand, or no more. The one that is being called sees to that itself.
    fn put_in_hand(&mut self, item: ObjectId, on: bool) {
        let part = self.parts_of(item).iter().copied().find(|part| self.part::<Item>(*part).is_ok());
        if let Some(part) = part {
            self.state.parts.change(part, |item: &mut Item| item.in_hand = on);
            self.state.review_sight(part);
        }
    }
}
