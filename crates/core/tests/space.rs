//! Who touches what: random shapes, walks and changes against a model that looks at every pair, and shapes against
//! samples of themselves.

use std::collections::BTreeMap;

use proptest::{prelude::*, test_runner::RngSeed};
use stoicheon_core::{
    Pose, Rotation, Vec3,
    space::{BodyKey, Cell, Cells, Grid, Numbering, Reason, Shape, Touch, Touches, Tracker, ZoneKey},
};

/// Whole and half numbers, so that sums of them are exact and borders are met often.
fn near() -> impl Strategy<Value = f32> {
    (-24_i16..=24).prop_map(|half| f32::from(half) / 2.0)
}

fn place() -> impl Strategy<Value = Vec3> {
    (near(), near(), near()).prop_map(|(x, y, z)| Vec3::new(x, y, z))
}

fn size() -> impl Strategy<Value = f32> {
    (1_u8..=8).prop_map(|half| f32::from(half) / 2.0)
}

fn turn() -> impl Strategy<Value = Rotation> {
    let axis = prop_oneof![Just(Vec3::X), Just(Vec3::Y), Just(Vec3::new(1.0, 2.0, 3.0))];
    prop_oneof![3 => Just(Rotation::NONE), 1 => (axis, -180.0..180.0).prop_map(|(axis, by)| Rotation::about(axis, by))]
}

fn along() -> impl Strategy<Value = Vec3> {
    place().prop_filter("some length", |along| *along != Vec3::ZERO)
}

fn form() -> impl Strategy<Value = Shape> {
    prop_oneof![
        4 => (size(), size(), size()).prop_map(|(x, y, z)| Shape::boxed(Vec3::new(x, y, z))),
        2 => size().prop_map(|radius| Shape::ball(radius.into())),
        1 => (along(), size()).prop_map(|(along, radius)| Shape::capsule(along, radius.into())),
        1 => (size(), size()).prop_map(|(radius, height)| Shape::cylinder(radius.into(), height.into())),
        1 => (size(), size()).prop_map(|(width, height)| Shape::flat_box(width, height)),
        1 => along().prop_map(Shape::half_space),
    ]
}

fn shape() -> impl Strategy<Value = Shape> {
    prop_oneof![
        4 => form(),
        1 => (form(), form(), place(), turn()).prop_map(|(one, two, by, turn)| one.and(two.turned(turn).offset(by))),
    ]
}

/// What a body looks like, so that it can be made a little larger.
#[derive(Clone, Copy, Debug)]
enum BodyForm {
    Point,
    Ball(f32, Vec3),
    Capsule(f32),
    Box(f32),
}

impl BodyForm {
    /// With so much more on every side.
    fn larger(self, by: f32) -> Option<Shape> {
        Some(match self {
            Self::Point if by == 0.0 => return None,
            Self::Point => Shape::ball(by.into()),
            Self::Ball(radius, at) => Shape::ball((radius + by).into()).offset(at),
            Self::Capsule(along) => Shape::capsule(Vec3::new(0.0, along, 0.0), 0.5 + f64::from(by)),
            Self::Box(height) => Shape::boxed(Vec3::new(0.5, height, 1.0) + 2.0 * by),
        })
    }
}

fn body_form() -> impl Strategy<Value = BodyForm> {
    prop_oneof![
        3 => Just(BodyForm::Point),
        2 => (size(), place()).prop_map(|(radius, by)| BodyForm::Ball(radius, by * 0.125)),
        1 => size().prop_map(BodyForm::Capsule),
        1 => size().prop_map(BodyForm::Box),
    ]
}

fn body_shape() -> impl Strategy<Value = Option<Shape>> {
    body_form().prop_map(|form| form.larger(0.0))
}

fn pose() -> impl Strategy<Value = Pose> {
    (place(), turn()).prop_map(|(at, facing)| Pose { at, facing })
}

/// What happens between two steps. Numbers stand for zones and bodies, around and around.
#[derive(Clone, Debug)]
enum Change {
    Walk(usize, Vec3),
    /// A walk of many small steps, with a look after each.
    Stroll(usize, Vec3, u8),
    Place(usize, Vec3),
    Shape(usize, Option<Shape>),
    Enable(usize, bool),
    Retag(usize),
    RemoveBody(usize),
    AddBody(Vec3, Option<Shape>),
    MoveZone(usize, Vec3),
    PlaceZone(usize, Pose),
    Reshape(usize, Shape),
    Light(usize, bool),
    RemoveZone(usize),
    AddZone(Pose, Shape, u8),
    Step,
}

