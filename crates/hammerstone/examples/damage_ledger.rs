//! What an amount is made of, line by line: stats, a critical blow, a crack, plates, a shield. And what the blow would come to,
//! asked beforehand.
//!
//! Run it with `cargo run -p hammerstone --example damage_ledger`.

use hammerstone::Fixed;
use hammerstone::amount::{AmountChange, Armour, Direction, Luck, Modifier, Role, Shield};
use hammerstone::attack::{Critical, Scaling};
use hammerstone::event::{Cause, DamageDealt, Event, Note};
use hammerstone::prelude::*;
use hammerstone::status::Stacking;

/// What made a line, in words.
fn because(rules: &Ruleset, note: Note) -> String {
    match note {
        Note::None => String::new(),
        Note::Times(by) => format!("times {by}"),
        Note::Stat { stat, value, by: Modifier::Add(by), .. } => {
            format!("{by} for each of {value} {}", rules.stat_name(stat).unwrap_or_default())
        }
        Note::Critical { chance, times } => format!("critical, a chance of {chance}: times {times}"),
        Note::Armour { stat, value, .. } => {
            format!("{value} {}", rules.stat_name(stat).unwrap_or_default())
        }
        Note::Changed { cause: Cause::Status(status), by: Modifier::AddShare(share), .. } => {
            format!("{}: a share of {share} more", rules.status_name(status).unwrap_or_default())
        }
        Note::Shield(shield, left) => {
            format!("{} takes it, and has {left} left", rules.shield_name(shield).unwrap_or_default())
        }
        other => format!("{other:?}"),
    }
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let (might, plates) = (b.stat("might", Fixed::ZERO), b.stat("plates", Fixed::ZERO));
    let shale = b.shield(Shield::new("shale"));
    b.armour(Armour { flat: Some(plates), ..Armour::default() });

    // Each crack lets a fifth more through, up to three.
    let cracked =
        b.status(Status::new("cracked").lasts(600).stacking(Stacking::Stack(3)).changes_amounts(
            AmountChange::new(Direction::TakesDamage, Modifier::AddShare(Fixed::ratio(1, 5))),
        ));
    let maul = b.attack(
        Attack::melee("maul")
            .timeline(2, 4, 2)
            .damage(crush, 10, 10)
            .scaling(Scaling {
                of: Role::Attacker,
                stat: might,
                adds: Fixed::ratio(1, 2),
                shares: Fixed::ZERO,
                damage_type: None,
            })
            .critical(Critical::new(Fixed::ONE, Fixed::ratio(3, 2)))
            .inflicts(cracked)
            .hitbox(Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.4 }),
    );
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let mason =
        b.template(Template::new("mason", masons, 60).stat(might, Fixed::whole(6)).part(trunk.clone()));
    let cairn = b.template(
        Template::new("cairn", beasts, 120)
            .stat(plates, Fixed::whole(4))
            .resistance(crush, Fixed::ratio(1, 4))
            .shield(shale, 6)
            .part(trunk.multiplier(Fixed::ratio(5, 4))),
    );
    let rules = b.build()?;

    let mut fight = Encounter::new(&rules, 7);
    fight.keep_ledgers(true);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let stone = fight.orders().spawn(cairn, Pose::at([0.0, 0.0, 1.2]));
    fight.tick()?;

    let mut blows = Vec::new();
    for _ in 0..2 {
        // Asked before it is struck: nothing changes by asking.
        let preview = fight.preview(odo, maul, stone, 0, Luck::Next)?;
        fight.orders().start(odo, maul);
        for _ in 0..10 {
            fight.tick()?;
            let facts = fight.facts();
            for event in facts.events() {
                if let Event::DamageDealt(DamageDealt { amount, ledger, .. }) = *event {
                    println!("a blow of {amount}, as foreseen: {}", preview.damage_types[0].amount);
                    for line in facts.ledger_of(ledger) {
                        let (step, before, after) = (line.step.name(), line.before, line.after);
                        println!("  {step:<11}{before:>9} to {after:>9}  {}", because(&rules, line.note));
                    }
                    assert_eq!(amount, preview.damage_types[0].amount);
                    assert_eq!(facts.ledger_of(ledger), preview.damage_types[0].ledger);
                    blows.push(amount);
                }
            }
        }
    }
    // (10 + 6/2) x 1.5 x 1.25 x 0.75 = 18.2813, less 4 plates 14.2813, to the point 14, less 6 of shale: 8.
    // The second time it is cracked, 14.2813 and a fifth of it are 17.1376, and the shale is gone: 17.
    assert_eq!(blows, [8, 17]);
    Ok(())
}
