//! The hub of an encounter: ten thousand subscriptions against a simple model; filters, keys, handles, hooks that watch.

use std::collections::{BTreeMap, BTreeSet};

use hammerstone::event::{CombatantJoined, HealthChanged, HostFact, OrderRefused, Payload};

use hammerstone::Fixed;
use hammerstone::event::{Event, HostValue, Listener, ValueSort};
use hammerstone::flow::Count;
use hammerstone::ids::{CounterId, HookId};
use hammerstone::orders::{Refusal, Unsubscribe};
use hammerstone::prelude::*;

const HOOKS: usize = 10_000;

/// A number that follows from two others.
fn mixed(one: u64, other: u64) -> u64 {
    let mixed = (one.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ other).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    mixed ^ (mixed >> 29)
}

/// What one hook does on hearing a fact: nothing most of the time.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum Act {
    Listen(usize),
    End(usize),
    EndOneself,
    Pause(usize),
    Resume(usize),
    Count,
}

fn act(hook: usize, seq: u64) -> Option<Act> {
    let rolled = mixed(hook as u64, seq);
    let other = (rolled >> 20) as usize % HOOKS;
    match rolled % 97 {
        0..8 => Some(Act::Listen(other)),
        8..16 => Some(Act::End(other)),
        16 => Some(Act::EndOneself),
        18..24 => Some(Act::Pause(other)),
        24..32 => Some(Act::Resume(other)),
        17 if rolled.is_multiple_of(31) => Some(Act::Count),
        _ => None,
    }
}

/// What a hook asks for; every hook has one subscription at most, under a key.
#[derive(Clone, Copy)]
struct Wish {
    everything: bool,
    priority: i16,
    once: bool,
}

fn wish(hook: usize) -> Wish {
    let rolled = mixed(hook as u64, 77);
    Wish { everything: rolled.is_multiple_of(3), priority: (rolled >> 8) as i16 % 3, once: rolled % 5 == 1 }
}

fn listen(rules: &Ruleset, hook: usize) -> Listen {
    let Wish { everything, priority, once } = wish(hook);
    let family = rules.topics().family("counter").unwrap();
    let listen = if everything { Listen::all() } else { Listen::under(family) };
    let listen = listen.priority(priority).keyed(1);
    if once { listen.once() } else { listen }
}

struct World {
    rules: Ruleset,
    ids: Vec<HookId>,
    counter: CounterId,
    heard: Vec<(usize, u64)>,
}

/// The model: a list of who listens since when and until when, in the order of subscribing; and by hook the stretches for which it was paused.
#[derive(Default)]
struct Model {
    pauses: BTreeMap<usize, Vec<(u64, Option<u64>)>>,
    list: Vec<(usize, u64, Option<u64>)>,
    next: u64,
}

impl Model {
    /// Delivers the facts of one pass, and gives what they order.
    fn deliver(&mut self, facts: std::ops::Range<u64>, heard: &mut Vec<(usize, u64)>) -> Vec<(usize, Act)> {
        let mut orders = Vec::new();
        for seq in facts {
            let hears = |(_, since, until): &&(usize, u64, Option<u64>)| {
                seq >= *since && until.is_none_or(|until| seq < until)
            };
            let pauses = &self.pauses;
            let paused = |hook: usize| {
                let keeps = |&(from, to): &(u64, Option<u64>)| seq >= from && to.is_none_or(|to| seq < to);
                pauses.get(&hook).is_some_and(|of| of.iter().any(keeps))
            };
            let mut hearers: Vec<usize> = self
                .list
                .iter()
                .filter(hears)
                .map(|(hook, ..)| *hook)
                .filter(|&hook| !paused(hook))
                .collect();
            // Stable: equals hear in the order of subscribing.
            hearers.sort_by_key(|&hook| std::cmp::Reverse(wish(hook).priority));
            for &hook in &hearers {
                heard.push((hook, seq));
                orders.extend(act(hook, seq).map(|act| (hook, act)));
            }
            for (hook, since, until) in &mut self.list {
                // It heard this one, if it was still there.
                if wish(*hook).once
                    && !paused(*hook)
                    && seq >= *since
                    && until.is_none_or(|until| seq < until)
                {
                    *until = Some(seq + 1);
                }
            }
        }
        self.list.retain(|(.., until)| until.is_none());
        let there: BTreeSet<usize> = self.list.iter().map(|(known, ..)| *known).collect();
        self.pauses.retain(|hook, of| {
            of.retain(|(_, to)| to.is_none());
            there.contains(hook) && !of.is_empty()
        });
        orders
    }

