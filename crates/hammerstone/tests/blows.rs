//! Blows of one tick, and what intercepts say of them.

use hammerstone::attack::{Beam, Projectile, When};
use hammerstone::event::{CutBy, Event, Gate, Operand, SwingEnd};
use hammerstone::event::{EncounterCut, HitLanded, HitRefused};
use hammerstone::geometry::{Axis, Obstacle};
use hammerstone::hooks::Verdict;
use hammerstone::ids::ReasonId;
use hammerstone::prelude::*;

/// Two who face each other and strike in one tick; each blow kills. The one on the left reaches farther, and so strikes first.
fn duel(both_land: bool) -> (Encounter, [CombatantId; 2]) {
    let mut b = Ruleset::builder(60);
    b.both_land(both_land);
    let crush = b.damage_type("crush");
    let teams = [b.team("masons"), b.team("beasts")];
    let ball = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.5 });
    let mason = b.template(Template::new("mason", teams[0], 10).part(ball.clone()));
    let hound = b.template(Template::new("hound", teams[1], 10).part(ball));
    let thrust = |name: &str, from: f32| {
        let tip = Shape::Sphere { at: [0.0, 0.0, from], radius: 0.1 };
        let attack = Attack::melee(name).timeline(0, 1, 5).damage(crush, 10, 10).hitbox(tip);
        attack.key(0, Pose::IDENTITY).key(1, Pose::at([0.0, 0.0, 1.0]))
    };
    let (long, short) = (b.attack(thrust("long", 1.0)), b.attack(thrust("short", 0.6)));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let mut orders = fight.orders();
    let odo = orders.spawn(mason, Pose::IDENTITY);
    let beast = orders.spawn(hound, Pose::at([0.0, 0.0, 2.0]).facing(Axis::Y, 180.0));
    // Begun the other way round: the order of starting does not decide.
    orders.start(beast, short);
    orders.start(odo, long);
    fight.tick().unwrap();
    (fight, [odo, beast])
}

#[test]
fn the_earlier_impact_wins_unless_both_land() {
    let (fight, [odo, beast]) = duel(false);
    assert_eq!((fight.view().life(odo), fight.view().life(beast)), (Life::Standing, Life::Dead));
    let refused = fight.facts().events().find_map(|event| match *event {
        Event::HitRefused(HitRefused { attacker, gate, found, .. }) => Some((attacker, gate, found)),
        _ => None,
    });
    assert_eq!(refused, Some((Some(beast), Gate::Ended, Operand::SwingEnded(SwingEnd::Died))));

    let (mut fight, [odo, beast]) = duel(true);
    assert_eq!((fight.view().life(odo), fight.view().life(beast)), (Life::Dead, Life::Dead));
    assert_eq!(fight.counts().hits, 2);
    // Nothing else of the dead does: the swings are over.
    assert_eq!(fight.tick().unwrap().facts, 0);
}

/// A thrown stone, and a target whose intercept says `verdict` at the first attempt.
fn intercepted(verdict: fn(ReasonId) -> Verdict) -> (Encounter, Hooks<u32>, u32) {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let verdict = verdict(b.reason("not yet"));
    let ball = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.5 });
    let mason = b.template(Template::new("mason", masons, 10).part(ball.clone()));
    let hound = b.template(Template::new("hound", beasts, 10).part(ball));
    let pebble = Shape::Sphere { at: [0.0; 3], radius: 0.1 };
    let projectile = Projectile { from: [0.0, 0.0, 0.7], ..Projectile::new(30.0, 60) };
    let stone = b
        .attack(Attack::projectile("stone", projectile).timeline(0, 1, 0).damage(crush, 3, 3).hitbox(pebble));
    let rules = b.build().unwrap();
    let mut hooks = Hooks::new();
    hooks.intercept("once", 0, move |asked: &mut u32, attempt, _| {
        assert_eq!(attempt.view.health(attempt.target), Some((10, 10)), "nothing has come of it yet");
        *asked += 1;
        if *asked == 1 { verdict } else { Verdict::Proceed }
    });
    // Asked first, and passes: the next is asked as well.
    hooks.intercept("lenient", 5, |_, _, _| Verdict::Proceed);
    let mut fight = Encounter::new(&rules, 1);
    let mut orders = fight.orders();
    let odo = orders.spawn(mason, Pose::IDENTITY);
    orders.spawn(hound, Pose::at([0.0, 0.0, 3.0]));
    orders.start(odo, stone);
    let mut asked = 0;
    let mut hits = Vec::new();
    for _ in 0..30 {
        fight.tick_with(&hooks, &mut asked).unwrap();
        for event in fight.facts().events() {
            if let Event::HitRefused(HitRefused {
                found: Operand::Refused(by, _) | Operand::Deflected(by),
                ..
            }) = *event
            {
                assert_eq!(hooks.name(by), Some("once"));
            }
        }
        hits.extend(fight.facts().events().filter_map(|event| match *event {
            Event::HitLanded(HitLanded { attacker, target, .. }) => Some((attacker, target)),
            _ => None,
        }));
    }
    if verdict == Verdict::Deflect {
        // It flew back, for the hound, and struck the one who threw it.
        let hound = fight.view().combatants().nth(1);
        assert_eq!(hits, [(hound, odo)]);
    }
    (fight, hooks, asked)
}

