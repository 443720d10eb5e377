//! Runs the course, and prints the trace and what was heard.

#![allow(clippy::print_stdout, reason = "it shows what it did")]

use stoicheon::{Error, view::TraceText};
use stoicheon_physics_host::{Course, Zones};

fn main() -> Result<(), Error> {
    let (mut course, mut text) = (Course::new(Zones::Told)?, TraceText::plain());
    for _ in 0..500 {
        course.frame(1.0 / 60.0)?;
        print!("{}", course.trace(&mut text));
    }
    println!("{}", TraceText::digest(&course.world));
    course.heard.iter().for_each(|line| println!("{line}"));
    Ok(())
}
