//! Moving what stands behind an edit: every place in a model.

use smol_str::SmolStr;
use stoicheon_core::{Arithmetic, Comparison, Type};

use super::{
    Among, Arg, Atom, Axis, Bind, Case, Cases, Constant, Count, Crossing, Declaration, During, Expr,
    ExprKind, Field, File, Given, Items, Kit, Limit, Literal, Name, Object, Objects, ParamType, ParamTypeRef,
    Parameter, Part, Path, Player, Playtest, PlaytestStep, Quantity, Routine, SceneFile, SecondsValue, Sign,
    SpanValue, Spot, Statement, StatementKind, Step, Target, TypeRef, Use, Var, Where, Wire,
};
use crate::{
    diagnostic::{Diagnostic, Label},
    source::Span,
};

/// What stands in a file from some byte on is now so many bytes further on, or further back.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Shift {
    pub(crate) file: u32,
    pub(crate) from: u32,
    pub(crate) by: i64,
}

impl Shift {
    /// Where a byte is now that stood there.
    pub(crate) fn of(self, at: u32) -> u32 {
        if at < self.from {
            return at;
        }
        // Texts that are too long for this are refused before they are read.
        u32::try_from(i64::from(at) + self.by).unwrap_or(u32::MAX)
    }
}

/// What has places in a text.
pub(crate) trait Moves {
    /// Moves them.
    fn moves(&mut self, shift: Shift);
}

impl Moves for Span {
    fn moves(&mut self, shift: Shift) {
        if self.file == shift.file && self.start >= shift.from {
            (self.start, self.end) = (shift.of(self.start), shift.of(self.end));
        }
    }
}

impl<T: Moves> Moves for Vec<T> {
    fn moves(&mut self, shift: Shift) {
        self.iter_mut().for_each(|one| one.moves(shift));
    }
}

impl<T: Moves> Moves for Option<T> {
    fn moves(&mut self, shift: Shift) {
        self.iter_mut().for_each(|one| one.moves(shift));
    }
}

impl<T: Moves> Moves for Box<T> {
    fn moves(&mut self, shift: Shift) {
        (**self).moves(shift);
    }
}

impl<T: Moves, U: Moves> Moves for (T, U) {
    fn moves(&mut self, shift: Shift) {
        self.0.moves(shift);
        self.1.moves(shift);
    }
}

macro_rules! without_places {
    ($($ty:ty),*) => {
        $(impl Moves for $ty {
            fn moves(&mut self, _: Shift) {}
        })*
    };
}

/// Each field is named, so that none is forgotten.
macro_rules! structs {
    ($($ty:ident { $($field:ident),* })*) => {
        $(impl Moves for $ty {
            fn moves(&mut self, shift: Shift) {
                let Self { $($field),* } = self;
                $($field.moves(shift);)*
            }
        })*
    };
}

macro_rules! enums {
    ($($ty:ident { $($variant:ident $(($($at:ident),*))? $({ $($field:ident),* })?;)* })*) => {
        $(impl Moves for $ty {
            fn moves(&mut self, shift: Shift) {
                match self {
                    $(Self::$variant $(($($at),*))? $({ $($field),* })? => {
                        $($($at.moves(shift);)*)?
                        $($($field.moves(shift);)*)?
                    })*
                }
            }
        })*
    };
}

without_places!(
    bool,
    u8,
    u32,
    u64,
    i32,
    f64,
    SmolStr,
    String,
    Type,
    ParamType,
    Literal,
    SecondsValue,
    SpanValue
);
without_places!(Comparison, Arithmetic, Quantity, Sign, Limit);

structs! {
    File {
        scene, project, scenes, ticks, players, seeds, scene_number, source, shortest, shared, catalogues, places, given, items,
        kits, playtests
    }
    SceneFile { file, left }
    Count { span, count }
    TypeRef { span, ty }
    Constant { name, ty, value, about }
    Var { name, ty, first, per_player, remember }
    Field { name, ty }
    Declaration { name, fields, crosses, sent_by_game, heard_by_game }
    Crossing { to, by }
    Object { span, name, at, facing, tags, of, disabled, body, remember, parts, vars, signals, spots, wires }
    Spot { name, at, facing }
    Part { kind, settings }
    Wire {
        span, on, every, pattern, by, when, order, cooldown, cooldown_per_who, delay, times, while_running, running_per_who, during,
        body
    }
    During { stages, stage }
    Bind { span, keep, each, to }
    Routine { span, name, fields, body }
    Kit { name, parameters, items, made, home }
    Parameter { name, ty, default }
    ParamTypeRef { span, ty }
    Use { span, kit, name, given, torn, made }
    Given { name, value }
    Items { givens, vars, signals, effects, objects, managers, moulds, spots, wires, binds, rules, routines, uses }
    Name { span, text, outward }
    Expr { span, kind }
    Among { span, of, inside, state, is_not, such_that }
    Statement { span, kind }
    Arg { name, value }
    Playtest { span, name, linked, seeds, given, cases, players, steps }
    Cases { span, names, rows }
    Case { span, name, values }
    Player { name, at, scene, tags }
    PlaytestStep { span, step }
    Diagnostic { severity, code, message, labels, help }
    Label { span, text }
}

enums! {
    Atom { Word(name); Value(value); Group(atoms); }
    Axis { Named(name); Vector(value); }
    Target { Name(path); Of(path, whose); }
    Where { Named(path); Held(value); }
    Objects { One(one); Every(among); }
    ExprKind {
        Literal(literal); Name(path); Of(path, one); Call(name, args); Last(path); Count(among); Quantity(quantity, among);
        Nearest(among, to); Text(parts); Vector(parts); About(one, axis); Not(one); Negate(one); And(one, two); Or(one, two);
        Compare(how, one, two); Arithmetic(how, one, two); Is { subject, state, not }; Inside { body, zone, span, not };
        Tagged { object, tag, not }; Carries { object, tag, not }; InScene { object, scene, not }; Bad;
    }
    StatementKind {
        Tell { command, who, args }; Wait(span); Until { condition, within, otherwise }; Emit { signal, values, behalf };
        Perform { effect, values, behalf }; On(wire); Do { routine, values }; Set { target, with, to };
        Tween { target, to, over, ease }; Keep { name, value }; Enable(who); Disable(who); Destroy(who); Spawn { mould, at, name };
        Send { who, spot, scene }; Tag { who, tag, away }; If { when, then, otherwise }; Repeat { times, body };
        RepeatWhile { condition, body }; ForEach { name, among, body }; ForEachCell { column, row, cells, of, body }; Stop;
    }
    Step {
        Pause { player, span }; Walk { player, to }; GoThrough { player, at }; Answer { player, prompt };
        Join { player, at, scene, tags }; Press { player, key }; Hold { player, key, span }; KeyDown { player, key };
        KeyUp { player, key }; Point { player, at, from_there, button }; Leave { player }; Choose { player, answer }; Wait(span);
        Until { what, within }; InOrder { what, within }; Save; Reload; Suspend; AllowFaults; Together(steps);
        Expect { what, limit }; ExpectWith { what, values, limit }; Sees { player, what }; Does(statement); Block(statements);
        Always(what); Never(what);
    }
}

without_places!(crate::diagnostic::Severity, crate::diagnostic::Code);

impl Moves for Path {
    fn moves(&mut self, shift: Shift) {
        self.0.moves(shift);
    }
}
