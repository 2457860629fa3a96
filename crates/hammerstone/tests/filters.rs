//! Filters, bound numbers and owners of subscriptions, and pauses through saves and resets.

use hammerstone::Fixed;
use hammerstone::event::{DamageDealt, Event, Payload};
use hammerstone::flow::{Condition, Count, Filter, Group, Party, Reaction, Reading, Rule};
use hammerstone::orders::Unsubscribe;
use hammerstone::prelude::*;
use proptest::collection::vec;
use proptest::prelude::*;
use testkit::cases;

/// Conditions about the other party, a field, and *not*.
fn conditions(b: &mut RulesetBuilder, which: u8, amount: i64) -> Vec<Condition> {
    let masons = b.team("masons");
    let word = b.word("amount");
    let big = Condition::Between(Reading::Field(word), Fixed::whole(amount), Fixed::whole(99));
    let by_masons = Condition::Is(Party::Other, Group::team(masons));
    let wet = Condition::Is(Party::Other, Group::default().tagged(b.tag("wet")));
    match which {
        0 => vec![by_masons],
        1 => vec![Condition::Not(Box::new(by_masons))],
        2 => vec![big, by_masons],
        3 => vec![Condition::Any(vec![wet, Condition::Not(Box::new(big))])],
        _ => Vec::new(),
    }
}

proptest! {
    #![proptest_config(cases(120))]

    /// A subscription that fits a filter hears just what a rule with the same conditions answers, and neither more in a tick that is run again.
    #[test]
    fn a_filter_lets_through_what_a_rule_would_answer(
        which in 0u8..5,
        amount in 1i64..6,
        blows in vec((0usize..3, 0usize..3, 1i64..6), 1..30),
    ) {
        let mut b = Ruleset::builder(60);
        let (crush, tide) = (b.damage_type("crush"), b.reason("tide"));
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let wet = b.tag("wet");
        let heard = b.counter("heard");
        let templates = [
            b.template(Template::new("mason", masons, 9999)),
            b.template(Template::new("wet mason", masons, 9999).tag(wet)),
            b.template(Template::new("wet hound", beasts, 9999).tag(wet)),
        ];
        let when = conditions(&mut b, which, amount);
        let mut rule = Rule::on_family("answers", "damage.dealt").does(Reaction::Count(heard, Count::Add(1)));
        let mut filter = Filter::on_family("fits", "damage.dealt");
        for condition in when {
            (rule, filter) = (rule.when(condition.clone()), filter.when(condition));
        }
        b.rule(rule);
        let filter = b.filter(filter);
        let rules = b.build().unwrap();
        let mut hooks = Hooks::<Vec<(u64, i64)>>::new();
        let hook = hooks.react("hears", |seen: &mut Vec<_>, heard, _| {
            let amount = DamageDealt::of(heard.event).expect("no other topic fits").amount;
            seen.push((heard.bound, amount));
        });
        let mut fight = Encounter::new(&rules, 1);
        let ids = templates.map(|template| fight.orders().spawn(template, Pose::IDENTITY));
        // A filter narrows whatever is asked for.
        fight.orders().subscribe(hook, Listen::all().fitting(filter).bound_to(u64::MAX - 7));
        let mut seen = Vec::new();
        fight.tick_with(&hooks, &mut seen).unwrap();
        for (to, by, points) in blows {
            fight.orders().give(Order::Damage {
                target: ids[to],
                damage_type: crush,
                amount: Fixed::whole(points),
                reason: tide,
                source: Some(ids[by]),
                absolute: false,
            });
            let mut again = Encounter::new(&rules, 2);
            again.restore(&fight.save().unwrap()).unwrap();
            let before = seen.len();
            fight.tick_with(&hooks, &mut seen).unwrap();
            let mut seen_again = Vec::new();
            again.tick_with(&hooks, &mut seen_again).unwrap();
            prop_assert_eq!(&seen[before..], &seen_again[..]);
        }
        prop_assert_eq!(seen.len() as i64, fight.view().counter(heard).unwrap());
        prop_assert!(seen.iter().all(|(bound, _)| *bound == u64::MAX - 7));
        if which == 4 {
            prop_assert!(!seen.is_empty());
        }
    }

    /// Whatever is paused, saved, restored, reset and resumed: nothing is heard while a subscription is paused, and what is not is heard.
    #[test]
    fn a_paused_listener_hears_nothing_through_saves_and_resets(deeds in vec(0u8..6, 1..40)) {
        let mut b = Ruleset::builder(60);
        let knocks = b.host_topic("host.knock", &[]);
        let rules = b.build().unwrap();
        let mut hooks = Hooks::<u32>::new();
        let hook = hooks.react("hears", |heard: &mut u32, _, _| *heard += 1);
        let mut fight = Encounter::new(&rules, 1);
        let listen = Listen::under(rules.topics().family("host").unwrap()).stays();
        fight.orders().subscribe(hook, listen);
        let mut heard = 0;
        fight.tick_with(&hooks, &mut heard).unwrap();
        let (mut paused, mut expected) = (false, 0);
        for deed in deeds {
            match deed {
                0 => {
                    fight.orders().pause(Unsubscribe::Hook(hook));
                    paused = true;
                }
                1 => {
                    fight.orders().resume(Unsubscribe::Hook(hook));
                    paused = false;
                }
                2 => {
                    let saved = fight.save().unwrap();
                    fight = Encounter::new(&rules, 9);
                    fight.restore(&saved).unwrap();
                }
                3 => {
                    fight.orders().reset();
                }
                _ => {
                    fight.orders().publish(knocks, &[]);
                    expected += u32::from(!paused);
                }
            }
            fight.tick_with(&hooks, &mut heard).unwrap();
            prop_assert_eq!(heard, expected, "after {}", deed);
            // After a reset it is subscribed again in the next tick, unless it is paused.
            match fight.view().subscriptions().next() {
                Some((subscription, ..)) => prop_assert_eq!(fight.view().is_paused(subscription), paused),
                None => prop_assert!(deed == 3 && !paused),
            }
        }
    }
}

