//! The trace in short lines, and a small scene on the towpath.
#![allow(unreachable_pub, reason = "shared by several test binaries")]

use stoicheon_core::{
    Door, DoorHandle, Event, ObjectId, Reason, Record, Refusal, State, Vec3, World, Zone, ZoneHandle, secs,
};

/// Each record as `phase what`, without those the test is not about.
pub fn told(state: &State) -> Vec<String> {
    state
        .trace()
        .records()
        .filter_map(|(_, record)| Some(format!("{} {}", record.phase.word(), line(state, &record)?)))
        .collect()
}

/// The same from one tick on.
pub fn told_since(state: &State, tick: u64) -> Vec<String> {
    let recent = state.trace().records().filter(|(_, record)| record.tick.0 >= tick);
    recent
        .filter_map(|(_, record)| Some(format!("{} {}", record.phase.word(), line(state, &record)?)))
        .collect()
}

fn line(state: &State, record: &Record) -> Option<String> {
    let name = |object: ObjectId| state.name(object).unwrap_or("gone").to_owned();
    let zone = |part| state.object_of(part).map_or("gone".to_owned(), name);
    let reason = |reason: Reason| reason.word();
    Some(match &record.event {
        Event::Entered { zone: part, body, reason: why } => {
            format!("{} enters {} ({})", name(*body), zone(*part), reason(*why))
        }
        Event::Left { zone: part, body, reason: why } => {
            format!("{} leaves {} ({})", name(*body), zone(*part), reason(*why))
        }
        Event::Delivered { signal, .. } => format!("delivers {}", state.signal_name(*signal)?),
        Event::Took { wire } => format!("takes {}", state.wire_order(*wire)?),
        Event::Refused { wire, why } => {
            let why = match why {
                Refusal::Asleep => "asleep",
                Refusal::Who => "who",
                Refusal::Guard { .. } => "guard",
                Refusal::Spent => "spent",
                Refusal::Cooling { .. } => "cooling",
                _ => "?",
            };
            format!("refuses {} ({why})", state.wire_order(*wire)?)
        }
        Event::Shifted { part, to, .. } => {
            format!("{} {}", zone(*part), state.kind_of(*part)?.states[usize::from(*to)])
        }
        Event::Set { var, to, .. } => format!("{} = {:?}", state.var_name(*var)?, to),
        Event::Enabled { object } => format!("{} enabled", name(*object)),
        Event::Disabled { object } => format!("{} disabled", name(*object)),
        Event::Destroyed { name, .. } => format!("{name} destroyed"),
        Event::Resumed { .. } => "resumes".to_owned(),
        Event::Dropped { .. } => "dropped".to_owned(),
        Event::Key { key, .. } => format!("key {key}"),
        Event::Fault { message, .. } => format!("fault: {message}"),
        _ => return None,
    })
}

/// A pad, a gate and a keeper who stands a little off.
pub struct Towpath {
    pub world: World<Vec<String>>,
    pub pad: ObjectId,
    pub zone: ZoneHandle,
    pub gate: ObjectId,
    pub door: DoorHandle,
    pub ada: ObjectId,
}

pub const PAD: Vec3 = Vec3::new(4.0, 0.0, 0.0);

pub fn towpath() -> Towpath {
    let mut world = World::new();
    let pad = world.object("towpath_pad").at(PAD).tag("pad").add().unwrap();
    let zone = world.attach(pad, Zone::boxed(Vec3::new(2.0, 2.0, 2.0))).unwrap();
    let gate = world.object("upper_gate").tag("gate").add().unwrap();
    let door = world.attach(gate, Door::swing(85.0).over(secs(0.1))).unwrap();
    let ada = world.player("ada").at(Vec3::ZERO).tag("keeper").add().unwrap();
    Towpath { world, pad, zone, gate, door, ada }
}

impl Towpath {
    /// Runs that many ticks and gives back what the reactions noted down.
    pub fn run(&mut self, ticks: u32) -> Vec<String> {
        let mut notes = Vec::new();
        for _ in 0..ticks {
            self.world.step(&mut notes).unwrap();
        }
        notes
    }
}
