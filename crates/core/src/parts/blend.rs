//! The blend: a set of parameters that go together from one of several settings to another.

use smol_str::SmolStr;

use crate::{
    base::{
        clock::{TickRate, Ticks, ticks},
        ease::Ease,
        error::BuildError,
        ids::{PartId, SignalId},
        names::check_name,
        numbers::{Command, PartState},
        signal::Signal,
        value::{Type, Value},
    },
    part::{
        contract::{Activity, Part, PartSpec},
        cx::PartCx,
        kind::{CommandKind, Param, ParamType, PartKind, SignalKind, VariableKind, Word},
        setting::{Setting, Settings},
        setting_type::SettingType,
    },
    payload,
    plan::new_var::NewVar,
};

payload! {
    /// A blend goes to one of its settings, or has come there.
    #[derive(Clone, Debug, PartialEq)]
    pub struct Blended {
        /// Which.
        pub to: Word,
    }
}

/// A blend. Made in Rust with [`Blend::new`].
///
/// Numbers, vectors, rotations and colours go from where they are to where they shall be, all at once: turned back
/// half-way, nothing jumps. What is on or off goes on at the beginning and off at the end, so that it is seen on the
/// way. Anything else changes at the end.
///
/// ```
/// use stoicheon_core::{Blend, Value, World};
/// let mut world = World::<()>::new();
/// let river = world.object("river").add()?;
/// let blend = Blend::new()
///     .setting("dry", [("flow", 0.2.into()), ("foam", false.into())])
///     .setting("spate", [("flow", 2.5.into()), ("foam", true.into())]);
/// world.attach(river, blend)?;
/// assert_eq!(world.property(river, "flow"), Some(&Value::Number(0.2)));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Blend {
    rows: Vec<(SmolStr, Vec<(SmolStr, Value)>)>,
    remember: bool,
    to: usize,
    left: u64,
}

/// A blend's signals, and the part to command.
#[derive(Clone, Copy, Debug)]
#[non_exhaustive]
pub struct BlendHandle {
    /// The part.
    pub part: PartId,
    /// It sets out.
    pub blending: Signal<Blended>,
    /// It has reached the setting.
    pub blended: Signal<Blended>,
}

impl Blend {
    /// The number of the command `blend`.
    pub const BLEND: Command = Command::new(0);
    const STATE: usize = 0;

    /// What is known of blends.
    pub const KIND: PartKind = PartKind {
        name: "blend",
        about: "A set of parameters that move together from one of several settings to another.",
        states: &["settled", "blending"],
        signals: &[
            SignalKind::of::<Blended>("blending", "It starts to move to one of its settings."),
            SignalKind::of::<Blended>("blended", "It has reached the setting."),
        ],
        commands: &[CommandKind::with(
            "blend",
            "Moves to that setting from the current values; replaces a blend in progress.",
            &[
                Param::required("to", ParamType::Word, "One of its settings."),
                Param::optional("over", ParamType::Span, "The duration. Default at once."),
                Param::optional(
                    "ease",
                    ParamType::OneOf(&["steady", "smooth", "soft_start", "soft_end"]),
                    "The easing. Default steady.",
                ),
            ],
        )],
        variables: &[VariableKind {
            name: "state",
            ty: ParamType::Word,
            about: "The setting it is at or moves to. Its parameters are variables too.",
        }],
        readings: &[],
        words: Some("settings"),
        settings: &[
            Setting::required(
                "settings",
                SettingType::Table,
                "Its settings, each with the same parameters in braces; it starts with the first. The word \
                 `settings` may be left out.",
            ),
            Setting::optional(
                "remember",
                SettingType::Flag,
                "The setting it moves to is kept when its scene is unloaded, and in a save.",
            ),
        ],
        build: |settings, rate| Self::from_settings(settings).into_part(rate),
        blank: || Box::new(Self::new()),
    };

