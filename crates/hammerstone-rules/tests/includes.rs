//! Rulesets of several files.

use std::collections::BTreeMap;

use hammerstone_rules::{RulesFile, Unusable};
use proptest::prelude::*;

const HEAD: &str = r#"
[rules]
rate = 60
damage-types = ["crush"]
[team.masons]
[team.beasts]
"#;

/// Entries that stand alone, and one that is based on another; of several sections.
const ENTRIES: [&str; 6] = [
    "[status.soaked]\nlasts = \"2s\"\n",
    "[attack.maul]\nform = \"melee\"\nactive = \"0.1s\"\ndamage = { crush = 3 }\ninflicts = [\"soaked\"]\n[[attack.maul.hitboxes]]\nsphere = { at = [0, 1, 0.5], radius = 0.4 }\n",
    "[attack.wedge]\nbased-on = \"maul\"\ndamage = { crush = 5 }\n",
    "[template.mason]\nteam = \"masons\"\nhealth = 10\nattacks = [\"maul\", \"wedge\"]\n",
    "# A comment first.\n[template.hound]\nteam = \"beasts\"\nhealth = 10\npart.body = { sphere = { at = [0, 1, 0], radius = 0.3 } }\n",
    "[rule.echo]\non = \"combatant.died\"\ndo = [{ say = \"Gone.\" }]\n",
];

/// Reads a file with those that lie beside it.
fn read(text: &str, others: &[(&str, String)]) -> Result<RulesFile, Box<Unusable>> {
    let others: BTreeMap<&str, &String> = others.iter().map(|(name, text)| (*name, text)).collect();
    RulesFile::read_with("quarry.rules.toml", text, &|name| {
        let found = others.get(name).ok_or_else(|| "there is no such file".to_owned())?;
        Ok((format!("rules/{name}"), found.as_bytes().to_vec()))
    })
}

fn fails(text: &str, others: &[(&str, String)]) -> String {
    read(text, others).map(|_| ()).expect_err("it is wrong").text()
}

proptest! {
    /// However entries are laid out over files, the ruleset is the same as in one file, with the places of its own.
    #[test]
    fn several_files_are_one_ruleset(cuts in proptest::collection::vec(any::<bool>(), 6), marked in any::<bool>()) {
        let whole = read(&format!("{HEAD}{}", ENTRIES.join("\n")), &[]).unwrap();
        let mut files: Vec<String> = vec![String::new()];
        for (entry, cut) in ENTRIES.iter().zip(cuts) {
            if cut {
                files.push(if marked { "\u{feff}".to_owned() } else { String::new() });
            }
            let last = files.last_mut().unwrap();
            *last += entry;
        }
        let names = ["a.toml", "b.toml", "c.toml", "d.toml", "e.toml", "f.toml"];
        let first = format!("include = {:?}\n{HEAD}{}", &names[..files.len() - 1], files[0]);
        let others: Vec<(&str, String)> = names.into_iter().zip(files[1..].iter().cloned()).collect();
        let joined = read(&first, &others).unwrap_or_else(|error| panic!("{}", error.text()));
        prop_assert_eq!(joined.ruleset.fingerprint(), whole.ruleset.fingerprint());
        // The text of the whole is read again as one file, and is the same.
        let again = read(&joined.code.text, &[]).unwrap();
        prop_assert_eq!(again.ruleset.fingerprint(), whole.ruleset.fingerprint());
    }
}

#[test]
fn what_is_wrong_in_a_file_is_told_with_its_name_and_line() {
    let include = "include = [\"hounds.toml\"]\n";
    let hounds = "\n[template.hound]\nteam = \"beast\"\nhealth = 10\n".to_owned();
    let told = fails(&format!("{include}{HEAD}"), &[("hounds.toml", hounds)]);
    assert!(told.contains("rules/hounds.toml:3:8: there is no team `beast`"), "{told}");
    assert!(told.contains("quarry.rules.toml cannot be used: one problem"), "{told}");
    let torn = "[template.hound\nteam = 4\n".to_owned();
    let told = fails(&format!("{include}{HEAD}"), &[("hounds.toml", torn)]);
    assert!(told.contains("rules/hounds.toml:1:"), "{told}");
    // The ruleset's own findings, too.
    let weak = "[template.hound]\nteam = \"beasts\"\nhealth = 0\n".to_owned();
    let told = fails(&format!("{include}{HEAD}"), &[("hounds.toml", weak)]);
    assert!(told.contains("rules/hounds.toml:3:10:"), "{told}");
}

#[test]
fn what_two_files_define_is_marked_in_both() {
    let first = format!("include = [\"hounds.toml\", \"more.toml\"]\n{HEAD}{}", ENTRIES[0]);
    let others = [
        ("hounds.toml", format!("# Hounds.\n\n{}", ENTRIES[0])),
        ("more.toml", format!("[rules]\nrate = 30\n{}", ENTRIES[3])),
    ];
    let told = fails(&first, &others);
    for part in [
        "quarry.rules.toml:8:9: status `soaked` is defined in `rules/hounds.toml` as well",
        "rules/hounds.toml:3:9: status `soaked` is defined in `quarry.rules.toml` as well",
        "rules/more.toml:1:2: `rules` stands in the file that includes the others, and only there",
    ] {
        assert!(told.contains(part), "{part}: {told}");
    }
}

#[test]
fn what_cannot_be_included_is_told() {
    let others = [("a.toml", "team.masons = {}\n".to_owned()), ("b.toml", ENTRIES[0].to_owned())];
    let told = fails(&format!("include = [\"a.toml\", \"c.toml\", \"b.toml\", \"b.toml\"]\n{HEAD}"), &others);
    for part in [
        "rules/a.toml:1:1: a file that is included begins with a table",
        "`c.toml` cannot be read: there is no such file",
        "`b.toml` is included already",
    ] {
        assert!(told.contains(part), "{part}: {told}");
    }
    for list in ["4", "[4]", "\"a.toml\""] {
        let told = fails(&format!("include = {list}\n{HEAD}"), &others);
        assert!(told.contains("expected a list of names of files"), "{told}");
    }
    let many: Vec<String> = (0..300).map(|number| format!("{number}.toml")).collect();
    let told = fails(&format!("include = {many:?}\n{HEAD}"), &others);
    assert!(told.contains("300 files are included, and 256 are the most"), "{told}");
    // One that includes others does not lead to them.
    let chain = [("a.toml", format!("include = [\"b.toml\"]\n{}", ENTRIES[0])), ("b.toml", String::new())];
    let told = fails(&format!("include = [\"a.toml\"]\n{HEAD}"), &chain);
    assert!(told.contains("rules/a.toml:1:1: a file that is included begins with a table"), "{told}");
}
