//! Lines of scripts that ask, pools of files, and what is told of waves.

use hammerstone::event::{EncounterWave, Event, Payload};
use hammerstone_record::{WaveStage, WaveTrace};
use hammerstone_scenario::{Options, Play, Scenario, Wanted};
use testkit::forms::shipped;

const RULES: &str = r#"
[rules]
rate = 60
damage-types = ["crush"]
reasons = ["drill"]
combatant-counters = ["bells"]
flags = ["open"]
counters = ["knocks"]
[team.masons]
[team.beasts]
[pool.cairn]
max = 30
[template.mason]
team = "masons"
health = 20
[template.stone]
team = "beasts"
pool = "cairn"
[rule.remembers]
on = "combatant.died"
when = { since = { topic = "combatant.died", at-least = "1s" } }
do = [{ raise-flag = "open" }]
"#;

const HEAD: &str = r#"
[scenario]
title = "Asked"
rules = "asked.rules.toml"
lasts = "3s"
[combatant.odo]
template = "mason"
at = [0, 0, 0]
[combatant.mira]
template = "mason"
at = [5, 0, 0]
[combatant.left]
template = "stone"
at = [9, 0, 0]
[combatant.right]
template = "stone"
at = [12, 0, 0]
"#;

fn read(script: &str, rules: &str) -> Result<Scenario, String> {
    let open = |_: Wanted<'_>| Ok(("asked.rules.toml".to_owned(), rules.as_bytes().to_vec()));
    Scenario::read("asked.toml", &format!("{HEAD}{script}"), &open).map_err(|unusable| unusable.text())
}

/// How often each line acted, by a counter that it adds to.
fn counted(when: &str, at: &str, each: &str) -> Vec<i64> {
    let script = format!(
        "[[script]]\nat = \"0.5s\"\nwho = \"odo\"\ndamage = {{ crush = 12 }}\nreason = \"drill\"\n\
         [[script]]\nat = \"1s\"\nwho = \"left\"\ndamage = {{ crush = 10 }}\nreason = \"drill\"\n\
         [[script]]\nat = \"{at}\"\n{each}\nwhen = {when}\ncount = {{ of = \"bells\", add = 1 }}\n"
    );
    let scenario = read(&script, RULES).unwrap_or_else(|error| panic!("{error}"));
    let bells = scenario.rules.ruleset.find_combatant_counter("bells").expect("it is declared");
    let mut play = Play::new(&scenario, Options::default());
    while play.tick().expect("it ticks") {}
    let view = play.encounter.view();
    ["odo", "mira", "left", "right"]
        .map(|name| view.combatant_counter(play.combatant(name).expect("it is placed"), bells))
        .to_vec()
}

#[test]
fn a_line_acts_for_those_for_whom_it_holds() {
    let masons = "each = { team = \"masons\" }";
    assert_eq!(counted("{ subject = { health = { at-most = 0.5 } } }", "2s", masons), [1, 0, 0, 0]);
    assert_eq!(counted("{ not = { subject = { health = { at-most = 0.5 } } } }", "2s", masons), [0, 1, 0, 0]);
    // Before the blow there is no one for whom it holds.
    assert_eq!(counted("{ subject = { health = { at-most = 0.5 } } }", "0.4s", masons), [0; 4]);
    // The others share the health of the one who lost it.
    let all = "each = { team = \"beasts\" }";
    assert_eq!(counted("{ subject = { health = { at-most = 0.7 } } }", "2s", all), [0, 0, 1, 1]);
    let by = "who = \"mira\"\nby = \"odo\"";
    assert_eq!(counted("{ compare = [{ left = \"distance\", is = 5 }] }", "2s", by), [0, 1, 0, 0]);
    assert_eq!(counted("{ other = { health = { at-most = 0.5 } } }", "2s", by), [0, 1, 0, 0]);
    assert_eq!(counted("{ other = { team = \"beasts\" } }", "2s", by), [0; 4]);
    assert_eq!(counted("{ standing = { team = \"masons\", is = 2 } }", "2s", by), [0, 1, 0, 0]);
    // The ruleset keeps the time of deaths, of which none has come: it was endlessly long ago.
    assert_eq!(
        counted("{ since = { topic = \"combatant.died\", at-least = \"1s\" } }", "2s", by),
        [0, 1, 0, 0]
    );
}

#[test]
fn a_line_that_is_about_no_one_asks_too() {
    let script = |when: &str| {
        format!(
            "[[script]]\nat = \"1s\"\nwhen = {when}\ncount = {{ of = \"knocks\", add = 1 }}\n[[expect]]\ncounter = \"knocks\"\nis = 1\n"
        )
    };
    for (when, holds) in [("{ flags-down = [\"open\"] }", true), ("{ flags-up = [\"open\"] }", false)] {
        let scenario = read(&script(when), RULES).unwrap_or_else(|error| panic!("{error}"));
        assert_eq!(scenario.test().expect("it ticks")[0].holds, holds, "{when}");
    }
}

