//! The syntax: tokens, the lossless tree, and the parser that makes it.

mod expr;
mod hints;
mod item;
mod kind;
mod object;
mod parser;
mod playtest;
mod statement;

pub(crate) use kind::{Node, SyntaxKind, Token};
pub(crate) use parser::{parse, parse_value};
