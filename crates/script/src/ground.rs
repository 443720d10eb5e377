//! What shows only once everything stands in a world: who arrives where, what is hidden by what.

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

use rustc_hash::FxHashMap;
use smol_str::SmolStr;
use stoicheon_core::{
    Expr, InspectedObject, InspectedPart, Lead, Pose, SceneId, SpotId, State, Teleporter, Value, Vec3, World,
    space::{Shape, Touches, Tracker},
};

use crate::{
    diagnostic::{Code, Diagnostic},
    load::{Loaded, sort},
    on_purpose::without_explained,
    project::Project,
    resolve::{Resolver, View},
    source::Span,
};

/// Where objects and spots are declared, by their names in the world.
type Declared = BTreeMap<SmolStr, Span>;

impl Loaded {
    /// The same, with what was found suspicious once a world was made of it: arrivals in zones that send on, spots inside something
    /// solid, prompts that hide each other for good. Wiring with errors, and wiring that needs its game to be built, stays as it is.
    #[must_use]
    pub fn checked_in_place(&self) -> Self {
        let mut same = self.clone();
        let mut world = World::<()>::new();
        if self.view == View::Alone && !self.has_errors() && self.build(&mut world).is_ok() {
            same.add(found(&world, &same.declared(self.view)));
        }
        same
    }

    fn declared(&self, view: View) -> Declared {
        let mut ignored = Vec::new();
        let scenes = self.scenes.as_deref();
        let resolver = Resolver::new(&self.files, &self.catalogue, scenes, view, &mut ignored);
        let objects = resolver.names.objects.iter().map(|object| (object.name.clone(), object.span));
        let spots = resolver.names.spots.iter().map(|spot| (spot.name.clone(), spot.written.name.span));
        objects.chain(spots).collect()
    }

    fn add(&mut self, mut found: Vec<Diagnostic>) {
        if found.is_empty() {
            return;
        }
        without_explained(&mut found, &self.sources);
        self.diagnostics.extend(found);
        sort(&mut self.diagnostics);
        self.diagnostics.dedup();
    }
}

impl Project {
    /// The same for all its scenes: see [`Loaded::checked_in_place`].
    #[must_use]
    pub fn checked_in_place(&self) -> Self {
        let mut same = self.clone();
        let mut world = World::<()>::with(self.config());
        if self.has_errors() || Arc::new(self.clone()).build(&mut world).is_err() {
            return same;
        }
        let names = same.scenes.iter().filter_map(Loaded::scene_name);
        for scene in names.filter_map(|name| world.find_scene(name)).collect::<Vec<_>>() {
            // What cannot be loaded is not looked at; the rest is.
            let _ = world.load_scene(scene);
        }
        let here = |found: &Diagnostic| found.labels.iter().all(|label| label.span != Span::default());
        let declared = same.head.declared(View::Playtests(0));
        let mut by_scene: BTreeMap<u32, Vec<Diagnostic>> = BTreeMap::new();
        for found in found(&world, &declared).into_iter().filter(here) {
            let file = found.labels.first().and_then(|label| same.head.sources.get(label.span.file));
            by_scene.entry(file.map_or(0, |file| file.scene_number)).or_default().push(found);
        }
        for part in std::iter::once(&mut same.head).chain(&mut same.scenes) {
            part.add(by_scene.remove(&part.scene_number()).unwrap_or_default());
        }
        same
    }
}

fn pose_of(object: &InspectedObject) -> Pose {
    Pose { at: object.at, facing: object.facing }
}

fn parts(objects: &[InspectedObject]) -> impl Iterator<Item = (&InspectedObject, &InspectedPart)> {
    objects.iter().flat_map(|object| object.parts.iter().map(move |part| (object, part)))
}

fn found(state: &State, declared: &Declared) -> Vec<Diagnostic> {
    let objects: Vec<InspectedObject> = state
        .objects()
        .filter_map(|object| state.inspect_object(object))
        .filter(|object| object.enabled)
        .collect();
    let mut found = Vec::new();
    arrivals(state, &objects, declared, &mut found);
    solids(state, &objects, declared, &mut found);
    prompts(&objects, declared, &mut found);
    found
}

/// Who is sent somewhere by what: the sender's name, and the spot.
fn sent(state: &State, objects: &[InspectedObject]) -> Vec<(SmolStr, SpotId)> {
    let mut all = Vec::new();
    for (object, part) in parts(objects) {
        if let Ok(teleporter) = state.part::<Teleporter>(part.part)
            && let (spot, None) = teleporter.target()
            && let Some(spot) = state.find_spot(spot)
        {
            all.push((object.name.clone(), spot));
        }
    }
    for wire in state.wires() {
        for lead in state.wire_leads(wire) {
            let Lead::Sends(Expr::Value(Value::Spot(spot))) = lead else { continue };
            let signals = state.wire_signals(wire).iter().filter_map(|signal| state.signal_name(*signal));
            let givers = signals.filter_map(|name| Some(SmolStr::from(name.rsplit_once('.')?.0)));
            all.extend(givers.map(|giver| (giver, spot)));
        }
    }
    all.sort();
    all.dedup();
    all
}

