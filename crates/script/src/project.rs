//! Projects: scenes that belong together, with what they share.

use std::{collections::BTreeMap, sync::Arc};

use smol_str::SmolStr;
use stoicheon_core::{Catalogue, Config, TickRate, WhenEmpty};

use crate::{
    across,
    diagnostic::{Code, Diagnostic},
    files::Files,
    given::{self, Givens},
    kits,
    load::{AllRead, Loaded, finish},
    memory::Memory,
    model::{Count, File, Name, SceneFile},
    resolve::{Scenes, View, player_tags},
    spots::{Spots, path_of},
    suggest::suggest,
};

/// A project that was read and checked: what its scenes share, and each of them.
///
/// ```
/// use std::{collections::BTreeMap, sync::Arc};
/// use stoicheon_core::{Catalogue, World};
/// use stoicheon_script::Project;
///
/// let head = "project canal\nscene \"lockside.stoi\"\nscene \"tunnel.stoi\" left frozen";
/// let read = |path: &str| match path {
///     "lockside.stoi" => Ok("scene lockside\nspot steps at (0, 0, 0)".to_owned()),
///     "tunnel.stoi" => Ok("scene tunnel\nspot landing at (0, 0, 0)".to_owned()),
///     _ => Err("there is no such file".to_owned()),
/// };
/// let project = Arc::new(Project::load("canal.stoi", head, &Catalogue::built_in(), &read));
/// assert!(!project.has_errors());
///
/// let mut world = World::<()>::with(project.config());
/// project.build(&mut world)?;
/// let ada = world.join("ada", Some(("tunnel", "landing")))?;
/// assert_eq!(world.scene_of(ada), world.find_scene("tunnel"));
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug)]
pub struct Project {
    name: SmolStr,
    pub(crate) head: Loaded,
    pub(crate) scenes: Vec<Loaded>,
    pub(crate) left: Vec<WhenEmpty>,
    config: Config,
    pub(crate) most_players: Option<u32>,
    seeds: Vec<u64>,
}

/// Whether a text is a project's file: one that names scenes.
pub fn is_project(text: &str) -> bool {
    text.lines().map(str::trim_start).any(|line| line.starts_with("project "))
}

impl Project {
    /// Reads and checks a project's file and its scenes. `read` gives the text of a path as it is written there, or
    /// what to tell people.
    pub fn load(
        name: &str,
        text: &str,
        catalogue: &Catalogue,
        read: &dyn Fn(&str) -> Result<String, String>,
    ) -> Self {
        Self::load_as(name, text, catalogue, read, None)
    }

    /// The same for those who ask about its names: its [`index`](Self::index) takes little more time then.
    pub fn load_noting(
        name: &str,
        text: &str,
        catalogue: &Catalogue,
        read: &dyn Fn(&str) -> Result<String, String>,
    ) -> Self {
        Self::load_as(name, text, catalogue, read, Some(&mut Memory::default()))
    }

    /// The same for those who read it again and again: what has not changed since is taken from memory. What comes back is what
    /// [`load_noting`](Self::load_noting) gives.
    pub fn load_again(
        name: &str,
        text: &str,
        catalogue: &Catalogue,
        read: &dyn Fn(&str) -> Result<String, String>,
        memory: &mut Memory,
    ) -> Self {
        Self::load_as(name, text, catalogue, read, Some(memory))
    }

