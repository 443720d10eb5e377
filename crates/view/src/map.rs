//! A map: where everything is, seen from above.

use stoicheon_core::{ObjectId, PLAYER, Pose, State, Vec3, Zone};
use svg::{
    Document, Node,
    node::element::{Circle, Group, Line, Polygon, Polyline, Rectangle, Text, Title},
};

/// Draws a plan of a world as SVG: zones, with those that are occupied filled; bodies, players larger than others; the
/// other objects; and the ways that were walked, as far as they were [noted](Self::note).
///
/// North is up, where -z is; in a flat scene, up is where y is. What is disabled is left out.
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
    flat: bool,
    labels: bool,
    ways: Vec<(ObjectId, Vec<Vec3>)>,
}

const WIDTH: f64 = 1280.0;
const HEIGHT: f64 = 800.0;
const EDGE: f64 = 48.0;
/// Room for the title above, and for the measure below.
const HEAD: f64 = 64.0;
const FOOT: f64 = 56.0;

/// From places to the paper.
struct Paper {
    scale: f64,
    left: f64,
    top: f64,
    flat: bool,
}

impl Paper {
    /// As large as the paper allows.
    fn of(points: &[(f64, f64)], flat: bool) -> Self {
        let range = |of: fn(&(f64, f64)) -> f64| {
            let least = points.iter().map(of).fold(f64::INFINITY, f64::min);
            let most = points.iter().map(of).fold(f64::NEG_INFINITY, f64::max);
            if least <= most { (least, most) } else { (0.0, 0.0) }
        };
        let ((left, right), (top, bottom)) = (range(|point| point.0), range(|point| point.1));
        let (room, height) = (WIDTH - 2.0 * EDGE, HEIGHT - HEAD - FOOT);
        let scale = (room / (right - left).max(1.0)).min(height / (bottom - top).max(1.0));
        let left = f64::midpoint(left, right) - room / scale / 2.0;
        let top = f64::midpoint(top, bottom) - height / scale / 2.0;
        Self { scale, left, top, flat }
    }

    fn put(&self, place: Vec3) -> (f64, f64) {
        let (x, y) = on_plane(place, self.flat);
        (round((x - self.left) * self.scale + EDGE), round((y - self.top) * self.scale + HEAD))
    }
}

/// A tenth of a pixel is enough, and keeps files the same on every machine.
fn round(of: f64) -> f64 {
    (of * 10.0).round() / 10.0
}

fn on_plane(place: Vec3, flat: bool) -> (f64, f64) {
    if flat { (f64::from(place.x), -f64::from(place.y)) } else { (f64::from(place.x), f64::from(place.z)) }
}

impl Map {
    /// A map with that title, seen from above.
    pub fn new(title: &str) -> Self {
        Self { title: title.to_owned(), flat: false, labels: true, ways: Vec::new() }
    }

    /// Of a flat scene.
    pub fn flat(mut self) -> Self {
        self.flat = true;
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
            match self.ways.iter_mut().find(|(other, _)| *other == body) {
                Some((_, way)) if way.last() == Some(&place) => {}
                Some((_, way)) => way.push(place),
                None => self.ways.push((body, vec![place])),
            }
        }
    }

    /// The map as it is now, as SVG.
    pub fn draw(&self, state: &State) -> String {
        let objects: Vec<_> = state.objects().filter(|object| state.is_enabled(*object)).collect();
        let zones: Vec<_> = objects.iter().flat_map(|object| self.zones_of(state, *object)).collect();
        let mut points: Vec<_> = objects.iter().filter_map(|object| state.place(*object).ok()).collect();
        points.extend(zones.iter().flat_map(|zone| zone.outlines.iter().flatten().copied()));
        points.extend(self.ways.iter().flat_map(|(_, way)| way.iter().copied()));
        let points: Vec<_> = points.into_iter().map(|point| on_plane(point, self.flat)).collect();
        let paper = Paper::of(&points, self.flat);
        let mut document = Document::new()
            .set("viewBox", (0, 0, WIDTH, HEIGHT))
            .set("width", WIDTH)
            .set("height", HEIGHT)
            .set("font-family", "sans-serif")
            .add(Rectangle::new().set("width", WIDTH).set("height", HEIGHT).set("fill", "#f7f4ec"))
            .add(words(&self.title, EDGE, 38.0, 22.0, "#2b3a3f").set("font-weight", "bold"));
        let mut ways = Group::new().set("fill", "none").set("stroke", "#8a9aa0").set("stroke-opacity", 0.45);
        for (_, way) in &self.ways {
            let line: Vec<_> = way.iter().map(|place| paper.put(*place)).collect();
            ways.append(Polyline::new().set("points", line));
        }
        document.append(ways);
        let mut labels = Group::new();
        for zone in &zones {
            document.append(zone.draw(&paper));
            if self.labels {
                let (x, y) = paper.put(zone.pose.at);
                let count = if zone.inside == 0 { String::new() } else { format!(" · {}", zone.inside) };
                let name = format!("{}{count}", zone.name);
                labels.append(words(&name, x, y + 3.5, 10.0, "#2b3a3f").set("text-anchor", "middle"));
            }
        }
        for object in &objects {
            document.append(dot(state, *object, &paper));
        }
        document.append(labels);
        document.append(measure(&paper));
        document.append(legend());
        document.to_string()
    }

    fn zones_of<'s>(&self, state: &'s State, object: ObjectId) -> Vec<Drawn<'s>> {
        let (Ok(at), Ok(facing)) = (state.place(object), state.facing(object)) else { return Vec::new() };
        let pose = Pose { at, facing };
        let drawn = |part: &_| {
            let shape = state.part::<Zone>(*part).ok()?.shape()?;
            let outlines = shape.outlines(pose, self.flat);
            let name = state.name(object).unwrap_or_default();
            Some(Drawn { name, pose, outlines, inside: state.count_inside(*part) })
        };
        state.parts_of(object).iter().filter_map(drawn).collect()
    }
}

