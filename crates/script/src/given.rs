//! Named constants that are set from outside: `given stone_reach: number = 6`.

use std::sync::Arc;

use smol_str::SmolStr;
use stoicheon_core::{Type, Value};

use crate::{
    diagnostic::{Code, Diagnostic},
    lower::lower_value,
    model::{Expr, ExprKind, File, Given, Literal, Name, Path},
    print::quoted,
    source::{Sources, Span},
    suggest::suggest,
    syntax::parse_value,
};

/// Values for the named constants of some wiring, in place of those it was written with.
///
/// ```
/// use stoicheon_core::{Catalogue, World};
/// use stoicheon_script::{Givens, load};
///
/// let text = "given stone_reach: number = 6 \"how far one may point\"\nvar reach: number = stone_reach * 2";
/// let loaded = load("stones.stoi", text, &Catalogue::built_in());
/// let near = loaded.with_given(&Givens::new().set("stone_reach", 2.0));
/// let mut world = World::<()>::new();
/// near.build(&mut world)?;
/// assert_eq!(world.value(world.find_var("reach").unwrap())?, &4.0.into());
/// // The same as people write it.
/// assert!(loaded.with_given(&Givens::new().written("stone_reach = 2")?).diagnostics().is_empty());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Givens(Vec<(SmolStr, String)>);

/// What is no name with a value.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("expected a name and a value, such as stone_reach=8, found \"{found}\"")]
pub struct NotGiven {
    /// What was found.
    pub found: String,
}

impl Givens {
    /// None yet.
    pub fn new() -> Self {
        Self::default()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// One more, or another value for one.
    pub fn set(self, name: &str, value: impl Into<Value>) -> Self {
        let text = match value.into() {
            Value::Text(text) => quoted(&text),
            Value::Number(number) if !number.is_finite() => "no number".to_owned(),
            Value::Number(number) => format!("{number:?}"),
            Value::Duration(span) if stoicheon_core::ticks(span.whole()) == span => {
                format!("{}ticks", span.whole())
            }
            Value::Duration(span) => format!("{}ticks / 1000000", (span.count() * 1e6).round()),
            Value::Rotation(rotation) => {
                let (axis, degrees) = rotation.axis_and_degrees();
                format!("{degrees}deg about ({}, {}, {})", axis.x, axis.y, axis.z)
            }
            Value::Vector(at) => format!("({}, {}, {})", at.x, at.y, at.z),
            other => other.shown().unwrap_or_default().to_string(),
        };
        self.and(name, text)
    }

    /// One more, as people write it: `stone_reach = 8`.
    ///
    /// # Errors
    /// [`NotGiven`] for a text without a name and `=`.
    pub fn written(self, text: &str) -> Result<Self, NotGiven> {
        let is_name = |name: &&str| {
            !name.is_empty() && name.chars().all(|letter| letter.is_alphanumeric() || letter == '_')
        };
        match text.split_once('=').map(|(name, value)| (name.trim(), value.trim())) {
            Some((name, value)) if is_name(&name) => Ok(self.and(name, value.to_owned())),
            _ => Err(NotGiven { found: text.to_owned() }),
        }
    }

    pub(crate) fn and(mut self, name: &str, text: String) -> Self {
        self.0.retain(|(known, _)| known != name);
        self.0.push((name.into(), text));
        self
    }

    /// Each as wiring, in a text of its own among the sources.
    pub(crate) fn read(&self, sources: &mut Sources, diagnostics: &mut Vec<Diagnostic>) -> Vec<Given> {
        let mut given = Vec::new();
        for (name, value) in &self.0 {
            let text = format!("given {name} = {value}");
            let file = sources.add("what is given", &text);
            let begins = text.len() - value.len();
            let parsed = parse_value(value, file, begins);
            diagnostics.extend(parsed.errors);
            let span = Span::new(file, "given ".len(), "given ".len() + name.len());
            let name = Name::new(name.clone(), span);
            if let Some(value) = lower_value(&parsed.tree, file, begins, diagnostics) {
                given.push(Given { name, value });
            }
        }
        given
    }
}

/// Puts values in the place of those the constants were written with. A name there is no constant of is told of.
pub(crate) fn put(files: &mut [Arc<File>], given: &[Given], diagnostics: &mut Vec<Diagnostic>) {
    for Given { name, value } in given {
        let mut found = false;
        let says =
            |file: &&mut Arc<File>| file.items.givens.iter().any(|constant| constant.name.text == name.text);
        let saying = files.iter_mut().filter(says).map(Arc::make_mut);
        for constant in saying.flat_map(|file| &mut file.items.givens) {
            if constant.name.text == name.text {
                constant.value = as_declared(value.clone(), &constant.ty.ty);
                found = true;
            }
        }
        if !found {
            let known = files.iter().flat_map(|file| &file.items.givens);
            let known: Vec<_> = known.map(|constant| constant.name.text.as_str()).collect();
            diagnostics.push(
                Diagnostic::error(Code::UnknownName, format!("there is no given value `{}`", name.text))
                    .at(name.span, "expected a name that is given")
                    .help(suggest(&name.text, "name", known.into_iter())),
            );
        }
    }
}

/// A word and a text stand for each other, as the constant wants it.
fn as_declared(value: Expr, ty: &Type) -> Expr {
    let span = value.span;
    let kind = match (value.kind, ty) {
        (ExprKind::Literal(Literal::Text(text)), Type::OneOf(_)) => {
            ExprKind::Name(Path(vec![Name::new(text, span)]))
        }
        (ExprKind::Name(Path(names)), Type::Text) if names.len() == 1 => {
            ExprKind::Literal(Literal::Text(names[0].text.clone()))
        }
        (kind, _) => kind,
    };
    Expr { span, kind }
}
