//! Everything that is true now, as data: for a game's own inspector, and for what draws and explains a world.

pub(crate) mod leads;
pub(crate) mod objects;
pub(crate) mod waits;
pub(crate) mod wires;

use crate::{
    base::{
        clock::Tick,
        ids::{EffectId, SignalId, SpotId},
    },
    inspect::{
        objects::{InspectedObject, InspectedVar},
        waits::{InspectedTween, InspectedWait},
        wires::InspectedWire,
    },
    state::State,
};

/// Everything that is true now, as data: see [`State::inspect`].
#[derive(Clone, Debug, Default, PartialEq)]
#[non_exhaustive]
pub struct Inspection {
    /// The tick under way, or the last one that ended.
    pub tick: Tick,
    /// The objects, by number, each with its parts and variables.
    pub objects: Vec<InspectedObject>,
    /// The spots, in the order they were made; [`State::spot`] tells of each.
    pub spots: Vec<SpotId>,
    /// The variables that belong to no object, in the order of their making.
    pub variables: Vec<InspectedVar>,
    /// The wires, in the order of their making.
    pub wires: Vec<InspectedWire>,
    /// What waits, the one that is due first in front.
    pub waits: Vec<InspectedWait>,
    /// The tweens under way.
    pub tweens: Vec<InspectedTween>,
    /// How often each signal was delivered, in the order they were declared.
    pub signals: Vec<(SignalId, u64)>,
    /// How often each effect was performed.
    pub effects: Vec<(EffectId, u64)>,
}

impl State {
    /// Everything that is true now, as data: objects with their parts, settings, states, variables and tags; wires with how
    /// often each was taken and refused; what waits and until when.
    ///
    /// It costs what exists: it is for an inspector that somebody looks at, and not for every tick of a game.
    ///
    /// ```
    /// use stoicheon_core::{Door, World};
    /// let mut world = World::<()>::new();
    /// let gate = world.object("upper_gate").tag("gate").add()?;
    /// let gate = world.attach(gate, Door::swing(85.0))?;
    /// let bell = world.declare_signal::<()>("bell")?;
    /// world.on(bell).run(move |(), (), cx| cx.open(gate))?;
    /// world.emit(bell, ())?;
    /// world.step(&mut ())?;
    /// let now = world.inspect();
    /// let seen = now.object("upper_gate").expect("it was made");
    /// assert_eq!((seen.tags[0].as_str(), seen.parts[0].state), ("gate", Some("opening")));
    /// assert_eq!(now.wires[0].counts.taken, 1);
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    pub fn inspect(&self) -> Inspection {
        let signals = self.bus.signals.names().filter_map(|name| self.find_signal(name));
        Inspection {
            tick: self.now(),
            objects: self.objects().filter_map(|object| self.inspect_object(object)).collect(),
            spots: self.plan.spots.ids().collect(),
            variables: self.inspect_variables(),
            wires: self.inspect_wires(),
            waits: self.inspect_waits(),
            tweens: self.inspect_tweens(),
            signals: signals.map(|signal| (signal, self.delivered(signal))).collect(),
            effects: self.moment.effects.ids().map(|effect| (effect, self.performed(effect))).collect(),
        }
    }
}

impl Inspection {
    /// The object of that name.
    pub fn object(&self, name: &str) -> Option<&InspectedObject> {
        self.objects.iter().find(|object| object.name == name)
    }
}
