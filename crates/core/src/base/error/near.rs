//! Suggestions.

use std::fmt;

use smol_str::SmolStr;

/// The name closest to one that is none, for a message.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Near(Option<SmolStr>);

impl Near {
    /// Not generic: what a game asks by name would bring it along.
    pub fn of(found: &str, names: &mut dyn Iterator<Item = &str>) -> Self {
        // A name that is absurdly long is no slip of the pen.
        if found.len() > 64 {
            return Self::default();
        }
        let allowed = (found.chars().count() / 3).max(1);
        let names: Vec<&str> = names.collect();
        // In a project a whole name begins with that of the scene.
        let ends_so = |name: &&&str| name.strip_suffix(found).is_some_and(|scene| scene.ends_with('.'));
        if let Some(whole) = names.iter().find(ends_so) {
            return Self(Some((*whole).into()));
        }
        let close = names
            .into_iter()
            .filter(|name| name.len().abs_diff(found.len()) <= 4 * allowed)
            .map(|name| (strsim::osa_distance(found, name), name))
            .filter(|(distance, _)| *distance <= allowed);
        Self(close.min().map(|(_, name)| name.into()))
    }

    /// The name itself.
    pub fn name(&self) -> Option<&str> {
        self.0.as_deref()
    }
}

impl fmt::Display for Near {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match &self.0 {
            Some(name) => write!(f, "; did you mean \"{name}\"?"),
            None => Ok(()),
        }
    }
}
