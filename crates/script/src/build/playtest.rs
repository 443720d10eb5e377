//! Playtests: their players come into the world, their steps become data.

use stoicheon_core::{
    Error, World,
    playtest::{Expectation, Playtest, PlaytestStep},
};

use super::{expr::Exprs, object};
use crate::{
    check::bare,
    model::{Expr, Limit, Scene, Step},
    source::Source,
};

pub(crate) fn playtest<G: 'static>(
    scene: &Scene,
    source: &Source,
    number: usize,
    world: &mut World<G>,
) -> Result<Playtest, Error> {
    let written = scene.playtests.get(number).ok_or_else(|| Error::UnknownName {
        kind: "a playtest",
        found: smol_str::format_smolstr!("number {}", number + 1),
    })?;
    for player in &written.players {
        let start = object(world, &player.at.first)?;
        let at = world.place(start)?;
        let mut new = world.player(&player.name.text).at(at);
        for tag in &player.tags {
            new = new.tag(&tag.text);
        }
        new.add()?;
    }
    let mut playtest = Playtest::new(&written.name.text);
    for (step, span) in &written.steps {
        playtest = playtest.step_at(build_step(step, world)?, source.place(*span));
    }
    Ok(playtest)
}

fn build_step<G: 'static>(step: &Step, world: &World<G>) -> Result<PlaytestStep, Error> {
    let exprs = Exprs { world, fields: &[] };
    Ok(match step {
        Step::Walk { player, to } => {
            let to = world.place(object(world, &to.first)?)?;
            PlaytestStep::Walk { who: object(world, player)?, to }
        }
        Step::Press { player, key } => PlaytestStep::Press { who: object(world, player)?, key: key.clone() },
        Step::Wait(span) => PlaytestStep::Wait(*span),
        Step::Always(expr, true) => PlaytestStep::Always(exprs.expr(expr)?),
        Step::Always(expr, false) => PlaytestStep::Always(exprs.expr(expr)?.not()),
        Step::Expect { what, limit } => {
            let within = if let Limit::Within(span) = limit { Some(*span) } else { None };
            PlaytestStep::Expect { what: expectation(what, *limit, &exprs)?, within }
        }
    })
}

/// A bare name of a signal or an effect is counted; anything else must hold.
fn expectation<G: 'static>(what: &Expr, limit: Limit, exprs: &Exprs<'_, G>) -> Result<Expectation, Error> {
    let name = bare(what).map(crate::model::Path::text);
    let signal = name.as_ref().and_then(|name| exprs.world.find_signal(name));
    let effect = name.as_ref().and_then(|name| exprs.world.find_effect(name));
    Ok(match (signal, effect, limit) {
        (Some(signal), _, Limit::Exactly(times, _)) => Expectation::SignalExactly(signal, times),
        (Some(signal), _, _) => Expectation::Signal(signal),
        (None, Some(effect), Limit::Exactly(times, _)) => Expectation::EffectExactly(effect, times),
        (None, Some(effect), _) => Expectation::Effect(effect),
        (None, None, _) => Expectation::Holds(exprs.expr(what)?),
    })
}
