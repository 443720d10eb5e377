//! A map: where everything is, seen from above or from the side.

mod door;
mod draw;
pub(crate) mod film;
mod labels;
mod like;
mod marks;
mod page;
pub(crate) mod paper;
mod thing;

use stoicheon_core::{ObjectId, SceneId, State, Vec3};

pub(crate) use crate::map::{
    marks::{Form, Mark, Style},
    thing::{Dot, Panel, side_of, spot_scene},
};
use crate::map::{page::Page, paper::Side};

/// Draws a plan of a world as SVG: zones of every form, with those that are occupied filled; doors with their swing and how far
/// they stand open; prompts with their reach; spots with their facing; pushes with their direction; what a ray meets; cells;
/// where wires and teleporters send bodies; bodies, players larger than others; and the ways that were walked, as far as they were
/// [noted](Self::note). Several scenes stand side by side.
///
/// Seen from above, north is up, where -z is; in a flat scene, which is found out or [said](Self::flat), up is where y is. What is
/// disabled is drawn faintly. Names that would cover each other are left out, and counted below; a group of many things that
/// are alike has one name.
///
/// ```
/// use stoicheon_core::{Vec3, World, Zone};
/// use stoicheon_view::Map;
/// let mut world = World::<()>::new();
/// let pad = world.object("towpath_pad").at(Vec3::new(4.0, 0.0, 10.0)).add()?;
/// world.attach(pad, Zone::boxed(Vec3::new(2.0, 1.0, 2.0)))?;
/// assert!(Map::new("The towpath").draw(&world).contains("towpath_pad"));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct Map {
    title: String,
    side: Option<Side>,
    labels: bool,
    ways: Vec<Way>,
}

/// The way a body went, within one scene.
#[derive(Clone, Debug)]
pub(crate) struct Way {
    body: ObjectId,
    scene: Option<SceneId>,
    places: Vec<Vec3>,
}

impl Map {
    /// A map with that title, seen from above, or from the side if it is of flat scenes.
    pub fn new(title: &str) -> Self {
        Self { title: title.to_owned(), side: None, labels: true, ways: Vec::new() }
    }

    /// The same with another title.
    pub fn titled(mut self, title: &str) -> Self {
        title.clone_into(&mut self.title);
        self
    }

    /// Seen from the side: of a flat scene, or of one that has floors above each other.
    pub fn flat(mut self) -> Self {
        self.side = Some(Side::Front);
        self
    }

    /// Seen from above, also if all of it is in one plane.
    pub fn above(mut self) -> Self {
        self.side = Some(Side::Above);
        self
    }

    /// Without names.
    pub fn without_labels(mut self) -> Self {
        self.labels = false;
        self
    }

    /// Notes where some bodies are, to be drawn as the way they went.
    pub fn note(&mut self, state: &State, bodies: impl IntoIterator<Item = ObjectId>) {
        for body in bodies {
            let Ok(place) = state.place(body) else { continue };
            let scene = state.scene_of(body);
            match self.ways.iter_mut().rev().find(|way| way.body == body).filter(|way| way.scene == scene) {
                Some(way) if way.places.last() == Some(&place) => {}
                Some(way) => way.places.push(place),
                None => self.ways.push(Way { body, scene, places: vec![place] }),
            }
        }
    }

    /// The map as it is now, as SVG.
    pub fn draw(&self, state: &State) -> String {
        let panels = Panel::all(state, &self.ways, self.side);
        Page { title: &self.title, labels: self.labels, panels: &panels }.draw()
    }
}
