//! The live page of the shipped canal in a browser: one walks in it, looks, asks, changes things and goes back.
#![allow(clippy::unwrap_used, reason = "a test fails by panicking")]

use std::{
    io::{BufRead, BufReader},
    path::{Path, PathBuf},
    process::{Child, Command, Stdio},
    sync::OnceLock,
    thread::sleep,
    time::{Duration, Instant},
};

use serde_json::{Value, json};
use stoicheon_browser_host::Browser;

const ESCAPE: char = '\u{e00c}';

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// The command, built once.
fn command() -> &'static Path {
    static BUILT: OnceLock<PathBuf> = OnceLock::new();
    BUILT.get_or_init(|| {
        let built = Command::new(env!("CARGO"))
            .current_dir(root())
            .args(["build", "--quiet", "--locked", "-p", "stoicheon-cli", "--message-format=json"])
            .output()
            .unwrap();
        assert!(built.status.success(), "{}", String::from_utf8_lossy(&built.stderr));
        let lines = String::from_utf8(built.stdout).unwrap();
        let said: Vec<Value> = lines.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
        let made = said.iter().find_map(|line| line["executable"].as_str());
        PathBuf::from(made.unwrap())
    })
}

/// A copy of the demo that is served, and a browser on its page.
struct Served {
    process: Child,
    address: String,
    browser: Browser,
    folder: tempfile::TempDir,
}

impl Drop for Served {
    fn drop(&mut self) {
        // It may have ended already.
        let _ = self.process.kill();
        let _ = self.process.wait();
    }
}

