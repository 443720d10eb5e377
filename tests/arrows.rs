//! The rooms of the core and the arrows between them, as docs/architecture.md draws them: each room knows those before it
//! and no others. And in no crate do more than a few files know each other in a circle.

use std::{
    collections::{BTreeMap, BTreeSet},
    fs,
    path::{Path, PathBuf},
};

use petgraph::{algo::tarjan_scc, graphmap::DiGraphMap};
use syn::visit::Visit;

/// Lowest first.
const ROOMS: [&str; 12] = [
    "base", "space", "plan", "moment", "trace", "part", "state", "act", "inspect", "parts", "world",
    "playtest",
];
/// The one circle of rooms: parts are called with the state, which keeps them.
const MUTUAL: [&str; 2] = ["part", "state"];
/// How many files may know each other in a circle.
const CIRCLE: usize = 8;

/// A module, as the segments of its path.
type Module = Vec<String>;

/// The files of a crate by module, and what each says of others.
struct Crate {
    files: BTreeMap<Module, syn::File>,
    /// What modules give by another name: `pub use` of something that is defined elsewhere.
    given: BTreeMap<Module, Module>,
}

/// The paths in a file, each from the root of the crate.
struct Paths<'a> {
    module: &'a Module,
    found: Vec<Module>,
}

impl Paths<'_> {
    fn take(&mut self, path: &[String]) {
        let mut at = match path.first().map(String::as_str) {
            Some("crate") => Vec::new(),
            Some("self" | "super") => self.module.clone(),
            // A child of the module it is said in; of anything else nothing will be found.
            _ => self.module.iter().cloned().chain([path[0].clone()]).collect(),
        };
        for segment in &path[1..] {
            if segment == "super" {
                at.pop();
            } else {
                at.push(segment.clone());
            }
        }
        if path[0] == "super" {
            let ups = path.iter().take_while(|segment| *segment == "super").count();
            at = self.module[..self.module.len().saturating_sub(ups)].to_vec();
            at.extend(path[ups..].iter().cloned());
        }
        self.found.push(at);
    }

    fn tree(&mut self, tree: &syn::UseTree, before: &mut Vec<String>) {
        match tree {
            syn::UseTree::Path(path) => {
                before.push(path.ident.to_string());
                self.tree(&path.tree, before);
                before.pop();
            }
            syn::UseTree::Name(name) => {
                let own = name.ident.to_string();
                let path: Vec<_> = before.iter().cloned().chain((own != "self").then_some(own)).collect();
                self.take(&path);
            }
            syn::UseTree::Rename(name) => {
                let path: Vec<_> = before.iter().cloned().chain([name.ident.to_string()]).collect();
                self.take(&path);
            }
            syn::UseTree::Group(group) => group.items.iter().for_each(|tree| self.tree(tree, before)),
            syn::UseTree::Glob(_) => self.take(&before.clone()),
        }
    }
}

impl<'ast> Visit<'ast> for Paths<'_> {
    fn visit_item_use(&mut self, item: &'ast syn::ItemUse) {
        self.tree(&item.tree, &mut Vec::new());
    }

    fn visit_path(&mut self, path: &'ast syn::Path) {
        let path_segments: Vec<_> = path.segments.iter().map(|segment| segment.ident.to_string()).collect();
        if matches!(path_segments[0].as_str(), "crate" | "super" | "self") && path_segments.len() > 1 {
            self.take(&path_segments);
        }
        syn::visit::visit_path(self, path);
    }
}

impl Crate {
    fn read(name: &str) -> Self {
        let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("crates").join(name).join("src");
        let mut all = Self { files: BTreeMap::new(), given: BTreeMap::new() };
        all.folder(&root, &mut Vec::new());
        let modules: Vec<_> = all.files.keys().cloned().collect();
        for module in modules {
            for item in &all.files[&module].items {
                let syn::Item::Use(item) = item else { continue };
                if matches!(item.vis, syn::Visibility::Inherited) {
                    continue;
                }
                let mut paths = Paths { module: &module, found: Vec::new() };
                paths.tree(&item.tree, &mut Vec::new());
                for target in paths.found {
                    let name: Module = module.iter().cloned().chain(target.last().cloned()).collect();
                    if name != target {
                        all.given.insert(name, target);
                    }
                }
            }
        }
        all
    }

