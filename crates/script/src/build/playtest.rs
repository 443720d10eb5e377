//! Playtests: their players come into the world, their lines become steps when their turn comes.

use std::{cell::RefCell, collections::BTreeMap};

use stoicheon_core::{
    Error, Expr, ObjectId, SmolStr, State, Value, Vec3, World,
    playtest::{
        Expectation, Last, Lines, Playtest, PlaytestError, PlaytestHost, PlaytestStep, Verdict, Watched, run,
    },
    secs, ticks,
};

use crate::{
    diagnostic::Diagnostic,
    load::Loaded,
    model::{self, ExprKind, Limit, Path, SpanValue, Step, Where},
    resolve::{Cx, Ids, NoIds, Resolver, Typed, View, bare, in_scene},
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

/// Makes the players of a playtest.
pub(crate) fn make_players<G: 'static>(
    loaded: &Loaded,
    number: usize,
    world: &mut World<G>,
) -> Result<(), Error> {
    let mut ignored: Vec<Diagnostic> = Vec::new();
    Written::new(loaded, number, &mut ignored)?.start(world)
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
    let mut playtest = Playtest::new(&loaded.playtests().nth(number).unwrap_or_default());
    for line in 0..written.count() {
        playtest = playtest.step_at(written.step(line, world)?, written.place(line));
    }
    Ok(playtest)
}

/// A playtest as it is written.
pub(crate) struct Written<'m, 'd> {
    loaded: &'m Loaded,
    playtest: &'m model::Playtest,
    /// The columns of its table of cases, with the values of the one that is played.
    case: Vec<(SmolStr, Typed)>,
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
    pub(crate) fn new(
        loaded: &'m Loaded,
        number: usize,
        ignored: &'d mut Vec<Diagnostic>,
    ) -> Result<Self, Error> {
        let (playtest, case) = loaded.own_playtests().nth(number).ok_or_else(|| Error::UnknownName {
            kind: "a playtest",
            found: smol_str::format_smolstr!("number {}", number + 1),
        })?;
        let view = match loaded.view {
            View::Alone => View::Alone,
            _ => View::Playtests(loaded.scene_number()),
        };
        let scenes = loaded.scenes.as_deref();
        let mut resolver = Resolver::new(&loaded.files, &loaded.catalogue, scenes, view, ignored);
        let case = case.map(|(cases, case)| resolver.values_of_case(cases, case, &NoIds)).unwrap_or_default();
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
        Ok(Self { loaded, playtest, case, lines, resolver, players })
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
            let (at, scene) = match (&player.at, &player.scene) {
                (Where::Named(at), Some(scene)) => {
                    (Where::Named(in_scene(at, scene)), Some(scene.text.as_str()))
                }
                (at, Some(scene)) => (at.clone(), Some(scene.text.as_str())),
                (at, None) => (at.clone(), home),
            };
            let scene = scene.and_then(|scene| world.find_scene(scene));
            if let Some(scene) = scene {
                world.load_scene(scene)?;
            }
            let at = self.place_of(&at, world)?;
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
        Cx::new(self.resolver.names.home, ids).in_playtest(players.collect(), self.case.clone())
    }

    fn expr(&mut self, expr: &model::Expr, state: &State) -> Result<Expr, Error> {
        self.look(state);
        let cx = self.cx(state, &state);
        let found = self.resolver.expr(expr, None, &cx);
        let unknown = || Error::UnknownName { kind: "a value", found: "what this expects".into() };
        found.map(|found| found.expr).ok_or_else(unknown)
    }

    /// An expression that may ask for what happened last.
    fn expr_of_last(&mut self, expr: &model::Expr, state: &State) -> Result<(Expr, Vec<Last>), Error> {
        self.look(state);
        let last = RefCell::default();
        let cx = self.cx(state, &state).with_last(&last);
        let found = self.resolver.expr(expr, None, &cx);
        let unknown = || Error::UnknownName { kind: "a value", found: "what this expects".into() };
        found.map(|found| (found.expr, last.take())).ok_or_else(unknown)
    }

    /// Where an object, a spot or a place is.
    fn place_of(&mut self, at: &Where, state: &State) -> Result<Vec3, Error> {
        let (written, text) = match at {
            Where::Named(path) => {
                (model::Expr { span: path.span(), kind: ExprKind::Name(path.clone()) }, path.text())
            }
            Where::Held(at) => (at.clone(), crate::print::value(at).into()),
        };
        let expr = Expr::Place(Box::new(self.expr(&written, state)?));
        match state.evaluate(&expr) {
            Value::Vector(at) => Ok(at),
            _ => Err(Error::UnknownName { kind: "an object, a spot or a place", found: text }),
        }
    }

    /// A place that is measured from an object or a spot and turned with it.
    fn place_from(&mut self, at: &Where, offset: &model::Expr, state: &State) -> Result<Vec3, Error> {
        let from = self.place_of(at, state)?;
        let cx = self.cx(state, &state);
        let offset = self.resolver.offset(offset, &cx).map(|offset| state.evaluate(&offset));
        let facing = match at {
            Where::Named(path) => {
                let named = model::Expr { span: path.span(), kind: ExprKind::Name(path.clone()) };
                state.evaluate(&Expr::Facing(Box::new(self.expr(&named, state)?)))
            }
            Where::Held(_) => Value::Nothing,
        };
        let offset = offset.and_then(|offset| offset.as_vector()).unwrap_or_default();
        Ok(from + if let Value::Rotation(facing) = facing { facing.turn(offset) } else { offset })
    }

