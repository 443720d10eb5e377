//! Cells on a plane: squares and hexagons.

use glam::{DVec2, Vec3};
use serde::{Deserialize, Serialize};

use crate::base::{error::BuildError, geometry::Pose, value::Value};

/// What the cells of a grid look like.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub enum Cells {
    /// Squares.
    Square,
    /// Hexagons with a corner on top.
    HexPointy,
    /// Hexagons with an edge on top.
    HexFlat,
}

/// How the hexagons of a grid are numbered. Squares have columns and rows in any case.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub enum Numbering {
    /// By two axes that stand at 60 degrees.
    #[default]
    Axial,
    /// In columns and rows, of which the odd rows (pointy) or columns (flat) are shifted by half a cell.
    Odd,
    /// The same with the even ones shifted.
    Even,
}

/// A cell of a grid, as the grid numbers it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct Cell {
    /// The column, or the first axial number.
    pub column: i32,
    /// The row, or the second axial number.
    pub row: i32,
}

/// A grid of cells around the place of an object, and turned as that faces. It lies on the ground, with columns along x
/// and rows along z, or in the plane of a flat scene, with rows along y.
///
/// A point on the border of several cells is in the one whose middle is nearest; of several as near, in the one with the
/// smallest column, then row.
///
/// ```
/// use stoicheon_core::{Pose, Vec3, space::{Cell, Cells, Grid}};
/// let beds = Grid::new(Cells::HexPointy, 1.0)?;
/// let garden = Pose::at(Vec3::new(10.0, 0.0, 10.0));
/// let bed = beds.cell_at(garden, Vec3::new(11.8, 0.0, 10.1));
/// assert_eq!(bed, Cell { column: 1, row: 0 });
/// assert_eq!(beds.distance(bed, Cell::default()), 1);
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Grid {
    cells: Cells,
    size: f64,
    numbering: Numbering,
    flat: bool,
}

/// Cells lie no farther out than that, so that their numbers can be added up.
const FAR: f64 = 1e8;

impl Grid {
    /// A grid on the ground. The size is the side of a square, or how far a corner of a hexagon is from its middle.
    ///
    /// # Errors
    /// [`BuildError::BadNumber`] for a size that is not above 0.
    pub fn new(cells: Cells, size: f64) -> Result<Self, BuildError> {
        if size > 0.0 && size.is_finite() {
            Ok(Self { cells, size, numbering: Numbering::Axial, flat: false })
        } else {
            let expected = "a number above 0";
            Err(BuildError::BadNumber { setting: "the size of a cell", expected, found: size })
        }
    }

    /// Numbers hexagons that way.
    pub fn numbered(self, numbering: Numbering) -> Self {
        Self { numbering, ..self }
    }

    /// Lies in the plane of a flat scene.
    pub fn in_flat_scene(self) -> Self {
        Self { flat: true, ..self }
    }

    /// The cell a point is in; how far it is from the plane does not count. Farther than 10^8 cells out, the last one.
    pub fn cell_at(&self, pose: Pose, point: Vec3) -> Cell {
        let seen = pose.seen_far(point.as_dvec3());
        let plane = if self.flat { DVec2::new(seen.x, seen.y) } else { DVec2::new(seen.x, seen.z) };
        let plane = (plane / self.size).clamp(DVec2::splat(-FAR), DVec2::splat(FAR));
        let guess = match self.cells {
            Cells::Square => whole(plane),
            _ => {
                // The fractions of the two axes, rounded one by one: at most one cell off.
                let across = 3_f64.sqrt();
                let axial = if self.cells == Cells::HexPointy {
                    DVec2::new(plane.x / across - plane.y / 3.0, plane.y * 2.0 / 3.0)
                } else {
                    DVec2::new(plane.x * 2.0 / 3.0, plane.y / across - plane.x / 3.0)
                };
                whole(axial)
            }
        };
        let mut near: Vec<[i32; 2]> = self.around(guess).collect();
        near.push(guess);
        near.sort_unstable_by_key(|axes| self.number(*axes));
        let nearer = |one, two| if self.is_nearer(two, one, plane) { two } else { one };
        self.number(near.into_iter().reduce(nearer).unwrap_or(guess))
    }

