//! What stands for the parameters of a kit that are names.

use std::{cell::RefCell, collections::BTreeMap};

use smol_str::SmolStr;

use crate::{
    diagnostic::{Code, Diagnostic},
    model::{Atom, Expr, ExprKind, Name, ParamType, Parameter, Path},
    source::Span,
};

/// What stands for a parameter.
#[derive(Clone, Debug)]
pub(crate) enum Stands {
    /// A tag, or several.
    Tags(Vec<Name>),
    /// A signal, an effect or a mould, or several.
    Paths(Vec<Path>),
    /// A spot of another scene.
    Away(Path, Name),
}

/// What is put for which parameter, by what it is.
#[derive(Debug, Default)]
pub(crate) struct Names {
    tags: BTreeMap<SmolStr, Vec<Name>>,
    signals: BTreeMap<SmolStr, Vec<Path>>,
    effects: BTreeMap<SmolStr, Vec<Path>>,
    moulds: BTreeMap<SmolStr, Vec<Path>>,
    away: BTreeMap<SmolStr, (Path, Name)>,
    /// All of them as values, for uses of other kits.
    values: BTreeMap<SmolStr, Expr>,
    /// Places where one is needed and several are given.
    wrong: RefCell<Vec<Diagnostic>>,
    /// Where parameters were found, and by which names.
    found: RefCell<Vec<Name>>,
}

impl Names {
    pub(crate) fn add(&mut self, parameter: &Parameter, span: Span, stands: Stands) {
        let name = parameter.name.text.clone();
        let named = |path: &Path| Expr { span, kind: ExprKind::Name(path.clone()) };
        let value = match stands {
            Stands::Tags(tags) => {
                let value = joined(tags.iter().map(|tag| named(&Path(vec![tag.clone()]))), ExprKind::Or);
                self.tags.insert(name.clone(), tags);
                value
            }
            Stands::Paths(paths) => {
                let value = joined(paths.iter().map(named), ExprKind::Or);
                let list = match parameter.ty.ty {
                    ParamType::Effect => &mut self.effects,
                    ParamType::Mould => {
                        // What is made after a mould has its name for a tag.
                        let tags = paths.iter().filter_map(Path::single).cloned();
                        self.tags.insert(name.clone(), tags.collect());
                        &mut self.moulds
                    }
                    _ => &mut self.signals,
                };
                list.insert(name.clone(), paths);
                value
            }
            Stands::Away(path, scene) => {
                let (object, not) = (Box::new(named(&path)), false);
                let value = Expr { span, kind: ExprKind::InScene { object, scene: scene.clone(), not } };
                self.away.insert(name.clone(), (path, scene));
                Some(value)
            }
        };
        self.values.extend(value.map(|value| (name, value)));
    }

    /// Where parameters were found.
    pub(crate) fn found(self) -> Vec<Name> {
        self.found.into_inner()
    }

    fn note(&self, name: &Name) {
        self.found.borrow_mut().push(name.clone());
    }

    /// What is wrong with what was put.
    pub(crate) fn wrong(self) -> Vec<Diagnostic> {
        self.wrong.into_inner()
    }

    /// What stands for a parameter, as a value.
    pub(crate) fn value(&self, name: &Name) -> Option<Expr> {
        let value = self.values.get(&name.text)?;
        self.note(name);
        Some(value.clone())
    }

    /// A tag that stands for several becomes several.
    pub(crate) fn tags(&self, tags: &mut Vec<Name>) {
        let all = tags.iter().flat_map(|tag| match self.tags.get(&tag.text) {
            Some(given) => {
                self.note(tag);
                given.clone()
            }
            None => vec![tag.clone()],
        });
        *tags = all.collect();
    }

    /// A tag where only one can stand.
    pub(crate) fn one_tag(&self, tag: &mut Name) {
        if let Some(tags) = self.tags.get(&tag.text) {
            self.note(tag);
            self.one("tag", tag, tags.len());
            if let Some(first) = tags.first() {
                *tag = first.clone();
            }
        }
    }

    pub(crate) fn first_tag(&self, path: &mut Path) {
        if let Some(first) = path.0.first_mut() {
            self.one_tag(first);
        }
    }