    fn carry_out(&mut self, orders: &[(usize, Act)]) {
        for &(hook, act) in orders {
            let mut end = |ends: usize| {
                for (_, _, until) in self.list.iter_mut().filter(|(known, ..)| *known == ends) {
                    until.get_or_insert(self.next);
                }
                // A pause ends with its subscription; the next one is not paused.
                for (_, to) in self.pauses.entry(ends).or_default() {
                    to.get_or_insert(self.next);
                }
            };
            match act {
                Act::Listen(other) => {
                    if !self.list.iter().any(|(known, _, until)| *known == other && until.is_none()) {
                        self.list.push((other, self.next, None));
                    }
                }
                Act::End(other) => end(other),
                Act::EndOneself => end(hook),
                Act::Pause(other) => {
                    let listens =
                        self.list.iter().any(|(known, _, until)| *known == other && until.is_none());
                    let of = self.pauses.entry(other).or_default();
                    if listens && !of.iter().any(|(_, to)| to.is_none()) {
                        of.push((self.next, None));
                    }
                }
                Act::Resume(other) => {
                    for (_, to) in self.pauses.entry(other).or_default() {
                        to.get_or_insert(self.next);
                    }
                }
                Act::Count => self.next += 1,
            }
        }
    }
}

#[test]
fn ten_thousand_subscriptions_agree_with_a_simple_model() {
    let mut b = Ruleset::builder(60);
    let counter = b.counter("falls");
    b.cascade_limit(3, 1_000_000, 1_000_000);
    let rules = b.build().unwrap();
    let mut hooks = Hooks::<World>::new();
    let ids: Vec<HookId> = (0..HOOKS)
        .map(|hook| {
            hooks.react(&format!("hook {hook}"), move |world: &mut World, heard, orders| {
                world.heard.push((hook, heard.fact.seq));
                let done = if heard.fact.depth < 2 { act(hook, heard.fact.seq) } else { None };
                match done {
                    Some(Act::Listen(other)) => {
                        orders.subscribe(world.ids[other], listen(&world.rules, other));
                    }
                    Some(Act::End(other)) => {
                        orders.unsubscribe(Unsubscribe::Key(world.ids[other], 1));
                    }
                    Some(Act::EndOneself) => {
                        orders.unsubscribe(Unsubscribe::Hook(world.ids[hook]));
                    }
                    Some(Act::Pause(other)) => {
                        orders.pause(Unsubscribe::Key(world.ids[other], 1));
                    }
                    Some(Act::Resume(other)) => {
                        orders.resume(Unsubscribe::Key(world.ids[other], 1));
                    }
                    Some(Act::Count) => {
                        orders.count(world.counter, Count::Add(1));
                    }
                    None => {}
                }
            })
        })
        .collect();
    let mut world = World { rules: rules.clone(), ids: ids.clone(), counter, heard: Vec::new() };
    let mut fight = Encounter::new(&rules, 1);
    let mut model = Model { next: 1, ..Model::default() };
    let order: Vec<usize> = (0..HOOKS).map(|i| i * 7 % HOOKS).collect();
    for &hook in &order {
        fight.orders().subscribe(ids[hook], listen(&rules, hook));
        model.list.push((hook, 1, None));
    }
    fight.tick_with(&hooks, &mut world).unwrap();
    let mut calls = 0;
    for _ in 0..6 {
        world.heard.clear();
        fight.orders().count(counter, Count::Add(1));
        fight.orders().count(counter, Count::Add(1));
        fight.tick_with(&hooks, &mut world).unwrap();
        let mut expected = Vec::new();
        let mut delivered = model.next;
        model.next += 2;
        let mut depth = 0;
        loop {
            let (from, to) = (delivered, model.next);
            delivered = to;
            let orders = model.deliver(from..to, &mut expected);
            // The hooks order nothing in answer to what lies two deep.
            if orders.is_empty() || depth == 2 {
                break;
            }
            model.carry_out(&orders);
            depth += 1;
        }
        assert_eq!(world.heard.len(), expected.len());
        assert!(world.heard == expected, "someone heard something else, or in another order");
        model.list.retain(|(.., until)| until.is_none());
        assert_eq!(fight.view().subscriptions().count(), model.list.len());
        calls += expected.len();
    }
    assert!(calls > 100_000, "{calls}");
}

