//! Wires, routines, binds and rules.

use std::sync::Arc;

use smol_str::SmolStr;
use stoicheon_core::{Busy, Comparison, Expr, Group, NewWire, Seconds, SettingInfoType, Step};

use super::{
    Cx, Ids, Local, Resolver, Ty, Which, by_value::Named, circle::follow, names::Role, setting::path_of,
    walk::walk, words::Listed,
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, Atom, ExprKind, StatementKind},
    source::Span,
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
    /// That signal of an object that is known only then.
    Of(Expr, SmolStr),
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
    pub(crate) busy_per_who: bool,
    /// The stage it belongs to: the part, and the word.
    pub(crate) during: Option<(stoicheon_core::PartId, SmolStr)>,
    pub(crate) steps: Vec<Step>,
    pub(crate) span: Span,
}

impl WirePlan {
    /// The same for a wire that is made while the world runs. What it belongs to is known then.
    pub(crate) fn new_wire(self, ids: &dyn Ids) -> NewWire {
        let new = match &self.hears {
            Hears::One(name) => NewWire::on(ids.signal(name)),
            Hears::Of(object, name) => NewWire::on_of(object.clone(), name),
            Hears::Every(tag, name) => {
                let group = Group::tagged(tag);
                let group = match ids.home() {
                    Some(scene) => group.in_scene(scene),
                    None => group,
                };
                NewWire::on_every(group, name)
            }
        };
        let new = new.order(self.order).written_at(ids.place(self.span));
        let new = if self.busy_per_who {
            new.while_running_per_who(self.busy)
        } else {
            new.while_running(self.busy)
        };
        let mut new = new;
        new = self.by.iter().fold(new, |new, tag| new.by(tag));
        if let Some(guard) = self.guard {
            new = new.when(guard);
        }
        if let Some((stages, stage)) = self.during {
            new = new.during(stages, &stage);
        }
        if let Some(times) = self.times {
            new = new.times(times.into());
        }
        if let Some(delay) = self.delay {
            new = new.delay(delay);
        }
        new = match self.cooldown {
            Some((span, true)) => new.cooldown_per_who(span),
            Some((span, false)) => new.cooldown(span),
            None => new,
        };
        new.run(self.steps)
    }
}

impl Resolver<'_, '_> {
    pub(crate) fn wire(&mut self, index: usize, ids: &dyn Ids) -> Option<WirePlan> {
        let placed = self.names.wires[index];
        let cx = Cx { owner: placed.owner, ..Cx::new(placed.scope, ids) };
        self.wire_in(placed.written, &cx)
    }

