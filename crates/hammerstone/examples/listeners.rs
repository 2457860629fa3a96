//! Who hears what: exact and by family, about one combatant, once, with a priority, with an owner, under a key; a hook that reacts
//! and one that only watches; a fact of the game's own; and a channel for events outside combat.
//!
//! Run it with `cargo run -p hammerstone --example listeners`.

use hammerstone::Fixed;
use hammerstone::channel::{Channel, Listening};
use hammerstone::event::{CombatantDied, HealthChanged, HostFact};
use hammerstone::event::{Event, HostValue, Listener, ValueSort};
use hammerstone::prelude::*;

/// The game's own world: what its bars and its score show, and what was played on the speakers.
#[derive(Default)]
struct Game {
    bar: Option<(i64, i64)>,
    dead: Vec<CombatantId>,
    sounds: Vec<String>,
    opened: Option<Fixed>,
}

/// Outside combat the game has events of its own, of any type.
enum Menu {
    Paused,
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let tide = b.reason("tide");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let opened = b.host_topic("host.sluice.opened", &[("by", ValueSort::Who), ("height", ValueSort::Exact)]);
    let mason = b.template(Template::new("mason", masons, 40));
    let hound = b.template(Template::new("hound", beasts, 10));
    let rules = b.build()?;

    let mut hooks = Hooks::<Game>::new();
    // Follows one combatant's health, and knows neither who struck it nor how.
    let bar = hooks.react("bar", |game: &mut Game, heard, _| {
        if let Event::HealthChanged(HealthChanged { to, max, .. }) = *heard.event {
            game.bar = Some((to, max));
        }
    });
    // Reacts: what it orders is carried out in the same tick, in a further pass.
    let sluice = hooks.react("sluice", move |game: &mut Game, heard, orders| {
        if let Event::CombatantDied(CombatantDied { subject, killer: Some(by), .. }) = *heard.event {
            game.dead.push(subject);
            orders.publish(opened, &[HostValue::Who(by), HostValue::Exact(Fixed::ratio(5, 2))]);
        }
    });
    let door = hooks.react("door", |game: &mut Game, heard, _| {
        if let Event::HostFact(HostFact { values: [_, HostValue::Exact(height), ..], .. }) = *heard.event {
            game.opened = Some(height);
        }
    });
    // Only watches: it is called when the tick is confirmed, and once, however often the tick is run again.
    let sound = hooks.watch("sound", |game: &mut Game, heard| {
        game.sounds
            .push(heard.view.rules().topics().path(heard.event.topic()).unwrap_or_default().to_owned());
    });

    let mut fight = Encounter::new(&rules, 7);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let beast = fight.orders().spawn(hound, Pose::at([0.0, 0.0, 2.0]));
    let topics = rules.topics();
    let family = |path: &str| topics.family(path).ok_or("no such family");
    let mut orders = fight.orders();
    orders.subscribe(bar, Listen::to(topic::HEALTH_CHANGED).about(odo));
    // The same again changes nothing.
    orders.subscribe(bar, Listen::to(topic::HEALTH_CHANGED).about(odo));
    orders.subscribe(sluice, Listen::to(topic::COMBATANT_DIED).of_team(beasts).once().priority(5));
    orders.subscribe(door, Listen::under(family("host")?).keyed(1));
    // It goes with the hound, and hears of its death and nothing later.
    orders.subscribe(sound, Listen::to(topic::COMBATANT_DIED).owned_by(beast));

    let mut game = Game::default();
    fight.tick_with(&hooks, &mut game)?;
    let saved = fight.save()?;
    for attempt in 0..2 {
        // The first time is a guess of what the others in the game do, and is rolled back.
        fight.restore(&saved)?;
        fight.orders().damage(odo, crush, Fixed::whole(5 + attempt), tide);
        fight.orders().give(Order::Damage {
            target: beast,
            damage_type: crush,
            amount: Fixed::whole(12),
            reason: tide,
            source: Some(odo),
            absolute: false,
        });
        fight.keep_deliveries(true);
        fight.tick_with(&hooks, &mut game)?;
    }
    println!("who heard what, in order:");
    let facts = fight.facts();
    for delivery in facts.deliveries {
        let fact = facts.facts.iter().find(|fact| fact.seq == delivery.seq).ok_or("no such fact")?;
        let Listener::Hook(hook) = delivery.listener else { continue };
        println!(
            "  {:<20} {}",
            topics.path(fact.event.topic()).unwrap_or_default(),
            hooks.name(hook).unwrap_or_default()
        );
    }
    assert_eq!(game.sounds.len(), 0, "nobody has confirmed anything");
    fight.confirm(&hooks, &mut game);
    assert_eq!(game.sounds, ["combatant.died"]);
    assert_eq!(game.bar, Some((34, 40)));
    assert_eq!(game.opened, Some(Fixed::ratio(5, 2)));

    let mut menu = Channel::new(4);
    menu.listen(Listening::new(|game: &mut Game, event: &Menu, _| match event {
        Menu::Paused => game.sounds.push("hush".to_owned()),
    }));
    let reached = menu.publish(&mut game, Menu::Paused);
    assert_eq!(reached.calls, 1);
    println!("sounds: {}", game.sounds.join(", "));
    Ok(())
}