impl Served {
    fn demo() -> Self {
        let folder = tempfile::tempdir().unwrap();
        for file in std::fs::read_dir(root().join("demo/canal")).unwrap() {
            let file = file.unwrap().path();
            std::fs::copy(&file, folder.path().join(file.file_name().unwrap())).unwrap();
        }
        let mut process = Command::new(command())
            .arg("live")
            .arg(folder.path())
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let mut line = String::new();
        BufReader::new(process.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let address = line.trim().split_once(": ").unwrap().1.to_owned();
        let browser = Browser::new(1280, 943).unwrap();
        browser.go(&address).unwrap();
        let served = Self { process, address, browser, folder };
        served.until("document.getElementById('title').textContent === 'canal'");
        served
    }

    fn get(&self, script: &str) -> Value {
        self.browser.run(&format!("return {script}")).unwrap()
    }

    /// Waits until something is so in the page.
    #[track_caller]
    fn until(&self, script: &str) {
        let began = Instant::now();
        while self.get(script) != json!(true) {
            let said = self.get("document.body.innerText");
            assert!(
                began.elapsed() < Duration::from_secs(15),
                "{script}: {}",
                said.as_str().unwrap_or_default()
            );
            sleep(Duration::from_millis(20));
        }
    }

    /// Holds a key until something is so.
    #[track_caller]
    fn hold_until(&self, key: char, script: &str) {
        self.browser.hold(key, true).unwrap();
        self.until(script);
        self.browser.hold(key, false).unwrap();
    }

    /// Whether a line of the tape says that.
    fn taped(words: &str) -> String {
        format!(
            "[...document.querySelectorAll('#lines .text')].some((line) => line.textContent.includes('{words}'))"
        )
    }

    fn tick(&self) -> u64 {
        let now = self.get("document.getElementById('now').textContent");
        now.as_str().unwrap().rsplit(' ').next().unwrap().parse().unwrap()
    }

    fn choose(&self, name: &str) {
        self.browser.run("document.getElementById('choose').value = ''").unwrap();
        self.browser.write("#choose", &format!("{name}\n")).unwrap();
        self.browser.click("#title").unwrap();
    }

    #[track_caller]
    fn until_tick(&self, tick: u64) {
        self.until(&format!("document.getElementById('now').textContent.endsWith('tick {tick}')"));
    }

    /// A picture when what was said on the way, which has a folder's name in it, is seen no more.
    fn quiet_shot(&self, name: &str) {
        if std::env::var_os("LIVE_SHOTS").is_some() {
            self.until("document.getElementById('said').childElementCount === 0");
            self.shot(name);
        }
    }

    /// The page in light and in dark, for who wants to look at it.
    fn shot(&self, name: &str) {
        if let Some(folder) = std::env::var_os("LIVE_SHOTS") {
            for theme in ["light", "dark"] {
                let file = Path::new(&folder).join(format!("{name}-{theme}.png"));
                std::fs::write(file, self.browser.picture().unwrap()).unwrap();
                self.browser.run("document.getElementById('theme').click()").unwrap();
            }
        }
    }
}

#[test]
fn one_walks_answers_looks_changes_things_and_goes_back() {
    let served = Served::demo();
    let browser = &served.browser;

    // Into the pool by key: she is set back, and the effect is told.
    browser.click("#map").unwrap();
    served.hold_until('d', &Served::taped("splash"));
    served.shot("pool");
    // To the gate, whose prompt is answered by holding.
    served.hold_until('a', OFFERED);
    browser.hold('e', true).unwrap();
    sleep(Duration::from_millis(300));
    served.shot("hold");
    served.until(&Served::taped("toll_gate.opened"));
    browser.hold('e', false).unwrap();
    served.until(&Served::taped("Thank you"));
    served.shot("gate");

    // What happened is asked: its wire, and the place where that is written.
    let row = "[...document.querySelectorAll('#lines .line')].find((line) => line.textContent.includes('toll_gate.answered'))";
    browser.run(&format!("{row}.firstChild.click()")).unwrap();
    served.until(&format!(
        "{row}.querySelector('.open')?.textContent.includes('lockside.stoi:22 took it') ?? false"
    ));
    browser.run(&format!("{row}.querySelector('.place').click()")).unwrap();
    served.until("document.querySelector('#text .here')?.textContent.includes('on toll_gate.answered when toll_gate is closed') ?? false");
    assert_eq!(served.get("document.getElementById('file').textContent"), json!("lockside.stoi:22"));
    served.shot("beside");
    browser.press(ESCAPE).unwrap();
    served.until("document.getElementById('beside').hidden");

    // Held, and two seconds back: the gate is shut, and nobody has paid.
    browser.press('p').unwrap();
    served.until("document.getElementById('state').textContent.startsWith('held')");
    let before = served.tick();
    served.choose("lockside.toll_gate");
    served.until("document.getElementById('chosen').textContent.includes('open')");
    served.shot("bench");
    browser.click("#back2").unwrap();
    served.until("document.getElementById('state').textContent.startsWith('looking back')");
    served.until_tick(before - 60);
    // A machine that is slow has been there for longer.
    let is_open = "document.getElementById('chosen').textContent.includes('stateopen')";
    let mut back = 60;
    sleep(Duration::from_millis(300));
    while served.get(is_open) == json!(true) && back < before {
        back += 60;
        browser.click("#back2").unwrap();
        served.until_tick(before.saturating_sub(back));
        sleep(Duration::from_millis(300));
    }
    served.until(&format!("!{is_open}"));
    served.shot("back");

    // Answered once more, on another branch; then a value is changed by hand, and by a line.
    browser.press(ESCAPE).unwrap();
    browser.press('p').unwrap();
    served.until("document.getElementById('state').textContent.startsWith('running')");
    // She walks on as she did then, until a key says otherwise.
    served.hold_until('a', OFFERED);
    served.hold_until('e', &Served::taped("toll_gate.opened"));
    served.choose("tolls");
    served.until("document.querySelector('#chosen input') !== null");
    browser
        .run("const field = document.querySelector('#chosen input'); field.value = '7'; field.onchange()")
        .unwrap();
    served.until(&Served::taped("tolls 1 → 7 for ada"));
    browser.write("#line", "perform say(\"by hand\")\n").unwrap();
    served.until(&Served::taped("by hand"));
    browser.write("#line", "ada walks to lockside.weir_steps\n").unwrap();
    browser.write("#line", "opn lockside.toll_gate\n").unwrap();
    served.until("document.getElementById('said').textContent.includes('opn')");
    served.until(&Served::taped("ada arrives at (8, 0, 2)"));

    // All of it as a playtest, which passes in a world of its own, and when it is run from the file.
    browser.click("#title").unwrap();
    browser.press('m').unwrap();
    served.until("document.getElementById('verdict').textContent !== ''");
    served.shot("made");
    served.until("document.getElementById('verdict').textContent === 'it passes'");
    browser.click("#write").unwrap();
    served.until("document.getElementById('said').textContent.includes('written into')");
    let ran = Command::new(command()).arg("test").arg(served.folder.path()).output().unwrap();
    assert!(ran.status.success(), "{}", String::from_utf8_lossy(&ran.stdout));
    let written = std::fs::read_to_string(served.folder.path().join("canal.stoi")).unwrap();
    assert!(written.contains("playtest \"ada was here\""), "{written}");
    assert!(written.contains("ada answers lockside.toll_gate"), "{written}");

    // The file is edited: with a fault, the checker's words are shown and the world goes on; without, it takes over with the gate
    // still open; and then the world restarts with what is saved.
    let file = served.folder.path().join("lockside.stoi");
    let text = std::fs::read_to_string(&file).unwrap();
    browser.run("document.getElementById('made').close()").unwrap();
    std::fs::write(&file, text.replace("  open toll_gate", "  opn toll_gate")).unwrap();
    served.until("document.getElementById('findings').textContent.includes('did you mean `open`')");
    served.shot("fault");
    let before = served.tick();
    served.until(&format!("!document.getElementById('now').textContent.endsWith(' {before}')"));
    served.choose("lockside.toll_gate");
    served.until(is_open);
    let edited =
        text.replace("over 1s", "over 3s").replace("\nobject ", "\nobject new_post at (9, 0, 9)\nobject ");
    std::fs::write(
        &file,
        edited.replacen("\nobject new_post at (9, 0, 9)", "", edited.matches("new_post").count() - 1),
    )
    .unwrap();
    served.until("document.getElementById('changes').textContent.includes('object lockside.new_post: new')");
    served.until("[...document.querySelectorAll('#chosen input')].some((field) => field.value === '3')");
    served.until(is_open);
    served.quiet_shot("taken");
    browser.press(ESCAPE).unwrap();
    let before = served.tick();
    browser.press('r').unwrap();
    served.until(&format!("Number(document.getElementById('now').textContent.split(' ').at(-1)) < {before}"));
    served.until(&format!("!{is_open}"));
    assert_eq!(browser.console().unwrap(), [""; 0]);
}

/// The prompt of the gate is offered to her.
const OFFERED: &str = "(() => { \
     const all = [...document.querySelectorAll('#lines .text')].map((line) => line.textContent); \
     return all.filter((text) => /toll_gate\\.(offered|withdrawn)/.test(text)).at(-1)?.includes('offered') ?? false; })()";

#[test]
fn nobody_else_is_let_in() {
    let served = Served::demo();
    // A page that sends rubbish is sent away, and the other goes on.
    let rubbish = "window.why = null; const socket = new WebSocket(new URL('socket', location.href.replace(/^http/, 'ws'))); \
                   socket.onopen = () => socket.send('rubbish'); socket.onclose = (event) => { window.why = event.reason; }";
    served.browser.run(rubbish).unwrap();
    served.until("window.why === 'expected what a page asks for'");
    served.until("document.getElementById('state').textContent === 'running'");
    let before = served.tick();
    served.until(&format!("!document.getElementById('now').textContent.endsWith(' {before}')"));

    // Without the key.
    let (root, _) = served.address.split_at(served.address.trim_end_matches('/').rfind('/').unwrap() + 1);
    served.browser.go(root).unwrap();
    served.until("document.body.innerText.includes('the key is missing')");

    // From another page.
    let foreign = served.folder.path().join("foreign.html");
    std::fs::write(&foreign, "<p>elsewhere</p>").unwrap();
    served.browser.open(&foreign).unwrap();
    let tries = format!(
        "window.got = []; const told = (what) => window.got.push(what); const page = '{0}'; \
         fetch(page).then(() => told('let in'), () => told('refused')); \
         const socket = new WebSocket(page.replace(/^http/, 'ws') + 'socket'); \
         socket.onopen = () => told('let in'); socket.onerror = () => told('refused')",
        served.address
    );
    served.browser.run(&tries).unwrap();
    served.until("window.got.length === 2");
    assert_eq!(served.get("window.got"), json!(["refused", "refused"]));
}
