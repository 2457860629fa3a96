//! Projectiles that turn with their flight: the tip leads, from the bow to the ground and back again.

use hammerstone::attack::Projectile;
use hammerstone::event::{Event, HitLanded};
use hammerstone::hooks::Verdict;
use hammerstone::prelude::*;
use proptest::prelude::*;

fn rules(projectile: Projectile) -> Ruleset {
    let mut b = Ruleset::builder(60);
    let cut = b.damage_type("cut");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    // A shaft of a metre along +Z.
    let shaft = Shape::Capsule { from: [0.0, 0.0, -0.5], to: [0.0, 0.0, 0.5], radius: 0.02 };
    b.attack(Attack::projectile("arrow", projectile).timeline(0, 300, 0).damage(cut, 3, 3).hitbox(shaft));
    b.reason("parried");
    b.template(Template::new("mason", masons, 40));
    let ball = Shape::Sphere { at: [0.0; 3], radius: 0.2 };
    b.template(Template::new("hound", beasts, 40).part(Part::new("skull", ball)));
    b.build().expect("a sound ruleset")
}

/// How far off two directions are, as the sine of the angle between them, and whether they look the same way.
fn apart(one: [f32; 3], other: [f32; 3]) -> (f32, bool) {
    let cross =
        [0, 1, 2].map(|i| one[(i + 1) % 3] * other[(i + 2) % 3] - one[(i + 2) % 3] * other[(i + 1) % 3]);
    let dot: f32 = (0..3).map(|i| one[i] * other[i]).sum();
    (cross.iter().map(|x| x * x).sum::<f32>().sqrt(), dot > 0.0)
}

/// A way as a direction of length 1.
fn way(from: [f32; 3], to: [f32; 3]) -> [f32; 3] {
    let way = [0, 1, 2].map(|i| to[i] - from[i]);
    let length = way.iter().map(|x| x * x).sum::<f32>().sqrt();
    way.map(|x| x / length)
}

fn shoot(fight: &mut Encounter, aim: Pose) -> CombatantId {
    let (mason, arrow) = (fight.rules().find_template("mason"), fight.rules().find_attack("arrow"));
    let odo = fight.orders().spawn(mason.expect("it is there"), Pose::IDENTITY);
    fight.tick().expect("he joins");
    fight.orders().start_at(odo, arrow.expect("it is there"), aim);
    odo
}

proptest! {
    #![proptest_config(testkit::cases(200))]

    /// Each of a fan begins every tick with its +Z along the way that it flies in that tick, and does not roll about it unless it must.
    #[test]
    fn the_tip_leads(
        axis in [-1.0f32..1.0, -1.0f32..1.0, -1.0f32..1.0],
        degrees in -180.0f32..180.0,
        speed in 5.0f32..60.0,
        gravity in 0.0f32..30.0,
        pellets in 1..5u16,
        spread in 0.0f32..120.0,
    ) {
        let rules = rules(Projectile { gravity, pellets, spread, aligned: true, ..Projectile::new(speed, 60) });
        let mut fight = Encounter::new(&rules, 7);
        shoot(&mut fight, Pose::at([0.0, 50.0, 0.0]).turned(axis, degrees));
        for tick in 0..40 {
            fight.tick().expect("it flies");
            prop_assert_eq!(fight.view().flying().count(), usize::from(pellets));
            for body in fight.view().flying() {
                let (sine, same) = apart(body.before.direction([0.0, 0.0, 1.0]), way(body.before.at, body.pose.at));
                // The way of a tick is a difference of single numbers some 50 metres from the origin.
                prop_assert!(same && sine < 2.0e-3, "tick {tick}: {sine} off");
                let length: f32 = body.pose.turn.iter().map(|x| x * x).sum();
                prop_assert!((length - 1.0).abs() < 1.0e-5);
            }
        }
    }
}

#[test]
fn without_it_the_turn_of_the_start_is_kept() {
    let rules = rules(Projectile { gravity: 20.0, ..Projectile::new(10.0, 60) });
    let mut fight = Encounter::new(&rules, 7);
    shoot(&mut fight, Pose::at([0.0, 50.0, 0.0]));
    for _ in 0..40 {
        fight.tick().unwrap();
        assert!(fight.view().flying().all(|body| body.pose.turn == Pose::IDENTITY.turn));
    }
}

/// What a falling arrow touches it touches with its tip, half a metre before its middle is there.
#[test]
fn a_falling_arrow_strikes_with_its_tip() {
    let landed = |aligned: bool| {
        let rules = rules(Projectile { gravity: 10.0, aligned, ..Projectile::new(0.1, 200) });
        let mut fight = Encounter::new(&rules, 7);
        let hound = fight.orders().spawn(rules.find_template("hound").unwrap(), Pose::at([0.0, -20.0, 0.0]));
        shoot(&mut fight, Pose::IDENTITY);
        for _ in 0..180 {
            fight.tick().unwrap();
            let hit = |event: &Event| matches!(event, Event::HitLanded(HitLanded { target, .. }) if *target == hound);
            if fight.facts().events().any(hit) {
                return fight.view().tick();
            }
        }
        panic!("it never lands");
    };
    // It falls a third of a metre in a tick by then.
    assert_eq!(landed(false) - landed(true), 1);
}

/// What is deflected turns round.
#[test]
fn a_deflected_arrow_turns_round() {
    let rules = rules(Projectile { aligned: true, ..Projectile::new(30.0, 120) });
    let mut hooks = Hooks::<()>::new();
    hooks.intercept("parry", 0, |(), _, _| Verdict::Deflect);
    let mut fight = Encounter::new(&rules, 7);
    fight.orders().spawn(rules.find_template("hound").unwrap(), Pose::at([0.0, 0.0, 4.0]));
    shoot(&mut fight, Pose::IDENTITY);
    let ahead =
        |fight: &Encounter| fight.view().flying().next().map(|body| body.pose.direction([0.0, 0.0, 1.0])[2]);
    fight.tick_with(&hooks, &mut ()).unwrap();
    assert_eq!(ahead(&fight), Some(1.0));
    for _ in 0..12 {
        fight.tick_with(&hooks, &mut ()).unwrap();
    }
    assert!(ahead(&fight).is_some_and(|z| z < -0.99), "{:?}", ahead(&fight));
}
