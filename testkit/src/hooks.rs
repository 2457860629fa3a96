//! Hooks that answer what they hear with orders.

use hammerstone::Fixed;
use hammerstone::amount::Modifier;
use hammerstone::event::Event;
use hammerstone::event::{CombatantDied, HealthChanged, HitLanded};
use hammerstone::hooks::Verdict;
use hammerstone::prelude::*;

/// What hooks know: nothing but the rules and the count of calls.
pub struct World {
    pub rules: Ruleset,
    pub calls: u64,
}

/// Hooks that answer: a blow with damage, damage with healing and a swing, a death with a return, anything with a status.
pub fn hooks() -> Hooks<World> {
    let mut hooks = Hooks::new();
    hooks.react("answer blows", |world: &mut World, heard, orders| {
        world.calls += 1;
        if let Event::HitLanded(HitLanded { attacker: Some(attacker), .. }) = *heard.event {
            let (damage_type, reason) =
                (world.rules.find_damage_type("heat").unwrap(), world.rules.find_reason("tide").unwrap());
            orders.damage(attacker, damage_type, Fixed::whole(1), reason);
        }
    });
    hooks.react("answer harm", |world: &mut World, heard, orders| {
        world.calls += 1;
        if let Event::HealthChanged(HealthChanged { subject, .. }) = *heard.event {
            orders.heal(subject, 1, world.rules.find_reason("tide").unwrap());
            if let Some(attack) = world.rules.find_attack("attack 0") {
                orders.start(subject, attack);
            }
        }
    });
    hooks.react("answer falls", |world: &mut World, heard, orders| {
        world.calls += 1;
        if let Event::CombatantDied(CombatantDied { subject, at, .. }) = *heard.event {
            orders.bring_back(subject, Pose::at(at));
        }
    });
    hooks.react("answer anything", |world: &mut World, heard, orders| {
        world.calls += 1;
        if let (Some(subject), Some(status)) = (heard.event.subject(), world.rules.find_status("burn")) {
            orders.apply(subject, status, heard.event.other());
        }
    });
    hooks.watch("watch anything", |world: &mut World, _| world.calls += 1);
    hooks.intercept("fickle", 0, |world: &mut World, attempt, terms| {
        world.calls += 1;
        let tide = world.rules.find_reason("tide").unwrap();
        // A pure answer, so that a tick can be run again.
        match (attempt.swing.number() + u64::from(attempt.view.tick())) % 7 {
            0 => Verdict::Refuse(tide),
            1 => Verdict::Retry(tide),
            2 => Verdict::Deflect,
            3 => {
                terms.amend(Modifier::Add(Fixed::ONE), tide);
                let (target, reason) = (attempt.target, tide);
                terms.cost(Order::Heal { target, points: 1, reason, source: None });
                Verdict::Proceed
            }
            _ => Verdict::Proceed,
        }
    });
    hooks.prevent_death("a second breath", 1, |world: &mut World, lethal| {
        world.calls += 1;
        (lethal.amount % 3 == 0).then_some(2)
    });
    hooks
}
