//! Faults, for the host.

use crate::{moment::faults::Fault, world::World};

impl<G: 'static> World<G> {
    /// Takes what could not be done since the last call, oldest first: at every trace level, with the object, the wire
    /// and who caused it. The latest 1,024 are kept.
    ///
    /// ```
    /// use stoicheon_core::World;
    /// let mut world = World::<()>::new();
    /// let bell = world.declare_signal::<()>("bell")?;
    /// world.on(bell).run(|_, (), _| Err("the rope is torn"))?;
    /// world.emit(bell, ())?;
    /// world.step(&mut ())?;
    /// assert_eq!(world.take_faults().next().map(|fault| fault.message), Some("the rope is torn".into()));
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    pub fn take_faults(&mut self) -> impl Iterator<Item = Fault> + use<G> {
        std::mem::take(&mut self.state.outbox.faults.waiting).into_iter()
    }
}
