//! The spots of each scene of a project as others find them: by the names of objects and of uses of kits before their own.

use std::{collections::BTreeMap, sync::Arc};

use smol_str::SmolStr;

use crate::{
    model::{File, Items, Kit, Name},
    resolve::{DEEPEST_USE, MOST_USES},
};

/// Where the spots of all scenes are found.
pub(crate) struct Spots<'m> {
    files: BTreeMap<u32, Vec<&'m File>>,
    /// By the scene that they stand in, and their names; the first of two counts.
    kits: BTreeMap<(u32, &'m str), &'m Kit>,
}

/// The way to a spot: what was gone through so far.
struct Way<'m> {
    scene: u32,
    names: Vec<&'m Name>,
    /// The kits that are gone through. One that uses itself is an error, and leads nowhere.
    inside: Vec<&'m Kit>,
    /// How many more uses are gone into.
    left: usize,
}

impl<'m> Spots<'m> {
    pub(crate) fn of(files: &'m [Arc<File>]) -> Self {
        let mut all = Self { files: BTreeMap::new(), kits: BTreeMap::new() };
        for file in files {
            all.files.entry(file.scene_number).or_default().push(file);
            for kit in file.kits.iter().filter(|kit| kit.made == 0) {
                all.kits.entry((file.scene_number, &kit.name.text)).or_insert(kit);
            }
        }
        all
    }

    /// Calls `found` for each spot of a scene, with the names that lead to it.
    pub(crate) fn each(&self, scene: u32, found: &mut dyn FnMut(&[&'m Name])) {
        let mut way = Way { scene, names: Vec::new(), inside: Vec::new(), left: MOST_USES };
        for file in self.files.get(&scene).into_iter().flatten() {
            self.items(&file.items, &mut way, found);
        }
    }

    fn items(&self, items: &'m Items, way: &mut Way<'m>, found: &mut dyn FnMut(&[&'m Name])) {
        for spot in &items.spots {
            way.found(&[&spot.name], found);
        }
        for object in items.objects.iter().chain(&items.managers) {
            object.spots.iter().for_each(|spot| way.found(&[&object.name, &spot.name], found));
        }
        for used in &items.uses {
            let kit = [way.scene, 0].iter().find_map(|number| self.kits.get(&(*number, &*used.kit.text)));
            let (Some(name), Some(kit)) = (&used.name, kit) else { continue };
            let in_itself = way.inside.iter().any(|inside| std::ptr::eq(*inside, *kit));
            if in_itself || way.left == 0 || way.inside.len() >= DEEPEST_USE {
                continue;
            }
            way.left -= 1;
            way.names.push(name);
            way.inside.push(kit);
            self.items(&kit.items, way, found);
            way.inside.pop();
            way.names.pop();
        }
    }
}

/// The names as wiring writes them: `crossing.landing`.
pub(crate) fn path_of(names: &[&Name]) -> SmolStr {
    names.iter().map(|name| name.text.as_str()).collect::<Vec<_>>().join(".").into()
}

impl<'m> Way<'m> {
    fn found(&mut self, names: &[&'m Name], found: &mut dyn FnMut(&[&'m Name])) {
        let before = self.names.len();
        self.names.extend(names);
        found(&self.names);
        self.names.truncate(before);
    }
}
