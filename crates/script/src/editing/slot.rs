//! What can stand where somebody writes, from the tree around that place.

use super::{
    cursor::Cursor,
    tokens::{solid, word_before},
};
use crate::syntax::{Node, SyntaxKind as K};

/// What can stand at a place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Slot {
    /// Something of one's own choice: a new name.
    NewName,
    /// An item of a file, or of a kit.
    Item {
        in_kit: bool,
    },
    /// A member of an object.
    Member,
    Statement,
    /// A line of a playtest.
    Step,
    /// What a player does.
    Action,
    /// One of these words of the language.
    Words(&'static [&'static str]),
    /// A setting of a part, by its node.
    Setting(Node),
    /// What may follow a value in a condition of a wire, and the clauses.
    WireClause,
    Signal {
        every: bool,
    },
    Emitted,
    Effect,
    Routine,
    Mould,
    Kit,
    /// A parameter of a kit, by the name of that.
    Parameter(String),
    Tag,
    /// A state of what stands before it: the node of that value.
    State(Option<Node>),
    /// A state of the members of a group.
    GroupState(String),
    /// The words of the stages of an object.
    StageOf(String),
    /// Someone that takes a command.
    Commanded(String),
    /// What is said with a command.
    Said(String),
    Objects,
    /// Objects with a part of that kind.
    With(&'static str),
    /// A spot, of another scene if one is named.
    Spot(Option<String>),
    /// An object, a spot or a place.
    Somewhere,
    Scene,
    Type {
        of_kit: bool,
    },
    Ease,
    /// Something that a statement sets, or a bind keeps.
    Target,
    /// A constant.
    Constant,
    /// A signal, an effect or a condition.
    Expected,
    Value,
}

const OBJECT_CLAUSES: [&str; 7] = ["at", "facing", "tags", "of", "disabled", "body", "remember"];
const SIGNAL_CLAUSES: [&str; 3] = ["crosses", "sent", "heard"];
const BUSY: [&str; 4] = ["ignore", "restart", "queue", "overlap"];
const LEFT: [&str; 3] = ["unloaded", "frozen", "running"];

