//! What practitioners would write by hand: ask an index of all zones once per mover and tick, and compare with who was
//! inside before.

use parry3d::{
    bounding_volume::Aabb,
    math::{Pose, Vector},
    partitioning::{Bvh as Tree, BvhBuildStrategy},
    query::{ShapeCastOptions, cast_shapes},
    shape::{Ball, Cuboid},
};
use rstar::{
    AABB, RTree as Index,
    primitives::{GeomWithData, Rectangle},
};
use stoicheon::Vec3;

use super::town::{Form, RADIUS, Town, Zone};

fn number_of(mover: usize) -> u32 {
    u32::try_from(mover).unwrap()
}

/// What one tick brought: zone and mover, in that order.
#[derive(Default)]
pub(crate) struct Found {
    pub(crate) left: Vec<(u32, u32)>,
    pub(crate) entered: Vec<(u32, u32)>,
    pub(crate) crossed: Vec<(u32, u32)>,
}

/// Who was inside what, mover by mover.
#[derive(Default)]
struct Inside {
    zones: Vec<Vec<u32>>,
    now: Vec<u32>,
    found: Found,
}

impl Inside {
    fn begin(&mut self, movers: usize) {
        self.zones.resize(movers, Vec::new());
        let Found { left, entered, crossed } = &mut self.found;
        left.clear();
        entered.clear();
        crossed.clear();
    }

    /// Compares what a mover is inside of now, which was put into `now`, with what it was inside of.
    fn compare(&mut self, mover: usize) {
        self.now.sort_unstable();
        let number = number_of(mover);
        let before = &mut self.zones[mover];
        if *before != self.now {
            self.found
                .left
                .extend(before.iter().filter(|zone| !self.now.contains(zone)).map(|zone| (*zone, number)));
            let came = self.now.iter().filter(|zone| !before.contains(zone));
            self.found.entered.extend(came.map(|zone| (*zone, number)));
            before.clone_from(&self.now);
        }
        self.now.clear();
    }

    fn end(&mut self) {
        self.found.left.sort_unstable();
        self.found.entered.sort_unstable();
        self.found.crossed.sort_unstable();
    }
}

pub(crate) trait Peer {
    /// One tick for the first so many movers.
    fn step(&mut self, town: &Town, tick: usize, movers: usize);
    fn found(&self) -> &Found;
    fn sweeps(&self) -> bool {
        false
    }
}

#[inline]
fn touches(zone: &Zone, at: Vec3) -> bool {
    let away = at - zone.at;
    match zone.form {
        Form::Box(half) => (away.abs() - half).max(Vec3::ZERO).length_squared() <= RADIUS * RADIUS,
        Form::Ball(radius) => away.length_squared() <= (radius + RADIUS) * (radius + RADIUS),
    }
}

fn corners(zone: &Zone) -> (Vec3, Vec3) {
    let half = match zone.form {
        Form::Box(half) => half,
        Form::Ball(radius) => Vec3::splat(radius),
    };
    (zone.at - half, zone.at + half)
}

/// Every mover against every zone.
pub(crate) struct Pairs(Inside);

impl Pairs {
    pub(crate) fn new(_: &Town) -> Self {
        Self(Inside::default())
    }
}

impl Peer for Pairs {
    fn step(&mut self, town: &Town, tick: usize, movers: usize) {
        self.0.begin(movers);
        for (mover, at) in town.frame(tick).iter().copied().enumerate().take(movers) {
            let near = (0..).zip(&town.zones).filter(|(_, zone)| touches(zone, at)).map(|(number, _)| number);
            self.0.now.extend(near);
            self.0.compare(mover);
        }
        self.0.end();
    }
    fn found(&self) -> &Found {
        &self.0.found
    }
}

/// An R-tree of the boxes around the zones.
pub(crate) struct RTree {
    index: Index<GeomWithData<Rectangle<[f32; 3]>, u32>>,
    inside: Inside,
}

impl RTree {
    pub(crate) fn new(town: &Town) -> Self {
        let boxes = (0..).zip(&town.zones).map(|(number, zone)| {
            let (min, max) = corners(zone);
            GeomWithData::new(Rectangle::from_corners(min.to_array(), max.to_array()), number)
        });
        Self { index: Index::bulk_load(boxes.collect()), inside: Inside::default() }
    }
}

