//! Expressions: what guards, rules, binds and the values of statements are made of.
//!
//! They are plain data over ids: no name is looked up while the world runs. Nothing panics: operands that do not
//! fit give [`Value::Nothing`], which no guard takes for true; what else can go wrong is a [`EvalFault`], with a
//! result that is laid down.

use glam::Vec3;
use serde::{Deserialize, Serialize};
use smallvec::SmallVec;

use crate::{
    base::{
        ids::{PartId, PropertyName, SceneId, Tag, VarId},
        numbers::PartState,
        value::{Text, Value},
    },
    plan::{
        among::{Among, StateTest},
        operators::{Arithmetic, Axis, Comparison, Function},
    },
};

/// An expression.
///
/// ```
/// use stoicheon_core::{Expr, World};
/// let mut world = World::<()>::new();
/// let level = world.var("level", 0.4)?;
/// let full = Expr::var(level).more_than(0.95);
/// assert_eq!(world.evaluate(&full), false.into());
/// # Ok::<(), stoicheon_core::Error>(())
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[non_exhaustive]
pub enum Expr {
    /// A value as written.
    Value(Value),
    /// A variable.
    Var(VarId),
    /// A variable that each player has, of one of them.
    VarOf(VarId, Box<Expr>),
    /// A variable of an object that is known only then.
    Property {
        /// The object.
        object: Box<Expr>,
        /// The name of the variable.
        name: PropertyName,
    },
    /// A field of the payload, by number.
    Field(u8),
    /// A value a sequence keeps for itself, by number.
    Local(u8),
    /// Whom the signal goes back to.
    Who,
    /// The object whose signal it is.
    Giver,
    /// The object that the wire, or the part that asks, belongs to.
    Own,
    /// The object that is looked at, within [`Among`] and in a bind for each of a group.
    It,
    /// Whether a part is in a state.
    State {
        /// The part.
        part: PartId,
        /// The state, as a number of its kind's list.
        state: PartState,
    },
    /// What a part says of itself: one of its kind's readings, or one of its settings that may change.
    Reading {
        /// Which part.
        part: PartOf,
        /// The word for the reading.
        name: Text,
        /// The player, for one that there is for each; the one who caused the signal without.
        who: Option<Box<Expr>>,
        /// It may change with every tick.
        ticking: bool,
    },
    /// Whether an object that is known only then is in a state.
    StateOf {
        /// The object.
        object: Box<Expr>,
        /// The state.
        test: StateTest,
    },
    /// Whether somebody is inside a zone.
    Inside {
        /// Who.
        body: Box<Expr>,
        /// The zone's part.
        zone: PartId,
    },
    /// For how long somebody has been inside a zone; nothing if they are not.
    InsideFor {
        /// Who.
        body: Box<Expr>,
        /// The zone's part.
        zone: PartId,
    },
    /// Whether an object has a tag.
    Tagged {
        /// The object.
        object: Box<Expr>,
        /// The tag.
        tag: Tag,
    },
    /// Whether an object is in a scene.
    InScene {
        /// The object.
        object: Box<Expr>,
        /// The scene.
        scene: SceneId,
    },
    /// Whether an object is gone, or never was.
    Gone(Box<Expr>),
    /// Whether an object is there and enabled.
    Enabled(Box<Expr>),
    /// Whether an object is there and cannot be seen, as one of its parts says.
    Hidden(Box<Expr>),
    /// Whether an object is there and in nobody's way, as one of its parts says.
    Passable(Box<Expr>),
    /// Whether an object carries an item with a tag.
    Carries {
        /// The object.
        object: Box<Expr>,
        /// The tag.
        tag: Tag,
    },
    /// Where an object or a spot is.
    Place(Box<Expr>),
    /// Which way an object or a spot faces.
    Facing(Box<Expr>),
    /// The velocity of a body, in scene units per second.
    Velocity(Box<Expr>),
    /// Which way an object or a spot looks, as a vector of length 1.
    Forward(Box<Expr>),
    /// The way from one object, spot or place to another, as a vector of length 1; no way at all if they are at one place.
    Direction(Box<Expr>, Box<Expr>),
    /// One of the three numbers of a vector.
    Component(Box<Expr>, Axis),
    /// The middle of a cell: the object with the grid, the column and the row.
    Middle(Box<[Expr; 3]>),
    /// How many steps it is from one cell to another: the object with the grid, column and row of the one, and of the other.
    CellSteps(Box<[Expr; 5]>),
    /// How far two objects, spots or places are from each other.
    Distance(Box<Expr>, Box<Expr>),
    /// How many there are.
    Count(Box<Among>),
    /// Whether there is any.
    Any(Box<Among>),
    /// The nearest of a group to an object or a place; ties go to the one made first.
    Nearest {
        /// The group.
        among: Box<Among>,
        /// To what.
        to: Box<Expr>,
    },
    /// The name of an object, as text.
    Name(Box<Expr>),
    /// Values one after the other as one text, each as [`State::text_of`](crate::State::text_of) writes it.
    Text(Vec<Expr>),
    /// Three numbers as a vector.
    Vector(Box<[Expr; 3]>),
    /// A turn by so many degrees about an axis.
    Turn {
        /// The angle in degrees.
        degrees: Box<Expr>,
        /// The axis.
        about: Vec3,
    },
    /// A function of numbers.
    Call(Function, Vec<Expr>),
    /// A number from the first up to but not including the second, from the world's own seeded source. Only a
    /// statement draws one; anywhere else it is [`Value::Nothing`].
    Random(Box<Expr>, Box<Expr>),
    /// One of some objects, each as likely as any other. Only a statement draws one, as with [`Expr::Random`].
    RandomOf(Box<Among>),
    /// Not.
    Not(Box<Expr>),
    /// Both; the second is looked at only if the first holds.
    And(Box<Expr>, Box<Expr>),
    /// One or the other; the second is looked at only if the first does not hold.
    Or(Box<Expr>, Box<Expr>),
    /// A comparison.
    Compare(Comparison, Box<Expr>, Box<Expr>),
    /// Arithmetic.
    Arithmetic(Arithmetic, Box<Expr>, Box<Expr>),
}

