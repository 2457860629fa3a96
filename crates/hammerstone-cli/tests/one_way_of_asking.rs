//! The options that mean the same everywhere: which fight, what is other for this run, which part of it, where it goes and what is said beside.

mod common;

use std::fs;
use std::io::Write;
use std::process::{Output, Stdio};

use common::{FIGHT, hammerstone, in_folder, root, rules, run};
use serde_json::Value;

const DUEL: &str = "scenarios/duel.toml";

/// The verbs that take a fight, with what else they need to say something.
const OF_FIGHTS: [&[&str]; 8] = [
    &["run"],
    &["explain"],
    &["explain", "--state"],
    &["explain", "--attacker", "odo"],
    &["wiring"],
    &["survey", "--seeds", "3"],
    &["draw", "-o", "OUT.svg"],
    &["report", "-o", "OUT.html"],
];

/// What a verb answers: standard output, or the file that it writes.
fn answer(verb: &[&str], more: &[&str]) -> String {
    let folder = tempfile::tempdir().unwrap();
    let out = |name: &str| folder.path().join(name).display().to_string();
    let args: Vec<String> = { verb.iter().chain(more) }
        .map(|arg| if arg.starts_with("OUT") { out(arg) } else { (*arg).to_owned() })
        .collect();
    let (status, said, errors) = run(&args.iter().map(String::as_str).collect::<Vec<_>>());
    assert_eq!((status, errors.as_str()), (0, ""), "{args:?}");
    match args.iter().find(|arg| arg.contains("OUT")) {
        Some(file) => fs::read_to_string(file).unwrap(),
        None => said,
    }
}

#[test]
fn every_verb_takes_another_seed_ruleset_value_and_length() {
    for verb in OF_FIGHTS {
        let plain = answer(verb, &[DUEL]);
        assert_eq!(
            plain,
            answer(verb, &[DUEL, "--set", "attack.gnaw.startup=0.2s"]),
            "{verb:?}: the same value"
        );
        for other in [
            &["--seed", "99"][..],
            &["--rules", "scenarios/duel.yesterday.rules.toml"],
            &["--set", "attack.gnaw.damage.cut=[20, 30]"],
            &["--set", "scenario.lasts=1s", "--set", "attack.gnaw.damage.cut=[9,9]"],
            &["--ticks", "40"],
        ] {
            // The wiring may be the same for another seed, and so may the swings of one, also where others are damaged more.
            let may_be_same = match other[0] {
                "--seed" => ["wiring", "explain"].contains(&verb[0]),
                "--rules" => verb.contains(&"--attacker"),
                _ => false,
            };
            let now = answer(verb, &[&[DUEL], other].concat());
            assert!(may_be_same || now != plain, "{verb:?} {other:?}");
        }
        let (status, _, errors) = run(&[verb, &[DUEL, "--set", "attack.gnau.startup=1s"]].concat());
        assert!(status == 2 && errors.contains("did you mean `gnaw`?"), "{errors}");
    }
}

#[test]
fn a_fight_comes_from_standard_input() {
    let text = fs::read_to_string(root().join(DUEL)).unwrap();
    for verb in [&["run", "-"][..], &["explain", "-"], &["draw", "-", "-o", "/dev/null/x.svg"]] {
        let mut child = hammerstone(verb)
            .current_dir(root().join("scenarios"))
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        child.stdin.take().unwrap().write_all(text.as_bytes()).unwrap();
        let Output { status, stdout, stderr } = child.wait_with_output().unwrap();
        if verb[0] == "draw" {
            assert!(String::from_utf8_lossy(&stderr).contains("cannot be written"));
            continue;
        }
        assert!(status.success());
        assert_eq!(String::from_utf8(stdout).unwrap(), run(&[verb[0], DUEL]).1);
    }
}

