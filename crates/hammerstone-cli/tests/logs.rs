//! Logs: written by `run`, taken by every command, held against their checksums.

mod common;

use std::fs;
use std::path::{Path, PathBuf};

use common::{FIGHT, hammerstone, rules, run, unfolded};

/// A folder of its own for a test.
fn folder(name: &str) -> PathBuf {
    let folder = Path::new(env!("CARGO_TARGET_TMPDIR")).join("logs").join(name);
    fs::create_dir_all(&folder).expect("a folder");
    folder
}

/// The log of a shipped scenario.
fn logged(folder: &Path, scenario: &str, more: &[&str]) -> String {
    let log = folder.join("fight.log").display().to_string();
    let (status, _, errors) = run(&[&["run", scenario, "--log", &log], more].concat());
    assert_eq!((status, errors.as_str()), (0, ""), "{scenario}");
    log
}

/// Every command says of a log what it says of the scenario that it was written of.
#[test]
fn every_command_takes_a_log() {
    let folder = folder("commands");
    let out = |name: &str| folder.join(name).display().to_string();
    for scenario in ["scenarios/skirmish.toml", "scenarios/craft/waves.toml", "scenarios/craft/speech.toml"] {
        let log = logged(&folder, scenario, &[]);
        for command in [
            &["run"][..],
            &["run", "--format", "jsonl", "--contacts"],
            &["run", "--ticks", "30"],
            &["explain", "--format", "json"],
            &["explain", "--state"],
            &["explain", "--between", "0..2"],
            &["wiring"],
            &["wiring", "--format", "json"],
        ] {
            let said = |file: &str| run(&[command, &[file]].concat());
            let (of_scenario, of_log) = (said(scenario), said(&log));
            assert_eq!(of_log.0, of_scenario.0, "{command:?} of {scenario}: {}", of_log.2);
            if command != ["run", "--ticks", "30"] {
                assert_eq!(of_log, of_scenario, "{command:?} of {scenario}");
            } else {
                // A scenario that is shorter ends there; a log just stops.
                assert!(of_log.1.lines().count() >= 3, "{}", of_log.1);
            }
        }
        for (name, ending) in [("draw", "svg"), ("draw", "png"), ("report", "html")] {
            let [of_scenario, of_log] = [(scenario, "scenario"), (&log, "log")].map(|(file, stem)| {
                let out = out(&format!("{stem}.{ending}"));
                assert_eq!(run(&[name, file, "-o", &out]).0, 0);
                fs::read(out).expect("it was written")
            });
            if name == "draw" {
                assert_eq!(of_log, of_scenario, "{name} of {scenario}");
            } else {
                let page = String::from_utf8(of_log).expect("a page");
                assert!(page.contains("the log: every tick ran as it was recorded"));
            }
        }
        let (status, said, _) = run(&["compare", scenario, &log, "--expect-same"]);
        assert_eq!(status, 0, "{said}");
    }
}

#[test]
fn a_log_is_held_against_its_checksums() {
    let folder = folder("verify");
    for more in [&[][..], &["--compress"]] {
        let log = logged(&folder, "scenarios/skirmish.toml", more);
        let (status, said, _) = run(&["run", &log, "--verify"]);
        assert_eq!(status, 0);
        assert!(said.contains("1514 ticks, 25.23 s at 60 a second"), "{said}");
        assert!(said.ends_with("every tick ran as it was recorded; 1514 checksums fit\n"), "{said}");

        // Cut in the middle: what is there is good, and it is said that more was there.
        let bytes = fs::read(&log).expect("it was written");
        let cut = folder.join("cut.log").display().to_string();
        fs::write(&cut, &bytes[..bytes.len() * 2 / 3]).expect("a file");
        let (status, said, _) = run(&["run", &cut, "--verify"]);
        assert_eq!(status, 1, "{said}");
        assert!(said.contains("it is cut or damaged at byte"), "{said}");
        assert!(said.contains("every tick ran as it was recorded"), "{said}");
        let (status, feed, errors) = run(&["run", &cut, "--format", "jsonl"]);
        assert_eq!(status, 0);
        let (_, whole, _) = run(&["run", &log, "--format", "jsonl"]);
        assert!(whole.starts_with(&feed) && feed.lines().count() > 100);
        assert!(unfolded(&errors).contains("is cut or damaged at byte"), "{errors}");
    }
    let plain = logged(&folder, "scenarios/skirmish.toml", &[]);
    let packed = folder.join("packed.log").display().to_string();
    assert_eq!(run(&["demo", "--log", &packed, "--compress"]).0, 0);
    let size = |path: &str| fs::metadata(path).expect("it is there").len();
    assert!(size(&packed) * 2 < size(&plain), "{} and {}", size(&packed), size(&plain));
}

