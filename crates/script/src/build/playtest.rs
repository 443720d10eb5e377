//! Playtests: their players come into the world, their steps become data.

use stoicheon_core::{
    Error, Expr, Value, Vec3, World,
    playtest::{Expectation, Playtest, PlaytestStep},
};

use crate::{
    Loaded,
    diagnostic::Diagnostic,
    model::{self, ExprKind, Limit, Path, Step},
    resolve::{Cx, Resolver, bare},
};

pub(crate) fn playtest<G: 'static>(
    loaded: &Loaded,
    number: usize,
    world: &mut World<G>,
) -> Result<Playtest, Error> {
    let written = loaded.files.iter().flat_map(|file| &file.playtests).nth(number);
    let written = written.ok_or_else(|| Error::UnknownName {
        kind: "a playtest",
        found: smol_str::format_smolstr!("number {}", number + 1),
    })?;
    let mut ignored: Vec<Diagnostic> = Vec::new();
    let scenes = loaded.scenes.as_deref();
    let mut resolver = Resolver::new(&loaded.files, &loaded.catalogue, scenes, &mut ignored);
    resolver.find_in(world);
    let mut players: Players = Vec::new();
    for player in &written.players {
        let at = place(&player.at, &mut resolver, &players, world)?;
        let mut new = world.player(&player.name.text).at(at);
        for tag in &player.tags {
            new = new.tag(&tag.text);
        }
        players.push((player.name.text.clone(), new.add()?));
    }
    let mut playtest = Playtest::new(&written.name.text);
    for step in &written.steps {
        let built = build_step(&step.step, &mut resolver, &players, world)?;
        playtest = playtest.step_at(built, loaded.sources.place(step.span));
    }
    Ok(playtest)
}

/// The players so far, by name.
type Players = Vec<(smol_str::SmolStr, stoicheon_core::ObjectId)>;

/// Where an object or a spot is.
fn place<G: 'static>(
    path: &Path,
    resolver: &mut Resolver<'_, '_>,
    players: &Players,
    world: &World<G>,
) -> Result<Vec3, Error> {
    let named = model::Expr { span: path.span(), kind: ExprKind::Name(path.clone()) };
    let expr = Expr::Place(Box::new(condition(&named, resolver, players, world)?));
    match world.evaluate(&expr) {
        Value::Vector(at) => Ok(at),
        _ => Err(Error::UnknownName { kind: "an object or a spot", found: path.text() }),
    }
}

fn condition<G: 'static>(
    expr: &model::Expr,
    resolver: &mut Resolver<'_, '_>,
    players: &Players,
    world: &World<G>,
) -> Result<Expr, Error> {
    let found = resolver.expr(expr, None, &Cx::new(0, world).with_players(players.clone()));
    let unknown = || Error::UnknownName { kind: "a value", found: "what this expects".into() };
    found.map(|found| found.expr).ok_or_else(unknown)
}

fn build_step<G: 'static>(
    step: &Step,
    resolver: &mut Resolver<'_, '_>,
    players: &Players,
    world: &World<G>,
) -> Result<PlaytestStep, Error> {
    let player = |name: &model::Name| {
        world
            .find(&name.text)
            .ok_or_else(|| Error::UnknownName { kind: "a player", found: name.text.clone() })
    };
    Ok(match step {
        Step::Walk { player: name, to } => {
            PlaytestStep::Walk { who: player(name)?, to: place(to, resolver, players, world)? }
        }
        Step::Hold { player: name, key, span } => {
            PlaytestStep::Hold { who: player(name)?, key: key.text.clone(), span: (*span).into() }
        }
        Step::Point { player: name, at } => {
            PlaytestStep::Point { who: player(name)?, to: place(at, resolver, players, world)? }
        }
        Step::Leave { player: name } => PlaytestStep::Leave { who: player(name)? },
        Step::Press { player: name, key } => {
            PlaytestStep::Press { who: player(name)?, key: key.text.clone() }
        }
        Step::Wait(span) => PlaytestStep::Wait((*span).into()),
        Step::Always(expr) => PlaytestStep::Always(condition(expr, resolver, players, world)?),
        Step::Never(expr) => PlaytestStep::Always(condition(expr, resolver, players, world)?.not()),
        Step::Expect { what, limit } => {
            let within = if let Limit::Within(span) = limit { Some((*span).into()) } else { None };
            PlaytestStep::Expect { what: expectation(what, *limit, resolver, players, world)?, within }
        }
    })
}

/// A bare name of a signal or an effect is counted; anything else must hold.
fn expectation<G: 'static>(
    what: &model::Expr,
    limit: Limit,
    resolver: &mut Resolver<'_, '_>,
    players: &Players,
    world: &World<G>,
) -> Result<Expectation, Error> {
    let name = bare(what);
    let signal = name.and_then(|path| resolver.whole_signal(path)).and_then(|name| world.find_signal(&name));
    let effect = name.and_then(|name| world.find_effect(&name.text()));
    Ok(match (signal, effect, limit) {
        (Some(signal), _, Limit::Exactly(times)) => Expectation::SignalExactly(signal, times),
        (Some(signal), _, _) => Expectation::Signal(signal),
        (None, Some(effect), Limit::Exactly(times)) => Expectation::EffectExactly(effect, times),
        (None, Some(effect), _) => Expectation::Effect(effect),
        (None, None, _) => Expectation::Holds(condition(what, resolver, players, world)?),
    })
}
