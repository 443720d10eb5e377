//! What may come next.

use std::sync::Arc;

use stoicheon_core::{SettingInfo, SettingInfoType as Type};

use super::{
    cursor::{Cursor, MARK},
    slot::{Slot, slot},
    tokens::solid,
    words,
};
use crate::{
    load::Loaded,
    lower::lower,
    model::{Expr, ExprKind, File, Name, Path},
    offer::{Offer, OfferKind},
    resolve::{Cx, NoIds, Notes, Resolver, View, offers},
    source::Span,
    syntax::{Node, SyntaxKind, Token},
};

/// What could stand at a place, and what it would replace.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Completion {
    /// The word that is being written; empty where none is begun.
    pub word: Span,
    /// What could stand in its place, what is nearest first.
    pub offers: Vec<Offer>,
}

impl Loaded {
    /// What could stand at a byte of one of its files: names that mean something there, and words of the language. A text that is half-written is as good as
    /// any.
    ///
    /// ```
    /// use stoicheon_core::Catalogue;
    /// let text = "object gate { door { over 1s } }\non gate.op";
    /// let loaded = stoicheon_script::load_noting("lock.stoi", text, &Catalogue::built_in(), &|_| Err(String::new()));
    /// let completion = loaded.complete(0, text.len() as u32).unwrap();
    /// let mut names = completion.offers.iter().map(|offer| offer.name.as_str());
    /// assert!(names.any(|name| name == "opened"));
    /// ```
    pub fn complete(&self, file: u32, byte: u32) -> Option<Completion> {
        let source = self.sources.get(file)?;
        let cursor = Cursor::at(source.text(), byte as usize, file)?;
        let slot = slot(&cursor)?;
        let word = Span::new(file, cursor.word.start, cursor.word.end);
        let offers = self
            .with_mark(&cursor, file, |resolver, cx, want| offers_for(&slot, &cursor, resolver, cx, want))?;
        let offers = offers.into_iter().filter(|offer| !offer.name.contains(MARK)).collect();
        Some(Completion { word, offers })
    }

