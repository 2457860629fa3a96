//! `new`: each starter runs, passes `check` and `test`, plays itself, and nothing is overwritten.

mod common;

use std::fs;

use common::{hammerstone, in_folder, run, unfolded};
use serde_json::Value;

const ALL: [&str; 5] = ["duel", "boss", "waves", "shots", "flat"];

#[test]
fn each_starter_checks_tests_and_plays_itself() {
    for like in ALL {
        let folder = tempfile::tempdir().unwrap();
        let place = folder.path().join("my fight").display().to_string();
        let (status, said, errors) = run(&["new", &place, "--like", like]);
        assert_eq!((status, errors.as_str()), (0, ""), "{like}");
        let next: Vec<&str> = said.lines().skip(1).collect();
        assert!(said.starts_with("next:\n") && next.len() == 3, "{said}");
        for verb in ["run", "live", "survey"] {
            assert!(
                next.iter().any(|line| line.trim_start().starts_with(&format!("hammerstone {verb} {place}"))),
                "{said}"
            );
        }
        let fight = format!("{place}/fight.toml");
        let (status, said, errors) = run(&["check", &place, "--deny"]);
        assert_eq!((status, errors.as_str()), (0, ""), "{like}: {said}");
        assert!(said.ends_with("no problems found\n"), "{like}: {said}");
        let (status, said, _) = run(&["test", &fight]);
        assert!(status == 0 && said.contains("1 passed, 0 failed"), "{like}: {said}");
        // It is no dance: with other seeds it goes another way.
        let (status, said, _) = run(&["survey", &fight, "--seeds", "12", "--format", "json"]);
        let json: Value = serde_json::from_str(&said).unwrap();
        assert_eq!((status, json["tactics"].as_bool()), (0, Some(true)));
        let seconds = &json["points"][0]["seconds"];
        assert!(seconds["low"].as_f64() < seconds["high"].as_f64(), "{like}: {seconds}");
        for (name, text) in [("fight.toml", "[scenario]"), ("fight.rules.toml", "[rules]")] {
            let written = fs::read_to_string(format!("{place}/{name}")).unwrap();
            assert!(written.starts_with("# ") && written.contains(text), "{like}: {name}");
        }
    }
}

/// `--choices` tells more and changes nothing else; a log has what was told when it was written.
#[test]
fn choices_are_told_where_they_are_asked_for() {
    let folder = tempfile::tempdir().unwrap();
    let log = folder.path().join("spar.log").display().to_string();
    const SPAR: &str = "scenarios/spar.toml";
    let feed = |more: &[&str]| -> Vec<Value> {
        let (status, said, _) = run(&[&["run", SPAR, "--format", "jsonl"], more].concat());
        assert_eq!(status, 0);
        said.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
    };
    let (plain, told) = (feed(&[]), feed(&["--choices", "--log", &log]));
    let is_choice = |line: &Value| line["topic"].as_str().unwrap().starts_with("tactics.");
    assert!(!plain.iter().any(is_choice) && told.iter().filter(|line| is_choice(line)).count() > 20);
    let without_numbers = |all: &[Value]| -> Vec<Value> {
        let all = all.iter().filter(|line| !is_choice(line)).cloned();
        all.map(|mut line| {
            for key in ["seq", "cause"] {
                line.as_object_mut().unwrap().remove(key);
            }
            line
        })
        .collect()
    };
    assert_eq!(without_numbers(&plain), without_numbers(&told), "telling changes nothing else");
    let dropped = told.iter().filter(|line| line["topic"] == "tactics.dropped");
    assert!(dropped.clone().count() > 0 && dropped.clone().all(|line| line["reason"].is_string()), "reasons");
    let chose = told.iter().find(|line| line["topic"] == "tactics.chose").unwrap();
    assert!(chose["passed"].as_str().unwrap().contains("sidestep (no new attack comes)"), "{chose}");
    let (status, said, _) = run(&["run", &log, "--format", "jsonl"]);
    assert_eq!((status, said.lines().count()), (0, told.len()));
    assert_eq!(run(&["run", &log, "--verify"]).0, 0);
    let (status, _, errors) = run(&["run", &log, "--choices"]);
    assert!(status == 2 && errors.contains("--choices, too"), "{errors}");
    // Where no one reacts, it is said.
    let (_, said, _) = run(&["survey", "scenarios/skirmish.toml", "--seeds", "2"]);
    assert!(said.contains("no combatant reacts"), "{said}");
    assert!(!run(&["survey", SPAR, "--seeds", "2"]).1.contains("no combatant reacts"));
}

#[test]
fn what_is_there_is_kept_and_the_default_is_a_duel() {
    let folder = tempfile::tempdir().unwrap();
    let place = folder.path().display().to_string();
    assert_eq!(run(&["new", &place]).0, 0, "a folder that is there, and empty");
    let duel = fs::read_to_string(folder.path().join("fight.toml")).unwrap();
    assert!(duel.contains("A duel"));
    fs::write(folder.path().join("fight.toml"), "mine").unwrap();
    let (status, said, errors) = run(&["new", &place, "--like", "boss"]);
    assert_eq!((status, said.as_str()), (2, ""));
    assert!(
        errors.contains("is there already, and would be lost") && errors.contains("move the file away"),
        "{errors}"
    );
    assert_eq!(fs::read_to_string(folder.path().join("fight.toml")).unwrap(), "mine");
    let (status, _, errors) = run(&["new", &place, "--like", "brawl"]);
    assert!(status == 2 && errors.contains("[possible values: duel, boss, waves, shots, flat]"), "{errors}");
    let (status, _, errors) = run(&["new", &format!("{place}/fight.toml/below")]);
    assert!(status == 2 && errors.contains("cannot be made"), "{errors}");
    let said = hammerstone(&["new", "--help"]).output().unwrap();
    assert!(String::from_utf8_lossy(&said.stdout).contains("Three against a boss of three phases"));
}

/// Who begins with the tables of the first chapter alone is told what must stand before them.
#[test]
fn a_file_without_its_heading_is_told_how_to_begin() {
    let rules = "[team.masons]\n[template.mason]\nteam = \"masons\"\nhealth = 30\n";
    let fight = "[combatant.odo]\ntemplate = \"mason\"\nat = [0, 0, 0]\n";
    let heading = "[scenario]\ntitle = \"A\"\nrules = \"a.rules.toml\"\nlasts = \"1s\"\n";
    let (status, _, errors) = in_folder(&[("a.rules.toml", rules), ("a.toml", fight)], &["run", "a.toml"]);
    let said = unfolded(&errors);
    assert!(status == 2 && said.contains("begin with `[scenario]`, and say its `title`, `rules`"), "{said}");
    let headed = format!("{heading}{fight}");
    let (status, _, errors) = in_folder(&[("a.rules.toml", rules), ("a.toml", &headed)], &["run", "a.toml"]);
    let said = unfolded(&errors);
    assert!(status == 2 && said.contains("begin with `[rules]` and `rate = 60`"), "{said}");
    let ruled = format!("[rules]\nrate = 60\n{rules}");
    let (status, said, errors) =
        in_folder(&[("a.rules.toml", &ruled), ("a.toml", &headed)], &["run", "a.toml"]);
    assert!(status == 0 && said.contains("odo joins the masons with 30 health"), "{errors}");
}
