//! A log is the fight: run again without its host, it comes to the same bits; cut or damaged, it is good up to there.

use std::panic::{AssertUnwindSafe, catch_unwind};

use hammerstone::amount::Keep;
use hammerstone::event::{CombatantJoined, Event};
use hammerstone::geometry::Frame;
use hammerstone::orders::Inputs;
use hammerstone::prelude::*;
use hammerstone::rollback::{Rollback, RollbackOptions};
use hammerstone::{Fixed, Saved};
use hammerstone_record::{
    FlightRecorder, Flush, Log, LogEnd, LogError, LogOptions, Named, Names, Recorder, Replay, RollbackCheck,
    RollbackError,
};
use proptest::prelude::*;
use testkit::{World, build, busy, facts_hash, fights, play_ticking};

fn each_tick() -> LogOptions {
    LogOptions { checksums: 1, flush: Flush::EachTick, ..LogOptions::at_rate(60) }
}

/// What a tick came to: its facts, and the state that it left.
type Came = (u64, u64);

fn came(fight: &Encounter) -> Came {
    (facts_hash(&fight.facts()), fight.checksum())
}

/// What every tick of a log comes to when it is run again.
fn run_again(log: &Log) -> Vec<Came> {
    let mut replay = Replay::of(log).expect("it begins");
    let mut all = Vec::new();
    while let Some(summary) = replay.tick().unwrap_or_else(|error| panic!("{error}")) {
        assert_eq!(summary.facts, replay.fight().facts().facts.len());
        all.push(came(replay.fight()));
    }
    all
}

proptest! {
    #![proptest_config(testkit::cases(120))]

    /// Hooks that give orders, intercepts with terms, preventions of death: of all that only the log is there the second time. States are
    /// restored that the log knows, and that it does not.
    #[test]
    fn a_log_runs_again_bit_for_bit(
        fight in fights(),
        backs in proptest::collection::vec((1..60u64, 0..6usize, any::<bool>()), 0..5),
        packed in any::<bool>(),
    ) {
        let rules = build(&fight.sheet);
        let options = LogOptions { packed, ..each_tick() };
        let (mut recorder, mut all, mut saves) = (None, Vec::new(), Vec::<Saved>::new());
        play_ticking(&rules, &fight, |_| {}, |encounter, hooks, world| {
            let log = recorder.get_or_insert_with(|| Recorder::begin(encounter, Vec::new(), &options));
            log.tick_with(encounter, hooks, world).expect("it ticks");
            all.push(came(encounter));
            saves.push(encounter.save().expect("it is whole"));
            for &(_, back, elsewhere) in backs.iter().filter(|(at, ..)| *at == all.len() as u64) {
                let saved = &saves[saves.len() - 1 - back.min(saves.len() - 1)];
                let read = Saved::from_bytes(&saved.to_bytes()).expect("it was written");
                encounter.restore(if elsewhere { &read } else { saved }).expect("it is of this fight");
            }
        });
        let bytes = recorder.expect("there were ticks").finish().expect("memory");
        let log = Log::read(bytes).expect("it was written");
        prop_assert_eq!(log.end, LogEnd::Finished);
        prop_assert_eq!(log.len(), all.len());
        prop_assert_eq!(&run_again(&log), &all);

        // What counts in the end is a fight of its own, and ends as that did.
        let mut branch = Replay::of_branch(&log);
        let mut last = 0;
        while let Some(summary) = branch.tick().unwrap_or_else(|error| panic!("{error}")) {
            prop_assert!(last == 0 || summary.tick == last + 1 || summary.tick == 1, "ticks follow each other");
            last = if summary.reset { 0 } else { summary.tick };
        }
        prop_assert_eq!(Some(&came(branch.fight())), all.last());
    }
}

/// What a test does with a fight between two of its ticks.
#[derive(Clone, Copy, PartialEq, Debug)]
enum Between {
    /// It goes through bytes.
    Saves,
    /// So many ticks are run again.
    RollsBack(usize),
    /// It goes on under the other ruleset, which was tuned.
    Adopts,
}

