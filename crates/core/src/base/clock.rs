//! Time in whole ticks: the rate, the remainder kept exactly, the catch-up limit.

use std::{fmt, num::NonZeroU32};

use serde::{Deserialize, Serialize};

use crate::base::error::BuildError;

/// The number of a tick. Tick 0 is start-up; the first `advance` that has time for it runs tick 1.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct Tick(pub u64);

/// A span of time in whole ticks.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct Ticks(pub u64);

impl std::ops::Add<Ticks> for Tick {
    type Output = Self;
    fn add(self, span: Ticks) -> Self {
        Self(self.0.saturating_add(span.0))
    }
}

/// A span of time in seconds, as people write it. It becomes [`Ticks`] once, where it is handed in.
#[derive(Clone, Copy, Debug, PartialEq, PartialOrd, Serialize, Deserialize)]
pub struct Seconds(pub f64);

/// `secs(2.5)`: two and a half seconds.
pub const fn secs(seconds: f64) -> Seconds {
    Seconds(seconds)
}

impl fmt::Display for Seconds {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} s", self.0)
    }
}

/// Ticks per second.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct TickRate(NonZeroU32);

impl Default for TickRate {
    /// 30 ticks per second.
    fn default() -> Self {
        Self(NonZeroU32::MIN.saturating_add(29))
    }
}

/// The longest span taken, in seconds (about 31 years): past it, ticks could no longer be counted safely.
const LONGEST: f64 = 1e9;

impl TickRate {
    /// A rate of `per_second` ticks.
    ///
    /// # Errors
    /// [`BuildError::BadTickRate`] unless it lies within 1 and 1,000.
    pub fn new(per_second: u32) -> Result<Self, BuildError> {
        match NonZeroU32::new(per_second) {
            Some(rate) if per_second <= 1000 => Ok(Self(rate)),
            _ => Err(BuildError::BadTickRate { found: per_second }),
        }
    }

    /// How many ticks make a second.
    pub fn per_second(self) -> u32 {
        self.0.get()
    }

    /// A span in whole ticks: the nearest number, and at least one.
    ///
    /// ```
    /// use stoicheon_core::{TickRate, Ticks, secs};
    /// let rate = TickRate::new(30)?;
    /// assert_eq!(rate.ticks(secs(2.5))?, Ticks(75));
    /// assert_eq!(rate.ticks(secs(0.001))?, Ticks(1));
    /// assert!(rate.ticks(secs(0.0)).is_err());
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// [`BuildError::BadDuration`] unless the span is a number above zero and at most a thousand million seconds.
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "the range is checked")]
    pub fn ticks(self, span: Seconds) -> Result<Ticks, BuildError> {
        if !(span.0 > 0.0 && span.0 <= LONGEST) {
            return Err(BuildError::BadDuration { found: span });
        }
        Ok(Ticks(((span.0 * f64::from(self.per_second())).round() as u64).max(1)))
    }

    /// A number of ticks in seconds, for people to read.
    #[expect(clippy::cast_precision_loss, reason = "shown to people, to the millisecond")]
    pub fn seconds(self, ticks: Ticks) -> Seconds {
        Seconds(ticks.0 as f64 / f64::from(self.per_second()))
    }

    /// The length of one tick in seconds.
    pub fn step(self) -> f64 {
        1.0 / f64::from(self.per_second())
    }
}

/// What one call of `advance` did with the time it was given.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[non_exhaustive]
pub struct Advance {
    /// How many ticks ran.
    pub ticks: u32,
    /// How far the time left over reaches into the next tick, from 0 up to but not including 1. A host
    /// blends between the last two places of a body with it.
    pub fraction: f64,
    /// Whole ticks past the catch-up limit that were let go, and will not be made up for.
    pub let_go: u64,
}

/// Turns frames into ticks. Time is added up in units of 2⁻⁶⁴ of a tick, so nothing is ever rounded away.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(crate) struct Clock {
    pub(crate) rate: TickRate,
    pub(crate) now: Tick,
    /// Time not yet spent: ticks above the 64th binary place, the fraction of one below it.
    owed: u128,
}

/// 2⁶⁴, exactly.
const UNIT: f64 = 18_446_744_073_709_551_616.0;

impl Clock {
    pub(crate) fn new(rate: TickRate) -> Self {
        Self { rate, now: Tick(0), owed: 0 }
    }

    /// Adds a frame and says how many ticks are due, leaving the rest owed; nothing for what is no frame time.
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "the range is checked")]
    #[expect(clippy::cast_precision_loss, reason = "the fraction is offered as a float")]
    pub(crate) fn take(&mut self, frame: Seconds, catch_up: u32) -> Option<Advance> {
        if !(frame.0 >= 0.0 && frame.0 <= LONGEST) {
            return None;
        }
        // A float of 53 bits scaled by a power of two stays exact; the product with the rate fits easily.
        self.owed += (frame.0 * UNIT) as u128 * u128::from(self.rate.per_second());
        let due = (self.owed >> 64) as u64;
        self.owed &= u128::from(u64::MAX);
        let ticks = due.min(u64::from(catch_up));
        // Rounding up to 1.0 must not happen: a blend would show the next tick early.
        let fraction = (self.owed as f64 / UNIT).min(1.0 - f64::EPSILON);
        Some(Advance { ticks: ticks as u32, fraction, let_go: due - ticks })
    }
}
