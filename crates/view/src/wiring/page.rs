//! A wiring graph on paper.

use svg::{
    Node,
    node::element::{Group, Path, Rectangle, Title},
};

use crate::{
    picture::{self, DARK, Ink, PAPER, round, text, width_of},
    wiring::{
        graph::{Edge, Graph, Kind, Vertex},
        layout::{Frame, layout},
    },
};

const EDGE: f64 = 44.0;
const HEAD: f64 = 62.0;
const FOOT: f64 = 46.0;
/// The size of names.
const NAME: f64 = 13.0;
/// The size of what else is said.
const LINE: f64 = 11.0;
const LEAD: f64 = 15.0;

fn size_of(vertex: &Vertex) -> (f64, f64) {
    let lines = vertex.lines.iter().map(String::as_str).chain(vertex.mark);
    let widest = lines.clone().map(|line| width_of(line, LINE)).fold(width_of(&vertex.title, NAME), f64::max);
    let in_scene = vertex.scene.as_ref().filter(|_| vertex.kind != Kind::Wire);
    let widest = in_scene.map_or(widest, |scene| widest.max(width_of(&format!("in {scene}"), LINE)));
    let count = u32::try_from(lines.count()).unwrap_or(0);
    let scene = if in_scene.is_some() { 1.0 } else { 0.0 };
    (widest + 22.0, 24.0 + (f64::from(count) + scene) * LEAD)
}

fn ink(kind: Kind) -> Ink {
    match kind {
        Kind::Object => Ink::area("#dceaea", 1.0, "#4f8a90", 1.4),
        Kind::Manager => Ink::area("#d3e0d0", 1.0, "#4d7a4a", 1.8),
        Kind::Kit => Ink::area("#e7e0ef", 1.0, "#7b6aa8", 1.6),
        Kind::Signal => Ink::area("#fbeccb", 1.0, "#a8641b", 1.4),
        Kind::Variable => Ink::area("#eeeadb", 1.0, "#8d8566", 1.4),
        Kind::Effect => Ink::area("#f6dfe6", 1.0, "#a2467d", 1.4),
        Kind::Spot => Ink::area("#f1e4ee", 1.0, "#a2467d", 1.0),
        Kind::Wire => Ink::area("#ffffff", 1.0, "#9aa7aa", 1.0),
    }
}

fn radius(kind: Kind) -> f64 {
    match kind {
        Kind::Signal | Kind::Effect => 13.0,
        Kind::Wire => 4.0,
        _ => 6.0,
    }
}

/// The page, with as much paper as it needs.
pub(crate) fn draw(title: &str, graph: &Graph) -> String {
    let sizes: Vec<_> = graph.vertices.iter().map(size_of).collect();
    let (boxes, (width, height)) = layout(graph, &sizes);
    let (width, height) =
        ((width + 2.0 * EDGE + 20.0).max(1280.0).ceil(), (height + HEAD + FOOT).max(800.0).ceil());
    let mut page = picture::page((width, height), title, (EDGE, 38.0));
    let moved = |at: &Frame| Frame { left: at.left + EDGE, top: at.top + HEAD, ..*at };
    let boxes: Vec<Frame> = boxes.iter().map(moved).collect();
    let mut words = Group::new().set("class", "words");
    for edge in &graph.edges {
        let (line, word) = connect(edge, graph, &boxes);
        page.append(line.set("data-from", edge.from).set("data-to", edge.to));
        if let Some(word) = word {
            words.append(word);
        }
    }
    for (vertex, at) in graph.vertices.iter().zip(&boxes) {
        page.append(node(vertex, at));
    }
    page.append(words);
    page.append(legend(graph, height));
    page.to_string()
}

