//! Objects: their parts and settings, where they are, what their variables begin with.

use smol_str::SmolStr;
use stoicheon_core::{Expr, PartInfo, SettingInfo, SettingInfoType, SettingValue, Settings, Type, Value};

use super::{
    Cx, Ids, NoIds, Resolver, Ty, Typed,
    circle::{Order, follow},
    words::{Entry, Given, Listed, row_of, takes_words},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, Atom, ExprKind},
    source::Span,
    suggest::a,
};

/// The words that begin items, for suggestions.
const ITEMS: [&str; 6] = ["object", "signal", "effect", "manager", "mould", "playtest"];

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
                // An object without a place and with one part may be an item whose first word is misspelled.
                let names = names.chain(ITEMS);
                let help = self.report.suggest(&part.kind.text, "part", names);
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
            self.try_out(index, info, part, settings, ids);
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

    /// What only the part itself knows to be out of range, and what it hears of its own object.
    fn try_out(
        &mut self,
        object: usize,
        info: &PartInfo,
        part: &model::Part,
        settings: &Settings,
        ids: &dyn Ids,
    ) {
        let missing = info.settings.iter().any(|setting| setting.required && !settings.has(&setting.name));
        // What was written and could not be read is reported already.
        let has = |name: &str| settings.has(name) || settings.more("also").iter().any(|more| more.has(name));
        let listed = Listed::of(info, part);
        let unread = listed.given.iter().filter_map(|given| given.setting).any(|setting| !has(&setting.name))
            || info.settings.iter().any(|setting| {
                takes_words(setting) && !listed.entries.is_empty() && !settings.has(&setting.name)
            });
        let Some(kind) = info.kind.filter(|_| !missing && !unread) else { return };
        let made = match (kind.build)(settings, ids.rate()) {
            Ok(made) => made,
            Err(error) => {
                self.wrong(
                    Diagnostic::error(Code::BadLiteral, error.to_string())
                        .at(part.kind.span, "cannot be made so"),
                );
                return;
            }
        };
        for join in made.joins() {
            if self.signal_of(object, join.signal).is_some() {
                continue;
            }
            let name = self.names.objects[object].name.clone();
            let message =
                format!("this {} hears `{}` of `{name}`, which does not give it", info.name, join.signal);
            let kinds = self.catalogue.parts().iter();
            let kinds = kinds.filter(|kind| kind.signals.iter().any(|signal| signal.name == join.signal));
            let kinds: Vec<_> = kinds.map(|kind| a(&kind.name)).collect();
            self.wrong(
                Diagnostic::error(Code::UnknownSignal, message)
                    .at(part.kind.span, "hears nothing")
                    .help(format!("give `{name}` {} too", kinds.join(" or "))),
            );
        }
    }

    /// A spot that a part sends to: its whole name, and the scene if it is in another one.
    fn spot_setting(&mut self, given: &[&Atom], cx: &Cx<'_>) -> Result<SettingValue, Option<String>> {
        let (spot, scene) = match given {
            [spot] => (spot, None),
            [spot, Atom::Word(word), Atom::Word(scene)] if word.text == "in" => (spot, Some(scene)),
            _ => return Err(Some(describe(given))),
        };
        let Some(path) = path_of(spot) else { return Err(Some(describe(given))) };
        if let Some(scene) = scene {
            self.spot_there(&path, scene).ok_or(None)?;
            return Ok(SettingValue::Spot { spot: path.text(), scene: Some(scene.text.clone()) });
        }
        let index = self.spot_here(&path, cx).ok_or(None)?;
        Ok(SettingValue::Spot { spot: self.names.spots[index].name.clone(), scene: None })
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
        let (Some(written), scope) = (var.written, var.scope) else { return None };
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
        let Listed { entries, given } = Listed::of(info, part);
        // A text right after the kind needs no name.
        let first = info.settings.first().filter(|setting| setting.ty == SettingInfoType::Text);
        for Given { setting, span, unknown, values } in given {
            let is_text = |atom: &Atom| matches!(atom, Atom::Value(expr) if matches!(expr.kind, ExprKind::Literal(model::Literal::Text(_))));
            let setting = match (setting, first) {
                (None, Some(first)) if values.iter().all(|atom| is_text(atom)) && unknown.is_none() => {
                    Some(first)
                }
                (setting, _) => setting,
            };
            let Some(setting) = setting else {
                self.not_a_setting(info, unknown, span);
                continue;
            };
            if let SettingInfoType::More(words) = &setting.ty {
                again = Some((setting.name.clone(), words.clone()));
                more.push(Settings::default());
                continue;
            }
            let of_more = again.as_ref().is_some_and(|(_, words)| words.contains(&setting.name));
            let settings = match more.last_mut().filter(|_| of_more) {
                Some(more) => more,
                None => &mut settings,
            };
            if settings.has(&setting.name) {
                let message = format!("`{}` is set twice", setting.name);
                self.wrong(Diagnostic::error(Code::NameTaken, message).at(span, "the second time"));
            }
            match self.setting_value(setting, &values, cx) {
                Ok(value) => settings.set(&setting.name, value),
                Err(None) => {}
                Err(Some(found)) => {
                    let span = values.first().map_or(span, |first| {
                        first.span().to(values.last().map_or(first.span(), |last| last.span()))
                    });
                    self.not_this(setting, &found, span);
                }
            }
        }
        if let Some((name, _)) = again {
            settings.set(&name, SettingValue::More(more));
        }
        if let Some(setting) = info.settings.iter().find(|setting| takes_words(setting))
            && !entries.is_empty()
            && let Some(value) = self.own_words(setting, &entries, cx)
        {
            settings.set(&setting.name, value);
        }
        self.missing(info, part, &settings);
        settings
    }

    fn not_a_setting(&mut self, info: &PartInfo, unknown: Option<&model::Name>, span: Span) {
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

    fn not_this(&mut self, setting: &SettingInfo, found: &str, span: Span) {
        let message = format!("`{}` takes {}, found {found}", setting.name, takes(&setting.ty));
        self.wrong(
            Diagnostic::error(Code::WrongType, message).at(span, "not this").help(setting.about.to_string()),
        );
    }

    /// Words of the user's own, with what stands after each.
    fn own_words(
        &mut self,
        setting: &SettingInfo,
        entries: &[Entry<'_>],
        cx: &Cx<'_>,
    ) -> Option<SettingValue> {
        let mut sound = true;
        let mut spans = Vec::new();
        let mut table = Vec::new();
        for Entry { word, values } in entries {
            let found = match (&setting.ty, values.as_slice()) {
                (SettingInfoType::Words, []) => Ok(()),
                (SettingInfoType::Spans, [_, ..]) => {
                    self.span_setting(values, cx).map(|span| spans.push((word.text.clone(), span)))
                }
                (SettingInfoType::Table, [Atom::Group(row)]) => match self.table_row(row, cx) {
                    Some(row) => {
                        table.push((word.text.clone(), row));
                        Ok(())
                    }
                    None => Err(None),
                },
                _ => Err(Some(describe(values))),
            };
            if let Err(found) = found {
                sound = false;
                if let Some(found) = found {
                    let wanted = match setting.ty {
                        SettingInfoType::Words => "nothing after it",
                        SettingInfoType::Spans => "a span of time after it, such as 40s or 3s to 8s",
                        _ => "names and values in braces after it",
                    };
                    let message = format!(
                        "`{}` is one of the {}, and takes {wanted}; found {found}",
                        word.text, setting.name
                    );
                    self.wrong(
                        Diagnostic::error(Code::WrongType, message)
                            .at(word.span, "not so")
                            .help(setting.about.to_string()),
                    );
                }
            }
        }
        let words = || entries.iter().map(|entry| entry.word.text.clone()).collect();
        sound.then(|| match setting.ty {
            SettingInfoType::Words => SettingValue::Words(words()),
            SettingInfoType::Spans => SettingValue::Spans(spans),
            _ => SettingValue::Table(table),
        })
    }

    /// `3s`, or `3s to 8s`.
    fn span_setting(
        &mut self,
        values: &[&Atom],
        cx: &Cx<'_>,
    ) -> Result<stoicheon_core::Span, Option<String>> {
        let (from, to) = match values {
            [from] => (from, None),
            [from, Atom::Word(word), to] if word.text == "to" => (from, Some(to)),
            _ => return Err(Some(describe(values))),
        };
        let from = self.seconds(from, cx)?;
        let to = to.map(|to| self.seconds(to, cx)).transpose()?;
        Ok(stoicheon_core::Span { from, to })
    }

    fn seconds(&mut self, atom: &Atom, cx: &Cx<'_>) -> Result<stoicheon_core::Seconds, Option<String>> {
        let Atom::Value(expr) = atom else { return Err(Some(describe(&[atom]))) };
        match self.expr(expr, None, cx) {
            Some(Typed { expr: Expr::Value(Value::Duration(span)), .. }) => Ok(cx.ids.rate().seconds(span)),
            Some(found) => Err(Some(found.ty.a())),
            None => Err(None),
        }
    }

    /// Names and values of one row.
    fn table_row(&mut self, row: &[Atom], cx: &Cx<'_>) -> Option<Vec<(SmolStr, Value)>> {
        let pairs = row_of(row);
        if pairs.is_empty() || pairs.len() * 2 != row.len() {
            let span = Atom::Group(row.to_vec()).span();
            let message = "expected names and values, such as `flow 0.2, foam off`";
            self.wrong(Diagnostic::error(Code::WrongType, message).at(span, "not this"));
            return None;
        }
        let mut found = Vec::new();
        for (name, value) in pairs {
            let value = match value {
                Atom::Word(word) if matches!(word.text.as_str(), "on" | "true") => Value::Bool(true),
                Atom::Word(word) if matches!(word.text.as_str(), "off" | "false") => Value::Bool(false),
                Atom::Value(expr) => match self.expr(expr, None, cx)?.expr {
                    Expr::Value(Value::Whole(whole)) => Value::from(whole).as_number().map(Value::Number)?,
                    Expr::Value(value) => value,
                    _ => {
                        self.not_constant(expr.span, "a parameter of a blend");
                        return None;
                    }
                },
                other => {
                    let message = format!("`{}` takes a value, or on or off", name.text);
                    self.wrong(Diagnostic::error(Code::WrongType, message).at(other.span(), "not this"));
                    return None;
                }
            };
            found.push((name.text.clone(), value));
        }
        Some(found)
    }

    fn missing(&mut self, info: &PartInfo, part: &model::Part, settings: &Settings) {
        for setting in info.settings.iter().filter(|setting| setting.required) {
            let written = part
                .settings
                .iter()
                .any(|atom| matches!(atom, Atom::Word(word) if word.text == setting.name));
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
            (SettingInfoType::OneOf(list), [Atom::Value(expr)])
                if one_word(expr).is_some_and(|word| list.contains(&word.text)) =>
            {
                let word = one_word(expr).map(|word| word.text.clone()).unwrap_or_default();
                return Ok(SettingValue::Word(word));
            }
            (SettingInfoType::Span, _) => return self.span_setting(given, cx).map(SettingValue::Span),
            (SettingInfoType::Spot, [_, ..]) => return self.spot_setting(given, cx),
            // The wire is made of it later.
            (SettingInfoType::Signal(_), [.., last]) => {
                return Ok(SettingValue::Text(path_of(last).map(|path| path.text()).unwrap_or_default()));
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
            Atom::Word(_) | Atom::Group(_) => return Err(Some(describe(given))),
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
            Atom::Group(_) => return None,
        };
        let cx = Cx { has_who: true, ..Cx::new(cx.scope, cx.ids) };
        match ty {
            SettingInfoType::Condition => self.condition(&expr, &cx),
            _ => self.number(&expr, &cx),
        }
    }
}

/// An expression that is one word.
fn one_word(expr: &model::Expr) -> Option<&model::Name> {
    if let ExprKind::Name(path) = &expr.kind { path.single() } else { None }
}

/// The path that an atom is.
pub(super) fn path_of(atom: &Atom) -> Option<model::Path> {
    match atom {
        Atom::Word(word) => Some(model::Path(vec![word.clone()])),
        Atom::Value(model::Expr { kind: ExprKind::Name(path), .. }) => Some(path.clone()),
        _ => None,
    }
}

fn describe(given: &[&Atom]) -> String {
    match given {
        [] => "nothing".to_owned(),
        [Atom::Word(word)] => format!("`{}`", word.text),
        [Atom::Value(_) | Atom::Group(_)] => "something else".to_owned(),
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