#[test]
fn a_part_of_a_fight_is_what_is_asked_for_and_nothing_is_cut_in_half() {
    let feed = |more: &[&str]| -> Vec<Value> {
        let said = run(&[&["run", DUEL, "--format", "jsonl"], more].concat()).1;
        said.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
    };
    let all = feed(&[]);
    let second = |line: &Value| (line["tick"].as_f64().unwrap() - 1.0) / 60.0;
    let between: Vec<Value> =
        all.iter().filter(|line| (0.5..=1.5).contains(&second(line))).cloned().collect();
    assert_eq!(feed(&["--between", "0.5..1.5"]), between);
    let topic = |line: &&Value| line["topic"].as_str().unwrap().starts_with("combatant.");
    assert_eq!(feed(&["--topics", "combatant.*"]), all.iter().filter(topic).cloned().collect::<Vec<_>>());
    let hounds = feed(&["--only", "hound*"]);
    assert!(!hounds.is_empty() && hounds.len() < all.len());
    assert!(hounds.iter().all(|line| line.to_string().contains("hound#")));
    assert_eq!(feed(&["--only", "hound#1,hound#2,hound#3"]), hounds);
    // In sentences, what health lost stays with the blow.
    let said = run(&["run", DUEL, "--only", "odo", "--between", "1.5..1.6"]).1;
    assert!(said.contains(
        "odo hits hound#2 on the skull with hook-pole: 9 crush (base 7, part x1.25), health 32 to 23"
    ));
    assert!(!said.contains("ilse hits hound#3"));
    for (asked, said) in [
        (&["--only", "ode"][..], "did you mean `odo`?"),
        (&["--topics", "combatant.dyed"], "did you mean `combatant.died`?"),
        (&["--between", "3..2"], "the first time comes after the second"),
    ] {
        let (status, _, errors) = run(&[&["run", DUEL], asked].concat());
        assert!(status == 2 && errors.contains(said), "{errors}");
    }
    // A timeline of a part has only its lanes, and begins and ends there.
    let svg = answer(&["draw", "-o", "OUT.svg"], &[DUEL, "--between", "1..2", "--only", "odo,hound#1"]);
    let has = |text: &str| svg.lines().any(|line| line.trim() == text);
    assert!(has("odo") && has("hound#1") && !has("ilse"), "{svg}");
    assert!(has("1.0 s") && has("2.0 s") && !has("3.0 s"), "{svg}");
}

/// Each difference of two runs is in the parts that hold its time or one of its parties, and in no other; what is left out is counted.
#[test]
fn a_part_of_a_comparison_has_the_differences_of_that_part() {
    let whole = ["compare", DUEL, "--other-seed", "5", "--format", "json"];
    let of = |more: &[&str]| -> serde_json::Value { serde_json::from_str(&answer(&whole, more)).unwrap() };
    let all = of(&[]);
    let all = all["differences"].as_array().unwrap();
    let side = |difference: &serde_json::Value| -> serde_json::Value {
        if difference["first"].is_null() { difference["second"].clone() } else { difference["first"].clone() }
    };
    let spans: [&[&str]; 3] = [&["--between", "0..3"], &["--between", "3..60"], &["--between", "2.5..4.01"]];
    for (more, (from, to)) in spans.iter().zip([(0.0, 3.0), (3.0, 60.0), (2.5, 4.01)]) {
        let part = of(more);
        let time = |one: &&serde_json::Value| (from..=to).contains(&side(one)["time"].as_f64().unwrap());
        let wanted: Vec<_> = all.iter().filter(time).collect();
        assert!(!wanted.is_empty() && wanted.len() < all.len());
        assert_eq!(part["differences"].as_array().unwrap().iter().collect::<Vec<_>>(), wanted);
        assert_eq!(part["left_out"], all.len() - wanted.len());
    }
    let part = of(&["--only", "odo,hound#1"]);
    let about = |one: &&serde_json::Value| {
        ["subject", "target"].iter().any(|of| side(one)[of] == "odo" || side(one)[of] == "hound#1")
    };
    let wanted: Vec<_> = all.iter().filter(about).collect();
    assert!(!wanted.is_empty() && wanted.len() < all.len());
    assert_eq!(part["differences"].as_array().unwrap().iter().collect::<Vec<_>>(), wanted);

    let none = answer(&["compare", DUEL, "--other-seed", "5"], &["--between", "0..0.1"]);
    assert!(
        none.contains("no difference in this part; ") && none.contains(" differences lie elsewhere"),
        "{none}"
    );
    let (status, _, errors) = run(&["compare", DUEL, "--other-seed", "5", "--only", "odd"]);
    assert!(status == 2 && errors.contains("did you mean `odo`?"), "{errors}");
    // Nothing that differs in a part is no failure of it.
    let same = ["compare", DUEL, "--other-seed", "5", "--expect-same"];
    assert_eq!(run(&same).0, 1);
    assert_eq!(run(&[&same[..], &["--between", "0..0.1"]].concat()).0, 0);
}

