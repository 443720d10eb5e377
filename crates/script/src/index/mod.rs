//! The names of a scene or a project: where each is declared, and where it is used for what. It is made by the resolver itself, so that
//! a name means here what it means when the world is built.

mod decls;
mod group;
mod rename;
mod roles;

use smol_str::SmolStr;

use crate::{
    index::decls::Decls,
    load::{AllRead, Loaded},
    project::Project,
    resolve::{Note, Notes, Resolver, View},
    source::{Sources, Span},
};

pub use rename::{Edit, NotRenamed};

/// What kind of thing a name is of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum NameKind {
    /// A scene of a project.
    Scene,
    /// An object.
    Object,
    /// A manager.
    Manager,
    /// A mould.
    Mould,
    /// A tag.
    Tag,
    /// A signal.
    Signal,
    /// An effect.
    Effect,
    /// A variable, of a scene or of an object.
    Variable,
    /// A named constant.
    Given,
    /// A spot.
    Spot,
    /// A routine.
    Routine,
    /// A kit.
    Kit,
    /// What a use of a kit is called.
    KitUse,
    /// A parameter of a kit.
    Parameter,
    /// A field of a signal or of an effect.
    Field,
    /// What a sequence or a routine calls something for itself, or a column of cases.
    Local,
    /// A player of a playtest.
    Player,
}

impl NameKind {
    /// The kinds, in the order in which several of one name are told of.
    pub const ALL: [Self; 17] = [
        Self::Scene,
        Self::Object,
        Self::Manager,
        Self::Mould,
        Self::Tag,
        Self::Signal,
        Self::Effect,
        Self::Variable,
        Self::Given,
        Self::Spot,
        Self::Routine,
        Self::Kit,
        Self::KitUse,
        Self::Parameter,
        Self::Field,
        Self::Local,
        Self::Player,
    ];

    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Scene => "scene",
            Self::Object => "object",
            Self::Manager => "manager",
            Self::Mould => "mould",
            Self::Tag => "tag",
            Self::Signal => "signal",
            Self::Effect => "effect",
            Self::Variable => "variable",
            Self::Given => "given",
            Self::Spot => "spot",
            Self::Routine => "routine",
            Self::Kit => "kit",
            Self::KitUse => "use",
            Self::Parameter => "parameter",
            Self::Field => "field",
            Self::Local => "local",
            Self::Player => "player",
        }
    }
}

/// What is done with a name where it stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum NameRole {
    /// It is declared.
    Declared,
    /// A wire listens to it, or to a signal of it.
    Taken,
    /// It is emitted.
    Sent,
    /// An effect is performed.
    Performed,
    /// It is set, tweened or kept by a bind.
    Set,
    /// It is commanded, enabled, disabled or destroyed.
    Commanded,
    /// A kit, a routine or a mould is used.
    Used,
    /// A tag is given to something, or a parameter gets its value.
    Given,
    /// Its value is asked for, or it is named.
    Read,
}

impl NameRole {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Declared => "declared",
            Self::Taken => "taken",
            Self::Sent => "sent",
            Self::Performed => "performed",
            Self::Set => "set",
            Self::Commanded => "commanded",
            Self::Used => "used",
            Self::Given => "given",
            Self::Read => "read",
        }
    }
}

/// A place where a name stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[non_exhaustive]
pub struct NamePlace {
    /// Where.
    pub span: Span,
    /// What is done with it there.
    pub role: NameRole,
}

/// A name, with all places where it stands. Where several declarations are used by one word, as those of `each lamp.lit`, they are one
/// name.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct NamedThing {
    /// What kind of thing it is of; the first, if it is of several: a mould is a tag, too.
    pub kind: NameKind,
    /// The name.
    pub name: SmolStr,
    /// The scene of a project that it is declared in.
    pub scene: Option<SmolStr>,
    /// With what it belongs to before it: `upper_gate.lit`; the first, if there are several.
    pub whole: SmolStr,
    /// Where it stands, file by file in the order of the text; where it is declared is among them.
    pub places: Vec<NamePlace>,
    /// The game's own code speaks of it, too: it sends it, listens to it or performs it.
    pub is_games: bool,
}