/// A part that an expression or a statement is about.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[non_exhaustive]
pub enum PartOf {
    /// This one.
    Part(PartId),
    /// The first of that kind that an object has which is known only then.
    Of {
        /// The object.
        object: Box<Expr>,
        /// The word for the kind.
        kind: Text,
    },
}

impl<T: Into<Value>> From<T> for Expr {
    fn from(value: T) -> Self {
        Self::Value(value.into())
    }
}

/// The expressions directly inside one, to be looked at or to be changed.
macro_rules! operands {
    ($self:expr, $iter:ident, $as_deref:ident $(, $mut:tt)?) => {
        match $self {
            Expr::Value(_)
            | Expr::Var(_)
            | Expr::Field(_)
            | Expr::Local(_)
            | Expr::Who
            | Expr::Giver
            | Expr::Own
            | Expr::It
            | Expr::Reading { part: PartOf::Part(_), who: None, .. }
            | Expr::State { .. } => SmallVec::new(),
            Expr::VarOf(_, one)
            | Expr::Reading { part: PartOf::Of { object: one, .. }, who: None, .. }
            | Expr::Reading { part: PartOf::Part(_), who: Some(one), .. }
            | Expr::Property { object: one, .. }
            | Expr::StateOf { object: one, .. }
            | Expr::Inside { body: one, .. }
            | Expr::InsideFor { body: one, .. }
            | Expr::Tagged { object: one, .. }
            | Expr::InScene { object: one, .. }
            | Expr::Gone(one)
            | Expr::Enabled(one)
            | Expr::Hidden(one)
            | Expr::Passable(one)
            | Expr::Carries { object: one, .. }
            | Expr::Place(one)
            | Expr::Facing(one)
            | Expr::Velocity(one)
            | Expr::Forward(one)
            | Expr::Component(one, _)
            | Expr::Name(one)
            | Expr::Turn { degrees: one, .. }
            | Expr::Not(one) => SmallVec::from_iter([& $($mut)? **one]),
            Expr::Reading { part: PartOf::Of { object: one, .. }, who: Some(two), .. }
            | Expr::And(one, two)
            | Expr::Or(one, two)
            | Expr::Compare(_, one, two)
            | Expr::Arithmetic(_, one, two)
            | Expr::Random(one, two)
            | Expr::Direction(one, two)
            | Expr::Distance(one, two) => SmallVec::from_iter([& $($mut)? **one, & $($mut)? **two]),
            Expr::Vector(parts) | Expr::Middle(parts) => parts.$iter().collect(),
            Expr::CellSteps(parts) => parts.$iter().collect(),
            Expr::Call(_, parts) | Expr::Text(parts) => parts.$iter().collect(),
            Expr::Count(among) | Expr::Any(among) | Expr::RandomOf(among) => {
                among.such_that.$as_deref().into_iter().collect()
            }
            Expr::Nearest { among, to } => {
                among.such_that.$as_deref().into_iter().chain(std::iter::once(& $($mut)? **to)).collect()
            }
        }
    };
}

