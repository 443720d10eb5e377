//! Players with worlds of their own, linked to the one whose word counts.

use glam::Vec3;

use crate::{
    base::{error::Error, ids::ObjectId, value::Text},
    plan::crossings::Side,
    playtest::{Found, Watched, error::PlaytestError, host::PlaytestHost, tally::Tally},
    state::State,
    world::World,
};

/// A player's own world.
pub(crate) struct Guest<G> {
    pub(crate) player: Text,
    pub(crate) world: World<G>,
    game: G,
    pub(crate) tally: Tally,
    /// How many faults there were when they were looked at last.
    pub(crate) faults: u64,
    /// Where both worlds have the player.
    at: Vec3,
    /// The player has left.
    pub(crate) gone: bool,
}

impl<G: 'static> Guest<G> {
    /// A world in which the player stands where the authority has them.
    pub(crate) fn new(
        authority: &State,
        player: ObjectId,
        (watched, kept): (Vec<Watched>, &[Watched]),
        host: &mut dyn PlaytestHost<G>,
    ) -> Result<Self, PlaytestError> {
        let mut world = host.fresh()?;
        world.be(Side::Player);
        let name: Text = authority.name(player).unwrap_or_default().into();
        let object = authority.moment.objects.get(player).ok_or(Error::NoSuchObject)?;
        let (at, facing) = (object.at, object.facing);
        let tags = object.tags.iter().map(|tag| authority.moment.objects.tag_word(*tag));
        let scene = authority.scene_of(player).and_then(|scene| authority.scene_name(scene));
        let scene = scene.and_then(|scene| world.find_scene(scene));
        if let Some(scene) = scene {
            world.load_scene(scene)?;
        }
        let tags: Vec<Text> = tags.filter(|tag| *tag != crate::base::names::PLAYER).map(Text::from).collect();
        let mut new = world.player(&name).at(at).facing(facing);
        if let Some(scene) = scene {
            new = new.in_scene(scene);
        }
        tags.iter().fold(new, |new, tag| new.tag(tag)).add()?;
        let tally = Tally::of(watched, kept, &mut world.state);
        let faults = world.faults_so_far();
        Ok(Self { player: name, world, game: host.fresh_game()?, tally, faults, at, gone: false })
    }

    fn body(&self) -> Option<ObjectId> {
        here(&self.world, &self.player)
    }

    /// One tick of the player's world. What it sends is taken in by the authority's, which learns where the player is.
    pub(crate) fn tick(&mut self, authority: &mut World<G>) -> Result<Option<Found>, Error> {
        let body = self.body();
        let stepped = self.world.step(&mut self.game);
        self.tally.look(&self.world);
        match stepped {
            Err(error) if error.ends_tick() => return Ok(Some(Found::Runaway(error.to_string()))),
            stepped => stepped?,
        }
        if self.gone {
            self.world.take_outgoing().for_each(drop);
            self.faults = self.world.faults_so_far();
            return Ok(None);
        }
        let from = here(authority, &self.player);
        let mut refused = None;
        for message in self.world.take_outgoing() {
            if let Err(error) = authority.receive(from, &message) {
                let why = error.to_string();
                refused.get_or_insert(Found::NotTaken { signal: message.signal.clone(), why });
            }
        }
        // One that has ended in this tick went somewhere before it did.
        let went = |body| self.world.state.scratch.moves.find(body).map(|found| found.to.at);
        let at = body.and_then(|body| self.world.place(body).ok().or_else(|| went(body)));
        if let (Some(at), Some(there)) = (at.filter(|at| *at != self.at), from) {
            authority.move_to(there, at)?;
            self.at = at;
        }
        Ok(refused)
    }

    /// The player has left: what they were about to do here is over.
    pub(crate) fn end(&mut self) -> Result<(), Error> {
        if !std::mem::replace(&mut self.gone, true)
            && let Some(body) = self.body()
        {
            match self.world.leave(body) {
                // They have ended here before.
                Ok(()) | Err(Error::NoSuchObject) => {}
                Err(error) => return Err(error),
            }
        }
        Ok(())
    }

    /// After a tick of the authority's world: what that sends, and where it has put the player.
    pub(crate) fn hear(&mut self, authority: &State, sent: &[crate::Message]) -> Result<(), Error> {
        if self.gone {
            return Ok(());
        }
        for message in sent {
            // What this world does not know of, such as a scene that is not loaded here, is not for it.
            drop(self.world.receive(None, message));
        }
        let there = authority.find_player(&self.player).and_then(|there| authority.place(there).ok());
        if let (Some(there), Some(body)) = (there.filter(|there| *there != self.at), self.body()) {
            self.world.put(body, there)?;
            self.at = there;
        }
        Ok(())
    }
}

/// A player who is in a world: one who has left is still known by name.
fn here(state: &State, player: &str) -> Option<ObjectId> {
    state.players().find(|here| state.name(*here) == Some(player))
}
