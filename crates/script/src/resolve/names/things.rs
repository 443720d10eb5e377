//! What can be declared, and what is known of each.

use std::{collections::BTreeMap, sync::Arc};

use smol_str::SmolStr;
use stoicheon_core::{
    Crosses, EffectId, Field, MouldId, ObjectId, PartId, PartInfo, RoutineId, SpotId, Type, Value, VarId,
};

use crate::{
    model::{self},
    source::Span,
};

/// What a name stands for, where values are asked for.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Thing<'m> {
    Object(usize),
    Var(usize),
    Spot(usize),
    /// A named constant.
    Constant(usize),
    /// The names inside a use of a kit.
    Use(usize),
    /// A parameter of a kit: what was given for it, in the scope of the use.
    Given {
        ty: &'m Type,
        value: &'m model::Expr,
        scope: usize,
    },
}

/// A file's own names, or those of one use of a kit.
#[derive(Debug, Default)]
pub(crate) struct Scope<'m> {
    /// It belongs to a project and to none of its scenes.
    pub(crate) hall: bool,
    /// The scene of the project it belongs to, as files count them.
    pub(crate) scene_number: u32,
    /// Before the names of what is made in it.
    pub(crate) prefix: SmolStr,
    /// The uses it is inside of, the innermost first.
    pub(crate) uses: Vec<Span>,
    pub(crate) parent: Option<usize>,
    /// Where the kit is used.
    pub(crate) used_in: Option<usize>,
    /// The kit, by the scene whose files declare it and its name.
    pub(crate) kit: Option<(u32, SmolStr)>,
    /// A parameter was not given; what else is wrong inside would only be noise.
    pub(crate) broken: bool,
    pub(crate) things: BTreeMap<SmolStr, (Thing<'m>, Span)>,
    pub(crate) signals: BTreeMap<SmolStr, usize>,
    pub(crate) effects: BTreeMap<SmolStr, usize>,
    pub(crate) routines: BTreeMap<SmolStr, usize>,
    pub(crate) moulds: BTreeMap<SmolStr, usize>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Role {
    Object,
    Manager,
    /// A manager that the game makes itself.
    Foreign,
    Mould,
}

/// An object, a manager or a mould.
#[derive(Debug)]
pub(crate) struct Object<'m> {
    /// With what comes before it.
    pub(crate) name: SmolStr,
    pub(crate) role: Role,
    pub(crate) written: Option<&'m model::Object>,
    pub(crate) span: Span,
    pub(crate) scope: usize,
    pub(crate) tags: Vec<SmolStr>,
    /// Each part that is of a kind somebody knows, with its kind.
    pub(crate) parts: Vec<(&'m model::Part, &'m PartInfo)>,
    /// Signals of its own, by their names without the object's.
    pub(crate) signals: BTreeMap<SmolStr, (Arc<[Field]>, Span)>,
    pub(crate) vars: BTreeMap<SmolStr, usize>,
    pub(crate) spots: BTreeMap<SmolStr, usize>,
    pub(crate) id: ObjectId,
    pub(crate) part_ids: Vec<PartId>,
    pub(crate) mould: MouldId,
}

/// A named constant, and what it gives once somebody asked.
#[derive(Debug)]
pub(crate) struct Constant<'m> {
    pub(crate) written: &'m model::Constant,
    pub(crate) scope: usize,
    pub(crate) known: Known,
}

/// What is known of a constant so far.
#[derive(Clone, Debug)]
pub(crate) enum Known {
    NotYet,
    /// It is wrong, and told of.
    Wrong,
    Value(Value),
}

#[derive(Debug)]
pub(crate) struct Var<'m> {
    pub(crate) name: SmolStr,
    pub(crate) ty: Type,
    pub(crate) per_player: bool,
    /// Where it is declared: its name, or the part that keeps it.
    pub(crate) span: Span,
    /// `None` for one that a part keeps.
    pub(crate) written: Option<&'m model::Var>,
    /// The kind of part that keeps it.
    pub(crate) kept_by: Option<&'m PartInfo>,
    pub(crate) object: Option<usize>,
    pub(crate) scope: usize,
    /// Where the bind stands that keeps it.
    pub(crate) bound: Option<Span>,
    pub(crate) id: VarId,
}

/// A scene-wide signal, or an effect.
#[derive(Debug)]
pub(crate) struct Message {
    pub(crate) name: SmolStr,
    pub(crate) fields: Arc<[Field]>,
    /// `None` for what the game or every world has.
    pub(crate) span: Option<Span>,
    pub(crate) effect: EffectId,
    /// Which way it crosses, and the tags of those who may send it.
    pub(crate) crosses: Option<(Crosses, Vec<SmolStr>)>,
}

#[derive(Debug)]
pub(crate) struct Routine<'m> {
    pub(crate) name: SmolStr,
    pub(crate) written: &'m model::Routine,
    pub(crate) scope: usize,
    pub(crate) id: RoutineId,
}

#[derive(Debug)]
pub(crate) struct Spot<'m> {
    pub(crate) name: SmolStr,
    pub(crate) written: &'m model::Spot,
    pub(crate) object: Option<usize>,
    pub(crate) scope: usize,
    pub(crate) id: SpotId,
}

/// A wire, a bind or a rule, in the scope it is written for.
#[derive(Debug)]
pub(crate) struct Placed<'m, T> {
    pub(crate) written: &'m T,
    pub(crate) scope: usize,
    pub(crate) owner: Option<usize>,
}

impl<T> Clone for Placed<'_, T> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<T> Copy for Placed<'_, T> {}

impl Object<'_> {
    pub(crate) fn new(name: SmolStr, role: Role, scope: usize) -> Self {
        Self {
            name,
            role,
            written: None,
            span: Span::default(),
            scope,
            tags: Vec::new(),
            parts: Vec::new(),
            signals: BTreeMap::new(),
            vars: BTreeMap::new(),
            spots: BTreeMap::new(),
            id: ObjectId::default(),
            part_ids: Vec::new(),
            mould: MouldId::default(),
        }
    }
}
