//! Parts that follow a skeleton from a file: a gaunt ducks under a mason's maul of three hitboxes, and is struck when it does not.
//!
//! The mason has sixteen parts on the joints of `mason.glb`, the gaunt nine on those of a motion capture. Each tick the game plays its
//! animations and gives the poses; everything between two poses is swept, so that neither a fast arm nor a fast maul passes through the
//! other.
//!
//! Run it with `cargo run -p hammerstone-motion --example skeleton`.

use hammerstone::event::{Event, HitLanded};
use hammerstone::geometry::{Axis, Frame};
use hammerstone::prelude::*;
use hammerstone_motion::{Animator, Axes, Clip, Skeleton};

/// Parts from a joint to another, and how thick they are.
const MASON: [(&str, &str, f32); 16] = [
    ("pelvis", "spine", 0.16),
    ("spine", "chest", 0.16),
    ("chest", "neck", 0.17),
    ("neck", "head", 0.08),
    ("head", "head", 0.13),
    ("arm.l", "forearm.l", 0.07),
    ("forearm.l", "hand.l", 0.06),
    ("hand.l", "hand.l", 0.07),
    ("arm.r", "forearm.r", 0.07),
    ("forearm.r", "hand.r", 0.06),
    ("hand.r", "hand.r", 0.07),
    ("thigh.l", "shin.l", 0.09),
    ("shin.l", "foot.l", 0.07),
    ("foot.l", "foot.l", 0.08),
    ("thigh.r", "shin.r", 0.09),
    ("shin.r", "foot.r", 0.07),
];

const GAUNT: [(&str, &str, f32); 9] = [
    ("hips", "back", 0.15),
    ("back", "skull", 0.16),
    ("skull", "skull end", 0.14),
    ("claw.l", "claw.l end", 0.06),
    ("claw.r", "claw.r end", 0.06),
    ("leg.l", "shank.l", 0.09),
    ("shank.l", "shank.l end", 0.07),
    ("leg.r", "shank.r", 0.09),
    ("shank.r", "shank.r end", 0.07),
];

/// How many ticks lead from one animation to the next.
const BLEND: u32 = 6;
const RATE: u32 = 60;

fn skeleton(name: &str, axes: Axes) -> Result<Skeleton, Box<dyn std::error::Error>> {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../scenarios/bones/");
    let bytes = std::fs::read(format!("{folder}{name}"))?;
    Ok(Skeleton::from_bytes(&bytes, "ducks", axes, &mut |_| Err("it stands alone".to_owned()))?)
}

/// The joint that a part follows, and its shape in the frame of that joint: along the bone, as it is at rest.
fn bone(skeleton: &Skeleton, (from, to, radius): (&str, &str, f32)) -> (usize, Shape) {
    let [from, to] = [from, to].map(|name| skeleton.joint(name).expect("it is there"));
    let start = [0.0; 3];
    match skeleton.offset(from, to).filter(|_| from != to) {
        Some(end) => (from, Shape::Capsule { from: start, to: end, radius }),
        None => (from, Shape::Sphere { at: start, radius }),
    }
}

/// A template with parts on these bones, and the joints that they follow.
fn body(template: Template, skeleton: &Skeleton, bones: &[(&str, &str, f32)]) -> (Template, Vec<usize>) {
    let rest = skeleton.poses(&skeleton.rest());
    let mut joints = Vec::new();
    let mut template = template.posed(3.0);
    for &one in bones {
        let (joint, shape) = bone(skeleton, one);
        template = template.part(Part::new(one.0, shape).rest(rest[joint]));
        joints.push(joint);
    }
    (template, joints)
}

fn of(poses: &[Pose], joints: &[usize]) -> Vec<Pose> {
    joints.iter().map(|&joint| poses[joint]).collect()
}

