//! Debian's chromium, driven over its debugging protocol (Chrome DevTools Protocol 1.3).

use std::fs;
use std::io::{BufRead, BufReader};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::thread;
use std::time::{Duration, Instant};

use base64::Engine;
use serde_json::{Value, json};
use tempfile::TempDir;
use tungstenite::{Message, WebSocket};

/// How long anything may take that a test waits for.
const PATIENCE: Duration = Duration::from_secs(30);

/// A browser with one page.
pub struct Browser {
    child: Child,
    _profile: TempDir,
    socket: WebSocket<TcpStream>,
    session: String,
    calls: u64,
    is_loaded: bool,
    /// Errors and warnings on the console, and scripts that broke.
    pub complaints: Vec<String>,
    /// All addresses that were requested.
    pub asked: Vec<String>,
}

impl Browser {
    #[track_caller]
    pub fn start() -> Self {
        let profile = tempfile::tempdir().unwrap();
        let mut child = Command::new("chromium")
            .args(["--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run"])
            .args(["--disable-background-networking", "--disable-component-update", "--disable-sync"])
            .args(["--remote-debugging-port=0", "about:blank"])
            .arg(format!("--user-data-dir={}", profile.path().display()))
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        let mut lines = BufReader::new(child.stderr.take().unwrap()).lines().map_while(Result::ok);
        let address = lines.find_map(|line| line.strip_prefix("DevTools listening on ").map(str::to_owned)).unwrap();
        // Whatever else it says must not fill the pipe.
        thread::spawn(move || lines.for_each(drop));
        let host = address.trim_start_matches("ws://").split('/').next().unwrap();
        let stream = TcpStream::connect(host).unwrap();
        stream.set_read_timeout(Some(PATIENCE)).unwrap();
        let (socket, _) = tungstenite::client(&address, stream).unwrap();
        let mut browser = Self {
            child,
            _profile: profile,
            socket,
            session: String::new(),
            calls: 0,
            is_loaded: false,
            complaints: Vec::new(),
            asked: Vec::new(),
        };
        let target = browser.call("Target.createTarget", json!({"url": "about:blank"}));
        let attached = browser.call("Target.attachToTarget", json!({"targetId": target["targetId"], "flatten": true}));
        browser.session = attached["sessionId"].as_str().unwrap().to_owned();
        for domain in ["Page", "Runtime", "Log", "Network"] {
            browser.call(&format!("{domain}.enable"), json!({}));
        }
        browser.size(1280, 800);
        browser
    }

    /// Calls a method and gives its result; what happens meanwhile is kept.
    #[track_caller]
    pub fn call(&mut self, method: &str, parameters: Value) -> Value {
        match self.answer(method, parameters) {
            Ok(answer) => answer,
            Err(error) => panic!("{method}: {error}"),
        }
    }

    /// What the browser answers to a call, or its error.
    fn answer(&mut self, method: &str, parameters: Value) -> Result<Value, Value> {
        self.calls += 1;
        let id = self.calls;
        let mut call = json!({"id": id, "method": method, "params": parameters});
        if !self.session.is_empty() {
            call["sessionId"] = json!(self.session);
        }
        self.socket.send(Message::text(call.to_string())).unwrap();
        loop {
            let heard = self.hear();
            if heard["id"] == id {
                return if heard["error"].is_null() {
                    Ok(heard["result"].clone())
                } else {
                    Err(heard["error"].clone())
                };
            }
        }
    }

    fn hear(&mut self) -> Value {
        let Message::Text(text) = self.socket.read().unwrap() else { return Value::Null };
        let heard: Value = serde_json::from_str(&text).unwrap();
        let about = &heard["params"];
        let text = |value: &Value| value.as_str().unwrap_or_default().to_owned();
        match heard["method"].as_str() {
            Some("Page.loadEventFired") => self.is_loaded = true,
            Some("Runtime.consoleAPICalled") if about["type"] == "error" || about["type"] == "warning" => {
                self.complaints.push(about["args"].to_string());
            }
            Some("Runtime.exceptionThrown") => self.complaints.push(about["exceptionDetails"].to_string()),
            Some("Log.entryAdded") if about["entry"]["level"] != "info" && about["entry"]["level"] != "verbose" => {
                self.complaints.push(format!("{} {}", text(&about["entry"]["text"]), text(&about["entry"]["url"])));
            }
            Some("Network.requestWillBeSent") => self.asked.push(text(&about["request"]["url"])),
            _ => {}
        }
        heard
    }

