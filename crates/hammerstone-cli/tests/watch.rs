//! The terminal view: keys are pressed in a real terminal, and what stands on its screen is read.

mod common;

use std::fs;

use common::{FIGHT, root, rules, run};
use pagekit::Terminal;

fn watching(file: &str, size: [u16; 2], folder: &std::path::Path) -> Option<Terminal> {
    Terminal::open(&format!("{} watch {file}", env!("CARGO_BIN_EXE_hammerstone")), folder, size)
}

const WIDE: [u16; 2] = [120, 36];

#[test]
fn watch_without_a_terminal_says_so() {
    let (status, text, errors) = run(&["watch", "scenarios/skirmish.toml"]);
    assert_eq!((status, text.as_str()), (2, ""));
    assert!(errors.contains("there is no terminal") && errors.contains("`report`"), "{errors}");
}

/// What stands on the screen after these keys, the last of which leaves it; none where no terminal can be made.
fn seen_after(file: &str, size: [u16; 2], keys: &str) -> Option<String> {
    let mut terminal = watching(file, size, &root())?;
    // Before the screen is taken, keys would be echoed.
    terminal.until(" events ");
    terminal.press(keys);
    let left = terminal.left();
    assert_eq!(left.status, 0, "{}", left.text);
    left.screen
}

/// Goes through rows of a file, its keys, and what then stands on the screen or, after a `!`, does not.
fn shows(rows: &[(&str, &str, &[&str])]) {
    for &(file, keys, all) in rows {
        let Some(seen) = seen_after(file, WIDE, keys) else { return };
        for words in all {
            match words.strip_prefix('!') {
                Some(words) => assert!(!seen.contains(words), "{keys}: {words}: {seen}"),
                None => assert!(seen.contains(words), "{keys}: {words}: {seen}"),
            }
        }
    }
}

#[test]
fn watch_takes_keys_and_leaves_the_terminal_as_it_was() {
    let (skirmish, entries) = ("scenarios/skirmish.toml", "scenarios/yard/entries.toml");
    let (grab, wind) = ("scenarios/craft/grab.toml", "scenarios/craft/wind.toml");
    let maul = ["1.82 s of 25.23, tick 110", "from the side", "odo's maul-sweep on hound#3, skull"];
    shows(&[
        (skirmish, "hhhhv?xq", &maul),
        (skirmish, "hhhhq", &["28.1250 times 1.25"]),
        (skirmish, "d?q\u{3}", &["2.90 s of 25.23"]),
        (grab, "hsq", &["how everything stands", "held by odo"]),
        (grab, "hssq", &["!how everything stands"]),
        // A gauge is drawn as health is.
        (wind, "hq", &["odo        ████████████████ 60/60", "      wind ━━━━━━━━━╌╌╌╌╌╌╌ 16/30"]),
        (entries, "]]cq", &["battering-pole touches gate on the stem"]),
        (entries, "]]ccq", &["!touches gate"]),
        // What is looked for is found, by its text and by its topic; and what is not is said.
        (skirmish, "/keeper dies\rq", &["X keeper dies", "of 25.23"]),
        (skirmish, "/encounter.wave\rnq", &["11.23 s of 25.23"]),
        (skirmish, "/dragon\rq", &["no line after this has `dragon`"]),
    ]);
    let Some(seen) = seen_after(skirmish, [40, 12], "hq") else { return };
    assert!(seen.contains("combatants") && seen.contains("hound#2 hits odo"), "{seen}");
    // Where there are no lines for bars, gauges are words.
    let seen = seen_after(wind, [70, 14], "hq").unwrap();
    assert!(seen.contains("wind 16/30") && !seen.contains('╌'), "{seen}");
    // Only lines with a text are left, and arrows go from one of them to the next.
    let seen = seen_after(skirmish, WIDE, "fdies\rddq").unwrap();
    let feed: Vec<&str> = seen.lines().skip_while(|line| !line.contains(" events ")).skip(1).collect();
    let feed = feed.iter().filter(|line| line.chars().take(60).collect::<String>().contains("s X "));
    assert!(feed.count() > 5 && !seen.contains("starts maul-sweep"), "{seen}");
    // A file that cannot be used is told before the terminal is touched.
    let left = watching("nowhere.toml", [80, 24], &root()).unwrap().left();
    assert!(left.status == 2 && left.screen.is_none(), "{}", left.text);
    assert!(left.text.contains("cannot be read"), "{}", left.text);
}

/// It plays until what it is to stop at; keys that come meanwhile do not hold it up.
#[test]
fn watch_plays_until_what_it_is_to_stop_at() {
    let Some(mut terminal) = watching("scenarios/skirmish.toml", WIDE, &root()) else { return };
    terminal.until(" events ");
    terminal.press("thit.landed\r++ ");
    terminal.until("plays, 4x");
    for key in ["j", "k"].iter().cycle().take(200) {
        terminal.press(key);
    }
    let seen = terminal.until("stopped at `hit.landed`");
    assert!(seen.contains("1.60 s of 25.23"), "{seen}");
    terminal.press("q");
    assert_eq!(terminal.left().status, 0);
}

/// A change of a file is seen at once, at the same time of the fight; what cannot be used is said, and what was there stays.
#[test]
fn watch_reads_files_again_that_change() {
    let folder = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| {
        let (now, whole) = (folder.path().join(format!("{name}.now")), folder.path().join(name));
        fs::write(&now, text).unwrap();
        fs::rename(now, whole).unwrap();
    };
    write("a.rules.toml", &rules(""));
    write("fight.toml", FIGHT);
    let Some(mut terminal) = watching("fight.toml", WIDE, folder.path()) else { return };
    terminal.until(" events ");
    terminal.press("h");
    terminal.until("0.30 s of 1.00");
    write("a.rules.toml", &rules("").replace("damage = { crush = 5 }", "damage = { crush = 9 }"));
    terminal.until("the files were read again");
    write("a.rules.toml", "[rules]\nrate = \"often\"\n");
    let seen = terminal.until("found the text \"often\"; `run` shows where");
    assert!(seen.contains("the files as they are now: ") && seen.contains("0.30 s of 1.00"), "{seen}");
    assert!(seen.contains("9 crush"), "{seen}");
    terminal.press("q");
    assert_eq!(terminal.left().status, 0);
}
