//! An id that was given never means another thing, and each reserved id is accepted once.

use hammerstone::Fixed;
use hammerstone::amount::Shield;
use hammerstone::audit;
use hammerstone::event::{AttackStarted, CombatantJoined, OrderRefused};
use hammerstone::event::{Event, ValueSort};
use hammerstone::findings::{Finding, Problem};
use hammerstone::flow::Waves;
use hammerstone::geometry::Obstacle;
use hammerstone::hooks::Verdict;
use hammerstone::orders::{Refusal, Unsubscribe};
use hammerstone::prelude::*;
use proptest::prelude::*;
use std::collections::BTreeMap;

struct Yard {
    rules: Ruleset,
    mason: TemplateId,
    maul: AttackId,
    cloud: AttackId,
    team: TeamId,
}

fn yard() -> Yard {
    let mut b = Ruleset::builder(60);
    let team = b.team("masons");
    let ball = Shape::Sphere { at: [0.0, 0.0, 1.0], radius: 0.4 };
    let maul = b.attack(Attack::melee("maul").timeline(2, 2, 2).hitbox(ball).chain("back-swing", 3, 6));
    b.attack(Attack::melee("back-swing").timeline(1, 1, 1).hitbox(ball));
    let cloud = b.attack(Attack::area("cloud").timeline(0, 3, 0).hitbox(ball));
    let mason = b.template(Template::new("mason", team, 40));
    let spot = b.spot("ramp", Pose::IDENTITY);
    b.waves(Waves::new("shift", mason, 2, 3).at(spot));
    Yard { rules: b.build().unwrap(), mason, maul, cloud, team }
}

fn refusals(fight: &Encounter) -> Vec<Refusal> {
    let why = |event: &Event| {
        if let Event::OrderRefused(OrderRefused { why, .. }) = event { Some(*why) } else { None }
    };
    fight.facts().events().filter_map(why).collect()
}

#[test]
fn one_who_stands_is_never_overwritten() {
    let Yard { rules, mason, .. } = yard();
    let mut fight = Encounter::new(&rules, 1);
    let nowhere = Pose::at([f32::NAN, 0.0, 0.0]);
    let id = fight.orders().spawn(mason, nowhere);
    let spawn = |id| Order::Spawn { id, template: mason, team: None, pose: Pose::IDENTITY, owner: None };
    fight.orders().give(spawn(id));
    fight.orders().give(spawn(id));
    fight.orders().start_waves(rules.find_waves("shift").unwrap());
    fight.tick().unwrap();
    assert_eq!(refusals(&fight), [Refusal::NotFinite, Refusal::NotReserved, Refusal::NotReserved]);
    let joined = fight.facts().events().filter(|event| event.topic() == topic::COMBATANT_JOINED).count();
    assert_eq!((joined, fight.view().combatants().count()), (2, 2), "nobody came or went without a fact");
    assert_eq!(fight.view().life(id), Life::Gone);
    let (one, other) =
        (fight.orders().spawn(mason, Pose::IDENTITY), fight.orders().spawn(mason, Pose::IDENTITY));
    assert_ne!(one, other, "a place that was given up once is free once");
    fight.orders().give(spawn(one));
    fight.tick().unwrap();
    assert_eq!(
        refusals(&fight),
        [Refusal::NotReserved],
        "a spawn that is delivered twice is refused the second time"
    );
}

#[test]
fn a_swing_id_is_accepted_once() {
    let Yard { rules, mason, maul, cloud, team } = yard();
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let bram = fight.orders().spawn(mason, Pose::at([9.0, 0.0, 0.0]));
    let swing = fight.orders().spawn_attack(cloud, team, Pose::IDENTITY);
    for _ in 0..9 {
        fight.tick().unwrap();
    }
    assert_eq!(fight.view().swings().count(), 0, "it has ended");
    let start = |swing, subject, attack| Order::Start { swing, subject, attack, aim: None };
    assert_eq!(fight.would_refuse(&start(swing, odo, maul)), Some(Refusal::NotReserved));
    // A press of a chain that waits has used its id up.
    fight.orders().start(odo, maul);
    fight.tick().unwrap();
    let press = fight.orders().start(odo, maul);
    fight.orders().give(start(press, bram, maul));
    fight.tick().unwrap();
    assert_eq!(refusals(&fight), [Refusal::NotReserved]);
    // Whoever asks whether someone may attack is told about the attacker, whatever the id.
    assert!(matches!(fight.would_refuse(&start(swing, odo, cloud)), Some(Refusal::Busy { .. })));
    let mut ids = Vec::new();
    for _ in 0..20 {
        fight.tick().unwrap();
        ids.extend(fight.view().swings().map(|(id, ..)| id));
    }
    assert!(ids.contains(&press), "the press was taken");
}

