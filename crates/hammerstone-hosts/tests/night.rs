//! The little game plays itself in a pseudo-terminal: it draws, ends when it is told to, and its log runs again bit for bit.

use std::fs;
use std::path::PathBuf;
use std::process::Command;

use hammerstone_record::{Log, LogEnd, Replay};
use pagekit::Terminal;

/// The game, which Cargo builds beside the tests.
fn game() -> PathBuf {
    let tests = std::env::current_exe().unwrap();
    tests.parent().unwrap().parent().unwrap().join("examples/night")
}

/// How a log ends, how many ticks it has, and how many swings started in it.
fn verified(log: &std::path::Path) -> (usize, usize) {
    let log = Log::read(fs::read(log).unwrap()).unwrap();
    assert!(matches!(log.end, LogEnd::Finished));
    let (mut replay, mut starts) = (Replay::of(&log).unwrap(), 0);
    // Each tick is held against its checksum.
    while replay.tick().unwrap().is_some() {
        let facts = replay.fight().facts();
        starts += facts
            .events()
            .filter(|event| matches!(event, hammerstone::event::Event::AttackStarted(_)))
            .count();
    }
    (log.len(), starts)
}

#[test]
fn it_plays_itself_without_a_terminal_and_its_log_runs_again() {
    let folder = tempfile::tempdir().unwrap();
    let log = folder.path().join("night.log");
    let run = Command::new(game()).args(["--bot", "8", "--record"]).arg(&log).output().unwrap();
    let said = String::from_utf8(run.stdout).unwrap();
    assert!(run.status.success() && said.starts_with("left after 8.0 s"), "{said}");
    let (ticks, starts) = verified(&log);
    assert!(ticks == 480 && starts > 8, "{ticks} {starts}");
    let again = folder.path().join("again.log");
    assert!(
        Command::new(game()).args(["--bot", "8", "--record"]).arg(&again).output().unwrap().status.success()
    );
    assert_eq!(fs::read(&log).unwrap(), fs::read(&again).unwrap(), "the same night, byte for byte");
    let wrong = Command::new(game()).arg("--cheat").output().unwrap();
    assert!(
        !wrong.status.success()
            && String::from_utf8_lossy(&wrong.stderr).contains("there is no option --cheat")
    );
}

#[test]
fn it_draws_and_takes_keys_in_a_terminal() {
    let folder = tempfile::tempdir().unwrap();
    let log = folder.path().join("night.log");
    let line = format!("{} --record {}", game().display(), log.display());
    let Some(mut terminal) = Terminal::open(&line, folder.path(), [110, 34]) else { return };
    // The game says how many seconds it has run: each key has one of them.
    for (second, key) in [(1, "w"), (1, "w"), (2, " "), (2, "d"), (3, "t"), (3, "d"), (4, "g"), (5, "q")] {
        let seconds = |seen: &str| {
            let after = seen.split("toll ").nth(1)?.split(" s").next()?;
            after.split_whitespace().last()?.parse::<u32>().ok()
        };
        terminal.until_it("the next second", |seen| seconds(seen).is_some_and(|now| now >= second));
        terminal.press(key);
    }
    let left = terminal.left();
    let seen = left.screen.expect("the game takes the screen");
    for words in ["The quarry at night", "Odo", " of 100", "wind", "wasd move", "hound ", "toll "] {
        assert!(seen.contains(words), "{words}: {seen}");
    }
    assert!(left.status == 0 && left.text.contains("left after"), "{}", left.text);
    // What was pressed is in the log: the maul, the guard, a wedge.
    let (ticks, starts) = verified(&log);
    assert!(ticks > 60 && starts >= 3, "{ticks} ticks, {starts} starts");
}
