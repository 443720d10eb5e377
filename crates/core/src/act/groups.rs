//! Groups: wires that listen to the same signal of many objects, those that join later too.

use crate::{
    base::{
        doing::Doing,
        error::{BuildError, Error},
        ids::{ObjectId, SignalId, Tag, WireId},
        names::path,
        payload::list_fields,
    },
    plan::{
        reads::Read,
        wires::{CUT, GUARD_IN_RUST, Group, SEQUENCE, Source},
    },
    state::State,
};

impl State {
    /// The signal of that name that an object gives, if the object is in the group.
    fn group_signal(&self, tag: Option<Tag>, name: &str, object: ObjectId) -> Option<SignalId> {
        let object = self.moment.objects.get(object)?;
        if !tag.is_none_or(|tag| object.tags.contains(&tag)) {
            return None;
        }
        self.bus.signals.find(&path(&object.name, name))
    }

    pub(crate) fn group_tag(&mut self, group: &Group) -> Option<Tag> {
        let word = group.tag.as_ref()?;
        Some(match group.scene.and_then(|scene| self.moment.scenes.name(scene)) {
            Some(scene) => self.moment.objects.tag_in(word, scene),
            None => self.moment.objects.tag(word),
        })
    }

    /// Whether every object of the group that gives the signal gives it with the payload of that store.
    pub(crate) fn check_group(&mut self, group: &Group, name: &str, store: u32) -> Result<(), Error> {
        let tag = self.group_tag(group);
        let signals = self.moment.objects.iter().filter_map(|(id, _)| self.group_signal(tag, name, id));
        match signals.filter_map(|signal| self.bus.signals.lane(signal)).find(|lane| lane.store != store) {
            Some(lane) => Err(Error::Build(BuildError::PayloadMismatch {
                name: lane.name.clone(),
                declared: list_fields(&lane.fields),
                found: "the payload of another type".to_owned(),
            })),
            None => Ok(()),
        }
    }

    /// Puts a new wire on the list of its signal, or of those of its group.
    pub(crate) fn connect(&mut self, wire: WireId) {
        match self.moment.wires.get(wire).map(|wire| wire.source.clone()) {
            Some(Source::One(signal)) => self.join(wire, signal),
            Some(Source::Every { .. }) => {
                for index in 0..self.moment.objects.ids().len() {
                    self.join_group(wire, self.moment.objects.ids()[index]);
                }
            }
            None => {}
        }
    }

    /// An object was made, got a part or a tag, or lost one: group wires come and go.
    pub(crate) fn review_groups(&mut self, object: ObjectId) {
        for index in 0..self.moment.wires.groups.len() {
            self.join_group(self.moment.wires.groups[index], object);
        }
    }

    fn join_group(&mut self, id: WireId, object: ObjectId) {
        let Some(wire) = self.moment.wires.get(id) else { return };
        let Source::Every { tag, name, members } = &wire.source else { return };
        let Some(given) = self
            .moment
            .objects
            .get(object)
            .and_then(|object| self.bus.signals.find(&path(&object.name, name)))
        else {
            return;
        };
        let belongs = self.group_signal(*tag, name, object).is_some();
        let is_member = members.contains(given);
        if belongs == is_member || self.moment.wires.flags(id) & CUT != 0 {
            return;
        }
        if !belongs {
            self.leave_group(id, given);
            return;
        }
        // A sequence takes whatever comes; a closure only what it was written for.
        let flags = self.moment.wires.flags(id);
        let any_payload = flags & SEQUENCE != 0 && flags & GUARD_IN_RUST == 0;
        let store = wire.store;
        let Some(lane) = self.bus.signals.lane(given) else { return };
        if lane.store != store && !any_payload {
            let (signal, place) = (lane.name.clone(), wire.place.clone());
            let message = format!("{signal} carries another payload than the wire at {place} takes");
            let doing = Doing { by: Some(id), ..Doing::default() };
            self.note_fault(message.into(), crate::base::names::name_hash(&signal), Some(object), doing);
            return;
        }
        if let Some(Source::Every { members, .. }) =
            self.moment.wires.get_mut(id).map(|wire| &mut wire.source)
        {
            members.insert(given);
        }
        self.join(id, given);
    }

    fn leave_group(&mut self, id: WireId, signal: SignalId) {
        if let Some(Source::Every { members, .. }) =
            self.moment.wires.get_mut(id).map(|wire| &mut wire.source)
        {
            members.remove(signal);
        }
        self.moment.wires.disturbed += 1;
        if let Some(lane) = self.bus.signals.lane_mut(signal) {
            lane.stale = true;
        }
    }

    /// A signal ends with its object: wires on it alone end too, group wires lose a member.
    pub(crate) fn end_signal(&mut self, signal: SignalId) {
        let Some(lane) = self.bus.signals.lane(signal) else { return };
        let wires: Vec<_> = lane.wires.all().map(|entry| entry.wire).collect();
        for wire in wires {
            match self.moment.wires.get(wire).map(|wire| &wire.source) {
                Some(Source::Every { .. }) => self.leave_group(wire, signal),
                Some(Source::One(_)) => self.cut_now(wire, Doing::default()),
                None => {}
            }
        }
    }

    /// Gives an object a tag or takes it away.
    pub(crate) fn set_tag(&mut self, id: ObjectId, word: &str, on: bool) -> Result<(), Error> {
        crate::base::names::check_name(word)?;
        let tag = self.moment.objects.tag(word);
        self.give_tag(id, tag, on)
    }

    pub(crate) fn give_tag(&mut self, id: ObjectId, tag: Tag, on: bool) -> Result<(), Error> {
        self.moment.objects.get(id).ok_or(Error::NoSuchObject)?;
        if !self.moment.objects.set_tag(id, tag, on) {
            return Ok(());
        }
        if let Some(body) = self.moment.objects.get(id).and_then(|object| object.body.as_ref()) {
            self.moment.tracker.look_at(body.key);
        }
        self.look_again(id);
        self.bus.watches.changed(Read::Objects, None);
        self.review_groups(id);
        Ok(())
    }
}
