//! Fights that are played before all inputs are there: they end as those that had them at once, and hooks that show are told each fact once.

use std::collections::BTreeMap;

use hammerstone::event::{Event, FactKey};
use hammerstone::hooks::Prediction;
use hammerstone::orders::{Inputs, Refusal};
use hammerstone::prelude::*;
use hammerstone::rollback::{Game, InputError, Rollback, RollbackOptions, TickInputs};
use hammerstone::{Fixed, TickError};
use proptest::prelude::*;
use testkit::{Fight, Told, World, build_with, cases, fights, hooks, play_ticking};

/// So many share in asking.
const PLAYERS: usize = 3;
/// So many ticks are kept.
const KEPT: u32 = 8;

/// What was asked in each tick of a fight, how it ended, and what hooks were told that hear of facts once they are sure.
struct Plain {
    asked: Vec<Inputs>,
    end: Encounter,
    told: Vec<Told>,
}

fn subscribe(fight: &mut Encounter) {
    for name in ["show anything", "watch anything"] {
        let hook = hooks().find(name).expect("it is there");
        fight.orders().subscribe(hook, Listen::all());
    }
}

fn played(rules: &Ruleset, fight: &Fight) -> Plain {
    let (mut asked, mut told) = (Vec::new(), Vec::new());
    let prepare = |encounter: &mut Encounter| {
        subscribe(encounter);
        encounter.keep_inputs(true);
    };
    let end = play_ticking(rules, fight, prepare, |encounter, hooks, world| {
        let swings: Vec<_> = encounter.view().swings().map(|(swing, ..)| swing).collect();
        for swing in swings.into_iter().filter(|_| rules.rewind() > 0) {
            encounter.orders().rewind(swing, (swing.number() % 9) as u16);
        }
        asked.push(encounter.inputs().expect("they are kept").clone());
        encounter.tick_with(hooks, world).expect("it runs");
        encounter.confirm(hooks, world);
        told.append(&mut world.told);
    });
    Plain { asked, end, told }
}

/// What players ask in a tick: one of them all that is asked, the others nothing.
fn inputs_of(plain: &Plain, tick: usize) -> [Inputs; PLAYERS] {
    let mut inputs: [Inputs; PLAYERS] = Default::default();
    inputs[tick % PLAYERS] = plain.asked[tick - 1].clone();
    inputs
}

/// Each fact is shown once, corrected while it is there, and retracted or confirmed once; nothing is said that says nothing.
fn is_told_once(told: &[Told]) -> Result<Vec<Event>, TestCaseError> {
    let mut shown: BTreeMap<u64, (FactKey, u64, Event)> = BTreeMap::new();
    let (mut latest, mut confirmed) = (0, Vec::new());
    for told in told {
        let (Some((what, number)), Some(key)) = (told.what, told.key) else { continue };
        let is = (key, told.tick, told.event);
        match what {
            Prediction::Shown => {
                prop_assert_eq!(number, latest + 1);
                latest = number;
                prop_assert!(shown.insert(number, is).is_none());
            }
            Prediction::Changed => {
                let before = shown.insert(number, is).expect("it was shown");
                prop_assert_eq!(before.0, key);
                // What the tables of its tick hold of it may be other.
                let has_more = matches!(
                    told.event,
                    Event::CombatantDied(_)
                        | Event::DamageDealt(_)
                        | Event::HealApplied(_)
                        | Event::HostFact(_)
                );
                prop_assert!(before != is || has_more, "{:?}", before);
            }
            // Running numbers of the encounter may be others by then; that is no change.
            Prediction::Retracted | Prediction::Confirmed => {
                let (before, tick, event) = shown.remove(&number).expect("it is shown");
                prop_assert_eq!((before, tick, event.topic()), (key, told.tick, told.event.topic()));
                if what == Prediction::Confirmed {
                    confirmed.push(told.event);
                }
            }
        }
    }
    prop_assert!(shown.is_empty(), "{:?}", shown);
    Ok(confirmed)
}

fn sure(told: &[Told]) -> Vec<Event> {
    let is_sure = |told: &&Told| told.what.is_some_and(|(what, _)| what == Prediction::Confirmed);
    told.iter().filter(is_sure).map(|told| told.event).collect()
}

fn watched(told: &[Told]) -> Vec<Told> {
    told.iter().filter(|told| told.what.is_none()).cloned().collect()
}

