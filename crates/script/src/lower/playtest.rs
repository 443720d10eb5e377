//! Playtests.

use super::{Lower, children};
use crate::{
    model::{Limit, Name, Player, Playtest, PlaytestStep, Step},
    syntax::{Node, SyntaxKind as K},
};

impl Lower<'_> {
    pub(super) fn playtest(&mut self, node: &Node) -> Option<Playtest> {
        let mut playtest = Playtest { name: self.text(node)?, players: Vec::new(), steps: Vec::new() };
        for node in node.children() {
            let span = self.range(&node);
            let step = match node.kind() {
                K::PlayerStep => {
                    if let (Some(name), Some(at)) = (self.words(&node).nth(1), self.path(&node)) {
                        playtest.players.push(Player { name, at, tags: self.tags(&node) });
                    }
                    None
                }
                K::WaitStep => self.duration(&node).map(Step::Wait),
                K::DoStep => {
                    let Some(player) = self.words(&node).next() else { continue };
                    for action in children(&node, K::Action) {
                        let span = self.range(&action);
                        let step = self.action(&player, &action);
                        playtest.steps.extend(step.map(|step| PlaytestStep { span, step }));
                    }
                    None
                }
                K::ExpectStep => {
                    let limit = self.limit(&node);
                    self.first_expr(&node).map(|what| Step::Expect { what, limit })
                }
                K::AlwaysStep => {
                    let always = self.words(&node).next().is_some_and(|word| word.text == "always");
                    self.first_expr(&node).map(if always { Step::Always } else { Step::Never })
                }
                _ => None,
            };
            playtest.steps.extend(step.map(|step| PlaytestStep { span, step }));
        }
        Some(playtest)
    }

    fn limit(&mut self, node: &Node) -> Limit {
        let words: Vec<_> = self.words(node).collect();
        for word in words {
            match word.text.as_str() {
                "within" => return self.duration(node).map_or(Limit::Now, Limit::Within),
                "exactly" => {
                    let count = self.whole(node).and_then(|count| u64::try_from(count).ok());
                    return Limit::Exactly(count.unwrap_or(0));
                }
                _ => {}
            }
        }
        Limit::Now
    }

    fn action(&mut self, player: &Name, node: &Node) -> Option<Step> {
        let words: Vec<_> = self.words(node).collect();
        let player = player.clone();
        match words.first()?.text.as_str() {
            "walks" => Some(Step::Walk { player, to: self.path(node)? }),
            "holds" => Some(Step::Hold { player, key: words.get(1)?.clone(), span: self.duration(node)? }),
            "points" => Some(Step::Point { player, at: self.path(node)? }),
            "leaves" => Some(Step::Leave { player }),
            "presses" => Some(Step::Press { player, key: words.get(1)?.clone() }),
            _ => self.duration(node).map(Step::Wait),
        }
    }
}
