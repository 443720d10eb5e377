//! `stoicheon why`

use stoicheon_core::{Tick, World};
use stoicheon_view::{Paint, Question, Why};

use crate::{
    args::WhyArgs,
    moment::Asked,
    out::{self, Misuse, Outcome},
    stage::Stage,
};

pub(crate) fn why(args: &WhyArgs) -> Result<Outcome, Misuse> {
    let asked = Asked::of(&args.words)?;
    if asked.what.is_empty() {
        return Err(Misuse::NothingAsked);
    }
    let stage = Stage::of(&args.which, false)?.lasts(asked.at.unwrap_or(0.0));
    if stage.is_broken() {
        return Ok(Outcome::Faults);
    }
    let (worlds, _) = stage.run_traced()?;
    out::print(&answer(&worlds, &asked, &stage)?);
    Ok(Outcome::Good)
}

/// A playtest that reloads its world has several, one after the other: the last one that the question fits answers it.
fn answer(worlds: &[World<()>], asked: &Asked, stage: &Stage) -> Result<String, Misuse> {
    let Some(last) = worlds.last() else { return Ok(String::new()) };
    let ends = last.rate().seconds(stoicheon_core::ticks(last.now().0)).0;
    let wanted = asked.tick(last.rate());
    if wanted.is_some_and(|tick| tick > last.now()) {
        return Err(Misuse::PastEnd { at: asked.at.unwrap_or_default(), ends });
    }
    let at_that_time = |tick: Tick| worlds.iter().find(|world| tick <= world.now());
    let world = wanted.and_then(at_that_time).unwrap_or(last);
    let what = asked.what.join(" ");
    let happened = |world: &&World<()>| {
        Question::parse(world, &what).is_ok_and(|question| Why::new(world).times(&question) > 0)
    };
    let world = match wanted {
        Some(_) => world,
        None => worlds.iter().rev().find(happened).unwrap_or(world),
    };
    let question = Question::parse(world, &what).map_err(|error| Misuse::NoQuestion(error.to_string()))?;
    let paint = if out::coloured() { Paint::coloured() } else { Paint::plain() };
    let mut why = Why::new(world).painted(paint);
    if let Some(name) = &asked.who {
        let who = world.find_player(name).ok_or_else(|| {
            let known: Vec<_> = world.players().filter_map(|who| world.name(who)).collect();
            Misuse::NoPlayer {
                file: stage.loaded().name().to_owned(),
                wanted: name.clone(),
                known: if known.is_empty() { "none".to_owned() } else { known.join(", ") },
            }
        })?;
        why = why.by(who);
    }
    if let Some(tick) = wanted {
        why = why.at(tick);
    }
    Ok(why.answer(&question))
}
