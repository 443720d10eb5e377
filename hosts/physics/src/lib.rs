//! A host whose bodies a physics engine moves: a walker who pushes a crate along the quay, past a gate that a plate opens.
//!
//! The engine owns every place. Before each tick of the world it takes one step of its own and says where bodies are; what
//! its sensors report is told to zones without a shape. The gate's leaf is a body of the engine that the world moves. The
//! same course runs with zones that have a shape, and the same signals come in the same order.

use std::{
    collections::BTreeMap,
    sync::mpsc::{Receiver, channel},
};

use rapier3d::prelude::{
    ActiveEvents, ChannelEventCollector, ColliderBuilder, ColliderHandle, CollisionEvent, PhysicsWorld,
    RigidBodyBuilder, RigidBodyHandle, Vector,
};
use stoicheon::{
    Config, Error, ObjectId, PartId, Vec3, World,
    parts::{Door, DoorHandle, Zone, ZoneHandle},
    secs,
    space::Shape,
    view::TraceText,
};

/// Ticks per second, of the world and of the engine.
const RATE: f32 = 30.0;
/// How fast the walker goes, in scene units per second.
const PACE: f32 = 3.0;
/// How far the gate's leaf goes up.
const RISE: f32 = 2.5;

/// What the game keeps: what it heard, in order.
pub type Heard = Vec<String>;

/// Who says who is inside a zone.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Zones {
    /// The engine's sensors.
    Told,
    /// The world, by their shapes.
    Shaped,
}

/// A body that the engine moves, and its object.
struct Moved {
    body: RigidBodyHandle,
    object: ObjectId,
}

/// The course on its way.
pub struct Course {
    /// The world.
    pub world: World<Heard>,
    /// What was heard so far.
    pub heard: Heard,
    physics: PhysicsWorld,
    events: ChannelEventCollector,
    collisions: Receiver<CollisionEvent>,
    moved: Vec<Moved>,
    /// What each collider is: a zone's sensor, or a body.
    sensors: BTreeMap<(u32, u32), PartId>,
    objects: BTreeMap<(u32, u32), ObjectId>,
    gate: DoorHandle,
    leaf: RigidBodyHandle,
}

impl std::fmt::Debug for Course {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Course").field("heard", &self.heard).finish_non_exhaustive()
    }
}

fn key(collider: ColliderHandle) -> (u32, u32) {
    collider.into_raw_parts()
}

fn vector(at: Vec3) -> Vector {
    Vector::new(at.x, at.y, at.z)
}

fn place(at: Vector) -> Vec3 {
    Vec3::new(at.x, at.y, at.z)
}

impl Course {
    /// Makes the course.
    ///
    /// # Errors
    /// What the world says.
    pub fn new(zones: Zones) -> Result<Self, Error> {
        let mut physics = PhysicsWorld::new();
        physics.integration_parameters.dt = 1.0 / RATE;
        let (collided, collisions) = channel();
        // Forces and tears are nobody's here: what is sent without a receiver is dropped.
        let events = ChannelEventCollector::new(collided, channel().0, channel().0);
        let quay = RigidBodyBuilder::fixed().translation(Vector::new(10.0, -0.5, 0.0));
        physics.insert(quay, ColliderBuilder::cuboid(20.0, 0.5, 3.0).friction(0.2));

        let mut world = World::<Heard>::with(Config::default());
        let gate_at = Vec3::new(8.0, 1.0, 0.0);
        let gate = world.object("gate").at(gate_at).add()?;
        let door = world.attach(gate, Door::slide(Vec3::Y * RISE).over(secs(6.0)))?;
        let leaf = RigidBodyBuilder::kinematic_position_based().translation(vector(gate_at));
        let (leaf, _) = physics.insert(leaf, ColliderBuilder::cuboid(0.1, 1.0, 1.5));

        let mut course = Self {
            world,
            heard: Heard::new(),
            physics,
            events,
            collisions,
            moved: Vec::new(),
            sensors: BTreeMap::new(),
            objects: BTreeMap::new(),
            gate: door,
            leaf,
        };
        let plate = course.zone("plate", Vec3::new(5.0, 0.5, 0.0), zones)?;
        let landing = course.zone("landing", Vec3::new(14.0, 0.5, 0.0), zones)?;
        course.add("walker", Vec3::new(0.0, 0.4, 0.0), true)?;
        course.add("cargo", Vec3::new(9.5, 0.4, 0.0), false)?;
        course.wire(plate, landing)?;
        Ok(course)
    }

    /// A zone of two units, with a shape or told by a sensor of the same size.
    fn zone(&mut self, name: &str, at: Vec3, zones: Zones) -> Result<ZoneHandle, Error> {
        let object = self.world.object(name).at(at).add()?;
        if zones == Zones::Shaped {
            return self.world.attach(object, Zone::boxed(Vec3::splat(2.0)));
        }
        let zone = self.world.attach(object, Zone::told())?;
        let sensor = ColliderBuilder::cuboid(1.0, 1.0, 1.0)
            .translation(vector(at))
            .sensor(true)
            .active_events(ActiveEvents::COLLISION_EVENTS);
        self.sensors.insert(key(self.physics.colliders.insert(sensor)), zone.part);
        Ok(zone)
    }

