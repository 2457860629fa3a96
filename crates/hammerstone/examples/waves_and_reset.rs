//! A whole night as data: waves that grow, a mason with three lives, the end that a rule declares; then all of it anew, bit for bit.
//!
//! Run it with `cargo run -p hammerstone --example waves_and_reset`.

use hammerstone::Fixed;
use hammerstone::event::Event;
use hammerstone::event::{CombatantDied, CombatantReturned, EncounterEnded, EncounterWave};
use hammerstone::flow::{Condition, Group, Growth, Reaction, Rule, Waves};
use hammerstone::geometry::Axis;
use hammerstone::prelude::*;
use hammerstone::template::Lives;

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let tide = b.reason("tide");
    let (held, lost) = (b.outcome("held"), b.outcome("lost"));
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let ramp = b.spot("ramp", Pose::at([0.0, 0.0, 20.0]).facing(Axis::Y, 180.0));
    let mason = b.template(Template::new("mason", masons, 20).corpse_time(10).lives(Lives {
        health: Fixed::ratio(1, 2),
        last: Some(lost),
        ..Lives::new(3, 20)
    }));
    let hound = b.template(Template::new("hound", beasts, 6).corpse_time(30));
    // Two, three, four: each when none of the one before stands.
    let waves = b.waves(
        Waves::new("tide hounds", hound, 2, 3)
            .grows(Growth::Added(1))
            .at(ramp)
            .apart([1.0, 0.0, 0.0])
            .delay(10),
    );
    b.rule(
        Rule::on("the night is held", "combatant.died")
            .when(Condition::WavesOver(waves))
            .when(Condition::Alive(Group::team(beasts), 0, 0))
            .does(Reaction::End(held)),
    );
    let rules = b.build()?;

    let mut fight = Encounter::new(&rules, 7);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    fight.orders().start_waves(waves);
    let prepared = fight.checksum();

    let mut nights = Vec::new();
    for night in 0..2 {
        let mut told = Vec::new();
        while fight.outcome().is_none() {
            // The game of this example: every half second the tide takes a hound, and now and then Odo.
            let tick = fight.view().tick();
            let beast = fight.view().all_of(&Group::team(beasts)).next();
            if let (true, Some(beast)) = (tick % 30 == 29, beast) {
                fight.orders().damage(beast, crush, Fixed::whole(9), tide);
            }
            if tick % 120 == 60 {
                fight.orders().damage(odo, crush, Fixed::whole(30), tide);
            }
            fight.tick()?;
            for event in fight.facts().events() {
                match *event {
                    Event::EncounterWave(EncounterWave { wave, count, .. }) => {
                        told.push(format!("wave {wave}: {count}"))
                    }
                    Event::CombatantDied(CombatantDied { subject, lives: Some(lives), .. })
                        if subject == odo =>
                    {
                        told.push(format!("odo dies, {lives} lives left"));
                    }
                    Event::CombatantReturned(CombatantReturned { health, .. }) => {
                        told.push(format!("odo returns with {health}"))
                    }
                    Event::EncounterEnded(EncounterEnded { outcome, .. }) => {
                        told.push(rules.outcome_name(outcome).unwrap_or_default().to_owned())
                    }
                    _ => {}
                }
            }
        }
        println!("night {}: {}", night + 1, told.join("; "));
        nights.push(told);
        // What has ended may begin anew: everything ends with its fact, and the next tick is the first again.
        fight.orders().reset();
        assert!(fight.tick()?.reset);
        assert_eq!(fight.checksum(), prepared);
    }
    // Bit for bit the same night, and the id that Odo had is good again.
    assert_eq!(nights[0], nights[1]);
    assert_eq!(nights[0].last().map(String::as_str), Some("held"));
    assert_eq!(fight.epoch(), 2);
    fight.tick()?;
    assert_eq!(fight.view().life(odo), Life::Standing);
    Ok(())
}