    fn load_as(
        name: &str,
        text: &str,
        catalogue: &Catalogue,
        read: &dyn Fn(&str) -> Result<String, String>,
        memory: Option<&mut Memory>,
    ) -> Self {
        let noting = memory.is_some();
        let mut files = Files::with_memory(memory);
        files.open(name, text, read);
        let head = files.models.first().cloned().unwrap_or_default();
        let mut found: Vec<Found> = Vec::new();
        for scene in &head.scenes {
            found.extend(read_scene(scene, &mut files, read, &found));
        }
        if head.scenes.is_empty() {
            let span = head.project.as_ref().map(|name| name.span).unwrap_or_default();
            files.diagnostics.push(
                Diagnostic::error(Code::UnknownScene, "a project names its scenes")
                    .at(span, "names none")
                    .help("scene \"harrow_lock.stoi\""),
            );
        }
        files.misplaced(1);
        given::put(&mut files.models, &head.given, &mut files.diagnostics);
        let rate = rate(head.ticks, &mut files.diagnostics);
        twice(&files.models, &mut files.diagnostics);
        let catalogue = files.catalogue(catalogue, read);
        files.check_places(&catalogue);
        files.part_parts(&catalogue);
        kits::specialise(&mut files.models, &catalogue, &mut files.diagnostics);
        let spots = Spots::of(&files.models);
        let of_scene = |scene: &Found| {
            let mut all = Vec::new();
            spots.each(scene.number, &mut |names| all.push(path_of(names)));
            (scene.name.clone(), all)
        };
        let spots = found.iter().map(of_scene).collect();
        let scenes = Some(Arc::new(Scenes { spots, player_tags: player_tags(&files.models) }));
        let (mut diagnostics, mut memory) = (files.diagnostics, files.memory);
        let (sources, models) = (Arc::new(files.sources), Arc::new(files.models));
        let all = AllRead { sources, files: models, catalogue, scenes, noting };
        let own = |diagnostics: &mut Vec<Diagnostic>, first: u32, last: u32| -> Vec<Diagnostic> {
            let (own, rest) = std::mem::take(diagnostics).into_iter().partition(|diagnostic| {
                let file = diagnostic.labels.first().map_or(0, |label| label.span.file);
                (first..last).contains(&file)
            });
            *diagnostics = rest;
            own
        };
        let mut loaded = Vec::new();
        for scene in &found {
            let faults = own(&mut diagnostics, scene.first_file, scene.last_file);
            loaded.push(look_through(scene, faults, &all, memory.as_deref_mut()));
        }
        memory.into_iter().for_each(|memory| memory.end(&all.sources));
        let mut head_loaded = finish(&all, View::Hall, 0, None, diagnostics);
        across::check(&all, &mut head_loaded, &mut loaded);
        Self {
            name: head.project.as_ref().map(|name| name.text.clone()).unwrap_or_default(),
            head: head_loaded,
            left: found.iter().map(|scene| scene.left).collect(),
            scenes: loaded,
            config: Config { rate, seed: head.seeds.first().copied().unwrap_or(0), ..Config::default() },
            most_players: head.players.map(|players| players.count),
            seeds: head.seeds.clone(),
        }
    }

    /// The same project with other values for its constants; what is wrong with those is told of among the findings of its
    /// [`head`](Self::head). A project that has errors stays as it is.
    pub fn with_given(&self, givens: &Givens) -> Self {
        let mut other = self.clone();
        if givens.is_empty() || self.has_errors() {
            return other;
        }
        let (read, wrong) = self.head.read_with(givens);
        other.head = self.head.again(&read, wrong);
        for scene in &mut other.scenes {
            *scene = scene.again(&read, Vec::new());
        }
        across::check(&read, &mut other.head, &mut other.scenes);
        other
    }

    /// The name of the project.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// What all scenes share: the project's own file and those it shares, with what is wrong with them.
    pub fn head(&self) -> &Loaded {
        &self.head
    }

    /// The scenes, in the order the project names them.
    pub fn scenes(&self) -> &[Loaded] {
        &self.scenes
    }

    /// What all scenes share, and then each scene.
    pub fn parts(&self) -> impl Iterator<Item = &Loaded> {
        std::iter::once(&self.head).chain(&self.scenes)
    }

    /// Whether anything is so wrong that a scene cannot be built.
    pub fn has_errors(&self) -> bool {
        self.parts().any(Loaded::has_errors)
    }

    /// How a world is made for the project: its tick rate, and the first of its seeds.
    pub fn config(&self) -> Config {
        self.config
    }

    /// The seeds that playtests run with, unless they name their own; none for 0 alone.
    pub fn seeds(&self) -> &[u64] {
        &self.seeds
    }
}

/// A scene that was read.
struct Found {
    name: SmolStr,
    number: u32,
    left: WhenEmpty,
    first_file: u32,
    last_file: u32,
}

