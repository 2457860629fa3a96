//! The golden corpus: every shipped scenario and 300 generated fights, with two hashes for each tick: of the facts and of the state.
//!
//! Facts may change only with an outcome; states also with their layout. `HAMMERSTONE_GOLDEN=write` writes the corpus anew; its diff then
//! shows which of the two moved.

use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::path::{Path, PathBuf};

use hammerstone::Encounter;
use hammerstone_scenario::{Options, Play, Scenario};
use proptest::strategy::{Strategy, ValueTree};
use proptest::test_runner::TestRunner;
use testkit::{Fight, facts_hash, fights, play};

const FIGHTS: usize = 300;

/// The hashes of one run.
#[derive(Default)]
struct Run {
    facts: String,
    states: String,
    topics: Vec<u16>,
}

impl Run {
    fn observe(&mut self, encounter: &Encounter) {
        let facts = encounter.facts();
        // 32 bits locate the first tick that differs; all ticks together make a collision past belief.
        let _ = write!(self.facts, " {:08x}", facts_hash(&facts) as u32);
        let _ = write!(self.states, " {:08x}", encounter.checksum() as u32);
        for event in facts.events() {
            let topic = event.topic().index() as u16;
            if !self.topics.contains(&topic) {
                self.topics.push(topic);
            }
        }
    }
}

fn generated() -> Vec<Fight> {
    let mut runner = TestRunner::deterministic();
    (0..FIGHTS).map(|_| fights().new_tree(&mut runner).expect("a fight").current()).collect()
}

fn run(fight: &Fight) -> Run {
    let mut run = Run::default();
    play(fight, true, |encounter| run.observe(encounter));
    run
}

fn scenario(path: &Path) -> Run {
    let text = std::fs::read_to_string(path).expect("a scenario");
    let open = |wanted: hammerstone_scenario::Wanted<'_>| {
        let found = wanted.path(path);
        Ok((found.display().to_string(), std::fs::read(&found).map_err(|error| error.to_string())?))
    };
    let scenario = Scenario::read(&path.display().to_string(), &text, &open)
        .unwrap_or_else(|unusable| panic!("{}: {unusable}", path.display()));
    let mut play = Play::new(&scenario, Options { ledgers: true, ..Options::default() });
    let mut run = Run::default();
    while play.tick().expect("a tick") {
        run.observe(&play.encounter);
    }
    run
}

fn scenarios() -> Vec<(String, PathBuf)> {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../scenarios");
    let mut all = Vec::new();
    for folder in ["", "bones", "craft", "faults", "flow", "ledger", "yard"] {
        for entry in std::fs::read_dir(root.join(folder)).expect("a folder") {
            let path = entry.expect("an entry").path();
            let name = path.file_name().expect("a name").to_string_lossy().into_owned();
            if name.ends_with(".toml") && !name.ends_with(".rules.toml") {
                all.push((Path::new(folder).join(name).to_string_lossy().into_owned(), path));
            }
        }
    }
    all.sort();
    all
}

fn all_runs() -> BTreeMap<String, Run> {
    let mut runs = BTreeMap::new();
    for (name, path) in scenarios() {
        runs.insert(name, scenario(&path));
    }
    for (number, fight) in generated().iter().enumerate() {
        runs.insert(format!("fight {number:03}"), run(fight));
    }
    runs
}

/// Where the two differ first, for each run: at most five of them.
fn differences(kept: &str, now: &str) -> Vec<String> {
    let (kept, now): (Vec<&str>, Vec<&str>) = (kept.lines().collect(), now.lines().collect());
    let mut differ = Vec::new();
    for (kept, now) in kept.iter().zip(&now).filter(|(kept, now)| kept != now) {
        let tick = kept.rsplit(' ').rev().zip(now.rsplit(' ').rev()).position(|(kept, now)| kept != now);
        let name = now.split(':').next().unwrap_or_default();
        let names = name.split(' ').count();
        differ.push(format!("{name}, tick {}", tick.map_or(0, |place| (place + 1).saturating_sub(names))));
    }
    if kept.len() != now.len() {
        differ.push(format!("{} runs were kept, {} ran", kept.len(), now.len()));
    }
    let more = differ.len().saturating_sub(5);
    differ.truncate(5);
    if more > 0 {
        differ.push(format!("and {more} more"));
    }
    differ
}

#[test]
fn facts_and_states_are_those_of_the_golden_corpus() {
    let runs = all_runs();
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("golden");
    let mut moved = Vec::new();
    for (sort, column) in
        [("facts", (|run| &run.facts) as fn(&Run) -> &String), ("states", |run| &run.states)]
    {
        let now: String = runs.iter().map(|(name, run)| format!("{name}:{}\n", column(run))).collect();
        let path = folder.join(format!("{sort}.txt"));
        if std::env::var("HAMMERSTONE_GOLDEN").is_ok_and(|word| word == "write") {
            std::fs::write(&path, &now).expect("the corpus is written");
        }
        let kept = std::fs::read_to_string(&path).expect("the corpus is there");
        moved.extend(differences(&kept, &now).into_iter().map(|place| format!("{sort}: {place}")));
    }
    assert!(moved.is_empty(), "other hashes than in the corpus:\n{}", moved.join("\n"));
}

#[test]
fn the_corpus_shows_every_topic() {
    let runs = all_runs();
    let mut seen: Vec<u16> = runs.values().flat_map(|run| run.topics.iter().copied()).collect();
    seen.sort_unstable();
    seen.dedup();
    // Rulesets differ in what comes after the topics that every one of them has.
    let rules = hammerstone::Ruleset::builder(60).build().expect("a ruleset");
    let unseen: Vec<&str> = (0..rules.topics().count() as u16)
        .filter(|topic| !seen.contains(topic))
        .map(|topic| rules.topics().paths()[usize::from(topic)].as_str())
        .collect();
    // No fight of the corpus is tuned while it runs, and stand-ins tell nothing unless they are asked to.
    assert_eq!(unseen, ["encounter.adopted", "tactics.chose", "tactics.dropped"]);
}

/// A negative control: one bit of a seed, and a single order more, show themselves.
#[test]
fn another_fight_has_other_hashes() {
    let fight = generated().swap_remove(0);
    let plain = run(&fight);
    let other = run(&Fight { seed: fight.seed ^ 1, ..fight.clone() });
    assert_ne!(plain.states, other.states);
    let mut changed = Run::default();
    play(&fight, true, |encounter| {
        let who = encounter.view().combatants().next();
        if let (Some(who), None) = (who, encounter.outcome()) {
            let tide = encounter.rules().find_reason("tide").expect("a reason");
            encounter.orders().heal(who, 1, tide);
        }
        changed.observe(encounter);
    });
    assert_ne!(plain.facts, changed.facts);
}
