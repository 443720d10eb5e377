//! Spans of time that are told at a pace, perhaps each drawn at random: what timers and cycles count.

use crate::{
    base::{
        clock::{TickRate, Ticks},
        error::BuildError,
        value::Value,
    },
    part::{cx::PartCx, setting::Span},
};

/// A span in ticks, or one drawn between two.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Interval {
    pub(crate) from: Ticks,
    pub(crate) to: Ticks,
}

impl Interval {
    pub(crate) fn of(span: Span, rate: TickRate) -> Result<Self, BuildError> {
        let from = rate.repeated(span.from, "every")?;
        let to = span.to.map_or(Ok(from), |to| rate.repeated(to, "every"))?;
        if to < from {
            let found = span.to.unwrap_or(span.from).0;
            return Err(BuildError::BadNumber {
                setting: "to",
                expected: "a span no shorter than the first",
                found,
            });
        }
        Ok(Self { from, to })
    }

    /// How long it is this time, in ticks.
    fn draw(self, cx: &PartCx<'_>) -> f64 {
        let (from, to) = (self.from.count(), self.to.count());
        if self.from == self.to { from } else { from + cx.draw() * (to - from) }
    }
}

/// A span that is being told.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Countdown {
    /// What was left of it when its alarm was set, in ticks at a pace of 1.
    left: f64,
    /// What the alarm was set to.
    set: Ticks,
    pub(crate) pace: f64,
    pub(crate) runs: bool,
}

impl Default for Countdown {
    fn default() -> Self {
        Self { left: 0.0, set: Ticks::ZERO, pace: 1.0, runs: false }
    }
}

impl Countdown {
    /// A span begins.
    pub(crate) fn begin(&mut self, interval: Interval, cx: &mut PartCx<'_>) {
        (self.left, self.runs) = (interval.draw(cx), true);
        self.set_alarm(cx);
    }

    /// The alarm has rung: whether the span is over by that.
    pub(crate) fn rang(&mut self) {
        self.left -= self.set.count() * self.pace;
    }

    /// Whether the span is over.
    pub(crate) fn is_over(&self) -> bool {
        // Alarms are exact to a millionth of a tick.
        self.left <= 1e-6 * self.pace.max(1.0)
    }

    /// A span follows on one that is over, without losing what that was over by.
    pub(crate) fn follow(&mut self, interval: Interval, cx: &PartCx<'_>) {
        self.left += interval.draw(cx);
    }

    /// Asks to be called when it is over.
    pub(crate) fn set_alarm(&mut self, cx: &mut PartCx<'_>) {
        if self.runs && self.pace > 0.0 {
            let span = Ticks::of_count((self.left / self.pace).max(0.0)).unwrap_or(Ticks::FOREVER);
            self.set = span.max(Ticks::SHORTEST);
            cx.ring_in(self.set);
        } else {
            cx.ring_never();
        }
    }

    /// Stops, or goes on from where it stopped.
    pub(crate) fn run(&mut self, on: bool, cx: &mut PartCx<'_>) {
        self.note(cx);
        self.runs = on;
        self.set_alarm(cx);
    }

    /// The span under way becomes so many ticks longer, or shorter.
    pub(crate) fn stretch(&mut self, by: f64, cx: &mut PartCx<'_>) {
        self.note(cx);
        self.left = (self.left + by).max(0.0);
        self.set_alarm(cx);
    }

    /// How long it is until it is over, at its pace; at none, what is left of it.
    pub(crate) fn until_over(&self, rings_in: Option<Ticks>) -> Ticks {
        let pace = if self.pace > 0.0 { self.pace } else { 1.0 };
        rings_in.or_else(|| Ticks::of_count((self.left / pace).max(0.0))).unwrap_or(Ticks::FOREVER)
    }

    /// Goes on at another pace.
    pub(crate) fn set_pace(&mut self, pace: f64, cx: &mut PartCx<'_>) {
        self.note(cx);
        self.pace = pace;
        self.set_alarm(cx);
    }

    /// What is left of it now: no time has passed for it while its alarm stood still.
    fn note(&mut self, cx: &PartCx<'_>) {
        if let Some(rings) = cx.rings_in() {
            let passed = self.set.saturating_sub(rings).count();
            self.left = (self.left - passed * self.pace).max(0.0);
        }
    }

    pub(crate) fn end(&mut self, cx: &mut PartCx<'_>) {
        *self = Self { pace: self.pace, ..Self::default() };
        cx.ring_never();
    }

    pub(crate) fn save(&self) -> [Value; 4] {
        [self.left.into(), self.set.into(), self.pace.into(), self.runs.into()]
    }

    pub(crate) fn load(saved: &[Value]) -> Option<Self> {
        let [Value::Number(left), Value::Duration(set), Value::Number(pace), Value::Bool(runs)] = saved
        else {
            return None;
        };
        let sound = left.is_finite() && *pace >= 0.0 && pace.is_finite();
        sound.then_some(Self { left: *left, set: *set, pace: *pace, runs: *runs })
    }
}
