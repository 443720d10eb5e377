//! What a player does over several ticks.

use glam::Vec3;

use crate::{
    act::pointing::Pointing,
    base::{
        clock::secs,
        error::Error,
        ids::{ObjectId, PartId, SceneId},
        place::Place,
        value::Text,
    },
    part::contract::Part,
    parts::choice::Choice,
    plan::expr::Expr,
    playtest::{Found, LONGEST_WALK, PlaytestStep, WALKING_SPEED},
    world::World,
};

/// Something that is begun and looked at after every tick until it is done.
#[derive(Debug)]
pub(crate) enum Act {
    Walks {
        who: ObjectId,
        left: u64,
    },
    Through {
        who: ObjectId,
        scene: Option<SceneId>,
        /// Where they go when they have stepped out.
        then: Option<Vec3>,
        left: u64,
    },
    /// The prompt may be offered in the next tick.
    Answers {
        who: ObjectId,
        prompt: PartId,
    },
    /// The key goes up after so many ticks.
    Holds {
        who: ObjectId,
        key: Text,
        left: u64,
    },
    Until {
        what: Expr,
        left: u64,
    },
    /// It is done after so many ticks.
    Passes {
        left: u64,
    },
}

/// How an act stands after a tick.
#[derive(Debug)]
pub(crate) enum Progress {
    More,
    Done,
    Failed(Found),
}

/// Begins what a step that is written there says, if it is something that is done over ticks. `None` for other steps.
pub(crate) fn begin<G: 'static>(
    step: &PlaytestStep,
    place: &Place,
    world: &mut World<G>,
) -> Result<Option<Result<Act, Found>>, Error> {
    let longest = world.rate().ticks(secs(LONGEST_WALK))?.whole();
    Ok(Some(Ok(match step {
        PlaytestStep::Walk { who, to } => {
            world.walk(*who, *to, WALKING_SPEED)?;
            Act::Walks { who: *who, left: longest }
        }
        PlaytestStep::GoThrough { who, at, beyond } => {
            let from = world.place(*who)?;
            let way = (*at - from).with_y(0.0);
            let along = way.try_normalize().unwrap_or(Vec3::NEG_Z);
            let (through, out) = (*at + along * *beyond, *at - along * *beyond);
            let stands_in = way.length() < *beyond;
            world.walk(*who, if stands_in { out } else { through }, WALKING_SPEED)?;
            let then = stands_in.then_some(through);
            Act::Through { who: *who, scene: world.scene_of(*who), then, left: longest }
        }
        PlaytestStep::Press { who, key } => {
            world.press(*who, key)?;
            Act::Holds { who: *who, key: key.clone(), left: 1 }
        }
        PlaytestStep::Hold { who, key, span } => {
            let left = world.rate().ticks(*span)?.whole();
            world.press(*who, key)?;
            Act::Holds { who: *who, key: key.clone(), left }
        }
        PlaytestStep::Answer { who, prompt } => {
            match answer(world, *who, *prompt)? {
                Some(holds) => holds,
                // Prompts are offered as a tick ends: what has just become possible is in the next one.
                None => Act::Answers { who: *who, prompt: *prompt },
            }
        }
        PlaytestStep::KeyDown { who, key } => {
            world.press(*who, key)?;
            Act::Passes { left: 1 }
        }
        PlaytestStep::KeyUp { who, key } => {
            world.release(*who, key)?;
            Act::Passes { left: 1 }
        }
        PlaytestStep::Do { steps, scene } => {
            world.do_once(steps, *scene, place.clone())?;
            Act::Passes { left: 1 }
        }
        PlaytestStep::Point { who, to, button } => {
            let from = world.place(*who)?;
            // From where they stand, any direction will do.
            let along = if from == *to { Vec3::NEG_Y } else { *to - from };
            world.point(Pointing { who: *who, from, along, button: button.clone() })?;
            Act::Passes { left: 1 }
        }
        PlaytestStep::Choose { who, answer } => {
            let has = |part: &PartId| {
                let answers = world.part::<Choice>(*part).map(Choice::answers).unwrap_or_default();
                answer.as_ref().is_none_or(|answer| answers.contains(answer))
            };
            match (world.questions_to(*who).into_iter().find(has), answer) {
                (None, _) => return Ok(Some(Err(Found::NotAsked))),
                (Some(choice), Some(answer)) => world.choose(*who, choice, answer)?,
                (Some(choice), None) => world.decline(*who, choice)?,
            }
            Act::Passes { left: 1 }
        }
        PlaytestStep::Leave { who } => {
            world.leave(*who)?;
            Act::Passes { left: 1 }
        }
        PlaytestStep::Join { name, at, tags } => {
            let at = at.as_ref().map(|(scene, spot)| (scene.as_str(), spot.as_str()));
            let player = world.join(name, at)?;
            tags.iter().try_for_each(|tag| world.tag(player, tag))?;
            Act::Passes { left: 1 }
        }
        PlaytestStep::Wait(span) => Act::Passes { left: world.rate().ticks(*span)?.whole() },
        PlaytestStep::Until { what, within } => {
            Act::Until { what: what.clone(), left: world.rate().ticks(*within)?.whole() }
        }
        _ => return Ok(None),
    })))
}

