//! Parts: kinds, settings and their values.

use smol_str::SmolStr;
use stoicheon_core::{PartKind, Setting, SettingType, SettingValue, Settings};

use super::{
    Checker,
    expr::literal_type,
    names::{a, suggest},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Atom, Literal, Part},
    source::Span,
};

impl Checker<'_> {
    pub(super) fn part(&mut self, part: &Part) {
        if let Some(kind) = self.catalogue.part(&part.kind.text) {
            read_settings(kind, part, self.diagnostics);
            return;
        }
        let names = self.catalogue.parts().iter().map(|kind| kind.name);
        let help = suggest(&part.kind.text, "part", names);
        let message = format!("there is no kind of part `{}`", part.kind.text);
        self.diagnostics.push(
            Diagnostic::error(Code::UnknownPart, message)
                .at(part.kind.span, "expected a kind of part")
                .help(help),
        );
    }
}

/// Reads the row of names and values after a kind of part.
pub(crate) fn read_settings(kind: &PartKind, part: &Part, diagnostics: &mut Vec<Diagnostic>) -> Settings {
    let mut settings = Settings::default();
    let mut atoms = part.atoms.iter().peekable();
    while let Some((atom, span)) = atoms.next() {
        let Atom::Word(word) = atom else {
            diagnostics.push(
                Diagnostic::error(Code::UnknownSetting, "expected the name of a setting, found a value")
                    .at(*span, "a value without a name")
                    .help(list_settings(kind)),
            );
            continue;
        };
        let Some(setting) = kind.setting(word) else {
            let help = suggest(word, "setting", kind.settings.iter().map(|setting| setting.name));
            diagnostics.push(
                Diagnostic::error(Code::UnknownSetting, format!("{} has no setting `{word}`", a(kind.name)))
                    .at(*span, "expected a setting")
                    .help(help),
            );
            // Its value would only be reported once more.
            while atoms.next_if(|(atom, _)| !is_setting(kind, atom)).is_some() {}
            continue;
        };
        let mut given = Vec::new();
        while let Some((atom, span)) = atoms.next_if(|(atom, _)| !is_setting(kind, atom)) {
            given.push((atom, *span));
        }
        match value(setting, &given) {
            Ok(value) => settings.set(setting.name, value),
            Err(found) => {
                let at = given.first().map_or(*span, |(_, span)| *span);
                let message =
                    format!("the setting `{}` takes {}, found {found}", setting.name, takes(setting.ty));
                diagnostics.push(
                    Diagnostic::error(Code::WrongType, message)
                        .at(at, format!("expected {}", takes(setting.ty)))
                        .help(format!("`{}`: {}", setting.name, setting.about)),
                );
                // So that it is not called missing as well.
                settings.set(setting.name, SettingValue::Word(SmolStr::default()));
            }
        }
    }
    for setting in kind.settings.iter().filter(|setting| setting.required && !settings.has(setting.name)) {
        diagnostics.push(
            Diagnostic::error(
                Code::MissingSetting,
                format!("{} needs the setting `{}`", a(kind.name), setting.name),
            )
            .at(part.kind.span, format!("`{}` is not given", setting.name))
            .help(format!("`{}` takes {}. {}", setting.name, takes(setting.ty), setting.about)),
        );
    }
    settings
}

fn is_setting(kind: &PartKind, atom: &Atom) -> bool {
    matches!(atom, Atom::Word(word) if kind.setting(word).is_some())
}

fn value(setting: &Setting, given: &[(&Atom, Span)]) -> Result<SettingValue, String> {
    let words = || given.iter().map(|(atom, _)| if let Atom::Word(word) = atom { Some(word) } else { None });
    match (setting.ty, given) {
        (SettingType::Tags, [_, ..]) => match words().collect::<Option<Vec<_>>>() {
            Some(tags) => Ok(SettingValue::Tags(tags.into_iter().cloned().collect())),
            None => Err(describe(given)),
        },
        (SettingType::Angle, [(Atom::Literal(Literal::Angle(angle)), _)]) => Ok(SettingValue::Angle(*angle)),
        (SettingType::Seconds, [(Atom::Literal(Literal::Duration(span)), _)]) => {
            Ok(SettingValue::Seconds(*span))
        }
        (SettingType::Vector, [(Atom::Literal(Literal::Vector(vector)), _)]) => {
            Ok(SettingValue::Vector(*vector))
        }
        (SettingType::OneOf(list), [(Atom::Word(word), _)]) if list.contains(&word.as_str()) => {
            Ok(SettingValue::Word(word.clone()))
        }
        _ => Err(describe(given)),
    }
}

fn describe(given: &[(&Atom, Span)]) -> String {
    match given {
        [] => "nothing".to_owned(),
        [(Atom::Word(word), _)] => format!("`{word}`"),
        [(Atom::Literal(literal), _)] => a(literal_type(literal).word()),
        many => format!("{} values", many.len()),
    }
}

fn takes(ty: SettingType) -> String {
    match ty {
        SettingType::Angle => "an angle, such as 85deg".to_owned(),
        SettingType::Seconds => "a span of time, such as 2.5s".to_owned(),
        SettingType::Vector => "three numbers, such as (2, 1, 2)".to_owned(),
        SettingType::OneOf(words) => format!("one of {}", words.join(", ")),
        SettingType::Tags => "one or more tags".to_owned(),
        _ => "a value".to_owned(),
    }
}

fn list_settings(kind: &PartKind) -> String {
    let names: Vec<_> = kind.settings.iter().map(|setting| setting.name).collect();
    format!("{} has the settings {}", a(kind.name), names.join(", "))
}
