//! The nodes of a scene as objects.

use std::collections::{HashMap, HashSet};

use glam::{DMat3, DMat4, DQuat, DVec3};
use gltf::{Document, Gltf, Node};
use serde_json::Value;

use crate::error::GltfError;

/// The form of a part, around what a mesh reaches.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub enum Form {
    /// A box of that whole size.
    Box(DVec3),
    /// A ball of that radius.
    Ball(f64),
}

/// A node with a name: an object, or a spot, and where it stands.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct Placed {
    /// The name of the object.
    pub name: String,
    /// The object it hangs on.
    pub of: Option<String>,
    /// Its place, in scene units, as seen from what it hangs on.
    pub at: DVec3,
    /// How it is turned, likewise.
    pub facing: DQuat,
    /// Its tags.
    pub tags: Vec<String>,
    /// It is no object, but a spot to arrive at. Its place is as seen from the scene itself.
    pub spot: bool,
    /// Its parts: the kind, the form, and where the middle of that is, from the object.
    pub parts: Vec<(String, Form, DVec3)>,
}

/// Where a node is in its scene.
#[derive(Clone, Copy)]
struct Stand {
    at: DVec3,
    facing: DQuat,
    scale: DVec3,
}

/// The nodes with a name of a scene, as text or binary: those of the scene that is shown first, or of all scenes if the file does
/// not say which that is.
///
/// # Errors
/// See [`GltfError`].
pub fn read(bytes: &[u8]) -> Result<Vec<Placed>, GltfError> {
    let Gltf { document, .. } = Gltf::from_slice(bytes)?;
    let version = &document.as_json().asset.version;
    if !version.starts_with("2.") {
        return Err(GltfError::Version(version.clone()));
    }
    let mut found = Found::default();
    // A list and no recursion: a scene may be deeper than a stack.
    let mut next: Vec<_> = roots(&document).into_iter().map(|node| (node, DMat4::IDENTITY, None)).collect();
    next.reverse();
    while let Some((node, above, on)) = next.pop() {
        let (whole, own) = found.take(&node, above, on.as_ref())?;
        let on = own.or(on);
        let children: Vec<_> = node.children().map(|child| (child, whole, on.clone())).collect();
        next.extend(children.into_iter().rev());
    }
    if found.all.is_empty() { Err(GltfError::Nameless) } else { Ok(found.all) }
}

fn roots(document: &Document) -> Vec<Node<'_>> {
    match document.default_scene() {
        Some(scene) => scene.nodes().collect(),
        None => document.scenes().flat_map(|scene| scene.nodes()).collect(),
    }
}

/// The nearest node above with a name.
type Above = (String, Stand);

#[derive(Default)]
struct Found {
    all: Vec<Placed>,
    seen: HashSet<usize>,
    /// The name in the scene by that of the object.
    names: HashMap<String, String>,
}

impl Found {
    /// Takes a node; `on` is the nearest one above with a name. Gives where it is, and the node itself if it has a name.
    fn take(
        &mut self,
        node: &Node<'_>,
        above: DMat4,
        on: Option<&Above>,
    ) -> Result<(DMat4, Option<Above>), GltfError> {
        if !self.seen.insert(node.index()) {
            return Err(GltfError::Again {
                node: node.name().map_or_else(|| node.index().to_string(), str::to_owned),
            });
        }
        let own = node.transform().matrix().map(|column| column.map(f64::from));
        let whole = above * DMat4::from_cols_array_2d(&own);
        let Some(written) = node.name().filter(|name| !name.is_empty()) else { return Ok((whole, None)) };
        let (name, stand) = (name_of(written), stand(whole, written)?);
        if let Some(first) = self.names.insert(name.clone(), written.to_owned()) {
            return Err(GltfError::TwoOfName { name, first, second: written.to_owned() });
        }
        let Extras { tags, parts, spot } = extras(node, written, stand.scale)?;
        let (at, facing) = match on.filter(|_| !spot) {
            Some((_, on)) => {
                let back = on.facing.inverse();
                (back * (stand.at - on.at), back * stand.facing)
            }
            None => (stand.at, stand.facing),
        };
        let of = on.filter(|_| !spot).map(|(on, _)| on.clone());
        self.all.push(Placed { name: name.clone(), of, at, facing, tags, spot, parts });
        // Nothing hangs on a spot.
        Ok((whole, Some((name, stand)).filter(|_| !spot)))
    }
}