fn node(vertex: &Vertex, at: &Frame) -> Group {
    let mut ink = ink(vertex.kind);
    if vertex.mark.is_some() {
        ink = Ink { edge: "#b23a48", width: 2.0, ..ink }.dashed("5 3");
    }
    let mut group = Group::new().add(Title::new(vertex.about.as_str())).set("data-key", vertex.key.as_str());
    let frame = Rectangle::new()
        .set("x", round(at.left))
        .set("y", round(at.top))
        .set("width", round(at.width))
        .set("height", round(at.height))
        .set("rx", radius(vertex.kind));
    group.append(ink.of(Group::new()).add(frame));
    let (left, mut base) = (round(at.left + 11.0), at.top + 16.5);
    let name = if vertex.kind == Kind::Wire { "#5d6a6e" } else { DARK };
    group.append(text(&vertex.title, (left, round(base)), NAME, name));
    let mut line = |words: &str, fill: &str| {
        base += LEAD;
        group.append(text(words, (left, round(base)), LINE, fill));
    };
    if let (Some(scene), true) = (&vertex.scene, vertex.kind != Kind::Wire) {
        line(&format!("in {scene}"), "#8a9aa0");
    }
    vertex.lines.iter().for_each(|words| line(words, "#4a585c"));
    if let Some(mark) = vertex.mark {
        line(mark, "#b23a48");
    }
    group
}

/// A curve from the right side of a node to the left side of another, and the word on it.
fn connect(edge: &Edge, graph: &Graph, boxes: &[Frame]) -> (Group, Option<svg::node::element::Text>) {
    let (from, to) = (boxes[edge.from], boxes[edge.to]);
    let (x1, y1) = (from.left + from.width, from.top + from.height / 2.0);
    let (x2, y2) = (to.left, to.top + to.height / 2.0);
    let goes_back = x2 < x1;
    let bend = ((x2 - x1) / 2.0).max(18.0);
    let curve = if goes_back {
        // Below both, and back.
        let low = (from.top + from.height).max(to.top + to.height) + 12.0;
        let turn = (low - y1.min(y2)).min(26.0);
        format!(
            "M{} {} C{} {} {} {} {} {} L{} {} C{} {} {} {} {} {}",
            round(x1),
            round(y1),
            round(x1 + turn),
            round(y1),
            round(x1 + turn),
            round(low),
            round(x1),
            round(low),
            round(x2),
            round(low),
            round(x2 - turn),
            round(low),
            round(x2 - turn),
            round(y2),
            round(x2 - 6.0),
            round(y2)
        )
    } else {
        format!(
            "M{} {} C{} {} {} {} {} {}",
            round(x1),
            round(y1),
            round(x1 + bend),
            round(y1),
            round(x2 - bend),
            round(y2),
            round(x2 - 6.0),
            round(y2)
        )
    };
    let colour = match (graph.vertices[edge.from].kind, goes_back) {
        (_, true) => "#b08d57",
        (Kind::Wire, _) => "#5a8f6b",
        _ => "#6f8fae",
    };
    let line = Path::new().set("d", curve).set("fill", "none").set("stroke", colour).set("stroke-width", 1.4);
    let head = format!("M{} {} l-8 -4 l0 8 z", round(x2), round(y2));
    let group = Group::new()
        .add(line.set("stroke-opacity", if goes_back { 0.75 } else { 0.9 }))
        .add(Path::new().set("d", head).set("fill", colour));
    // A word stands near what it is done to.
    let word = (!edge.word.is_empty()).then(|| {
        let (x, y) = if goes_back {
            (x1 - 8.0, (from.top + from.height).max(to.top + to.height) + 12.0)
        } else {
            (x2 - 11.0, y2)
        };
        let word = text(&edge.word, (round(x), round(y - 4.0)), 10.5, colour).set("text-anchor", "end");
        word.set("stroke", PAPER).set("stroke-width", 3).set("paint-order", "stroke")
    });
    (group, word)
}

fn legend(graph: &Graph, height: f64) -> Group {
    let all = [
        (Kind::Object, "object"),
        (Kind::Manager, "manager"),
        (Kind::Kit, "use of a kit"),
        (Kind::Signal, "signal of the scene"),
        (Kind::Variable, "variable"),
        (Kind::Effect, "effect"),
        (Kind::Spot, "spot"),
        (Kind::Wire, "wire, by where it was written"),
    ];
    let (mut group, mut x, y) = (Group::new(), EDGE, height - 20.0);
    for (kind, word) in all {
        if !graph.vertices.iter().any(|vertex| vertex.kind == kind) {
            continue;
        }
        let swatch = Rectangle::new().set("x", x).set("y", y - 9.0).set("width", 16).set("height", 12);
        group.append(ink(kind).of(Group::new()).add(swatch.set("rx", radius(kind).min(6.0))));
        group.append(text(word, (x + 22.0, y + 1.5), 12.0, DARK));
        x = round(x + 22.0 + width_of(word, 12.0) + 18.0);
    }
    group
}
