//! What happened last, in a playtest: `last bell.strokes`, `last bell.who`.

use smol_str::format_smolstr;
use stoicheon_core::{
    Expr, Field, Type,
    playtest::{Last, Watched},
};

use super::{Cx, Means, Rank, Resolver, Ty, Typed, Which};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Name, Path},
};

impl Resolver<'_, '_> {
    /// A value of a signal or an effect as it came last.
    pub(super) fn last(&mut self, path: &Path, cx: &Cx<'_>) -> Option<Typed> {
        let Some(all) = cx.last else {
            let message = "`last` is allowed only where a playtest expects something";
            self.wrong(
                Diagnostic::error(Code::Misplaced, message)
                    .at(path.span(), "known only to a playtest")
                    .help("in wiring, keep it in a variable: on bell { strokes_so_far = strokes }"),
            );
            return None;
        };
        // The longest part of it that names something that comes; one more names what that carries.
        let of = (1..path.0.len()).rev().find(|of| self.carried(&Path(path.0[..*of].to_vec()), cx).is_some());
        let Some(of) = of else {
            return self.last_of_nothing(path, cx);
        };
        let (name, named) = (&path.0[of], Path(path.0[..of].to_vec()));
        let (what, fields) = self.carried(&named, cx)?;
        let found = fields.iter().position(|field| field.name == name.text);
        let is_signal = matches!(what, Watched::Signal(_));
        if found.is_none() && !(is_signal && name.text == "who") {
            self.no_field(name, &named, &fields, is_signal);
            return None;
        }
        if let Some(index) = found
            && let Some(declared) = self.declared_message(&what)
        {
            self.report.notes.add(name.span, Rank::Kind, || Means::Field(declared, index));
        }
        let ty = found.map_or(Ty::Object(Which::Unknown), |index| Ty::of(&fields[index].ty));
        let field = found.and_then(|index| u8::try_from(index).ok());
        let named = Field {
            name: format_smolstr!("last {}.{}", named.text(), name.text),
            ty: found.map_or(Type::Object, |index| fields[index].ty.clone()),
        };
        let last = Last { what, field, named };
        let mut all = all.borrow_mut();
        let number = all.iter().position(|known| *known == last).unwrap_or_else(|| {
            all.push(last);
            all.len() - 1
        });
        drop(all);
        let expr = Expr::Field(u8::try_from(number).unwrap_or(u8::MAX));
        self.member(Typed { ty, expr }, path, of + 1, cx)
    }

    /// The signal or the effect a path names in a playtest, and what it carries.
    pub(super) fn carried(&self, path: &Path, cx: &Cx<'_>) -> Option<(Watched, std::sync::Arc<[Field]>)> {
        if let Some(signal) = self.signal_named(path, cx) {
            return Some((Watched::Signal(signal.name), signal.fields));
        }
        let name = self.whole_effect(path)?;
        let effect = &self.names.effects[self.names.effect_by_whole_name(&name)?];
        Some((Watched::Effect(name), effect.fields.clone()))
    }

    /// Where a signal or an effect is declared.
    fn declared_message(&self, what: &Watched) -> Option<crate::source::Span> {
        let (all, whole) = match what {
            Watched::Signal(name) => (&self.names.signals, name),
            Watched::Effect(name) => (&self.names.effects, name),
            _ => return None,
        };
        let own = || {
            let (object, name) = whole.rsplit_once('.')?;
            let known = self.names.objects.iter().find(|known| known.name == object)?;
            Some(known.signals.get(name)?.1)
        };
        all.iter().find(|known| known.name == *whole).and_then(|known| known.span).or_else(own)
    }

    fn last_of_nothing(&mut self, path: &Path, cx: &Cx<'_>) -> Option<Typed> {
        if let Some((what, fields)) = self.carried(path, cx) {
            let field = fields.first().map_or("who", |field| field.name.as_str());
            let message = format!("`{}` carries values, but is not a value", what.name());
            self.wrong(
                Diagnostic::error(Code::WrongType, message)
                    .at(path.span(), "which of them?")
                    .help(format!("name one: last {}.{field}", path.text())),
            );
        } else {
            self.unknown_watched(path);
        }
        None
    }

    fn no_field(&mut self, name: &Name, of: &Path, fields: &[Field], has_who: bool) {
        let known = fields.iter().map(|field| field.name.as_str()).chain(has_who.then_some("who"));
        let help = self.report.suggest(&name.text, "value", known);
        let message = format!("`{}` carries no `{}`", of.text(), name.text);
        self.wrong(
            Diagnostic::error(Code::UnknownName, message)
                .at(name.span, "expected what it carries")
                .help(help),
        );
    }
}
