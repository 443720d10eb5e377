//! `stoicheon fmt`, `stoicheon convert`, `stoicheon catalogue`: wiring as text, and what it may speak of.

use std::path::Path;

use stoicheon_core::{Catalogue, PartInfo, SettingInfo, SettingInfoType, Type};
use stoicheon_files as files;
use stoicheon_script::{Diagnostic, GivenInfo, JsonError, Sources, format, from_json, schema, to_json};

use crate::{
    args::{CatalogueOf, Convert, Fmt},
    out::{self, Findings, Misuse, Outcome},
};

fn complain(path: &Path, text: &str, faults: &[Diagnostic], findings: &mut Findings) {
    findings.print(faults, &Sources::of(&path.display().to_string(), text));
    out::print(&format!("{}: {}, nothing changed\n", path.display(), out::count(faults)));
}

fn write(path: &Path, text: &str) -> Result<(), Misuse> {
    stoicheon_store::write_text(path, text).map_err(|error| Misuse::Unkept(error.to_string()))
}

pub(crate) fn fmt(args: &Fmt) -> Outcome {
    let mut faults = false;
    let mut changed = 0_usize;
    let mut findings = Findings::new(args.all);
    let (found, troubles) = files::find(&args.paths);
    let mut troubles: Vec<Misuse> = troubles.into_iter().map(Misuse::from).collect();
    if found.is_empty() {
        return out::end(&troubles, false);
    }
    for path in &found {
        let text = match files::text(path) {
            Ok(text) => text,
            Err(trouble) => {
                troubles.push(trouble.into());
                continue;
            }
        };
        match format(&text) {
            Ok(set) if set == text => {}
            Ok(set) => {
                if args.check {
                    changed += 1;
                    out::print(&format!("{}: not formatted as `stoicheon fmt` formats it\n", path.display()));
                } else if let Err(trouble) = write(path, &set) {
                    troubles.push(trouble);
                } else {
                    changed += 1;
                    out::print(&format!("{}: formatted\n", path.display()));
                }
            }
            Err(found) => {
                faults = true;
                complain(path, &text, &found, &mut findings);
            }
        }
    }
    findings.end();
    let files = out::plural(found.len(), "file");
    let word = if args.check { "to be formatted" } else { "formatted" };
    out::print(&format!("{files}, {changed} {word}\n"));
    out::end(&troubles, faults || (args.check && changed > 0))
}

/// Whether a file holds JSON, by its ending.
fn form_of(path: &Path) -> Result<bool, Misuse> {
    match path.extension().and_then(|ending| ending.to_str()) {
        Some("json") => Ok(true),
        Some("stoi") => Ok(false),
        _ => Err(Misuse::NoForm(path.to_owned())),
    }
}

/// The places of a scene as wiring.
fn convert_scene(from: &Path, to: Option<&Path>) -> Result<Outcome, Misuse> {
    if let Some(to) = to.filter(|to| to.extension().is_none_or(|ending| ending != "stoi")) {
        return Err(Misuse::SameForm { path: to.to_owned(), word: "wiring, in a file that ends in .stoi" });
    }
    let wiring = match files::gltf_wiring(from) {
        Ok(wiring) => wiring,
        Err(error @ files::ReadError::NoPlaces { .. }) => {
            out::print(&format!("{error}\n"));
            return Ok(Outcome::Faults);
        }
        Err(error) => return Err(error.into()),
    };
    match format(&wiring) {
        Ok(set) => give(to, &set),
        Err(faults) => {
            complain(from, &wiring, &faults, &mut Findings::new(false));
            Ok(Outcome::Faults)
        }
    }
}

/// Writes what was converted, or prints it.
fn give(to: Option<&Path>, converted: &str) -> Result<Outcome, Misuse> {
    match to {
        Some(to) => {
            write(to, converted)?;
            out::print(&format!("{} written\n", to.display()));
        }
        None => out::print(converted),
    }
    Ok(Outcome::Good)
}

