//! What a door does: when it opens and when it does not, tick by tick, and how it is saved.

use glam::Vec3;
use smol_str::SmolStr;

use crate::{
    base::{
        clock::{Seconds, Ticks, ticks},
        error::BuildError,
        numbers::{Command, PartState},
        value::{FieldValue, Value},
    },
    part::{
        contract::{Activity, Part},
        cx::{PartCx, ReadCx},
        kind::{Join, PartKind},
        refusals::Denial,
    },
    parts::{
        door::{Asks, Built, Door, OpensOn, Refused, Swing},
        prompt::Prompt,
        zone::Zone,
    },
    plan::{expr::Expr, new_var::NewVar},
};

impl Door {
    fn go(&mut self, opening: bool, cx: &mut PartCx<'_>) {
        let there = if opening { [Self::OPENING, Self::OPEN] } else { [Self::CLOSING, Self::CLOSED] };
        if there.contains(&self.state) {
            // Asked for once more, it stays open for as long once more.
            if self.state == Self::OPEN {
                self.stay(cx);
            }
            cx.unmoved(self.state);
            return;
        }
        cx.ring_never();
        self.shift(there[0], cx);
        cx.wake();
    }

    /// Why it does not open for the player who wants it open.
    fn refusal(&self, cx: &mut PartCx<'_>) -> Option<Denial> {
        if self.locked {
            return Some(Denial::Locked);
        }
        if self.built.asks.when.is_some() && cx.asked("when").and_then(|holds| holds.as_bool()) != Some(true)
        {
            return Some(Denial::Condition);
        }
        let Asks { items, consumed, .. } = &self.built.asks;
        if items.is_empty() {
            return None;
        }
        let item = cx.who().and_then(|who| items.iter().find_map(|tag| cx.carries(who, tag)));
        let Some(item) = item else { return Some(Denial::Item) };
        if *consumed && !matches!(self.state, Self::OPENING | Self::OPEN) {
            cx.consume(item);
        }
        None
    }

    fn open_for_who(&mut self, cx: &mut PartCx<'_>) {
        match self.refusal(cx) {
            Some(why) => cx.emit(5, Refused { why }),
            None => self.go(true, cx),
        }
    }

    fn lock(&mut self, on: bool, cx: &mut PartCx<'_>) {
        if self.locked == on {
            return cx.unmoved(self.state);
        }
        self.locked = on;
        cx.keep(Self::LOCKED, None, on);
    }

    #[expect(
        clippy::cast_possible_truncation,
        clippy::cast_sign_loss,
        clippy::cast_precision_loss,
        reason = "a part of the ticks it takes"
    )]
    fn progress_at(&self, openness: f64) -> u64 {
        libm::round(openness * self.built.length.whole() as f64) as u64
    }

    fn stay(&self, cx: &mut PartCx<'_>) {
        if let Some((_, span)) = self.built.stays {
            cx.ring_in(span);
        }
    }

    /// Something is in its way.
    fn block(&mut self, cx: &mut PartCx<'_>) {
        self.was_closing = self.state == Self::CLOSING;
        self.shift(Self::BLOCKED, cx);
    }

    /// The state and the signal that tells of it have different numbers only for open and opened.
    fn shift(&mut self, to: PartState, cx: &mut PartCx<'_>) {
        cx.shift(self.state, to);
        self.state = to;
        cx.emit(
            match to {
                Self::OPENING => 0,
                Self::OPEN => 1,
                Self::CLOSING => 2,
                Self::CLOSED => 3,
                _ => 4,
            },
            (),
        );
    }
}