fn change() -> impl Strategy<Value = Change> {
    let some = 0..8_usize;
    prop_oneof![
        8 => (some.clone(), place()).prop_map(|(body, by)| Change::Walk(body, by * 0.125)),
        4 => (some.clone(), place()).prop_map(|(body, by)| Change::Walk(body, by)),
        1 => (some.clone(), place()).prop_map(|(body, by)| Change::Walk(body, by * 50.0)),
        4 => (some.clone(), place(), 2..60_u8).prop_map(|(body, by, steps)| Change::Stroll(body, by, steps)),
        2 => (some.clone(), place()).prop_map(|(body, at)| Change::Place(body, at)),
        1 => (some.clone(), body_shape()).prop_map(|(body, shape)| Change::Shape(body, shape)),
        1 => (some.clone(), any::<bool>()).prop_map(|(body, on)| Change::Enable(body, on)),
        1 => some.clone().prop_map(Change::Retag),
        1 => some.clone().prop_map(Change::RemoveBody),
        3 => (place(), body_shape()).prop_map(|(at, shape)| Change::AddBody(at, shape)),
        2 => (some.clone(), place()).prop_map(|(zone, by)| Change::MoveZone(zone, by * 0.25)),
        1 => (some.clone(), pose()).prop_map(|(zone, at)| Change::PlaceZone(zone, at)),
        1 => (some.clone(), shape()).prop_map(|(zone, shape)| Change::Reshape(zone, shape)),
        1 => (some.clone(), any::<bool>()).prop_map(|(zone, on)| Change::Light(zone, on)),
        1 => some.prop_map(Change::RemoveZone),
        3 => (pose(), shape(), 0..4_u8).prop_map(|(at, shape, margin)| Change::AddZone(at, shape, margin)),
        9 => Just(Change::Step),
    ]
}

#[expect(clippy::struct_excessive_bools, reason = "facts that have nothing to do with each other")]
#[derive(Clone, Debug)]
struct ModelZone {
    key: ZoneKey,
    number: u32,
    shape: Shape,
    pose: Pose,
    before: Pose,
    placed: bool,
    moved: bool,
    lit: bool,
    fresh: bool,
    inside: BTreeMap<u32, BodyKey>,
}

#[derive(Clone, Debug)]
struct ModelBody {
    key: BodyKey,
    number: u32,
    shape: Option<Shape>,
    at: Vec3,
    before: Vec3,
    placed: bool,
    enabled: bool,
    admitted: bool,
}

type Told = (ZoneKey, BodyKey, Reason);

/// Every zone against every body, as the law has it.
fn compare(zones: &mut [ModelZone], bodies: &mut [ModelBody]) -> (Vec<Told>, Vec<Told>, Vec<Told>) {
    let (mut left, mut entered, mut crossed) = (Vec::new(), Vec::new(), Vec::new());
    for zone in zones.iter_mut().filter(|zone| zone.lit) {
        for body in bodies.iter().filter(|body| body.enabled) {
            let shape = body.shape.as_ref();
            let at = Pose::at(body.at);
            let is = body.admitted && zone.shape.touches(zone.pose, shape, at);
            let was = zone.inside.contains_key(&body.number);
            let moved = body.at != body.before;
            let by_zone =
                if zone.fresh || !(zone.moved || zone.placed) { Reason::Appeared } else { Reason::ZoneMoved };
            let reason = match () {
                () if was && !body.admitted => Reason::NotAdmitted,
                () if moved && body.placed => Reason::Placed,
                () if moved => Reason::Walked,
                () => by_zone,
            };
            let told = (zone.key, body.key, reason);
            // Seen from the zone, everybody moves the other way.
            let from = body.before + (zone.pose.at - zone.before.at);
            let sweeps = !body.placed && !zone.placed && !zone.fresh && (moved || zone.moved);
            match (was, is) {
                (true, false) => {
                    left.push(told);
                    zone.inside.remove(&body.number);
                }
                (false, true) => {
                    entered.push(told);
                    zone.inside.insert(body.number, body.key);
                }
                (false, false)
                    if sweeps
                        && body.admitted
                        && zone.shape.touches_on_its_way(zone.pose, shape, from, at) =>
                {
                    entered.push(told);
                    crossed.push(told);
                }
                _ => {}
            }
        }
        (zone.before, zone.placed, zone.moved, zone.fresh) = (zone.pose, false, false, false);
    }
    for body in bodies {
        (body.before, body.placed) = (body.at, false);
    }
    (left, entered, crossed)
}

