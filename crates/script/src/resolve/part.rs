//! Objects: their parts and settings, where they are, what their variables begin with.

use smol_str::SmolStr;
use stoicheon_core::{Expr, PartInfo, SettingInfo, SettingInfoType, SettingValue, Settings, Type, Value};

use super::{
    Cx, Ids, NoIds, Resolver, Ty, Typed,
    circle::{Order, follow},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, Atom, ExprKind},
    suggest::{a, suggest},
};

/// What is known of an object before it is made.
#[derive(Debug, Default)]
pub(crate) struct Made {
    pub(crate) at: Option<Expr>,
    pub(crate) facing: Option<Expr>,
    pub(crate) settings: Vec<Settings>,
}

impl Resolver<'_, '_> {
    pub(crate) fn object_parts(&mut self, index: usize, ids: &dyn Ids) -> Made {
        let object = &self.names.objects[index];
        let (scope, Some(written)) = (object.scope, object.written) else { return Made::default() };
        let known: Vec<_> = object.parts.clone();
        let cx = Cx::constant(scope, "where an object is and faces", ids);
        let at = written.at.as_ref().and_then(|at| self.constant(at, &Type::Vector, &cx));
        let facing = written.facing.as_ref().and_then(|facing| self.constant(facing, &Type::Rotation, &cx));
        for part in &written.parts {
            if self.catalogue.part(&part.kind.text).is_none() {
                let names = self.catalogue.parts().iter().map(|info| info.name.as_str());
                let help = suggest(&part.kind.text, "part", names);
                let message = format!("there is no kind of part `{}`", part.kind.text);
                self.wrong(
                    Diagnostic::error(Code::UnknownPart, message)
                        .at(part.kind.span, "expected a kind of part")
                        .help(help),
                );
            }
        }
        self.parent(written.of.as_ref(), scope, ids);
        let cx = Cx::constant(scope, "a setting", ids);
        let settings: Vec<_> = known.iter().map(|(part, info)| self.settings(info, part, &cx)).collect();
        for ((part, info), settings) in known.iter().zip(&settings) {
            self.try_out(info, part, settings, ids);
        }
        Made { at, facing, settings }
    }

    /// What an object hangs on, if it is there.
    pub(crate) fn parent(&mut self, of: Option<&model::Path>, scope: usize, ids: &dyn Ids) -> Option<usize> {
        self.object(of?, &Cx::new(scope, ids))
    }

    /// Objects that hang on each other in a circle, and the order in which they are hung: what holds others first.
    pub(crate) fn hanging(&self) -> Order {
        follow(self.names.objects.len(), |object| {
            let object = &self.names.objects[object];
            let of = object.written.and_then(|written| written.of.as_ref());
            of.and_then(|of| self.object_named(of, &Cx::new(object.scope, &NoIds))).into_iter().collect()
        })
    }

    pub(super) fn check_hanging(&mut self) {
        for circle in self.hanging().circles {
            let names: Vec<_> = circle.iter().map(|one| self.names.objects[*one].name.clone()).collect();
            let message = format!("these objects hang on each other in a circle: {}", names.join(", "));
            let mut diagnostic = Diagnostic::error(Code::Circle, message);
            for object in circle {
                diagnostic = diagnostic.at(self.names.objects[object].span, "hangs on the next");
            }
            self.wrong(diagnostic.help("one of them must hang on nothing"));
        }
    }

    /// What only the part itself knows to be out of range.
    fn try_out(&mut self, info: &PartInfo, part: &model::Part, settings: &Settings, ids: &dyn Ids) {
        let missing = info.settings.iter().any(|setting| setting.required && !settings.has(&setting.name));
        // What was written and could not be read is reported already.
        let has = |name: &str| settings.has(name) || settings.more("also").iter().any(|more| more.has(name));
        let unread = part.settings.iter().any(
            |atom| matches!(atom, Atom::Word(word) if info.setting(&word.text).is_some() && !has(&word.text)),
        );
        let Some(kind) = info.kind.filter(|_| !missing && !unread) else { return };
        if let Err(error) = (kind.build)(settings, ids.rate()) {
            self.wrong(
                Diagnostic::error(Code::BadLiteral, error.to_string())
                    .at(part.kind.span, "cannot be made so"),
            );
        }
    }

    /// Something that is known before the world runs, of a type.
    pub(super) fn constant(&mut self, expr: &model::Expr, ty: &Type, cx: &Cx<'_>) -> Option<Expr> {
        let wrong = |found: &str| {
            let message = match ty {
                Type::Vector => format!("expected a place, such as (4, 0, 10), found {found}"),
                Type::Rotation => {
                    format!("expected a direction, such as north or 90deg about y, found {found}")
                }
                other => format!("expected {}, found {found}", a(other.word())),
            };
            Diagnostic::error(Code::WrongType, message).at(expr.span, found)
        };
        self.value_for(expr, ty, cx, wrong)
    }

