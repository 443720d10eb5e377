//! The `stoicheon` command.

mod args;
mod check;
mod ci;
mod draw;
mod json;
mod keep;
mod live;
mod look;
mod lsp;
mod moment;
mod names;
mod new;
mod out;
mod play;
mod saved;
mod stage;
mod test;
mod text;
mod why;

use std::process::ExitCode;

use clap::Parser;

use args::{Args, Command};

fn main() -> ExitCode {
    let args = Args::parse();
    let done = match args.command {
        Command::Demo => play::demo(),
        Command::New(args) => new::new(&args),
        Command::Play(args) => play::play(&args),
        Command::Draw(args) => draw::draw(&args),
        Command::Why(args) => why::why(&args),
        Command::Look(args) => look::look(&args),
        Command::Live(args) => live::live(&args),
        Command::Check(args) => check::check(&args),
        Command::Test(args) => test::test(&args),
        Command::Find(args) => names::find(&args),
        Command::Rename(args) => names::rename(&args),
        Command::Fmt(args) => Ok(text::fmt(&args)),
        Command::Convert(args) => text::convert(&args),
        Command::Catalogue(args) => text::catalogue(&args),
        Command::Lsp(args) => lsp::lsp(&args),
    };
    match out::printed().and(done) {
        Ok(out::Outcome::Good) => ExitCode::SUCCESS,
        Ok(out::Outcome::Faults) => ExitCode::from(1),
        Ok(out::Outcome::Unread) => ExitCode::from(2),
        Err(misuse) => {
            out::complain(&misuse);
            ExitCode::from(2)
        }
    }
}