/// One that goes under one ruleset, then under the other.
fn adopts(encounter: &mut Encounter, rules: &[Ruleset; 2]) {
    let other = usize::from(encounter.rules().fingerprint() == rules[0].fingerprint());
    // One that would not fit is refused, and has changed nothing.
    _ = encounter.adopt(&rules[other], Keep::Share);
}

proptest! {
    #![proptest_config(testkit::cases(120))]

    /// Saved through bytes, rolled back and run again, under rulesets that change, at any ticks and with all of it in the log: every tick comes to what it
    /// comes to without, and the log runs again.
    #[test]
    fn all_of_it_at_once_changes_no_bit(
        fight in fights(),
        seed in any::<u64>(),
        between in proptest::collection::btree_map(1..70usize, prop_oneof![
            Just(Between::Saves),
            (1..9usize).prop_map(Between::RollsBack),
            Just(Between::Adopts),
        ], 1..9),
    ) {
        let rules = [build(&fight.sheet), build(&fight.sheet.tuned(seed, false))];
        let mut plain = Vec::new();
        play_ticking(&rules[0], &fight, |_| {}, |encounter, hooks, world| {
            encounter.tick_with(hooks, world).expect("it ticks");
            plain.push(came(encounter));
            if between.get(&plain.len()) == Some(&Between::Adopts) {
                adopts(encounter, &rules);
            }
        });

        let (mut recorder, mut all) = (None, Vec::new());
        // What each tick began with, and what was asked in it.
        let mut begun: Vec<(Ruleset, Saved, u64, Inputs)> = Vec::new();
        let mut elsewhere = None;
        play_ticking(&rules[0], &fight, |_| {}, |encounter, hooks, world| {
            let log = recorder.get_or_insert_with(|| Recorder::begin(encounter, Vec::new(), &each_tick()));
            let asked = encounter.inputs().expect("they are kept").clone();
            // As it stood before anything was asked: as the tick before left it.
            let before = elsewhere.take().unwrap_or_else(|| (encounter.rules().clone(), encounter.save().expect("it is whole")));
            begun.push((before.0, before.1, world.calls, asked));
            log.tick_with(encounter, hooks, world).expect("it ticks");
            all.push(came(encounter));
            match between.get(&all.len()) {
                Some(Between::Saves) => {
                    let saved = encounter.save().expect("it is whole").to_bytes();
                    encounter.restore(&Saved::from_bytes(&saved).expect("it was written")).expect("it is of this fight");
                }
                Some(&Between::RollsBack(ticks)) if all.len() > 1 => {
                    let first = all.len() - ticks.min(all.len() - 1);
                    let came_to = all.split_off(first);
                    let (rules_then, saved, calls, _) = &begun[first];
                    encounter.restore_under(rules_then, saved).expect("it is of this fight");
                    world.calls = *calls;
                    for place in 0..came_to.len() {
                        if place > 0 && between.get(&(first + place)) == Some(&Between::Adopts) {
                            adopts(encounter, &rules);
                        }
                        let (_, _, calls, asked) = &begun[first + place];
                        assert_eq!(world.calls, *calls);
                        encounter.repeat(asked).expect("it holds what it names");
                        log.tick_with(encounter, hooks, world).expect("it ticks");
                        all.push(came(encounter));
                    }
                    assert_eq!(all[first..], came_to);
                }
                Some(Between::Adopts) => adopts(encounter, &rules),
                _ => {}
            }
            elsewhere = Some((encounter.rules().clone(), encounter.save().expect("it is whole")));
        });
        prop_assert_eq!(&all, &plain);

        let log = Log::read(recorder.expect("there were ticks").finish().expect("memory")).expect("it was written");
        let every = run_again(&log);
        prop_assert!(every.len() >= plain.len());
        let mut branch = Replay::of_branch(&log);
        while branch.tick().unwrap_or_else(|error| panic!("{error}")).is_some() {}
        prop_assert_eq!(Some(&came(branch.fight())), plain.last());
    }

    /// A driver that rolls back is recorded as it runs; in the log the corrected ticks count.
    #[test]
    fn what_a_driver_corrects_is_a_log(
        fight in fights(),
        delays in proptest::collection::vec(0..9u64, 1..40),
    ) {
        let rules = build(&fight.sheet);
        let mut asked = Vec::new();
        let plain = play_ticking(&rules, &fight, |encounter| encounter.keep_inputs(true), |encounter, hooks, world| {
            asked.push(encounter.inputs().expect("they are kept").clone());
            encounter.tick_with(hooks, world).expect("it ticks");
        });
        let (hooks, mut world) = (testkit::hooks(), World::new(&rules));
        let mut encounter = Encounter::new(&rules, fight.seed);
        let mut recorder = Recorder::begin(&mut encounter, Vec::new(), &each_tick());
        let mut driver = Rollback::begin(encounter, RollbackOptions::of(1)).expect("it is whole");
        let last = asked.len() as u64;
        for now in 1..=last + 8 {
            for tick in now.saturating_sub(8).max(1)..=now.min(last) {
                if tick + delays[tick as usize % delays.len()] == now {
                    driver.give(tick, 0, asked[tick as usize - 1].clone()).expect("it is in time");
                }
            }
            let run = &mut |fight: &mut Encounter, hooks: &Hooks<World>, world: &mut World| recorder.tick_with(fight, hooks, world);
            let to = if now <= last { Rollback::advance_by } else { Rollback::correct_by };
            to(&mut driver, &hooks, &mut world, run).expect("it ticks");
        }
        prop_assert!(driver.fight().same_state(&plain));
        let log = Log::read(recorder.finish().expect("memory")).expect("it was written");
        let mut branch = Replay::of_branch(&log);
        while branch.tick().unwrap_or_else(|error| panic!("{error}")).is_some() {}
        prop_assert!(branch.fight().same_state(&plain));
        prop_assert_eq!(run_again(&log).len(), log.len());
    }
}

