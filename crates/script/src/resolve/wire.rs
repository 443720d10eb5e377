//! Wires, tasks, binds and rules.

use std::collections::BTreeSet;

use smol_str::SmolStr;
use stoicheon_core::{Busy, Comparison, Expr, Seconds, Step};

use super::{
    Cx, Ids, Local, Resolver, Ty, Which,
    names::{Role, Thing},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, ExprKind, Path, Statement, StatementKind},
    source::Span,
    suggest::suggest,
};

/// What happens while a reaction still waits, by the words for it.
const WORDS: [(&str, Busy); 4] = [
    ("ignore", Busy::Ignore),
    ("restart", Busy::Restart),
    ("queue", Busy::Queue),
    ("overlap", Busy::Overlap),
];

/// What a wire listens to.
#[derive(Debug)]
pub(crate) enum Hears {
    /// The signal of that whole name.
    One(SmolStr),
    /// That signal of every object with that tag.
    Every(SmolStr, SmolStr),
}

/// A wire, ready to be made.
#[derive(Debug)]
pub(crate) struct WirePlan {
    pub(crate) hears: Hears,
    pub(crate) owner: Option<usize>,
    pub(crate) by: Vec<SmolStr>,
    pub(crate) guard: Option<Expr>,
    pub(crate) order: i32,
    pub(crate) cooldown: Option<(Seconds, bool)>,
    pub(crate) delay: Option<Seconds>,
    pub(crate) times: Option<u32>,
    pub(crate) busy: Busy,
    pub(crate) steps: Vec<Step>,
    pub(crate) span: Span,
}

/// A bind, ready to be made.
#[derive(Debug)]
pub(crate) struct BindPlan {
    /// The variable; or the tag and the name of the variable of each.
    pub(crate) kept: Result<usize, (SmolStr, SmolStr)>,
    pub(crate) to: Expr,
    pub(crate) span: Span,
}

impl Resolver<'_, '_> {
    pub(crate) fn wire(&mut self, index: usize, ids: &dyn Ids) -> Option<WirePlan> {
        let placed = self.names.wires[index];
        let (wire, owner) = (placed.written, placed.owner);
        let mut cx = Cx { owner, has_who: true, ..Cx::new(placed.scope, ids) };
        // Names cannot be told apart from fields of a signal nobody knows, so the rest would only add noise.
        let (hears, declared) = self.hears(wire, &mut cx)?;
        for tag in &wire.by {
            self.tag(tag);
        }
        let pattern = self.pattern(wire, declared, &cx);
        let guard = match &wire.when {
            Some(when) => self.condition(when, &cx),
            None => None,
        };
        let busy = self.busy(wire);
        let owner = owner.filter(|owner| self.names.objects[*owner].role != Role::Mould);
        cx.may_draw = true;
        let steps = self.statements(&wire.body, &mut cx);
        Some(WirePlan {
            hears,
            owner,
            by: wire.by.iter().map(|tag| tag.text.clone()).collect(),
            guard: pattern.into_iter().chain(guard).reduce(Expr::and),
            order: wire.order,
            cooldown: wire.cooldown.map(|span| (span.into(), wire.cooldown_per_who)),
            delay: wire.delay.map(Seconds::from),
            times: wire.times,
            busy,
            steps,
            span: wire.span,
        })
    }

    fn hears(&mut self, wire: &model::Wire, cx: &mut Cx<'_>) -> Option<(Hears, Option<Span>)> {
        if wire.every {
            let [tag, signal] = &wire.on.0[..] else {
                let message = "expected a tag and a signal, such as `every gate.opened`";
                self.wrong(
                    Diagnostic::error(Code::UnknownSignal, message).at(wire.on.span(), "expected two names"),
                );
                return None;
            };
            let found = self.group_signal(tag, signal)?;
            self.wanted_tags.insert(tag.text.clone());
            cx.fields = found.fields.clone();
            cx.it = Some((Which::Tagged(tag.text.clone()), Expr::Giver));
            return Some((Hears::Every(tag.text.clone(), signal.text.clone()), found.declared));
        }
        let found = self.signal(&wire.on, cx)?;
        cx.fields = found.fields.clone();
        let of_mould = found.object.filter(|object| self.names.objects[*object].role == Role::Mould);
        if let Some(object) = of_mould {
            // What is made after a mould has its name for a tag.
            let tag = self.names.objects[object].name.clone();
            let signal = wire.on.split_last().0.text.clone();
            cx.it = Some((Which::Tagged(tag.clone()), Expr::Giver));
            return Some((Hears::Every(tag, signal), found.declared));
        }
        if let Some(object) = found.object {
            cx.it = Some((Which::One(object), Expr::from(self.names.objects[object].id)));
        }
        Some((Hears::One(found.name), found.declared))
    }