pub(crate) fn convert(args: &Convert) -> Result<Outcome, Misuse> {
    if args.schema {
        out::print(&schema());
        return Ok(Outcome::Good);
    }
    if args.output_schema {
        out::print(&crate::json::schema());
        return Ok(Outcome::Good);
    }
    if args.save_schema {
        out::print(&format!("{}\n", stoicheon_store::save_schema()));
        return Ok(Outcome::Good);
    }
    let Some(from) = &args.from else { return Err(Misuse::NothingToConvert) };
    if files::is_gltf(from) {
        return convert_scene(from, args.to.as_deref());
    }
    let is_json = form_of(from).map_err(|_| Misuse::NoSource(from.clone()))?;
    if let Some(to) = &args.to {
        let same = |one: &Path| one.canonicalize().ok();
        if same(from).is_some_and(|from| Some(from) == same(to)) {
            return Err(Misuse::SameFile(to.clone()));
        }
        // What is no file has no ending that could be wrong.
        let is_file = !to.exists() || to.is_file();
        if is_file && form_of(to)? == is_json {
            let word = if is_json {
                "wiring, in a file that ends in .stoi"
            } else {
                "JSON, in a file that ends in .json"
            };
            return Err(Misuse::SameForm { path: to.clone(), word });
        }
    }
    let text = files::text(from)?;
    let converted = if is_json {
        match from_json(&text) {
            Ok(text) => text,
            Err(JsonError::Words { faults, text }) => {
                complain(from, &text, &faults, &mut Findings::new(false));
                return Ok(Outcome::Faults);
            }
            Err(error) => {
                out::print(&format!("{}: {error}\n", from.display()));
                return Ok(Outcome::Faults);
            }
        }
    } else {
        match to_json(&text) {
            Ok(json) => json,
            Err(faults) => {
                complain(from, &text, &faults, &mut Findings::new(false));
                return Ok(Outcome::Faults);
            }
        }
    };
    give(args.to.as_deref(), &converted)
}

pub(crate) fn catalogue(args: &CatalogueOf) -> Result<Outcome, Misuse> {
    let mut catalogue = files::catalogue(args.catalogue.as_deref())?;
    let mut given = Vec::new();
    if let Some(path) = &args.path {
        let wiring = files::read(&files::head_of(path)?, &catalogue)?;
        catalogue = wiring.catalogue().clone();
        given.extend(wiring.parts().first().into_iter().flat_map(|part| part.given()));
    }
    let known = |name: &String| catalogue.parts().iter().any(|part| part.name == *name);
    if let Some(unknown) = args.part.iter().find(|name| !known(name)) {
        let kinds = catalogue.parts().iter().map(|part| part.name.to_string()).collect();
        return Err(Misuse::NoPart { found: unknown.clone(), kinds });
    }
    if args.json {
        let json = serde_json::to_string_pretty(&catalogue).unwrap_or_default();
        out::print(&format!("{json}\n"));
        return Ok(Outcome::Good);
    }
    out::print(&page(&catalogue, &args.part));
    for GivenInfo { name, ty, value, about, .. } in given.into_iter().filter(|_| args.part.is_empty()) {
        out::print(&format!("{}\n", format!("given {name}: {ty} = {value}  {about}").trim_end()));
    }
    Ok(Outcome::Good)
}

/// How wide the page is.
const WIDTH: usize = 110;

/// A type; the words of a list are known only to each part.
fn param_type(ty: &Type) -> String {
    match ty {
        Type::OneOf(_) => "word".to_owned(),
        plain => plain.word().to_owned(),
    }
}

