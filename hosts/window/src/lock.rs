//! The world of Harrow Lock: its wiring, and what the game itself wires to it.

use std::sync::Arc;

use stoicheon::{Cx, World, catalogue::Catalogue, script::Project};

/// What the game keeps for itself: how often the lever was pulled.
#[derive(Debug, Default)]
pub(crate) struct Notes {
    pub(crate) pulls: u32,
}

fn file(name: &str) -> Result<String, String> {
    match name {
        "canal.stoi" => Ok("project canal\nscene \"harrow.stoi\"\n".to_owned()),
        "harrow.stoi" => Ok(include_str!("../harrow.stoi").to_owned()),
        _ => Err("there is no such file".to_owned()),
    }
}

/// A world with the lock in it, and nobody there.
pub(crate) fn make() -> Result<World<Notes>, Box<dyn std::error::Error>> {
    let text = file("canal.stoi")?;
    let project = Arc::new(Project::load("canal.stoi", &text, &Catalogue::built_in(), &file));
    if let Some(finding) = project.parts().find_map(|part| part.diagnostics().first()) {
        return Err(finding.message.clone().into());
    }
    let mut world = World::with(project.config());
    project.build(&mut world)?;
    world.on_load("harrow_lock", |world| {
        let pulled = world.signal::<()>("harrow_lock.old_lever.pulled")?;
        let rusty = |notes: &mut Notes, (): &(), _: &mut Cx<'_, Notes>| -> Result<(), String> {
            notes.pulls += 1;
            Err(format!("the lever does not move, not at pull {} either", notes.pulls))
        };
        world.on(pulled).run(rusty).map(drop)
    })?;
    Ok(world)
}