    /// What the fields must be, for `on chosen(yes)`.
    fn pattern(&mut self, wire: &model::Wire, declared: Option<Span>, cx: &Cx<'_>) -> Vec<Expr> {
        if wire.pattern.len() > cx.fields.len() {
            let message = format!(
                "the signal carries {}, found {} to compare with",
                super::statement::values(cx.fields.len()),
                wire.pattern.len()
            );
            let diagnostic = Diagnostic::error(Code::WrongCount, message).at(wire.on.span(), "carries less");
            self.wrong(match declared {
                Some(at) => diagnostic.at(at, "declared here"),
                None => diagnostic,
            });
            return Vec::new();
        }
        let mut conditions = Vec::new();
        for (number, pattern) in (0..).zip(&wire.pattern) {
            if matches!(&pattern.kind, ExprKind::Name(path) if path.text() == "_") {
                continue;
            }
            let field = cx.fields[usize::from(number)].clone();
            let wrong = |found: &str| {
                let message =
                    format!("`{}` is {}, found {found}", field.name, crate::suggest::a(field.ty.word()));
                Diagnostic::error(Code::WrongType, message).at(pattern.span, found)
            };
            if let Some(value) = self.value_for(pattern, &field.ty, &cx.condition(), wrong) {
                conditions.push(Expr::Field(number).compare(Comparison::Equal, value));
            }
        }
        conditions
    }

    fn busy(&mut self, wire: &model::Wire) -> Busy {
        let Some(word) = &wire.while_running else { return Busy::default() };
        if let Some((_, busy)) = WORDS.iter().find(|(known, _)| *known == word.text) {
            return *busy;
        }
        let help = suggest(&word.text, "word", WORDS.iter().map(|(word, _)| *word));
        let message = format!("a wire does not know how to `{}` while it is running", word.text);
        self.wrong(
            Diagnostic::error(Code::UnknownWord, message)
                .at(word.span, "expected ignore, restart, queue or overlap")
                .help(help),
        );
        Busy::default()
    }

    pub(crate) fn task(&mut self, index: usize, ids: &dyn Ids) -> Vec<Step> {
        let task = &self.names.tasks[index];
        let (written, scope) = (task.written, task.scope);
        let mut cx = Cx { has_who: true, may_draw: true, ..Cx::new(scope, ids) };
        for (number, field) in (0..u8::MAX).zip(&written.fields) {
            let ty = Ty::of(&field.ty.ty);
            cx.locals.push(Local { name: field.name.text.clone(), ty, number });
        }
        self.statements(&written.body, &mut cx)
    }

    /// Tasks in such an order that each comes after those it runs.
    pub(crate) fn task_order(&self) -> Vec<usize> {
        let mut order = Vec::new();
        let mut done = BTreeSet::new();
        for first in 0..self.names.tasks.len() {
            let mut open = vec![first];
            while let Some(task) = open.last().copied() {
                let next =
                    self.runs(task).into_iter().find(|next| !done.contains(next) && !open.contains(next));
                match next.filter(|_| !done.contains(&task)) {
                    Some(next) => open.push(next),
                    None => {
                        if done.insert(task) {
                            order.push(task);
                        }
                        open.pop();
                    }
                }
            }
        }
        order
    }

    /// The tasks a task runs.
    fn runs(&self, task: usize) -> Vec<usize> {
        let task = &self.names.tasks[task];
        let mut found = Vec::new();
        walk(&task.written.body, &mut |statement| {
            if let StatementKind::Run { task: path, .. } = &statement.kind {
                found.extend(self.find_task(path, task.scope));
            }
        });
        found
    }