fn told(touches: &[Touch]) -> Vec<Told> {
    touches.iter().map(|touch| (touch.zone, touch.body, touch.reason)).collect()
}

#[derive(Default)]
struct Both {
    tracker: Tracker<u32, bool>,
    zones: Vec<ModelZone>,
    bodies: Vec<ModelBody>,
    numbers: u32,
    steps: u64,
}

impl Both {
    fn body(&mut self, index: usize) -> Option<&mut ModelBody> {
        let count = self.bodies.len().max(1);
        self.bodies.get_mut(index % count)
    }

    fn zone(&mut self, index: usize) -> Option<&mut ModelZone> {
        let count = self.zones.len().max(1);
        self.zones.get_mut(index % count)
    }

    #[expect(clippy::too_many_lines, reason = "a table with a line for each kind of change")]
    fn apply(&mut self, change: Change) -> Option<()> {
        match change {
            Change::Walk(body, by) => {
                let body = self.body(body)?;
                body.at += by;
                let (key, at) = (body.key, body.at);
                self.tracker.walk(key, at).unwrap();
            }
            Change::Stroll(body, by, steps) => {
                for _ in 0..steps {
                    self.apply(Change::Walk(body, by / 64.0));
                    self.step();
                }
            }
            Change::Place(body, at) => {
                let body = self.body(body)?;
                (body.at, body.placed) = (at, true);
                let key = body.key;
                self.tracker.place(key, at).unwrap();
            }
            Change::Shape(body, shape) => {
                let body = self.body(body)?;
                body.shape.clone_from(&shape);
                let (key, at) = (body.key, body.at);
                self.tracker.shape_body(key, shape.as_ref(), Pose::at(at)).unwrap();
            }
            Change::Enable(body, on) => {
                let body = self.body(body)?;
                (body.enabled, body.before) = (on, body.at);
                let (key, number) = (body.key, body.number);
                if !on {
                    self.take_out(key, number);
                }
                self.tracker.enable(key, on);
            }
            Change::Retag(body) => {
                let body = self.body(body)?;
                body.admitted = !body.admitted;
                let (key, admitted) = (body.key, body.admitted);
                *self.tracker.body_facts_mut(key)? = admitted;
                self.tracker.look_at(key);
            }
            Change::RemoveBody(body) => {
                let (key, number) = self.body(body).map(|body| (body.key, body.number))?;
                self.take_out(key, number);
                self.tracker.remove_body(key);
                self.bodies.retain(|other| other.key != key);
            }
            Change::AddBody(at, shape) => {
                self.numbers += 1;
                let number = self.numbers;
                let key = self.tracker.add_body(true, number, at).unwrap();
                self.tracker.shape_body(key, shape.as_ref(), Pose::at(at)).unwrap();
                let (placed, enabled, admitted) = (false, true, true);
                self.bodies.push(ModelBody { key, number, shape, at, before: at, placed, enabled, admitted });
            }
            Change::MoveZone(zone, by) => {
                let zone = self.zone(zone)?;
                zone.pose.at += by;
                zone.moved |= by != Vec3::ZERO;
                let (key, pose) = (zone.key, zone.pose);
                self.tracker.move_zone(key, pose).unwrap();
            }
            Change::PlaceZone(zone, pose) => {
                let zone = self.zone(zone)?;
                zone.placed |= pose != zone.pose;
                zone.pose = pose;
                let key = zone.key;
                self.tracker.place_zone(key, pose).unwrap();
            }
            Change::Reshape(zone, shape) => {
                let zone = self.zone(zone)?;
                (zone.placed, zone.shape) = (true, shape.clone());
                let key = zone.key;
                self.tracker.reshape(key, shape).unwrap();
            }
            Change::Light(zone, on) => {
                let zone = self.zone(zone)?;
                let key = zone.key;
                if on && !zone.lit {
                    (zone.lit, zone.fresh, zone.before) = (true, true, zone.pose);
                    self.tracker.light(key);
                } else if !on && zone.lit {
                    zone.lit = false;
                    let expected: Vec<_> = std::mem::take(&mut zone.inside).into_values().collect();
                    let found = self.tracker.darken(key, Reason::ZoneDisabled);
                    assert_eq!(found.iter().map(|touch| touch.body).collect::<Vec<_>>(), expected);
                }
            }
            Change::RemoveZone(zone) => {
                let key = self.zone(zone)?.key;
                self.tracker.remove_zone(key);
                self.zones.retain(|other| other.key != key);
            }
            Change::AddZone(pose, shape, number) => {
                let key = self.tracker.add_zone(number.into(), Some(shape.clone()), pose).unwrap();
                let number = self.zones.last().map_or(1, |zone| zone.number + 1);
                let (placed, moved, lit, fresh) = (false, false, true, true);
                let inside = BTreeMap::new();
                self.zones.push(ModelZone {
                    key,
                    number,
                    shape,
                    pose,
                    before: pose,
                    placed,
                    moved,
                    lit,
                    fresh,
                    inside,
                });
            }
            Change::Step => self.step(),
        }
        Some(())
    }

