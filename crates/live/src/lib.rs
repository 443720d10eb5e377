//! A page in which a running world is seen, walked in, changed and wound back.
//!
//! [`Live`] serves it on the loopback address, from threads of its own; a game shows it its world once a frame. The page is for those
//! who make the game, not for those who play it. For running a world see `stoicheon-core`; for pictures of one that has run, `stoicheon-view`.
//!
//! ```no_run
//! use stoicheon_core::{World, secs};
//! use stoicheon_live::Live;
//! let mut world = World::<()>::new();
//! let mut live = Live::listen("127.0.0.1:0")?;
//! println!("{}", live.address());
//! loop {
//!     let frame = secs(1.0 / 60.0); // as long as the last frame took
//!     world.advance(live.pace(frame), &mut ())?;
//!     live.show(&mut world, &mut ())?;
//! }
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod ask;
mod bench;
mod deeds;
mod does;
mod error;
mod history;
mod live;
mod made;
mod reply;
mod server;
mod shared;
mod tape;
mod walk;
mod wiring;

pub use error::LiveError;
pub use live::Live;
pub use wiring::LiveWiring;