    /// A blend without settings so far.
    pub fn new() -> Self {
        Self::default()
    }

    /// One of its settings, the first one first; all have the same parameters.
    pub fn setting<'a>(mut self, word: &str, row: impl IntoIterator<Item = (&'a str, Value)>) -> Self {
        let row = row.into_iter().map(|(name, value)| (name.into(), value)).collect();
        self.rows.push((word.into(), row));
        self
    }

    /// The setting it moves to is kept when its scene is unloaded, and in a save.
    pub fn remembered(mut self) -> Self {
        self.remember = true;
        self
    }

    fn from_settings(settings: &Settings) -> Self {
        let rows = settings.table("settings").to_vec();
        Self { rows, remember: settings.has("remember"), to: 0, left: 0 }
    }

    /// Where it is or is going.
    pub fn target(&self) -> &str {
        self.rows.get(self.to).map_or("", |(word, _)| word)
    }

    fn go(&mut self, index: usize, over: Ticks, ease: Ease, cx: &mut PartCx<'_>) {
        let before = self.state();
        (self.to, self.left) = (index, over.whole());
        cx.keep(Self::STATE, None, self.target());
        let to = Word(self.target().into());
        cx.emit(0, Blended { to });
        if over == Ticks::ZERO {
            return self.arrive(before, cx);
        }
        cx.shift(before, self.state());
        for (variable, value) in self.row() {
            match value {
                Value::Bool(true) => cx.keep(variable, None, true),
                Value::Number(_) | Value::Vector(_) | Value::Rotation(_) | Value::Colour(_) => {
                    cx.glide(variable, value, over, ease);
                }
                _ => {}
            }
        }
        cx.wake();
    }

    /// The variables and where they go.
    fn row(&self) -> Vec<(usize, Value)> {
        let row = self.rows.get(self.to).map(|(_, row)| row.as_slice()).unwrap_or_default();
        row.iter().enumerate().map(|(index, (_, value))| (index + 1, value.clone())).collect()
    }

    fn arrive(&mut self, before: PartState, cx: &mut PartCx<'_>) {
        cx.shift(before, self.state());
        for (variable, value) in self.row() {
            if cx.own(variable, None) != value {
                cx.keep(variable, None, value);
            }
        }
        let to = Word(self.target().into());
        cx.emit(1, Blended { to });
    }
}

impl Part for Blend {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn state(&self) -> PartState {
        (self.left > 0).into()
    }

    fn save(&self, to: &mut Vec<Value>) {
        to.extend([self.remember.into(), i64::try_from(self.to).unwrap_or_default().into()]);
        to.push(ticks(self.left).into());
        for (word, row) in &self.rows {
            to.extend([Value::Text(word.clone()), i64::try_from(row.len()).unwrap_or_default().into()]);
            to.extend(row.iter().flat_map(|(name, value)| [Value::Text(name.clone()), value.clone()]));
        }
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        let [Value::Bool(remember), Value::Whole(to), Value::Duration(left), rest @ ..] = saved else {
            return false;
        };
        let mut rows = Vec::new();
        let mut rest = rest;
        while let [Value::Text(word), Value::Whole(count), more @ ..] = rest {
            let Some(count) = usize::try_from(*count).ok().and_then(|count| count.checked_mul(2)) else {
                return false;
            };
            let Some((row, after)) = more.split_at_checked(count) else { return false };
            let pair = |pair: &[Value]| match pair {
                [Value::Text(name), value] => Some((name.clone(), value.clone())),
                _ => None,
            };
            let Some(row) = row.chunks(2).map(pair).collect() else { return false };
            rows.push((word.clone(), row));
            rest = after;
        }
        let Some(to) = usize::try_from(*to).ok().filter(|to| rest.is_empty() && *to < rows.len().max(1))
        else {
            return false;
        };
        *self = Self { rows, remember: *remember, to, left: left.whole() };
        true
    }

