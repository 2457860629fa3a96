//! What fixed worlds have to do, in numbers, held against those that are committed: a change that makes more work shows, on any machine.
//! One test alone in its process, since it counts every piece of memory. `HAMMERSTONE_WRITE=1` writes them anew.

use std::alloc::System;
use std::fmt::Write;

use stats_alloc::{INSTRUMENTED_SYSTEM, StatsAlloc};
use testkit::worlds::{WORLDS, run};

#[global_allocator]
static ALLOCATIONS: &StatsAlloc<System> = &INSTRUMENTED_SYSTEM;

/// Ticks after which a world has all the memory that it needs.
const STEADY: usize = 120;

/// A line for each world: all counts, and the allocations of its steady ticks.
fn counted() -> String {
    let mut all = String::new();
    for name in WORLDS {
        let (mut ticks, mut steady) = (0, 0);
        let work = run(name, |tick| {
            let pieces = || ALLOCATIONS.stats().allocations + ALLOCATIONS.stats().reallocations;
            let before = pieces();
            tick();
            steady += if ticks >= STEADY { pieces() - before } else { 0 };
            ticks += 1;
        });
        let work = work.expect("the world is there");
        let sums = work.sums.iter().map(|(name, sum)| format!("{sum} {name}"));
        let sums = sums.collect::<Vec<_>>().join(", ");
        let memory =
            if ticks > 0 { format!(", {steady} allocations once it is steady") } else { String::new() };
        writeln!(all, "{name}: {sums}{memory}; state {:016x}", work.checksum).expect("a text");
    }
    all
}

#[test]
fn fixed_worlds_have_as_much_to_do_as_before() {
    the_worlds_have_work_of_every_sort();
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/golden/work.txt");
    let now = counted();
    assert_eq!(now, counted(), "it is counted the same twice");
    if std::env::var_os("HAMMERSTONE_WRITE").is_some() {
        std::fs::write(path, &now).expect("a file");
    }
    let before = std::fs::read_to_string(path).expect("the counts");
    assert_eq!(now, before, "HAMMERSTONE_WRITE=1 writes them anew, if that is meant");
}

/// A sort of work that no world has would not be watched.
fn the_worlds_have_work_of_every_sort() {
    let all: Vec<_> = WORLDS.iter().filter_map(|name| run(name, |tick| tick())).collect();
    for place in 0..all[0].sums.len() {
        assert!(all.iter().any(|work| work.sums[place].1 > 0), "no {}", all[0].sums[place].0);
    }
    assert_eq!(run("hush", |tick| tick()), None);
}
