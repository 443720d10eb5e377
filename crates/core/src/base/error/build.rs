//! What cannot be made: names, shapes, settings and wiring that do not fit together.

use glam::{Quat, Vec3};
use smol_str::SmolStr;
use thiserror::Error as ThisError;

use crate::base::{clock::Seconds, place::Place};

/// What cannot be made, or placed so. The world is as it was.
#[derive(Clone, Debug, PartialEq, ThisError)]
#[non_exhaustive]
pub enum BuildError {
    /// Two things of one kind would have one name.
    #[error("expected a name that is not used, found \"{name}\", which {kind} of this world has already")]
    NameTaken {
        /// What kind of thing has the name, with its article.
        kind: &'static str,
        /// The name.
        name: SmolStr,
    },
    /// A name holds something other than letters, digits and underscores, or starts with a digit.
    #[error("expected a name of letters, digits and underscores, found \"{found}\"")]
    BadName {
        /// What was given.
        found: SmolStr,
    },
    /// One signal name was used with two payloads.
    #[error("signal \"{name}\" carries ({declared}), and here it is used with ({found})")]
    PayloadMismatch {
        /// The signal.
        name: SmolStr,
        /// The fields it was declared with.
        declared: String,
        /// The fields it was used with.
        found: String,
    },
    /// A span that is not above zero, or not a number, or too long to count.
    #[error("expected a span above 0 s and up to 1e9 s, found {found}")]
    BadDuration {
        /// The span.
        found: Seconds,
    },
    /// A tick rate out of range.
    #[error("expected a tick rate from 1 to 1000 per second, found {found}")]
    BadTickRate {
        /// The rate.
        found: u32,
    },
    /// A size that is not above zero in each direction.
    #[error("expected a size above 0 each way, found ({}, {}, {})", found.x, found.y, found.z)]
    BadSize {
        /// The size.
        found: Vec3,
    },
    /// A direction without a length, or not of finite numbers.
    #[error("expected a direction of finite numbers and some length, found ({}, {}, {})", found.x, found.y, found.z)]
    BadDirection {
        /// The direction.
        found: Vec3,
    },
    /// A quaternion that is no rotation.
    #[error("expected a rotation of length 1, found ({}, {}, {}, {})", found.x, found.y, found.z, found.w)]
    BadRotation {
        /// The quaternion.
        found: Quat,
    },
    /// A shape of two forms at once.
    #[error("expected one form, found two: put `also` between them if both are meant")]
    TwoForms,
    /// Settings that name no form where a shape is needed.
    #[error(
        "expected a form: box, ball, capsule, cylinder, below, above or behind; for a zone without one, `told`"
    )]
    MissingForm,
    /// A zone that finds out by its form who is inside and is told so by the host as well.
    #[error("expected a form, or `told` for a zone whose host says who is inside, found both")]
    FormAndTold,
    /// A form without one of its sizes.
    #[error("expected `{setting}` with a {form}")]
    MissingSize {
        /// The form.
        form: &'static str,
        /// What is not given.
        setting: &'static str,
    },
    /// Something that would hang on itself, or on what hangs on it.
    #[error("\"{name}\" cannot be attached to an object that is attached to \"{name}\"")]
    HangsOnItself {
        /// The object.
        name: SmolStr,
    },
    /// A body of a shape that bodies cannot have.
    #[error("expected one ball, one capsule or one box of three sizes for a body, found another shape")]
    BadBody,
    /// A body that is a capsule or a box, in a build without the feature for that.
    #[error(
        "in this build bodies are points and balls: switch the feature `shaped-bodies` on for capsules and boxes"
    )]
    NoShapedBodies,
    /// A number out of the range its setting takes.
    #[error("expected {expected} for {setting}, found {found}")]
    BadNumber {
        /// The setting.
        setting: &'static str,
        /// The range it takes.
        expected: &'static str,
        /// The number.
        found: f64,
    },
    /// What a signal carries cannot be what a closure on it takes.
    #[error(
        "signal \"{signal}\" carries ({found}), and the closure takes ({expected}), which that cannot be"
    )]
    PayloadUnfit {
        /// The signal.
        signal: SmolStr,
        /// The fields of what the closure takes.
        expected: String,
        /// The values that were given.
        found: String,
    },
    /// The settings of a part do not go together.
    #[error("expected {expected}")]
    BadSettings {
        /// What was expected.
        expected: &'static str,
    },
    /// Two binds would keep one variable.
    #[error("variable \"{name}\" is kept by the bind at {first}, and again by the one at {second}")]
    BoundTwice {
        /// The variable.
        name: SmolStr,
        /// Where the first bind was written.
        first: Place,
        /// Where the second was written.
        second: Place,
    },
    /// Binds that would go round for ever.
    #[error("these binds read each other in a circle: {}", circle.join(" → "))]
    BindCircle {
        /// What they keep and where they were written, each read by the next.
        circle: Vec<String>,
    },
    /// A bind on a random number.
    #[error("the bind at {place} draws a random number and would never settle; draw it in a statement")]
    RandomBind {
        /// Where the bind was written.
        place: Place,
    },
    /// A second object would have a role.
    #[error(
        "the role \"{role}\" was taken at {first}, and again at {second}: a role is for one object alone"
    )]
    RoleTaken {
        /// The role.
        role: SmolStr,
        /// Where it was taken first.
        first: Place,
        /// Where it would be taken again.
        second: Place,
    },
    /// The same wiring would be made a second time.
    #[error("{what} is already in this world: build it once in each world")]
    BuiltTwice {
        /// What it is.
        what: SmolStr,
    },
    /// The wiring has errors.
    #[error("expected wiring without errors, found some in {what}: mend what its findings say")]
    Faulty {
        /// What it is.
        what: SmolStr,
    },
    /// The world was built of something else than what is to be changed.
    #[error(
        "this world was not made of {what} as it is said to have been: begin again with what is written now"
    )]
    NotMadeOf {
        /// What it is.
        what: SmolStr,
    },
    /// A world cannot change how many ticks it counts in a second.
    #[error(
        "this world counts {here} ticks per second, and {rate} are written now: begin again with what is written now"
    )]
    OtherRate {
        /// How many it counts.
        here: u32,
        /// How many are written.
        rate: u32,
    },
    /// A scene would go that is loaded.
    #[error("the scene \"{scene}\" is loaded and written no more: unload it first, or begin again")]
    SceneInUse {
        /// The scene.
        scene: SmolStr,
    },
    /// A place with an infinite coordinate or one that is not a number.
    #[error("expected a place with finite numbers, found ({}, {}, {})", found.x, found.y, found.z)]
    BadPlace {
        /// The place.
        found: Vec3,
    },
    /// A velocity with an infinite part or one that is not a number.
    #[error("expected a velocity of finite numbers, found ({}, {}, {})", found.x, found.y, found.z)]
    BadVelocity {
        /// The velocity.
        found: Vec3,
    },
}
