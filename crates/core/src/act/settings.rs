//! What parts say of themselves, and their settings that change while the world runs.

use smol_str::SmolStr;

use crate::{
    base::{
        doing::Doing,
        error::{Error, Near},
        ids::{ObjectId, PartId},
        payload::type_word,
        value::{Text, Value},
    },
    part::{cx::ReadCx, kind::PartKind, setting::Setting, setting_type::SettingInfoType},
    state::State,
    trace::record::Event,
};

impl State {
    /// What a part says of itself: one of its kind's readings, or one of its settings that may change; for a player, if there is
    /// one for each. Nothing if it has none of that name, or cannot say.
    pub fn reading(&self, part: PartId, name: &str, who: Option<ObjectId>) -> Option<Value> {
        let known = self.parts.part(part)?;
        let object = self.object_of(part)?;
        self.moment.objects.get(object)?;
        known.read(name, &ReadCx { state: self, part, who })
    }

    /// The first part of a kind that an object has.
    pub(crate) fn part_of_kind(&self, object: ObjectId, kind: &str) -> Option<PartId> {
        let is_one = |part: &&PartId| self.kind_of(**part).is_some_and(|known| known.name == kind);
        self.parts_of(object).iter().find(is_one).copied()
    }

    /// Whether a part has a setting of that name that may change.
    pub(crate) fn check_live(&self, part: PartId, name: &str) -> Result<&'static str, Error> {
        self.live_setting(part, name).map(|(_, setting)| setting.name)
    }

    fn live_setting(&self, part: PartId, name: &str) -> Result<(&'static PartKind, &'static Setting), Error> {
        let object = self.object_of(part).filter(|object| self.moment.objects.get(*object).is_some());
        let kind = object.and_then(|_| self.kind_of(part)).ok_or(Error::NoSuchPart)?;
        let live = |setting: &&Setting| setting.live;
        let found = kind.settings.iter().filter(live).find(|setting| setting.name == name);
        found.map(|setting| (kind, setting)).ok_or_else(|| {
            let mut known = kind.settings.iter().filter(live).map(|setting| setting.name);
            let near = Near::of(name, &mut known);
            Error::FixedSetting { kind: kind.name, found: name.into(), near }
        })
    }

    /// Whether a setting may be changed to that, and to what exactly.
    pub(crate) fn check_setting(
        &self,
        part: PartId,
        name: &str,
        to: Value,
    ) -> Result<(&'static str, Value), Error> {
        let (kind, setting) = self.live_setting(part, name)?;
        let expected = SettingInfoType::from(setting.ty).value_type().ok_or(Error::NoSuchPart)?;
        let found = type_word(&to);
        match expected.hold(to) {
            Some(to) => Ok((setting.name, to)),
            None => {
                let (kind, setting) = (kind.name, setting.name);
                Err(Error::WrongSetting { kind, setting, expected, found })
            }
        }
    }

    /// Changes a setting, at once.
    pub(crate) fn change_setting(
        &mut self,
        part: PartId,
        name: &str,
        to: Value,
        doing: Doing,
    ) -> Result<(), Error> {
        let object = self.object_of(part).ok_or(Error::NoSuchPart)?;
        if self.moment.objects.get(object).is_none() {
            return Err(self.ended(object).unwrap_or(Error::NoSuchPart));
        }
        let (name, to) = self.check_setting(part, name, to)?;
        let from = self.reading(part, name, None).unwrap_or_default();
        if from == to {
            return Ok(());
        }
        let setting: Text = SmolStr::new_static(name);
        let event = Event::Changed { part, setting, from, to: to.clone() };
        let told = self.part_told(part, doing, &[], |part, cx| {
            part.change(name, &to, cx)?;
            cx.note(event);
            Ok(())
        });
        told.ok_or(Error::NoSuchPart)?.map_err(Error::Build)
    }
}
