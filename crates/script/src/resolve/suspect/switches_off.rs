//! Zones that switch their own object off, and nothing that switches it on again.

use std::collections::BTreeSet;

use smol_str::SmolStr;

use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Expr, ExprKind, Objects, StatementKind},
    resolve::{Cx, NoIds, Resolver, names::Thing, walk},
};

impl Resolver<'_, '_> {
    pub(super) fn check_switches_off(&mut self) {
        let mut enabled: Option<Enabled> = None;
        for index in 0..self.names.wires.len() {
            let placed = self.names.wires[index];
            let wire = placed.written;
            if !self.names.is_own(placed.scope) || wire.every || wire.times.is_some() {
                continue;
            }
            let cx = Cx { owner: placed.owner, ..Cx::new(placed.scope, &NoIds) };
            let Some(object) = self.signal_named(&wire.on, &cx).and_then(|signal| signal.object) else {
                continue;
            };
            if !self.names.objects[object].parts.iter().any(|(_, info)| info.name == "zone") {
                continue;
            }
            let off = wire.body.iter().find_map(|statement| match &statement.kind {
                StatementKind::Disable(who) if self.is_object(who, object, &cx) => Some(statement.span),
                _ => None,
            });
            let Some(off) = off else { continue };
            let enabled = enabled.get_or_insert_with(|| self.enabled_somewhere());
            if enabled.has(object, &self.names.objects[object].tags) {
                continue;
            }
            let name = self.names.objects[object].name.clone();
            let message =
                format!("the zone of `{name}` switches `{name}` off, and nothing switches it on again");
            let found = Diagnostic::warning(Code::SwitchesOff, message)
                .at(off, "from here on nothing enters or leaves it")
                .help("if the wire is to be taken only once, say so with `once`");
            self.within(placed.scope, |r| r.wrong(found));
        }
    }

    fn is_object(&self, who: &Objects, object: usize, cx: &Cx<'_>) -> bool {
        let Objects::One(expr) = who else { return false };
        let ExprKind::Name(path) = &expr.kind else { return false };
        if path.text() == "own" {
            return cx.owner == Some(object);
        }
        matches!(self.begin(path, cx.scope), Some((Thing::Object(found), used)) if found == object && used == path.0.len())
    }

    /// What wires and routines enable.
    fn enabled_somewhere(&self) -> Enabled {
        let wires = self.names.wires.iter().map(|wire| (&wire.written.body, wire.scope, wire.owner));
        let routines = self.names.routines.iter().map(|routine| (&routine.written.body, routine.scope, None));
        let mut all = Enabled::default();
        for (body, scope, owner) in wires.chain(routines) {
            walk(body, &mut |statement| {
                let StatementKind::Enable(who) = &statement.kind else { return };
                let path = match who {
                    Objects::Every(among) => {
                        all.tags.insert(among.of.text.clone());
                        return;
                    }
                    Objects::One(Expr { kind: ExprKind::Name(path), .. }) => path,
                    Objects::One(_) => return all.anything = true,
                };
                match (path.text().as_str(), owner, self.begin(path, scope)) {
                    ("own", Some(owner), _) => all.objects.extend([owner]),
                    (_, _, Some((Thing::Object(object), _))) => all.objects.extend([object]),
                    _ => all.anything = true,
                }
            });
        }
        all
    }
}

/// What is enabled by some statement.
#[derive(Default)]
struct Enabled {
    objects: BTreeSet<usize>,
    tags: BTreeSet<SmolStr>,
    /// What is known only in play.
    anything: bool,
}

impl Enabled {
    fn has(&self, object: usize, tags: &[SmolStr]) -> bool {
        self.anything || self.objects.contains(&object) || tags.iter().any(|tag| self.tags.contains(tag))
    }
}
