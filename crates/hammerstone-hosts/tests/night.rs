//! The little game plays itself in a pseudo-terminal: it draws, ends when it is told to, and its log runs again bit for bit.

use std::fs;
use std::io::Write;
use std::path::PathBuf;
use std::process::{Command, Stdio};

use hammerstone_record::{Log, LogEnd, Replay};

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
    let shell = format!("stty cols 110 rows 34; {} --record {}", game().display(), log.display());
    let terminal = Command::new("script")
        .args(["-qec", &shell, "/dev/null"])
        .env("TERM", "xterm-256color")
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn();
    let Ok(mut terminal) = terminal else {
        eprintln!("skipped: there is no `script` here");
        return;
    };
    let mut keys = terminal.stdin.take().unwrap();
    for key in ["w", "w", " ", "d", "t", "d", "g"] {
        std::thread::sleep(std::time::Duration::from_millis(500));
        keys.write_all(key.as_bytes()).unwrap();
    }
    std::thread::sleep(std::time::Duration::from_millis(900));
    keys.write_all(b"q").unwrap();
    let output = terminal.wait_with_output().unwrap();
    let text = String::from_utf8_lossy(&output.stdout).into_owned();
    let mut screen = vt100::Parser::new(34, 110, 0);
    let left = text.rfind("\u{1b}[?1049l").unwrap_or_else(|| panic!("the screen is left: {text}"));
    screen.process(&text.as_bytes()[..left]);
    let seen = screen.screen().contents();
    for words in ["The quarry at night", "Odo", "100 of 100", "wind", "wasd move", "hound 20/20", "toll 0"] {
        assert!(seen.contains(words), "{words}: {seen}");
    }
    assert!(output.status.success() && text.contains("left after"), "{text}");
    // What was pressed is in the log: the maul, the guard, a wedge.
    let (ticks, starts) = verified(&log);
    assert!(ticks > 60 && starts >= 3, "{ticks} ticks, {starts} starts");
}
