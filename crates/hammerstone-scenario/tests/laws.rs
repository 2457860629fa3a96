//! Laws of fights as files: what is expected is what the feed says, a value that is varied is the only one that changes, and everything
//! that is wrong with a form is told.

use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::sync::OnceLock;

use hammerstone_record::{Feed, Format, Record, Tick};
use hammerstone_scenario::{CannotVary, Decimal, Options, Play, Scenario, Unusable, Wanted, with_value};
use proptest::prelude::*;
use proptest::sample::Index;
use serde_json::Value;
use testkit::forms::{Places, replaced, some};
use toml::de::{DeTable, DeValue};

/// All shipped scenarios with their texts.
fn shipped() -> Vec<(PathBuf, String)> {
    let all = testkit::forms::shipped(".toml").into_iter();
    let all: Vec<_> = all.filter(|(path, _)| !path.to_string_lossy().ends_with(".rules.toml")).collect();
    assert!(all.len() > 30, "{}", all.len());
    all
}

fn read(path: &Path, text: &str) -> Result<Scenario, Box<Unusable>> {
    let beside = |wanted: Wanted<'_>| {
        let file = wanted.path(path);
        let bytes = std::fs::read(&file).map_err(|error| error.to_string())?;
        Ok((file.display().to_string(), bytes))
    };
    Scenario::read(&path.to_string_lossy(), text, &beside)
}

fn skirmish() -> (PathBuf, String) {
    let all = shipped().into_iter();
    all.into_iter().find(|(path, _)| path.ends_with("skirmish.toml")).expect("the shipped skirmish")
}

/// Writes a feed.
struct Writes(Feed<Vec<u8>>);

impl Record for Writes {
    fn observe(&mut self, tick: &Tick<'_>) {
        self.0.write(tick).expect("memory takes everything");
    }
}

/// The feed of a scenario as it is written, line by line.
fn feed(scenario: &Scenario, seed: Option<u64>) -> Vec<Value> {
    let mut play = Play::new(scenario, Options { seed, ..Options::default() });
    let mut feed = Writes(Feed::new(Vec::new(), Format::JsonLines));
    play.through(&mut [&mut feed]).expect("the scenario plays");
    let rules = scenario.rules.ruleset.clone();
    let bytes = feed.0.finish(&rules, &play.run.names).expect("memory takes everything");
    let text = String::from_utf8(bytes).expect("the feed is text");
    text.lines().map(|line| serde_json::from_str(line).expect("each line is JSON")).collect()
}

/// The skirmish, and the lines of its feed.
fn played() -> &'static (PathBuf, String, Vec<Value>) {
    static PLAYED: OnceLock<(PathBuf, String, Vec<Value>)> = OnceLock::new();
    PLAYED.get_or_init(|| {
        let (path, text) = skirmish();
        let lines = feed(&read(&path, &text).expect("the skirmish is sound"), None);
        (path, text, lines)
    })
}

/// What is asked of the feed: a topic or a family, a field that must have a value, and from which tick to which.
#[derive(Clone, Debug)]
struct Asked {
    topic: String,
    with: Option<(String, Value)>,
    during: (u64, u64),
}

impl Asked {
    /// As a section of the file, with how many are expected.
    fn written(&self, count: i64) -> String {
        let mut text = format!("\n[[expect]]\ntopic = \"{}\"\nis = {count}\n", self.topic);
        if let Some((field, value)) = &self.with {
            text += &format!("with = {{ \"{field}\" = {value} }}\n");
        }
        // The first of the two is the tick before.
        text + &format!("during = [\"{} ticks\", \"{} ticks\"]\n", self.during.0 - 1, self.during.1)
    }

    fn counted(&self, lines: &[Value]) -> i64 {
        let of_topic = |line: &&Value| {
            let topic = line["topic"].as_str().unwrap_or_default();
            topic == self.topic || topic.starts_with(&format!("{}.", self.topic))
        };
        let here = |line: &&Value| {
            let tick = line["tick"].as_u64().unwrap_or(0);
            (self.during.0..=self.during.1).contains(&tick)
        };
        let as_asked =
            |line: &&Value| self.with.as_ref().is_none_or(|(field, value)| line.get(field) == Some(value));
        lines.iter().filter(of_topic).filter(here).filter(as_asked).count() as i64
    }
}

