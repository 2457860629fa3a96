//! The last seconds of a fight are kept in memory. When a tick panics, they are run again with the code that broke, and with the code that was
//! mended. When a check of the game fails, they become a scenario: the smallest that shows the fault, which fails until the fault is mended.
//!
//! `cargo run -p hammerstone-scenario --example flight_recorder`

use std::panic::{AssertUnwindSafe, catch_unwind, set_hook, take_hook};

use hammerstone::amount::Modifier;
use hammerstone::event::{CombatantDied, DamageDealt, Event};
use hammerstone::hooks::Verdict;
use hammerstone::prelude::*;
use hammerstone::{Fixed, Saved};
use hammerstone_record::{
    FlightRecorder, Log, LogOptions, Named, ReduceOptions, Replay, Run, Transcript, reduce_with,
};
use hammerstone_scenario::Case;

/// The game beside the fight: how often each combatant died, by its number.
#[derive(Clone)]
struct Game {
    deaths: Vec<u32>,
}

/// Hooks with two faults: they take for granted that there are never more than eight combatants, and the brand of the third counts for all.
fn hooks(mended: bool) -> Hooks<Game> {
    let mut hooks = Hooks::new();
    hooks.on("tally", move |game: &mut Game, died: &CombatantDied, _, _| {
        let number = died.subject.slot();
        if mended && game.deaths.len() <= number {
            game.deaths.resize(number + 1, 0);
        }
        game.deaths[number] += 1;
    });
    hooks.intercept("branded", 0, move |_, attempt, terms| {
        let branded = attempt.view.combatants().nth(2);
        let counts = if mended { branded == Some(attempt.target) } else { branded.is_some() };
        if counts && let Some(brand) = attempt.view.rules().find_reason("brand") {
            terms.amend(Modifier::Multiply(Fixed::whole(3)), brand);
        }
        Verdict::Proceed
    });
    hooks
}

