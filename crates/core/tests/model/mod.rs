//! The law, naively: everything in plain lists, looked through from the start each time.
#![allow(unreachable_pub, reason = "a module of a test")]

use std::collections::VecDeque;

use proptest::prelude::*;
use stoicheon_core::Busy;

/// How many emissions may lead to one another.
pub const DEEPEST: u32 = 2;
/// Past this many wires, programs make no more.
pub const MOST_WIRES: usize = 16;

const POLICIES: [Busy; 4] = [Busy::Overlap, Busy::Ignore, Busy::Restart, Busy::Queue];

/// What a reaction does.
#[derive(Clone, Copy, Debug)]
pub enum Action {
    Emit(usize),
    Enable(usize),
    Disable(usize),
    Destroy(usize),
    Cut(usize),
    Spawn,
    Wire(Wiring),
}

/// A template and an owner, as numbers.
#[derive(Clone, Copy, Debug)]
pub struct Wiring {
    template: usize,
    owner: Option<usize>,
}

/// How a wire is made.
#[derive(Clone, Debug)]
pub struct Template {
    pub signal: usize,
    pub order: i32,
    pub times: Option<u64>,
    pub cooldown: Option<u64>,
    pub delay: Option<u64>,
    pub busy: Busy,
    pub actions: Vec<Action>,
}

/// What the host hands in.
#[derive(Clone, Copy, Debug)]
pub enum Input {
    Emit(usize),
    Enable(usize),
    Disable(usize),
    Destroy(usize),
}

/// A scene and what happens to it, tick by tick.
#[derive(Clone, Debug)]
pub struct Program {
    templates: Vec<Template>,
    pub wirings: Vec<Wiring>,
    pub inputs: Vec<Vec<Input>>,
}

impl Program {
    pub fn resolve(&self, wiring: Wiring) -> (&Template, Option<usize>) {
        (&self.templates[wiring.template % self.templates.len()], wiring.owner)
    }
}

fn wiring() -> impl Strategy<Value = Wiring> {
    (0_usize..6, prop::option::of(0_usize..4)).prop_map(|(template, owner)| Wiring { template, owner })
}

fn action() -> impl Strategy<Value = Action> {
    prop_oneof![
        4 => (0_usize..3).prop_map(Action::Emit),
        1 => (0_usize..4).prop_map(Action::Enable),
        1 => (0_usize..4).prop_map(Action::Disable),
        1 => (0_usize..6).prop_map(Action::Destroy),
        1 => (0_usize..20).prop_map(Action::Cut),
        1 => Just(Action::Spawn),
        2 => wiring().prop_map(Action::Wire),
    ]
}

fn template() -> impl Strategy<Value = Template> {
    (
        0_usize..3,
        -2_i32..3,
        prop::option::weighted(0.3, 1_u64..4),
        prop::option::weighted(0.3, 1_u64..4),
        prop::option::weighted(0.4, 1_u64..4),
        prop::sample::select(POLICIES.to_vec()),
        prop::collection::vec(action(), 0..3),
    )
        .prop_map(|(signal, order, times, cooldown, delay, busy, actions)| Template {
            signal,
            order,
            times,
            cooldown,
            delay,
            busy,
            actions,
        })
}

fn input() -> impl Strategy<Value = Input> {
    prop_oneof![
        5 => (0_usize..3).prop_map(Input::Emit),
        1 => (0_usize..4).prop_map(Input::Enable),
        1 => (0_usize..4).prop_map(Input::Disable),
        1 => (0_usize..9).prop_map(Input::Destroy),
    ]
}

pub fn program() -> impl Strategy<Value = Program> {
    (
        prop::collection::vec(template(), 1..6),
        prop::collection::vec(wiring(), 1..8),
        prop::collection::vec(prop::collection::vec(input(), 0..4), 1..12),
    )
        .prop_map(|(templates, wirings, inputs)| Program { templates, wirings, inputs })
}

struct Object {
    enabled: bool,
    gone: bool,
}

struct Wire {
    template: Template,
    owner: Option<usize>,
    cut: bool,
    taken: u64,
    spent: u64,
    cooling: u64,
    running: u64,
    cool_until: u64,
    /// Payloads held back while an earlier reaction waits.
    held: VecDeque<u32>,
}

struct Wait {
    due: u64,
    wire: usize,
    depth: u32,
}

/// The naive model.
pub struct Model {
    program: Program,
    now: u64,
    objects: Vec<Object>,
    wires: Vec<Wire>,
    queue: VecDeque<(usize, u32)>,
    /// In the order in which they began to wait.
    waits: Vec<Wait>,
    pub log: Vec<(u64, usize)>,
}

impl Model {
    pub fn new(program: &Program) -> Self {
        let mut model = Self {
            program: program.clone(),
            now: 0,
            objects: (0..3).map(|_| Object { enabled: true, gone: false }).collect(),
            wires: Vec::new(),
            queue: VecDeque::new(),
            waits: Vec::new(),
            log: Vec::new(),
        };
        for wiring in program.wirings.clone() {
            model.wire(wiring);
        }
        model
    }