/// What can stand where somebody writes.
pub(super) fn slot(cursor: &Cursor) -> Option<Slot> {
    let parent = cursor.parent();
    let words: Vec<_> = solid(&parent).filter(|token| token.kind() == K::Word).collect();
    let place = words.iter().position(|word| *word == cursor.token).unwrap_or(0);
    let before = place.checked_sub(1).and_then(|at| words.get(at)).map(|word| word.text().to_owned());
    let before = before.unwrap_or_default();
    let word = |number: usize| words.get(number).map(|word| word.text().to_owned()).unwrap_or_default();
    Some(match parent.kind() {
        K::Path => path_slot(&parent)?,
        K::Bad | K::File | K::Block | K::Kit | K::Playtest => return Some(begun(cursor, &parent)),
        K::CommandStep if place == 0 => Slot::Statement,
        K::DoStep if place == 0 => Slot::Step,
        K::Part if place == 0 => Slot::Member,
        K::Lone if place == 0 => Slot::Item { in_kit: cursor.around(&[K::Kit]).is_some() },
        K::Lone if place == 1 => Slot::NewName,
        K::Part | K::Lone => Slot::Setting(parent),
        K::Filter | K::Tags => Slot::Tag,
        K::Crosses if before == "to" => Slot::Words(&["authority", "players"]),
        K::Crosses if before == "crosses" => Slot::Words(&["to"]),
        K::Crosses => Slot::Tag,
        K::ByGame if before == "by" => Slot::Words(&["game"]),
        K::ByGame => Slot::Words(&["by"]),
        K::Busy if place == 2 => Slot::Words(&BUSY),
        K::Busy | K::Cooldown => Slot::Words(&["per", "who"]),
        K::During if before == "is" => {
            let stages = parent.children().find(|child| child.kind() == K::Path);
            Slot::StageOf(stages.map(|path| path.text().to_string()).unwrap_or_default())
        }
        K::Type => Slot::Type { of_kit: is_of_kit(&parent) },
        K::Use if place == 1 => Slot::Kit,
        K::Given if place == 0 => {
            let used = cursor.around(&[K::Use])?;
            let kit = solid(&used).filter(|token| token.kind() == K::Word).nth(1)?;
            Slot::Parameter(kit.text().to_owned())
        }
        K::Constant if place == 1 && cursor.around(&[K::Playtest]).is_some() => Slot::Constant,
        K::Constant if place == 1 => Slot::Constant,
        K::SpawnStep if place == 1 => Slot::Mould,
        K::TagStep if before == "as" => Slot::Tag,
        K::SendStep | K::PlayerStep if before == "in" => Slot::Scene,
        K::SendStep => Slot::Words(&["to", "in"]),
        K::TweenStep if before == "ease" => Slot::Ease,
        K::TweenStep => Slot::Words(&["to", "over", "ease"]),
        K::Arg if place == 0 => {
            let command = cursor.around(&[K::CommandStep])?;
            let command = solid(&command).next()?.text().to_owned();
            Slot::Said(command)
        }
        K::Among => match before.as_str() {
            "is" | "not" => Slot::GroupState(word(0)),
            _ => Slot::Tag,
        },
        K::IsClause => {
            let among = cursor.around(&[K::Among])?;
            let group = solid(&among).find(|token| token.kind() == K::Word && token.text() != "every")?;
            Slot::GroupState(group.text().to_owned())
        }
        K::SceneFile => Slot::Words(&LEFT),
        K::Action if place == 0 => Slot::Action,
        K::Action => match before.as_str() {
            "presses" | "releases" | "holds" => Slot::Words(&["use", "jump", "up", "down", "left", "right"]),
            "walks" => Slot::Words(&["to"]),
            "points" => Slot::Words(&["at"]),
            "goes" => Slot::Words(&["through"]),
            "in" => Slot::Scene,
            _ => return None,
        },
        K::Wire => Slot::WireClause,
        K::Object | K::Manager | K::Mould if place == 1 => Slot::NewName,
        K::Scene | K::Project | K::Var | K::Signal | K::Effect | K::Spot | K::Routine | K::KeepStep => {
            Slot::NewName
        }
        K::Field | K::ForStep => Slot::NewName,
        K::Call | K::Count if place == 0 => Slot::Value,
        _ => return None,
    })
}

fn is_of_kit(ty: &Node) -> bool {
    let mut around = ty.ancestors().skip(1);
    around.find(|node| !matches!(node.kind(), K::Field | K::Fields)).is_some_and(|node| node.kind() == K::Kit)
}

/// What begins where the parser found nothing that it knows.
fn begun(cursor: &Cursor, parent: &Node) -> Slot {
    let outer = if parent.kind() == K::Bad { parent.parent() } else { Some(parent.clone()) };
    let Some(outer) = outer else { return Slot::Item { in_kit: false } };
    let follows = cursor.previous().filter(|(_, same_line)| *same_line).map(|(token, _)| token);
    let opens = follows
        .as_ref()
        .is_none_or(|token| matches!(token.kind(), K::LeftBrace | K::RightBrace | K::Semicolon));
    match outer.kind() {
        // `own.` begins a statement that sets something.
        K::Block if !cursor.path_before().is_empty() => Slot::Target,
        K::Block => Slot::Statement,
        K::Playtest | K::TogetherStep => Slot::Step,
        K::Kit => Slot::Item { in_kit: true },
        K::Wire => Slot::WireClause,
        K::Object | K::Manager | K::Mould => {
            let is_inside = solid(&outer).any(|token| {
                token.kind() == K::LeftBrace && token.text_range().end() <= cursor.token.text_range().start()
            });
            if is_inside { Slot::Member } else { Slot::Words(&OBJECT_CLAUSES) }
        }
        K::Part | K::Lone => Slot::Setting(outer),
        K::Action | K::DoStep => Slot::Action,
        _ if opens => Slot::Item { in_kit: false },
        // Behind an item that is whole, on its line.
        _ => match last_item(cursor) {
            Some(K::Signal) => Slot::Words(&SIGNAL_CLAUSES),
            Some(K::Object | K::Manager | K::Mould | K::Spot) => Slot::Words(&OBJECT_CLAUSES),
            Some(K::Var) => Slot::Words(&["per", "remember"]),
            Some(K::SceneFile) => Slot::Words(&["left"]),
            Some(K::Wire) => Slot::WireClause,
            Some(K::Use) => Slot::Words(&["as"]),
            _ => Slot::Item { in_kit: false },
        },
    }
}

