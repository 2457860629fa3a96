//! Whole ticks against brute force: the broad phase against all pairs, the struck lists against a simple model.

mod common;

use hammerstone::event::ContactMet;
use std::collections::{BTreeMap, BTreeSet};

use common::{cases, shape, turned, vector, within};
use fastrand::Rng;
use hammerstone::event::Event;
use hammerstone::geometry::{Moving, first_touch};
use hammerstone::orders::Touch;
use hammerstone::prelude::*;
use hammerstone::team::Relations;

/// A crowd in one place, a few far away, now and then a giant; everything moves.
struct Crowd {
    rules: Ruleset,
    templates: Vec<(TemplateId, Vec<Shape>)>,
    attacks: Vec<(AttackId, Shape)>,
}

fn crowd(rng: &mut Rng) -> Crowd {
    let mut b = Ruleset::builder(60);
    let team = b.team("all");
    b.move_limit(1.0e6);
    let templates = (0..6)
        .map(|i| {
            let shapes: Vec<Shape> = (0..1 + i % 3).map(|_| shape(rng)).collect();
            let mut template = Template::new(&format!("cast {i}"), team, 10);
            for (j, shape) in shapes.iter().enumerate() {
                template = template.part(Part::new(&format!("part {j}"), *shape));
            }
            (b.template(template), shapes)
        })
        .collect();
    let attacks = (0..4)
        .map(|i| {
            let shape = shape(rng);
            let attack =
                Attack::melee(&format!("attack {i}")).timeline(0, 1, 0).strikes(Relations::ANY).hitbox(shape);
            (b.attack(attack), shape)
        })
        .collect();
    Crowd { rules: b.build().unwrap(), templates, attacks }
}

#[test]
fn the_broad_phase_finds_what_all_pairs_find() {
    let (cases, mut rng) = cases(10_000);
    let (mut done, mut found) = (0, 0);
    // Each crowd has thousands of pairs; cases count those.
    while done < cases {
        let Crowd { rules, templates, attacks } = crowd(&mut rng);
        let mut fight = Encounter::new(&rules, 1);
        let spread = [2.0, 10.0, 60.0, 4000.0][rng.usize(..4)];
        let mut ways = Vec::new();
        for _ in 0..30 {
            let (template, shapes) = &templates[rng.usize(..templates.len())];
            let (_, hitbox) = &attacks[rng.usize(..attacks.len())];
            let from = Pose::at(vector(&mut rng, spread));
            let from = turned(&mut rng, from, 180.0);
            let travel = [0.0, 0.1, 5.0, 500.0][rng.usize(..4)];
            let to = Pose { at: from.at.map(|x| x + within(&mut rng, travel)), ..from };
            let to = turned(&mut rng, to, 40.0);
            let who = fight.orders().spawn(*template, from);
            ways.push((who, shapes, *hitbox, from, to));
        }
        fight.tick().unwrap();
        for (who, _, hitbox, _, to) in &ways {
            fight.orders().move_to(*who, *to);
            let attack = attacks.iter().find(|(_, shape)| shape == hitbox).unwrap().0;
            fight.orders().start(*who, attack);
        }
        fight.tick().unwrap();
        let mut ours = BTreeSet::new();
        for event in fight.facts().events() {
            if let Event::ContactMet(ContactMet { attacker: Some(attacker), target, .. }) = *event {
                ours.insert((attacker, target));
            }
        }
        let mut theirs = BTreeSet::new();
        for (attacker, _, hitbox, from, to) in &ways {
            for (target, shapes, _, target_from, target_to) in
                ways.iter().filter(|(target, ..)| target != attacker)
            {
                done += 1;
                let still = Pose::IDENTITY;
                let blade = Moving::within(*hitbox, still, still, *from, *to).unwrap();
                let touches = |shape: &Shape| {
                    first_touch(&blade, &Moving::new(*shape, *target_from, *target_to).unwrap()).is_some()
                };
                if shapes.iter().any(touches) {
                    theirs.insert((*attacker, *target));
                }
            }
        }
        assert_eq!(ours, theirs, "spread {spread}");
        found += theirs.len() as u64;
    }
    assert!(found > done / 200, "{found} of {done} pairs touch");
}

/// Reports in any order, of any part, many times over, of ended swings and of strangers; against a map from pairs to ticks.
#[test]
fn struck_lists_agree_with_a_simple_model() {
    let (cases, mut rng) = cases(10_000);
    let mut reports = 0;
    while reports < cases {
        let mut b = Ruleset::builder(60);
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let trunk = |name: &str| Part::new(name, Shape::Sphere { at: [0.0; 3], radius: 0.1 });
        let mason = b.template(Template::new("mason", masons, 1_000_000));
        let hound =
            b.template(Template::new("hound", beasts, 1_000_000).part(trunk("skull")).part(trunk("tail")));
        let every = rng.u32(1..6);
        let policies = [Policy::Once, Policy::Window, Policy::Interval(every), Policy::Entry(every - 1)];
        let policy = policies[rng.usize(..4)];
        let far = Shape::Sphere { at: [0.0, 500.0, 0.0], radius: 0.1 };
        let maul = b.attack(Attack::melee("maul").timeline(0, 6, 0).again(0, 7).policy(policy).hitbox(far));
        let rules = b.build().unwrap();
        let mut fight = Encounter::new(&rules, rng.u64(..));
        let masons: Vec<_> = (0..3).map(|_| fight.orders().spawn(mason, Pose::IDENTITY)).collect();
        let hounds: Vec<_> =
            (0..4).map(|i| fight.orders().spawn(hound, Pose::at([i as f32, 0.0, 0.0]))).collect();
        let swings: Vec<_> = masons.iter().map(|&mason| fight.orders().start(mason, maul)).collect();
        // The model: when each swing struck each target last, and in which window.
        let mut model: BTreeMap<(SwingId, CombatantId), (u32, u32)> = BTreeMap::new();
        // For a policy by entry: when they last met, and whether this stay has had its turn, or came too early for one.
        let mut stays: BTreeMap<(SwingId, CombatantId), (u32, bool)> = BTreeMap::new();
        let mut hits = 0u64;
        for tick in 1..=20u32 {
            let mut met = BTreeSet::new();
            for _ in 0..rng.usize(..12) {
                reports += 1;
                let (swing, target) = (swings[rng.usize(..3)], hounds[rng.usize(..4)]);
                let touch = Touch::new(vector(&mut rng, 1.0), [0.0, 1.0, 0.0]);
                fight.orders().report(swing, target, rng.u16(..2), touch);
                met.insert((swing, target));
            }
            fight.tick().unwrap();
            let window = match tick {
                1..=6 => 1,
                7..=13 => 2,
                _ => continue,
            };
            for pair in met {
                let last = model.get(&pair).map(|(last, _)| *last);
                let (seen, spent) = stays.entry(pair).or_insert((0, false));
                if *seen + 1 < tick {
                    *spent =
                        matches!((policy, last), (Policy::Entry(least), Some(last)) if tick - last < least);
                }
                *seen = tick;
                let may = match (policy, model.get(&pair)) {
                    (_, None) => true,
                    (Policy::Once | Policy::Life, Some(_)) => false,
                    (Policy::Window, Some((_, last))) => *last != window,
                    (Policy::Interval(every), Some((last, _))) => tick - last >= every,
                    (Policy::Entry(_), Some(_)) => !*spent,
                };
                if may {
                    *spent = true;
                    model.insert(pair, (tick, window));
                    hits += 1;
                }
            }
            assert_eq!(fight.counts().hits, hits, "tick {tick}, {policy:?}");
        }
    }
}