    fn take_out(&mut self, key: BodyKey, number: u32) {
        let held = |zone: &mut ModelZone| zone.inside.remove(&number).map(|_| zone.key);
        let expected: Vec<_> = self.zones.iter_mut().filter_map(held).collect();
        let found = self.tracker.take_out(key, Reason::BodyDisabled);
        assert_eq!(found.iter().map(|touch| touch.zone).collect::<Vec<_>>(), expected);
    }

    fn step(&mut self) {
        self.steps += 1;
        let mut touches = Touches::default();
        self.tracker.step(self.steps, |_, admitted| *admitted, &mut touches);
        let (left, entered, crossed) = compare(&mut self.zones, &mut self.bodies);
        assert_eq!(told(&touches.left), left, "left in step {}", self.steps);
        assert_eq!(told(&touches.entered), entered, "entered in step {}", self.steps);
        assert_eq!(told(&touches.crossed), crossed, "crossed in step {}", self.steps);
        for zone in &self.zones {
            let inside: Vec<_> = self.tracker.inside(zone.key).map(|(body, _)| body).collect();
            assert_eq!(inside, zone.inside.values().copied().collect::<Vec<_>>());
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 1_500, rng_seed: RngSeed::Fixed(5), ..ProptestConfig::default() })]

    #[test]
    fn the_tracker_agrees_with_a_look_at_every_pair(
        zones in prop::collection::vec((pose(), shape()), 0..24),
        changes in prop::collection::vec(change(), 1..60),
    ) {
        let mut both = Both::default();
        for (pose, shape) in zones {
            both.apply(Change::AddZone(pose, shape, 0));
        }
        for change in changes {
            both.apply(change);
        }
        both.step();
    }

    #[test]
    fn a_way_meets_a_shape_where_a_sample_of_it_lies_inside(
        shape in shape(), pose in pose(), form in body_form(), from in place(), to in place(),
    ) {
        let sampled = |body: Option<Shape>| {
            #[expect(clippy::cast_precision_loss, reason = "small numbers")]
            let at = |sample: i32| Pose::at(from + (to - from) * (sample as f32 / 200.0));
            (0..=200).any(|sample| shape.touches(pose, body.as_ref(), at(sample)))
        };
        let body = form.larger(0.0);
        let met = shape.touches_on_its_way(pose, body.as_ref(), from, Pose::at(to));
        prop_assert!(met || !sampled(body), "a sample is inside, and the way is said to miss it");
        // Where it passes between two samples, a body larger by their distance is inside at one of them.
        let step = (to - from).length() / 200.0 + 1e-3;
        prop_assert!(!met || sampled(form.larger(step)), "the way is said to meet it, and is nowhere near");
    }
}

/// From 0 up to 1, the same in every run.
fn numbers() -> impl FnMut() -> f32 {
    let mut state = 11_u64;
    move || {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        #[expect(clippy::cast_precision_loss, reason = "24 bits")]
        let number = (state >> 40) as f32;
        number / 16_777_216.0
    }
}