    pub fn size(&mut self, width: u32, height: u32) {
        let size = json!({"width": width, "height": height, "deviceScaleFactor": 1, "mobile": false});
        self.call("Emulation.setDeviceMetricsOverride", size);
    }

    pub fn scheme(&mut self, scheme: &str) {
        let feature = json!({"name": "prefers-color-scheme", "value": scheme});
        self.call("Emulation.setEmulatedMedia", json!({ "features": [feature] }));
    }

    /// Opens a page and waits until it is loaded.
    #[track_caller]
    pub fn open(&mut self, address: &str) {
        self.is_loaded = false;
        self.call("Page.navigate", json!({ "url": address }));
        while !self.is_loaded {
            self.hear();
        }
        // The page before it may have been about to load itself again.
        self.until(&format!("document.readyState === 'complete' && location.href === {}", json!(address)));
    }

    /// The value of an expression in the page, waited for if it is promised.
    #[track_caller]
    pub fn value(&mut self, script: &str) -> Value {
        let asked = json!({"expression": script, "awaitPromise": true, "returnByValue": true});
        let said = self.call("Runtime.evaluate", asked);
        assert!(said["exceptionDetails"].is_null(), "{script}\n{}", said["exceptionDetails"]);
        said["result"]["value"].clone()
    }

    /// Waits until an expression in the page is true; a page that is just being loaded is asked again.
    #[track_caller]
    pub fn until(&mut self, script: &str) {
        let start = Instant::now();
        loop {
            let asked = json!({"expression": format!("!!({script})"), "returnByValue": true});
            // An error is what a page answers that is left in this moment.
            let said = self.answer("Runtime.evaluate", asked);
            if said.as_ref().is_ok_and(|said| said["result"]["value"] == true) {
                return;
            }
            if start.elapsed() >= PATIENCE {
                panic!("never true: {script}\n{said:?}\n{}", self.value("document.body.innerText"));
            }
            thread::sleep(Duration::from_millis(25));
        }
    }

    /// Keeps what is seen as a PNG.
    pub fn picture(&mut self, file: &Path) {
        let taken = self.call("Page.captureScreenshot", json!({"format": "png"}));
        let png = base64::prelude::BASE64_STANDARD.decode(taken["data"].as_str().unwrap()).unwrap();
        fs::write(file, png).unwrap();
    }

    /// Presses a key, by its name on the keyboard.
    pub fn press(&mut self, key: &str) {
        let (code, text) = match key {
            "Enter" => (13, "\r"),
            "Escape" => (27, ""),
            "Tab" => (9, ""),
            "ArrowRight" => (39, ""),
            _ => (0, key),
        };
        for kind in ["keyDown", "keyUp"] {
            let text = if kind == "keyDown" { text } else { "" };
            let event = json!({"type": kind, "key": key, "code": key, "windowsVirtualKeyCode": code, "text": text});
            self.call("Input.dispatchKeyEvent", event);
        }
    }

    /// Moves the mouse, and presses it if asked to.
    pub fn mouse(&mut self, x: f64, y: f64, press: bool) {
        let kinds: &[&str] = if press { &["mousePressed", "mouseReleased"] } else { &["mouseMoved"] };
        for kind in kinds {
            let button = if press { "left" } else { "none" };
            let event = json!({"type": kind, "x": x, "y": y, "button": button, "clickCount": u8::from(press)});
            self.call("Input.dispatchMouseEvent", event);
        }
    }
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
