//! A host that finds contacts with its own physics: it reports them, and they pass the same gates.
//!
//! Duplicates, parts in any order and swings that are over do no damage. Run it with
//! `cargo run -p hammerstone --example host_physics`.

use hammerstone::Fixed;
use hammerstone::event::Event;
use hammerstone::event::{HitLanded, HitRefused, OrderRefused};
use hammerstone::orders::Touch;
use hammerstone::prelude::*;

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    // The shapes are the host's own business; these are never met here, for the blade is nowhere near.
    let part = |name| Part::new(name, Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let mason = b.template(Template::new("mason", masons, 40).part(part("trunk")));
    let hound = b.template(
        Template::new("hound", beasts, 40)
            .part(part("skull").multiplier(Fixed::ratio(3, 2)))
            .part(part("tail")),
    );
    let far_away = Shape::Sphere { at: [0.0, 1000.0, 0.0], radius: 0.1 };
    let maul = b.attack(Attack::melee("maul").timeline(2, 4, 2).damage(crush, 10, 10).hitbox(far_away));
    let rules = b.build()?;

    let mut fight = Encounter::new(&rules, 7);
    let mut orders = fight.orders();
    let odo = orders.spawn(mason, Pose::IDENTITY);
    let beast = orders.spawn(hound, Pose::at([0.0, 0.0, 1.0]));
    let swing = orders.start(odo, maul);

    let touch = Touch::new([0.0, 1.0, 0.8], [0.0, 0.0, -1.0]);
    let mut told = Vec::new();
    for _ in 0..10 {
        // The engine calls back once for each pair of shapes, in each frame, and once for each side of it.
        fight.orders().report(swing, beast, 0, touch);
        fight.orders().report(swing, beast, 1, touch);
        fight.orders().report(swing, beast, 0, touch);
        // It also finds the blade in its owner's hand.
        fight.orders().report(swing, odo, 0, touch);
        fight.tick()?;
        for event in fight.facts().events() {
            match event {
                Event::HitLanded(HitLanded { part, .. }) => told.push(format!("hit on part {part}")),
                Event::HitRefused(HitRefused { gate, .. }) => told.push(format!("refused: {}", gate.name())),
                Event::OrderRefused(OrderRefused { why, .. }) => told.push(format!("report refused: {why}")),
                _ => {}
            }
        }
    }
    told.dedup();
    println!("{}", told.join("\n"));
    assert_eq!(
        told,
        [
            "refused: own-body",
            "refused: closed", // before the window opens
            "hit on part 0",
            "refused: already-struck", // all the other frames
            "refused: ended",          // in the tick in which the swing ends
            "report refused: there is no such swing, or it has ended",
        ]
    );
    assert_eq!(fight.view().health(beast), Some((25, 40)));
    Ok(())
}
