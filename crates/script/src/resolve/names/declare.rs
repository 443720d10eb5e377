//! What a file or a kit declares gets its names.

use std::collections::BTreeMap;

use smol_str::format_smolstr;

use stoicheon_core::{Catalogue, Crosses, EffectId, PartInfo, RoutineId, SettingInfoType, SpotId, VarId};

use super::{
    Constant, Known, Message, Names, OWN_SIGNALS, Object, Placed, Report, Role, Routine, Spot, Thing, Var,
    View, fields_of, taken,
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, Atom, Items, Name},
    resolve::words::{Listed, row_of, type_of, with_words},
    source::Span,
};

/// What comes next in a scope, in the order of the text.
enum Next<'m> {
    Object(&'m model::Object, Role),
    Use(&'m model::Use),
    Wire(&'m model::Wire),
}

impl<'m> Names<'m> {
    pub(super) fn items(
        &mut self,
        items: &'m Items,
        scope: usize,
        catalogue: &'m Catalogue,
        report: &mut Report<'_>,
    ) {
        // What another part of the project looks at is told of there.
        let muted = report.mute(!self.view.takes(&self.scopes[scope]));
        self.all_items(items, scope, catalogue, report);
        report.unmute(muted);
    }

    fn all_items(
        &mut self,
        items: &'m Items,
        scope: usize,
        catalogue: &'m Catalogue,
        report: &mut Report<'_>,
    ) {
        for (written, effect) in items
            .signals
            .iter()
            .map(|signal| (signal, false))
            .chain(items.effects.iter().map(|effect| (effect, true)))
        {
            self.declared(written, effect, scope, report);
        }
        for written in &items.givens {
            self.givens.push(Constant { written, scope, known: Known::NotYet });
            let thing = Thing::Constant(self.givens.len() - 1);
            self.call(scope, &written.name, thing, "constant", report);
        }
        for written in &items.vars {
            let index = self.add_var(written, None, scope);
            self.call(scope, &written.name, Thing::Var(index), "variable", report);
        }
        for written in &items.spots {
            let index = self.add_spot(written, None, scope);
            self.call(scope, &written.name, Thing::Spot(index), "spot", report);
        }
        for written in &items.routines {
            let index = self.routines.len();
            let name = self.whole(scope, &written.name.text);
            self.routines.push(Routine { name, written, scope, id: RoutineId::default() });
            if let Some(old) = self.scopes[scope].routines.insert(written.name.text.clone(), index) {
                report.push(taken("routine", &written.name, Some(self.routines[old].written.name.span)));
            }
        }
        self.binds.extend(items.binds.iter().map(|written| Placed { written, scope, owner: None }));
        self.rules.extend(items.rules.iter().map(|written| Placed { written, scope, owner: None }));

        let mut next: Vec<(Span, Next<'m>)> = Vec::new();
        next.extend(
            items.objects.iter().map(|object| (object.name.span, Next::Object(object, Role::Object))),
        );
        next.extend(items.moulds.iter().map(|b| (b.name.span, Next::Object(b, Role::Mould))));
        next.extend(items.uses.iter().map(|used| (used.span, Next::Use(used))));
        next.extend(items.wires.iter().map(|wire| (wire.span, Next::Wire(wire))));
        next.extend(items.managers.iter().map(|m| (m.name.span, Next::Object(m, Role::Manager))));
        next.sort_by_key(|(span, _)| *span);
        // Uses without a name are counted for each kit.
        let mut numbers: BTreeMap<&str, usize> = BTreeMap::new();
        for (_, next) in next {
            match next {
                Next::Object(object, role) => self.object(object, role, scope, catalogue, report),
                Next::Wire(written) => self.wires.push(Placed { written, scope, owner: None }),
                Next::Use(used) => {
                    let number = numbers.entry(&used.kit.text).or_default();
                    *number += usize::from(used.name.is_none());
                    let number = *number;
                    self.use_kit(used, number, scope, catalogue, report);
                }
            }
        }
    }

    fn declared(
        &mut self,
        written: &'m model::Declaration,
        effect: bool,
        scope: usize,
        report: &mut Report<'_>,
    ) {
        let mut name = self.whole(scope, &written.name.text);
        if effect {
            name = self.without_scene(name, scope);
        }
        let fields = fields_of(&written.fields);
        let (list, kind) = if effect { (&mut self.effects, "effect") } else { (&mut self.signals, "signal") };
        let map = if effect { &mut self.scopes[scope].effects } else { &mut self.scopes[scope].signals };
        if let Some(old) = map.get(&written.name.text) {
            // What the game offers may be said again.
            let old = &list[*old];
            let own = OWN_SIGNALS.contains(&written.name.text.as_str());
            let same = !own && old.span.is_none() && old.fields == fields && old.name == name;
            if !same {
                report.push(taken(kind, &written.name, old.span));
            }
            return;
        }
        map.insert(written.name.text.clone(), list.len());
        let (span, effect) = (Some(written.name.span), EffectId::default());
        let crosses = written.crosses.as_ref().and_then(|crosses| {
            let to = match crosses.to.text.as_str() {
                "authority" => Crosses::ToAuthority,
                "players" => Crosses::ToPlayers,
                other => {
                    let message = format!("a signal cannot cross to `{other}`");
                    report.push(
                        Diagnostic::error(Code::UnknownWord, message)
                            .at(crosses.to.span, "expected authority or players")
                            .help("a signal to the authority comes from a player; a signal to players comes from the authority"),
                    );
                    return None;
                }
            };
            Some((to, crosses.by.iter().map(|tag| tag.text.clone()).collect()))
        });
        list.push(Message { name: name.clone(), fields, span, effect, crosses });
        self.note_game(&name, written);
    }

    fn add_var(&mut self, written: &'m model::Var, object: Option<usize>, scope: usize) -> usize {
        let name = match object {
            Some(object) => format_smolstr!("{}.{}", self.objects[object].name, written.name.text),
            None => self.whole(scope, &written.name.text),
        };
        self.vars.push(Var {
            name,
            ty: written.ty.ty.clone(),
            per_player: written.per_player,
            span: written.name.span,
            written: Some(written),
            kept_by: None,
            object,
            scope,
            bound: None,
            id: VarId::default(),
        });
        self.vars.len() - 1
    }

    /// The variables a part keeps.
    fn part_vars(
        &mut self,
        object: usize,
        part: &'m model::Part,
        info: &'m PartInfo,
        report: &mut Report<'_>,
    ) {
        // The parameters of a table are variables too.
        let table = info.settings.iter().any(|setting| setting.ty == SettingInfoType::Table);
        if info.variables.is_empty() && !table {
            return;
        }
        let listed = Listed::of(info, part);
        let per_player = listed.has_flag("per player");
        let entries = listed.entries;
        let words: Vec<_> = entries.iter().map(|entry| entry.word.text.clone()).collect();
        let own = info.variables.iter().map(|variable| {
            let ty = with_words(&variable.ty, &words);
            (variable.name.clone(), ty, part.kind.span)
        });
        let mut found: Vec<_> = own.collect();
        let first = entries.first().map(|entry| entry.values.as_slice()).unwrap_or_default();
        if let ([Atom::Group(row), ..], true) = (first, table) {
            let row = row_of(row).into_iter();
            found.extend(row.map(|(name, value)| (name.text.clone(), type_of(value), name.span)));
        }
        for (name, ty, span) in found {
            let known = &mut self.objects[object];
            if let Some(old) = known.vars.get(&name) {
                let name = Name::new(name, span);
                report.push(taken("variable", &name, Some(self.vars[*old].span)));
                continue;
            }
            known.vars.insert(name.clone(), self.vars.len());
            let (whole, scope) = (format_smolstr!("{}.{name}", known.name), known.scope);
            self.vars.push(Var {
                name: whole,
                ty,
                per_player,
                span,
                written: None,
                kept_by: Some(info),
                object: Some(object),
                scope,
                bound: None,
                id: VarId::default(),
            });
        }
    }

    fn add_spot(&mut self, written: &'m model::Spot, object: Option<usize>, scope: usize) -> usize {
        let name = match object {
            Some(object) => format_smolstr!("{}.{}", self.objects[object].name, written.name.text),
            None => self.whole(scope, &written.name.text),
        };
        self.spots.push(Spot { name, written, object, scope, id: SpotId::default() });
        self.spots.len() - 1
    }

    fn object(
        &mut self,
        written: &'m model::Object,
        role: Role,
        scope: usize,
        catalogue: &'m Catalogue,
        report: &mut Report<'_>,
    ) {
        let index = self.objects.len();
        let mut name = self.whole(scope, &written.name.text);
        if role == Role::Mould {
            name = self.without_scene(name, scope);
        }
        if let Some(misplaced) = self.misplaced(written, role, scope) {
            report.push(misplaced);
        }
        let mut object = Object::new(name.clone(), role, scope);
        object.written = Some(written);
        object.span = written.name.span;
        object.tags = written.tags.iter().map(|tag| tag.text.clone()).collect();
        if role == Role::Mould {
            object.tags.push(name);
        }
        for part in &written.parts {
            let Some(info) = catalogue.part(&part.kind.text) else { continue };
            if object.parts.iter().any(|(_, known)| known.name == info.name) {
                let message = format!("`{}` already has a {}", written.name.text, info.name);
                report.push(Diagnostic::error(Code::NameTaken, message).at(part.kind.span, "the second one"));
                continue;
            }
            object.parts.push((part, info));
        }
        for signal in &written.signals {
            self.note_game(&format!("{}.{}", object.name, signal.name.text).into(), signal);
            let entry = (fields_of(&signal.fields), signal.name.span);
            let given_by_part = object.parts.iter().flat_map(|(_, info)| &info.signals);
            let by_part = given_by_part.clone().any(|known| known.name == signal.name.text);
            if let Some((_, old)) = object.signals.insert(signal.name.text.clone(), entry) {
                report.push(taken("signal", &signal.name, Some(old)));
            } else if by_part {
                report.push(taken("signal", &signal.name, None));
            }
        }
        for tag in &object.tags {
            self.tagged.entry(tag.clone()).or_default().push(index);
        }
        self.tags.extend(object.tags.iter().cloned());
        self.objects.push(object);
        if role == Role::Mould {
            if let Some(old) = self.scopes[scope].moulds.insert(written.name.text.clone(), index) {
                report.push(taken("mould", &written.name, Some(self.objects[old].span)));
            }
        } else {
            self.call(scope, &written.name, Thing::Object(index), "object", report);
        }
        for (part, info) in self.objects[index].parts.clone() {
            self.part_vars(index, part, info, report);
        }
        for var in &written.vars {
            let number = self.add_var(var, Some(index), scope);
            if let Some(old) = self.objects[index].vars.insert(var.name.text.clone(), number) {
                report.push(taken("variable", &var.name, Some(self.vars[old].span)));
            }
        }
        for spot in &written.spots {
            let number = self.add_spot(spot, Some(index), scope);
            if let Some(old) = self.objects[index].spots.insert(spot.name.text.clone(), number) {
                report.push(taken("spot", &spot.name, Some(self.spots[old].written.name.span)));
            }
        }
        self.wires.extend(written.wires.iter().map(|wire| Placed {
            written: wire,
            scope,
            owner: Some(index),
        }));
    }

    /// In a project, a scene's objects stand with the scene, and who outlives scenes does not.
    fn misplaced(&self, written: &model::Object, role: Role, scope: usize) -> Option<Diagnostic> {
        let (message, label, help) = match role {
            Role::Object if self.scopes[scope].hall => (
                format!("`{}` is not in a scene", written.name.text),
                "stands in a file that every scene shares",
                "move it to the file of a scene, or make it a manager",
            ),
            Role::Manager if self.view != View::Alone && !self.scopes[scope].hall => (
                format!(
                    "the manager `{}` is declared in a scene, but stays when scenes change",
                    written.name.text
                ),
                "stands in the file of one scene",
                "move it to a file that the project shares",
            ),
            _ => return None,
        };
        Some(Diagnostic::error(Code::Misplaced, message).at(written.name.span, label).help(help))
    }
}
