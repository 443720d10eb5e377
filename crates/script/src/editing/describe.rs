//! What stands at a place, in a few words.

use std::fmt::Write;

use stoicheon_core::{SettingInfo, TickRate};

use super::tokens::{solid, span};
use crate::{
    index::{NamePlace, NameRole, NamedThing},
    load::Loaded,
    offer::{Offer, OfferKind},
    source::{Sources, Span},
    syntax::{self, Node, SyntaxKind as K, Token},
};

/// What stands at a place.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Description {
    /// The word it is about.
    pub span: Span,
    /// In the language: how it is declared, or what it is.
    pub code: String,
    /// In sentences, with paragraphs.
    pub about: String,
}

impl Loaded {
    /// What stands at a byte of one of its files: a name with its declaration, its remark, and how often it is used for what; a word of the catalogue with what it is for; a
    /// span of time with how many ticks it has. `thing` is what the word means there, as an [`Index`](crate::Index) says it.
    pub fn describe(
        &self,
        file: u32,
        byte: u32,
        thing: Option<&NamedThing>,
        rate: TickRate,
    ) -> Option<Description> {
        let source = self.sources().get(file)?;
        let tree = syntax::parse(source.text(), file).tree;
        let token = word_at(&tree, byte)?;
        let here = span(file, token.text_range());
        if token.kind() == K::Number {
            return ticks(&token, rate).map(|about| Description { span: here, code: String::new(), about });
        }
        if let Some(thing) = thing {
            let place =
                thing.places.iter().find(|place| place.span.file == file && place.span.contains(here));
            let code = declaration(self.sources(), thing)
                .unwrap_or_else(|| format!("{} {}", thing.kind.word(), thing.whole));
            let about = [remark(self.sources(), thing), Some(used(self.sources(), thing))];
            let about: Vec<String> = about.into_iter().flatten().filter(|part| !part.is_empty()).collect();
            let span = place.map_or(here, |place| place.span);
            return Some(Description { span, code, about: about.join("\n\n") });
        }
        if let Some(described) = self.part_kind(&token, here) {
            return Some(described);
        }
        let completion = self.complete(file, u32::from(token.text_range().start()))?;
        let is_it = |offer: &&Offer| offer.name == token.text();
        let offer = completion.offers.iter().find(is_it)?;
        let code = match offer.detail.as_str() {
            "" => offer.name.to_string(),
            detail if matches!(offer.kind, OfferKind::Command | OfferKind::State) => {
                format!("{detail} {}", offer.name)
            }
            detail if detail.starts_with('(') => format!("{}{detail}", offer.name),
            detail => format!("{}: {detail}", offer.name),
        };
        (!offer.about.is_empty() || !offer.detail.is_empty()).then(|| Description {
            span: here,
            code,
            about: offer.about.clone(),
        })
    }

    /// A kind of part, or one of its settings.
    fn part_kind(&self, token: &Token, here: Span) -> Option<Description> {
        let part = token.parent().filter(|node| matches!(node.kind(), K::Part | K::Lone))?;
        let kind = solid(&part).next()?;
        let info = self.catalogue().part(kind.text())?;
        if kind != *token {
            let setting = info.setting(token.text()).or_else(|| two_words(token, &info.settings))?;
            let needed = if setting.required { " Must be given." } else { "" };
            let live = if setting.live { " Can change while the world runs." } else { "" };
            let code = format!("{} {}", info.name, setting.name);
            return Some(Description { span: here, code, about: format!("{}{needed}{live}", setting.about) });
        }
        let mut about = info.about.to_string();
        let mut list = |what: &str, words: Vec<String>| {
            if !words.is_empty() {
                let _ = write!(about, "\n\n{what}: {}", words.join(", "));
            }
        };
        list("Settings", info.settings.iter().map(|setting| setting.name.to_string()).collect());
        list("Signals", info.signals.iter().map(|signal| signal.name.to_string()).collect());
        list("Commands", info.commands.iter().map(|command| command.name.to_string()).collect());
        list("States", info.states.iter().map(ToString::to_string).collect());
        let variables =
            info.variables.iter().map(|variable| format!("{}: {}", variable.name, variable.ty.word()));
        let readings = info.readings.iter().map(|reading| format!("{}: {}", reading.name, reading.ty.word()));
        list("Values", variables.chain(readings).collect());
        Some(Description { span: here, code: info.name.to_string(), about })
    }
}

