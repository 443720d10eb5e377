//! Spans of time that are shorter than a tick.

use std::sync::Arc;

use stoicheon_core::TickRate;

use super::{Resolver, View};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::File,
};

impl Resolver<'_, '_> {
    /// Notes once where the shortest span stands, if that is shorter than a tick.
    pub(crate) fn check_shortest(&mut self, files: &[Arc<File>]) {
        let own = match self.names.view {
            View::Alone | View::Hall => 0,
            View::Scene(number) => number,
            View::Playtests(_) => return,
        };
        // Only the file of a project says how long a tick is.
        let ticks = files.first().and_then(|file| file.ticks);
        let rate = ticks.and_then(|ticks| TickRate::new(ticks.count).ok()).unwrap_or_default();
        let spans = files.iter().filter(|file| file.scene_number == own).filter_map(|file| file.shortest);
        let Some((seconds, span)) = spans.min_by(|one, two| one.0.total_cmp(&two.0)) else { return };
        if seconds >= rate.step() {
            return;
        }
        let tick = format!("{:.1} ms", rate.step() * 1000.0);
        let message = format!("this span is shorter than a tick, which takes {tick} here");
        self.wrong(
            Diagnostic::warning(Code::ShortSpan, message)
                .at(span, "ends in the first tick at or after that moment")
                .help("time is exact, but things happen in ticks: several such spans can end in one tick; a project sets the rate, for example `ticks 60 per second`"),
        );
    }
}
