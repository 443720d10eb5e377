//! Zones that switch their own object off, and nothing that switches it on again.

use crate::{
    diagnostic::{Code, Diagnostic},
    model::{ExprKind, Objects, StatementKind},
    resolve::{Cx, NoIds, Resolver, names::Thing, walk},
};

impl Resolver<'_, '_> {
    pub(super) fn check_switches_off(&mut self) {
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
            let Some(off) = off.filter(|_| !self.is_enabled_somewhere(object)) else { continue };
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

    /// Whether some wire or routine enables it; one that enables what is known only in play may.
    fn is_enabled_somewhere(&self, object: usize) -> bool {
        let tags = &self.names.objects[object].tags;
        let wires = self.names.wires.iter().map(|wire| (&wire.written.body, wire.scope, wire.owner));
        let routines = self.names.routines.iter().map(|routine| (&routine.written.body, routine.scope, None));
        let mut found = false;
        for (body, scope, owner) in wires.chain(routines) {
            let cx = Cx { owner, ..Cx::new(scope, &NoIds) };
            walk(body, &mut |statement| {
                let StatementKind::Enable(who) = &statement.kind else { return };
                found |= match who {
                    Objects::Every(among) => tags.contains(&among.of.text),
                    Objects::One(expr) => match &expr.kind {
                        ExprKind::Name(path) if path.text() != "own" => match self.begin(path, scope) {
                            Some((Thing::Object(other), _)) => other == object,
                            _ => true,
                        },
                        _ => self.is_object(who, object, &cx),
                    },
                };
            });
        }
        found
    }
}
