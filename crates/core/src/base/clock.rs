//! Time in whole ticks: the rate, the remainder kept exactly, the catch-up limit.

use std::{fmt, num::NonZeroU32};

use serde::{Deserialize, Deserializer, Serialize, Serializer, de::Error as _};

use crate::base::error::BuildError;

/// The number of a tick. Tick 0 is start-up; the first `advance` that has time for it runs tick 1.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct Tick(pub u64);

/// A span of time, counted in ticks and exact to a millionth of one, so that milliseconds and microseconds are exact at any rate.
/// What takes so long is ends in the first tick at or after that moment.
///
/// ```
/// use stoicheon_core::{TickRate, secs, ticks};
/// let pulse = TickRate::new(30)?.ticks(secs(0.25))?;
/// assert_eq!((pulse.count(), pulse.whole()), (7.5, 8));
/// assert_eq!(ticks(3).count(), 3.0);
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Ticks(u64);

/// So many parts of a tick are told apart.
const PARTS: u64 = 1_000_000;

/// `ticks(3)`: three ticks.
pub const fn ticks(count: u64) -> Ticks {
    Ticks(count.saturating_mul(PARTS))
}

impl Ticks {
    /// No time at all.
    pub const ZERO: Self = Self(0);

    /// Longer than anything lasts.
    pub(crate) const FOREVER: Self = Self(u64::MAX);

    /// How many ticks have to pass for it.
    pub const fn whole(self) -> u64 {
        self.0.div_ceil(PARTS)
    }

    /// How many ticks it is, with what is left of one.
    #[expect(clippy::cast_precision_loss, reason = "shown to people, or a part of a length")]
    pub fn count(self) -> f64 {
        self.0 as f64 / PARTS as f64
    }

    /// So many ticks and parts of one; the nearest that can be told apart. `None` for what is no span.
    #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "the range is checked")]
    #[expect(clippy::cast_precision_loss, reason = "a million is exact")]
    pub(crate) fn of_count(count: f64) -> Option<Self> {
        let parts = libm::round(count * PARTS as f64);
        (0.0..1.8e19).contains(&parts).then_some(Self(parts as u64))
    }

    pub(crate) fn checked_add(self, other: Self) -> Option<Self> {
        self.0.checked_add(other.0).map(Self)
    }

    pub(crate) fn checked_sub(self, other: Self) -> Option<Self> {
        self.0.checked_sub(other.0).map(Self)
    }

    pub(crate) fn saturating_sub(self, other: Self) -> Self {
        Self(self.0.saturating_sub(other.0))
    }

    /// The shortest span that repeats: a hundredth of a tick. What struck more often would do little else.
    pub(crate) const SHORTEST: Self = Self(PARTS / 100);

    /// When something is due that began so much before a tick: the tick, and how long before it the moment itself is.
    pub(crate) fn after(self, now: Tick, late: Self) -> (Tick, Self) {
        let span = self.saturating_sub(late);
        let whole = span.whole();
        // What was to begin before this tick and is over by now is due now, and later by that.
        let passed = ticks(whole).saturating_sub(span).0.saturating_add(late.saturating_sub(self).0);
        (Tick(now.0.saturating_add(whole)), Self(passed))
    }

    /// In millionths of a tick, for the digest.
    pub(crate) fn parts(self) -> u64 {
        self.0
    }

    /// So many times as long.
    pub(crate) fn times(self, number: u64) -> Self {
        Self(self.0.saturating_mul(number))
    }

    /// How many times it fits into another span.
    pub(crate) fn fits_into(self, other: Self) -> u64 {
        other.0 / self.0.max(1)
    }
}

impl fmt::Debug for Ticks {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "Ticks({})", self.count())
    }
}

/// Whole ticks are written as a whole number.
impl Serialize for Ticks {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        if self.0 == u64::MAX || self.0.is_multiple_of(PARTS) {
            to.serialize_u64(self.0 / PARTS)
        } else {
            to.serialize_f64(self.count())
        }
    }
}

impl<'de> Deserialize<'de> for Ticks {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        #[derive(Deserialize)]
        #[serde(untagged)]
        enum Written {
            Whole(u64),
            Count(f64),
        }
        match Written::deserialize(from)? {
            Written::Whole(count) => Ok(ticks(count)),
            Written::Count(count) => Self::of_count(count)
                .ok_or_else(|| D::Error::custom(format!("expected a span of time in ticks, found {count}"))),
        }
    }
}

impl std::ops::Add<Ticks> for Tick {
    type Output = Self;
    /// The first tick at or after that moment.
    fn add(self, span: Ticks) -> Self {
        Self(self.0.saturating_add(span.whole()))
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

    /// A span in ticks, exact to a millionth of one.
    ///
    /// ```
    /// use stoicheon_core::{TickRate, secs, ticks};
    /// let rate = TickRate::new(30)?;
    /// assert_eq!(rate.ticks(secs(2.5))?, ticks(75));
    /// assert_eq!(rate.ticks(secs(0.001))?.count(), 0.03);
    /// assert!(rate.ticks(secs(0.0)).is_err());
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    ///
    /// # Errors
    /// [`BuildError::BadDuration`] unless the span is a number above zero and at most a thousand million seconds.
    pub fn ticks(self, span: Seconds) -> Result<Ticks, BuildError> {
        let ticks = Ticks::of_count(span.0 * f64::from(self.per_second()));
        match ticks.filter(|_| span.0 > 0.0 && span.0 <= LONGEST) {
            // The shortest span that can be told apart is not none.
            Some(ticks) => Ok(ticks.max(Ticks(1))),
            None => Err(BuildError::BadDuration { found: span }),
        }
    }

    /// A span that repeats.
    pub(crate) fn repeated(self, span: Seconds, setting: &'static str) -> Result<Ticks, BuildError> {
        let ticks = self.ticks(span)?;
        if ticks < Ticks::SHORTEST {
            let expected = "a span of at least a hundredth of a tick, in seconds,";
            return Err(BuildError::BadNumber { setting, expected, found: span.0 });
        }
        Ok(ticks)
    }

    /// A number of ticks in seconds, for people to read.
    pub fn seconds(self, ticks: Ticks) -> Seconds {
        Seconds(ticks.count() / f64::from(self.per_second()))
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
