//! The keeper of a pack dies: its hounds are told, each once, and scatter; the sluice opens. All of that is data: neither the attacker
//! nor the keeper knows of it. And the dead react to nothing: what the keeper had going ends in the very step of its death.
//!
//! Run it with `cargo run -p hammerstone --example leader_dies`.

use hammerstone::Fixed;
use hammerstone::flow::{Condition, Credit, Group, Reaction, Rule, ScoreValue, Target};
use hammerstone::geometry::Axis;
use hammerstone::prelude::*;
use hammerstone::template::IfItKills;

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let (open, toll, bounty) = (b.flag("sluice open"), b.score("toll"), b.value("bounty"));
    let scattered = b.status(Status::new("scattered").lasts(120).stuns());
    let last_breath = b.threshold("last breath");
    let words = b.line("Shut the gate behind me!");
    let reach = Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.4 };
    let maul = b.attack(Attack::melee("maul").timeline(6, 4, 6).damage(crush, 20, 20).hitbox(reach));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let mason = b.template(Template::new("mason", masons, 40).part(trunk.clone()));
    let hound = b.template(Template::new("hound", beasts, 10).part(trunk.clone()));
    let keeper = b.template(Template::new("keeper", beasts, 15).part(trunk).values(bounty, 25).threshold(
        last_breath,
        Fixed::ratio(1, 3),
        IfItKills::Fire,
    ));
    b.rule(
        Rule::on("the sluice opens", "combatant.died")
            .when(Condition::subject(Group::template(keeper)))
            .does(Reaction::Flag(open, true))
            .does(Reaction::Score(toll, ScoreValue::Value(bounty))),
    );
    b.rule(Rule::on("the pack scatters", "leader.lost").does(Reaction::Apply(
        Target::Subject,
        scattered,
        Fixed::ONE,
        Credit::Nobody,
    )));
    // Crossed by the blow that kills, and told before the death; but it is the keeper who would speak, and it is dead.
    b.rule(
        Rule::on("last words", "health.crossed")
            .when(Condition::Threshold(last_breath))
            .does(Reaction::say(Some(Target::Subject), words)),
    );
    let rules = b.build()?;

    let mut fight = Encounter::new(&rules, 7);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let chief = fight.orders().spawn(keeper, Pose::at([0.0, 0.0, 1.2]).facing(Axis::Y, 180.0));
    let pack: Vec<_> =
        (0..3).map(|i| fight.orders().spawn(hound, Pose::at([3.0 + i as f32, 0.0, 4.0]))).collect();
    for &hound in &pack {
        fight.orders().follow(hound, Some(chief));
    }
    // Both swing; Odo's maul opens first, and the keeper's never does.
    fight.orders().start(odo, maul);
    fight.tick()?;
    fight.orders().start(chief, maul);
    let mut topics = Vec::new();
    for _ in 0..20 {
        fight.tick()?;
        for fact in fight.facts().facts {
            let path = rules.topics().path(fact.event.topic()).unwrap_or_default();
            if fact.event.subject() != Some(odo) {
                topics.push((fact.pass, path.to_owned()));
            }
        }
    }
    for (pass, path) in &topics {
        println!("pass {pass}: {path}");
    }
    let count = |wanted: &str| topics.iter().filter(|(_, path)| path == wanted).count();
    assert_eq!((count("combatant.died"), count("leader.lost"), count("status.applied")), (1, 3, 3));
    assert_eq!((count("health.crossed"), count("said"), count("order.refused")), (1, 0, 1));
    let view = fight.view();
    assert_eq!((view.flag(open), view.score(toll)), (Some(true), Some(25)));
    assert_eq!(view.health(odo), Some((40, 40)), "the dead strike nobody");
    assert!(pack.iter().all(|&hound| view.statuses(hound).eq([scattered]) && view.leader(hound).is_none()));
    Ok(())
}
