//! What leads back to itself: routines that run each other, binds that read each other.

use std::collections::BTreeSet;

/// What comes before what, and what goes round.
#[derive(Debug, Default)]
pub(crate) struct Order {
    /// Each after everything it leads to, as far as that is possible.
    pub(crate) order: Vec<usize>,
    /// Each circle once, beginning with its smallest; each of it leads to the next.
    pub(crate) circles: Vec<Vec<usize>>,
}

/// Follows what each of so many leads to. Everything is looked at once.
pub(crate) fn follow(count: usize, leads_to: impl Fn(usize) -> Vec<usize>) -> Order {
    let mut found = Order::default();
    let (mut begun, mut circles) = (vec![false; count], BTreeSet::new());
    let mut place = vec![None; count];
    for start in 0..count {
        if begun[start] {
            continue;
        }
        begun[start] = true;
        place[start] = Some(0);
        let mut way = vec![(start, leads_to(start))];
        while let Some((at, next)) = way.last_mut() {
            let at = *at;
            match next.pop() {
                Some(next) => match (begun[next], place[next]) {
                    (_, Some(first)) => {
                        let mut circle: Vec<usize> = way[first..].iter().map(|(one, _)| *one).collect();
                        let smallest = circle.iter().enumerate().min_by_key(|(_, one)| **one);
                        let turn = smallest.map_or(0, |(index, _)| index);
                        circle.rotate_left(turn);
                        circles.insert(circle);
                    }
                    (true, None) => {}
                    (false, None) => {
                        begun[next] = true;
                        place[next] = Some(way.len());
                        way.push((next, leads_to(next)));
                    }
                },
                None => {
                    place[at] = None;
                    found.order.push(at);
                    way.pop();
                }
            }
        }
    }
    found.circles = circles.into_iter().collect();
    found
}