proptest! {
    #![proptest_config(cases(300))]

    /// Whatever comes late, by at most the ticks that are kept: in the end all stands as if it had come at once, and so was each hook told.
    #[test]
    fn late_inputs_come_to_the_same(fight in fights(), limit in 0u32..10, delays in prop::collection::vec(0u64..=KEPT.into(), 1..60)) {
        let rules = build_with(&fight.sheet, |b| _ = b.rewind(limit));
        let plain = played(&rules, &fight);
        let hooks = hooks();
        let mut world = World::new(&rules);
        let mut encounter = Encounter::new(&rules, fight.seed);
        subscribe(&mut encounter);
        let options = RollbackOptions { players: PLAYERS, ticks: KEPT, ahead: 60 };
        let mut rollback = Rollback::begin(encounter, options).expect("it is whole");
        let last = plain.asked.len() as u64;
        let mut again = 0;
        for now in 1..=last + u64::from(KEPT) {
            for tick in (1..=now.min(last)).rev() {
                for (player, input) in inputs_of(&plain, tick as usize).into_iter().enumerate() {
                    let delay = delays[(tick as usize * PLAYERS + player) % delays.len()];
                    if tick + delay == now {
                        rollback.give(tick, player, input).expect("it is in time");
                    }
                }
            }
            if now <= last {
                again += rollback.advance(&hooks, &mut world).expect("it runs").again;
            }
        }
        prop_assert_eq!(rollback.known(), last);
        let end = rollback.finish(&hooks, &mut world).expect("it runs");
        prop_assert!(end.same_state(&plain.end));
        prop_assert_eq!(is_told_once(&world.told)?, sure(&plain.told));
        prop_assert_eq!(watched(&world.told), watched(&plain.told));
        prop_assert!(again == 0 || delays.iter().any(|&delay| delay > 0));
    }
}

/// A game of a few players who each hit the same stone.
#[derive(Default)]
struct Stones {
    stone: Option<CombatantId>,
    /// What a restore does not bring back: in tests of what must not be.
    hidden: i64,
    panics: bool,
    told: Vec<(Prediction, u64, FactKey, u64)>,
}

/// How hard a player hits, by name of the reason.
impl Game for Stones {
    type Input = i64;
    type Saved = Option<CombatantId>;

    fn play(&mut self, fight: &mut Encounter, inputs: TickInputs<'_, i64>) {
        let rules = fight.rules().clone();
        let (crush, tide) = (rules.find_damage_type("crush").unwrap(), rules.find_reason("tide").unwrap());
        let stone = *self.stone.get_or_insert_with(|| {
            let template = rules.find_template("stone").unwrap();
            fight.orders().spawn_keyed(template, Pose::IDENTITY, None, None, 7)
        });
        for (_, &points) in inputs.iter() {
            if points == -1 {
                fight.orders().end(rules.find_outcome("dusk").unwrap());
            } else if points > 0 {
                fight.orders().damage(stone, crush, Fixed::whole(points + self.hidden), tide);
            }
        }
    }

    fn predict(last: &i64) -> Option<i64> {
        (*last == 0).then_some(0)
    }

    fn save_into(&self, saved: &mut Option<CombatantId>) {
        *saved = self.stone;
    }

    fn restore(&mut self, saved: &Option<CombatantId>) {
        self.stone = *saved;
    }
}

fn stones(players: usize, ticks: u32) -> (Rollback<Stones>, Hooks<Stones>) {
    let mut b = Ruleset::builder(60);
    let team = b.team("rocks");
    b.damage_type("crush");
    b.reason("tide");
    b.outcome("dusk");
    b.template(Template::new("stone", team, 100));
    let rules = b.build().unwrap();
    let mut hooks = Hooks::<Stones>::new();
    let told = hooks.show("told", |stones, predicted| {
        let amount = match predicted.heard.event {
            Event::DamageDealt(dealt) => dealt.amount as u64,
            _ => 0,
        };
        stones.told.push((predicted.what, predicted.number, predicted.key, amount));
    });
    let fails = hooks.react("fails", |stones, _, _| assert!(!std::mem::take(&mut stones.panics), "as asked"));
    let mut fight = Encounter::new(&rules, 7);
    let damage = rules.topics().family("damage").unwrap();
    fight.orders().subscribe(told, Listen::under(damage));
    fight.orders().subscribe(fails, Listen::under(damage));
    let options = RollbackOptions { players, ticks, ahead: 5 };
    (Rollback::begin(fight, options).unwrap(), hooks)
}

fn health(rollback: &Rollback<Stones>, stones: &Stones) -> i64 {
    rollback.fight().view().health(stones.stone.unwrap()).unwrap().0
}