#[test]
fn what_repeats_is_told_once_and_counted() {
    let (_, folded, _) = run(&["run", "scenarios/craft/combos.toml"]);
    let (_, every, _) = run(&["run", "scenarios/craft/combos.toml", "--every"]);
    let count = |text: &str, what: &str| text.lines().filter(|line| line.contains(what)).count();
    let refused = "o bram's wedge-one is refused at fang: already-struck";
    assert_eq!((count(&folded, refused), count(&every, refused)), (1, 3));
    assert!(folded.contains("found struck once, 3 times until 3.72s"), "{folded}");
    // A chain goes on once; with every line the start of its next attack is told as well.
    let next =
        |text: &str| count(text, "/ bram goes on with wedge-two") + count(text, "/ bram starts wedge-two");
    assert_eq!((next(&folded), next(&every)), (1, 2));
    let end = folded.split("In the end").nth(1).unwrap();
    assert!(end.contains("fang       standing · health 85 of 100"), "{end}");
    assert_eq!(
        every.lines().count() - folded.lines().count(),
        count(&every, "is refused") + count(&every, "goes on with") - count(&folded, "is refused")
    );
}

#[test]
fn what_was_written_where_is_said_and_nothing_if_it_is_not_wanted() {
    let folder = tempfile::tempdir().unwrap();
    let file = |name: &str| folder.path().join(name).display().to_string();
    for (args, what) in [
        (&["run", DUEL, "-o"][..], "the fight"),
        (&["draw", DUEL, "-o"], "the picture"),
        (&["report", DUEL, "-o"], "the page"),
        (&["explain", DUEL, "-o"], "the answer"),
        (&["wiring", DUEL, "-o"], "the answer"),
        (&["timings", "scenarios/duel.rules.toml", "-o"], "the table"),
        (&["generate", "man", "-o"], "the page"),
    ] {
        let out = file("out.svg");
        let Output { status, stdout, stderr } = hammerstone(&[args, &[&*out]].concat()).output().unwrap();
        assert!(status.success() && stdout.is_empty(), "{args:?}");
        assert_eq!(String::from_utf8(stderr).unwrap(), format!("wrote {what} to {out}\n"), "{args:?}");
        let quiet = hammerstone(&[args, &[&*out, "-q"]].concat()).output().unwrap();
        assert!(quiet.status.success() && quiet.stderr.is_empty(), "{args:?}");
    }
    let Output { stderr, .. } = hammerstone(&["run", DUEL, "-v"]).output().unwrap();
    let said = String::from_utf8(stderr).unwrap();
    assert!(
        said.contains("reads scenarios/duel.toml\n") && said.contains("reads scenarios/duel.rules.toml\n"),
        "{said}"
    );
    for (colours, there) in [("always", true), ("never", false), ("auto", false)] {
        let said = hammerstone(&["run", DUEL, "--color", colours]).env_remove("NO_COLOR").output().unwrap();
        assert_eq!(said.stdout.contains(&0x1b), there, "{colours}");
    }
}

#[test]
fn the_bare_command_and_help_say_what_there_is() {
    let (status, bare, errors) = run(&[]);
    assert_eq!((status, errors.as_str()), (0, ""));
    for said in
        ["Why did it miss", "Where does this number come from?", "What did my change do?", "Is it fair?"]
    {
        assert!(bare.contains(said), "{said}");
    }
    assert!(bare.lines().all(|line| line.chars().count() <= 100), "{bare}");
    let (status, help, _) = run(&["help", "run"]);
    assert!(status == 0 && help.contains("--set <PATH=VALUE>") && help.contains("For this run:"), "{help}");
    // The questions are asked as they stand there, of a fight that is there.
    for line in bare.lines().filter_map(|line| line.split_once("hammerstone ")).map(|(_, line)| line) {
        if !line.contains("FIGHT") {
            continue;
        }
        let line = line
            .replace("FIGHT", DUEL)
            .replacen("NAME", "odo", 1)
            .replace("NAME", "hound#1")
            .replace("--hit NUMBER", "--hit 1")
            .replace("CHANGED.rules.toml", "scenarios/duel.yesterday.rules.toml")
            .replace("1000", "20");
        let (status, _, errors) = run(&line.split(' ').collect::<Vec<_>>());
        assert_eq!((status, errors.as_str()), (0, ""), "{line}");
    }
}

