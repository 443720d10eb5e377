//! Resolving: every name against what is declared, every value against the type it needs. What comes out is what the
//! core runs; where the ids in it come from is up to who asks. A check throws the result away.

mod among;
mod bind;
mod by_value;
mod call;
mod cases;
mod circle;
mod command;
mod command_args;
mod endless;
mod expr;
mod given;
mod ids;
mod keeps;
mod last;
mod literal;
mod lookup;
mod name;
mod names;
mod notes;
mod noting;
pub(crate) mod offers;
mod part;
mod playtest;
mod probe;
mod property;
mod reading;
mod report;
mod scenes;
mod setting;
mod setting_errors;
mod shortest;
mod spot;
mod state;
mod statement;
mod suspect;
mod target;
mod unused;
mod walk;
mod wire;
mod words;

use std::{
    cell::{OnceCell, RefCell},
    collections::BTreeSet,
    sync::Arc,
};

use indexmap::IndexSet;
use smol_str::SmolStr;
use stoicheon_core::{Catalogue, Expr, Field, State, Type, playtest::Last};

pub(crate) use circle::follow;
pub(crate) use ids::{Ids, InScene, NoIds};
pub(crate) use keeps::{Keeps, Pose};
pub(crate) use names::{
    DEEPEST_USE, MOST_USES, Message, Names, OWN_SIGNALS, Object, Role, Thing, View, fields_of, player_tags,
};
pub(crate) use notes::{Means, Note, Notes, Rank};
pub(crate) use part::Made;
pub(crate) use playtest::{bare, in_scene};
pub(crate) use report::Report;
pub(crate) use scenes::Scenes;
pub(crate) use walk::walk;
pub(crate) use wire::{Hears, WirePlan};

use crate::{diagnostic::Diagnostic, model, source::Span, suggest::a};

/// Which object an expression of that type gives, as far as that is known before the world runs.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Which {
    One(usize),
    Tagged(SmolStr),
    Unknown,
}

/// The type of an expression.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Ty {
    Plain(Type),
    /// An angle with its unit, in degrees.
    Angle,
    Object(Which),
}

impl Ty {
    const BOOL: Self = Self::Plain(Type::Bool);
    const NUMBER: Self = Self::Plain(Type::Number);
    const WHOLE: Self = Self::Plain(Type::Whole);
    const DURATION: Self = Self::Plain(Type::Duration);
    const VECTOR: Self = Self::Plain(Type::Vector);

    fn of(ty: &Type) -> Self {
        match ty {
            Type::Object | Type::Player => Self::Object(Which::Unknown),
            plain => Self::Plain(plain.clone()),
        }
    }

    fn word(&self) -> &'static str {
        match self {
            Self::Plain(ty) => ty.word(),
            Self::Angle => "angle",
            Self::Object(_) => "object",
        }
    }

    /// With its article, for messages.
    fn a(&self) -> String {
        a(self.word())
    }

    fn is_number(&self) -> bool {
        matches!(self, Self::Plain(Type::Number | Type::Whole))
    }
}

/// An expression, and its type.
#[derive(Clone, Debug)]
pub(crate) struct Typed {
    pub(crate) ty: Ty,
    pub(crate) expr: Expr,
}

#[expect(clippy::unnecessary_wraps, reason = "it is what nearly every branch of `expr` ends with")]
fn typed(ty: Ty, expr: impl Into<Expr>) -> Option<Typed> {
    Some(Typed { ty, expr: expr.into() })
}

/// A value a sequence keeps for itself.
#[derive(Clone, Debug)]
pub(crate) struct Local {
    name: SmolStr,
    ty: Ty,
    number: u8,
    /// Where it gets its name.
    declared: Span,
}