#[test]
fn inputs_that_cannot_be_taken_are_told_so() {
    let (mut rollback, hooks) = stones(2, 3);
    let mut stones = Stones::default();
    assert_eq!(rollback.give(6, 0, 1), Err(InputError::TooEarly { tick: 6, latest: 5 }));
    assert_eq!(rollback.give(1, 2, 1), Err(InputError::NoSuchPlayer { player: 2, players: 2 }));
    for _ in 0..5 {
        rollback.advance(&hooks, &mut stones).unwrap();
    }
    assert_eq!((rollback.tick(), rollback.oldest(), rollback.known()), (5, 3, 2));
    assert_eq!(rollback.give(2, 0, 1), Err(InputError::TooLate { tick: 2, oldest: 3 }));
    assert_eq!(rollback.give(0, 0, 1), Err(InputError::TooLate { tick: 0, oldest: 3 }));
    assert_eq!(rollback.give(3, 0, 4), Ok(()));
    assert_eq!(rollback.give(3, 0, 4), Ok(()));
    assert_eq!(rollback.give(3, 0, 5), Err(InputError::GivenBefore { player: 0, tick: 3 }));
    let ran = rollback.correct(&hooks, &mut stones).unwrap();
    assert_eq!((ran.tick, ran.again, ran.confirmed), (5, 3, 2));
    assert_eq!(health(&rollback, &stones), 96);
    let said = InputError::TooLate { tick: 2, oldest: 3 }.to_string();
    assert!(said.contains("3 is the first that can be run again"), "{said}");
}

/// A prediction that was right costs nothing; one that was wrong is run again from where it differs.
#[test]
fn what_was_predicted_rightly_is_not_run_again() {
    let (mut rollback, hooks) = stones(2, 8);
    let mut stones = Stones::default();
    let mut again = Vec::new();
    rollback.give(1, 1, 0).unwrap();
    for tick in 1..=10 {
        rollback.give(tick, 0, 0).unwrap();
        if tick > 4 {
            rollback.give(tick - 3, 1, if tick == 9 { 5 } else { 0 }).unwrap();
        }
        again.push(rollback.advance(&hooks, &mut stones).unwrap().again);
    }
    // After a 5, which is not foreseen to go on, the next 0 was not foreseen either.
    assert_eq!(again, [0, 0, 0, 0, 0, 0, 0, 0, 3, 3]);
    assert_eq!(health(&rollback, &stones), 95);
    let number_of = |told: &[(Prediction, u64, FactKey, u64)]| {
        told.iter().map(|told| (told.0, told.1)).collect::<Vec<_>>()
    };
    assert_eq!(number_of(&stones.told), [(Prediction::Shown, 1), (Prediction::Confirmed, 1)]);
}

/// A fight that ended too early goes on when an input comes that keeps it from ending.
#[test]
fn an_end_can_be_taken_back() {
    let (mut rollback, hooks) = stones(2, 8);
    let mut stones = Stones::default();
    rollback.advance(&hooks, &mut stones).unwrap();
    rollback.give(2, 0, -1).unwrap();
    for _ in 0..4 {
        rollback.advance(&hooks, &mut stones).unwrap();
    }
    let ended = rollback.advance(&hooks, &mut stones).unwrap();
    assert_eq!((ended.tick, ended.summary), (6, None));
    // It ends in tick 2 whatever comes; what comes before is still heard.
    rollback.give(1, 1, 30).unwrap();
    rollback.correct(&hooks, &mut stones).unwrap();
    assert_eq!((health(&rollback, &stones), rollback.tick()), (70, 6));
    assert_eq!(rollback.fight().view().tick(), 2);
    let mut fight = rollback.finish(&hooks, &mut stones).unwrap();
    assert_eq!(fight.tick_with(&hooks, &mut stones), Err(TickError::Ended));
    assert_eq!(stones.told.last().map(|told| (told.0, told.3)), Some((Prediction::Confirmed, 30)));
}

