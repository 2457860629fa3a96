//! Shapes, motions and first touches, against a geometry library in double precision.
//!
//! `ORACLE_CASES=1000000 cargo test --release -p oracle` runs a million of each; `ORACLE_SEED=any` others, and tells which.

mod common;

use common::{Pair, Way, cases, shape, turned, vector};
use fastrand::Rng;
use hammerstone::geometry::Pose;
use hammerstone::geometry::{first_touch, nearest_approach, nearest_approach_below};

/// Two shapes near each other, on their way `far`, turning by up to `degrees`.
fn ways(rng: &mut Rng, far: f32, degrees: f32) -> [Way; 2] {
    let speed = far * [0.0, 0.05, 1.0, 1.0][rng.usize(..4)];
    std::array::from_fn(|i| {
        let shape = shape(rng);
        let at = Pose::at(vector(rng, if i == 0 { 3.0 } else { 1.5 }));
        let from = turned(rng, at, 180.0);
        let travel = vector(rng, speed);
        let to = Pose { at: std::array::from_fn(|i| from.at[i] + travel[i]), ..from };
        Way { shape, from, to: turned(rng, to, degrees).settled().unwrap() }
    })
}

#[test]
fn distances_at_rest_agree() {
    let (cases, mut rng) = cases(10_000);
    for case in 0..cases {
        let [one, other] = ways(&mut rng, 0.0, 0.0);
        let pair = Pair::new(one, other);
        let ours = f64::from(nearest_approach(&one.moving(), &other.moving()).distance);
        let (theirs, searched) = (pair.looked_up(0.0), pair.distance(0.0));
        let near = |theirs: f64| (ours - theirs).abs() <= pair.tolerance() * 0.2;
        assert!(near(theirs) || near(searched), "case {case}: {ours} and {theirs}: {one:?} {other:?}");
    }
}

#[test]
fn first_touches_of_what_does_not_turn_agree() {
    let (cases, mut rng) = cases(10_000);
    let (mut touching, mut apart) = (0, 0);
    for case in 0..cases {
        let [one, other] = ways(&mut rng, 8.0, 0.0);
        let pair = Pair::new(one, other);
        let ours = first_touch(&one.moving(), &other.moving());
        let theirs = pair.template();
        let told = format!("case {case}: {ours:?} and {theirs:?}: {one:?} {other:?}");
        match (&ours, theirs) {
            // No miss at all; the oracle itself is only near where shapes just graze.
            (None, Some(t)) => {
                assert!(pair.distance(t) > 1.0e-6 || pair.distance(t) == 0.0 && grazes(&pair, t), "{told}")
            }
            // Not late, unless the oracle is early: it stops a little before what it templates at.
            (Some(touch), Some(t)) => {
                let early = pair.distance(t) > 1.0e-7;
                assert!(f64::from(touch.toi) <= t + 1.0e-4 || early, "{told}");
            }
            (Some(_), None) | (None, None) => {}
        }
        if let Some(touch) = ours {
            touching += 1;
            let distance = pair.distance(touch.toi.into());
            assert!(distance <= pair.tolerance(), "{distance} apart, {told}");
            let normal: f32 = touch.normal.iter().map(|x| x * x).sum();
            assert!((normal - 1.0).abs() < 1.0e-4, "{told}");
        } else {
            apart += 1;
        }
    }
    assert!(touching > cases / 10 && apart > cases / 10, "{touching} touch, {apart} do not");
}

/// Whether they come no deeper into each other than rounding in single precision.
fn grazes(pair: &Pair, t: f64) -> bool {
    [t - 1.0e-4, t + 1.0e-4].iter().all(|&t| pair.distance(t.clamp(0.0, 1.0)) > 0.0)
}

#[test]
fn first_touches_of_what_turns_agree_with_fine_steps() {
    let (cases, mut rng) = cases(10_000);
    const STEPS: u32 = 96;
    let mut touching = 0;
    for case in 0..cases {
        let [one, other] = ways(&mut rng, 3.0, 170.0);
        let pair = Pair::new(one, other);
        let ours = first_touch(&one.moving(), &other.moving());
        let first_seen =
            (0..=STEPS).map(|i| f64::from(i) / f64::from(STEPS)).find(|&t| pair.looked_up(t) <= 0.0);
        let told = format!("case {case}: {ours:?}, seen at {first_seen:?}: {one:?} {other:?}");
        match (&ours, first_seen) {
            (None, Some(_)) => panic!("missed, {told}"),
            (Some(touch), Some(t)) => assert!(f64::from(touch.toi) <= t + 1.0e-4, "late, {told}"),
            _ => {}
        }
        if let Some(touch) = ours {
            touching += 1;
            let distance = pair.distance(touch.toi.into());
            assert!(distance <= pair.tolerance(), "{distance} apart, {told}");
        }
    }
    assert!(touching > cases / 10, "{touching} touch");
}

/// With a limit the answer is the same where they come nearer than that, and none where they do not; near the limit either will do.
#[test]
fn nearest_approaches_below_a_limit_are_the_same() {
    let (cases, mut rng) = cases(10_000);
    let (mut below, mut beyond) = (0, 0);
    for case in 0..cases {
        let [one, other] = ways(&mut rng, 3.0, 170.0);
        let (one, other) = (one.moving(), other.moving());
        let whole = nearest_approach(&one, &other);
        let limit = whole.distance * (0.5 + rng.f32()) + [0.0, 0.1, -0.1][rng.usize(..3)];
        let found = nearest_approach_below(&one, &other, limit);
        let told = format!("case {case}: {found:?}, {whole:?}, limit {limit}");
        match found {
            Some(found) => {
                below += 1;
                assert!(found.distance < limit && (found.distance - whole.distance).abs() < 0.002, "{told}");
            }
            None => {
                beyond += 1;
                assert!(whole.distance >= limit - 0.002, "{told}");
            }
        }
    }
    assert!(below > cases / 10 && beyond > cases / 10, "{below} and {beyond}");
}

#[test]
fn nearest_approaches_agree_with_fine_steps() {
    let (cases, mut rng) = cases(10_000);
    const STEPS: u32 = 48;
    // Each look is slow: a tenth of the cases is as long as the others.
    for case in 0..cases / 10 {
        let [one, other] = ways(&mut rng, 3.0, 170.0);
        let pair = Pair::new(one, other);
        let ours = nearest_approach(&one.moving(), &other.moving());
        let least =
            (0..=STEPS).map(|i| pair.distance(f64::from(i) / f64::from(STEPS))).fold(f64::INFINITY, f64::min);
        let told = format!("case {case}: {ours:?}, and {least}: {one:?} {other:?}");
        assert!(f64::from(ours.distance) <= least + 0.001 + pair.tolerance() * 0.2, "{told}");
        let there = pair.distance(ours.time.into());
        assert!((there - f64::from(ours.distance)).abs() <= pair.tolerance() * 0.2, "{there} there, {told}");
    }
}
