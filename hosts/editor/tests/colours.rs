//! The grammar for editors without a server, read by the engine that editors read it with: in every shipped file it says of each word and sign what the language's own
//! tokens say.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]

use std::{
    path::{Path, PathBuf},
    process::Command,
};

use serde_json::Value;
use stoicheon_script::editing::{Class, classes};
use walkdir::WalkDir;

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

fn shipped() -> Vec<PathBuf> {
    let folders =
        ["demo", "cookbook", "examples", "hosts", "crates/script/tests/scenes", "crates/script/tests/faulty"];
    let entries = folders.iter().flat_map(|folder| WalkDir::new(root().join(folder)).sort_by_file_name());
    let files = entries.map(|entry| entry.unwrap().into_path());
    files.filter(|path| path.extension().is_some_and(|ending| ending == "stoi")).collect()
}

/// What the grammar can tell apart and the tokens, too.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Kind {
    Comment,
    Text,
    Number,
    Colour,
    Operator,
    Word,
    /// Brackets, commas, space, and what is no token.
    Rest,
}

fn of_class(class: Class) -> Kind {
    match class {
        Class::Comment => Kind::Comment,
        Class::Text => Kind::Text,
        Class::Number => Kind::Number,
        Class::Colour => Kind::Colour,
        Class::Operator => Kind::Operator,
        _ => Kind::Word,
    }
}

fn of_scope(scope: &str) -> Kind {
    let starts = [
        ("comment", Kind::Comment),
        ("string", Kind::Text),
        ("constant.numeric", Kind::Number),
        ("constant.other.colour", Kind::Colour),
        ("keyword.operator.stoi", Kind::Operator),
        ("punctuation", Kind::Rest),
    ];
    let known = starts.iter().find(|(start, _)| scope.starts_with(start));
    known.map_or(if scope.is_empty() { Kind::Rest } else { Kind::Word }, |(_, kind)| *kind)
}

/// The scopes of each file: line, start, end in units of UTF-16, and the name.
fn scopes(files: &[PathBuf]) -> Vec<Value> {
    let folder = tempfile::tempdir().unwrap();
    let own = Path::new(env!("CARGO_MANIFEST_DIR")).join("grammar");
    for name in ["package.json", "scopes.mjs"] {
        std::fs::copy(own.join(name), folder.path().join(name)).unwrap();
    }
    let installed = Command::new("npm")
        .args(["install", "--silent", "--no-audit", "--no-fund"])
        .current_dir(folder.path())
        .output()
        .unwrap();
    assert!(installed.status.success(), "{}", String::from_utf8_lossy(&installed.stderr));
    let read = Command::new("node")
        .arg(folder.path().join("scopes.mjs"))
        .arg(root().join("editors/stoi.tmLanguage.json"))
        .args(files)
        .output()
        .unwrap();
    assert!(read.status.success(), "{}", String::from_utf8_lossy(&read.stderr));
    serde_json::from_slice(&read.stdout).unwrap()
}

#[test]
fn the_grammar_says_what_the_tokens_say() {
    let files = shipped();
    assert!(files.len() > 100, "{}", files.len());
    let (mut words, mut differ) = (0, Vec::new());
    for (path, found) in files.iter().zip(scopes(&files)) {
        let text = std::fs::read_to_string(path).unwrap();
        // What each byte is, once by the tokens, once by the grammar.
        let mut by_tokens = vec![Kind::Rest; text.len()];
        for word in classes(&text, 0) {
            words += 1;
            by_tokens[word.span.start as usize..word.span.end as usize].fill(of_class(word.class));
        }
        let starts: Vec<usize> =
            std::iter::once(0).chain(text.match_indices('\n').map(|(at, _)| at + 1)).collect();
        let mut by_grammar = vec![Kind::Rest; text.len()];
        for stretch in found.as_array().unwrap() {
            let number = |at: usize| usize::try_from(stretch[at].as_u64().unwrap()).unwrap();
            let line = &text[starts[number(0)]..];
            let byte = |units: usize| {
                let mut left = units;
                let letters = line.chars().take_while(|letter| {
                    let more = left > 0 && *letter != '\n';
                    left = left.saturating_sub(letter.len_utf16());
                    more
                });
                starts[number(0)] + letters.map(char::len_utf8).sum::<usize>()
            };
            by_grammar[byte(number(1))..byte(number(2))].fill(of_scope(stretch[3].as_str().unwrap()));
        }
        for (at, sign) in text.char_indices() {
            let (token, grammar) = (by_tokens[at], by_grammar[at]);
            // A text that is never closed is no token at all.
            let is_no_token =
                token == Kind::Rest && grammar == Kind::Word && path.ends_with("unclosed_text.stoi");
            let is_no_token =
                is_no_token || path.ends_with("signs_from_elsewhere.stoi") && token == Kind::Rest;
            if !sign.is_whitespace() && token != grammar && !is_no_token {
                let line = text[..at].matches('\n').count() + 1;
                differ.push(format!(
                    "{}:{line} `{sign}` is {token:?}, and {grammar:?} to the grammar",
                    path.display()
                ));
            }
        }
    }
    assert!(words > 10_000, "{words}");
    assert!(
        differ.is_empty(),
        "{}\n{} in all",
        differ.iter().take(20).cloned().collect::<Vec<_>>().join("\n"),
        differ.len()
    );
}
