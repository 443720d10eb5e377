//! Making an object: where it is, what it hangs on, whose it is.

use glam::Vec3;
use smol_str::SmolStr;

use crate::{
    base::{
        error::{BuildError, Error},
        geometry::{Pose, Rotation, check_place},
        ids::{ObjectId, RecordId, SceneId, Tags},
        names::{PLAYER, check_name, check_path},
        place::Place,
        value::Value,
    },
    moment::object::Object,
    plan::reads::Read,
    space::shape::Shape,
    state::State,
    trace::record::Event,
};

/// An object about to be made. Nothing happens until [`add`](Self::add).
#[derive(Debug)]
#[expect(clippy::struct_excessive_bools, reason = "facts that have nothing to do with each other")]
#[must_use = "an object is made by `add`"]
pub struct NewObject<'w> {
    state: &'w mut State,
    name: SmolStr,
    at: Vec3,
    facing: Rotation,
    tags: Vec<SmolStr>,
    body: bool,
    shape: Option<Shape>,
    parent: Option<ObjectId>,
    enabled: bool,
    role: bool,
    plays: bool,
    remembered: bool,
    scene: Option<SceneId>,
    place: Place,
}

impl<'w> NewObject<'w> {
    #[track_caller]
    pub(crate) fn new(state: &'w mut State, name: &str) -> Self {
        let place = Place::here();
        let scene = state.moment.scenes.current;
        Self {
            state,
            name: name.into(),
            at: Vec3::ZERO,
            facing: Rotation::NONE,
            tags: Vec::new(),
            body: false,
            shape: None,
            parent: None,
            enabled: true,
            role: false,
            plays: false,
            remembered: false,
            scene,
            place,
        }
    }

    pub(crate) fn manager(mut self) -> Self {
        self.role = true;
        self
    }

    pub(crate) fn player(mut self) -> Self {
        self.plays = true;
        self.body().tag(PLAYER)
    }

    /// Puts it into a scene that is loaded. Default the one that was begun last.
    pub fn in_scene(mut self, scene: SceneId) -> Self {
        self.scene = Some(scene);
        self
    }

    /// Where it is, which way it faces, whether it is enabled and whether it is gone are remembered when its scene is
    /// unloaded, and in a [`Save`](crate::Save).
    pub fn remembered(mut self) -> Self {
        self.remembered = true;
        self
    }

    /// Puts it there, in scene units. Default (0, 0, 0).
    pub fn at(mut self, at: Vec3) -> Self {
        self.at = at;
        self
    }

    /// Lets it face that way.
    pub fn facing(mut self, facing: Rotation) -> Self {
        self.facing = facing;
        self
    }

    /// Gives it a tag.
    pub fn tag(mut self, tag: &str) -> Self {
        self.tags.push(tag.into());
        self
    }

    /// Makes it a body: a point that can touch zones and walk.
    pub fn body(mut self) -> Self {
        self.body = true;
        self
    }

    /// Makes it a body of that shape: one ball, one capsule or one box of three sizes.
    pub fn body_of(mut self, shape: Shape) -> Self {
        self.body = true;
        self.shape = Some(shape);
        self
    }

    /// Hangs it on another object: it is placed and faces as seen from there, goes where that goes, is off while that
    /// is off, and ends with it.
    pub fn hung_on(mut self, parent: ObjectId) -> Self {
        self.parent = Some(parent);
        self
    }

    /// It begins disabled.
    pub fn disabled(mut self) -> Self {
        self.enabled = false;
        self
    }

    /// Says where it was written, when that is not the line of this call.
    pub fn written_at(mut self, place: Place) -> Self {
        self.place = place;
        self
    }

