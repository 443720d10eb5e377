//! Balls around things, by number: which of them hold a point, without a look at all the others.

use glam::{DVec3, Vec3};

use crate::{
    base::{chunks::Chunks, shared::Shared},
    space::{bounds::Bounds, levels::Levels},
};

/// One that has not moved for so many ticks goes into the grids.
const QUIET: u8 = 8;

/// So many that moved lately are looked at one by one; those past that stay in the grids while they move.
const LOOSE: usize = 64;

#[derive(Clone, Copy, Debug)]
struct Ball {
    bounds: Bounds,
    /// It is in the grids.
    settled: bool,
    /// For how many ticks it has rested, if it is not.
    quiet: u8,
}

#[derive(Clone, Debug, Default)]
pub(crate) struct Reaches {
    grids: Shared<Levels>,
    balls: Chunks<Option<Ball>>,
    /// Those that are not in the grids, and perhaps some that are gone or are there again.
    loose: Vec<u32>,
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
        self.set(number, Some(Ball { bounds, settled: false, quiet: 0 }));
        match before {
            Some(Ball { settled: false, .. }) => {}
            Some(Ball { bounds, .. }) => {
                self.grids.edit().remove(number, &bounds);
                if self.loose.len() < LOOSE {
                    self.loose.push(number);
                } else {
                    self.settle(number);
                }
            }
            // What is new mostly stands.
            None => self.settle(number),
        }
    }

    pub(crate) fn remove(&mut self, number: u32) {
        if let Some(Ball { bounds, settled: true, .. }) = self.ball(number) {
            self.grids.edit().remove(number, &bounds);
        }
        if self.has(number) {
            self.set(number, None);
        }
    }

    /// A tick is over: what has rested for a while goes into the grids.
    pub(crate) fn rest(&mut self) {
        for number in std::mem::take(&mut self.loose) {
            let Some(ball) = self.ball(number).filter(|ball| !ball.settled) else { continue };
            if ball.quiet >= QUIET {
                self.settle(number);
            } else {
                self.set(number, Some(Ball { quiet: ball.quiet + 1, ..ball }));
                self.loose.push(number);
            }
        }
    }

    /// Every ball that may hold a point, and some others. A ball may come several times.
    pub(crate) fn near(&self, at: Vec3, mut each: impl FnMut(u32)) {
        let point = Bounds { min: at, max: at };
        self.grids.near(at, at, &point, |number, bounds| {
            if bounds.meets(&point) {
                each(number);
            }
        });
        let meets = |ball: Ball| !ball.settled && ball.bounds.meets(&point);
        self.loose.iter().copied().filter(|number| self.ball(*number).is_some_and(meets)).for_each(each);
    }

    fn settle(&mut self, number: u32) {
        if let Some(ball) = self.ball(number) {
            self.grids.edit().insert(number, ball.bounds);
            self.set(number, Some(Ball { settled: true, ..ball }));
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
