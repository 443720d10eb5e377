//! What is said with a command.

use smol_str::SmolStr;
use stoicheon_core::{Command, CommandInfo, Expr, ParamInfo, Type};

use super::{
    Cx, Resolver, Which,
    words::{with_words, words_in},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Arg, ExprKind, Name},
    suggest::a,
};

impl Resolver<'_, '_> {
    /// The first part of an object that takes a command, and the command's number.
    pub(super) fn part_that_takes(&self, object: usize, command: &str) -> Option<(usize, Command)> {
        let mut parts = self.names.objects[object].parts.iter().enumerate();
        parts.find_map(|(index, (_, info))| Some((index, info.command(command)?)))
    }

    /// The words of its own that a part of an object deals in.
    pub(super) fn words_of(&self, object: usize, part: usize) -> Vec<SmolStr> {
        let (part, info) = self.names.objects[object].parts[part];
        words_in(part, info)
    }

    /// What is said to a part that is known.
    pub(super) fn said(
        &mut self,
        object: usize,
        part: usize,
        command: &Name,
        args: &[Arg],
        cx: &Cx<'_>,
    ) -> Option<Vec<(SmolStr, Expr)>> {
        let words = self.words_of(object, part);
        let info = self.names.objects[object].parts[part].1;
        let known = info.commands.iter().find(|known| known.name == command.text)?;
        self.values_said(known, &words, command, args, cx)
    }

    /// What is said to objects that are known only then: the first kind of part they have that takes the command says
    /// what can be.
    pub(super) fn said_to_some(
        &mut self,
        command: &Name,
        which: &Which,
        args: &[Arg],
        cx: &Cx<'_>,
    ) -> Option<Vec<(SmolStr, Expr)>> {
        let candidates = self.candidates(which);
        let of_some = candidates
            .iter()
            .find_map(|object| Some((*object, self.part_that_takes(*object, &command.text)?.0)));
        if let Some((object, part)) = of_some {
            return self.said(object, part, command, args, cx);
        }
        let mut commands = self.catalogue.parts().iter().flat_map(|info| &info.commands);
        let known = commands.find(|known| known.name == command.text)?;
        self.values_said(known, &[], command, args, cx)
    }

    fn values_said(
        &mut self,
        known: &CommandInfo,
        words: &[SmolStr],
        command: &Name,
        args: &[Arg],
        cx: &Cx<'_>,
    ) -> Option<Vec<(SmolStr, Expr)>> {
        let mut said: Vec<(SmolStr, Expr)> = Vec::new();
        let mut sound = true;
        for Arg { name, value } in args {
            let Some(param) = known.params.iter().find(|param| param.name == name.text) else {
                let help = self.report.suggest(
                    &name.text,
                    "word",
                    known.params.iter().map(|param| param.name.as_str()),
                );
                let message = format!("`{}` is not an argument of `{}`", name.text, command.text);
                self.wrong(
                    Diagnostic::error(Code::UnknownSetting, message).at(name.span, "not this").help(help),
                );
                sound = false;
                continue;
            };
            if said.iter().any(|(known, _)| *known == name.text) {
                let message = format!("`{}` is given twice", name.text);
                self.wrong(Diagnostic::error(Code::NameTaken, message).at(name.span, "the second time"));
                sound = false;
            }
            // `for everyone`
            let everyone = matches!(&value.kind, ExprKind::Name(path) if path.text() == "everyone");
            if everyone && known.params.iter().any(|param| param.name == "everyone") {
                said.push(("everyone".into(), true.into()));
                continue;
            }
            match self.value_said(param, words, value, cx) {
                Some(expr) => said.push((name.text.clone(), expr)),
                None => sound = false,
            }
        }
        for param in known.params.iter().filter(|param| param.required) {
            if !args.iter().any(|arg| arg.name.text == param.name) {
                let message = format!("`{}` needs `{}`", command.text, param.name);
                self.wrong(
                    Diagnostic::error(Code::MissingSetting, message)
                        .at(command.span, format!("`{}` is not given", param.name))
                        .help(param.about.to_string()),
                );
                sound = false;
            }
        }
        sound.then_some(said)
    }

    fn value_said(
        &mut self,
        param: &ParamInfo,
        words: &[SmolStr],
        value: &crate::model::Expr,
        cx: &Cx<'_>,
    ) -> Option<Expr> {
        let ty = with_words(&param.ty, words);
        if matches!(ty, Type::Object | Type::Player) {
            return self.one_object(value, cx).map(|(_, object)| object);
        }
        let wrong = |found: &str| {
            let message = format!("`{}` takes {}, found {found}", param.name, a(ty.word()));
            Diagnostic::error(Code::WrongType, message).at(value.span, found).help(param.about.to_string())
        };
        self.value_for(value, &ty, cx, wrong)
    }
}
