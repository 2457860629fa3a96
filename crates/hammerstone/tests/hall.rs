//! What is divided among threads comes to the same as what is not: encounters of a hall, and the detection of one.

use std::cell::Cell;

use hammerstone::event::Fact;
use hammerstone::hall::Hall;
use hammerstone::orders::Inputs;
use hammerstone::prelude::*;
use hammerstone::{Summary, hooks};
use proptest::prelude::*;
use proptest::test_runner::TestRunner;
use testkit::{Fight, World, build, cases, fights, play, play_ticking};

/// A fight that was played alone: what was asked before each tick, and what came of it.
struct Played {
    rules: Ruleset,
    seed: u64,
    inputs: Vec<Inputs>,
    ticks: Vec<(Result<Summary, TickError>, u64, Vec<Fact>)>,
}

fn play_alone(fight: &Fight) -> Played {
    let rules = build(&fight.sheet);
    let (mut inputs, mut ticks) = (Vec::new(), Vec::new());
    play_ticking(
        &rules,
        fight,
        |encounter| encounter.keep_inputs(true),
        |encounter, hooks, world| {
            inputs.push(encounter.inputs().unwrap().clone());
            let summary = encounter.tick_with(hooks, world);
            ticks.push((summary, encounter.checksum(), encounter.facts().facts.to_vec()));
        },
    );
    Played { rules, seed: fight.seed, inputs, ticks }
}

/// What a room of the tests has beside the world of its hooks: which fight it is, and how many ticks it has had.
type Guest = (World, usize, usize);

proptest! {
    #![proptest_config(cases(15))]

    /// They come and go at different ticks, and each goes as it went alone.
    #[test]
    fn encounters_of_a_hall_go_on_as_they_would_alone(of in prop::collection::vec(fights(), 2..7), apart in 0..4usize) {
        let alone: Vec<Played> = of.iter().map(play_alone).collect();
        let hooks: hooks::Hooks<World> = testkit::hooks();
        let mut hall: Hall<Guest> = Hall::new();
        let (mut coming, mut gone) = (0, 0);
        for tick in 0.. {
            while coming < alone.len() && coming * apart <= tick {
                let Played { rules, seed, .. } = &alone[coming];
                let encounter = Encounter::new(rules, *seed);
                let id = hall.admit(encounter, (World::new(rules), coming, 0));
                prop_assert!(hall.get(id).unwrap().last().is_none());
                coming += 1;
            }
            if hall.is_empty() {
                break;
            }
            hall.tick_by(|encounter, (world, which, ticks)| {
                encounter.repeat(&alone[*which].inputs[*ticks]).expect("they were noted");
                *ticks += 1;
                encounter.tick_with(&hooks, world)
            });
            let mut ready = Vec::new();
            for (id, room) in hall.iter() {
                let &(_, which, ticks) = room.world();
                let played = &alone[which].ticks[ticks - 1];
                prop_assert_eq!(room.last(), Some(played.0));
                prop_assert_eq!(room.encounter().checksum(), played.1);
                prop_assert_eq!(room.encounter().facts().facts, &played.2[..]);
                if ticks == alone[which].ticks.len() {
                    ready.push(id);
                }
            }
            for id in ready {
                prop_assert!(hall.remove(id).is_some() && hall.remove(id).is_none() && hall.get_mut(id).is_none());
                gone += 1;
            }
        }
        prop_assert_eq!((gone, hall.len()), (alone.len(), 0));
    }
}

/// Each tick's checksum and facts of a fight with its detection divided so, and how many ticks had hitboxes for two shares.
fn divided(fight: &Fight, shares: usize, least: usize) -> (Vec<(u64, Vec<Fact>)>, usize) {
    let (mut ticks, mut divided) = (Vec::new(), 0);
    play(fight, false, |encounter| {
        encounter.divide_detection(shares, least);
        divided += usize::from(encounter.scene().hitboxes().count() >= 2 * least.max(1));
        ticks.push((encounter.checksum(), encounter.facts().facts.to_vec()));
    });
    (ticks, divided)
}

#[test]
fn divided_detection_finds_the_same() {
    let together = Cell::new(0);
    let law = |(fight, shares, least): (Fight, usize, usize)| {
        let (plain, _) = divided(&fight, 1, 1);
        let (shared, ticks) = divided(&fight, shares, least);
        prop_assert_eq!(plain, shared);
        together.set(together.get() + ticks);
        Ok(())
    };
    TestRunner::new(cases(40))
        .run(&(fights(), 2..9usize, 0..4usize), law)
        .unwrap_or_else(|fails| panic!("{fails}"));
    assert!(together.get() > 20, "{} ticks had hitboxes for two shares", together.get());
}

#[test]
fn ended_encounters_stay_until_they_are_taken_out() {
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    let over = b.outcome("over");
    let mason = b.template(Template::new("mason", masons, 40));
    let rules = b.build().unwrap();
    let mut hall = Hall::new();
    let ids: Vec<_> = (0..4)
        .map(|seed| {
            let mut fight = Encounter::new(&rules, seed);
            fight.orders().spawn(mason, Pose::IDENTITY);
            hall.admit(fight, ())
        })
        .collect();
    let hooks = Hooks::new();
    let (fight, ()) = hall.get_mut(ids[1]).unwrap().parts();
    fight.orders().end(over);
    hall.tick(&hooks);
    assert!(hall.iter_mut().all(|(id, room)| room.is_over() == (id == ids[1])));
    hall.tick(&hooks);
    assert_eq!(hall.get(ids[1]).unwrap().last(), Some(Err(TickError::Ended)));
    assert_eq!(hall.get(ids[2]).unwrap().last().unwrap().unwrap().tick, 2);
    let ended: Vec<_> =
        hall.remove_ended().into_iter().map(|(id, fight, ())| (id, fight.outcome())).collect();
    assert_eq!(ended, [(ids[1], Some(over))]);
    assert_eq!(hall.iter().map(|(id, _)| id).collect::<Vec<_>>(), [ids[0], ids[2], ids[3]]);
    // A number is never given again.
    let later = hall.admit(Encounter::new(&rules, 9), ());
    assert!(ids.iter().all(|id| *id < later) && hall.len() == 4);
}