fn small() -> (Ruleset, TemplateId, TemplateId) {
    let mut b = Ruleset::builder(60);
    b.damage_type("crush");
    b.reason("tide");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let wet = b.tag("wet");
    b.status(Status::new("soaked").adds_tags(wet).lasts(100));
    let mason = b.template(Template::new("mason", masons, 20));
    let hound = b.template(Template::new("hound", beasts, 20));
    (b.build().unwrap(), mason, hound)
}

#[test]
fn filters_keys_handles_and_the_log_of_deliveries() {
    let (rules, mason, hound) = small();
    let mut hooks = Hooks::<Vec<&'static str>>::new();
    let mut name = |name: &'static str| hooks.react(name, move |heard, _, _| heard.push(name));
    let (of_team, tagged, keyed, handled) = (name("team"), name("tagged"), name("keyed"), name("handled"));
    let mut fight = Encounter::new(&rules, 1);
    let (crush, tide) = (rules.find_damage_type("crush").unwrap(), rules.find_reason("tide").unwrap());
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let beast = fight.orders().spawn(hound, Pose::IDENTITY);
    let changed = Listen::to(topic::HEALTH_CHANGED);
    let mut orders = fight.orders();
    orders.subscribe(of_team, changed.of_team(rules.find_team("beasts").unwrap()));
    orders.subscribe(tagged, changed.tagged(rules.find_tag("wet").unwrap()));
    orders.subscribe(keyed, changed.about(odo).keyed(5));
    // The same key again changes nothing, though it asks for something else.
    orders.subscribe(keyed, changed.about(beast).keyed(5));
    let handle = orders.subscribe(handled, changed.about(odo).priority(9));
    let mut heard = Vec::new();
    fight.tick_with(&hooks, &mut heard).unwrap();
    fight.keep_deliveries(true);
    fight.orders().damage(odo, crush, Fixed::ONE, tide);
    fight.tick_with(&hooks, &mut heard).unwrap();
    assert_eq!(std::mem::take(&mut heard), ["handled", "keyed"]);
    let facts = fight.facts();
    let fact = facts.facts.iter().find(|fact| matches!(fact.event, Event::HealthChanged(_))).unwrap();
    assert_eq!(fact.reached, 2);
    let listeners: Vec<Listener> = facts.deliveries.iter().map(|delivery| delivery.listener).collect();
    assert_eq!(listeners, [Listener::Hook(handled), Listener::Hook(keyed)]);
    assert_eq!(facts.deliveries[0].subscription, Some(handle));

    fight.orders().apply(beast, rules.find_status("soaked").unwrap(), None);
    fight.orders().damage(beast, crush, Fixed::ONE, tide);
    fight.orders().unsubscribe(Unsubscribe::Handle(handle));
    // Ending twice, and what was never there, is harmless.
    fight.orders().unsubscribe(Unsubscribe::Handle(handle));
    fight.orders().unsubscribe(Unsubscribe::Key(handled, 9));
    fight.tick_with(&hooks, &mut heard).unwrap();
    assert_eq!(std::mem::take(&mut heard), ["team", "tagged"]);
    fight.orders().damage(odo, crush, Fixed::ONE, tide);
    fight.tick_with(&hooks, &mut heard).unwrap();
    assert_eq!(heard, ["keyed"]);
}

