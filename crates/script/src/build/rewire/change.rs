//! What one text has made is changed into what another one makes: what is gone ends, what is new is made, and what is otherwise
//! changes.

use std::collections::{BTreeMap, BTreeSet};

use stoicheon_core::{Became, Error, Mould, ObjectId, Rewiring};

use super::said::Said;
use crate::{
    build::{
        Beside, Builder,
        described::{Things, Wiring},
    },
    diagnostic::Diagnostic,
    load::Loaded,
};

/// Changes what one text has made into what another one makes.
pub(super) fn change<G: 'static>(
    rewiring: &mut Rewiring<'_, G>,
    before: &Loaded,
    after: &Loaded,
) -> Result<(), Error> {
    let (mut was, wired, old) = finding(rewiring, before, |builder| {
        builder.know(before)?;
        Ok((builder.things()?, builder.wiring()?, builder.said()))
    })?;
    let new = finding(rewiring, after, |builder| Ok(builder.said()))?;
    let ended = was.objects.iter().filter(|object| rewiring.place(object.id).is_err());
    let left_out = ended.map(|object| object.name.clone()).collect();
    end_things(rewiring, &mut was, &old, &new)?;
    change_messages(rewiring, &old, &new)?;
    if new.has_more_than(&old) {
        rewiring.begin();
    }
    make_missing(rewiring, after, Beside { left_out, known: old.things.clone(), ..Beside::default() })?;
    change_things(rewiring, &was, after)?;
    change_wiring(rewiring, &wired, after)?;
    rewiring.place_changes(|what, name| new.place(what, name).or_else(|| old.place(what, name)));
    Ok(())
}

/// What is asked of a text, with the ids of what is here of it.
fn finding<'l, G: 'static, R>(
    rewiring: &mut Rewiring<'_, G>,
    loaded: &'l Loaded,
    find: impl FnOnce(&mut Builder<'l, '_, '_, G>) -> Result<R, Error>,
) -> Result<R, Error> {
    let mut ignored: Vec<Diagnostic> = Vec::new();
    let mut builder = Builder::new(loaded, rewiring, &mut ignored);
    builder.find_all();
    find(&mut builder)
}

/// Ends what is written no more, and what is something else now.
fn end_things<G: 'static>(
    rewiring: &mut Rewiring<'_, G>,
    was: &mut Things,
    old: &Said,
    new: &Said,
) -> Result<(), Error> {
    let gone: Vec<_> = old.things.difference(&new.things).collect();
    let by_name: BTreeMap<_, _> = was.objects.iter().map(|object| (object.name.clone(), object.id)).collect();
    let mut hanging: BTreeMap<ObjectId, Vec<usize>> = BTreeMap::new();
    for (index, object) in was.objects.iter().enumerate() {
        hanging.entry(object.hangs_on.unwrap_or_default()).or_default().push(index);
    }
    for (what, name) in &gone {
        match *what {
            "spot" => rewiring.find_spot(name).into_iter().for_each(|spot| rewiring.end_spot(spot)),
            "routine" => {
                rewiring.find_routine(name).into_iter().for_each(|routine| rewiring.end_routine(routine));
            }
            "variable" => rewiring.find_var(name).into_iter().for_each(|var| rewiring.end_var(var)),
            "signal" => rewiring.find_signal(name).into_iter().for_each(|signal| rewiring.end_signal(signal)),
            "mould" => rewiring.find_mould(name).map_or(Ok(()), |mould| rewiring.end_mould(mould))?,
            _ => {
                // What play has ended need not be ended once more.
                let Some(id) = by_name.get(name).copied().filter(|id| rewiring.place(*id).is_ok()) else {
                    continue;
                };
                // What is written to hang on something else now, or on what is made in its place, does not end with it.
                for index in hanging.remove(&id).unwrap_or_default() {
                    let child = &mut was.objects[index];
                    if new.makes(&child.name) && rewiring.parent(child.id) == Some(id) {
                        rewiring.take_off(child.id)?;
                        child.hangs_on = None;
                    }
                }
                rewiring.end_object(id)?;
            }
        }
    }
    if !gone.is_empty() {
        rewiring.free();
    }
    Ok(())
}

/// Signals and effects that carry something else now.
fn change_messages<G: 'static>(rewiring: &mut Rewiring<'_, G>, old: &Said, new: &Said) -> Result<(), Error> {
    for (name, fields) in &new.signals {
        let is_other = old.signals.get(name).is_some_and(|carried| carried != fields);
        if let Some(signal) = rewiring.find_signal(name).filter(|_| is_other) {
            rewiring.change_signal(signal, fields)?;
        }
    }
    for (name, fields) in &new.effects {
        let is_other = old.effects.get(name).is_some_and(|carried| carried != fields);
        if let Some(effect) = rewiring.find_effect(name).filter(|_| is_other) {
            rewiring.change_effect(effect, fields.to_vec());
        }
    }
    Ok(())
}

