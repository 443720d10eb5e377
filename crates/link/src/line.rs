//! What carries frames of bytes from one end to the other.

use std::{
    collections::VecDeque,
    sync::{Arc, Mutex, PoisonError},
};

/// A line is no good any more.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("the line is broken: {why}")]
pub struct Broken {
    /// Why.
    pub why: String,
}

impl Broken {
    /// Broken for that reason.
    pub fn new(why: impl Into<String>) -> Self {
        Self { why: why.into() }
    }
}

/// One end of a line that carries whole frames, in the order they were sent.
///
/// This is the seam for a real network: a WebSocket carries frames by itself; over a stream, a length before each will
/// do. Neither call may wait for the other end.
pub trait Line {
    /// Sends a frame.
    ///
    /// # Errors
    /// [`Broken`] if it cannot be sent, now or ever.
    fn send(&mut self, frame: Vec<u8>) -> Result<(), Broken>;

    /// The next frame that has come, if one has.
    ///
    /// # Errors
    /// [`Broken`] if none will come any more.
    fn receive(&mut self) -> Result<Option<Vec<u8>>, Broken>;
}

type Queue = Arc<Mutex<VecDeque<Vec<u8>>>>;

/// One end of a line in memory.
#[derive(Clone, Debug)]
pub struct Loopback {
    out: Queue,
    back: Queue,
}

/// Two ends of a line in memory: what one sends, the other receives.
pub fn loopback() -> (Loopback, Loopback) {
    let (one, other) = (Queue::default(), Queue::default());
    (Loopback { out: one.clone(), back: other.clone() }, Loopback { out: other, back: one })
}

impl Line for Loopback {
    fn send(&mut self, frame: Vec<u8>) -> Result<(), Broken> {
        // Nobody is left here: the other end was dropped.
        if Arc::strong_count(&self.out) < 2 {
            return Err(Broken::new("the other end is gone"));
        }
        self.out.lock().unwrap_or_else(PoisonError::into_inner).push_back(frame);
        Ok(())
    }

    fn receive(&mut self) -> Result<Option<Vec<u8>>, Broken> {
        let next = self.back.lock().unwrap_or_else(PoisonError::into_inner).pop_front();
        match next {
            None if Arc::strong_count(&self.back) < 2 => Err(Broken::new("the other end is gone")),
            next => Ok(next),
        }
    }
}
