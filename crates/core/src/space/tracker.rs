//! Who is inside which zone, and who has just come or gone.

use glam::Vec3;
use serde::{Deserialize, Serialize};

use crate::{
    base::{
        chunks::Chunks,
        error::{BuildError, Error},
        geometry::Pose,
    },
    space::{
        entry::{BodyEntry, Motion, News, Presence, ZoneCache, ZoneEntry},
        index::Index,
        reason::Reason,
        shape::Shape,
        touch::Touch,
    },
};

/// A zone of a [`Tracker`].
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct ZoneKey(pub(crate) u32);

/// A body of a [`Tracker`].
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
pub struct BodyKey(pub(crate) u32);

/// Compares, tick by tick, where bodies were with where they are, and says who came into which zone and who went out.
///
/// A world has one of its own; this is the same for code that needs nothing else. `Z` and `B` are what the caller calls
/// its zones and bodies. Zones are numbered as they are made; a body's number is the caller's.
///
/// A body passes what lies on the straight way between two steps, relative to the zone if that moves too; one that was
/// [placed](Self::place) does not. Borders belong to the zone.
///
/// What it costs: a body that stands still, nothing. One that moves, a comparison of how far it went with how near the
/// nearest border is, until it has gone that far; then a look at the zones near it.
///
/// ```
/// use stoicheon_core::{Pose, Vec3, space::{Reason, Shape, Touches, Tracker}};
/// let mut tracker = Tracker::<&str, &str>::new();
/// let pad = Shape::boxed(Vec3::new(2.0, 1.0, 0.01));
/// let pad = tracker.add_zone("towpath_pad", Some(pad), Pose::at(Vec3::new(0.0, 0.0, 10.0)))?;
/// let ada = tracker.add_body("ada", 1, Vec3::ZERO)?;
/// let mut touches = Touches::default();
/// tracker.step(1, |_, _| true, &mut touches);
/// tracker.walk(ada, Vec3::new(0.0, 0.0, 50.0))?;
/// tracker.step(2, |_, _| true, &mut touches);
/// assert_eq!(touches.entered.len(), 1);
/// assert_eq!(touches.crossed[0].zone, pad);
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Tracker<Z, B> {
    #[serde(bound(serialize = "Z: Serialize", deserialize = "Z: Deserialize<'de> + Clone"))]
    pub(crate) zones: Chunks<Option<ZoneEntry<Z>>>,
    pub(crate) free_zones: Vec<u32>,
    #[serde(bound(serialize = "B: Serialize", deserialize = "B: Deserialize<'de> + Clone"))]
    pub(crate) bodies: Chunks<Option<BodyEntry<B>>>,
    pub(crate) free_bodies: Vec<u32>,
    /// For each of `bodies`.
    pub(crate) motions: Vec<Motion>,
    /// How many steps there were.
    pub(crate) steps: u32,
    last_number: u32,
    /// What the host said, in its order: who is inside, or is not.
    pub(crate) told: Vec<(ZoneKey, BodyKey, bool)>,
    #[serde(skip)]
    pub(crate) index: Index,
}

impl<Z, B> Default for Tracker<Z, B> {
    fn default() -> Self {
        Self::new()
    }
}

impl<Z, B> Tracker<Z, B> {
    /// One without zones and bodies.
    pub fn new() -> Self {
        Self {
            zones: Chunks::default(),
            free_zones: Vec::new(),
            bodies: Chunks::default(),
            free_bodies: Vec::new(),
            motions: Vec::new(),
            steps: 1,
            last_number: 0,
            told: Vec::new(),
            index: Index::default(),
        }
    }
}

impl<Z: Clone, B: Clone> Tracker<Z, B> {
    /// Adds a zone. Without a shape, who is inside is [told](Self::tell).
    ///
    /// # Errors
    /// What is wrong with the shape or the place.
    pub fn add_zone(&mut self, what: Z, shape: Option<Shape>, pose: Pose) -> Result<ZoneKey, Error> {
        shape.as_ref().map_or(Ok(()), Shape::check)?;
        check_place(pose.at)?;
        self.last_number += 1;
        let entry = ZoneEntry {
            what,
            number: self.last_number,
            shape,
            pose,
            before: pose,
            news: News::Lit,
            lit: true,
            room: 0,
            guarded: false,
            margin: 0.0,
            inside: Vec::new(),
            cache: ZoneCache::default(),
        };
        let key = ZoneKey(insert(&mut self.zones, &mut self.free_zones, entry));
        self.rework(key);
        self.stir(key);
        Ok(key)
    }