/// Presses the key of a prompt, if that is offered.
fn answer<G: 'static>(world: &mut World<G>, who: ObjectId, prompt: PartId) -> Result<Option<Act>, Error> {
    if world.offered_to(who) != Some(prompt) {
        return Ok(None);
    }
    let (key, hold) = offer(world, prompt).ok_or(Error::NoSuchPart)?;
    world.press(who, &key)?;
    Ok(Some(Act::Holds { who, key, left: hold + 1 }))
}

fn offer<G>(world: &World<G>, prompt: PartId) -> Option<(Text, u64)> {
    let offer = world.parts.part(prompt).and_then(Part::offer)?;
    Some((offer.key.clone(), offer.hold.whole()))
}

impl Act {
    /// Whether it is done already, before any tick.
    pub(crate) fn is_done<G: 'static>(&self, world: &World<G>) -> bool {
        matches!(self, Self::Until { what, .. } if world.evaluate(what).as_bool() == Some(true))
    }

    /// After a tick.
    pub(crate) fn go_on<G: 'static>(&mut self, world: &mut World<G>) -> Result<Progress, Error> {
        Ok(match self {
            Self::Walks { who, left } => {
                *left -= 1;
                match world.is_walking(*who) {
                    false => Progress::Done,
                    true if *left == 0 => Progress::Failed(Found::NotThere),
                    true => Progress::More,
                }
            }
            Self::Through { who, scene, then, left } => {
                *left -= 1;
                let sent = world.scene_of(*who) != *scene;
                match (sent, world.is_walking(*who)) {
                    _ if *left == 0 => Progress::Failed(Found::NotThere),
                    (false, true) => Progress::More,
                    (false, false) => match then.take() {
                        Some(through) => {
                            world.walk(*who, through, WALKING_SPEED)?;
                            Progress::More
                        }
                        None => Progress::Done,
                    },
                    (true, _) => Progress::Done,
                }
            }
            Self::Answers { who, prompt } => match answer(world, *who, *prompt)? {
                Some(holds) => {
                    *self = holds;
                    Progress::More
                }
                None => Progress::Failed(Found::Offered(world.offered_to(*who))),
            },
            Self::Holds { who, key, left } => {
                if *left == 0 {
                    return Ok(Progress::Done);
                }
                *left -= 1;
                if *left == 0 {
                    // A player who left meanwhile holds nothing.
                    match world.release(*who, key) {
                        Ok(()) | Err(Error::NoSuchObject) => {}
                        Err(error) => return Err(error),
                    }
                }
                Progress::More
            }
            Self::Until { what, left } => {
                if world.evaluate(what).as_bool() == Some(true) {
                    return Ok(Progress::Done);
                }
                *left -= 1;
                if *left > 0 {
                    return Ok(Progress::More);
                }
                Progress::Failed(crate::playtest::expecting::readings(world, what))
            }
            Self::Passes { left } => {
                *left -= 1;
                if *left == 0 { Progress::Done } else { Progress::More }
            }
        })
    }
}