/// Something to ask, taken from a line of the feed, so that it mostly comes.
fn asked() -> impl Strategy<Value = Asked> {
    let chosen = (any::<Index>(), any::<bool>(), any::<Option<Index>>(), 1..1_000u64, 0..2_000u64);
    chosen.prop_map(|(line, family, field, from, long)| {
        let lines = &played().2;
        let line = line.get(lines).as_object().expect("a line is an object");
        let topic = line.get("topic").and_then(Value::as_str).unwrap_or("encounter.started");
        let topic = if family { topic.split('.').next().unwrap_or(topic) } else { topic };
        // Fields that every fact of a family has in common are few; those of one topic will do.
        let simple = line.iter().filter(|(name, value)| {
            let common = ["seq", "tick", "topic", "pass", "depth", "root", "cause", "text", "time", "epoch"];
            !common.contains(&name.as_str()) && (value.is_string() || value.is_i64() || value.is_boolean())
        });
        let simple: Vec<_> = simple.collect();
        let with = field.filter(|_| !family && !simple.is_empty()).map(|field| {
            let (name, value) = field.get(&simple);
            ((*name).clone(), (*value).clone())
        });
        Asked { topic: topic.to_owned(), with, during: (from, from + long) }
    })
}

/// Every plain value of a text, by the keys and places that lead there.
fn leaves(text: &str) -> Vec<(String, String)> {
    fn walk(path: String, value: &DeValue<'_>, out: &mut Vec<(String, String)>) {
        let below = |key: &str| if path.is_empty() { key.to_owned() } else { format!("{path}.{key}") };
        match value {
            DeValue::Table(table) => {
                table.iter().for_each(|(key, value)| walk(below(key.get_ref()), value.get_ref(), out));
            }
            DeValue::Array(list) => {
                list.iter()
                    .enumerate()
                    .for_each(|(i, value)| walk(below(&i.to_string()), value.get_ref(), out));
            }
            DeValue::String(text) => out.push((path, format!("{text:?}"))),
            DeValue::Integer(number) => out.push((path, number.to_string())),
            DeValue::Float(number) => out.push((path, number.to_string())),
            DeValue::Boolean(truth) => out.push((path, truth.to_string())),
            DeValue::Datetime(date) => out.push((path, date.to_string())),
        }
    }
    let mut out = Vec::new();
    let table = DeTable::parse(text).expect("the text is TOML");
    walk(String::new(), &DeValue::Table(table.into_inner()), &mut out);
    out
}

/// Whether keys lead to a field of a scenario.
fn is_field(keys: &[&str]) -> bool {
    match keys {
        [section, _, _] => ["combatant", "obstacle"].contains(section),
        [section, _] => ["scenario", "script", "expect"].contains(section),
        _ => false,
    }
}

fn decimals() -> impl Strategy<Value = Decimal> {
    prop_oneof![
        -50_000i64..50_000,
        (-100i64..100).prop_map(|whole| whole * 10_000),
        any::<i32>().prop_map(i64::from)
    ]
    .prop_map(Decimal)
}

proptest! {
    #![proptest_config(testkit::cases(60))]

    /// An expectation holds exactly where the lines of the feed say so; one more does not hold.
    #[test]
    fn what_is_expected_is_what_the_feed_says(asked in proptest::collection::vec(asked(), 1..6)) {
        let (path, text, lines) = played();
        let (mut more, mut counts) = (text.clone(), Vec::new());
        for one in &asked {
            let count = one.counted(lines);
            more += &one.written(count);
            more += &one.written(count + 1);
            counts.push(count);
        }
        let scenario = read(path, &more).map_err(|error| TestCaseError::fail(error.text()))?;
        let verdicts = scenario.test().expect("the skirmish plays");
        prop_assert_eq!(verdicts.len(), scenario.expectations());
        let ours = &verdicts[verdicts.len() - 2 * asked.len()..];
        for (pair, (one, count)) in ours.chunks(2).zip(asked.iter().zip(counts)) {
            prop_assert!(pair[0].holds, "{:?}: {}", one, pair[0]);
            prop_assert!(!pair[1].holds, "{:?}: {}", one, pair[1]);
            prop_assert!(pair[1].to_string().ends_with(&format!("{}; found {count}", count + 1)), "{}", pair[1]);
        }
    }
}

