//! The command as a process: on the fight that comes with it, on other files, and on bad ones.

use std::fs;
use std::io::Read;
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

fn hammerstone(args: &[&str]) -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_hammerstone"));
    command.args(args).current_dir(root()).env("NO_COLOR", "1");
    command
}

fn run(args: &[&str]) -> (i32, String, String) {
    let Output { status, stdout, stderr } = hammerstone(args).output().unwrap();
    let text = |bytes| String::from_utf8(bytes).unwrap();
    (status.code().unwrap(), text(stdout), text(stderr))
}

fn demo_feed() -> String {
    let (status, feed, errors) = run(&["demo", "--format", "jsonl"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    feed
}

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
    for folder in ["", "yard", "ledger", "flow", "faults"].map(|folder| format!("scenarios/{folder}")) {
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
        let (status, _, errors) = run(&["explain", "--seed", "7", which, "999"]);
        assert_eq!(status, 2);
        assert!(errors.contains(said) && errors.contains("they are numbered from 1 to"), "{errors}");
    }
    let files =
        [("a.rules.toml", rules("")), ("fight.toml", FIGHT.replace("at = [0, 0, 1]", "at = [0, 0, 50]"))];
    let files = files.each_ref().map(|(name, text)| (*name, text.as_str()));
    let (status, text, _) = in_folder(&files, &["explain", "fight.toml"]);
    assert_eq!((status, text.contains("nobody was struck, harmed or healed")), (0, true), "{text}");
    let (status, _, errors) = in_folder(&files, &["explain", "fight.toml", "--hit", "1"]);
    assert_eq!((status, errors.contains("nobody was struck, harmed or healed")), (2, true), "{errors}");
}

#[test]
fn wiring_shows_who_publishes_and_who_hears() {
    let (status, text, errors) = run(&["wiring"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    insta::assert_snapshot!("wiring", text);
    let (_, text, _) = run(&["wiring", "scenarios/flow/loop.toml"]);
    assert!(text.contains("the-gong-sounds sets itself off (within a tick"), "{text}");
    assert!(text.contains("silent"), "{text}");
    let json: serde_json::Value = serde_json::from_str(&run(&["wiring", "--format", "json"]).1).unwrap();
    // What it counts is what the feed has.
    let feed = demo_feed();
    for topic in json["topics"].as_array().unwrap() {
        let line = format!("\"topic\":{}", topic["topic"]);
        assert_eq!(topic["published"], feed.lines().filter(|text| text.contains(&line)).count(), "{topic}");
        let heard = topic["listeners"].as_array().unwrap().iter().map(|ear| ear["heard"].as_u64().unwrap());
        assert_eq!(topic["heard"], heard.sum::<u64>(), "{topic}");
    }
    let dot = run(&["wiring", "--format", "dot"]).1;
    assert!(dot.starts_with("digraph wiring {") && dot.trim_end().ends_with('}'), "{dot}");
    assert!(dot.contains("\"death.fell\" -> \"rule the-sluice-opens\" [label = 1];"), "{dot}");
}

#[test]
fn draw_makes_a_picture_or_says_why_not() {
    let folder = tempfile::tempdir().unwrap();
    let file = |name: &str| folder.path().join(name).to_str().unwrap().to_owned();
    let (svg, picture) = (file("a.svg"), file("a.png"));
    assert_eq!(run(&["draw", "-o", &svg]).0, 0);
    let text = fs::read_to_string(&svg).unwrap();
    for words in ["A night at the sluice", "odo", "cairn-warden", "tide-hounds 3", "fell"] {
        assert!(text.contains(words), "{words}");
    }
    assert_eq!(run(&["draw", "scenarios/elder.toml", "--dark", "-o", &picture]).0, 0);
    assert_eq!(&fs::read(&picture).unwrap()[1..4], b"PNG");
    for (how, words) in [
        (&["--at", "1.82"][..], &["from above", "from the side", "in this tick", "odo"][..]),
        (&["--strip", "8"], &["each moment from above", "a gate refused"]),
        (&["--strip", "4", "--attacker", "odo", "--at", "1.82"], &["odo's "]),
    ] {
        let (status, _, errors) = run(&[&["draw", "-o", &svg], how].concat());
        assert_eq!((status, errors.as_str()), (0, ""));
        let text = fs::read_to_string(&svg).unwrap();
        words.iter().for_each(|words| assert!(text.contains(words), "{how:?}: {words}"));
    }
    for (how, said) in [
        (&["--at", "900"][..], "the fight is over before 900 s"),
        (&["--at", "soon"], "no number of seconds"),
        (&["--strip", "4", "--attacker", "odd"], "did you mean `odo`?"),
        (&["--strip", "4", "--attacker", "odo", "--at", "0"], "nobody meant swings then"),
    ] {
        let (status, _, errors) = run(&[&["draw", "-o", &svg], how].concat());
        assert!(status == 2 && errors.contains(said), "{errors}");
    }
    let (status, _, errors) = run(&["draw", "-o", &file("a.txt")]);
    assert!(status == 2 && errors.contains("name a file that ends in .svg or .png"), "{errors}");
    let (status, _, errors) = run(&["draw", "-o", &file("nowhere/a.svg")]);
    assert!(status == 2 && errors.contains("cannot be written"), "{errors}");
}

#[test]
fn timings_show_when_each_attack_does_what() {
    let (status, text, errors) = run(&["timings", "scenarios/yard.rules.toml"]);
    assert_eq!((status, errors.as_str()), (0, ""));
    insta::assert_snapshot!("timings", text);
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
    assert!(with(&twice, &["death.fell"]).contains(&2));
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
}

#[test]
fn the_shipped_scenarios_pass_and_have_nothing_to_mend() {
    let (status, text, errors) = run(&["test", "scenarios"]);
    assert_eq!((status, errors.as_str()), (0, ""), "{text}");
    assert!(text.ends_with(" passed, 0 failed\n"), "{text}");
    let files = ["scenarios/quarry.rules.toml", "scenarios/skirmish.toml"];
    let (status, text, _) = run(&["check", files[0], files[1]]);
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

/// Writes files into a folder of their own and runs the command there, where names are short.
fn in_folder(files: &[(&str, &str)], args: &[&str]) -> (i32, String, String) {
    let folder = tempfile::tempdir().unwrap();
    for (name, text) in files {
        fs::write(folder.path().join(name), text).unwrap();
    }
    let Output { status, stdout, stderr } = hammerstone(args).current_dir(folder.path()).output().unwrap();
    let text = |bytes| String::from_utf8(bytes).unwrap();
    (status.code().unwrap(), text(stdout), text(stderr))
}

fn rules(extra: &str) -> String {
    format!(
        "[rules]\nrate = 60\nkinds = [\"crush\"]\nlayers = [\"ghost\"]\nreasons = [\"tide\"]\n\n\
         [team.masons]\n[team.beasts]\n\n\
         [attack.maul]\nform = \"carried\"\nwind-up = \"0.1s\"\nwindow = \"6 ticks\"\nrecovery = \"0s\"\n\
         harm = {{ crush = 5 }}\nvolumes = [{{ sphere = {{ at = [0, 0, 1], radius = 0.5 }} }}]\n\n\
         [cast.mason]\nteam = \"masons\"\nhealth = 20\nattacks = [\"maul\"]\n\
         [cast.mason.part.trunk]\nsphere = {{ at = [0, 0, 0], radius = 0.4 }}\n{extra}"
    )
}

const FIGHT: &str = "[scenario]\ntitle = \"Two\"\nrules = \"a.rules.toml\"\nlasts = \"1s\"\n\n\
    [combatant.odo]\ncast = \"mason\"\nat = [0, 0, 0]\n\n\
    [combatant.bram]\ncast = \"mason\"\nteam = \"beasts\"\nat = [0, 0, 1]\n\n\
    [[script]]\nat = \"0.2s\"\nwho = \"odo\"\nstart = \"maul\"\n";

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
fn check_finds_attacks_that_nobody_uses_and_pairs_that_never_meet() {
    let extra = "\n[attack.bite]\nform = \"carried\"\nwind-up = \"0s\"\nwindow = \"0.1s\"\nrecovery = \"0s\"\n\
        volumes = [{ sphere = { at = [0, 0, 1], radius = 0.5 } }]\n\n\
        [attack.haunt]\nform = \"carried\"\nwind-up = \"0s\"\nwindow = \"0.1s\"\nrecovery = \"0s\"\n\
        meets = [\"ghost\"]\nvolumes = [{ sphere = { at = [0, 0, 1], radius = 0.5 } }]\n\n\
        [cast.hound]\nteam = \"beasts\"\nhealth = 9\nattacks = [\"haunt\"]\n\
        [cast.hound.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n";
    let files = [("a.rules.toml", rules(extra)), ("fight.toml", FIGHT.to_owned())];
    let files = files.each_ref().map(|(name, text)| (*name, text.as_str()));
    let (status, text, _) = in_folder(&files, &["check", "a.rules.toml", "fight.toml"]);
    assert_eq!(status, 1);
    insta::assert_snapshot!("check", text);
}

#[test]
fn bad_files_are_unusable_and_every_problem_is_shown_at_its_place() {
    let part = "[cast.mason.part.head]\nlayer = \"gost\"\n";
    let fight = FIGHT.replace("cast = \"mason\"\nteam", "cast = \"masn\"\nteam");
    let cases: &[(&str, String, String)] = &[
        ("malformed", rules("\n[cast.x\n"), FIGHT.to_owned()),
        ("unknown_field", rules("").replace("wind-up", "windup"), FIGHT.to_owned()),
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
                 [status.hot]\nlasts = \"1s\"\nagain = \"pile\"\nbeat = { every = \"-2 ticks\", harm = { crush = 1 } }\n\
                 changes = [{ stat = \"might\", raise = 1, share = 2 }, { stat = \"wisdom\", raise = 1 }]\n\
                 when = [{ upon = \"expiry\", give = \"hot\" }]\nguard = { takes = 1.5, within = 60 }\n",
            )
            .replace("[cast.mason.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n", "")
            .replace("reasons", "stats = { might = 0 }\nreasons"),
            FIGHT.to_owned(),
        ),
        (
            "circle",
            rules(
                "\n[status.hot]\nlasts = \"1s\"\nwhen = [{ upon = \"expiry\", give = \"cold\" }]\n\
                 guard = { takes = 1.5, within = 60 }\n\
                 [status.cold]\nlasts = \"1s\"\nwhen = [{ upon = \"expiry\", give = \"hot\" }]\n\
                 [amount]\nsteps = [\"base\", \"part\", \"part\", \"rounding\"]\ncritical = { chance = 1.2, times = 2 }\n",
            ),
            FIGHT.to_owned(),
        ),
        (
            "flow",
            rules(
                "lives = { count = 0, at = \"nowhere\" }\nthresholds = { half = 1.5, low = { share = 0.2, if-it-kills = \"perhaps\" } }\n\n\
                 [topic.\"sluice.opened\"]\nby = \"whom\"\n\n\
                 [waves.pack]\ncast = \"mason\"\nsize = 0\ntimes = 2\nadds = 1\ngrows = 2\n\n\
                 [rule.one]\non = \"death.fel\"\ndo = [{ say = \"Ho!\" }]\n\
                 [rule.two]\non = \"death.fell\"\ndo = [{ say = \"Ho!\", reset = true }, { after = \"-1s\", say = \"Ho!\" }]\n\
                 [rule.three]\non = \"flag.changed\"\nprovided = { flags-up = [\"sluice\"] }\nlimit = \"per-life\"\ndo = [{ harm = { crush = 1 } }]\n",
            )
            .replace("[cast.mason.part.trunk]\nsphere = { at = [0, 0, 0], radius = 0.4 }\n", ""),
            FIGHT.to_owned(),
        ),
        (
            "rules",
            rules(
                "\n[waves.pack]\ncast = \"mason\"\nsize = 1\ntimes = 2\n\n\
                 [rule.one]\non = \"encounter.started\"\nlimit = \"per-life\"\ndo = [{ say = \"Ho!\" }]\n\
                 [rule.two]\non = \"encounter.started\"\ndo = [{ remove = true }]\n\
                 [rule.three]\non-family = \"death\"\nprovided = { direction = \"down\" }\ndo = []\n",
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
    let harder = rules.replace("harm = { crush = [12, 16] }", "harm = { crush = [22, 26] }");
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

    let (status, _, errors) = run(&["compare", "scenarios/elder.toml", "nowhere.toml"]);
    assert_eq!(status, 2);
    assert!(errors.contains("nowhere.toml cannot be read"), "{errors}");
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
