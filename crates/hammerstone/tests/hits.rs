//! Hits that are never wrong: once over all lives, turns as written, guides that sweep from nowhere, times that are kept.

use hammerstone::Fixed;
use hammerstone::attack::Projectile;
use hammerstone::event::{AttackEnded, DamageDealt, HitLanded};
use hammerstone::event::{Event, SwingEnd};
use hammerstone::findings::{Finding, Problem};
use hammerstone::flow::{Group, Waves};
use hammerstone::geometry;
use hammerstone::geometry::{Axis, Obstacle};
use hammerstone::ids::TopicId;
use hammerstone::orders::Refusal;
use hammerstone::prelude::*;

fn ball(at: [f32; 3], radius: f32) -> Shape {
    Shape::Sphere { at, radius }
}

fn count(fight: &Encounter, topic: TopicId) -> usize {
    fight.facts().events().filter(|event| event.topic() == topic).count()
}

/// Hits on one who dies and returns three times within one swing.
fn hits_over_lives(policy: Policy) -> (u64, Vec<i64>) {
    let mut b = Ruleset::builder(60);
    let heat = b.damage_type("heat");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let tide = b.reason("tide");
    let cloud = b.attack(
        Attack::area("cloud")
            .timeline(0, 60, 0)
            .hitbox(ball([0.0; 3], 2.0))
            .policy(policy)
            .damage(heat, 1, 100),
    );
    let part = Part::new("trunk", ball([0.0; 3], 0.5));
    let hound = b.template(Template::new("hound", beasts, 200).part(part));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 5);
    let hound = fight.orders().spawn(hound, Pose::IDENTITY);
    fight.orders().spawn_attack(cloud, masons, Pose::IDENTITY);
    let mut amounts = Vec::new();
    for tick in 0..60 {
        match tick % 20 {
            10 => drop(fight.orders().damage(hound, heat, Fixed::whole(500), tide)),
            15 => drop(fight.orders().bring_back(hound, Pose::IDENTITY)),
            _ => {}
        }
        fight.tick().unwrap();
        for event in fight.facts().events() {
            if let Event::DamageDealt(DamageDealt { hit: Some(_), amount, .. }) = *event {
                amounts.push(amount);
            }
        }
    }
    (fight.counts().hits, amounts)
}

#[test]
fn once_is_once_over_all_lives() {
    assert_eq!(hits_over_lives(Policy::Once).0, 1);
    assert_eq!(hits_over_lives(Policy::Window).0, 1, "one window, one hit");
    let (hits, amounts) = hits_over_lives(Policy::Life);
    assert_eq!(hits, 4, "a policy that counts anew in each life");
    assert_ne!(amounts[0], amounts[1], "the ordinal goes on, so that a new life does not repeat its rolls");
    assert_ne!(amounts[1], amounts[2]);
}

/// The targets that a swing of an arm of two metres strikes, of twelve posts around it, by the hour.
fn struck_by(keys: &[(u32, f32)], opens: u32, window: u32) -> Vec<usize> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let mut sweep = Attack::melee("sweep").timeline(opens, window, 1).hitbox(ball([0.0, 0.0, 2.0], 0.2));
    for &(at, degrees) in keys {
        sweep = sweep.key_turned(at, [0.0; 3], [0.0, 1.0, 0.0], degrees);
    }
    let sweep = b.attack(sweep.damage(crush, 1, 1));
    let mason = b.template(Template::new("mason", masons, 10));
    let post = b.template(Template::new("post", beasts, 10).part(Part::new("stem", ball([0.0; 3], 0.2))));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let posts: Vec<CombatantId> = (0..12)
        .map(|hour| {
            let turned = Pose::IDENTITY.facing(Axis::Y, hour as f32 * 30.0);
            let [x, _, z] = turned.direction([0.0, 0.0, 1.0]);
            fight.orders().spawn(post, Pose::at([x * 2.0, 0.0, z * 2.0]))
        })
        .collect();
    fight.orders().start(odo, sweep);
    let mut struck = Vec::new();
    for _ in 0..40 {
        fight.tick().unwrap();
        for event in fight.facts().events() {
            if let Event::HitLanded(HitLanded { target, .. }) = *event {
                struck.extend(posts.iter().position(|&post| post == target));
            }
        }
    }
    struck
}

