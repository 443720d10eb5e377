//! The window, walked in by keys on a screen that nobody sees.
//!
//! It needs `Xvfb`, `xdotool` and `import`. With `HARROW_PICTURE=file.png` the picture is kept.

use std::{
    io::{BufRead, BufReader},
    path::Path,
    process::{Child, ChildStdout, Command, Stdio},
    sync::mpsc::{Receiver, channel},
    time::Duration,
};

/// Ends with the test, however that ends.
struct Running(Child);

impl Drop for Running {
    fn drop(&mut self) {
        // It may be gone already.
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

fn start(command: &mut Command) -> (Running, ChildStdout) {
    let spawned = command.stdout(Stdio::piped()).spawn();
    let mut child =
        spawned.unwrap_or_else(|error| panic!("{command:?} cannot be run, is it installed? {error}"));
    let out = child.stdout.take().expect("it is piped");
    (Running(child), out)
}

/// A screen, the window on it, and what the window says.
struct Scene {
    display: String,
    lines: Receiver<String>,
    window: Running,
    _screen: Running,
}

impl Scene {
    fn open(save: &Path) -> Self {
        let screen = ["-displayfd", "1", "-screen", "0", "1280x800x24", "-nolisten", "tcp", "-noreset"];
        let (screen, out) = start(Command::new("Xvfb").args(screen).stderr(Stdio::null()));
        let mut number = String::new();
        BufReader::new(out).read_line(&mut number).expect("a screen says its number");
        let display = format!(":{}", number.trim());
        let mut window = Command::new(env!("CARGO_BIN_EXE_stoicheon-window-host"));
        let (window, out) = start(window.arg(save).env("DISPLAY", &display));
        let (heard, lines) = channel();
        std::thread::spawn(move || {
            for line in BufReader::new(out).lines() {
                let Ok(line) = line else { return };
                if heard.send(line).is_err() {
                    return;
                }
            }
        });
        Self { display, lines, window, _screen: screen }
    }

    /// Waits until a line has been said that holds this.
    fn hear(&self, words: &str) -> String {
        let mut others = Vec::new();
        loop {
            match self.lines.recv_timeout(Duration::from_mins(1)) {
                Ok(line) if line.contains(words) => return line,
                Ok(line) => others.push(line),
                Err(error) => panic!("expected \"{words}\" to be said, heard {others:?}: {error}"),
            }
        }
    }

    fn run(&self, command: &str, args: &[&str]) -> String {
        let output = Command::new(command).args(args).env("DISPLAY", &self.display).output();
        let output =
            output.unwrap_or_else(|error| panic!("{command} cannot be run, is it installed? {error}"));
        assert!(output.status.success(), "{command} {args:?}: {}", String::from_utf8_lossy(&output.stderr));
        String::from_utf8_lossy(&output.stdout).into_owned()
    }

    /// Holds a key until something is said.
    fn hold(&self, key: &str, until: &str) -> String {
        self.run("xdotool", &["keydown", key]);
        let line = self.hear(until);
        self.run("xdotool", &["keyup", key]);
        line
    }
}

#[test]
fn two_players_walk_in_the_window() {
    let folder = tempfile::tempdir().unwrap();
    let save = folder.path().join("harrow.save");
    let mut scene = Scene::open(&save);
    scene.hear("Harrow Lock is open");
    // Nobody else gives a window the keys here.
    scene.run("xdotool", &["search", "--sync", "--name", "Harrow Lock", "windowfocus", "--sync"]);

    // Ada winds the paddle, which takes a second, while ben walks along the towpath to the lower gate.
    scene.hold("d", "ada can: Wind the paddle");
    scene.hold("e", "The water falls.");
    scene.run("xdotool", &["keydown", "Left"]);
    scene.hear("The bell rings once.");
    let picture = folder.path().join("harrow.png");
    // The picture shows a key that has been held for half of its time.
    scene.run("xdotool", &["keyup", "Left", "keydown", "e"]);
    std::thread::sleep(Duration::from_millis(500));
    let kept = std::env::var("HARROW_PICTURE").unwrap_or_else(|_| picture.to_string_lossy().into_owned());
    scene.run("import", &["-window", "root", &kept]);
    scene.run("xdotool", &["keyup", "e"]);
    let colours: u32 = scene.run("identify", &["-format", "%k", &kept]).trim().parse().unwrap();
    assert!(colours > 12, "the picture has {colours} colours");

    // Nothing has been saved: that is said, and the game goes on.
    scene.hold("F9", "not loaded: ");
    scene.hold("F5", "Saved.");
    // A closure of the game's own goes wrong: that is seen, and the game goes on.
    scene.hold("s", "ada can: Pull the old lever");
    let fault = scene.hold("e", "fault at ");
    assert_eq!(fault, "fault at harrow_lock.old_lever: the lever does not move, not at pull 1 either");
    let loaded = scene.hold("F9", "Loaded: ");
    assert_eq!(loaded, "Loaded: 0 passages of ada, 1 of ben.");

    scene.hold("Escape", "Harrow Lock is shut");
    assert!(scene.window.0.wait().unwrap().success());
}