    fn folder(&mut self, folder: &PathBuf, module: &mut Module) {
        for entry in fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            let stem = path.file_stem().unwrap().to_string_lossy().into_owned();
            if path.is_dir() {
                module.push(stem);
                self.folder(&path, module);
                module.pop();
            } else if path.extension().is_some_and(|extension| extension == "rs") {
                let mut own = module.clone();
                own.extend((!["mod", "lib", "main"].contains(&stem.as_str())).then_some(stem));
                self.files.insert(own, syn::parse_file(&fs::read_to_string(&path).unwrap()).unwrap());
            }
        }
    }

    /// The file that something is in, wherever it is given under that path.
    fn home(&self, path: &Module) -> Option<Module> {
        let mut path = path.clone();
        for _ in 0..8 {
            let given = (1..=path.len()).rev().find_map(|len| Some((len, self.given.get(&path[..len])?)));
            match given {
                Some((len, target)) => path = target.iter().chain(&path[len..]).cloned().collect(),
                None => break,
            }
        }
        let file =
            (1..=path.len()).rev().map(|len| path[..len].to_vec()).find(|file| self.files.contains_key(file));
        file.filter(|file| !file.is_empty())
    }

    /// Which file knows which: pairs of modules. The root, which gives everything, counts for none.
    fn arrows(&self) -> BTreeSet<(Module, Module)> {
        let mut arrows = BTreeSet::new();
        for (module, file) in self.files.iter().filter(|(module, _)| !module.is_empty()) {
            let mut paths = Paths { module, found: Vec::new() };
            paths.visit_file(file);
            let known = paths.found.iter().filter_map(|path| self.home(path));
            arrows.extend(known.filter(|known| known != module).map(|known| (module.clone(), known)));
        }
        arrows
    }
}

fn said(module: &Module) -> String {
    module.join("::")
}

#[test]
fn arrows_between_the_rooms_of_the_core_point_down() {
    let core = Crate::read("core");
    let room = |module: &Module| ROOMS.iter().position(|room| *room == module[0]);
    let tops: BTreeSet<_> = core.files.keys().filter_map(|module| module.first().cloned()).collect();
    assert_eq!(tops, ROOMS.iter().map(ToString::to_string).collect(), "these are the rooms, and no others");
    let arrows = core.arrows();
    assert!(arrows.len() > 500, "the arrows are read: {}", arrows.len());
    let mutual = |module: &Module| MUTUAL.contains(&module[0].as_str());
    let up = arrows.iter().filter(|(from, to)| room(from) < room(to) && !(mutual(from) && mutual(to)));
    let up: Vec<_> = up.map(|(from, to)| format!("{} knows {}", said(from), said(to))).collect();
    assert_eq!(up, Vec::<String>::new());
}

#[test]
fn the_rooms_are_those_of_the_page_in_their_order() {
    let page =
        fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join("docs/architecture.md")).unwrap();
    let (_, list) = page.split_once("## Inside the core").unwrap();
    let rows = list.lines().filter_map(|line| line.strip_prefix("| `")?.split_once('`'));
    let rooms: Vec<_> = rows.map(|(room, _)| room.trim_end_matches('/')).take(ROOMS.len()).collect();
    assert_eq!(rooms, ROOMS);
}

#[test]
fn every_phase_of_the_law_has_a_file_and_the_page_names_it() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR"));
    let page = fs::read_to_string(root.join("docs/order-law.md")).unwrap();
    let named = page
        .lines()
        .filter_map(|line| line.strip_prefix("In [`")?.split_once("`](../crates/core/src/world/law/"));
    let named: Vec<_> = named.map(|(file, _)| file.to_owned()).collect();
    let law = ["mod", "start", "intake", "clocks", "motion", "touch", "settle", "upkeep"];
    assert_eq!(named, law.map(|file| format!("{file}.rs")), "in the order in which things happen");
    let files = fs::read_dir(root.join("crates/core/src/world/law")).unwrap();
    let files: BTreeSet<_> = files.map(|file| file.unwrap().file_name().into_string().unwrap()).collect();
    assert_eq!(files, named.into_iter().collect());
}

#[test]
fn no_more_than_a_few_files_know_each_other_in_a_circle() {
    for name in ["core", "script", "view", "store", "link", "live", "lsp", "files", "gltf", "testing", "cli"]
    {
        let arrows = Crate::read(name).arrows();
        let names: Vec<String> = arrows.iter().flat_map(|(from, to)| [said(from), said(to)]).collect();
        let mut graph = DiGraphMap::<&str, ()>::new();
        for pair in names.chunks(2) {
            graph.add_edge(pair[0].as_str(), pair[1].as_str(), ());
        }
        for circle in tarjan_scc(&graph) {
            assert!(circle.len() <= CIRCLE, "{name}: {} files know each other: {circle:?}", circle.len());
        }
    }
}