/// The last seconds are a log of their own: of one stretch or two, with states restored within one and across both, and a tick that panics
/// at its end.
#[test]
fn the_last_seconds_are_a_log() {
    for (packed, always) in [(false, false), (true, false), (false, true)] {
        let (_, hooks, mut fight) = busy();
        let options = LogOptions { packed, ..each_tick() };
        let mut recorder = FlightRecorder::begin(&mut fight, 40, options);
        hooks.names().for_each(|(hook, name)| recorder.name(Named::Hook(hook), name));
        let (mut calls, mut all, mut saves) = (0, Vec::new(), Vec::new());
        for tick in 0..190u32 {
            if always || tick % 7 != 0 {
                fight.orders().next_round();
            }
            recorder.tick_with(&mut fight, &hooks, &mut calls).expect("it ticks");
            all.push(came(&fight));
            saves.push(fight.save().expect("it is whole"));
            if matches!(tick, 55 | 70 | 100 | 130 | 171) {
                fight.restore(&saves[tick as usize - 14]).expect("it is of this fight");
            }
            if matches!(tick, 0 | 20 | 45 | 99 | 133 | 189) {
                let log = Log::read(recorder.log()).expect("it was written");
                assert_eq!(log.end, LogEnd::Open);
                let least = if always { 1 } else { all.len().min(40) };
                assert!((least..=2 * 47).contains(&log.len()), "{} at {tick}", log.len());
                assert_eq!(run_again(&log), all[all.len() - log.len()..], "at {tick}");
                let mut names = Names::new();
                let mut replay = Replay::of_branch(&log);
                while replay.tick_named(&mut names).expect("it runs again").is_some() {}
                let (hook, name) = hooks.names().next().expect("it has one");
                assert_eq!(names.of_hook(hook), name);
            }
        }
    }
}

