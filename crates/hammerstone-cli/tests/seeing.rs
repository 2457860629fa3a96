//! The commands that show what happened: explain, draw, compare, wiring, timings.

mod common;

use std::fs;
use std::process::{Command, Stdio};

use common::{FIGHT, demo_feed, in_folder, root, rules, run};

#[test]
fn explain_lists_blows_and_takes_one_apart() {
    let (status, text, errors) = run(&["explain", "scenarios/ledger/protection.toml"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    insta::assert_snapshot!("explain_list", text);
    let of_elder = |which: &[&str]| run(&[&["explain", "scenarios/elder.toml"], which].concat());
    let (_, json, _) = of_elder(&["--format", "json"]);
    let all: Vec<serde_json::Value> = serde_json::from_str(&json).unwrap();
    // A critical blow on a part, one on a guard, one that was passed on, and healing.
    let find =
        |is: &dyn Fn(&serde_json::Value) -> bool| all.iter().find(|&account| is(account)).unwrap().clone();
    let critical = find(&|account| account["critical"] == true);
    let hit = critical["hit"].to_string();
    let (status, text, _) = of_elder(&["--hit", &hit]);
    assert_eq!(status, 0);
    insta::assert_snapshot!("explain_hit", text);
    let one: serde_json::Value =
        serde_json::from_str(&of_elder(&["--hit", &hit, "--format", "json"]).1).unwrap();
    assert_eq!(one, critical);
    let passed_on = find(&|account| account["echo"] == "reflected");
    insta::assert_snapshot!("explain_blow", of_elder(&["--blow", &passed_on["blow"].to_string()]).1);
    let healing = find(&|account| account["name"] == "dressed");
    insta::assert_snapshot!("explain_seq", of_elder(&["--seq", &healing["seq"].to_string()]).1);
    // Every amount is where its ledger ends.
    for account in &all {
        for amount in account["amounts"].as_array().unwrap() {
            let last = amount["ledger"].as_array().unwrap().last().unwrap();
            assert_eq!(last["after"], format!("{}.0000", amount["amount"]), "{account}");
        }
    }
}

#[test]
fn explain_says_which_numbers_there_are() {
    for (which, said) in [("--hit", "there is no hit 999"), ("--blow", "there is no blow 999")] {
        let (status, _, errors) = run(&["explain", "scenarios/skirmish.toml", "--seed", "7", which, "999"]);
        assert_eq!(status, 2);
        assert!(errors.contains(said) && errors.contains("they are numbered from 1 to"), "{errors}");
    }
    let files =
        [("a.rules.toml", rules("")), ("fight.toml", FIGHT.replace("at = [0, 0, 1]", "at = [0, 0, 50]"))];
    let files = files.each_ref().map(|(name, text)| (*name, text.as_str()));
    let (status, text, _) = in_folder(&files, &["explain", "fight.toml"]);
    assert_eq!((status, text.contains("no one was hit, damaged or healed")), (0, true), "{text}");
    let (status, _, errors) = in_folder(&files, &["explain", "fight.toml", "--hit", "1"]);
    assert_eq!((status, errors.contains("no one was hit, damaged or healed")), (2, true), "{errors}");
}

/// The list of blows, of a part: what is left is what a program finds in the whole.
#[test]
fn explain_lists_the_blows_of_a_part() {
    let of = |more: &[&str]| {
        let args = [&["explain", "scenarios/skirmish.toml", "--format", "json"], more].concat();
        let (status, text, errors) = run(&args);
        assert_eq!((status, errors.as_str()), (0, ""));
        serde_json::from_str::<Vec<serde_json::Value>>(&text).unwrap()
    };
    let all = of(&[]);
    let part = of(&["--only", "odo,hound*", "--between", "1..3"]);
    let is_asked = |account: &&serde_json::Value| {
        let about =
            |key: &str| account[key].as_str().is_some_and(|name| name == "odo" || name.starts_with("hound"));
        (1.0..=3.0).contains(&account["time"].as_f64().unwrap()) && (about("source") || about("target"))
    };
    let wanted: Vec<serde_json::Value> = all.iter().filter(is_asked).cloned().collect();
    assert!(part == wanted && part.len() > 5 && part.len() < all.len(), "{} of {}", part.len(), all.len());
    let (status, _, errors) = run(&["explain", "scenarios/skirmish.toml", "--only", "odd"]);
    assert!(status == 2 && errors.contains("did you mean `odo`?"), "{errors}");
}

#[test]
fn wiring_shows_who_publishes_and_who_hears() {
    let (status, text, errors) = run(&["wiring", "scenarios/skirmish.toml"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    insta::assert_snapshot!("wiring", text);
    let (_, text, _) = run(&["wiring", "scenarios/flow/loop.toml"]);
    assert!(text.contains("the-gong-sounds sets itself off (within a tick"), "{text}");
    assert!(text.contains("never-published"), "{text}");
    let json: serde_json::Value =
        serde_json::from_str(&run(&["wiring", "scenarios/skirmish.toml", "--format", "json"]).1).unwrap();
    // What it counts is what the feed has.
    let feed = demo_feed();
    for topic in json["topics"].as_array().unwrap() {
        let line = format!("\"topic\":{}", topic["topic"]);
        assert_eq!(topic["published"], feed.lines().filter(|text| text.contains(&line)).count(), "{topic}");
        let heard = topic["listeners"].as_array().unwrap().iter().map(|ear| ear["heard"].as_u64().unwrap());
        assert_eq!(topic["heard"], heard.sum::<u64>(), "{topic}");
    }
    let dot = run(&["wiring", "scenarios/skirmish.toml", "--format", "dot"]).1;
    assert!(dot.starts_with("digraph wiring {") && dot.trim_end().ends_with('}'), "{dot}");
    assert!(dot.contains("\"combatant.died\" -> \"rule the-sluice-opens\" [label = 1];"), "{dot}");
}

#[test]
fn wiring_tells_what_one_template_publishes_and_what_answers_it() {
    let (status, text, errors) = run(&["wiring", "--about", "keeper", "scenarios/craft/commands.toml"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    let line = |topic: &str| text.lines().find(|line| line.starts_with(topic)).unwrap_or_default();
    assert!(line("combatant.died").ends_with("1         0  rule gate-opens: 1"), "{text}");
    assert!(line("leader.lost").ends_with("0         2  rule pack-flees: 2"), "{text}");
    let (_, json, _) =
        run(&["wiring", "--about", "keeper", "--format", "json", "scenarios/craft/commands.toml"]);
    let json: serde_json::Value = serde_json::from_str(&json).unwrap();
    let died = json.as_array().unwrap().iter().find(|topic| topic["topic"] == "combatant.died").unwrap();
    assert_eq!((&died["subject"], &died["answers"]["gate-opens"]), (&1.into(), &1.into()));
    let (status, _, errors) = run(&["wiring", "--about", "keepr", "scenarios/craft/commands.toml"]);
    assert!(status == 2 && errors.contains("did you mean `keeper`?"), "{errors}");
    assert_eq!(
        run(&["wiring", "scenarios/skirmish.toml", "--about", "cairn-keeper", "--format", "dot"]).0,
        2
    );
}

#[test]
fn explain_tells_what_became_of_waves() {
    let waves = |name: &str, file: &str| run(&["explain", "--wave", name, file]);
    let (status, text, errors) = waves("strays", "scenarios/craft/commands.toml");
    assert_eq!((status, errors.as_str()), (0, ""));
    for part in ["waves strays: hound, 9 times", "wave 5 of 9: 1 x hound", "stopped by rule horn after 5"] {
        assert!(text.contains(part), "{part}: {text}");
    }
    let (_, text, _) = waves("angry", "scenarios/craft/waves.toml");
    assert!(text.contains("wave 3: 3 x gull (as counter anger says)"), "{text}");
    let (_, text, _) = waves("tide-hounds", "scenarios/skirmish.toml");
    insta::assert_snapshot!("waves", text);
    let (_, json, _) =
        run(&["explain", "--wave", "tide-hounds", "--format", "json", "scenarios/skirmish.toml"]);
    let json: serde_json::Value = serde_json::from_str(&json).unwrap();
    let waited = json.as_array().unwrap().iter().find(|step| step["is"] == "waited").unwrap();
    assert_eq!(waited["left"], 0);
    let (status, _, errors) = waves("stryas", "scenarios/craft/commands.toml");
    assert!(status == 2 && errors.contains("did you mean `strays`?"), "{errors}");
}

#[test]
fn wiring_tells_every_topic_and_prints_a_hook_for_it() {
    let (status, text, errors) = run(&["wiring", "--topics"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    insta::assert_snapshot!("topics", text);
    let of_demo = run(&["wiring", "scenarios/skirmish.toml", "--topics", "--format", "json"]).1;
    let rows: serde_json::Value = serde_json::from_str(&of_demo).unwrap();
    let rows = rows.as_array().unwrap();
    let row = |path: &str| rows.iter().find(|row| row["topic"] == path).unwrap();
    assert_eq!(row("damage.dealt.crush")["other"], "source");
    let keys: Vec<&str> = row("host.sluice.opened")["fields"]
        .as_array()
        .unwrap()
        .iter()
        .map(|f| f["name"].as_str().unwrap())
        .collect();
    assert_eq!(keys, ["by", "height"]);
    // Every line of the feed has a topic that is told, and only fields that are told of it.
    for line in demo_feed().lines() {
        let line: serde_json::Value = serde_json::from_str(line).unwrap();
        let row = row(line["topic"].as_str().unwrap());
        let told: Vec<&serde_json::Value> = row["fields"]
            .as_array()
            .unwrap()
            .iter()
            .flat_map(|field| field["keys"].as_array().unwrap())
            .collect();
        for key in line.as_object().unwrap().keys() {
            let always = ["tick", "seq", "topic", "cause", "epoch", "pass"].contains(&key.as_str());
            assert!(always || told.iter().any(|told| *told == key), "{key} of {line}");
        }
    }
    let (status, code, _) = run(&["wiring", "--handler", "combatant.died"]);
    assert!(
        status == 0
            && code.contains("fn on_combatant_died(")
            && code.contains("Listen::to(topic::COMBATANT_DIED)")
    );
    let (status, out, errors) = run(&["wiring", "--handler", "combatant.did"]);
    assert_eq!((status, out.as_str()), (2, ""));
    assert!(errors.contains("did you mean `combatant.died`?"), "{errors}");
    assert_eq!(run(&["wiring", "--topics", "--format", "dot"]).0, 2);
    assert_eq!(run(&["wiring", "--handler", "said", "--format", "json"]).0, 2);
}

/// The fight below lasts 150,000 seconds, which would take minutes.
#[test]
fn a_moment_is_drawn_without_running_what_comes_after_it() {
    let folder = tempfile::tempdir().unwrap();
    let file = |name: &str| folder.path().join(name).to_str().unwrap().to_owned();
    let craft = concat!(env!("CARGO_MANIFEST_DIR"), "/../../scenarios/craft/");
    let text = fs::read_to_string(format!("{craft}lifesteal.toml")).unwrap();
    let long = text
        .replace("lasts = \"3s\"", "lasts = \"150000s\"")
        .replace("reactions.rules.toml", &format!("{craft}reactions.rules.toml"));
    assert!(long.contains("150000s") && long.contains(craft));
    fs::write(file("long.toml"), long).unwrap();
    let (status, _, errors) = run(&["draw", &file("long.toml"), "--at", "0.5", "-o", &file("a.svg")]);
    assert_eq!((status, errors.as_str()), (0, ""));
    assert!(fs::read_to_string(file("a.svg")).unwrap().contains("nettle"));
}

#[test]
fn draw_makes_a_picture_or_says_why_not() {
    let folder = tempfile::tempdir().unwrap();
    let file = |name: &str| folder.path().join(name).to_str().unwrap().to_owned();
    let (svg, picture) = (file("a.svg"), file("a.png"));
    assert_eq!(run(&["draw", "scenarios/skirmish.toml", "-o", &svg]).0, 0);
    let text = fs::read_to_string(&svg).unwrap();
    for words in ["A night at the sluice", "odo", "cairn-warden", "tide-hounds 3", "died"] {
        assert!(text.contains(words), "{words}");
    }
    assert_eq!(run(&["draw", "scenarios/elder.toml", "--dark", "-o", &picture]).0, 0);
    assert_eq!(&fs::read(&picture).unwrap()[1..4], b"PNG");
    let whole = fs::read(&svg).unwrap();
    assert_eq!(run(&["draw", "scenarios/skirmish.toml", "--timeline", "-o", &svg]).0, 0);
    assert_eq!(fs::read(&svg).unwrap(), whole, "the timeline is what is drawn if nothing else is asked for");
    for (how, words) in [
        (&["--at", "1.82"][..], &["from above", "from the side", "in this tick", "odo"][..]),
        (&["--strip", "8"], &["each moment from above", "a gate refused"]),
        (&["--wiring"], &["publishers", "combatant.died", "rule the-sluice-opens", "published, but unheard"]),
        (&["--strip", "4", "--attacker", "odo", "--at", "1.82"], &["odo's "]),
    ] {
        let (status, _, errors) = run(&[&["draw", "scenarios/skirmish.toml", "-o", &svg], how].concat());
        assert_eq!((status, errors.as_str()), (0, ""));
        let text = fs::read_to_string(&svg).unwrap();
        words.iter().for_each(|words| assert!(text.contains(words), "{how:?}: {words}"));
    }
    for (how, said) in [
        (&["--at", "900"][..], "the fight is over before 900 s"),
        (&["--at", "soon"], "no number of seconds"),
        (&["--strip", "4", "--attacker", "odd"], "did you mean `odo`?"),
        (&["--strip", "4", "--attacker", "odo", "--at", "0"], "no swing of that attacker ran then"),
    ] {
        let (status, _, errors) = run(&[&["draw", "scenarios/skirmish.toml", "-o", &svg], how].concat());
        assert!(status == 2 && errors.contains(said), "{errors}");
    }
    let (status, _, errors) = run(&["draw", "scenarios/skirmish.toml", "-o", &file("a.txt")]);
    assert!(status == 2 && errors.contains("name a file that ends in .svg or .png"), "{errors}");
    let (status, _, errors) = run(&["draw", "scenarios/skirmish.toml", "-o", &file("nowhere/a.svg")]);
    assert!(status == 2 && errors.contains("cannot be written"), "{errors}");
}

#[test]
fn gauges_and_open_gates_are_drawn() {
    let folder = tempfile::tempdir().unwrap();
    let svg = folder.path().join("moment.svg");
    let drawn = |fight: &str, at: &str| {
        let (status, _, errors) = run(&["draw", fight, "--at", at, "-o", svg.to_str().unwrap()]);
        assert_eq!(status, 0, "{errors}");
        fs::read_to_string(&svg).unwrap()
    };
    // Each gauge has a bar and a number of its own; one who is dead has none.
    let moment = drawn("scenarios/craft/wind.toml", "1.1");
    for (words, times) in [("wind", 2), ("poise", 2), ("2/30", 1), ("30/30", 1), ("20/20", 2)] {
        assert_eq!(moment.lines().filter(|line| line.trim() == words).count(), times, "{words}: {moment}");
    }
    // A gate that is open is a dashed line: the one in the upper half of the fight, and the other in the lower half.
    let dashed = |at: &str| {
        let moment = drawn("scenarios/craft/lock.toml", at);
        let of = |line: &&str| line.contains("<path") && line.contains("stroke-dasharray=\"3 3\"");
        moment.lines().filter(of).map(str::to_owned).collect::<Vec<_>>()
    };
    let [first, second, both, none] = ["1.92", "3", "6", "8"].map(dashed);
    assert_eq!(
        [first.len(), second.len(), both.len(), none.len()],
        [2, 2, 4, 2],
        "from above and from the side"
    );
    assert_ne!(first, second);
}

#[test]
fn timings_show_when_each_attack_does_what() {
    let (status, text, errors) = run(&["timings", "scenarios/yard.rules.toml"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    insta::assert_snapshot!("timings", text);
}

#[test]
fn skeletons_are_looked_at_by_themselves() {
    let (status, text, errors) = run(&["timings", "scenarios/bones/mason.glb"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    insta::assert_snapshot!("skeleton", text);
    let (_, text, _) = run(&["timings", "scenarios/bones.rules.toml"]);
    insta::assert_snapshot!("animated", text);

    // In another frame: the same numbers in a hundredth, with another axis up.
    let gaunt = "scenarios/bones/gaunt-ducks.bvh";
    let (_, text, _) = run(&["timings", gaunt, "--scale", "0.01", "--up", "z"]);
    let skull = text.lines().find(|line| line.contains("skull end")).unwrap();
    assert!(skull.contains("0.00 2.20 0.15"), "{skull}");
    let (_, plain, _) = run(&["timings", gaunt]);
    let skull = plain.lines().find(|line| line.contains("skull end")).unwrap();
    assert!(skull.contains("0.00 -15.00 220.00"), "{skull}");

    let (status, text, _) = run(&["check", "--deny", "scenarios/bones/mason.glb", gaunt]);
    assert_eq!(status, 1);
    assert!(text.starts_with("scenarios/bones/mason.glb: no problems found\n"), "{text}");
    assert!(text.contains("finding 26: skeleton: it is 215 m long"), "{text}");
    let (status, text, _) = run(&["check", "--deny", "--scale=0.01", "--up=z", gaunt]);
    assert_eq!((status, text.as_str()), (0, "scenarios/bones/gaunt-ducks.bvh: no problems found\n"));
    let (_, text, _) = run(&["check", "--format", "json", gaunt]);
    let found: Vec<serde_json::Value> = serde_json::from_str(&text).unwrap();
    assert_eq!((&found[0]["finding"], &found[0]["file"]), (&26.into(), &gaunt.into()));

    let folder = tempfile::tempdir().unwrap();
    let out = folder.path().join("mason.svg");
    let (status, _, errors) = run(&["draw", "scenarios/bones/mason.glb", "-o", out.to_str().unwrap()]);
    assert_eq!((status, errors.as_str()), (0, ""));
    let picture = fs::read_to_string(&out).unwrap();
    for word in [
        "maul.head",
        "forearm.l",
        "19 joints, 4 animations",
        "sweep, 1.25 s: maul.head moves fastest",
        "opens 0.45 s",
    ] {
        assert!(picture.contains(word), "{word}");
    }

    fs::write(
        folder.path().join("torn.glb"),
        &fs::read(root().join("scenarios/bones/mason.glb")).unwrap()[..9000],
    )
    .unwrap();
    let torn = folder.path().join("torn.glb");
    for command in ["timings", "check", "draw"] {
        let (status, _, errors) = run(&[command, torn.to_str().unwrap()]);
        assert_eq!(status, 2, "{command}");
        assert!(errors.contains("goes") && errors.contains("beyond the end of the file"), "{errors}");
    }
    let (status, _, errors) = run(&["draw", "scenarios/bones/mason.glb", "--at", "1", "-o", "x.svg"]);
    assert_eq!(status, 2);
    assert!(errors.contains("mason.glb is a skeleton's file, and has no fight to draw"), "{errors}");
    let (status, _, errors) = run(&["timings", "--scale", "0", gaunt]);
    assert_eq!(status, 2);
    assert!(errors.contains("`0` is no number above 0"), "{errors}");
}

#[test]
fn two_runs_are_held_against_each_other_the_cause_first() {
    let fight = "scenarios/elder.toml";
    let (status, text, errors) = run(&["compare", fight, "--other-seed", "9"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    insta::assert_snapshot!("compare", text);
    assert_eq!(run(&["compare", fight, "--other-seed", "9", "--expect-same"]).0, 1);
    let (status, text, _) = run(&["compare", fight, "--expect-same"]);
    assert_eq!(status, 0);
    assert!(text.starts_with("the same: "), "{text}");

    // Another ruleset on the same fight: the step that moved is named.
    let root = root();
    let rules = fs::read_to_string(root.join("scenarios/quarry.rules.toml")).unwrap();
    let fight = fs::read_to_string(root.join("scenarios/skirmish.toml")).unwrap();
    let harder = rules.replace("damage = { crush = [12, 16] }", "damage = { crush = [22, 26] }");
    assert_ne!(rules, harder);
    let files =
        [("quarry.rules.toml", rules.as_str()), ("new.rules.toml", &harder), ("skirmish.toml", &fight)];
    let asked = ["compare", "skirmish.toml", "--rules", "new.rules.toml", "--format", "json"];
    let (status, json, errors) = in_folder(&files, &asked);
    assert_eq!((status, errors.as_str()), (0, ""));
    let json: serde_json::Value = serde_json::from_str(&json).unwrap();
    let cause = &json["differences"][0];
    assert_eq!(cause["moved"][0]["step"], "base", "{cause}");
    assert_ne!(cause["moved"][0]["after"], cause["moved"][1]["after"]);

    assert_eq!(json["values"][0]["path"], "attack.maul-sweep.damage.crush.0");
    assert_eq!(
        (json["values"][0]["first"].as_str(), json["values"][0]["second"].as_str()),
        (Some("12"), Some("22"))
    );

    // A swing more in between: what comes after it is paired with what came at its own time, and a cause says what differs.
    let swings = |times: &[&str]| {
        let start = |at: &&str| format!("[[script]]\nat = \"{at}\"\nwho = \"odo\"\nstart = \"maul\"\n");
        let head = FIGHT.split("[[script]]").next().unwrap().replace("lasts = \"1s\"", "lasts = \"9s\"");
        times.iter().fold(head, |all, at| all + &start(at))
    };
    let ours = common::rules("");
    let (first, second) = (swings(&["1s", "4s", "7s"]), swings(&["1s", "2.5s", "4.1s", "7s"]));
    let files = [("a.rules.toml", ours.as_str()), ("one.toml", &first), ("two.toml", &second)];
    let (_, said, _) = in_folder(&files, &["compare", "one.toml", "two.toml"]);
    assert!(
        said.contains(
            "Where it began\n  2.50s, odo starts maul, number 2: not there in the first, there in the second"
        ),
        "{said}"
    );
    assert!(said.contains("Values that differ\n  script.1.at \"4s\" → \"2.5s\""), "{said}");
    let blows = said.lines().filter(|line| line.contains("odo's maul on bram"));
    let times: Vec<&str> = blows.map(|line| &line[..16]).collect();
    assert_eq!(times.len(), 2, "{said}");
    assert!(times[0].contains("-") && times[1].contains("4.1"), "{times:?}");
    // Both sides of a cause that is only later say when.
    let late = ours.replace("startup = \"0.1s\"", "startup = \"0.15s\"");
    assert_ne!(late, ours);
    let files = [("a.rules.toml", ours.as_str()), ("late.rules.toml", &late), ("one.toml", &first)];
    let (_, said, _) = in_folder(&files, &["compare", "one.toml", "--rules", "late.rules.toml"]);
    assert!(said.contains(": at 1.10s in the first, at 1.15s in the second"), "{said}");

    let (status, _, errors) = run(&["compare", "scenarios/elder.toml", "nowhere.toml"]);
    assert_eq!(status, 2);
    assert!(errors.contains("nowhere.toml cannot be read"), "{errors}");
}

/// The hitbox of a swing goes past, through a part on another layer, or through before its window opens: each is said, with a fix.
#[test]
fn explain_says_how_near_a_miss_was_and_what_was_in_the_way() {
    let far = FIGHT.replace("at = [0, 0, 1]", "at = [0, 0, 2.15]");
    let on_another_layer = rules("").replace("damage =", "meets = [\"ghost\"]\ndamage =");
    let walks_away = format!(
        "{}\n[[script]]\nat = \"0.25s\"\nwho = \"bram\"\nteleport = {{ at = [0, 0, 9] }}\n",
        FIGHT.replace("start = \"maul\"", "start = \"maul\"\n")
    );
    let cases: [(&str, String, String, &[&str]); 4] = [
        ("distance", rules(""), far, &["missed the trunk by 0.25 m", "come nearer by 0.25 m"]),
        (
            "layer",
            on_another_layer,
            FIGHT.to_owned(),
            &["lies on the layer `body`; it meets `ghost`", "add `body` to `meets`"],
        ),
        (
            "window",
            rules(""),
            walks_away,
            &["before its window opened", "let the window of `maul` open earlier"],
        ),
        (
            "own",
            rules(""),
            FIGHT.replace("team = \"beasts\"\nat = [0, 0, 1]", "at = [0, 0, 3]"),
            &["also, the gate team would refuse: wanted foe, found own"],
        ),
    ];
    for (name, rules, fight, said) in cases {
        let files = [("a.rules.toml", rules.as_str()), ("fight.toml", fight.as_str())];
        let asked = ["explain", "fight.toml", "--attacker", "odo", "--target", "bram"];
        let (status, text, errors) = in_folder(&files, &asked);
        assert_eq!((status, errors.as_str()), (0, ""), "{name}");
        said.iter().for_each(|said| assert!(text.contains(said), "{name}: {text}"));
        let json = in_folder(&files, &[&asked[..], &["--format", "json"]].concat()).1;
        let swing_results: serde_json::Value = serde_json::from_str(&json).unwrap();
        assert_eq!(
            swing_results["swings"][0]["targets"][0]["near"][0]["obstacle"],
            if name == "own" { "distance" } else { name },
            "{json}"
        );
    }
}

/// A swing that met no target is told with the nearest one; one swing at several is one swing; a target without parts
/// and a toucher without parts are named as such.
#[test]
fn explain_tells_of_swings_that_met_nobody() {
    let ghost = "\n[template.ghost]\nteam = \"beasts\"\nhealth = 9\nattacks = [\"brush\"]\n[attack.brush]\nform = \"touch\"\nactive = \"0.2s\"\n";
    let far = FIGHT.replace("at = [0, 0, 1]", "at = [0, 0, 2.15]");
    let fight = format!(
        "{far}\n[combatant.tam]\ntemplate = \"mason\"\nteam = \"beasts\"\nat = [0, 0, 5]\n[combatant.mist]\ntemplate = \"ghost\"\nat = [0, 0, 1]\n[[script]]\nat = \"0.2s\"\nwho = \"mist\"\nstart = \"brush\"\n"
    );
    let rules = rules(ghost);
    let files = [("a.rules.toml", rules.as_str()), ("fight.toml", fight.as_str())];
    let explain = |more: &[&str]| in_folder(&files, &[&["explain", "fight.toml"], more].concat());
    let (_, said, _) = explain(&["--attacker", "odo"]);
    assert!(said.starts_with("odo: 1 swing\n") && said.contains("it met no target"), "{said}");
    assert!(said.contains("bram: it missed the trunk by 0.25 m") && !said.contains("tam"), "{said}");
    let (_, said, _) = explain(&["--attacker", "odo", "--target", "mist"]);
    assert!(said.contains("mist has no part that could be hit"), "{said}");
    let (_, said, _) = explain(&["--attacker", "mist", "--target", "odo"]);
    assert!(said.contains("it strikes with the parts of its bearer, and mist has none"), "{said}");
    let (_, said, _) = explain(&["--target", "tam"]);
    assert!(said.contains("no swing met it; with --attacker"), "{said}");
    let near = FIGHT.replace("at = [0, 0, 1]", "at = [0, 0, 1]\ncount = 3\napart = [0.1, 0, 0]");
    let files = [("a.rules.toml", rules.as_str()), ("fight.toml", near.as_str())];
    let (_, said, _) = in_folder(&files, &["explain", "fight.toml", "--attacker", "odo"]);
    assert!(said.starts_with("odo: 1 swing\n"), "{said}");
    assert!(said.contains("it struck bram#1 and bram#2 and bram#3"), "{said}");
}

/// Why it did not swing: starts that were refused, with the reason and the time from which on they pass, in `explain`, on the timeline,
/// in `compare` and in the feed. What is promised holds.
#[test]
fn starts_that_were_refused_are_told_everywhere() {
    let stun = "\n[status.winded]\nlasts = \"0.5s\"\nstuns = true\n";
    let rules =
        rules(stun).replace("recovery = \"0s\"\n", "recovery = \"0.3s\"\ncooldown = { lasts = \"1s\" }\n");
    let start = |at: &str| format!("[[script]]\nat = \"{at}\"\nwho = \"odo\"\nstart = \"maul\"\n");
    let fight = format!(
        "{}\n{}{}{}[[script]]\nat = \"1.1s\"\nwho = \"odo\"\napply = \"winded\"\n{}{}",
        FIGHT.replace("lasts = \"1s\"", "lasts = \"3s\""),
        start("0.3s"),
        start("0.35s"),
        start("0.9s"),
        start("1.3s"),
        start("1.6167s"),
    );
    let files = [("a.rules.toml", rules.as_str()), ("fight.toml", fight.as_str()), ("plain.toml", FIGHT)];
    let (_, said, _) = in_folder(&files, &["explain", "fight.toml", "--attacker", "odo"]);
    assert!(said.starts_with("odo: 2 swings, 4 starts refused\n"), "{said}");
    for line in [
        "0.30 to 0.35s: odo does not start maul, refused 2 times: another swing is still running",
        "0.90s: odo does not start maul, refused: the attack cools down",
        "  from 1.20s on it could, if nothing else came between",
        "1.30s: odo does not start maul, refused: the combatant is stunned",
        "  from 1.62s on it could, if nothing else came between",
        "1.62s: odo's maul: ",
    ] {
        assert!(said.contains(line), "{line}: {said}");
    }
    let (_, json, _) = in_folder(&files, &["explain", "fight.toml", "--attacker", "odo", "--format", "json"]);
    let json: serde_json::Value = serde_json::from_str(&json).unwrap();
    assert_eq!(json["refused_starts"][0]["times"], 2);
    let (_, feed, _) = in_folder(&files, &["run", "fight.toml", "--format", "jsonl"]);
    let refused = feed.lines().find(|line| line.contains("order.refused")).unwrap();
    assert!(refused.contains("\"attack\":\"maul\"") && refused.contains("\"ticks\":"), "{refused}");
    assert!(refused.contains("\"why\":\"another swing is still running\""), "{refused}");
    let (_, said, _) = in_folder(&files, &["compare", "plain.toml", "fight.toml"]);
    assert!(said.contains("odo is refused the start of maul"), "{said}");
}

#[test]
fn explain_says_which_gate_refused_and_what_would_let_it_pass() {
    let (status, text, errors) = run(&["explain", "scenarios/yard/gates.toml", "--attacker", "poker"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    insta::assert_snapshot!("explain_refusals", text);
    let between = run(&[
        "explain",
        "scenarios/skirmish.toml",
        "--attacker",
        "odo",
        "--target",
        "hound#2",
        "--between",
        "2.55..3",
    ])
    .1;
    assert!(between.contains("the dead react to nothing") && !between.contains("1.50s"), "{between}");
    let idle = run(&[
        "explain",
        "scenarios/skirmish.toml",
        "--attacker",
        "odo",
        "--target",
        "hound#2",
        "--at",
        "0.5",
    ])
    .1;
    assert!(idle.contains("no swing") && idle.contains("swings begin at 1.50s"), "{idle}");
    for (asked, said) in [
        (&["--attacker", "odd"][..], "did you mean `odo`?"),
        (&["--target", "odo", "--at", "99"], "the fight is over before 99 s"),
        (&["--between", "3..2"], "the first time comes after the second"),
        (&["--between", "3"], "give two times, as in 1.5..3"),
    ] {
        let (status, _, errors) = run(&[&["explain", "scenarios/skirmish.toml"], asked].concat());
        assert!(status == 2 && errors.contains(said), "{errors}");
    }
}

#[test]
fn survey_comes_to_the_same_on_any_number_of_threads() {
    let folder = tempfile::tempdir().unwrap();
    let file = |name: &str| folder.path().join(name).to_str().unwrap().to_owned();
    let (csv, svg) = (file("runs.csv"), file("runs.svg"));
    let asked = [
        "survey",
        "scenarios/duel.toml",
        "--seeds",
        "40",
        "--vary",
        "attack.hook-pole.damage.crush.0=2..8/3",
    ];
    let with = |more: &[&str]| {
        let (status, text, errors) = run(&[&asked[..], more].concat());
        assert_eq!((status, errors.as_str()), (0, ""));
        text
    };
    let alone = with(&["--threads", "1", "--csv", &csv, "-o", &svg]);
    assert_eq!(alone, with(&["--threads", "4"]));
    assert_ne!(alone, with(&["--seed", "900"]), "other seeds come to something else");
    // Every run is in the table, and what is said of them is what they came to.
    let table = fs::read_to_string(&csv).unwrap();
    let rows: Vec<Vec<&str>> = table.lines().skip(1).map(|line| line.split(',').collect()).collect();
    assert_eq!(rows.len(), 120);
    assert!(
        table.starts_with("attack.hook-pole.damage.crush.0,seed,outcome,seconds,hits,masons dealt,"),
        "{table}"
    );
    let json: serde_json::Value = serde_json::from_str(&with(&["--format", "json"])).unwrap();
    assert_eq!((&json["runs"], &json["asked"]), (&120.into(), &120.into()));
    for point in json["points"].as_array().unwrap() {
        let of: Vec<&Vec<&str>> = rows.iter().filter(|row| row[0] == point["values"][0]).collect();
        for outcome in point["outcomes"].as_array().unwrap() {
            let count = of.iter().filter(|row| row[2] == outcome["name"]).count();
            assert!(
                (count as f64 / of.len() as f64 - outcome["share"].as_f64().unwrap()).abs() < 1e-9,
                "{point}"
            );
        }
        let mut seconds: Vec<f64> = of.iter().map(|row| row[3].parse().unwrap()).collect();
        seconds.sort_by(f64::total_cmp);
        assert!((seconds[19] - point["seconds"]["middle"].as_f64().unwrap()).abs() < 1e-3, "{point}");
    }
    // One of those runs, alone, ends as the table says.
    let one = rows.iter().find(|row| row[0] == "2").unwrap();
    let rules = fs::read_to_string(root().join("scenarios/duel.rules.toml")).unwrap();
    let fight = fs::read_to_string(root().join("scenarios/duel.toml")).unwrap();
    let varied = rules.replace("crush = [3, 10]", "crush = [2, 10]");
    assert_ne!(rules, varied);
    let files = [("duel.rules.toml", varied.as_str()), ("duel.toml", fight.as_str())];
    let feed = in_folder(&files, &["run", "duel.toml", "--seed", one[1], "--format", "jsonl"]).1;
    assert!(feed.lines().last().unwrap().contains(&format!("\"outcome\":\"{}\"", one[2])), "{one:?}");
    let picture = fs::read_to_string(&svg).unwrap();
    for words in ["how it ends", "bridge-held", "quarry-beasts", "120 runs over attack.hook-pole"] {
        assert!(picture.contains(words), "{words}");
    }
    insta::assert_snapshot!("survey", run(&["survey", "scenarios/duel.toml", "--seeds", "25"]).1);
}

#[test]
fn survey_says_what_cannot_be_varied() {
    for (vary, said) in [
        ("attack.hook-pole.damage.crash.0=1..2/1", "did you mean `crush`?"),
        ("combatant.odo.template=1..2/1", "is a text, and no number"),
        ("attack.hook-pole.damage.crush.0=1..2/0.5", "takes whole numbers, and 1.5 is none"),
        ("template.bridge-mason.health=0..10/10", "with template.bridge-mason.health = 0"),
        ("template.bridge-mason.health=-900000000000000..900000000000000/0.0001", "1000 at most"),
        ("template.bridge-mason.health=10..0/1", "the last value no less than the first"),
        ("template.bridge-mason.health", "give PATH=FROM..TO/STEP"),
    ] {
        let (status, _, errors) = run(&["survey", "scenarios/duel.toml", "--seeds", "3", "--vary", vary]);
        assert!(status == 2 && errors.contains(said), "{vary}: {errors}");
    }
}

/// Interrupted, a survey keeps the runs that it has made, and says how many.
#[cfg(unix)]
#[test]
fn an_interrupted_survey_keeps_what_it_has() {
    let interrupted_after = |seconds| {
        let survey = Command::new(env!("CARGO_BIN_EXE_hammerstone"))
            .args(["survey", "scenarios/duel.toml", "--seeds", "1000000", "--format", "json"])
            .current_dir(root())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        std::thread::sleep(std::time::Duration::from_secs(seconds));
        let interrupted = Command::new("kill").args(["-INT", &survey.id().to_string()]).status().unwrap();
        assert!(interrupted.success());
        survey.wait_with_output().unwrap()
    };
    // A machine that has much else to do may not have made a run after the first of these.
    let made = |output: &std::process::Output| output.status.success() && !output.stdout.is_empty();
    let output = [2, 8, 32].into_iter().map(interrupted_after).find(made).expect("it keeps runs");
    let errors = String::from_utf8(output.stderr).unwrap();
    assert!(output.status.success() && errors.contains("of 1000000 runs were made"), "{errors}");
    let json: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
    let (runs, points) = (json["runs"].as_u64().unwrap(), json["points"].as_array().unwrap());
    assert!(runs > 0 && runs < 1_000_000 && points[0]["runs"] == runs, "{runs}");
}

#[test]
fn explain_says_how_somebody_fell_or_what_kept_it_standing() {
    let (status, text, errors) = run(&["explain", "scenarios/skirmish.toml", "--death", "keeper"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    insta::assert_snapshot!("explain_fall", text);
    let text = run(&["explain", "scenarios/skirmish.toml", "--death", "odo"]).1;
    for words in [
        "life 1: odo dies, killed by cairn-warden",
        "life 2: odo did not die, with 17 of 44",
        "the last of it:",
    ] {
        assert!(text.contains(words), "{words}: {text}");
    }
    let text = run(&["explain", "scenarios/skirmish.toml", "--death", "bram"]).1;
    assert!(text.contains("nothing damaged it") && text.contains("gates refused: team 15"), "{text}");
    let text = run(&["explain", "scenarios/elder.toml", "--death", "odo"]).1;
    assert!(
        text.contains("what its blows lost on the way: guard ") && text.contains("invulnerable 2"),
        "{text}"
    );
    // The oath holds under the block: that is said, too.
    let text = run(&["explain", "scenarios/elder.toml", "--death", "bram"]).1;
    assert!(text.contains("lamp-oath keeps bram alive"), "{text}");
    let (status, _, errors) = run(&["explain", "scenarios/skirmish.toml", "--death", "keper"]);
    assert!(status == 2 && errors.contains("did you mean `keeper`?"), "{errors}");
}

/// Whatever a rule listens to is told, and it is told to fire as often as the wiring counts.
#[test]
fn explain_says_why_a_rule_did_not_fire() {
    let text = run(&["explain", "scenarios/skirmish.toml", "--rule", "the-warden-comes"]).1;
    assert!(
        text.starts_with("rule the-warden-comes listens to combatant.died: published 15 times, fired once"),
        "{text}"
    );
    for words in [
        "wanted about tide-hound",
        "wanted 0 standing of tide-hound, found 1",
        "wanted all 3 waves of tide-hounds, found 2",
    ] {
        assert!(text.contains(words), "{words}: {text}");
    }
    let wiring: serde_json::Value =
        serde_json::from_str(&run(&["wiring", "scenarios/skirmish.toml", "--format", "json"]).1).unwrap();
    let mut rules = 0;
    for topic in wiring["topics"].as_array().unwrap() {
        for ear in topic["listeners"].as_array().unwrap() {
            let name = ear["name"].as_str().unwrap();
            let json = run(&["explain", "scenarios/skirmish.toml", "--rule", name, "--format", "json"]).1;
            let all: Vec<serde_json::Value> = serde_json::from_str(&json).unwrap();
            assert_eq!(topic["published"], all.len(), "{name}");
            assert_eq!(ear["heard"], all.iter().filter(|one| one["fired"] == true).count(), "{name}");
            assert!(
                all.iter().all(|one| one["fired"] == true || one["lost"][0]["wanted"].is_string()),
                "{name}"
            );
            rules += 1;
        }
    }
    assert!(rules > 10, "{rules} rules");
    let never = run(&["explain", "scenarios/flow/waves.toml", "--rule", "the-sluice-opens"]).1;
    assert!(never.contains("fired"), "{never}");
    let (status, _, errors) = run(&["explain", "scenarios/skirmish.toml", "--rule", "the-warden-come"]);
    assert!(status == 2 && errors.contains("did you mean `the-warden-comes`?"), "{errors}");
}

/// Every command that the page about reading a fight shows does what it says, and every picture that it shows is there.
#[test]
fn the_page_about_reading_a_fight_keeps_its_word() {
    let folder = tempfile::tempdir().unwrap();
    let page = fs::read_to_string(root().join("docs/reading-a-fight.md")).unwrap();
    let mut commands = 0;
    for line in page.lines().filter_map(|line| line.strip_prefix("hammerstone ")) {
        // One that goes on until it is ended is tried in `live.rs`.
        if line.starts_with("live ") {
            continue;
        }
        // Fewer seeds say the same of the command, sooner.
        let line = line.replace("--seeds 1000", "--seeds 20").replace("--seeds 300", "--seeds 5");
        let words: Vec<String> = line
            .split(' ')
            .scan(false, |out, word| {
                let place = folder.path().join(word).to_str().unwrap().to_owned();
                let word = if *out { place } else { word.to_owned() };
                *out = word == "-o";
                Some(word)
            })
            .collect();
        let (status, _, errors) = run(&words.iter().map(String::as_str).collect::<Vec<_>>());
        assert_eq!((status, errors.as_str()), (0, ""), "{line}");
        commands += 1;
    }
    assert!(commands >= 12, "{commands} commands");
    for page in
        ["docs/reading-a-fight.md", "README.md", "docs/command.md", "docs/quarry.md", "docs/examples.md"]
    {
        let text = fs::read_to_string(root().join(page)).unwrap();
        let beside = root().join(page);
        let links = text.split("](").skip(1).filter_map(|rest| rest.split(')').next());
        for link in links.filter(|link| !link.starts_with('#')) {
            let file = link.split('#').next().unwrap();
            assert!(beside.parent().unwrap().join(file).exists(), "{page}: {link}");
        }
    }
    let pictures = fs::read_dir(root().join("docs/screenshots")).unwrap().count();
    assert!(pictures < 20, "{pictures} pictures");
}

/// What is said to let a refusal pass does: each is refused first, then fixed as it says, and strikes.
#[test]
fn the_mend_of_a_refusal_lets_it_pass() {
    let far = FIGHT.replace("at = [0, 0, 1]", "at = [0, 0, 1.5]");
    let friend = far.replace("team = \"beasts\"\n", "");
    let two =
        format!("{far}\n[combatant.tam]\ntemplate = \"mason\"\nteam = \"beasts\"\nat = [0.1, 0, 1.4]\n");
    let warded = format!("{far}\n[[script]]\nat = \"0.1s\"\nwho = \"bram\"\napply = \"ward\"\n");
    let post = format!("{far}\n[obstacle.post]\nbox = {{ at = [0, 0, 0.4], half = [0.5, 0.5, 0.02] }}\n");
    let ward = "\n[status.ward]\nlasts = \"2s\"\ninvulnerable = true\n";
    // The gate, the fight, what stands in the attack, what the fix says, and what stands there when that is done.
    let cases: [(&str, &str, &str, &str, &str); 7] = [
        ("team", &friend, "", "add `own` to `strikes` of `maul`", "strikes = [\"foe\", \"own\"]\n"),
        ("tags", &far, "needs-tags = [\"wet\"]\n", "take wet out of `needs-tags`", ""),
        ("tags", &far, "spares-tags = [\"dry\"]\n", "take dry out of `spares-tags`", ""),
        (
            "direction",
            &far,
            "only-from = { side = \"before\", within = 60 }\n",
            "within 180 degrees would let it pass",
            "only-from = { side = \"before\", within = 180 }\n",
        ),
        ("max-targets", &two, "max-targets = 1\n", "raise `max-targets` or `pierce`", "max-targets = 2\n"),
        ("invulnerable", &warded, "", "name it in `ignores` of `maul`", "ignores = [\"ward\"]\n"),
        ("obstacle", &post, "clear-line = true\n", "take `clear-line` out of `maul`", ""),
    ];
    for (gate, fight, before, said, after) in cases {
        let swing_results = |extra: &str| {
            let rules = rules(ward)
                .replace("layers = ", "tags = [\"wet\", \"dry\"]\nlayers = ")
                .replace("[template.mason]\n", "[template.mason]\ntags = [\"dry\"]\n")
                .replace("damage = { crush = 5 }\n", &format!("damage = {{ crush = 5 }}\n{extra}"));
            let files = [("a.rules.toml", rules.as_str()), ("fight.toml", fight)];
            let asked = ["explain", "fight.toml", "--attacker", "odo", "--format", "json"];
            let (status, text, errors) = in_folder(&files, &asked);
            assert_eq!((status, errors.as_str()), (0, ""), "{gate}");
            let results: serde_json::Value = serde_json::from_str(&text).unwrap();
            let swings = results["swings"].as_array().unwrap().iter();
            let targets = swings.flat_map(|swing| swing["targets"].as_array().unwrap().clone());
            targets.flat_map(|one| one["answers"].as_array().unwrap().clone()).collect::<Vec<_>>()
        };
        let refused: Vec<serde_json::Value> =
            swing_results(before).into_iter().filter(|answer| answer["gate"] == gate).collect();
        assert!(!refused.is_empty(), "{gate} refuses");
        assert!(refused[0]["fix"].as_str().unwrap().contains(said), "{gate}: {refused:?}");
        let fixed = swing_results(after);
        assert!(fixed.iter().all(|answer| answer["gate"] != gate), "{gate}: {fixed:?}");
        assert!(fixed.iter().any(|answer| answer["hit"].is_u64()), "{gate}: {fixed:?}");
    }
}

/// What something stopped missed by nothing else: the name of it, when, and how far that was from the target.
#[test]
fn explain_names_the_gate_that_stopped_a_stone() {
    let args = ["explain", "scenarios/yard/level.toml", "--attacker", "slinger", "--target", "guard"];
    let (status, text, errors) = run(&args);
    assert_eq!((status, errors.as_str()), (0, ""));
    let (_, beam, _) =
        run(&["explain", "scenarios/yard/level.toml", "--attacker", "scout", "--target", "cook"]);
    assert!(beam.contains("scout's sighting-beam: post stopped it before it came so far\n"), "{beam}");
    assert!(beam.contains("move post out of its way"), "{beam}");
    let stopped = "slinger's sling-stone: gate stopped it at 1.57s, 2.95 m from the stem";
    assert!(text.contains(stopped) && text.contains("move gate out of its way"), "{text}");
    assert!(!text.contains("it missed"), "{text}");
    let json = run(&[&args[..], &["--format", "json"]].concat()).1;
    let json: serde_json::Value = serde_json::from_str(&json).unwrap();
    let all = json.as_array().or(json["swings"].as_array()).unwrap();
    let by: Vec<Option<&str>> = all.iter().map(|one| one["stopped"]["by"].as_str()).collect();
    assert_eq!(by, [None, Some("gate"), Some("gate"), None]);
}

/// The state at a time is what the feed adds up to, and the difference between two times is what changed.
#[test]
fn explain_shows_the_state_at_a_time() {
    let boss = "scenarios/craft/boss.toml";
    let json = |arguments: &[&str]| -> serde_json::Value {
        let all = [&["explain", boss, "--state", "--format", "json"], arguments].concat();
        serde_json::from_str(&run(&all).1).unwrap()
    };
    let value = |table: &serde_json::Value, of: &str, what: &str| -> Option<String> {
        let lines = table["lines"].as_array().unwrap();
        let line =
            lines.iter().find(|line| line["of"].as_str().unwrap_or("") == of && line["what"] == what)?;
        Some(line["value"].as_str().unwrap().to_owned())
    };
    for (at, tick) in [("0", 1), ("3.5", 210), ("6.5", 390), ("8.05", 483)] {
        let table = json(&["--at", at]);
        let feed = run(&["run", boss, "--format", "jsonl"]).1;
        let changes: Vec<serde_json::Value> =
            feed.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
        for (name, max) in [("odo", 40), ("keeper", 100)] {
            let mut own =
                changes.iter().filter(|line| line["subject"] == name && line["topic"] == "health.changed");
            let last = own.rfind(|line| line["tick"].as_u64().unwrap() <= tick);
            let health = last.map_or(max, |line| line["to"].as_i64().unwrap());
            assert_eq!(value(&table, name, "health"), Some(format!("{health} of {max}")), "{name} at {at} s");
        }
    }
    let late = json(&["--at", "8"]);
    assert_eq!(value(&late, "", "counter storms").as_deref(), Some("1"));
    assert_eq!(value(&late, "keeper", "flag third-phase").as_deref(), Some("up"));
    assert_eq!(value(&late, "odo", "life").as_deref(), Some("away, back in 0.13 s"));
    let changed = json(&["--since", "5", "--at", "8"]);
    let named: Vec<(&str, &str)> = { changed.as_array().unwrap().iter() }
        .map(|one| (one["of"].as_str().unwrap_or(""), one["what"].as_str().unwrap()))
        .collect();
    assert!(
        named.contains(&("keeper", "flag third-phase")) && !named.contains(&("keeper", "team")),
        "{named:?}"
    );
    assert_eq!(json(&["--since", "8", "--at", "8"]).as_array().unwrap().len(), 0);
    let (status, _, errors) = run(&["explain", boss, "--state", "--at", "99"]);
    assert!(status != 0 && errors.contains("the fight is over by then"), "{errors}");
    let (status, _, errors) = run(&["explain", boss, "--state", "--since", "3", "--at", "1"]);
    assert!(status != 0 && errors.contains("3 s is later than 1 s"), "{errors}");
}
