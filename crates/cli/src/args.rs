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

const EXIT: &str = "Exit status: 0 good, 1 the wiring or a playtest has faults, 2 the call itself is wrong, or a file cannot be read or written.";

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Check and play the shipped canal, two scenes with two players, and print its trace.
    Demo,
    /// Make a small project that checks, plays and passes its playtests.
    New(New),
    /// Play a scene and print its trace.
    Play(Play),
    /// Check wiring without running it.
    Check(Check),
    /// Run the playtests of one or more files or folders.
    Test(Test),
    /// Format wiring files; comments are kept.
    Fmt(Fmt),
    /// Turn wiring into JSON, or JSON into wiring.
    Convert(Convert),
    /// List what wiring can use: parts, their settings, commands and signals.
    Catalogue(CatalogueOf),
}

#[derive(Debug, clap::Args)]
pub(crate) struct New {
    /// The folder to make; the project is called as it is.
    pub(crate) folder: PathBuf,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Fmt {
    /// Wiring files, or folders to look for `.stoi` files in.
    #[arg(required = true)]
    pub(crate) paths: Vec<PathBuf>,
    /// Change nothing; say what would be changed, and exit with 1 if anything would.
    #[arg(long)]
    pub(crate) check: bool,
    /// Print all findings, not only the first 100.
    #[arg(long)]
    pub(crate) all: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Convert {
    /// A `.stoi` file, a `.json` file of the same form, or a `.gltf` or `.glb` scene whose places become wiring.
    pub(crate) from: Option<PathBuf>,
    /// Where to write it. Default standard output.
    pub(crate) to: Option<PathBuf>,
    /// Print the JSON Schema of the JSON form instead.
    #[arg(long, conflicts_with = "from")]
    pub(crate) schema: bool,
    /// Print the JSON Schema of saves instead.
    #[arg(long, conflicts_with_all = ["from", "schema"])]
    pub(crate) save_schema: bool,
    /// Print the JSON Schema of what `check`, `test` and `play` print with `--json` instead.
    #[arg(long, conflicts_with_all = ["from", "schema", "save_schema"])]
    pub(crate) output_schema: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct CatalogueOf {
    /// A wiring file, or a project's file or folder: what its catalogues offer is shown too.
    pub(crate) path: Option<PathBuf>,
    /// The catalogue of a game, as JSON, besides what is built in.
    #[arg(long, value_name = "FILE")]
    pub(crate) catalogue: Option<PathBuf>,
    /// Print it as JSON.
    #[arg(long)]
    pub(crate) json: bool,
}

#[expect(clippy::struct_excessive_bools, reason = "each is a flag of its own")]
#[derive(Debug, Default, clap::Args)]
pub(crate) struct Play {
    /// The wiring file, the file of a project, or its folder.
    pub(crate) file: PathBuf,
    /// Which scene of a project. Default the first.
    #[arg(long, value_name = "NAME")]
    pub(crate) scene: Option<String>,
    /// Which playtest to play, by name or by number from 1. Default the first; without any, the scene runs alone.
    #[arg(long, value_name = "NAME", conflicts_with_all = ["alone", "load", "resume"])]
    pub(crate) playtest: Option<String>,
    /// Run the scene without a playtest, although it has one.
    #[arg(long)]
    pub(crate) alone: bool,
    /// A value for a named constant of the wiring, in place of the one it was written with; may be given several times.
    #[arg(long, value_name = "NAME=VALUE")]
    pub(crate) given: Vec<String>,
    /// How long a scene runs that runs alone, in seconds. Default 10.
    #[arg(long = "for", value_name = "SECONDS", conflicts_with = "playtest")]
    pub(crate) seconds: Option<f64>,
    /// Leave out where wires were written.
    #[arg(long)]
    pub(crate) no_places: bool,
    /// Print all findings, and every line of the trace, however many there are of a kind in a tick.
    #[arg(long)]
    pub(crate) all: bool,
    /// Print how it went as JSON, with the lines of the trace.
    #[arg(long)]
    pub(crate) json: bool,
    /// Begin with what this save remembers, with the players who were here, and run on alone.
    #[arg(long, value_name = "FILE", conflicts_with = "resume")]
    pub(crate) load: Option<PathBuf>,
    /// Write what is to be remembered to this file when it has run: CBOR if it ends in .cbor, otherwise JSON.
    #[arg(long, value_name = "FILE")]
    pub(crate) save: Option<PathBuf>,
    /// Go on with the whole world that was put aside in this file, and run on alone.
    #[arg(long, value_name = "FILE")]
    pub(crate) resume: Option<PathBuf>,
    /// Put the whole world aside in this file when it has run.
    #[arg(long, value_name = "FILE")]
    pub(crate) suspend: Option<PathBuf>,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Check {
    /// Wiring files, or folders to look for `.stoi` files in.
    #[arg(required = true)]
    pub(crate) paths: Vec<PathBuf>,
    /// The catalogue of a game, as JSON, besides what is built in.
    #[arg(long, value_name = "FILE")]
    pub(crate) catalogue: Option<PathBuf>,
    /// Print the findings as JSON.
    #[arg(long)]
    pub(crate) json: bool,
    /// Print all findings, not only the first 100.
    #[arg(long, conflicts_with = "json")]
    pub(crate) all: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Test {
    /// Wiring files, or folders to look for `.stoi` files in.
    #[arg(required = true)]
    pub(crate) paths: Vec<PathBuf>,
    /// Print the results as JSON.
    #[arg(long)]
    pub(crate) json: bool,
    /// Print all findings, not only the first 100.
    #[arg(long, conflicts_with = "json")]
    pub(crate) all: bool,
}
