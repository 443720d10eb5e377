//! Expressions about the cells of an object's grid.

use glam::Vec3;

use crate::{
    act::scope::Scope,
    base::geometry::Pose,
    part::contract::Part,
    plan::{calc::EvalFault, expr::Expr},
    space::grid::{Cell, Grid},
};

/// How many steps a range of cells goes at most; that is some 30,000 cells.
const FARTHEST: u16 = 100;

impl Scope<'_> {
    /// The grid of an object, and where it lies.
    fn grid(&self, object: &Expr) -> Option<(Grid, Pose)> {
        let object = self.value(object).as_object()?;
        let pose = self.state.moment.objects.get(object)?.pose();
        let parts = self.state.parts_of(object).iter();
        let grid = parts
            .filter_map(|part| self.state.parts.part(*part).and_then(Part::aim))
            .find_map(|aim| aim.grid);
        Some((grid?, pose))
    }

    fn cell(&self, column: &Expr, row: &Expr) -> Option<Cell> {
        let number = |expr: &Expr| i32::try_from(self.value(expr).as_whole()?).ok();
        Some(Cell { column: number(column)?, row: number(row)? })
    }

    pub(super) fn middle(&self, [object, column, row]: &[Expr; 3]) -> Option<Vec3> {
        let (grid, pose) = self.grid(object)?;
        Some(grid.middle_of(pose, self.cell(column, row)?)).filter(|middle| middle.is_finite())
    }

    /// The cells around one: its neighbours, or those within so many steps; by column, then row.
    pub(super) fn cells_around(&self, [object, column, row]: &[Expr; 3], within: Option<&Expr>) -> Vec<Cell> {
        let (Some((grid, _)), Some(cell)) = (self.grid(object), self.cell(column, row)) else {
            return Vec::new();
        };
        match within.map(|within| self.value(within).as_whole()) {
            None => grid.neighbours(cell),
            Some(Some(steps)) if steps > i64::from(FARTHEST) => {
                self.note(EvalFault::TooFar);
                grid.range(cell, FARTHEST)
            }
            Some(steps) => match steps.and_then(|steps| u16::try_from(steps).ok()) {
                Some(steps) => grid.range(cell, steps),
                None => Vec::new(),
            },
        }
    }

    pub(super) fn cell_steps(&self, [object, column, row, to_column, to_row]: &[Expr; 5]) -> Option<i64> {
        let (grid, _) = self.grid(object)?;
        Some(grid.distance(self.cell(column, row)?, self.cell(to_column, to_row)?).into())
    }
}
