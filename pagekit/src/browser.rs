//! A real browser that tests steer: they press, drag, turn the wheel and type as a person would. Chromium takes its commands through a pipe.

use std::fs::{File, OpenOptions};
use std::io::{BufRead, BufReader, Write};
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{Receiver, channel};
use std::time::Duration;

use serde_json::{Value, json};
use tempfile::TempDir;

/// How long an answer may take, and how long a page may be until it is ready.
const PATIENCE: Duration = Duration::from_secs(120);

/// One window of a browser; it is closed when this is dropped.
pub struct Browser {
    child: Child,
    commands: File,
    answers: Receiver<Vec<u8>>,
    count: u64,
    session: Option<String>,
    /// What went wrong in the scripts of the page.
    pub troubles: Vec<String>,
    _folder: TempDir,
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

impl Browser {
    /// A window of so many pixels; none where there is no browser, which is said.
    pub fn open(wide: u32, high: u32) -> Option<Browser> {
        let name = ["chromium", "chromium-browser"].into_iter().find(|name| {
            Command::new(name).arg("--version").output().is_ok_and(|output| output.status.success())
        });
        let Some(name) = name else {
            eprintln!("skipped: there is no chromium here");
            return None;
        };
        let folder = tempfile::tempdir().unwrap();
        let [commands, answers] = ["commands", "answers"].map(|name| folder.path().join(name));
        for pipe in [&commands, &answers] {
            assert!(Command::new("mkfifo").arg(pipe).status().unwrap().success());
        }
        let child = Command::new("sh")
            .args(["-c", "in=$1; out=$2; shift 2; exec \"$@\" 3<\"$in\" 4>\"$out\"", "sh"])
            .args([&commands, &answers])
            .arg(name)
            .args(["--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-sync"])
            .args(["--disable-background-networking", "--disable-component-update", "--hide-scrollbars"])
            .arg("--remote-debugging-pipe")
            .arg(format!("--user-data-dir={}", folder.path().join("profile").display()))
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let commands = OpenOptions::new().write(true).open(commands).unwrap();
        let mut pipe = BufReader::new(File::open(answers).unwrap());
        let (send, answers) = channel();
        std::thread::spawn(move || {
            loop {
                let mut one = Vec::new();
                match pipe.read_until(0, &mut one) {
                    Ok(0) | Err(_) => return,
                    Ok(_) => one.pop(),
                };
                if send.send(one).is_err() {
                    return;
                }
            }
        });
        let mut browser = Browser {
            child,
            commands,
            answers,
            count: 0,
            session: None,
            troubles: Vec::new(),
            _folder: folder,
        };
        let target = browser.command("Target.createTarget", json!({ "url": "about:blank" }));
        let asked = json!({ "targetId": target["targetId"], "flatten": true });
        let session = browser.command("Target.attachToTarget", asked);
        browser.session = session["sessionId"].as_str().map(str::to_owned);
        browser.command("Page.enable", json!({}));
        browser.command("Runtime.enable", json!({}));
        browser.resize(wide, high);
        Some(browser)
    }

    /// The window is so large from now on.
    pub fn resize(&mut self, wide: u32, high: u32) {
        let size = json!({ "width": wide, "height": high, "deviceScaleFactor": 1, "mobile": false });
        self.command("Emulation.setDeviceMetricsOverride", size);
    }

    fn command(&mut self, method: &str, parameters: Value) -> Value {
        self.count += 1;
        let mut message = json!({ "id": self.count, "method": method, "params": parameters });
        if let Some(session) = &self.session {
            message["sessionId"] = json!(session);
        }
        self.commands.write_all(format!("{message}\0").as_bytes()).unwrap();
        loop {
            let answer = self.answers.recv_timeout(PATIENCE).expect("the browser answers");
            let answer: Value = serde_json::from_slice(&answer).unwrap();
            if answer["method"] == "Runtime.exceptionThrown" {
                self.troubles.push(answer["params"]["exceptionDetails"].to_string());
            }
            if answer["id"] == self.count {
                assert!(answer["error"].is_null(), "{method}: {}", answer["error"]);
                return answer["result"].clone();
            }
        }
    }

    /// Goes to a page of ours, and waits until it is whole.
    pub fn visit(&mut self, address: &str) {
        self.command("Page.navigate", json!({ "url": "about:blank" }));
        self.command("Page.navigate", json!({ "url": address }));
        self.until("document.documentElement?.classList.contains('detailed')");
    }

