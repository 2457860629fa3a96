//! Many seeds: surveys with their intervals, and what a change makes of them.

mod common;

use common::{in_folder, root, run};
use serde_json::Value;

const DUEL: &str = "scenarios/duel.toml";

fn json(args: &[&str]) -> Value {
    let (status, said, errors) = run(&[args, &["--format", "json"]].concat());
    assert_eq!((status, errors.as_str()), (0, ""), "{args:?}");
    serde_json::from_str(&said).unwrap()
}

/// A change that matters is shown with its direction; a change of nothing is not; and the seeds are paired: what is the same in both is
/// no difference in any.
#[test]
fn compare_says_what_a_change_makes_of_many_seeds() {
    let harder = ["compare", DUEL, "--set", "attack.gnaw.damage.cut=[8, 14]", "--seeds", "60"];
    let answer = json(&harder);
    assert_eq!(answer["runs"], 60);
    assert_eq!(answer["values"][0]["path"], "attack.gnaw.damage.cut.0");
    let row = |answer: &Value, what: &str| -> Value {
        let rows = answer["rows"].as_array().unwrap();
        rows.iter().find(|row| row["what"] == what).unwrap_or_else(|| panic!("{what}: {rows:?}")).clone()
    };
    let damage = row(&answer, "seconds");
    assert!(
        damage["difference"].as_f64().unwrap() < 0.0 && damage["interval"]["high"].as_f64().unwrap() < 0.0
    );
    let lost = row(&answer, "ends bridge-lost");
    assert!(lost["is_share"].as_bool().unwrap() && lost["second"].as_f64() >= lost["first"].as_f64());
    let (_, text, _) = run(&harder);
    assert!(text.contains("60 seeds, each run by both") && text.contains("ends bridge-lost"), "{text}");
    assert!(text.contains("Values that differ\n  attack.gnaw.damage.cut.0 2 → 8"), "{text}");
    assert_eq!(run(&[&harder[..], &["--expect-same"]].concat()).0, 1);

    let same = ["compare", DUEL, "--seeds", "40"];
    let answer = json(&same);
    assert_eq!(answer["same"], 1.0);
    for row in answer["rows"].as_array().unwrap() {
        assert_eq!(row["difference"], 0.0, "{row}");
        assert!(
            row["interval"]["low"].as_f64() <= Some(0.0) && row["interval"]["high"].as_f64() >= Some(0.0)
        );
    }
    let (status, text, _) = run(&[&same[..], &["--expect-same"]].concat());
    assert!(status == 0 && !text.contains(" more") && !text.contains(" less"), "{text}");

    // The rows are those of each seed by itself.
    let alone: Vec<Value> = (1..=5)
        .map(|seed| json(&["survey", DUEL, "--seeds", "1", "--seed", &seed.to_string()])["points"][0].clone())
        .collect();
    let mean = alone.iter().map(|point| point["seconds"]["mean"].as_f64().unwrap()).sum::<f64>() / 5.0;
    let answer = json(&["compare", DUEL, "--seeds", "5", "--seed", "1"]);
    assert!((row(&answer, "seconds")["first"].as_f64().unwrap() - mean).abs() < 1.0e-9);
    let (status, _, errors) = run(&["compare", DUEL, "--seeds", "5", "--states"]);
    assert!(status == 2 && errors.contains("cannot be used with"), "{errors}");
}

/// The share of all seeds lies where the interval of a few says, in about 95 of 100 cases: here in at least 17 of 20.
#[test]
fn intervals_hold_what_many_more_seeds_say() {
    let share = |point: &Value, name: &str| -> (f64, f64, f64) {
        let found = point["outcomes"].as_array().unwrap().iter().find(|one| one["name"] == name);
        found.map_or((0.0, 0.0, 0.2), |one| {
            let number = |value: &Value| value.as_f64().unwrap();
            (number(&one["share"]), number(&one["interval"]["low"]), number(&one["interval"]["high"]))
        })
    };
    let all = json(&["survey", DUEL, "--seeds", "600", "--seed", "5000"]);
    let (truth, low, high) = share(&all["points"][0], "bridge-lost");
    assert!(low < truth && truth < high && high - low < 0.09, "{low} {truth} {high}");
    let inside = (0..20u32).filter(|batch| {
        let seed = (batch * 40).to_string();
        let few = json(&["survey", DUEL, "--seeds", "40", "--seed", &seed]);
        let (_, low, high) = share(&few["points"][0], "bridge-lost");
        (low..=high).contains(&truth)
    });
    assert!(inside.count() >= 17);
}

