//! A number that stands for what files say, whatever their comments and blanks.

use std::hash::Hasher;

use crate::model::File;

/// The same for files that mean the same. Not generic: a game would compile how files are written once more.
pub(crate) fn fingerprint(files: &mut dyn Iterator<Item = &File>) -> u64 {
    let mut hasher = xxhash_rust::xxh3::Xxh3::new();
    for file in files {
        // Playtests are about the wiring, and no part of it.
        let file = File { playtests: Vec::new(), ..file.clone() };
        let text = serde_json::to_string(&file).unwrap_or_default();
        hasher.write(text.as_bytes());
        hasher.write_u8(0);
    }
    hasher.finish()
}