proptest! {
    #![proptest_config(testkit::cases(300))]

    /// A value that is varied is there afterwards, and every other value is what it was; what is no number is refused.
    #[test]
    fn one_value_varies_and_no_other(which: Index, leaf: Index, value in decimals()) {
        let files = testkit::forms::shipped(".toml");
        let (_, text) = which.get(&files);
        let before = leaves(text);
        let (path, old) = leaf.get(&before);
        let unit = old.trim_matches('"').trim_start_matches(|c: char| c.is_ascii_digit() || "+-.".contains(c));
        let is_time = old.starts_with('"') && old.len() > unit.len() + 2 && ["s", "ms", "ticks", "tick"].contains(&unit.trim());
        let is_number = old.parse::<f64>().is_ok();
        match with_value(text, path, value) {
            Ok(varied) => {
                prop_assert!(is_number || is_time, "{path}: {old}");
                let after = leaves(&varied);
                prop_assert_eq!(before.len(), after.len());
                for (one, other) in before.iter().zip(&after) {
                    if one.0 == *path {
                        let number = other.1.trim_matches('"').trim_end_matches(unit);
                        prop_assert_eq!(number.parse::<f64>().ok(), Some(value.value()), "{} is {}", path, other.1);
                        prop_assert_eq!(other.1.contains('.') || !is_number, old.contains('.') || !is_number);
                    } else {
                        prop_assert_eq!(one, other);
                    }
                }
            }
            Err(CannotVary::NotWhole { .. }) => {
                prop_assert!(old.parse::<i64>().is_ok() && value.value().fract() != 0.0, "{path}: {old}");
            }
            Err(CannotVary::NoNumber { .. }) => prop_assert!(!is_number && !is_time, "{path}: {old}"),
            Err(error) => prop_assert!(false, "{path}: {error}"),
        }
    }

    /// Decimals come back from how they are written.
    #[test]
    fn decimals_come_back(value in decimals()) {
        prop_assert_eq!(Decimal::parse(&value.to_string()), Some(value));
    }

    /// Fields that are not there are all told, each at its place.
    #[test]
    fn every_field_that_is_unknown_is_told(which: Index, chosen in proptest::collection::vec(any::<Index>(), 1..8)) {
        let files = shipped();
        let (path, text) = which.get(&files);
        let fields = some(&Places::of(text, is_field).fields, &chosen);
        let (changed, now) = replaced(text, &fields, |field| format!("{}-zz", field.trim_matches('"')));
        let error = read(path, &changed).map(|_| ()).expect_err("the file is wrong");
        let unknown = error.problems().iter().filter(|problem| problem.to_string().starts_with("unknown field"));
        let spans: Vec<_> = unknown.map(|problem| problem.span()).collect();
        prop_assert_eq!(spans, now, "{}", error.text());
    }

    /// Values of the wrong sort are all told, each at its place, with nothing else.
    #[test]
    fn every_value_of_the_wrong_sort_is_told(which: Index, chosen in proptest::collection::vec(any::<Index>(), 1..20)) {
        let files = shipped();
        let (path, text) = which.get(&files);
        let (changed, now) =
            replaced(text, &some(&Places::of(text, is_field).values, &chosen), |_| "1871-03-09".to_owned());
        let error = read(path, &changed).map(|_| ()).expect_err("the file is wrong");
        let spans: Vec<_> = error.problems().iter().map(|problem| problem.span()).collect();
        prop_assert_eq!(spans, now, "{}", error.text());
    }
}

/// A seed decides the feed, and nothing else does.
#[test]
fn a_seed_decides_the_feed() {
    let (path, text, lines) = played();
    let scenario = read(path, text).expect("the skirmish is sound");
    assert_eq!(&feed(&scenario, None), lines);
    assert_eq!(&feed(&scenario.clone(), None), lines);
    assert_ne!(&feed(&scenario, Some(scenario.seed + 1)), lines);
}

/// Entries of the script are carried out by their times, wherever they stand in the file.
#[test]
fn the_script_goes_by_its_times() {
    let mut moved = 0;
    for (path, text) in shipped() {
        let Some((head, rest)) = text.split_once("[[script]]") else { continue };
        let (script, tail) = rest.split_once("[[expect]]").unwrap_or((rest, ""));
        let entries: Vec<&str> = script.split("[[script]]").collect();
        let time = |entry: &&str| Some(entry.split_once("at = \"")?.1.split_once('"')?.0.to_owned());
        let times: BTreeSet<_> = entries.iter().map(time).collect();
        // Of several at one time the first in the file is the first.
        let apart = times.len() == entries.len() && entries.len() > 1 && !times.contains(&None);
        if !apart || script.contains("every = ") || entries.iter().any(|entry| entry.contains("\n[")) {
            continue;
        }
        let turned: String =
            entries.iter().rev().map(|entry| format!("[[script]]{}\n", entry.trim_end())).collect();
        let turned = format!("{head}{turned}[[expect]]{tail}");
        let (one, other) = (read(&path, &text).expect("sound"), read(&path, &turned).expect("sound"));
        assert_eq!(feed(&one, None), feed(&other, None), "{}", path.display());
        moved += 1;
    }
    assert!(moved > 5, "only {moved} shipped scripts could be turned round");
}
