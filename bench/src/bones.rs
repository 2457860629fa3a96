//! Combatants of sixteen bones, all posed in every tick, beside the same with rigid parts.

use hammerstone::Summary;
use hammerstone::geometry::{Axis, Frame};
use hammerstone::hooks::{Host, PoseAnswer, PoseRequest};
use hammerstone::prelude::*;

use crate::{BLADE, Numbers};

/// Bones of a combatant.
pub const BONES: usize = 16;

/// How the poses of bones come into a fight.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum Bones {
    /// They do not: parts are rigid.
    Rigid,
    /// By order, for everyone in every tick.
    Ordered,
    /// Asked for by the fight, for combatants that come near a blade.
    Pulled,
}

/// A host that is asked for bones.
struct Asked {
    /// The tick that runs, counted from 0.
    t: f32,
    poses: [Vec<Pose>; 2],
}

impl Host for Asked {
    fn poses(&mut self, _request: &PoseRequest<'_>, answer: &mut PoseAnswer<'_>) {
        for (poses, t) in self.poses.iter_mut().zip([self.t - 1.0, self.t]) {
            poses.clear();
            poses.extend((0..BONES).map(|bone| posed(bone, t.max(0.0))));
        }
        let [start, end] = &self.poses;
        answer.give(Frame::Body, start, end).expect("they are within reach");
    }
}

/// A fight of so many, a tenth of them in the middle of a swing.
pub struct Ossuary {
    fight: Encounter,
    who: Vec<CombatantId>,
    home: Vec<Pose>,
    sweep: AttackId,
    bones: Bones,
    asked: Asked,
    tick: u32,
    poses: Vec<Pose>,
    pub hits: u64,
}

impl Ossuary {
    pub fn new(n: usize, bones: Bones) -> Ossuary {
        let posed = bones != Bones::Rigid;
        let mut b = Ruleset::builder(60);
        let crush = b.damage_type("crush");
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let sweep = b.attack(
            Attack::melee("sweep")
                .timeline(0, 10, 0)
                .damage(crush, 4, 8)
                .hitbox(BLADE)
                .key(0, Pose::IDENTITY.facing(Axis::Y, -70.0))
                .key(10, Pose::IDENTITY.facing(Axis::Y, 70.0)),
        );
        let template = |name: &str, team: TeamId| {
            let parts = (0..BONES).map(|bone| {
                let rest = rest(bone);
                let shape = |[x, y, z]: [f32; 3]| Shape::Capsule {
                    from: [x, y, z],
                    to: [x, y + 0.18, z],
                    radius: 0.07,
                };
                // Rigid parts are where the bones rest; a posed one is about its own joint.
                Part::new(&format!("bone {bone}"), shape(if posed { [0.0; 3] } else { rest }))
            });
            let template = parts.fold(Template::new(name, team, 1_000_000), Template::part);
            if posed { template.posed(2.5) } else { template }
        };
        let templates = [b.template(template("mason", masons)), b.template(template("hound", beasts))];
        let rules = b.build().expect("the ruleset of the bench is sound");
        let mut fight = Encounter::new(&rules, 7);
        let mut numbers = Numbers::new(n as u64);
        let side = (n as f32).sqrt().ceil() as usize;
        let mut home = Vec::new();
        let mut who = Vec::new();
        for i in 0..n {
            let x = (i % side) as f32 * 2.0 + numbers.within(-0.2, 0.2);
            let z = (i / side) as f32 * 2.0 + numbers.within(-0.2, 0.2);
            home.push(Pose::at([x, 0.0, z]));
            who.push(fight.orders().spawn(templates[i % 2], home[i]));
        }
        fight.tick().expect("all join");
        let asked = Asked { t: 0.0, poses: Default::default() };
        Ossuary { fight, who, home, sweep, bones, asked, tick: 0, poses: Vec::new(), hits: 0 }
    }

    /// Where everyone belongs.
    pub fn home(&self) -> &[Pose] {
        &self.home
    }

    /// Everyone moves, a tenth swing, every bone is posed, and the tick runs.
    pub fn tick(&mut self) {
        self.tick_by(|fight, host| fight.tick_for(host));
    }

    pub fn fight_mut(&mut self) -> &mut Encounter {
        &mut self.fight
    }

    /// As [`tick`](Self::tick), run by `run`.
    pub fn tick_by(&mut self, run: impl FnOnce(&mut Encounter, &mut dyn Host) -> Result<Summary, TickError>) {
        let t = self.tick as f32;
        self.tick += 1;
        for (i, (&who, home)) in self.who.iter().zip(&self.home).enumerate() {
            self.fight.orders().move_to(who, body(i, home, t));
            if self.bones == Bones::Ordered {
                self.poses.clear();
                self.poses.extend((0..BONES).map(|bone| posed(bone, t)));
                self.fight.orders().pose_parts(who, Frame::Body, &self.poses);
            }
            if (i as u32 + self.tick).is_multiple_of(100) {
                self.fight.orders().start(who, self.sweep);
            }
        }
        self.asked.t = t;
        let ran = match self.bones {
            Bones::Pulled => run(&mut self.fight, &mut self.asked),
            Bones::Rigid | Bones::Ordered => run(&mut self.fight, &mut ()),
        };
        self.hits += ran.expect("the fight goes on").hits;
    }
}

/// Where a combatant is at a tick.
pub fn body(i: usize, home: &Pose, t: f32) -> Pose {
    let sway = wave(t * 0.05 + i as f32) * 0.1;
    Pose::at([home.at[0] + sway, 0.0, home.at[2]]).facing(Axis::Y, sway * 900.0)
}

/// Where a bone is in the frame of its body.
pub fn posed(bone: usize, t: f32) -> Pose {
    let [x, y, z] = rest(bone);
    let swing = wave(t * 0.13 + bone as f32) * 0.12;
    // About the x axis, by a small angle, without the cost of a sine.
    let turn = [swing, 0.0, 0.0, 1.0 - swing * swing * 0.5];
    Pose { at: [x + swing, y, z + swing], turn }
}

/// Where a bone rests.
fn rest(bone: usize) -> [f32; 3] {
    [(bone % 4) as f32 * 0.12 - 0.18, (bone / 4) as f32 * 0.4 + 0.1, 0.0]
}

/// From -1 to 1 and back in four units.
fn wave(x: f32) -> f32 {
    let part = x - (x * 0.25).floor() * 4.0;
    if part < 2.0 { part - 1.0 } else { 3.0 - part }
}
