//! Commands that a part does not take.

use smol_str::SmolStr;
use thiserror::Error as ThisError;

use super::Near;
use crate::base::{numbers::Command, value::Type};

/// What a part cannot be told. It was not told.
#[derive(Clone, Debug, PartialEq, ThisError)]
#[non_exhaustive]
pub enum CommandError {
    /// A command a part does not have.
    #[error(
        "expected the number of a command of a {kind}, below {known}, found {found} for \"{object}\": use the constants of its type",
        found = found.number()
    )]
    NoCommandNumber {
        /// The kind of part.
        kind: &'static str,
        /// The object it belongs to.
        object: SmolStr,
        /// How many commands it has.
        known: usize,
        /// What was given.
        found: Command,
    },
    /// Something was said with a command that does not take it.
    #[error("`{command}` of a {kind} takes {known}, found \"{found}\"{near}")]
    NoSuchArgument {
        /// The kind of part.
        kind: &'static str,
        /// The command.
        command: &'static str,
        /// What was said.
        found: SmolStr,
        /// What it takes, as a list.
        known: String,
        /// What was meant, perhaps.
        near: Near,
    },
    /// One thing was said twice with a command.
    #[error("`{command}` of a {kind} takes `{argument}` once, found it twice")]
    ArgumentTwice {
        /// The kind of part.
        kind: &'static str,
        /// The command.
        command: &'static str,
        /// What was said.
        argument: &'static str,
    },
    /// Something was not said that a command needs.
    #[error("`{command}` of a {kind} needs `{missing}`, found none")]
    MissingArgument {
        /// The kind of part.
        kind: &'static str,
        /// The command.
        command: &'static str,
        /// What is not there.
        missing: &'static str,
    },
    /// What was said with a command is of another type.
    #[error("`{command}` of a {kind} takes `{argument}: {expected}`, found {found}")]
    WrongArgument {
        /// The kind of part.
        kind: &'static str,
        /// The command.
        command: &'static str,
        /// What was said.
        argument: &'static str,
        /// Its type.
        expected: Type,
        /// The type that was given, as a word.
        found: &'static str,
    },
    /// The object has no part that takes the command.
    #[error("no part of \"{name}\" takes the command \"{command}\"")]
    NoSuchCommand {
        /// The object.
        name: SmolStr,
        /// The command.
        command: SmolStr,
    },
}
