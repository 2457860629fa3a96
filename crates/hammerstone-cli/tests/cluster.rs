//! Surveys on many machines: shards of any number come to what one machine comes to, byte for byte; a shard that was stopped goes on; and
//! all of it on a real scheduler, where one is installed.

mod common;

use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::thread::sleep;
use std::time::{Duration, Instant};

use common::{hammerstone, root, unfolded};
use serde_json::Value;

/// A fight of two that takes a second and rolls: short, so that many of them are run.
const RULES: &str = r#"
[rules]
rate = 60
damage-types = ["crush"]
outcomes = ["odo-wins", "bram-wins", "time"]
[team.masons]
[team.beasts]
[attack.maul]
form = "melee"
startup = "0.1s"
active = "0.05s"
recovery = "0.05s"
damage = { crush = [1, 9] }
critical = { chance = 0.2, times = 2 }
hitboxes = [{ sphere = { at = [0, 0, 1], radius = 0.5 } }]
[template.mason]
team = "masons"
health = 15
attacks = ["maul"]
[template.mason.part.trunk]
sphere = { at = [0, 0, 0], radius = 0.4 }
[rule.odo-falls]
on = "combatant.died"
when = { subject = { team = "masons" } }
do = [{ end = "bram-wins" }]
[rule.bram-falls]
on = "combatant.died"
when = { subject = { team = "beasts" } }
do = [{ end = "odo-wins" }]
"#;

const FIGHT: &str = r#"
[scenario]
title = "Two, \"at\" the gully"
rules = "a.rules.toml"
lasts = "2s"
[combatant.odo]
template = "mason"
at = [0, 0, 0]
[combatant.bram]
template = "mason"
team = "beasts"
at = [0, 0, 1]
facing = 180
[tactics.all]
for = {}
reaction = ["0.02s", "0.2s"]
[[tactics.all.choice]]
do = { start = "maul" }
"#;

const SWEEP: &str = r#"
[sweep]
title = "A night"
seeds = 9
fights = [
    "a.toml",
    { file = "a.toml", name = "harder", seeds = 5, seed = 40, keep = ["teams"], values = {
        "attack.maul.damage.crush.1" = "5..9/2",
        "template.mason.health" = [12, 20],
    } },
]
"#;

/// A folder with the fight, and the command in it.
struct Yard(tempfile::TempDir);

impl Yard {
    fn new() -> Yard {
        let folder = tempfile::tempdir().unwrap();
        for (name, text) in [("a.rules.toml", RULES), ("a.toml", FIGHT), ("a.sweep.toml", SWEEP)] {
            fs::write(folder.path().join(name), text).unwrap();
        }
        Yard(folder)
    }

    fn at(&self, name: &str) -> PathBuf {
        self.0.path().join(name)
    }

    fn command(&self, args: &[&str]) -> Command {
        let mut command = hammerstone(args);
        command.current_dir(self.0.path());
        for name in ["SLURM_ARRAY_TASK_ID", "SLURM_JOB_ID", "JOB_COMPLETION_INDEX"] {
            command.env_remove(name);
        }
        command
    }

    /// The exit status, the answer, and what is said beside it in one line.
    fn run(&self, args: &[&str]) -> (i32, String, String) {
        let out = self.command(args).output().unwrap();
        let text = |bytes| String::from_utf8(bytes).unwrap();
        (out.status.code().unwrap(), text(out.stdout), unfolded(&text(out.stderr)))
    }

    fn fine(&self, args: &[&str]) -> String {
        let (status, answer, beside) = self.run(args);
        assert_eq!(status, 0, "{args:?}: {beside}");
        answer
    }

    /// All shards of a survey, and their files.
    fn shards(&self, survey: &[&str], of: u64) -> Vec<String> {
        let part = |shard: u64| format!("part-{shard}-of-{of}.csv");
        for shard in 1..=of {
            self.fine(&[survey, &["--shard", &format!("{shard}/{of}"), "-o", &part(shard)]].concat());
        }
        (1..=of).map(part).collect()
    }

    fn gather(&self, parts: &[String], more: &[&str]) -> (i32, String, String) {
        let parts: Vec<&str> = parts.iter().map(String::as_str).collect();
        self.run(&[&["survey"][..], more, &["--gather"], &parts].concat())
    }
}

