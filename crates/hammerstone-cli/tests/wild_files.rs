//! Files as they come from elsewhere: too many mistakes, lines without end, other encodings, nesting without end.

mod common;

use std::fs;

use common::{FIGHT, in_folder, rules, run, unfolded};

#[test]
fn a_hundred_problems_are_told_and_the_rest_is_counted() {
    let wrong: String = (0..20_000)
        .map(|i| {
            format!("[attack.a{i}]\nform = \"touch\"\nactive = \"0.1s\"\ninflicts = [\"nothing-{i}\"]\n")
        })
        .collect();
    let files = [("a.rules.toml", &*rules(&wrong))];
    let (status, _, errors) = in_folder(&files, &["check", "a.rules.toml"]);
    assert_eq!(status, 2);
    assert!(errors.contains("a.rules.toml cannot be used: 20000 problems"), "{}", &errors[..300]);
    assert!(errors.contains("and 19900 more"), "{}", &errors[..300]);
    assert_eq!(errors.matches("there is no status").count(), 100);
    assert!(errors.len() < 60_000, "{} bytes", errors.len());
}

#[test]
fn a_hundred_doubts_are_told_and_the_rest_is_counted() {
    let idle: String =
        (0..150).map(|i| format!("[attack.a{i}]\nform = \"touch\"\nactive = \"0.1s\"\n")).collect();
    let files = [("a.rules.toml", &*rules(&idle))];
    let (status, text, _) = in_folder(&files, &["check", "--deny", "a.rules.toml"]);
    assert_eq!((status, text.matches("finding 1:").count()), (1, 99));
    assert!(text.contains("and 51 more"), "{text}");
    let (_, json, _) = in_folder(&files, &["check", "--format", "json", "a.rules.toml"]);
    let all: Vec<serde_json::Value> = serde_json::from_str(&json).unwrap();
    assert_eq!(all.len(), 151, "a program gets them all");
}

#[test]
fn a_line_of_ten_megabytes_is_shown_in_part() {
    let name = "x".repeat(10_000_000);
    for text in [
        format!("[template.other]\nteam = \"{name}\"\nhealth = 9\n"),
        format!("[template.other]\nteam = \"nobody\"\nhealth = 9 # {name}\n"),
        format!("[template.other]\nhealth = 9\ntags = [{}]\nteam = 4\n", "\"wet\",".repeat(1_000_000)),
    ] {
        let files = [("a.rules.toml", &*rules(&text))];
        let (status, _, errors) = in_folder(&files, &["check", "a.rules.toml"]);
        assert_eq!(status, 2);
        assert!(errors.len() < 6_000, "{} bytes", errors.len());
    }
}

#[test]
fn another_encoding_is_told_by_its_offset() {
    let folder = tempfile_folder("encoding");
    let text = [rules("# Stra").as_bytes(), b"\xdfe\n"].concat();
    fs::write(folder.join("a.rules.toml"), &text).unwrap();
    fs::write(folder.join("fight.toml"), FIGHT).unwrap();
    let offset = text.len() - 3;
    let line = text.iter().filter(|&&byte| byte == b'\n').count();
    let path = |name: &str| folder.join(name).display().to_string();
    let (status, _, errors) = run(&["check", &path("a.rules.toml")]);
    assert_eq!(status, 2);
    let errors = unfolded(&errors);
    assert!(
        errors.contains(&format!("is not UTF-8: the byte at offset {offset}, in line {line}")),
        "{errors}"
    );
    assert!(errors.contains("save it as UTF-8"), "{errors}");
    let (status, _, errors) = run(&["run", &path("fight.toml")]);
    assert_eq!(status, 2);
    assert!(errors.contains("not UTF-8"), "{errors}");
    fs::remove_dir_all(folder).unwrap();
}

#[test]
fn nesting_without_end_has_its_place() {
    for deep in [
        format!("a = {}{}\n", "[".repeat(5000), "]".repeat(5000)),
        format!("{} = 1\n", ["b"; 3000].join(".")),
    ] {
        let files = [("a.rules.toml", &*rules(&format!("\n{deep}")))];
        let (status, _, errors) = in_folder(&files, &["check", "a.rules.toml"]);
        assert_eq!(status, 2);
        let line = rules("\n").lines().count() + 1;
        assert!(errors.contains(&format!("[a.rules.toml:{line}:")), "{}", &errors[..600.min(errors.len())]);
    }
}

#[test]
fn timings_mark_a_chain_that_cuts_its_attack_off() {
    let jab = |opens: &str| {
        format!(
            "[attack.jab]\nform = \"touch\"\nstartup = \"0.2s\"\nactive = \"0.1s\"\nchain = {{ next = \"maul\", opens = \"{opens}\", lapses = \"0.5s\" }}\n"
        )
    };
    for (opens, early) in [("0.1s", true), ("0.25s", false)] {
        let files = [("a.rules.toml", &*rules(&jab(opens)))];
        let (status, text, _) = in_folder(&files, &["timings", "a.rules.toml"]);
        assert_eq!((status, text.contains("(before it strikes)")), (0, early), "{text}");
    }
}

/// A folder of this process.
fn tempfile_folder(name: &str) -> std::path::PathBuf {
    let folder = std::env::temp_dir().join(format!("hammerstone-{name}-{}", std::process::id()));
    fs::create_dir_all(&folder).unwrap();
    folder
}
