//! The settings of a part, taken apart: names and values, and words of the user's own, such as states and answers.

use smol_str::SmolStr;
use stoicheon_core::{PartInfo, SettingInfo, SettingInfoType, Type};

use crate::{
    model::{Atom, Expr, ExprKind, Literal, Name, Part},
    source::Span,
};

/// One of the words of the user's own, and what stands after it.
#[derive(Debug)]
pub(crate) struct Entry<'a> {
    pub(crate) word: &'a Name,
    pub(crate) values: Vec<&'a Atom>,
}

/// A setting and what stands after its name.
#[derive(Debug)]
pub(crate) struct Given<'a> {
    /// `None` for a word that names none, and for a value without a name.
    pub(crate) setting: Option<&'a SettingInfo>,
    pub(crate) span: Span,
    /// The name, if no setting is called so.
    pub(crate) unknown: Option<&'a Name>,
    pub(crate) values: Vec<&'a Atom>,
}

/// The settings of a part, taken apart.
#[derive(Debug, Default)]
pub(crate) struct Listed<'a> {
    pub(crate) entries: Vec<Entry<'a>>,
    pub(crate) given: Vec<Given<'a>>,
}

pub(crate) fn takes_words(setting: &SettingInfo) -> bool {
    matches!(setting.ty, SettingInfoType::Words | SettingInfoType::Spans | SettingInfoType::Table)
}

/// The words of its own that a part deals in.
pub(crate) fn words_in(part: &Part, info: &PartInfo) -> Vec<SmolStr> {
    if !info.settings.iter().any(takes_words) {
        return Vec::new();
    }
    Listed::of(info, part).entries.iter().map(|entry| entry.word.text.clone()).collect()
}

/// The type of something that a part deals in: a list without words is that of the part's own.
pub(crate) fn with_words(ty: &Type, words: &[SmolStr]) -> Type {
    match ty {
        Type::OneOf(none) if none.is_empty() => Type::one_of(words.iter().cloned()),
        other => other.clone(),
    }
}

/// The setting that the next atoms name, and how many of them do: `per player` takes two.
fn named<'a>(info: &'a PartInfo, atoms: &[Atom]) -> Option<(&'a SettingInfo, Span, usize)> {
    let Atom::Word(word) = atoms.first()? else { return None };
    if let Some(Atom::Word(second)) = atoms.get(1) {
        let is_both = |name: &str| {
            name.strip_prefix(&*word.text).and_then(|rest| rest.strip_prefix(' ')) == Some(&*second.text)
        };
        if let Some(setting) = info.settings.iter().find(|setting| is_both(&setting.name)) {
            return Some((setting, word.span.to(second.span), 2));
        }
    }
    info.setting(&word.text).map(|setting| (setting, word.span, 1))
}

impl<'a> Given<'a> {
    fn unnamed(span: Span, unknown: Option<&'a Name>, values: Vec<&'a Atom>) -> Self {
        Self { setting: None, span, unknown, values }
    }

    /// Nothing can stand after it.
    fn is_flag(&self) -> bool {
        let flag =
            |setting: &SettingInfo| matches!(setting.ty, SettingInfoType::Flag | SettingInfoType::More(_));
        self.setting.is_some_and(flag)
    }
}

impl<'a> Listed<'a> {
    pub(crate) fn of(info: &'a PartInfo, part: &'a Part) -> Self {
        let deals_in_words = info.settings.iter().any(takes_words);
        let mut listed = Self::default();
        // Whether what stands here belongs to the words of the user's own.
        let mut in_words = deals_in_words;
        let mut at = 0;
        while let Some(atom) = part.settings.get(at) {
            // `over over`: a parameter may be called as a setting is.
            let is_value =
                listed.waits_for_value() && !matches!(part.settings.get(at + 1), Some(Atom::Value(_)));
            if let Some((setting, span, taken)) = named(info, &part.settings[at..]).filter(|_| !is_value) {
                in_words = takes_words(setting);
                if !in_words {
                    let given = Given { setting: Some(setting), span, unknown: None, values: Vec::new() };
                    listed.given.push(given);
                }
                at += taken;
                continue;
            }
            at += 1;
            // `2s to 5s`
            let joins = matches!(atom, Atom::Word(word) if word.text == "to");
            match atom {
                Atom::Word(word) if deals_in_words && !joins && (in_words || listed.is_full()) => {
                    in_words = true;
                    listed.entries.push(Entry { word, values: Vec::new() });
                }
                _ if in_words && !listed.entries.is_empty() => {
                    listed.entries.last_mut().into_iter().for_each(|entry| entry.values.push(atom));
                }
                _ => listed.value(atom),
            }
        }
        listed
    }

    /// Whether a setting is given.
    pub(crate) fn has_flag(&self, name: &str) -> bool {
        self.given.iter().any(|given| given.setting.is_some_and(|setting| setting.name == name))
    }

    /// What is no name of a setting belongs to the last one.
    fn value(&mut self, atom: &'a Atom) {
        match (self.given.last_mut(), atom) {
            (Some(last), _) if !last.is_flag() && (last.setting.is_some() || last.unknown.is_some()) => {
                last.values.push(atom);
            }
            (_, Atom::Word(word)) => self.given.push(Given::unnamed(word.span, Some(word), Vec::new())),
            _ => self.given.push(Given::unnamed(atom.span(), None, vec![atom])),
        }
    }

    /// The last setting has no value yet, and takes one that is worked out.
    fn waits_for_value(&self) -> bool {
        use SettingInfoType::{
            Amount, Angle, Colour, Number, Rotation, Seconds, Size, Span as Spanned, Text, Vector,
        };
        self.given.last().filter(|given| given.values.is_empty()).and_then(|given| given.setting).is_some_and(
            |setting| {
                matches!(
                    setting.ty,
                    Amount | Angle | Colour | Number | Rotation | Seconds | Size | Spanned | Text | Vector
                )
            },
        )
    }

    /// The last setting has all it can have.
    fn is_full(&self) -> bool {
        self.given.last().is_none_or(|given| given.is_flag() || !given.values.is_empty())
    }
}

/// A row of a table: names and values.
pub(crate) fn row_of(row: &[Atom]) -> Vec<(&Name, &Atom)> {
    let mut found = Vec::new();
    let mut atoms = row.iter();
    while let (Some(Atom::Word(name)), Some(value)) = (atoms.next(), atoms.next()) {
        found.push((name, value));
    }
    found
}

/// What a value in a row of a table is, as far as can be seen by looking at it.
pub(crate) fn type_of(value: &Atom) -> Type {
    let Atom::Value(Expr { kind, .. }) = value else { return Type::Bool };
    match kind {
        ExprKind::Literal(Literal::Text(_)) => Type::Text,
        ExprKind::Literal(Literal::Colour(_)) => Type::Colour,
        ExprKind::Vector(_) => Type::Vector,
        ExprKind::About(..) => Type::Rotation,
        ExprKind::Name(_) => Type::Bool,
        _ => Type::Number,
    }
}
