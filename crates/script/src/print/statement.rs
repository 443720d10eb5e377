//! Statements as texts.

use super::{Printer, expr};
use crate::{
    format::may_go_on,
    model::{Objects, Sign, Statement, StatementKind, Target, Where},
};

fn target(target: &Target) -> String {
    match target {
        Target::Name(path) => path.text().to_string(),
        Target::Of(path, whose) => format!("{} of {}", path.text(), expr::atom(whose)),
    }
}

fn objects(who: &Objects) -> String {
    match who {
        Objects::One(one) => expr::value(one),
        Objects::Every(group) if group.of.text == "everyone" => expr::among(group),
        Objects::Every(group) => format!("every {}", expr::among(group)),
    }
}

fn call(word: &str, name: &str, values: &[crate::model::Expr]) -> String {
    if values.is_empty() {
        format!("{word} {name}")
    } else {
        format!("{word} {name}({})", expr::list(values))
    }
}

fn for_whom(behalf: Option<&crate::model::Expr>) -> String {
    behalf.map_or_else(String::new, |behalf| format!(" for {}", expr::atom(behalf)))
}

impl Printer {
    /// A head and its statements in braces.
    pub(super) fn block(&mut self, head: &str, body: &[Statement]) {
        self.line(&format!("{head} {{"));
        self.statements(body);
        self.line("}");
    }

    fn statements(&mut self, body: &[Statement]) {
        for (number, statement) in body.iter().enumerate() {
            let from = self.text.len();
            self.statement(&statement.kind);
            let is_name = |c: char| c.is_alphanumeric() || c == '_';
            let word = self.text[from..].split(|c: char| !is_name(c)).next().unwrap_or_default();
            let is_own_word =
                matches!(statement.kind, StatementKind::Set { .. } | StatementKind::Tell { .. });
            if number > 0 && is_own_word && may_go_on(word) {
                self.text.insert(from - 1, ';');
            }
        }
    }

    fn otherwise(&mut self, otherwise: &[Statement]) {
        if otherwise.is_empty() {
            return self.line("}");
        }
        self.line("} else {");
        self.statements(otherwise);
        self.line("}");
    }

    pub(super) fn statement(&mut self, statement: &StatementKind) {
        let line = match statement {
            StatementKind::Tell { command, who, args } => {
                // `token of who` would be somebody's token, `nearest gate to …` near to something.
                let who = match who {
                    Objects::One(one) if !args.is_empty() => expr::atom(one),
                    who => objects(who),
                };
                // After the word of a command comes a word or a parenthesis.
                let begins = |c: char| c.is_alphabetic() || c == '_' || c == '(';
                let who = if who.starts_with(begins) { who } else { format!("({who})") };
                let mut line = format!("{} {who}", command.text);
                for arg in args {
                    line = format!("{line} {} {}", arg.name.text, expr::text(&arg.value));
                }
                line
            }
            StatementKind::Wait(time) => format!("wait {}", expr::text(time)),
            StatementKind::Until { condition, within, otherwise } => {
                let mut line = format!("wait until {}", expr::text(condition));
                if let Some(within) = within {
                    line = format!("{line} within {}", expr::text(within));
                }
                if otherwise.is_empty() {
                    return self.line(&line);
                }
                return self.block(&format!("{line} else"), otherwise);
            }
            StatementKind::Emit { signal, values, behalf } => {
                call("emit", &signal.text(), values) + &for_whom(behalf.as_ref())
            }
            StatementKind::Perform { effect, values, behalf } => {
                call("perform", &effect.text(), values) + &for_whom(behalf.as_ref())
            }
            StatementKind::On(wire) => return self.wire(wire),
            StatementKind::Do { routine, values } => call("do", &routine.text(), values),
            StatementKind::Set { target: what, with, to } => {
                let sign = match with {
                    None => "=",
                    Some(Sign::Plus) => "+=",
                    Some(Sign::Minus) => "-=",
                    Some(Sign::Times) => "*=",
                    Some(Sign::DividedBy) => "/=",
                };
                format!("{} {sign} {}", target(what), expr::text(to))
            }
            StatementKind::Tween { target: what, to, over, ease } => {
                let ease = ease.as_ref().map_or_else(String::new, |ease| format!(" ease {}", ease.text));
                format!("tween {} to {} over {}{ease}", target(what), expr::text(to), expr::text(over))
            }
            StatementKind::Keep { name, value } => format!("var {} = {}", name.text, expr::text(value)),
            StatementKind::Enable(who) => format!("enable {}", objects(who)),
            StatementKind::Disable(who) => format!("disable {}", objects(who)),
            StatementKind::Destroy(who) => format!("destroy {}", objects(who)),
            StatementKind::Spawn { mould, at, name } => {
                let name = name.as_ref().map_or_else(String::new, |name| format!(" as {}", name.text));
                format!("spawn {} at {}{name}", mould.text, expr::text(at))
            }
            StatementKind::Send { who, spot, scene } => {
                let scene = scene.as_ref().map_or_else(String::new, |scene| format!(" in {}", scene.text));
                // `nearest gate to …` would take the spot for what it is near to.
                let who = match who {
                    Objects::One(one) => expr::atom(one),
                    every @ Objects::Every(_) => objects(every),
                };
                let spot = match spot {
                    Where::Named(path) => path.text().to_string(),
                    Where::Held(spot) => expr::text(spot),
                };
                format!("send {who} to {spot}{scene}")
            }
            StatementKind::Tag { who, tag, away } => {
                format!("{} {} as {}", if *away { "untag" } else { "tag" }, objects(who), tag.text)
            }
            StatementKind::If { when, then, otherwise } => {
                self.line(&format!("if {} {{", expr::text(when)));
                self.statements(then);
                return self.otherwise(otherwise);
            }
            StatementKind::Repeat { times, body } => {
                return self.block(&format!("repeat {}", expr::text(times)), body);
            }
            StatementKind::RepeatWhile { condition, body } => {
                return self.block(&format!("repeat while {}", expr::text(condition)), body);
            }
            StatementKind::ForEach { name, among, body } => {
                let every = if among.of.text == "everyone" { "" } else { "every " };
                let head = format!("for each {} in {every}{}", name.text, expr::among(among));
                return self.block(&head, body);
            }
            StatementKind::ForEachCell { column, row, cells, of, body } => {
                let of: Vec<_> = of.iter().map(expr::text).collect();
                let (cells, of) = (&cells.text, of.join(", "));
                return self.block(&format!("for each {}, {} in {cells}({of})", column.text, row.text), body);
            }
            StatementKind::Stop => "stop".to_owned(),
        };
        self.line(&line);
    }
}