    /// How far one has to go beyond an object to be out of it on the other side.
    fn beyond(&mut self, at: &Where, state: &State) -> f32 {
        let object = if let Where::Named(path) = at { self.resolver.object_at(path) } else { None };
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
            (None, _) => match self.expr_of_last(what, state)? {
                (holds, of) if of.is_empty() => Expectation::Holds(holds),
                (holds, of) => Expectation::OfLast { holds, of },
            },
        })
    }

    fn one(&mut self, step: &model::PlaytestStep, state: &State) -> Result<PlaytestStep, Error> {
        self.look(state);
        self.said(&step.step, state)
    }

    /// Statements that are done at once.
    fn does(&mut self, statements: &[model::Statement], state: &State) -> Result<PlaytestStep, Error> {
        let mut cx = self.cx(state, &state);
        let steps = self.resolver.statements(statements, &mut cx);
        if steps.len() < statements.len() {
            return Err(Error::UnknownName { kind: "what this line speaks of", found: "nothing".into() });
        }
        let home = self.loaded.scene_name().filter(|_| self.loaded.view != View::Alone);
        Ok(PlaytestStep::Do { steps, scene: home.and_then(|home| state.find_scene(home)) })
    }

    fn said(&mut self, step: &Step, state: &State) -> Result<PlaytestStep, Error> {
        let player = |name: &model::Name| -> Result<ObjectId, Error> {
            let here = state.find(&name.text);
            here.ok_or_else(|| Error::UnknownName { kind: "a player who is here", found: name.text.clone() })
        };
        let rate = state.rate();
        let seconds = |span: &SpanValue| match *span {
            SpanValue::Seconds(span) => span.into(),
            SpanValue::Ticks { ticks: count } => rate.seconds(ticks(count)),
        };
        Ok(match step {
            Step::Sees { what, .. } => return self.said(what, state),
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
            Step::KeyDown { player: name, key } => {
                PlaytestStep::KeyDown { who: player(name)?, key: key.text.clone() }
            }
            Step::KeyUp { player: name, key } => {
                PlaytestStep::KeyUp { who: player(name)?, key: key.text.clone() }
            }
            Step::Point { player: name, at, from_there, button } => {
                let to = match from_there {
                    Some(offset) => self.place_from(at, offset, state)?,
                    None => self.place_of(at, state)?,
                };
                let button = button.as_ref().map_or("primary".into(), |button| button.text.clone());
                PlaytestStep::Point { who: player(name)?, to, button }
            }
            Step::Does(statement) => self.does(std::slice::from_ref(statement), state)?,
            Step::Block(statements) => self.does(statements, state)?,
            Step::ExpectWith { what, values, limit } => {
                let cx = self.cx(state, &state);
                let unknown = || Error::UnknownName { kind: "a signal or an effect", found: what.text() };
                let (what, values) = self.resolver.carries(what, values, &cx).ok_or_else(unknown)?;
                let times = if let Limit::Exactly(times) = limit { Some(*times) } else { None };
                let within = if let Limit::Within(span) = limit { Some(seconds(span)) } else { None };
                PlaytestStep::Expect { what: Expectation::With { what, values, times }, within }
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
    fn is_linked(&self) -> bool {
        self.playtest.linked
    }

    fn played_by(&self, line: usize) -> Option<SmolStr> {
        match &self.lines[line] {
            // Who comes or goes does so in the world whose word counts.
            Line::One(model::PlaytestStep { step: Step::Join { .. } | Step::Leave { .. }, .. }) => None,
            Line::One(step) => player_of(&step.step).map(SmolStr::from),
            Line::Together { .. } => None,
        }
    }

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

    fn watched(&mut self, state: &State) -> Vec<Watched> {
        let steps = self.playtest.steps.iter().map(|step| seen(&step.step));
        let paths = steps.flat_map(|step| match step {
            Step::Expect { what, .. } | Step::Never(what) => bare(what).into_iter().collect(),
            Step::InOrder { what, .. } => what.iter().collect(),
            _ => Vec::new(),
        });
        let all: Vec<_> = paths.filter_map(|path| self.watched_name(path)).collect();
        [all, self.kept(state)].concat()
    }

    fn kept(&mut self, state: &State) -> Vec<Watched> {
        let playtest = self.playtest;
        let mut kept = Vec::new();
        for step in &playtest.steps {
            match seen(&step.step) {
                Step::ExpectWith { what, .. } => kept.extend(self.watched_name(what)),
                Step::Expect { what, .. } if bare(what).is_none() => {
                    let of = self.expr_of_last(what, state).map(|(_, of)| of).unwrap_or_default();
                    kept.extend(of.into_iter().map(|last| last.what));
                }
                _ => {}
            }
        }
        kept
    }
}

/// What is expected, in whichever world.
fn seen(step: &Step) -> &Step {
    if let Step::Sees { what, .. } = step { what } else { step }
}

fn player_of(step: &Step) -> Option<&str> {
    match step {
        Step::Walk { player, .. }
        | Step::GoThrough { player, .. }
        | Step::Answer { player, .. }
        | Step::Join { player, .. }
        | Step::Hold { player, .. }
        | Step::Choose { player, .. }
        | Step::Sees { player, .. }
        | Step::KeyDown { player, .. }
        | Step::KeyUp { player, .. }
        | Step::Point { player, .. }
        | Step::Leave { player }
        | Step::Pause { player, .. }
        | Step::Press { player, .. } => Some(&player.text),
        _ => None,
    }
}
