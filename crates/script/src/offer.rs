//! Something that could stand at a place.

use smol_str::SmolStr;

/// What kind of word it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum OfferKind {
    /// A word of the language.
    Keyword,
    /// A kind of part.
    PartKind,
    /// A setting of a part, or what is said with a command.
    Setting,
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
    /// A variable, or another property.
    Variable,
    /// A named constant.
    Given,
    /// A spot.
    Spot,
    /// A routine.
    Routine,
    /// A kit, or a use of one.
    Kit,
    /// A field of a signal, or a parameter of a kit.
    Field,
    /// What a sequence calls something.
    Local,
    /// A player of a playtest.
    Player,
    /// A state, or another word of a list.
    State,
    /// A command.
    Command,
    /// A function.
    Function,
    /// A scene.
    Scene,
    /// A type.
    Type,
}

/// Something that could stand at a place.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Offer {
    /// What would stand there.
    pub name: SmolStr,
    /// What kind of word it is.
    pub kind: OfferKind,
    /// In a few words: a type, or what it carries.
    pub detail: String,
    /// What it is for, as the catalogue says it.
    pub about: String,
    /// What it takes in parentheses, each with its type.
    pub takes: Vec<(SmolStr, String)>,
    /// What is written for it, if that is more than the name: a whole item. `${1:…}` is a hole with what it is called, `$0` where one goes on.
    pub snippet: Option<String>,
}

impl Offer {
    pub(crate) fn new(kind: OfferKind, name: impl Into<SmolStr>) -> Self {
        let (detail, about) = (String::new(), String::new());
        Self { name: name.into(), kind, detail, about, takes: Vec::new(), snippet: None }
    }

    pub(crate) fn detail(mut self, detail: &(impl std::fmt::Display + ?Sized)) -> Self {
        self.detail = detail.to_string();
        self
    }

    pub(crate) fn about(mut self, about: impl Into<String>) -> Self {
        self.about = about.into();
        self
    }

    /// What it takes in parentheses.
    pub(crate) fn takes(mut self, takes: impl IntoIterator<Item = (SmolStr, String)>) -> Self {
        self.takes = takes.into_iter().collect();
        let all: Vec<_> = self.takes.iter().map(|(name, ty)| format!("{name}: {ty}")).collect();
        self.detail = if all.is_empty() { String::new() } else { format!("({})", all.join(", ")) };
        self
    }

    /// What it takes in parentheses, with a hole for each.
    pub(crate) fn holes(mut self) -> Self {
        let holes = (1..).zip(&self.takes).map(|(number, (name, _))| format!("${{{number}:{name}}}"));
        let holes: Vec<_> = holes.collect();
        self.snippet = (!holes.is_empty()).then(|| format!("{}({})", self.name, holes.join(", ")));
        self
    }

    pub(crate) fn snippet(mut self, snippet: impl Into<String>) -> Self {
        self.snippet = Some(snippet.into());
        self
    }
}
