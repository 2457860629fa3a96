//! Texts in facts of the host's own: what is published is what is heard, through saves, hooks and resets.

use hammerstone::event::{Event, HostFact, HostValue, Payload, Text, ValueSort};
use hammerstone::ids::HostTopicId;
use hammerstone::orders::Refusal;
use hammerstone::prelude::*;
use proptest::collection::vec;
use proptest::prelude::*;
use testkit::cases;

fn sluice() -> (Ruleset, HostTopicId, HostTopicId) {
    let mut b = Ruleset::builder(60);
    let said = b.host_topic("host.said", &[("words", ValueSort::Text), ("more", ValueSort::Text)]);
    let echoed = b.host_topic("host.echoed", &[("words", ValueSort::Text)]);
    (b.build().unwrap(), said, echoed)
}

/// All texts of a tick, by topic.
fn heard(fight: &Encounter) -> Vec<(String, Vec<String>)> {
    let facts = fight.facts();
    let of = |event: &Event| {
        let fact = HostFact::of(event)?;
        let texts = fact.values.iter().filter_map(|value| match value {
            HostValue::Text(text) => Some(facts.text_of(*text).to_owned()),
            _ => None,
        });
        Some((fight.rules().topics().path(fact.topic)?.to_owned(), texts.collect()))
    };
    facts.events().filter_map(of).collect()
}

proptest! {
    #![proptest_config(cases(150))]

    #[test]
    fn what_is_published_is_heard(ticks in vec(vec(("\\PC{0,12}", "\\PC{0,12}"), 0..4), 1..8), first in "\\PC{0,12}") {
        let (rules, said, echoed) = sluice();
        // A hook says once more what it hears, in a further pass of the tick.
        let mut hooks = Hooks::<()>::new();
        let hook = hooks.react("echo", move |_, heard, orders| {
            if let Some(HostFact { values: [HostValue::Text(words), ..], .. }) = HostFact::of(heard.event) {
                let words = orders.text(heard.facts.text_of(*words));
                orders.publish(echoed, &[words]);
            }
        });
        let mut fight = Encounter::new(&rules, 1);
        let listen = Listen::to(rules.topics().find("host.said").unwrap());
        fight.orders().subscribe(hook, listen);
        let words = fight.orders().text(&first);
        fight.orders().publish(said, &[words]);
        let begin = |fight: &Encounter| {
            let expected = [("host.said".to_owned(), vec![first.clone()]), ("host.echoed".to_owned(), vec![first.clone()])];
            prop_assert_eq!(heard(fight), expected.to_vec());
            Ok(())
        };
        fight.tick_with(&hooks, &mut ()).unwrap();
        begin(&fight)?;
        for spoken in &ticks {
            let mut expected = Vec::new();
            for (words, more) in spoken {
                let mut orders = fight.orders();
                let values = [orders.text(words), orders.text(more)];
                orders.publish(said, &values);
                expected.push(("host.said".to_owned(), vec![words.clone(), more.clone()]));
            }
            expected.extend(spoken.iter().map(|(words, _)| ("host.echoed".to_owned(), vec![words.clone()])));
            // What waits is saved with its texts.
            let mut again = Encounter::new(&rules, 2);
            again.restore(&fight.save().unwrap()).unwrap();
            fight.tick_with(&hooks, &mut ()).unwrap();
            again.tick_with(&hooks, &mut ()).unwrap();
            prop_assert_eq!(heard(&fight), expected.clone());
            prop_assert_eq!(heard(&again), expected);
            prop_assert_eq!(fight.checksum(), again.checksum());
        }
        // The texts of the set-up come again with it.
        fight.orders().reset();
        fight.tick_with(&hooks, &mut ()).unwrap();
        fight.tick_with(&hooks, &mut ()).unwrap();
        begin(&fight)?;
    }
}

#[test]
fn a_text_that_is_too_long_or_of_no_one_is_refused() {
    let (rules, said, _) = sluice();
    let mut fight = Encounter::new(&rules, 1);
    let (long, most) = ("x".repeat(Text::MOST + 1), "y".repeat(Text::MOST));
    let mut elsewhere = Encounter::new(&rules, 1);
    let strange = (0..3).map(|_| elsewhere.orders().text(&most)).last().unwrap();
    for words in [fight.orders().text(&long), fight.orders().text(&most), strange] {
        fight.orders().publish(said, &[words]);
    }
    // A text where another sort of value belongs, and the other way round.
    fight.orders().publish(said, &[HostValue::Whole(3)]);
    fight.tick().unwrap();
    assert_eq!(heard(&fight), [("host.said".to_owned(), vec![most])]);
    let refused = fight.facts().events().filter_map(|event| match *event {
        Event::OrderRefused(refused) => Some(refused.why),
        _ => None,
    });
    assert_eq!(refused.collect::<Vec<_>>(), [Refusal::WrongValue(1); 3]);
    // Nothing of it is kept.
    let before = fight.save().unwrap().bytes();
    for _ in 0..20 {
        let words = fight.orders().text("The tide turns.");
        fight.orders().publish(said, &[words]);
        fight.tick().unwrap();
    }
    assert_eq!(fight.save().unwrap().bytes(), before);
}
