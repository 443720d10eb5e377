//! Balls around things, by number: which of them hold a point, without a look at all the others.

use glam::{DVec3, Vec3};

use crate::{
    base::{chunks::Chunks, shared::Shared},
    space::{bounds::Bounds, levels::Levels},
};

/// One that has not moved for so many ticks goes into the grids.
const QUIET: u8 = 8;

#[derive(Clone, Copy, Debug)]
struct Ball {
    bounds: Bounds,
    /// It is in the grids.
    settled: bool,
}

#[derive(Clone, Debug, Default)]
pub(crate) struct Reaches {
    grids: Shared<Levels>,
    balls: Chunks<Option<Ball>>,
    /// Those that are not in the grids, and for how many ticks each has rested.
    loose: Vec<(u32, u8)>,
}

impl Reaches {
    fn ball(&self, number: u32) -> Option<Ball> {
        self.balls.get(number as usize).copied().flatten()
    }

    pub(crate) fn has(&self, number: u32) -> bool {
        self.ball(number).is_some()
    }

    /// A ball lies there from now on.
    pub(crate) fn put(&mut self, number: u32, at: Vec3, reach: f64) {
        let bounds = Bounds::around(at.as_dvec3(), DVec3::splat(reach));
        let before = self.ball(number);
        if before.is_some_and(|ball| ball.bounds == bounds) {
            return;
        }
        self.set(number, Some(Ball { bounds, settled: false }));
        match before {
            Some(Ball { settled: false, .. }) => {
                let rests = self.loose.iter_mut().find(|(loose, _)| *loose == number);
                rests.into_iter().for_each(|(_, quiet)| *quiet = 0);
            }
            Some(Ball { bounds, settled: true }) => {
                self.grids.edit().remove(number, &bounds);
                self.loose.push((number, 0));
            }
            // What is new mostly stands.
            None => self.settle(number),
        }
    }

    pub(crate) fn remove(&mut self, number: u32) {
        match self.ball(number) {
            Some(Ball { bounds, settled: true }) => self.grids.edit().remove(number, &bounds),
            Some(Ball { settled: false, .. }) => self.loose.retain(|(loose, _)| *loose != number),
            None => return,
        }
        self.set(number, None);
    }

    /// A tick is over: what has rested for a while goes into the grids.
    pub(crate) fn rest(&mut self) {
        for (_, quiet) in &mut self.loose {
            *quiet += 1;
        }
        let mut rested: Vec<u32> = Vec::new();
        self.loose.retain(|(number, quiet)| {
            if *quiet > QUIET {
                rested.push(*number);
            }
            *quiet <= QUIET
        });
        rested.into_iter().for_each(|number| self.settle(number));
    }

    /// Every ball that may hold a point, and some others. A ball may come several times.
    pub(crate) fn near(&self, at: Vec3, mut each: impl FnMut(u32)) {
        let point = Bounds { min: at, max: at };
        self.grids.near(at, at, &point, |number, bounds| {
            if bounds.meets(&point) {
                each(number);
            }
        });
        let loose = self.loose.iter().map(|(number, _)| *number);
        let meets = |number: &u32| self.ball(*number).is_some_and(|ball| ball.bounds.meets(&point));
        loose.filter(meets).for_each(each);
    }

    fn settle(&mut self, number: u32) {
        if let Some(Ball { bounds, .. }) = self.ball(number) {
            self.grids.edit().insert(number, bounds);
            self.set(number, Some(Ball { bounds, settled: true }));
        }
    }

    fn set(&mut self, number: u32, ball: Option<Ball>) {
        while self.balls.len() <= number as usize {
            self.balls.push(None);
        }
        if let Some(place) = self.balls.get_mut(number as usize) {
            *place = ball;
        }
    }
}
