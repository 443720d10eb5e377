//! Loading: a file, the files it shares, and what is wrong with them.

use std::{collections::BTreeSet, sync::Arc};

use smol_str::{SmolStr, format_smolstr};
use stoicheon_core::Catalogue;

use crate::{
    diagnostic::{Diagnostic, Severity},
    files::{Files, Read},
    given::{self, Givens},
    kits,
    memory::Memory,
    model::{self, File, Name},
    on_purpose::without_explained,
    resolve::{Note, Notes, Resolver, Role, Scenes, View},
    source::Sources,
};

/// A named constant: `given stone_reach: number = 6 "how far one may point"`.
#[derive(Clone, Debug, PartialEq, Eq, serde::Serialize)]
#[non_exhaustive]
pub struct GivenInfo {
    /// Its name.
    pub name: SmolStr,
    /// Its type, as wiring writes it.
    #[serde(rename = "type")]
    pub ty: String,
    /// What it is, as wiring writes it.
    pub value: String,
    /// What it is for; empty if it does not say so.
    pub about: SmolStr,
}

/// A scene that was read and checked.
#[derive(Clone, Debug)]
pub struct Loaded {
    pub(crate) sources: Arc<Sources>,
    /// Its own file.
    own: u32,
    /// Every file that was read: its own first, then those it shares; of a project, all of them.
    pub(crate) files: Arc<Vec<Arc<File>>>,
    /// Which part of a project it is.
    pub(crate) view: View,
    scene: Option<SmolStr>,
    pub(crate) catalogue: Catalogue,
    pub(crate) scenes: Option<Arc<Scenes>>,
    pub(crate) wanted_tags: BTreeSet<SmolStr>,
    pub(crate) wanted_properties: BTreeSet<SmolStr>,
    pub(crate) diagnostics: Vec<Diagnostic>,
    counts: (usize, usize),
    /// What each name means, if it was noted; and what those mean that its playtests speak of.
    pub(crate) notes: Option<Arc<Vec<Note>>>,
    pub(crate) played_notes: Option<Arc<Vec<Note>>>,
}

/// Reads and checks a text that stands alone, against what the game offers. `name` is the file's, for messages and
/// traces.
pub fn load(name: &str, text: &str, catalogue: &Catalogue) -> Loaded {
    let read = |path: &str| Err(format!("a text that is read alone cannot read \"{path}\""));
    load_with(name, text, catalogue, &read)
}

/// The same for a text that may share other files and name catalogues: `read` gives the text of a path as it is
/// written there, or what to tell people.
pub fn load_with(
    name: &str,
    text: &str,
    catalogue: &Catalogue,
    read: &dyn Fn(&str) -> Result<String, String>,
) -> Loaded {
    load_as(name, text, catalogue, read, None)
}

/// The same for those who ask about its names: its [`index`](Loaded::index) takes little more time then.
pub fn load_noting(
    name: &str,
    text: &str,
    catalogue: &Catalogue,
    read: &dyn Fn(&str) -> Result<String, String>,
) -> Loaded {
    load_as(name, text, catalogue, read, Some(&mut Memory::default()))
}

/// The same for those who read it again and again: what has not changed since is taken from memory. What comes back is what [`load_noting`] gives.
pub fn load_again(
    name: &str,
    text: &str,
    catalogue: &Catalogue,
    read: &dyn Fn(&str) -> Result<String, String>,
    memory: &mut Memory,
) -> Loaded {
    load_as(name, text, catalogue, read, Some(memory))
}

/// With a memory, what each name means is noted.
fn load_as(
    name: &str,
    text: &str,
    catalogue: &Catalogue,
    read: Read<'_>,
    memory: Option<&mut Memory>,
) -> Loaded {
    let noting = memory.is_some();
    let mut files = Files::with_memory(memory);
    files.open(name, text, read);
    let catalogue = files.catalogue(catalogue, read);
    files.check_places(&catalogue);
    files.part_parts(&catalogue);
    kits::specialise(&mut files.models, &catalogue, &mut files.diagnostics);
    let scene = files.models.first().and_then(|file| file.scene.as_ref()).map(|name| name.text.clone());
    let is_head = files.models.first().is_some_and(|file| file.project.is_some());
    files.misplaced(usize::from(is_head));
    let Files { sources, models, diagnostics, memory, .. } = files;
    memory.into_iter().for_each(|memory| memory.end(&sources));
    let (sources, files) = (Arc::new(sources), Arc::new(models));
    let read = AllRead { sources, files, catalogue, scenes: None, noting };
    finish(&read, View::Alone, 0, scene, diagnostics)
}

