//! Expressions about the cells of an object's grid.

use glam::Vec3;

use crate::{
    act::scope::Scope,
    base::geometry::Pose,
    part::contract::Part,
    plan::expr::Expr,
    space::grid::{Cell, Grid},
};

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

    pub(super) fn cell_steps(&self, [object, column, row, to_column, to_row]: &[Expr; 5]) -> Option<i64> {
        let (grid, _) = self.grid(object)?;
        Some(grid.distance(self.cell(column, row)?, self.cell(to_column, to_row)?).into())
    }
}
