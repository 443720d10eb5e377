//! Two worlds talking: a player's and the authority's.
//!
//! A signal that is declared to cross is emitted in one world and delivered in the other. What is said travels over a
//! [`Line`], which carries frames of bytes and knows nothing of worlds: [`loopback`] is two ends of one in memory, and a
//! socket is another.
//!
//! The authority trusts no message. Its host names the player of each line as it accepts it, and a request comes from the
//! player of the line it arrives on. A signal that does not cross, a payload that does not fit, and a player who may not
//! send it are refused, and the player's end gets the reason.
//!
//! ```
//! use stoicheon_core::{Crosses, World};
//! use stoicheon_link::{AuthorityEnd, PlayerEnd, loopback};
//!
//! let mut here = World::<()>::new();
//! let mut there = World::<u32>::new();
//! for_both(&mut here)?;
//! let ring = for_both(&mut there)?;
//! there.on(ring).run(|rung, _, _| *rung += 1)?;
//! there.player("ada").add()?;
//!
//! let (one, other) = loopback();
//! let mut player = PlayerEnd::new(one);
//! let mut authority = AuthorityEnd::new();
//! authority.accept("ada", other)?;
//! let ring = here.signal::<()>("ring")?;
//! here.emit(ring, ())?;
//! let mut rung = 0;
//! for _ in 0..4 {
//!     player.exchange(&mut here)?;
//!     here.step(&mut ())?;
//!     authority.exchange(&mut there)?;
//!     there.step(&mut rung)?;
//! }
//! assert_eq!(rung, 1);
//!
//! fn for_both<G: 'static>(world: &mut World<G>) -> Result<stoicheon_core::Signal<()>, stoicheon_core::Error> {
//!     let ring = world.declare_signal::<()>("ring")?;
//!     world.let_cross(ring, Crosses::ToAuthority, &[])?;
//!     Ok(ring)
//! }
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod authority;
mod frame;
mod line;
mod player;

pub use authority::AuthorityEnd;
pub use line::{Broken, Line, Loopback, loopback};
pub use player::{Heard, PlayerEnd};

/// What can go wrong with a call.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum Error {
    /// The line is broken, or what came over it cannot be read.
    #[error(transparent)]
    Broken(#[from] Broken),
    /// A player has a line already.
    #[error("player \"{player}\" already has a connection: wait until it is closed")]
    TwoLines {
        /// The player.
        player: stoicheon_core::Text,
    },
    /// The world does not take it.
    #[error(transparent)]
    World(#[from] stoicheon_core::Error),
}