/// The setting of two words of which this is one.
fn two_words<'i>(token: &Token, settings: &'i [SettingInfo]) -> Option<&'i SettingInfo> {
    let parent = token.parent()?;
    let words: Vec<Token> = solid(&parent).filter(|word| word.kind() == K::Word).collect();
    let at = words.iter().position(|word| word == token)?;
    let with = |one: usize| Some(format!("{} {}", words.get(one)?.text(), words.get(one + 1)?.text()));
    let pairs = [with(at), at.checked_sub(1).and_then(with)];
    settings.iter().find(|setting| pairs.iter().flatten().any(|pair| *pair == setting.name))
}

/// The word or the number at a byte; at the end of one, too.
pub(super) fn word_at(tree: &Node, byte: u32) -> Option<Token> {
    let end: u32 = tree.text_range().end().into();
    let at = tree.token_at_offset(byte.min(end).into());
    let fits = |token: &Token| matches!(token.kind(), K::Word | K::Number);
    at.clone().right_biased().filter(fits).or_else(|| at.left_biased().filter(fits))
}

fn ticks(token: &Token, rate: TickRate) -> Option<String> {
    let text = token.text();
    let unit = text.trim_start_matches(|letter: char| letter.is_ascii_digit() || letter == '.');
    let number: f64 = text[..text.len() - unit.len()].parse().ok()?;
    let seconds = match unit {
        "s" => number,
        "ms" => number / 1000.0,
        "min" => number * 60.0,
        _ => return None,
    };
    let ticks = seconds * f64::from(rate.per_second());
    let count = if ticks.fract() == 0.0 { format!("{ticks}") } else { format!("{ticks:.2}") };
    let word = if count == "1" { "tick" } else { "ticks" };
    Some(format!("{count} {word} at {} a second", rate.per_second()))
}

/// The line that declares a thing, up to its braces.
fn declaration(sources: &Sources, thing: &NamedThing) -> Option<String> {
    let place = thing.places.iter().find(|place| place.role == NameRole::Declared)?;
    let text = sources.get(place.span.file)?.text();
    let tree = syntax::parse(text, place.span.file).tree;
    let token = word_at(&tree, place.span.start)?;
    let declaring = token.parent_ancestors().find(|node| node.kind() != K::Path)?;
    let whole = declaring.text().to_string();
    let first = whole.find('{').map_or(whole.as_str(), |at| &whole[..at]);
    let words: Vec<&str> = first.split_whitespace().collect();
    let of = match thing.kind {
        crate::index::NameKind::Field | crate::index::NameKind::Parameter | crate::index::NameKind::Local => {
            format!("{} ", thing.kind.word())
        }
        _ => String::new(),
    };
    Some(of + &words.join(" "))
}

/// The remark that stands alone on the lines before what declares a thing.
fn remark(sources: &Sources, thing: &NamedThing) -> Option<String> {
    let place = thing.places.iter().find(|place| place.role == NameRole::Declared)?;
    let source = sources.get(place.span.file)?;
    let (_, lines) = source.lines_of(place.span.start as usize..place.span.start as usize);
    let before = source.text().get(..lines.start)?;
    let mut lines: Vec<&str> = Vec::new();
    for line in before.lines().rev() {
        let Some(words) = line.trim().strip_prefix("//") else { break };
        lines.push(words.trim());
    }
    lines.reverse();
    (!lines.is_empty()).then(|| lines.join("\n"))
}

/// How many places are listed for each thing that is done with a name.
const SHOWN: usize = 4;

/// What is done with a name, and where.
fn used(sources: &Sources, thing: &NamedThing) -> String {
    const ROLES: [NameRole; 8] = [
        NameRole::Sent,
        NameRole::Taken,
        NameRole::Performed,
        NameRole::Set,
        NameRole::Commanded,
        NameRole::Used,
        NameRole::Given,
        NameRole::Read,
    ];
    let counts = ROLES.iter().filter_map(|role| {
        let places: Vec<&NamePlace> = thing.places.iter().filter(|place| place.role == *role).collect();
        let shown = places.iter().take(SHOWN).filter_map(|place| {
            let source = sources.get(place.span.file)?;
            let file = source.name().rsplit(['/', '\\']).next().unwrap_or_default();
            Some(format!("{file}:{}", source.position(place.span.start).0))
        });
        let shown: Vec<_> = shown.collect();
        let more = places
            .len()
            .checked_sub(SHOWN + 1)
            .map_or_else(String::new, |more| format!(" and {} more", more + 1));
        (!places.is_empty()).then(|| format!("{} in {}{more}", role.word(), shown.join(", ")))
    });
    let counts: Vec<_> = counts.collect();
    if counts.is_empty() { "used nowhere".to_owned() } else { counts.join("\n\n") }
}
