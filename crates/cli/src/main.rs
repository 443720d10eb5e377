//! The `stoicheon` command.

mod args;
mod check;
mod failure;
mod files;
mod out;
mod play;
mod test;

use std::process::ExitCode;

use clap::Parser;

use args::{Args, Command};

fn main() -> ExitCode {
    let args = Args::parse();
    let done = match args.command {
        Command::Demo => play::demo(),
        Command::Play(args) => play::play(&args),
        Command::Check(args) => check::check(&args),
        Command::Test(args) => test::test(&args),
    };
    match done {
        Ok(out::Outcome::Good) => ExitCode::SUCCESS,
        Ok(out::Outcome::Faults) => ExitCode::from(1),
        Err(misuse) => {
            out::complain(&misuse);
            ExitCode::from(2)
        }
    }
}