/// A ruleset that is tuned in the middle is in the log, with what the fight came to under it; so are states from before it.
#[test]
fn a_tuned_ruleset_is_in_the_log() {
    let rules = |health| {
        let mut b = Ruleset::builder(60);
        let masons = b.team("masons");
        b.template(Template::new("mason", masons, health));
        b.build().expect("a ruleset")
    };
    let (plain, tuned) = (rules(40), rules(60));
    let mut fight = Encounter::new(&plain, 7);
    let mut recorder = Recorder::begin(&mut fight, Vec::new(), &each_tick());
    let mut all = Vec::new();
    let mut tick = |fight: &mut Encounter| {
        recorder.tick(fight).expect("it ticks");
        all.push(came(fight));
    };
    let odo = fight.orders().spawn(plain.find_template("mason").expect("it is there"), Pose::IDENTITY);
    tick(&mut fight);
    tick(&mut fight);
    let before = fight.save().expect("it is whole");
    fight.orders().next_round();
    fight.adopt(&tuned, Keep::Share).expect("numbers alone");
    fight.orders().next_round();
    tick(&mut fight);
    assert_eq!(fight.view().health(odo), Some((60, 60)));
    tick(&mut fight);
    // Back to before it was tuned, and on.
    fight.restore_under(&plain, &before).expect("it is of that ruleset");
    tick(&mut fight);
    assert_eq!(fight.view().health(odo), Some((40, 40)));
    assert_eq!((all.len(), fight.view().round()), (5, 1));
    let log = Log::read(recorder.finish().expect("memory")).expect("it was written");
    assert_eq!(run_again(&log), all);
    assert_eq!(log.branch(), [1, 2, 5]);
}

/// A log that is begun in the middle of a fight has what the fight stands at.
#[test]
fn a_log_may_begin_in_the_middle() {
    let (_, hooks, mut fight) = busy();
    let mut calls = 0;
    for _ in 0..45 {
        fight.tick_with(&hooks, &mut calls).expect("it ticks");
    }
    fight.orders().next_round();
    let mut recorder = Recorder::begin(&mut fight, Vec::new(), &each_tick());
    let all: Vec<Came> = (0..100)
        .map(|_| {
            recorder.tick_with(&mut fight, &hooks, &mut calls).expect("it ticks");
            came(&fight)
        })
        .collect();
    let log = Log::read(recorder.finish().expect("memory")).expect("it was written");
    assert_eq!(log.start().view().tick(), 45);
    assert_eq!(run_again(&log), all);
}

/// One that was reset to a beginning without anything in it has other ids than a new one.
#[test]
fn a_log_may_begin_after_a_reset() {
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    let mason = b.template(Template::new("mason", masons, 40));
    let mut fight = Encounter::new(&b.build().expect("a ruleset"), 7);
    fight.tick().expect("it ticks");
    fight.orders().reset();
    fight.tick().expect("it ticks");
    let mut recorder = Recorder::begin(&mut fight, Vec::new(), &each_tick());
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    recorder.tick(&mut fight).expect("it ticks");
    assert_eq!((fight.epoch(), fight.view().life(odo)), (1, Life::Standing));
    let log = Log::read(recorder.finish().expect("memory")).expect("it was written");
    assert_eq!(run_again(&log), [came(&fight)]);
}

/// A busy log, small: its bytes, and what each tick came to.
fn small(packed: bool) -> (Vec<u8>, Vec<Came>) {
    let (_, hooks, mut fight) = busy();
    let (mut calls, mut all) = (0, Vec::new());
    let options = LogOptions { packed, title: "The sluice".to_owned(), ..each_tick() };
    let mut recorder = Recorder::begin(&mut fight, Vec::new(), &options);
    recorder.name_hooks(&hooks);
    let mut saved = Saved::default();
    for tick in 0..24 {
        recorder.tick_with(&mut fight, &hooks, &mut calls).expect("it ticks");
        all.push(came(&fight));
        match tick {
            9 => fight.save_into(&mut saved).expect("it is whole"),
            14 => fight.restore(&saved).expect("it is of this fight"),
            _ => {}
        }
    }
    (recorder.finish().expect("memory"), all)
}