#[expect(clippy::should_implement_trait, reason = "`not` reads as the wiring language does")]
impl Expr {
    /// What a variable holds.
    pub fn var(var: VarId) -> Self {
        Self::Var(var)
    }

    /// What a part says of itself, such as how far a [door](crate::Door) stands open: one of its kind's readings, or one of its
    /// settings that may change.
    ///
    /// ```
    /// use stoicheon_core::{Door, Expr, World, secs};
    /// let mut world = World::<()>::new();
    /// let gate = world.object("upper_gate").add()?;
    /// let door = world.attach(gate, Door::swing(85.0).over(secs(2.0)))?;
    /// world.open(door)?;
    /// for _ in 0..15 {
    ///     world.step(&mut ())?;
    /// }
    /// assert_eq!(world.evaluate(&Expr::reading(door.part, "openness")), 0.25.into());
    /// # Ok::<(), stoicheon_core::Error>(())
    /// ```
    pub fn reading(part: PartId, name: &str) -> Self {
        // Nothing is known of its kind here: it is looked at with every tick.
        Self::Reading { part: PartOf::Part(part), name: name.into(), who: None, ticking: true }
    }

    /// A field of the payload, by its number.
    pub fn field(number: u8) -> Self {
        Self::Field(number)
    }

    /// A comparison with something.
    pub fn compare(self, how: Comparison, other: impl Into<Self>) -> Self {
        Self::Compare(how, Box::new(self), Box::new(other.into()))
    }

    /// `self > other`
    pub fn more_than(self, other: impl Into<Self>) -> Self {
        self.compare(Comparison::Greater, other)
    }

    /// `self < other`
    pub fn less_than(self, other: impl Into<Self>) -> Self {
        self.compare(Comparison::Less, other)
    }

    /// `self == other`
    pub fn equals(self, other: impl Into<Self>) -> Self {
        self.compare(Comparison::Equal, other)
    }

    /// `self + other`
    pub fn plus(self, other: impl Into<Self>) -> Self {
        Self::Arithmetic(Arithmetic::Add, Box::new(self), Box::new(other.into()))
    }

    /// Both hold.
    pub fn and(self, other: Self) -> Self {
        Self::And(Box::new(self), Box::new(other))
    }

    /// One of them holds.
    pub fn or(self, other: Self) -> Self {
        Self::Or(Box::new(self), Box::new(other))
    }

    /// It does not hold.
    pub fn not(self) -> Self {
        Self::Not(Box::new(self))
    }

    /// The expressions directly inside this one.
    pub fn operands(&self) -> SmallVec<[&Self; 3]> {
        operands!(self, iter, as_deref)
    }

    fn operands_mut(&mut self) -> SmallVec<[&mut Self; 3]> {
        operands!(self, iter_mut, as_deref_mut, mut)
    }

    /// The same with what only the sequence knows written out: its own values, the payload's, and who caused it.
    pub(crate) fn filled(&self, locals: &[Value], values: &[Value], who: Option<&Value>) -> Self {
        let known = |list: &[Value], number: u8| list.get(usize::from(number)).cloned().map(Self::Value);
        let known = match self {
            Self::Local(number) => known(locals, *number),
            Self::Field(number) => known(values, *number),
            Self::Who => who.cloned().map(Self::Value),
            _ => None,
        };
        let mut filled = known.unwrap_or_else(|| self.clone());
        for operand in filled.operands_mut() {
            *operand = operand.filled(locals, values, who);
        }
        filled
    }

    /// The conditions that are joined by `and` at the outside of it; itself, if there is no `and`.
    pub fn conditions(&self) -> Vec<&Self> {
        match self {
            Self::And(one, two) => [one.conditions(), two.conditions()].concat(),
            other => vec![other],
        }
    }

    /// Whether somewhere in it a random number is drawn.
    pub fn is_random(&self) -> bool {
        matches!(self, Self::Random(..) | Self::RandomOf(_))
            || self.operands().into_iter().any(Self::is_random)
    }
}
