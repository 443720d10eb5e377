//! A step of a playtest in a running world, for a host in which people write steps while it runs.

use std::cell::Cell;

use crate::{
    act::scope::Scope,
    base::{error::Error, ids::ObjectId, place::Place},
    playtest::{
        Expectation, Failure, Found, PlaytestStep,
        actions::{self, Act, Progress},
    },
    world::World,
};

/// A step that has begun, to be looked at after every tick until it is over.
///
/// ```
/// use stoicheon_core::{Place, Vec3, World, playtest::{PlaytestStep, Underway}};
/// let mut world = World::<()>::new();
/// let ada = world.player("ada").add()?;
/// let to = Vec3::new(1.0, 0.0, 0.0);
/// let mut walk = Underway::begin(&PlaytestStep::Walk { who: ada, to }, &Place::here(), &mut world)?;
/// while !walk.is_over() {
///     world.step(&mut ())?;
///     walk.go_on(&mut world)?;
/// }
/// assert_eq!((world.place(ada)?, walk.failure()), (to, None));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Debug)]
pub struct Underway {
    place: Place,
    who: Option<ObjectId>,
    act: Option<Act>,
    failure: Option<Failure>,
}

impl Underway {
    /// Begins a step that players do, that does statements, that waits, or that expects something to hold.
    ///
    /// # Errors
    /// What the world says, and [`Error::OnlyInPlaytests`] for a step that only a whole playtest can have.
    pub fn begin<G: 'static>(
        step: &PlaytestStep,
        place: &Place,
        world: &mut World<G>,
    ) -> Result<Self, Error> {
        let mut begun = Self { place: place.clone(), who: step.actor(), act: None, failure: None };
        match actions::begin(step, place, world)? {
            Some(Ok(act)) => begun.act = Some(act).filter(|act| !act.is_done(world)),
            Some(Err(found)) => begun.fail(world, None, found),
            None => begun.expects(step, world)?,
        }
        Ok(begun)
    }

    fn expects<G: 'static>(&mut self, step: &PlaytestStep, world: &World<G>) -> Result<(), Error> {
        let PlaytestStep::Expect { what: what @ Expectation::Holds(expr), within: None } = step else {
            return Err(Error::OnlyInPlaytests);
        };
        if world.evaluate(expr).as_bool() != Some(true) {
            let fault = Cell::new(None);
            let found = Found::Readings(Scope::of(world, &fault).readings(expr).into_vec());
            self.fail(world, Some(what.clone()), found);
        }
        Ok(())
    }

    fn fail<G: 'static>(&mut self, world: &World<G>, expected: Option<Expectation>, found: Found) {
        let (place, tick, who) = (self.place.clone(), world.now(), self.who);
        self.failure = Some(Failure { place, tick, expected, within: None, found, who });
    }

    /// After a tick.
    ///
    /// # Errors
    /// What the world says to what the step does next.
    pub fn go_on<G: 'static>(&mut self, world: &mut World<G>) -> Result<(), Error> {
        let Some(act) = &mut self.act else { return Ok(()) };
        match act.go_on(world) {
            Ok(Progress::More) => {}
            Ok(Progress::Done) => self.act = None,
            Ok(Progress::Failed(found)) => {
                self.act = None;
                self.fail(world, None, found);
            }
            Err(error) => {
                self.act = None;
                return Err(error);
            }
        }
        Ok(())
    }

    /// Whether it is over, well or not.
    pub fn is_over(&self) -> bool {
        self.act.is_none()
    }

    /// What went wrong, if anything did.
    pub fn failure(&self) -> Option<&Failure> {
        self.failure.as_ref()
    }
}
