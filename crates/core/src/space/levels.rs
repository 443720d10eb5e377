//! Which zones may be near a place: grids of cells, one for each size of zone.
//!
//! A zone lies in the grid whose cells are the next power of four wide, and twice that, and is listed by every cell it comes
//! near to. So a zone of any size is listed by a few cells, and whatever moves about in and near one cell is near to
//! none but the listed zones.

use std::collections::HashMap;

use glam::{DVec3, Vec3};
use rustc_hash::FxBuildHasher;
use smallvec::SmallVec;

use crate::space::bounds::Bounds;

/// How much of a cell's width a zone is listed beyond its borders.
const MARGIN: f32 = 0.375;

/// How many powers of two a cell is wider than the zones in its grid. Wide cells list more and are left less often.
const ROOM: i32 = 1;

/// Most cells list a few zones by index, which lie where the cell is found.
type List = SmallVec<[u32; 6]>;

#[derive(Clone, Debug)]
struct Level {
    /// How wide a cell is.
    size: f64,
    /// What each cell lists.
    cells: HashMap<u64, List, FxBuildHasher>,
    /// The zones of this grid, for whatever comes near to more cells than zones.
    all: Vec<u32>,
}

/// The grids, and what is too large for any.
#[derive(Clone, Debug, Default)]
pub(crate) struct Levels {
    grids: Vec<Level>,
    everywhere: Vec<u32>,
    /// What each zone covers, by index, so that most of them are ruled out without a look at the zone itself. Kept
    /// together, since nearly every look needs a few.
    bounds: Vec<Bounds>,
    /// Where each zone stands in the list of its grid, by index, so that it can be taken out without a search.
    places: Vec<u32>,
}

/// A cell: three whole numbers.
type Cell = [i64; 3];

impl Level {
    fn new(size: f64) -> Self {
        Self { size, cells: HashMap::default(), all: Vec::new() }
    }

    fn margin(&self) -> f64 {
        self.size * f64::from(MARGIN)
    }

    #[inline]
    fn cell(&self, at: DVec3) -> Cell {
        // Exact, since both are powers of two.
        let at = at * (1.0 / self.size);
        [floor(at.x), floor(at.y), floor(at.z)]
    }

    #[inline]
    fn list(&self, cell: Cell) -> &[u32] {
        self.cells.get(&key(cell)).map_or(&[], |list| list)
    }

    /// The first and the last cell that list a zone of those bounds.
    fn listing(&self, bounds: &Bounds) -> (Cell, Cell) {
        let margin = DVec3::splat(self.margin());
        (self.cell(bounds.min.as_dvec3() - margin), self.cell(bounds.max.as_dvec3() + margin))
    }
}

/// The next whole number below. Far out, all cells are one.
#[inline]
#[expect(clippy::cast_possible_truncation, clippy::cast_precision_loss, reason = "casts of floats saturate")]
fn floor(of: f64) -> i64 {
    const FAR: i64 = 1 << 40;
    let near = (of as i64).clamp(-FAR, FAR);
    if (near as f64) > of { near - 1 } else { near }
}

/// Cells far from each other may share a key; what they list is looked at by its bounds anyway.
#[inline]
fn key([x, y, z]: Cell) -> u64 {
    let part = |number: i64| number.cast_unsigned() & 0x1f_ffff;
    part(x) | part(y) << 21 | part(z) << 42
}

fn each_cell((first, last): (Cell, Cell), mut each: impl FnMut(Cell)) {
    for x in first[0]..=last[0] {
        for y in first[1]..=last[1] {
            for z in first[2]..=last[2] {
                each([x, y, z]);
            }
        }
    }
}

fn count_cells((first, last): (Cell, Cell)) -> f64 {
    #[expect(clippy::cast_precision_loss, reason = "a rough count")]
    let along = |axis: usize| (last[axis] - first[axis] + 1) as f64;
    along(0) * along(1) * along(2)
}

/// Puts a zone at the end of a list, and notes where it stands.
fn append(list: &mut Vec<u32>, zone: u32, places: &mut [u32]) {
    places[zone as usize] = u32::try_from(list.len()).unwrap_or(u32::MAX);
    list.push(zone);
}

/// Takes a zone out of a list; the last one takes its place.
fn take(list: &mut Vec<u32>, zone: u32, places: &mut [u32]) {
    let Some(place) = places.get(zone as usize).copied() else { return };
    if list.get(place as usize) == Some(&zone) {
        list.swap_remove(place as usize);
        if let Some(moved) = list.get(place as usize) {
            places[*moved as usize] = place;
        }
    }
}

impl Levels {
    /// The width of the cells for something of those bounds: twice a power of four, so that there are few grids.
    fn size_for(bounds: &Bounds) -> Option<f64> {
        let widest = f64::from(bounds.size().max_element());
        (bounds.is_finite() && widest < 1e30)
            .then(|| 2_f64.powi((exponent(widest.max(1e-6)) + 1) / 2 * 2 + ROOM))
    }

