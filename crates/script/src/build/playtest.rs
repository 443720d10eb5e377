//! Playtests: their players come into the world, their lines become steps when their turn comes.

use std::collections::BTreeMap;

use stoicheon_core::{
    Error, Expr, ObjectId, SmolStr, State, Value, Vec3, World,
    playtest::{
        Expectation, Lines, Playtest, PlaytestError, PlaytestHost, PlaytestStep, Verdict, Watched, run,
    },
    secs,
};

use crate::{
    diagnostic::Diagnostic,
    load::Loaded,
    model::{self, ExprKind, Limit, Path, Step},
    resolve::{Cx, Ids, Resolver, View, bare, in_scene},
};

/// How long a wait may take that does not say so itself, in seconds.
const LONGEST_WAIT: f64 = 60.0;

/// Runs a playtest from its players' coming to its end.
pub(crate) fn run_playtest<G: 'static>(
    loaded: &Loaded,
    number: usize,
    world: &mut World<G>,
    game: &mut G,
    stage: &mut dyn PlaytestHost<G>,
) -> Result<Verdict, PlaytestError> {
    let mut ignored: Vec<Diagnostic> = Vec::new();
    let mut written = Written::new(loaded, number, &mut ignored)?;
    written.start(world)?;
    run(&mut written, world, game, stage)
}

/// Makes the players of a playtest, and all of its steps at once.
pub(crate) fn playtest<G: 'static>(
    loaded: &Loaded,
    number: usize,
    world: &mut World<G>,
) -> Result<Playtest, Error> {
    let mut ignored: Vec<Diagnostic> = Vec::new();
    let mut written = Written::new(loaded, number, &mut ignored)?;
    written.start(world)?;
    let mut playtest = Playtest::new(&written.playtest.name.text);
    for line in 0..written.count() {
        playtest = playtest.step_at(written.step(line, world)?, written.place(line));
    }
    Ok(playtest)
}

/// A playtest as it is written.
struct Written<'m, 'd> {
    loaded: &'m Loaded,
    playtest: &'m model::Playtest,
    /// Its lines, those that are done together among them.
    lines: Vec<Line<'m>>,
    resolver: Resolver<'m, 'd>,
    players: Vec<SmolStr>,
}

enum Line<'m> {
    One(&'m model::PlaytestStep),
    Together { span: crate::Span, lanes: Vec<Vec<usize>>, to: usize },
}

impl<'m, 'd> Written<'m, 'd> {
    fn new(loaded: &'m Loaded, number: usize, ignored: &'d mut Vec<Diagnostic>) -> Result<Self, Error> {
        let playtest = loaded.own_playtests().nth(number).ok_or_else(|| Error::UnknownName {
            kind: "a playtest",
            found: smol_str::format_smolstr!("number {}", number + 1),
        })?;
        let view = match loaded.view {
            View::Alone => View::Alone,
            _ => View::Playtests(loaded.scene_number()),
        };
        let scenes = loaded.scenes.as_deref();
        let resolver = Resolver::new(&loaded.files, &loaded.catalogue, scenes, view, ignored);
        let mut lines = Vec::new();
        for step in &playtest.steps {
            let Step::Together(steps) = &step.step else {
                lines.push(Line::One(step));
                continue;
            };
            let first = lines.len() + 1;
            // What one player does is done one after the other.
            let mut by_player: BTreeMap<&str, Vec<usize>> = BTreeMap::new();
            for (index, step) in steps.iter().enumerate() {
                by_player.entry(player_of(&step.step).unwrap_or_default()).or_default().push(first + index);
            }
            let mut apart: Vec<_> = by_player.into_values().collect();
            apart.sort();
            lines.push(Line::Together { span: step.span, lanes: apart, to: first + steps.len() });
            lines.extend(steps.iter().map(Line::One));
        }
        let players = playtest.players.iter().map(|player| player.name.text.clone()).collect();
        Ok(Self { loaded, playtest, lines, resolver, players })
    }