    /// A wire, where names mean what they mean there.
    pub(super) fn wire_in(&mut self, wire: &model::Wire, around: &Cx<'_>) -> Option<WirePlan> {
        let owner = around.owner;
        let mut cx = Cx {
            has_who: true,
            it: None,
            fields: Arc::default(),
            fields_of: Arc::default(),
            ..around.clone()
        };
        let on = self.hears(wire, around, &mut cx);
        // Names cannot be told apart from fields of a signal nobody knows; everything else can be wrong still.
        cx.any_field = on.is_none();
        self.probe(wire.span, &cx, None);
        let declared = on.as_ref().and_then(|(_, declared)| *declared);
        for tag in &wire.by {
            self.tag(tag);
        }
        let pattern = if cx.any_field { Vec::new() } else { self.pattern(wire, declared, &cx) };
        let guard = match &wire.when {
            Some(when) => self.condition(when, &cx),
            None => None,
        };
        let busy = self.busy(wire);
        let during = wire.during.as_ref().map(|during| self.during(during, &cx));
        cx.may_draw = true;
        let steps = self.statements(&wire.body, &mut cx);
        let during = match during {
            Some(during) => Some(during?),
            None => None,
        };
        let (hears, _) = on?;
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
            busy_per_who: wire.running_per_who,
            during,
            steps,
            span: wire.span,
        })
    }

    /// A stage that a wire belongs to.
    fn during(&mut self, during: &model::During, cx: &Cx<'_>) -> Option<(stoicheon_core::PartId, SmolStr)> {
        let object = self.object(&during.stages, cx)?;
        let known = &self.names.objects[object];
        let stages = known.parts.iter().position(|(_, info)| info.name == "stages");
        let Some(index) = stages else {
            let (message, made) = (format!("`{}` has no stages", known.name), known.span);
            self.wrong(
                Diagnostic::error(Code::UnknownPart, message)
                    .at(during.stages.span(), "a wire belongs to a stage")
                    .at(made, "made here")
                    .help("for any other condition, write `when`"),
            );
            return None;
        };
        let part = known.part_ids.get(index).copied().unwrap_or_default();
        let words = self.words_of(object, index);
        if !words.contains(&during.stage.text) {
            self.not_a_word(&during.stage.text, &words, during.stage.span);
            return None;
        }
        Some((part, during.stage.text.clone()))
    }

    /// Wires that settings of an object's parts are: the signals that are commands to them.
    pub(crate) fn part_wires(&mut self, object: usize, ids: &dyn Ids) -> Vec<WirePlan> {
        let mut plans = Vec::new();
        for (index, (part, info)) in self.names.objects[object].parts.clone().into_iter().enumerate() {
            if !info.settings.iter().any(|setting| matches!(setting.ty, SettingInfoType::Signal(_))) {
                continue;
            }
            let given = Listed::of(info, part).given;
            let value = |name: &str| {
                let given = given.iter().find(|given| given.setting.is_some_and(|known| known.name == name));
                given.map(|given| given.values.clone())
            };
            for setting in &info.settings {
                let SettingInfoType::Signal(command) = &setting.ty else { continue };
                let Some(signal) = value(&setting.name) else { continue };
                let when = value("when").and_then(|values| match values.as_slice() {
                    [Atom::Value(when)] => Some(when),
                    _ => None,
                });
                plans.extend(self.part_wire((object, index), command, (part.kind.span, &signal), when, ids));
            }
        }
        plans
    }

    fn part_wire(
        &mut self,
        (object, index): (usize, usize),
        command: &str,
        (span, signal): (Span, &[&Atom]),
        when: Option<&model::Expr>,
        ids: &dyn Ids,
    ) -> Option<WirePlan> {
        let every = matches!(signal.first(), Some(Atom::Word(word)) if word.text == "every");
        let Some(on) =
            signal.last().and_then(|atom| path_of(atom)).filter(|_| signal.len() == 1 + usize::from(every))
        else {
            let message = "expected a signal, such as `of heron.startled` or `of every heron.startled`";
            self.wrong(Diagnostic::error(Code::UnknownSignal, message).at(span, "counts nothing"));
            return None;
        };
        let known = &self.names.objects[object];
        let (part, number) =
            (known.part_ids.get(index).copied().unwrap_or_default(), known.parts[index].1.command(command)?);
        let mut cx = Cx { has_who: true, ..Cx::new(known.scope, ids) };
        let wire = model::Wire::bare(on, every, span);
        let (hears, _) = self.hears(&wire, &cx.clone(), &mut cx)?;
        let guard = match when {
            Some(when) => Some(self.condition(when, &cx)?),
            None => None,
        };
        let steps = vec![Step::Command { part, command: number, args: Vec::new() }];
        let plan = WirePlan {
            hears,
            owner: Some(object),
            by: Vec::new(),
            guard,
            order: 0,
            cooldown: None,
            delay: None,
            times: None,
            busy: Busy::default(),
            busy_per_who: false,
            during: None,
            steps,
            span,
        };
        Some(plan)
    }

    /// What a wire listens to, as names mean it around it; and what they mean in it.
    fn hears(
        &mut self,
        wire: &model::Wire,
        around: &Cx<'_>,
        cx: &mut Cx<'_>,
    ) -> Option<(Hears, Option<Span>)> {
        if wire.every {
            let [tag, signal] = &wire.on.0[..] else {
                let message = "expected a tag and a signal, such as `every gate.opened`";
                self.wrong(
                    Diagnostic::error(Code::UnknownSignal, message).at(wire.on.span(), "expected two names"),
                );
                return None;
            };
            let found = self.group_signal(tag, signal)?;
            cx.fields_of = self.fields_of(&Which::Tagged(tag.text.clone()), &signal.text, &found);
            self.wanted_tags.insert(tag.text.clone());
            cx.fields = found.fields.clone();
            cx.it = Some((Which::Tagged(tag.text.clone()), Expr::Giver));
            return Some((Hears::Every(tag.text.clone(), signal.text.clone()), found.declared));
        }
        let named = self.any_signal(&wire.on, around)?;
        let whole = self.names_of(&named);
        self.heard.extend(whole);
        let found = match named {
            Named::Declared(found) => found,
            Named::Of(object, which, name, found) => {
                cx.fields_of = self.fields_of(&which, &name, &found);
                cx.fields = found.fields.clone();
                cx.it = Some((which, Expr::Giver));
                return Some((Hears::Of(object, name), found.declared));
            }
        };
        cx.fields = found.fields.clone();
        cx.fields_of = found.declared.into_iter().filter(|_| self.report.notes.are_wanted()).collect();
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

    /// Where the signals are declared whose fields are meant, if that is asked for.
    fn fields_of(&self, which: &Which, name: &str, found: &super::lookup::Signal) -> Arc<[Span]> {
        if !self.report.notes.are_wanted() {
            return Arc::default();
        }
        let members = self.candidates(which).into_iter();
        let own = members.filter_map(|object| Some(self.names.objects[object].signals.get(name)?.1));
        own.chain(found.declared).collect()
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
        let help = self.report.suggest(&word.text, "word", WORDS.iter().map(|(word, _)| *word));
        let message = format!("expected overlap, ignore, restart or queue, found `{}`", word.text);
        self.wrong(
            Diagnostic::error(Code::UnknownWord, message)
                .at(word.span, "expected ignore, restart, queue or overlap")
                .help(help),
        );
        Busy::default()
    }

    pub(crate) fn routine(&mut self, index: usize, ids: &dyn Ids) -> Vec<Step> {
        let routine = &self.names.routines[index];
        let (written, scope) = (routine.written, routine.scope);
        let mut cx = Cx { has_who: true, may_draw: true, ..Cx::new(scope, ids) };
        for (number, field) in (0..u8::MAX).zip(&written.fields) {
            let ty = Ty::of(&field.ty.ty);
            cx.locals.push(Local { name: field.name.text.clone(), ty, number, declared: field.name.span });
        }
        self.statements(&written.body, &mut cx)
    }

    /// Routines in such an order that each comes after those it runs.
    pub(crate) fn routine_order(&self) -> Vec<usize> {
        follow(self.names.routines.len(), |routine| self.runs(routine)).order
    }

    /// The routines a routine runs.
    fn runs(&self, routine: usize) -> Vec<usize> {
        let routine = &self.names.routines[routine];
        let mut found = Vec::new();
        walk(&routine.written.body, &mut |statement| {
            if let StatementKind::Do { routine: path, .. } = &statement.kind {
                found.extend(self.find_routine(path, routine.scope));
            }
        });
        found
    }

    pub(super) fn check_routine_circles(&mut self) {
        for circle in follow(self.names.routines.len(), |routine| self.runs(routine)).circles {
            self.routine_circle(&circle);
        }
    }

    fn routine_circle(&mut self, circle: &[usize]) {
        let names =
            circle.iter().chain(circle.first()).map(|routine| self.names.routines[*routine].name.as_str());
        let message =
            format!("these routines call each other in a circle: {}", names.collect::<Vec<_>>().join(", "));
        let mut diagnostic = Diagnostic::error(Code::Circle, message);
        for routine in circle {
            let label = if circle.len() == 1 { "runs itself" } else { "runs the next" };
            diagnostic = diagnostic.at(self.names.routines[*routine].written.name.span, label);
        }
        self.wrong(diagnostic.help("for a loop without end, write `repeat while`"));
    }

    pub(crate) fn rule(&mut self, index: usize, ids: &dyn Ids) -> Option<(Expr, Span)> {
        let placed = self.names.rules[index];
        let rule = self.condition(placed.written, &Cx::new(placed.scope, ids))?;
        Some((rule, placed.written.span))
    }
}