/// What names in an expression can stand for, and what may be asked there.
#[derive(Clone)]
pub(crate) struct Cx<'i> {
    pub(crate) scope: usize,
    /// The object it is written in.
    owner: Option<usize>,
    fields: Arc<[Field]>,
    /// Where the signals are declared whose fields these are.
    fields_of: Arc<[Span]>,
    locals: Vec<Local>,
    /// The players of the playtest it stands in.
    players: Vec<(SmolStr, stoicheon_core::ObjectId)>,
    /// Where its players and columns are named.
    cast: Arc<[(SmolStr, Span)]>,
    /// The columns of its table of cases, with the values of the case that is played.
    cases: Vec<(SmolStr, Typed)>,
    /// Values of what happened last that a playtest's line asks for, if it may: each once, in the order of their numbers.
    last: Option<&'i RefCell<Vec<Last>>>,
    /// How many values the sequence keeps at most at one time.
    kept: u8,
    /// Somebody may have caused this.
    has_who: bool,
    /// The object whose signal it is, or the one of a group that is looked at.
    it: Option<(Which, Expr)>,
    /// A random number may be drawn.
    may_draw: bool,
    /// It must be known before the world runs; this is what it is for.
    constant: Option<&'static str>,
    /// The signal is none: any name may have been meant for one of its fields.
    any_field: bool,
    /// The name a loop gives each of those that are being picked out: not known there yet.
    loop_name: Option<SmolStr>,
    pub(crate) ids: &'i dyn Ids,
}

impl<'i> Cx<'i> {
    pub(crate) fn new(scope: usize, ids: &'i dyn Ids) -> Self {
        Self {
            scope,
            owner: None,
            fields: Arc::default(),
            fields_of: Arc::default(),
            locals: Vec::new(),
            players: Vec::new(),
            cast: Arc::default(),
            cases: Vec::new(),
            last: None,
            kept: 0,
            has_who: false,
            it: None,
            may_draw: false,
            constant: None,
            any_field: false,
            loop_name: None,
            ids,
        }
    }

    pub(crate) fn in_playtest(
        self,
        players: Vec<(SmolStr, stoicheon_core::ObjectId)>,
        cases: Vec<(SmolStr, Typed)>,
    ) -> Self {
        Self { players, cases, ..self }
    }

    pub(crate) fn with_last(self, last: &'i RefCell<Vec<Last>>) -> Self {
        Self { last: Some(last), ..self }
    }

    pub(crate) fn constant(scope: usize, what: &'static str, ids: &'i dyn Ids) -> Self {
        Self { constant: Some(what), ..Self::new(scope, ids) }
    }

    /// The same for a condition: it may be looked at any number of times.
    fn condition(&self) -> Self {
        Self { may_draw: false, ..self.clone() }
    }
}

/// Everything that is needed to make sense of a name.
pub(crate) struct Resolver<'m, 'd> {
    pub(crate) names: Names<'m>,
    pub(crate) catalogue: &'m Catalogue,
    pub(crate) report: Report<'d>,
    /// Scenes of the project and the spots each has, if there is a project.
    pub(crate) scenes: Option<&'m Scenes>,
    /// Tags and names of properties that a world must know before anything is made.
    pub(crate) wanted_tags: BTreeSet<SmolStr>,
    pub(crate) wanted_properties: BTreeSet<SmolStr>,
    /// A place of which somebody wants to know what is known there.
    probe: probe::Probe,
    /// Signals that statements emit, and those that wires listen to, by their whole names.
    emitted: BTreeSet<SmolStr>,
    heard: BTreeSet<SmolStr>,
    /// Tags that are known since some statement that was looked at gives them.
    said_tags: Vec<SmolStr>,
    /// The answers of all choices, once somebody asks.
    answers: OnceCell<IndexSet<SmolStr>>,
}

impl<'m, 'd> Resolver<'m, 'd> {
    pub(crate) fn new(
        files: &'m [Arc<model::File>],
        catalogue: &'m Catalogue,
        scenes: Option<&'m Scenes>,
        view: View,
        diagnostics: &'d mut Vec<Diagnostic>,
    ) -> Self {
        Self::noting(files, catalogue, scenes, view, diagnostics, Notes::default())
    }