fn read_scene(
    scene: &SceneFile,
    files: &mut Files,
    read: &dyn Fn(&str) -> Result<String, String>,
    before: &[Found],
) -> Option<Found> {
    let SceneFile { file: path, left } = scene;
    let text = match read(&path.text) {
        Ok(text) => text,
        Err(why) => {
            let message = format!("the scene \"{}\" could not be read", path.text);
            files.diagnostics.push(Diagnostic::error(Code::File, message).at(path.span, why));
            return None;
        }
    };
    files.next_scene();
    let number = files.scene_number;
    let first_file = files.sources.len();
    let first_model = files.models.len();
    let name = files.sources.beside(&path.text);
    files.open(&name, &text, read);
    let left = left.as_ref().map_or(WhenEmpty::default(), |word| when_empty(word, &mut files.diagnostics));
    let Some(name) = files.models.get(first_model).and_then(|file| file.scene.clone()) else {
        let message = format!("\"{}\" does not say which scene it is", path.text);
        files.diagnostics.push(
            Diagnostic::error(Code::UnknownScene, message)
                .at(path.span, "no `scene` in it")
                .help("start it with: scene NAME"),
        );
        files.models.truncate(first_model);
        return None;
    };
    if before.iter().any(|scene| scene.name == name.text) {
        let message = format!("two files are the scene `{}`", name.text);
        files.diagnostics.push(Diagnostic::error(Code::NameTaken, message).at(path.span, "the second one"));
        files.models.truncate(first_model);
        return None;
    }
    Some(Found { name: name.text, number, left, first_file, last_file: files.sources.len() })
}

fn when_empty(word: &Name, diagnostics: &mut Vec<Diagnostic>) -> WhenEmpty {
    let known = WhenEmpty::ALL.into_iter().find(|when| when.word() == word.text);
    known.unwrap_or_else(|| {
        let words = WhenEmpty::ALL.map(WhenEmpty::word);
        let message = format!("a scene without players cannot be left `{}`", word.text);
        diagnostics.push(
            Diagnostic::error(Code::UnknownWord, message)
                .at(word.span, "expected unloaded, frozen or running")
                .help(suggest(&word.text, "word", words.into_iter())),
        );
        WhenEmpty::default()
    })
}

fn rate(ticks: Option<Count>, diagnostics: &mut Vec<Diagnostic>) -> TickRate {
    let Some(Count { span, count }) = ticks else { return TickRate::default() };
    TickRate::new(count).unwrap_or_else(|error| {
        diagnostics.push(
            Diagnostic::error(Code::BadLiteral, error.to_string())
                .at(span, "too many")
                .help("ticks 30 per second"),
        );
        TickRate::default()
    })
}

/// Effects and moulds are the whole project's: two scenes cannot mean different things by one name.
fn twice(files: &[Arc<File>], diagnostics: &mut Vec<Diagnostic>) {
    let mut effects: BTreeMap<&SmolStr, (u32, &crate::model::Declaration)> = BTreeMap::new();
    let mut moulds: BTreeMap<&SmolStr, (u32, &Name)> = BTreeMap::new();
    let mut wrong = |message: String, second: &Name, first: &Name, help: &str| {
        diagnostics.push(
            Diagnostic::error(Code::NameTaken, message)
                .at(second.span, "the second one")
                .at(first.span, "the first one")
                .help(help),
        );
    };
    for file in files {
        for effect in &file.items.effects {
            let (number, first) = *effects.entry(&effect.name.text).or_insert((file.scene_number, effect));
            let same = crate::resolve::fields_of(&first.fields) == crate::resolve::fields_of(&effect.fields);
            if number != file.scene_number && !same {
                let message = format!("two scenes have an effect `{}` with other fields", effect.name.text);
                let help =
                    "the game performs it for the whole project: declare it in a file the project shares";
                wrong(message, &effect.name, &first.name, help);
            }
        }
        for mould in &file.items.moulds {
            let (number, first) = *moulds.entry(&mould.name.text).or_insert((file.scene_number, &mould.name));
            if number != file.scene_number {
                let message = format!("two scenes have a mould `{}`", mould.name.text);
                let help = "move it to a file the project shares, or give one of them another name";
                wrong(message, &mould.name, first, help);
            }
        }
    }
}

/// Looks through a scene, unless it is known what that comes to.
fn look_through(
    scene: &Found,
    faults: Vec<Diagnostic>,
    all: &AllRead,
    memory: Option<&mut Memory>,
) -> Loaded {
    let name = Some(scene.name.clone());
    let view = View::Scene(scene.number);
    let Some(memory) = memory else { return finish(all, view, scene.first_file, name, faults) };
    if let Some(known) = memory.scene(scene.number, name.as_ref(), &faults, all) {
        return known;
    }
    let loaded = finish(all, view, scene.first_file, name.clone(), faults.clone());
    memory.keep_scene(scene.number, name, faults, &loaded);
    loaded
}
