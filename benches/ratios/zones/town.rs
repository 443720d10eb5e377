//! The walks and zones that everybody is given.

use std::ops::Range;

use stoicheon::Vec3;

/// How many ticks the walks are long; they go there and back again.
pub(crate) const TICKS: usize = 64;
/// Everybody is a ball so large.
pub(crate) const RADIUS: f32 = 0.25;

#[derive(Clone, Copy)]
pub(crate) enum Form {
    /// Half the size of a box.
    Box(Vec3),
    /// The radius of a ball.
    Ball(f32),
}

pub(crate) struct Zone {
    pub(crate) at: Vec3,
    pub(crate) form: Form,
}

/// Zones of 1 to 4 units, one for every 64 square units of a square, up to 4 units above the ground, and walkers among
/// them.
pub(crate) struct Town {
    pub(crate) zones: Vec<Zone>,
    /// Where everybody is, tick by tick.
    frames: Vec<Vec<Vec3>>,
}

/// Numbers that are the same in every run.
struct Numbers(u64);

impl Numbers {
    /// From 0 up to 1.
    fn next(&mut self) -> f32 {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        #[expect(clippy::cast_precision_loss, reason = "24 bits")]
        let number = (self.0 >> 40) as f32;
        number / 16_777_216.0
    }

    fn within(&mut self, range: Range<f32>) -> f32 {
        range.start + self.next() * (range.end - range.start)
    }
}

impl Town {
    /// One mover in `moving` moves; the others stand.
    pub(crate) fn new(movers: usize, zones: usize, speed: Range<f32>, moving: usize) -> Self {
        let mut numbers = Numbers(7);
        #[expect(clippy::cast_precision_loss, reason = "thousands")]
        let side = (zones as f32).sqrt() * 8.0;
        let place = |numbers: &mut Numbers| {
            Vec3::new(numbers.within(0.0..side), numbers.within(0.0..4.0), numbers.within(0.0..side))
        };
        let zones = (0..zones).map(|index| {
            let at = place(&mut numbers);
            let mut half = || numbers.within(0.5..2.0);
            let form = if index % 3 == 0 {
                Form::Ball(half())
            } else {
                Form::Box(Vec3::new(half(), half(), half()))
            };
            Zone { at, form }
        });
        let zones = zones.collect();
        let walks = (0..movers).map(|index| {
            let mut at = place(&mut numbers);
            let mut angle = numbers.within(0.0..std::f32::consts::TAU);
            let stride = if index % moving == 0 { numbers.within(speed.clone()) } else { 0.0 };
            let mut step = || {
                angle += numbers.within(-0.3..0.3);
                at += Vec3::new(angle.cos(), 0.0, angle.sin()) * stride;
                at
            };
            (0..TICKS).map(|_| step()).collect()
        });
        let walks: Vec<Vec<Vec3>> = walks.collect();
        let frames = (0..TICKS).map(|tick| walks.iter().map(|walk| walk[tick]).collect()).collect();
        Self { zones, frames }
    }

    pub(crate) fn movers(&self) -> usize {
        self.frames[0].len()
    }

    /// Where everybody is: there and back again.
    pub(crate) fn frame(&self, tick: usize) -> &[Vec3] {
        let turn = 2 * (TICKS - 1);
        let tick = if tick == usize::MAX { 0 } else { tick % turn };
        &self.frames[if tick < TICKS { tick } else { turn - tick }]
    }

    /// Where everybody was and is.
    pub(crate) fn moves(&self, tick: usize) -> impl Iterator<Item = (Vec3, Vec3)> {
        self.frame(tick.wrapping_sub(1)).iter().copied().zip(self.frame(tick).iter().copied())
    }
}
