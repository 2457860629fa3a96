//! What a report costs beside a recorded run: `cargo run --profile measured --bin report` in this folder.

use std::hint::black_box;
use std::io::sink;

use hammerstone_bench::{Crowd, Sort, interleaved};
use hammerstone_record::{Feed, Format, Names};
use hammerstone_view::Reporter;

/// A minute of so many.
const COMBATANTS: usize = 200;
const TICKS: u32 = 3600;

/// Runs it, with whatever is done after each tick.
fn run(keep: bool, mut after: impl FnMut(&Crowd, &Names)) -> (Crowd, Names) {
    let mut crowd = Crowd::new(Sort::Rush, COMBATANTS);
    crowd.fight.keep_ledgers(keep);
    crowd.fight.keep_deliveries(keep);
    let mut names = Names::new();
    for _ in 0..TICKS {
        crowd.orders();
        crowd.tick();
        names.learn(crowd.fight.rules(), &crowd.fight.facts());
        after(&crowd, &names);
    }
    (crowd, names)
}

fn main() {
    let times = interleaved(
        5,
        &mut [
            &mut || drop(black_box(run(false, |_, _| ()))),
            &mut || {
                let mut feed = Feed::new(sink(), Format::JsonLines);
                let written = |crowd: &Crowd, names: &Names| {
                    feed.write(crowd.fight.rules(), names, &crowd.fight.facts()).expect("a sink takes all");
                };
                drop(black_box(run(true, written)));
            },
            &mut || {
                let mut reporter = None;
                let (crowd, names) = run(true, |crowd, names| {
                    reporter
                        .get_or_insert_with(|| Reporter::new(crowd.fight.rules()))
                        .observe(&crowd.fight, names);
                });
                let page = reporter.expect("ticks ran");
                page.write(&mut sink(), "A minute", 1, (crowd.fight.rules(), &names), &[])
                    .expect("a sink takes all");
            },
        ],
    );
    let [bare, recorded, reported] = times[..] else { unreachable!("three were measured") };
    println!(
        "{COMBATANTS} combatants, {TICKS} ticks, seconds: bare {bare:.2}, recorded {recorded:.2}, reported {reported:.2}"
    );
    println!("report ÷ recorded run: {:.2}", reported / recorded);
}