    /// Asks what is known where somebody writes.
    fn with_mark<T>(
        &self,
        cursor: &Cursor,
        file: u32,
        ask: impl FnOnce(&mut Resolver<'_, '_>, &Cx<'static>, Option<&stoicheon_core::Type>) -> T,
    ) -> Option<T> {
        let mut ignored = Vec::new();
        let written = lower(&cursor.tree, file, &mut ignored);
        let mut files: Vec<Arc<File>> = (*self.files).clone();
        let at = files.iter().position(|known| known.source == file)?;
        let old = &files[at];
        files[at] = Arc::new(File { scene_number: old.scene_number, source: file, ..written });
        let files = Arc::new(files);
        let mark = cursor.token.text_range();
        let mark = Span::new(file, mark.start().into(), mark.end().into());
        let in_playtest = cursor.around(&[SyntaxKind::Playtest]).is_some();
        let view = match self.view {
            View::Alone => View::Alone,
            View::Hall if in_playtest => View::Playtests(0),
            View::Scene(number) if in_playtest => View::Playtests(number),
            view => view,
        };
        let scenes = self.scenes.as_deref();
        let mut resolver =
            Resolver::noting(&files, &self.catalogue, scenes, view, &mut ignored, Notes::default());
        resolver.mark_bound();
        let caught = resolver.known_at(&files, mark);
        let (cx, want) = match caught {
            Some(caught) => (caught.cx, caught.want),
            None => (Cx::new(resolver.names.home, &NoIds), None),
        };
        Some(ask(&mut resolver, &cx, want.as_ref()))
    }
}

fn name(token: &Token, file: u32) -> Name {
    let range = token.text_range();
    Name::new(token.text(), Span::new(file, range.start().into(), range.end().into()))
}

/// The value that a node is.
fn value(node: &Node, file: u32) -> Option<Expr> {
    let text = node.text().to_string();
    let parsed = crate::syntax::parse_value(&text, file, node.text_range().start().into());
    crate::lower::lower_value(&parsed.tree, file, node.text_range().start().into(), &mut Vec::new())
}

fn offers_for(
    slot: &Slot,
    cursor: &Cursor,
    resolver: &mut Resolver<'_, '_>,
    cx: &Cx<'static>,
    want: Option<&stoicheon_core::Type>,
) -> Vec<Offer> {
    let before: Vec<Name> = cursor.path_before().iter().map(|token| name(token, 0)).collect();
    let before = (!before.is_empty()).then_some(Path(before));
    let before = before.as_ref();
    let scope = cx.scope();
    match slot {
        Slot::Item { in_kit } => {
            let mut offers = words::items(*in_kit);
            offers.extend(resolver.part_kinds());
            offers
        }
        Slot::Member => {
            let mut offers = resolver.part_kinds();
            offers.extend(words::members());
            offers
        }
        Slot::Statement => {
            let mut offers = words::statements();
            offers.extend(resolver.commands());
            offers.extend(resolver.targets(None, cx));
            offers
        }
        Slot::Step => {
            let mut offers = words::steps();
            let players =
                resolver.values(None, cx).into_iter().filter(|offer| offer.kind == OfferKind::Player);
            offers.splice(0..0, players);
            offers
        }
        Slot::Action => words::actions(),
        Slot::Words(words) => words.iter().map(|word| Offer::new(OfferKind::Keyword, *word)).collect(),
        Slot::Setting(part) => settings(part, resolver, cx, want),
        Slot::WireClause => words::wire_clauses(),
        Slot::State(subject) => {
            let subject = subject.as_ref().and_then(|node| value(node, 0));
            subject.map(|subject| resolver.states_asked(&subject, cx)).unwrap_or_default()
        }
        Slot::GroupState(tag) => resolver.states_tagged(&tag.as_str().into()),
        Slot::StageOf(path) => {
            let path = Path(path.trim().split('.').map(|word| Name::new(word, Span::default())).collect());
            let subject = Expr { span: Span::default(), kind: ExprKind::Name(path) };
            let mut offers = resolver.states_asked(&subject, cx);
            offers.retain(|offer| !offer.detail.is_empty());
            offers
        }
        Slot::Commanded(command) => resolver.commanded_from(command, before, cx),
        Slot::Said(command) => resolver.said_with(command),
        Slot::Objects => match before {
            None => {
                let mut offers = resolver.values(Some(&stoicheon_core::Type::Object), cx);
                offers.push(
                    Offer::new(OfferKind::Keyword, "every")
                        .about("All of a group.")
                        .snippet("every ${1:tag}"),
                );
                offers
            }
            Some(_) => resolver.objects_from(before, cx, |_| true),
        },
        Slot::With(kind) => {
            let having: Vec<bool> =
                (0..resolver.names.objects.len()).map(|object| resolver.has_part(object, kind)).collect();
            resolver.objects_from(before, cx, |object| having.get(object).copied().unwrap_or(false))
        }
        Slot::Somewhere => {
            let mut offers = resolver.spots_from(before, None, cx);
            offers.extend(resolver.objects_from(before, cx, |_| true));
            dedup(offers)
        }
        Slot::Target => resolver.targets(before, cx),
        Slot::Expected => {
            let mut offers = resolver.signals_from(before, false, cx);
            match before {
                None => {
                    offers.extend(
                        resolver.effects(scope).into_iter().map(|offer| Offer { snippet: None, ..offer }),
                    );
                    offers.extend(resolver.values(Some(&stoicheon_core::Type::Bool), cx));
                    offers.push(
                        Offer::new(OfferKind::Keyword, "in order").snippet("in order ${1:first}, ${2:then}"),
                    );
                }
                Some(before) => offers.extend(resolver.members(before, cx)),
            }
            dedup(offers)
        }
        Slot::Value => match before {
            Some(before) => resolver.members(before, cx),
            None => resolver.values(want, cx),
        },
        _ => named(slot, before, cursor, resolver, cx),
    }
}

/// Where one kind of thing is named alone.
fn named(
    slot: &Slot,
    before: Option<&Path>,
    cursor: &Cursor,
    resolver: &mut Resolver<'_, '_>,
    cx: &Cx<'static>,
) -> Vec<Offer> {
    let scope = cx.scope();
    match slot {
        Slot::Signal { every } => resolver.signals_from(before, *every, cx),
        Slot::Emitted => resolver.emitted_from(before, cx),
        Slot::Effect => resolver.effects(scope),
        Slot::Routine => resolver.routines(scope),
        Slot::Mould => resolver.moulds(scope),
        Slot::Kit => resolver.kits(scope),
        Slot::Parameter(kit) => resolver.parameters_of(kit, scope),
        Slot::Tag => {
            let mut offers = resolver.tags();
            if cursor.parent().kind() == SyntaxKind::Among {
                offers.push(Offer::new(OfferKind::Keyword, "everyone").about("All players."));
            }
            offers
        }
        Slot::Spot(scene) => resolver.spots_from(before, scene.as_deref(), cx),
        Slot::Scene => resolver.scene_names(),
        Slot::Type { of_kit } => offers::types(*of_kit),
        Slot::Ease => offers::eases(),
        Slot::Constant => resolver.given_names(),
        _ => Vec::new(),
    }
}

fn dedup(offers: Vec<Offer>) -> Vec<Offer> {
    let mut all: Vec<Offer> = Vec::new();
    for offer in offers {
        if !all.iter().any(|known| known.name == offer.name) {
            all.push(offer);
        }
    }
    all
}

/// The settings of a part that are not given yet, or the values of the one before.
fn settings(
    part: &Node,
    resolver: &mut Resolver<'_, '_>,
    cx: &Cx<'static>,
    want: Option<&stoicheon_core::Type>,
) -> Vec<Offer> {
    let written: Vec<Token> = solid(part).collect();
    let Some(kind) = written.first().map(|word| word.text().to_owned()) else { return Vec::new() };
    let Some(info) = resolver.catalogue.part(&kind) else { return Vec::new() };
    let at = written.iter().position(|token| token.text() == MARK).unwrap_or(written.len());
    let before = at.checked_sub(1).and_then(|at| written.get(at)).map(|token| token.text().to_owned());
    let before = before.unwrap_or_default();
    // What stands behind the name of a setting is its value; a name may be two words.
    let both =
        at.checked_sub(2).and_then(|at| written.get(at)).map(|first| format!("{} {before}", first.text()));
    let setting = both.and_then(|both| info.setting(&both)).or_else(|| info.setting(&before));
    let setting = setting.map(|setting| &setting.ty);
    match setting {
        Some(Type::OneOf(words)) => {
            return words.iter().map(|word| Offer::new(OfferKind::State, word.clone())).collect();
        }
        Some(Type::Tags) => return resolver.tags(),
        Some(Type::Spot) => return resolver.spots_from(None, None, cx),
        Some(Type::Signal(_)) => return resolver.signals_from(None, false, cx),
        Some(Type::Condition | Type::Amount) => return resolver.values(want, cx),
        _ if before == "ease" => return offers::eases(),
        _ if matches!(before.as_str(), "or" | "every") => return resolver.tags(),
        _ => {}
    }
    let given: Vec<&str> = written.iter().map(Token::text).collect();
    // A text needs no name before it.
    let has_text = part.children().any(|child| solid(&child).any(|token| token.kind() == SyntaxKind::Text));
    let is_left = |setting: &&SettingInfo| {
        let is_text = setting.ty == Type::Text && has_text;
        !is_text && setting.name.split(' ').any(|word| !given.contains(&word))
    };
    let left = info.settings.iter().filter(is_left);
    left.map(words::setting).collect()
}