#[test]
fn ten_thousand_walks_across_a_zone_of_a_hundredth_miss_no_crossing() {
    let mut next = numbers();
    let mut tracker = Tracker::<(), ()>::new();
    let wall = Shape::boxed(Vec3::new(1e6, 1e6, 0.01));
    let wall = tracker.add_zone((), Some(wall), Pose::at(Vec3::new(0.0, 0.0, 3.0))).unwrap();
    let ball = Shape::ball(0.1);
    let bodies: Vec<_> = (0..10_u32)
        .map(|number| {
            let body = tracker.add_body((), number, Vec3::ZERO).unwrap();
            tracker.shape_body(body, (number % 2 == 0).then_some(&ball), Pose::default()).unwrap();
            body
        })
        .collect();
    let (mut places, mut touches) = (vec![Vec3::ZERO; 10], Touches::default());
    tracker.step(0, |(), ()| true, &mut touches);
    let (mut crossings, mut found) = (0, 0);
    for step in 1..=1_000_u64 {
        for (body, place) in bodies.iter().zip(&mut places) {
            // To the other side each time, and never to a stop within reach of the wall.
            let side = if place.z < 3.0 { 1.0 } else { -1.0 };
            let far = 0.2 + next() * next() * 49.0;
            let to = Vec3::new(place.x + next() * 40.0 - 20.0, next() * 40.0, 3.0 + side * far);
            crossings += 1;
            *place = to;
            tracker.walk(*body, to).unwrap();
        }
        tracker.step(step, |(), ()| true, &mut touches);
        assert!(touches.left.is_empty());
        assert_eq!(touches.entered, touches.crossed);
        assert!(touches.entered.iter().all(|touch| touch.zone == wall));
        found += touches.crossed.len();
    }
    assert_eq!((found, crossings), (10_000, 10_000));
}

#[test]
fn far_out_and_among_many_sizes_nothing_is_missed() {
    // Zones from a thousandth to a million wide, around places far from the middle of the world.
    let mut next = numbers();
    for out in [0.0_f32, 1e5, -1e7] {
        let mut both = Both::default();
        for size in [0.001_f32, 0.5, 3.0, 40.0, 5_000.0, 1e6, 1e9] {
            for _ in 0..4 {
                let place = Vec3::new(out + next() * size, next() * size, next() * 8.0);
                both.apply(Change::AddZone(Pose::at(place), Shape::boxed(Vec3::splat(size)), 0));
            }
        }
        for _ in 0..6 {
            both.apply(Change::AddBody(Vec3::new(out, 0.0, 0.0), None));
        }
        for step in 0..400_usize {
            let speed = [0.01, 1.0, 300.0][step % 3];
            both.apply(Change::Walk(step % 6, Vec3::new(next() - 0.5, next() - 0.5, next() - 0.5) * speed));
            both.apply(Change::Step);
        }
    }
}

/// `hexx` numbers hexagons as we do, and counts the same steps between them.
#[test]
fn hexagons_are_numbered_as_elsewhere() {
    use hexx::{Hex, HexOrientation, OffsetHexMode};
    let middle = |grid: &Grid, of: Hex| {
        // Where axial numbers put it: the same grid without offsets.
        let axial = grid.numbered(Numbering::Axial);
        axial.middle_of(Pose::default(), Cell { column: of.x, row: of.y })
    };
    let numbered = |grid: &Grid, of: Hex| grid.cell_at(Pose::default(), middle(grid, of));
    for (cells, orientation) in
        [(Cells::HexPointy, HexOrientation::Pointy), (Cells::HexFlat, HexOrientation::Flat)]
    {
        let grid = Grid::new(cells, 1.5).unwrap();
        for of in Hex::ZERO.range(6) {
            for (numbering, mode) in
                [(Numbering::Odd, OffsetHexMode::Odd), (Numbering::Even, OffsetHexMode::Even)]
            {
                let grid = grid.numbered(numbering);
                let [column, row] = of.to_offset_coordinates(mode, orientation);
                let cell = numbered(&grid, of);
                assert_eq!(cell, Cell { column, row }, "{of:?} {cells:?} {numbering:?}");
                let far = Hex::new(-3, 5);
                assert_eq!(grid.distance(cell, numbered(&grid, far)), of.unsigned_distance_to(far));
            }
        }
    }
}