    pub(super) fn check_task_circles(&mut self) {
        for start in 0..self.names.tasks.len() {
            let mut way = vec![(start, self.runs(start))];
            let mut seen = BTreeSet::new();
            while let Some((_, runs)) = way.last_mut() {
                match runs.pop() {
                    // Each circle is told of at the task of it that comes first.
                    Some(next) if next == start => {
                        let circle: Vec<_> = way.iter().map(|(task, _)| *task).collect();
                        if circle.iter().all(|task| *task >= start) {
                            self.task_circle(&circle);
                        }
                        break;
                    }
                    Some(next) => {
                        if seen.insert(next) {
                            way.push((next, self.runs(next)));
                        }
                    }
                    None => {
                        way.pop();
                    }
                }
            }
        }
    }

    fn task_circle(&mut self, circle: &[usize]) {
        let names = circle.iter().chain(circle.first()).map(|task| self.names.tasks[*task].name.as_str());
        let message =
            format!("these tasks run each other in a circle: {}", names.collect::<Vec<_>>().join(", "));
        let mut diagnostic = Diagnostic::error(Code::Circle, message);
        for task in circle {
            let label = if circle.len() == 1 { "runs itself" } else { "runs the next" };
            diagnostic = diagnostic.at(self.names.tasks[*task].written.name.span, label);
        }
        self.wrong(diagnostic.help("what goes round for ever is a loop: write it as `repeat while`"));
    }

    /// Which variables a bind keeps.
    fn kept(&mut self, bind: &model::Bind, scope: usize) -> Option<Vec<usize>> {
        if bind.each {
            let [tag, name] = &bind.keep.0[..] else {
                let message = "expected a tag and a variable, such as `each lamp.lit`";
                self.wrong(
                    Diagnostic::error(Code::UnknownName, message).at(bind.keep.span(), "expected two names"),
                );
                return None;
            };
            if !self.names.tagged.contains_key(&tag.text) {
                let help = suggest(&tag.text, "tag", self.names.tags.iter().map(SmolStr::as_str));
                let message = format!("no object in this file has the tag `{}`", tag.text);
                self.wrong(
                    Diagnostic::error(Code::UnknownTag, message).at(tag.span, "expected a tag").help(help),
                );
                return None;
            }
            self.wanted_tags.insert(tag.text.clone());
            self.wanted_properties.insert(name.text.clone());
            let which = Which::Tagged(tag.text.clone());
            self.property_var(&which, name)?;
            let members = self.candidates(&which);
            let vars = members.iter().filter_map(|object| self.names.objects[*object].vars.get(&name.text));
            return Some(vars.copied().collect());
        }
        let Some((thing, used)) = self.begin(&bind.keep, scope) else {
            let known = self.visible(scope, |thing| matches!(thing, Thing::Var(_)));
            let help = suggest(&bind.keep.text(), "variable", known.into_iter());
            let message = format!("there is no variable `{}`", bind.keep.text());
            self.wrong(
                Diagnostic::error(Code::UnknownName, message)
                    .at(bind.keep.span(), "expected a variable")
                    .help(help),
            );
            return None;
        };
        match (thing, bind.keep.0.get(used), bind.keep.0.len() - used) {
            (Thing::Var(var), None, _) => {
                let written = self.names.vars[var].written;
                if written.per_player {
                    let message = format!("each player has a `{}` of their own", bind.keep.text());
                    self.wrong(
                        Diagnostic::error(Code::Whose, message)
                            .at(bind.keep.span(), "cannot be kept by a bind")
                            .at(written.name.span, "declared here"),
                    );
                    return None;
                }
                Some(vec![var])
            }
            (Thing::Object(object), Some(name), 1) => {
                let (_, var) = self.property_var(&Which::One(object), name)?;
                var.map(|var| vec![var])
            }
            _ => {
                let message = format!("`{}` is no variable", bind.keep.text());
                self.wrong(
                    Diagnostic::error(Code::UnknownName, message)
                        .at(bind.keep.span(), "expected a variable, such as `lamp.lit`"),
                );
                None
            }
        }
    }

    /// Marks every variable that a bind keeps.
    pub(crate) fn mark_bound(&mut self) {
        for index in 0..self.names.binds.len() {
            let placed = self.names.binds[index];
            let kept = self.within(placed.scope, |r| r.kept(placed.written, placed.scope));
            for var in kept.unwrap_or_default() {
                let span = placed.written.keep.span();
                let known = &mut self.names.vars[var];
                let Some(first) = known.bound.replace(span) else { continue };
                let message = format!("`{}` is kept by two binds", known.name);
                self.wrong(
                    Diagnostic::error(Code::Bound, message)
                        .at(span, "the second one")
                        .at(first, "the first one"),
                );
            }
        }
    }