    /// As [`visit`](Self::visit), a file, at a part of it.
    pub fn visit_file(&mut self, page: &Path, part: &str) {
        self.visit(&format!("file://{}{part}", page.display()));
    }

    /// What an expression of the page's own language gives.
    pub fn ask(&mut self, expression: &str) -> Value {
        let asked = json!({ "expression": expression, "returnByValue": true, "awaitPromise": true });
        let answer = self.command("Runtime.evaluate", asked);
        assert!(answer["exceptionDetails"].is_null(), "{expression}: {}", answer["exceptionDetails"]);
        answer["result"]["value"].clone()
    }

    /// The text of what a selector finds first.
    pub fn text(&mut self, selector: &str) -> String {
        let found = self.ask(&format!("document.querySelector({})?.textContent", json!(selector)));
        found.as_str().unwrap_or_default().to_owned()
    }

    /// The part of the address that holds moment and selection, as it is once it has settled.
    pub fn address(&mut self) -> String {
        let asked = "new Promise((ready) => setTimeout(() => ready(location.hash), 250))";
        self.ask(asked).as_str().unwrap_or_default().to_owned()
    }

    /// Waits until something holds.
    pub fn until(&mut self, expression: &str) {
        let begun = std::time::Instant::now();
        while self.ask(expression) != true {
            assert!(begun.elapsed() < PATIENCE, "{expression} does not come true: {:?}", self.troubles);
            std::thread::sleep(Duration::from_millis(20));
        }
    }

    fn mouse(&mut self, sort: &str, [x, y]: [f64; 2], buttons: u8) {
        let button = if sort == "mouseMoved" && buttons == 0 { "none" } else { "left" };
        let mouse =
            json!({ "type": sort, "x": x, "y": y, "button": button, "buttons": buttons, "clickCount": 1 });
        self.command("Input.dispatchMouseEvent", mouse);
    }

    /// Presses and lets go.
    pub fn click(&mut self, at: [f64; 2]) {
        self.drag(&[at]);
    }

    /// Presses at the first place, goes through the others, and lets go at the last.
    pub fn drag(&mut self, places: &[[f64; 2]]) {
        self.mouse("mouseMoved", places[0], 0);
        self.mouse("mousePressed", places[0], 1);
        places[1..].iter().for_each(|place| self.mouse("mouseMoved", *place, 1));
        self.mouse("mouseReleased", places[places.len() - 1], 0);
    }

    /// Turns the wheel.
    pub fn wheel(&mut self, [x, y]: [f64; 2], by: f64) {
        let wheel = json!({ "type": "mouseWheel", "x": x, "y": y, "deltaX": 0, "deltaY": by });
        self.command("Input.dispatchMouseEvent", wheel);
    }

    /// Types a key: a letter, or the name of another key.
    pub fn key(&mut self, key: &str) {
        let text = if key.chars().count() == 1 { key } else { "" };
        for sort in ["keyDown", "keyUp"] {
            let text = if sort == "keyDown" { text } else { "" };
            self.command("Input.dispatchKeyEvent", json!({ "type": sort, "key": key, "text": text }));
        }
    }

    /// The middle of what a selector finds first and which has this text in it; it must be in the window.
    pub fn middle(&mut self, selector: &str, text: &str) -> [f64; 2] {
        let asked = format!(
            "(() => {{ const node = [...document.querySelectorAll({})].find((node) => node.textContent.includes({}));
               node?.scrollIntoView({{ block: 'nearest' }}); const box = node?.getBoundingClientRect();
               return box && [box.x + Math.min(box.width / 2, 60), box.y + box.height / 2]; }})()",
            json!(selector),
            json!(text)
        );
        let found = self.ask(&asked);
        let number = |place: usize| found[place].as_f64();
        let (Some(x), Some(y)) = (number(0), number(1)) else {
            panic!("there is no {selector} with {text:?}")
        };
        [x, y]
    }

    /// Clicks what a selector finds first with this text in it.
    pub fn press(&mut self, selector: &str, text: &str) {
        let at = self.middle(selector, text);
        self.click(at);
    }

    /// Where a selector's first find stands: left, top, width, height.
    pub fn area(&mut self, selector: &str) -> [f64; 4] {
        let asked = format!(
            "(() => {{ const box = document.querySelector({}).getBoundingClientRect(); return [box.x, box.y, box.width, box.height]; }})()",
            json!(selector)
        );
        let found = self.ask(&asked);
        [0, 1, 2, 3].map(|place: usize| found[place].as_f64().unwrap())
    }
}