/// Everything that was read, for what is made of it.
#[derive(Clone, Debug)]
pub(crate) struct AllRead {
    pub(crate) sources: Arc<Sources>,
    pub(crate) files: Arc<Vec<Arc<File>>>,
    pub(crate) catalogue: Catalogue,
    pub(crate) scenes: Option<Arc<Scenes>>,
    /// What each name means is noted.
    pub(crate) noting: bool,
}

/// Checks what was read, as one part of it sees it. `own` is the number of its file.
pub(crate) fn finish(
    read: &AllRead,
    view: View,
    own: u32,
    scene: Option<SmolStr>,
    mut diagnostics: Vec<Diagnostic>,
) -> Loaded {
    let AllRead { sources, files, catalogue, scenes, noting } = read.clone();
    let notes = if noting { Notes::wanted() } else { Notes::default() };
    let mut resolver = Resolver::noting(&files, &catalogue, scenes.as_deref(), view, &mut diagnostics, notes);
    resolver.check(&files);
    resolver.check_shortest(&files);
    resolver.check_suspicious(&files, &sources);
    let made = |object: &&crate::resolve::Object<'_>| {
        matches!(object.role, Role::Object | Role::Manager) && resolver.names.is_own(object.scope)
    };
    let objects = resolver.names.objects.iter().filter(made).count();
    let wires = resolver.names.wires.iter().filter(|wire| resolver.names.is_own(wire.scope)).count();
    let counts = (objects, wires);
    let (wanted_tags, wanted_properties) =
        (std::mem::take(&mut resolver.wanted_tags), std::mem::take(&mut resolver.wanted_properties));
    let notes = noting.then(|| Arc::new(resolver.report.notes.take()));
    drop(resolver);
    without_explained(&mut diagnostics, &sources);
    sort(&mut diagnostics);
    Loaded {
        sources,
        own,
        files,
        view,
        scene,
        catalogue,
        scenes,
        wanted_tags,
        wanted_properties,
        diagnostics,
        counts,
        notes,
        played_notes: None,
    }
}

/// In the order of the text.
pub(crate) fn sort(diagnostics: &mut [Diagnostic]) {
    diagnostics
        .sort_by_key(|diagnostic| (diagnostic.labels.first().map(|label| label.span), diagnostic.code));
}

impl Loaded {
    /// What its wiring may speak of: what was given when it was read, and the catalogues it names.
    pub fn catalogue(&self) -> &Catalogue {
        &self.catalogue
    }

    /// The files it was read from: its own first, then those it shares.
    pub fn sources(&self) -> &Sources {
        &self.sources
    }

    /// The name of its own file.
    pub fn name(&self) -> &str {
        self.sources.get(self.own).map_or("", |source| source.name())
    }

    /// What was found wrong or doubtful, in the order of the text.
    pub fn diagnostics(&self) -> &[Diagnostic] {
        &self.diagnostics
    }

    /// Whether anything is so wrong that the scene cannot be built.
    pub fn has_errors(&self) -> bool {
        self.diagnostics.iter().any(|diagnostic| diagnostic.severity == Severity::Error)
    }

    /// The name of the scene, if the text gives it one.
    pub fn scene_name(&self) -> Option<&str> {
        self.scene.as_deref()
    }

    /// How many objects and how many wires the scene has, those in uses of kits counted too.
    pub fn counts(&self) -> (usize, usize) {
        self.counts
    }

    /// The names of the playtests, in their order.
    /// One with a table of cases has a name for each: `the toll: too little`.
    pub fn playtests(&self) -> impl Iterator<Item = SmolStr> {
        self.own_playtests().map(|(playtest, case)| match case {
            Some((_, case)) => format_smolstr!("{}: {}", playtest.name.text, case.title()),
            None => playtest.name.text.clone(),
        })
    }

    /// The named constants of the wiring it was read with.
    pub fn given(&self) -> impl Iterator<Item = GivenInfo> {
        let all = self.files.iter().flat_map(|file| &file.items.givens);
        all.map(|constant| GivenInfo {
            name: constant.name.text.clone(),
            ty: constant.ty.ty.to_string(),
            value: crate::print::value(&constant.value),
            about: constant.about.as_ref().map(|about| about.text.clone()).unwrap_or_default(),
        })
    }