/// The tick in which a hook panicked is begun anew, and so is one that was run again.
#[test]
fn a_panic_is_no_end() {
    let (mut rollback, hooks) = stones(2, 8);
    let mut stones = Stones::default();
    for tick in 1..=3 {
        rollback.give(tick, 0, 1).unwrap();
        rollback.advance(&hooks, &mut stones).unwrap();
    }
    stones.panics = true;
    rollback.give(2, 1, 10).unwrap();
    let mut advance = |stones: &mut Stones| {
        let call = std::panic::AssertUnwindSafe(|| rollback.advance(&hooks, stones));
        std::panic::catch_unwind(call).map(|ran| ran.unwrap())
    };
    assert!(advance(&mut stones).is_err());
    let ran = advance(&mut stones).expect("it panics once");
    assert_eq!((ran.tick, ran.again), (4, 2));
    assert_eq!(health(&rollback, &stones), 87);
    let refused = Encounter::tick_with as fn(&mut _, &Hooks<Stones>, &mut _) -> _;
    let run = &mut |fight: &mut Encounter, hooks: &Hooks<Stones>, stones: &mut Stones| {
        _ = refused(fight, hooks, stones);
        Err(TickError::NoMoreNumbers)
    };
    assert_eq!(rollback.advance_by(&hooks, &mut stones, run), Err(TickError::NoMoreNumbers));
    assert_eq!(rollback.advance(&hooks, &mut stones).map(|ran| ran.tick), Ok(5));
    assert_eq!(health(&rollback, &stones), 87);
    rollback.finish(&hooks, &mut stones).unwrap();
    let retracted = stones.told.iter().filter(|told| told.0 == Prediction::Retracted).count();
    let confirmed: Vec<_> =
        stones.told.iter().filter(|told| told.0 == Prediction::Confirmed).map(|told| told.3).collect();
    assert_eq!((retracted, &confirmed[..]), (0, &[1, 1, 10, 1][..]));
}

/// A negative control: what the game remembers and does not save is seen, since the fight comes to something else.
#[test]
fn a_game_that_does_not_save_what_decides_ends_elsewhere() {
    let mut ends = Vec::new();
    for late in [0, 2] {
        let (mut rollback, hooks) = stones(1, 8);
        let mut stones = Stones::default();
        for tick in 1..=10 {
            if tick > late {
                rollback.give(tick - late, 0, 2).unwrap();
            }
            stones.hidden += 1;
            rollback.advance(&hooks, &mut stones).unwrap();
        }
        ends.push(health(&rollback, &stones));
    }
    assert_ne!(ends[0], ends[1]);
}

/// A stable key belongs to one combatant at a time, and does not depend on who came before.
#[test]
fn keys_of_ones_own_are_given_once() {
    let mut b = Ruleset::builder(60);
    let team = b.team("rocks");
    let stone = b.template(Template::new("stone", team, 10));
    let rules = b.build().unwrap();
    let (mut of_keyed, mut of_last) = (Vec::new(), Vec::new());
    for others in 1..4 {
        let mut fight = Encounter::new(&rules, 7);
        let mut hooks = Hooks::<BTreeMap<CombatantId, FactKey>>::new();
        let joins = hooks.show("joins", |keys: &mut BTreeMap<_, _>, predicted| {
            // Without a driver a fact is shown once it is sure.
            if predicted.what == Prediction::Confirmed {
                keys.insert(predicted.heard.event.subject().unwrap(), predicted.key);
            }
        });
        fight.orders().subscribe(joins, Listen::to(topic::COMBATANT_JOINED));
        let mut keys = BTreeMap::new();
        fight.tick_with(&hooks, &mut keys).unwrap();
        let unkeyed: Vec<_> = (0..others).map(|_| fight.orders().spawn(stone, Pose::IDENTITY)).collect();
        let [keyed, taken] =
            [(); 2].map(|()| fight.orders().spawn_keyed(stone, Pose::IDENTITY, None, None, 99));
        fight.tick_with(&hooks, &mut keys).unwrap();
        let refused = fight.facts().events().find_map(|event| match event {
            Event::OrderRefused(refused) => Some((refused.subject, refused.why)),
            _ => None,
        });
        assert_eq!(refused, Some((Some(taken), Refusal::KeyTaken(keyed))));
        fight.orders().remove(keyed);
        fight.tick_with(&hooks, &mut keys).unwrap();
        let again = fight.orders().spawn_keyed(stone, Pose::IDENTITY, None, None, 99);
        fight.tick_with(&hooks, &mut keys).unwrap();
        assert_eq!(fight.confirm(&hooks, &mut keys), others + 2);
        assert_eq!(keys[&again], keys[&keyed]);
        of_keyed.push(keys[&keyed]);
        of_last.push(keys[&unkeyed[others - 1]]);
    }
    assert!(of_keyed.iter().all(|&key| key == of_keyed[0]), "{of_keyed:?}");
    assert!(
        of_last.iter().all(|key| of_last.iter().filter(|other| *other == key).count() == 1),
        "{of_last:?}"
    );
}
