//! Statements that tell parts what to do.

use std::sync::Arc;

use smol_str::SmolStr;
use stoicheon_core::{Expr, Field, Step};

use super::{
    Cx, Resolver, Which,
    names::Role,
    statement::{STATEMENTS, for_whom, tag_of, values},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, Arg, ExprKind, Name, Objects},
    source::Span,
    suggest::a,
};

impl Resolver<'_, '_> {
    /// A command to a part; with `for`, where that is nothing of the command's own, on somebody else's behalf.
    pub(super) fn tell(
        &mut self,
        command: &Name,
        who: &Objects,
        args: &[Arg],
        cx: &mut Cx<'_>,
    ) -> Option<Step> {
        let mut known = self.catalogue.parts().iter().flat_map(|info| &info.commands);
        let takes_for = known
            .any(|known| known.name == command.text && known.params.iter().any(|param| param.name == "for"));
        let Some(at) = args.iter().position(|arg| arg.name.text == "for").filter(|_| !takes_for) else {
            return self.told(command, who, args, cx);
        };
        let mut args = args.to_vec();
        let behalf = args.remove(at).value;
        let behalf = self.behalf(Some(&behalf), cx);
        let step = self.told(command, who, &args, cx)?;
        let behalf = behalf?;
        Some(match step {
            Step::ForEach { among, local, steps } => {
                let steps = steps.into_iter().map(|step| for_whom(behalf.clone(), step)).collect();
                Step::ForEach { among, local, steps }
            }
            step => for_whom(behalf, step),
        })
    }

    fn told(&mut self, command: &Name, who: &Objects, args: &[Arg], cx: &mut Cx<'_>) -> Option<Step> {
        let all = || {
            let commands = self.catalogue.parts().iter().flat_map(|info| &info.commands);
            commands.map(|command| command.name.as_str()).chain(STATEMENTS)
        };
        if !all().any(|word| word == command.text) {
            let help = self.report.suggest(&command.text, "statement", all());
            let message = format!("there is no statement or command `{}`", command.text);
            self.wrong(
                Diagnostic::error(Code::UnknownCommand, message)
                    .at(command.span, "expected a statement")
                    .help(help),
            );
            return None;
        }
        if let Objects::Every(among) = who {
            let tag = tag_of(among);
            if !self.names.tags.contains(&tag) {
                let help = self.report.suggest(&tag, "tag", self.names.tags.iter().map(SmolStr::as_str));
                let message = format!("nothing in this file has or gets the tag `{tag}`");
                self.wrong(
                    Diagnostic::error(Code::UnknownTag, message)
                        .at(among.of.span, "reaches nothing")
                        .help(help),
                );
                return None;
            }
            if self.names.tagged.contains_key(&tag) {
                self.some_takes(command, &Which::Tagged(tag), among.of.span)?;
            }
            let args = self.said_to_some(command, &Which::Tagged(tag_of(among)), args, cx)?;
            let word = command.text.clone();
            return self.each(who, cx, |object| Step::Tell { object, command: word, args });
        }
        let Objects::One(expr) = who else { return None };
        let (which, object) = self.one_object(expr, cx)?;
        let Which::One(one) = which else {
            if matches!(which, Which::Tagged(_)) {
                self.some_takes(command, &which, expr.span)?;
            }
            let args = self.said_to_some(command, &which, args, cx)?;
            return Some(Step::Tell { object, command: command.text.clone(), args });
        };
        if let Some((index, number)) = self.part_that_takes(one, &command.text) {
            let part = self.names.objects[one].part_ids.get(index).copied().unwrap_or_default();
            let args = self.said(one, index, command, args, cx)?;
            return Some(Step::Command { part, command: number, args });
        }
        let known = &self.names.objects[one];
        if known.role == Role::Foreign {
            let args = self.said_to_some(command, &Which::Unknown, args, cx)?;
            return Some(Step::Tell { object, command: command.text.clone(), args });
        }
        let listed: Vec<_> = known
            .parts
            .iter()
            .flat_map(|(_, info)| &info.commands)
            .map(|command| command.name.clone())
            .collect();
        let (name, made) = (known.name.clone(), known.span);
        let help = if listed.is_empty() {
            format!("`{name}` has no part that takes commands")
        } else {
            format!("its parts take: {}", listed.join(", "))
        };
        let message = format!("no part of `{name}` takes the command `{}`", command.text);
        self.wrong(
            Diagnostic::error(Code::UnknownCommand, message)
                .at(command.span, "not taken")
                .at(made, "made here")
                .help(help),
        );
        None
    }

    pub(super) fn some_takes(&mut self, command: &Name, which: &Which, span: Span) -> Option<()> {
        let members = self.candidates(which);
        let parts = members.iter().flat_map(|object| &self.names.objects[*object].parts);
        let commands: Vec<_> = parts.flat_map(|(_, info)| &info.commands).collect();
        if commands.iter().any(|known| known.name == command.text) {
            return Some(());
        }
        let listed: std::collections::BTreeSet<_> =
            commands.iter().map(|known| known.name.as_str()).collect();
        let help = if listed.is_empty() {
            "they have no part that takes commands".to_owned()
        } else {
            format!("their parts take: {}", listed.into_iter().collect::<Vec<_>>().join(", "))
        };
        let message = format!("none of these takes the command `{}`", command.text);
        self.wrong(
            Diagnostic::error(Code::UnknownCommand, message)
                .at(command.span, "not taken")
                .at(span, "not a command of these")
                .help(help),
        );
        None
    }

    /// Values against fields, one for one.
    pub(super) fn args(
        &mut self,
        name: &str,
        span: Span,
        wanted: &Arc<[Field]>,
        declared: Option<Span>,
        args: &[model::Expr],
        cx: &Cx<'_>,
    ) -> Option<Vec<Expr>> {
        let list: Vec<_> = wanted.iter().map(|field| format!("{}: {}", field.name, field.ty)).collect();
        let declared_here = |diagnostic: Diagnostic| match declared {
            Some(at) => diagnostic.at(at, "declared here"),
            None => diagnostic,
        };
        if args.iter().any(|arg| matches!(arg.kind, ExprKind::Bad)) {
            return None;
        }
        if wanted.len() != args.len() {
            let shape = format!("`{name}({})`", list.join(", "));
            let message = format!("{shape} takes {}, found {}", values(wanted.len()), args.len());
            let diagnostic = Diagnostic::error(Code::WrongCount, message).at(span, values(args.len()));
            self.wrong(declared_here(diagnostic));
            return None;
        }
        let mut exprs = Vec::with_capacity(args.len());
        let mut all = true;
        for (field, arg) in wanted.iter().zip(args) {
            let wrong = |found: &str| {
                let message =
                    format!("`{}` of `{name}` is {}, found {found}", field.name, a(field.ty.word()));
                declared_here(Diagnostic::error(Code::WrongType, message).at(arg.span, found))
            };
            match self.value_for(arg, &field.ty, cx, wrong) {
                Some(expr) => exprs.push(expr),
                None => all = false,
            }
        }
        all.then_some(exprs)
    }
}