    pub(crate) fn spot(&mut self, index: usize, ids: &dyn Ids) -> (Option<Expr>, Option<Expr>) {
        let spot = &self.names.spots[index];
        let (written, scope) = (spot.written, spot.scope);
        let cx = Cx::constant(scope, "a spot", ids);
        let at = self.constant(&written.at, &Type::Vector, &cx);
        let facing = written.facing.as_ref().and_then(|facing| self.constant(facing, &Type::Rotation, &cx));
        (at, facing)
    }

    pub(crate) fn var_first(&mut self, index: usize, ids: &dyn Ids) -> Option<Expr> {
        let var = &self.names.vars[index];
        let (written, scope) = (var.written, var.scope);
        let ty = &written.ty;
        let cx = Cx::constant(scope, "the first value of a variable", ids);
        let name = &written.name.text;
        let wrong = |found: &str| {
            let message = format!("`{name}` holds {}, its first value is {found}", a(ty.ty.word()));
            Diagnostic::error(Code::WrongType, message)
                .at(written.first.span, found)
                .at(ty.span, format!("declared as {} here", ty.ty))
        };
        self.value_for(&written.first, &ty.ty, &cx, wrong)
    }

    /// Reads the row of names and values after a kind of part.
    fn settings(&mut self, info: &PartInfo, part: &model::Part, cx: &Cx<'_>) -> Settings {
        let mut settings = Settings::default();
        // What comes after a word such as `also`: the settings that it begins again.
        let mut again: Option<(SmolStr, Vec<SmolStr>)> = None;
        let mut more: Vec<Settings> = Vec::new();
        let is_setting = |atom: &Atom| matches!(atom, Atom::Word(word) if info.setting(&word.text).is_some());
        let mut atoms = part.settings.iter().peekable();
        while let Some(atom) = atoms.next() {
            // A text right after the kind needs no name.
            if let (Atom::Value(expr), Some(label)) = (atom, info.setting("label"))
                && matches!(expr.kind, ExprKind::Literal(model::Literal::Text(_)))
                && !settings.has("label")
            {
                if let Ok(value) = self.setting_value(label, &[atom], cx) {
                    settings.set("label", value);
                }
                continue;
            }
            let Atom::Word(word) = atom else {
                self.wrong(
                    Diagnostic::error(Code::UnknownSetting, "expected the name of a setting, found a value")
                        .at(atom.span(), "a value without a name")
                        .help(list_settings(info)),
                );
                continue;
            };
            let Some(setting) = info.setting(&word.text) else {
                let help = suggest(&word.text, "setting", info.settings.iter().map(|s| s.name.as_str()));
                let message = format!("{} has no setting `{}`", a(&info.name), word.text);
                self.wrong(
                    Diagnostic::error(Code::UnknownSetting, message)
                        .at(word.span, "expected a setting")
                        .help(help),
                );
                // Its value would only be reported once more.
                while atoms.next_if(|atom| !is_setting(atom)).is_some() {}
                continue;
            };
            if let SettingInfoType::More(words) = &setting.ty {
                again = Some((setting.name.clone(), words.clone()));
                more.push(Settings::default());
                continue;
            }
            let mut given = Vec::new();
            while let Some(atom) = atoms.next_if(|atom| !is_setting(atom)) {
                given.push(atom);
            }
            let of_more = again.as_ref().is_some_and(|(_, words)| words.contains(&setting.name));
            let settings = match more.last_mut().filter(|_| of_more) {
                Some(more) => more,
                None => &mut settings,
            };
            if settings.has(&setting.name) {
                let message = format!("`{}` is set twice", setting.name);
                self.wrong(Diagnostic::error(Code::NameTaken, message).at(word.span, "the second time"));
            }
            match self.setting_value(setting, &given, cx) {
                Ok(value) => settings.set(&setting.name, value),
                Err(None) => {}
                Err(Some(found)) => {
                    let span = given.first().map_or(word.span, |first| {
                        first.span().to(given.last().map_or(first.span(), |last| last.span()))
                    });
                    let message = format!("`{}` takes {}, found {found}", setting.name, takes(&setting.ty));
                    self.wrong(
                        Diagnostic::error(Code::WrongType, message)
                            .at(span, "not this")
                            .help(setting.about.to_string()),
                    );
                }
            }
        }
        if let Some((name, _)) = again {
            settings.set(&name, SettingValue::More(more));
        }
        self.missing(info, part, &settings);
        settings
    }

