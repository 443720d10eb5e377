//! Every name that is declared, and what it stands for. Kits are used here: each use makes its own names.

mod declare;
mod kits;
mod things;
mod view;

use std::{
    cell::OnceCell,
    collections::{BTreeMap, BTreeSet},
    sync::Arc,
};

use smol_str::{SmolStr, format_smolstr};
use stoicheon_core::{Catalogue, EffectId, Field, Payload, Type};

pub(crate) use kits::{DEEPEST_USE, MOST_USES};
pub(crate) use things::{Constant, Known, Message, Object, Placed, Role, Routine, Scope, Spot, Thing, Var};
pub(crate) use view::View;

use super::{report::Report, walk::walk};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, Kit, Name},
    source::Span,
    suggest::a,
};

/// The signals every world has.
pub(crate) const OWN_SIGNALS: [&str; 6] = ["started", "pressed", "released", "joined", "quit", "arrived"];

/// Everything that is declared.
#[derive(Debug, Default)]
pub(crate) struct Names<'m> {
    pub(crate) scopes: Vec<Scope<'m>>,
    pub(crate) objects: Vec<Object<'m>>,
    pub(crate) givens: Vec<Constant<'m>>,
    /// Those that are being looked at, each asked for by the one before it.
    pub(crate) asked: Vec<usize>,
    pub(crate) vars: Vec<Var<'m>>,
    pub(crate) signals: Vec<Message>,
    pub(crate) effects: Vec<Message>,
    pub(crate) routines: Vec<Routine<'m>>,
    pub(crate) spots: Vec<Spot<'m>>,
    pub(crate) wires: Vec<Placed<'m, model::Wire>>,
    pub(crate) binds: Vec<Placed<'m, model::Bind>>,
    /// What binds keep that is no variable, and where.
    pub(crate) kept_things: Vec<(super::keeps::Keeps, Span)>,
    pub(crate) rules: Vec<Placed<'m, model::Expr>>,
    /// Tags of objects and of the players of playtests.
    pub(crate) tags: BTreeSet<SmolStr>,
    /// The objects and moulds that have each tag.
    pub(crate) tagged: BTreeMap<SmolStr, Vec<usize>>,
    /// By the scene they stand in, as files count them, and their names.
    pub(crate) kits: BTreeMap<(u32, SmolStr, u32), &'m Kit>,
    /// The scope of the scene; 0 for a file that stands alone.
    pub(crate) home: usize,
    pub(crate) view: View,
    /// The uses of kits, each with the scope it stands in, its own, and the kit.
    pub(crate) uses: Vec<(usize, usize, &'m model::Use, &'m Kit)>,
    used_kits: BTreeSet<(u32, SmolStr)>,
    /// The signals that the game itself emits.
    pub(crate) sent_by_game: BTreeSet<SmolStr>,
    /// The signals that the game itself listens to.
    pub(crate) heard_by_game: BTreeSet<SmolStr>,
    by_whole_name: OnceCell<WholeNames>,
}

/// What is found by its whole name, made when the first is asked for.
#[derive(Debug)]
struct WholeNames {
    /// Objects that nothing else stands before.
    objects: BTreeMap<SmolStr, usize>,
    effects: BTreeMap<SmolStr, usize>,
}

impl Names<'_> {
    /// Notes what a declaration says of the game.
    fn note_game(&mut self, name: &SmolStr, written: &model::Declaration) {
        if written.sent_by_game {
            self.sent_by_game.insert(name.clone());
        }
        if written.heard_by_game {
            self.heard_by_game.insert(name.clone());
        }
    }
}

pub(crate) fn fields_of(fields: &[model::Field]) -> Arc<[Field]> {
    fields.iter().map(|field| Field { name: field.name.text.clone(), ty: field.ty.ty.clone() }).collect()
}

/// What the signals carry that every world has.
fn own_fields(name: &str) -> Arc<[Field]> {
    let field = |name: &str, ty| Field { name: name.into(), ty };
    match name {
        "pressed" | "released" => Arc::new([field("key", Type::Text)]),
        "arrived" => stoicheon_core::Arrival::fields().unwrap_or_default().into(),
        _ => Arc::default(),
    }
}

