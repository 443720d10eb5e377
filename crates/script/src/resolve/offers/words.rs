//! Functions, types and the ways to ease.

use smol_str::SmolStr;
use stoicheon_core::{Ease, Function, Type};

use crate::{
    model,
    offer::{Offer, OfferKind as Kind},
};

/// The ways to ease.
pub(crate) fn eases() -> Vec<Offer> {
    Ease::ALL.map(|ease| Offer::new(Kind::State, ease.word())).into()
}

/// A function: what it is for, and what it takes.
type Known = (&'static str, &'static str, &'static [(&'static str, &'static str)]);

const FUNCTIONS: [Known; 17] = [
    ("distance", "How far two things are from each other.", &[("one", "place"), ("two", "place")]),
    ("direction", "The way from one thing to another, one long.", &[("from", "place"), ("to", "place")]),
    ("count", "How many of a group there are.", &[("of", "tag")]),
    ("random", "A number by chance, from one to another.", &[("from", "number"), ("to", "number")]),
    ("min", "The least of some numbers.", &[("one", "number"), ("two", "number")]),
    ("max", "The greatest of some numbers.", &[("one", "number"), ("two", "number")]),
    (
        "clamp",
        "A number, but not below one and not above another.",
        &[("value", "number"), ("least", "number"), ("most", "number")],
    ),
    (
        "lerp",
        "Between two numbers: the first at 0, the second at 1.",
        &[("from", "number"), ("to", "number"), ("at", "number")],
    ),
    ("remainder", "What is left of a division.", &[("value", "number"), ("by", "number")]),
    ("abs", "A number without its sign.", &[("value", "number")]),
    ("round", "The nearest whole number.", &[("value", "number")]),
    ("floor", "The next whole number below.", &[("value", "number")]),
    ("ceil", "The next whole number above.", &[("value", "number")]),
    ("number", "A whole number as a number.", &[("value", "whole")]),
    ("length", "How long a vector is.", &[("of", "vector")]),
    (
        "middle",
        "Where the middle of a cell of a grid is.",
        &[("grid", "object"), ("column", "whole"), ("row", "whole")],
    ),
    (
        "steps_between",
        "How many steps there are from one cell of a grid to another.",
        &[
            ("grid", "object"),
            ("column", "whole"),
            ("row", "whole"),
            ("to_column", "whole"),
            ("to_row", "whole"),
        ],
    ),
];

/// The functions there are.
pub(crate) fn functions() -> Vec<Offer> {
    let known = FUNCTIONS.iter().map(|(name, about, takes)| {
        let takes = takes.iter().map(|(name, ty)| (SmolStr::new_static(name), (*ty).to_owned()));
        Offer::new(Kind::Function, *name).takes(takes).about(*about).holes()
    });
    let is_known = |word: &str| FUNCTIONS.iter().any(|(name, ..)| *name == word);
    let others = Function::ALL.into_iter().map(Function::word).filter(|word| !is_known(word));
    known.chain(others.map(|word| Offer::new(Kind::Function, word).snippet(format!("{word}($0)")))).collect()
}

/// The types that something can have.
pub(crate) fn types(of_kit: bool) -> Vec<Offer> {
    let plain = Type::PLAIN.iter().map(|ty| Offer::new(Kind::Type, ty.word()));
    let list =
        Offer::new(Kind::Type, "one of").about("One word of a list.").snippet("one of (${1:dry}, ${2:wet})");
    let names = model::ParamType::NAMES.iter().filter(|_| of_kit).map(|ty| Offer::new(Kind::Type, ty.word()));
    plain.chain([list]).chain(names).collect()
}