    /// The same, that notes what each name means.
    pub(crate) fn noting(
        files: &'m [Arc<model::File>],
        catalogue: &'m Catalogue,
        scenes: Option<&'m Scenes>,
        view: View,
        diagnostics: &'d mut Vec<Diagnostic>,
        notes: Notes,
    ) -> Self {
        let mut report = Report::new(diagnostics);
        report.notes = notes;
        let mut names = Names::of(files, catalogue, view, &mut report);
        names.tagged_later();
        let (wanted_tags, wanted_properties) = (BTreeSet::new(), BTreeSet::new());
        let (emitted, heard) = (BTreeSet::new(), BTreeSet::new());
        let (probe, said_tags, answers) = (probe::Probe::default(), Vec::new(), OnceCell::new());
        names.tags.extend(scenes.into_iter().flat_map(|scenes| scenes.player_tags.iter().cloned()));
        Self {
            names,
            catalogue,
            report,
            scenes,
            wanted_tags,
            wanted_properties,
            probe,
            emitted,
            heard,
            said_tags,
            answers,
        }
    }

    /// Finds everything in a world that was built from it.
    pub(crate) fn find_in(&mut self, world: &State) {
        for object in &mut self.names.objects {
            object.id = world.find(&object.name).unwrap_or_default();
            object.part_ids = world.parts_of(object.id).to_vec();
            if object.role == Role::Mould {
                object.mould = world.find_mould(&object.name).unwrap_or_default();
            }
        }
        for var in &mut self.names.vars {
            var.id = world.find_var(&var.name).unwrap_or_default();
        }
        for spot in &mut self.names.spots {
            spot.id = world.find_spot(&spot.name).unwrap_or_default();
        }
    }

    /// The whole name of the signal a path names, if it names one.
    pub(crate) fn whole_signal(&self, path: &model::Path) -> Option<SmolStr> {
        self.whole_signal_in(path, &Cx::new(self.names.home, &NoIds))
    }

    /// The same for a path that is written where more is known.
    pub(crate) fn whole_signal_in(&self, path: &model::Path, cx: &Cx<'_>) -> Option<SmolStr> {
        self.signal_named(path, cx).map(|signal| signal.name)
    }

    /// The name of the effect a path names, if it names one.
    pub(crate) fn whole_effect(&self, path: &model::Path) -> Option<SmolStr> {
        let name = path.single()?;
        let found = self.found(self.names.home, |scope| scope.effects.get(&name.text).copied());
        // Effects are the whole project's, and a playtest speaks of all of it.
        let anywhere = || self.names.effect_by_whole_name(&name.text);
        let of_project = matches!(self.names.view, View::Playtests(_));
        let index = found.or_else(|| anywhere().filter(|_| of_project))?;
        self.report.means(name.span, Rank::Kind, self.names.effects[index].span.unwrap_or_default());
        Some(self.names.effects[index].name.clone())
    }

    /// The object a path names in a playtest, if it names one.
    pub(crate) fn object_at(&self, path: &model::Path) -> Option<usize> {
        self.object_named(path, &Cx::new(self.names.home, &NoIds))
    }

    /// What is reported in there is reported with the uses of kits around that scope.
    pub(crate) fn within<R>(&mut self, scope: usize, inner: impl FnOnce(&mut Self) -> R) -> R {
        self.report.uses.push(self.names.scopes[scope].uses.clone());
        let muted = self.report.muted;
        self.report.muted |= self.names.scopes[scope].broken;
        let result = inner(self);
        self.report.muted = muted;
        self.report.uses.pop();
        result
    }

    /// Whether something is looked at here: in a scene, not what all scenes share.
    fn own(&self, scope: usize) -> bool {
        self.names.is_own(scope)
    }

