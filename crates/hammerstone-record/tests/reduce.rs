//! Logs that are reduced: what is left shows the same facts, as a log of its own, and none of it can go.

use hammerstone::prelude::*;
use hammerstone_record::{
    Log, LogOptions, Named, Names, Recorder, ReduceError, ReduceOptions, Reduced, Replay, Run, Tick, reduce,
    reduce_with,
};
use proptest::prelude::*;
use testkit::{build, busy, fights, play_ticking};

/// The facts about one between two times, as they are told: ticks, topics, and what they hold but for running numbers.
fn shown(log: &Log, wanted: &ReduceOptions) -> Vec<(u32, String, Option<i64>)> {
    let (mut replay, mut run) = (Replay::of_branch(log), Run::new());
    let mut all = Vec::new();
    replay.fight_mut().keep_ledgers(true);
    // The first stretch in that time: a reset begins the time anew, and new names.
    let mut began = false;
    while let Some(summary) = replay.tick_named(&mut run.names).expect("it runs again") {
        let begins = f64::from(summary.tick - 1) / f64::from(log.rules().rate());
        let is_in = begins >= wanted.from && begins < wanted.to;
        if began && !is_in {
            break;
        }
        let Tick { rules, ref facts, .. } = run.observe(replay.fight());
        if !is_in {
            continue;
        }
        began = true;
        for fact in facts.facts {
            let parties = [fact.event.subject(), fact.event.other()];
            if parties.iter().any(Option::is_some) {
                let topic = rules.topics().path(fact.event.topic()).unwrap_or_default().to_owned();
                let mut amount = None;
                fact.event.visit(|info, value| {
                    if let ("amount", hammerstone::event::FieldValue::Whole(points)) = (info.name, value) {
                        amount = Some(points);
                    }
                });
                all.push((parties, (facts.tick, topic, amount)));
            }
        }
        if summary.reset {
            break;
        }
    }
    // One may be named later than the first fact about it.
    let is = |who: CombatantId| run.names.of(who) == wanted.about;
    all.retain(|(parties, _)| parties.iter().flatten().copied().any(is));
    all.into_iter().map(|(_, told)| told).collect()
}

fn told(reduced: &Reduced) -> Vec<(u32, String)> {
    reduced.facts.iter().map(|fact| (fact.tick, fact.topic.clone())).collect()
}

fn about(name: &str, from: f64, to: f64) -> ReduceOptions {
    ReduceOptions { about: name.to_owned(), from, to, topics: Vec::new() }
}

proptest! {
    #![proptest_config(testkit::cases(60))]

    /// Generated fights with hooks that answer with orders, verdicts and preventions: what is left of a stretch is a log that runs again, and shows the
    /// same facts about one, also when it is reduced once more.
    #[test]
    fn what_is_left_shows_the_same(fight in fights(), who in 0..6usize, from in 0.0..0.4f64, long in 0.1..0.6f64) {
        let rules = build(&fight.sheet);
        let mut recorder = None;
        play_ticking(&rules, &fight, |_| {}, |encounter, hooks, world| {
            let log = recorder.get_or_insert_with(|| Recorder::begin(encounter, Vec::new(), &LogOptions::at_rate(60)));
            log.tick_with(encounter, hooks, world).expect("it ticks");
        });
        let log = Log::read(recorder.expect("there were ticks").finish().expect("memory")).expect("it was written");
        // Everyone who is there at some time, by name.
        let mut names = Names::new();
        let mut replay = Replay::of_branch(&log);
        let mut run = Run::new();
        let mut all = Vec::new();
        while replay.tick_named(&mut names).expect("it runs again").is_some() {
            run.observe(replay.fight());
            all.extend(replay.fight().view().combatants().map(|who| run.names.of(who).to_owned()));
        }
        all.sort();
        all.dedup();
        prop_assume!(!all.is_empty());
        let wanted = about(&all[who % all.len()], from, from + long);
        match reduce(&log, &wanted) {
            Ok(reduced) => {
                let small = Log::read(reduced.log.clone()).expect("it was written");
                let facts = shown(&small, &wanted);
                let before = shown(&log, &wanted);
                prop_assert!(before.len() >= facts.len(), "{:?} of {:?}, {:?}", facts, before, wanted);
                prop_assert_eq!(&facts, &before[..facts.len()]);
                let topics: Vec<_> = facts.into_iter().map(|(tick, topic, _)| (tick, topic)).collect();
                prop_assert_eq!(&topics, &told(&reduced));
                prop_assert!(!topics.is_empty());
                let again = reduce(&small, &wanted).expect("it shows them on its own");
                prop_assert_eq!(told(&again), told(&reduced));
            }
            // Nothing may be about one in so short a time.
            Err(ReduceError::Nothing { .. } | ReduceError::NoSuchTime { .. }) => {}
            Err(error) => prop_assert!(false, "{error}"),
        }
    }
}