/// The same table, JSON, picture and lines of runs, whatever the number of shards and their order.
#[test]
fn shards_of_any_number_come_to_the_same() {
    let yard = Yard::new();
    let surveys: [(&[&str], &[u64]); 3] = [
        (&["survey", "a.toml", "--seeds", "60", "--seed", "17"], &[1, 3, 7, 64]),
        (
            &[
                "survey",
                "a.toml",
                "--seeds",
                "8",
                "--vary",
                "template.mason.health=10,30",
                "--vary",
                "attack.maul.startup=0.1s,0.2s",
            ],
            &[5],
        ),
        (&["survey", "a.sweep.toml"], &[4]),
    ];
    for (survey, numbers) in surveys {
        let is_sweep = survey[1] == "a.sweep.toml";
        let pictures = if is_sweep { vec!["-a", "-harder"] } else { vec![""] };
        let files = |name: &str| -> Vec<Vec<u8>> {
            let of = |ending: &str| fs::read(yard.at(&ending.replace("NAME", name))).unwrap();
            let each =
                |picture: &&str| [of(&format!("NAME{picture}.svg")), of(&format!("NAME{picture}.csv"))];
            pictures.iter().flat_map(each).collect()
        };
        let table = yard.fine(&[survey, &["-o", "one.svg", "--csv", "one.csv"]].concat());
        let json = yard.fine(&[survey, &["--format", "json", "--threads", "1"]].concat());
        let one = files("one");
        assert!(table.contains("Two, \"at\" the gully"), "{table}");
        for &of in numbers {
            let mut parts = yard.shards(survey, of);
            parts.reverse();
            let third = parts.len() / 3;
            parts.rotate_left(third);
            let (status, found, beside) = yard.gather(&parts, &["-o", "all.svg", "--csv", "all.csv"]);
            assert_eq!(status, 0, "{beside}");
            assert!(found == table, "{of} shards: {found}\n{table}");
            assert!(files("all") == one, "{of} shards");
            assert!(yard.gather(&parts, &["--format", "json"]).1 == json, "{of} shards");
        }
    }
}

