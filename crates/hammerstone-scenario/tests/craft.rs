//! The fights in `scenarios/craft`: what practitioners build. Each passes as it is shipped, and fails rightly.
//!
//! A fight says in its head what happens without a feature: `# Neutral: PATH = VALUE | 1 3` sets the value at a path of the fight, or of its
//! rules, to another, with which the file still loads; then just the expectations of those numbers fail, from 1 in the order of the file.

use std::path::{Path, PathBuf};

use hammerstone::{Encounter, Saved};
use hammerstone_scenario::{Options, Play, Scenario, Wanted};
use toml::Spanned;
use toml::de::{DeTable, DeValue};

const FOLDER: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../scenarios/craft");

fn fights() -> Vec<PathBuf> {
    let all = std::fs::read_dir(FOLDER).expect("the folder").map(|entry| entry.expect("an entry").path());
    let mut fights: Vec<PathBuf> = all
        .filter(|path| {
            let name = path.to_string_lossy();
            name.ends_with(".toml") && !name.ends_with(".rules.toml")
        })
        .collect();
    fights.sort();
    fights
}

/// A change of a file, and the expectations that fail with it.
#[derive(Debug)]
struct Neutral {
    path: String,
    value: String,
    fails: Vec<usize>,
}

fn neutrals(text: &str) -> Vec<Neutral> {
    let lines = text.lines().filter_map(|line| line.strip_prefix("# Neutral: "));
    let neutral = |line: &str| {
        let (change, fails) = line.rsplit_once(" | ").expect("`PATH = VALUE | NUMBERS`");
        let (path, value) = change.split_once(" = ").expect("`PATH = VALUE`");
        let fails = fails.split_whitespace().map(|number| number.parse().expect("a number")).collect();
        Neutral { path: path.to_owned(), value: value.to_owned(), fails }
    };
    lines.map(neutral).collect()
}

/// The text with another value at a path; none if nothing stands there.
fn with(text: &str, path: &str, value: &str) -> Option<String> {
    let table = DeTable::parse(text).expect("it is shipped");
    let root = Spanned::new(table.span(), DeValue::Table(table.into_inner()));
    let mut at = &root;
    let mut left = path;
    while !left.is_empty() {
        let (next, rest) = match at.get_ref() {
            // Keys have dots, too: the longest that is there.
            DeValue::Table(table) => {
                let ends = left.match_indices('.').map(|(end, _)| end).chain([left.len()]);
                ends.filter_map(|end| Some((table.get(&left[..end])?, &left[end..]))).next_back()?
            }
            DeValue::Array(list) => {
                let end = left.find('.').unwrap_or(left.len());
                (list.get(left[..end].parse::<usize>().ok()?)?, &left[end..])
            }
            _ => return None,
        };
        (at, left) = (next, rest.strip_prefix('.').unwrap_or(rest));
    }
    let span = at.span();
    Some(format!("{}{value}{}", &text[..span.start], &text[span.end..]))
}

fn read(path: &Path, text: &str, rules: Option<&str>) -> Result<Scenario, String> {
    let open = |wanted: Wanted<'_>| {
        let of_rules = matches!(wanted, Wanted::Ruleset(_));
        let path = wanted.path(path);
        let read = || std::fs::read(&path).map_err(|error| error.to_string());
        let bytes = match rules.filter(|_| of_rules) {
            Some(text) => text.as_bytes().to_vec(),
            None => read()?,
        };
        Ok((path.display().to_string(), bytes))
    };
    Scenario::read(&path.display().to_string(), text, &open).map_err(|error| error.text())
}

/// The numbers of the expectations that fail.
fn failures(path: &Path, text: &str, rules: Option<&str>) -> Result<Vec<usize>, String> {
    let scenario = read(path, text, rules)?;
    let verdicts = scenario.test().expect("it ticks");
    assert!(!verdicts.is_empty(), "{} expects nothing", path.display());
    let failed = verdicts.iter().enumerate().filter(|(_, verdict)| !verdict.holds);
    Ok(failed.map(|(place, _)| place + 1).collect())
}