/// A mason in the middle, and room for hounds about him.
fn rules() -> Result<Ruleset, Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let crush = b.damage_type("crush");
    b.reason("tide");
    b.reason("brand");
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 0.5, 0.0], radius: 0.4 });
    let hitbox = Shape::Sphere { at: [0.0, 0.5, 1.0], radius: 0.5 };
    b.attack(Attack::melee("maul").timeline(10, 4, 10).damage(crush, 4, 4).hitbox(hitbox));
    b.template(Template::new("mason", masons, 40).part(trunk.clone()));
    b.template(Template::new("hound", beasts, 100).part(trunk).corpse_time(3600));
    Ok(b.build()?)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let rules = rules()?;
    let (broken, mended) = (hooks(false), hooks(true));
    let find = |name: &str| rules.find_template(name).ok_or("it is there");
    let (mason, hound) = (find("mason")?, find("hound")?);
    let maul = rules.find_attack("maul").ok_or("it is there")?;
    let (crush, tide) = (
        rules.find_damage_type("crush").ok_or("it is there")?,
        rules.find_reason("tide").ok_or("it is there")?,
    );

    // ---- a check of the game fails -------------------------------------------------------------------------------------------------
    let mut fight = Encounter::new(&rules, 7);
    let tally = broken.find("tally").ok_or("it is there")?;
    fight.orders().subscribe(tally, Listen::to(topic::COMBATANT_DIED));
    let options = LogOptions { title: "hounds about odo".to_owned(), ..LogOptions::at_rate(60) };
    let mut recorder = FlightRecorder::begin(&mut fight, 600, options);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    recorder.name(Named::Combatant(odo), "odo");
    let mut game = Game { deaths: vec![0; 8] };
    let mut hounds = Vec::new();
    let too_hard = |fight: &Encounter| {
        let hard =
            |event: &Event| matches!(event, Event::DamageDealt(DamageDealt { amount, .. }) if *amount > 4);
        fight.facts().events().any(hard)
    };
    // Hounds come one by one, run about, and odo swings at whatever stands before him. No blow of his takes more than 4 points.
    let failed = (0u32..600).find(|tick| {
        if tick % 60 == 0 && hounds.len() < 5 {
            let place = Pose::at([hounds.len() as f32 * 1.5, 0.0, 1.0]);
            hounds.push(fight.orders().spawn(hound, place));
        }
        for (number, &hound) in hounds.iter().enumerate().skip(1) {
            let at = Pose::at([number as f32 * 1.5, 0.0, 1.0 + (tick % 40) as f32 * 0.05]);
            fight.orders().move_to(hound, at);
        }
        if tick % 30 == 10 {
            fight.orders().start(odo, maul);
        }
        recorder.tick_with(&mut fight, &broken, &mut game).expect("it ticks");
        too_hard(&fight)
    });
    let failed = failed.ok_or("the fault shows")?;
    println!("a blow is too hard in tick {}", failed + 1);

    // A game would write the log to a file, and `hammerstone reduce game.log --about hound --between 1..2 --never` would do the rest.
    let log = Log::read(recorder.log())?;
    let at = f64::from(failed) / 60.0;
    let topics = vec!["damage.dealt".to_owned()];
    let wanted = ReduceOptions { about: "hound".to_owned(), from: at - 0.3, to: at + 0.02, topics };
    // With the code of the game, so that what is left shows the fault of that code.
    let reduced = reduce_with(&log, &wanted, &broken, &Game { deaths: vec![0; 8] })?;
    let case = reduced.to_toml("case.log", true);
    println!("reduced, it is a scenario that fails until the fault is mended:\n");
    for line in case.lines() {
        println!("    {line}");
    }
    let case =
        Case::read("case.toml", &case, &|_| Ok(reduced.log.clone())).map_err(|wrong| wrong.to_string())?;
    let fails = |verdicts: Vec<hammerstone_scenario::Verdict>| {
        verdicts.iter().filter(|verdict| !verdict.holds).count()
    };
    let world = || Game { deaths: vec![0; 8] };
    assert_eq!(fails(case.test()?), 1, "as it was recorded");
    assert_eq!(fails(case.test_with(&broken, &mut world())?), 1, "with the code that broke");
    assert_eq!(fails(case.test_with(&mended, &mut world())?), 0, "with the code that was mended");
    println!(
        "\nit fails as it was, fails with the code that broke, and passes with the code that was mended"
    );

    // ---- a tick panics ---------------------------------------------------------------------------------------------------------------
    // Hounds come until the ninth combatant dies: one too many.
    let usual = take_hook();
    set_hook(Box::new(|_| {}));
    let broke = (0..).find(|tick| {
        match tick % 180 {
            0 => hounds.push(fight.orders().spawn(hound, Pose::at([0.0, 0.0, -9.0]))),
            120 => _ = fight.orders().damage(hounds[hounds.len() - 1], crush, 100.into(), tide),
            _ => {}
        }
        let tick = || recorder.tick_with(&mut fight, &broken, &mut game).expect("it ticks");
        catch_unwind(AssertUnwindSafe(tick)).is_err()
    });
    println!("\nthe game breaks {} ticks later", broke.unwrap_or_default() + 1);
    let log = Log::read(recorder.log())?;
    let (mut replay, mut run, mut transcript) = (Replay::of(&log)?, Run::new(), Transcript::new());
    while replay.tick_named(&mut run.names)?.is_some() {
        run.observe(replay.fight()).show(&mut [&mut transcript]);
    }
    println!("the last of {} ticks that led there:", log.len());
    for told in transcript.told().iter().rev().take(3).rev() {
        println!("  {:>6.2}s {}", f64::from(told.tick - 1) / 60.0, told.text);
    }
    let breaking = replay.unfinished().ok_or("the tick that broke")?;
    let again = |hooks: &Hooks<Game>| {
        let (mut fight, mut game) = (breaking.clone(), world());
        catch_unwind(AssertUnwindSafe(|| fight.tick_with(hooks, &mut game).map(|summary| summary.facts)))
    };
    assert!(again(&broken).is_err(), "it breaks again");
    let facts = again(&mended).map_err(|_| "it still breaks")??;
    set_hook(usual);
    println!("it breaks again, and mended it runs: {facts} facts");
    // What the log is made of can be saved like any state.
    assert!(Saved::from_bytes(&breaking.save()?.to_bytes()).is_ok());
    Ok(())
}
