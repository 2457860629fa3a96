//! What is written from the table of facts is as it is written: the page on the feed, and the hooks in Rust, which compile.
//!
//! `HAMMERSTONE_WRITE=1` writes both anew.

use std::path::{Path, PathBuf};

use hammerstone::Ruleset;
use hammerstone::event::TOPICS;
use hammerstone::event::ValueSort;
use hammerstone_record::{fields_of, handler, topics, topics_as_markdown};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// Holds a file against what it should be, or writes it.
fn is_as_written(path: &Path, wanted: &str) {
    if std::env::var_os("HAMMERSTONE_WRITE").is_some() {
        std::fs::write(path, wanted).unwrap();
    }
    let found = std::fs::read_to_string(path).unwrap();
    let place = found.lines().zip(wanted.lines()).position(|(found, wanted)| found != wanted);
    assert!(found == wanted, "{}: line {:?} and on; HAMMERSTONE_WRITE=1 writes it", path.display(), place);
}

#[test]
fn the_page_on_the_feed_has_the_table_of_facts() {
    let path = root().join("docs/feed.md");
    let page = std::fs::read_to_string(&path).unwrap();
    let (before, rest) = page.split_once("| topic |").unwrap();
    let (_, after) = rest.split_once("\n\n").unwrap();
    is_as_written(&path, &format!("{before}{}\n{after}", topics_as_markdown()));
}

/// The file is a test of the library: that it is compiled shows that each hook that is printed does.
#[test]
fn every_hook_in_rust_is_compiled() {
    let mut text =
        String::from("// Written by a test of hammerstone-record; HAMMERSTONE_WRITE=1 writes it anew.\n\n");
    let mut calls = String::new();
    for info in TOPICS {
        let code = handler(info.path).unwrap();
        let name = info.path.replace('.', "_");
        let body: Vec<String> = code
            .lines()
            .map(|line| if line.is_empty() { String::new() } else { format!("    {line}") })
            .collect();
        text.push_str(&format!(
            "mod {name} {{\n    use super::World;\n{}\n}}\n\n",
            body.join("\n").replace("    fn hear_", "    pub(super) fn hear_")
        ));
        let hear =
            code.lines().find_map(|line| line.strip_prefix("fn ").filter(|line| line.starts_with("hear_")));
        let hear = hear.and_then(|line| line.split('(').next()).unwrap();
        calls.push_str(&format!("    {name}::{hear}(&mut hooks, &mut fight);\n"));
    }
    text.push_str(&format!(
        "struct World;\n\n#[test]\nfn every_hook_is_subscribed_and_heard() {{\n    \
         let rules = rules();\n    \
         let mut fight = hammerstone::Encounter::new(&rules, 7);\n    \
         let mut hooks = hammerstone::hooks::Hooks::<World>::new();\n{calls}    \
         fight.tick_with(&hooks, &mut World).unwrap();\n    \
         let refused = fight.facts().events().filter(|event| matches!(event, hammerstone::event::Event::OrderRefused(_)));\n    \
         assert_eq!(refused.count(), 0);\n    \
         assert_eq!(fight.view().subscriptions().count(), {});\n}}\n\n\
         fn rules() -> hammerstone::Ruleset {{\n    \
         let mut b = hammerstone::Ruleset::builder(60);\n    \
         b.damage_type(\"crush\");\n    \
         b.host_topic(\"host.bell\", &[(\"who\", hammerstone::event::ValueSort::Who)]);\n    \
         b.build().unwrap()\n}}\n",
        TOPICS.len()
    ));
    is_as_written(&root().join("crates/hammerstone/tests/handlers/written.rs"), &text);
}

#[test]
fn topics_of_a_ruleset_are_told_with_their_fields() {
    let mut b = Ruleset::builder(60);
    b.damage_type("crush");
    b.host_topic("host.bell", &[("who", ValueSort::Who), ("height", ValueSort::Exact)]);
    let rules = b.build().unwrap();
    let all = topics(Some(&rules));
    assert_eq!(all.len(), TOPICS.len());
    let of = |path: &str| all.iter().find(|row| row.topic == path).unwrap();
    let names = |path| of(path).fields.iter().map(|field| field.name.clone()).collect::<Vec<_>>();
    assert_eq!(names("host.bell"), ["who", "height"]);
    let crush = of("damage.dealt.crush");
    assert_eq!((crush.subject.as_deref(), crush.other.as_deref()), (Some("target"), Some("source")));
    assert!(crush.published_by.contains(&"blows"), "{crush:?}");
    assert_eq!(of("score.changed").other, None);
    // What the feed has is what the rows say.
    for row in &all {
        if !row.topic.starts_with("host.") {
            let keys: Vec<String> = row.fields.iter().flat_map(|field| field.keys.clone()).collect();
            assert_eq!(fields_of(&row.topic), keys, "{}", row.topic);
        }
    }
    assert!(handler("hit.land").is_none() && handler("damage").is_none() && handler("host.bell").is_some());
    assert!(handler("damage.dealt.crush").unwrap().contains("family(\"damage.dealt.crush\")"));
}