#[test]
fn each_passes_and_without_its_feature_fails_rightly() {
    let mut wrong = Vec::new();
    for path in fights() {
        let name = path.file_name().expect("a name").to_string_lossy().into_owned();
        let text = std::fs::read_to_string(&path).expect("it is shipped");
        match failures(&path, &text, None) {
            Ok(failed) if failed.is_empty() => {}
            other => wrong.push(format!("{name} fails as it is shipped: {other:?}")),
        }
        let neutrals = neutrals(&text);
        if neutrals.is_empty() {
            wrong.push(format!("{name} says nowhere what fails without its feature"));
        }
        // With the files that they include.
        let rules = read(&path, &text, None).expect("it is shipped").rules.code.text;
        for neutral in neutrals {
            let Neutral { path: at, value, fails } = &neutral;
            let found = match (with(&text, at, value), with(&rules, at, value)) {
                (Some(text), _) => failures(&path, &text, None),
                (None, Some(rules)) => failures(&path, &text, Some(&rules)),
                (None, None) => Err("nothing stands there".to_owned()),
            };
            if found.as_ref() != Ok(fails) {
                wrong.push(format!("{name}, {at} = {value}: expected {fails:?} to fail, found {found:?}"));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// The test can fail: a value that changes nothing lets nothing fail.
#[test]
fn a_change_without_consequence_is_seen() {
    let path = Path::new(FOLDER).join("lifesteal.toml");
    let text = std::fs::read_to_string(&path).expect("it is shipped");
    let longer = with(&text, "scenario.lasts", "\"3.5s\"").expect("it says how long it lasts");
    assert_eq!(failures(&path, &longer, None), Ok(Vec::new()));
    assert_eq!(with(&text, "scenario.last", "1"), None);
}

/// The checksums after each tick, with the fight restored from a save after each tick or not.
fn checksums(scenario: &Scenario, restored: bool) -> Vec<u64> {
    let mut play = Play::new(scenario, Options::default());
    let (mut sums, mut saved) = (Vec::new(), Saved::default());
    while play.tick().expect("it ticks") {
        if restored {
            play.encounter.save_into(&mut saved).expect("it can be saved");
            let mut other = Encounter::in_level(play.encounter.rules(), scenario.level(), 0);
            other.restore(&saved).expect("it can be restored");
            play.encounter = other;
        }
        sums.push(play.encounter.checksum());
    }
    sums
}

/// Whatever collides in these fights, none of it is lost in a save: not what rules have read, nor starts that wait, nor cooldowns.
#[test]
fn each_goes_on_as_it_would_from_a_save_after_any_tick() {
    for path in fights() {
        let text = std::fs::read_to_string(&path).expect("it is shipped");
        let scenario = read(&path, &text, None).expect("it can be read");
        let plain = checksums(&scenario, false);
        assert!(plain.len() > 60, "{}", path.display());
        assert_eq!(plain, checksums(&scenario, true), "{}", path.display());
    }
}

/// What an expectation cannot be about is said, and how it is written.
#[test]
fn expectations_of_the_state_say_of_what_and_of_whom() {
    let path = Path::new(FOLDER).join("boss.toml");
    let text = std::fs::read_to_string(&path).expect("it is shipped");
    for (expect, said) in [
        ("flag = \"third-phase\"\nup = true", "flag third-phase is of one combatant"),
        ("counter = \"storms\"\nof = \"odo\"\nis = 1", "counter storms is of no one combatant"),
        ("score = \"tol\"\nis = 1", "score `tol`"),
        ("score = \"toll\"\ncounter = \"storms\"\nis = 1", "about more than one thing"),
        ("at = \"1s\"\nis = 1", "does not say of what"),
        ("score = \"toll\"", "does not say how much"),
    ] {
        let wrong = format!("{text}\n[[expect]]\n{expect}\n");
        let Err(error) = read(&path, &wrong, None) else { panic!("it can be read: {expect}") };
        assert!(error.contains(said), "{expect}: {error}");
    }
    // What holds throughout fails where it breaks in between.
    let throughout =
        format!("{text}\n[[expect]]\nhealth-of = \"odo\"\nduring = [\"0.1s\", \"3s\"]\nis = 40\n");
    assert_eq!(failures(&path, &throughout, None), Ok(vec![19]));
}
