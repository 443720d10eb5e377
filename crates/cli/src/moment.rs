//! What is asked about, at which moment and for whom: the words after the file of `look`, `why` and `draw`.

use stoicheon_core::{Tick, TickRate};

use crate::{out::Misuse, stage::LONGEST};

/// `upper_gate at 3.2s for ada`
#[derive(Debug, Default, PartialEq)]
pub(crate) struct Asked {
    /// The rest, in the order it was given.
    pub(crate) what: Vec<String>,
    /// In seconds.
    pub(crate) at: Option<f64>,
    pub(crate) who: Option<String>,
}

impl Asked {
    pub(crate) fn of(words: &[String]) -> Result<Self, Misuse> {
        let mut asked = Self::default();
        let mut words = words.iter();
        while let Some(word) = words.next() {
            match word.as_str() {
                "at" => asked.at = Some(seconds(words.next().map_or("", String::as_str))?),
                "for" => {
                    let who = words.next().ok_or(Misuse::NoWordAfter("for", "the name of a player"))?;
                    asked.who = Some(who.clone());
                }
                other => asked.what.push(other.to_owned()),
            }
        }
        Ok(asked)
    }

    /// The tick that is asked about.
    pub(crate) fn tick(&self, rate: TickRate) -> Option<Tick> {
        if self.at? == 0.0 {
            return Some(Tick(0));
        }
        let ticks = rate.ticks(stoicheon_core::secs(self.at?)).ok()?;
        // What is due between two ticks happens in the first one at or after that moment.
        let whole = ticks.whole();
        Some(Tick(if rate.seconds(stoicheon_core::ticks(whole)).0 < self.at? { whole + 1 } else { whole }))
    }
}

/// A time as wiring writes it, in seconds: `3.2s`, `400ms`, `2min`; or a mere number of seconds.
pub(crate) fn seconds(word: &str) -> Result<f64, Misuse> {
    let units = [("ms", 0.001), ("min", 60.0), ("s", 1.0), ("", 1.0)];
    let found = units.iter().find_map(|(unit, factor)| {
        let number = word.strip_suffix(unit)?.trim().parse::<f64>().ok()?;
        Some(number * factor)
    });
    found
        .filter(|seconds| (0.0..=LONGEST).contains(seconds))
        .ok_or_else(|| Misuse::BadMoment(word.to_owned()))
}