/// Which spots are inside which of some shapes, as the world itself finds it: pairs of both.
fn inside<'o>(
    state: &State,
    shapes: impl Iterator<Item = (&'o InspectedObject, &'o Shape)>,
    spots: impl Iterator<Item = SpotId>,
) -> Vec<(&'o InspectedObject, SpotId)> {
    let mut tracker = Tracker::<(), ()>::new();
    let (mut zones, mut bodies) = (Vec::new(), Vec::new());
    for (object, shape) in shapes {
        zones.extend(
            tracker.add_zone((), Some(shape.clone()), pose_of(object)).ok().map(|zone| (zone, object)),
        );
    }
    for (number, spot) in (1..).zip(spots) {
        let Ok(at) = state.spot(spot).map(|known| known.at) else { continue };
        bodies.extend(tracker.add_body((), number, at).ok().map(|body| (body, spot)));
    }
    let mut touches = Touches::default();
    tracker.step(1, |(), ()| true, &mut touches);
    let zones: FxHashMap<_, _> = zones.into_iter().collect();
    let bodies: FxHashMap<_, _> = bodies.into_iter().collect();
    let pairs = touches.entered.iter().map(|touch| (zones[&touch.zone], bodies[&touch.body]));
    // Scenes are spaces of their own.
    pairs.filter(|(object, spot)| object.scene == scene_of(state, *spot)).collect()
}

fn scene_of(state: &State, spot: SpotId) -> Option<SceneId> {
    let spot = state.spot(spot).ok()?;
    let of_object = spot.object.and_then(|object| state.scene_of(object));
    of_object.or_else(|| state.find_scene(spot.name.split_once('.')?.0))
}

/// Arrivals that stand in a zone of what sends on.
fn arrivals(state: &State, objects: &[InspectedObject], declared: &Declared, found: &mut Vec<Diagnostic>) {
    let sent = sent(state, objects);
    let senders: BTreeSet<&SmolStr> = sent.iter().map(|(sender, _)| sender).collect();
    let mut by: BTreeMap<SpotId, &SmolStr> = BTreeMap::new();
    sent.iter().for_each(|(sender, spot)| {
        by.entry(*spot).or_insert(sender);
    });
    let zones = parts(objects).filter(|(object, part)| part.kind == "zone" && senders.contains(&object.name));
    let zones = zones.filter_map(|(object, part)| Some((object, part.shape.as_ref()?)));
    for (object, spot) in inside(state, zones, by.keys().copied()) {
        let Ok(known) = state.spot(spot) else { continue };
        let (Some(at), Some(zone)) = (declared.get(&known.name), declared.get(&object.name)) else {
            continue;
        };
        let (by, spot, name) = (by[&spot], &known.name, &object.name);
        let message =
            format!("`{by}` sends to `{spot}`, which is inside the zone of `{name}`, which sends on");
        found.push(
            Diagnostic::warning(Code::ArrivalInside, message)
                .at(*at, "who arrives here is inside it")
                .at(*zone, "sends on who enters")
                .help("who arrives is sent on only after walking out once; move the spot out of the zone"),
        );
    }
}

/// Spots inside something solid.
fn solids(state: &State, objects: &[InspectedObject], declared: &Declared, found: &mut Vec<Diagnostic>) {
    let solids = parts(objects).filter(|(_, part)| part.kind == "solid");
    let solids = solids.filter_map(|(object, part)| Some((object, part.shape.as_ref()?)));
    for (object, spot) in inside(state, solids, state.spots()) {
        let Ok(spot) = state.spot(spot) else { continue };
        if spot.object == Some(object.object) {
            continue;
        }
        let (Some(at), Some(solid)) = (declared.get(&spot.name), declared.get(&object.name)) else {
            continue;
        };
        let message = format!("the spot `{}` is inside `{}`, which is solid", spot.name, object.name);
        found.push(
            Diagnostic::warning(Code::SpotInSolid, message)
                .at(*at, "who arrives here stands in it")
                .at(*solid, "solid here")
                .help("move one of them"),
        );
    }
}

/// Prompts at one place, of which the first is always nearer or as near.
fn prompts(objects: &[InspectedObject], declared: &Declared, found: &mut Vec<Diagnostic>) {
    let all: Vec<_> =
        parts(objects).filter_map(|(object, part)| Some((object, part, part.offer.as_ref()?))).collect();
    let mut by_place: BTreeMap<(Option<SceneId>, [i64; 3]), Vec<usize>> = BTreeMap::new();
    for (number, (object, ..)) in all.iter().enumerate() {
        by_place.entry((object.scene, cell(object.at))).or_default().push(number);
    }
    for pair in by_place.values().flat_map(|here| here.windows(2)) {
        let ((first, one, offer), (second, two, other)) = (&all[pair[0]], &all[pair[1]]);
        let always = |part: &InspectedPart| part.asks.is_empty();
        let hides = always(one) && offer.facing.is_none() && !offer.sight && offer.reach >= other.reach;
        if !hides || first.object == second.object || !always(two) {
            continue;
        }
        let (Some(at), Some(hidden)) = (declared.get(&first.name), declared.get(&second.name)) else {
            continue;
        };
        let message =
            format!("the prompt of `{}` is never offered: that of `{}` is as near", second.name, first.name);
        found.push(
            Diagnostic::warning(Code::HiddenPrompt, message)
                .at(*hidden, "stands at the same place")
                .at(*at, "offered instead, since it is declared first")
                .help("move one of them, or give each a `when` of its own"),
        );
    }
}

/// A place to a thousandth of a scene unit.
#[expect(clippy::cast_possible_truncation, reason = "places are compared, not computed with")]
fn cell(at: Vec3) -> [i64; 3] {
    [at.x, at.y, at.z].map(|number| (f64::from(number) * 1000.0).round() as i64)
}
