//! Criterion's figures for stages of the tick: `cargo bench` in this folder.

use criterion::{BatchSize, Criterion, criterion_group, criterion_main};
use hammerstone_bench::{Crowd, Sort};

fn stages(c: &mut Criterion) {
    for n in [1_000, 10_000] {
        let mut crowd = Crowd::new(Sort::Rush, n);
        crowd.warm_up(60);
        c.bench_function(&format!("detection, rush of {n}"), |b| b.iter(|| crowd.fight.detect_again()));
        // The same tick again and again, with its orders given.
        crowd.orders();
        let saved = crowd.fight.save().expect("nothing interrupts the crowd");
        let Crowd { fight, hooks, heard, .. } = &mut crowd;
        let fight = std::cell::RefCell::new(fight);
        c.bench_function(&format!("whole tick, rush of {n}"), |b| {
            b.iter_batched(
                || fight.borrow_mut().restore(&saved).expect("the state is of this ruleset"),
                |()| fight.borrow_mut().tick_with(hooks, heard).expect("the crowd fights on"),
                BatchSize::PerIteration,
            );
        });
    }
}

criterion_group!(benches, stages);
criterion_main!(benches);