#[test]
fn a_listener_may_end_itself_its_neighbour_and_its_owner() {
    let (rules, mason, _) = small();
    let (crush, tide) = (rules.find_damage_type("crush").unwrap(), rules.find_reason("tide").unwrap());
    type Ids = (Vec<&'static str>, Vec<HookId>, Option<CombatantId>);
    let mut hooks = Hooks::<Ids>::new();
    let first = hooks.react("first", |(heard, ids, _), _, orders| {
        heard.push("first");
        orders.unsubscribe(Unsubscribe::Hook(ids[0]));
        orders.unsubscribe(Unsubscribe::Hook(ids[1]));
    });
    let second = hooks.react("second", |(heard, ..), _, _| heard.push("second"));
    let third = hooks.react("third", move |(heard, _, owner), _, orders| {
        heard.push("third");
        if let Some(owner) = *owner {
            orders.damage(owner, crush, Fixed::whole(99), tide);
        }
    });
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let other = fight.orders().spawn(mason, Pose::IDENTITY);
    let mut world = (Vec::new(), vec![first, second], Some(odo));
    fight.tick_with(&hooks, &mut world).unwrap();
    let listen = Listen::under(rules.topics().family("health").unwrap()).about(other);
    fight.orders().subscribe(first, listen);
    fight.orders().subscribe(second, listen);
    fight.orders().subscribe(third, Listen::all().owned_by(odo));
    fight.orders().damage(other, crush, Fixed::ONE, tide);
    fight.tick_with(&hooks, &mut world).unwrap();
    // The neighbour still hears what had happened when it was ended; the third hears up to its owner's death and nothing later: the
    // damage, the change, its owner's damage, its change and its death.
    let mut counts = BTreeMap::new();
    for name in &world.0 {
        *counts.entry(*name).or_insert(0) += 1;
    }
    assert_eq!(counts, BTreeMap::from([("first", 1), ("second", 1), ("third", 5)]));
    world.0.clear();
    fight.orders().damage(other, crush, Fixed::ONE, tide);
    fight.tick_with(&hooks, &mut world).unwrap();
    assert_eq!(world.0, Vec::<&str>::new());
}

#[test]
fn hooks_that_watch_are_called_once_for_each_tick_that_is_confirmed() {
    let (rules, mason, _) = small();
    let (crush, tide) = (rules.find_damage_type("crush").unwrap(), rules.find_reason("tide").unwrap());
    let mut hooks = Hooks::<(u32, Vec<(u32, i64)>)>::new();
    let reacts = hooks.react("reacts", |(calls, _), _, _| *calls += 1);
    let watches = hooks.watch("watches", |(_, seen), heard| {
        if let Event::HealthChanged(HealthChanged { to, .. }) = *heard.event {
            seen.push((heard.facts.tick, to));
        }
    });
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let changed = Listen::to(topic::HEALTH_CHANGED);
    fight.orders().subscribe(reacts, changed);
    fight.orders().subscribe(watches, changed);
    let mut world = (0, Vec::new());
    fight.tick_with(&hooks, &mut world).unwrap();
    let saved = fight.save().unwrap();
    let play = |fight: &mut Encounter, world: &mut _, points| {
        for _ in 0..3 {
            fight.orders().damage(odo, crush, Fixed::whole(points), tide);
            fight.tick_with(&hooks, world).unwrap();
        }
    };
    // A guess that turns out wrong: no one watched it.
    play(&mut fight, &mut world, 1);
    fight.restore(&saved).unwrap();
    play(&mut fight, &mut world, 2);
    assert_eq!(world, (6, vec![]));
    assert_eq!(fight.confirm_through(0, 3, &mut hooks.with(&mut world)), 2);
    assert_eq!(world.1, [(2, 18), (3, 16)]);
    // A tick that was confirmed is not shown again, though it runs again.
    fight.restore(&saved).unwrap();
    play(&mut fight, &mut world, 2);
    assert_eq!(fight.confirm(&hooks, &mut world), 1);
    assert_eq!(world.1, [(2, 18), (3, 16), (4, 14)]);
    assert_eq!(fight.confirm(&hooks, &mut world), 0);
    assert_eq!(world.0, 9);
}

#[test]
fn facts_of_the_hosts_own_have_their_fields_and_refuse_others() {
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    let mason = b.template(Template::new("mason", masons, 20));
    let fields = [("by", ValueSort::Who), ("height", ValueSort::Exact), ("gate", ValueSort::Name)];
    let opened = b.host_topic("host.sluice.opened", &fields);
    let upper = b.word("upper");
    let other = Ruleset::builder(60).word("elsewhere");
    assert_eq!(other, upper, "an id of another ruleset is known by its number only");
    let rules = b.build().unwrap();
    let mut hooks = Hooks::<Vec<Event>>::new();
    let hears = hooks.react("hears", |seen: &mut Vec<Event>, heard, _| seen.push(*heard.event));
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    fight.orders().subscribe(hears, Listen::under(rules.topics().family("host").unwrap()).about(odo));
    let height = HostValue::Exact(Fixed::ratio(5, 2));
    let gate = HostValue::Name(upper);
    let order = fight.orders().publish(opened, &[HostValue::Who(odo), height, gate]);
    let mut strange = Ruleset::builder(60);
    let strange = (0..9).map(|number| strange.word(&number.to_string())).last().unwrap();
    fight.orders().publish(opened, &[HostValue::Who(odo), height, HostValue::Name(strange)]);
    fight.orders().publish(opened, &[HostValue::Nothing, height]);
    fight.orders().publish(opened, &[height, height]);
    fight.orders().publish(opened, &[HostValue::Who(odo), HostValue::Whole(2)]);
    let mut seen = Vec::new();
    fight.tick_with(&hooks, &mut seen).unwrap();
    let values = [HostValue::Who(odo), height, gate, HostValue::Nothing];
    let topic = rules.topics().find("host.sluice.opened").unwrap();
    let told: Vec<_> = seen
        .iter()
        .filter_map(|event| HostFact::of(event).map(|fact| (event.topic(), fact.values)))
        .collect();
    assert_eq!(told, [(topic, values)]);
    // Whoever publishes learns how many it reached: one, whose filter lets the first through, and no order that was refused.
    let refused = fight.facts().published.len();
    assert_eq!((fight.facts().reached_by(order), refused), (Some(1), 2));
    let (second, _) = fight.facts().published[1];
    assert_eq!(fight.facts().reached_by(second), Some(0));
    let refused: Vec<Refusal> = fight
        .facts()
        .events()
        .filter_map(
            |event| if let Event::OrderRefused(OrderRefused { why, .. }) = event { Some(*why) } else { None },
        )
        .collect();
    assert_eq!(refused, [Refusal::WrongValue(3), Refusal::WrongValue(1), Refusal::WrongValue(2)]);
}

/// A hook for one payload hears that payload, by its topic or a family of such topics; other subscriptions of it are refused.
#[test]
fn a_hook_for_one_payload_hears_that_payload_only() {
    let mut b = Ruleset::builder(60);
    let masons = b.team("masons");
    let mason = b.template(Template::new("mason", masons, 40));
    let rules = b.build().unwrap();
    let family = |path| Listen::under(rules.topics().family(path).unwrap());
    let mut hooks = Hooks::<Vec<CombatantId>>::new();
    let joined = hooks.on("joined", |seen: &mut Vec<_>, fact: &CombatantJoined, heard, _| {
        assert_eq!(heard.event.subject(), Some(fact.subject));
        seen.push(fact.subject);
    });
    let mut fight = Encounter::new(&rules, 1);
    let accepted = [Listen::to(topic::COMBATANT_JOINED), family("combatant.joined")];
    let refused = [Listen::to(topic::COMBATANT_DIED), family("combatant"), Listen::all()];
    for listen in accepted.into_iter().chain(refused) {
        fight.orders().subscribe(joined, listen);
    }
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let mut seen = Vec::new();
    fight.tick_with(&hooks, &mut seen).unwrap();
    assert_eq!(seen, [odo, odo]);
    let why = |event: &Event| OrderRefused::of(event).map(|refused| refused.why);
    let whys: Vec<Refusal> = fight.facts().events().filter_map(why).collect();
    assert_eq!(whys, [Refusal::OtherPayload; 3]);
}
