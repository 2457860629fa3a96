//! `live` as a process: what it says of the files as they change, and what the page makes of that.

mod common;

use std::fs;
use std::io::{BufRead, BufReader};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use common::{hammerstone, root, run};
use pagekit::{Browser, ask};
use serde_json::Value;
use tempfile::TempDir;

/// A fight that is served, with its files.
struct Served {
    folder: TempDir,
    child: Child,
    address: String,
}

impl Drop for Served {
    fn drop(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

impl Served {
    fn new(more: &[&str]) -> Served {
        let folder = tempfile::tempdir().unwrap();
        for file in ["duel.toml", "duel.rules.toml"] {
            fs::copy(root().join("scenarios").join(file), folder.path().join(file)).unwrap();
        }
        let fight = folder.path().join("duel.toml");
        let mut command = hammerstone(&[&["live", fight.to_str().unwrap()], more].concat());
        let mut child = command.stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        let mut line = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let address = line.trim().strip_prefix("live at ").unwrap_or_else(|| panic!("{line}")).to_owned();
        Served { folder, child, address }
    }

    fn rules(&self) -> PathBuf {
        self.folder.path().join("duel.rules.toml")
    }

    /// Puts other text in place of some of the ruleset, as an editor does that writes another file and renames it.
    fn edit(&self, changes: &[(&str, &str)]) {
        let mut text = fs::read_to_string(self.rules()).unwrap();
        for (before, after) in changes {
            assert!(text.contains(before), "{before}");
            text = text.replacen(before, after, 1);
        }
        let beside = self.folder.path().join("duel.rules.toml~");
        fs::write(&beside, text).unwrap();
        fs::rename(beside, self.rules()).unwrap();
    }

    fn state(&self) -> Value {
        let (status, head, body) = ask(&self.address, "GET", "state", &[], "");
        assert_eq!(status, 200, "{head}");
        serde_json::from_slice(&body).unwrap()
    }

    /// The state once something holds of it.
    fn once(&self, holds: impl Fn(&Value) -> bool) -> Value {
        let begun = Instant::now();
        loop {
            let state = self.state();
            if holds(&state) {
                return state;
            }
            assert!(begun.elapsed() < Duration::from_secs(100), "{state}");
            std::thread::sleep(Duration::from_millis(30));
        }
    }

    fn send(&self, path: &str, body: &Value) {
        assert_eq!(ask(&self.address, "POST", path, &[], &body.to_string()).0, 204);
    }
}

fn rows(state: &Value) -> Vec<Value> {
    state["changes"]["rows"].as_array().cloned().unwrap_or_default()
}

/// What was changed; of what is as the baseline there is none.
fn labels(state: &Value) -> Vec<String> {
    let labels = rows(state).into_iter().map(|row| row["label"].as_str().unwrap().to_owned());
    labels.filter(|label| label != "as the baseline").collect()
}

fn are_whole(state: &Value) -> bool {
    !rows(state).is_empty() && rows(state).iter().all(|row| row["running"] == false)
}

#[test]
fn each_change_is_told_alone_and_without_it() {
    let served = Served::new(&["--seeds", "40"]);
    let first = served.once(|state| state["version"] == 1);
    assert_eq!((labels(&first).len(), first["mistakes"].as_array().unwrap().len()), (0, 0));
    // Nothing is changed: how it ends over many seeds, as `survey` says.
    let as_it_is = served.once(are_whole);
    let survey: Value = serde_json::from_str(
        &run(&["survey", "scenarios/duel.toml", "--seeds", "40", "--format", "json", "--quiet"]).1,
    )
    .unwrap();
    let outcome = &survey["points"][0]["outcomes"][0];
    let share = outcome["share"].as_f64().unwrap_or_else(|| panic!("{survey}"));
    let ends = rows(&as_it_is)[0]["ends"].as_str().unwrap().to_owned();
    let wanted = format!("{} {:.0} % (", outcome["name"].as_str().unwrap(), 100.0 * share);
    assert!(ends.starts_with(&wanted) && ends.contains("; median "), "{ends}: {wanted}");
    // One change is the whole.
    served.edit(&[("crush = [3, 10]", "crush = [5, 10]")]);
    let one = served.once(|state| !labels(state).is_empty() && are_whole(state));
    assert_eq!(labels(&one), ["attack.hook-pole.damage.crush.0 3 → 5"]);
    // What it says of one seed and of many is what the other commands say.
    let fight = served.folder.path().join("duel.toml");
    let before = root().join("scenarios/duel.toml");
    let [fight, before] = [&fight, &before].map(|path| path.to_str().unwrap());
    let many = ["compare", before, fight, "--seeds", "40", "--format", "json"];
    let paired: Value = serde_json::from_str(&run(&many).1).unwrap();
    assert_eq!(rows(&one)[0]["rows"], paired["rows"]);
    assert_eq!(rows(&one)[0]["seeds"], 40);
    let here = rows(&one)[0]["here"].as_str().unwrap().to_owned();
    let differences: Value =
        serde_json::from_str(&run(&["compare", before, fight, "--format", "json"]).1).unwrap();
    let entry = &differences["differences"][0];
    let time = entry["first"]["time"].as_f64().or(entry["second"]["time"].as_f64()).unwrap();
    assert!(here.contains(&format!("first difference {time:.2} s")), "{here} {time}");
    // Two more: all, each alone, and all but it. The baseline stays pinned, also over several saves.
    served.edit(&[("health = 32", "health = 40")]);
    served.once(|state| labels(state).len() == 3);
    served.edit(&[("startup = \"0.3s\"", "startup = \"0.2s\"")]);
    let three = served.once(|state| labels(state).len() == 4 && are_whole(state));
    assert_eq!(labels(&three)[0], "all 3 changes");
    assert_eq!(rows(&three)[0]["without"], Value::Null);
    for (path, value, row) in
        [("attack.hook-pole.damage.crush.0", "5", 1), ("attack.hook-pole.startup", "0.2s", 2)]
    {
        assert!(labels(&three)[row].starts_with(path), "{:?}", labels(&three));
        let set = format!("{path}={value}");
        let alone = ["compare", before, before, "--seeds", "40", "--format", "json", "--set", &set];
        let paired: Value = serde_json::from_str(&run(&alone).1).unwrap();
        assert_eq!(rows(&three)[row]["rows"], paired["rows"], "{path} alone");
        assert!(rows(&three)[row]["without"].as_str().unwrap().contains('→'));
    }
    // From now on this is the baseline.
    served.send("pin", &Value::Null);
    let pinned = served.once(|state| labels(state).is_empty());
    assert_eq!(pinned["changes"]["baseline"], "baseline: as it was pinned");
    // With many changes, those of one section are one.
    served.edit(&[
        ("crush = [5, 10]", "crush = [4, 12]"),
        ("recovery = \"0.45s\"", "recovery = \"0.4s\""),
        ("max-targets = 1", "max-targets = 2"),
        ("health = 40", "health = 30"),
        ("corpse-time = \"2s\"", "corpse-time = \"1s\""),
        ("resistance = { cut = 0.1 }", "resistance = { cut = 0.2 }"),
    ]);
    let many = served.once(|state| !labels(state).is_empty() && are_whole(state));
    let labels = labels(&many);
    assert_eq!(labels[..2], ["all 7 changes", "attack.hook-pole: 4 values"], "{labels:?}");
}

#[test]
fn mistakes_and_trials_leave_the_files_alone() {
    let served = Served::new(&["--seeds", "0"]);
    let version = served.once(|state| state["version"] == 1)["version"].clone();
    let written = fs::read_to_string(served.rules()).unwrap();
    // A mistake has its mark; the fight of before stays.
    served.edit(&[("crush = [3, 10]", "crush = [3, x]")]);
    let broken = served.once(|state| state["mistakes"] != Value::Array(Vec::new()));
    let report = broken["mistakes"][0].as_str().unwrap();
    assert!(report.contains("duel.rules.toml:26") && report.contains("╭─["), "{report}");
    assert_eq!(broken["version"], version);
    assert_eq!(ask(&served.address, "GET", "data", &[], "").0, 200);
    served.edit(&[("crush = [3, x]", "crush = [3, 10]")]);
    served.once(|state| state["mistakes"] == Value::Array(Vec::new()) && state["version"] == 2);
    // A value that is tried is in no file; the line says how to keep it.
    served.send("try", &serde_json::json!({ "path": "attack.hook-pole.damage.crush.1", "value": "14" }));
    let tried = served.once(|state| state["version"] == 3);
    assert_eq!(tried["changes"]["tried"][0]["line"], "damage = { crush = [3, 14] }");
    assert!(tried["changes"]["tried"][0]["place"].as_str().unwrap().ends_with("duel.rules.toml:26"));
    assert!(
        tried["changes"]["paths"]
            .as_array()
            .unwrap()
            .iter()
            .any(|path| path == "template.bridge-hound.health")
    );
    served.once(|state| labels(state) == ["attack.hook-pole.damage.crush.1 10 → 14"]);
    assert_eq!(
        fs::read_to_string(served.rules()).unwrap(),
        written,
        "nothing that a page sends reaches a file"
    );
    // What cannot be tried says why, and changes nothing.
    for (path, value, why) in [
        ("template.odo.health", "9", "no `odo` in `template`"),
        ("template.bridge-hound.health", "many", "many"),
        ("template.bridge-hound.health", "-4", "-4 is outside 1 to"),
    ] {
        served.send("try", &serde_json::json!({ "path": path, "value": value }));
        let refused = served.once(|state| state["refused"].as_str().is_some_and(|text| text.contains(why)));
        assert_eq!((&refused["version"], labels(&refused).len()), (&Value::from(3), 1), "{path}");
    }
    served.send("try", &serde_json::json!({ "path": "attack.hook-pole.damage.crush.1", "value": null }));
    served.once(|state| labels(state).is_empty() && state["changes"]["tried"] == Value::Array(Vec::new()));
    for body in ["", "{}", "{\"path\":\"\",\"value\":\"1\"}", "{\"path\":\"a\",\"value\":\"\"}", "[]"] {
        assert_eq!(ask(&served.address, "POST", "try", &[], body).0, 400, "{body}");
    }
    // A save that changes no value makes no run.
    let before = served.state()["version"].clone();
    fs::write(served.rules(), &written).unwrap();
    std::thread::sleep(Duration::from_millis(600));
    assert_eq!(served.state()["version"], before);
}

#[test]
fn what_does_not_change_is_not_served_and_an_end_is_an_end() {
    let folder = tempfile::tempdir().unwrap();
    let log = folder.path().join("duel.log");
    assert_eq!(run(&["run", "scenarios/duel.toml", "-q", "--log", log.to_str().unwrap()]).0, 0);
    for (file, said) in [
        (log.to_str().unwrap(), "is a log, which does not change"),
        ("-", "standard input comes once"),
        ("scenarios/none.toml", "cannot be read"),
        ("scenarios/quarry.rules.toml", "is a ruleset, and no fight"),
    ] {
        let (status, _, errors) = run(&["live", file]);
        assert!(status == 2 && common::unfolded(&errors).contains(said), "{file}: {errors}");
    }
    let mut served = Served::new(&[]);
    let port = served.address.split([':', '/']).nth(4).unwrap().to_owned();
    let (status, _, errors) = run(&["live", "scenarios/duel.toml", "--port", &port]);
    assert!(status == 2 && errors.contains("--port"), "{errors}");
    let interrupted = Command::new("kill").args(["-INT", &served.child.id().to_string()]).status();
    if !interrupted.is_ok_and(|status| status.success()) {
        eprintln!("skipped: there is no `kill` here");
        return;
    }
    assert!(served.child.wait().unwrap().success());
}

/// In a real browser, where there is one.
#[test]
fn the_page_keeps_its_moment_and_its_selection() {
    let Some(mut browser) = Browser::open(1280, 800) else { return };
    let served = Served::new(&["--seeds", "30"]);
    browser.visit(&served.address);
    assert_eq!(browser.ask("document.documentElement.scrollHeight"), 800);
    assert_eq!(browser.area("#changes")[3], 64.0);
    let version = |browser: &mut Browser, wanted: u32| {
        browser.until(&format!("document.documentElement.dataset.version === '{wanted}'"));
    };
    // A swing is chosen, and stays chosen with the moment while its file changes.
    let [left, top, wide, _] = browser.area("#lanes");
    let seconds = browser.ask("+document.getElementById('tick').max").as_f64().unwrap() / 60.0;
    browser.click([left + wide * 1.35 / seconds, top + 5.0]);
    let head = browser.text("#inspector h2");
    assert!(head.starts_with("odo's hook-pole"), "{head}");
    let moment = browser.text("#moment");
    served.edit(&[("crush = [3, 10]", "crush = [6, 10]")]);
    version(&mut browser, 2);
    assert!(
        browser.text("#inspector h2").starts_with("odo's hook-pole"),
        "{}",
        browser.text("#inspector h2")
    );
    assert_eq!(browser.text("#moment").split(':').next(), moment.split(':').next());
    browser.until("document.getElementById('changes').textContent.includes('first difference')");
    browser.until("document.getElementById('changes').textContent.includes('30 seeds, each by both')");
    // A hit that is no more says so, and opens its swing.
    browser.ask("location.hash = 'tick=95'");
    browser.until("[...document.querySelectorAll('#rows [data-line]')].some((row) => row.textContent.includes('odo hits'))");
    let hit = browser.middle("#rows [data-line]", "odo hits");
    browser.click(hit);
    let head = browser.text("#inspector h2");
    assert!(head.starts_with("* odo hits"), "{head}");
    served.edit(&[
        ("capsule = { from = [0, 1.0, 0.4]", "capsule = { from = [0, 9.0, 0.4]"),
        ("to = [0, 0.9, 1.8]", "to = [0, 9.9, 1.8]"),
    ]);
    version(&mut browser, 3);
    let said = browser.text("#inspector");
    assert!(said.contains("Not in this run: * odo hits") && said.contains("This is its swing."), "{said}");
    assert!(said.contains("it met no target"), "{said}");
    // Mistakes come on top, and the last page is there, dimmed.
    served.edit(&[("crush = [6, 10]", "crush = [6, 1x]")]);
    browser.until("document.body.classList.contains('mistaken')");
    assert!(browser.text(".mistakes").contains("duel.rules.toml:26"), "{}", browser.text(".mistakes"));
    assert!(browser.text("#inspector h2").starts_with("odo's hook-pole"));
    served.edit(&[("crush = [6, 1x]", "crush = [6, 10]")]);
    browser.until("!document.body.classList.contains('mistaken')");
    // A value is tried by typing it, and taken back.
    browser.press("#try", "");
    "template.bridge-hound.health = 9".chars().for_each(|letter| browser.key(&letter.to_string()));
    browser.key("Enter");
    browser.until("document.getElementById('values').textContent.includes('to keep it, paste this line')");
    assert!(browser.text("#values code") == "health = 9", "{}", browser.text("#values"));
    browser.press("#values button", "✕");
    browser.until("!document.getElementById('values').textContent.includes('paste this line')");
    browser.press("#controls button", "pin");
    browser.until("document.getElementById('controls').textContent.includes('as it was pinned')");
    assert!(browser.troubles.is_empty(), "{:?}", browser.troubles);
    assert!(Path::new(&served.rules()).exists());
}
