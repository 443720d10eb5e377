//! What waits, and what glides.

use crate::{
    base::{
        clock::Tick,
        ease::{Ease, Moved},
        ids::{ObjectId, SignalId, WireId},
        value::Value,
    },
    moment::waiting::NEVER,
    plan::expr::Expr,
    state::State,
};

/// A reaction that waits.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct InspectedWait {
    /// The wire whose reaction it is.
    pub wire: WireId,
    /// The signal it took.
    pub signal: SignalId,
    /// The player who caused it.
    pub who: Option<ObjectId>,
    /// Since when it waits.
    pub since: Tick,
    /// The tick in which it goes on, at the latest if it waits for a condition; `None` for as long as that takes.
    pub due: Option<Tick>,
    /// The condition it waits for, with what is known of it filled in.
    pub until: Option<Expr>,
}

/// A tween under way.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub struct InspectedTween {
    /// What it moves.
    pub moved: Moved,
    /// What it began with.
    pub from: Value,
    /// Where to.
    pub to: Value,
    /// How much of its time is over, from 0 to 1.
    pub part: f64,
    /// How it eases.
    pub ease: Ease,
}

impl State {
    pub(crate) fn inspect_waits(&self) -> Vec<InspectedWait> {
        let waits = self.moment.waiting.by_due.iter();
        let one =
            |((due, _), run): (&crate::base::ids::WaitKey, &std::sync::Arc<crate::moment::run::Run>)| {
                InspectedWait {
                    wire: run.wire,
                    signal: run.signal,
                    who: run.doing.who,
                    since: run.since,
                    due: Some(*due).filter(|due| *due != NEVER),
                    until: self.waits_for(run).map(|condition| run.fill(&condition)),
                }
            };
        waits.map(one).collect()
    }

    pub(crate) fn inspect_tweens(&self) -> Vec<InspectedTween> {
        let part = |done: u64, length: crate::base::clock::Ticks| {
            let length = self.rate().seconds(length).0;
            let done = self.rate().seconds(crate::base::clock::ticks(done)).0;
            if length > 0.0 { (done / length).min(1.0) } else { 1.0 }
        };
        let tweens = self.moment.tweens.0.iter().map(|(moved, tween)| InspectedTween {
            moved: *moved,
            from: tween.from.clone(),
            to: tween.to.clone(),
            part: part(tween.done, tween.length),
            ease: tween.ease,
        });
        tweens.collect()
    }
}
