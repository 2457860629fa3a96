//! Each listener hears each fact at most once, in the documented order, nothing from before its subscribing and nothing after
//! its end: against a simple model that reads the facts as a slice.

use hammerstone::Fixed;
use hammerstone::event::OrderRefused;
use hammerstone::event::{Event, Fact};
use hammerstone::ids::{HookId, TopicId};
use hammerstone::orders::{OrderKind, Refusal};
use hammerstone::prelude::*;
use proptest::prelude::*;
use testkit::{build, fights};

/// What a listener heard: its number and the fact's.
type Heard = Vec<(usize, u64)>;

/// A subscription as the model knows it.
struct Known {
    hook: usize,
    listen: Listen,
    topics: Vec<TopicId>,
    priority: i16,
    once: bool,
    about: Option<CombatantId>,
}

fn known(rules: &Ruleset, hook: usize, who: CombatantId) -> Known {
    let topics = rules.topics();
    let all: Vec<TopicId> = topics.paths().iter().map(|path| topics.find(path).unwrap()).collect();
    let health = topics.family("health").unwrap();
    let (listen, topics, priority, once, about) = match hook {
        0 => (Listen::all(), all, 0, false, None),
        1 => (Listen::under(health).priority(3), topics.members(health).to_vec(), 3, false, None),
        2 => (Listen::to(topic::HEALTH_CHANGED).once(), vec![topic::HEALTH_CHANGED], 0, true, None),
        3 => (Listen::all().about(who).priority(-2), all, -2, false, Some(who)),
        _ => (Listen::to(topic::HIT_LANDED).priority(3), vec![topic::HIT_LANDED], 3, false, None),
    };
    Known { hook, listen, topics, priority, once, about }
}

proptest! {
    #![proptest_config(testkit::cases(60))]

    #[test]
    fn listeners_hear_what_a_simple_model_says(fight in fights(), joins in proptest::collection::vec(0u32..30, 5)) {
        let rules = build(&fight.sheet);
        let mut hooks = Hooks::<Heard>::new();
        let ids: Vec<HookId> = (0..5)
            .map(|i| hooks.react(&format!("{i}"), move |heard: &mut Heard, what, _| heard.push((i, what.fact.seq))))
            .collect();
        let mut encounter = Encounter::new(&rules, fight.seed);
        let template = rules.find_template("cast 0").unwrap();
        let all: Vec<_> = (0..4).map(|i| encounter.orders().spawn(template, Pose::at([i as f32, 0.0, 0.0]))).collect();
        let (damage_type, reason) = (rules.find_damage_type("heat").unwrap(), rules.find_reason("tide").unwrap());
        let subscriptions: Vec<Known> = (0..5).map(|hook| known(&rules, hook, all[hook % 4])).collect();
        let mut spent = [false; 5];
        for tick in 0..40u32 {
            // Whoever joins in this tick does so after the first order, and so hears what comes after that.
            encounter.orders().damage(all[tick as usize % 4], damage_type, Fixed::whole(1), reason);
            let joining: Vec<usize> = (0..5).filter(|&i| joins[i] == tick).collect();
            for &i in &joining {
                encounter.orders().subscribe(ids[i], subscriptions[i].listen);
                encounter.orders().subscribe(ids[i], subscriptions[i].listen);
            }
            encounter.orders().heal(all[(tick as usize + 1) % 4], 1, reason);
            let mut heard = Heard::new();
            let summary = encounter.tick_with(&hooks, &mut heard).unwrap();
            // The model: for each fact in order, those who may hear it, by priority, then by number of subscribing.
            let facts = encounter.facts();
            let first_heard = facts.facts.iter().find(|fact| fact.by.is_none() && matches!(fact.event, Event::HealApplied(_) | Event::OrderRefused(OrderRefused { kind: OrderKind::Heal, .. })));
            let since = first_heard.map_or(u64::MAX, |fact| fact.seq);
            let mut expected = Heard::new();
            // No one reacts to what is cut as a cascade, nor to what was ordered in answer to a reset.
            let heard_of = |fact: &&Fact| match fact.event {
                Event::EncounterCut(_) => false,
                Event::OrderRefused(OrderRefused { why, .. }) => !matches!(why, Refusal::Resetting),
                _ => true,
            };
            for fact in facts.facts.iter().filter(heard_of) {
                let mut hearers: Vec<&Known> = subscriptions
                    .iter()
                    .filter(|s| joins[s.hook] < tick || (joins[s.hook] == tick && fact.seq >= since))
                    .filter(|s| s.topics.contains(&fact.event.topic()) && !(s.once && spent[s.hook]))
                    .filter(|s| s.about.is_none() || s.about == fact.event.subject())
                    .collect();
                hearers.sort_by_key(|s| (std::cmp::Reverse(s.priority), joins[s.hook], s.hook));
                for hearer in hearers {
                    expected.push((hearer.hook, fact.seq));
                    spent[hearer.hook] |= hearer.once;
                }
            }
            prop_assert_eq!(heard, expected, "tick {}", tick);
            if summary.reset {
                break;
            }
        }
    }
}

/// The model notices a listener that hears twice.
#[test]
fn two_different_subscriptions_of_one_hook_hear_twice() {
    let mut b = Ruleset::builder(60);
    let team = b.team("masons");
    let mason = b.template(Template::new("mason", team, 10));
    let rules = b.build().unwrap();
    let mut hooks = Hooks::<u32>::new();
    let count = hooks.react("count", |calls, _, _| *calls += 1);
    let mut fight = Encounter::new(&rules, 1);
    let joined = Listen::to(topic::COMBATANT_JOINED);
    for listen in [joined, joined, joined.priority(1)] {
        fight.orders().subscribe(count, listen);
    }
    fight.orders().spawn(mason, Pose::IDENTITY);
    let mut calls = 0;
    fight.tick_with(&hooks, &mut calls).unwrap();
    assert_eq!(calls, 2, "the same one again changes nothing; another is another");
}