    pub(crate) fn insert(&mut self, zone: u32, bounds: Bounds) {
        let index = zone as usize;
        self.bounds.resize(self.bounds.len().max(index + 1), Bounds::NOWHERE);
        self.bounds[index] = bounds;
        self.places.resize(self.bounds.len(), 0);
        let Some(size) = Self::size_for(&bounds) else {
            return append(&mut self.everywhere, zone, &mut self.places);
        };
        let index = match self.grids.binary_search_by(|level| level.size.total_cmp(&size)) {
            Ok(index) => index,
            Err(index) => {
                self.grids.insert(index, Level::new(size));
                index
            }
        };
        let level = &mut self.grids[index];
        append(&mut level.all, zone, &mut self.places);
        each_cell(level.listing(&bounds), |cell| {
            level.cells.entry(key(cell)).or_default().push(zone);
        });
    }

    /// Takes a zone out that was put in with those bounds.
    pub(crate) fn remove(&mut self, zone: u32, bounds: &Bounds) {
        let Some(size) = Self::size_for(bounds) else {
            return take(&mut self.everywhere, zone, &mut self.places);
        };
        let place = self.grids.binary_search_by(|level| level.size.total_cmp(&size));
        let Some(level) = place.ok().and_then(|index| self.grids.get_mut(index)) else { return };
        take(&mut level.all, zone, &mut self.places);
        each_cell(level.listing(bounds), |cell| {
            if let Some(list) = level.cells.get_mut(&key(cell))
                && let Some(index) = list.iter().position(|other| *other == zone)
            {
                list.swap_remove(index);
                if list.is_empty() {
                    level.cells.remove(&key(cell));
                }
            }
        });
    }

    pub(crate) fn clear(&mut self) {
        for level in &mut self.grids {
            level.all.clear();
            // Cells that nothing came near to since the last time go, or those that moving zones leave behind would stay.
            level.cells.retain(|_, list| {
                let used = !list.is_empty();
                list.clear();
                used
            });
        }
        self.everywhere.clear();
    }

    /// Every zone that something may touch which stays within `bounds` on its way to `to`, and some others, each with
    /// what it covers. A zone may come several times.
    #[inline]
    pub(crate) fn near(&self, from: Vec3, to: Vec3, bounds: &Bounds, mut each: impl FnMut(u32, &Bounds)) {
        let mut each = |zone: &u32| each(*zone, &self.bounds[*zone as usize]);
        self.everywhere.iter().for_each(&mut each);
        for level in &self.grids {
            let cell = level.cell(to.as_dvec3());
            let margin = DVec3::splat(level.margin());
            #[expect(clippy::cast_precision_loss, reason = "cells lie within 2^40")]
            let corner = DVec3::new(cell[0] as f64, cell[1] as f64, cell[2] as f64) * level.size;
            let inside = bounds.min.as_dvec3().cmpge(corner - margin).all()
                && bounds.max.as_dvec3().cmple(corner + margin + level.size).all();
            if inside {
                level.list(cell).iter().for_each(&mut each);
            } else {
                level.far(from, to, bounds, &mut each);
            }
        }
    }

    /// How far from a place every zone lies that is not listed for it.
    #[inline]
    pub(crate) fn clearance(&self, at: Vec3) -> f64 {
        let mut least = f64::INFINITY;
        for level in &self.grids {
            let at = at.as_dvec3() * (1.0 / level.size);
            #[expect(clippy::cast_precision_loss, reason = "far out nobody is safe")]
            let inner = |of: f64| {
                let over = of - floor(of) as f64;
                over.min(1.0 - over)
            };
            let inner = inner(at.x).min(inner(at.y)).min(inner(at.z));
            least = least.min((inner + f64::from(MARGIN)) * level.size);
        }
        least
    }
}

impl Level {
    /// Something long or large.
    fn far(&self, from: Vec3, to: Vec3, bounds: &Bounds, each: &mut impl FnMut(&u32)) {
        let cells = (self.cell(bounds.min.as_dvec3()), self.cell(bounds.max.as_dvec3()));
        #[expect(clippy::cast_precision_loss, reason = "a rough count")]
        let zones = self.all.len() as f64;
        let count = count_cells(cells);
        if count <= 8.0 && count <= zones {
            return each_cell(cells, |cell| self.list(cell).iter().for_each(&mut *each));
        }
        // Along a long way, piece by piece.
        let (from, to) = (from.as_dvec3(), to.as_dvec3());
        let reach = (bounds.max.as_dvec3() - from.max(to)).max_element();
        let pieces = ((to - from).abs().max_element() / self.size).ceil().max(1.0);
        let thick = 2.0 + (2.0 * reach / self.size).ceil();
        let few = pieces * thick * thick * thick <= zones;
        if !few {
            return self.all.iter().for_each(each);
        }
        let mut done = 0.0;
        while done < pieces {
            let start = from + (to - from) * (done / pieces);
            let end = from + (to - from) * ((done + 1.0) / pieces);
            // A hair more, for what the cutting rounds away.
            let reach = DVec3::splat(reach + self.margin() * 0.5);
            let cells = (self.cell(start.min(end) - reach), self.cell(start.max(end) + reach));
            each_cell(cells, |cell| self.list(cell).iter().for_each(&mut *each));
            done += 1.0;
        }
    }
}

/// The smallest whole number whose power of two is as large as that, which is above 0.
fn exponent(of: f64) -> i32 {
    let bits = ((of.to_bits() >> 52) & 0x7ff) as i32 - 1023;
    if of.to_bits() & ((1 << 52) - 1) == 0 { bits } else { bits + 1 }
}
