//! Parts that follow a skeleton: a gaunt of sixteen bones ducks under a sword of three hitboxes, and is struck when it does not.
//!
//! The game's animation gives a pose for each bone and for each hitbox of the sword, in the world, each tick. Everything between two
//! poses is swept, so that neither a fast arm nor a fast blade passes through the other.
//!
//! Run it with `cargo run -p hammerstone --example skeleton`.

use hammerstone::event::{Event, HitLanded};
use hammerstone::geometry::Frame;
use hammerstone::prelude::*;

const BONES: [&str; 16] = [
    "pelvis",
    "spine",
    "chest",
    "neck",
    "skull",
    "shoulder.l",
    "arm.l",
    "forearm.l",
    "hand.l",
    "shoulder.r",
    "arm.r",
    "forearm.r",
    "hand.r",
    "thigh.l",
    "thigh.r",
    "tail",
];

/// Where a bone is in the body's frame while the gaunt crouches so far, from 0 to 1. A game takes this from its animation.
fn bone(number: usize, crouch: f32) -> Pose {
    let height = match number {
        0..=4 => 0.9 + number as f32 * 0.2,
        5..=12 => 1.3,
        _ => 0.6,
    };
    let side = match number {
        5..=8 => 0.15 * (number - 4) as f32,
        9..=12 => -0.15 * (number - 8) as f32,
        _ => 0.0,
    };
    // It bends forward as it goes down.
    Pose::at([side, height * (1.0 - 0.55 * crouch), 0.3 * crouch]).turned([1.0, 0.0, 0.0], 60.0 * crouch)
}

/// The same in the world, for a body that is not turned.
fn in_world(body: Pose, local: Pose) -> Pose {
    Pose { at: [0, 1, 2].map(|axis| body.at[axis] + local.at[axis]), ..local }
}

/// The blade's three hitboxes at one moment of the swing, in the world: from right to left at the height of the neck.
fn blade(part: f32) -> [Pose; 3] {
    let degrees = -80.0 + 160.0 * part;
    let hilt = Pose::at([0.0, 1.6, 0.0]).turned([0.0, 1.0, 0.0], degrees);
    let along = hilt.direction([0.0, 0.0, 1.0]);
    [0.5, 0.9, 1.3].map(|out| Pose { at: [0, 1, 2].map(|axis| hilt.at[axis] + along[axis] * out), ..hilt })
}

/// One swing at a gaunt that crouches in its course, or stands. Gives the bones that were struck.
fn swing(rules: &Ruleset, crouches: bool) -> Result<Vec<String>, TickError> {
    let [mason, gaunt] = ["mason", "gaunt"].map(|name| rules.find_template(name).expect("it is there"));
    let sword = rules.find_attack("sword").expect("it is there");
    let mut fight = Encounter::new(rules, 7);
    let mason = fight.orders().spawn(mason, Pose::IDENTITY);
    let body = Pose::at([0.0, 0.0, 1.2]);
    let gaunt = fight.orders().spawn(gaunt, body);
    let swing = fight.orders().start(mason, sword);
    let mut struck = Vec::new();
    for tick in 0..10u8 {
        let part = f32::from(tick) / 9.0;
        let crouch = if crouches { (part * 4.0).min(1.0) } else { 0.0 };
        let poses: Vec<Pose> = (0..BONES.len()).map(|number| in_world(body, bone(number, crouch))).collect();
        fight.orders().pose_parts(gaunt, Frame::World, &poses);
        fight.orders().guide_hitboxes(swing, Frame::World, &blade(part));
        fight.tick()?;
        for event in fight.facts().events() {
            if let Event::HitLanded(HitLanded { part, target, .. }) = event {
                assert_eq!(*target, gaunt);
                struck.push(BONES[usize::from(*part)].to_owned());
            }
        }
    }
    Ok(struck)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let ball = |radius| Shape::Sphere { at: [0.0; 3], radius };
    let sword = Attack::melee("sword").guided().timeline(1, 8, 4).damage(crush, 5, 5);
    b.attack(sword.hitbox(ball(0.08)).hitbox(ball(0.07)).hitbox(ball(0.06)));
    b.template(Template::new("mason", masons, 40));
    // Shapes are in the frames of their bones; no bone is farther than 2.5 m from the body's place.
    let gaunt = Template::new("gaunt", beasts, 40).posed(2.5);
    b.template(BONES.iter().fold(gaunt, |gaunt, name| gaunt.part(Part::new(name, ball(0.1)))));
    let rules = b.build()?;

    let standing = swing(&rules, false)?;
    println!("standing: the sword strikes the {}", standing.join(", "));
    assert_eq!(standing.len(), 1, "once in a swing, whatever it touches");

    let crouching = swing(&rules, true)?;
    println!("crouching: the sword strikes {}", if crouching.is_empty() { "nothing" } else { "something" });
    assert!(crouching.is_empty(), "it passes above");
    Ok(())
}
