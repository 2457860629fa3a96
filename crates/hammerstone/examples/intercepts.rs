//! Game code that steps in before a blow counts: it lets pass, amends, refuses, or asks for a cost that is paid only if the hit lands.
//! A step of the game's own, and a prevention of death at the lethal moment.
//!
//! Run it with `cargo run -p hammerstone --example intercepts`.

use hammerstone::Fixed;
use hammerstone::amount::{Modifier, Shield, Step};
use hammerstone::event::{DamageDealt, HitRefused};
use hammerstone::event::{Event, Operand};
use hammerstone::hooks::Verdict;
use hammerstone::prelude::*;

/// The game's own world: it knows things that no ruleset knows.
struct Night {
    tide: Fixed,
    parried: u32,
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let breath = b.reason("breath");
    let (lit, parried) = (b.reason("lit by the lantern"), b.reason("parried"));
    let tide = b.own_step("tide");
    b.steps(&[Step::Base, Step::Resistance, Step::Amended, Step::Own(tide), Step::Rounding, Step::Shields]);
    let oil = b.shield(Shield::new("lamp-oil"));
    let maul = b.attack(
        Attack::melee("maul")
            .timeline(0, 2, 2)
            .damage(crush, 10, 10)
            .hitbox(Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.4 }),
    );
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let mason = b.template(Template::new("mason", masons, 60).shield(oil, 10).part(trunk.clone()));
    let hound = b.template(Template::new("hound", beasts, 30).part(trunk));
    let rules = b.build()?;

    let mut hooks = Hooks::<Night>::new();
    // Asked first: a lantern makes the blow stronger, and costs breath. The cost is paid only if the hit lands.
    hooks.intercept("lantern", 10, move |_, attempt, terms| {
        if let Some(target) = attempt.attacker {
            terms.amend(Modifier::AddShare(Fixed::ratio(1, 2)), lit);
            terms.cost(Order::Damage {
                target,
                damage_type: crush,
                amount: Fixed::whole(4),
                reason: breath,
                source: None,
                absolute: false,
            });
        }
        Verdict::Proceed
    });
    // Asked second: the first blow is parried. Nothing of what the lantern asked for takes place then.
    hooks.intercept("parry", 0, move |night, _, _| {
        night.parried += 1;
        if night.parried == 1 { Verdict::Refuse(parried) } else { Verdict::Proceed }
    });
    // A step of the ruleset that only the game can take.
    hooks.step(tide, "tide", |night, call| call.amount + night.tide);
    // And the hound is not done yet, once in its life.
    hooks.prevent_death("not done yet", 1, |_, _| Some(1));

    let mut night = Night { tide: Fixed::whole(5), parried: 0 };
    let mut fight = Encounter::new(&rules, 7);
    fight.keep_ledgers(true);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let beast = fight.orders().spawn(hound, Pose::at([0.0, 0.0, 1.2]));
    for blow in 1..=4 {
        fight.orders().start(odo, maul);
        for _ in 0..6 {
            fight.tick_with(&hooks, &mut night)?;
            let facts = fight.facts();
            for event in facts.events() {
                match *event {
                    Event::HitRefused(HitRefused { found: Operand::Refused(hook, why), .. }) => {
                        let (hook, why) = (hooks.name(hook), rules.reason_name(why));
                        println!("blow {blow} is refused by {}: {}", hook.unwrap_or("?"), why.unwrap_or("?"));
                    }
                    Event::DamageDealt(DamageDealt { target, amount, ledger, .. }) if target == beast => {
                        println!("blow {blow} comes to {amount}");
                        for line in facts.ledger_of(ledger) {
                            println!("  {:<11}{:>9} to {:>9}", line.step.name(), line.before, line.after);
                        }
                    }
                    Event::CombatantSpared(_) => println!("blow {blow} would have killed"),
                    Event::CombatantDied(_) => println!("blow {blow} kills"),
                    _ => {}
                }
            }
        }
        let health = |who| fight.view().health(who).map_or(0, |(health, _)| health);
        // 10, half more by the lantern, 5 by the tide: 20 a blow. The first is refused, the third is spared, the fourth kills.
        assert_eq!(health(beast), [30, 10, 1, 0][blow - 1]);
        // 4 of breath for each blow that landed: 5 more by the tide, and the oil takes the first 10.
        assert_eq!(health(odo), [60, 60, 52, 43][blow - 1]);
    }
    Ok(())
}