    /// The values that the playtest of that number gives to constants.
    pub fn given_in(&self, playtest: usize) -> Givens {
        let Some((playtest, case)) = self.own_playtests().nth(playtest) else { return Givens::new() };
        let given = playtest.given.iter().map(|given| (&given.name, &given.value));
        // The columns that are no names of the playtest's own.
        let columns = case.into_iter().flat_map(|(cases, case)| cases.names.iter().zip(&case.values));
        let known = |name: &Name| self.given().any(|given| given.name == name.text);
        let columns = columns.filter(|(name, _)| known(name));
        given
            .chain(columns)
            .fold(Givens::new(), |all, (name, value)| all.and(&name.text, crate::print::value(value)))
    }

    /// The same wiring with other values for its constants; what is wrong with those is told of as in
    /// [`diagnostics`](Self::diagnostics). Wiring that has errors stays as it is. For a scene of a project, see
    /// [`Project::with_given`](crate::Project::with_given).
    pub fn with_given(&self, givens: &Givens) -> Self {
        if givens.is_empty() || self.has_errors() {
            return self.clone();
        }
        let (read, wrong) = self.read_with(givens);
        self.again(&read, wrong)
    }

    /// Everything that was read, with other values for constants, and what is wrong with those.
    pub(crate) fn read_with(&self, givens: &Givens) -> (AllRead, Vec<Diagnostic>) {
        let mut diagnostics = Vec::new();
        let (mut sources, mut files) = ((*self.sources).clone(), (*self.files).clone());
        let given = givens.read(&mut sources, &mut diagnostics);
        given::put(&mut files, &given, &mut diagnostics);
        let (sources, files) = (Arc::new(sources), Arc::new(files));
        let (catalogue, scenes) = (self.catalogue.clone(), self.scenes.clone());
        (AllRead { sources, files, catalogue, scenes, noting: false }, diagnostics)
    }

    /// The same, of everything as it is read now.
    pub(crate) fn of_now(mut self, read: &AllRead) -> Self {
        (self.sources, self.files) = (read.sources.clone(), read.files.clone());
        (self.catalogue, self.scenes) = (read.catalogue.clone(), read.scenes.clone());
        self
    }

    /// What each name means, if it was noted.
    pub(crate) fn noted(&self) -> Option<impl Iterator<Item = &Note>> {
        let played = self.played_notes.as_deref().into_iter().flatten();
        Some(self.notes.as_deref()?.iter().chain(played))
    }

    /// Everything that was read.
    pub(crate) fn read(&self) -> AllRead {
        let (sources, files) = (self.sources.clone(), self.files.clone());
        let (catalogue, scenes) = (self.catalogue.clone(), self.scenes.clone());
        AllRead { sources, files, catalogue, scenes, noting: self.notes.is_some() }
    }

    /// The same, made of what was read with other values.
    pub(crate) fn again(&self, read: &AllRead, wrong: Vec<Diagnostic>) -> Self {
        finish(read, self.view, self.own, self.scene.clone(), wrong)
    }

    /// Whether the file of that number among its [`sources`](Self::sources) is one that it consists of, and not one of another part of its project.
    pub fn is_own_file(&self, file: u32) -> bool {
        self.sources.get(file).is_some_and(|source| source.scene_number == self.scene_number())
    }

    /// The files it consists of; of what scenes share, all that belong to none.
    pub(crate) fn own_files(&self) -> impl Iterator<Item = &File> {
        let number = self.scene_number();
        self.files.iter().map(Arc::as_ref).filter(move |file| file.scene_number == number)
    }

    /// The playtests, each case of a table for itself.
    pub(crate) fn own_playtests(
        &self,
    ) -> impl Iterator<Item = (&model::Playtest, Option<(&model::Cases, &model::Case)>)> {
        self.own_files().flat_map(|file| &file.playtests).flat_map(|playtest| {
            let cases = playtest.cases.iter();
            let cases = cases.flat_map(|cases| cases.rows.iter().map(move |case| Some((cases, case))));
            let alone = playtest.cases.is_none().then_some(None);
            cases.chain(alone).map(move |case| (playtest, case))
        })
    }

    /// Its number among the scenes of its project, from 1.
    pub(crate) fn scene_number(&self) -> u32 {
        match self.view {
            View::Alone | View::Hall => 0,
            View::Scene(number) | View::Playtests(number) => number,
        }
    }

    /// The seeds a playtest runs with, if it names any.
    pub fn seeds(&self, number: usize) -> &[u64] {
        self.own_playtests().nth(number).map_or(&[], |(playtest, _)| &playtest.seeds)
    }
}