    fn wire(&mut self, wiring: Wiring) {
        let (template, owner) = self.program.resolve(wiring);
        let (template, owner) = (template.clone(), owner.map(|owner| owner % self.objects.len()));
        if owner.is_some_and(|owner| self.objects[owner].gone) {
            return;
        }
        self.wires.push(Wire {
            template,
            owner,
            cut: false,
            taken: 0,
            spent: 0,
            cooling: 0,
            running: 0,
            cool_until: 0,
            held: VecDeque::new(),
        });
    }

    fn awake(&self, wire: usize) -> bool {
        let Wire { cut, owner, .. } = &self.wires[wire];
        !cut && owner.is_none_or(|owner| self.objects[owner].enabled && !self.objects[owner].gone)
    }

    fn is_running(&self, wire: usize) -> bool {
        self.waits.iter().any(|wait| wait.wire == wire)
    }

    pub fn tick(&mut self, inputs: &[Input]) {
        self.now += 1;
        for input in inputs {
            match *input {
                Input::Emit(signal) => self.queue.push_back((signal % 3, 0)),
                Input::Enable(object) => self.switch(object, true),
                Input::Disable(object) => self.switch(object, false),
                Input::Destroy(object) => self.destroy(object),
            }
        }
        while let Some(index) = self.next_due() {
            let Wait { wire, depth, .. } = self.waits.remove(index);
            self.react(wire, depth);
            while !self.is_running(wire)
                && let Some(depth) = self.wires[wire].held.pop_front()
            {
                self.wait(wire, depth);
            }
        }
        while let Some((signal, depth)) = self.queue.pop_front() {
            self.deliver(signal, depth);
        }
    }

    /// The wait that is due first; of several, the one that began first.
    fn next_due(&self) -> Option<usize> {
        let due = self.waits.iter().enumerate().filter(|(_, wait)| wait.due <= self.now);
        due.min_by_key(|(index, wait)| (wait.due, *index)).map(|(index, _)| index)
    }

    fn deliver(&mut self, signal: usize, depth: u32) {
        let mut list: Vec<usize> = (0..self.wires.len())
            .filter(|wire| self.wires[*wire].template.signal % 3 == signal && self.awake(*wire))
            .collect();
        list.sort_by_key(|wire| (self.wires[*wire].template.order, *wire));
        for wire in list {
            if self.awake(wire) {
                self.offer(wire, depth);
            }
        }
    }

    fn offer(&mut self, index: usize, depth: u32) {
        let running = self.is_running(index);
        let (now, wire) = (self.now, &mut self.wires[index]);
        if wire.template.times.is_some_and(|times| wire.taken >= times) {
            wire.spent += 1;
            return;
        }
        if wire.cool_until > now {
            wire.cooling += 1;
            return;
        }
        if running && wire.template.busy == Busy::Ignore {
            wire.running += 1;
            return;
        }
        wire.taken += 1;
        if let Some(span) = wire.template.cooldown {
            wire.cool_until = now + span;
        }
        if running && wire.template.busy == Busy::Queue {
            wire.held.push_back(depth);
            return;
        }
        if running && wire.template.busy == Busy::Restart {
            self.waits.retain(|wait| wait.wire != index);
        }
        if self.wires[index].template.delay.is_some() {
            self.wait(index, depth);
        } else {
            self.react(index, depth);
        }
    }

    fn wait(&mut self, wire: usize, depth: u32) {
        let due = self.now + self.wires[wire].template.delay.unwrap_or(0);
        self.waits.push(Wait { due, wire, depth });
    }

    fn react(&mut self, wire: usize, depth: u32) {
        self.log.push((self.now, wire));
        for action in self.wires[wire].template.actions.clone() {
            match action {
                Action::Emit(signal) if depth < DEEPEST => self.queue.push_back((signal % 3, depth + 1)),
                Action::Enable(object) => self.switch(object, true),
                Action::Disable(object) => self.switch(object, false),
                Action::Destroy(object) => self.destroy(object),
                Action::Cut(wire) => {
                    let wire = wire % self.wires.len();
                    self.wires[wire].cut = true;
                    self.give_up(wire);
                }
                Action::Spawn => self.objects.push(Object { enabled: true, gone: false }),
                Action::Wire(wiring) if self.wires.len() < MOST_WIRES => self.wire(wiring),
                Action::Emit(_) | Action::Wire(_) => {}
            }
        }
    }

    fn switch(&mut self, object: usize, on: bool) {
        let object = object % self.objects.len();
        self.objects[object].enabled = on;
        if !on {
            self.give_up_all_of(object);
        }
    }

    /// What waits of a wire that nobody hears any more is given up at once.
    fn give_up(&mut self, wire: usize) {
        self.waits.retain(|wait| wait.wire != wire);
        self.wires[wire].held.clear();
    }

    fn give_up_all_of(&mut self, object: usize) {
        for wire in 0..self.wires.len() {
            if self.wires[wire].owner == Some(object) {
                self.give_up(wire);
            }
        }
    }

    fn destroy(&mut self, object: usize) {
        let object = object % self.objects.len();
        self.objects[object].gone = true;
        self.wires.iter_mut().filter(|wire| wire.owner == Some(object)).for_each(|wire| wire.cut = true);
        self.give_up_all_of(object);
    }

    pub fn counts(&self) -> Vec<Option<(u64, u64, u64, u64)>> {
        let of = |wire: &Wire| (!wire.cut).then_some((wire.taken, wire.spent, wire.cooling, wire.running));
        self.wires.iter().map(of).collect()
    }
}