/// What is missing, there twice, of another survey, cut or changed is told, with the mend.
#[test]
fn parts_that_do_not_fit_are_told() {
    let yard = Yard::new();
    let survey = ["survey", "a.toml", "--seeds", "40"];
    let parts = yard.shards(&survey, 8);
    let (status, table, beside) = yard.gather(&[&parts[..2], &parts[3..]].concat(), &[]);
    assert!(status == 1 && table.starts_with("Two, \"at\" the gully: 35 runs"), "{table}");
    assert!(beside.contains("5 of 40 runs are missing: 11 to 15"), "{beside}");
    assert!(beside.contains("run what is missing of 8 shards: 3"), "{beside}");
    let (status, table, beside) = yard.gather(&[&parts[..], &parts[4..5]].concat(), &[]);
    assert!(status == 1 && table == yard.fine(&survey), "{table}");
    assert!(
        beside.contains("runs 21 to 25 are in several parts: part-5-of-8.csv and part-5-of-8.csv"),
        "{beside}"
    );

    // Of other seeds, another file, or no part at all.
    for other in [
        &["survey", "a.toml", "--seeds", "41"][..],
        &["survey", "a.toml", "--seeds", "40", "--set", "template.mason.health=16"],
    ] {
        let part = ["--shard", "1/8", "-o", "other.csv"];
        let _ = fs::remove_file(yard.at("other.csv"));
        yard.fine(&[other, &part].concat());
        let (status, table, beside) = yard.gather(&[&parts[1..], &["other.csv".to_owned()]].concat(), &[]);
        assert!(status == 2 && table.is_empty(), "{table}");
        assert!(beside.contains("1 of 8 parts are of another survey than the others"), "{beside}");
        assert!(beside.contains("other.csv: `Two, \"at\" the gully`, 4"), "{beside}");
        // It is not written over, either.
        let (status, _, beside) = yard.run(&[&survey[..], &part].concat());
        assert!(status == 2 && beside.contains("it is a part of another survey"), "{beside}");
    }
    let (status, _, beside) = yard.run(&[&survey[..], &["--shard", "2/8", "-o", "part-1-of-8.csv"]].concat());
    assert!(status == 2 && beside.contains("it is shard 1 of 8 of this survey, and not 2 of 8"), "{beside}");
    let (status, _, beside) = yard.gather(&["a.toml".to_owned()], &[]);
    assert!(status == 2 && beside.contains("a.toml: it is no part of a survey"), "{beside}");
    let (status, _, beside) = yard.gather(&["nowhere.csv".to_owned()], &[]);
    assert!(status == 2 && beside.contains("name parts that are there"), "{beside}");

    // A part cut anywhere is refused, and the same command completes it.
    let whole = fs::read(yard.at(&parts[0])).unwrap();
    let head = whole.iter().enumerate().filter(|(_, byte)| **byte == b'\n').nth(1).unwrap().0;
    for at in [1, head - 3, head, head + 1, head + 200, whole.len() / 2, whole.len() - 9, whole.len() - 1] {
        fs::write(yard.at(&parts[0]), &whole[..at]).unwrap();
        let (status, _, beside) = yard.gather(&parts, &[]);
        let is_cut = at < whole.len() - 1;
        assert_eq!(status, if is_cut { 2 } else { 0 }, "{at}: {beside}");
        let (status, _, beside) = yard.run(&[&survey[..], &["--shard", "1/8", "-o", &parts[0]]].concat());
        assert_eq!(status, 0, "{at}: {beside}");
        assert!(fs::read(yard.at(&parts[0])).unwrap() == whole, "{at}");
    }
    assert!(!yard.at("part-1-of-8.csv.partial").exists());
    // Of a part that is cut and an unfinished one, it goes on with the farther.
    for (cut, unfinished) in [(whole.len() - 9, head + 200), (head + 200, whole.len() - 9)] {
        fs::write(yard.at(&parts[0]), &whole[..cut]).unwrap();
        fs::write(yard.at("part-1-of-8.csv.partial"), &whole[..unfinished]).unwrap();
        let (status, _, beside) = yard.run(&[&survey[..], &["--shard", "1/8", "-o", &parts[0]]].concat());
        assert!(status == 0 && beside.contains("goes on with run 5 of 1 to 5"), "{beside}");
        assert!(fs::read(yard.at(&parts[0])).unwrap() == whole);
    }
    let text = String::from_utf8(whole).unwrap();
    let place = text.find(",attack,").unwrap() - 5;
    let mut changed = text.clone().into_bytes();
    changed[place] ^= 1;
    fs::write(yard.at(&parts[0]), changed).unwrap();
    let (status, _, beside) = yard.gather(&parts, &[]);
    assert!(status == 2 && beside.contains("run 1 is not as it was written"), "{beside}");
    assert!(beside.contains("remove it, and run its shard again"), "{beside}");
}

/// A shard that is killed leaves no part; the same command goes on, and the part is as if nothing had happened.
#[test]
fn a_shard_that_is_killed_goes_on() {
    let yard = Yard::new();
    let args = ["survey", "a.toml", "--seeds", "900", "--shard", "2/3", "--threads", "1", "-o"];
    yard.fine(&[&args[..], &["whole.csv"]].concat());
    let partial = yard.at("part.csv.partial");
    let mut kills = 0;
    for _ in 0..100 {
        let before = fs::metadata(&partial).map_or(0, |of| of.len());
        let mut child =
            yard.command(&[&args[..], &["part.csv"]].concat()).stderr(Stdio::null()).spawn().unwrap();
        let begun = Instant::now();
        let is_more = || fs::metadata(&partial).is_ok_and(|of| of.len() > before + 8000);
        while child.try_wait().unwrap().is_none() && !is_more() && begun.elapsed() < Duration::from_secs(60) {
            sleep(Duration::from_millis(2));
        }
        if child.try_wait().unwrap().is_some() {
            break;
        }
        // A second process does not write into it meanwhile.
        if kills == 0 {
            let (status, _, beside) = yard.run(&[&args[..], &["part.csv"]].concat());
            assert!(status == 2 && beside.contains("is being written by another process"), "{beside}");
        }
        child.kill().unwrap();
        child.wait().unwrap();
        kills += 1;
        assert!(!yard.at("part.csv").exists());
    }
    assert!(kills > 0);
    assert!(fs::read(yard.at("part.csv")).unwrap() == fs::read(yard.at("whole.csv")).unwrap());
    let (status, _, beside) = yard.run(&[&args[..], &["part.csv"]].concat());
    assert!(status == 0 && beside.contains("part.csv is whole already: runs 301 to 600 of 900"), "{beside}");
}

