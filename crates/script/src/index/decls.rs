//! Everything that files declare, with what kind of name it is and where it gets it.

use std::{collections::BTreeMap, sync::Arc};

use smol_str::{SmolStr, format_smolstr};

use crate::{
    index::NameKind,
    model::{
        Declaration, File, Items, Name, Object, Playtest, PlaytestStep, Statement, StatementKind, Step, Wire,
    },
    source::Span,
};

/// Something that is declared.
#[derive(Clone, Debug)]
pub(crate) struct Decl {
    pub(crate) kind: NameKind,
    pub(crate) name: SmolStr,
    /// What it belongs to: an object, a kit, a routine, a playtest.
    pub(crate) owner: Option<SmolStr>,
    /// The scene of a project that it is declared in.
    pub(crate) scene: Option<SmolStr>,
    pub(crate) span: Span,
    /// The game's own code sends it or listens to it.
    pub(crate) is_games: bool,
}

/// All that is declared, and what is needed to find more of it.
#[derive(Debug, Default)]
pub(crate) struct Decls {
    pub(crate) all: Vec<Decl>,
    /// The fields of the signals and effects, by where those are declared.
    pub(crate) fields: BTreeMap<Span, Vec<Span>>,
    /// Where each tag is given to an object or a player.
    pub(crate) tags: Vec<Name>,
}

/// Whose names are gathered.
#[derive(Clone, Copy)]
struct Within<'w> {
    owner: Option<&'w str>,
    scene: Option<&'w SmolStr>,
}

impl Decls {
    pub(crate) fn of(files: &[Arc<File>]) -> Self {
        let mut decls = Self::default();
        let scene_of = |number: u32| {
            let mut of = files.iter().filter(|file| file.scene_number == number && number != 0);
            of.find_map(|file| file.scene.as_ref()).map(|name| &name.text)
        };
        for file in files {
            let scene = scene_of(file.scene_number);
            if let Some(name) = &file.scene {
                decls.add(NameKind::Scene, name, Within { owner: None, scene });
            }
            decls.items(&file.items, Within { owner: None, scene });
            for kit in file.kits.iter().filter(|kit| kit.made == 0) {
                decls.add(NameKind::Kit, &kit.name, Within { owner: None, scene });
                let within = Within { owner: Some(&kit.name.text), scene };
                for parameter in &kit.parameters {
                    decls.add(NameKind::Parameter, &parameter.name, within);
                }
                decls.items(&kit.items, within);
            }
            for playtest in &file.playtests {
                decls.playtest(playtest, scene);
            }
        }
        decls
    }

    fn add(&mut self, kind: NameKind, name: &Name, within: Within<'_>) {
        let owner = within.owner.map(SmolStr::from);
        let (name, span) = (name.text.clone(), name.span);
        let scene = within.scene.cloned();
        self.all.push(Decl { kind, name, owner, scene, span, is_games: false });
    }

    fn items(&mut self, items: &Items, within: Within<'_>) {
        for given in &items.givens {
            self.add(NameKind::Given, &given.name, within);
        }
        for var in &items.vars {
            self.add(NameKind::Variable, &var.name, within);
        }
        for signal in &items.signals {
            self.message(NameKind::Signal, signal, within);
        }
        for effect in &items.effects {
            self.message(NameKind::Effect, effect, within);
        }
        for spot in &items.spots {
            self.add(NameKind::Spot, &spot.name, within);
        }
        for routine in &items.routines {
            self.add(NameKind::Routine, &routine.name, within);
            let inner = Within { owner: Some(&routine.name.text), ..within };
            routine.fields.iter().for_each(|field| self.add(NameKind::Local, &field.name, inner));
            self.statements(&routine.body, inner);
        }
        let of_kind = [
            (&items.objects, NameKind::Object),
            (&items.managers, NameKind::Manager),
            (&items.moulds, NameKind::Mould),
        ];
        for (object, kind) in of_kind.iter().flat_map(|(all, kind)| all.iter().map(move |one| (one, *kind))) {
            self.object(object, kind, within);
        }
        for used in &items.uses {
            if let Some(name) = &used.name {
                self.add(NameKind::KitUse, name, within);
            }
        }
        self.wires(&items.wires, within);
    }