    /// The scene is there, and so are the players who are there from the start.
    fn start<G: 'static>(&mut self, world: &mut World<G>) -> Result<(), Error> {
        if let Some(own) = self.loaded.scene_name().and_then(|scene| world.find_scene(scene))
            && self.loaded.view != View::Alone
        {
            world.load_scene(own)?;
        }
        for player in &self.playtest.players {
            let home = self.loaded.scene_name().filter(|_| self.loaded.view != View::Alone);
            let (path, scene) = match &player.scene {
                Some(scene) => (in_scene(&player.at, scene), Some(scene.text.as_str())),
                None => (player.at.clone(), home),
            };
            let scene = scene.and_then(|scene| world.find_scene(scene));
            if let Some(scene) = scene {
                world.load_scene(scene)?;
            }
            let at = self.place_of(&path, world)?;
            let mut new = world.player(&player.name.text).at(at);
            if let Some(scene) = scene {
                new = new.in_scene(scene);
            }
            for tag in &player.tags {
                new = new.tag(&tag.text);
            }
            new.add()?;
        }
        Ok(())
    }

    /// Names are looked up for each line: what they mean may have gone and come again, or another world begun.
    fn look(&mut self, state: &State) {
        self.resolver.find_in(state);
    }

    fn cx<'i>(&self, state: &State, ids: &'i dyn Ids) -> Cx<'i> {
        let joined = self.lines.iter().filter_map(|line| match line {
            Line::One(step) => match &step.step {
                Step::Join { player, .. } => Some(player.text.clone()),
                _ => None,
            },
            Line::Together { .. } => None,
        });
        let names = self.players.iter().cloned().chain(joined);
        let players = names.map(|name| (name.clone(), state.find_player(&name).unwrap_or_default()));
        Cx::new(self.resolver.names.home, ids).with_players(players.collect())
    }

    fn expr(&mut self, expr: &model::Expr, state: &State) -> Result<Expr, Error> {
        self.look(state);
        let cx = self.cx(state, &state);
        let found = self.resolver.expr(expr, None, &cx);
        let unknown = || Error::UnknownName { kind: "a value", found: "what this expects".into() };
        found.map(|found| found.expr).ok_or_else(unknown)
    }

    /// Where an object or a spot is.
    fn place_of(&mut self, path: &Path, state: &State) -> Result<Vec3, Error> {
        let named = model::Expr { span: path.span(), kind: ExprKind::Name(path.clone()) };
        let expr = Expr::Place(Box::new(self.expr(&named, state)?));
        match state.evaluate(&expr) {
            Value::Vector(at) => Ok(at),
            _ => Err(Error::UnknownName { kind: "an object or a spot", found: path.text() }),
        }
    }

    /// How far one has to go beyond an object to be out of it on the other side.
    fn beyond(&mut self, path: &Path, state: &State) -> f32 {
        let object = self.resolver.object_at(path);
        let parts = object.map(|object| self.resolver.names.objects[object].part_ids.clone());
        let reach = |part| state.reach_of(part);
        let reaches = parts.into_iter().flatten().filter_map(reach);
        reaches.fold(0.0, f32::max) + 1.0
    }

    fn watched_name(&self, path: &Path) -> Option<Watched> {
        let signal = self.resolver.whole_signal(path).map(Watched::Signal);
        signal.or_else(|| self.resolver.whole_effect(path).map(Watched::Effect))
    }

    /// A bare name of a signal or an effect is counted; anything else must hold.
    fn expectation(&mut self, what: &model::Expr, limit: Limit, state: &State) -> Result<Expectation, Error> {
        Ok(match (bare(what).and_then(|path| self.watched_name(path)), limit) {
            (Some(watched), Limit::Exactly(times)) => Expectation::Exactly(watched, times),
            (Some(watched), _) => Expectation::Happens(watched),
            (None, _) => Expectation::Holds(self.expr(what, state)?),
        })
    }

    fn one(&mut self, step: &model::PlaytestStep, state: &State) -> Result<PlaytestStep, Error> {
        self.look(state);
        let player = |name: &model::Name| -> Result<ObjectId, Error> {
            let here = state.find(&name.text);
            here.ok_or_else(|| Error::UnknownName { kind: "a player who is here", found: name.text.clone() })
        };
        let seconds = |span: &model::SecondsValue| (*span).into();
        Ok(match &step.step {
            Step::Walk { player: name, to } => {
                PlaytestStep::Walk { who: player(name)?, to: self.place_of(to, state)? }
            }
            Step::GoThrough { player: name, at } => {
                let beyond = self.beyond(at, state);
                PlaytestStep::GoThrough { who: player(name)?, at: self.place_of(at, state)?, beyond }
            }
            Step::Answer { player: name, prompt } => {
                let object = self.resolver.object_at(prompt);
                let part = object.and_then(|object| {
                    let part = self.resolver.prompt_of(object)?;
                    self.resolver.names.objects[object].part_ids.get(part).copied()
                });
                let unknown = || Error::UnknownName { kind: "a prompt that is here", found: prompt.text() };
                PlaytestStep::Answer { who: player(name)?, prompt: part.ok_or_else(unknown)? }
            }
            Step::Join { player, at, scene, tags } => {
                let alone = self.loaded.view == View::Alone;
                let own = self.loaded.scene_name().filter(|_| !alone).unwrap_or_default();
                let scene = scene.as_ref().map_or(own, |scene| scene.text.as_str());
                let at = at.as_ref().map(|at| (scene.into(), at.text()));
                let tags = tags.iter().map(|tag| tag.text.clone()).collect();
                PlaytestStep::Join { name: player.text.clone(), at, tags }
            }
            Step::Hold { player: name, key, span } => {
                PlaytestStep::Hold { who: player(name)?, key: key.text.clone(), span: seconds(span) }
            }
            Step::Point { player: name, at } => {
                PlaytestStep::Point { who: player(name)?, to: self.place_of(at, state)? }
            }
            Step::Choose { player: name, answer } => PlaytestStep::Choose {
                who: player(name)?,
                answer: answer.as_ref().map(|answer| answer.text.clone()),
            },
            Step::Leave { player: name } => PlaytestStep::Leave { who: player(name)? },
            Step::Press { player: name, key } => {
                PlaytestStep::Press { who: player(name)?, key: key.text.clone() }
            }
            Step::Wait(span) | Step::Pause { span, .. } => PlaytestStep::Wait(seconds(span)),
            Step::Until { what, within } => PlaytestStep::Until {
                what: self.expr(what, state)?,
                within: within.as_ref().map_or(secs(LONGEST_WAIT), seconds),
            },
            Step::Always(expr) => PlaytestStep::Always(self.expr(expr, state)?),
            Step::Never(what) => match self.expectation(what, Limit::Now, state)? {
                Expectation::Happens(watched) => PlaytestStep::Never(watched),
                Expectation::Holds(expr) => PlaytestStep::Always(expr.not()),
                other => PlaytestStep::Expect { what: other, within: None },
            },
            Step::Expect { what, limit } => {
                let within = if let Limit::Within(span) = limit { Some(seconds(span)) } else { None };
                PlaytestStep::Expect { what: self.expectation(what, *limit, state)?, within }
            }
            Step::InOrder { what, within } => {
                let all = what.iter().filter_map(|path| self.watched_name(path)).collect();
                let what = Expectation::InOrder(all);
                PlaytestStep::Expect { what, within: within.as_ref().map(seconds) }
            }
            Step::Save => PlaytestStep::Save,
            Step::Reload => PlaytestStep::Reload,
            Step::Suspend => PlaytestStep::Suspend,
            Step::AllowFaults => PlaytestStep::AllowFaults,
            // They were taken apart before.
            Step::Together(_) => PlaytestStep::Together { lanes: Vec::new(), to: 0 },
        })
    }
}

