//! Playtests.

use super::{Lower, child, children, has_word};
use crate::{
    model::{Limit, Name, Path, Player, Playtest, PlaytestStep, Step},
    syntax::{Node, SyntaxKind as K},
};

impl Lower<'_> {
    pub(super) fn playtest(&mut self, node: &Node) -> Option<Playtest> {
        let seeds = child(node, K::Seeds).map(|seeds| self.seeds(&seeds)).unwrap_or_default();
        let (given, players, steps) = (Vec::new(), Vec::new(), Vec::new());
        let mut playtest = Playtest { name: self.text(node)?, seeds, given, players, steps };
        for node in node.children() {
            if node.kind() == K::Constant {
                playtest.given.extend(self.given(&node));
            } else if node.kind() != K::PlayerStep {
                self.step(&node, &mut playtest.steps);
            } else if let (Some(name), Some(at)) = (self.words(&node).nth(1), self.path(&node)) {
                let scene = self.after(&node, "in");
                playtest.players.push(Player { name, at, scene, tags: self.tags(&node) });
            }
        }
        Some(playtest)
    }

    fn step(&mut self, node: &Node, steps: &mut Vec<PlaytestStep>) {
        let span = self.range(node);
        let step = match node.kind() {
            K::WaitStep => self.duration(node).map(Step::Wait),
            K::WaitUntilStep => {
                let within = self.within(node);
                self.first_expr(node).map(|what| Step::Until { what, within })
            }
            K::DoStep => {
                let Some(player) = self.words(node).next() else { return };
                for action in children(node, K::Action) {
                    let span = self.range(&action);
                    let step = self.action(&player, &action);
                    steps.extend(step.map(|step| PlaytestStep { span, step }));
                }
                None
            }
            K::TogetherStep => {
                let mut inner = Vec::new();
                node.children().for_each(|node| self.step(&node, &mut inner));
                Some(Step::Together(inner))
            }
            K::ExpectStep => {
                let limit = self.limit(node);
                self.first_expr(node).map(|what| Step::Expect { what, limit })
            }
            K::OrderStep => {
                let what: Vec<Path> =
                    children(node, K::Path).filter_map(|path| self.path_of(&path)).collect();
                let within = self.within(node);
                (!what.is_empty()).then_some(Step::InOrder { what, within })
            }
            K::AlwaysStep => {
                let always = self.words(node).next().is_some_and(|word| word.text == "always");
                self.first_expr(node).map(if always { Step::Always } else { Step::Never })
            }
            K::AllowFaults => Some(Step::AllowFaults),
            K::KeepWorldStep => self.words(node).next().map(|word| match word.text.as_str() {
                "save" => Step::Save,
                "reload" => Step::Reload,
                _ => Step::Suspend,
            }),
            _ => None,
        };
        steps.extend(step.map(|step| PlaytestStep { span, step }));
    }

    fn within(&mut self, node: &Node) -> Option<crate::model::SecondsValue> {
        if has_word(node, "within") { self.duration(node) } else { None }
    }

    fn limit(&mut self, node: &Node) -> Limit {
        if has_word(node, "exactly") {
            let count = self.whole(node).and_then(|count| u64::try_from(count).ok());
            return Limit::Exactly(count.unwrap_or(0));
        }
        self.within(node).map_or(Limit::Now, Limit::Within)
    }

    fn action(&mut self, player: &Name, node: &Node) -> Option<Step> {
        let words: Vec<_> = self.words(node).collect();
        let player = player.clone();
        match words.first()?.text.as_str() {
            "walks" => Some(Step::Walk { player, to: self.path(node)? }),
            "goes" => Some(Step::GoThrough { player, at: self.path(node)? }),
            "answers" => Some(Step::Answer { player, prompt: self.path(node)? }),
            "joins" => {
                let (at, scene) = (self.path(node), self.after(node, "in"));
                Some(Step::Join { player, at, scene, tags: self.tags(node) })
            }
            "holds" => Some(Step::Hold { player, key: words.get(1)?.clone(), span: self.duration(node)? }),
            "points" => Some(Step::Point { player, at: self.path(node)? }),
            "chooses" => Some(Step::Choose { player, answer: Some(words.get(1)?.clone()) }),
            "declines" => Some(Step::Choose { player, answer: None }),
            "leaves" => Some(Step::Leave { player }),
            "presses" => Some(Step::Press { player, key: words.get(1)?.clone() }),
            _ => self.duration(node).map(|span| Step::Pause { player, span }),
        }
    }
}