    fn one(&self, kind: &str, name: &Name, found: usize) {
        if found > 1 {
            let message = format!("expected one {kind}, found `{}`, which stands for {found}", name.text);
            let help = format!("give the kit one {kind}, or add it once for each");
            let found =
                Diagnostic::error(Code::WrongType, message).at(name.span, format!("expected one {kind}"));
            let found = match self.values.get(&name.text) {
                Some(value) => found.at(value.span, "given here"),
                None => found,
            };
            self.wrong.borrow_mut().push(found.help(help));
        }
    }

    fn paths<'p>(&self, path: &Path, list: &'p BTreeMap<SmolStr, Vec<Path>>) -> Option<&'p [Path]> {
        let name = path.single()?;
        let found = list.get(&name.text)?;
        self.note(name);
        Some(found.as_slice())
    }

    /// The signals that a name stands for; `None` if it is no parameter.
    pub(crate) fn signals(&self, path: &Path) -> Option<&[Path]> {
        self.paths(path, &self.signals)
    }

    /// The effects that a name stands for; `None` if it is no parameter.
    pub(crate) fn effects(&self, path: &Path) -> Option<&[Path]> {
        self.paths(path, &self.effects)
    }

    /// The moulds that a name stands for; none if it is no parameter.
    pub(crate) fn moulds(&self, mould: &Name, is_kept: bool) -> Vec<Name> {
        let Some(moulds) = self.moulds.get(&mould.text) else { return Vec::new() };
        self.note(mould);
        if is_kept {
            self.one("mould", mould, moulds.len());
        }
        moulds.iter().filter_map(Path::single).cloned().collect()
    }

    /// The spot of another scene that a name stands for.
    pub(crate) fn away(&self, path: &Path) -> Option<(Path, Name)> {
        let name = path.single()?;
        let away = self.away.get(&name.text)?;
        self.note(name);
        Some(away.clone())
    }

    /// What stands for a word among settings; `None` if it is no parameter.
    pub(crate) fn words(&self, word: &Name) -> Option<Vec<Atom>> {
        let (tags, signals) = (&self.tags, &self.signals);
        if tags.contains_key(&word.text)
            || signals.contains_key(&word.text)
            || self.away.contains_key(&word.text)
        {
            self.note(word);
        }
        if let Some(tags) = self.tags.get(&word.text) {
            return Some(tags.iter().cloned().map(Atom::Word).collect());
        }
        if let Some(paths) = self.signals.get(&word.text) {
            self.one("signal", word, paths.len());
            return Some(paths.iter().take(1).map(path_atom).collect());
        }
        let (path, scene) = self.away.get(&word.text)?;
        let within = Name::new("in", word.span);
        Some(vec![path_atom(path), Atom::Word(within), Atom::Word(scene.clone())])
    }

    /// A test for a tag that stands for one, or for several of which any will do.
    pub(crate) fn tested(&self, test: &Expr) -> Option<Expr> {
        let (tag, not) = match &test.kind {
            ExprKind::Tagged { tag, not, .. } | ExprKind::Carries { tag, not, .. } => (tag, *not),
            _ => return None,
        };
        let tags = self.tags.get(&tag.text)?;
        self.note(tag);
        let with = |new: &Name| {
            let mut test = test.clone();
            if let ExprKind::Tagged { tag, .. } | ExprKind::Carries { tag, .. } = &mut test.kind {
                *tag = new.clone();
            }
            test
        };
        joined(tags.iter().map(with), if not { ExprKind::And } else { ExprKind::Or })
    }
}

fn joined(parts: impl Iterator<Item = Expr>, how: impl Fn(Box<Expr>, Box<Expr>) -> ExprKind) -> Option<Expr> {
    parts.reduce(|one, two| {
        let span = one.span;
        Expr { span, kind: how(Box::new(one), Box::new(two)) }
    })
}

fn path_atom(path: &Path) -> Atom {
    match path.single() {
        Some(name) => Atom::Word(name.clone()),
        None => Atom::Value(Expr { span: path.span(), kind: ExprKind::Name(path.clone()) }),
    }
}
