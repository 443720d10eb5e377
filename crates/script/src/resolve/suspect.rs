//! What is good wiring, and hardly does what was meant. Each finding can be kept quiet by a comment with a reason.

mod facts;
mod nameless;
mod never_taken;
mod one_order;
mod runaway;
mod switches_off;
mod unread;

use std::sync::Arc;

use super::Resolver;
use crate::{model::File, source::Sources};

impl Resolver<'_, '_> {
    /// Looks for everything of that kind.
    pub(crate) fn check_suspicious(&mut self, files: &[Arc<File>], sources: &Sources) {
        // What is wrong may be why something looks as if nobody used it.
        if self.report.has_errors() {
            return;
        }
        self.check_never_taken();
        self.check_one_order();
        self.check_runaway();
        self.check_switches_off();
        self.check_nameless();
        self.check_unread(files, sources);
    }
}
