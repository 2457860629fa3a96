//! A game in a plane, seen from above: x to the right, y down the screen: `cargo run -p hammerstone --example flat`.

use std::error::Error;

use hammerstone::attack::Projectile;
use hammerstone::event::{Event, HitLanded};
use hammerstone::geometry::Flat;
use hammerstone::prelude::*;

const FLAT: Flat = Flat::Y_DOWN;

fn main() -> Result<(), Box<dyn Error>> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let [startup, active, recovery] = [0.2, 0.1, 0.3].map(|seconds| b.ticks(seconds));
    // A sweep to the right, which is where y goes for one who looks along x.
    let sweep = b.attack(
        Attack::melee("sweep")
            .timeline(startup, active, recovery)
            .damage(crush, 6, 6)
            .hitbox(FLAT.rectangle([1.0, 0.6], [0.7, 0.5], 0.0)),
    );
    let stone = Projectile { from: FLAT.local([0.4, 0.0]), ..Projectile::new(12.0, 120) };
    let sling = b.attack(
        Attack::projectile("sling-stone", stone)
            .timeline(startup, 1, recovery)
            .damage(crush, 3, 3)
            .hitbox(FLAT.circle([0.0, 0.0], 0.1)),
    );
    let body = FLAT.circle([0.0, 0.0], 0.4);
    let mason = b.template(Template::new("mason", masons, 40).part(Part::new("body", body)));
    let crab = b.template(Template::new("crab", beasts, 20).part(Part::new("body", body)));
    let rules = b.build()?;
    let mut fight = Encounter::new(&rules, 7);
    // Odo looks down the screen. One crab is on his right, which is then to the left on the screen; one is far ahead.
    let odo = fight.orders().spawn(mason, FLAT.pose([5.0, 2.0], 90.0));
    let beside = fight.orders().spawn(crab, FLAT.pose([4.2, 3.0], 0.0));
    let ahead = fight.orders().spawn(crab, FLAT.pose([5.0, 9.0], 0.0));
    fight.orders().start(odo, sweep);
    for tick in 0..120 {
        if tick == 40 {
            fight.orders().start(odo, sling);
        }
        fight.tick()?;
        for event in fight.facts().events() {
            if let Event::HitLanded(HitLanded { target, point, .. }) = *event {
                let [x, y] = FLAT.read_point(point);
                let which = if target == beside { "beside" } else { "ahead" };
                println!("tick {tick}: the crab {which} is hit at ({x:.2}, {y:.2})");
            }
        }
    }
    assert_eq!(fight.view().health(beside), Some((14, 20)));
    assert_eq!(fight.view().health(ahead), Some((17, 20)));
    Ok(())
}
