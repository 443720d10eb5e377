//! What the tests of the command have in common.

use std::path::{Path, PathBuf};

use assert_cmd::Command;
use tempfile::TempDir;

pub(crate) fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// How a call ended, what it said, and what it complained of.
pub(crate) struct Said {
    pub(crate) status: i32,
    pub(crate) text: String,
    pub(crate) errors: String,
}

impl Said {
    #[track_caller]
    pub(crate) fn ends(self, status: i32) -> Self {
        assert_eq!(self.status, status, "{}{}", self.text, self.errors);
        self
    }

    #[track_caller]
    pub(crate) fn says(self, words: &str) -> Self {
        assert!(self.text.contains(words), "no \"{words}\" in: {}{}", self.text, self.errors);
        self
    }

    #[track_caller]
    pub(crate) fn says_not(self, words: &str) -> Self {
        assert!(!self.text.contains(words), "\"{words}\" in: {}", self.text);
        self
    }

    #[track_caller]
    pub(crate) fn complains(self, words: &str) -> Self {
        assert!(self.errors.contains(words), "no \"{words}\" in: {}{}", self.errors, self.text);
        self
    }
}

/// A folder of its own, in which the command is called.
pub(crate) struct Folder(pub(crate) TempDir);

impl Folder {
    /// With files of those texts.
    pub(crate) fn of(files: &[(&str, &str)]) -> Self {
        let folder = Self(TempDir::new().unwrap());
        files.iter().for_each(|(name, text)| folder.write(name, text));
        folder
    }

    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }

    pub(crate) fn write(&self, name: &str, text: &str) {
        let path = self.path(name);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, text).unwrap();
    }

    pub(crate) fn read(&self, name: &str) -> String {
        std::fs::read_to_string(self.path(name)).unwrap()
    }

    /// The names of what is in it.
    pub(crate) fn names(&self) -> Vec<String> {
        let entries = std::fs::read_dir(self.0.path()).unwrap();
        let mut names: Vec<_> =
            entries.map(|entry| entry.unwrap().file_name().into_string().unwrap()).collect();
        names.sort();
        names
    }

    pub(crate) fn call(&self, args: &[&str]) -> Said {
        let mut command = Command::cargo_bin("stoicheon").unwrap();
        said(command.env("NO_COLOR", "1").current_dir(self.0.path()).args(args))
    }

    /// A line for the shell, in which `stoicheon` is the command.
    pub(crate) fn shell(&self, line: &str) -> Said {
        let path = assert_cmd::cargo::cargo_bin("stoicheon");
        let mut command = Command::new("sh");
        let line = format!("stoicheon() {{ '{}' \"$@\"; }}\n{line}", path.display());
        said(command.env("NO_COLOR", "1").current_dir(self.0.path()).args(["-c", &line]))
    }
}

fn said(command: &mut Command) -> Said {
    let output = command.output().unwrap();
    let text = |bytes| String::from_utf8(bytes).unwrap();
    let status = output.status.code().unwrap_or(-1);
    Said { status, text: text(output.stdout), errors: text(output.stderr) }
}
