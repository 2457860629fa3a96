//! Logs and saves that strangers wrote, as bytes.

use hammerstone::audit::seal_again;
use hammerstone::hooks::Hooks;
use hammerstone::{Encounter, Saved};
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