impl Lines for Written<'_, '_> {
    fn count(&self) -> usize {
        self.lines.len()
    }

    fn place(&self, line: usize) -> stoicheon_core::Place {
        let span = match &self.lines[line] {
            Line::One(step) => step.span,
            Line::Together { span, .. } => *span,
        };
        self.loaded.sources.place(span)
    }

    fn step(&mut self, line: usize, state: &State) -> Result<PlaytestStep, Error> {
        match &self.lines[line] {
            Line::One(step) => {
                let step = *step;
                self.one(step, state)
            }
            Line::Together { lanes, to, .. } => Ok(PlaytestStep::Together { lanes: lanes.clone(), to: *to }),
        }
    }

    fn watched(&mut self, _: &State) -> Vec<Watched> {
        let steps = self.playtest.steps.iter().map(|step| &step.step);
        let paths = steps.flat_map(|step| match step {
            Step::Expect { what, .. } | Step::Never(what) => bare(what).into_iter().collect(),
            Step::InOrder { what, .. } => what.iter().collect(),
            _ => Vec::new(),
        });
        paths.filter_map(|path| self.watched_name(path)).collect()
    }
}

fn player_of(step: &Step) -> Option<&str> {
    match step {
        Step::Walk { player, .. }
        | Step::GoThrough { player, .. }
        | Step::Answer { player, .. }
        | Step::Join { player, .. }
        | Step::Hold { player, .. }
        | Step::Point { player, .. }
        | Step::Leave { player }
        | Step::Pause { player, .. }
        | Step::Press { player, .. } => Some(&player.text),
        _ => None,
    }
}
