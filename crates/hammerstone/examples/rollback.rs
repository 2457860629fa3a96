//! Two players on two machines, each of which hears of the other's keys four ticks late. Both play on at once, and correct what they showed:
//! a thud for which there was no hit, one that came earlier, and one that was right.
//!
//! `cargo run -p hammerstone --example rollback`

use std::collections::BTreeMap;

use hammerstone::event::{Event, FactKey};
use hammerstone::hooks::Prediction;
use hammerstone::prelude::*;
use hammerstone::rollback::{Game, Rollback, RollbackOptions, TickInputs};

/// What a player holds in one tick.
#[derive(Clone, Copy, PartialEq, Debug, Default)]
struct Keys {
    /// Towards the other player, or away.
    walk: f32,
    swing: bool,
}

/// A game of two. What decides (where they walk) is in the fight already; sounds are corrected, and not rolled back.
struct Duel {
    maul: AttackId,
    players: [CombatantId; 2],
    /// Thuds that play, by the number of their fact.
    thuds: BTreeMap<u64, u32>,
    /// What was heard of thuds.
    heard: Vec<String>,
    told: Vec<String>,
    sure: Vec<(FactKey, u32)>,
}

impl Game for Duel {
    type Input = Keys;
    type Saved = ();

    fn play(&mut self, fight: &mut Encounter, inputs: TickInputs<'_, Keys>) {
        for (player, keys) in inputs.iter() {
            let subject = self.players[player];
            if let Some(pose) = fight.view().pose(subject).filter(|_| keys.walk != 0.0) {
                let towards = if player == 0 { 1.0 } else { -1.0 };
                let [x, y, z] = pose.at;
                let place = Pose { at: [x, y, z + towards * keys.walk / 60.0], ..pose };
                fight.orders().move_to(subject, place);
            }
            if keys.swing {
                fight.orders().start(subject, self.maul);
            }
        }
    }

    /// Who walked walks on; a swing is not foreseen.
    fn predict(last: &Keys) -> Option<Keys> {
        Some(Keys { swing: false, ..*last })
    }

    fn save_into(&self, (): &mut ()) {}

    fn restore(&mut self, (): &()) {}
}

/// What both players hold: Odo swings three times; Bram steps back from the first swing, runs back into the second, and stands in the third.
fn keys(player: usize, tick: u64) -> Keys {
    match (player, tick) {
        (0, 10 | 60 | 110) => Keys { swing: true, ..Keys::default() },
        (1, 19..=24) => Keys { walk: -6.0, ..Keys::default() },
        (1, 67..=70) => Keys { walk: 3.0, ..Keys::default() },
        (1, 71..=74) => Keys { walk: 6.0, ..Keys::default() },
        _ => Keys::default(),
    }
}

/// The game on the machine of one player, to which the keys of the other come `late` ticks late.
fn play(here: usize, late: u64) -> Result<(Encounter, Duel), Box<dyn std::error::Error>> {
    let mut b = Ruleset::builder(60);
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let crush = b.damage_type("crush");
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let hitbox = Shape::Sphere { at: [0.0, 1.0, 0.9], radius: 0.5 };
    let maul = b.attack(Attack::melee("maul").timeline(12, 8, 10).damage(crush, 8, 12).hitbox(hitbox));
    let mason = b.template(Template::new("mason", masons, 60).part(trunk));
    let rules = b.build()?;

    let mut fight = Encounter::new(&rules, 7);
    // A key of one's own: the rolls do not depend on who joined first.
    let odo = fight.orders().spawn_keyed(mason, Pose::IDENTITY, None, None, 1);
    let bram = fight.orders().spawn_keyed(mason, Pose::at([0.0, 0.0, 1.6]), Some(beasts), None, 2);

    let mut hooks = Hooks::<Duel>::new();
    let thuds = hooks.show("thuds", |duel, predicted| {
        let (number, tick) = (predicted.number, predicted.heard.facts.tick);
        let Event::HitLanded(_) = predicted.heard.event else { return };
        let before = match predicted.what {
            Prediction::Shown | Prediction::Changed => duel.thuds.insert(number, tick),
            Prediction::Retracted | Prediction::Confirmed => duel.thuds.remove(&number),
        };
        duel.heard.push(match (predicted.what, before) {
            (Prediction::Shown, _) => format!("thud {number} plays, of tick {tick}"),
            (Prediction::Changed, Some(before)) => format!("thud {number} is of tick {tick}, not {before}"),
            (Prediction::Retracted, _) => format!("thud {number} stops: there was no hit"),
            (Prediction::Confirmed, _) => format!("thud {number} was right"),
            (Prediction::Changed, None) => unreachable!("it was shown"),
        });
        if predicted.what == Prediction::Confirmed {
            duel.sure.push((predicted.key, tick));
        }
    });
    fight.orders().subscribe(thuds, Listen::to(topic::HIT_LANDED));

    let mut duel = Duel {
        maul,
        players: [odo, bram],
        thuds: BTreeMap::new(),
        heard: Vec::new(),
        told: Vec::new(),
        sure: Vec::new(),
    };
    let mut rollback = Rollback::begin(fight, RollbackOptions::of(2))?;
    let mut again = 0;
    for now in 1..=150 {
        rollback.give(now, here, keys(here, now))?;
        if now > late {
            rollback.give(now - late, 1 - here, keys(1 - here, now - late))?;
        }
        let ran = rollback.advance(&hooks, &mut duel)?;
        again += ran.again;
        for heard in duel.heard.drain(..) {
            println!("  in tick {now}: {heard}");
            duel.told.push(heard);
        }
    }
    println!("  150 ticks, and {again} of them once more");
    for tick in 151 - late..=150 {
        rollback.give(tick, 1 - here, keys(1 - here, tick))?;
    }
    Ok((rollback.finish(&hooks, &mut duel)?, duel))
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    println!("on the machine of Odo's player:");
    let (odo_sees, odos) = play(0, 4)?;
    println!("on the machine of Bram's player:");
    let (bram_sees, brams) = play(1, 4)?;
    println!("with no delay:");
    let (both_see, sure) = play(0, 0)?;

    // Whatever each was shown on the way, both stand where they would without delay, and heard the same in the end.
    assert!(odo_sees.same_state(&both_see) && bram_sees.same_state(&both_see));
    assert_eq!((&odos.sure, &brams.sure), (&sure.sure, &sure.sure));
    assert_eq!(sure.sure.len(), 2);
    // On the way one thud was taken back on Odo's machine, and one was corrected.
    let corrections = ["thud 1 stops: there was no hit", "thud 2 is of tick 72, not 74"];
    assert!(corrections.iter().all(|told| odos.told.iter().any(|heard| heard == told)), "{:?}", odos.told);
    assert!(odos.thuds.is_empty() && brams.thuds.is_empty());
    println!("both end in the same state, and heard {} thuds that were right", sure.sure.len());
    Ok(())
}
