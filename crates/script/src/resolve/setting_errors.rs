//! What is told of settings that are not what they should be.

use stoicheon_core::{PartInfo, SettingInfo, SettingInfoType, Settings};

use super::{
    Resolver,
    words::{Listed, takes_words},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model,
    source::Span,
    suggest::a,
};

impl Resolver<'_, '_> {
    pub(super) fn not_a_setting(&mut self, info: &PartInfo, unknown: Option<&model::Name>, span: Span) {
        let diagnostic = match unknown {
            Some(word) => {
                let help =
                    self.report.suggest(&word.text, "setting", info.settings.iter().map(|s| s.name.as_str()));
                let message = format!("{} has no setting `{}`", a(&info.name), word.text);
                Diagnostic::error(Code::UnknownSetting, message).at(span, "expected a setting").help(help)
            }
            None => Diagnostic::error(Code::UnknownSetting, "expected the name of a setting, found a value")
                .at(span, "a value without a name")
                .help(list_settings(info)),
        };
        self.wrong(diagnostic);
    }

    pub(super) fn not_this(&mut self, setting: &SettingInfo, found: &str, span: Span) {
        let message = format!("`{}` takes {}, found {found}", setting.name, takes(&setting.ty));
        self.wrong(
            Diagnostic::error(Code::WrongType, message).at(span, "not this").help(setting.about.to_string()),
        );
    }

    pub(super) fn missing(
        &mut self,
        info: &PartInfo,
        part: &model::Part,
        settings: &Settings,
        written: &[&str],
    ) {
        for setting in info.settings.iter().filter(|setting| setting.required) {
            let written = written.contains(&setting.name.as_str());
            let listed = takes_words(setting) && !Listed::of(info, part).entries.is_empty();
            if settings.has(&setting.name) || written || listed {
                continue;
            }
            self.wrong(
                Diagnostic::error(
                    Code::MissingSetting,
                    format!("{} needs the setting `{}`", a(&info.name), setting.name),
                )
                .at(part.kind.span, format!("`{}` is not given", setting.name))
                .help(format!(
                    "`{}` takes {}. {}",
                    setting.name,
                    takes(&setting.ty),
                    setting.about
                )),
            );
        }
    }
}

fn takes(ty: &SettingInfoType) -> String {
    match ty {
        SettingInfoType::Angle => "an angle, such as 85deg".to_owned(),
        SettingInfoType::Seconds => "a span of time, such as 2.5s".to_owned(),
        SettingInfoType::Vector => "three numbers, such as (2, 1, 2)".to_owned(),
        SettingInfoType::Number => "a number".to_owned(),
        SettingInfoType::Text => "a text in quotes".to_owned(),
        SettingInfoType::Colour => "a colour, such as #6fa8b0".to_owned(),
        SettingInfoType::Flag => "nothing after it".to_owned(),
        SettingInfoType::OneOf(words) => format!("one of {}", words.join(", ")),
        SettingInfoType::Tags => "one or more tags".to_owned(),
        SettingInfoType::Word => "one word".to_owned(),
        SettingInfoType::Size => "a size, such as (2, 1, 2), or (2, 1) in a flat scene".to_owned(),
        SettingInfoType::Rotation => "a turn, such as 30deg about y".to_owned(),
        SettingInfoType::Condition => "a condition, such as level > 0.5".to_owned(),
        SettingInfoType::Span => "a span of time, such as 3s, or 3s to 8s".to_owned(),
        SettingInfoType::Spot => "a spot, perhaps of another scene".to_owned(),
        SettingInfoType::Signal(_) => "a signal".to_owned(),
        SettingInfoType::Amount => "a number, or what is worked out to one".to_owned(),
        _ => "a value".to_owned(),
    }
}

fn list_settings(info: &PartInfo) -> String {
    let names: Vec<_> = info.settings.iter().map(|setting| setting.name.as_str()).collect();
    if names.is_empty() {
        return format!("{} has no settings", a(&info.name));
    }
    format!("{} has the settings {}", a(&info.name), names.join(", "))
}
