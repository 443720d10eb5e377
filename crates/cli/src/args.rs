//! The words of the command line.

use std::path::PathBuf;

use clap::{Parser, Subcommand};

/// Wire scene objects together through signals, in an order that can be predicted, read back and explained.
#[derive(Debug, Parser)]
#[command(name = "stoicheon", version, after_help = EXIT)]
pub(crate) struct Args {
    #[command(subcommand)]
    pub(crate) command: Command,
}

const EXIT: &str = "Exit status: 0 good, 1 the wiring or a playtest has faults, 2 the call itself is wrong.";

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Check and play the shipped Harrow Lock scene, and print its trace.
    Demo,
    /// Play a scene and print its trace.
    Play(Play),
    /// Check wiring without running it.
    Check(Check),
    /// Run the playtests of one or more files or folders.
    Test(Test),
}

#[derive(Debug, clap::Args)]
pub(crate) struct Play {
    /// The wiring file.
    pub(crate) file: PathBuf,
    /// Which playtest to play, by name or by number from 1. Default the first; without any, the scene runs alone.
    #[arg(long, value_name = "NAME")]
    pub(crate) playtest: Option<String>,
    /// How long a scene without a playtest runs, in seconds.
    #[arg(long = "for", value_name = "SECONDS", default_value_t = 10.0)]
    pub(crate) seconds: f64,
    /// Leave out where wires were written.
    #[arg(long)]
    pub(crate) no_places: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Check {
    /// Wiring files, or folders to look for `.stoi` files in.
    #[arg(required = true)]
    pub(crate) paths: Vec<PathBuf>,
    /// Print the findings as JSON.
    #[arg(long)]
    pub(crate) json: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Test {
    /// Wiring files, or folders to look for `.stoi` files in.
    #[arg(required = true)]
    pub(crate) paths: Vec<PathBuf>,
    /// Print the results as JSON.
    #[arg(long)]
    pub(crate) json: bool,
}
