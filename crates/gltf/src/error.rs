//! What can be wrong with a scene.

use thiserror::Error;

/// Why places cannot be taken from a scene.
#[derive(Debug, Error)]
#[non_exhaustive]
pub enum GltfError {
    /// It is no glTF 2.0.
    #[error("expected glTF 2.0, as text or binary: {0}")]
    Unreadable(#[from] gltf::Error),
    /// It is of another version.
    #[error("expected glTF 2.0, found version {0}")]
    Version(String),
    /// No node of the scene has a name, so none is an object.
    #[error(
        "no node of the scene has a name: give one to what is to be an object, in the program the scene comes from"
    )]
    Nameless,
    /// Two nodes would be one object.
    #[error("\"{first}\" and \"{second}\" would both be the object {name}: rename one of them")]
    TwoOfName {
        /// The name of the object.
        name: String,
        /// The first node, as the scene names it.
        first: String,
        /// The second one.
        second: String,
    },
    /// A node that stands in two places, or within itself.
    #[error("the node {node} stands in two places of the scene, or within itself")]
    Again {
        /// The node, or its number if it has no name.
        node: String,
    },
    /// A place without end.
    #[error("\"{node}\" has no place: its place or size is not a number")]
    Nowhere {
        /// The node.
        node: String,
    },
    /// What a node's extras say cannot be read.
    #[error("the extras of \"{node}\": expected {expected}, found {found}")]
    BadExtras {
        /// The node.
        node: String,
        /// What could stand there.
        expected: &'static str,
        /// What stands there.
        found: String,
    },
    /// A shape is asked for where there is nothing to reach.
    #[error(
        "\"{node}\" is to be a {kind} and has no mesh with extents: give it one, or take `{kind}` from its extras"
    )]
    NoExtents {
        /// The node.
        node: String,
        /// The kind of part.
        kind: String,
    },
    /// A shape without a thickness.
    #[error("\"{node}\" is to be a {kind} and is flat: its mesh reaches 0 along {axis}")]
    Flat {
        /// The node.
        node: String,
        /// The kind of part.
        kind: String,
        /// Along which axis.
        axis: &'static str,
    },
    /// A node that is neither turned nor scaled but slanted.
    #[error(
        "\"{node}\" is slanted: it is turned within something that is scaled unevenly; apply the scale there, in the program the \
         scene comes from"
    )]
    Slanted {
        /// The node.
        node: String,
    },
}
