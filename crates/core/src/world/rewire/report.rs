//! What a rewiring did, for people.

use std::fmt;

use smol_str::SmolStr;

use crate::base::place::Place;

/// What a [rewiring](crate::World::rewire) did.
#[derive(Clone, Debug, Default, PartialEq)]
#[non_exhaustive]
pub struct Rewired {
    /// What stays as it is.
    pub kept: KeptCounts,
    /// What does not, in the order in which it was changed.
    pub changes: Vec<Change>,
}

/// How much stays as it is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct KeptCounts {
    /// Objects.
    pub objects: usize,
    /// Variables.
    pub vars: usize,
    /// Wires.
    pub wires: usize,
    /// Reactions that wait.
    pub waits: usize,
}

/// One thing that is not as it was.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Change {
    /// What it is: `object`, `part`, `variable`, `wire`, `bind`, `rule`, `routine`, `mould`, `signal`, `effect`, `spot` or `scene`.
    pub what: &'static str,
    /// Its name; of a wire, the signal it hears; of a rule, `never`.
    pub name: SmolStr,
    /// What became of it.
    pub became: Became,
    /// Where it is written, or was.
    pub place: Option<Place>,
}

/// What became of something that was written otherwise.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Became {
    /// It is new.
    New,
    /// It is otherwise and goes on from where it was.
    Changed,
    /// Play has changed what is written otherwise now: it stays as play has it.
    Stays,
    /// It begins again.
    Again {
        /// So many of its reactions that waited were given up.
        waits: usize,
    },
    /// It is gone.
    Gone {
        /// So many of its reactions that waited were given up.
        waits: usize,
    },
    /// It was not made.
    LeftOut {
        /// Why not.
        reason: SmolStr,
    },
}

impl fmt::Display for Change {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if let Some(place) = &self.place {
            write!(f, "{place}  ")?;
        }
        let name = if self.name.is_empty() { String::new() } else { format!(" {}", self.name) };
        write!(f, "{}{name}: ", self.what)?;
        let gave_up = |f: &mut fmt::Formatter<'_>, waits: &usize| match waits {
            0 => Ok(()),
            1 => write!(f, ", 1 reaction that waited is given up"),
            waits => write!(f, ", {waits} reactions that waited are given up"),
        };
        match &self.became {
            Became::New => write!(f, "new"),
            Became::Changed => write!(f, "changed, goes on"),
            Became::Stays => write!(f, "stays as play has changed it"),
            Became::Again { waits } => {
                write!(f, "begins again")?;
                gave_up(f, waits)
            }
            Became::Gone { waits } => {
                write!(f, "gone")?;
                gave_up(f, waits)
            }
            Became::LeftOut { reason } => write!(f, "not made, {reason}"),
        }
    }
}

impl fmt::Display for Rewired {
    /// One line for what stays, and one for each thing that does not.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let KeptCounts { objects, vars, wires, waits } = self.kept;
        let count = |count: usize, one: &str| format!("{count} {one}{}", if count == 1 { "" } else { "s" });
        write!(
            f,
            "kept: {}, {}, {}, {}",
            count(objects, "object"),
            count(vars, "variable"),
            count(wires, "wire"),
            count(waits, "waiting reaction")
        )?;
        self.changes.iter().try_for_each(|change| write!(f, "\n{change}"))
    }
}
