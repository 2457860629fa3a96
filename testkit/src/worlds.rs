//! Fixed worlds, for counting what a tick has to do: the same numbers on every machine.

use hammerstone::attack::Damage;
use hammerstone::geometry::Axis;
use hammerstone::prelude::*;
use hammerstone::status::Pulse;
use hammerstone::{Load, Summary};
use proptest::strategy::{Strategy, ValueTree};
use proptest::test_runner::TestRunner;

use crate::{Fight, busy, fights, play_ticking};

/// What all ticks of a world had to do.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
pub struct Work {
    /// Names and sums, in the order of the names in [`Load`].
    pub sums: Vec<(&'static str, u64)>,
    /// The checksum of the last state.
    pub checksum: u64,
}

impl Work {
    fn add(&mut self, load: &Load) {
        let each = [
            ("ticks", 1),
            ("orders", load.orders),
            ("refused orders", load.refused_orders),
            ("swings", load.swings),
            ("hitboxes", load.hitboxes),
            ("bodies", load.bodies),
            ("touches", load.touches),
            ("attempts", load.attempts),
            ("statuses", load.statuses),
            ("facts", load.facts),
            ("heard", load.heard),
            ("passes", load.passes),
        ];
        self.sums.resize(each.len(), ("", 0));
        for (sum, (name, count)) in self.sums.iter_mut().zip(each) {
            *sum = (name, sum.1 + u64::from(count));
        }
    }
}

/// The names of the worlds.
pub const WORLDS: [&str; 3] = ["rush", "busy", "generated"];

/// Runs a world by its name; `each` is called around each tick of those that come to need no more memory, with what runs it.
pub fn run(name: &str, mut each: impl FnMut(&mut dyn FnMut())) -> Option<Work> {
    let mut work = Work::default();
    match name {
        "rush" => {
            let mut rush = Rush::new(300);
            for _ in 0..240 {
                rush.order();
                let mut load = None;
                each(&mut || load = Some(rush.fight.tick().expect("the crowd fights on").load));
                work.add(&load?);
            }
            work.checksum = rush.fight.checksum();
        }
        "busy" => {
            let (rules, hooks, mut fight) = busy();
            let (maul, mut calls) = (rules.find_attack("maul")?, 0);
            for tick in 0..600 {
                if tick % 8 == 3 {
                    let mason = fight.view().combatants().next();
                    mason.into_iter().for_each(|mason| _ = fight.orders().start(mason, maul));
                }
                let mut load = None;
                each(&mut || {
                    load = fight.tick_with(&hooks, &mut calls).ok().map(|Summary { load, .. }| load)
                });
                work.add(&load?);
            }
            work.checksum = fight.checksum();
        }
        "generated" => {
            let mut runner = TestRunner::deterministic();
            for _ in 0..20 {
                let fight: Fight = fights().new_tree(&mut runner).ok()?.current();
                let rules = crate::build(&fight.sheet);
                let last = play_ticking(
                    &rules,
                    &fight,
                    |_| {},
                    |encounter, hooks, world| {
                        let summary =
                            encounter.tick_with(hooks, world).expect("nothing interrupts the fight");
                        encounter.confirm(hooks, world);
                        work.add(&summary.load);
                    },
                );
                work.checksum ^= last.checksum();
            }
        }
        _ => return None,
    }
    Some(work)
}

/// Masons and beasts in rows, each of two parts: everyone moves in every tick, and a tenth swing blades that turn.
struct Rush {
    fight: Encounter,
    all: Vec<CombatantId>,
    sweep: AttackId,
    tick: usize,
}

impl Rush {
    fn new(n: usize) -> Rush {
        let mut b = Ruleset::builder(60);
        let (crush, heat) = (b.damage_type("crush"), b.damage_type("heat"));
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let pulse = Pulse::damage(20, vec![Damage { damage_type: heat, low: 1, high: 1 }]);
        let burn = b.status(Status::new("burn").pulse(pulse));
        let trunk = Shape::Capsule { from: [0.0, 0.6, 0.0], to: [0.0, 1.2, 0.0], radius: 0.25 };
        let head = Shape::Sphere { at: [0.0, 1.5, 0.1], radius: 0.18 };
        let of = |name: &str, team| {
            Template::new(name, team, 100_000).part(Part::new("trunk", trunk)).part(Part::new("head", head))
        };
        let templates = [b.template(of("mason", masons)), b.template(of("hound", beasts))];
        let blade = Shape::Capsule { from: [0.0, 1.0, 0.4], to: [0.0, 1.0, 1.7], radius: 0.12 };
        let sweep = b.attack(
            Attack::melee("sweep")
                .timeline(0, 10, 0)
                .damage(crush, 4, 8)
                .hitbox(blade)
                .key(0, Pose::IDENTITY.facing(Axis::Y, -70.0))
                .key(10, Pose::IDENTITY.facing(Axis::Y, 70.0)),
        );
        let rules = b.build().expect("the ruleset is sound");
        let mut fight = Encounter::new(&rules, 7);
        let mut all = Vec::new();
        for i in 0..n {
            let who = fight.orders().spawn(templates[i % 2], Pose::at(home(i)));
            if i % 5 == 0 {
                fight.orders().apply(who, burn, None);
            }
            all.push(who);
        }
        Rush { fight, all, sweep, tick: 0 }
    }

    fn order(&mut self) {
        self.tick += 1;
        for (i, &who) in self.all.iter().enumerate() {
            let [x, _, z] = home(i);
            let phase = ((self.tick + i * 7) % 40) as f32 / 40.0 - 0.5;
            let shift = phase.abs() * 0.6;
            self.fight.orders().move_to(who, Pose::at([x + shift, 0.0, z + shift * 0.5]));
            if (self.tick * 31 + i * 17).is_multiple_of(100) {
                self.fight.orders().start(who, self.sweep);
            }
        }
    }
}

fn home(i: usize) -> [f32; 3] {
    [(i % 17) as f32 * 0.92, 0.0, (i / 17) as f32 * 0.92]
}