/// The kind of item that ends before the place.
fn last_item(cursor: &Cursor) -> Option<K> {
    let start = cursor.token.text_range().start();
    let items = cursor.tree.children().filter(|item| item.text_range().end() <= start);
    items.filter(|item| item.kind() != K::Bad).last().map(|item| item.kind())
}

/// What a path can be where it stands.
fn path_slot(path: &Node) -> Option<Slot> {
    let around = path.parent()?;
    let word = word_before(path).map(|word| word.text().to_owned()).unwrap_or_default();
    Some(match around.kind() {
        K::Wire => Slot::Signal { every: word == "every" },
        K::EmitStep => Slot::Emitted,
        K::PerformStep => Slot::Effect,
        K::RoutineStep => Slot::Routine,
        K::During => Slot::With("stages"),
        K::InsideClause => Slot::With("zone"),
        K::Parent => Slot::Objects,
        K::Bind if around.children().find(|child| child.kind() == K::Path).as_ref() == Some(path) => {
            Slot::Target
        }
        K::SetStep | K::TweenStep if around.children().next().as_ref() == Some(path) => Slot::Target,
        K::CommandStep => {
            let command = solid(&around).next()?.text().to_owned();
            Slot::Commanded(command)
        }
        K::SwitchStep | K::TagStep => Slot::Objects,
        K::SendStep if word == "to" => {
            let scene = solid(&around).skip_while(|token| token.text() != "in").nth(1);
            Slot::Spot(scene.map(|scene| scene.text().to_owned()))
        }
        K::SendStep => Slot::Value,
        K::PlayerStep => Slot::Somewhere,
        // Without a colon, it is the name of what is given.
        K::Given if !solid(&around).any(|token| token.kind() == K::Colon) => {
            let used = around.ancestors().find(|node| node.kind() == K::Use)?;
            let kit = solid(&used).filter(|token| token.kind() == K::Word).nth(1)?;
            Slot::Parameter(kit.text().to_owned())
        }
        K::Action if word == "answers" => Slot::With("prompt"),
        K::Action if matches!(word.as_str(), "to" | "at" | "through") => Slot::Somewhere,
        K::ExpectStep | K::OrderStep => Slot::Expected,
        K::AlwaysStep => Slot::Expected,
        K::Last => Slot::Signal { every: false },
        K::Binary => match word.as_str() {
            "is" | "not" if is_asked(path) => Slot::State(around.children().next()),
            "inside" => Slot::With("zone"),
            "tagged" | "carries" => Slot::Tag,
            "in" => Slot::Scene,
            _ => Slot::Value,
        },
        K::Part | K::Lone => {
            // `of heron.startled`
            match word.as_str() {
                "of" => Slot::Signal { every: false },
                "every" => Slot::Signal { every: true },
                _ => Slot::Value,
            }
        }
        _ => Slot::Value,
    })
}

/// Whether `is` or `is not` stands before a path.
fn is_asked(path: &Node) -> bool {
    let Some(around) = path.parent() else { return false };
    solid(&around).any(|token| token.text() == "is")
}
