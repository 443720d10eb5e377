//! Where things stand, from where people place things: a glTF scene as wiring.
//!
//! Each node with a name is an object: its place and turn, as seen from the nearest node above it that has a name. What its
//! `extras` say of it goes along, such as `{ "zone": "box", "tags": "gate" }`: a part of that kind with a box or a ball around
//! what the node's mesh reaches, and tags. With `{ "spot": true }` a node is no object but a spot to arrive at. All else of the
//! file is for the eye, and is passed over.
//!
//! ```
//! let scene = br#"{
//!     "asset": { "version": "2.0" },
//!     "scenes": [{ "nodes": [0] }],
//!     "nodes": [
//!         { "name": "barge", "translation": [4, 0, 1], "children": [1] },
//!         { "name": "lamp", "translation": [0, 2, 0], "extras": { "tags": "lamp" } }
//!     ]
//! }"#;
//! let places = stoicheon_gltf::read(scene)?;
//! assert_eq!(
//!     stoicheon_gltf::wiring(&places),
//!     "object barge at (4, 0, 1)\nobject lamp at (0, 2, 0) of barge tags lamp\n",
//! );
//! # Ok::<(), stoicheon_gltf::GltfError>(())
//! ```

mod error;
mod node;
mod text;

pub use error::GltfError;
pub use node::{Form, Placed, read};
pub use text::wiring;
