//! Statements.

use smol_str::SmolStr;
use stoicheon_core::Field;

use super::{
    Checker,
    names::{Found, a, suggest},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Expr, Name, Path, Statement},
    source::Span,
};

impl Checker<'_> {
    pub(super) fn statements(&mut self, statements: &[Statement], fields: &[Field]) {
        for statement in statements {
            match statement {
                Statement::Wait(_) => {}
                Statement::Command { command, target } => self.command(command, target),
                Statement::Emit { signal, args } => match self.names.signals.get(&signal.text()) {
                    Some((wanted, declared)) => {
                        self.args(&signal.text(), signal.span(), wanted, *declared, args, fields);
                    }
                    None => self.unknown_signal(signal),
                },
                Statement::Perform { effect, args } => match self.names.effects.get(&effect.text()) {
                    Some((wanted, declared)) => {
                        self.args(&effect.text(), effect.span(), wanted, Some(*declared), args, fields);
                    }
                    None => self.unknown_effect(effect),
                },
                Statement::Set { var, to } => self.set(var, to, fields),
                Statement::Switch { object, .. } => {
                    self.object(object);
                }
                Statement::If { when, then, otherwise } => {
                    self.condition(when, fields);
                    self.statements(then, fields);
                    self.statements(otherwise, fields);
                }
            }
        }
    }

    fn command(&mut self, command: &Name, target: &Path) {
        let all = || {
            let commands = self.catalogue.parts().iter().flat_map(|kind| kind.commands);
            commands.copied().chain(["wait", "emit", "perform", "set", "enable", "disable", "if"])
        };
        if !all().any(|word| word == command.text) {
            let help = suggest(&command.text, "statement", all());
            self.diagnostics.push(
                Diagnostic::error(
                    Code::UnknownCommand,
                    format!("there is no statement or command `{}`", command.text),
                )
                .at(command.span, "expected a statement")
                .help(help),
            );
            return;
        }
        let Some(known) = self.object(target) else { return };
        let commands = || known.kinds.iter().flat_map(|kind| kind.commands.iter().copied());
        if commands().any(|word| word == command.text) {
            return;
        }
        let (span, listed) = (known.span, commands().collect::<Vec<_>>());
        let help = if listed.is_empty() {
            format!("`{}` has no part that takes commands", target.text())
        } else {
            format!("its parts take: {}", listed.join(", "))
        };
        self.diagnostics.push(
            Diagnostic::error(
                Code::UnknownCommand,
                format!("no part of `{}` takes the command `{}`", target.text(), command.text),
            )
            .at(command.span, "not taken")
            .at(span, "made here")
            .help(help),
        );
    }

    /// Values against fields, one for one.
    fn args(
        &mut self,
        name: &str,
        span: Span,
        wanted: &[Field],
        declared: Option<Span>,
        args: &[Expr],
        fields: &[Field],
    ) {
        let found: Vec<_> = args.iter().map(|arg| self.expr(arg, fields)).collect();
        let list: Vec<_> =
            wanted.iter().map(|field| format!("{}: {}", field.name, field.ty.word())).collect();
        let shape = format!("`{name}({})`", list.join(", "));
        let declared_here = |diagnostic: Diagnostic| {
            declared.map_or(diagnostic.clone(), |at| diagnostic.at(at, "declared here"))
        };
        if wanted.len() != args.len() {
            let message = format!("{shape} takes {}, found {}", values(wanted.len()), args.len());
            let diagnostic = Diagnostic::error(Code::WrongCount, message).at(span, values(args.len()));
            self.diagnostics.push(declared_here(diagnostic));
            return;
        }
        for ((field, arg), found) in wanted.iter().zip(args).zip(found) {
            let Some(found) = found.filter(|found| *found != Found::Type(field.ty)) else { continue };
            let message =
                format!("`{}` of `{name}` is {}, found {}", field.name, a(field.ty.word()), a(found.word()));
            let diagnostic = Diagnostic::error(Code::WrongType, message).at(arg.span, a(found.word()));
            self.diagnostics.push(declared_here(diagnostic));
        }
    }

    fn set(&mut self, var: &Path, to: &Expr, fields: &[Field]) {
        let found = self.expr(to, fields);
        let known = self.names.vars.get(&var.first.text).filter(|_| var.second.is_none());
        let Some((ty, declared)) = known else {
            let help = suggest(&var.text(), "variable", self.names.vars.keys().map(SmolStr::as_str));
            self.diagnostics.push(
                Diagnostic::error(Code::UnknownName, format!("there is no variable `{}`", var.text()))
                    .at(var.span(), "expected a variable")
                    .help(help),
            );
            return;
        };
        let (Some(ty), Some(found)) = (ty, found) else { return };
        if found != Found::Type(*ty) {
            let message = format!("`{}` holds {}, found {}", var.text(), a(ty.word()), a(found.word()));
            self.diagnostics.push(
                Diagnostic::error(Code::WrongType, message)
                    .at(to.span, a(found.word()))
                    .at(*declared, "declared here"),
            );
        }
    }

    pub(super) fn unknown_effect(&mut self, path: &Path) {
        let help = suggest(&path.text(), "effect", self.names.effects.keys().map(SmolStr::as_str));
        self.diagnostics.push(
            Diagnostic::error(Code::UnknownEffect, format!("there is no effect `{}`", path.text()))
                .at(path.span(), "expected an effect")
                .help(help),
        );
    }
}

fn values(count: usize) -> String {
    match count {
        0 => "no value".to_owned(),
        1 => "1 value".to_owned(),
        many => format!("{many} values"),
    }
}