    /// Takes a zone away, without a word about those inside: see [`darken`](Self::darken).
    pub fn remove_zone(&mut self, zone: ZoneKey) {
        self.darken(zone, Reason::ZoneGone);
        if let Some(entry) = self.zones.get_mut(zone.0 as usize)
            && entry.take().is_some()
        {
            self.free_zones.push(zone.0);
            self.told.retain(|(told, ..)| *told != zone);
        }
    }

    /// Puts a zone into another room: it touches the bodies of that room alone. All begin in room 0.
    /// [`darken`](Self::darken) comes first if somebody may be inside.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`].
    pub fn set_zone_room(&mut self, zone: ZoneKey, room: u32) -> Result<(), Error> {
        self.zone_mut(zone)?.room = room;
        self.stir(zone);
        Ok(())
    }

    /// A zone was moved and turned: it passes what lies between.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`] or [`BuildError::BadPlace`].
    pub fn move_zone(&mut self, zone: ZoneKey, to: Pose) -> Result<(), Error> {
        self.change(zone, to, News::Moved)
    }

    /// A zone was put there: it does not pass what lies between.
    ///
    /// # Errors
    /// As for [`move_zone`](Self::move_zone).
    pub fn place_zone(&mut self, zone: ZoneKey, at: Pose) -> Result<(), Error> {
        self.change(zone, at, News::Placed)
    }

    fn change(&mut self, zone: ZoneKey, pose: Pose, news: News) -> Result<(), Error> {
        check_place(pose.at)?;
        if self.zone_entry(zone).ok_or(Error::NoSuchPart)?.pose == pose {
            return Ok(());
        }
        let entry = self.zone_mut(zone)?;
        entry.pose = pose;
        if matches!(entry.news, News::Nothing) || (entry.news == News::Moved && news == News::Placed) {
            entry.news = news;
        }
        self.rework(zone);
        self.stir(zone);
        Ok(())
    }

    /// Gives a zone another shape.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`] or what is wrong with the shape.
    pub fn reshape(&mut self, zone: ZoneKey, shape: Shape) -> Result<(), Error> {
        shape.check()?;
        let entry = self.zone_mut(zone)?;
        entry.shape = Some(shape);
        if entry.news != News::Lit {
            entry.news = News::Placed;
        }
        self.rework(zone);
        self.stir(zone);
        Ok(())
    }

    /// A body inside a zone has left it only when it stands farther from the border than that.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`]; [`BuildError::BadNumber`] for one that is not from 0 up.
    pub fn set_margin(&mut self, zone: ZoneKey, margin: f64) -> Result<(), Error> {
        if !(margin >= 0.0 && margin.is_finite()) {
            let expected = "a number from 0 up";
            return Err(Error::Build(BuildError::BadNumber {
                setting: "the margin of a zone",
                expected,
                found: margin,
            }));
        }
        self.zone_mut(zone)?.margin = margin;
        self.rework(zone);
        self.stir(zone);
        Ok(())
    }

    /// A body that comes into the zone does not count as inside until it is [let in](Self::let_in).
    pub fn guard(&mut self, zone: ZoneKey) {
        if let Ok(entry) = self.zone_mut(zone) {
            entry.guarded = true;
        }
    }

    /// Lets somebody in who came into a guarded zone.
    pub fn let_in(&mut self, zone: ZoneKey, body: BodyKey) {
        if let Some(presence) = self.presence_mut(zone, body) {
            presence.refused = false;
        }
    }

    /// The host says who touches a zone without a shape, or no longer does. It counts in the next step.
    ///
    /// # Errors
    /// [`Error::NoSuchPart`] or [`Error::NoSuchObject`]; [`Error::NotTold`] for a zone that has a shape.
    pub fn tell(&mut self, zone: ZoneKey, body: BodyKey, inside: bool) -> Result<(), Error> {
        self.body_entry(body).ok_or(Error::NoSuchObject)?;
        if self.zone_entry(zone).ok_or(Error::NoSuchPart)?.shape.is_some() {
            return Err(Error::NotTold);
        }
        self.told.push((zone, body, inside));
        Ok(())
    }