/// A log that is cut at any byte is good up to the last whole frame, and says where that ends.
#[test]
fn a_cut_log_is_good_up_to_the_cut() {
    for packed in [false, true] {
        let (bytes, all) = small(packed);
        let mut most = 0;
        for end in 0..bytes.len() {
            match Log::read(bytes[..end].to_vec()) {
                Err(LogError::OtherSort | LogError::NoHeader) => {
                    assert_eq!(most, 0, "once whole, always whole")
                }
                Err(error) => panic!("cut at {end}: {error}"),
                Ok(log) => {
                    assert_ne!(log.end, LogEnd::Finished, "cut at {end}");
                    assert!(log.len() >= most, "cut at {end}");
                    if log.len() > most {
                        most = log.len();
                        assert_eq!(run_again(&log), all[..most]);
                    }
                }
            }
        }
        assert_eq!(most, all.len(), "all but the end");
    }
}

/// A log with a bit that is another one is good up to the frame that has it.
#[test]
fn a_damaged_log_is_good_up_to_the_damage() {
    for packed in [false, true] {
        let (bytes, all) = small(packed);
        let whole = Log::read(bytes.clone()).expect("it was written");
        let mut last = 0;
        for place in 0..bytes.len() {
            let mut damaged = bytes.clone();
            damaged[place] ^= 1 << (place % 8);
            let Ok(log) = Log::read(damaged) else {
                assert_eq!(last, 0, "damaged at {place}: only the header makes it unreadable");
                continue;
            };
            let LogEnd::Damaged(begins) = log.end else { panic!("damaged at {place}: {:?}", log.end) };
            assert!(begins <= place, "damaged at {place}: nothing before it is wrong");
            assert!(log.len() >= last, "damaged at {place}: what is before is good");
            if log.len() > last || place % 211 == 0 {
                assert_eq!(run_again(&log), all[..log.len()]);
            }
            last = log.len();
        }
        assert_eq!((last, whole.len()), (all.len(), all.len()));
    }
}

/// What follows the end of a log is no part of it.
#[test]
fn bytes_after_the_end_are_damage() {
    let (mut bytes, all) = small(false);
    let end = bytes.len();
    bytes.push(0);
    let log = Log::read(bytes).expect("it was written");
    assert_eq!((log.end, log.len()), (LogEnd::Damaged(end), all.len()));
    assert!(matches!(Log::read(b"HMSTLOG9".to_vec()), Err(LogError::OtherSort)));
    assert!(matches!(Log::read(Vec::new()), Err(LogError::OtherSort)));
}

/// A tick in which a hook panics can be run again: what was asked before it is in the log, and nothing of what it did.
#[test]
fn a_tick_that_panics_can_be_run_again() {
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    let mason = b.template(Template::new("mason", masons, 40));
    let rules = b.build().expect("a ruleset");
    let mut hooks = Hooks::<bool>::new();
    let bell = hooks.on("bell", |breaks: &mut bool, _: &CombatantJoined, _, orders| {
        assert!(!*breaks, "the rope breaks");
        orders.next_round();
    });
    let mut fight = Encounter::new(&rules, 7);
    let mut recorder = Recorder::begin(&mut fight, Vec::new(), &each_tick());
    recorder.name_hooks(&hooks);
    fight.orders().subscribe(bell, Listen::to(topic::COMBATANT_JOINED));
    fight.orders().spawn(mason, Pose::IDENTITY);
    recorder.tick_with(&mut fight, &hooks, &mut false).expect("it ticks");
    let odo = fight.orders().spawn(mason, Pose::at([2.0, 0.0, 0.0]));
    recorder.name(Named::Combatant(odo), "odo");
    catch_unwind(AssertUnwindSafe(|| recorder.tick_with(&mut fight, &hooks, &mut true)))
        .expect_err("it panics");
    // Nothing more is written once the game is gone.
    let log = Log::read(recorder.out().expect("memory").clone()).expect("it was written");
    assert_eq!((log.end, log.len()), (LogEnd::Open, 1));

    let (mut replay, mut names) = (Replay::of(&log).expect("it begins"), Names::new());
    while replay.tick_named(&mut names).expect("it runs again").is_some() {}
    assert_eq!((names.of(odo), names.of_hook(bell)), ("odo", "bell"));
    let mut again = replay.unfinished().expect("a tick was begun");
    assert_eq!(again.pending_orders().count(), 1);
    catch_unwind(AssertUnwindSafe(|| again.clone().tick_with(&hooks, &mut true)))
        .expect_err("it panics again");
    again.tick_with(&hooks, &mut false).expect("the rope holds");
    assert_eq!(again.view().life(odo), Life::Standing);
    assert_eq!(again.view().round(), 3);
}