/// The number of a shard comes from what a scheduler sets; where that does not say it, it is asked for.
#[test]
fn a_scheduler_says_which_shard() {
    let yard = Yard::new();
    let ask = |shard: &[&str], set: &[(&str, &str)]| {
        let _ = fs::remove_file(yard.at("part.csv"));
        let args = [&["survey", "a.toml", "--seeds", "16", "-o", "part.csv", "--shard"][..], shard].concat();
        let out = yard.command(&args).envs(set.iter().copied()).output().unwrap();
        (out.status.code().unwrap(), unfolded(&String::from_utf8(out.stderr).unwrap()))
    };
    let array = |id, min, max, count| {
        [
            ("SLURM_ARRAY_TASK_ID", id),
            ("SLURM_ARRAY_TASK_MIN", min),
            ("SLURM_ARRAY_TASK_MAX", max),
            ("SLURM_ARRAY_TASK_COUNT", count),
        ]
    };
    let wrote = "wrote runs 5 to 8 of 16 to part.csv";
    assert_eq!(ask(&[], &array("2", "1", "4", "4")), (0, wrote.to_owned()));
    assert_eq!(ask(&["4"], &array("2", "2", "2", "1")), (0, wrote.to_owned()));
    assert_eq!(ask(&["4"], &[("JOB_COMPLETION_INDEX", "1")]), (0, wrote.to_owned()));
    for (shard, set, says) in [
        (&[][..], &array("2", "2", "2", "1")[..], "say of how many: --shard 8"),
        (&[], &array("1", "1", "5", "2"), "say of how many: --shard 8"),
        (&[], &[("JOB_COMPLETION_INDEX", "1")], "say of how many: --shard 8"),
        (&["4"], &[], "no scheduler says which shard this is"),
        (&["4"], &array("9", "1", "9", "9"), "there is no shard 9 of 4"),
        (&["0/4"], &[], "give I/N"),
        (&["5/4"], &[], "there is no shard 5 of 4"),
        (&["2/4", "--until", "2%"], &[], "cannot be used with"),
    ] {
        let (status, beside) = ask(shard, set);
        assert!(status == 2 && beside.contains(says), "{shard:?} {set:?}: {beside}");
    }
    let (status, _, beside) = yard.run(&["survey", "a.toml", "--shard", "1/2", "-o", "part.png"]);
    assert!(status == 2 && beside.contains("a shard is written to a file that ends in .csv"), "{beside}");
}

/// A plan counts what is run, and says how long it takes and how much it fills.
#[test]
fn a_plan_counts_what_is_run() {
    let yard = Yard::new();
    let plan: Value = serde_json::from_str(&yard.fine(&[
        "survey",
        "a.sweep.toml",
        "--plan",
        "--format",
        "json",
        "--processors",
        "64",
    ]))
    .unwrap();
    assert_eq!(plan["runs"], 9 + 5 * 6);
    assert_eq!(plan["fights"][1]["points"], 6);
    let parts = yard.shards(&["survey", "a.sweep.toml"], 1);
    let filled = fs::metadata(yard.at(&parts[0])).unwrap().len() as f64 / 1.0e6;
    let told = plan["megabytes"].as_f64().unwrap();
    // All but the head, which is no run's.
    assert!(told < filled && told > filled * 0.5, "{told} {filled}");
    let one = plan["takes"][0]["seconds"].as_f64().unwrap();
    let many = plan["takes"].as_array().unwrap().iter().find(|takes| takes["processors"] == 64).unwrap();
    assert!(one > 0.0 && (many["seconds"].as_f64().unwrap() * 39.0 - one).abs() < 1.0e-9, "{plan}");
    assert!(yard.fine(&["survey", "a.sweep.toml", "--plan"]).contains("one machine is enough"));
    let much = yard.fine(&["survey", "a.toml", "--seeds", "1000000000", "--plan"]);
    let shards = much.split_once("as an array of ").and_then(|(_, rest)| rest.split_once(',')).unwrap().0;
    assert!(shards.parse::<u32>().unwrap() > 10, "{much}");
    assert!(
        much.contains(&format!("survey a.toml --seeds 1000000000 --shard {shards} -o part-$TASK.csv")),
        "{much}"
    );
}