    pub(crate) fn bind(&mut self, index: usize, ids: &dyn Ids) -> Option<BindPlan> {
        let placed = self.names.binds[index];
        let bind = placed.written;
        let vars = self.kept_quietly(bind, placed.scope)?;
        let first = *vars.first()?;
        let ty = self.names.vars[first].written.ty.ty.clone();
        let mut cx = Cx::new(placed.scope, ids);
        if bind.each {
            cx.it = Some((Which::Tagged(bind.keep.first().text.clone()), Expr::It));
        }
        let name = bind.keep.text();
        let wrong = |found: &str| {
            let message = format!("`{name}` holds {}, found {found}", crate::suggest::a(ty.word()));
            Diagnostic::error(Code::WrongType, message).at(bind.to.span, found)
        };
        let to = self.value_for(&bind.to, &ty, &cx, wrong)?;
        let kept = if bind.each {
            let (name, tag) = bind.keep.split_last();
            Err((tag[0].text.clone(), name.text.clone()))
        } else {
            Ok(first)
        };
        Some(BindPlan { kept, to, span: bind.span })
    }

    /// The variables a bind keeps; what is wrong with them was reported before.
    fn kept_quietly(&mut self, bind: &model::Bind, scope: usize) -> Option<Vec<usize>> {
        self.quietly(|r| r.kept(bind, scope))
    }

    /// The binds that keep what another reads, told by the names in it.
    pub(super) fn check_bind_circles(&mut self) {
        let mut keepers: Vec<Vec<usize>> = Vec::new();
        for index in 0..self.names.binds.len() {
            let placed = self.names.binds[index];
            keepers.push(self.kept_quietly(placed.written, placed.scope).unwrap_or_default());
        }
        let mut keeper_of = std::collections::BTreeMap::new();
        for (bind, vars) in keepers.iter().enumerate() {
            keeper_of.extend(vars.iter().map(|var| (*var, bind)));
        }
        let reads: Vec<Vec<usize>> = (0..keepers.len())
            .map(|bind| {
                self.vars_read(bind).into_iter().filter_map(|var| keeper_of.get(&var).copied()).collect()
            })
            .collect();
        for start in 0..reads.len() {
            let mut way = vec![(start, reads[start].clone())];
            let mut seen = BTreeSet::new();
            while let Some((_, before)) = way.last_mut() {
                match before.pop() {
                    Some(next) if next == start => {
                        let circle: Vec<_> = way.iter().map(|(bind, _)| *bind).collect();
                        if circle.iter().all(|bind| *bind >= start) {
                            self.bind_circle(&circle);
                        }
                        break;
                    }
                    Some(next) => {
                        if seen.insert(next) {
                            way.push((next, reads[next].clone()));
                        }
                    }
                    None => {
                        way.pop();
                    }
                }
            }
        }
    }

    fn bind_circle(&mut self, circle: &[usize]) {
        let name = |bind: &usize| self.names.binds[*bind].written.keep.text();
        let names: Vec<_> = circle.iter().chain(circle.first()).map(name).collect();
        let message = format!("these binds read each other in a circle: {}", names.join(", "));
        let mut diagnostic = Diagnostic::error(Code::Circle, message);
        for bind in circle {
            let label = if circle.len() == 1 { "reads itself" } else { "reads the next" };
            diagnostic = diagnostic.at(self.names.binds[*bind].written.keep.span(), label);
        }
        self.wrong(diagnostic);
    }

    /// The variables a bind reads, as far as names tell; for one of a group, those of all its members.
    fn vars_read(&self, bind: usize) -> Vec<usize> {
        let placed = self.names.binds[bind];
        let mut found = Vec::new();
        let tag = placed.written.each.then(|| placed.written.keep.first().text.clone());
        self.read_names(&placed.written.to, placed.scope, tag.as_ref(), &mut found);
        found
    }

