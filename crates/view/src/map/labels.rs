//! Where names are written so that they do not cover each other.

use crate::{
    map::{
        paper::{Flat, Paper, Rect},
        thing::Name,
    },
    picture::width_of,
};

/// The size of names, in pixels.
pub(crate) const SIZE: f64 = 13.0;

/// A name on paper.
pub(crate) struct Written<'n> {
    pub(crate) text: &'n str,
    /// The middle of its base line.
    pub(crate) at: Flat,
    pub(crate) is_player: bool,
}

/// The names that find room, those of the highest rank first, and how many do not.
pub(crate) fn place<'n>(names: &'n [Name], paper: &Paper, within: Rect) -> (Vec<Written<'n>>, usize) {
    let mut order: Vec<&Name> = names.iter().collect();
    order.sort_by_key(|name| std::cmp::Reverse(name.rank));
    let (mut taken, mut written, mut left_out) = (Vec::<Rect>::new(), Vec::new(), 0);
    for name in order {
        let (x, y) = paper.put(name.at);
        let (width, height) = (width_of(&name.text, SIZE) + 6.0, SIZE + 3.0);
        let away = (name.away * paper.scale).min(40.0);
        let places = [
            // Below, above, beside, and in the middle.
            (x, y + away + SIZE + 3.0),
            (x, y - away - 7.0),
            (x + width / 2.0 + 9.0, y + SIZE / 3.0),
            (x - width / 2.0 - 9.0, y + SIZE / 3.0),
            (x, y + SIZE / 3.0),
            (x, y + away + 2.4 * SIZE),
            (x, y - away - 1.8 * SIZE),
        ];
        let fits = |at: &Flat| {
            let rect = rect_of(*at, width, height);
            within.holds(rect) && !taken.iter().any(|other| other.overlaps(rect))
        };
        match places.into_iter().find(fits) {
            Some(at) => {
                taken.push(rect_of(at, width, height));
                written.push(Written { text: &name.text, at, is_player: name.rank == 9 });
            }
            None => left_out += 1,
        }
    }
    (written, left_out)
}

fn rect_of((x, base): Flat, width: f64, height: f64) -> Rect {
    Rect { left: x - width / 2.0, top: base - height + 2.0, width, height }
}