/// The names of a scene or of a project.
///
/// ```
/// use stoicheon_core::Catalogue;
/// let text = "signal bell\nobject bell { door { over 1s } }\non bell { open bell }\n";
/// let loaded = stoicheon_script::load("lock.stoi", text, &Catalogue::built_in());
/// let index = loaded.index();
/// let found: Vec<_> = index.find("bell").map(|thing| (thing.kind.word(), thing.places.len())).collect();
/// assert_eq!(found, [("object", 2), ("signal", 2)]);
/// ```
#[derive(Clone, Debug)]
pub struct Index {
    things: Vec<NamedThing>,
}

impl Index {
    fn of(read: &AllRead, views: &[View], known: Option<Vec<Note>>) -> Self {
        let is_known = known.is_some();
        let mut notes = known.unwrap_or_default();
        for view in views.iter().filter(|_| !is_known) {
            let mut ignored = Vec::new();
            let scenes = read.scenes.as_deref();
            let (files, catalogue) = (&read.files, &read.catalogue);
            let mut resolver =
                Resolver::noting(files, catalogue, scenes, *view, &mut ignored, Notes::wanted());
            resolver.check(files);
            notes.extend(resolver.report.notes.take());
        }
        Self { things: group::things(read, &Decls::of(&read.files), notes) }
    }

    /// All names, in the order in which they are declared.
    pub fn things(&self) -> &[NamedThing] {
        &self.things
    }

    /// The things that a name means: `bell`, `upper_gate.lit`, with the scene of a project before it, `tunnel.bell`, or with the word for
    /// their kind, `signal bell`. By kind, then in the order in which they are declared.
    pub fn find(&self, asked: &str) -> impl Iterator<Item = &NamedThing> {
        let (kind, name) = match asked.trim().split_once(' ') {
            Some((word, name)) => (NameKind::ALL.into_iter().find(|kind| kind.word() == word), name.trim()),
            None => (None, asked.trim()),
        };
        let fits = |thing: &&NamedThing| {
            let in_scene = || {
                let rest = name.strip_prefix(thing.scene.as_deref()?)?.strip_prefix('.')?;
                Some(thing.name == rest || thing.whole == rest)
            };
            let by_name = thing.name == name || thing.whole == name || in_scene() == Some(true);
            by_name && kind.is_none_or(|kind| thing.kind == kind)
        };
        let mut found: Vec<_> = self.things.iter().filter(fits).collect();
        found.sort_by_key(|thing| thing.kind);
        found.into_iter()
    }

    /// The name that may be meant by one that nothing has.
    pub fn nearest(&self, asked: &str) -> Option<&str> {
        let names = self.things.iter().flat_map(|thing| [thing.name.as_str(), thing.whole.as_str()]);
        crate::suggest::nearest(asked.rsplit(' ').next().unwrap_or(asked), names)
    }

    /// What the name means that stands at a byte of a file.
    pub fn at(&self, file: u32, byte: u32) -> Option<&NamedThing> {
        let here =
            |place: &NamePlace| place.span.file == file && place.span.start <= byte && byte <= place.span.end;
        self.things.iter().find(|thing| thing.places.iter().any(here))
    }
}

impl Loaded {
    /// Its names; for a scene of a project, see [`Project::index`].
    pub fn index(&self) -> Index {
        Index::of(&self.read(), &[self.view], self.noted().map(|noted| noted.cloned().collect()))
    }
}

impl Project {
    /// The names of all its files.
    pub fn index(&self) -> Index {
        let last = u32::try_from(self.scenes.len()).unwrap_or(u32::MAX);
        let scenes = (1..=last).flat_map(|number| [View::Scene(number), View::Playtests(number)]);
        let views: Vec<View> = [View::Hall, View::Playtests(0)].into_iter().chain(scenes).collect();
        let noted: Option<Vec<_>> = self.parts().map(Loaded::noted).collect();
        Index::of(&self.head.read(), &views, noted.map(|all| all.into_iter().flatten().cloned().collect()))
    }
}

/// The text that stands there.
fn text_at(sources: &Sources, span: Span) -> &str {
    let text = sources.get(span.file).map_or("", |source| source.text());
    text.get(span.start as usize..span.end as usize).unwrap_or_default()
}