/// One sweep that starts at a tick. Gives the parts of the gaunt that it struck, each with its time in seconds.
fn fight(starts: u32) -> Result<Vec<(String, f64)>, Box<dyn std::error::Error>> {
    let mason_bones = skeleton("mason.glb", Axes::same(Axis::Y))?;
    // A capture in centimetres with z up.
    let centimetres = Axes { from: Axis::Z, to: Axis::Y, turn: 0.0, scale: 0.01 };
    let gaunt_bones = skeleton("gaunt-ducks.bvh", centimetres)?;
    let [stand, sweep] = ["stand", "sweep"].map(|name| mason_bones.animation(name));
    let ducks = gaunt_bones.animation("ducks");
    let swept = &mason_bones.animations()[sweep.expect("the mason sweeps")];

    let mut b = Ruleset::builder(RATE);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let (mason, mason_joints) = body(Template::new("mason", masons, 40), &mason_bones, &MASON);
    let (gaunt, gaunt_joints) = body(Template::new("gaunt", beasts, 40), &gaunt_bones, &GAUNT);
    let (mason, gaunt) = (b.template(mason), b.template(gaunt));
    // The window is open from one marker of the animation to the other.
    let ticks = |marker: &str| (swept.marker(marker).expect("it is marked") * f64::from(RATE)).round() as u32;
    let (opens, shuts) = (ticks("opens"), ticks("shuts"));
    let maul = |along: f32| Shape::Sphere { at: [0.0, 0.0, along], radius: 0.09 };
    let attack = Attack::melee("sweep").guided().timeline(opens, shuts - opens, 30).damage(crush, 14, 14);
    let attack = b.attack(attack.hitbox(maul(0.3)).hitbox(maul(0.6)).hitbox(maul(0.9)));
    let hitboxes = vec![mason_bones.joint("maul").expect("it has one"); 3];
    let rules = b.build()?;

    let mut fight = Encounter::new(&rules, 7);
    let mason = fight.orders().spawn(mason, Pose::IDENTITY);
    let gaunt = fight.orders().spawn(gaunt, Pose::at([0.0, 0.0, 1.65]).facing(Axis::Y, 180.0));
    let (mut of_mason, mut of_gaunt) = (Animator::default(), Animator::default());
    let mut struck = Vec::new();
    for tick in 0..starts + 90 {
        let now = f64::from(tick + 1) / f64::from(RATE);
        // What the mason plays follows from the view alone, also after a restore.
        let swing = fight.view().swings_of(mason).next();
        let clip = match &swing {
            Some(swing) => Clip::once(sweep, f64::from(swing.whole.passed + 1) / f64::from(RATE)),
            None => Clip::again(stand, now),
        };
        of_mason.play(&mason_bones, clip, BLEND);
        of_gaunt.play(&gaunt_bones, Clip::again(ducks, now), BLEND);
        let poses = of_mason.poses(&mason_bones);
        fight.orders().pose_parts(mason, Frame::Body, &of(&poses, &mason_joints));
        if let Some(swing) = swing {
            fight.orders().guide_hitboxes(swing.id, Frame::Body, &of(&poses, &hitboxes));
        }
        fight.orders().pose_parts(gaunt, Frame::Body, &of(&of_gaunt.poses(&gaunt_bones), &gaunt_joints));
        if tick == starts {
            fight.orders().start(mason, attack);
        }
        fight.tick()?;
        for event in fight.facts().events() {
            if let Event::HitLanded(HitLanded { part, target, .. }) = event {
                assert_eq!(*target, gaunt);
                struck.push((GAUNT[usize::from(*part)].0.to_owned(), f64::from(tick) / f64::from(RATE)));
            }
        }
    }
    Ok(struck)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let standing = fight(222)?;
    for (part, at) in &standing {
        println!("standing: the maul strikes the {part} at {at:.2} s");
    }
    assert_eq!(standing.len(), 1, "once in a swing, whatever it touches");

    let ducking = fight(30)?;
    println!("ducking: the maul strikes {} parts", ducking.len());
    assert!(ducking.is_empty(), "it passes above");
    Ok(())
}
