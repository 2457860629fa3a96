//! A game that runs sixty ticks a second, with its page: stop it there, step, look at a blow, take its log.
//!
//! Run it with `cargo run -p hammerstone-live --example watched_game -- 60` for a minute; without a number it ends after a second.

use std::time::{Duration, Instant};

use hammerstone::audit::Auditor;
use hammerstone::geometry::Axis;
use hammerstone::prelude::*;
use hammerstone_live::Live;
use hammerstone_record::{FlightRecorder, LogOptions};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let seconds = std::env::args().nth(1).and_then(|text| text.parse().ok()).unwrap_or(1.0);
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let mason = b.template(Template::new("mason", masons, 400).part(trunk.clone()));
    let hound = b.template(Template::new("hound", beasts, 60).corpse_time(60).part(trunk));
    let maul =
        b.attack(Attack::melee("maul").timeline(18, 9, 27).damage(crush, 8, 14).hitbox(Shape::Capsule {
            from: [0.0, 1.0, 0.4],
            to: [0.0, 1.0, 1.6],
            radius: 0.3,
        }));
    let bite = b.attack(
        Attack::melee("bite")
            .timeline(12, 6, 30)
            .damage(crush, 2, 6)
            .hitbox(Shape::Sphere { at: [0.0, 1.0, 0.8], radius: 0.5 }),
    );
    let rules = b.build()?;
    let mut fight = Encounter::new(&rules, 7);
    // With these a blow can be taken apart on the page; a game that needs every microsecond leaves them out.
    fight.keep_ledgers(true);
    fight.keep_deliveries(true);
    fight.keep_gates(true);
    let mut recorder = FlightRecorder::begin(&mut fight, 600, LogOptions::at_rate(60));
    let mut auditor = Auditor::new(&rules);

    let mut live = Live::bind("127.0.0.1:0")?;
    live.title("The yard, running");
    println!("see {}", live.address());
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    live.name(odo, "odo");

    let begun = Instant::now();
    let mut ticks = 0u32;
    while begun.elapsed() < Duration::from_secs_f64(seconds) {
        // The game's own loop: it draws, reads keys and sleeps; and runs a tick unless someone looks.
        if !live.held() {
            let hounds: Vec<CombatantId> =
                fight.view().combatants().filter(|&who| fight.view().template(who) == Some(hound)).collect();
            if hounds.len() < 3 {
                let side = f32::from(ticks as u16 % 3) - 1.0;
                let at = Pose::at([side * 0.8, 0.0, 1.2]).facing(Axis::Y, 180.0);
                fight.orders().spawn(hound, at);
            }
            if ticks.is_multiple_of(60) {
                fight.orders().start(odo, maul);
            }
            for (place, &who) in hounds.iter().enumerate() {
                if (ticks + 20 * place as u32).is_multiple_of(90) {
                    fight.orders().start(who, bite);
                }
            }
            recorder.tick(&mut fight)?;
            auditor.observe(&fight.facts());
            live.observe(&fight);
            live.audit(&auditor);
            ticks += 1;
        }
        live.log(|| recorder.log());
        std::thread::sleep(Duration::from_secs(1) / 60);
    }
    println!("{ticks} ticks, {} standing", fight.view().standing(masons) + fight.view().standing(beasts));
    Ok(())
}