/// A fight of many, of which few matter: one is hit in the second second.
fn crowd() -> (Log, Ruleset) {
    let mut b = Ruleset::builder(60);
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let crush = b.damage_type("crush");
    b.reason("tide");
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0, 0.5, 0.0], radius: 0.4 });
    let hitbox = Shape::Sphere { at: [0.0, 0.5, 1.0], radius: 0.5 };
    let maul = b.attack(Attack::melee("maul").timeline(10, 4, 10).damage(crush, 4, 4).hitbox(hitbox));
    let mason = b.template(Template::new("mason", masons, 40).part(trunk.clone()));
    let hound = b.template(Template::new("hound", beasts, 100).part(trunk));
    let rules = b.build().expect("sound rules");
    let mut fight = Encounter::new(&rules, 7);
    let options = LogOptions { title: "a \"crowd\"\n".to_owned(), ..LogOptions::at_rate(60) };
    let mut recorder = Recorder::begin(&mut fight, Vec::new(), &options);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    recorder.name(Named::Combatant(odo), "odo");
    let pack: Vec<_> =
        (0..30).map(|i| fight.orders().spawn(hound, Pose::at([i as f32 * 3.0, 0.0, 5.0]))).collect();
    for tick in 0..240 {
        for (number, &hound) in pack.iter().enumerate().filter(|(number, _)| *number != 4 || tick < 60) {
            let near = if number == 4 { 1.0 } else { 5.0 };
            let x = if number == 4 { 0.0 } else { number as f32 * 3.0 };
            fight.orders().move_over(hound, Pose::at([x, 0.0, near + (tick % 10) as f32 * 0.01]), 20);
        }
        if tick % 60 == 30 {
            fight.orders().start(odo, maul);
        }
        recorder.tick(&mut fight).expect("it ticks");
    }
    (Log::read(recorder.finish().expect("memory")).expect("it was written"), rules)
}

#[test]
fn few_of_many_are_left() {
    let (log, _) = crowd();
    let topics = vec!["hit".to_owned(), "damage".to_owned()];
    let wanted = ReduceOptions { topics, ..about("odo", 1.4, 2.0) };
    let reduced = reduce(&log, &wanted).expect("it is in there");
    let (left, given) = &reduced.orders;
    // A start; where the hound stands is in the state.
    assert_eq!((left.len(), *given), (1, 36 * 29 + 1), "{left:?}");
    assert_eq!(left[0].1, "start, odo: maul");
    assert_eq!(reduced.combatants, (2, 31));
    assert_eq!(told(&reduced).len(), 3, "{:?}", reduced.facts);
    assert!(reduced.log.len() < 30_000, "{}", reduced.log.len());
    assert!(reduced.runs < 400, "{}", reduced.runs);
    let case = reduced.to_toml("odo's \"case\".log", false);
    for line in [
        "# odo from 1.40 to 2.00 s, out of the log of a \"crowd\" .",
        "# What is left of it: 1 of 1045 orders, 2 of 31 combatants that were there.",
        "log = \"odo's \\\"case\\\".log\"",
        "title = \"odo in a \\\"crowd\\\"\\u000A\"",
        "sum = \"amount\"\nis = 4",
    ] {
        assert!(case.contains(line), "{line}: {case}");
    }
    assert!(!case.contains("never"));
    let never = reduced.to_toml("case.log", true);
    assert!(never.contains("amount = 4 }\nnever = true") && !never.contains("is = "), "{never}");
}

#[test]
fn what_cannot_be_reduced_is_told_so() {
    let (log, _) = crowd();
    let error = |wanted: ReduceOptions| reduce(&log, &wanted).expect_err("it cannot").to_string();
    let said = error(about("bram", 1.4, 2.0));
    assert!(
        said.starts_with("no fact from 1.4 to 2 s is about `bram`; there are facts about hound"),
        "{said}"
    );
    let said = error(about("odo", 9.0, 10.0));
    assert_eq!(said, "the log has no tick from 9 to 10 s; those that count go from 0.00 to 3.98 s");
    let said = error(ReduceOptions { topics: vec!["combatant.died".to_owned()], ..about("odo", 1.4, 2.0) });
    assert!(said.contains("is about `odo under combatant.died`"), "{said}");
}

/// With the game's own code: what its fault depends on stays, and code that does not show the fault has nothing to reduce.
#[test]
fn the_code_of_the_game_may_answer() {
    let (rules, hooks, mut fight) = busy();
    let mut recorder = Recorder::begin(&mut fight, Vec::new(), &LogOptions::at_rate(60));
    let (mut calls, mut world_then) = (0u64, 0);
    for tick in 0..120 {
        if tick == 30 {
            world_then = calls;
        }
        if tick % 12 == 3 {
            let mason = fight.view().combatants().next().expect("one is there");
            fight.orders().start(mason, rules.find_attack("maul").expect("it is there"));
        }
        recorder.tick_with(&mut fight, &hooks, &mut calls).expect("it ticks");
    }
    let log = Log::read(recorder.finish().expect("memory")).expect("it was written");
    let mut run = Run::new();
    let mut replay = Replay::of_branch(&log);
    while replay.tick_named(&mut run.names).expect("it runs again").is_some() {
        run.observe(replay.fight());
    }
    let name =
        fight.view().combatants().map(|who| run.names.of(who).to_owned()).next().expect("one is there");
    let wanted = about(&name, 0.5, 1.2);
    let recorded = reduce(&log, &wanted).expect("it shows them");
    let own = reduce_with(&log, &wanted, &hooks, &world_then).expect("so does the code");
    assert_eq!(told(&own), told(&recorded));
    assert!(!own.orders.0.is_empty() && own.orders.0.len() >= recorded.orders.0.len());
    // Another world of hooks: none of them is there, so that no tick runs.
    let none = Hooks::<u64>::new();
    assert_eq!(reduce_with(&log, &wanted, &none, &0).expect_err("none answers"), ReduceError::OfItsOwn);
}
