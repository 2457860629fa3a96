//! Posed parts and hitboxes, from pose to pose, against a search in double precision: which part is met first, and when.

mod common;

use std::collections::BTreeMap;

use common::{Pair, Way, cases, shape, turned, vector};
use fastrand::Rng;
use hammerstone::event::{ContactMet, Event};
use hammerstone::geometry::{Frame, Pose, Shape};
use hammerstone::prelude::*;

/// How many moments of the tick are looked at.
const MOMENTS: u32 = 160;

/// Shapes with the poses at which they begin and end.
fn ways(rng: &mut Rng, count: usize, near: f32) -> Vec<Way> {
    (0..count)
        .map(|_| {
            let shape = shape(rng);
            let at = Pose::at(vector(rng, near));
            let from = turned(rng, at, 180.0);
            let far = [0.0, 0.3, 3.0][rng.usize(..3)];
            let travel = vector(rng, far);
            let to = Pose { at: std::array::from_fn(|i| from.at[i] + travel[i]), ..from };
            let degrees = [0.0, 20.0, 120.0][rng.usize(..3)];
            Way { shape, from, to: turned(rng, to, degrees) }
        })
        .collect()
}

/// One tick of a fight in which parts and hitboxes go these ways. Gives the part that each hitbox met first, and when.
fn met(hitboxes: &[Way], parts: &[Way], frame: Frame, at: [Pose; 2]) -> BTreeMap<u16, (u16, f64)> {
    let mut b = Ruleset::builder(60);
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    b.move_limit(1.0e4);
    let add = |attack: Attack, way: &Way| attack.hitbox(way.shape);
    let swing = Attack::melee("swing").guided().timeline(1, 1, 0);
    let swing = b.attack(hitboxes.iter().fold(swing, add));
    let mason = b.template(Template::new("mason", masons, 10));
    let part = |template: Template, (number, way): (usize, &Way)| {
        template.part(Part::new(&format!("part {number}"), way.shape))
    };
    let gaunt = parts.iter().enumerate().fold(Template::new("gaunt", beasts, 10).posed(1.0e4), part);
    let gaunt = b.template(gaunt);
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let mason = fight.orders().spawn(mason, at[0]);
    let gaunt = fight.orders().spawn(gaunt, at[1]);
    let swing = fight.orders().start(mason, swing);
    let mut met = BTreeMap::new();
    for end in [false, true] {
        let pose = |way: &Way| if end { way.to } else { way.from };
        let (blade, bones): (Vec<Pose>, Vec<Pose>) =
            (hitboxes.iter().map(pose).collect(), parts.iter().map(pose).collect());
        fight.orders().guide_hitboxes(swing, frame, &blade);
        fight.orders().pose_parts(gaunt, frame, &bones);
        fight.tick().unwrap();
        for event in fight.facts().events() {
            if let Event::ContactMet(ContactMet { hitbox, part, toi, .. }) = *event {
                met.insert(hitbox, (part, f64::from(toi)));
            }
        }
    }
    met
}

#[test]
fn the_first_part_is_met_at_its_time() {
    let (cases, mut rng) = cases(1500);
    let (mut touching, mut apart) = (0, 0);
    for case in 0..cases {
        let (hitboxes, parts) = (ways(&mut rng, 2, 2.5), ways(&mut rng, 3, 2.5));
        // In the world's frame where the bodies are does not matter; in their own they stand at the origin.
        let frame = if rng.bool() { Frame::World } else { Frame::Body };
        let at = match frame {
            Frame::World => std::array::from_fn(|_| {
                let at = Pose::at(vector(&mut rng, 5.0));
                turned(&mut rng, at, 180.0)
            }),
            Frame::Body => [Pose::IDENTITY; 2],
        };
        let ours = met(&hitboxes, &parts, frame, at);
        for (number, hitbox) in (0u16..).zip(&hitboxes) {
            let pairs: Vec<Pair> = parts.iter().map(|part| Pair::new(*hitbox, *part)).collect();
            let told = || format!("case {case}, hitbox {number}: {ours:?}, {hitbox:?}, {parts:?}");
            // Poses of the world go through the body's frame and back, which costs some bits.
            let slack = |pair: &Pair| pair.tolerance() + 2.0e-4;
            let found = ours.get(&number);
            if let Some(&(part, toi)) = found {
                touching += 1;
                let pair = &pairs[usize::from(part)];
                assert!(
                    pair.distance(toi) <= slack(pair),
                    "{} apart when they touch: {}",
                    pair.distance(toi),
                    told()
                );
            } else {
                apart += 1;
            }
            // No part overlaps the hitbox before that, nor at any time if none is met: not by more than the skin.
            let until = found.map_or(1.0, |(_, toi)| *toi);
            for moment in 0..=MOMENTS {
                let t = f64::from(moment) / f64::from(MOMENTS);
                if t > until - 2.0e-3 && (found.is_some() || t > until) {
                    break;
                }
                for (part, pair) in pairs.iter().enumerate() {
                    let deep = pair.distance(t) == 0.0 && overlap_lasts(pair, t);
                    assert!(!deep, "part {part} overlaps at {t} already: {}", told());
                }
            }
        }
    }
    assert!(touching > cases / 4 && apart > cases / 4, "{touching} touch, {apart} do not");
}

/// Whether two that overlap at a time still do a little before and after: what only grazes within the skin does not.
fn overlap_lasts(pair: &Pair, t: f64) -> bool {
    [-1.0e-3, 1.0e-3].into_iter().all(|more| pair.distance((t + more).clamp(0.0, 1.0)) == 0.0)
}

/// The search can tell: a part that is a tenth of a metre elsewhere is met at another time.
#[test]
fn another_pose_is_another_answer() {
    let ball = |x: f32| Way {
        shape: Shape::Sphere { at: [0.0; 3], radius: 0.5 },
        from: Pose::at([x, 0.0, 0.0]),
        to: Pose::at([x - 4.0, 0.0, 0.0]),
    };
    let still = Way { to: Pose::at([0.0; 3]), ..ball(0.0) };
    let at = [Pose::IDENTITY; 2];
    let toi = |x: f32| met(&[still], &[ball(x)], Frame::Body, at)[&0].1;
    assert!((toi(3.0) - 0.5).abs() < 1.0e-3 && (toi(3.1) - 0.525).abs() < 1.0e-3);
}
