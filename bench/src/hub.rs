//! What a delivered fact costs beside a direct call, and what a death costs with many subscriptions.

use std::hint::black_box;
use std::sync::mpsc;

use hammerstone::Fixed;
use hammerstone::event::Fact;
use hammerstone::flow::Count;
use hammerstone::prelude::*;

use crate::{interleaved, median};

/// Facts of one tick.
const FACTS: usize = 1_000;

/// An encounter whose last tick published a thousand facts, with so many listeners.
struct Room {
    fight: Encounter,
    hooks: Hooks<u64>,
    heard: u64,
}

fn room(listeners: usize, family: bool) -> Room {
    let mut b = Ruleset::builder(60);
    let counter = b.counter("bells");
    let rules = b.build().expect("the ruleset of the bench is sound");
    let mut hooks = Hooks::<u64>::new();
    let mut fight = Encounter::new(&rules, 7);
    let listen = if family {
        Listen::under(rules.topics().family("counter").expect("the family is there"))
    } else {
        Listen::to(topic::COUNTER_CHANGED)
    };
    for i in 0..listeners {
        let hook = hooks
            .react(&format!("{i}"), |heard: &mut u64, what, _| *heard = heard.wrapping_add(what.fact.seq));
        fight.orders().subscribe(hook, listen);
    }
    let mut heard = 0;
    fight.tick_with(&hooks, &mut heard).expect("the room is quiet");
    for _ in 0..FACTS {
        fight.orders().count(counter, Count::Add(1));
    }
    fight.tick_with(&hooks, &mut heard).expect("the bells ring");
    Room { fight, hooks, heard }
}

/// A plain call, not inlined: what one would write without a hub.
#[inline(never)]
fn direct(heard: &mut u64, seq: u64) {
    *heard = heard.wrapping_add(seq);
}

/// Nanoseconds of a direct call, and of a delivery with so many listeners, exact and by family.
pub struct Deliveries {
    pub direct: f64,
    pub exact: [f64; 3],
    pub family: [f64; 3],
    /// A fact that no one hears, looked for; and a fact that is published, per fact.
    pub nobody: f64,
    pub published: f64,
    /// The same where only what is heard is written.
    pub counted: f64,
    pub channel: f64,
}

/// Numbers of listeners that are measured.
pub const LISTENERS: [usize; 3] = [1, 4, 64];

pub fn deliveries(rounds: usize) -> Deliveries {
    let mut rooms: Vec<(f64, Room)> = Vec::new();
    for family in [false, true] {
        rooms.extend(LISTENERS.map(|count| (count as f64, room(count, family))));
    }
    let mut nobody = room(0, false);
    let mut lonely = Encounter::new(nobody.fight.rules(), 1);
    // What is listened to is found in the first tick in which someone is told anything.
    let mut unheard = room(1, false);
    unheard.fight.write_only_what_is_heard(true);
    let mut counted = Vec::new();
    let (mut calls, mut times) = (0u64, vec![Vec::new(); rooms.len()]);
    let (mut directs, mut none, mut published, mut channels) =
        (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    let (sender, receiver) = mpsc::channel::<Fact>();
    let fact = rooms[0].1.fight.facts().facts[0];
    for _ in 0..rounds {
        let each = interleaved(
            1,
            &mut [
                &mut || (0..4 * FACTS as u64).for_each(|seq| direct(black_box(&mut calls), black_box(seq))),
                &mut || nobody.fight.deliver_again(&nobody.hooks, &mut nobody.heard, 4),
                &mut || lonely.publish_again(4 * FACTS),
                &mut || unheard.fight.publish_again(4 * FACTS),
                &mut || {
                    for _ in 0..FACTS {
                        sender.send(black_box(fact)).expect("someone receives");
                        black_box(receiver.recv().expect("someone sends"));
                    }
                },
            ],
        );
        let per = |time: f64, count: usize| time * 1e9 / count as f64;
        directs.push(per(each[0], 4 * FACTS));
        none.push(per(each[1], 4 * FACTS));
        published.push(per(each[2], 4 * FACTS));
        counted.push(per(each[3], 4 * FACTS));
        channels.push(per(each[4], FACTS));
        for ((count, room), times) in rooms.iter_mut().zip(&mut times) {
            let each =
                interleaved(1, &mut [&mut || room.fight.deliver_again(&room.hooks, &mut room.heard, 1)]);
            times.push(per(each[0], FACTS * *count as usize));
        }
    }
    black_box(calls);
    let medians: Vec<f64> = times.into_iter().map(median).collect();
    Deliveries {
        direct: median(directs),
        exact: [medians[0], medians[1], medians[2]],
        family: [medians[3], medians[4], medians[5]],
        nobody: median(none),
        published: median(published),
        counted: median(counted),
        channel: median(channels),
    }
}

/// Nanoseconds of a tick in which one dies who owns so many subscriptions.
pub fn death(subscriptions: usize, rounds: usize) -> f64 {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let tide = b.reason("tide");
    let masons = b.team("masons");
    let mason = b.template(Template::new("mason", masons, 10));
    let rules = b.build().expect("the ruleset of the bench is sound");
    let mut hooks = Hooks::<u64>::new();
    let hook = hooks.react("hears", |heard: &mut u64, _, _| *heard += 1);
    let mut fight = Encounter::new(&rules, 7);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let mut heard = 0;
    fight.tick_with(&hooks, &mut heard).expect("the fight begins");
    for key in 0..subscriptions {
        // To what does not come, so that only the ending counts.
        let listen = Listen::to(topic::SAID).owned_by(odo).keyed(key as u32);
        fight.orders().subscribe(hook, listen);
    }
    fight.tick_with(&hooks, &mut heard).expect("the fight goes on");
    let saved = fight.save().expect("nothing interrupts the fight");
    let mut times = Vec::new();
    for _ in 0..rounds {
        fight.restore(&saved).expect("the state is of this ruleset");
        // Once without a death, so that the table of who listens is there.
        fight.orders().damage(odo, crush, Fixed::whole(1), tide);
        fight.tick_with(&hooks, &mut heard).expect("the fight goes on");
        fight.orders().damage(odo, crush, Fixed::whole(99), tide);
        let start = std::time::Instant::now();
        fight.tick_with(&hooks, &mut heard).expect("the fight goes on");
        times.push(start.elapsed().as_secs_f64() * 1e9);
    }
    median(times)
}