#[test]
fn recorded_orders_play_in_a_fresh_encounter() {
    let Yard { rules, mason, maul, cloud, team } = yard();
    let mut fight = Encounter::new(&rules, 7);
    let mut log = Vec::new();
    let mut sums = Vec::new();
    let mut who = Vec::new();
    for tick in 0..40 {
        let mut orders = fight.orders();
        if tick % 3 == 0 {
            who.push(orders.spawn(mason, Pose::at([tick as f32, 0.0, 0.0])));
        }
        if tick % 7 == 1 {
            orders.spawn(mason, Pose::at([f32::INFINITY, 0.0, 0.0]));
            orders.spawn_attack(cloud, team, Pose::IDENTITY);
        }
        orders.start(who[tick % who.len()], maul);
        if tick % 5 == 4 {
            orders.remove(who[tick % who.len()]);
        }
        orders.add_obstacle(Obstacle::Sphere { at: [0.0; 3], radius: 1.0 });
        log.push(fight.pending_orders().map(|(_, order)| *order).collect::<Vec<_>>());
        fight.tick().unwrap();
        sums.push(fight.checksum());
    }
    let mut again = Encounter::new(&rules, 7);
    for (orders, sum) in log.iter().zip(&sums) {
        for &order in orders {
            again.orders().give(order);
        }
        again.tick().unwrap();
        // Also those that were refused: what was not finite is refused again.
        assert_eq!(again.checksum(), *sum);
    }
    assert!(again.view().combatants().count() > 3);
    let swings = |fight: &Encounter| fight.view().swings().collect::<Vec<_>>();
    assert_eq!(swings(&again), swings(&fight));
}

#[test]
fn a_waiting_order_can_be_read_and_taken_back() {
    let Yard { rules, mason, .. } = yard();
    let mut fight = Encounter::new(&rules, 1);
    let mut hooks = Hooks::<()>::new();
    let id = fight.orders().spawn(mason, Pose::IDENTITY);
    let asked = hooks.intercept("asked", 0, |_, _, _| Verdict::Proceed);
    fight.orders().subscribe(asked, Listen::all());
    assert_eq!(fight.tick_with(&hooks, &mut ()).unwrap().tick, 1);
    assert_eq!(refusals(&fight), [Refusal::NoSuchHook], "what hears no facts is not subscribed");
    fight.tick_with(&hooks, &mut ()).unwrap();
    // Without hooks nothing is subscribed, and the order can be withdrawn.
    let subscription = fight.orders().subscribe(asked, Listen::all());
    assert!(fight.tick().is_err());
    let names: Vec<&str> = fight.pending_orders().map(|(_, order)| order.name()).collect();
    assert_eq!(names, ["subscribe"]);
    let number = fight.pending_orders().next().unwrap().0;
    let dropped = fight.drop_order(number).unwrap();
    assert!(matches!(dropped, Order::Subscribe { id, .. } if id == subscription));
    fight.tick().unwrap();
    assert_eq!(fight.view().life(id), Life::Standing);
    let lapsed = fight.orders().spawn(mason, Pose::IDENTITY);
    fight.drop_orders();
    assert_eq!(fight.pending_orders().len(), 0);
    let after = fight.orders().spawn(mason, Pose::IDENTITY);
    assert_ne!(lapsed, after);
}

