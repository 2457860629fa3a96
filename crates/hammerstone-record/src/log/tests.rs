//! Logs that were changed and sealed again: they stop where they differ.

use testkit::busy;

use super::frame::{FrameReader, FrameWriter, sort};
use super::*;

/// The frames of a log in which hooks hear facts in the first tick.
fn frames() -> Vec<(u8, Vec<u8>)> {
    let (_, hooks, mut fight) = busy();
    let options = LogOptions { checksums: 1, ..LogOptions::at_rate(60) };
    let mut recorder = Recorder::begin(&mut fight, Vec::new(), &options);
    for _ in 0..3 {
        recorder.tick_with(&mut fight, &hooks, &mut 0).expect("it ticks");
    }
    let bytes = recorder.finish().expect("memory");
    let mut reader = FrameReader::new(&bytes).expect("it was written");
    std::iter::from_fn(|| reader.next().ok()).map(|frame| (frame.sort, frame.content.into_owned())).collect()
}

/// Writes frames with seals that fit, and runs what they say.
fn run(frames: &[(u8, Vec<u8>)]) -> Result<u64, Differs> {
    let mut writer = FrameWriter::new(Vec::new(), true).expect("memory");
    for (sort, content) in frames {
        writer.write(*sort, content).expect("memory");
    }
    writer.flush().expect("memory");
    let log = Log::read(writer.into_out()).expect("a header");
    assert_eq!(log.end, LogEnd::Finished);
    let mut replay = Replay::of(&log).expect("it begins");
    while replay.tick().map_err(|error| error.what)?.is_some() {}
    Ok(replay.ticks())
}

/// The content of what came of the first tick, and where its answers begin.
fn first_ran(frames: &mut [(u8, Vec<u8>)]) -> &mut Vec<u8> {
    let ran = frames.iter_mut().find(|(of, _)| *of == sort::RAN);
    &mut ran.expect("a tick ran").1
}

#[test]
fn answers_that_do_not_fit_stop_a_log() {
    assert_eq!(run(&frames()), Ok(3), "nothing is changed");

    let mut surplus = frames();
    first_ran(&mut surplus).extend([0, 1]);
    assert!(matches!(run(&surplus), Err(Differs::Surplus { calls: 1.. })));

    // Flags, tick, facts, checksum; then one hook that reacts to anything; then the answers.
    let answers = 1 + 1 + 1 + 8 + 1 + 3;
    let mut missing = frames();
    first_ran(&mut missing).truncate(answers);
    assert!(matches!(run(&missing), Err(Differs::Missing { call: 1, .. })));

    let mut unfitting = frames();
    let content = first_ran(&mut unfitting);
    content.truncate(answers);
    content.extend([10, 9]);
    let found = run(&unfitting).expect_err("no step was asked for");
    assert_eq!(
        found,
        Differs::Unfitting { call: 1, wanted: "a hook that hears a fact", found: "a step of the host's own" }
    );

    let mut another = frames();
    first_ran(&mut another)[3] ^= 1;
    assert!(matches!(run(&another), Err(Differs::Checksum { .. })));

    let mut facts = frames();
    first_ran(&mut facts)[2] += 1;
    assert!(matches!(run(&facts), Err(Differs::Facts { wanted: 1, found: 1, .. })));

    let mut quiet = frames();
    let content = first_ran(&mut quiet);
    content[0] &= !4;
    content.drain(3..11);
    content.truncate(answers - 8);
    content.extend([0, 1]);
    assert!(matches!(run(&quiet), Err(Differs::Missing { .. } | Differs::Facts { .. })), "it gave orders");
}

/// An order that was not recorded leads to another fight.
#[test]
fn a_log_without_an_order_is_another_fight() {
    let mut frames = frames();
    let inputs = frames.iter_mut().find(|(of, _)| *of == sort::INPUTS).expect("there were orders");
    let last = inputs.1.len();
    assert_eq!(inputs.1[..2], [0, 0], "nothing was restored, and the orders came before the log");
    assert_eq!(last, 2);
    inputs.1.splice(1.., [1, 1]);
    let found = run(&frames).expect_err("a swing was reserved that was not");
    assert!(matches!(found, Differs::Checksum { .. }), "{found:?}");
}

/// None of what is left of a log can be left out alone, and with all of it the facts are shown.
#[test]
fn what_is_left_is_the_least() {
    let (rules, hooks, mut fight) = busy();
    let maul = rules.find_attack("maul").expect("it is there");
    let mut recorder = Recorder::begin(&mut fight, Vec::new(), &LogOptions::at_rate(60));
    for tick in 0..90u32 {
        let all: Vec<_> = fight.view().combatants().collect();
        for (number, &who) in all.iter().enumerate() {
            let at =
                hammerstone::geometry::Pose::at([0.0, 0.0, number as f32 * 0.8 + (tick % 7) as f32 * 0.05]);
            fight.orders().move_to(who, at);
        }
        if tick % 12 == 3 {
            fight.orders().start(all[0], maul);
        }
        recorder.tick_with(&mut fight, &hooks, &mut 0).expect("it ticks");
    }
    let log = Log::read(recorder.finish().expect("memory")).expect("it was written");
    let wanted = ReduceOptions {
        about: "no one of this name".to_owned(),
        from: 0.5,
        to: 0.9,
        topics: vec!["combatant".to_owned(), "hit".to_owned(), "status".to_owned(), "contact".to_owned()],
    };
    let others = match reduce(&log, &wanted) {
        Err(ReduceError::Nothing { others, .. }) => others,
        other => panic!("{other:?}"),
    };
    let mut tried = 0;
    for about in others.split(", ") {
        let wanted = ReduceOptions { about: about.to_owned(), ..wanted.clone() };
        match super::reduce::is_least(&log, &wanted) {
            Ok((left, least)) => {
                assert!(least, "of {left} items one can go, about {about}");
                tried += usize::from(left > 0);
            }
            Err(ReduceError::Nothing { .. }) => {}
            Err(error) => panic!("{error}"),
        }
    }
    assert!(tried > 0, "something is left of some of {others}");
}
