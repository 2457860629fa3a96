//! A fight is saved, runs on, and is taken back to the save: it comes to the same again. A tick is confirmed before its sounds play.
//!
//! Run it with `cargo run -p hammerstone --example saves`.

use hammerstone::prelude::*;

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let mason = b.template(Template::new("mason", masons, 100).part(trunk.clone()));
    let hound = b.template(Template::new("hound", beasts, 60).part(trunk));
    let maul = b.attack(
        Attack::melee("maul")
            .timeline(6, 4, 10)
            .damage(crush, 8, 14)
            .hitbox(Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.5 }),
    );
    let rules = b.build()?;

    // A hook that watches hears of a tick only when the host confirms it: what it does cannot be taken back.
    let mut hooks = Hooks::<Vec<String>>::new();
    let thuds = hooks.watch("thuds", |played: &mut Vec<String>, heard| {
        played.push(format!("thud in tick {}", heard.facts.tick));
    });
    let mut played = Vec::new();

    let mut fight = Encounter::new(&rules, 7);
    let mut orders = fight.orders();
    let odo = orders.spawn(mason, Pose::IDENTITY);
    let beast = orders.spawn(hound, Pose::at([0.0, 0.0, 1.2]));
    orders.subscribe(thuds, Listen::to(topic::HIT_LANDED));
    orders.start(odo, maul);
    fight.tick_with(&hooks, &mut played)?;

    // The state, the orders that wait, and all random draws to come are in a save; the ruleset is not.
    let saved = fight.save()?;
    let run = |fight: &mut Encounter, played: &mut Vec<String>| -> Result<u64, TickError> {
        for _ in 0..20 {
            fight.tick_with(&hooks, played)?;
        }
        Ok(fight.checksum())
    };
    let first = run(&mut fight, &mut played)?;
    fight.restore(&saved)?;
    let again = run(&mut fight, &mut played)?;
    println!(
        "{} bytes saved; the checksum after 20 ticks is {first:016x}, and {again:016x} when run again",
        saved.bytes()
    );
    assert_eq!(first, again);
    assert!(played.is_empty(), "no tick is confirmed yet");

    // The blow that ran twice sounds once.
    let calls = fight.confirm(&hooks, &mut played);
    println!("{calls} call: {played:?}");
    assert_eq!((calls, played.len()), (1, 1));

    // The same ticks from another save of the same state come to the same in another encounter, too.
    let mut other = Encounter::new(&rules, 0);
    other.restore(&saved)?;
    assert_eq!(run(&mut other, &mut played)?, first);
    println!("the hound has {:?} left in both", other.view().health(beast).map(|(points, _)| points));
    Ok(())
}
