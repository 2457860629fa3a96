//! What records cost: logs, saves as bytes.

use std::io::{self, Write};

use hammerstone::prelude::*;
use hammerstone::rollback::{Game, Rollback, RollbackOptions, TickInputs};
use hammerstone::{Life, Saved};
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
    // Several ticks at a time, as in a game: so neither fight finds the caches full of the other.
    const TICKS: usize = 10;
    let times = interleaved(
        rounds.div_ceil(TICKS),
        &mut [
            &mut || {
                for _ in 0..TICKS {
                    plain.orders();
                    plain.tick();
                }
            },
            &mut || {
                for _ in 0..TICKS {
                    other.orders();
                    other.tick_by(|fight, hooks, heard| recorder.tick_with(fight, hooks, heard));
                }
            },
        ],
    );
    assert!(plain.fight.same_state(&other.fight), "recording changes nothing");
    let bytes = recorder.out().map_or(0, |out| out.0 - before) as f64;
    let ticks = (rounds.div_ceil(TICKS) * TICKS) as f64;
    let [plain, recorded] = [times[0], times[1]].map(|time| time / TICKS as f64);
    Recorded { plain, recorded, bytes: bytes / ticks }
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

/// A rush that is rolled back: everyone moves by the number of the tick, and each player may start a swing.
struct Rushing {
    who: Vec<CombatantId>,
    home: Vec<[f32; 2]>,
    attack: AttackId,
    heard: u64,
}

impl Game for Rushing {
    /// The one who starts a swing, now and then.
    type Input = Option<usize>;
    type Saved = u64;

    fn play(&mut self, fight: &mut Encounter, inputs: TickInputs<'_, Option<usize>>) {
        let players = inputs.iter().filter_map(|(_, &who)| who);
        self.order(fight, inputs.tick(), players);
    }

    fn save_into(&self, saved: &mut u64) {
        *saved = self.heard;
    }

    fn restore(&mut self, saved: &u64) {
        self.heard = *saved;
    }
}

impl Rushing {
    fn order(&self, fight: &mut Encounter, tick: u64, starts: impl Iterator<Item = usize>) {
        let n = self.who.len();
        for (i, &who) in self.who.iter().enumerate() {
            let phase = ((tick as usize + i * 7) % 40) as f32 / 40.0 - 0.5;
            let ([x, z], shift) = (self.home[i], phase.abs() * 0.6);
            let pose = Pose::at([x + shift, 0.0, z + shift * 0.5]);
            if fight.view().life(who) == Life::Standing {
                fight.orders().move_to(who, pose);
            } else {
                fight.orders().bring_back(who, pose);
            }
        }
        // A hundredth of all, as in the rush; of few one now and then.
        for start in (0..n).filter(|start| (start * 31 + tick as usize * 17).is_multiple_of(100)) {
            fight.orders().start(self.who[start], self.attack);
        }
        for start in starts {
            fight.orders().start(self.who[start % n], self.attack);
        }
    }
}

/// Seconds for a tick of a rush, and for one that a driver runs while each input of one of two players comes `late` ticks late: by tick that
/// runs, also again.
pub fn rolled_back(n: usize, late: u64, rounds: usize) -> [f64; 2] {
    let parts = || {
        let Crowd { fight, who, home, attack, .. } = {
            let mut crowd = Crowd::new(Sort::Rush, n);
            crowd.warm_up(120);
            crowd
        };
        let mut hooks = Hooks::<Rushing>::new();
        for _ in 0..4 {
            hooks.react("reacts", |rushing, _, _| rushing.heard += 1);
        }
        let shows = hooks.show("shows", |_, _| {});
        let mut fight = fight;
        let hits = fight.rules().topics().family("hit").expect("it is there");
        fight.orders().subscribe(shows, Listen::under(hits));
        (fight, hooks, Rushing { who, home, attack, heard: 0 })
    };
    let input = |tick: u64, player: u64| {
        (tick + player * 10).is_multiple_of(20).then_some((tick * 13 + player * 5) as usize)
    };
    let (mut plain, hooks, mut world) = parts();
    let mut now = 0;
    let (fight, driven_hooks, mut game) = parts();
    let options = RollbackOptions { players: 2, ticks: late as u32 + 1, ahead: 60 };
    let mut driver = Rollback::begin(fight, options).expect("it is whole");
    let mut drive = || {
        let now = driver.tick() + 1;
        driver.give(now, 0, input(now, 0)).expect("it is in time");
        if now > late {
            driver.give(now - late, 1, input(now - late, 1)).expect("it is in time");
        }
        let again = driver.advance(&driven_hooks, &mut game).expect("it runs").again;
        assert!(now <= late || u64::from(again) == late);
    };
    (0..late).for_each(|_| drive());
    let mut times = interleaved(
        rounds,
        &mut [
            &mut || {
                for _ in 0..=late {
                    now += 1;
                    world.order(&mut plain, now, [input(now, 0), input(now, 1)].into_iter().flatten());
                    plain.tick_with(&hooks, &mut world).expect("it runs");
                    plain.confirm(&hooks, &mut world);
                }
            },
            &mut drive,
        ],
    );
    times.iter_mut().for_each(|time| *time /= late as f64 + 1.0);
    times.try_into().expect("two")
}

/// Seconds for a tick of a rush: plain; where 12 ticks are kept; and where all swings are rewound by 6 of them.
pub fn rewound(n: usize, rounds: usize) -> [f64; 3] {
    let mut crowds =
        [(0, 0), (12, 0), (12, 6)].map(|(most, back)| Crowd::rewinding(Sort::Rush, n, most, back));
    crowds.iter_mut().for_each(|crowd| crowd.warm_up(120));
    let [plain, kept, rewound] = &mut crowds;
    let tick = |crowd: &mut Crowd| {
        crowd.orders();
        crowd.tick();
    };
    let times = interleaved(rounds, &mut [&mut || tick(plain), &mut || tick(kept), &mut || tick(rewound)]);
    times.try_into().expect("three")
}
