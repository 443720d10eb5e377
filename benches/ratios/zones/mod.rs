//! Who touches which zone, against asking a spatial index once per mover and tick.
//!
//! Everybody is given the same walks, and must find the same: `agree` holds all of them against each other before
//! anything is timed. Only ours is swept, and the peer with the shape cast.

mod peers;
mod town;

use std::hint::black_box;

use stoicheon::{
    Pose,
    space::{BodyKey, Shape, Touches, Tracker},
};

use crate::{Ratios, Timed};
use peers::{Asked, Bvh, Cast, Pairs, Peer, RTree};
use town::{Form, Town};

struct Ours {
    tracker: Tracker<u32, u32>,
    bodies: Vec<BodyKey>,
    touches: Touches,
    tick: u64,
}

impl Ours {
    fn new(town: &Town) -> Self {
        let mut tracker = Tracker::new();
        for (number, zone) in (0_u32..).zip(&town.zones) {
            let shape = match zone.form {
                Form::Box(half) => Shape::boxed(half * 2.0),
                Form::Ball(radius) => Shape::ball(f64::from(radius)),
            };
            tracker.add_zone(number, Some(shape), Pose::at(zone.at)).unwrap();
        }
        let ball = Shape::ball(f64::from(town::RADIUS));
        let mut bodies = Vec::new();
        for (number, at) in (0_u32..).zip(town.frame(0).iter().copied()) {
            let body = tracker.add_body(number, number, at).unwrap();
            tracker.shape_body(body, Some(&ball), Pose::at(at)).unwrap();
            bodies.push(body);
        }
        let mut ours = Self { tracker, bodies, touches: Touches::default(), tick: 0 };
        ours.step(town, 0);
        ours
    }

    /// One tick: where everybody is, and who has come and gone.
    fn step(&mut self, town: &Town, tick: usize) {
        for (body, (from, to)) in self.bodies.iter().zip(town.moves(tick)) {
            if from != to {
                self.tracker.walk(*body, to).unwrap();
            }
        }
        self.tick += 1;
        self.tracker.step(self.tick, |_, _| true, &mut self.touches);
    }
}

/// Counts what all find in the first ticks, and fails if they do not find the same. What is swept may find more; what
/// stands on a border to a thousandth may be told differently, since peers work in single precision.
fn agree(town: &Town, peers: &mut [&mut dyn Peer]) -> String {
    let mut ours = Ours::new(town);
    let (mut all, mut crossed) = (0, 0);
    let mut differ = vec![0; peers.len()];
    peers.iter_mut().for_each(|peer| peer.step(town, 0, town.movers()));
    for tick in 1..=20 {
        ours.step(town, tick);
        let touches = &ours.touches;
        let pair = |touch: &stoicheon::space::Touch| {
            (*ours.tracker.zone(touch.zone).unwrap(), *ours.tracker.body(touch.body).unwrap())
        };
        let through: Vec<_> = touches.crossed.iter().map(pair).collect();
        let mut entered: Vec<_> = touches.entered.iter().map(pair).collect();
        let left: Vec<_> = touches.left.iter().map(pair).collect();
        all += entered.len() + left.len();
        crossed += through.len();
        entered.retain(|pair| !through.contains(pair));
        for (peer, differ) in peers.iter_mut().zip(&mut differ) {
            peer.step(town, tick, town.movers());
            let found = peer.found();
            *differ += difference(&found.entered, &entered) + difference(&found.left, &left);
            if peer.sweeps() {
                *differ += difference(&found.crossed, &through);
            }
        }
    }
    for differ in &differ {
        let most = all / 1000 + 2;
        assert!(*differ <= most, "{differ} of {all} events differ");
    }
    format!("{all} events in 20 ticks, {crossed} crossings; told differently by the peers: {differ:?}")
}

fn difference(one: &[(u32, u32)], two: &[(u32, u32)]) -> usize {
    let missing = |from: &[(u32, u32)], in_: &[(u32, u32)]| {
        from.iter().filter(|pair| in_.binary_search(pair).is_err()).count()
    };
    missing(one, two) + missing(two, one)
}

fn ours(town: &Town) -> Timed<'_> {
    let mut ours = Ours::new(town);
    let mut tick = 0;
    Timed::new(u32::try_from(town.movers()).unwrap(), move || {
        tick += 1;
        ours.step(town, tick);
        black_box(&ours.touches);
    })
}

fn peer<'a, P: Peer + 'a>(town: &'a Town, mut peer: P, movers: usize) -> Timed<'a> {
    let mut tick = 0;
    peer.step(town, 0, movers);
    Timed::new(u32::try_from(movers).unwrap(), move || {
        tick += 1;
        peer.step(town, tick, movers);
        black_box(peer.found());
    })
}

pub(crate) fn rows(ratios: &mut Ratios) {
    let rounds = ratios.rounds;
    ratios.rounds = rounds.min(101);
    let third = 1.0 / 3.0;
    for (movers, zones) in
        [(1_000, 1_000), (10_000, 1_000), (1_000, 10_000), (10_000, 10_000), (100_000, 10_000)]
    {
        let town = Town::new(movers, zones, 0.05..0.2, 1);
        let name = |peer: &str| format!("zones.{movers}x{zones}.{peer}");
        let (mut tree, mut bvh, mut cast) = (RTree::new(&town), Bvh::new(&town), Cast::new(&town));
        println!("  {}", agree(&town, &mut [&mut tree, &mut bvh, &mut cast]));
        let few = movers.min(100);
        ratios.row(name("pairs"), 0.1, ours(&town), "all pairs", peer(&town, Pairs::new(&town), few));
        ratios.row(name("rstar"), third, ours(&town), "rstar, not swept", peer(&town, tree, movers));
        ratios.row(name("bvh"), 0.5, ours(&town), "parry3d Bvh, not swept", peer(&town, bvh, movers));
        ratios.row(
            name("cast"),
            third,
            ours(&town),
            "parry3d Bvh and cast_shapes",
            peer(&town, cast, movers),
        );
    }
    let (few, many) = (Town::new(1_000, 10_000, 0.05..0.2, 1), Town::new(100_000, 10_000, 0.05..0.2, 1));
    ratios.row("zones.growth", 2.0, ours(&many), "ours with 1,000 movers for 100,000", ours(&few));
    drop((few, many));
    let town = Town::new(10_000, 10_000, 0.05..0.2, 10);
    println!("  {}", agree(&town, &mut [&mut Cast::new(&town)]));
    let all = peer(&town, Cast::new(&town), 10_000);
    ratios.row("zones.still.cast", 0.1, ours(&town), "parry3d Bvh and cast_shapes", all);
    let moved = peer(&town, Asked(Cast::new(&town)), 10_000);
    ratios.row("zones.still.moved", 0.4, ours(&town), "the same for those that moved", moved);
    let town = Town::new(10_000, 10_000, 1.0..5.0, 1);
    let mut cast = Cast::new(&town);
    println!("  {}", agree(&town, &mut [&mut cast]));
    ratios.row("zones.fast.cast", 1.0, ours(&town), "parry3d Bvh and cast_shapes", peer(&town, cast, 10_000));
    ratios.rounds = rounds;
}
