//! Logs and saves that strangers wrote, as bytes.

use hammerstone::Saved;
use hammerstone::audit::seal_again;
use hammerstone::geometry::Frame;
use hammerstone::prelude::*;
use hammerstone_record::{Log, LogOptions, Recorder, Replay, seal_log_again};

use crate::game::hooks;
use crate::save::{begun, go_on, rules};

/// Bytes as a log or a saved state: as they are, and sealed again. What is let in goes on for a while.
pub fn record(data: &[u8]) {
    let mut data = data.to_vec();
    if Log::is_one(&data) {
        log(data.clone());
        seal_log_again(&mut data);
        log(data);
        return;
    }
    saved(&data);
    let rules = rules();
    if let Some(print) = data.get_mut(16..24) {
        // Corpora outlive changes of the ruleset's print.
        print.copy_from_slice(&rules.fingerprint().to_le_bytes());
    }
    seal_again(&mut data);
    saved(&data);
}

/// Reads a log and runs some of it, all that was rolled back as well; then the tick that did not end.
fn log(data: Vec<u8>) {
    /// So many ticks are enough to see what goes wrong.
    const MOST: usize = 100;
    let Ok(log) = Log::read(data) else { return };
    _ = (log.branch(), log.checksums());
    for mut replay in Replay::of(&log).into_iter().chain([Replay::of_branch(&log).unchecked()]) {
        for _ in 0..MOST {
            match replay.tick() {
                Ok(Some(_)) => {}
                Ok(None) | Err(_) => break,
            }
        }
        if let Some(mut fight) = replay.unfinished() {
            _ = fight.tick();
        }
    }
}

fn saved(data: &[u8]) {
    if let Ok(saved) = Saved::from_bytes(data) {
        _ = saved.to_bytes();
        go_on(&rules(), &saved);
    }
}

/// The log of a fight with hooks, resets and restored states, and saves of it: where a corpus begins.
pub fn seed_records() -> Vec<Vec<u8>> {
    let rules = rules();
    let hooks: Hooks<u64> = hooks(&rules);
    let mut all = Vec::new();
    for packed in [false, true] {
        let mut encounter = Encounter::new(&rules, 3);
        let options = LogOptions { packed, checksums: 4, ..LogOptions::at_rate(20) };
        let mut recorder = Recorder::begin(&mut encounter, Vec::new(), &options);
        recorder.name_hooks(&hooks);
        let mut kept = None;
        for tick in 0..40usize {
            begun(&rules, &hooks, &mut encounter, tick);
            if tick == 25 {
                encounter.orders().reset();
            }
            if recorder.tick_with(&mut encounter, &hooks, &mut 0).is_err() {
                break;
            }
            let saved = encounter.save().expect("a whole tick can be saved");
            if tick % 13 == 0 && !packed {
                all.push(saved.to_bytes());
            }
            match (tick, &kept) {
                (10 | 30, _) => kept = Some(saved),
                (15, Some(kept)) => encounter.restore(kept).expect("it is of this fight"),
                (35, Some(kept)) => {
                    let read = Saved::from_bytes(&kept.to_bytes()).expect("it was written");
                    encounter.restore(&read).expect("it is of this fight");
                }
                _ => {}
            }
        }
        all.push(recorder.finish().expect("memory"));
    }
    all
}

/// Large ones: a rush of a thousand that is rewound and reset, a crowd with bones, and a save of a thousand.
pub fn large_records() -> Vec<Vec<u8>> {
    let mut b = Ruleset::builder(60);
    b.rewind(6);
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let crush = b.damage_type("crush");
    let ball = |radius| Shape::Sphere { at: [0.0, 1.0, 0.0], radius };
    let blade = Shape::Capsule { from: [0.0, 1.0, 0.4], to: [0.0, 1.0, 1.7], radius: 0.12 };
    let attack = b.attack(Attack::melee("sweep").timeline(0, 6, 0).damage(crush, 4, 8).hitbox(blade));
    let runs = [masons, beasts].map(|team| {
        let name = if team == masons { "mason" } else { "hound" };
        b.template(Template::new(name, team, 20).part(Part::new("trunk", ball(0.3))))
    });
    let mut bones = Template::new("bones", beasts, 200).posed(3.0);
    for bone in 0..16 {
        bones = bones.part(Part::new(&format!("bone {bone}"), ball(0.1)));
    }
    let bones = b.template(bones);
    let own = b.build().expect("a sound ruleset");
    let mut all = Vec::new();
    for (many, is_rush) in [(1000, true), (60, false)] {
        let mut fight = Encounter::new(&own, 3);
        let options = LogOptions { checksums: 2, ..LogOptions::at_rate(60) };
        let mut recorder = Recorder::begin(&mut fight, Vec::new(), &options);
        let place = |number: usize, tick: usize| {
            Pose::at([(number % 32) as f32 + 0.02 * tick as f32, 0.0, (number / 32) as f32])
        };
        let who: Vec<_> = (0..many)
            .map(|number| {
                let template = if is_rush { runs[number % 2] } else { bones };
                fight.orders().spawn(template, place(number, 0))
            })
            .collect();
        for tick in 1..9usize {
            for (number, &who) in who.iter().enumerate() {
                match is_rush {
                    true => drop(fight.orders().move_to(who, place(number, tick))),
                    false => {
                        let poses: Vec<Pose> = (0..16)
                            .map(|bone| {
                                Pose::at([bone as f32 * 0.05, tick as f32 * 0.03, number as f32 * 0.01])
                            })
                            .collect();
                        fight.orders().pose_parts(who, Frame::Body, &poses);
                    }
                }
                if number % 10 == tick {
                    let swing = fight.orders().start(who, attack);
                    fight.orders().rewind(swing, 2);
                }
            }
            if tick == 6 {
                fight.orders().reset();
            }
            if recorder.tick(&mut fight).is_err() {
                break;
            }
        }
        all.push(recorder.finish().expect("memory"));
    }
    let rules = rules();
    let mut fight = Encounter::new(&rules, 3);
    let template = rules.find_template(rules.templates()[0].name()).expect("a template is found by its name");
    for number in 0..1000 {
        fight.orders().spawn(template, Pose::at([(number % 32) as f32, 0.0, (number / 32) as f32]));
    }
    for _ in 0..3 {
        fight.tick().expect("nothing interrupts it");
    }
    all.push(fight.save().expect("it is whole").to_bytes());
    all
}
