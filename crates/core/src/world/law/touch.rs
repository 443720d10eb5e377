//! Phase 4, touch: who came into which zone and who left it; then what that means to those inside and to players.

use crate::state::State;

impl State {
    /// Phase 4: first all `left`, then all `entered`, then the `left` of zones crossed whole; then the pulses, and the
    /// prompts.
    pub(crate) fn touch(&mut self) {
        self.compare_touches();
        self.pulse();
        self.prompt();
    }
}
