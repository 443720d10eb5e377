//! Things that fill some room, by number: which of them come near a point or a way, without a look at all the others.

use glam::Vec3;

use crate::{
    base::{chunks::Chunks, shared::Shared},
    space::{bounds::Bounds, levels::Levels},
};

/// One that has not moved for so many ticks goes into the grids.
const QUIET: u8 = 8;

/// So many that moved lately are looked at one by one; those past that stay in the grids while they move.
const LOOSE: usize = 64;

#[derive(Clone, Copy, Debug)]
struct Room<T> {
    bounds: Bounds,
    what: T,
    /// It is in the grids.
    settled: bool,
    /// For how many ticks it has rested, if it is not.
    quiet: u8,
}

/// What lies where, and what is to be known of it.
#[derive(Clone, Debug)]
pub(crate) struct Reaches<T> {
    grids: Shared<Levels>,
    /// The same as in `rooms` of those in the grids, close together.
    whats: Shared<Vec<Option<T>>>,
    rooms: Chunks<Option<Room<T>>>,
    /// Those that are not in the grids, and perhaps some that are gone or are there again.
    loose: Vec<u32>,
}

impl<T> Default for Reaches<T> {
    fn default() -> Self {
        Self {
            grids: Shared::default(),
            whats: Shared::default(),
            rooms: Chunks::default(),
            loose: Vec::new(),
        }
    }
}

impl<T: Copy + PartialEq> Reaches<T> {
    fn room(&self, number: u32) -> Option<&Room<T>> {
        self.rooms.get(number as usize)?.as_ref()
    }

    pub(crate) fn has(&self, number: u32) -> bool {
        self.room(number).is_some()
    }

    /// It fills that room from now on. False if nothing changed.
    pub(crate) fn put(&mut self, number: u32, bounds: Bounds, what: T) -> bool {
        let before = self.room(number).copied();
        if let Some(room) = before.filter(|room| room.bounds == bounds) {
            if room.what == what {
                return false;
            }
            self.set(number, Some(Room { what, ..room }));
            if room.settled {
                self.tell_grids(number, what);
            }
            return true;
        }
        self.set(number, Some(Room { bounds, what, settled: false, quiet: 0 }));
        match before {
            Some(Room { settled: false, .. }) => {}
            Some(Room { bounds, .. }) => {
                self.grids.edit().remove(number, &bounds);
                if self.loose.len() < LOOSE {
                    self.loose.push(number);
                } else {
                    self.settle(number);
                }
            }
            // What is new mostly stands.
            None => self.settle(number),
        }
        true
    }

    pub(crate) fn remove(&mut self, number: u32) {
        let Some(Room { bounds, settled, .. }) = self.room(number).copied() else { return };
        if settled {
            self.grids.edit().remove(number, &bounds);
        }
        self.set(number, None);
    }

    /// A tick is over: what has rested for a while goes into the grids.
    pub(crate) fn rest(&mut self) {
        for number in std::mem::take(&mut self.loose) {
            let Some(room) = self.room(number).filter(|room| !room.settled) else { continue };
            if room.quiet >= QUIET {
                self.settle(number);
            } else {
                self.set(number, Some(Room { quiet: room.quiet + 1, ..*room }));
                self.loose.push(number);
            }
        }
    }

    /// Everything whose bounds meet those of a straight way; what is large may come several times.
    pub(crate) fn near(&self, from: Vec3, to: Vec3, mut each: impl FnMut(u32, &T)) {
        let way = Bounds::of_way(from, to, 0.0);
        self.grids.near(from, to, &way, |number, bounds| {
            if bounds.meets(&way)
                && let Some(Some(what)) = self.whats.get(number as usize)
            {
                each(number, what);
            }
        });
        for number in &self.loose {
            let room = self.room(*number).filter(|room| !room.settled && room.bounds.meets(&way));
            if let Some(room) = room {
                each(*number, &room.what);
            }
        }
    }

    fn settle(&mut self, number: u32) {
        if let Some(room) = self.room(number).copied() {
            self.grids.edit().insert(number, room.bounds);
            self.tell_grids(number, room.what);
            self.set(number, Some(Room { settled: true, ..room }));
        }
    }

    fn tell_grids(&mut self, number: u32, what: T) {
        let (whats, place) = (self.whats.edit(), number as usize);
        whats.resize(whats.len().max(place + 1), None);
        whats[place] = Some(what);
    }

    fn set(&mut self, number: u32, room: Option<Room<T>>) {
        while self.rooms.len() <= number as usize {
            self.rooms.push(None);
        }
        if let Some(place) = self.rooms.get_mut(number as usize) {
            *place = room;
        }
    }
}