    fn variables(&self) -> Vec<NewVar> {
        let words = Type::one_of(self.rows.iter().map(|(word, _)| word.clone()));
        let state = NewVar::new("state", self.target()).of_type(words);
        let first = self.rows.first().map(|(_, row)| row.as_slice()).unwrap_or_default();
        let parameters = first.iter().map(|(name, value)| NewVar::new(name, value.clone()));
        std::iter::once(state).chain(parameters).collect()
    }

    fn remembered(&self) -> Vec<(&'static str, Value)> {
        if self.remember { vec![("state", self.target().into())] } else { Vec::new() }
    }

    /// It is there at once.
    fn recall(&mut self, fields: &[(&str, Value)], cx: &mut PartCx<'_>) -> bool {
        let word = fields.iter().find(|(name, _)| *name == "state").and_then(|(_, value)| value.as_text());
        let index = word.and_then(|word| self.rows.iter().position(|(row, _)| row == word));
        let Some(index) = index else { return false };
        (self.to, self.left) = (index, 0);
        cx.keep(Self::STATE, None, self.target());
        for (variable, value) in self.row() {
            cx.keep(variable, None, value);
        }
        true
    }

    fn command(&mut self, _: Command, cx: &mut PartCx<'_>) {
        let word = cx.word("to");
        let index = self.rows.iter().position(|(row, _)| Some(row) == word.as_ref());
        let Some(index) = index else { return cx.fault("expected one of the blend's settings") };
        if index == self.to {
            return cx.unmoved(self.state());
        }
        let ease = cx.word("ease");
        let ease =
            Ease::ALL.into_iter().find(|known| Some(known.word()) == ease.as_deref()).unwrap_or_default();
        self.go(index, cx.span("over").unwrap_or(Ticks::ZERO), ease, cx);
    }

    fn motion(&mut self, cx: &mut PartCx<'_>) -> Activity {
        if self.left == 0 {
            return Activity::Still;
        }
        self.left -= 1;
        if self.left == 0 {
            self.arrive(PartState::from(true), cx);
            return Activity::Still;
        }
        Activity::Moving
    }
}

impl PartSpec for Blend {
    type Handle = BlendHandle;

    fn into_part(self, _: TickRate) -> Result<Box<dyn Part>, BuildError> {
        let Some((_, first)) = self.rows.first() else {
            return Err(BuildError::BadSettings { expected: "at least one setting of the blend" });
        };
        for (number, (word, row)) in self.rows.iter().enumerate() {
            check_name(word)?;
            if self.rows.iter().take(number).any(|(other, _)| other == word) {
                return Err(BuildError::NameTaken { kind: "a setting of the blend", name: word.clone() });
            }
            let fits = |((name, value), (first, of)): (&(SmolStr, Value), &(SmolStr, Value))| {
                name == first && value.type_of() == of.type_of()
            };
            if row.len() != first.len() || !row.iter().zip(first).all(fits) {
                let expected = "the same parameters, in the same order and of the same types, in each setting of a blend";
                return Err(BuildError::BadSettings { expected });
            }
            for (index, (name, value)) in row.iter().enumerate() {
                check_name(name)?;
                if name == "state" || row.iter().take(index).any(|(other, _)| other == name) {
                    return Err(BuildError::NameTaken { kind: "a parameter", name: name.clone() });
                }
                let sound = match value {
                    Value::Number(number) => number.is_finite(),
                    Value::Vector(vector) => vector.is_finite(),
                    Value::Nothing => false,
                    _ => true,
                };
                if !sound {
                    return Err(BuildError::BadSettings {
                        expected: "a value for each parameter of a blend",
                    });
                }
            }
        }
        Ok(Box::new(self))
    }

    fn handle(part: PartId, signals: &[SignalId]) -> BlendHandle {
        BlendHandle { part, blending: Signal::nth(signals, 0), blended: Signal::nth(signals, 1) }
    }
}
