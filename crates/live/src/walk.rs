//! Walking by what a page says: by keys, to a place, after somebody.

use std::collections::BTreeMap;

use stoicheon_core::{ObjectId, State, Vec3, World, playtest::WALKING_SPEED};
use stoicheon_view::Ground;

/// How far ahead a player walks who goes on until told otherwise, in scene units.
const FAR: f32 = 1_000.0;
/// How near who follows comes, in scene units.
const NEAR: f32 = 1.2;

/// What is higher above a player than that is over their head and no ground, in scene units.
const CLIMB: f32 = 1.0;
/// How many ticks a frame has at most, unless the world says otherwise.
const MOST_TICKS: u64 = 8;
/// Farther than that from where they could walk to, somebody was put there, in scene units.
const LEAP: f32 = 1.0;
/// How high or low the ground may be that a player steps on at once, in scene units.
const STEP: f32 = 0.05;

/// Who goes where by what a page said.
#[derive(Debug, Default)]
pub(crate) struct Steering {
    follows: BTreeMap<ObjectId, ObjectId>,
    held: BTreeMap<ObjectId, Held>,
    /// For those who walked by keys: how high the ground is outside of all zones, and where they were then.
    bases: BTreeMap<ObjectId, (f32, Vec3)>,
}

/// A player whose keys say where they go.
#[derive(Clone, Copy, Debug)]
struct Held {
    along: [f32; 2],
    /// The height they go towards.
    height: f32,
}

/// What is known of the ground: how the plane that is drawn lies in the scene, and how high the ground is at a place.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Lie<'g> {
    pub(crate) ground: &'g Ground,
}

impl Lie<'_> {
    pub(crate) fn is_flat(self, who: ObjectId) -> bool {
        let scene = self.ground.thing_of(who).map(|thing| thing.scene);
        scene.and_then(|scene| self.ground.scenes().get(scene)).is_some_and(|scene| scene.flat)
    }

    /// Where the ground is at a place of the plane: in the middle of the smallest zone there, and otherwise at `base`. A flat scene
    /// has no height.
    fn height(self, state: &State, who: ObjectId, [x, y]: [f32; 2], base: f32) -> f32 {
        let scene = state.scene_of(who);
        let highest = state.place(who).map_or(base, |here| here.y) + CLIMB;
        let mut best: Option<(f32, f32)> = None;
        for thing in self.ground.things().filter(|thing| !thing.faint && thing.dot.is_none()) {
            let zones = thing.marks.iter().filter(|mark| matches!(mark.style, "zone" | "occupied"));
            for mark in zones {
                let from = [x - thing.at[0], y - thing.at[1]];
                let Some(size) = mark.area_around(from) else { continue };
                let Some(object) = state.find(&thing.of).filter(|object| state.scene_of(*object) == scene)
                else {
                    continue;
                };
                if let Ok(place) = state.place(object)
                    && place.y <= highest
                    && best.is_none_or(|(smallest, _)| size < smallest)
                {
                    best = Some((size, place.y));
                }
            }
        }
        best.map_or(base, |(_, height)| height)
    }

    /// A place on the plane, as deep in a flat scene as something else is, and otherwise as high as the ground is there.
    fn place(self, state: &State, who: ObjectId, [x, y]: [f32; 2], like: Vec3) -> Vec3 {
        if self.is_flat(who) {
            Vec3::new(x, -y, like.z)
        } else {
            Vec3::new(x, self.height(state, who, [x, y], like.y), y)
        }
    }
}

impl Steering {
    /// Somebody goes where they are told, and follows nobody.
    pub(crate) fn leave(&mut self, state: &State, name: &str) {
        if let Some(who) = state.find_player(name) {
            self.follows.remove(&who);
            self.held.remove(&who);
        }
    }

    /// The keys that were held are not any more.
    pub(crate) fn let_go(&mut self) {
        self.held.clear();
    }

    /// Whom somebody follows.
    pub(crate) fn followed_by(&self, who: ObjectId) -> Option<ObjectId> {
        self.follows.get(&who).copied()
    }