#[test]
fn a_survey_ends_when_it_knows_enough_and_takes_lists_and_rulesets() {
    let answer = json(&["survey", DUEL, "--seeds", "2000", "--until", "0.1"]);
    let (done, asked) = (answer["runs"].as_u64().unwrap(), answer["asked"].as_u64().unwrap());
    assert!(done < 400 && done % 50 == 0 && asked == 2000, "{done} of {asked}");
    for one in answer["points"][0]["outcomes"].as_array().unwrap() {
        let width = one["interval"]["high"].as_f64().unwrap() - one["interval"]["low"].as_f64().unwrap();
        assert!(width <= 0.2, "{one}");
    }
    // It comes to what as many seeds come to without it.
    let plain = json(&["survey", DUEL, "--seeds", &done.to_string()]);
    assert_eq!(plain["points"], answer["points"]);
    let (_, text, _) = run(&["survey", DUEL, "--seeds", "2000", "--until", "10%"]);
    assert!(text.contains(&format!("every share is known to within 10 % after {done} of 2000")), "{text}");

    let lists = json(&[
        "survey",
        DUEL,
        "--seeds",
        "4",
        "--vary",
        "attack.gnaw.startup=0.2s,0.4s",
        "--vary",
        "attack.gnaw.damage.cut=[2, 7],[9, 9]",
    ]);
    let values: Vec<Vec<&str>> = lists["points"]
        .as_array()
        .unwrap()
        .iter()
        .map(|point| {
            point["values"].as_array().unwrap().iter().map(|value| value.as_str().unwrap()).collect()
        })
        .collect();
    assert_eq!(values, [["0.2s", "[2, 7]"], ["0.2s", "[9, 9]"], ["0.4s", "[2, 7]"], ["0.4s", "[9, 9]"]]);
    assert_ne!(lists["points"][0]["teams"], lists["points"][1]["teams"]);
    let other = json(&["survey", DUEL, "--seeds", "30", "--rules", "scenarios/duel.yesterday.rules.toml"]);
    assert_ne!(other["points"], json(&["survey", DUEL, "--seeds", "30"])["points"]);
    for (asked, said) in [
        (&["--until", "2"][..], "a share above 0 and below 1"),
        (&["--until", "150%"], "a share above 0 and below 1"),
        (&["--vary", "attack.gnaw.startup=0.2s,,0.3s"], "PATH=VALUE"),
        (&["--vary", "attack.gnaw.startup=often,seldom"], "`often` is not a time"),
    ] {
        let (status, _, errors) = run(&[&["survey", DUEL, "--seeds", "2"], asked].concat());
        assert!(status == 2 && errors.contains(said), "{errors}");
    }
}

/// Two values are a field: each pair with its share and its seconds, named along both sides.
#[test]
fn two_values_are_drawn_as_a_field() {
    let folder = tempfile::tempdir().unwrap();
    let out = folder.path().join("heat.svg").display().to_string();
    let vary =
        ["--vary", "attack.gnaw.damage.cut.1=7..11/2", "--vary", "template.bridge-mason.health=20..60/20"];
    let args = [&["survey", DUEL, "--seeds", "6", "-o", &out][..], &vary].concat();
    assert_eq!(run(&args).0, 0);
    let svg = std::fs::read_to_string(&out).unwrap();
    let words: Vec<&str> = svg.lines().map(str::trim).collect();
    for word in ["7", "9", "11", "20", "40", "60"] {
        assert!(words.contains(&word), "{word}");
    }
    assert!(svg.contains("across: attack.gnaw.damage.cut.1 · down: template.bridge-mason.health"));
    assert_eq!(words.iter().filter(|word| word.ends_with(" %")).count(), 9);
    // One of the two that stands still is a line.
    let args = [
        "survey",
        DUEL,
        "--seeds",
        "6",
        "-o",
        &out,
        "--vary",
        "attack.gnaw.damage.cut.1=7..11/2",
        "--vary",
        "template.bridge-mason.health=40,40",
    ];
    assert_eq!(run(&args).0, 0);
    assert!(!std::fs::read_to_string(&out).unwrap().contains("across:"));
    // A file of one's own.
    let rules = std::fs::read_to_string(root().join("scenarios/duel.rules.toml")).unwrap();
    let fight = std::fs::read_to_string(root().join(DUEL)).unwrap();
    let files = [("duel.rules.toml", rules.as_str()), ("duel.toml", fight.as_str())];
    assert_eq!(in_folder(&files, &["survey", "duel.toml", "--seeds", "3"]).0, 0);
}