/// What is wrong with a sweep is said at its place.
#[test]
fn mistakes_in_sweeps_are_told() {
    let yard = Yard::new();
    for (from, to, says) in [
        ("seeds = 9", "seeds = 0", "0 is not from 1 to 1000000000"),
        ("seeds = 9", "seats = 9", "unknown field `seats`"),
        ("\"a.toml\",", "\"b.toml\",", "b.toml cannot be read"),
        ("name = \"harder\", ", "", "two fights are called `a`"),
        ("name = \"harder\"", "name = \"../a\"", "cannot be a part of a file's name"),
        ("[\"teams\"]", "[\"team\"]", "did you mean `teams`?"),
        ("\"5..9/2\"", "\"5..9\"", "these are no values"),
        ("\"5..9/2\"", "\"9..5/2\"", "the last value no less than the first"),
        ("[12, 20]", "[]", "these are no values"),
        ("template.mason.health", "template.mason.wealth", "did you mean `health`?"),
        ("[sweep]", "[swap]", "the field `sweep` is missing"),
    ] {
        fs::write(yard.at("a.sweep.toml"), SWEEP.replacen(from, to, 1)).unwrap();
        let (status, _, beside) = yard.run(&["survey", "a.sweep.toml"]);
        assert!(status == 2 && beside.contains(says), "{to}: {beside}");
    }
    fs::write(yard.at("a.sweep.toml"), SWEEP).unwrap();
    let (status, _, beside) = yard.run(&["survey", "a.sweep.toml", "--seeds", "4"]);
    assert!(status == 2 && beside.contains("--seeds is for one fight"), "{beside}");
    let (status, _, beside) = yard.run(&["run", "a.sweep.toml"]);
    assert!(status == 2 && beside.contains("is a sweep, and no fight"), "{beside}");
    fs::rename(yard.at("a.sweep.toml"), yard.at("sweep.toml")).unwrap();
    assert!(yard.fine(&["survey", "--plan", "sweep.toml"]).starts_with("A night: 39 runs"));
    // Folders of fights may have sweeps in them.
    for verb in ["test", "check"] {
        let (_, answer, beside) = yard.run(&[verb, "."]);
        assert!(
            answer.contains("a.toml") && !format!("{answer}{beside}").contains("sweep"),
            "{answer}{beside}"
        );
    }
}

/// The columns of parts are documented, each with its type.
#[test]
fn columns_are_documented() {
    let page = fs::read_to_string(root().join("docs/cluster.md")).unwrap();
    let yard = Yard::new();
    let parts = yard.shards(&["survey", "a.toml", "--seeds", "2"], 1);
    let part = fs::read_to_string(yard.at(&parts[0])).unwrap();
    let columns: Vec<&str> = part.lines().next().unwrap().split(',').collect();
    let documented: Vec<&str> = page
        .lines()
        .filter_map(|line| line.strip_prefix("| `")?.split_once("` | "))
        .filter(|(_, rest)| ["whole number", "text", "JSON"].iter().any(|sort| rest.starts_with(sort)))
        .map(|(name, _)| name)
        .collect();
    assert_eq!(documented, columns);
}

/// What a scheduler says of itself; the cluster stops with it.
struct Cluster(PathBuf);

impl Drop for Cluster {
    fn drop(&mut self) {
        let _ = Command::new(root().join("tools/one-node-cluster")).arg("stop").arg(&self.0).status();
    }
}

