//! Forty bodies in flight among boxes, and over ground of triangles.

use hammerstone::attack::Projectile;
use hammerstone::geometry::Obstacle;
use hammerstone::level::Level;
use hammerstone::prelude::*;

use crate::Numbers;

/// Bodies in flight.
pub const BODIES: usize = 40;
/// The radius of a body, in metres.
pub const PEBBLE: f32 = 0.05;
const SPEED: f32 = 60.0;

/// So many boxes, one on about a hundred square metres each.
pub fn boxes(count: usize) -> (Level, f32) {
    let wide = (count as f32 * 100.0).sqrt();
    let mut numbers = Numbers::new(count as u64);
    let mut b = Level::builder();
    for _ in 0..count {
        let half = [numbers.within(0.3, 1.5), numbers.within(0.3, 3.0), numbers.within(0.3, 1.5)];
        let at = [numbers.within(0.0, wide), half[1], numbers.within(0.0, wide)];
        let pose = Pose::at(at).turned([0.0, 1.0, 0.0], numbers.within(0.0, 360.0));
        b.solid(Obstacle::Box { pose, half });
    }
    (b.build().expect("boxes are sound"), wide)
}

/// Hills of about so many triangles: their points, their triangles, and how wide they are.
pub fn hills(triangles: usize) -> (Vec<[f32; 3]>, Vec<[u32; 3]>, f32) {
    let side = (triangles as f32 / 2.0).sqrt() as u32;
    let mut numbers = Numbers::new(11);
    let height = |x: u32, z: u32, rough: f32| {
        let (x, z) = (x as f32, z as f32);
        (x * 0.07).sin() * (z * 0.05).cos() * 4.0 + rough
    };
    let points = (0..=side).flat_map(|z| (0..=side).map(move |x| (x, z)));
    let points = points.map(|(x, z)| [x as f32, height(x, z, numbers.within(-0.3, 0.3)), z as f32]).collect();
    let corner = |x: u32, z: u32| z * (side + 1) + x;
    let cells = (0..side).flat_map(|z| (0..side).map(move |x| (x, z)));
    let triangles = cells.flat_map(|(x, z)| {
        let [a, b, c, d] = [corner(x, z), corner(x + 1, z), corner(x, z + 1), corner(x + 1, z + 1)];
        [[a, b, c], [b, d, c]]
    });
    (points, triangles.collect(), side as f32)
}

/// The ways of so many bodies in one tick over a ground of that width.
pub fn ways(wide: f32, count: usize) -> Vec<[[f32; 3]; 2]> {
    let mut numbers = Numbers::new(5);
    let step = SPEED / 60.0;
    (0..count)
        .map(|_| {
            let from =
                [numbers.within(2.0, wide - 2.0), numbers.within(-4.0, 6.0), numbers.within(2.0, wide - 2.0)];
            let angle = numbers.within(0.0, std::f32::consts::TAU);
            let down = numbers.within(-0.4, 0.1);
            [from, [from[0] + angle.cos() * step, from[1] + down * step, from[2] + angle.sin() * step]]
        })
        .collect()
}

/// A fight with nothing but bodies in flight in a level.
pub struct Flights {
    fight: Encounter,
    stone: AttackId,
    team: TeamId,
    wide: f32,
    numbers: Numbers,
    /// How many met something.
    pub stopped: usize,
}

impl Flights {
    pub fn new(level: &Level, wide: f32) -> Flights {
        let mut b = Ruleset::builder(60);
        let team = b.team("masons");
        let stone = b.attack(
            Attack::projectile("stone", Projectile::new(SPEED, 90))
                .timeline(0, 1, 0)
                .hitbox(Shape::Sphere { at: [0.0; 3], radius: PEBBLE }),
        );
        let rules = b.build().expect("the ruleset of the bench is sound");
        let fight = Encounter::in_level(&rules, level, 1);
        Flights { fight, stone, team, wide, numbers: Numbers::new(3), stopped: 0 }
    }

    pub fn tick(&mut self) {
        let flying = self.fight.view().swings().count();
        for _ in flying..BODIES {
            let numbers = &mut self.numbers;
            let at =
                [numbers.within(0.0, self.wide), numbers.within(0.5, 6.0), numbers.within(0.0, self.wide)];
            let pose = Pose::at(at).turned([0.0, 1.0, 0.0], numbers.within(0.0, 360.0));
            self.fight.orders().spawn_attack(self.stone, self.team, pose);
        }
        self.fight.tick().expect("a tick");
        let stops = self.fight.facts().events().filter(|event| event.topic() == topic::PROJECTILE_STOPPED);
        self.stopped += stops.count();
    }
}
