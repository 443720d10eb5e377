//! Signals of objects that are known only then: `own.gone`, `it.gone`, `heron.gone` for what a loop or `spawn` calls so.

use smol_str::SmolStr;
use stoicheon_core::Expr;

use super::{
    Cx, Resolver, Which,
    lookup::Signal,
    names::{Role, Thing},
};
use crate::model::{self, ExprKind, Name, Path};

/// A signal that a path names.
pub(super) enum Named {
    /// One that is declared.
    Declared(Signal),
    /// One of an object that is known only then, and what is known of that.
    Of(Expr, Which, SmolStr, Signal),
}

impl Named {
    pub(super) fn signal(&self) -> &Signal {
        match self {
            Self::Declared(signal) | Self::Of(_, _, _, signal) => signal,
        }
    }
}

impl Resolver<'_, '_> {
    /// The signal a path must name; reported if there is none.
    pub(super) fn any_signal(&mut self, path: &Path, cx: &Cx<'_>) -> Option<Named> {
        let (last, before) = path.split_last();
        // A mould's own signals are those of each that is made after it.
        if before.is_empty()
            && let Some(mould) = cx.owner.filter(|owner| self.names.objects[*owner].role == Role::Mould)
            && let Some(signal) = self.signal_of(mould, &last.text)
        {
            let which = Which::Tagged(self.names.objects[mould].name.clone());
            self.note_signal_of(mould, last);
            return Some(Named::Of(Expr::Own, which, last.text.clone(), signal));
        }
        if before.is_empty() || !self.begins_with_value(&before[0], cx) {
            return self.signal(path, cx).map(Named::Declared);
        }
        let before = Path(before.to_vec());
        let object = model::Expr { span: before.span(), kind: ExprKind::Name(before) };
        let (which, object) = self.one_object(&object, cx)?;
        if let Which::One(one) = which {
            if let Some(signal) = self.signal_of(one, &last.text) {
                self.note_signal_of(one, last);
                return Some(Named::Declared(signal));
            }
            self.no_signal_of(&which, last);
            return None;
        }
        let members = self.candidates(&which);
        let signal = self.common_signal(&members, last);
        if let Ok(None) = signal {
            self.no_signal_of(&which, last);
        }
        let signal = signal.ok()??;
        Some(Named::Of(object, which, last.text.clone(), signal))
    }

    /// Whether a path that begins so speaks of an object that is known only then.
    pub(super) fn begins_with_value(&self, first: &Name, cx: &Cx<'_>) -> bool {
        let word = &first.text;
        let own = matches!(word.as_str(), "own" | "it" | "who")
            || cx.locals.iter().any(|local| local.name == *word)
            || cx.fields.iter().any(|field| field.name == *word)
            || cx.players.iter().any(|(name, _)| name == word);
        let scope = self.scope_of(first, cx.scope);
        own && first.outward == 0
            || matches!(self.thing(word, scope).map(|thing| self.follow(thing)), Some(Thing::Var(_)))
    }

    /// All that a signal is called that a path names, for who emits it and who hears it.
    pub(super) fn names_of(&mut self, named: &Named) -> Vec<SmolStr> {
        match named {
            Named::Declared(signal) => vec![signal.name.clone()],
            Named::Of(_, which, name, _) => {
                let members = self.candidates(which).into_iter();
                members.filter_map(|object| Some(self.signal_of(object, name)?.name)).collect()
            }
        }
    }
}