    fn message(&mut self, kind: NameKind, written: &Declaration, within: Within<'_>) {
        self.add(kind, &written.name, within);
        if let Some(last) = self.all.last_mut() {
            last.is_games = written.sent_by_game || written.heard_by_game || kind == NameKind::Effect;
        }
        let inner = Within { owner: Some(&written.name.text), ..within };
        written.fields.iter().for_each(|field| self.add(NameKind::Field, &field.name, inner));
        self.fields.insert(written.name.span, written.fields.iter().map(|field| field.name.span).collect());
    }

    fn object(&mut self, object: &Object, kind: NameKind, within: Within<'_>) {
        self.add(kind, &object.name, within);
        self.tags.extend(object.tags.iter().cloned());
        let whole = match within.owner {
            Some(owner) => format_smolstr!("{owner}.{}", object.name.text),
            None => object.name.text.clone(),
        };
        let inner = Within { owner: Some(&whole), ..within };
        object.vars.iter().for_each(|var| self.add(NameKind::Variable, &var.name, inner));
        object.signals.iter().for_each(|signal| self.message(NameKind::Signal, signal, inner));
        object.spots.iter().for_each(|spot| self.add(NameKind::Spot, &spot.name, inner));
        self.wires(&object.wires, inner);
    }

    fn wires(&mut self, wires: &[Wire], within: Within<'_>) {
        wires.iter().for_each(|wire| self.statements(&wire.body, within));
    }

    /// What sequences call something.
    fn statements(&mut self, statements: &[Statement], within: Within<'_>) {
        crate::resolve::walk(statements, &mut |statement| {
            let names: Vec<&Name> = match &statement.kind {
                StatementKind::Keep { name, .. } | StatementKind::ForEach { name, .. } => vec![name],
                StatementKind::Spawn { name, .. } => name.iter().collect(),
                StatementKind::ForEachCell { column, row, .. } => vec![column, row],
                _ => Vec::new(),
            };
            names.into_iter().for_each(|name| self.add(NameKind::Local, name, within));
        });
    }

    fn playtest(&mut self, playtest: &Playtest, scene: Option<&SmolStr>) {
        let within = Within { owner: Some(&playtest.name.text), scene };
        let mut known: Vec<SmolStr> = Vec::new();
        for player in &playtest.players {
            self.tags.extend(player.tags.iter().cloned());
            known.push(player.name.text.clone());
            self.add(NameKind::Player, &player.name, within);
        }
        self.joining(&playtest.steps, &mut known, within);
        // A column may give a constant its value.
        let columns = playtest.cases.iter().flat_map(|cases| &cases.names);
        let is_given = |name: &Name, known: &Decl| known.kind == NameKind::Given && known.name == name.text;
        let own: Vec<_> =
            columns.filter(|name| !self.all.iter().any(|known| is_given(name, known))).collect();
        own.into_iter().for_each(|name| self.add(NameKind::Local, name, within));
    }

    /// Players that are there only once they join.
    fn joining(&mut self, steps: &[PlaytestStep], known: &mut Vec<SmolStr>, within: Within<'_>) {
        for step in steps {
            match &step.step {
                Step::Join { player, tags, .. } => {
                    self.tags.extend(tags.iter().cloned());
                    if !known.contains(&player.text) {
                        known.push(player.text.clone());
                        self.add(NameKind::Player, player, within);
                    }
                }
                Step::Together(steps) => self.joining(steps, known, within),
                Step::Does(statement) => self.statements(std::slice::from_ref(statement), within),
                Step::Block(statements) => self.statements(statements, within),
                _ => {}
            }
        }
    }
}
