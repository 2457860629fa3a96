//! Hooks that answer what they hear with orders.

use hammerstone::Fixed;
use hammerstone::amount::Modifier;
use hammerstone::event::{CombatantDied, HealthChanged, HitLanded};
use hammerstone::event::{Event, FactKey};
use hammerstone::hooks::{Prediction, Verdict};
use hammerstone::orders::Inputs;
use hammerstone::prelude::*;
use hammerstone::rollback::{Game, TickInputs};

/// What hooks know: nothing but the rules and the count of calls. What those that show and watch were told lies beside it.
pub struct World {
    pub rules: Ruleset,
    pub calls: u64,
    pub told: Vec<Told>,
}

impl World {
    /// Of a ruleset, before anything has happened.
    pub fn new(rules: &Ruleset) -> World {
        World { rules: rules.clone(), calls: 0, told: Vec::new() }
    }
}

/// A generated fight that is rolled back: each player gives some of what was asked in another run, in which other ids may have been given.
impl Game for World {
    type Input = Inputs;
    type Saved = u64;

    fn play(&mut self, fight: &mut Encounter, inputs: TickInputs<'_, Inputs>) {
        for (_, asked) in inputs.iter() {
            fight.repeat(asked).expect("it holds what it names");
        }
    }

    fn save_into(&self, saved: &mut u64) {
        *saved = self.calls;
    }

    fn restore(&mut self, saved: &u64) {
        self.calls = *saved;
    }
}

/// What a hook was told.
#[derive(Clone, PartialEq, Debug)]
pub struct Told {
    /// With the number of the fact; none for a hook that watches.
    pub what: Option<(Prediction, u64)>,
    pub key: Option<FactKey>,
    pub tick: u64,
    pub event: Event,
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
    hooks.watch("watch anything", |world: &mut World, heard| {
        world.told.push(Told { what: None, key: None, tick: heard.facts.tick.into(), event: *heard.event });
    });
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
    hooks.show("show anything", |world: &mut World, predicted| {
        let (what, tick) = (Some((predicted.what, predicted.number)), predicted.tick);
        world.told.push(Told { what, key: Some(predicted.key), tick, event: *predicted.heard.event });
    });
    hooks
}