impl Peer for RTree {
    fn step(&mut self, town: &Town, tick: usize, movers: usize) {
        self.inside.begin(movers);
        for (mover, at) in town.frame(tick).iter().copied().enumerate().take(movers) {
            let around = AABB::from_corners((at - RADIUS).to_array(), (at + RADIUS).to_array());
            let near = self.index.locate_in_envelope_intersecting(around).map(|zone| zone.data);
            self.inside.now.extend(near.filter(|zone| touches(&town.zones[*zone as usize], at)));
            self.inside.compare(mover);
        }
        self.inside.end();
    }
    fn found(&self) -> &Found {
        &self.inside.found
    }
}

fn vector(of: Vec3) -> Vector {
    Vector::from_array(of.to_array())
}

fn tree(town: &Town) -> Tree {
    let boxes: Vec<_> = town
        .zones
        .iter()
        .map(|zone| {
            let (min, max) = corners(zone);
            Aabb::new(vector(min), vector(max))
        })
        .collect();
    Tree::from_leaves(BvhBuildStrategy::Binned, &boxes)
}

/// The bounding volume hierarchy of `parry3d`.
pub(crate) struct Bvh {
    index: Tree,
    inside: Inside,
}

impl Bvh {
    pub(crate) fn new(town: &Town) -> Self {
        Self { index: tree(town), inside: Inside::default() }
    }
}

impl Peer for Bvh {
    fn step(&mut self, town: &Town, tick: usize, movers: usize) {
        self.inside.begin(movers);
        for (mover, at) in town.frame(tick).iter().copied().enumerate().take(movers) {
            let around = Aabb::new(vector(at - RADIUS), vector(at + RADIUS));
            let near = self.index.intersect_aabb(&around);
            self.inside.now.extend(near.filter(|zone| touches(&town.zones[*zone as usize], at)));
            self.inside.compare(mover);
        }
        self.inside.end();
    }
    fn found(&self) -> &Found {
        &self.inside.found
    }
}

/// The same with a shape cast for whatever is near the way and is not touched at the end of it: swept, like ours.
pub(crate) struct Cast {
    index: Tree,
    inside: Inside,
}

impl Cast {
    pub(crate) fn new(town: &Town) -> Self {
        Self { index: tree(town), inside: Inside::default() }
    }

    fn one(&mut self, town: &Town, (from, to): (Vec3, Vec3), mover: usize) {
        let around = Aabb::new(vector(from.min(to) - RADIUS), vector(from.max(to) + RADIUS));
        for number in self.index.intersect_aabb(&around) {
            let zone = &town.zones[number as usize];
            if touches(zone, to) {
                self.inside.now.push(number);
            } else if from != to && !self.inside.zones[mover].contains(&number) {
                let way = vector(to - from);
                let options = ShapeCastOptions::with_max_time_of_impact(1.0);
                let (start, there) =
                    (Pose::from_translation(vector(from)), Pose::from_translation(vector(zone.at)));
                let ball = Ball::new(RADIUS);
                let hit = match zone.form {
                    Form::Box(half) => cast_shapes(
                        &start,
                        way,
                        &ball,
                        &there,
                        Vector::ZERO,
                        &Cuboid::new(vector(half)),
                        options,
                    ),
                    Form::Ball(radius) => {
                        cast_shapes(&start, way, &ball, &there, Vector::ZERO, &Ball::new(radius), options)
                    }
                };
                if hit.unwrap().is_some() {
                    self.inside.found.crossed.push((number, number_of(mover)));
                }
            }
        }
        self.inside.compare(mover);
    }
}

impl Peer for Cast {
    fn step(&mut self, town: &Town, tick: usize, movers: usize) {
        self.inside.begin(movers);
        for (mover, way) in town.moves(tick).enumerate().take(movers) {
            self.one(town, way, mover);
        }
        self.inside.end();
    }
    fn found(&self) -> &Found {
        &self.inside.found
    }
    fn sweeps(&self) -> bool {
        true
    }
}

/// The fair one where most stand still: it asks only for those that have moved.
pub(crate) struct Asked(pub(crate) Cast);

impl Peer for Asked {
    fn step(&mut self, town: &Town, tick: usize, movers: usize) {
        let first = self.0.inside.zones.is_empty();
        self.0.inside.begin(movers);
        for (mover, (from, to)) in town.moves(tick).enumerate().take(movers) {
            if first || from != to {
                self.0.one(town, (from, to), mover);
            }
        }
        self.0.inside.end();
    }
    fn found(&self) -> &Found {
        &self.0.inside.found
    }
}