    fn missing(&mut self, info: &PartInfo, part: &model::Part, settings: &Settings) {
        for setting in info.settings.iter().filter(|setting| setting.required) {
            let written = part
                .settings
                .iter()
                .any(|atom| matches!(atom, Atom::Word(word) if word.text == setting.name));
            if settings.has(&setting.name) || written {
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

    /// The value of a setting; or what was found instead, if that was not reported yet.
    fn setting_value(
        &mut self,
        setting: &SettingInfo,
        given: &[&Atom],
        cx: &Cx<'_>,
    ) -> Result<SettingValue, Option<String>> {
        match (&setting.ty, given) {
            (SettingInfoType::Flag, []) => return Ok(SettingValue::Flag),
            (SettingInfoType::Tags, [_, ..]) => {
                let words =
                    given.iter().map(|atom| if let Atom::Word(word) = atom { Some(word) } else { None });
                return match words.collect::<Option<Vec<_>>>() {
                    Some(tags) => Ok(SettingValue::Tags(tags.iter().map(|tag| tag.text.clone()).collect())),
                    None => Err(Some(describe(given))),
                };
            }
            (SettingInfoType::OneOf(list), [Atom::Word(word)]) if list.contains(&word.text) => {
                return Ok(SettingValue::Word(word.text.clone()));
            }
            (SettingInfoType::OneOf(_), [Atom::Word(_)]) => return Err(Some(describe(given))),
            (SettingInfoType::Word, [Atom::Word(word)]) => return Ok(SettingValue::Word(word.text.clone())),
            (SettingInfoType::Condition | SettingInfoType::Amount, [atom]) => {
                return self.worked_out(&setting.ty, atom, cx).map(SettingValue::Expr).ok_or(None);
            }
            _ => {}
        }
        let [atom] = given else { return Err(Some(describe(given))) };
        // A lone word may be a parameter of a kit.
        let expr = match atom {
            Atom::Value(expr) => expr.clone(),
            Atom::Word(word) if self.thing(&word.text, cx.scope).is_some() => {
                let path = model::Path(vec![word.clone()]);
                model::Expr { span: word.span, kind: ExprKind::Name(path) }
            }
            Atom::Word(_) => return Err(Some(describe(given))),
        };
        let flat = matches!(&expr.kind, ExprKind::Vector(parts) if parts.len() == 2);
        let Some(found) = self.expr(&expr, None, cx) else { return Err(None) };
        let word = || Some(found.ty.a());
        let Typed { ty, expr: Expr::Value(value) } = &found else {
            self.not_constant(expr.span, "a setting");
            return Err(None);
        };
        Ok(match (&setting.ty, ty, value) {
            (SettingInfoType::Angle, Ty::Angle, Value::Number(angle)) => SettingValue::Angle(*angle),
            (SettingInfoType::Seconds, _, Value::Duration(span)) => {
                SettingValue::Seconds(cx.ids.rate().seconds(*span))
            }
            (SettingInfoType::Vector, _, Value::Vector(vector)) => SettingValue::Vector(*vector),
            (SettingInfoType::Size, _, Value::Vector(size)) => SettingValue::Size { size: *size, flat },
            (SettingInfoType::Rotation, _, Value::Rotation(turn)) => SettingValue::Rotation(*turn),
            (SettingInfoType::Number, Ty::Plain(Type::Number | Type::Whole), value) => {
                SettingValue::Number(value.as_number().unwrap_or_default())
            }
            (SettingInfoType::Text, _, Value::Text(text)) => SettingValue::Text(text.clone()),
            (SettingInfoType::Colour, _, Value::Colour(colour)) => SettingValue::Colour(*colour),
            _ => return Err(word()),
        })
    }
}

impl Resolver<'_, '_> {
    /// A condition or an amount that is worked out while the world runs; `who` is known.
    fn worked_out(&mut self, ty: &SettingInfoType, atom: &Atom, cx: &Cx<'_>) -> Option<Expr> {
        let expr = match atom {
            Atom::Value(expr) => expr.clone(),
            Atom::Word(word) => {
                model::Expr { span: word.span, kind: ExprKind::Name(model::Path(vec![word.clone()])) }
            }
        };
        let cx = Cx { has_who: true, ..Cx::new(cx.scope, cx.ids) };
        match ty {
            SettingInfoType::Condition => self.condition(&expr, &cx),
            _ => self.number(&expr, &cx),
        }
    }
}

fn describe(given: &[&Atom]) -> String {
    match given {
        [] => "nothing".to_owned(),
        [Atom::Word(word)] => format!("`{}`", word.text),
        [Atom::Value(_)] => "something else".to_owned(),
        many => format!("{} values", many.len()),
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
