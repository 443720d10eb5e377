//! What is connected with what: objects, signals, variables and effects, and between them the wires.

use std::collections::BTreeMap;

use stoicheon_core::{Inspection, State};

use crate::look::{Seen, SeenWire};

/// What a node stands for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Kind {
    Object,
    Manager,
    /// Objects and values of one use of a kit, or one object with its values.
    Kit,
    Signal,
    Variable,
    Effect,
    Spot,
    Wire,
}

impl Kind {
    /// What the key of a node of that kind begins with.
    pub(crate) fn word(self) -> &'static str {
        match self {
            Self::Object | Self::Manager => "object",
            Self::Kit => "kit",
            Self::Signal => "signal",
            Self::Variable => "variable",
            Self::Effect => "effect",
            Self::Spot => "spot",
            Self::Wire => "wire",
        }
    }
}

/// A node.
#[derive(Clone, Debug)]
pub(crate) struct Vertex {
    pub(crate) kind: Kind,
    /// Its name without its scene; of a wire, where it was written.
    pub(crate) title: String,
    /// What else is to be known of it, a line each.
    pub(crate) lines: Vec<String>,
    pub(crate) scene: Option<String>,
    /// What is suspicious about it.
    pub(crate) mark: Option<&'static str>,
    /// All of it, for who points at it.
    pub(crate) about: String,
    /// Its kind and its whole name: the same wherever it is drawn.
    pub(crate) key: String,
}

/// From a node to another, with the word for what is done, or the signal that is given.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) struct Edge {
    pub(crate) from: usize,
    pub(crate) to: usize,
    pub(crate) word: String,
}

/// What is connected with what.
#[derive(Clone, Debug, Default)]
pub(crate) struct Graph {
    pub(crate) vertices: Vec<Vertex>,
    pub(crate) edges: Vec<Edge>,
}

/// How many wires may be drawn with all their ways.
const MANY: usize = 70;

/// How long a line of a node is at most.
const LONGEST: usize = 56;

pub(crate) fn cut(text: &str, longest: usize) -> String {
    if text.chars().count() <= longest {
        return text.to_owned();
    }
    text.chars().take(longest - 1).collect::<String>() + "…"
}

struct Builder<'s> {
    state: &'s State,
    seen: Seen,
    fold: bool,
    graph: Graph,
    by_key: BTreeMap<(Kind, String), usize>,
}

impl Graph {
    /// Of a world: each use of a kit as one node, if they are to be folded.
    pub(crate) fn of(state: &State, fold: bool) -> Self {
        let now = state.inspect();
        let seen = Seen::from_inspection(state, &now);
        let mut builder = Builder { state, seen, fold, graph: Self::default(), by_key: BTreeMap::new() };
        builder.wires();
        builder.signals(&now);
        let mut graph = builder.graph;
        graph.edges.sort();
        graph.edges.dedup();
        graph
    }

    /// The same where nothing leads on from what a wire leads to: each thing with the wires it causes, by itself. So a large graph
    /// is read like a list, and not like a knot.
    pub(crate) fn taken_apart(mut self) -> Self {
        let is_wire = |graph: &Self, index: usize| graph.vertices[index].kind == Kind::Wire;
        for number in 0..self.edges.len() {
            let edge = self.edges[number].clone();
            if is_wire(&self, edge.from) {
                let mut leaf = self.vertices[edge.to].clone();
                leaf.lines.clear();
                leaf.mark = None;
                self.vertices.push(leaf);
                self.edges[number].to = self.vertices.len() - 1;
            }
        }
        // What gives nothing is drawn where it is led to.
        let mut used: Vec<bool> = self.vertices.iter().map(|vertex| vertex.mark.is_some()).collect();
        for edge in &self.edges {
            used[edge.from] = true;
            used[edge.to] = true;
        }
        self.only(|index| used[index])
    }

    /// Whether it is too large to be drawn with all its ways.
    pub(crate) fn is_large(&self) -> bool {
        self.vertices.iter().filter(|vertex| vertex.kind == Kind::Wire).count() > MANY
    }

    fn only(&self, keeps: impl Fn(usize) -> bool) -> Self {
        let kept: Vec<usize> = (0..self.vertices.len()).filter(|index| keeps(*index)).collect();
        let place: BTreeMap<usize, usize> = kept.iter().enumerate().map(|(new, old)| (*old, new)).collect();
        let edges = self.edges.iter().filter_map(|edge| {
            let (from, to) = (*place.get(&edge.from)?, *place.get(&edge.to)?);
            Some(Edge { from, to, word: edge.word.clone() })
        });
        Self {
            edges: edges.collect(),
            vertices: kept.iter().map(|index| self.vertices[*index].clone()).collect(),
        }
    }

