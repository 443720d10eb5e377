//! Files of wiring that are saved while a scene runs: they are read and checked in a thread of their own.

use std::{
    collections::BTreeSet,
    path::{Path, PathBuf},
    sync::mpsc::{Receiver, RecvTimeoutError, Sender, channel},
    thread,
    time::Duration,
};

use notify::{RecursiveMode, Watcher as _};

use crate::{args::Which, out, stage::Stage};

/// An editor that saves several files, or one in several steps, is given so long.
const PAUSE: Duration = Duration::from_millis(40);

/// What the wiring is as it is saved now.
pub(crate) enum Saved {
    /// It has faults, in the checker's words.
    Faults(Vec<String>),
    Fits(Box<Stage>),
}

/// Watches the folders of a call's wiring. Nothing if the system does not tell of what is saved.
pub(crate) fn watch(which: &Which) -> Option<Receiver<Saved>> {
    let (told, events) = channel();
    let watcher = notify::recommended_watcher(move |event: notify::Result<notify::Event>| {
        // Nobody may listen any more.
        let _ = told.send(event.is_ok_and(|event| !event.kind.is_access()));
    });
    let mut watcher = match watcher {
        Ok(watcher) => watcher,
        Err(error) => {
            out::note(&format!("what is saved is not noticed: {error}"));
            return None;
        }
    };
    let is_noticed =
        folders(which).into_iter().all(|folder| watcher.watch(&folder, RecursiveMode::Recursive).is_ok());
    if !is_noticed {
        out::note("what is saved is not noticed: the folder cannot be watched");
        return None;
    }
    let (found, saved) = channel();
    let which = which.clone();
    let read = move || {
        let _watcher = watcher;
        read_again(&which, &events, &found);
    };
    thread::Builder::new().name("saved wiring".to_owned()).spawn(read).ok()?;
    Some(saved)
}

/// The folder of the project, or of the file.
fn folders(which: &Which) -> BTreeSet<PathBuf> {
    let folder = if which.file.is_dir() { Some(which.file.as_path()) } else { which.file.parent() };
    let folder = folder.filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    BTreeSet::from([folder.to_owned()])
}

/// Reads the wiring again whenever something was saved, until nobody wants to know.
fn read_again(which: &Which, events: &Receiver<bool>, found: &Sender<Saved>) {
    while let Ok(is_change) = events.recv() {
        let mut is_change = is_change;
        loop {
            match events.recv_timeout(PAUSE) {
                Ok(more) => is_change |= more,
                Err(RecvTimeoutError::Timeout) => break,
                Err(RecvTimeoutError::Disconnected) => return,
            }
        }
        if is_change && found.send(read(which)).is_err() {
            return;
        }
    }
}

fn read(which: &Which) -> Saved {
    let stage = match Stage::of(which, false) {
        Ok(stage) => stage,
        Err(misuse) => return Saved::Faults(vec![misuse.to_string()]),
    };
    let broken = stage.wiring.broken();
    if broken.is_empty() {
        return Saved::Fits(Box::new(stage));
    }
    let errors = broken.iter().flat_map(|part| {
        let errors =
            part.diagnostics().iter().filter(|found| found.severity == stoicheon_script::Severity::Error);
        errors.map(|found| stoicheon_script::render(found, part.sources(), false))
    });
    Saved::Faults(errors.collect())
}