    /// The zone goes dark: everyone inside has left it, by body number.
    pub fn darken(&mut self, zone: ZoneKey, reason: Reason) -> Vec<Touch> {
        let Ok(entry) = self.zone_mut(zone) else { return Vec::new() };
        entry.lit = false;
        let number = entry.number;
        let inside = std::mem::take(&mut entry.inside);
        let settled = entry.cache.settled.take();
        entry.cache.restless = false;
        if let Some(bounds) = settled {
            self.index.settled.edit().remove(zone.0, &bounds);
        }
        self.index.restless.retain(|restless| *restless != zone);
        let mut touches = Vec::new();
        for presence in inside {
            if let Ok(body) = self.body_mut(presence.body) {
                body.inside.retain(|inside| *inside != zone);
            }
            if !presence.refused {
                touches.push(Touch { zone, body: presence.body, reason, order: (number, presence.number) });
            }
        }
        touches
    }

    /// The zone touches again from the next step on.
    pub fn light(&mut self, zone: ZoneKey) {
        if let Ok(entry) = self.zone_mut(zone) {
            entry.lit = true;
            entry.news = News::Lit;
            entry.before = entry.pose;
            self.stir(zone);
        }
    }

    pub(crate) fn zone_entry(&self, zone: ZoneKey) -> Option<&ZoneEntry<Z>> {
        self.zones.get(zone.0 as usize)?.as_ref()
    }

    /// Zones are numbered as they are made.
    pub(crate) fn zone_number(&self, zone: ZoneKey) -> Option<u32> {
        self.zone_entry(zone).map(|entry| entry.number)
    }

    pub(crate) fn zone_mut(&mut self, zone: ZoneKey) -> Result<&mut ZoneEntry<Z>, Error> {
        self.zones.get_mut(zone.0 as usize).and_then(Option::as_mut).ok_or(Error::NoSuchPart)
    }

    fn presence_mut(&mut self, zone: ZoneKey, body: BodyKey) -> Option<&mut Presence> {
        let number = self.body_entry(body)?.number;
        let entry = self.zone_mut(zone).ok()?;
        let index = entry.find(number).ok()?;
        entry.inside.get_mut(index)
    }

    pub(crate) fn order(&self, zone: ZoneKey, body: BodyKey) -> (u32, u32) {
        let zone = self.zone_entry(zone).map_or(0, |entry| entry.number);
        (zone, self.body_entry(body).map_or(0, |entry| entry.number))
    }

    /// Works out what follows from a zone's shape and pose.
    fn rework(&mut self, zone: ZoneKey) {
        let Some(Some(entry)) = self.zones.get_mut(zone.0 as usize) else { return };
        entry.rework();
    }

    /// A zone has news: it comes out of the grids until it has rested.
    pub(crate) fn stir(&mut self, zone: ZoneKey) {
        let Some(Some(entry)) = self.zones.get_mut(zone.0 as usize) else { return };
        if !entry.lit || entry.shape.is_none() {
            return;
        }
        entry.cache.quiet = 0;
        if let Some(bounds) = entry.cache.settled.take() {
            self.index.settled.edit().remove(zone.0, &bounds);
        }
        if !entry.cache.restless {
            entry.cache.restless = true;
            self.index.restless.push(zone);
        }
    }
}

pub(crate) fn insert<T: Clone>(all: &mut Chunks<Option<T>>, free: &mut Vec<u32>, entry: T) -> u32 {
    let index = free.pop().unwrap_or_else(|| u32::try_from(all.len()).unwrap_or(u32::MAX));
    match all.get_mut(index as usize) {
        Some(place) => *place = Some(entry),
        None => all.push(Some(entry)),
    }
    index
}

pub(crate) fn check_place(at: Vec3) -> Result<(), Error> {
    if at.is_finite() { Ok(()) } else { Err(Error::Build(BuildError::BadPlace { found: at })) }
}