#[test]
fn a_subscription_whose_hook_is_gone_can_be_ended() {
    let Yard { rules, .. } = yard();
    let mut fight = Encounter::new(&rules, 1);
    let mut hooks = Hooks::<()>::new();
    let hook = hooks.react("gong", |_, _, _| {});
    fight.orders().subscribe(hook, Listen::all());
    fight.tick_with(&hooks, &mut ()).unwrap();
    let none = Hooks::<()>::new();
    assert_eq!(fight.tick_with(&none, &mut ()), Err(TickError::UnknownHook { hook: 0 }));
    fight.orders().unsubscribe(Unsubscribe::Hook(hook));
    fight.tick_with(&none, &mut ()).unwrap();
    fight.tick_with(&none, &mut ()).unwrap();
}

#[test]
fn more_than_an_id_can_tell_apart_is_a_finding() {
    type Add = fn(&mut RulesetBuilder, &str);
    let adds: [(&str, Add); 6] = [
        ("stats", |b, name| _ = b.stat(name, Fixed::ZERO)),
        ("spots", |b, name| _ = b.spot(name, Pose::IDENTITY)),
        ("reasons", |b, name| _ = b.reason(name)),
        ("outcomes", |b, name| _ = b.outcome(name)),
        ("own steps", |b, name| _ = b.own_step(name)),
        ("shields", |b, name| _ = b.shield(Shield::new(name))),
    ];
    for (what, add) in adds {
        let mut b = Ruleset::builder(60);
        for i in 0..70_000 {
            add(&mut b, &format!("n{i}"));
        }
        let found = b.build().unwrap_err();
        let is = |finding: &Finding| {
            finding.place.field == what && matches!(finding.problem, Problem::TooMany { count: 70_000, .. })
        };
        assert!(found.0.iter().any(is), "{what}");
    }
}

#[test]
fn foreign_ids_are_answered_and_not_looked_up() {
    let Yard { rules, .. } = yard();
    let mut b = Ruleset::builder(60);
    let mut last = None;
    for i in 0..40 {
        let name = format!("n{i}");
        let damage_type = b.damage_type(&name);
        let team = b.team(&name);
        let spot = b.spot(&name, Pose::IDENTITY);
        let attack = b.attack(Attack::area(&name).timeline(0, 1, 0));
        let host = b.host_topic(&format!("host.n{i}"), &[("who", ValueSort::Who)]);
        let template = b.template(Template::new(&name, team, 1));
        let flow = (b.flag(&name), b.counter(&name), b.score(&name));
        let waves = b.waves(Waves::new(&name, template, 1, 1));
        last = Some((damage_type, team, spot, attack, host, template, flow, waves));
    }
    let (damage_type, team, spot, attack, host, template, (flag, counter, score), waves) = last.unwrap();
    assert_eq!(rules.damage_type_name(damage_type), None);
    assert_eq!(rules.spot(spot), None);
    assert_eq!(rules.relation(team, team), None);
    assert_eq!(rules.relation(rules.find_team("masons").unwrap(), team), None);
    assert_eq!(rules.attack_name(attack), None);
    assert_eq!(rules.host_fields(host).count(), 0);
    assert_eq!(rules.tags_of(template).count(), 0);
    assert_eq!(rules.timings(attack), None);
    let fight = Encounter::new(&rules, 1);
    let view = fight.view();
    assert_eq!((view.flag(flag), view.counter(counter), view.score(score)), (None, None, None));
    assert_eq!(view.waves(waves), None);
    let topics = rules.topics();
    assert_eq!(topics.damage(damage_type), None);
    assert_eq!(topics.path(topics.of_host(host)), None);
    assert_eq!(topics.host_topic(topics.of_host(host)), None);
}

/// What an id meant when it was first met.
#[derive(Clone, Copy, PartialEq, Debug)]
enum Meaning {
    Combatant(u64),
    Swing(u64),
}

#[derive(Clone, Copy, Debug)]
enum Step {
    Spawn(bool),
    SpawnWith(usize),
    SpawnAttack,
    SpawnAttackWith(usize),
    Remove(usize),
    Drop,
    Tick,
    Reset,
    Save,
    Restore,
}

