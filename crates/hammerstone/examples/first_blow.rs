//! The first page: two combatants, one swing, a hook, a death.
//!
//! Run it with `cargo run -p hammerstone --example first_blow`.

use hammerstone::event::CombatantDied;
use hammerstone::event::Event;
use hammerstone::prelude::*;

/// The game's own world, lent to hooks for the tick.
#[derive(Default)]
struct Game {
    score: u32,
    lines: Vec<String>,
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    // Everything that a designer may tune is data, checked once.
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let ball = |radius| Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius });
    let mason = b.template(Template::new("mason", masons, 40).part(ball(0.4)));
    let hound = b.template(Template::new("hound", beasts, 12).part(ball(0.5)));
    let head = Shape::Capsule { from: [0.0, 1.0, 0.5], to: [0.0, 1.0, 1.5], radius: 0.2 };
    let maul = b.attack(Attack::melee("maul").timeline(12, 10, 20).damage(crush, 14, 14).hitbox(head));
    let rules = b.build()?;

    // A hook reacts to facts. It hears nothing until it is subscribed.
    let mut hooks = Hooks::<Game>::new();
    let reward = hooks.react("reward", |game, heard, _orders| {
        if let Event::CombatantDied(CombatantDied { life, overkill, .. }) = heard.event {
            game.score += 10;
            game.lines.push(format!("tick {}: life {life} ends, {overkill} beyond", heard.facts.tick));
        }
    });

    // One door for orders; ids are there at once.
    let mut game = Game::default();
    let mut fight = Encounter::new(&rules, 7);
    let mut orders = fight.orders();
    let odo = orders.spawn(mason, Pose::IDENTITY);
    let beast = orders.spawn(hound, Pose::at([0.0, 0.0, 1.6]));
    orders.subscribe(reward, Listen::to(topic::COMBATANT_DIED));
    orders.start(odo, maul);

    let mut hits = 0;
    for _ in 0..60 {
        hits += fight.tick_with(&hooks, &mut game)?.hits;
    }

    // The maul was in the hound for ten ticks; it struck once, and the hound died once.
    println!("{hits} hit, score {}; {}", game.score, game.lines.join("; "));
    assert_eq!((hits, game.score), (1, 10));
    assert_eq!(game.lines, ["tick 13: life 1 ends, 2 beyond"]);
    assert_eq!(fight.view().life(beast), Life::Dead);
    Ok(())
}
