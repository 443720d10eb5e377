//! How near something comes to a shape on a straight way.

use glam::DVec3;

/// How many looks it takes at most. A way that just grazes a border needs some sixty for the last digit.
const LOOKS: usize = 100;

/// Whether on the straight way between two points the distance becomes so small.
///
/// The distance to a form without hollows, seen along a straight way, only falls and then only rises, and its slope is
/// at most 1. So a line through the last two looks never lies above it farther on: where that line reaches the wanted
/// distance is still in front of the first place where the distance does, and once the line rises there is no such
/// place. A distance may come out too large by `noise`.
pub(crate) fn comes_within(
    from: DVec3,
    to: DVec3,
    reach: f64,
    noise: f64,
    distance: impl Fn(DVec3) -> f64,
) -> bool {
    let way = to - from;
    let length = way.length();
    let over = |walked: f64| {
        let point = if length == 0.0 { from } else { from + way * (walked / length) };
        distance(point) - reach
    };
    let mut here = over(0.0);
    if here <= noise {
        return true;
    }
    let (mut walked, mut slope) = (0.0, -1.0);
    for _ in 0..LOOKS {
        let next = walked + here / -slope;
        if next >= length {
            // Even if it goes on falling like that, the way is too short; only its end is left to look at.
            return over(length) <= noise;
        }
        let there = over(next);
        // A step that is too small to be taken ends at the border as well.
        if there <= noise || next <= walked {
            return true;
        }
        slope = (there - here) / (next - walked);
        if slope >= 0.0 {
            return false;
        }
        (walked, here) = (next, there);
    }
    // It grazes: what is left is below the last digits.
    true
}
