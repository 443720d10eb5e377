//! `stoicheon look`

use stoicheon_core::Near;
use stoicheon_view::Seen;

use crate::{
    args::Look,
    json,
    moment::Asked,
    out::{self, Misuse, Outcome},
    stage::Stage,
};

pub(crate) fn look(args: &Look) -> Result<Outcome, Misuse> {
    let asked = Asked::of(&args.words)?;
    if let Some(unknown) = &asked.who {
        return Err(Misuse::NoPlace(format!("for {unknown}"), "look"));
    }
    let stage = Stage::of(&args.which, false)?.lasts(asked.at.unwrap_or(0.0));
    if stage.is_broken() {
        return Ok(Outcome::Faults);
    }
    let mut world = stage.traced()?;
    let wanted = asked.tick(world.rate());
    let mut seen = (wanted.is_some_and(|tick| tick.0 == 0)).then(|| Seen::of(&world));
    let ran = stage.run(&mut world, &mut |world| {
        if seen.is_none() && wanted.is_some_and(|tick| world.now() >= tick) {
            seen = Some(Seen::of(world));
        }
        world.take_effects().for_each(drop);
    });
    let seen = match (seen, asked.at) {
        (Some(seen), _) => seen,
        (None, None) => Seen::of(&world),
        (None, Some(at)) => {
            let ends = world.rate().seconds(stoicheon_core::ticks(world.now().0)).0;
            return Err(Misuse::PastEnd { at, ends });
        }
    };
    let seen = match asked.what.as_slice() {
        [] => seen,
        [what] => seen.about(what).ok_or_else(|| Misuse::NothingNamed {
            file: stage.loaded().name().to_owned(),
            what: what.clone(),
            near: Near::of(what, &mut seen.names()).name().map(str::to_owned),
        })?,
        many => return Err(Misuse::ManyNames(many.to_vec())),
    };
    if args.json {
        json::print(&seen);
    } else {
        out::print(&seen.text());
    }
    // What failed after the moment that is asked about does not matter; what did before it explains what is seen.
    if asked.at.is_none() && !ran.failure.is_empty() {
        out::note(&format!("the playtest failed:\n  {}", ran.failure.join("\n  ")));
    }
    Ok(Outcome::Good)
}