/// Makes what is not here yet, but not what play has ended.
fn make_missing<G: 'static>(
    rewiring: &mut Rewiring<'_, G>,
    after: &Loaded,
    beside: Beside,
) -> Result<(), Error> {
    let mut ignored: Vec<Diagnostic> = Vec::new();
    let mut builder = Builder::new(after, rewiring, &mut ignored);
    builder.beside = Some(beside);
    builder.know(after)?;
    builder.messages()?;
    builder.objects()?;
    builder.hang()?;
    builder.vars()?;
    builder.moulds()?;
    builder.new_routines()?;
    for (what, name, place) in builder.beside.take().unwrap_or_default().made {
        rewiring.tell(what, name, Became::New, Some(place));
    }
    Ok(())
}

/// Changes what is written otherwise and here.
#[expect(clippy::redundant_closure_for_method_calls, reason = "the method is not general enough")]
fn change_things<G: 'static>(
    rewiring: &mut Rewiring<'_, G>,
    was: &Things,
    after: &Loaded,
) -> Result<(), Error> {
    let is = finding(rewiring, after, |builder| builder.things())?;
    let objects: BTreeMap<_, _> = was.objects.iter().map(|object| (&object.name, object)).collect();
    for new in &is.objects {
        let known = objects.get(&new.name).filter(|old| old.id == new.id);
        let Some(old) = known.filter(|old| rewiring.place(old.id).is_ok()) else { continue };
        let told = rewiring.rewired().changes.len();
        if !old.mould.is_as(&new.mould) {
            rewiring.change_object(old.id, &old.mould, &new.mould)?;
        }
        rewiring.hang_object(old.id, old.hangs_on, new.hangs_on, new.pose)?;
        if old.hangs_on == new.hangs_on {
            rewiring.move_object(old.id, old.pose, new.pose)?;
        }
        rewiring.switch_object(old.id, old.disabled, new.disabled)?;
        rewiring.remember_object(old.id, new.remembered);
        if rewiring.rewired().changes.len() == told {
            rewiring.keep_object(old.mould.vars());
        }
    }
    let vars: BTreeMap<_, _> = was.vars.iter().map(|(name, var)| (name, var)).collect();
    for (name, new) in &is.vars {
        if let (Some(old), Some(var)) = (vars.get(name), rewiring.find_var(name)) {
            rewiring.change_var(var, old, new)?;
        }
    }
    let spots: BTreeMap<_, _> = was.spots.iter().map(|(name, at, facing)| (name, (at, facing))).collect();
    for (name, at, facing) in &is.spots {
        let is_other = spots.get(name).is_some_and(|before| *before != (at, facing));
        if let Some(spot) = rewiring.find_spot(name).filter(|_| is_other) {
            rewiring.change_spot(spot, *at, *facing)?;
        }
    }
    for (name, mould) in &is.moulds {
        // One that was written no more for a while has nothing to it.
        let empty = Mould::new(name);
        if let Some(id) = rewiring.find_mould(name) {
            rewiring.change_mould(id, was.moulds.get(name).unwrap_or(&empty), mould)?;
        }
    }
    Ok(())
}

/// Changes reactions, binds and rules.
#[expect(clippy::redundant_closure_for_method_calls, reason = "the method is not general enough")]
fn change_wiring<G: 'static>(
    rewiring: &mut Rewiring<'_, G>,
    was: &Wiring,
    after: &Loaded,
) -> Result<(), Error> {
    let is = finding(rewiring, after, |builder| builder.wiring())?;
    let routines: BTreeMap<_, _> =
        was.routines.iter().map(|(name, given, steps)| (name, (given, steps))).collect();
    for (name, values, steps) in &is.routines {
        let same = routines.get(name).is_some_and(|before| *before == (values, steps));
        if let Some(routine) = rewiring.find_routine(name).filter(|_| !same) {
            rewiring.change_routine(routine, *values, steps)?;
        }
    }
    let asked: BTreeMap<_, _> = was.asked.iter().map(|(part, name, expr)| ((part, name), expr)).collect();
    for (part, setting, expr) in &is.asked {
        if asked.get(&(part, setting)).is_none_or(|before| *before != expr) {
            rewiring.change_asked(*part, setting, expr.clone())?;
        }
    }
    let none = Vec::new();
    for name in is.of_moulds.keys().chain(was.of_moulds.keys()).collect::<BTreeSet<_>>() {
        let [before, after] = [was, &is].map(|wiring| wiring.of_moulds.get(name).unwrap_or(&none));
        if let Some(id) = rewiring.find_mould(name) {
            rewiring.change_mould_wires(id, before, after)?;
        }
    }
    let scene = rewiring.scene_entered();
    rewiring.change_wires(scene, &was.wires, &is.wires)?;
    rewiring.change_binds(scene, &was.binds, &is.binds)?;
    rewiring.change_rules(scene, &was.rules, &is.rules);
    Ok(())
}
