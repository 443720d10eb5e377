//! The settings of parts: what was given against what the kind of part takes.

use smol_str::SmolStr;
use stoicheon_core::{Expr, PartInfo, SettingInfo, SettingInfoType, SettingValue, Settings, Type, Value};

use super::{
    Cx, Resolver, Ty, Typed,
    words::{Entry, Given, Listed, row_of, takes_words},
};
use crate::{
    diagnostic::{Code, Diagnostic},
    model::{self, Atom, ExprKind},
};

impl Resolver<'_, '_> {
    /// A spot that a part sends to: its whole name, and the scene if it is in another one.
    pub(super) fn spot_setting(
        &mut self,
        given: &[&Atom],
        cx: &Cx<'_>,
    ) -> Result<SettingValue, Option<String>> {
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

    /// Reads the row of names and values after a kind of part.
    pub(super) fn settings(&mut self, info: &PartInfo, part: &model::Part, cx: &Cx<'_>) -> Settings {
        let mut settings = Settings::default();
        // What comes after a word such as `also`: the settings that it begins again.
        let mut again: Option<(SmolStr, Vec<SmolStr>)> = None;
        let mut more: Vec<Settings> = Vec::new();
        let Listed { entries, given } = Listed::of(info, part);
        // A text right after the kind needs no name.
        let first = info.settings.first().filter(|setting| setting.ty == SettingInfoType::Text);
        // What is written and wrong is told of, and not missing.
        let mut written: Vec<&str> = Vec::new();
        for Given { setting, span, unknown, values } in given {
            let is_text = |atom: &Atom| {
                let text = |kind: &ExprKind| {
                    // A text that could not be read is told of as such.
                    matches!(
                        kind,
                        ExprKind::Literal(model::Literal::Text(_)) | ExprKind::Text(_) | ExprKind::Bad
                    )
                };
                matches!(atom, Atom::Value(expr) if text(&expr.kind))
            };
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
            written.push(&setting.name);
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
                    // `about y, ovr 2s`: the value is good, and a word after it is no setting.
                    if let [first, Atom::Word(word), ..] = values.as_slice()
                        && let Ok(value) = self.setting_value(setting, &[*first], cx)
                    {
                        settings.set(&setting.name, value);
                        self.not_a_setting(info, Some(word), word.span);
                        continue;
                    }
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
        self.missing(info, part, &settings, &written);
        settings
    }

    /// Words of the user's own, with what stands after each.
    pub(super) fn own_words(
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
                            .at(word.span, "not possible")
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
    pub(super) fn span_setting(
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

    pub(super) fn seconds(
        &mut self,
        atom: &Atom,
        cx: &Cx<'_>,
    ) -> Result<stoicheon_core::Seconds, Option<String>> {
        let Atom::Value(expr) = atom else { return Err(Some(describe(&[atom]))) };
        match self.expr(expr, None, cx) {
            Some(Typed { expr: Expr::Value(Value::Duration(span)), .. }) => Ok(cx.ids.rate().seconds(span)),
            Some(found) => Err(Some(found.ty.a())),
            None => Err(None),
        }
    }

    /// Names and values of one row.
    pub(super) fn table_row(&mut self, row: &[Atom], cx: &Cx<'_>) -> Option<Vec<(SmolStr, Value)>> {
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

    /// The value of a setting; or what was found instead, if that was not reported yet.
    pub(super) fn setting_value(
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
                    Some(tags) => {
                        tags.iter().for_each(|tag| self.note_tag(tag));
                        Ok(SettingValue::Tags(tags.iter().map(|tag| tag.text.clone()).collect()))
                    }
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
        let Some(value) = found.expr.known() else {
            self.not_constant(expr.span, "a setting");
            return Err(None);
        };
        Ok(match (&setting.ty, &found.ty, &value) {
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

    /// A condition or an amount that is worked out while the world runs; `who` is known.
    pub(super) fn worked_out(&mut self, ty: &SettingInfoType, atom: &Atom, cx: &Cx<'_>) -> Option<Expr> {
        let expr = match atom {
            Atom::Value(expr) => expr.clone(),
            Atom::Word(word) => {
                model::Expr { span: word.span, kind: ExprKind::Name(model::Path(vec![word.clone()])) }
            }
            Atom::Group(_) => return None,
        };
        let cx = Cx { has_who: true, owner: cx.owner, ..Cx::new(cx.scope, cx.ids) };
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