impl Part for Door {
    fn kind(&self) -> &'static PartKind {
        &Self::KIND
    }

    fn state(&self) -> PartState {
        self.state
    }

    fn save(&self, to: &mut Vec<Value>) {
        let swing = self.built.swing.unwrap_or(Swing { degrees: 0.0, about: Vec3::ZERO, hinge: Vec3::ZERO });
        to.extend([
            swing.degrees.into(),
            swing.about.into(),
            swing.hinge.into(),
            self.built.slide.into(),
            self.built.over.0.into(),
            self.built.length.into(),
            Value::Duration(ticks(self.progress)),
            self.state.into(),
            self.built.remember.into(),
            self.locked.into(),
            self.was_closing.into(),
            self.built.fades.into(),
            self.built.careful.into(),
            self.built.stays.map_or(-1.0, |(span, _)| span.0).into(),
            self.built.stays.map_or(Ticks::ZERO, |(_, ticks)| ticks).into(),
            Value::Text(self.built.asks.items.join(" ").into()),
            self.built.asks.consumed.into(),
            u32::from(self.built.asks.by as u8).into(),
            self.built.asks.closes_when_left.into(),
            self.built.asks.when.is_some().into(),
        ]);
    }

    fn load(&mut self, saved: &[Value]) -> bool {
        use Value::{Bool, Duration, Number, Vector};
        let [
            Number(degrees),
            Vector(about),
            Vector(hinge),
            Vector(slide),
            Number(over),
            Duration(length),
            Duration(progress),
            state,
            Bool(remember),
            Bool(locked),
            Bool(was_closing),
            Bool(fades),
            Bool(careful),
            Number(stays),
            Duration(stay_ticks),
            Value::Text(items),
            Bool(consumed),
            by,
            Bool(closes_when_left),
            Bool(asks_when),
        ] = saved
        else {
            return false;
        };
        let state = PartState::from_value(state);
        let Some(state) = state.filter(|state| *state <= Self::BLOCKED && progress.whole() <= length.whole())
        else {
            return false;
        };
        let by = match u32::from_value(by) {
            Some(0) => OpensOn::Command,
            Some(1) => OpensOn::Touch,
            Some(2) => OpensOn::Prompt,
            _ => return false,
        };
        let swing = Swing { degrees: *degrees, about: *about, hinge: *hinge };
        let built = Built {
            swing: (*degrees != 0.0).then_some(swing),
            slide: *slide,
            over: Seconds(*over),
            length: *length,
            asks: Asks {
                items: items.split_whitespace().map(SmolStr::from).collect(),
                consumed: *consumed,
                // The condition itself is the world's by now.
                when: asks_when.then(|| Expr::from(true)),
                by,
                closes_when_left: *closes_when_left,
            },
            stays: (*stays >= 0.0).then_some((Seconds(*stays), *stay_ticks)),
            fades: *fades,
            careful: *careful,
            remember: *remember,
        };
        *self = Self {
            progress: progress.whole(),
            state,
            was_closing: *was_closing,
            locked: *locked,
            ..Self::of(built)
        };
        true
    }

    fn remembered(&self) -> Vec<(&'static str, Value)> {
        if !self.built.remember {
            return Vec::new();
        }
        // What is in its way now need not be when it is recalled: it goes on, and may be blocked again.
        let state = match self.state {
            Self::BLOCKED if self.was_closing => Self::CLOSING,
            Self::BLOCKED => Self::OPENING,
            state => state,
        };
        let word = Self::KIND.states.get(usize::from(state)).copied().unwrap_or_default();
        vec![
            ("state", Value::Text(word.into())),
            ("openness", self.openness().into()),
            ("locked", self.locked.into()),
        ]
    }

    /// It goes on from where it was; nothing is told of what was told before.
    fn recall(&mut self, fields: &[(&str, Value)], cx: &mut PartCx<'_>) -> bool {
        let field = |name: &str| fields.iter().find(|(field, _)| *field == name).map(|(_, value)| value);
        let state = field("state").and_then(Value::as_text).and_then(|word| Self::KIND.state(word));
        let Some(state) = state else { return false };
        let half = field("openness").and_then(Value::as_number).unwrap_or(0.0);
        let openness = match state {
            Self::CLOSED => 0.0,
            Self::OPEN => 1.0,
            _ if (0.0..=1.0).contains(&half) => half,
            _ => return false,
        };
        (self.state, self.progress) = (state, self.progress_at(openness));
        if let Some(locked) = field("locked").and_then(Value::as_bool).filter(|locked| *locked != self.locked)
        {
            self.locked = locked;
            cx.keep(Self::LOCKED, None, locked);
        }
        match state {
            Self::OPENING | Self::CLOSING => cx.wake(),
            Self::OPEN => self.stay(cx),
            _ => {}
        }
        true
    }

    fn read(&self, name: &str, of: &ReadCx<'_>) -> Option<Value> {
        Some(match name {
            "leaf" => of.pose().carry(self.leaf(Self::openness(self))).at.into(),
            "leaf_facing" => of.pose().carry(self.leaf(Self::openness(self))).facing.into(),
            "openness" => Self::openness(self).into(),
            "over" => Value::Duration(self.built.length),
            "stays" => self.built.stays.map_or(Value::Nothing, |(_, span)| Value::Duration(span)),
            _ => return None,
        })
    }

    /// It stands as far open as before, and goes on from there.
    fn change(&mut self, setting: &str, to: &Value, cx: &mut PartCx<'_>) -> Result<(), BuildError> {
        let Value::Duration(span) = to else { return Ok(()) };
        let seconds = cx.rate().seconds(*span);
        if setting == "stays" {
            self.building().stays = Some((seconds, (*span).max(ticks(1))));
            if self.state == Self::OPEN {
                self.stay(cx);
            }
            return Ok(());
        }
        let openness = Self::openness(self);
        let built = self.building();
        (built.over, built.length) = (seconds, ticks(span.whole().max(1)));
        self.progress = self.progress_at(openness);
        Ok(())
    }

    fn openness(&self) -> Option<f64> {
        Some(Self::openness(self))
    }

    fn variables(&self) -> Vec<NewVar> {
        vec![NewVar::new("locked", self.locked)]
    }

    fn asks(&self) -> Vec<(&'static str, Expr)> {
        self.built.asks.when.iter().map(|when| ("when", when.clone())).collect()
    }

    fn joins(&self) -> Vec<Join> {
        let join = |signal, command| Join { signal, command, order: 0 };
        let opens = match self.built.asks.by {
            OpensOn::Command => None,
            OpensOn::Touch => Some(join(Zone::ON_ENTERED.name(), Self::TO_OPEN)),
            OpensOn::Prompt => Some(join(Prompt::ON_ANSWERED.name(), Self::TO_OPEN)),
        };
        let closes = self.built.asks.closes_when_left.then(|| join(Zone::ON_VACATED.name(), Self::TO_CLOSE));
        let clears = self.built.careful.then(|| join(Zone::ON_VACATED.name(), Self::TO_CLEAR));
        [opens, closes, clears].into_iter().flatten().collect()
    }

    fn lets_through(&self) -> bool {
        self.built.fades && self.state != Self::CLOSED
    }

    fn due(&mut self, cx: &mut PartCx<'_>) {
        if self.state == Self::OPEN {
            self.go(false, cx);
        }
    }

    fn command(&mut self, command: Command, cx: &mut PartCx<'_>) {
        match command {
            Self::TO_OPEN => self.open_for_who(cx),
            Self::TO_CLOSE => self.go(false, cx),
            Self::TO_TOGGLE if matches!(self.state, Self::OPENING | Self::OPEN) => self.go(false, cx),
            Self::TO_TOGGLE => self.open_for_who(cx),
            Self::TO_FORCE => self.go(true, cx),
            Self::TO_LOCK | Self::TO_UNLOCK => self.lock(command == Self::TO_LOCK, cx),
            Self::TO_BLOCK if matches!(self.state, Self::OPENING | Self::CLOSING) => self.block(cx),
            Self::TO_CLEAR if self.state == Self::BLOCKED => self.go(!self.was_closing, cx),
            _ => cx.unmoved(self.state),
        }
    }

    fn motion(&mut self, cx: &mut PartCx<'_>) -> Activity {
        match self.state {
            Self::OPENING => {
                // Told to close and to open again within a tick, it stands open still.
                self.progress = self.progress.saturating_add(1).min(self.built.length.whole());
                if self.progress >= self.built.length.whole() {
                    self.shift(Self::OPEN, cx);
                    self.stay(cx);
                    return Activity::Still;
                }
                Activity::Moving
            }
            Self::CLOSING => {
                if self.built.careful && cx.visitors().next().is_some() {
                    self.block(cx);
                    return Activity::Still;
                }
                self.progress = self.progress.saturating_sub(1);
                if self.progress == 0 {
                    self.shift(Self::CLOSED, cx);
                    return Activity::Still;
                }
                Activity::Moving
            }
            _ => Activity::Still,
        }
    }
}
