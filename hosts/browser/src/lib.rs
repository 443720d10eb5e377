//! A browser that nobody sees: Chromium, led by its own driver. Both are found by their names, `chromium` and `chromedriver`.

use std::{
    io::{BufRead, BufReader},
    path::Path,
    process::{Child, Command, Stdio},
};

use fantoccini::{
    Client, ClientBuilder, Locator,
    actions::{InputSource, KeyAction, KeyActions, MouseActions, PointerAction},
    error::CmdError,
    wd::WebDriverCompatibleCommand,
};
use hyper_util::client::legacy::connect::HttpConnector;
use serde_json::{Value, json};
use tokio::runtime::Runtime;

/// Whatever kept a browser from doing what it was told.
pub type Trouble = Box<dyn std::error::Error>;

/// A browser with one page.
#[derive(Debug)]
pub struct Browser {
    runtime: Runtime,
    client: Client,
    _driver: Driver,
}

/// The driver's process, which ends when it is dropped.
#[derive(Debug)]
struct Driver(Child);

impl Drop for Driver {
    fn drop(&mut self) {
        // It may have ended already.
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

impl Browser {
    /// A browser with a window of that size, in pixels.
    ///
    /// # Errors
    /// If Chromium or its driver is not there, or does not start.
    pub fn new(width: u32, height: u32) -> Result<Self, Trouble> {
        let mut driver = Command::new("chromedriver");
        driver.arg("--port=0").stdout(Stdio::piped()).stderr(Stdio::null());
        let mut driver = Driver(driver.spawn()?);
        let said = driver.0.stdout.take().ok_or("the driver says nothing")?;
        let mut lines = BufReader::new(said).lines();
        let port = loop {
            let line = lines.next().ok_or("the driver ended before it said on which port it listens")??;
            if let Some((_, port)) = line.rsplit_once("successfully on port ")
                && let Ok(port) = port.trim_end_matches('.').parse::<u16>()
            {
                break port;
            }
        };
        // What it says later is read, so that it never waits for a reader.
        std::thread::spawn(move || lines.for_each(drop));
        let runtime = tokio::runtime::Builder::new_multi_thread().worker_threads(1).enable_all().build()?;
        let arguments = [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-dev-shm-usage",
            &format!("--window-size={width},{height}"),
        ];
        let wishes = json!({
            "browserName": "chrome",
            "goog:chromeOptions": { "args": arguments },
            "goog:loggingPrefs": { "browser": "ALL" },
        });
        let Value::Object(wishes) = wishes else { return Err("wishes are an object".into()) };
        let mut builder = ClientBuilder::new(HttpConnector::new());
        builder.capabilities(wishes);
        let client = runtime.block_on(builder.connect(&format!("http://127.0.0.1:{port}")))?;
        Ok(Self { runtime, client, _driver: driver })
    }

    /// Opens a file.
    ///
    /// # Errors
    /// If the browser does not answer.
    pub fn open(&self, file: &Path) -> Result<(), Trouble> {
        self.go(&format!("file://{}", file.display()))
    }

    /// Opens an address.
    ///
    /// # Errors
    /// If the browser does not answer.
    pub fn go(&self, address: &str) -> Result<(), Trouble> {
        Ok(self.runtime.block_on(self.client.goto(address))?)
    }

    /// What a script of the page gives: its `return`.
    ///
    /// # Errors
    /// If the script fails.
    pub fn run(&self, script: &str) -> Result<Value, Trouble> {
        Ok(self.runtime.block_on(self.client.execute(script, Vec::new()))?)
    }

    /// Clicks on the first element that fits a selector of CSS.
    ///
    /// # Errors
    /// If there is none that can be clicked on.
    pub fn click(&self, selector: &str) -> Result<(), Trouble> {
        let click = async { self.client.find(Locator::Css(selector)).await?.click().await };
        Ok(self.runtime.block_on(click)?)
    }

    /// Types into the first element that fits a selector of CSS.
    ///
    /// # Errors
    /// If there is none that can be typed into.
    pub fn write(&self, selector: &str, text: &str) -> Result<(), Trouble> {
        let write = async { self.client.find(Locator::Css(selector)).await?.send_keys(text).await };
        Ok(self.runtime.block_on(write)?)
    }

    /// Presses and releases a key, wherever the page has its focus.
    ///
    /// # Errors
    /// If the browser does not answer.
    pub fn press(&self, key: char) -> Result<(), Trouble> {
        let keys = KeyActions::new("keys".to_owned())
            .then(KeyAction::Down { value: key })
            .then(KeyAction::Up { value: key });
        Ok(self.runtime.block_on(self.client.perform_actions(keys))?)
    }

    /// Presses a key, or releases it again.
    ///
    /// # Errors
    /// If the browser does not answer.
    pub fn hold(&self, key: char, down: bool) -> Result<(), Trouble> {
        let action = if down { KeyAction::Down { value: key } } else { KeyAction::Up { value: key } };
        let keys = KeyActions::new("keys".to_owned()).then(action);
        Ok(self.runtime.block_on(self.client.perform_actions(keys))?)
    }

    /// Clicks at a place of the window, in pixels.
    ///
    /// # Errors
    /// If the browser does not answer.
    pub fn click_at(&self, x: u16, y: u16) -> Result<(), Trouble> {
        let mouse = MouseActions::new("mouse".to_owned())
            .then(PointerAction::MoveTo { duration: None, x: f64::from(x), y: f64::from(y) })
            .then(PointerAction::Down { button: 0 })
            .then(PointerAction::Up { button: 0 });
        Ok(self.runtime.block_on(self.client.perform_actions(mouse))?)
    }

    /// What the console has said since the last call, a line each.
    ///
    /// # Errors
    /// If the browser does not answer.
    pub fn console(&self) -> Result<Vec<String>, Trouble> {
        let said: Result<Value, CmdError> = self.runtime.block_on(self.client.issue_cmd(Console));
        let lines = said?.as_array().cloned().unwrap_or_default();
        Ok(lines.iter().map(|line| format!("{}: {}", line["level"], line["message"])).collect())
    }

    /// The page as PNG.
    ///
    /// # Errors
    /// If the browser does not answer.
    pub fn picture(&self) -> Result<Vec<u8>, Trouble> {
        Ok(self.runtime.block_on(self.client.screenshot())?)
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        // The driver ends in any case, and the browser with it.
        let _ = self.runtime.block_on(self.client.clone().close());
    }
}

/// Asks what the console has said.
#[derive(Debug)]
struct Console;

impl WebDriverCompatibleCommand for Console {
    fn endpoint(&self, base: &url::Url, session: Option<&str>) -> Result<url::Url, url::ParseError> {
        base.join(&format!("session/{}/se/log", session.unwrap_or_default()))
    }

    fn method_and_body(&self, _: &url::Url) -> (http::Method, Option<String>) {
        (http::Method::POST, Some(json!({ "type": "browser" }).to_string()))
    }
}