#[test]
fn a_path_turns_through_the_degrees_as_written() {
    let all: Vec<usize> = (0..12).collect();
    let sorted = |mut hours: Vec<usize>| {
        hours.sort_unstable();
        hours
    };
    assert_eq!(sorted(struck_by(&[(0, 0.0), (20, 360.0)], 0, 20)), all, "a whole turn strikes everyone");
    assert_eq!(sorted(struck_by(&[(5, 0.0), (6, 360.0)], 5, 1)), all, "also within one tick");
    assert_eq!(sorted(struck_by(&[(5, 0.0), (6, -1080.0)], 5, 1)), all, "and three times round");
    let three_quarters = struck_by(&[(0, 0.0), (20, 270.0)], 0, 20);
    assert_eq!(three_quarters, (0..10).collect::<Vec<_>>(), "forwards, and not a quarter backwards");
    let front = struck_by(&[(0, 100.0), (20, -100.0)], 0, 20);
    assert_eq!(front, [3, 2, 1, 0, 11, 10, 9], "through the front");
    let short = struck_by(&[(0, -70.0), (10, 70.0)], 0, 10);
    assert_eq!(short, [10, 11, 0, 1, 2], "what is less than half a turn goes the shorter way, as ever");
}

#[test]
fn turns_about_different_axes_are_told_apart_and_too_fast_is_a_finding() {
    let turned = |attack: Attack, at, axis, degrees| attack.key_turned(at, [0.0; 3], axis, degrees);
    let up = [0.0, 1.0, 0.0];
    let sweep = || Attack::melee("sweep").timeline(1, 4, 1).hitbox(ball([0.0, 0.0, 1.0], 0.2));
    let clear = turned(turned(sweep(), 1, up, -30.0), 5, [0.0, -2.0, 0.0], 60.0);
    assert_eq!(clear.unclear_turn(), None, "the same axis, whichever way it points");
    let unclear = turned(turned(sweep(), 1, up, -30.0), 5, [1.0, 0.0, 0.0], 60.0);
    assert_eq!(unclear.unclear_turn(), Some((1, 5)));
    let mut b = Ruleset::builder(60);
    b.team("masons");
    b.attack(turned(turned(sweep(), 1, up, 0.0), 2, up, 5000.0));
    let found = b.build().unwrap_err();
    assert!(matches!(found.0[0].problem, Problem::TooLarge { value: 5000.0, .. }), "{found}");
}

#[test]
fn the_first_guide_of_a_swing_sweeps_from_nowhere() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let hook = b.attack(
        Attack::melee("hook").timeline(0, 10, 1).guided().hitbox(ball([0.0; 3], 0.2)).damage(crush, 1, 1),
    );
    let mason = b.template(Template::new("mason", masons, 10));
    let post = b.template(Template::new("post", beasts, 10).part(Part::new("stem", ball([0.0; 3], 0.2))));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let near = fight.orders().spawn(post, Pose::at([0.0, 0.0, 2.0]));
    let far = fight.orders().spawn(post, Pose::at([0.0, 0.0, 6.0]));
    let swing = fight.orders().start(odo, hook);
    // Half way between the attacker and the hand stands someone.
    fight.orders().guide(swing, Pose::at([0.0, 0.0, 4.0]));
    fight.tick().unwrap();
    assert_eq!(fight.counts().hits, 0, "nobody half way is struck");
    fight.orders().guide(swing, Pose::at([0.0, 0.0, 5.0]));
    fight.orders().guide(swing, Pose::at([0.0, 0.0, 7.0]));
    fight.tick().unwrap();
    assert_eq!(fight.counts().hits, 1, "the last of a tick counts, and sweeps from where the hand was");
    assert_eq!(fight.view().health(far), Some((9, 10)));
    assert_eq!(fight.view().health(near), Some((10, 10)));
}

#[test]
fn an_attack_can_start_again_when_its_time_is_up() {
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    let tap = b.attack(Attack::melee("tap").timeline(3, 2, 4).hitbox(ball([0.0; 3], 0.2)));
    let mason = b.template(Template::new("mason", masons, 10));
    let rules = b.build().unwrap();
    let total = rules.timings(tap).unwrap().frees;
    assert_eq!(total, 9);
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let (mut started, mut refused) = (0, 0);
    for tick in 0..90u32 {
        if tick % total == 0 {
            fight.orders().start(odo, tap);
        } else if tick % total == total - 1 {
            let again = Order::Start { swing: first_swing(&rules), subject: odo, attack: tap, aim: None };
            assert_eq!(fight.would_refuse(&again), Some(Refusal::Busy { ticks: 1 }), "not a tick before");
        }
        fight.tick().unwrap();
        started += count(&fight, topic::ATTACK_STARTED);
        refused += count(&fight, topic::ORDER_REFUSED);
    }
    assert_eq!((started, refused), (10, 0));
}