    /// A body of the engine, and of the world: a ball who walks, or a crate.
    fn add(&mut self, name: &str, at: Vec3, walks: bool) -> Result<(), Error> {
        let body = RigidBodyBuilder::dynamic().translation(vector(at)).lock_rotations();
        let (collider, shape) = if walks {
            (ColliderBuilder::ball(0.4).friction(0.0), Shape::ball(0.4))
        } else {
            (ColliderBuilder::cuboid(0.4, 0.4, 0.4).friction(0.2), Shape::boxed(Vec3::splat(0.8)))
        };
        let (body, collider) = self.physics.insert(body, collider);
        let object = self.world.object(name).at(at).tag(name).body_of(shape).add()?;
        self.objects.insert(key(collider), object);
        self.moved.push(Moved { body, object });
        Ok(())
    }

    fn wire(&mut self, plate: ZoneHandle, landing: ZoneHandle) -> Result<(), Error> {
        let gate = self.gate;
        for (zone, name) in [(plate, "plate"), (landing, "landing")] {
            for (signal, what) in [(zone.entered, "entered"), (zone.left, "left")] {
                let note = move |heard: &mut Heard, _: &_, cx: &mut stoicheon::Cx<'_, Heard>| {
                    let who = cx.who().and_then(|who| cx.name(who)).unwrap_or("nobody");
                    heard.push(format!("{name} {what} by {who}"));
                };
                self.world.on(signal).run(note)?;
            }
        }
        self.world.on(plate.entered).by("walker").run(move |_: &mut Heard, _, cx| cx.open(gate))?;
        self.world.on(landing.entered).by("walker").run(move |_: &mut Heard, _, cx| cx.close(gate))?;
        for (signal, what) in [(gate.opened, "gate opened"), (gate.closed, "gate closed")] {
            self.world.on(signal).run(move |heard: &mut Heard, (), _| heard.push(what.to_owned()))?;
        }
        Ok(())
    }

    /// One frame of so many seconds, with as many ticks of both as fit.
    ///
    /// # Errors
    /// What the world says.
    pub fn frame(&mut self, seconds: f64) -> Result<(), Error> {
        let Self { world, heard, physics, events, collisions, moved, sensors, objects, gate, leaf } = self;
        let mut wrong = Ok(());
        let before_each = |world: &mut World<Heard>, _: &mut Heard| {
            wrong = step(world, physics, events, (collisions, moved, sensors, objects), (gate.part, *leaf));
        };
        world.advance_with(secs(seconds), heard, before_each)?;
        wrong
    }

    /// How far along the walker is.
    pub fn walker_at(&self) -> f32 {
        self.physics.bodies[self.moved[0].body].translation().x
    }

    /// How high the lower edge of the gate's leaf is.
    pub fn leaf_at(&self) -> f32 {
        self.physics.bodies[self.leaf].translation().y - 1.0
    }

    /// The trace since this was asked last.
    pub fn trace(&self, text: &mut TraceText) -> String {
        text.new_ticks(&self.world)
    }
}

type Told<'a> = (
    &'a Receiver<CollisionEvent>,
    &'a [Moved],
    &'a BTreeMap<(u32, u32), PartId>,
    &'a BTreeMap<(u32, u32), ObjectId>,
);

/// One step of the engine, and what the world is told of it.
fn step(
    world: &mut World<Heard>,
    physics: &mut PhysicsWorld,
    events: &ChannelEventCollector,
    (collisions, moved, sensors, objects): Told<'_>,
    (door, leaf): (PartId, RigidBodyHandle),
) -> Result<(), Error> {
    // The world moves the leaf: as far up as its door is open.
    let openness = world.part::<Door>(door)?.openness();
    #[expect(clippy::cast_possible_truncation, reason = "the engine works in single precision")]
    let up = 1.0 + RISE * openness as f32;
    physics.bodies[leaf].set_next_kinematic_translation(Vector::new(8.0, up, 0.0));
    // The walker walks.
    let walker = &mut physics.bodies[moved[0].body];
    let fall = walker.linvel().y;
    walker.set_linvel(Vector::new(PACE, fall, 0.0), true);
    physics.step_with_events(&(), events);
    for Moved { body, object } in moved {
        world.move_to(*object, place(physics.bodies[*body].translation()))?;
    }
    for collision in collisions.try_iter() {
        let (one, two) = match collision {
            CollisionEvent::Started(one, two, _) | CollisionEvent::Stopped(one, two, _) => (one, two),
        };
        for (sensor, collider) in [(one, two), (two, one)] {
            if let (Some(zone), Some(body)) = (sensors.get(&key(sensor)), objects.get(&key(collider))) {
                world.touch(*zone, *body, collision.started())?;
            }
        }
    }
    Ok(())
}
