//! Criterion's figures for stages of the tick: `cargo bench` in this folder.

use criterion::{BatchSize, Criterion, criterion_group, criterion_main};
use hammerstone_bench::{Crowd, Sort};

fn stages(c: &mut Criterion) {
    for n in [1_000, 10_000] {
        let mut crowd = Crowd::new(Sort::Rush, n);
        crowd.warm_up(60);
        c.bench_function(&format!("detection, rush of {n}"), |b| b.iter(|| crowd.fight.detect_again()));
        crowd.orders();
        let saved = crowd.fight.save().expect("nothing interrupts the crowd");
        c.bench_function(&format!("whole tick, rush of {n}"), |b| {
            b.iter_batched(
                || crowd.fight.restore(&saved).expect("the state is of this ruleset"),
                |()| (),
                BatchSize::PerIteration,
            )
        });
    }
}

criterion_group!(benches, stages);
criterion_main!(benches);