    /// Makes it. While the world is running, it takes part from the end of this tick on.
    ///
    /// # Errors
    /// [`BuildError::BadName`], [`BuildError::NameTaken`] or [`BuildError::BadPlace`]; [`BuildError::RoleTaken`] for a manager;
    /// [`Error::NoSuchObject`] for what it hangs on; [`Error::NoSuchScene`]; [`Error::NoRoom`] for one player too
    /// many; [`BuildError::BadBody`] or what else is wrong with the body's shape.
    pub fn add(self) -> Result<ObjectId, Error> {
        self.add_caused(None)
    }

    pub(crate) fn add_caused(self, cause: Option<RecordId>) -> Result<ObjectId, Error> {
        self.check()?;
        let Self { state, name, at, facing, tags, body, shape, parent, enabled, role, .. } = self;
        let Self { plays, remembered, scene, place, .. } = self;
        let scene = scene.filter(|_| !role);
        let seat = Pose { at, facing };
        let (pose, above_on) = match parent {
            Some(parent) => {
                let parent = state.moment.objects.get(parent).ok_or(Error::NoSuchObject)?;
                (parent.pose().carry(seat), parent.enabled)
            }
            None => (seat, true),
        };
        check_place(pose.at)?;
        let mut all: Tags = tags.iter().map(|tag| state.moment.objects.tag(tag)).collect();
        if let Some(name) = scene.and_then(|scene| state.moment.scenes.name(scene)).cloned() {
            all.extend(tags.iter().map(|tag| state.moment.objects.tag_in(tag, &name)));
        }
        let running = state.moment.started;
        let id = state.moment.objects.insert(plays, |number| Object {
            tags: all,
            at: pose.at,
            facing: pose.facing,
            enabled: enabled && above_on,
            off: !enabled,
            parent,
            seat,
            doomed: false,
            away: false,
            remembered,
            fresh: running,
            manages: role,
            scene,
            home: scene,
            ..Object::nobody(name.clone(), number)
        });
        if role {
            state.moment.scenes.take_role(name, id, place);
        }
        if let Some(parent) = parent.and_then(|parent| state.moment.objects.get_mut(parent)) {
            parent.children.push(id);
        }
        if body {
            state.make_body(id, shape)?;
        }
        if plays {
            state.furnish_player(id)?;
        }
        if running {
            state.note_spawned(id, plays, cause);
        }
        if let Some(scene) = scene.filter(|_| plays) {
            state.thaw(scene);
        }
        Ok(id)
    }
    /// Whether what was said of it can be so.
    fn check(&self) -> Result<(), Error> {
        let Self { state, name, role, .. } = self;
        check_path(name)?;
        self.tags.iter().try_for_each(|tag| check_name(tag))?;
        check_place(self.at)?;
        if *role {
            state.moment.scenes.check_role(name, &self.place)?;
        }
        if state.moment.objects.find(name).is_some() {
            return Err(Error::Build(BuildError::NameTaken { kind: "an object", name: name.clone() }));
        }
        let scene = self.scene.filter(|_| !role);
        if scene.is_some_and(|scene| !state.moment.scenes.is_loaded(scene)) {
            return Err(Error::NoSuchScene);
        }
        if let Some(most) = state.plan.most_players.filter(|_| self.plays)
            && state.players().count() >= most as usize
        {
            return Err(Error::NoRoom { most });
        }
        if self.parent.is_some_and(|parent| state.moment.objects.get(parent).is_none()) {
            return Err(Error::NoSuchObject);
        }
        Ok(self.shape.as_ref().map_or(Ok(()), Shape::check_body)?)
    }
}

impl State {
    /// An object was made while the world runs.
    fn note_spawned(&mut self, id: ObjectId, plays: bool, cause: Option<RecordId>) {
        // Of a scene that is loaded it is enough to say that it is.
        let record = if self.moment.scenes.loading {
            self.bus.trace.feed(&Value::Object(id));
            cause
        } else {
            self.bus.trace.note(cause, 0, Event::Spawned { object: id })
        };
        self.bus.watches.changed(Read::Object(id), record);
        self.moment.spawned.push((id, record));
        if plays {
            self.tell_joined(id, record);
        }
    }
}
