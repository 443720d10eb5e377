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
    /// Create a small project that checks, plays and passes its playtests.
    New(New),
    /// Play a scene and print its trace.
    Play(Play),
    /// Draw a scene: its map, its wiring, what happened over time, or a page with all of it.
    #[command(subcommand)]
    Draw(Draw),
    /// Say why something happened, or why it did not.
    Why(WhyArgs),
    /// Show what everything is at a moment: states, variables, who is inside, what waits, wires.
    Look(Look),
    /// Serve a page in which a scene runs: walk in it, look, ask, change things, go back.
    Live(LiveArgs),
    /// Check wiring without running it.
    Check(Check),
    /// Run the playtests of one or more files or folders.
    Test(Test),
    /// Find a name: where it is declared, sent, taken, set and read.
    Find(Find),
    /// Give something another name, in all places where it stands and nowhere else.
    Rename(Rename),
    /// Format wiring files; comments are kept.
    Fmt(Fmt),
    /// Turn wiring into JSON, or JSON into wiring.
    Convert(Convert),
    /// List what wiring can use: parts, their settings, commands and signals.
    Catalogue(CatalogueOf),
    /// Serve an editor, which starts this itself: findings as you type, completion, names, formatting.
    Lsp(LspArgs),
}

/// `stoicheon lsp`
#[derive(Debug, clap::Args)]
pub(crate) struct LspArgs {
    /// The catalogue of a game, as JSON, in addition to the built-in one.
    #[arg(long, value_name = "FILE")]
    pub(crate) catalogue: Option<PathBuf>,
    /// Accepted, as some editors say how they talk to a server: standard input and output is the only way.
    #[arg(long, hide = true)]
    pub(crate) stdio: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct New {
    /// The folder to create; the project gets its name.
    pub(crate) folder: PathBuf,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Fmt {
    /// Wiring files, or folders with `.stoi` files.
    #[arg(required = true)]
    pub(crate) paths: Vec<PathBuf>,
    /// Change nothing; list the files that would change, and exit with 1 if there are any.
    #[arg(long)]
    pub(crate) check: bool,
    /// Print all findings, not only the first 100.
    #[arg(long)]
    pub(crate) all: bool,
}

/// `stoicheon find toll_gate canal`
#[derive(Debug, clap::Args)]
pub(crate) struct Find {
    /// The name: `bell`, `upper_gate.lit`, or with its kind before it: "signal bell".
    pub(crate) name: String,
    /// A wiring file, the file of a project, or a folder.
    #[arg(default_value = ".")]
    pub(crate) path: PathBuf,
    /// The catalogue of a game, as JSON, in addition to the built-in one.
    #[arg(long, value_name = "FILE")]
    pub(crate) catalogue: Option<PathBuf>,
    /// Print it as JSON.
    #[arg(long)]
    pub(crate) json: bool,
}

/// `stoicheon rename toll_gate north_gate canal`
#[derive(Debug, clap::Args)]
pub(crate) struct Rename {
    /// What is renamed: `bell`, `upper_gate.lit`, or with its kind before it: "signal bell".
    pub(crate) old: String,
    /// The new name.
    pub(crate) new: String,
    /// A wiring file, the file of a project, or a folder.
    #[arg(default_value = ".")]
    pub(crate) path: PathBuf,
    /// The catalogue of a game, as JSON, in addition to the built-in one.
    #[arg(long, value_name = "FILE")]
    pub(crate) catalogue: Option<PathBuf>,
    /// Write nothing; only show what would change.
    #[arg(long)]
    pub(crate) check: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Convert {
    /// A `.stoi` file, a `.json` file with the same model, or a `.gltf` or `.glb` scene whose places become wiring.
    pub(crate) from: Option<PathBuf>,
    /// The file to write. Default standard output.
    pub(crate) to: Option<PathBuf>,
    /// Print the JSON Schema of the JSON form instead.
    #[arg(long, conflicts_with = "from")]
    pub(crate) schema: bool,
    /// Print the JSON Schema of saves instead.
    #[arg(long, conflicts_with_all = ["from", "schema"])]
    pub(crate) save_schema: bool,
    /// Print the JSON Schema of what `check`, `test`, `play`, `look` and `find` print with `--json` instead.
    #[arg(long, conflicts_with_all = ["from", "schema", "save_schema"])]
    pub(crate) output_schema: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct CatalogueOf {
    /// A wiring file, or a project's file or folder: its catalogues and given values are also listed.
    pub(crate) path: Option<PathBuf>,
    /// The catalogue of a game, as JSON, in addition to the built-in one.
    #[arg(long, value_name = "FILE")]
    pub(crate) catalogue: Option<PathBuf>,
    /// List only this kind of part, such as `door`; can be repeated.
    #[arg(long, value_name = "KIND", conflicts_with = "json")]
    pub(crate) part: Vec<String>,
    /// Print it as JSON.
    #[arg(long)]
    pub(crate) json: bool,
}

/// What is played.
#[derive(Clone, Debug, Default, clap::Args)]
pub(crate) struct Which {
    /// The wiring file, the file of a project, or its folder.
    pub(crate) file: PathBuf,
    /// The scene of a project. Default the first.
    #[arg(long, value_name = "NAME")]
    pub(crate) scene: Option<String>,
    /// The playtest to play, by name or by number from 1. Default the first; a scene without playtests runs alone.
    #[arg(long, value_name = "NAME", conflicts_with = "alone")]
    pub(crate) playtest: Option<String>,
    /// Run the scene without its playtests.
    #[arg(long)]
    pub(crate) alone: bool,
    /// Set a `given` of the wiring to another value; can be repeated.
    #[arg(long, value_name = "NAME=VALUE")]
    pub(crate) given: Vec<String>,
    /// How long a scene runs without a playtest, in seconds. Default 10.
    #[arg(long = "for", value_name = "SECONDS", conflicts_with = "playtest")]
    pub(crate) seconds: Option<f64>,
}

/// `stoicheon live canal`
#[derive(Debug, clap::Args)]
pub(crate) struct LiveArgs {
    #[command(flatten)]
    pub(crate) which: Which,
    /// The address and the port to listen on; port 0 is any that is free.
    #[arg(long, value_name = "ADDRESS", default_value = "127.0.0.1:0")]
    pub(crate) at: String,
    /// Allow an address that other machines can reach.
    #[arg(long)]
    pub(crate) to_others: bool,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Draw {
    /// Where everything is: zones, doors, prompts, spots, pushes, bodies and their ways.
    Map(DrawMap),
    /// What is connected with what: objects, signals and what their wires lead to.
    Wiring(DrawWiring),
    /// What happened over time, from which cause.
    Timeline(DrawTimeline),
    /// One HTML page with all of these, linked: the trace, values, findings and playtests, too.
    Report(DrawReport),
}

/// `stoicheon draw map canal at 3.2s -o canal.png`
#[derive(Debug, clap::Args)]
pub(crate) struct DrawMap {
    #[command(flatten)]
    pub(crate) which: Which,
    /// At which moment; default the end.
    #[arg(value_name = "at TIME")]
    pub(crate) words: Vec<String>,
    /// The file to write, `.svg` or `.png`. Default SVG on standard output.
    #[arg(short, long, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,
    /// Seen from above, also if all of it is in one plane.
    #[arg(long, conflicts_with = "side")]
    pub(crate) above: bool,
    /// Seen from the side, with y up; default for flat scenes.
    #[arg(long)]
    pub(crate) side: bool,
}

/// `stoicheon draw wiring canal --around upper_gate --depth 2 -o wiring.svg`
#[derive(Debug, clap::Args)]
pub(crate) struct DrawWiring {
    #[command(flatten)]
    pub(crate) which: Which,
    /// Only what is near to this object, signal, variable, effect or wire.
    #[arg(long, value_name = "NAME")]
    pub(crate) around: Option<String>,
    /// How many wires may lie between.
    #[arg(long, value_name = "NUMBER", default_value_t = 1, requires = "around")]
    pub(crate) depth: usize,
    /// Draw each object of a kit by itself.
    #[arg(long)]
    pub(crate) unfolded: bool,
    /// The file to write, `.svg` or `.png`. Default SVG on standard output.
    #[arg(short, long, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,
}

/// `stoicheon draw timeline canal --from 2s --to 5s -o timeline.svg`
#[derive(Debug, clap::Args)]
pub(crate) struct DrawTimeline {
    #[command(flatten)]
    pub(crate) which: Which,
    /// The same as --playtest.
    #[arg(value_name = "PLAYTEST", conflicts_with_all = ["playtest", "alone"])]
    pub(crate) of: Option<String>,
    /// Only what happened from that time on.
    #[arg(long, value_name = "TIME")]
    pub(crate) from: Option<String>,
    /// Only what happened up to that time.
    #[arg(long, value_name = "TIME")]
    pub(crate) to: Option<String>,
    /// The file to write, `.svg` or `.png`. Default SVG on standard output.
    #[arg(short, long, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,
}

/// `stoicheon draw report canal -o report.html`
#[derive(Debug, clap::Args)]
pub(crate) struct DrawReport {
    #[command(flatten)]
    pub(crate) which: Which,
    /// The file to write, `.html`. Default HTML on standard output.
    #[arg(short, long, value_name = "FILE")]
    pub(crate) output: Option<PathBuf>,
}

/// `stoicheon why canal "upper_gate opened" at 2.5s for ada`
#[derive(Debug, clap::Args)]
pub(crate) struct WhyArgs {
    #[command(flatten)]
    pub(crate) which: Which,
    /// A signal (`upper_gate opened`), an effect, a variable, a state (`upper_gate is open`), or a wire (`lock.stoi:14`);
    /// then, as you like, `at 2.5s` and `for ada`.
    #[arg(value_name = "WHAT, at TIME, for PLAYER", required = true)]
    pub(crate) words: Vec<String>,
}

/// `stoicheon look canal at 3.2s upper_gate`
#[derive(Debug, clap::Args)]
pub(crate) struct Look {
    #[command(flatten)]
    pub(crate) which: Which,
    /// `at 3.2s`: at which moment; default the end. NAME: only this object, tag, scene, signal, variable, or wire as
    /// `lock.stoi:14`.
    #[arg(value_name = "NAME or at TIME")]
    pub(crate) words: Vec<String>,
    /// Print it as JSON.
    #[arg(long)]
    pub(crate) json: bool,
}

#[expect(clippy::struct_excessive_bools, reason = "each is a flag of its own")]
#[derive(Debug, Default, clap::Args)]
pub(crate) struct Play {
    #[command(flatten)]
    pub(crate) which: Which,
    /// Leave out the places where wires are written.
    #[arg(long)]
    pub(crate) no_places: bool,
    /// Print all findings, and all lines of the trace, also many of one kind in a tick.
    #[arg(long)]
    pub(crate) all: bool,
    /// Print a JSON object per line: each finding, each record of the trace, then the result.
    #[arg(long)]
    pub(crate) json: bool,
    /// Show only what is about this object, signal, variable, effect, scene, or wire as `lock.stoi:14`; can be repeated.
    #[arg(long, value_name = "NAME")]
    pub(crate) only: Vec<String>,
    /// Show only what goes back to this player or body.
    #[arg(long, value_name = "NAME")]
    pub(crate) who: Option<String>,
    /// Show only what happened from that time on.
    #[arg(long, value_name = "TIME")]
    pub(crate) from: Option<String>,
    /// Show only what happened up to that time.
    #[arg(long, value_name = "TIME")]
    pub(crate) to: Option<String>,
    /// Show only signals that some wire refused.
    #[arg(long)]
    pub(crate) refused: bool,
    /// Show only what performed an effect.
    #[arg(long)]
    pub(crate) effects: bool,
    /// Start from this save, with its players, without a playtest.
    #[arg(long, value_name = "FILE", conflicts_with_all = ["resume", "playtest"])]
    pub(crate) load: Option<PathBuf>,
    /// At the end, save what is remembered to this file: CBOR if its name ends in .cbor, otherwise JSON.
    #[arg(long, value_name = "FILE")]
    pub(crate) save: Option<PathBuf>,
    /// Continue the whole world stored in this file, without a playtest.
    #[arg(long, value_name = "FILE", conflicts_with = "playtest")]
    pub(crate) resume: Option<PathBuf>,
    /// At the end, store the whole world in this file.
    #[arg(long, value_name = "FILE")]
    pub(crate) suspend: Option<PathBuf>,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Check {
    /// Wiring files, or folders with `.stoi` files.
    #[arg(required = true)]
    pub(crate) paths: Vec<PathBuf>,
    /// The catalogue of a game, as JSON, in addition to the built-in one.
    #[arg(long, value_name = "FILE")]
    pub(crate) catalogue: Option<PathBuf>,
    /// Print the findings as JSON.
    #[arg(long)]
    pub(crate) json: bool,
    /// Write the findings to this file, too, as SARIF 2.1.0.
    #[arg(long, value_name = "FILE")]
    pub(crate) sarif: Option<PathBuf>,
    /// Print all findings, not only the first 100.
    #[arg(long, conflicts_with = "json")]
    pub(crate) all: bool,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Test {
    /// Wiring files, or folders with `.stoi` files.
    #[arg(required = true)]
    pub(crate) paths: Vec<PathBuf>,
    /// Print the results as JSON.
    #[arg(long)]
    pub(crate) json: bool,
    /// Write the results to this file, too, as `JUnit` XML.
    #[arg(long, value_name = "FILE")]
    pub(crate) junit: Option<PathBuf>,
    /// Print all findings, not only the first 100.
    #[arg(long, conflicts_with = "json")]
    pub(crate) all: bool,
}
