//! Scenes of modelling programs, whose places become wiring.

use std::{path::Path, sync::Arc};

use crate::{find, read_error::ReadError};

/// Whether a file holds a scene of a modelling program, by its ending: `.gltf` or `.glb`.
pub fn is_gltf(path: &Path) -> bool {
    let ending = path.extension().and_then(|ending| ending.to_str());
    ending.is_some_and(|ending| ["gltf", "glb"].contains(&ending))
}

/// The places of a glTF scene, as wiring.
///
/// # Errors
/// [`ReadError::Missing`], [`ReadError::Unreadable`], and [`ReadError::NoPlaces`] if no places can be taken from it.
pub fn gltf_wiring(path: &Path) -> Result<String, ReadError> {
    let places = stoicheon_gltf::read(&find::bytes(path)?)
        .map_err(|reason| ReadError::NoPlaces { path: path.to_owned(), reason: Arc::new(reason) })?;
    Ok(stoicheon_gltf::wiring(&places))
}
