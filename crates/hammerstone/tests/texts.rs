//! Texts in facts of the host's own: what is published is what is heard, through saves, hooks and resets.

use hammerstone::Fixed;
use hammerstone::event::{Event, HostFact, HostValue, Payload, Text, ValueSort};
use hammerstone::flow::{Amount, Party, Portion, Reaction, Reading, Rule, RuleValue};
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

/// What a rule hears, it publishes: readings as they were then, also when it acts later; and texts of its own.
#[derive(Clone, Debug)]
struct Blow {
    damage: i64,
    times: Fixed,
    words: String,
    after: u32,
}

fn blows() -> impl Strategy<Value = Blow> {
    (1i64..400, -30_000i64..30_000, "\\PC{0,20}", 0u32..4).prop_map(|(damage, times, words, after)| Blow {
        damage,
        times: Fixed::raw(times),
        words,
        after,
    })
}

fn reading(b: &mut RulesetBuilder, times: Fixed) -> Amount {
    Amount::of(Reading::Field(b.word("amount")), times)
}

proptest! {
    #![proptest_config(cases(150))]

    #[test]
    fn rules_publish_what_they_heard(blow in blows()) {
        let mut b = Ruleset::builder(60);
        let (crush, drill) = (b.damage_type("crush"), b.reason("drill"));
        let masons = b.team("masons");
        let mason = b.template(Template::new("mason", masons, 1000));
        let fields = [
            ("exact", ValueSort::Exact),
            ("whole", ValueSort::Whole),
            ("words", ValueSort::Text),
            ("health", ValueSort::Whole),
        ];
        let told = b.host_topic("host.told", &fields);
        let health = Amount::of(Reading::Health(Party::Subject, Portion::Points), Fixed::ONE);
        let values = [
            RuleValue::Amount(reading(&mut b, blow.times)),
            RuleValue::Amount(reading(&mut b, blow.times).cap(50)),
            RuleValue::Text(b.word(&blow.words)),
            RuleValue::Amount(health),
        ];
        b.rule(Rule::on_family("tells", "damage.dealt").does_after(blow.after, Reaction::Publish(told, values)));
        let rules = b.build().unwrap();
        let mut fight = Encounter::new(&rules, 1);
        let odo = fight.orders().spawn(mason, Pose::IDENTITY);
        fight.tick().unwrap();
        fight.orders().damage(odo, crush, Fixed::whole(blow.damage), drill);
        let mut found = Vec::new();
        for tick in 0..6 {
            // Where it waits, it waits in a save.
            let bytes = fight.save().unwrap().to_bytes();
            fight.restore(&hammerstone::Saved::from_bytes(&bytes).unwrap()).unwrap();
            fight.tick().unwrap();
            let facts = fight.facts();
            found.extend(facts.events().filter_map(HostFact::of).map(|fact| {
                let words = match fact.values[2] {
                    HostValue::Text(words) => facts.text_of(words).to_owned(),
                    other => format!("{other:?}"),
                };
                (tick, fact.values[0], fact.values[1], words, fact.values[3])
            }));
            // What is healed since changes nothing.
            fight.orders().heal(odo, 1, drill);
        }
        let exact = Fixed::whole(blow.damage) * blow.times;
        let capped = if exact > Fixed::whole(50) { Fixed::whole(50) } else { exact };
        prop_assert_eq!(found.len(), 1, "{:?}", found);
        let (tick, first, second, words, health) = found.remove(0);
        prop_assert_eq!((tick, first, words), (blow.after, HostValue::Exact(exact), blow.words));
        prop_assert_eq!(health, HostValue::Whole(1000 - blow.damage));
        let HostValue::Whole(whole) = second else { panic!("{second:?}") };
        let off = Fixed::whole(whole) - capped;
        prop_assert!(off.to_raw().abs() <= 5_000, "{whole} for {capped}");
    }
}

#[test]
fn values_of_rules_are_of_the_sort_of_their_field() {
    let build = |sort: ValueSort, value: fn(&mut RulesetBuilder) -> RuleValue| {
        let mut b = Ruleset::builder(60);
        b.damage_type("crush");
        let told = b.host_topic("host.told", &[("one", sort)]);
        let nothing = || RuleValue::Value(HostValue::Nothing);
        let values = [value(&mut b), nothing(), nothing(), nothing()];
        b.rule(Rule::on_family("tells", "damage.dealt").does(Reaction::Publish(told, values)));
        b.build().map_err(|findings| findings.to_string())
    };
    let amount = |b: &mut RulesetBuilder| RuleValue::Amount(reading(b, Fixed::ONE));
    let text = |b: &mut RulesetBuilder| RuleValue::Text(b.word("The tide turns."));
    let long = |b: &mut RulesetBuilder| RuleValue::Text(b.word(&"x".repeat(Text::MOST + 1)));
    for sort in ValueSort::ALL {
        let numbers = matches!(sort, ValueSort::Whole | ValueSort::Exact);
        assert_eq!(build(sort, amount).is_ok(), numbers, "{sort:?}");
        assert_eq!(build(sort, text).is_ok(), sort == ValueSort::Text, "{sort:?}");
        assert!(build(sort, long).is_err(), "{sort:?}");
    }
    let why = build(ValueSort::Name, text).unwrap_err();
    assert!(why.contains("rule `tells`") && why.contains("one (name)"), "{why}");
}