    /// Whether the middle of one cell is nearer to a point than that of another: exactly, so that a point on a border is
    /// as near to both.
    ///
    /// Along one axis the middles lie a multiple of √3/2 apart, which is no float. What the squared distances differ by
    /// is `plain + root * √3`, and the sign of that is known without the root.
    fn is_nearer(&self, one: [i32; 2], two: [i32; 2], point: DVec2) -> bool {
        // (whole, half): the middle is at (√3/2 · half) along one axis and (3/2 · whole) along the other.
        let halves = |[x, y]: [i32; 2]| match self.cells {
            Cells::HexFlat => (i128::from(x), 2 * i128::from(y) + i128::from(x)),
            _ => (i128::from(y), 2 * i128::from(x) + i128::from(y)),
        };
        #[expect(
            clippy::cast_precision_loss,
            reason = "whole numbers are exact as far out as cells are told apart"
        )]
        let number = |whole: i128| whole as f64;
        if self.cells == Cells::Square {
            let square = |[x, y]: [i32; 2]| i128::from(x) * i128::from(x) + i128::from(y) * i128::from(y);
            let apart = DVec2::new(f64::from(one[0] - two[0]), f64::from(one[1] - two[1]));
            return number(square(one) - square(two)) - 2.0 * apart.dot(point) < 0.0;
        }
        let ((whole, half), (other_whole, other_half)) = (halves(one), halves(two));
        let (along, across) =
            if self.cells == Cells::HexFlat { (point.x, point.y) } else { (point.y, point.x) };
        let squares =
            9 * (whole * whole - other_whole * other_whole) + 3 * (half * half - other_half * other_half);
        let plain = number(squares) / 4.0 - 3.0 * number(whole - other_whole) * along;
        let root = -number(half - other_half) * across;
        match (plain < 0.0, root < 0.0) {
            (true, true) => true,
            (true, false) => plain * plain > 3.0 * root * root,
            (false, true) => plain * plain < 3.0 * root * root,
            (false, false) => false,
        }
    }

    /// The middle of a cell.
    pub fn middle_of(&self, pose: Pose, cell: Cell) -> Vec3 {
        self.place(pose, self.middle(self.axes(cell)))
    }

    /// The corners of a cell, in order around it.
    pub fn corners_of(&self, pose: Pose, cell: Cell) -> Vec<Vec3> {
        let middle = self.middle(self.axes(cell));
        let corners: Vec<DVec2> = match self.cells {
            Cells::Square => [(-0.5, -0.5), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5)].map(DVec2::from).to_vec(),
            _ => {
                let first: f64 = if self.cells == Cells::HexPointy { 30.0 } else { 0.0 };
                let corner = |number: f64| {
                    let angle = (first + number * 60.0).to_radians();
                    DVec2::new(libm::cos(angle), libm::sin(angle))
                };
                [0.0, 1.0, 2.0, 3.0, 4.0, 5.0].map(corner).to_vec()
            }
        };
        corners.into_iter().map(|corner| self.place(pose, middle + corner)).collect()
    }

    /// The cells that share an edge with one: four or six, by column, then row.
    pub fn neighbours(&self, cell: Cell) -> Vec<Cell> {
        let mut cells: Vec<_> =
            self.around(self.axes(cell)).filter(|near| *near != self.axes(cell)).collect();
        if self.cells == Cells::Square {
            let [column, row] = self.axes(cell);
            cells.retain(|[x, y]| *x == column || *y == row);
        }
        self.listed(cells)
    }

    /// How many steps from edge to edge it is from one cell to another.
    pub fn distance(&self, one: Cell, two: Cell) -> u32 {
        let ([x, y], [to_x, to_y]) = (self.axes(one), self.axes(two));
        match self.cells {
            Cells::Square => x.abs_diff(to_x).saturating_add(y.abs_diff(to_y)),
            // The third axis of hexagons goes against the other two; each step changes two of the three by one.
            _ => {
                let (x, y) = (x - to_x, y - to_y);
                x.unsigned_abs().max(y.unsigned_abs()).max((x + y).unsigned_abs())
            }
        }
    }

    /// All cells no more than so many steps away, itself among them, by column, then row.
    pub fn range(&self, cell: Cell, steps: u16) -> Vec<Cell> {
        let [x, y] = self.axes(cell);
        let reach = i32::from(steps);
        let near = (x - reach..=x + reach).flat_map(|x| (y - reach..=y + reach).map(move |y| [x, y]));
        let within = |axes: &[i32; 2]| self.distance(self.number(*axes), cell) <= u32::from(steps);
        self.listed(near.filter(within).collect())
    }

    fn listed(&self, axes: Vec<[i32; 2]>) -> Vec<Cell> {
        let mut cells: Vec<_> = axes.into_iter().map(|axes| self.number(axes)).collect();
        cells.sort_unstable();
        cells
    }

    /// The cells around one, those at its corners too.
    fn around(&self, [x, y]: [i32; 2]) -> impl Iterator<Item = [i32; 2]> {
        let hex = self.cells != Cells::Square;
        let steps = (-1..=1).flat_map(|dx| (-1..=1).map(move |dy| (dx, dy)));
        steps
            .filter(move |(dx, dy)| (*dx, *dy) != (0, 0) && !(hex && dx == dy))
            .map(move |(dx, dy)| [x + dx, y + dy])
    }

    /// The middle of a cell in the plane, in sizes of a cell.
    fn middle(&self, [x, y]: [i32; 2]) -> DVec2 {
        let (x, y) = (f64::from(x), f64::from(y));
        let across = 3_f64.sqrt();
        match self.cells {
            Cells::Square => DVec2::new(x, y),
            Cells::HexPointy => DVec2::new(across * (x + y / 2.0), 1.5 * y),
            Cells::HexFlat => DVec2::new(1.5 * x, across * (y + x / 2.0)),
        }
    }

    fn place(&self, pose: Pose, plane: DVec2) -> Vec3 {
        let plane = plane * self.size;
        let seen = if self.flat { plane.extend(0.0) } else { glam::DVec3::new(plane.x, 0.0, plane.y) };
        pose.carry_far(seen).as_vec3()
    }

    /// How far a row (pointy) or a column (flat) is shifted against axial numbers: half its own number, rounded down where the
    /// odd ones stick out and up where the even ones do.
    fn shift(&self, line: i32) -> i32 {
        match self.numbering {
            _ if self.cells == Cells::Square => 0,
            Numbering::Axial => 0,
            Numbering::Odd => (line - (line & 1)) / 2,
            Numbering::Even => i32::midpoint(line, line & 1),
        }
    }

    fn number(&self, [x, y]: [i32; 2]) -> Cell {
        if self.cells == Cells::HexFlat {
            Cell { column: x, row: y + self.shift(x) }
        } else {
            Cell { column: x + self.shift(y), row: y }
        }
    }

    fn axes(&self, Cell { column, row }: Cell) -> [i32; 2] {
        let far = |number: i32| number.clamp(-200_000_000, 200_000_000);
        let (column, row) = (far(column), far(row));
        if self.cells == Cells::HexFlat {
            [column, row - self.shift(column)]
        } else {
            [column - self.shift(row), row]
        }
    }

    /// The layout of `hexx` that has the same hexagons, for code that goes on with that crate; `None` for squares.
    ///
    /// With the feature `hexx`.
    #[cfg(feature = "hexx")]
    pub fn hex_layout(&self) -> Option<hexx::HexLayout> {
        use hexx::{HexLayout, HexOrientation, Vec2};
        let orientation =
            if self.cells == Cells::HexFlat { HexOrientation::Flat } else { HexOrientation::Pointy };
        #[expect(clippy::cast_possible_truncation, reason = "it works in single precision")]
        let scale = Vec2::splat(self.size as f32);
        let layout = HexLayout { orientation, scale, ..HexLayout::default() };
        (self.cells != Cells::Square).then_some(layout)
    }

    /// Everything it is, as plain values.
    pub(crate) fn save(&self) -> [Value; 2] {
        let number = self.cells as u32 + 3 * self.numbering as u32 + 9 * u32::from(self.flat);
        [number.into(), self.size.into()]
    }

    pub(crate) fn load(number: &Value, size: &Value) -> Option<Self> {
        let Value::Whole(number @ 0..18) = *number else { return None };
        let cells = [Cells::Square, Cells::HexPointy, Cells::HexFlat][usize::try_from(number % 3).ok()?];
        let numbering =
            [Numbering::Axial, Numbering::Odd, Numbering::Even][usize::try_from(number / 3 % 3).ok()?];
        let grid = Self::new(cells, size.as_number()?).ok()?.numbered(numbering);
        Some(Self { flat: number >= 9, ..grid })
    }
}

/// The nearest whole numbers.
fn whole(of: DVec2) -> [i32; 2] {
    #[expect(clippy::cast_possible_truncation, reason = "brought near before")]
    [libm::round(of.x) as i32, libm::round(of.y) as i32]
}
