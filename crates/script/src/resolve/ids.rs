//! Where ids come from: a check needs none, a build finds those of its world.

use smol_str::SmolStr;
use stoicheon_core::{Place, PropertyName, SceneId, SignalId, State, StateTest, Tag, TickRate};

use crate::source::{Sources, Span};

/// Where the ids come from that a world gives out by name.
pub(crate) trait Ids {
    fn tag(&self, word: &str) -> Tag;
    fn property(&self, word: &str) -> PropertyName;
    fn state_test(&self, word: &str) -> StateTest;
    fn signal(&self, name: &str) -> SignalId;
    fn rate(&self) -> TickRate;
    /// The tag, wherever those are that have it.
    fn tag_anywhere(&self, word: &str) -> Tag {
        self.tag(word)
    }
    fn scene(&self, name: &str) -> SceneId;
    /// The scene of a project that it is written in, if it is in one.
    fn home(&self) -> Option<SceneId> {
        None
    }
    /// Where something is written.
    fn place(&self, _: Span) -> Place {
        Place { file: SmolStr::new_static("?"), line: 0 }
    }
}

/// For a check, which needs none.
pub(crate) struct NoIds;

impl Ids for NoIds {
    fn tag(&self, _: &str) -> Tag {
        Tag::default()
    }
    fn property(&self, _: &str) -> PropertyName {
        PropertyName::default()
    }
    fn state_test(&self, _: &str) -> StateTest {
        StateTest::default()
    }
    fn signal(&self, _: &str) -> SignalId {
        SignalId::default()
    }
    fn rate(&self) -> TickRate {
        TickRate::default()
    }
    fn scene(&self, _: &str) -> SceneId {
        SceneId::default()
    }
}

impl Ids for &State {
    fn tag(&self, word: &str) -> Tag {
        self.find_tag(word).unwrap_or_default()
    }
    fn property(&self, word: &str) -> PropertyName {
        self.find_property(word).unwrap_or_default()
    }
    fn state_test(&self, word: &str) -> StateTest {
        State::state_test(self, word)
    }
    fn signal(&self, name: &str) -> SignalId {
        self.find_signal(name).unwrap_or_default()
    }
    fn rate(&self) -> TickRate {
        State::rate(self)
    }
    fn scene(&self, name: &str) -> SceneId {
        self.find_scene(name).unwrap_or_default()
    }
}

/// For what is written in a scene of a project: a tag means those who are in it.
pub(crate) struct InScene<'w> {
    pub(crate) world: &'w State,
    /// The name of the scene, if it is one of a project.
    pub(crate) scene: Option<SmolStr>,
    pub(crate) sources: &'w Sources,
}

impl Ids for InScene<'_> {
    fn tag(&self, word: &str) -> Tag {
        let Some(scene) = self.scene.as_ref().and_then(|scene| self.world.find_scene(scene)) else {
            return Ids::tag(&self.world, word);
        };
        self.world.find_tag_in(scene, word).unwrap_or_default()
    }
    fn property(&self, word: &str) -> PropertyName {
        Ids::property(&self.world, word)
    }
    fn state_test(&self, word: &str) -> StateTest {
        Ids::state_test(&self.world, word)
    }
    fn signal(&self, name: &str) -> SignalId {
        Ids::signal(&self.world, name)
    }
    fn rate(&self) -> TickRate {
        Ids::rate(&self.world)
    }
    fn tag_anywhere(&self, word: &str) -> Tag {
        Ids::tag(&self.world, word)
    }
    fn scene(&self, name: &str) -> SceneId {
        Ids::scene(&self.world, name)
    }
    fn home(&self) -> Option<SceneId> {
        self.world.find_scene(self.scene.as_ref()?)
    }
    fn place(&self, span: Span) -> Place {
        self.sources.place(span)
    }
}
