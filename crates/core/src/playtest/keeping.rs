//! A playtest that puts its world aside and goes on in another.

use crate::{
    base::error::Error,
    playtest::{
        Found,
        run::{PlaytestRun, StepResult},
    },
};

impl<G: 'static> PlaytestRun<'_, G> {
    pub(super) fn save(&mut self, line: usize) -> StepResult {
        match self.stage.keep(self.world.save().map_err(Error::from)?) {
            Ok(save) => self.saved = Some(save),
            Err(why) => return Ok(Some(self.failure(line, None, None, Found::NotKept(why)))),
        }
        Ok(None)
    }

    pub(super) fn reload(&mut self, line: usize) -> StepResult {
        let Some(save) = self.saved.clone() else {
            let why = "nothing was saved before".to_owned();
            return Ok(Some(self.failure(line, None, None, Found::NotKept(why))));
        };
        let old = std::mem::replace(self.world, self.stage.fresh()?);
        self.stage.replaced(old);
        let mut mismatches = self.world.recall(&save).map_err(Error::from)?;
        mismatches.extend(self.world.rejoin(&save)?);
        self.look_again()?;
        if !mismatches.is_empty() {
            return Ok(Some(self.failure(line, None, None, Found::SaveMismatches(mismatches))));
        }
        self.tick(line)
    }

    pub(super) fn suspend(&mut self, line: usize) -> StepResult {
        let kept = self.stage.keep_whole(self.world.snapshot().map_err(Error::from)?);
        let mut fresh = self.stage.fresh()?;
        let taken = kept.and_then(|snapshot| fresh.restore(&snapshot).map_err(|error| error.to_string()));
        if let Err(why) = taken {
            return Ok(Some(self.failure(line, None, None, Found::NotKept(why))));
        }
        let old = std::mem::replace(self.world, fresh);
        self.stage.replaced(old);
        self.look_again()?;
        Ok(None)
    }
}