/// Poses by order and by answer, own steps, texts, orders that were taken back: all of it is in the log.
#[test]
fn everything_that_a_host_asks_is_in_the_log() {
    let mut b = Ruleset::builder(60);
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let crush = b.damage_type("crush");
    let word = b.host_topic("host.word", &[("text", hammerstone::event::ValueSort::Text)]);
    let own = b.own_step("tide");
    let part = |name: &str| Part::new(name, Shape::Sphere { at: [0.0; 3], radius: 0.4 });
    let hound =
        b.template(Template::new("hound", beasts, 60).part(part("head")).part(part("trunk")).posed(3.0));
    let mason = b.template(Template::new("mason", masons, 40).part(part("trunk")));
    let maul = b.attack(
        Attack::melee("maul")
            .timeline(2, 3, 1)
            .damage(crush, 3, 5)
            .hitbox(Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.6 }),
    );
    let rules = b.build().expect("a ruleset");
    let mut hooks = Hooks::<u32>::new();
    hooks.step(own, "tide", |calls, step| step.amount + Fixed::whole(i64::from(*calls % 3)));
    hooks.pose_source(|calls, request, answer| {
        *calls += 1;
        let at = |shift: f32| {
            let sway = request.view.tick() as f32 * 0.01 + shift;
            [Pose::at([sway, 1.2, 0.0]), Pose::at([0.0, 0.9, sway]).turned([0.0, 1.0, 0.0], 9.0 * sway)]
        };
        answer.give(Frame::Body, &at(0.0), &at(0.01)).expect("they are within reach");
    });
    let speaks = hooks.react("speaks", move |_, heard, orders| {
        if let Event::HitLanded(_) = heard.event {
            let text = orders.text("The tide turns.");
            orders.publish(word, &[text]);
        }
    });
    let (mut fight, mut calls) = (Encounter::new(&rules, 11), 0);
    let mut recorder = Recorder::begin(&mut fight, Vec::new(), &each_tick());
    fight.orders().subscribe(speaks, Listen::to(topic::HIT_LANDED));
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let asked = fight.orders().spawn(hound, Pose::at([0.0, 0.0, 1.0]));
    let posed = fight.orders().spawn(hound, Pose::at([0.0, 0.0, 1.4]));
    let dropped = fight.orders().next_round();
    fight.drop_order(dropped);
    let (mut all, mut texts) = (Vec::new(), 0);
    for tick in 0..90u32 {
        let sway = (tick as f32 * 0.1).sin() * 0.2;
        let poses = [Pose::at([sway, 1.0, 0.0]), Pose::at([0.0, 0.8, -sway])];
        fight.orders().pose_parts(posed, Frame::Body, &poses);
        fight.orders().move_to(odo, Pose::at([0.0, 0.0, sway]));
        let text = fight.orders().text("Mind the sluice.");
        fight.orders().publish(word, &[text]);
        match tick % 9 {
            0 => _ = fight.orders().start(odo, maul),
            4 => _ = fight.orders().start(odo, maul),
            7 => fight.drop_orders(),
            _ => {}
        }
        recorder.tick_with(&mut fight, &hooks, &mut calls).expect("it ticks");
        texts += fight.facts().events().filter(|event| matches!(event, Event::HostFact(_))).count();
        all.push(came(&fight));
    }
    assert!(fight.counts().hits > 5 && texts > 80 && calls > 20, "there is something to record");
    assert_eq!(fight.view().life(asked), Life::Standing);
    let log = Log::read(recorder.finish().expect("memory")).expect("it was written");
    assert_eq!(run_again(&log), all);
}