    /// Only what is so near to the nodes of that name; nothing if there is none.
    pub(crate) fn around(&self, name: &str, depth: usize) -> Option<Self> {
        let is_named = |vertex: &Vertex| {
            let whole = vertex.about.lines().next().unwrap_or_default();
            let ends_so = whole.strip_suffix(name).is_some_and(|rest| rest.is_empty() || rest.ends_with('.'));
            vertex.title == name || ends_so
        };
        let mut near = vec![usize::MAX; self.vertices.len()];
        let mut open: Vec<usize> = Vec::new();
        for (index, vertex) in self.vertices.iter().enumerate() {
            if is_named(vertex) {
                near[index] = 0;
                open.push(index);
            }
        }
        if open.is_empty() {
            return None;
        }
        // A wire is no step of its own.
        for step in 1..=depth * 2 {
            let reached: Vec<usize> = open
                .iter()
                .flat_map(|at| self.edges.iter().filter_map(move |edge| edge.other_end(*at)))
                .filter(|index| near[*index] == usize::MAX)
                .collect();
            open.clear();
            for index in reached {
                if near[index] == usize::MAX {
                    near[index] = step;
                    open.push(index);
                }
            }
        }
        Some(self.only(|index| near[index] != usize::MAX))
    }
}

impl Edge {
    fn other_end(&self, at: usize) -> Option<usize> {
        (self.from == at).then_some(self.to).or_else(|| (self.to == at).then_some(self.from))
    }
}

