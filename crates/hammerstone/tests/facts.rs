//! The table of facts: what it says of each topic is so in generated fights, and facts can be written and read.

use std::collections::BTreeSet;

use hammerstone::event;
use hammerstone::event::{FieldValue, Payload, TOPICS, Tag, TickFacts};
use hammerstone::event::{Listener, ValueSort};
use hammerstone::prelude::*;
use proptest::prelude::*;
use testkit::{fights, json, play};

#[test]
fn each_topic_and_each_field_is_told_once_and_in_full() {
    let paths: BTreeSet<&str> = TOPICS.iter().map(|info| info.path).collect();
    let payloads: BTreeSet<&str> = TOPICS.iter().map(|info| info.payload).collect();
    assert_eq!((paths.len(), payloads.len()), (TOPICS.len(), TOPICS.len()));
    for info in TOPICS {
        assert!(info.meaning().ends_with('.') && !info.stages.is_empty(), "{}", info.path);
        let names: BTreeSet<&str> = info.fields.iter().map(|field| field.name).collect();
        let keys: BTreeSet<&str> = info.keys().collect();
        assert_eq!((names.len(), keys.len()), (info.fields.len(), info.keys().count()), "{}", info.path);
        for field in info.fields {
            assert!(field.meaning().ends_with('.'), "{}: {}", info.path, field.name);
            assert_ne!(field.is(Tag::Identity), field.is(Tag::Content), "{}: {}", info.path, field.name);
            // A range belongs to one table, and says which.
            let tables = [Tag::Ledger, Tag::Assists, Tag::Chain, Tag::Values];
            let named = tables.iter().filter(|tag| field.is(**tag)).count();
            assert_eq!(named, usize::from(field.code == "Range"), "{}: {}", info.path, field.name);
        }
        for tag in [Tag::Subject, Tag::Other] {
            let count = info.fields.iter().filter(|field| field.is(tag)).count();
            assert!(count <= 1, "{} has {count} of {tag:?}", info.path);
        }
    }
}

#[test]
fn a_sentence_names_fields_that_there_are() {
    for info in TOPICS {
        for braces in info.sentence.split('{').skip(1) {
            let name = braces.split(['}', '|', '?']).next().unwrap();
            let known = info.fields.iter().any(|field| field.name == name);
            assert!(known, "{}: {name} in {:?}", info.path, info.sentence);
        }
    }
}

#[test]
fn topics_of_a_ruleset_find_their_row() {
    let mut b = Ruleset::builder(60);
    b.damage_type("crush");
    b.damage_type("heat");
    b.host_topic("host.bell", &[("who", ValueSort::Who)]);
    let rules = b.build().unwrap();
    let topics = rules.topics();
    for (place, path) in topics.paths().iter().enumerate() {
        let topic = topics.find(path).unwrap();
        let info = topics.info(topic).unwrap();
        assert_eq!(topic.index(), place);
        assert!(*path == info.path || path.starts_with(&format!("{}.", info.path)), "{path}: {}", info.path);
        let fixed = place < TOPICS.len() - 2;
        assert_eq!(fixed, *path == info.path, "{path}");
    }
    // The other party of a score is no one, and the host's own topics may have both.
    let find = |path| topics.find(path).unwrap();
    assert!(topics.has_subject(find("score.changed")) && !topics.has_other(find("score.changed")));
    assert!(topics.has_subject(find("host.bell")) && topics.has_other(find("host.bell")));
    assert!(!topics.has_subject(find("flag.changed")));
}

proptest! {
    #![proptest_config(testkit::cases(60))]

    /// Every fact that a rule's reaction led to is in the table under its effect.
    #[test]
    fn what_comes_of_a_reaction_is_in_the_table(fight in fights()) {
        let mut unknown = BTreeSet::new();
        play(&fight, false, |encounter| {
            let (rules, facts) = (encounter.rules(), encounter.facts());
            for fact in facts.facts {
                let Some(Listener::Rule(rule)) = fact.by else { continue };
                let rule = &rules.rules()[rule.index()];
                let info = fact.event.info();
                // No rule hears it.
                if fact.event.topic() == topic::ENCOUNTER_CUT {
                    continue;
                }
                if !rule.reactions().any(|(_, reaction)| reaction.effect().leads_to(info)) {
                    let effects: Vec<_> = rule.reactions().map(|(_, reaction)| reaction.effect()).collect();
                    unknown.insert(format!("{} after {effects:?}", info.path));
                }
            }
        });
        prop_assert!(unknown.is_empty(), "{unknown:#?}");
    }

    /// A tick's facts, with their tables, are the same after they were written and read.
    #[test]
    fn facts_are_written_and_read(fight in fights()) {
        let mut first = None;
        play(&fight, true, |encounter| {
            let facts = encounter.facts();
            let kept = TickFacts::from(&facts);
            let read = json::facts_and_back(&kept);
            assert_eq!(read, kept);
            let again = read.as_facts();
            assert_eq!((again.facts, again.ledger), (facts.facts, facts.ledger));
            first.get_or_insert(kept);
        });
        // It can fail: another count is another tick.
        let mut other = first.clone().unwrap();
        other.facts[0].seq += 1;
        prop_assert_ne!(Some(other), first);
    }

    /// The fields that a visitor sees are those of the table, in their order, and tell who the subject and the other party are.
    #[test]
    fn a_visitor_sees_what_the_table_says(fight in fights()) {
        play(&fight, false, |encounter| {
            for event in encounter.facts().events() {
                let info = event.info();
                let mut fields = info.fields.iter();
                let (mut subject, mut other) = (None, None);
                event.visit(|field, value| {
                    assert!(fields.any(|known| known.name == field.name), "{}: {}", info.path, field.name);
                    let who = value.combatant();
                    subject = if field.is(Tag::Subject) { who } else { subject };
                    other = if field.is(Tag::Other) { who } else { other };
                    assert_eq!(field.is(Tag::Part), matches!(value, FieldValue::Part(_)));
                });
                if event::HostFact::of(event).is_none() {
                    assert_eq!((event.subject(), event.other()), (subject, other), "{event:?}");
                }
            }
        });
    }
}