/// Nothing before it, the border there, and the way it looks leads out.
#[test]
fn a_ray_meets_a_shape_where_it_comes_in() {
    let forms = form().prop_filter("some thickness", |of| {
        !of.forms().any(|(form, _)| matches!(form, stoicheon_core::space::Form::Box { depth: None, .. }))
    });
    let config = ProptestConfig { cases: 10_000, rng_seed: RngSeed::Fixed(8), ..ProptestConfig::default() };
    let (met, missed) = (std::cell::Cell::new(0), std::cell::Cell::new(0));
    let all = (forms, pose(), place(), along(), -0.5..0.5_f32);
    proptest!(config, |((shape, pose, from, along, askew) in all)| {
        // More or less toward it.
        let along = (pose.at - from + along * 0.3 + Vec3::new(askew, -askew, askew * 0.3)).normalize_or(Vec3::X);
        let at = |far: f64| (from.as_dvec3() + along.as_dvec3() * far).as_vec3();
        let near = |point: Vec3| shape.touches(pose, Some(&Shape::ball(1e-3)), Pose::at(point));
        match shape.ray(pose, from, along, 60.0) {
            Some(hit) if hit.normal == Vec3::ZERO => prop_assert!(hit.distance == 0.0 && near(from)),
            Some(hit) => {
                met.set(met.get() + 1);
                prop_assert!(near(at(hit.distance)), "{hit:?}");
                prop_assert!(hit.distance < 0.01 || !shape.meets(pose, from, at(hit.distance - 0.01)), "{hit:?}");
                prop_assert!((hit.normal.length() - 1.0).abs() < 1e-5 && hit.normal.dot(along) <= 1e-5, "{hit:?}");
                let beside = |by: f32| shape.contains(pose, at(hit.distance) + hit.normal * by);
                // At an edge one side is met and the other may be nearer.
                prop_assert!(!beside(0.01), "{hit:?}");
                prop_assert_eq!(shape.ray(pose, from, along, hit.distance - 0.01), None);
            }
            None => {
                missed.set(missed.get() + 1);
                prop_assert!(!shape.contains(pose, from) && !shape.meets(pose, from, at(60.0)));
            }
        }
    });
    assert!(met.get() > 2_500 && missed.get() > 2_500, "{} {}", met.get(), missed.get());

    let sign = Shape::flat_box(2.0, 1.0);
    let hit =
        |from, along| sign.ray(Pose::default(), from, along, 10.0).map(|hit| (hit.distance, hit.normal));
    assert_eq!(hit(Vec3::new(0.5, 0.0, 3.0), Vec3::NEG_Z), Some((3.0, Vec3::Z)));
    assert_eq!(hit(Vec3::new(0.5, 0.0, -3.0), Vec3::Z * 2.0), Some((3.0, Vec3::NEG_Z)));
    assert_eq!(hit(Vec3::new(1.5, 0.0, 3.0), Vec3::NEG_Z), None);
    assert_eq!(hit(Vec3::new(3.0, 0.0, 0.0), Vec3::NEG_X), Some((2.0, Vec3::X)));
    assert_eq!(hit(Vec3::new(0.5, 0.0, 3.0), Vec3::Z), None);
    assert_eq!(hit(Vec3::ONE, Vec3::ZERO), None);
    let floor = Shape::half_space(Vec3::Y);
    assert_eq!(floor.ray(Pose::default(), Vec3::Y * 2.0, Vec3::X, 10.0), None);
    assert_eq!(floor.ray(Pose::default(), Vec3::Y * 2.0, Vec3::NEG_Y, 1.0), None);
}

