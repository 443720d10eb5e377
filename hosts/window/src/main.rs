//! Harrow Lock in a window: walked with the keys, by two players.
//!
//! W A S D and E are ada's keys, the arrows and Return are ben's. F5 saves, F9 loads, Escape ends it. What is shown as words
//! is said on the terminal too. The file of the save may be given; it is `harrow.save` without.

#![allow(clippy::print_stdout, reason = "what a player is told can be read on the terminal too")]

mod canvas;
mod draw;
mod game;
mod lock;
mod window;

use std::path::PathBuf;

use crate::{game::Game, window::Window};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let file = std::env::args_os().nth(1).map_or_else(|| PathBuf::from("harrow.save"), PathBuf::from);
    let game = Game::new()?;
    println!("Harrow Lock is open");
    Window::new(game, file)?.run()?;
    println!("Harrow Lock is shut");
    Ok(())
}
