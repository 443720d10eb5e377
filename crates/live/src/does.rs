//! What a page asks for, done in the world: everything goes in as the host's own inputs do.

use serde_json::Value as Json;
use stoicheon_core::{ObjectId, PartId, Pointing, State, TickRate, Type, Value, Vec3, World};

use crate::{
    ask::Ask,
    bench::find_object,
    deeds::Deeds,
    walk::{Lie, Steering},
};

#[expect(clippy::needless_pass_by_value, reason = "it maps what is owned")]
fn told(error: stoicheon_core::Error) -> String {
    error.to_string()
}

/// Does what was asked; why it could not be done.
pub(crate) fn does<G: 'static>(
    ask: Ask,
    (steering, deeds): (&mut Steering, &mut Deeds),
    lie: Lie<'_>,
    world: &mut World<G>,
) -> Result<(), String> {
    match ask {
        Ask::Walk { who, along } => {
            let who = object(world, &who)?;
            steering.holds(who, along, lie, world).map_err(told)
        }
        Ask::Go { who, to } => {
            let who = object(world, &who)?;
            steering.goes(who, to, lie, world).map(drop).map_err(told)
        }
        Ask::Follow { who, whom } => {
            let who = object(world, &who)?;
            let whom = whom.map(|whom| object(world, &whom)).transpose()?;
            steering.follow(who, whom)
        }
        Ask::Key { who, key, down } => {
            let who = object(world, &who)?;
            let is_name = |c: char| c.is_alphanumeric() || c == '_';
            if key.is_empty() || !key.chars().all(is_name) {
                return Err(format!("expected the name of a key, found \"{key}\""));
            }
            if down { world.press(who, &key) } else { world.release(who, &key) }.map_err(told)
        }
        Ask::Point { who, at, to: [x, y], button } => {
            let who = object(world, &who)?;
            let from = world.place(who).map_err(told)?;
            // As high, or as deep, as what is pointed at.
            let aim = world.place(object(world, &at)?).map_err(told)?;
            let to = if lie.is_flat(who) { Vec3::new(x, -y, aim.z) } else { Vec3::new(x, aim.y, y) };
            // From where they stand, any direction will do.
            let along = if from == to { Vec3::NEG_Y } else { to - from };
            world.point(Pointing::new(who, from, along, button.as_str())).map_err(told)
        }
        Ask::Answer { who, answer } => {
            let who = object(world, &who)?;
            let question = world.questions_to(who).first().copied().ok_or("nobody asks them anything")?;
            let done = match answer {
                Some(answer) => world.choose(who, question, &answer),
                None => world.decline(who, question),
            };
            done.map_err(told)
        }
        Ask::Join { name, spot } => join(&name, spot.as_deref(), world),
        Ask::Leave { who } => {
            let who = object(world, &who)?;
            world.leave(who).map_err(told)
        }
        other => changes(other, deeds, world),
    }
}

/// What is done to things rather than by players.
fn changes<G: 'static>(ask: Ask, deeds: &mut Deeds, world: &mut World<G>) -> Result<(), String> {
    match ask {
        Ask::Set { name, of, to } => {
            let var = world.find_var(&name).ok_or_else(|| format!("no variable is named \"{name}\""))?;
            let now = world.value(var).map_err(told)?.clone();
            let to = value(world, world.var_type(var), &now, &to)?;
            let whose = of.as_deref().map(|of| object(world, of)).transpose()?;
            match whose {
                Some(whose) => world.set_of(var, whose, to.clone()),
                None => world.set(var, to.clone()),
            }
            .map_err(told)?;
            deeds.set(world, &name, of.as_deref(), &to);
            Ok(())
        }
        Ask::Command { object, part, command } => {
            let part = part_of(world, &object, part)?;
            let kind = world.kind_of(part).ok_or("that part is gone")?;
            let known = kind.command(&command);
            let known = known.ok_or_else(|| format!("a {} cannot be told to \"{command}\"", kind.name))?;
            world.command(part, known).map_err(told)
        }
        Ask::Change { object, part, setting, to } => {
            let part = part_of(world, &object, part)?;
            let now = world.reading(part, &setting, None).ok_or("that setting cannot be read")?;
            let to = value(world, None, &now, &to)?;
            world.change(part, &setting, to.clone()).map_err(told)?;
            deeds.set(world, &format!("{object}.{setting}"), None, &to);
            Ok(())
        }
        Ask::Emit { signal, who } => {
            let id = world.find_signal(&signal).ok_or_else(|| format!("no signal is named \"{signal}\""))?;
            if !world.signal_fields(id).is_empty() {
                return Err(format!("\"{signal}\" carries values; a line can say them"));
            }
            let who = who.map(|who| object(world, &who)).transpose()?;
            let signal = world.signal::<()>(&signal).map_err(told)?;
            world.emit_for(who, signal, ()).map_err(told)
        }
        Ask::Switch { object: name, on } => {
            let id = object(world, &name)?;
            if on { world.enable(id) } else { world.disable(id) }.map_err(told)
        }
        // The rest is about the time and the page.
        _ => Ok(()),
    }
}

