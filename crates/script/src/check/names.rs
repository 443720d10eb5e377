//! Every name a scene declares.

use std::collections::{BTreeMap, BTreeSet};

use smol_str::SmolStr;
use stoicheon_core::{Catalogue, Field, PartKind, Type};

use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Declaration, Name, Object, Path, Scene},
    source::Span,
};

/// What an expression was found to be.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Found {
    Type(Type),
    Angle,
}

impl Found {
    pub(crate) fn word(self) -> &'static str {
        match self {
            Self::Type(ty) => ty.word(),
            Self::Angle => "angle",
        }
    }
}

/// The signals every scene has, and what they carry.
fn own_signals() -> Vec<(SmolStr, Vec<Field>)> {
    let key = || vec![Field { name: "key".into(), ty: Type::Text }];
    vec![("ready".into(), Vec::new()), ("pressed".into(), key()), ("released".into(), key())]
}

/// An object, as far as names are concerned.
#[derive(Debug)]
pub(crate) struct Known {
    pub(crate) span: Span,
    pub(crate) kinds: Vec<&'static PartKind>,
}

#[derive(Debug)]
pub(crate) struct Names {
    pub(crate) vars: BTreeMap<SmolStr, (Option<Type>, Span)>,
    /// All signals by their whole name.
    pub(crate) signals: BTreeMap<SmolStr, (Vec<Field>, Option<Span>)>,
    pub(crate) effects: BTreeMap<SmolStr, (Vec<Field>, Span)>,
    pub(crate) objects: BTreeMap<SmolStr, Known>,
    /// Tags of objects and of the players of playtests.
    pub(crate) tags: BTreeSet<SmolStr>,
}

impl Names {
    pub(crate) fn of(scene: &Scene, catalogue: &Catalogue, diagnostics: &mut Vec<Diagnostic>) -> Self {
        let own = own_signals().into_iter().map(|(name, fields)| (name, (fields, None)));
        let mut names = Self {
            vars: BTreeMap::new(),
            signals: own.collect(),
            effects: BTreeMap::new(),
            objects: BTreeMap::new(),
            tags: BTreeSet::from([stoicheon_core::PLAYER.into()]),
        };
        for var in &scene.vars {
            let ty = var.ty.map(|(ty, _)| ty);
            if let Some((_, old)) = names.vars.insert(var.name.text.clone(), (ty, var.name.span)) {
                diagnostics.push(taken("variable", &var.name, Some(old)));
            }
        }
        for signal in &scene.signals {
            let entry = (fields(signal), Some(signal.name.span));
            if let Some((_, old)) = names.signals.insert(signal.name.text.clone(), entry) {
                diagnostics.push(taken("signal", &signal.name, old));
            }
        }
        for effect in &scene.effects {
            let entry = (fields(effect), effect.name.span);
            if let Some((_, old)) = names.effects.insert(effect.name.text.clone(), entry) {
                diagnostics.push(taken("effect", &effect.name, Some(old)));
            }
        }
        for object in &scene.objects {
            names.object(object, catalogue, diagnostics);
        }
        for player in scene.playtests.iter().flat_map(|playtest| &playtest.players) {
            names.tags.extend(player.tags.iter().map(|tag| tag.text.clone()));
        }
        names
    }

    fn object(&mut self, object: &Object, catalogue: &Catalogue, diagnostics: &mut Vec<Diagnostic>) {
        let mut kinds: Vec<&'static PartKind> = Vec::new();
        for part in &object.parts {
            let Some(kind) = catalogue.part(&part.kind.text) else { continue };
            if kinds.iter().any(|known| known.name == kind.name) {
                let message = format!("`{}` has a {} already", object.name.text, kind.name);
                diagnostics
                    .push(Diagnostic::error(Code::NameTaken, message).at(part.kind.span, "the second one"));
                continue;
            }
            kinds.push(kind);
        }
        let path = |signal: &str| SmolStr::from(format!("{}.{signal}", object.name.text));
        let span = object.name.span;
        self.signals.insert(path("ready"), (Vec::new(), Some(span)));
        for signal in kinds.iter().flat_map(|kind| kind.signals) {
            self.signals.insert(path(signal.name), (signal.fields(), Some(span)));
        }
        self.tags.extend(object.tags.iter().map(|tag| tag.text.clone()));
        let known = Known { span, kinds };
        if let Some(old) = self.objects.insert(object.name.text.clone(), known) {
            diagnostics.push(taken("object", &object.name, Some(old.span)));
        }
    }

    /// What a signal carries, if there is such a signal.
    pub(crate) fn signal(&self, path: &Path) -> Option<&[Field]> {
        self.signals.get(&path.text()).map(|(fields, _)| fields.as_slice())
    }

    /// The object of a path that names one.
    pub(crate) fn object_at(&self, path: &Path) -> Option<&Known> {
        self.objects.get(&path.first.text).filter(|_| path.second.is_none())
    }
}

pub(crate) fn fields(declaration: &Declaration) -> Vec<Field> {
    let field = |(name, ty): &(Name, Type)| Field { name: name.text.clone(), ty: *ty };
    declaration.fields.iter().map(field).collect()
}

/// The word with its article.
pub(crate) fn a(word: &str) -> String {
    let article = if word.starts_with(['a', 'e', 'i', 'o', 'u']) { "an" } else { "a" };
    format!("{article} {word}")
}

fn taken(kind: &str, name: &Name, old: Option<Span>) -> Diagnostic {
    let message = format!("there is {} called `{}` already", a(kind), name.text);
    let diagnostic = Diagnostic::error(Code::NameTaken, message).at(name.span, "the second one");
    match old {
        Some(old) => diagnostic.at(old, "the first one").help("give one of them another name"),
        None => diagnostic.help("every scene has this one by itself; give yours another name"),
    }
}

/// The name closest to a misspelled one, if any is close.
pub(crate) fn nearest<'n>(found: &str, names: impl Iterator<Item = &'n str>) -> Option<&'n str> {
    let allowed = (found.chars().count() / 3).max(1);
    names
        .map(|name| (strsim::osa_distance(found, name), name))
        .filter(|(distance, _)| *distance <= allowed)
        .min()
        .map(|(_, name)| name)
}

/// "did you mean", or the list of what there is, if that is short.
pub(crate) fn suggest<'n>(found: &str, kind: &str, names: impl Iterator<Item = &'n str> + Clone) -> String {
    if let Some(near) = nearest(found, names.clone()) {
        return format!("did you mean `{near}`?");
    }
    let known: Vec<_> = names.collect();
    match known.len() {
        0 => format!("there is no {kind} here at all"),
        1..=12 => format!("there are: {}", known.join(", ")),
        many => format!("none of the {many} names of {} is close to it", a(kind)),
    }
}
