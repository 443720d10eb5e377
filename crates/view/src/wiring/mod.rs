//! A wiring graph: what is connected with what.

mod graph;
mod layout;
mod page;

use stoicheon_core::State;

use crate::wiring::graph::Graph;

/// Draws what is connected with what, as SVG: objects, managers, signals of scenes, variables, effects and spots are nodes, and between
/// them stand the wires, each with where it was written, its guard, its order and its limits: from what gives the signal to what it
/// commands, sets, emits, performs or sends to. The objects and values of one use of a kit are one node, and its wires stand by themselves. A signal that no wire sends or nobody takes
/// is marked. In a graph of more than 70 wires each thing stands by itself with the wires it causes; [`draw_around`](Self::draw_around)
/// draws a part of it.
///
/// ```
/// use stoicheon_core::{Door, Steps, Vec3, World, Zone};
/// use stoicheon_view::WiringGraph;
/// let mut world = World::<()>::new();
/// let pad = world.object("towpath_pad").add()?;
/// let pad = world.attach(pad, Zone::boxed(Vec3::splat(2.0)))?;
/// let gate = world.object("upper_gate").add()?;
/// let gate = world.attach(gate, Door::swing(85.0))?;
/// world.on(pad.entered).run_steps(Steps::new().open(gate))?;
/// let picture = WiringGraph::new("Harrow Lock").draw(&world);
/// assert!(picture.contains("upper_gate") && picture.contains("open"));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct WiringGraph {
    title: String,
    fold: bool,
}

/// There is nothing of that name in the wiring.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct NothingWired {
    /// The name.
    pub name: String,
}

impl std::fmt::Display for NothingWired {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(
            f,
            "expected the name of an object, a signal, a variable or an effect with a wire, found {}",
            self.name
        )
    }
}

impl std::error::Error for NothingWired {}

fn readable(graph: Graph) -> Graph {
    if graph.is_large() { graph.taken_apart() } else { graph }
}

impl WiringGraph {
    /// A graph with that title.
    pub fn new(title: &str) -> Self {
        Self { title: title.to_owned(), fold: true }
    }

    /// Each object of a kit as a node of its own.
    pub fn unfolded(mut self) -> Self {
        self.fold = false;
        self
    }

    /// The whole graph, as SVG. It has as much paper as it needs.
    pub fn draw(&self, state: &State) -> String {
        page::draw(&self.title, &readable(Graph::of(state, self.fold)))
    }

    /// Only what is near to something: `depth` is how many wires may lie between.
    ///
    /// # Errors
    /// [`NothingWired`] if there is nothing of that name.
    pub fn draw_around(&self, state: &State, name: &str, depth: usize) -> Result<String, NothingWired> {
        let graph = Graph::of(state, self.fold).around(name, depth);
        let graph = graph.ok_or_else(|| NothingWired { name: name.to_owned() })?;
        Ok(page::draw(&self.title, &readable(graph)))
    }
}
