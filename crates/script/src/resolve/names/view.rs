//! Which part of a project is looked at.

use super::Scope;

/// Which part of a project is looked at.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum View {
    /// A file that stands alone, with those it shares.
    #[default]
    Alone,
    /// What all scenes of a project share.
    Hall,
    /// The wiring of the scene of that number.
    Scene(u32),
    /// The playtests of the scene of that number, which may speak of every scene.
    Playtests(u32),
}

impl View {
    /// Whether what belongs to a scope is looked at and made.
    pub(super) fn takes(self, scope: &Scope<'_>) -> bool {
        match self {
            Self::Alone => true,
            Self::Hall => scope.hall,
            Self::Scene(_) => !scope.hall,
            Self::Playtests(_) => false,
        }
    }
}
