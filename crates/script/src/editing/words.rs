//! The words of the language, with whole items for them.

use stoicheon_core::{SettingInfo, SettingInfoType};

use crate::offer::{Offer, OfferKind};

/// A word, what it is for, and a whole item.
type Known = (&'static str, &'static str, &'static str);

const ITEMS: [Known; 19] = [
    ("object", "Something in the scene.", "object ${1:name} at (${2:0}, ${3:0}, ${4:0}) {\n  $0\n}"),
    ("on", "When a signal comes, this is done.", "on ${1:signal} {\n  $0\n}"),
    ("var", "A value that changes.", "var ${1:name}: ${2:number} = ${3:0}"),
    ("signal", "A message that wires listen to.", "signal ${1:name}"),
    ("effect", "What the game shows or plays.", "effect ${1:name}(${2:words}: ${3:text})"),
    ("bind", "A property kept equal to an expression.", "bind ${1:lamp.lit} = ${2:gate is open}"),
    ("never", "A rule: this must never hold.", "never ${1:condition}"),
    ("spot", "A place to arrive at.", "spot ${1:name} at (${2:0}, ${3:0}, ${4:0})"),
    ("manager", "The one object for a role, alive across scenes.", "manager ${1:role} {\n  $0\n}"),
    ("mould", "What objects are made after while the world runs.", "mould ${1:name} {\n  $0\n}"),
    ("routine", "Statements with a name.", "routine ${1:name}(${2:words}: ${3:text}) {\n  $0\n}"),
    (
        "kit",
        "Objects and wires to be used again, with parameters.",
        "kit ${1:name}(${2:water}: ${3:object}) {\n  $0\n}",
    ),
    ("add", "Uses a kit.", "add ${1:kit}($0)"),
    ("given", "A constant that may be set before play.", "given ${1:name}: ${2:number} = ${3:1}"),
    (
        "playtest",
        "A scripted run with expectations.",
        "playtest \"${1:what happens}\" {\n  player ${2:ada} at ${3:steps}\n  $0\n}",
    ),
    ("scene", "The name of the scene.", "scene ${1:name}"),
    ("shared", "A file whose declarations count here, too.", "shared \"${1:kits.stoi}\""),
    ("catalogue", "A file in which the game says what it offers.", "catalogue \"${1:game.json}\""),
    ("places", "A file that says where objects stand.", "places \"${1:scene.gltf}\""),
];

/// Those that cannot stand in a kit.
const OF_FILES: [&str; 8] = ["manager", "kit", "given", "playtest", "scene", "shared", "catalogue", "places"];

const MEMBERS: [Known; 4] = [
    ("on", "When a signal comes, this is done.", "on ${1:entered} { $0 }"),
    ("var", "A value that changes.", "var ${1:name}: ${2:number} = ${3:0}"),
    ("signal", "A message that wires listen to.", "signal ${1:name}"),
    ("spot", "A place to arrive at.", "spot ${1:name} at (${2:0}, ${3:0}, ${4:0})"),
];

const STATEMENTS: [Known; 20] = [
    ("wait", "Waits some time.", "wait ${1:2s}"),
    ("wait until", "Waits until something holds.", "wait until ${1:condition}"),
    ("emit", "Gives a signal.", "emit ${1:signal}"),
    ("perform", "Has the game show or play something.", "perform ${1:effect}"),
    ("if", "Only if something holds.", "if ${1:condition} {\n  $0\n}"),
    ("repeat", "So many times.", "repeat ${1:3} {\n  $0\n}"),
    ("repeat while", "As long as something holds.", "repeat while ${1:condition} {\n  $0\n  wait ${2:1s}\n}"),
    ("for each", "For each of a group.", "for each ${1:one} in ${2:everyone} {\n  $0\n}"),
    ("do", "Runs a routine.", "do ${1:routine}"),
    ("send", "Sends a body to a spot.", "send ${1:who} to ${2:spot}"),
    ("enable", "Has an object work.", "enable ${1:object}"),
    ("disable", "Has an object rest.", "disable ${1:object}"),
    ("spawn", "Makes an object after a mould.", "spawn ${1:mould} at (${2:0}, ${3:0}, ${4:0})"),
    ("destroy", "Takes an object away.", "destroy ${1:object}"),
    ("tag", "Gives a tag.", "tag ${1:who} as ${2:tag}"),
    ("untag", "Takes a tag away.", "untag ${1:who} as ${2:tag}"),
    ("tween", "Changes a value over time.", "tween ${1:variable} to ${2:1} over ${3:1s}"),
    ("var", "Keeps a value for this sequence.", "var ${1:name} = ${2:0}"),
    ("set", "Sets a variable.", "set ${1:variable} = ${2:value}"),
    ("stop", "Ends the sequence.", "stop"),
];

const STEPS: [Known; 17] = [
    ("player", "Someone who walks about.", "player ${1:ada} at ${2:steps}"),
    ("expect", "Must hold, or must come.", "expect ${1:condition}"),
    ("expect in order", "Must come one after the other.", "expect in order ${1:first}, ${2:then}"),
    ("never", "Must not come from here on.", "never ${1:signal}"),
    ("always", "Must hold all the time.", "always ${1:condition}"),
    ("wait", "Some time goes by.", "wait ${1:1s}"),
    ("wait until", "Until something holds.", "wait until ${1:condition}"),
    ("given", "A constant has another value in this playtest.", "given ${1:name} = ${2:value}"),
    ("cases", "It runs once with each row.", "cases (${1:column}) {\n  \"${2:title}\" (${3:value})\n}"),
    ("together", "What several players do at the same time.", "together {\n  $0\n}"),
    ("emit", "The game gives a signal.", "emit ${1:signal}"),
    ("set", "Sets a variable.", "set ${1:variable} = ${2:value}"),
    ("save", "Saves the world.", "save"),
    ("reload", "Goes on from what was saved.", "reload"),
    ("suspend", "Puts the world aside and takes it up again.", "suspend"),
    ("allow faults", "Faults of reactions do not fail it.", "allow faults"),
    ("seeds", "It runs with each of these.", "seeds ${1:1}, ${2:2}"),
];

const ACTIONS: [Known; 13] = [
    ("walks", "Goes there.", "walks to ${1:place}"),
    ("goes", "Goes through and out on the other side.", "goes through ${1:place}"),
    ("answers", "Answers a prompt.", "answers ${1:prompt}"),
    ("presses", "Presses a key.", "presses ${1:use}"),
    ("holds", "Holds a key.", "holds ${1:use} for ${2:1s}"),
    ("releases", "Lets go of a key.", "releases ${1:use}"),
    ("chooses", "Gives an answer to a question.", "chooses ${1:answer}"),
    ("declines", "Gives no answer to a question.", "declines"),
    ("points", "Points at something.", "points at ${1:place}"),
    ("sees", "Must hold for this one.", "sees ${1:condition}"),
    ("waits", "Lets some time go by.", "waits ${1:1s}"),
    ("joins", "Is there from here on.", "joins"),
    ("leaves", "Is gone from here on.", "leaves"),
];

const CLAUSES: [Known; 14] = [
    ("by", "Only for those with a tag.", "by ${1:player}"),
    ("when", "Only if something holds.", "when ${1:condition}"),
    ("order", "Before those with a higher number, after those with a lower one.", "order ${1:10}"),
    ("cooldown", "Not again before that time is over.", "cooldown ${1:2s}"),
    ("delay", "Only after that time.", "delay ${1:1s}"),
    ("once", "The first time alone.", "once"),
    ("times", "So many times at most.", "times ${1:3}"),
    ("while running", "What happens if it still runs.", "while running ${1|ignore,restart,queue,overlap|}"),
    ("while", "Only in that stage.", "while ${1:stages} is ${2:stage}"),
    ("and", "Both hold.", "and "),
    ("or", "One of both holds.", "or "),
    ("is", "In that state.", "is "),
    ("inside", "In that zone.", "inside "),
    ("not", "The opposite.", "not "),
];

fn offers(known: &[Known]) -> Vec<Offer> {
    let offer = |(word, about, snippet): &Known| {
        Offer::new(OfferKind::Keyword, *word).about(*about).snippet(*snippet)
    };
    known.iter().map(offer).collect()
}

pub(super) fn items(in_kit: bool) -> Vec<Offer> {
    let mut all = offers(&ITEMS);
    all.retain(|offer| !in_kit || !OF_FILES.contains(&offer.name.as_str()));
    all
}

pub(super) fn members() -> Vec<Offer> {
    offers(&MEMBERS)
}

pub(super) fn statements() -> Vec<Offer> {
    offers(&STATEMENTS)
}

pub(super) fn steps() -> Vec<Offer> {
    offers(&STEPS)
}

pub(super) fn actions() -> Vec<Offer> {
    offers(&ACTIONS)
}

pub(super) fn wire_clauses() -> Vec<Offer> {
    offers(&CLAUSES)
}

/// A setting, with a hole for its value.
pub(super) fn setting(setting: &SettingInfo) -> Offer {
    let hole = match &setting.ty {
        SettingInfoType::Flag | SettingInfoType::More(_) => None,
        SettingInfoType::Text => Some("\"$0\"".to_owned()),
        SettingInfoType::Vector => Some("(${1:0}, ${2:0}, ${3:0})".to_owned()),
        SettingInfoType::Seconds | SettingInfoType::Span => Some("${1:1s}".to_owned()),
        SettingInfoType::Number => Some("${1:1}".to_owned()),
        SettingInfoType::OneOf(words) => Some(format!("${{1|{}|}}", words.join(","))),
        _ => Some("$0".to_owned()),
    };
    let needed = if setting.required { "needed" } else { "" };
    let offer =
        Offer::new(OfferKind::Setting, setting.name.clone()).detail(&needed).about(setting.about.as_str());
    match hole {
        Some(hole) => offer.snippet(format!("{} {hole}", setting.name)),
        None => offer,
    }
}
