//! What a name or a path stands for.

use std::sync::Arc;

use smol_str::{SmolStr, format_smolstr};
use stoicheon_core::Field;

use super::{
    Cx, Rank, Resolver, Which,
    names::{Role, Thing},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{ExprKind, Name, Path},
    source::Span,
};

/// What the beginning of a path stands for, and how many of its names that took.
type Begun<'m> = (Thing<'m>, usize);

/// A signal: its whole name and what it carries.
#[derive(Clone, Debug)]
pub(super) struct Signal {
    pub(super) name: SmolStr,
    pub(super) fields: Arc<[Field]>,
    pub(super) declared: Option<Span>,
    pub(super) object: Option<usize>,
}

impl<'m> Resolver<'m, '_> {
    /// What a name stands for in a scope or the ones around it.
    pub(super) fn thing(&self, name: &str, scope: usize) -> Option<Thing<'m>> {
        self.thing_at(name, scope).map(|(thing, _)| thing)
    }

    /// The scope in which a name means something that stands in another: outside the kit, if it was given to that.
    pub(super) fn scope_of(&self, name: &Name, mut scope: usize) -> usize {
        for _ in 0..name.outward {
            scope = self.names.scopes[scope].used_in.unwrap_or(scope);
        }
        scope
    }

    /// The innermost scope in which something is found.
    pub(super) fn found<T>(
        &self,
        scope: usize,
        find: impl Fn(&super::names::Scope<'m>) -> Option<T>,
    ) -> Option<T> {
        let mut at = Some(scope);
        while let Some(scope) = at {
            let scope = &self.names.scopes[scope];
            if let Some(found) = find(scope) {
                return Some(found);
            }
            at = scope.parent;
        }
        None
    }

    /// Follows a parameter of a kit to what was given for it, if that is a name.
    pub(super) fn follow(&self, thing: Thing<'m>) -> Thing<'m> {
        let mut thing = thing;
        // Kits nest only so deeply.
        for _ in 0..64 {
            let Thing::Given { value, scope, .. } = thing else { return thing };
            let ExprKind::Name(path) = &value.kind else { return thing };
            match self.begin(path, scope) {
                Some((found, used)) if used == path.0.len() => thing = found,
                _ => return thing,
            }
        }
        thing
    }

    /// Follows a path through uses of kits to an object, a variable or a spot.
    pub(super) fn begin(&self, path: &Path, scope: usize) -> Option<Begun<'m>> {
        let scope = self.scope_of(path.first(), scope);
        let (first, declared) = self.thing_at(&path.first().text, scope)?;
        self.report.means(path.first().span, Rank::Thing, declared);
        let mut thing = self.follow(first);
        let mut used = 1;
        while let (Thing::Use(inner), Some(name)) = (thing, path.0.get(used)) {
            let Some((next, declared)) = self.names.scopes[inner].things.get(&name.text).copied() else {
                break;
            };
            self.report.means(name.span, Rank::Thing, declared);
            thing = self.follow(next);
            used += 1;
        }
        Some((thing, used))
    }

    /// The object a path names, if it names one.
    pub(super) fn object_named(&self, path: &Path, cx: &Cx<'_>) -> Option<usize> {
        match self.begin(path, cx.scope) {
            Some((Thing::Object(object), used)) if used == path.0.len() => Some(object),
            _ => None,
        }
    }

    /// The object a path must name; reported if there is none.
    pub(super) fn object(&mut self, path: &Path, cx: &Cx<'_>) -> Option<usize> {
        let found = self.object_named(path, cx);
        if found.is_none() {
            let text = path.text();
            let help = if cx.loop_name.as_deref() == Some(&*text) {
                super::name::IT.to_owned()
            } else if self.names.tags.contains(&*text) {
                format!(
                    "`{text}` is a tag: one is meant by `who`, who caused it; all of them by `every {text}`; all players by `everyone`"
                )
            } else {
                self.report.suggest(&text, "object", self.object_names(cx.scope).iter().copied())
            };
            let message = format!("there is no object `{}`", path.text());
            self.wrong(
                Diagnostic::error(Code::UnknownObject, message)
                    .at(path.span(), "expected an object")
                    .help(help),
            );
        }
        found
    }

    /// The names of all objects that can be seen from a scope.
    pub(super) fn object_names(&self, scope: usize) -> Vec<&str> {
        self.visible(scope, |thing| matches!(thing, Thing::Object(_) | Thing::Use(_)))
    }

    pub(super) fn visible(&self, scope: usize, which: impl Fn(&Thing<'m>) -> bool) -> Vec<&str> {
        let mut names = Vec::new();
        let mut at = Some(scope).filter(|_| !self.report.suggests_nothing());
        while let Some(scope) = at {
            let scope = &self.names.scopes[scope];
            let here = scope.things.iter().filter(|(_, (thing, _))| which(&self.follow(*thing)));
            names.extend(here.map(|(name, _)| name.as_str()));
            at = scope.parent;
        }
        names
    }

    /// The signal of that name an object gives.
    pub(super) fn signal_of(&self, object: usize, name: &str) -> Option<Signal> {
        let known = &self.names.objects[object];
        let whole = || format_smolstr!("{}.{name}", known.name);
        let signal = |fields: &Arc<[Field]>, declared| Signal {
            name: whole(),
            fields: fields.clone(),
            declared: Some(declared),
            object: Some(object),
        };
        if let Some((fields, span)) = known.signals.get(name) {
            return Some(signal(fields, *span));
        }
        for (index, (_, info)) in known.parts.iter().enumerate() {
            let Some(info) = info.signals.iter().find(|info| info.name == name) else { continue };
            let words = || self.words_of(object, index);
            let own =
                |field: &Field| matches!(&field.ty, stoicheon_core::Type::OneOf(words) if words.is_empty());
            if !info.fields.iter().any(own) {
                return Some(signal(&info.fields, known.span));
            }
            let fields = info.fields.iter().map(|field| {
                let ty = super::words::with_words(&field.ty, &words());
                Field { name: field.name.clone(), ty }
            });
            return Some(signal(&fields.collect(), known.span));
        }
        let started = name == "started" && known.role != Role::Foreign;
        started.then(|| signal(&Arc::default(), known.span))
    }

    /// The names of the signals an object gives.
    pub(super) fn signals_of(&self, object: usize) -> Vec<&str> {
        let known = &self.names.objects[object];
        let parts = known.parts.iter().flat_map(|(_, info)| info.signals.iter().map(|s| s.name.as_str()));
        parts.chain(known.signals.keys().map(SmolStr::as_str)).collect()
    }

    /// The signal a path names; for a single name the signals of the object it is written in come first.
    pub(super) fn signal_named(&self, path: &Path, cx: &Cx<'_>) -> Option<Signal> {
        let (last, before) = path.split_last();
        if before.is_empty() {
            let owner = cx.owner.filter(|_| last.outward == 0);
            if let Some(signal) = owner.and_then(|owner| self.signal_of(owner, &last.text)) {
                owner.into_iter().for_each(|owner| self.note_signal_of(owner, last));
                return Some(signal);
            }
            let scope = self.scope_of(last, cx.scope);
            let index = self.found(scope, |scope| scope.signals.get(&last.text).copied())?;
            return Some(self.scene_signal(index, last));
        }
        let before = Path(before.to_vec());
        match self.begin(&before, cx.scope)? {
            (Thing::Object(object), used) if used == before.0.len() => {
                self.note_signal_of(object, last);
                self.signal_of(object, &last.text)
            }
            (Thing::Use(inner), used) if used == before.0.len() => {
                let index = *self.names.scopes[inner].signals.get(&last.text)?;
                Some(self.scene_signal(index, last))
            }
            _ => None,
        }
    }

    fn scene_signal(&self, index: usize, name: &Name) -> Signal {
        let message = &self.names.signals[index];
        self.report.means(name.span, Rank::Kind, message.span.unwrap_or_default());
        Signal {
            name: message.name.clone(),
            fields: message.fields.clone(),
            declared: message.span,
            object: None,
        }
    }

    /// The signal a path must name; reported if there is none.
    pub(super) fn signal(&mut self, path: &Path, cx: &Cx<'_>) -> Option<Signal> {
        let found = self.signal_named(path, cx);
        if found.is_none() {
            self.unknown_signal(path, cx);
        }
        found
    }

    fn unknown_signal(&mut self, path: &Path, cx: &Cx<'_>) {
        let text = path.text();
        let (last, before) = path.split_last();
        let before = (!before.is_empty()).then(|| Path(before.to_vec()));
        let object = before.as_ref().and_then(|before| self.object_named(before, cx));
        // For `object.signal`, a misspelled half is looked for among the halves.
        let (message, help, span) = match (before, object) {
            (Some(before), Some(object)) => {
                let signals = self.signals_of(object);
                let help = self.report.suggest(&last.text, "signal", signals.into_iter().chain(["started"]));
                (format!("`{}` has no signal `{}`", before.text(), last.text), help, last.span)
            }
            (Some(before), None) => {
                let tag = before.text();
                let help = if self.names.tags.contains(&tag) {
                    format!("`{tag}` is a tag: write `every {tag}.{}` for all objects with it", last.text)
                } else {
                    self.report.suggest(&tag, "object", self.object_names(cx.scope).into_iter())
                };
                (format!("there is no object `{}`", before.text()), help, before.span())
            }
            (None, _) => match self.object_named(path, cx) {
                Some(object) => {
                    let signals = self.signals_of(object);
                    let signals: Vec<_> = signals.iter().map(|signal| format!("{text}.{signal}")).collect();
                    let help = if signals.is_empty() {
                        format!("`{text}` is an object whose only signal is {text}.started")
                    } else {
                        format!("`{text}` is an object; its signals are {}", signals.join(", "))
                    };
                    (format!("there is no signal `{text}`"), help, path.span())
                }
                None if self.begins_with_value(path.first(), cx) => {
                    let help = format!("`{text}` is an object: name one of its signals, such as {text}.gone");
                    (format!("there is no signal `{text}`"), help, path.span())
                }
                None => {
                    let own = cx.owner.map(|owner| self.signals_of(owner)).unwrap_or_default();
                    let mut known: Vec<_> = own;
                    let mut at = Some(cx.scope).filter(|_| !self.report.suggests_nothing());
                    while let Some(scope) = at {
                        known.extend(self.names.scopes[scope].signals.keys().map(SmolStr::as_str));
                        at = self.names.scopes[scope].parent;
                    }
                    let help = self.report.suggest(&text, "signal", known.into_iter());
                    (format!("there is no signal `{text}`"), help, path.span())
                }
            },
        };
        self.wrong(Diagnostic::error(Code::UnknownSignal, message).at(span, "expected a signal").help(help));
    }

    /// The signal of that name that the objects with a tag give.
    pub(super) fn group_signal(&mut self, tag: &Name, signal: &Name) -> Option<Signal> {
        self.note_tag(tag);
        let members = self.names.tagged.get(&tag.text).cloned().unwrap_or_default();
        if members.is_empty() {
            let help = self.report.suggest(&tag.text, "tag", self.names.tags.iter().map(SmolStr::as_str));
            let message = format!("no object in this file has the tag `{}`", tag.text);
            self.wrong(
                Diagnostic::error(Code::UnknownTag, message).at(tag.span, "expected a tag").help(help),
            );
            return None;
        }
        let found = self.common_signal(&members, signal).ok()?;
        if found.is_none() {
            self.no_signal_of(&Which::Tagged(tag.text.clone()), signal);
        }
        found
    }

    /// The signal of that name that some objects give: none, if no one gives it; reported if it is not the same for all.
    pub(super) fn common_signal(&mut self, members: &[usize], signal: &Name) -> Result<Option<Signal>, ()> {
        let mut found: Option<Signal> = None;
        for object in members {
            let Some(given) = self.signal_of(*object, &signal.text) else { continue };
            self.note_signal_of(*object, signal);
            match &found {
                Some(first) if first.fields != given.fields => {
                    let (one, two) = (first.name.clone(), given.name.clone());
                    let message = format!("`{one}` and `{two}` carry different values");
                    self.wrong(
                        Diagnostic::error(Code::WrongType, message)
                            .at(signal.span, "which of the two is known only at run time"),
                    );
                    return Err(());
                }
                Some(_) => {}
                None => found = Some(given),
            }
        }
        Ok(found)
    }

    /// Reports that none of some objects gives a signal of that name.
    pub(super) fn no_signal_of(&mut self, which: &Which, signal: &Name) {
        let members = self.candidates(which);
        let known: Vec<_> = members.iter().flat_map(|object| self.signals_of(*object)).collect();
        let help = self.report.suggest(&signal.text, "signal", known.into_iter().chain(["started"]));
        let message = match which {
            Which::One(one) => {
                format!("`{}` has no signal `{}`", self.names.objects[*one].name, signal.text)
            }
            Which::Tagged(tag) => format!("nothing tagged `{tag}` has a signal `{}`", signal.text),
            Which::Unknown => format!("no object has a signal `{}`", signal.text),
        };
        self.wrong(
            Diagnostic::error(Code::UnknownSignal, message).at(signal.span, "expected a signal").help(help),
        );
    }

    /// Whether a tag is one that something has; reported if not.
    pub(super) fn tag(&mut self, tag: &Name) {
        self.note_tag(tag);
        self.wanted_tags.insert(tag.text.clone());
        if self.names.tags.contains(&tag.text) {
            return;
        }
        let help = self.report.suggest(&tag.text, "tag", self.names.tags.iter().map(SmolStr::as_str));
        let message = format!("nothing in this file has the tag `{}`", tag.text);
        self.wrong(Diagnostic::warning(Code::UnknownTag, message).at(tag.span, "admits nobody").help(help));
    }

    /// The members of a group, or the one object.
    pub(super) fn candidates(&self, which: &Which) -> Vec<usize> {
        match which {
            Which::One(object) => vec![*object],
            Which::Tagged(tag) => self.names.tagged.get(tag).cloned().unwrap_or_default(),
            Which::Unknown => (0..self.names.objects.len()).collect(),
        }
    }
}