/// What is turned and scaled, taken apart.
fn stand(whole: DMat4, node: &str) -> Result<Stand, GltfError> {
    let axes = DMat3::from_mat4(whole);
    let slant = |one: DVec3, two: DVec3| one.dot(two).abs() > 1e-4 * one.length() * two.length();
    let (x, y, z) = (axes.x_axis, axes.y_axis, axes.z_axis);
    if slant(x, y) || slant(y, z) || slant(z, x) {
        return Err(GltfError::Slanted { node: node.to_owned() });
    }
    // A world counts in single precision.
    let reach = [axes.x_axis, axes.y_axis, axes.z_axis, whole.w_axis.truncate()];
    if !reach.iter().all(|of| of.abs().max_element() < f64::from(f32::MAX)) {
        return Err(GltfError::Nowhere { node: node.to_owned() });
    }
    let (scale, facing, at) = whole.to_scale_rotation_translation();
    // Of something that is scaled to nothing no turn is left.
    let facing = if facing.is_finite() { facing } else { DQuat::IDENTITY };
    Ok(Stand { at, facing, scale })
}

/// The name of an object: letters, digits and underscores, not beginning with a digit.
fn name_of(written: &str) -> String {
    let plain = |letter: char| if letter.is_alphanumeric() { letter } else { '_' };
    let name: String = written.chars().map(plain).collect();
    if name.starts_with(|first: char| first.is_numeric()) { format!("_{name}") } else { name }
}

#[derive(Default)]
struct Extras {
    tags: Vec<String>,
    parts: Vec<(String, Form, DVec3)>,
    spot: bool,
}

fn extras(node: &Node<'_>, written: &str, scale: DVec3) -> Result<Extras, GltfError> {
    let bad = |expected, found: String| GltfError::BadExtras { node: written.to_owned(), expected, found };
    let mut found = Extras::default();
    let Some(raw) = node.extras() else { return Ok(found) };
    let Ok(Value::Object(said)) = serde_json::from_str(raw.get()) else {
        // Some programs write a lone text or number there, for themselves.
        return Ok(found);
    };
    for (key, value) in said {
        match (key.as_str(), &value) {
            ("tags", Value::String(words)) => {
                let words = words.split([',', ' ']).filter(|word| !word.is_empty());
                found.tags.extend(words.map(name_of));
            }
            ("tags", _) => return Err(bad("tags as one text, such as \"gate, old\"", value.to_string())),
            // Some programs write a tick in a box as a number.
            ("spot", Value::Bool(_) | Value::Number(_)) => {
                found.spot = value.as_bool().unwrap_or(value.as_f64() != Some(0.0));
            }
            ("spot", _) => return Err(bad("spot as true or false", value.to_string())),
            (kind, Value::String(form)) if (form == "box" || form == "ball") && name_of(kind) == kind => {
                let (form, middle) = around(node, written, kind, form == "ball", scale)?;
                found.parts.push((kind.to_owned(), form, middle));
            }
            // What is of another kind is for somebody else.
            _ => {}
        }
    }
    if found.spot && !(found.tags.is_empty() && found.parts.is_empty()) {
        return Err(bad("a spot, or an object with tags and parts", "both".to_owned()));
    }
    found.parts.sort_by(|one, two| one.0.cmp(&two.0));
    Ok(found)
}

/// A form around what the mesh of a node reaches.
fn around(
    node: &Node<'_>,
    written: &str,
    kind: &str,
    ball: bool,
    scale: DVec3,
) -> Result<(Form, DVec3), GltfError> {
    let boxes = node
        .mesh()
        .into_iter()
        .flat_map(|mesh| mesh.primitives().map(|part| part.bounding_box()).collect::<Vec<_>>());
    let corners = boxes.map(|reach| {
        let corner = |of: [f32; 3]| DVec3::from_array(of.map(f64::from));
        (corner(reach.min), corner(reach.max))
    });
    let (node, kind) = (written.to_owned(), kind.to_owned());
    let Some((low, high)) = corners.reduce(|one, two| (one.0.min(two.0), one.1.max(two.1))) else {
        return Err(GltfError::NoExtents { node, kind });
    };
    let size = ((high - low) * scale).abs();
    let middle = (low + high) * 0.5 * scale;
    if ball {
        return match size.max_element() * 0.5 {
            radius if radius > 0.0 => Ok((Form::Ball(radius), middle)),
            _ => Err(GltfError::Flat { node, kind, axis: "every axis" }),
        };
    }
    let axes = [("x", size.x), ("y", size.y), ("z", size.z)];
    if let Some((axis, _)) = axes.into_iter().find(|(_, size)| *size <= 0.0) {
        return Err(GltfError::Flat { node, kind, axis });
    }
    Ok((Form::Box(size), middle))
}
