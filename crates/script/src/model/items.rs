//! What a scene or a kit consists of: kept by kind, written in the order of the text, which decides the order of wires
//! and the numbers of objects.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{Bind, Constant, Declaration, Expr, Object, Routine, Spot, Use, Var, Wire};
use crate::source::Span;

/// What a scene or a kit consists of, by kind.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(from = "Vec<Item>", into = "Vec<Item>")]
pub(crate) struct Items {
    pub(crate) givens: Vec<Constant>,
    pub(crate) vars: Vec<Var>,
    pub(crate) signals: Vec<Declaration>,
    pub(crate) effects: Vec<Declaration>,
    pub(crate) objects: Vec<Object>,
    pub(crate) managers: Vec<Object>,
    pub(crate) moulds: Vec<Object>,
    pub(crate) spots: Vec<Spot>,
    pub(crate) wires: Vec<Wire>,
    pub(crate) binds: Vec<Bind>,
    pub(crate) rules: Vec<Expr>,
    pub(crate) routines: Vec<Routine>,
    pub(crate) uses: Vec<Use>,
}

/// One of them.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Item {
    /// A named constant.
    Given(Constant),
    Var(Var),
    Signal(Declaration),
    Effect(Declaration),
    Object(Object),
    Manager(Object),
    Mould(Object),
    Spot(Spot),
    /// A wire.
    On(Wire),
    Bind(Bind),
    /// A rule: this must never hold.
    Never(Expr),
    Routine(Routine),
    Add(Use),
}

impl Item {
    /// Where it stands, which says what comes before what.
    fn span(&mut self) -> &mut Span {
        match self {
            Self::Given(constant) => &mut constant.name.span,
            Self::Var(var) => &mut var.name.span,
            Self::Signal(message) | Self::Effect(message) => &mut message.name.span,
            Self::Object(object) | Self::Manager(object) | Self::Mould(object) => &mut object.name.span,
            Self::Spot(spot) => &mut spot.name.span,
            Self::On(wire) => &mut wire.span,
            Self::Bind(bind) => &mut bind.span,
            Self::Never(rule) => &mut rule.span,
            Self::Routine(routine) => &mut routine.name.span,
            Self::Add(used) => &mut used.span,
        }
    }
}

impl Items {
    pub(crate) fn add(&mut self, item: Item) {
        match item {
            Item::Given(constant) => self.givens.push(constant),
            Item::Var(var) => self.vars.push(var),
            Item::Signal(signal) => self.signals.push(signal),
            Item::Effect(effect) => self.effects.push(effect),
            Item::Object(object) => self.objects.push(object),
            Item::Manager(manager) => self.managers.push(manager),
            Item::Mould(mould) => self.moulds.push(mould),
            Item::Spot(spot) => self.spots.push(spot),
            Item::On(wire) => self.wires.push(wire),
            Item::Bind(bind) => self.binds.push(bind),
            Item::Never(rule) => self.rules.push(rule),
            Item::Routine(routine) => self.routines.push(routine),
            Item::Add(used) => self.uses.push(used),
        }
    }
}

impl From<Items> for Vec<Item> {
    fn from(items: Items) -> Self {
        let mut all: Self = Self::new();
        all.extend(items.givens.into_iter().map(Item::Given));
        all.extend(items.vars.into_iter().map(Item::Var));
        all.extend(items.signals.into_iter().map(Item::Signal));
        all.extend(items.effects.into_iter().map(Item::Effect));
        all.extend(items.objects.into_iter().map(Item::Object));
        all.extend(items.managers.into_iter().map(Item::Manager));
        all.extend(items.moulds.into_iter().map(Item::Mould));
        all.extend(items.spots.into_iter().map(Item::Spot));
        all.extend(items.wires.into_iter().map(Item::On));
        all.extend(items.binds.into_iter().map(Item::Bind));
        all.extend(items.rules.into_iter().map(Item::Never));
        all.extend(items.routines.into_iter().map(Item::Routine));
        all.extend(items.uses.into_iter().map(Item::Add));
        all.sort_by_key(|item| *item.clone().span());
        all
    }
}

impl From<Vec<Item>> for Items {
    fn from(all: Vec<Item>) -> Self {
        let mut items = Self::default();
        for (number, mut item) in all.into_iter().enumerate() {
            // What was never a text has its place in the list for a place in the text.
            *item.span() = Span::new(0, number, number);
            items.add(item);
        }
        items
    }
}