/// A log in the wrong place, or of the wrong sort, is told so in words.
#[test]
fn what_cannot_be_done_with_a_log_is_said() {
    let folder = folder("wrong");
    let log = logged(&folder, "scenarios/duel.toml", &[]);
    let header = folder.join("header.log").display().to_string();
    fs::write(&header, &fs::read(&log).expect("it was written")[..100]).expect("a file");
    let other = folder.join("other.log").display().to_string();
    fs::write(&other, b"HMSTLOG7 of another time").expect("a file");
    for (args, expected) in [
        (&["test", &log][..], "is a log"),
        (&["check", &log], "is a log"),
        (&["survey", &log], "is a log"),
        (&["run", &log, "--seed", "3"], "a log has the rolls of its own seed"),
        (&["explain", &log, "--seed", "3"], "a log has the rolls of its own seed"),
        (&["run", &log, "--log", &other], "a log is run again as it is"),
        (&["run", "--verify", "scenarios/duel.toml"], "is no log, and has no checksums"),
        (&["demo", "--verify"], "is no log, and has no checksums"),
        (&["run", &header], "the log is cut or damaged in its header"),
        (&["run", &other], "these bytes are no log that this version wrote"),
        (&["run", "scenarios/duel.toml", "--log", "/no/such/folder/fight.log"], "cannot be written"),
    ] {
        let (status, _, errors) = run(args);
        assert_eq!(status, 2, "{args:?}");
        let errors = unfolded(&errors);
        assert!(errors.contains(expected), "{args:?}: {errors}");
        assert!(!errors.contains("panicked"), "{errors}");
    }
}

/// A game that is killed loses no more than what was not flushed: the log of a process that stops is good up to there.
#[test]
fn a_killed_run_leaves_a_good_log() {
    let folder = folder("killed");
    fs::write(folder.join("a.rules.toml"), rules("")).expect("a file");
    fs::write(folder.join("fight.toml"), FIGHT).expect("a file");
    let log = folder.join("fight.log");
    // One of another build may lie there.
    _ = fs::remove_file(&log);
    let mut child = hammerstone(&["run", "fight.toml", "--ticks", "10000000", "--log", "fight.log"])
        .current_dir(&folder)
        .stdout(std::process::Stdio::null())
        .spawn()
        .expect("it starts");
    for _ in 0..4000 {
        if fs::metadata(&log).is_ok_and(|log| log.len() > 60_000) {
            break;
        }
        std::thread::sleep(std::time::Duration::from_millis(1));
    }
    assert!(child.try_wait().expect("it is a child").is_none(), "it is killed while it runs");
    _ = child.kill();
    _ = child.wait();
    let (_, said, errors) = run(&["run", &log.display().to_string(), "--verify"]);
    assert!(said.contains("every tick ran as it was recorded"), "{said}{errors}");
    assert!(said.contains("it has no end") || said.contains("it is cut or damaged"), "{said}");
}

/// Two runs are held against each other state by state, and the first part that differs is named.
#[test]
fn states_that_differ_are_named() {
    let folder = folder("states");
    let log = logged(&folder, "scenarios/skirmish.toml", &[]);
    let (status, said, _) = run(&["compare", "scenarios/skirmish.toml", &log, "--states", "--expect-same"]);
    assert_eq!((status, said.as_str()), (0, "the same states after each of 1514 ticks\n"));
    // Another seed: nothing differs until something is rolled.
    let args = ["compare", "scenarios/skirmish.toml", "--other-seed", "9", "--states", "--expect-same"];
    let (status, said, _) = run(&args);
    assert_eq!(status, 1);
    assert!(said.starts_with("the states differ from tick "), "{said}");
    assert!(said.contains("`combatants.health` of odo"), "{said}");
    let (_, json, _) = run(&[&args[..], &["--format", "json"]].concat());
    let json: serde_json::Value = serde_json::from_str(&json).expect("JSON");
    assert_eq!((json["part"].as_str(), json["combatant"].as_str()), (Some("combatants.health"), Some("odo")));
    // One that is over before the other.
    let bytes = fs::read(&log).expect("it was written");
    let cut = folder.join("cut.log").display().to_string();
    fs::write(&cut, &bytes[..bytes.len() / 2]).expect("a file");
    let (status, said, _) = run(&["compare", &log, &cut, "--states", "--expect-same"]);
    assert_eq!(status, 1);
    assert!(said.ends_with("the second is over then, and the first goes on\n"), "{said}");
}