#[test]
fn what_a_script_cannot_ask_is_told_at_its_place() {
    let line =
        |when: &str| format!("[[script]]\nat = \"1s\"\nwho = \"odo\"\nwhen = {when}\nlift = \"none\"\n");
    for (when, told) in [
        ("{ fact = { amount = 3 } }", "there is no fact to ask about"),
        ("{ compare = [{ left = \"fact.amount\", is = 3 }] }", "there is no fact to read"),
        ("{ chance = 0.5 }", "only rules and hits roll a chance"),
        ("{ since = { topic = \"said\", at-most = \"1s\" } }", "no rule and no filter asks how long ago"),
        ("{ flags-up = [\"opne\"] }", "there is no flag `opne`"),
        ("{ subject = { team = \"mason\" } }", "there is no team `mason`"),
    ] {
        let error = read(&line(when), RULES).map(|_| ()).expect_err(when);
        assert!(error.contains(told) && error.contains("asked.toml:22:"), "{when}: {error}");
    }
}

#[test]
fn health_and_pools_of_files_are_one_or_the_other() {
    let with = |from: &str, to: &str| {
        assert!(RULES.contains(from), "{from}");
        read("", &RULES.replacen(from, to, 1)).map(|_| ()).expect_err(to)
    };
    for (from, to, told) in [
        ("pool = \"cairn\"", "pool = \"carn\"", "there is no pool `carn`"),
        ("pool = \"cairn\"", "pool = \"cairn\"\nhealth = 3", "has health of its own, and shares a pool"),
        ("pool = \"cairn\"", "", "template `stone` has no health"),
        ("max = 30", "max = 30\ngauge = \"wind\"", "`wind` cannot be shared"),
        ("max = 30", "max = 0", "pool `cairn`, max: 0 is outside"),
    ] {
        let error = with(from, to);
        assert!(error.contains(told), "{to}: {error}");
    }
    // What is based on the other says which of the two it has.
    let based = |own: &str| format!("{RULES}\n[template.keystone]\nbased-on = \"stone\"\n{own}\n");
    let health = |own: &str| {
        let rules = read("", &based(own)).unwrap_or_else(|error| panic!("{error}")).rules.ruleset;
        rules.health_of(rules.find_template("keystone").expect("it is declared"))
    };
    assert_eq!((health(""), health("health = 7")), (30, 7));
}

/// Of each sequence of each shipped fight: as many waves are told as came, of as many; none after an end and before a beginning.
#[test]
fn what_is_told_of_waves_is_what_came() {
    let mut told = 0;
    for (path, text) in shipped(".toml") {
        if path.to_string_lossy().ends_with(".rules.toml") {
            continue;
        }
        let open = |wanted: Wanted<'_>| {
            let found = wanted.path(&path);
            let bytes = std::fs::read(&found).map_err(|error| error.to_string())?;
            Ok((found.display().to_string(), bytes))
        };
        let Ok(scenario) = Scenario::read(&path.display().to_string(), &text, &open) else { continue };
        let rules = scenario.rules.ruleset.clone();
        for waves in rules.waves() {
            let id = rules.find_waves(waves.name()).expect("it is of the ruleset");
            let (mut trace, mut came) = (WaveTrace::new(id), Vec::new());
            let mut play = Play::new(&scenario, Options::default());
            while play.tick().expect("it ticks") {
                play.seen().show(&mut [&mut trace]);
                let of = |event: &Event| EncounterWave::of(event).filter(|wave| wave.waves == id).copied();
                came.extend(
                    play.encounter.facts().events().filter_map(of).map(|wave| (wave.wave, wave.count)),
                );
            }
            let waves: Vec<(u32, u32)> = trace
                .all()
                .iter()
                .filter_map(|step| match step.step {
                    WaveStage::Came { wave, count, .. } => Some((wave, count)),
                    _ => None,
                })
                .collect();
            assert_eq!(waves, came, "{}", path.display());
            let mut runs = false;
            for step in trace.all() {
                match step.step {
                    WaveStage::Began { .. } => runs = true,
                    WaveStage::Ended { .. } => runs = false,
                    WaveStage::Waited { standing, left, .. } => {
                        assert!(runs && standing[0] as u32 > left, "{}", path.display());
                    }
                    _ => assert!(runs, "{}", path.display()),
                }
            }
            assert!(trace.all().is_sorted_by(|one, next| one.time <= next.time));
            told += came.len();
        }
    }
    assert!(told > 20, "{told}");
}
