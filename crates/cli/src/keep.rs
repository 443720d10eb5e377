//! What `stoicheon play` takes up from files and puts aside in them.

use stoicheon_core::{Save, Snapshot, World};
use stoicheon_store::{read, write};

use crate::{
    args::Play,
    out::{self, Misuse},
};

/// Whether the world goes on from a snapshot or a save.
pub(crate) fn is_taken_up(args: &Play) -> bool {
    args.load.is_some() || args.resume.is_some()
}

/// Before a world runs: a save is recalled and its players join; or the whole of it goes on.
pub(crate) fn take_up(args: &Play, world: &mut World<()>) -> Result<(), Misuse> {
    if let Some(path) = &args.load {
        let wrong = |reason: String| Misuse::NoSave { path: path.clone(), reason };
        let save: Save = read(path).map_err(|error| wrong(error.to_string()))?;
        let mut mismatches = world.recall(&save).map_err(|error| wrong(error.to_string()))?;
        mismatches.extend(world.rejoin(&save).map_err(|error| wrong(error.to_string()))?);
        for mismatch in mismatches {
            if args.json {
                out::note(&format!("{}: {mismatch}", path.display()));
            } else {
                out::print(&format!("{}: {mismatch}\n", path.display()));
            }
        }
    }
    if let Some(path) = &args.resume {
        let wrong = |reason: String| Misuse::NoSave { path: path.clone(), reason };
        let snapshot: Snapshot = read(path).map_err(|error| wrong(error.to_string()))?;
        world.restore(&snapshot).map_err(|error| wrong(error.to_string()))?;
    }
    Ok(())
}

/// When it has run.
pub(crate) fn put_aside(args: &Play, world: &World<()>) -> Result<(), Misuse> {
    if let Some(path) = &args.save {
        let wrong = |reason: String| Misuse::NotKept { path: path.clone(), reason };
        let save = world.save().map_err(|error| wrong(error.to_string()))?;
        write(path, &save).map_err(|error| wrong(error.to_string()))?;
    }
    if let Some(path) = &args.suspend {
        let wrong = |reason: String| Misuse::NotKept { path: path.clone(), reason };
        let snapshot = world.snapshot().map_err(|error| wrong(error.to_string()))?;
        write(path, &snapshot).map_err(|error| wrong(error.to_string()))?;
    }
    Ok(())
}
