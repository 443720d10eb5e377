//! In place of `general`, in a build whose bodies are points and balls.

use glam::DVec3;

use crate::space::placed::Placed;

/// No body has one.
#[derive(Clone, Copy, Debug)]
pub(crate) struct General;

impl Placed {
    #[expect(clippy::unused_self, reason = "as the other one has it")]
    pub(crate) fn general(&self) -> General {
        General
    }
}

impl General {
    #[expect(clippy::unused_self, clippy::trivially_copy_pass_by_ref, reason = "as the other one has it")]
    pub(crate) fn distance(&self, _: DVec3, _: &Self) -> f64 {
        f64::INFINITY
    }
}