/// A player comes: to a spot of a scene, or where there are no scenes, to a spot or the middle.
fn join<G: 'static>(name: &str, spot: Option<&str>, world: &mut World<G>) -> Result<(), String> {
    if let Some((scene, rest)) = spot.and_then(|spot| spot.split_once('.'))
        && world.find_scene(scene).is_some()
    {
        return world.join(name, Some((scene, rest))).map(drop).map_err(told);
    }
    if world.find(name).is_some() {
        return Err(format!("\"{name}\" is here already"));
    }
    // Who left comes back; and where there are scenes, one comes to a spot of one of them.
    let back = world.join(name, None);
    if back.is_ok() || world.scenes().next().is_some() {
        return back.map(drop).map_err(told);
    }
    let at = spot.and_then(|spot| world.find_spot(spot)).and_then(|at| world.spot(at).ok());
    let at = at.map_or(Vec3::ZERO, |spot| spot.at);
    world.player(name).at(at).add().map(drop).map_err(told)
}

fn object(state: &State, name: &str) -> Result<ObjectId, String> {
    let found = state.find_player(name).filter(|player| state.place(*player).is_ok());
    found.or_else(|| find_object(state, name)).ok_or_else(|| format!("nothing is named \"{name}\" here"))
}

fn part_of(state: &State, name: &str, part: usize) -> Result<PartId, String> {
    let object = object(state, name)?;
    state.parts_of(object).get(part).copied().ok_or_else(|| format!("\"{name}\" has no part {part}"))
}

/// A value as the page writes it, of the type of what is there.
fn value(state: &State, ty: Option<&Type>, now: &Value, to: &Json) -> Result<Value, String> {
    let unfit = || {
        let kind = ty.map_or_else(|| word(now).to_owned(), ToString::to_string);
        format!("expected a value of the type {kind}, found {to}")
    };
    let number = |json: &Json| json.as_f64().filter(|number| number.is_finite());
    Ok(match now {
        Value::Bool(_) => Value::Bool(to.as_bool().ok_or_else(unfit)?),
        Value::Whole(_) => Value::Whole(to.as_i64().ok_or_else(unfit)?),
        Value::Number(_) => Value::Number(number(to).ok_or_else(unfit)?),
        Value::Text(_) => Value::Text(to.as_str().ok_or_else(unfit)?.into()),
        Value::Duration(_) => {
            let seconds = number(to).ok_or_else(unfit)?;
            Value::Duration(ticks(state.rate(), seconds)?)
        }
        Value::Vector(_) => {
            let all: Vec<f64> = to.as_array().ok_or_else(unfit)?.iter().filter_map(number).collect();
            let [x, y, z] = all[..] else { return Err(unfit()) };
            #[expect(clippy::cast_possible_truncation, reason = "places are of single precision")]
            Value::Vector(Vec3::new(x as f32, y as f32, z as f32))
        }
        Value::Object(_) | Value::Nothing if matches!(ty, Some(Type::Object)) => match to {
            Json::Null => Value::Nothing,
            to => Value::Object(object(state, to.as_str().ok_or_else(unfit)?)?),
        },
        _ => return Err(format!("{}: a line can set it", unfit())),
    })
}

fn word(value: &Value) -> &'static str {
    match value {
        Value::Bool(_) => "boolean",
        Value::Number(_) => "number",
        Value::Whole(_) => "whole",
        Value::Text(_) => "text",
        Value::Duration(_) => "duration, in seconds",
        Value::Vector(_) => "vector",
        Value::Rotation(_) => "rotation",
        Value::Colour(_) => "colour",
        Value::Object(_) => "object",
        _ => "another value",
    }
}

fn ticks(rate: TickRate, seconds: f64) -> Result<stoicheon_core::Ticks, String> {
    rate.ticks(stoicheon_core::secs(seconds)).map_err(|error| error.to_string())
}
