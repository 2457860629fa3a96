//! What records cost: logs, saves as bytes.

use std::io::{self, Write};

use hammerstone::Saved;
use hammerstone_record::{LogOptions, Recorder};

use crate::{Bones, Crowd, Ossuary, Sort, interleaved};

/// Counts bytes, and keeps none.
#[derive(Debug, Default)]
pub struct Counted(pub u64);

impl Write for Counted {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0 += bytes.len() as u64;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

/// A tick of a rush with its orders, in seconds, plain and recorded; and bytes a tick.
pub struct Recorded {
    pub plain: f64,
    pub recorded: f64,
    pub bytes: f64,
}

pub fn recorded(n: usize, rounds: usize) -> Recorded {
    let mut crowds = [(); 2].map(|()| Crowd::new(Sort::Rush, n));
    crowds.iter_mut().for_each(|crowd| crowd.warm_up(120));
    let [plain, other] = &mut crowds;
    let options = LogOptions::at_rate(60);
    let mut recorder = Recorder::begin(&mut other.fight, Counted::default(), &options);
    let before = recorder.out().map_or(0, |out| out.0);
    let times = interleaved(
        rounds,
        &mut [
            &mut || {
                plain.orders();
                plain.tick();
            },
            &mut || {
                other.orders();
                other.tick_by(|fight, hooks, heard| recorder.tick_with(fight, hooks, heard));
            },
        ],
    );
    assert!(plain.fight.same_state(&other.fight), "recording changes nothing");
    let bytes = recorder.out().map_or(0, |out| out.0 - before);
    Recorded { plain: times[0], recorded: times[1], bytes: bytes as f64 / rounds as f64 }
}

/// Bytes a second of a log of `n` combatants of sixteen bones, posed each tick.
pub fn bones(n: usize, bones: Bones, packed: bool) -> f64 {
    const TICKS: u64 = 600;
    let mut fight = Ossuary::new(n, bones);
    let options = LogOptions { packed, ..LogOptions::at_rate(60) };
    let mut recorder = Recorder::begin(fight.fight_mut(), Counted::default(), &options);
    let before = recorder.out().map_or(0, |out| out.0);
    for _ in 0..TICKS {
        fight.tick_by(|fight, host| recorder.tick_for(fight, host));
    }
    let bytes = recorder.out().map_or(0, |out| out.0 - before);
    bytes as f64 / TICKS as f64 * 60.0
}

/// Seconds for a copy of as much memory, to bytes, and from bytes; and how many bytes they are.
pub fn saves(n: usize, rounds: usize) -> ([f64; 3], usize) {
    let mut crowd = Crowd::new(Sort::Rush, n);
    crowd.warm_up(120);
    let saved = crowd.fight.save().expect("nothing interrupts the crowd");
    let bytes = saved.to_bytes();
    let (mut copy, mut written) = (saved.clone(), Vec::new());
    let times = interleaved(
        rounds,
        &mut [&mut || copy.clone_from(&saved), &mut || saved.write_into(&mut written), &mut || {
            assert!(Saved::from_bytes(&bytes).is_ok())
        }],
    );
    (times.try_into().expect("three"), bytes.len())
}