    fn read_names(&self, expr: &model::Expr, scope: usize, it: Option<&SmolStr>, found: &mut Vec<usize>) {
        let mut path = |path: &Path| match self.begin(path, scope) {
            Some((Thing::Var(var), _)) => found.push(var),
            Some((Thing::Object(object), used)) => {
                let name = path.0.get(used);
                let var = name.and_then(|name| self.names.objects[object].vars.get(&name.text));
                found.extend(var.copied());
            }
            Some((Thing::Given { value, scope, .. }, _)) => self.read_names(value, scope, None, found),
            _ => {
                if let (Some(tag), [first, name]) = (it, &path.0[..])
                    && first.text == "it"
                {
                    let members = self.candidates(&Which::Tagged(tag.clone()));
                    let vars = members.iter().filter_map(|one| self.names.objects[*one].vars.get(&name.text));
                    found.extend(vars.copied());
                }
            }
        };
        match &expr.kind {
            ExprKind::Name(name) => path(name),
            ExprKind::Of(name, _) => path(name),
            _ => {}
        }
        if let ExprKind::Count(among) | ExprKind::Quantity(_, among) | ExprKind::Nearest(among, _) =
            &expr.kind
            && let Some(such_that) = &among.such_that
        {
            self.read_names(such_that, scope, Some(&among.of.text), found);
        }
        for part in expr.parts() {
            self.read_names(part, scope, it, found);
        }
    }

    pub(crate) fn rule(&mut self, index: usize, ids: &dyn Ids) -> Option<(Expr, Span)> {
        let placed = self.names.rules[index];
        let rule = self.condition(placed.written, &Cx::new(placed.scope, ids))?;
        Some((rule, placed.written.span))
    }

    /// A loop that never waits and whose condition nothing in it can change.
    pub(super) fn check_endless(&mut self, condition: &model::Expr, body: &[Statement], span: Span) {
        let mut names = BTreeSet::new();
        let mut only_names = true;
        read_by(condition, &mut names, &mut only_names);
        let mut ends = false;
        walk(body, &mut |statement| {
            ends |= match &statement.kind {
                StatementKind::Wait(_) | StatementKind::Until { .. } | StatementKind::Stop => true,
                StatementKind::Set { target, .. } => names.contains(&target.path().text()),
                StatementKind::Emit { .. }
                | StatementKind::Perform { .. }
                | StatementKind::Keep { .. }
                | StatementKind::Tween { .. }
                | StatementKind::If { .. }
                | StatementKind::Repeat { .. }
                | StatementKind::RepeatWhile { .. }
                | StatementKind::ForEach { .. } => false,
                StatementKind::Run { .. } => true,
                // These change what a state, a count or a place is.
                _ => !only_names,
            };
        });
        if !ends {
            self.wrong(
                Diagnostic::error(Code::EndlessLoop, "this loop never waits, and nothing in it can end it")
                    .at(condition.span, "nothing in the loop changes this")
                    .at(span, "goes round for ever within one tick")
                    .help("put a `wait` into it, or set something the condition reads"),
            );
        }
    }
}

/// The names a condition reads, and whether it reads nothing else that can change.
fn read_by(expr: &model::Expr, names: &mut BTreeSet<SmolStr>, only_names: &mut bool) {
    match &expr.kind {
        ExprKind::Name(path) | ExprKind::Of(path, _) => {
            names.insert(path.text());
        }
        ExprKind::Is { .. }
        | ExprKind::Inside { .. }
        | ExprKind::Tagged { .. }
        | ExprKind::Count(_)
        | ExprKind::Quantity(..)
        | ExprKind::Nearest(..)
        | ExprKind::Call(..) => *only_names = false,
        _ => {}
    }
    for part in expr.parts() {
        read_by(part, names, only_names);
    }
}

/// Looks at every statement, those within others too.
pub(super) fn walk(statements: &[Statement], look: &mut dyn FnMut(&Statement)) {
    for statement in statements {
        look(statement);
        match &statement.kind {
            StatementKind::If { then, otherwise, .. } => {
                walk(then, look);
                walk(otherwise, look);
            }
            StatementKind::Until { otherwise, .. } => walk(otherwise, look),
            StatementKind::Repeat { body, .. }
            | StatementKind::RepeatWhile { body, .. }
            | StatementKind::ForEach { body, .. } => walk(body, look),
            _ => {}
        }
    }
}