#[test]
fn what_a_number_owns_ends_at_once_and_the_rest_goes_on() {
    let mut b = Ruleset::builder(60);
    let knocks = b.host_topic("host.knock", &[]);
    let never = b.filter(Filter::on("never", "encounter.ended"));
    let rules = b.build().unwrap();
    let mut hooks = Hooks::<Vec<u64>>::new();
    let hook = hooks.react("hears", |seen: &mut Vec<u64>, heard, _| {
        if matches!(heard.event, Event::HostFact(_)) {
            seen.push(heard.bound);
        }
    });
    let mut fight = Encounter::new(&rules, 1);
    let (screen, hut) = (u64::from(u32::MAX) + 5, 5);
    let listen = |bound| Listen::all().bound_to(bound);
    let mut orders = fight.orders();
    orders.subscribe(hook, listen(1).owned_by_number(screen));
    orders.subscribe(hook, listen(2).owned_by_number(hut));
    orders.subscribe(hook, listen(3).owned_by_number(screen));
    orders.subscribe(hook, listen(4).fitting(never));
    orders.subscribe(hook, listen(4).fitting(never));
    orders.publish(knocks, &[]);
    let mut seen = Vec::new();
    fight.tick_with(&hooks, &mut seen).unwrap();
    assert_eq!(std::mem::take(&mut seen), [1, 2, 3]);
    assert_eq!(fight.view().subscriptions().count(), 4, "two that are equal are one");
    fight.orders().unsubscribe_number(screen);
    fight.orders().publish(knocks, &[]);
    fight.tick_with(&hooks, &mut seen).unwrap();
    assert_eq!(seen, [2]);
    let owners: Vec<_> = fight.view().subscriptions().map(|(_, _, listen)| listen.owner_number()).collect();
    assert_eq!(owners, [Some(hut), None]);
}

#[test]
fn a_filter_that_never_lets_anything_through_or_rolls_is_found() {
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    b.filter(Filter::on("no topic", "combatant.tripped"));
    b.filter(
        Filter::on("no other", "encounter.ended").when(Condition::Is(Party::Other, Group::team(masons))),
    );
    b.filter(Filter::on("rolls", "combatant.died").when(Condition::Chance(Fixed::ratio(1, 2))));
    b.filter(Filter::on("rolls", "combatant.died"));
    let findings = b.build().unwrap_err().to_string();
    for part in ["combatant.tripped", "no other party", "rolls no chance", "filter `rolls`"] {
        assert!(findings.contains(part), "{part}: {findings}");
    }
    // An id of another ruleset is refused.
    let mut other = Ruleset::builder(60);
    let filter = other.filter(Filter::on("any", "combatant.died"));
    let rules = Ruleset::builder(60).build().unwrap();
    let mut hooks = Hooks::<()>::new();
    let hook = hooks.react("hears", |_, _, _| {});
    let mut fight = Encounter::new(&rules, 1);
    fight.orders().subscribe(hook, Listen::all().fitting(filter));
    fight.tick_with(&hooks, &mut ()).unwrap();
    let refused = fight.facts().events().filter_map(|event| match *event {
        Event::OrderRefused(refused) => Some(refused.why.to_string()),
        _ => None,
    });
    assert_eq!(refused.collect::<Vec<_>>(), ["the ruleset has no such filter"]);
}
