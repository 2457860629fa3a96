//! Logs: written by `run`, taken by every command, held against their checksums.

mod common;

use std::fs;
use std::path::{Path, PathBuf};

use common::{FIGHT, hammerstone, rules, run, unfolded};
use hammerstone_record::{Log, LogEnd};

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
        let is_within = |&at: &usize| {
            let log = Log::read(bytes[..at].to_vec()).expect("it has its header");
            matches!(log.end, LogEnd::Damaged(_))
        };
        let at = (bytes.len() * 2 / 3..bytes.len()).find(is_within).expect("not every byte ends a frame");
        fs::write(&cut, &bytes[..at]).expect("a file");
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

/// A log is reduced to a scenario that shows the same facts about one; it passes, and every command takes it.
#[test]
fn a_log_is_reduced_to_a_case() {
    let folder = folder("reduced");
    let log = logged(&folder, "scenarios/skirmish.toml", &[]);
    let case = folder.join("case.toml").display().to_string();
    // Of an earlier run.
    for name in ["case.toml", "case.log"] {
        _ = fs::remove_file(folder.join(name));
    }
    let reduce = |more: &[&str]| {
        run(&[&["reduce", &log, "--about", "odo", "--between", "3..5", "-o", &case], more].concat())
    };
    let (status, said, errors) = reduce(&[]);
    assert_eq!((status, errors.as_str()), (0, ""));
    assert!(
        said.starts_with("15 facts about odo; 1 of 8 orders and 3 of 12 combatants are left, after "),
        "{said}"
    );
    let text = fs::read_to_string(&case).expect("it was written");
    for line in [
        "# odo from 3.00 to 5.00 s, out of the log of A night at the sluice.",
        "#   3.90s start, odo: maul-sweep",
        "#   tick 183: odo hits hound#1 on the trunk with maul-sweep",
        "title = \"odo in A night at the sluice\"",
    ] {
        assert!(text.contains(line), "{line} in {text}");
    }
    let (status, said, _) = run(&["test", &case]);
    assert_eq!(status, 0, "{said}");
    assert!(said.contains("odo in A night at the sluice: all 14 expectations hold"), "{said}");
    let (status, said, _) = run(&["run", &case]);
    assert_eq!(status, 0);
    assert!(
        said.starts_with("odo in A night at the sluice\n") && said.contains("odo starts maul-sweep"),
        "{said}"
    );
    assert_eq!(run(&["explain", &case, "--attacker", "odo"]).0, 0);
    assert_eq!(run(&["run", &case, "--verify"]).0, 0);
    // The folder is tested as folders are: what lies in it and is a scenario.
    let (status, said, _) = run(&["test", &folder.display().to_string()]);
    assert_eq!(status, 0, "{said}");

    // A log that begins in the middle: pictures and pages begin with it.
    let out = |name: &str| folder.join(name).display().to_string();
    let (drawn, page) = (out("case.svg"), out("case.html"));
    assert_eq!(run(&["draw", &case, "-o", &drawn]).0, 0);
    let drawn = fs::read_to_string(drawn).expect("it was written");
    for text in ["3 combatants, 3.00 to 5.00 s", "3.0 s", "5.0 s", "odo", "hound#1"] {
        assert!(drawn.contains(text), "{text}");
    }
    assert!(!drawn.contains("2.0 s"));
    assert_eq!(run(&["report", &case, "-o", &page]).0, 0);
    let page = fs::read_to_string(page).expect("it was written");
    assert!(page.contains("it was not asked, since it does not know how the log began"));
    let (_, said, _) = run(&["explain", &case, "--attacker", "odo"]);
    assert!(said.contains("swing 13, 3.00s to 3.60s, open 3.00 to 3.15s"), "{said}");
    assert!(said.contains("odo's maul-sweep: it was refused at bram\n"), "{said}");
    let (_, said, _) =
        run(&["explain", "scenarios/craft/lag.toml", "--attacker", "bram", "--target", "watcher"]);
    assert!(said.contains("  rewound by 6 ticks: tested against where its target was then\n"), "{said}");
    let (_, said, _) = run(&["explain", "scenarios/craft/lag.toml", "--hit", "1"]);
    assert!(said.contains("\nrewound by 6 ticks: tested against where its target was then\n"), "{said}");

    // As a fault that must not come again it fails, and says what came.
    assert_eq!(reduce(&["--never", "--topic", "combatant.died"]).0, 0);
    let (status, said, _) = run(&["test", &case]);
    assert_eq!(status, 1);
    assert!(
        said.contains("expected combatant.died, killer odo, subject hound#1: 0\n        found    1\n"),
        "{said}"
    );

    // What cannot be reduced leaves both files alone.
    let before = fs::read(&case).expect("it is there");
    for (args, expected) in [
        (
            &["--about", "nobody-of-this-name", "--between", "3..5"][..],
            "is about `nobody-of-this-name`; there are facts about",
        ),
        (&["--about", "odo", "--between", "300..500"], "the log has no tick from 300 to 500 s"),
        (&["--about", "odo", "--between", "3..5", "--topic", "hits"], "there is no topic `hits`"),
    ] {
        let (status, _, errors) = run(&[&["reduce", &log, "-o", &case], args].concat());
        assert_eq!(status, 2);
        assert!(unfolded(&errors).contains(expected), "{errors}");
        assert_eq!(fs::read(&case).expect("it is there"), before);
    }
    let wrong = |args: &[&str], expected: &str| {
        let (status, _, errors) = run(args);
        assert_eq!(status, 2, "{args:?}");
        assert!(unfolded(&errors).contains(expected), "{args:?}: {errors}");
    };
    wrong(&["reduce", "scenarios/skirmish.toml", "--about", "odo", "--between", "3..5"], "is no log");
    let over = ["reduce", &log, "--about", "odo", "--between", "3..5", "-o"];
    wrong(&[&over[..], &[&log]].concat(), "the log would be written over");
    let same = folder.join("fight.toml").display().to_string();
    wrong(&[&over[..], &[&same]].concat(), "the log would be written over");

    // Neither a scenario that someone wrote nor another log is written over.
    let own = folder.join("own.toml").display().to_string();
    for (name, text) in [("own.toml", FIGHT), ("lone.log", "a log of another day")] {
        fs::write(folder.join(name), text).expect("a file");
        let named = folder.join(name.replace(".log", ".toml")).display().to_string();
        wrong(&[&over[..], &[&named]].concat(), "no case that was reduced before");
        assert_eq!(fs::read_to_string(folder.join(name)).expect("it is there"), text);
        fs::remove_file(folder.join(name)).expect("it is there");
    }
    assert!(!Path::new(&own).with_extension("log").exists());

    // A scenario with a log that is not there, or is none, or that expects what its ruleset does not know.
    fs::write(&case, "[scenario]\ntitle = \"x\"\nlog = \"nowhere.log\"\n").expect("a file");
    wrong(&["test", &case], "the log `nowhere.log` cannot be run");
    fs::write(&case, "[scenario]\ntitle = \"x\"\nlog = \"case.toml\"\n").expect("a file");
    wrong(&["test", &case], "these bytes are no log");
    let head = "[scenario]\ntitle = \"x\"\nlog = \"fight.log\"\n\n[[expect]]\n";
    fs::write(&case, format!("{head}health-of = \"odoo\"\nat = \"1s\"\nis = 4\n")).expect("a file");
    wrong(&["test", &case], "odoo");
    fs::write(
        &case,
        format!(
            "{head}health-of = \"odo\"\nat = \"1s\"\nis = 4\n\n[[expect]]\ntopic = \"hit.landed\"\nis = 0\n"
        ),
    )
    .expect("a file");
    let (status, said, _) = run(&["test", &case]);
    assert_eq!(status, 1, "{said}");
    assert!(said.contains("FAILED") && said.contains("2 of 2 expectations do not hold"), "{said}");
    fs::remove_file(&case).expect("it is there");
}