/// A zone on its way to the paper.
struct Drawn<'s> {
    name: &'s str,
    pose: Pose,
    outlines: Vec<Vec<Vec3>>,
    inside: usize,
}

impl Drawn<'_> {
    fn draw(&self, paper: &Paper) -> Group {
        let full = self.inside > 0;
        let mut group = Group::new()
            .set("fill", if full { "#e0a458" } else { "#9cc5c9" })
            .set("fill-opacity", if full { 0.75 } else { 0.35 })
            .set("stroke", if full { "#a8641b" } else { "#4f8a90" })
            .set("stroke-width", 1.2)
            .add(Title::new(format!("{}: {} inside", self.name, self.inside)));
        for outline in &self.outlines {
            let corners: Vec<_> = outline.iter().map(|corner| paper.put(*corner)).collect();
            group.append(Polygon::new().set("points", corners));
        }
        group
    }
}

/// Bodies are round; other objects with nothing to be seen of are small squares.
fn dot(state: &State, object: ObjectId, paper: &Paper) -> Group {
    let mut group = Group::new();
    let Ok(place) = state.place(object) else { return group };
    let (x, y) = paper.put(place);
    group.append(Title::new(state.name(object).unwrap_or_default()));
    if state.velocity(object).is_ok() {
        let player = state.has_tag(object, PLAYER);
        let (radius, fill) = if player { (5.0, "#b23a48") } else { (3.2, "#33658a") };
        group.append(Circle::new().set("cx", x).set("cy", y).set("r", radius).set("fill", fill));
    } else if state.parts_of(object).is_empty() {
        let square = Rectangle::new().set("x", round(x - 2.5)).set("y", round(y - 2.5));
        group.append(square.set("width", 5).set("height", 5).set("fill", "#6b705c"));
    }
    group
}

fn words(text: &str, x: f64, y: f64, size: f64, fill: &str) -> Text {
    Text::new(text).set("x", x).set("y", round(y)).set("font-size", size).set("fill", fill)
}

/// A measure of a round number of scene units.
fn measure(paper: &Paper) -> Group {
    let lengths = [1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0, 5000.0];
    let length = lengths.into_iter().find(|length| length * paper.scale >= 60.0).unwrap_or(10_000.0);
    let (y, end) = (HEIGHT - 28.0, round(EDGE + length * paper.scale));
    let line = Line::new().set("x1", EDGE).set("x2", end).set("y1", y).set("y2", y);
    let up = if paper.flat { "up is y" } else { "up is north" };
    Group::new().add(line.set("stroke", "#2b3a3f").set("stroke-width", 3)).add(words(
        &format!("{length} scene units, {up}"),
        end + 12.0,
        y + 4.0,
        13.0,
        "#2b3a3f",
    ))
}

fn legend() -> Group {
    let (y, fills) = (
        HEIGHT - 28.0,
        [("#9cc5c9", "zone"), ("#e0a458", "occupied"), ("#33658a", "body"), ("#b23a48", "player")],
    );
    let mut group = Group::new();
    let mut x = WIDTH - EDGE - 360.0;
    for (fill, name) in fills {
        group.append(Circle::new().set("cx", x).set("cy", y).set("r", 6).set("fill", fill));
        group.append(words(name, x + 12.0, y + 4.0, 13.0, "#2b3a3f"));
        x += 92.0;
    }
    group
}
