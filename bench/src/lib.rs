//! The worlds that figures are measured in, and how they are measured.

mod blow;
mod bones;
mod hub;
pub mod level;
pub mod motion;
pub mod records;

use hammerstone::event::CombatantDied;
use std::time::Instant;

pub use blow::AllSteps;
pub use bones::{BONES, Bones, Ossuary, body, posed};
pub use hub::{LISTENERS, death, deliveries};

use hammerstone::Summary;
use hammerstone::attack::Damage;
use hammerstone::event::Event;
use hammerstone::geometry::Axis;
use hammerstone::prelude::*;
use hammerstone::status::Pulse;

/// A repeatable source of numbers.
pub struct Numbers(u64);

impl Numbers {
    pub fn new(seed: u64) -> Numbers {
        Numbers(seed.wrapping_mul(2).wrapping_add(1))
    }

    /// From 0 up to 1.
    pub fn next(&mut self) -> f32 {
        self.0 = self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 40) as f32 / (1u64 << 24) as f32
    }

    pub fn within(&mut self, low: f32, high: f32) -> f32 {
        low + (high - low) * self.next()
    }
}

/// Metres between neighbours: so that a swing meets about three parts in a tick.
pub const SPACING: f32 = 0.92;

/// The blade of every swing, in its attacker's frame.
pub const BLADE: Shape = Shape::Capsule { from: [0.0, 1.0, 0.4], to: [0.0, 1.0, 1.7], radius: 0.12 };
/// The two parts of every combatant.
pub const TRUNK: Shape = Shape::Capsule { from: [0.0, 0.6, 0.0], to: [0.0, 1.2, 0.0], radius: 0.25 };
pub const HEAD: Shape = Shape::Sphere { at: [0.0, 1.15, 0.3], radius: 0.18 };
/// How far the blade turns in a tick, in degrees.
const TURN: f32 = 14.0;
/// Ticks that a window is open.
const OPEN: u32 = 10;

/// What a crowd is like.
#[derive(Clone, Copy, PartialEq)]
pub enum Sort {
    /// Everybody at one density.
    Rush,
    /// A third of all in one small place, and three giants.
    Clump,
}

/// A fight of `n` in which everything moves in every tick.
pub struct Crowd {
    pub fight: Encounter,
    pub hooks: Hooks<u64>,
    pub heard: u64,
    who: Vec<CombatantId>,
    home: Vec<[f32; 2]>,
    attack: AttackId,
    tick: u32,
    numbers: Numbers,
    returns: Vec<(u32, usize)>,
    /// Where everyone was and is, and which swings were started when, for peers that are told the same.
    pub before: Vec<Pose>,
    pub after: Vec<Pose>,
    started: Vec<(SwingId, usize, u32)>,
    /// By how many ticks swings are rewound.
    back: u16,
}

/// A blade on its way through a tick, as a peer is told of it.
pub struct Blade {
    /// Whose it is.
    pub owner: usize,
    /// The turn within its owner's frame before and after, in degrees about the up axis.
    pub turns: [f32; 2],
}

impl Crowd {
    pub fn new(sort: Sort, n: usize) -> Crowd {
        Crowd::rewinding(sort, n, 0, 0)
    }

    /// As [`new`](Self::new), under a ruleset that rewinds by up to so many ticks; swings are rewound by `back`.
    pub fn rewinding(sort: Sort, n: usize, most: u32, back: u16) -> Crowd {
        let mut b = Ruleset::builder(60);
        b.rewind(most);
        let crush = b.damage_type("crush");
        let heat = b.damage_type("heat");
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let ghost = b.layer("ghost");
        let pulse = Pulse::damage(20, vec![Damage { damage_type: heat, low: 1, high: 1 }]);
        let burn = b.status(Status::new("burn").pulse(pulse));
        let parts =
            |template: Template| template.part(Part::new("trunk", TRUNK)).part(Part::new("head", HEAD));
        let templates = [
            b.template(parts(Template::new("mason", masons, 120))),
            b.template(parts(Template::new("hound", beasts, 120))),
            b.template(
                Template::new("giant", beasts, 1_000_000)
                    .part(Part::new("hill", Shape::Sphere { at: [0.0, 6.0, 0.0], radius: 12.0 }).layer(ghost))
                    .part(Part::new(
                        "foot",
                        Shape::Capsule { from: [0.0; 3], to: [0.0, 10.0, 0.0], radius: 10.0 },
                    )),
            ),
        ];
        let half = TURN * OPEN as f32 * 0.5;
        let attack = b.attack(
            Attack::melee("sweep")
                .timeline(0, OPEN, 0)
                .damage(crush, 4, 8)
                .hitbox(BLADE)
                .key(0, Pose::IDENTITY.facing(Axis::Y, -half))
                .key(OPEN, Pose::IDENTITY.facing(Axis::Y, half)),
        );
        let rules = b.build().expect("the ruleset of the benches is sound");
        let mut fight = Encounter::new(&rules, 7);
        let mut numbers = Numbers::new(n as u64);
        let side = (n as f32).sqrt().ceil() as usize;
        let (mut who, mut home) = (Vec::new(), Vec::new());
        for i in 0..n {
            let jitter = [numbers.within(-0.2, 0.2), numbers.within(-0.2, 0.2)];
            let mut place =
                [(i % side) as f32 * SPACING + jitter[0], (i / side) as f32 * SPACING + jitter[1]];
            if sort == Sort::Clump && i % 3 == 0 {
                // A third of all, on a ninth of the ground.
                place = [place[0] / 3.0, place[1] / 3.0];
            }
            let giant = sort == Sort::Clump && i < 3;
            let template = if giant { templates[2] } else { templates[i % 2] };
            let pose = Pose::at([place[0], 0.0, place[1]]);
            who.push(fight.orders().spawn(template, pose));
            home.push(place);
            if i % 5 == 0 {
                fight.orders().apply(who[i], burn, None);
            }
        }
        let mut hooks = Hooks::new();
        let topics = ["hit", "combatant", "health.changed", "status"];
        for topic in topics {
            let hook = hooks.react(topic, |heard: &mut u64, _, _| *heard += 1);
            let family = rules.topics().family(topic).expect("these topics are there");
            fight.orders().subscribe(hook, Listen::under(family));
        }
        Crowd {
            fight,
            hooks,
            heard: 0,
            who,
            home,
            attack,
            tick: 0,
            numbers,
            returns: Vec::new(),
            before: vec![Pose::IDENTITY; n],
            after: vec![Pose::IDENTITY; n],
            started: Vec::new(),
            back,
        }
    }

