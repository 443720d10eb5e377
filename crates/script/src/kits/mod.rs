//! Kits whose parameters are names: tags, signals, effects, moulds, spots of other scenes. Each use that gives others gets a kit
//! of its own, in which those names stand; from then on it is a kit like any other.

mod put;

use std::collections::BTreeMap;

use smol_str::SmolStr;
use stoicheon_core::{Catalogue, Type};

use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Expr, ExprKind, File, Kit, Name, ParamType, Parameter, Path, Use},
    suggest::a,
};

pub(crate) use put::Put;

/// How many kits may be made of others.
const MOST: usize = 10_000;

/// What stands for a parameter that is a name.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Given {
    /// One tag or more.
    Tags(Vec<SmolStr>),
    /// A signal, an effect or a mould.
    Path(Vec<SmolStr>),
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
    diagnostics: &'d mut Vec<Diagnostic>,
}

/// Makes the kits that uses need which give names.
pub(crate) fn specialise(files: &mut [File], catalogue: &Catalogue, diagnostics: &mut Vec<Diagnostic>) {
    let mut kits = BTreeMap::new();
    for file in files.iter() {
        for kit in &file.kits {
            kits.entry((file.scene_number, kit.name.text.clone())).or_insert_with(|| kit.clone());
        }
    }
    if !kits.values().any(|kit| kit.parameters.iter().any(Parameter::may_be_name)) {
        return;
    }
    let mut maker = Maker { catalogue, kits, made: BTreeMap::new(), new: Vec::new(), diagnostics };
    for file in files.iter_mut() {
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
            file.kits.push(kit);
        }
    }
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
            let Some(value) = value.map(|given| &given.value).or(parameter.default.as_ref()) else {
                continue;
            };
            let told = self.diagnostics.len();
            let Some((names, stands)) = self.names(parameter, value) else {
                // What is wrong inside would only follow from that.
                used.torn |= self.diagnostics.len() > told;
                continue;
            };
            put.add(parameter, value.span, stands.clone());
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
        self.made.insert((scene, key, given), next);
        self.new.push((scene, own));
    }

    /// What is given for a parameter that is a name: to tell uses apart, and as it stands in the kit.
    fn names(&mut self, parameter: &Parameter, value: &Expr) -> Option<(Given, put::Stands)> {
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
                Some((given, put::Stands::Away(Path(names.clone()), scene.clone())))
            }
            (ParamType::Value(_), _) => None,
            (ParamType::Tag, _) => match tags(value) {
                Some(tags) => Some((Given::Tags(text(&tags)), put::Stands::Tags(tags))),
                None => self.wrong(parameter, value, "a tag, or several as in `keeper or bargee`"),
            },
            (_, ExprKind::Name(Path(names))) => {
                Some((Given::Path(text(names)), put::Stands::Path(Path(names.clone()))))
            }
            (other, _) => {
                let what = format!("the name of {}", a(other.word()));
                self.wrong(parameter, value, &what)
            }
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

/// `keeper`, `keeper or bargee`
fn tags(value: &Expr) -> Option<Vec<Name>> {
    match &value.kind {
        ExprKind::Name(path) => path.single().map(|name| vec![name.clone()]),
        ExprKind::Or(one, two) => Some([tags(one)?, tags(two)?].concat()),
        _ => None,
    }
}
