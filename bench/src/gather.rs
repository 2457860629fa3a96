//! What it takes to put parts of a survey together: `cargo run --profile measured --bin gather -- RUNS FOLDER` in this folder. It writes
//! eight parts of duels that differ, gathers them, and says how long each took, what they fill, and the most memory that it had.

use std::fs::{self, File};
use std::io::{BufReader, BufWriter};
use std::path::PathBuf;
use std::time::Instant;

use hammerstone_record::{
    Kept, PartHead, PartReader, PartWriter, PointTally, Ran, Running, Surveyed, SurveyedFight, fingerprint, gather,
};
use hammerstone_scenario::{Options, Play, Scenario, Wanted};

const PARTS: u64 = 8;
/// So many fights are run; the others are like them with other numbers.
const REAL: u64 = 400;

fn duel() -> Scenario {
    let scenarios = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../scenarios");
    let read = |name: &str| fs::read_to_string(scenarios.join(name)).expect("a shipped file");
    let open = |wanted: Wanted<'_>| Ok((wanted.name().to_owned(), read(wanted.name()).into_bytes()));
    Scenario::read("spar.toml", &read("spar.toml"), &open).unwrap_or_else(|unusable| panic!("{}", unusable.text()))
}

fn ran(scenario: &Scenario, seed: u64) -> Ran {
    let mut play = Play::new(scenario, Options { seed: Some(seed), ..Options::default() });
    let mut running = Running::new();
    play.through(&mut [&mut running]).expect("it ticks");
    running.finish(&play.encounter, &play.run.names, seed)
}

/// A run like a real one, with other numbers.
fn like(real: &Ran, number: u64) -> Ran {
    let mut ran = real.clone();
    let other = (number.wrapping_mul(0x9E37_79B9_7F4A_7C15) >> 52) as i64;
    ran.seed = number;
    ran.ticks += other as u32 % 1000;
    for fighter in &mut ran.fighters {
        fighter.dealt += other % 900;
        fighter.taken += other % 700;
        fighter.stunned += other as u32 % 300;
        fighter.died = fighter.died.map(|died| died + other as u32 % 1000);
    }
    ran
}

/// The most memory that this process had, in megabytes, where the system tells.
fn most_memory() -> Option<f64> {
    let status = fs::read_to_string("/proc/self/status").ok()?;
    let line = status.lines().find_map(|line| line.strip_prefix("VmHWM:"))?;
    let kilobytes: f64 = line.trim().strip_suffix("kB")?.trim().parse().ok()?;
    Some(kilobytes / 1024.0)
}

fn main() {
    let mut args = std::env::args().skip(1);
    let runs: u64 = args.next().and_then(|text| text.parse().ok()).unwrap_or(200_000);
    let folder = PathBuf::from(args.next().unwrap_or_else(|| "target/gathered".to_owned()));
    fs::create_dir_all(&folder).expect("a folder");
    let scenario = duel();
    let begun = Instant::now();
    let real: Vec<Ran> = (0..REAL).map(|seed| ran(&scenario, seed)).collect();
    let each = begun.elapsed().as_secs_f64() / REAL as f64;
    println!("a duel takes {:.2} ms on one processor", each * 1000.0);
    let survey = Surveyed {
        version: "bench".to_owned(),
        fingerprint: fingerprint([]),
        title: scenario.title.clone(),
        sweep: false,
        fights: vec![SurveyedFight {
            name: "spar".to_owned(),
            title: scenario.title.clone(),
            tactics: true,
            seed: 0,
            seeds: runs,
            varied: Vec::new(),
            points: vec![Vec::new()],
            kept: Kept::ALL,
        }],
    };
    let heads: Vec<PartHead> = (1..=PARTS).map(|shard| PartHead::new(survey.clone(), shard, PARTS)).collect();
    let path = |part: usize| folder.join(format!("part-{part}.csv"));
    let (begun, mut bytes) = (Instant::now(), 0);
    for (part, head) in heads.iter().enumerate() {
        let file = BufWriter::with_capacity(1 << 18, File::create(path(part)).expect("a part"));
        let mut out = PartWriter::new(file, head.clone()).expect("it is written");
        for number in head.first..=head.last {
            out.write(number, &like(&real[(number % REAL) as usize], number)).expect("it is written");
        }
        drop(out.finish().expect("it is written"));
        bytes += fs::metadata(path(part)).expect("a part").len();
    }
    let wrote = begun.elapsed().as_secs_f64();
    println!("{runs} runs in {PARTS} parts: {:.2} GB, {:.0} bytes a run", bytes as f64 / 1.0e9, bytes as f64 / runs as f64);
    println!("written in {wrote:.1} s: {:.0} runs a second", runs as f64 / wrote);
    let open = |part: usize| PartReader::open(BufReader::with_capacity(1 << 18, File::open(path(part))?));
    let numbers: Vec<_> = heads.iter().map(PartHead::numbers).collect();
    let (begun, mut tally) = (Instant::now(), PointTally::default());
    let gathered = gather(&numbers, runs, open, |_, ran| tally.add(&ran)).expect("they are whole");
    let point = tally.finish(Vec::new()).expect("there are runs");
    let took = begun.elapsed().as_secs_f64();
    assert!(gathered.runs == runs && point.runs as u64 == runs && gathered.missing.is_empty());
    println!("gathered in {took:.1} s: {:.0} runs a second", runs as f64 / took);
    println!("median {:.2} s, exact to {} s", point.seconds.middle, point.seconds.within);
    if let Some(most) = most_memory() {
        println!("the most memory: {most:.0} MB");
    }
    fs::remove_dir_all(&folder).expect("it is removed");
}