impl Cluster {
    fn call(&self, folder: &Path, program: &str, args: &[&str]) -> String {
        let out = Command::new(program)
            .args(args)
            .env("SLURM_CONF", self.0.join("slurm.conf"))
            .current_dir(folder)
            .output()
            .unwrap();
        let text = String::from_utf8(out.stdout).unwrap();
        assert!(out.status.success(), "{program} {args:?}: {text}{}", String::from_utf8_lossy(&out.stderr));
        text.trim().to_owned()
    }

    /// Until no task of a job is left.
    fn wait(&self, folder: &Path, job: &str) {
        let begun = Instant::now();
        while !self.call(folder, "squeue", &["--noheader", "--format=%i", "--jobs", job]).is_empty() {
            assert!(begun.elapsed() < Duration::from_secs(300), "job {job} does not end");
            sleep(Duration::from_millis(200));
        }
    }
}

/// An array of eight on a real scheduler, of which one task is killed; what is missing is submitted again, and all of it is what one machine
/// comes to.
#[test]
fn an_array_on_a_real_scheduler() {
    let yard = Yard::new();
    let cluster = Cluster(yard.at("slurm"));
    let started = Command::new(root().join("tools/one-node-cluster")).arg("start").arg(&cluster.0).output();
    match started {
        Ok(out) if out.status.success() => {}
        Ok(out) if out.status.code() == Some(3) => {
            eprintln!("skipped: {}", String::from_utf8_lossy(&out.stderr).trim());
            return;
        }
        Ok(out) => panic!("{}", String::from_utf8_lossy(&out.stderr)),
        Err(error) => {
            eprintln!("skipped: tools/one-node-cluster does not run here: {error}");
            return;
        }
    }
    eprintln!("on a real scheduler: {}", cluster.call(yard.0.path(), "sbatch", &["--version"]));
    let survey = ["survey", "a.toml", "--seeds", "4000"];
    // The script of docs/cluster.md, with this command and this survey.
    let page = fs::read_to_string(root().join("docs/cluster.md")).unwrap();
    let script =
        common::blocks(&page).into_iter().find(|(sort, _)| sort == "sh array").unwrap().1.join("\n") + "\n";
    assert!(script.contains("hammerstone survey night.sweep.toml"), "{script}");
    let script = script
        .replace(
            "hammerstone survey night.sweep.toml",
            &format!("{} {}", env!("CARGO_BIN_EXE_hammerstone"), survey.join(" ")),
        )
        .replace("--array=1-200", "--array=1-8")
        .replace("--shard 200", "--shard 8");
    fs::write(yard.at("array.sh"), script).unwrap();
    let folder = yard.0.path();
    let job = cluster.call(folder, "sbatch", &["--parsable", "array.sh"]);
    // The fifth is killed while it runs.
    let begun = Instant::now();
    let partial = yard.at("part-5.csv.partial");
    while !fs::metadata(&partial).is_ok_and(|of| of.len() > 20_000) {
        assert!(
            begun.elapsed() < Duration::from_secs(300) && !yard.at("part-5.csv").exists(),
            "the fifth cannot be caught"
        );
        sleep(Duration::from_millis(5));
    }
    cluster.call(folder, "scancel", &["--full", "--signal=KILL", &format!("{job}_5")]);
    cluster.wait(folder, &job);
    let parts = || -> Vec<String> {
        (1..=8).map(|shard| format!("part-{shard}.csv")).filter(|part| yard.at(part).exists()).collect()
    };
    assert_eq!(parts().len(), 7, "{:?}", parts());
    let (status, _, beside) = yard.gather(&parts(), &[]);
    assert!(status == 1 && beside.contains("500 of 4000 runs are missing: 2001 to 2500"), "{beside}");
    assert!(beside.contains("run what is missing of 8 shards: 5"), "{beside}");
    let again = cluster.call(folder, "sbatch", &["--parsable", "--array=5", "array.sh"]);
    cluster.wait(folder, &again);
    let log = fs::read_to_string(yard.at(&format!("night-{again}_5.log"))).unwrap();
    assert!(log.contains("goes on with run") && log.contains("wrote runs 2001 to 2500 of 4000"), "{log}");
    let (status, gathered, beside) = yard.gather(&parts(), &[]);
    assert!(status == 0, "{beside}");
    assert!(gathered == yard.fine(&survey), "{gathered}");
}