/// A log that cannot be written lets the fight go on, and says so at its end.
#[test]
fn a_full_disk_does_not_stop_the_fight() {
    #[derive(Debug)]
    struct Small(usize);
    impl std::io::Write for Small {
        fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
            self.0 = self.0.checked_sub(bytes.len()).ok_or(std::io::ErrorKind::StorageFull)?;
            Ok(bytes.len())
        }

        fn flush(&mut self) -> std::io::Result<()> {
            Ok(())
        }
    }
    let (_, hooks, mut fight) = busy();
    let mut recorder = Recorder::begin(&mut fight, Small(4000), &each_tick());
    for _ in 0..200 {
        recorder.tick_with(&mut fight, &hooks, &mut 0).expect("the fight goes on");
    }
    assert_eq!(recorder.failed().map(std::io::Error::kind), Some(std::io::ErrorKind::StorageFull));
    assert_eq!(recorder.finish().expect_err("it was full").kind(), std::io::ErrorKind::StorageFull);
    assert_eq!(fight.view().tick(), 200);
}

/// Every tick, run again from eight ticks back, comes to the same: with hooks that keep what they know in the world.
#[test]
fn every_tick_is_run_again() {
    let (_, hooks, mut fight) = busy();
    let mut check = RollbackCheck::begin(&mut fight, 8).expect("it is whole");
    let (mut calls, mut saved) = (0u64, None);
    for tick in 0..150u32 {
        if tick % 20 == 3 {
            fight.orders().next_round();
        }
        check.tick_with(&mut fight, &hooks, &mut calls).unwrap_or_else(|error| panic!("{error}"));
        match (tick, &saved) {
            (40, _) => saved = Some(fight.save().expect("it is whole")),
            (90, Some(saved)) => {
                fight.restore(saved).expect("it is of this fight");
                fight.orders().next_round();
            }
            _ => {}
        }
    }
    assert!(calls > 2 && fight.view().round() > 4, "{calls}");
}

/// A negative control: a hook that remembers beside the world what it did is found, with the part of the state that it spoils.
#[test]
fn a_hook_with_a_memory_of_its_own_is_found() {
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    let crush = b.damage_type("crush");
    let tide = b.reason("tide");
    let mason = b.template(Template::new("mason", masons, 40));
    let rules = b.build().expect("a ruleset");
    let mut hooks = Hooks::<()>::new();
    let hidden = std::sync::atomic::AtomicI64::new(1);
    let hurts = hooks.on("hurts", move |(), joined: &CombatantJoined, _, orders| {
        let more = hidden.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
        orders.damage(joined.subject, crush, Fixed::whole(more), tide);
    });
    let mut fight = Encounter::new(&rules, 7);
    let mut check = RollbackCheck::begin(&mut fight, 3).expect("it is whole");
    fight.orders().subscribe(hurts, Listen::to(topic::COMBATANT_JOINED));
    check.tick_with(&mut fight, &hooks, &mut ()).expect("it hears nothing yet");
    fight.orders().spawn(mason, Pose::IDENTITY);
    let error = check.tick_with(&mut fight, &hooks, &mut ()).expect_err("it remembers");
    let RollbackError::Differs { tick, back, differences } = &error else { panic!("{error}") };
    assert_eq!((*tick, *back, differences[0].field.as_str()), (2, 1, "combatants.health"));
    let text = error.to_string();
    assert!(
        text.starts_with(
            "tick 2, rolled back by 1 and run again, comes to another state: `combatants.health`, row 0"
        ),
        "{text}"
    );
}
