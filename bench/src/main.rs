//! Prints the table of ratios: `cargo run --profile measured --bin figures` in this folder.

use std::alloc::{GlobalAlloc, Layout, System};
use std::hint::black_box;
use std::sync::atomic::{AtomicU64, AtomicUsize, Ordering};
use std::time::Instant;

use hammerstone::Saved;
use hammerstone::attack::Damage;
use hammerstone::hall::Hall;
use hammerstone::prelude::*;
use hammerstone::status::Pulse;
use hammerstone_bench::level::{BODIES, Flights, boxes};
use hammerstone_bench::motion::Troupe;
use hammerstone_bench::{AllSteps, BONES, Bones, Crowd, Ossuary, Scan, Sort, interleaved};

/// Counts allocations.
struct Counting;

static ALLOCATIONS: AtomicU64 = AtomicU64::new(0);
/// Bytes that are held.
static HELD: AtomicUsize = AtomicUsize::new(0);

// The only way to count allocations is to be the allocator; the library itself forbids `unsafe`.
unsafe impl GlobalAlloc for Counting {
    unsafe fn alloc(&self, layout: Layout) -> *mut u8 {
        ALLOCATIONS.fetch_add(1, Ordering::Relaxed);
        HELD.fetch_add(layout.size(), Ordering::Relaxed);
        unsafe { System.alloc(layout) }
    }

    unsafe fn dealloc(&self, pointer: *mut u8, layout: Layout) {
        HELD.fetch_sub(layout.size(), Ordering::Relaxed);
        unsafe { System.dealloc(pointer, layout) }
    }

    unsafe fn realloc(&self, pointer: *mut u8, layout: Layout, size: usize) -> *mut u8 {
        ALLOCATIONS.fetch_add(1, Ordering::Relaxed);
        HELD.fetch_add(size.wrapping_sub(layout.size()), Ordering::Relaxed);
        unsafe { System.realloc(pointer, layout, size) }
    }
}

#[global_allocator]
static ALLOCATOR: Counting = Counting;

/// Milliseconds of a whole tick and of detection, and parts touched, in one crowd; beside a scan of as many parts.
struct Row {
    n: usize,
    whole: f64,
    detection: f64,
    scan: f64,
    touches: f64,
    swings: f64,
}

fn measure(sort: Sort, n: usize, rounds: usize) -> Row {
    let mut crowd = Crowd::new(sort, n);
    crowd.warm_up(60);
    let scan = Scan::new(n * 2);
    let (mut whole, mut detections, mut scans) = (Vec::new(), Vec::new(), Vec::new());
    let (mut touches, mut swings) = (0, 0);
    for _ in 0..rounds {
        crowd.orders();
        let times = interleaved(1, &mut [&mut || crowd.tick()]);
        whole.push(times[0]);
        let times = interleaved(
            1,
            &mut [&mut || touches += black_box(crowd.fight.detect_again()), &mut || {
                black_box((0..10).map(|_| black_box(&scan).run()).sum::<u32>());
            }],
        );
        swings += crowd.fight.view().swings().count();
        detections.push(times[0]);
        scans.push(times[1] / 10.0);
    }
    let median = hammerstone_bench::median;
    Row {
        n,
        whole: median(whole),
        detection: median(detections),
        scan: median(scans),
        touches: touches as f64 / rounds as f64,
        swings: swings as f64 / rounds as f64,
    }
}

