//! An entity-component-system as the host: components go in, facts come out; waves make entities, and removals end them:
//! `cargo run -p hammerstone-hosts --example entities`.
//!
//! An entity and its combatant know each other by two numbers: the combatant's id is a component, and the entity's bits are the
//! combatant's label. Nothing is mapped, and a restored fight finds its entities again.

use std::error::Error;

use hammerstone::event::{CombatantJoined, CombatantRemoved, Event, HealthChanged};
use hammerstone::flow::Waves;
use hammerstone::prelude::*;
use hecs::{Entity, World};

struct At([f32; 3]);

/// Metres a second towards the middle.
struct Hunts(f32);

struct Fighter(CombatantId);

struct Health(i64);

struct Game {
    world: World,
    fight: Encounter,
    maul: AttackId,
}

impl Game {
    /// The systems of one fixed step, in their order.
    fn step(&mut self) -> Result<(), Box<dyn Error>> {
        self.walk();
        self.give_orders();
        self.fight.tick()?;
        self.follow_facts();
        Ok(())
    }

    fn walk(&mut self) {
        for (at, hunts) in self.world.query_mut::<(&mut At, &Hunts)>() {
            let far = at.0.iter().map(|x| x * x).sum::<f32>().sqrt();
            let share = (hunts.0 / 60.0 / far.max(1e-3)).min((far - 1.2).max(0.0) / far.max(1e-3));
            at.0 = at.0.map(|x| x - x * share);
        }
    }

    fn give_orders(&mut self) {
        let mut orders = self.fight.orders();
        for (at, fighter) in self.world.query_mut::<(&At, &Fighter)>() {
            orders.move_to(fighter.0, Pose::at(at.0));
        }
    }

    /// A combatant that joins without an entity gets one; health is a component; a combatant that is removed takes its entity along.
    fn follow_facts(&mut self) {
        let mut newcomers = Vec::new();
        for event in self.fight.facts().events() {
            match *event {
                Event::CombatantJoined(CombatantJoined { subject, pose, health, .. })
                    if self.fight.view().label(subject) == Some(0) =>
                {
                    let parts = (At(pose.at), Hunts(4.0), Fighter(subject), Health(health));
                    newcomers.push((subject, self.world.spawn(parts)));
                }
                Event::HealthChanged(HealthChanged { subject, to, .. }) => {
                    let entity = self.fight.view().label(subject).and_then(Entity::from_bits);
                    if let Some(mut health) =
                        entity.and_then(|entity| self.world.get::<&mut Health>(entity).ok())
                    {
                        health.0 = to;
                    }
                }
                Event::CombatantRemoved(CombatantRemoved { label, .. }) => {
                    if let Some(entity) = label.and_then(Entity::from_bits) {
                        self.world.despawn(entity).expect("it was spawned for the combatant");
                    }
                }
                _ => {}
            }
        }
        for (who, entity) in newcomers {
            self.fight.orders().label(who, entity.to_bits().get());
        }
    }

    fn fighters(&self) -> usize {
        self.world.query::<&Fighter>().iter().count()
    }
}

fn main() -> Result<(), Box<dyn Error>> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let [startup, active, recovery] = [0.1, 0.1, 0.2].map(|seconds| b.ticks(seconds));
    let maul = b.attack(
        Attack::melee("maul-round")
            .timeline(startup, active, recovery)
            .damage(crush, 9, 9)
            .hitbox(Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 1.4 }),
    );
    let trunk = Shape::Capsule { from: [0.0, 0.4, 0.0], to: [0.0, 1.4, 0.0], radius: 0.35 };
    let corpse = b.ticks(0.5);
    let mason = b.template(Template::new("mason", masons, 60).part(Part::new("trunk", trunk)));
    let hound =
        b.template(Template::new("hound", beasts, 18).part(Part::new("trunk", trunk)).corpse_time(corpse));
    let spots = [[8.0, 0.0, 0.0], [-8.0, 0.0, 1.0], [0.0, 0.0, 9.0]];
    let spots: Vec<_> = (0..3).map(|i| b.spot(&format!("gap {i}"), Pose::at(spots[i]))).collect();
    let waves = spots.into_iter().fold(Waves::new("hounds", hound, 3, 2), Waves::at);
    let waves = b.waves(waves);
    let rules = b.build()?;

    let mut game = Game { world: World::new(), fight: Encounter::new(&rules, 7), maul };
    // The player's own entity is there first, and its combatant carries its bits from the start.
    let odo = game.fight.orders().spawn(mason, Pose::IDENTITY);
    let entity = game.world.spawn((At([0.0; 3]), Fighter(odo), Health(60)));
    game.fight.orders().label(odo, entity.to_bits().get());
    game.fight.orders().start_waves(waves);

    let mut most = 0;
    for step in 0..600 {
        if step % 30 == 0 {
            game.fight.orders().start(odo, game.maul);
        }
        game.step()?;
        most = most.max(game.fighters());
        assert_eq!(game.fighters(), game.fight.view().combatants().count(), "one entity for each combatant");
        if step % 120 == 0 {
            let mut seen = game.world.query::<(&At, &Health)>();
            let one =
                |(at, health): (&At, &Health)| format!("{} at ({:.1}, {:.1})", health.0, at.0[0], at.0[2]);
            let mut told: Vec<String> = seen.iter().map(one).collect();
            told.sort();
            println!("{:>4.1} s: {} fighters, health {}", step as f32 / 60.0, told.len(), told.join("; "));
        }
    }
    // Six hounds came in two waves, the second while the last of the first still lay there. All were beaten, and took their entities along.
    assert_eq!((most, game.fighters()), (5, 1));
    let health = game.world.get::<&Health>(entity)?.0;
    assert_eq!(Some((health, 60)), game.fight.view().health(odo));
    println!("odo stands alone, with {health} health");
    Ok(())
}
