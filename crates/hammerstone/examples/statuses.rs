//! Statuses: damage over time that stacks, a guard, a stretch without damage (i-frames), and a status that prevents one death.
//!
//! Run it with `cargo run -p hammerstone --example statuses`.

use hammerstone::Fixed;
use hammerstone::attack::Damage;
use hammerstone::event::{DamageDealt, Event, Via};
use hammerstone::geometry::Axis;
use hammerstone::prelude::*;
use hammerstone::status::{Guard, PreventsDeath, Pulse, Stacking};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let (crush, heat) = (b.damage_type("crush"), b.damage_type("heat"));
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let mason = b.template(Template::new("mason", masons, 100).part(trunk.clone()));
    let hound = b.template(Template::new("hound", beasts, 40).part(trunk));

    // Two points of heat every half second, for each time that it was applied, at most three times.
    let pulse = Pulse::damage(30, vec![Damage { damage_type: heat, low: 2, high: 2 }]);
    let burning = b.status(Status::new("burning").lasts(120).stacking(Stacking::Stack(3)).pulse(pulse));
    // Half of what comes from before its bearer, for two seconds.
    let shell = b.status(Status::new("shell").lasts(120).guard(Guard::new(Fixed::ratio(1, 2), 60.0)));
    // Nothing passes for ten ticks.
    let dodge = b.status(Status::new("dodge").lasts(10).invulnerable());
    // One death is prevented; a point of health is left, and the status ends with it.
    let stubborn = Status::new("stubborn").prevents_death(PreventsDeath { leaves: 1, limit: 1, ends: true });
    let stubborn = b.status(stubborn);
    let maul = b.attack(
        Attack::melee("maul")
            .timeline(6, 4, 10)
            .damage(crush, 20, 20)
            .hitbox(Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.5 }),
    );
    let rules = b.build()?;

    // For each status the same fight: odo strikes a hound that bears it and faces him.
    for (name, status, times) in [("burning", burning, 3), ("shell", shell, 1), ("dodge", dodge, 1)] {
        let mut fight = Encounter::new(&rules, 7);
        let mut orders = fight.orders();
        let odo = orders.spawn(mason, Pose::IDENTITY);
        let beast = orders.spawn(hound, Pose::at([0.0, 0.0, 1.2]).facing(Axis::Y, 180.0));
        for _ in 0..times {
            orders.apply(beast, status, Some(odo));
        }
        orders.start(odo, maul);
        let mut dealt = Vec::new();
        for _ in 0..90 {
            fight.tick()?;
            for fact in fight.facts().facts {
                if let Event::DamageDealt(DamageDealt { via, amount, .. }) = fact.event {
                    let means = if matches!(via, Via::Status(_)) { "pulse" } else { "blow" };
                    dealt.push((seconds(fight.facts().tick), means, amount));
                }
            }
        }
        println!("{name}: {dealt:?}");
        let total: i64 = dealt.iter().map(|(.., amount)| amount).sum();
        assert_eq!(
            total,
            if name == "burning" {
                20 + 2 * 6
            } else if name == "shell" {
                10
            } else {
                0
            }
        );
    }

    // Three strokes would kill it; the status prevents one death.
    let mut fight = Encounter::new(&rules, 7);
    let mut orders = fight.orders();
    let odo = orders.spawn(mason, Pose::IDENTITY);
    let beast = orders.spawn(hound, Pose::at([0.0, 0.0, 1.2]));
    orders.apply(beast, stubborn, None);
    let mut health = Vec::new();
    for _ in 0..3 {
        fight.orders().start(odo, maul);
        for _ in 0..20 {
            fight.tick()?;
        }
        health.push(fight.view().health(beast).map(|(points, _)| points));
        println!("after a stroke: {:?}, statuses {}", health.last(), fight.view().statuses(beast).count());
    }
    assert_eq!(health, [Some(20), Some(1), Some(0)]);
    assert_eq!(fight.view().life(beast), Life::Dead);
    Ok(())
}

/// When a tick begins, at sixty a second.
fn seconds(tick: u32) -> String {
    format!("{:.2}s", f64::from(tick - 1) / 60.0)
}