/// A catalogue as people read it: all kinds of part, or some.
fn page(catalogue: &Catalogue, only: &[String]) -> String {
    let mut lines = Vec::new();
    // What a thing is called, then what it is for, which goes on below itself.
    let row = |word: &str, name: &str, about: &str| {
        let first = format!("  {word:<8} {name:<24} ");
        let below = " ".repeat(36);
        if name.chars().count() <= 24 {
            let options = textwrap::Options::new(WIDTH).initial_indent(&first).subsequent_indent(&below);
            return textwrap::fill(about, options).trim_end().to_owned();
        }
        // A long name has a line of its own.
        let options = textwrap::Options::new(WIDTH).initial_indent(&below).subsequent_indent(&below);
        format!("  {word:<8} {name}\n{}", textwrap::fill(about, options)).trim_end().to_owned()
    };
    let fields = |fields: &[stoicheon_core::Field]| {
        let all: Vec<_> = fields.iter().map(|field| format!("{}: {}", field.name, field.ty)).collect();
        if all.is_empty() { String::new() } else { format!("({})", all.join(", ")) }
    };
    let mut listed: Vec<&SettingInfo> = Vec::new();
    let wanted = |part: &&PartInfo| only.is_empty() || only.iter().any(|name| *name == part.name);
    for part in catalogue.parts().iter().filter(wanted) {
        lines.push(format!("{}  {}", part.name, part.about));
        if !part.states.is_empty() {
            lines.push(row("states", "", &part.states.join(", ")));
        }
        for command in &part.commands {
            lines.push(row("command", &command.name, &command.about));
            for param in &command.params {
                let ty = param_type(&param.ty);
                lines.push(row("", &format!("  {}: {ty}", param.name), &param.about));
            }
        }
        for variable in &part.variables {
            let name = format!("{}: {}", variable.name, param_type(&variable.ty));
            lines.push(row("variable", &name, &variable.about));
        }
        for reading in &part.readings {
            let per_player = if reading.per_player { " per player" } else { "" };
            let name = format!("{}: {}{per_player}", reading.name, param_type(&reading.ty));
            lines.push(row("value", &name, &reading.about));
        }
        for signal in &part.signals {
            lines.push(row(
                "signal",
                &format!("{}{}", signal.name, one_line(&fields(&signal.fields))),
                &signal.about,
            ));
        }
        // Several kinds have the settings of a shape: they are listed once.
        let (same, own): (Vec<_>, Vec<_>) =
            part.settings.iter().partition(|setting| listed.contains(setting));
        if let Some(first) =
            catalogue.parts().iter().find(|kind| same.iter().all(|s| kind.settings.contains(s)))
            && !same.is_empty()
        {
            let names: Vec<_> = same.iter().map(|setting| setting.name.as_str()).collect();
            lines.push(row("settings", &format!("as of a {}", first.name), &names.join(", ")));
        }
        for setting in own {
            let live = if setting.live { " Can change while the world runs." } else { "" };
            let about = format!("{}{live}", setting.about);
            lines.push(row("setting", &format!("{}: {}", setting.name, takes(&setting.ty)), &about));
            listed.push(setting);
        }
        lines.push(String::new());
    }
    if !only.is_empty() {
        return lines.join("\n").trim_end().to_owned() + "\n";
    }
    for (word, messages) in [("signal", catalogue.signals()), ("effect", catalogue.effects())] {
        for message in messages {
            let name = format!("{}{}", message.name, fields(&message.fields));
            lines.push(format!("{word} {name}  {}", message.about).trim_end().to_owned());
        }
    }
    for role in catalogue.roles() {
        lines.push(format!("manager {}  {}", role.name, role.about).trim_end().to_owned());
    }
    while lines.last().is_some_and(String::is_empty) {
        lines.pop();
    }
    lines.join("\n") + "\n"
}

/// What a setting takes, in a word.
fn takes(ty: &SettingInfoType) -> String {
    match ty {
        SettingInfoType::Angle => "angle".to_owned(),
        SettingInfoType::Seconds => "duration".to_owned(),
        SettingInfoType::Vector => "vector".to_owned(),
        SettingInfoType::Number => "number".to_owned(),
        SettingInfoType::Text => "text".to_owned(),
        SettingInfoType::Colour => "colour".to_owned(),
        SettingInfoType::Flag => "nothing".to_owned(),
        SettingInfoType::OneOf(words) => words.join(" | "),
        SettingInfoType::Tags => "tags".to_owned(),
        SettingInfoType::Word => "word".to_owned(),
        SettingInfoType::Size => "size".to_owned(),
        SettingInfoType::Rotation => "rotation".to_owned(),
        SettingInfoType::Condition => "condition".to_owned(),
        SettingInfoType::Amount => "number, worked out".to_owned(),
        SettingInfoType::More(_) => "nothing".to_owned(),
        SettingInfoType::Words => "words".to_owned(),
        SettingInfoType::Spans => "words with spans".to_owned(),
        SettingInfoType::Table => "words with values".to_owned(),
        SettingInfoType::Span => "duration, or two".to_owned(),
        SettingInfoType::Spot => "spot [in scene]".to_owned(),
        SettingInfoType::Signal(_) => "[every] signal".to_owned(),
        _ => "value".to_owned(),
    }
}

/// Long lists of words are cut: the page is for finding the name.
fn one_line(fields: &str) -> String {
    if fields.chars().count() <= 40 {
        return fields.to_owned();
    }
    let names: Vec<_> = fields.trim_matches(['(', ')']).split(": ").take(1).collect();
    format!("({}: …)", names.join(""))
}