fn grids() -> impl Strategy<Value = Grid> {
    let cells = prop_oneof![Just(Cells::Square), Just(Cells::HexPointy), Just(Cells::HexFlat)];
    let numbering = prop_oneof![Just(Numbering::Axial), Just(Numbering::Odd), Just(Numbering::Even)];
    (cells, 0.1..10.0, numbering, any::<bool>()).prop_map(|(cells, size, numbering, flat)| {
        let grid = Grid::new(cells, size).unwrap().numbered(numbering);
        if flat { grid.in_flat_scene() } else { grid }
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 2_000, rng_seed: RngSeed::Fixed(6), ..ProptestConfig::default() })]

    #[test]
    fn a_point_is_in_the_cell_whose_middle_is_nearest(grid in grids(), pose in pose(), point in place()) {
        let cell = grid.cell_at(pose, point);
        let away = |cell: Cell| {
            // As far as the plane of the grid goes.
            let seen = pose.facing.back().turn(grid.middle_of(pose, cell) - point);
            if grid.corners_of(Pose::default(), cell).iter().all(|corner| corner.z == 0.0) {
                seen.x.hypot(seen.y)
            } else {
                seen.x.hypot(seen.z)
            }
        };
        for other in grid.range(cell, 3) {
            prop_assert!(away(cell) <= away(other) + 1e-4, "{cell:?} at {}, {other:?} at {}", away(cell), away(other));
        }
        // A cell is around its own middle.
        prop_assert_eq!(grid.cell_at(pose, grid.middle_of(pose, cell)), cell);
    }

    #[test]
    fn steps_from_cell_to_cell_are_as_many_as_the_distance(
        grid in grids(), column in -20..20_i32, row in -20..20_i32, steps in 0..5_u16,
    ) {
        let start = Cell { column, row };
        let mut reached = std::collections::BTreeSet::from([start]);
        for _ in 0..steps {
            let next: Vec<_> = reached.iter().flat_map(|cell| grid.neighbours(*cell)).collect();
            reached.extend(next);
        }
        prop_assert_eq!(grid.range(start, steps), reached.iter().copied().collect::<Vec<_>>());
        for cell in &reached {
            prop_assert!(grid.distance(start, *cell) <= u32::from(steps));
            prop_assert_eq!(grid.distance(start, *cell), grid.distance(*cell, start));
        }
        for neighbour in grid.neighbours(start) {
            prop_assert_eq!(grid.distance(start, neighbour), 1);
            let shared = grid.corners_of(Pose::default(), start).into_iter().filter(|corner| {
                let of_the_other = grid.corners_of(Pose::default(), neighbour);
                of_the_other.iter().any(|other| (*other - *corner).length() < 1e-3)
            });
            prop_assert_eq!(shared.count(), 2, "neighbours share an edge");
        }
    }
}

#[test]
fn a_corner_of_three_hexagons_is_in_the_one_of_the_lowest_number_everywhere() {
    for cells in [Cells::HexFlat, Cells::HexPointy] {
        for (size, numbering) in [(1.0_f32, Numbering::Axial), (0.75, Numbering::Odd), (2.5, Numbering::Even)]
        {
            let grid = Grid::new(cells, f64::from(size)).unwrap().numbered(numbering).in_flat_scene();
            let at = |along: f32, across: f32| {
                let (along, across) = (along * size, across * size);
                if cells == Cells::HexFlat {
                    Vec3::new(along, across, 0.0)
                } else {
                    Vec3::new(across, along, 0.0)
                }
            };
            let cell = |place| grid.cell_at(Pose::default(), place);
            for column in -300_i16..300 {
                // A corner whose place a float can be, exactly: the sizes are halves of halves.
                let middle = 3.0 * f32::from(column);
                let others = [at(middle + 1.5, 0.866), at(middle + 1.5, -0.866)].map(cell);
                let three = [cell(at(middle, 0.0)), others[0], others[1]];
                assert_eq!(Some(cell(at(middle + 1.0, 0.0))), three.into_iter().min(), "{cells:?} {column}");
            }
        }
    }
}

#[test]
fn a_box_is_as_long_as_it_says_and_one_without_an_end_has_none() {
    let long = Shape::boxed(Vec3::new(2.0, 2.0, 6_000.0));
    let ball = Shape::ball(0.5);
    for (z, inside) in [(0.0, true), (2_400.0, true), (2_999.0, true), (3_001.0, false), (-2_999.0, true)] {
        for shape in [None, Some(&ball)] {
            let mut tracker = Tracker::new();
            let zone = tracker.add_zone((), Some(long.clone()), Pose::default()).unwrap();
            let start = Vec3::new(50.0, 0.0, z);
            let body = tracker.add_body((), 1, start).unwrap();
            tracker.shape_body(body, shape, Pose::at(start)).unwrap();
            tracker.walk(body, Vec3::new(0.0, 0.0, z)).unwrap();
            tracker.step(1, |(), ()| true, &mut Touches::default());
            let reach = if shape.is_some() { 0.5 } else { 0.0 };
            let wanted = inside || z.abs() - reach <= 3_000.0;
            assert_eq!(tracker.inside(zone).count() == 1, wanted, "at {z}");
        }
    }
}