fn steps() -> impl Strategy<Value = Vec<Step>> {
    let step = prop_oneof![
        3 => any::<bool>().prop_map(Step::Spawn),
        2 => (0..40usize).prop_map(Step::SpawnWith),
        2 => Just(Step::SpawnAttack),
        2 => (0..40usize).prop_map(Step::SpawnAttackWith),
        2 => (0..40usize).prop_map(Step::Remove),
        1 => Just(Step::Drop),
        4 => Just(Step::Tick),
        1 => Just(Step::Reset),
        1 => Just(Step::Save),
        1 => Just(Step::Restore),
    ];
    prop::collection::vec(step, 1..80)
}

proptest! {
    #![proptest_config(testkit::cases(300))]

    /// Wild orders, resets and restored states: no id ever joins or starts twice within one history.
    #[test]
    fn no_id_means_two_things(steps in steps()) {
        let Yard { rules, mason, cloud, team, .. } = yard();
        let mut fight = Encounter::new(&rules, 1);
        let (mut who, mut swings) = (Vec::new(), Vec::new());
        // By id, with the epoch: those of the set-up come again with every reset, and are the same then.
        let mut meant: BTreeMap<(u8, u64, u64), Meaning> = BTreeMap::new();
        let mut saved = None;
        let mut joined = 0;
        let mut auditor = audit::Auditor::new(&rules);
        for step in steps {
            match step {
                Step::Spawn(sound) => {
                    let at = if sound { 1.0 } else { f32::NAN };
                    who.push(fight.orders().spawn(mason, Pose::at([at, 0.0, 0.0])));
                }
                Step::SpawnWith(i) if !who.is_empty() => {
                    let id = who[i % who.len()];
                    let pose = Pose::IDENTITY;
                    fight.orders().give(Order::Spawn { id, template: mason, team: None, pose, owner: None });
                }
                Step::SpawnAttack => swings.push(fight.orders().spawn_attack(cloud, team, Pose::IDENTITY)),
                Step::SpawnAttackWith(i) if !swings.is_empty() => {
                    let swing = swings[i % swings.len()];
                    fight.orders().give(Order::SpawnAttack { swing, attack: cloud, team, pose: Pose::IDENTITY, credit: None });
                }
                Step::Remove(i) if !who.is_empty() => drop(fight.orders().remove(who[i % who.len()])),
                Step::Drop => fight.drop_orders(),
                Step::Reset => drop(fight.orders().reset()),
                Step::Save => saved = Some((fight.save().unwrap(), meant.clone(), auditor.clone())),
                Step::Restore => {
                    if let Some((state, known, then)) = &saved {
                        auditor = then.clone();
                        fight.restore(state).unwrap();
                        // What was given since is forgotten.
                        meant.clone_from(known);
                    }
                }
                Step::Tick => {
                    let epoch = fight.epoch();
                    let before: Vec<CombatantId> = fight.view().combatants().collect();
                    let reset = fight.tick().unwrap().reset;
                    auditor.observe(&fight.facts());
                    if !reset {
                        auditor.compare(&fight.view());
                    }
                    prop_assert!(auditor.breaches().is_empty(), "{:?}", auditor.breaches());
                    let facts: Vec<Event> = fight.facts().events().copied().collect();
                    for event in facts {
                        joined += 1;
                        let (key, meaning) = match event {
                            Event::CombatantJoined(CombatantJoined { subject, .. }) => {
                                prop_assert!(!before.contains(&subject), "one who stands is overwritten");
                                let id = (subject.slot() as u64) << 32 | u64::from(subject.generation());
                                ((0, id, u64::from(epoch)), Meaning::Combatant(joined))
                            }
                            Event::AttackStarted(AttackStarted { swing, .. }) => {
                                ((1, swing.number(), u64::from(epoch)), Meaning::Swing(joined))
                            }
                            _ => continue,
                        };
                        prop_assert_eq!(meant.insert(key, meaning), None, "{:?} came twice", key);
                    }
                }
                _ => {}
            }
        }
    }
}