#[test]
fn test_says_how_each_fight_ended_and_tells_machines() {
    let fight = format!(
        "{FIGHT}\n[[expect]]\ntopic = \"hit.landed\"\nis = 2\n[[expect]]\ntopic = \"combatant.died\"\nis = 0\n"
    );
    let rules = rules("");
    let files = [("a.rules.toml", rules.as_str()), ("a <b>.toml", fight.as_str())];
    let (status, text, _) = in_folder(&files, &["test", ".", "--format", "json"]);
    assert_eq!(status, 1);
    let json: Value = serde_json::from_str(&text).unwrap();
    assert_eq!((json[0]["passed"].as_bool(), json[0]["outcome"].as_str()), (Some(false), Some("time")));
    assert_eq!(json[0]["seconds"].as_f64(), Some(1.0));
    assert_eq!(json[0]["expectations"][0]["found"].as_str(), Some("1"));
    assert_eq!(json[0]["expectations"][1]["holds"].as_bool(), Some(true));
    let folder = tempfile::tempdir().unwrap();
    for (name, text) in files {
        fs::write(folder.path().join(name), text).unwrap();
    }
    let args = ["test", ".", "--junit", "out.xml", "-q"];
    let Output { status, .. } = hammerstone(&args).current_dir(folder.path()).output().unwrap();
    assert_eq!(status.code(), Some(1));
    let xml = fs::read_to_string(folder.path().join("out.xml")).unwrap();
    for said in [
        "<testsuites tests=\"2\" failures=\"1\">",
        "file=\"./a &lt;b&gt;.toml\"",
        "<failure message=\"found 1\"/>",
        "name=\"combatant.died: 0\"/>",
    ] {
        assert!(xml.contains(said), "{said}: {xml}");
    }
    assert_eq!(xml.matches("<testcase").count(), 2);
}

/// What a table of matchups says is what a fight comes to: so many hits of the least or the most kill.
#[test]
fn matchups_hold_in_a_fight() {
    let (status, csv, errors) = run(&["timings", "scenarios/duel.toml", "--matchups", "--format", "csv"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    let rows: Vec<Vec<&str>> = csv.lines().map(|line| line.split(',').collect()).collect();
    assert_eq!(
        rows[0],
        ["attack", "by", "at", "part", "least", "most", "health", "hits", "hits at most", "seconds to kill"]
    );
    assert_eq!(rows.len(), 5);
    let (_, json, _) = run(&["timings", "scenarios/duel.toml", "--matchups", "--format", "json"]);
    let json: Value = serde_json::from_str(&json).unwrap();
    assert_eq!(json.as_array().unwrap().len(), 4);
    let ours = rules("");
    let fight = FIGHT.replace("lasts = \"1s\"", "lasts = \"9s\"");
    let files = [("a.rules.toml", ours.as_str()), ("fight.toml", fight.as_str())];
    // Masons are of one team, and strike foes only.
    let foes = ours.replace("[team.beasts]\n", "[team.beasts]\n[template.hound]\nteam = \"beasts\"\nhealth = 12\n[template.hound.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n");
    assert!(!in_folder(&files, &["timings", "a.rules.toml", "--matchups"]).1.contains("trunk"));
    let (_, table, _) = in_folder(
        &[("a.rules.toml", foes.as_str())],
        &["timings", "a.rules.toml", "--matchups", "--format", "csv"],
    );
    let row: Vec<&str> = table.lines().nth(1).unwrap().split(',').collect();
    assert_eq!(row, ["maul", "mason", "hound", "trunk", "5", "5", "12", "3", "3", "0.50"]);
    // As the row says: the third blow kills, half a second after the first start.
    let starts: String = [60, 72, 84]
        .iter()
        .map(|tick| format!("[[script]]\nat = \"{tick} ticks\"\nwho = \"odo\"\nstart = \"maul\"\n"))
        .collect();
    let head = fight
        .split("[[script]]")
        .next()
        .unwrap()
        .replace("template = \"mason\"\nteam = \"beasts\"", "template = \"hound\"");
    let fight = format!("{head}{starts}");
    let files = [("a.rules.toml", foes.as_str()), ("fight.toml", fight.as_str())];
    let (_, said, errors) = in_folder(&files, &["run", "fight.toml"]);
    assert!(said.contains("   1.50s X bram dies"), "{said}{errors}");
}

#[test]
fn schemas_completions_and_the_manual_are_generated() {
    for sort in ["ruleset", "scenario"] {
        let (status, text, errors) = run(&["generate", "schema", sort]);
        assert_eq!((status, errors.as_str()), (0, ""));
        let json: Value = serde_json::from_str(&text).unwrap();
        assert!(json["$defs"].as_object().unwrap().len() > 15, "{sort}");
    }
    for shell in ["bash", "zsh", "fish", "powershell", "elvish"] {
        let (status, text, _) = run(&["generate", "completions", shell]);
        assert!(status == 0 && text.contains("explain") && text.contains("matchups"), "{shell}");
    }
    let (status, page, _) = run(&["generate", "man"]);
    assert!(status == 0 && page.starts_with(".ie") && page.contains("hammerstone"), "{page}");
}
