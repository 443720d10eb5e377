//! Phase 3, motion: what moves by itself goes one tick.

use crate::state::State;

impl State {
    /// Phase 3: parts move one tick; then pushes; then bodies, by their walk and their velocity; each by object number;
    /// then tweens, as they began; then parts are told how bodies went, by object number.
    pub(crate) fn motion(&mut self) {
        self.move_parts();
        self.push();
        self.move_bodies();
        self.move_tweens();
        self.stride();
    }
}
