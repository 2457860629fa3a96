//! A save goes through bytes, and is opened under a ruleset that was tuned meanwhile; a fight that runs goes on under it at once.
//!
//! `cargo run -p hammerstone --example save_and_load`

use hammerstone::amount::Keep;
use hammerstone::event::Event;
use hammerstone::prelude::*;
use hammerstone::{AdoptError, Saved};

/// The ruleset of yesterday, or that of today: an attack is new and stands first, the hound has more health.
fn rules(tuned: bool) -> Ruleset {
    let mut b = Ruleset::builder(60);
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let crush = b.damage_type("crush");
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let hitbox = Shape::Sphere { at: [0.0, 1.0, 0.9], radius: 0.6 };
    if tuned {
        b.attack(Attack::melee("wedge").timeline(6, 3, 6).damage(crush, 4, 4).hitbox(hitbox));
    }
    b.attack(Attack::melee("maul").timeline(18, 6, 24).damage(crush, 10, 10).hitbox(hitbox));
    b.template(Template::new("mason", masons, 40).part(trunk.clone()));
    b.template(Template::new("hound", beasts, if tuned { 60 } else { 30 }).part(trunk));
    b.build().expect("a sound ruleset")
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let yesterday = rules(false);
    let mut fight = Encounter::new(&yesterday, 7);
    let odo = fight.orders().spawn(yesterday.find_template("mason").expect("a mason"), Pose::IDENTITY);
    let hound = yesterday.find_template("hound").expect("a hound");
    let hound = fight.orders().spawn(hound, Pose::at([0.0, 0.0, 1.0]));
    let maul = yesterday.find_attack("maul").expect("a maul");
    fight.orders().start(odo, maul);
    for _ in 0..30 {
        fight.tick()?;
    }
    let health = |fight: &Encounter| {
        let (points, maximum) = fight.view().health(hound).unwrap_or_default();
        format!("the hound has {points} of {maximum}")
    };
    println!("yesterday, after half a second: {}, and the maul swings", health(&fight));
    let bytes = fight.save()?.to_bytes();
    println!("saved: {} bytes", bytes.len());

    // The same ruleset opens it bit for bit.
    let mut again = Encounter::new(&yesterday, 0);
    again.restore(&Saved::from_bytes(&bytes)?)?;
    assert!(again.same_state(&fight));

    // Today's does not by itself, since its numbers mean other things; by name it does.
    let today = rules(true);
    let mut opened = Encounter::new(&today, 0);
    let saved = Saved::from_bytes(&bytes)?;
    println!("today: {}", opened.restore(&saved).expect_err("another ruleset"));
    opened.restore_adopting(&saved, Keep::Share)?;
    opened.tick()?;
    for event in opened.facts().events() {
        if let Event::HealthChanged(changed) = event {
            println!(
                "opened: health goes from {} to {} of {}, the share that it had",
                changed.from, changed.to, changed.max
            );
        }
    }
    let (_, _, attack) = opened.view().swings().next().expect("it goes on");
    let name = today.attack_name(attack).unwrap_or_default();
    println!("the swing of {name} goes on, which has number {} today", attack.index());

    // A fight that runs adopts it between two ticks. What the game holds by number stays: the maul has its old number there.
    fight.adopt(&today, Keep::Points)?;
    fight.tick()?;
    println!("adopted: {}", health(&fight));
    assert_eq!(fight.rules().find_attack("maul"), Some(maul));
    let wedge = fight.rules().find_attack("wedge").expect("it is new");
    for _ in 0..30 {
        fight.tick()?;
    }
    fight.orders().start(odo, wedge);
    for _ in 0..10 {
        fight.tick()?;
    }
    println!("the new wedge, number {}: {}", wedge.index(), health(&fight));

    // What is gone is refused, and nothing has changed.
    match fight.adopt(&yesterday, Keep::Share) {
        Err(error @ AdoptError::Removed(_)) => println!("back to yesterday: {error}"),
        other => panic!("{other:?}"),
    }
    Ok(())
}