#[test]
fn an_intercept_passes_refuses_lets_try_again_or_deflects() {
    type Case = (fn(ReasonId) -> Verdict, u64, u32);
    let cases: [Case; 4] = [
        (|_| Verdict::Proceed, 1, 1),
        // Refused once, the turn is spent, and the stone flies through.
        (Verdict::Refuse, 0, 1),
        // The next tick is another attempt.
        (Verdict::Retry, 1, 2),
        (|_| Verdict::Deflect, 1, 2),
    ];
    for (verdict, hits, times_asked) in cases {
        let (fight, _, asked) = intercepted(verdict);
        assert_eq!((fight.counts().hits, asked), (hits, times_asked), "{verdict:?}");
    }
}

/// A child that starts itself goes on as long as the ruleset lets it, and is then cut.
#[test]
fn a_chain_of_children_ends() {
    let mut b = Ruleset::builder(60);
    let team = b.team("masons");
    b.child_limit(3);
    let ball = Shape::Sphere { at: [0.0; 3], radius: 0.5 };
    let echo = b.attack(Attack::area("echo").timeline(0, 2, 0).hitbox(ball).child(When::End, "echo"));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    fight.orders().spawn_attack(echo, team, Pose::IDENTITY);
    let (mut started, mut cut) = (0, 0);
    for _ in 0..40 {
        fight.tick().unwrap();
        for event in fight.facts().events() {
            started += u32::from(matches!(event, Event::AttackStarted(_)));
            cut += u32::from(matches!(
                event,
                Event::EncounterCut(EncounterCut { limit: CutBy::Links, depth: 4, .. })
            ));
        }
    }
    assert_eq!((started, cut), (4, 1));
}

/// A thousand attacks on one target in one tick; it dies once, and what comes later is refused.
#[test]
fn a_thousand_blows_in_one_tick_fell_a_target_once() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let ball = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.5 });
    let mason = b.template(Template::new("mason", masons, 10));
    let hound = b.template(Template::new("hound", beasts, 250).part(ball));
    let poke = Attack::melee("poke").timeline(0, 1, 0).damage(crush, 1, 1);
    let poke = b.attack(poke.hitbox(Shape::Sphere { at: [0.0; 3], radius: 0.5 }));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    fight.orders().spawn(hound, Pose::IDENTITY);
    for _ in 0..1000 {
        let who = fight.orders().spawn(mason, Pose::IDENTITY);
        fight.orders().start(who, poke);
    }
    fight.tick().unwrap();
    let deaths = fight.facts().events().filter(|event| matches!(event, Event::CombatantDied(_))).count();
    let counts = fight.counts();
    assert_eq!((deaths, counts.attempts, counts.hits, counts.refused_by(Gate::Dead)), (1, 1000, 250, 750));
}

/// A beam is drawn to where it stops: its reach, an obstacle, or the target that it does not go through.
#[test]
fn beams_are_drawn_to_where_they_stop() {
    let mut b = Ruleset::builder(60);
    let heat = b.damage_type("heat");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let mason = b.template(Template::new("mason", masons, 10));
    let ball = Part::new("ball", Shape::Sphere { at: [0.0; 3], radius: 0.5 });
    let hound = b.template(Template::new("hound", beasts, 100).part(ball));
    let beam = |pierce| Beam { from: [0.0; 3], reach: 10.0, radius: 0.0, pierce };
    let make = |name: &str, pierce| Attack::beam(name, beam(pierce)).timeline(0, 5, 0).damage(heat, 1, 1);
    let (plain, through) = (b.attack(make("plain", 0)), b.attack(make("through", 1)));
    let rules = b.build().unwrap();
    let end = |attack, hounds: &[f32], wall: Option<f32>| {
        let mut fight = Encounter::new(&rules, 1);
        let odo = fight.orders().spawn(mason, Pose::IDENTITY);
        for &z in hounds {
            fight.orders().spawn(hound, Pose::at([0.0, 0.0, z]));
        }
        if let Some(z) = wall {
            let pose = Pose::at([0.0, 0.0, z]).facing(Axis::Y, 180.0);
            fight.orders().add_obstacle(Obstacle::Box { pose, half: [1.0, 1.0, 0.25] });
        }
        fight.orders().start(odo, attack);
        fight.tick().unwrap();
        // Between two turns it stops where it stopped.
        fight.tick().unwrap();
        (fight.beams()[0].to[2], fight.counts().hits)
    };
    let near = |(z, hits): (f32, u64), wanted: (f32, u64)| {
        assert!((z - wanted.0).abs() < 0.01 && hits == wanted.1, "{z}, {hits} hits, and not {wanted:?}");
    };
    near(end(plain, &[], None), (10.0, 0));
    near(end(plain, &[], Some(4.0)), (3.75, 0));
    near(end(plain, &[3.0, 6.0], None), (2.5, 1));
    near(end(through, &[3.0, 6.0, 8.0], None), (5.5, 2));
    near(end(through, &[3.0, 6.0], Some(4.5)), (4.25, 1));
}
