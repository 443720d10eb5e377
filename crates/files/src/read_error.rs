//! Why a wiring file could not be read.

use std::{path::PathBuf, sync::Arc};

/// Why a wiring file, or a folder of them, could not be read. What is wrong inside a file is no error: that is among the
/// findings of what was [loaded](stoicheon_script::Loaded).
#[derive(Clone, Debug, thiserror::Error)]
#[non_exhaustive]
pub enum ReadError {
    /// There is nothing at that path.
    #[error("there is no file or folder {}: give the path of a .stoi file, or of a folder of them", .0.display())]
    Missing(PathBuf),
    /// A folder without wiring files.
    #[error("there is no .stoi file in {}: put one there, or give the path of another folder", .0.display())]
    NoFiles(PathBuf),
    /// The system does not let it be read.
    #[error("{} cannot be read: {reason}", path.display())]
    Unreadable {
        /// The file or folder.
        path: PathBuf,
        /// What the system says.
        reason: String,
    },
    /// A folder with several files, of which none is the first.
    #[error("{} has {found}: give the path of the one to play", path.display())]
    WhichFile {
        /// The folder.
        path: PathBuf,
        /// What is in it.
        found: String,
    },
    /// It is no scene of a modelling program, or none whose places can be taken.
    #[error("{}: {reason}", path.display())]
    NoPlaces {
        /// The file.
        path: PathBuf,
        /// What is wrong with it.
        #[source]
        reason: Arc<stoicheon_gltf::GltfError>,
    },
    /// It is no text.
    #[error("{} is not a text in UTF-8 (byte {at}): save it as UTF-8", path.display())]
    NotText {
        /// The file.
        path: PathBuf,
        /// The first byte that is no text, from 0.
        at: usize,
    },
    /// It is no catalogue.
    #[error("{} is not a catalogue: {reason}; a game writes its catalogue as JSON", path.display())]
    NoCatalogue {
        /// The file.
        path: PathBuf,
        /// What is wrong with it.
        reason: String,
    },
}