    /// Looks at everything once.
    pub(crate) fn check(&mut self, files: &'m [Arc<model::File>]) {
        let ids = NoIds;
        self.mark_bound();
        for index in 0..self.names.givens.len() {
            if self.own(self.names.givens[index].scope) {
                self.given(index, &ids);
            }
        }
        for index in 0..self.names.objects.len() {
            if self.own(self.names.objects[index].scope) {
                self.within(self.names.objects[index].scope, |r| r.object_parts(index, &ids));
            }
        }
        for index in 0..self.names.spots.len() {
            if self.own(self.names.spots[index].scope) {
                self.within(self.names.spots[index].scope, |r| r.spot(index, &ids));
            }
        }
        for index in 0..self.names.vars.len() {
            if self.own(self.names.vars[index].scope) {
                self.within(self.names.vars[index].scope, |r| r.var_first(index, &ids));
            }
        }
        self.check_routine_circles();
        self.check_hanging();
        for index in 0..self.names.routines.len() {
            if self.own(self.names.routines[index].scope) {
                self.within(self.names.routines[index].scope, |r| r.routine(index, &ids));
            }
        }
        for index in 0..self.names.wires.len() {
            if self.own(self.names.wires[index].scope) {
                self.within(self.names.wires[index].scope, |r| r.wire(index, &ids));
            }
        }
        for index in 0..self.names.objects.len() {
            let scope = self.names.objects[index].scope;
            if self.own(scope) {
                self.within(scope, |r| r.part_wires(index, &ids));
            }
        }
        for index in 0..self.names.binds.len() {
            if self.own(self.names.binds[index].scope) {
                self.within(self.names.binds[index].scope, |r| r.bind(index, &ids));
            }
        }
        self.check_bind_circles();
        let own = match self.names.view {
            View::Alone => None,
            View::Hall => Some(0),
            View::Scene(number) => Some(number),
            View::Playtests(_) => Some(u32::MAX),
        };
        let files_here = files.iter().filter(|file| own.is_none_or(|own| file.scene_number == own));
        let signals = files_here.flat_map(|file| &file.items.signals);
        for crossing in signals.filter_map(|signal| signal.crosses.as_ref()) {
            crossing.by.iter().for_each(|tag| self.tag(tag));
        }
        for index in 0..self.names.rules.len() {
            let scope = self.names.rules[index].scope;
            if self.own(scope) {
                self.within(scope, |r| r.rule(index, &ids));
            }
        }
        match self.names.view {
            View::Alone => self.check_playtests(files, 0),
            View::Playtests(number) => self.check_playtests(files, number),
            View::Hall | View::Scene(_) => {}
        }
        self.check_unused(files);
        self.note_given();
    }

    fn check_playtests(&mut self, files: &[Arc<model::File>], number: u32) {
        let own = files.iter().filter(|file| file.scene_number == number);
        for playtest in own.flat_map(|file| &file.playtests) {
            self.playtest(playtest, &NoIds);
        }
    }

    /// The playtests of another scene of the project, where those of one were looked at: what is wrong with them. All of them see the same names.
    pub(crate) fn playtests_of(&mut self, files: &[Arc<model::File>], number: u32) -> Vec<Diagnostic> {
        let before = std::mem::take(self.report.diagnostics);
        self.names.view = View::Playtests(number);
        self.names.home = self.names.scope_of_scene(number).unwrap_or(0);
        self.report.begin();
        for tag in std::mem::take(&mut self.said_tags) {
            self.names.tags.remove(&tag);
        }
        self.check_playtests(files, number);
        std::mem::replace(self.report.diagnostics, before)
    }

    /// Tries something out, and reports nothing.
    fn quietly<R>(&mut self, inner: impl FnOnce(&mut Self) -> R) -> R {
        let muted = std::mem::replace(&mut self.report.muted, true);
        let result = inner(self);
        self.report.muted = muted;
        result
    }

    fn wrong(&mut self, diagnostic: Diagnostic) {
        self.report.push(diagnostic);
    }
}