impl<'m> Names<'m> {
    pub(crate) fn of(
        files: &'m [Arc<model::File>],
        catalogue: &'m Catalogue,
        view: View,
        report: &mut Report<'_>,
    ) -> Self {
        let hall = Scope { hall: view != View::Alone, ..Scope::default() };
        let mut names = Self { scopes: vec![hall], view, ..Self::default() };
        names.tags.insert(stoicheon_core::PLAYER.into());
        names.built_in(catalogue);
        let seen = |number: u32| match view {
            View::Scene(own) => number == 0 || number == own,
            View::Alone | View::Hall | View::Playtests(_) => true,
        };
        let is_own = |file: &&Arc<model::File>| match view {
            View::Alone => true,
            View::Scene(own) => file.scene_number == own,
            View::Hall => file.scene_number == 0,
            View::Playtests(_) => false,
        };
        for file in files.iter().filter(|file| seen(file.scene_number)) {
            for kit in &file.kits {
                let old = names.kits.insert((file.scene_number, kit.name.text.clone(), kit.made), kit);
                if let Some(old) = old.filter(|_| is_own(&file)) {
                    report.push(taken("kit", &kit.name, Some(old.name.span)));
                }
            }
        }
        let last = files.iter().map(|file| file.scene_number).max().unwrap_or(0);
        for number in (0..=last).filter(|number| seen(*number)) {
            let of = || files.iter().filter(move |file| file.scene_number == number);
            let scope = if number == 0 { 0 } else { names.begin_scene(number, of().next()) };
            for file in of() {
                names.items(&file.items, scope, catalogue, report);
            }
            if matches!(view, View::Scene(own) | View::Playtests(own) if own == number) {
                names.home = scope;
            }
        }
        let seen = files.iter().filter(|file| seen(file.scene_number));
        names.tags.extend(player_tags(seen));
        // A file that is no scene by itself is there to be shared.
        let scene = files.iter().filter(is_own).take(1).filter(|file| file.scene.is_some());
        let written = scene.flat_map(|file| file.kits.iter().map(move |kit| (file, kit)));
        for (file, kit) in written.filter(|(_, kit)| kit.made == 0) {
            if !names.used_kits.contains(&(file.scene_number, kit.name.text.clone())) {
                report.push(
                    Diagnostic::warning(Code::UnusedKit, format!("the kit `{}` is not used", kit.name.text))
                        .at(kit.name.span, "a kit is checked only where it is used")
                        .help(format!("use it: add {}(…)", kit.name.text)),
                );
            }
        }
        names
    }

    /// Tags that objects have only once a statement gave them.
    pub(crate) fn tagged_later(&mut self) {
        let wires = self.wires.iter().map(|wire| &wire.written.body);
        let bodies: Vec<_> = wires.chain(self.routines.iter().map(|routine| &routine.written.body)).collect();
        for body in bodies {
            walk(body, &mut |statement| {
                if let model::StatementKind::Tag { tag, away: false, .. } = &statement.kind {
                    self.tags.insert(tag.text.clone());
                }
            });
        }
    }

    /// The signals every world has, and what the game offers.
    fn built_in(&mut self, catalogue: &'m Catalogue) {
        for name in OWN_SIGNALS {
            self.message(name.into(), own_fields(name), false);
        }
        for signal in catalogue.signals() {
            self.message(signal.name.clone(), signal.fields.clone(), false);
        }
        for effect in catalogue.effects() {
            self.message(effect.name.clone(), effect.fields.clone(), true);
        }
        for role in catalogue.roles() {
            let signal = |signal: &stoicheon_core::MessageInfo| {
                (signal.name.clone(), (signal.fields.clone(), Span::default()))
            };
            let index = self.objects.len();
            self.objects.push(Object {
                signals: role.signals.iter().map(signal).collect(),
                ..Object::new(role.name.clone(), Role::Foreign, 0)
            });
            self.scopes[0].things.insert(role.name.clone(), (Thing::Object(index), Span::default()));
        }
    }

    /// The names of a scene of a project come after its own, and so do those of the signals it gives of those in it.
    fn begin_scene(&mut self, scene_number: u32, file: Option<&'m Arc<model::File>>) -> usize {
        let name = file.and_then(|file| file.scene.as_ref());
        let prefix = name.map(|name| name.text.clone()).unwrap_or_default();
        let mut scope = Scope { prefix: prefix.clone(), parent: Some(0), scene_number, ..Scope::default() };
        for name in OWN_SIGNALS {
            scope.signals.insert(name.into(), self.signals.len());
            let (name, fields) = (whole_name(&prefix, name), own_fields(name));
            let effect = EffectId::default();
            let span = None;
            self.signals.push(Message { name, fields, span, effect, crosses: None });
        }
        self.scopes.push(scope);
        let scope = self.scopes.len() - 1;
        if matches!(self.view, View::Playtests(_)) {
            let span = name.map(|name| name.span).unwrap_or_default();
            self.scopes[0].things.entry(prefix).or_insert((Thing::Use(scope), span));
        }
        scope
    }

    /// The outermost scope of the scene of that number. Scopes are made scene by scene, each with the uses of kits in it.
    pub(super) fn scope_of_scene(&self, number: u32) -> Option<usize> {
        let at = self.scopes.partition_point(|scope| scope.scene_number < number);
        self.scopes.get(at).filter(|scope| scope.scene_number == number).map(|_| at)
    }

