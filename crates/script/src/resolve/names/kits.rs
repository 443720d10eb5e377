//! Uses of kits: each makes names of its own.

use smol_str::format_smolstr;
use stoicheon_core::{Catalogue, Type};

use super::{Names, Report, Scope, Thing};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, ExprKind, Given, Kit, ParamType},
    resolve::notes::Rank,
    suggest::a,
};

/// How deeply kits may use kits.
pub(crate) const DEEPEST_USE: usize = 32;

/// How many uses of kits a file may come to, those inside kits counted each time.
pub(crate) const MOST_USES: usize = 100_000;

impl<'m> Names<'m> {
    pub(super) fn use_kit(
        &mut self,
        used: &'m model::Use,
        number: usize,
        scope: usize,
        catalogue: &'m Catalogue,
        report: &mut Report<'_>,
    ) {
        let number_here = self.scopes[scope].scene_number;
        let mut keys = [number_here, 0].map(|number| (number, used.kit.text.clone(), used.made)).into_iter();
        let Some(key) = keys.find(|key| self.kits.contains_key(key)) else {
            let known = self.kits.keys().filter(|(number, ..)| [0, number_here].contains(number));
            let help = report.suggest(&used.kit.text, "kit", known.map(|(_, name, _)| name.as_str()));
            report.push(
                Diagnostic::error(Code::UnknownKit, format!("there is no kit `{}`", used.kit.text))
                    .at(used.kit.span, "expected a kit")
                    .help(help),
            );
            return;
        };
        let Some(kit) = self.kits.get(&key).copied() else { return };
        report.means(used.kit.span, Rank::Kind, kit.name.span);
        let kit_number = kit.home.unwrap_or(key.0);
        let kit_key = (kit_number, key.1);
        self.used_kits.insert(kit_key.clone());
        let mut around = vec![used.span];
        around.extend(&self.scopes[scope].uses);
        // Whatever it is given, a kit in itself never ends.
        let mut outside = std::iter::successors(Some(scope), |scope| self.scopes[*scope].used_in)
            .map(|at| &self.scopes[at]);
        let in_itself = outside.any(|scope| scope.kit.as_ref() == Some(&kit_key));
        let circle = in_itself || around.len() > DEEPEST_USE;
        if circle || self.scopes.len() > MOST_USES {
            let message = if circle {
                format!("the kit `{}` is used inside itself", used.kit.text)
            } else {
                format!("expected at most {MOST_USES} uses of kits, found more")
            };
            report.push(Diagnostic::error(Code::Circle, message).at(used.span, "used here again"));
            return;
        }
        let name = match &used.name {
            Some(name) => name.text.clone(),
            None => format_smolstr!("{}_{number}", used.kit.text),
        };
        let prefix = self.whole(scope, &name);
        let inner = self.scopes.len();
        // A kit sees the names of its file, not those of the place it is used at.
        let of_kit = self.scope_of_scene(kit_number);
        let hall = self.scopes[scope].hall;
        let parent = of_kit.or(Some(0));
        let scene_number = number_here;
        let used_in = Some(scope);
        self.scopes.push(Scope {
            prefix,
            uses: around,
            parent,
            used_in,
            kit: Some(kit_key),
            hall,
            scene_number,
            ..Scope::default()
        });
        match &used.name {
            Some(name) => self.call(scope, name, Thing::Use(inner), "use of a kit", report),
            None => {
                let entry = (Thing::Use(inner), used.kit.span);
                self.scopes[scope].things.entry(name).or_insert(entry);
            }
        }
        self.uses.push((scope, inner, used, kit));
        self.give(kit, used, inner, scope, report);
        report.uses.push(self.scopes[inner].uses.clone());
        self.items(&kit.items, inner, catalogue, report);
        report.uses.pop();
    }

    fn give(
        &mut self,
        kit: &'m Kit,
        used: &'m model::Use,
        inner: usize,
        outer: usize,
        report: &mut Report<'_>,
    ) {
        self.scopes[inner].broken |= used.torn;
        for Given { name, .. } in &used.given {
            if let Some(known) = kit.parameters.iter().find(|known| known.name.text == name.text) {
                report.means(name.span, Rank::Kind, known.name.span);
            }
            if !kit.parameters.iter().any(|parameter| parameter.name.text == name.text) {
                let known = kit.parameters.iter().map(|parameter| parameter.name.text.as_str());
                let help = report.suggest(&name.text, "parameter", known);
                let message = format!("the kit `{}` has no parameter `{}`", kit.name.text, name.text);
                report.push(
                    Diagnostic::error(Code::UnknownKit, message)
                        .at(name.span, "expected a parameter")
                        .at(kit.name.span, "the kit")
                        .help(help),
                );
            }
        }
        for parameter in &kit.parameters {
            let given = used.given.iter().find(|given| given.name.text == parameter.name.text);
            // What is given once for the whole kit means what it means there.
            let outside = self.scopes[inner].parent.unwrap_or(0);
            let given = given.map(|given| (&given.value, outer));
            let Some((value, scope)) = given.or(parameter.default.as_ref().map(|value| (value, outside)))
            else {
                if used.torn {
                    self.scopes[inner].broken = true;
                    continue;
                }
                let message = format!(
                    "the kit `{}` needs `{}`, {}",
                    kit.name.text,
                    parameter.name.text,
                    a(parameter.ty.ty.word())
                );
                report.push(
                    Diagnostic::error(Code::MissingSetting, message)
                        .at(used.kit.span, format!("`{}` is not given", parameter.name.text))
                        .at(parameter.name.span, "the parameter"),
                );
                self.scopes[inner].broken = true;
                continue;
            };
            let away = matches!(value.kind, ExprKind::InScene { .. });
            if let ParamType::Value(ty) = &parameter.ty.ty
                && !(*ty == Type::Spot && away)
            {
                let thing = Thing::Given { ty, value, scope };
                self.call(inner, &parameter.name, thing, "parameter", report);
            }
        }
    }
}
