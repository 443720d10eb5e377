//! Kits whose parameters are names: tags, signals, effects, moulds, spots of other scenes. Each use that gives others gets a kit
//! of its own, in which those names stand; from then on it is a kit like any other.

mod names;
mod put;

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

use smol_str::SmolStr;
use stoicheon_core::{Catalogue, Type};

use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Expr, ExprKind, File, Kit, Name, ParamType, Parameter, Path, Use},
    source::Span,
    suggest::a,
};

use names::Stands;
use put::Put;

/// How many kits may be made of others.
const MOST: usize = 10_000;

/// What stands for a parameter that is a name.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Given {
    /// One tag or more.
    Tags(Vec<SmolStr>),
    /// A signal, an effect or a mould, or several; and how far out that means something.
    Paths(Vec<(u8, Vec<SmolStr>)>),
    /// A spot of another scene, and the scene.
    Away(Vec<SmolStr>, SmolStr),
}

/// Where a kit is found: the scene, and its name.
type Key = (u32, SmolStr);

/// Which kit was made of which: the scene it is used in, the kit, and what was given.
type Made = BTreeMap<(u32, Key, Vec<(SmolStr, Given)>), u32>;

struct Maker<'d> {
    catalogue: &'d Catalogue,
    kits: BTreeMap<Key, Kit>,
    made: Made,
    new: Vec<(u32, Kit)>,
    /// Places in kits that something was said of.
    told: BTreeSet<Option<Span>>,
    diagnostics: &'d mut Vec<Diagnostic>,
}

/// Makes the kits that uses need which give names.
pub(crate) fn specialise(files: &mut [Arc<File>], catalogue: &Catalogue, diagnostics: &mut Vec<Diagnostic>) {
    let takes_names = |kit: &Kit| kit.parameters.iter().any(Parameter::may_be_name);
    if !files.iter().flat_map(|file| &file.kits).any(takes_names) {
        return;
    }
    let mut kits = BTreeMap::new();
    for file in files.iter() {
        for kit in &file.kits {
            kits.entry((file.scene_number, kit.name.text.clone())).or_insert_with(|| kit.clone());
        }
    }
    let mut maker =
        Maker { catalogue, kits, made: BTreeMap::new(), new: Vec::new(), told: BTreeSet::new(), diagnostics };
    let uses_kits = |file: &&mut Arc<File>| {
        !file.items.uses.is_empty() || file.kits.iter().any(|kit| !kit.items.uses.is_empty())
    };
    for file in files.iter_mut().filter(uses_kits).map(Arc::make_mut) {
        for used in &mut file.items.uses {
            maker.used(used, file.scene_number);
        }
        // What kits use that need no kit of their own.
        for kit in file.kits.iter_mut().filter(|kit| !kit.parameters.iter().any(Parameter::is_name)) {
            kit.items.uses.iter_mut().for_each(|used| maker.used(used, file.scene_number));
        }
    }
    // New kits use others in turn.
    let mut next = 0;
    while next < maker.new.len() {
        let (scene, mut kit) = maker.new[next].clone();
        kit.items.uses.iter_mut().for_each(|used| maker.used(used, scene));
        maker.new[next].1 = kit;
        next += 1;
    }
    for (scene, kit) in maker.new {
        if let Some(file) = files.iter_mut().find(|file| file.scene_number == scene) {
            Arc::make_mut(file).kits.push(kit);
        }
    }
}

/// Where the names stand in kits that are names of parameters, each with where that parameter is declared. Where a kit is used,
/// what is given stands in their place.
pub(crate) fn parameters_in(file: &File, catalogue: &Catalogue) -> Vec<(Span, Span)> {
    let mut all = Vec::new();
    for kit in file.kits.iter().filter(|kit| kit.made == 0) {
        let mut put = Put::new(catalogue);
        for parameter in kit.parameters.iter().filter(|parameter| parameter.may_be_name()) {
            // Each stands for itself.
            let itself = Path(vec![parameter.name.clone()]);
            let stands = match parameter.ty.ty {
                ParamType::Tag => Stands::Tags(itself.0),
                ParamType::Value(_) => Stands::Away(itself, Name::default()),
                _ => Stands::Paths(vec![itself]),
            };
            put.names.add(parameter, parameter.name.span, stands);
        }
        put.items(&mut kit.items.clone());
        for name in put.names.found() {
            let known = kit.parameters.iter().find(|parameter| parameter.name.text == name.text);
            all.extend(known.map(|parameter| (name.span, parameter.name.span)));
        }
    }
    all
}