    /// Effects and moulds are the whole project's: their names do not say which scene they were written in.
    fn without_scene(&self, whole: SmolStr, scope: usize) -> SmolStr {
        let number = self.scopes[scope].scene_number;
        let scene = self.scope_of_scene(number).filter(|_| number != 0);
        let Some(prefix) = scene.map(|scope| &self.scopes[scope].prefix) else { return whole };
        match whole.strip_prefix(prefix.as_str()).and_then(|rest| rest.strip_prefix('.')) {
            Some(rest) if !prefix.is_empty() => rest.into(),
            _ => whole,
        }
    }

    fn whole_names(&self) -> &WholeNames {
        // The first of two counts; that there are two is told of elsewhere.
        let numbered = |names: &mut dyn Iterator<Item = (usize, &SmolStr)>| {
            names.fold(BTreeMap::new(), |mut all: BTreeMap<SmolStr, usize>, (index, name)| {
                all.entry(name.clone()).or_insert(index);
                all
            })
        };
        self.by_whole_name.get_or_init(|| {
            let objects = self.objects.iter().map(|object| &object.name).enumerate();
            let effects = self.effects.iter().map(|effect| &effect.name).enumerate();
            let objects = numbered(&mut objects.filter(|(_, name)| !name.contains('.')));
            WholeNames { objects, effects: numbered(&mut { effects }) }
        })
    }

    /// The object of that name, with nothing before it.
    pub(crate) fn object_by_whole_name(&self, name: &str) -> Option<usize> {
        self.whole_names().objects.get(name).copied()
    }

    /// The effect of that name, whichever scene declares it.
    pub(crate) fn effect_by_whole_name(&self, name: &str) -> Option<usize> {
        self.whole_names().effects.get(name).copied()
    }

    /// Whether what belongs to a scope is made with the scene, and not with the project.
    pub(crate) fn is_own(&self, scope: usize) -> bool {
        self.view.takes(&self.scopes[scope])
    }

    fn message(&mut self, name: SmolStr, fields: Arc<[Field]>, effect: bool) {
        let scope = &mut self.scopes[0];
        let (list, map) = if effect {
            (&mut self.effects, &mut scope.effects)
        } else {
            (&mut self.signals, &mut scope.signals)
        };
        map.insert(name.clone(), list.len());
        let effect = EffectId::default();
        list.push(Message { name, fields, span: None, effect, crosses: None });
    }

    fn whole(&self, scope: usize, name: &str) -> SmolStr {
        whole_name(&self.scopes[scope].prefix, name)
    }

    /// Gives a thing its name in a scope.
    fn call(&mut self, scope: usize, name: &Name, thing: Thing<'m>, kind: &str, report: &mut Report<'_>) {
        if let Some(taken) = reserved(name) {
            report.push(taken);
            return;
        }
        let things = &mut self.scopes[scope].things;
        if let Some((_, old)) = things.get(&name.text).copied() {
            report.push(taken(kind, name, (old != Span::default()).then_some(old)));
        } else {
            things.insert(name.text.clone(), (thing, name.span));
        }
    }
}

/// The tags of the players of playtests.
pub(crate) fn player_tags<'f>(files: impl IntoIterator<Item = &'f Arc<model::File>>) -> BTreeSet<SmolStr> {
    let players = files.into_iter().flat_map(|file| &file.playtests).flat_map(|playtest| &playtest.players);
    players.flat_map(|player| &player.tags).map(|tag| tag.text.clone()).collect()
}

fn whole_name(prefix: &str, name: &str) -> SmolStr {
    if prefix.is_empty() { name.into() } else { format_smolstr!("{prefix}.{name}") }
}

/// Names that mean the same everywhere, and that nothing can have.
pub(super) fn reserved(name: &Name) -> Option<Diagnostic> {
    let words = ["who", "it", "own", "true", "false", "everyone", "every", "each", "_"];
    words.contains(&name.text.as_str()).then(|| {
        Diagnostic::error(Code::NameTaken, format!("`{}` is a reserved name", name.text))
            .at(name.span, "reserved")
            .help("give it another name")
    })
}

fn taken(kind: &str, name: &Name, old: Option<Span>) -> Diagnostic {
    let message = format!("there is already {} `{}`", a(kind), name.text);
    let diagnostic = Diagnostic::error(Code::NameTaken, message).at(name.span, "the second one");
    match old {
        Some(old) => diagnostic.at(old, "the first one").help("give one of them another name"),
        None => diagnostic.help("every scene has a signal with this name; choose another"),
    }
}