impl Builder<'_> {
    fn vertex(&mut self, kind: Kind, name: &str) -> usize {
        if let Some(known) = self.by_key.get(&(kind, name.to_owned())) {
            return *known;
        }
        let scene = self.scene_of(name);
        let title = scene.as_deref().and_then(|scene| name.strip_prefix(scene)?.strip_prefix('.'));
        let vertex = Vertex {
            kind,
            title: cut(title.unwrap_or(name), LONGEST),
            lines: Vec::new(),
            scene,
            mark: None,
            about: name.to_owned(),
            key: format!("{}:{name}", kind.word()),
        };
        self.graph.vertices.push(vertex);
        let index = self.graph.vertices.len() - 1;
        self.by_key.insert((kind, name.to_owned()), index);
        index
    }

    fn scene_of(&self, name: &str) -> Option<String> {
        let scene = name.split('.').next()?;
        self.seen.scenes.iter().find(|known| *known == scene).cloned()
    }

    /// The node of an object: of the whole use of a kit, if it belongs to one.
    fn object(&mut self, name: &str) -> usize {
        let scene = self.scene_of(name);
        let rest =
            scene.as_deref().and_then(|scene| name.strip_prefix(scene)?.strip_prefix('.')).unwrap_or(name);
        if let (true, Some((kit, _))) = (self.fold, rest.split_once('.')) {
            let whole = &name[..name.len() - rest.len() + kit.len()];
            if self.state.find(whole).is_none() {
                return self.vertex(Kind::Kit, whole);
            }
        }
        let known = self.seen.objects.iter().find(|object| object.name == name);
        let kind = if known.is_some_and(|object| object.manager) { Kind::Manager } else { Kind::Object };
        let kinds: Vec<String> = known
            .map(|object| object.parts.iter().map(|part| part.kind.clone()).collect())
            .unwrap_or_default();
        let tags = known.map(|object| object.tags.join(", ")).unwrap_or_default();
        let index = self.vertex(kind, name);
        let vertex = &mut self.graph.vertices[index];
        if vertex.lines.is_empty() {
            if !kinds.is_empty() {
                vertex.lines.push(cut(&kinds.join(", "), LONGEST));
            }
            if !tags.is_empty() {
                vertex.lines.push(cut(&format!("tags {tags}"), LONGEST));
            }
        }
        index
    }

    /// The node of a signal's giver, or of the signal itself; and the word for it there.
    fn signal(&mut self, name: &str) -> (usize, String) {
        if let Some((object, word)) = name.rsplit_once('.')
            && self.state.find(object).is_some()
        {
            return (self.object(object), word.to_owned());
        }
        (self.vertex(Kind::Signal, name), String::new())
    }

    fn wires(&mut self) {
        let wires = std::mem::take(&mut self.seen.wires);
        for wire in &wires {
            self.wire(wire);
        }
        self.seen.wires = wires;
    }

    fn wire(&mut self, wire: &SeenWire) {
        let sources: Vec<(usize, String)> = match &wire.every {
            // One of them stands for the group.
            Some(tag) if wire.signals.len() > 3 => {
                let word = wire.signals[0].rsplit('.').next().unwrap_or_default();
                let tag = tag.split_once(" in ").map_or(tag.as_str(), |(tag, _)| tag);
                let name = if tag.is_empty() { "every object".to_owned() } else { format!("every {tag}") };
                vec![(self.vertex(Kind::Object, &name), word.to_owned())]
            }
            _ => wire.signals.iter().map(|signal| self.signal(signal)).collect(),
        };
        let mut targets = Vec::new();
        for lead in &wire.leads_to {
            let (word, rest) = lead.text.split_once(' ').unwrap_or((&lead.text, ""));
            let target = match (word, &lead.about) {
                ("emit", Some(name)) => self.signal(name).0,
                ("set", Some(name)) => self.variable(name),
                ("send", Some(name)) => self.vertex(Kind::Spot, name),
                ("send", None) => self.vertex(Kind::Spot, rest.trim_start_matches("to ")),
                ("perform", _) => self.vertex(Kind::Effect, rest),
                (_, Some(name)) => self.object(name),
                _ => continue,
            };
            targets.push((target, word.to_owned()));
        }
        let index = self.graph.vertices.len();
        let mut lines: Vec<String> = Vec::new();
        if !wire.by.is_empty() {
            lines.push(cut(&format!("by {}", wire.by.join(" or ")), LONGEST));
        }
        lines.extend(wire.when.as_ref().map(|guard| cut(&format!("when {guard}"), LONGEST)));
        // A wire of a stage has that as its guard, too.
        let in_guard =
            |limit: &String| limit.starts_with("while ") && wire.when.is_some() && !limit.contains("running");
        let limits: Vec<_> = wire.limits.iter().filter(|limit| !in_guard(limit)).cloned().collect();
        if !limits.is_empty() {
            lines.push(cut(&limits.join(", "), LONGEST));
        }
        if wire.closure {
            lines.push("a closure of the game".to_owned());
        }
        let mut about = vec![wire.place.clone()];
        about.extend(wire.when.as_ref().map(|guard| format!("when {guard}")));
        about.extend((!wire.limits.is_empty()).then(|| wire.limits.join(", ")));
        about.extend(wire.leads_to.iter().map(|lead| lead.text.clone()));
        if wire.taken + wire.refused > 0 {
            about.push(format!("taken {} times, refused {} times", wire.taken, wire.refused));
        }
        let about = about.join("\n");
        let scene = sources.first().and_then(|(source, _)| self.graph.vertices[*source].scene.clone());
        let (kind, title, mark) = (Kind::Wire, wire.place.clone(), None);
        let key = format!("wire:{}", wire.place);
        self.graph.vertices.push(Vertex { kind, title, lines, scene, mark, about, key });
        for (from, word) in sources {
            self.graph.edges.push(Edge { from, to: index, word });
        }
        for (to, word) in targets {
            self.graph.edges.push(Edge { from: index, to, word });
        }
    }

    /// A variable of an object or of the use of a kit is with that.
    fn variable(&mut self, name: &str) -> usize {
        match name.rsplit_once('.') {
            Some((owner, _)) if self.state.find(owner).is_some() => self.object(owner),
            Some((owner, _)) if self.fold && !self.seen.scenes.iter().any(|scene| scene == owner) => {
                self.vertex(Kind::Kit, owner)
            }
            _ => self.vertex(Kind::Variable, name),
        }
    }

    /// Signals of a scene that nobody takes are nodes too; and those that nobody sends are marked.
    fn signals(&mut self, now: &Inspection) {
        for (signal, _) in &now.signals {
            let Some(name) = self.state.signal_name(*signal) else { continue };
            if ["started", "joined", "quit", "arrived", "pressed", "released"]
                .contains(&name.rsplit('.').next().unwrap_or(name))
            {
                continue;
            }
            let is_scenes = name.rsplit_once('.').is_none_or(|(owner, _)| self.state.find(owner).is_none());
            if is_scenes && !self.by_key.contains_key(&(Kind::Signal, name.to_owned())) {
                self.vertex(Kind::Signal, name);
            }
        }
        let graph = &mut self.graph;
        let mut ends = vec![(false, false); graph.vertices.len()];
        for edge in &graph.edges {
            ends[edge.from].1 = true;
            ends[edge.to].0 = true;
        }
        let host = ["pressed", "released", "joined", "quit", "arrived", "started"];
        for (index, vertex) in graph.vertices.iter_mut().enumerate() {
            if vertex.kind != Kind::Signal || host.contains(&vertex.title.as_str()) {
                continue;
            }
            vertex.mark = match ends[index] {
                (false, false) => Some("nobody sends it, nobody takes it"),
                (false, true) => Some("no wire sends it"),
                (true, false) => Some("nobody takes it"),
                _ => None,
            };
        }
    }
}
