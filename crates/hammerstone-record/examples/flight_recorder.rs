//! The last seconds of a fight are kept in memory. When a tick panics, they are written, and run again as often as one likes: with the
//! code that broke, and with the code that was mended.
//!
//! `cargo run -p hammerstone-record --example flight_recorder`

use std::panic::{AssertUnwindSafe, catch_unwind, set_hook, take_hook};

use hammerstone::event::CombatantDied;
use hammerstone::ids::HookId;
use hammerstone::prelude::*;
use hammerstone_record::{FlightRecorder, Log, LogOptions, Named, Replay, Run, Transcript};

/// The score of the game: deaths, by the number of the combatant.
struct Score(Vec<u32>);

/// A hook with a fault: it takes for granted that there are never more than eight combatants.
fn hooks(mended: bool) -> (Hooks<Score>, HookId) {
    let mut hooks = Hooks::new();
    let tally = hooks.on("tally", move |score: &mut Score, died: &CombatantDied, _, _| {
        let number = died.subject.slot();
        if mended && score.0.len() <= number {
            score.0.resize(number + 1, 0);
        }
        score.0[number] += 1;
    });
    (hooks, tally)
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let beasts = b.team("beasts");
    let (crush, tide) = (b.damage_type("crush"), b.reason("tide"));
    let hound = b.template(Template::new("hound", beasts, 10).corpse_time(3600));
    let rules = b.build()?;

    let (broken, tally) = hooks(false);
    let mut fight = Encounter::new(&rules, 7);
    fight.orders().subscribe(tally, Listen::to(topic::COMBATANT_DIED));
    let mut recorder = FlightRecorder::begin(&mut fight, 600, LogOptions::at_rate(60));
    recorder.name(Named::Hook(tally), "tally");
    let mut score = Score(vec![0; 8]);
    let mut all = Vec::new();

    // A hound comes every three seconds, and dies of the tide two seconds later. The ninth is one too many.
    let usual = take_hook();
    set_hook(Box::new(|_| {}));
    let broke = (0..).find(|tick| {
        match tick % 180 {
            0 => all.push(fight.orders().spawn(hound, Pose::IDENTITY)),
            120 => _ = fight.orders().damage(all[all.len() - 1], crush, 10.into(), tide),
            _ => {}
        }
        let tick = || recorder.tick_with(&mut fight, &broken, &mut score).expect("it ticks");
        catch_unwind(AssertUnwindSafe(tick)).is_err()
    });
    println!("the game breaks in tick {}", broke.unwrap_or_default() + 1);

    // A game would write these bytes to a file.
    let bytes = recorder.log();
    println!("the log of the last {} ticks has {} bytes", Log::read(bytes.clone())?.len(), bytes.len());

    // On the machine of the developer: what led there, without the game.
    let log = Log::read(bytes)?;
    let (mut replay, mut run, mut transcript) = (Replay::of(&log)?, Run::new(), Transcript::new());
    while replay.tick_named(&mut run.names)?.is_some() {
        run.observe(replay.fight()).show(&mut [&mut transcript]);
    }
    for told in transcript.told() {
        println!("  {:>6.2}s {}", f64::from(told.tick - 1) / 60.0, told.text);
    }
    let breaking = replay.unfinished().ok_or("the tick that broke")?;
    println!("the tick that broke begins with {} order", breaking.pending_orders().count());

    // The code that broke breaks again; mended, it does not.
    let run = |mended: bool| {
        let (mut fight, mut score) = (breaking.clone(), Score(vec![1; 8]));
        let (hooks, _) = hooks(mended);
        catch_unwind(AssertUnwindSafe(|| fight.tick_with(&hooks, &mut score).map(|summary| summary.facts)))
    };
    assert!(run(false).is_err(), "it breaks again");
    let facts = run(true).map_err(|_| "it still breaks")??;
    set_hook(usual);
    println!("mended, it runs: {facts} facts");
    Ok(())
}
