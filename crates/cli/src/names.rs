//! `stoicheon find` and `stoicheon rename`

use std::fmt::Write;

use anstyle::{AnsiColor, Style};
use schemars::JsonSchema;
use serde::Serialize;
use similar::{ChangeTag, TextDiff};
use stoicheon_core::Catalogue;
use stoicheon_files::{self as files, Wiring};
use stoicheon_script::{NamePlace, NameRole, NamedThing};
use stoicheon_store::write_together;

use crate::{
    args::{Find, Rename},
    json,
    out::{self, Misuse, Outcome},
};

/// What `stoicheon find --json` prints.
#[derive(Debug, Serialize, JsonSchema)]
pub(crate) struct Found {
    /// What has the name, by kind.
    things: Vec<FoundThing>,
}

/// Something that has the name.
#[derive(Debug, Serialize, JsonSchema)]
struct FoundThing {
    /// The word for its kind: `object`, `signal`, `tag` and the like.
    kind: &'static str,
    /// Its name with what it belongs to.
    name: String,
    /// Where it stands.
    places: Vec<FoundPlace>,
}

/// Where a name stands.
#[derive(Debug, Serialize, JsonSchema)]
struct FoundPlace {
    /// The file.
    file: String,
    /// The line, from 1.
    line: usize,
    /// The column, from 1, in characters.
    column: usize,
    /// What is done with it: `declared`, `taken`, `sent`, `performed`, `set`, `commanded`, `used`, `given` or `read`.
    role: &'static str,
    /// The line, without the space around it.
    text: String,
}

impl FoundThing {
    fn of(wiring: &Wiring, thing: &NamedThing) -> Self {
        let place = |place: &NamePlace| {
            let source = wiring.sources().get(place.span.file)?;
            let (line, column) = source.position(place.span.start);
            let text = source.line_at(place.span.start).trim().to_owned();
            Some(FoundPlace { file: source.name().to_owned(), line, column, role: place.role.word(), text })
        };
        // Where it is declared comes first.
        let (declared, used): (Vec<_>, Vec<_>) =
            thing.places.iter().partition(|place| place.role == NameRole::Declared);
        let places = declared.into_iter().chain(used).filter_map(place).collect();
        Self { kind: thing.kind.word(), name: thing.whole.to_string(), places }
    }
}

pub(crate) fn find(args: &Find) -> Result<Outcome, Misuse> {
    let catalogue = files::catalogue(args.catalogue.as_deref())?;
    let indexes = files::indexes(&args.path, &catalogue)?;
    let things: Vec<_> = indexes
        .iter()
        .flat_map(|(wiring, index)| index.find(&args.name).map(move |thing| FoundThing::of(wiring, thing)))
        .collect();
    if indexes.iter().any(|(wiring, _)| !wiring.broken().is_empty()) {
        out::note("the wiring has errors, and what is wrong has no meaning: `stoicheon check` lists them");
    }
    if args.json {
        json::print(&Found { things });
        return Ok(Outcome::Good);
    }
    if things.is_empty() {
        let near = indexes.iter().find_map(|(_, index)| index.nearest(&args.name));
        let known = in_catalogue(&args.name, &catalogue);
        return Err(Misuse::NotFound {
            wanted: args.name.clone(),
            path: args.path.display().to_string(),
            hint: match (known, near) {
                (Some(known), _) => {
                    format!("; it is {known} of the catalogue, which `stoicheon catalogue` lists")
                }
                (None, Some(near)) => format!("; did you mean `{near}`?"),
                (None, None) => String::new(),
            },
        });
    }
    for (number, thing) in things.iter().enumerate() {
        if number > 0 {
            out::print("\n");
        }
        print(thing);
    }
    Ok(Outcome::Good)
}

/// What of the catalogue has that name.
fn in_catalogue(name: &str, catalogue: &Catalogue) -> Option<&'static str> {
    let last = name.rsplit('.').next().unwrap_or(name);
    let parts = || catalogue.parts().iter();
    let of_world = ["started", "pressed", "released", "joined", "quit", "arrived"];
    if catalogue.part(last).is_some() {
        Some("a part")
    } else if of_world.contains(&last)
        || catalogue.signals().iter().any(|signal| signal.name == last)
        || parts().any(|part| part.signals.iter().any(|signal| signal.name == last))
    {
        Some("a signal")
    } else if parts().any(|part| part.command(last).is_some()) {
        Some("a command")
    } else if parts().any(|part| part.setting(last).is_some()) {
        Some("a setting")
    } else if parts().any(|part| part.states.iter().any(|state| *state == last)) {
        Some("a state")
    } else {
        catalogue.effects().iter().any(|effect| effect.name == last).then_some("an effect")
    }
}

fn print(thing: &FoundThing) {
    let bold = Style::new().bold();
    let quiet = Style::new().dimmed();
    let places = out::plural(thing.places.len(), "place");
    out::print(&format!("{bold}{} {}{bold:#}  {quiet}{places}{quiet:#}\n", thing.kind, thing.name));
    let at = |place: &FoundPlace| format!("{}:{}:{}", place.file, place.line, place.column);
    let width = thing.places.iter().map(|place| at(place).chars().count()).max().unwrap_or(0);
    for place in &thing.places {
        let loud = if place.role == "declared" { AnsiColor::Green.on_default() } else { Style::new() };
        let (role, text) = (place.role, &place.text);
        out::print(&format!("  {:<width$}  {loud}{role:<9}{loud:#}  {text}\n", at(place)));
    }
}

pub(crate) fn rename(args: &Rename) -> Result<Outcome, Misuse> {
    let catalogue = files::catalogue(args.catalogue.as_deref())?;
    let renaming = files::rename(&args.path, &catalogue, &args.old, &args.new)
        .map_err(|error| Misuse::NotRenamed(error.to_string()))?;
    for (path, before, after) in &renaming.files {
        out::print(&diff(&path.display().to_string(), before, after));
    }
    let (kind, whole, new) = (renaming.kind, &renaming.whole, &args.new);
    let places = out::plural(renaming.places, "place");
    let in_files = out::plural(renaming.files.len(), "file");
    if args.check {
        out::print(&format!(
            "the {kind} {whole} would be called {new}: {places} in {in_files}, nothing is written\n"
        ));
    } else {
        let changed =
            renaming.files.iter().map(|(path, _, after)| (path.clone(), after.clone().into_bytes()));
        write_together(&changed.collect::<Vec<_>>()).map_err(|error| Misuse::Unkept(error.to_string()))?;
        out::print(&format!("the {kind} {whole} is called {new} now: {places} in {in_files}\n"));
    }
    if renaming.is_games {
        out::note("the game's own code may speak of it by its name: rename it there, too");
    }
    Ok(Outcome::Good)
}

/// The lines that change, each with where it stands.
fn diff(name: &str, before: &str, after: &str) -> String {
    let (bold, gone, new) = (Style::new().bold(), AnsiColor::Red.on_default(), AnsiColor::Green.on_default());
    let mut text = format!("{bold}{name}{bold:#}\n");
    let diff = TextDiff::from_lines(before, after);
    for change in diff.iter_all_changes() {
        let (sign, style, line) = match change.tag() {
            ChangeTag::Equal => continue,
            ChangeTag::Delete => ("-", gone, change.old_index()),
            ChangeTag::Insert => ("+", new, change.new_index()),
        };
        let line = line.map_or(0, |line| line + 1);
        let words = change.value().trim_end_matches(['\n', '\r']);
        let _ = writeln!(text, "{line:>6} {style}{sign} {words}{style:#}");
    }
    text
}
