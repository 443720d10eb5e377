//! What is known at one place of a text: caught while that place is looked at like any other.

use std::{cell::RefCell, sync::Arc};

use stoicheon_core::Type;

use super::{Cx, NoIds, Resolver};
use crate::{model, source::Span};

/// What is known at a place: what names mean there, and the type of value that is looked for.
#[derive(Clone)]
pub(crate) struct Caught {
    pub(crate) cx: Cx<'static>,
    pub(crate) want: Option<Type>,
}

/// A place of which somebody wants to know.
#[derive(Default)]
pub(crate) struct Probe {
    at: Option<Span>,
    caught: RefCell<Option<Caught>>,
}

impl std::fmt::Debug for Probe {
    fn fmt(&self, to: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        to.debug_struct("Probe").field("at", &self.at).finish_non_exhaustive()
    }
}

impl Cx<'_> {
    /// What is known in a scope, and in an object's braces.
    pub(crate) fn written_in(owner: Option<usize>, scope: usize, ids: &dyn super::Ids) -> Cx<'_> {
        Cx { owner, ..Cx::new(scope, ids) }
    }

    /// Where names are looked up.
    pub(crate) fn scope(&self) -> usize {
        self.scope
    }

    /// The same, to be kept.
    fn kept(&self) -> Cx<'static> {
        Cx {
            scope: self.scope,
            owner: self.owner,
            fields: self.fields.clone(),
            fields_of: Arc::default(),
            locals: self.locals.clone(),
            players: self.players.clone(),
            cast: Arc::default(),
            cases: self.cases.clone(),
            last: None,
            kept: self.kept,
            has_who: self.has_who,
            it: self.it.clone(),
            may_draw: self.may_draw,
            constant: self.constant,
            any_field: self.any_field,
            loop_name: self.loop_name.clone(),
            ids: &NoIds,
        }
    }
}

impl Resolver<'_, '_> {
    /// Tells what is known at a place if that is where somebody wants to know it. What is looked at within it tells more.
    pub(super) fn probe(&self, around: Span, cx: &Cx<'_>, want: Option<&Type>) {
        if self.probe.at.is_some_and(|at| around.contains(at)) {
            let caught = Caught { cx: cx.kept(), want: want.cloned() };
            *self.probe.caught.borrow_mut() = Some(caught);
        }
    }

    /// Tells what is known behind a statement if that is where somebody wants to know it. A block that ends before there is asked, too, and
    /// then what comes behind it.
    pub(super) fn probe_after(&self, statement: Span, cx: &Cx<'_>) {
        if self.probe.at.is_some_and(|at| at.file == statement.file && statement.end <= at.start) {
            *self.probe.caught.borrow_mut() = Some(Caught { cx: cx.kept(), want: None });
        }
    }

    /// What is known at a place. Only what stands around it is looked at.
    pub(crate) fn known_at(&mut self, files: &[Arc<model::File>], at: Span) -> Option<Caught> {
        self.probe = Probe { at: Some(at), caught: RefCell::default() };
        let muted = std::mem::replace(&mut self.report.muted, true);
        self.look_around(files, at);
        self.report.muted = muted;
        self.probe.at = None;
        self.probe.caught.take()
    }

    fn look_around(&mut self, files: &[Arc<model::File>], at: Span) {
        let ids = NoIds;
        for index in 0..self.names.objects.len() {
            let object = &self.names.objects[index];
            if object.written.is_some_and(|written| written.span.contains(at)) {
                let scope = object.scope;
                self.probe(at, &Cx { owner: Some(index), ..Cx::new(scope, &ids) }, None);
                self.object_parts(index, &ids);
                self.part_wires(index, &ids);
            }
        }
        for index in 0..self.names.wires.len() {
            if self.names.wires[index].written.span.contains(at) {
                self.wire(index, &ids);
            }
        }
        for index in 0..self.names.binds.len() {
            if self.names.binds[index].written.span.contains(at) {
                self.bind(index, &ids);
            }
        }
        for index in 0..self.names.rules.len() {
            if self.names.rules[index].written.span.contains(at) {
                self.rule(index, &ids);
            }
        }
        for index in 0..self.names.routines.len() {
            let written = self.names.routines[index].written;
            if written.span.contains(at) {
                self.routine(index, &ids);
            }
        }
        for index in 0..self.names.spots.len() {
            let written = self.names.spots[index].written;
            if written.at.span.contains(at) || written.facing.as_ref().is_some_and(|f| f.span.contains(at)) {
                self.spot(index, &ids);
            }
        }
        for index in 0..self.names.vars.len() {
            if self.names.vars[index].written.is_some_and(|written| written.first.span.contains(at)) {
                self.var_first(index, &ids);
            }
        }
        for playtest in files.iter().flat_map(|file| &file.playtests) {
            if playtest.span.contains(at) {
                self.playtest(playtest, &ids);
            }
        }
    }
}