/// An id of a swing of another encounter.
fn first_swing(rules: &Ruleset) -> SwingId {
    let mut other = Encounter::new(rules, 1);
    let mason = other.orders().spawn(rules.find_template("mason").unwrap(), Pose::IDENTITY);
    other.orders().start(mason, rules.find_attack("tap").unwrap())
}

#[test]
fn waves_with_a_delay_keep_time() {
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    let mason = b.template(Template::new("mason", masons, 10));
    let ramp = b.spot("ramp", Pose::IDENTITY);
    let shift =
        b.waves(Waves::new("shift", mason, 1, 5).at(ramp).delay(10).next_when(99, Group::team(masons)));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    fight.orders().start_waves(shift);
    let mut came = Vec::new();
    for _ in 0..60 {
        let tick = fight.tick().unwrap().tick;
        if count(&fight, topic::ENCOUNTER_WAVE) > 0 {
            came.push(tick);
        }
    }
    assert_eq!(came, [11, 21, 31, 41, 51]);
}

#[test]
fn a_recovery_that_nothing_would_follow_is_a_finding() {
    let mut b = Ruleset::builder(60);
    b.team("masons");
    b.attack(Attack::melee("hook").timeline(0, 1, 7).hitbox(ball([0.0; 3], 0.2)).marked(60));
    let found = b.build().unwrap_err();
    assert!(found.0.iter().any(|finding| matches!(finding.problem, Problem::RecoveryUnused)), "{found}");
}

#[test]
fn what_is_too_large_too_far_or_too_fast_is_refused() {
    let mut b = Ruleset::builder(60);
    b.team("masons");
    b.attack(Attack::area("vast").timeline(0, 1, 0).hitbox(ball([0.0; 3], 2.0e6)));
    b.attack(Attack::area("far").timeline(0, 1, 0).hitbox(ball([3.0e6, 0.0, 0.0], 1.0)));
    let projectile = Projectile { speed: 1.0e7, ..Projectile::new(1.0, 10) };
    b.attack(Attack::projectile("fast", projectile).timeline(0, 1, 0).hitbox(ball([0.0; 3], 1.0)));
    b.move_limit(1.0e9);
    let found = b.build().unwrap_err();
    let large = |finding: &&Finding| matches!(finding.problem, Problem::TooLarge { .. });
    assert_eq!(found.0.iter().filter(large).count(), 4, "{found}");
    let mut b = Ruleset::builder(60);
    let team = b.team("masons");
    let mason = b.template(Template::new("mason", team, 10));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    fight.tick().unwrap();
    let far = Pose::at([0.0, 1.1e6, 0.0]);
    assert_eq!(fight.would_refuse(&Order::Teleport { subject: odo, pose: far }), Some(Refusal::NotFinite));
    let vast = Obstacle::Sphere { at: [0.0; 3], radius: 1.0e7 };
    assert!(!vast.is_solid());
    assert!(geometry::Moving::new(ball([0.0; 3], f32::NAN), Pose::IDENTITY, Pose::IDENTITY).is_err());
    assert!(geometry::Moving::new(ball([0.0; 3], 1.0), far, Pose::IDENTITY).is_err());
}

/// What flies out of the world ends, and nothing that is not finite is left behind.
#[test]
fn what_leaves_the_world_ends() {
    let mut b = Ruleset::builder(1);
    let masons = b.team("masons");
    let projectile = Projectile { speed: 9.0e5, ..Projectile::new(1.0, 1000) };
    let bolt = b.attack(Attack::projectile("bolt", projectile).timeline(0, 1, 0).hitbox(ball([0.0; 3], 0.1)));
    b.template(Template::new("mason", masons, 10));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    fight.orders().spawn_attack(bolt, masons, Pose::IDENTITY);
    let mut ends = Vec::new();
    for _ in 0..5 {
        fight.tick().unwrap();
        ends.extend(fight.facts().events().filter_map(|event| match event {
            Event::AttackEnded(AttackEnded { why, .. }) => Some(*why),
            _ => None,
        }));
    }
    assert_eq!(ends, [SwingEnd::Expired]);
}