    /// Those who follow somebody go after them, and those whose keys are held go on.
    /// Who sets out.
    pub(crate) fn before_tick<G: 'static>(&mut self, lie: Lie<'_>, world: &mut World<G>) -> Vec<ObjectId> {
        let mut out = Vec::new();
        self.follows.retain(|who, whom| world.place(*who).is_ok() && world.place(*whom).is_ok());
        for (who, whom) in &self.follows {
            let (Ok(from), Ok(to)) = (world.place(*who), world.place(*whom)) else { continue };
            let is_here = world.scene_of(*who) == world.scene_of(*whom);
            let away = to - from;
            if is_here && away.length() > NEAR && !world.is_walking(*who) {
                // A body that cannot walk stays where it is.
                out.extend(
                    world
                        .walk(*who, to - away.normalize_or_zero() * NEAR, WALKING_SPEED)
                        .is_ok()
                        .then_some(*who),
                );
            }
        }
        self.held.retain(|who, _| world.place(*who).is_ok());
        for (who, held) in &mut self.held {
            let Ok(here) = world.place(*who) else { continue };
            let height = height(&mut self.bases, *who, lie, world, here);
            if world.is_walking(*who) && (height - held.height).abs() < STEP {
                continue;
            }
            held.height = height;
            // A body that cannot walk stays where it is.
            out.extend(
                world.walk(*who, held.next(lie.is_flat(*who), here), WALKING_SPEED).is_ok().then_some(*who),
            );
        }
        out
    }

    /// A player goes that way until something else is said.
    pub(crate) fn holds<G: 'static>(
        &mut self,
        who: ObjectId,
        along: [f32; 2],
        lie: Lie<'_>,
        world: &mut World<G>,
    ) -> Result<(), stoicheon_core::Error> {
        self.follows.remove(&who);
        let here = world.place(who)?;
        let length = along[0].hypot(along[1]);
        if !(length > 1e-3 && length.is_finite()) {
            self.held.remove(&who);
            return world.walk(who, here, WALKING_SPEED);
        }
        let height = height(&mut self.bases, who, lie, world, here);
        let held = Held { along: [along[0] / length, along[1] / length], height };
        self.held.insert(who, held);
        world.walk(who, held.next(lie.is_flat(who), here), WALKING_SPEED)
    }

    /// A player goes to a place on the ground.
    pub(crate) fn goes<G: 'static>(
        &mut self,
        who: ObjectId,
        to: [f32; 2],
        lie: Lie<'_>,
        world: &mut World<G>,
    ) -> Result<Vec3, stoicheon_core::Error> {
        self.follows.remove(&who);
        self.held.remove(&who);
        let to = lie.place(world, who, to, world.place(who)?);
        world.walk(who, to, WALKING_SPEED)?;
        Ok(to)
    }

    /// A player follows another one, or nobody any more.
    pub(crate) fn follow(&mut self, who: ObjectId, whom: Option<ObjectId>) -> Result<(), String> {
        match whom {
            Some(whom) if self.leads_back(whom, who) => return Err("they would follow each other".to_owned()),
            Some(whom) => drop(self.follows.insert(who, whom)),
            None => drop(self.follows.remove(&who)),
        }
        Ok(())
    }

    /// Whether who follows whom leads from one to the other.
    fn leads_back(&self, from: ObjectId, to: ObjectId) -> bool {
        let mut at = from;
        for _ in 0..=self.follows.len() {
            if at == to {
                return true;
            }
            let Some(next) = self.follows.get(&at) else { return false };
            at = *next;
        }
        false
    }
}

/// How high the ground is where somebody is. Who was put or sent somewhere stands on the ground there.
fn height(
    bases: &mut BTreeMap<ObjectId, (f32, Vec3)>,
    who: ObjectId,
    lie: Lie<'_>,
    state: &State,
    here: Vec3,
) -> f32 {
    if lie.is_flat(who) {
        return here.y;
    }
    let (base, before) = bases.entry(who).or_insert((here.y, here));
    if before.distance(here) > leap(state, MOST_TICKS) {
        *base = here.y;
    }
    *before = here;
    lie.height(state, who, [here.x, here.z], *base)
}

/// How far somebody goes at most in so many ticks who is not put or sent anywhere.
#[expect(clippy::cast_precision_loss, reason = "few ticks")]
pub(crate) fn leap(state: &State, ticks: u64) -> f32 {
    #[expect(clippy::cast_possible_truncation, reason = "a small number")]
    let walked = (WALKING_SPEED * ticks as f64 / f64::from(state.rate().per_second())) as f32;
    LEAP + walked
}

impl Held {
    /// Where they go next: on and on, and first up or down to where the ground is.
    fn next(&self, flat: bool, here: Vec3) -> Vec3 {
        let [x, y] = self.along;
        if flat {
            return here + Vec3::new(x, -y, 0.0) * FAR;
        }
        let up = self.height - here.y;
        if up.abs() < STEP {
            return Vec3::new(here.x + x * FAR, here.y, here.z + y * FAR);
        }
        let far = up.abs().max(0.5);
        Vec3::new(here.x + x * far, self.height, here.z + y * far)
    }
}
