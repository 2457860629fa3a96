//! What a report costs beside a recorded run: `cargo run --profile measured --bin report` in this folder.

use std::hint::black_box;
use std::io::sink;

use hammerstone_bench::{Crowd, Sort, interleaved};
use hammerstone_record::{Feed, Format, Record, Run};
use hammerstone_view::{Heading, Reporter};

/// A minute of so many.
const COMBATANTS: usize = 200;
const TICKS: u32 = 3600;

/// Runs it, with whatever is done after each tick.
fn run(keep: bool, mut after: impl FnMut(&Crowd, &Run)) -> (Crowd, Run) {
    let mut crowd = Crowd::new(Sort::Rush, COMBATANTS);
    crowd.fight.keep_ledgers(keep);
    crowd.fight.keep_deliveries(keep);
    let mut run = Run::new();
    for _ in 0..TICKS {
        crowd.orders();
        crowd.tick();
        run.observe(&crowd.fight);
        after(&crowd, &run);
    }
    (crowd, run)
}

fn main() {
    let times = interleaved(
        5,
        &mut [
            &mut || drop(black_box(run(false, |_, _| ()))),
            &mut || {
                let mut feed = Feed::new(sink(), Format::JsonLines);
                let written = |crowd: &Crowd, run: &Run| {
                    feed.write(&run.tick(&crowd.fight)).expect("a sink takes all");
                };
                drop(black_box(run(true, written)));
            },
            &mut || {
                let mut reporter = None;
                let (crowd, followed) = run(true, |crowd, run| {
                    reporter
                        .get_or_insert_with(|| Reporter::new(crowd.fight.rules()))
                        .observe(&run.tick(&crowd.fight));
                });
                let page = reporter.expect("ticks ran");
                let heading = Heading { title: "A minute", seed: 1, checks: &[] };
                page.write(&mut sink(), &heading, crowd.fight.rules(), &followed.names)
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