    /// Gives the orders of the next tick: everyone moves, a hundredth start a swing, the dead return.
    pub fn orders(&mut self) {
        self.tick += 1;
        let tick = self.tick as usize;
        for (i, &who) in self.who.iter().enumerate() {
            let phase = ((tick + i * 7) % 40) as f32 / 40.0 - 0.5;
            let [x, z] = self.home[i];
            let shift = if phase < 0.0 { -phase } else { phase } * 0.6;
            let pose = Pose::at([x + shift, 0.0, z + shift * 0.5]);
            self.before[i] = std::mem::replace(&mut self.after[i], pose);
            self.fight.orders().move_to(who, pose);
        }
        let starts = self.who.len() / (10 * OPEN as usize);
        for _ in 0..starts {
            let i = (self.numbers.next() * self.who.len() as f32) as usize % self.who.len();
            let swing = self.fight.orders().start(self.who[i], self.attack);
            if self.back > 0 {
                self.fight.orders().rewind(swing, self.back);
            }
            self.started.push((swing, i, self.tick));
        }
        while let Some(&(_, i)) = self.returns.first().filter(|(at, _)| *at <= self.tick) {
            self.returns.remove(0);
            let [x, z] = self.home[i];
            self.fight.orders().bring_back(self.who[i], Pose::at([x, 0.0, z]));
        }
    }

    pub fn tick(&mut self) {
        self.tick_by(|fight, hooks, heard| fight.tick_with(hooks, heard));
    }

    /// As [`tick`](Self::tick), run by `run`.
    pub fn tick_by(
        &mut self,
        run: impl FnOnce(&mut Encounter, &Hooks<u64>, &mut u64) -> Result<Summary, TickError>,
    ) {
        run(&mut self.fight, &self.hooks, &mut self.heard).expect("the crowd fights on");
        self.note_deaths();
    }

    /// Has those who died return, half a second later.
    pub fn note_deaths(&mut self) {
        for event in self.fight.facts().events() {
            if let Event::CombatantDied(CombatantDied { subject, .. }) = event {
                self.returns.push((self.tick + 30, subject.slot()));
            }
        }
    }

    /// So many ticks, to reach a steady fight.
    pub fn warm_up(&mut self, ticks: u32) {
        for _ in 0..ticks {
            self.orders();
            self.tick();
        }
    }

    /// The blades that are open in the tick that has run.
    pub fn blades(&mut self) -> Vec<Blade> {
        let tick = self.tick;
        self.started.retain(|(_, _, at)| tick - at < OPEN);
        let running: Vec<SwingId> = self.fight.view().swings().map(|(swing, ..)| swing).collect();
        let half = TURN * OPEN as f32 * 0.5;
        let open = self.started.iter().filter(|(swing, ..)| running.binary_search(swing).is_ok());
        open.map(|&(_, owner, at)| {
            let turn = |clock: u32| -half + TURN * clock as f32;
            Blade { owner, turns: [turn(tick - at), turn(tick - at + 1)] }
        })
        .collect()
    }

    /// Whether someone stands.
    pub fn stands(&self, i: usize) -> bool {
        self.fight.view().life(self.who[i]) == Life::Standing
    }

    pub fn combatants(&self) -> &[CombatantId] {
        &self.who
    }
}

/// One pass over all parts: centre, radius, layer. What memory alone costs.
pub struct Scan {
    parts: Vec<(f32, f32, f32, f32, u32)>,
}

impl Scan {
    pub fn new(parts: usize) -> Scan {
        let mut numbers = Numbers::new(1);
        let mut part = || (numbers.next(), numbers.next(), numbers.next(), numbers.next(), 1);
        Scan { parts: (0..parts).map(|_| part()).collect() }
    }

    pub fn run(&self) -> u32 {
        let near = |p: &&(f32, f32, f32, f32, u32)| {
            p.0 * p.0 + p.1 * p.1 + p.2 * p.2 < p.3 * p.3 * 0.25 && p.4 & 3 != 0
        };
        self.parts.iter().filter(near).count() as u32
    }
}

/// Seconds that each of several things takes: interleaved rounds, the median of each.
pub fn interleaved(rounds: usize, things: &mut [&mut dyn FnMut()]) -> Vec<f64> {
    let mut times = vec![Vec::new(); things.len()];
    for _ in 0..rounds {
        for (thing, times) in things.iter_mut().zip(&mut times) {
            let start = Instant::now();
            thing();
            times.push(start.elapsed().as_secs_f64());
        }
    }
    times.into_iter().map(median).collect()
}

pub fn median(mut times: Vec<f64>) -> f64 {
    times.sort_by(f64::total_cmp);
    times[times.len() / 2]
}
