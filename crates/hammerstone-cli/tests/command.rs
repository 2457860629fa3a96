//! The command as a process: on the fight that comes with it, on other files, and on bad ones.

mod common;

use std::collections::BTreeSet;
use std::fs;
use std::io::Read;
use std::process::Stdio;

use common::{FIGHT, demo_feed, hammerstone, in_folder, root, rules, run};

#[test]
fn the_demo_tells_who_struck_whom_who_fell_and_what_was_refused() {
    let (status, text, errors) = run(&["demo"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    insta::assert_snapshot!("demo", text);
}

#[test]
fn the_feed_of_the_demo_keeps_the_laws_as_seen_from_outside() {
    let feed = demo_feed();
    assert_eq!(oracle::feed::check(&feed).unwrap(), []);
    assert_eq!(feed, demo_feed(), "two runs are the same");
    assert_ne!(feed, run(&["demo", "--format", "jsonl", "--seed", "8"]).1, "another seed is not");
}

/// Every shipped fight keeps the laws as seen from outside, and says nothing in its feed that is not declared.
#[test]
fn the_feed_of_every_shipped_fight_keeps_the_laws_and_its_fields() {
    let every_line = ["tick", "seq", "topic", "cause", "epoch", "pass"];
    let mut fights = 0;
    for folder in
        ["", "yard", "ledger", "flow", "faults", "craft"].map(|folder| format!("scenarios/{folder}"))
    {
        for entry in fs::read_dir(root().join(folder)).unwrap() {
            let path = entry.unwrap().path();
            let name = path.to_str().unwrap();
            if !name.ends_with(".toml") || name.ends_with(".rules.toml") {
                continue;
            }
            fights += 1;
            let (status, feed, errors) = run(&["run", name, "--format", "jsonl"]);
            assert_eq!((status, errors.as_str()), (0, ""), "{name}");
            assert_eq!(oracle::feed::check(&feed).unwrap(), [], "{name}");
            for line in feed.lines().filter(|line| !line.contains("\"topic\":\"host.")) {
                let line: serde_json::Map<String, serde_json::Value> = serde_json::from_str(line).unwrap();
                let declared = hammerstone_record::fields_of(line["topic"].as_str().unwrap());
                let known = |field: &str| every_line.contains(&field) || declared.contains(&field);
                let strange = line.keys().find(|field| !known(field));
                assert_eq!(strange, None, "{name}: {line:?}");
            }
        }
    }
    assert!(fights >= 42, "{fights} fights were found");
}

/// The check from outside can fail: each fault that is planted in the feed is found, as the law it breaks.
#[test]
fn faults_in_a_feed_are_found_from_outside() {
    let feed = demo_feed();
    let lines: Vec<&str> = feed.lines().collect();
    let with = |edit: &dyn Fn(&mut Vec<String>, usize), marks: &[&str]| {
        let mut lines: Vec<String> = lines.iter().map(|line| (*line).to_owned()).collect();
        let place = lines.iter().position(|line| marks.iter().all(|mark| line.contains(mark))).unwrap();
        edit(&mut lines, place);
        // Counted anew, so that the count gives nothing away.
        for (seq, line) in lines.iter_mut().enumerate() {
            let (head, tail) = line.split_once("\"seq\":").unwrap();
            let (_, tail) = tail.split_once(',').unwrap();
            *line = format!("{head}\"seq\":{seq},{tail}");
        }
        let found = oracle::feed::check(&lines.join("\n")).unwrap();
        found.iter().map(|(law, ..)| *law).collect::<Vec<_>>()
    };
    let twice = |lines: &mut Vec<String>, place: usize| lines.insert(place, lines[place].clone());
    let never = |lines: &mut Vec<String>, place: usize| drop(lines.remove(place));
    assert!(with(&|_, _| (), &["hit.landed"]).is_empty());
    assert!(with(&twice, &["hit.landed"]).contains(&1));
    assert!(with(&twice, &["combatant.died"]).contains(&2));
    assert!(with(&twice, &["hit.refused"]).contains(&3));
    assert!(with(&never, &["hit.landed"]).contains(&3));
    assert!(with(&never, &["damage.dealt.crush"]).contains(&4));
    assert!(with(&never, &["contact.parted"]).contains(&6));
    assert!(with(&twice, &["contact.parted"]).contains(&6));
    assert!(with(&never, &["attack.ended"]).contains(&7));
    assert!(with(&never, &["status.lifted"]).contains(&7));
    let line_off = |lines: &mut Vec<String>, place: usize| {
        lines[place] = lines[place].replace("\"after\":\"16.0000\"", "\"after\":\"15.0000\"");
    };
    assert!(with(&line_off, &["damage.dealt", "\"after\":\"16.0000\""]).contains(&4));
    // A limit of targets that is lower than what was struck.
    let feed = run(&["run", "scenarios/yard/counting.toml", "--format", "jsonl"]).1;
    assert!(feed.contains("\"max_targets\":2"));
    let found = oracle::feed::check(&feed.replace("\"max_targets\":2", "\"max_targets\":1")).unwrap();
    assert_eq!(found.iter().map(|(law, ..)| *law).collect::<Vec<_>>(), [1]);
}

/// A field that is renamed would be looked for in vain from outside, and nothing would be found wrong.
#[test]
fn the_check_from_outside_asks_for_fields_that_there_are() {
    let source = fs::read_to_string(root().join("oracle/src/feed.rs")).unwrap();
    let mut asked = BTreeSet::new();
    for start in ["line, \"", "line[\"", "own(\""] {
        let names = source.split(start).skip(1).filter_map(|rest| rest.split('"').next());
        asked.extend(names.map(str::to_owned));
    }
    let mut known: BTreeSet<String> = ["tick", "seq", "topic", "epoch"].map(str::to_owned).into();
    known.extend(
        hammerstone_record::topics(None).into_iter().flat_map(|row| row.fields).flat_map(|field| field.keys),
    );
    let unknown: Vec<&String> = asked.difference(&known).collect();
    assert!(asked.len() > 25 && unknown.is_empty(), "{unknown:?} of {}", asked.len());
}

#[test]
fn the_shipped_scenarios_pass_and_have_nothing_to_mend() {
    let (status, text, errors) = run(&["test", "scenarios"]);
    assert_eq!((status, errors.as_str()), (0, ""), "{text}");
    assert!(text.ends_with(" passed, 0 failed\n"), "{text}");
    let files = ["scenarios/quarry.rules.toml", "scenarios/skirmish.toml"];
    let (status, text, _) = run(&["check", "--deny", files[0], files[1], "scenarios/duel.toml"]);
    assert_eq!(status, 0, "{text}");
}

#[test]
fn a_run_takes_seed_length_and_a_file_to_write_to() {
    let folder = tempfile::tempdir().unwrap();
    let out = folder.path().join("feed.jsonl");
    let out_name = out.to_str().unwrap();
    let args =
        ["run", "scenarios/skirmish.toml", "--format", "jsonl", "--ticks", "120", "--seed", "3", "--out"];
    let (status, stdout, _) = run(&[&args[..], &[out_name]].concat());
    assert_eq!((status, stdout.as_str()), (0, ""));
    let feed = fs::read_to_string(&out).unwrap();
    assert_eq!(oracle::feed::check(&feed).unwrap(), []);
    let last = feed.lines().last().unwrap();
    assert!(last.starts_with("{\"tick\":120,") && last.contains("\"outcome\":\"time\""), "{last}");
    let bare = run(&["demo", "--no-ledgers", "--format", "jsonl"]).1;
    assert!(!bare.contains("ledger") && demo_feed().contains("ledger"));
    assert_eq!(bare.lines().count(), demo_feed().lines().count(), "ledgers change nothing else");
}

#[test]
fn nobody_reading_on_is_no_error() {
    for args in [&["demo"][..], &["demo", "--format", "jsonl"]] {
        let mut child = hammerstone(args).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        drop(child.stdout.take());
        let mut errors = String::new();
        child.stderr.take().unwrap().read_to_string(&mut errors).unwrap();
        assert_eq!((child.wait().unwrap().code(), errors.as_str()), (Some(0), ""));
    }
}

#[test]
fn a_failed_expectation_says_what_was_seen_and_the_status_is_1() {
    let expect = "\n[[expect]]\ntopic = \"hit.landed\"\nwith = { target = \"bram\" }\nis = 2\n\n\
        [[expect]]\nhealth-of = \"bram\"\nat-most = 15\n";
    let files = [("a.rules.toml", rules("")), ("fight.toml", format!("{FIGHT}{expect}"))];
    let files = files.each_ref().map(|(name, text)| (*name, text.as_str()));
    let (status, text, _) = in_folder(&files, &["test", "."]);
    assert_eq!(status, 1);
    insta::assert_snapshot!("failed_expectation", text);
}

#[test]
fn a_scenario_that_expects_nothing_has_failed_unless_it_may() {
    let files = [("a.rules.toml", rules("")), ("fight.toml", FIGHT.to_owned())];
    let files = files.each_ref().map(|(name, text)| (*name, text.as_str()));
    let (status, text, _) = in_folder(&files, &["test", "."]);
    assert!(
        status == 1 && text.contains("FAILED") && text.contains("expects nothing; add [[expect]]"),
        "{text}"
    );
    assert!(text.ends_with("0 passed, 1 failed\n"), "{text}");
    let (status, text, _) = in_folder(&files, &["test", ".", "--allow-empty"]);
    assert!(
        status == 0 && text.contains("passed") && text.contains("expects nothing (time is up at 1.00s)\n"),
        "{text}"
    );
}

/// Each problem stands under the heading of all by itself, and no line says merely that there is an error.
#[test]
fn problems_of_a_file_stand_one_under_the_other() {
    let part = "[template.mason.part.head]\nlayer = \"gost\"\n";
    let rules = rules(part).replace("{ crush = 5 }", "{ crash = 5 }");
    let files = [("a.rules.toml", rules), ("fight.toml", FIGHT.to_owned())];
    let files = files.each_ref().map(|(name, text)| (*name, text.as_str()));
    let (status, _, errors) = in_folder(&files, &["run", "fight.toml"]);
    assert_eq!(status, 2);
    assert!(errors.matches('×').count() >= 3 && errors.contains("crash"), "{errors}");
    assert!(errors.lines().all(|line| !line.trim_start().starts_with("Error")), "{errors}");
}

#[test]
fn bad_files_are_unusable_and_every_problem_is_shown_at_its_place() {
    let part = "[template.mason.part.head]\nlayer = \"gost\"\n";
    let fight = FIGHT.replace("template = \"mason\"\nteam", "template = \"masn\"\nteam");
    let cases: &[(&str, String, String)] = &[
        ("malformed", rules("\n[template.x\n"), FIGHT.to_owned()),
        ("unknown_field", rules("").replace("startup", "startupp"), FIGHT.to_owned()),
        ("unknown_names", rules("").replace("{ crush = 5 }", "{ crash = 5 }"), FIGHT.to_owned()),
        ("negative_time", rules("").replace("\"0.1s\"", "\"-0.1s\""), FIGHT.to_owned()),
        ("not_finite", rules("").replace("radius = 0.5", "radius = nan"), FIGHT.to_owned()),
        ("no_shape", rules(part), FIGHT.to_owned()),
        ("no_radius", rules("").replace("radius = 0.4", "radius = 0"), FIGHT.to_owned()),
        ("scenario_names", rules(""), fight.replace("start = \"maul\"", "start = \"maull\"")),
        ("no_ruleset", rules(""), FIGHT.replace("a.rules", "b.rules")),
        (
            "expectations",
            rules(""),
            format!(
                "{FIGHT}\n[[expect]]\ntopic = \"hit.land\"\nis = 1\n[[expect]]\ntopic = \"hit.landed\"\nwith = {{ victim = \"odo\" }}\nis = 1\n"
            ),
        ),
        (
            "numbers",
            rules(
                "stats = { might = 3, migth = 1 }\nresistance = { crush = 0.12345 }\nstagger = { at = 0 }\n\n\
                 [status.hot]\nlasts = \"1s\"\nstacking = \"stack\"\npulse = { every = \"-2 ticks\", damage = { crush = 1 } }\n\
                 changes = [{ stat = \"might\", add = 1, add-share = 2 }, { stat = \"wisdom\", add = 1 }]\n\
                 grants = [{ on = \"expiry\", status = \"hot\" }]\nguard = { takes = 1.5, within = 60 }\n",
            )
            .replace("[template.mason.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n", "")
            .replace("reasons", "stats = { might = 0 }\nreasons"),
            FIGHT.to_owned(),
        ),
        (
            "circle",
            rules(
                "\n[status.hot]\nlasts = \"1s\"\ngrants = [{ on = \"expiry\", status = \"cold\" }]\n\
                 guard = { takes = 1.5, within = 60 }\n\
                 [status.cold]\nlasts = \"1s\"\ngrants = [{ on = \"expiry\", status = \"hot\" }]\n\
                 [amount]\nsteps = [\"base\", \"part\", \"part\", \"rounding\"]\ncritical = { chance = 1.2, times = 2 }\n",
            ),
            FIGHT.to_owned(),
        ),
        (
            "flow",
            rules(
                "lives = { count = 0, at = \"nowhere\" }\nthresholds = { half = 1.5, low = { share = 0.2, if-it-kills = \"perhaps\" } }\n\n\
                 [topic.\"sluice.opened\"]\nby = \"whom\"\n\n\
                 [waves.pack]\ntemplate = \"mason\"\nsize = 0\ntimes = 2\nadds = 1\ngrows = 2\n\n\
                 [rule.one]\non = \"combatant.die\"\ndo = [{ say = \"Ho!\" }]\n\
                 [rule.two]\non = \"combatant.died\"\ndo = [{ say = \"Ho!\", reset = true }, { after = \"-1s\", say = \"Ho!\" }]\n\
                 [rule.three]\non = \"flag.changed\"\nwhen = { flags-up = [\"sluice\"] }\nlimit = \"per-life\"\ndo = [{ damage = { crush = 1 } }]\n",
            )
            .replace("[template.mason.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n", ""),
            FIGHT.to_owned(),
        ),
        (
            "rules",
            rules(
                "\n[waves.pack]\ntemplate = \"mason\"\nsize = 1\ntimes = 2\n\n\
                 [rule.one]\non = \"encounter.started\"\nlimit = \"per-life\"\ndo = [{ say = \"Ho!\" }]\n\
                 [rule.two]\non = \"encounter.started\"\ndo = [{ remove = true }]\n\
                 [rule.three]\non-family = \"combatant\"\nwhen = { direction = \"down\" }\ndo = []\n",
            ),
            FIGHT.to_owned(),
        ),
        (
            "script",
            rules(""),
            format!("{FIGHT}\n[[script]]\nat = \"soon\"\nwho = \"odd\"\nremove = true\nheal = 3\n"),
        ),
    ];
    for (name, rules, fight) in cases {
        let files = [("a.rules.toml", rules.as_str()), ("fight.toml", fight.as_str())];
        let (status, out, errors) = in_folder(&files, &["run", "fight.toml"]);
        assert_eq!((status, out.as_str()), (2, ""), "{name}");
        insta::assert_snapshot!(format!("bad_{name}"), errors);
    }
}

/// Fields under the names that practitioners bring along: the right one is proposed, and not the nearest spelling.
#[test]
fn words_of_the_trade_are_understood() {
    for (ours, theirs) in [
        ("startup", "wind-up"),
        ("startup", "telegraph"),
        ("active", "window"),
        ("damage", "dmg"),
        ("hitboxes", "colliders"),
        ("health", "hp"),
        ("team", "faction"),
    ] {
        let rules = rules("").replace(&format!("\n{ours} = "), &format!("\n{theirs} = "));
        let files = [("a.rules.toml", rules.as_str()), ("fight.toml", FIGHT)];
        let (status, out, errors) = in_folder(&files, &["run", "fight.toml"]);
        assert_eq!((status, out.as_str()), (2, ""), "{theirs}");
        assert!(errors.contains(&format!("it is called `{ours}` here")), "{theirs}: {errors}");
    }
    let status = |field: &str| rules(&format!("\n[status.wet]\nlasts = \"1s\"\n{field}\n"));
    for (field, said) in [
        ("iframes = true", "invulnerable"),
        ("dot = 3", "pulse"),
        ("stack = 3", "max-stacks"),
        ("again = \"x\"", "stacking"),
    ] {
        let rules = status(field);
        let (_, _, errors) =
            in_folder(&[("a.rules.toml", rules.as_str()), ("fight.toml", FIGHT)], &["run", "fight.toml"]);
        assert!(errors.contains(&format!("it is called `{said}` here")), "{field}: {errors}");
    }
}

#[test]
fn a_missing_file_and_an_empty_folder_are_unusable() {
    let (status, _, errors) = run(&["run", "nowhere.toml"]);
    assert_eq!(status, 2);
    assert!(errors.contains("nowhere.toml cannot be read"), "{errors}");
    let (status, _, errors) = in_folder(&[], &["test", "."]);
    assert_eq!(status, 2);
    assert!(errors.contains("holds no scenario"), "{errors}");
    assert_eq!(run(&["dmo"]).0, 2);
    assert_eq!(run(&["--help"]).0, 0);
}

/// Times in text count on through a reset, as scripts and `--at` do; and who comes in a wave is called like no one else.
#[test]
fn there_is_one_clock_and_each_has_a_name() {
    let (_, said, _) = run(&["run", "scenarios/flow/again.toml"]);
    let times: Vec<f64> = said
        .lines()
        .take_while(|line| !line.contains("Damage by pair"))
        .filter_map(|line| line.trim().split_once("s ")?.0.parse().ok())
        .collect();
    assert!(times.len() > 30 && times.is_sorted(), "{said}");
    assert!(said.contains("   3.00s / bram starts knock (swing 1)"), "{said}");
    let root = root();
    let rules = fs::read_to_string(root.join("scenarios/flow.rules.toml")).unwrap();
    let fight = fs::read_to_string(root.join("scenarios/flow/waves.toml")).unwrap();
    let more = "[combatant.hound]\ntemplate = \"hound\"\nat = [0, 0, 9]\n[combatant.\"hound#3\"]\ntemplate = \"mason\"\nat = [9, 0, 9]\n[combatant.bram]";
    let fight = fight.replace("../flow.rules.toml", "flow.rules.toml").replace("[combatant.bram]", more);
    let files = [("flow.rules.toml", rules.as_str()), ("waves.toml", fight.as_str())];
    let (_, feed, _) = in_folder(&files, &["run", "waves.toml", "--format", "jsonl"]);
    let joined = feed.lines().filter(|line| line.contains("\"combatant.joined\""));
    let names: Vec<String> = joined
        .map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap()["subject"].to_string())
        .collect();
    let mut once = names.clone();
    once.sort();
    once.dedup();
    assert_eq!((names.len(), once.len()), (12, 12), "{names:?}");
}

/// A file that is no fight says what it is; a number where a time belongs, and a word of the trade, are told how to write them.
#[test]
fn files_and_words_are_told_what_they_are() {
    let (status, _, errors) = run(&["run", "scenarios/duel.rules.toml"]);
    assert!(status == 2 && errors.contains("duel.rules.toml is a ruleset, and no fight"), "{errors}");
    let (status, _, errors) = run(&["explain", "scenarios/bones/gaunt-ducks.bvh"]);
    assert!(status == 2 && errors.contains("is a skeleton, and no fight"), "{errors}");
    let broken = rules("\n[status.dazed]\nlasts = 5\nreach = 2\n")
        .replace("[template.mason]\n", "[template.mason]\ncorpse-lasts = \"1s\"\nstartup = \"1s\"\n")
        .replace("[attack.maul]\n", "[attack.maul]\nmax-hits = 1\n");
    let (status, _, errors) = in_folder(&[("a.rules.toml", broken.as_str())], &["check", "a.rules.toml"]);
    assert_eq!(status, 2);
    for said in [
        "write \"5s\" for seconds, or \"5 ticks\"",
        "did you mean `corpse-time`?",
        "it is a field of [attack.NAME]",
        "it is called `max-targets` here",
    ] {
        assert!(errors.contains(said), "{said}: {errors}");
    }
    let fight = FIGHT.replace("start = ", "attack = ");
    let files = [("a.rules.toml", &*rules("")), ("fight.toml", fight.as_str())];
    let (_, _, errors) = in_folder(&files, &["run", "fight.toml"]);
    assert!(errors.contains("it is called `start` here"), "{errors}");
}