/// A section of the table: its name for the command line, and what prints its rows.
type Section = (&'static str, fn(&Effort));

const SECTIONS: [Section; 9] = [
    ("crowds", crowds),
    ("memory", memory),
    ("amounts", amounts),
    ("delivery", delivery),
    ("scale", scale),
    ("bones", bones),
    ("level", level),
    ("motion", motion),
    ("records", records),
];

/// How much is run: all of it for figures to go by, or a little to see that it runs.
struct Effort {
    crowd: usize,
    rounds: usize,
}

const FULL: Effort = Effort { crowd: 10_000, rounds: 15 };
const BRIEF: Effort = Effort { crowd: 200, rounds: 1 };

/// `figures [--brief] [section …]`: all sections unless some are named.
fn main() {
    let mut asked: Vec<String> = std::env::args().skip(1).collect();
    let brief = asked.iter().any(|word| word == "--brief");
    asked.retain(|word| word != "--brief");
    if let Some(word) = asked.iter().find(|word| SECTIONS.iter().all(|(name, _)| name != word)) {
        let names = SECTIONS.map(|(name, _)| name).join(", ");
        eprintln!("there is no section `{word}`; there are {names}");
        std::process::exit(2);
    }
    let effort = if brief { BRIEF } else { FULL };
    for (place, (name, print)) in SECTIONS.iter().enumerate() {
        if asked.is_empty() || asked.iter().any(|word| word == name) {
            println!("{}", if place == 0 { CROWD_HEAD } else { FIGURE_HEAD });
            print(&effort);
            println!();
        }
    }
    if brief {
        println!("A brief run: these figures say only that the bench runs.");
    }
}

const CROWD_HEAD: &str = "\
| world | combatants | whole tick | detection | scan | tick ÷ scan | swings | parts touched a swing |
|---|---|---|---|---|---|---|---|";

const FIGURE_HEAD: &str = "| figure | floor | aim | measured |\n|---|---|---|---|";

fn crowds(effort: &Effort) {
    let mut rows = Vec::new();
    for (name, sort, n) in [
        ("rush", Sort::Rush, effort.crowd / 10),
        ("rush", Sort::Rush, effort.crowd),
        ("rush", Sort::Rush, effort.crowd * 10),
        ("clump", Sort::Clump, effort.crowd),
    ] {
        let row = measure(sort, n, effort.rounds);
        println!(
            "| {name} | {} | {:.3} ms | {:.3} ms | {:.1} µs | {:.0} | {:.0} | {:.2} |",
            row.n,
            row.whole * 1e3,
            row.detection * 1e3,
            row.scan * 1e6,
            row.whole / row.scan,
            row.swings,
            row.touches / row.swings,
        );
        rows.push(row);
    }
    let exponent = (rows[2].whole / rows[0].whole).ln() / 100f64.ln();
    let per_touch = |row: &Row| row.detection / row.touches;
    println!("\n{FIGURE_HEAD}");
    println!("| whole tick of rush ÷ scan, {} | 100 | 60 | {:.0} |", rows[0].n, rows[0].whole / rows[0].scan);
    println!("| whole tick of rush ÷ scan, {} | 100 | 60 | {:.0} |", rows[1].n, rows[1].whole / rows[1].scan);
    println!(
        "| growth exponent of the whole tick, {} to {} | 1.25 | 1.15 | {exponent:.2} |",
        rows[0].n, rows[2].n
    );
    println!(
        "| clump ÷ rush at {}, detection per true overlap | 2 | 1.2 | {:.2} |",
        rows[1].n,
        per_touch(&rows[3]) / per_touch(&rows[1])
    );
}

fn memory(effort: &Effort) {
    let n = effort.crowd;
    println!("| heap allocations in a steady tick, {n} | 0 | 0 | {} |", allocations(n));
    println!(
        "| snapshot into an existing one ÷ copy of as many bytes, {n} | 1.5 | 1.1 | {:.2} |",
        snapshot(n)
    );
    println!(
        "| rolling back 8 ticks and forward again ÷ 8 plain ticks, {n} | 1.3 | 1.1 | {:.2} |",
        rollback(n, effort.rounds)
    );
}

fn amounts(effort: &Effort) {
    let [library, with_ledger, by_hand] = all_steps(effort);
    println!(
        "| one blow through all damage steps ({library:.0} ns) ÷ the same arithmetic by hand ({by_hand:.0} ns) | 3 | 1.5 | {:.2} |",
        library / by_hand
    );
    println!("| the same with a ledger ({with_ledger:.0} ns) | | | {:.2} |", with_ledger / by_hand);
    println!("| a pulse of damage, ns | | | {:.0} |", pulse(effort.crowd));
}

fn delivery(effort: &Effort) {
    let hub = hammerstone_bench::deliveries(3 * effort.rounds);
    println!(
        "| boxed listener ÷ direct call ({:.1} ns), per delivery: 1, 4, 64 listeners, exact | 2.5 | 1.7 | {} |",
        hub.direct,
        hub.exact.map(|time| format!("{:.1}", time / hub.direct)).join(", ")
    );
    println!(
        "| topic with families ÷ direct, per delivery: 1, 4, 64 listeners | 3 | 2.3 | {} |",
        hub.family.map(|time| format!("{:.1}", time / hub.direct)).join(", ")
    );
    println!(
        "| a fact that is not listened to ÷ direct: counted {:.1} ns (written, as it is unless asked, {:.1} ns) | 1 | 0.5 | {:.1} |",
        hub.counted,
        hub.published + hub.nobody,
        hub.counted / hub.direct
    );
    println!("| std channel ÷ ours, per delivery, 4 listeners | 5 | 8 | {:.1} |", hub.channel / hub.exact[1]);
    let [alone, many] = [0, 1_000].map(|n| hammerstone_bench::death(n, 3 * effort.rounds));
    println!(
        "| a tick with a death, µs: without subscriptions, and with 1,000 that the dead owns | | | {:.1}, {:.1} |",
        alone / 1e3,
        many / 1e3
    );
}

fn bones(effort: &Effort) {
    let n = effort.crowd / 100;
    let (mut posed, mut rigid) = (Ossuary::new(n, Bones::Ordered), Ossuary::new(n, Bones::Rigid));
    for _ in 0..60 {
        posed.tick();
        rigid.tick();
    }
    let times = interleaved(200 * effort.rounds, &mut [&mut || posed.tick(), &mut || rigid.tick()]);
    println!(
        "| {n} combatants of {BONES} bones, posed each tick ({:.0} µs, {} hits) ÷ rigid ({:.0} µs, {} hits) | 6 | 3 | {:.2} |",
        times[0] * 1e6,
        posed.hits,
        times[1] * 1e6,
        rigid.hits,
        times[0] / times[1]
    );
}

fn level(effort: &Effort) {
    let counts = [effort.crowd / 100, effort.crowd / 10, effort.crowd];
    let mut flights = counts.map(|count| {
        let (level, wide) = boxes(count);
        Flights::new(&level, wide)
    });
    flights.iter_mut().for_each(|flights| (0..120).for_each(|_| flights.tick()));
    let [few, some, many] = &mut flights;
    let times =
        interleaved(100 * effort.rounds, &mut [&mut || few.tick(), &mut || some.tick(), &mut || many.tick()]);
    println!(
        "| a tick of {BODIES} bodies in flight among {}, {}, {} boxes: {:.1}, {:.1}, {:.1} µs; the last ÷ the first | 2 | 1.2 | {:.2} |",
        counts[0],
        counts[1],
        counts[2],
        times[0] * 1e6,
        times[1] * 1e6,
        times[2] * 1e6,
        times[2] / times[0]
    );
}

fn motion(effort: &Effort) {
    let n = effort.crowd / 100;
    let mut troupe = Troupe::new(n);
    for _ in 0..60 {
        black_box(troupe.tick());
    }
    let times = interleaved(
        20 * effort.rounds,
        &mut [&mut || drop(black_box(troupe.tick())), &mut || {
            drop(black_box(hammerstone_bench::motion::read()))
        }],
    );
    println!(
        "| {n} bodies of 19 joints, their animations sampled and mixed for a tick, µs; reading the file of 37 kB, µs | | | {:.0}; {:.0} |",
        times[0] * 1e6,
        times[1] * 1e6
    );
}

fn records(effort: &Effort) {
    for n in [effort.crowd / 10, effort.crowd] {
        let recorded = hammerstone_bench::records::recorded(n, 10 * effort.rounds);
        println!(
            "| a recorded tick of rush, {n} ({:.0} kB) ÷ a plain one ({:.3} ms) | 1.05 | 1.02 | {:.3} |",
            recorded.bytes / 1e3,
            recorded.plain * 1e3,
            recorded.recorded / recorded.plain
        );
    }
    let n = effort.crowd / 100;
    let size = |bones, packed| hammerstone_bench::records::bones(n, bones, packed) / 1e6;
    println!(
        "| log of {n} combatants of {BONES} bones, MB a second: posed by order, by answer; compressed | 1.5 | | {:.2}, {:.2}; {:.2}, {:.2} |",
        size(Bones::Ordered, false),
        size(Bones::Pulled, false),
        size(Bones::Ordered, true),
        size(Bones::Pulled, true)
    );
    for n in [32, effort.crowd / 10] {
        let [plain, driven] =
            hammerstone_bench::records::rolled_back(n, 8, effort.rounds * (4000 / n).max(1));
        println!(
            "| {n} of rush rolled back by 8 ticks in each tick, a tick that runs ÷ a plain one ({:.1} µs) | 1.3 | 1.1 | {:.2} |",
            plain * 1e6,
            driven / plain
        );
    }
    for n in [effort.crowd / 10, effort.crowd] {
        let [plain, kept, rewound] = hammerstone_bench::records::rewound(n, 10 * effort.rounds);
        println!(
            "| a tick of rush, {n}, with 12 ticks kept; with all swings rewound by 6 ÷ a plain one ({:.2} ms) | | | {:.2}; {:.2} |",
            plain * 1e3,
            kept / plain,
            rewound / plain
        );
    }
    let ([copy, to, from], bytes) = hammerstone_bench::records::saves(effort.crowd, effort.rounds);
    println!(
        "| a save of {} combatants ({:.1} MB): to bytes, from bytes ÷ a copy ({:.2} ms) | 3, 5 | | {:.1}, {:.1} |",
        effort.crowd,
        bytes as f64 / 1e6,
        copy * 1e3,
        to / copy,
        from / copy
    );
}

fn scale(effort: &Effort) {
    let encounters = effort.crowd / 10;
    // On a thread of the pool, which takes its share of the work.
    let pool = rayon::ThreadPoolBuilder::new().build().expect("threads");
    let (ratio, held, state) = pool.install(|| hall(encounters, effort.rounds));
    println!("| hall: {encounters} encounters of 40 on all threads ÷ on one | 0.55 | 0.52 | {ratio:.2} |");
    println!(
        "| bytes that one of them holds; that its state fills, with the one to which a reset returns | | | {held}; {state} |"
    );
    for n in [effort.crowd, effort.crowd * 10] {
        println!(
            "| detection of {n} on all threads ÷ on one | 0.62 | 0.55 | {:.2} |",
            pool.install(|| divided(n, effort.rounds))
        );
    }
    let blows = effort.crowd;
    println!(
        "| storm: time a blow at {blows} blows in one tick ÷ at {} | 1.3 | 1.1 | {:.2} |",
        blows / 100,
        storm(blows, effort.rounds)
    );
    let targets = effort.crowd * 8 / 5;
    println!(
        "| one swing at {targets} targets ÷ at {}, per target | 1.3 | 1.1 | {:.2} |",
        targets / 16,
        flood(targets, effort.rounds)
    );
}

/// The least number of allocations in one of many ticks, and the most, once the fight is steady.
fn allocations(n: usize) -> String {
    let mut crowd = Crowd::new(Sort::Rush, n);
    crowd.warm_up(400);
    let mut counts = Vec::new();
    for _ in 0..60 {
        crowd.orders();
        let before = ALLOCATIONS.load(Ordering::Relaxed);
        crowd.fight.tick_with(&crowd.hooks, &mut crowd.heard).expect("the crowd fights on");
        counts.push(ALLOCATIONS.load(Ordering::Relaxed) - before);
    }
    let quiet = counts.iter().filter(|&&count| count == 0).count();
    format!(
        "{} in the median tick ({quiet} of 60 ticks without any)",
        hammerstone_bench::median(counts.iter().map(|&c| c as f64).collect())
    )
}

fn snapshot(n: usize) -> f64 {
    let mut crowd = Crowd::new(Sort::Rush, n);
    crowd.warm_up(60);
    let mut saved = crowd.fight.save().expect("nothing interrupts the crowd");
    let bytes = saved.bytes();
    let (from, mut to) = (vec![1u8; bytes], vec![0u8; bytes]);
    let times = interleaved(
        101,
        &mut [
            &mut || crowd.fight.save_into(black_box(&mut saved)).expect("nothing interrupts the crowd"),
            &mut || black_box(&mut to).copy_from_slice(black_box(&from)),
        ],
    );
    println!(
        "| state a combatant with 2 parts, a fifth of a status and a tenth of a swing | 384 | 256 | {} |",
        bytes / n
    );
    times[0] / times[1]
}

fn rollback(n: usize, rounds: usize) -> f64 {
    let mut crowd = Crowd::new(Sort::Rush, n);
    crowd.warm_up(60);
    let mut saved = crowd.fight.save().expect("nothing interrupts the crowd");
    let start = saved.clone();
    let hooks = &crowd.hooks;
    let (mut plain, mut back) = (Vec::new(), Vec::new());
    for _ in 0..rounds {
        // Both run the same eight ticks; going back, and saving each tick, is what the second is measured for.
        crowd_restore(&mut crowd.fight, &start);
        let mut heard = 0;
        let time = std::time::Instant::now();
        for _ in 0..8 {
            crowd.fight.tick_with(hooks, &mut heard).expect("the crowd fights on");
        }
        plain.push(time.elapsed().as_secs_f64());
        let time = std::time::Instant::now();
        crowd_restore(&mut crowd.fight, &start);
        for _ in 0..8 {
            crowd.fight.tick_with(hooks, &mut heard).expect("the crowd fights on");
            crowd.fight.save_into(&mut saved).expect("nothing interrupts the crowd");
        }
        back.push(time.elapsed().as_secs_f64());
    }
    hammerstone_bench::median(back) / hammerstone_bench::median(plain)
}

fn crowd_restore(fight: &mut Encounter, saved: &Saved) {
    fight.restore(saved).expect("the state is of this ruleset");
}

/// One blow through every step of the amount, without a ledger and with one, beside the same arithmetic by hand: nanoseconds of each.
fn all_steps(effort: &Effort) -> [f64; 3] {
    let times = 2 * effort.crowd;
    let mut steps = AllSteps::new();
    let mut with_ledger = AllSteps::new();
    let by_hand = AllSteps::new();
    // The rolls differ; over many starts both come to about the same, or the work is not the same.
    let (one, other) = (steps.library(1, false), by_hand.by_hand(times) / times as i64);
    assert!((one - other).abs() < 40, "{one} and {other}");
    let measured = interleaved(
        3 * effort.rounds,
        &mut [
            &mut || {
                black_box(steps.library(times, false));
            },
            &mut || {
                black_box(with_ledger.library(times, true));
            },
            &mut || {
                black_box(by_hand.by_hand(times));
            },
        ],
    );
    [0, 1, 2].map(|which| measured[which] * 1e9 / times as f64)
}

/// Nanoseconds that a pulse of damage costs: a tick in which each of many statuses pulses, less one in which none does.
fn pulse(n: usize) -> f64 {
    let crowd = |every: u32| {
        let mut b = Ruleset::builder(60);
        let heat = b.damage_type("heat");
        let masons = b.team("masons");
        let damage = vec![Damage { damage_type: heat, low: 1, high: 3 }];
        let burn = b.status(Status::new("burn").pulse(Pulse::damage(every, damage)));
        let mason = b.template(Template::new("mason", masons, 1_000_000_000));
        let rules = b.build().expect("the ruleset of the bench is sound");
        let mut fight = Encounter::new(&rules, 7);
        for i in 0..n {
            let who = fight.orders().spawn(mason, Pose::at([i as f32, 0.0, 0.0]));
            fight.orders().apply(who, burn, None);
        }
        fight.tick().expect("the crowd burns");
        fight
    };
    let (mut beating, mut still) = (crowd(1), crowd(10_000_000));
    let times = interleaved(
        41,
        &mut [
            &mut || {
                black_box(beating.tick().expect("the crowd burns"));
            },
            &mut || {
                black_box(still.tick().expect("the crowd waits"));
            },
        ],
    );
    (times[0] - times[1]) * 1e9 / n as f64
}

/// So many swings at one target in one tick: seconds a blow.
fn storm_of(n: usize) -> impl FnMut() -> f64 {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let ball = |radius| Part::new("ball", Shape::Sphere { at: [0.0; 3], radius });
    let mason = b.template(Template::new("mason", masons, 100));
    let hound = b.template(Template::new("hound", beasts, 1_000_000_000).part(ball(1.0)));
    let reach = Shape::Sphere { at: [0.0; 3], radius: 0.5 };
    let poke = b.attack(Attack::melee("poke").timeline(0, 1, 0).damage(crush, 1, 3).hitbox(reach));
    let rules = b.build().expect("the ruleset of the storm is sound");
    let mut fight = Encounter::new(&rules, 7);
    fight.orders().spawn(hound, Pose::IDENTITY);
    let all: Vec<_> = (0..n).map(|_| fight.orders().spawn(mason, Pose::IDENTITY)).collect();
    fight.tick().expect("the storm begins");
    move || {
        for &who in &all {
            fight.orders().start(who, poke);
        }
        let start = std::time::Instant::now();
        let summary = fight.tick().expect("the storm goes on");
        let time = start.elapsed().as_secs_f64();
        assert_eq!(summary.hits, n as u64);
        // The swings end with the tick after.
        fight.tick().expect("the storm goes on");
        time / n as f64
    }
}

fn storm(blows: usize, rounds: usize) -> f64 {
    grows(storm_of(blows / 100), storm_of(blows), rounds)
}

/// How much longer the large one takes than the small one, for each of what they do.
fn grows(mut small: impl FnMut() -> f64, mut large: impl FnMut() -> f64, rounds: usize) -> f64 {
    let (mut few, mut many) = (Vec::new(), Vec::new());
    for _ in 0..rounds {
        few.push(hammerstone_bench::median((0..15).map(|_| small()).collect()));
        many.push(large());
    }
    hammerstone_bench::median(many) / hammerstone_bench::median(few)
}

/// Seconds a target of the tick in which one swing of a large sphere strikes `n` who stand two metres apart.
fn sweep_of(n: usize) -> impl FnMut() -> f64 {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let mason = b.template(Template::new("mason", masons, 100));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let hound = b.template(Template::new("hound", beasts, 1_000_000_000).part(trunk));
    let side = (n as f32).sqrt().ceil();
    let radius = side * 2.0;
    let flood = b.attack(
        Attack::melee("flood")
            .timeline(0, 1, 0)
            .damage(crush, 1, 3)
            .hitbox(Shape::Sphere { at: [0.0; 3], radius }),
    );
    let rules = b.build().expect("the ruleset of the flood is sound");
    let mut fight = Encounter::new(&rules, 7);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    for i in 0..n {
        let (row, column) = ((i as f32 / side).floor(), i as f32 % side);
        let place = |number: f32| (number - side * 0.5) * 2.0;
        fight.orders().spawn(hound, Pose::at([place(row), 0.0, place(column)]));
    }
    fight.tick().expect("the flood begins");
    move || {
        fight.orders().start(odo, flood);
        let start = Instant::now();
        let summary = fight.tick().expect("the flood goes on");
        let time = start.elapsed().as_secs_f64();
        assert_eq!(summary.hits, n as u64);
        fight.tick().expect("the swing ends");
        time / n as f64
    }
}

/// How much longer one swing takes at each of sixteen times as many targets.
fn flood(targets: usize, rounds: usize) -> f64 {
    grows(sweep_of(targets / 16), sweep_of(targets), rounds)
}

/// A tick of each of a thousand small encounters in a hall, on all threads of the machine, against one after the other; and how
/// many bytes of memory each holds, of which so many are its state.
fn hall(encounters: usize, rounds: usize) -> (f64, usize, usize) {
    let mut hall = Hall::new();
    for _ in 0..encounters {
        let mut crowd = Crowd::new(Sort::Rush, 40);
        crowd.warm_up(20);
        let outside = Encounter::new(crowd.fight.rules(), 0);
        hall.admit(std::mem::replace(&mut crowd.fight, outside), crowd);
    }
    let order = |hall: &mut Hall<Crowd>| {
        for (_, room) in hall.iter_mut() {
            let (encounter, crowd) = room.parts();
            std::mem::swap(encounter, &mut crowd.fight);
            crowd.note_deaths();
            crowd.orders();
            std::mem::swap(encounter, &mut crowd.fight);
        }
    };
    let tick =
        |encounter: &mut Encounter, crowd: &mut Crowd| encounter.tick_with(&crowd.hooks, &mut crowd.heard);
    let (mut one, mut all) = (Vec::new(), Vec::new());
    for _ in 0..rounds {
        order(&mut hall);
        let start = Instant::now();
        for (_, room) in hall.iter_mut() {
            let (encounter, crowd) = room.parts();
            tick(encounter, crowd).expect("the crowd fights on");
        }
        one.push(start.elapsed().as_secs_f64());
        order(&mut hall);
        let start = Instant::now();
        hall.tick_by(tick);
        all.push(start.elapsed().as_secs_f64());
    }
    let ratio = hammerstone_bench::median(all) / hammerstone_bench::median(one);
    let (mut held, mut states) = (0, 0);
    for id in hall.iter().map(|(id, _)| id).collect::<Vec<_>>() {
        let (encounter, _crowd) = hall.remove(id).expect("it is there");
        states += encounter.state_bytes();
        let before = HELD.load(Ordering::Relaxed);
        drop(encounter);
        held += before - HELD.load(Ordering::Relaxed) + size_of::<Encounter>();
    }
    (ratio, held / encounters, states / encounters)
}

/// Detection in shares on the threads of the machine, against all of it on one.
fn divided(n: usize, rounds: usize) -> f64 {
    let mut crowd = Crowd::new(Sort::Rush, n);
    crowd.warm_up(60);
    let (mut one, mut all) = (Vec::new(), Vec::new());
    for _ in 0..rounds {
        crowd.orders();
        crowd.tick();
        for (shares, times) in [(1, &mut one), (8, &mut all)] {
            crowd.fight.divide_detection(shares, 32);
            let start = Instant::now();
            black_box(crowd.fight.detect_again());
            times.push(start.elapsed().as_secs_f64());
        }
    }
    hammerstone_bench::median(all) / hammerstone_bench::median(one)
}
