//! One of each form of attack, and an intercept that deflects: what to declare, and what comes of it.
//!
//! Run it with `cargo run -p hammerstone --example attack_forms`.

use hammerstone::attack::{Beam, Projectile, Sharing, When};
use hammerstone::geometry::Axis;
use hammerstone::hooks::Verdict;
use hammerstone::prelude::*;

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let (crush, heat) = (b.damage_type("crush"), b.damage_type("heat"));
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let trunk =
        Part::new("trunk", Shape::Capsule { from: [0.0, 0.4, 0.0], to: [0.0, 1.4, 0.0], radius: 0.3 });
    let mason = b.template(Template::new("mason", masons, 100).part(trunk.clone()));
    let hound = b.template(Template::new("hound", beasts, 100).part(trunk));
    let ball = |radius| Shape::Sphere { at: [0.0, 0.0, 0.0], radius };

    // Carried: a hammer's head on a path of poses, from one side to the other.
    let maul = Attack::melee("maul")
        .timeline(6, 10, 12)
        .damage(crush, 10, 10)
        .hitbox(Shape::Sphere { at: [0.0, 1.0, 1.2], radius: 0.3 })
        .key(6, Pose::IDENTITY.facing(Axis::Y, 80.0))
        .key(16, Pose::IDENTITY.facing(Axis::Y, -80.0));
    // Projectile: three pebbles in a fan, each with a struck list of its own; where one hits, splinters fly.
    let fan = Projectile { from: [0.0, 1.0, 0.4], pellets: 3, spread: 10.0, ..Projectile::new(40.0, 60) };
    let pebbles = Attack::projectile("pebbles", fan)
        .timeline(3, 1, 6)
        .sharing(Sharing::Body)
        .damage(crush, 2, 2)
        .hitbox(ball(0.05))
        .child(When::Hit, "splinters");
    // Placed: there for a while, with a turn every ten ticks.
    let splinters = Attack::area("splinters")
        .timeline(0, 15, 0)
        .policy(Policy::Interval(10))
        .damage(crush, 1, 1)
        .hitbox(ball(0.5));
    // Beam: the nearest target only, four turns a second.
    let beam = Beam { from: [0.0, 1.0, 0.4], reach: 10.0, radius: 0.0, pierce: 0 };
    let beam = Attack::beam("beam", beam).timeline(0, 60, 0).policy(Policy::Interval(15)).damage(heat, 3, 3);
    // Touch: the body itself hurts whom it meets.
    let thorns = Attack::touch("thorns").timeline(0, 120, 0).policy(Policy::Interval(60)).damage(crush, 1, 1);
    b.attack(splinters);
    let [maul, pebbles, beam, thorns] = [maul, pebbles, beam, thorns].map(|attack| b.attack(attack));
    let rules = b.build()?;

    // An intercept is asked before anything has come of an attempt. This hound turns maul strokes aside.
    let mut hooks = Hooks::<()>::new();
    hooks.intercept(
        "parry",
        0,
        move |(), attempt, _| {
            if attempt.attack == maul { Verdict::Deflect } else { Verdict::Proceed }
        },
    );

    for (attack, apart) in [(maul, 1.2), (pebbles, 3.0), (beam, 5.0), (thorns, 0.5)] {
        let mut fight = Encounter::new(&rules, 7);
        let mut orders = fight.orders();
        let odo = orders.spawn(mason, Pose::IDENTITY);
        let beast = orders.spawn(hound, Pose::at([0.0, 0.0, apart]));
        orders.start(odo, attack);
        for _ in 0..120 {
            fight.tick_with(&hooks, &mut ())?;
        }
        let (health, _) = fight.view().health(beast).ok_or("the hound is gone")?;
        let name = rules.attack_name(attack).unwrap_or_default();
        println!(
            "{name:8} {} hits, {} refused, the hound has {health} left",
            fight.counts().hits,
            fight.counts().refusals()
        );
        let expected = match name {
            "maul" => 100,                // deflected
            "pebbles" => 100 - 3 * 2 - 6, // three bodies; the splinters of each have two turns
            "beam" => 100 - 4 * 3,        // four turns
            _ => 100 - 2,                 // at once, and a second later
        };
        assert_eq!(health, expected, "{name}");
    }
    Ok(())
}