impl Maker<'_> {
    fn used(&mut self, used: &mut Use, scene: u32) {
        let found = [scene, 0].map(|scene| (scene, used.kit.text.clone()));
        let Some(key) = found.into_iter().find(|key| self.kits.contains_key(key)) else { return };
        let Some(kit) = self.kits.get(&key).cloned() else { return };
        let mut given: Vec<(SmolStr, Given)> = Vec::new();
        let mut put = Put::new(self.catalogue);
        for parameter in &kit.parameters {
            let value = used.given.iter().find(|given| given.name.text == parameter.name.text);
            let is_given = value.is_some();
            let Some(value) = value.map(|given| &given.value).or(parameter.default.as_ref()) else {
                continue;
            };
            let told = self.diagnostics.len();
            let Some((names, stands)) = self.names(parameter, value, is_given) else {
                // What is wrong inside would only follow from that.
                used.torn |= self.diagnostics.len() > told;
                continue;
            };
            put.names.add(parameter, value.span, stands);
            given.push((parameter.name.text.clone(), names));
        }
        if given.is_empty() {
            return;
        }
        let next = u32::try_from(self.made.len() + 1).unwrap_or(u32::MAX);
        if let Some(number) = self.made.get(&(scene, key.clone(), given.clone())) {
            used.made = *number;
            return;
        }
        if self.made.len() >= MOST {
            let message = format!("expected at most {MOST} kits that are given other names, found more");
            self.diagnostics.push(Diagnostic::error(Code::Circle, message).at(used.kit.span, "one too many"));
            return;
        }
        used.made = next;
        let mut own = kit.clone();
        (own.made, own.home) = (next, Some(key.0));
        put.items(&mut own.items);
        for wrong in put.names.wrong() {
            // Once for each place in the kit, however often that is used.
            if self.told.insert(wrong.labels.first().map(|label| label.span)) {
                self.diagnostics.push(wrong);
            }
        }
        self.made.insert((scene, key, given), next);
        self.new.push((scene, own));
    }

    /// What is given for a parameter that is a name, or stands there already: to tell uses apart, and as it stands in the kit.
    fn names(&mut self, parameter: &Parameter, value: &Expr, is_given: bool) -> Option<(Given, Stands)> {
        let text = |names: &[Name]| names.iter().map(|name| name.text.clone()).collect::<Vec<_>>();
        match (&parameter.ty.ty, &value.kind) {
            (ParamType::Value(Type::Spot), ExprKind::InScene { object, scene, not: false }) => {
                let ExprKind::Name(Path(names)) = &object.kind else {
                    return self.wrong(
                        parameter,
                        value,
                        "a spot of another scene, such as `arrival in tunnel`",
                    );
                };
                let given = Given::Away(text(names), scene.text.clone());
                Some((given, Stands::Away(Path(names.clone()), scene.clone())))
            }
            (ParamType::Value(_), _) => None,
            (ParamType::Tag, _) => match tags(value) {
                Some(tags) => Some((Given::Tags(text(&tags)), Stands::Tags(tags))),
                None => self.wrong(parameter, value, "a tag, or several as in `keeper or bargee`"),
            },
            (other, _) => match paths(value) {
                Some(mut paths) => {
                    let outward = u8::from(is_given);
                    for name in paths.iter_mut().flat_map(|path| &mut path.0) {
                        name.outward = name.outward.saturating_add(outward);
                    }
                    let given = paths.iter().map(|path| (path.first().outward, text(&path.0))).collect();
                    Some((Given::Paths(given), Stands::Paths(paths)))
                }
                None => {
                    let what = format!("the name of {}, or several with `or` between them", a(other.word()));
                    self.wrong(parameter, value, &what)
                }
            },
        }
    }

    fn wrong<T>(&mut self, parameter: &Parameter, value: &Expr, expected: &str) -> Option<T> {
        if !matches!(value.kind, ExprKind::Bad) {
            let message = format!("the parameter `{}` takes {expected}", parameter.name.text);
            self.diagnostics.push(
                Diagnostic::error(Code::WrongType, message)
                    .at(value.span, "not this")
                    .at(parameter.name.span, "the parameter"),
            );
        }
        None
    }
}

/// `bell.rung`, `bell.rung or horn.blown`
pub(crate) fn paths(value: &Expr) -> Option<Vec<Path>> {
    match &value.kind {
        ExprKind::Name(path) => Some(vec![path.clone()]),
        ExprKind::Or(one, two) => {
            let mut all = paths(one)?;
            let means = |path: &Path| (path.first().outward, path.text());
            let told = |all: &[Path], path: &Path| all.iter().any(|other| means(other) == means(path));
            for path in paths(two)? {
                // Given twice, it is meant once.
                if !told(&all, &path) {
                    all.push(path);
                }
            }
            Some(all)
        }
        _ => None,
    }
}

/// `keeper`, `keeper or bargee`
fn tags(value: &Expr) -> Option<Vec<Name>> {
    paths(value)?.iter().map(|path| path.single().cloned()).collect()
}
