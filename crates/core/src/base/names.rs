//! Names: what may be one, how they are joined, and what stands for one in the digest.

use smol_str::SmolStr;
use xxhash_rust::xxh3::xxh3_64;

use crate::base::error::BuildError;

/// The tag every player's body has.
pub const PLAYER: &str = "player";

/// The word for those of a tag that are in a scene. No other tag has a space in it.
pub(crate) fn scoped(word: &str, scene: &str) -> String {
    format!("{word} in {scene}")
}

/// Names are words of letters, digits and underscores, not starting with a digit.
pub(crate) fn check_name(name: &str) -> Result<(), BuildError> {
    let fits = name.chars().all(|c| c.is_alphanumeric() || c == '_')
        && name.chars().next().is_some_and(|c| !c.is_numeric());
    if fits { Ok(()) } else { Err(BuildError::BadName { found: name.into() }) }
}

/// A whole name is such words joined by dots: `object.signal`, or `kit.object.signal`.
pub(crate) fn check_path(name: &str) -> Result<(), BuildError> {
    let mut words = name.split('.');
    words.try_for_each(check_name).map_err(|_| BuildError::BadName { found: name.into() })
}

/// What stands for a name in the digest.
pub(crate) fn name_hash(name: &str) -> u64 {
    xxh3_64(name.as_bytes())
}

/// `object.signal`
pub(crate) fn path(object: &str, signal: &str) -> SmolStr {
    smol_str::format_smolstr!("{object}.{signal}")
}
