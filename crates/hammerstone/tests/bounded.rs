//! Every tick ends within its budget, whatever the data say.

use hammerstone::Fixed;
use hammerstone::attack::Damage;
use hammerstone::audit;
use hammerstone::event::EncounterCut;
use hammerstone::event::{Cause, CutAt, CutBy, Event, Fact, Listener};
use hammerstone::flow::{Count, Credit, Dealing, Group, Healing, Reaction, Rule, Target};
use hammerstone::ids::{RuleId, TagId};
use hammerstone::prelude::*;
use hammerstone::status::{Grant, PreventsDeath, Pulse, Trigger};
use proptest::prelude::*;

/// Ticks a fight and counts, over all ticks, the most facts of one.
fn most_facts(fight: &mut Encounter, ticks: u32) -> usize {
    let mut most = 0;
    for _ in 0..ticks {
        let Ok(summary) = fight.tick() else { break };
        most = most.max(summary.facts);
    }
    most
}

fn cuts(fight: &Encounter) -> Vec<(CutAt, CutBy, u32)> {
    let cut = |event: &Event| match *event {
        Event::EncounterCut(EncounterCut { place, limit, left_out, .. }) => Some((place, limit, left_out)),
        _ => None,
    };
    fight.facts().events().filter_map(cut).collect()
}

/// Two statuses that each kill on expiry and lift each other, both given back to one who returns: each lift returns the bearer.
#[test]
fn gifts_and_lifts_that_call_each_other_end() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let team = b.team("masons");
    let (left, right) = (b.tag("left"), b.tag("right"));
    let one = b.status(Status::new("tide-in").lasts(60).kills_on_expiry(crush).tag(left).lifts(right));
    let other = b.status(Status::new("tide-out").lasts(60).kills_on_expiry(crush).tag(right).lifts(left));
    let mason = Template::new("mason", team, 40)
        .grant(Grant::new(Trigger::Returns, one))
        .grant(Grant::new(Trigger::Returns, other));
    let mason = b.template(mason);
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    fight.orders().apply(odo, one, None);
    fight.orders().apply(odo, other, None);
    assert!(most_facts(&mut fight, 1) > 1000);
    let cut = cuts(&fight);
    assert!(
        cut.iter().any(|(place, by, _)| *place == CutAt::Given(one, Trigger::Returns) && *by == CutBy::Root)
    );
    assert!(cut.len() <= 2, "one for each place: {cut:?}");
    assert!(fight.tick().is_ok());
}

/// A status that is given on returning and is lifted by its own tag: a lift looks only at what was borne when it began.
#[test]
fn a_lift_does_not_look_at_what_it_gives() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let team = b.team("masons");
    let down = b.tag("down");
    let downed = b.status(Status::new("down").lasts(60).kills_on_expiry(crush).tag(down));
    let mason = b.template(Template::new("mason", team, 40).grant(Grant::new(Trigger::Returns, downed)));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    fight.orders().apply(odo, downed, None);
    fight.tick().unwrap();
    fight.orders().lift_family(odo, down);
    fight.tick().unwrap();
    let count = |topic| fight.facts().events().filter(|event| event.topic() == topic).count();
    assert_eq!(count(topic::STATUS_LIFTED), 1);
    assert_eq!(count(topic::STATUS_APPLIED), 1);
    assert_eq!(fight.view().statuses(odo).collect::<Vec<_>>(), [downed], "it is down again, and once");
}

/// What keeps alive gives two statuses that kill at once and lift each other: stage 5 ends, and so does the life.
#[test]
fn a_reprieve_that_gives_what_kills_ends() {
    // Which of the three things of a turn is cut depends on the limit.
    let mut died = 0;
    for per_root in 298..304 {
        let (mut fight, odo, oath) = what_keeps_alive_gives_what_kills(per_root);
        assert!(most_facts(&mut fight, 1) < 3000);
        let spared = CutAt::Spared(Cause::Status(oath));
        let cut = cuts(&fight).iter().any(|(place, ..)| *place == spared);
        let dead = fight.view().life(odo) == Life::Dead;
        assert_eq!(dead, cut, "what would have kept it alive is cut, and so the death stands");
        died += u32::from(dead);
    }
    assert!(died > 0);
}

fn what_keeps_alive_gives_what_kills(per_root: u32) -> (Encounter, CombatantId, StatusId) {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let team = b.team("masons");
    let (left, right) = (b.tag("left"), b.tag("right"));
    let pulse = || Pulse::damage(60, vec![Damage { damage_type: crush, low: 100, high: 100 }]).at_once();
    let one = b.status(Status::new("grit").lasts(60).pulse(pulse()).tag(left).lifts(right));
    let other = b.status(Status::new("silt").lasts(60).pulse(pulse()).tag(right).lifts(left));
    let oath = PreventsDeath { leaves: 1, limit: 1_000_000, ends: false };
    let oath = b.status(
        Status::new("oath")
            .prevents_death(oath)
            .grant(Grant::new(Trigger::Spared, one))
            .grant(Grant::new(Trigger::Spared, other)),
    );
    let mason = b.template(Template::new("mason", team, 40));
    b.cascade_limit(8, per_root, 100_000);
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    fight.orders().apply(odo, oath, None);
    fight.orders().apply(odo, one, None);
    (fight, odo, oath)
}

fn team_that_harms_itself(limits: Option<(u16, u32, u32)>, size: usize) -> (Encounter, RuleId, DamageTypeId) {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let team = b.team("masons");
    let tide = b.reason("tide");
    let all = Target::Each(Group::team(team));
    let rule = b.rule(
        Rule::on("surge", "health.changed").does(Reaction::Damage(all, Dealing::of(crush, Fixed::ONE))),
    );
    let mason = b.template(Template::new("mason", team, 1_000_000_000));
    if let Some((depth, per_root, per_tick)) = limits {
        b.cascade_limit(depth, per_root, per_tick);
    }
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    for _ in 0..size {
        fight.orders().spawn(mason, Pose::IDENTITY);
    }
    fight.tick().unwrap();
    let all: Vec<CombatantId> = fight.view().combatants().collect();
    for who in all {
        fight.orders().damage(who, crush, Fixed::ONE, tide);
    }
    (fight, rule, crush)
}

#[test]
fn a_rule_that_harms_its_own_team_is_cut_once_for_its_place() {
    let (mut fight, rule, _) = team_that_harms_itself(None, 300);
    let summary = fight.tick().unwrap();
    assert!((32_768..100_000).contains(&summary.facts), "{} facts", summary.facts);
    let cut = cuts(&fight);
    let place = CutAt::Heard(Listener::Rule(rule), Some(topic::HEALTH_CHANGED));
    assert_eq!(cut.len(), 1, "{cut:?}");
    assert_eq!((cut[0].0, cut[0].1), (place, CutBy::Tick));
    assert!(cut[0].2 > 30_000, "what was left out is counted: {}", cut[0].2);
    // The next root is not starved.
    let (mut one, ..) = team_that_harms_itself(Some((8, 100, 10_000)), 20);
    one.tick().unwrap();
    let fired = |fact: &&Fact| matches!(fact.event, Event::RuleFired(_));
    let roots: std::collections::BTreeSet<u32> =
        one.facts().facts.iter().filter(fired).map(|fact| fact.root).collect();
    assert_eq!(roots.len(), 20, "each of the twenty orders led to something");
}

#[test]
fn hooks_that_answer_each_other_are_cut() {
    let mut b = Ruleset::builder(60);
    b.team("masons");
    let rules = b.build().unwrap();
    let mut hooks = Hooks::<()>::new();
    let mut fight = Encounter::new(&rules, 1);
    for i in 0..200 {
        let hook = hooks.react(&format!("gong {i}"), |_, _, orders| {
            orders.next_round();
        });
        fight.orders().subscribe(hook, Listen::to(topic::ENCOUNTER_ROUND));
    }
    fight.tick_with(&hooks, &mut ()).unwrap();
    fight.orders().next_round();
    let summary = fight.tick_with(&hooks, &mut ()).unwrap();
    assert!(summary.facts < 4096 + 202, "{} facts", summary.facts);
    let cut = cuts(&fight);
    assert_eq!(cut.len(), 200, "one for each hook");
    assert!(fight.facts().facts.iter().all(|fact| !matches!(fact.event, Event::OrderRefused(_))));
}

const UPON: [Trigger; 5] =
    [Trigger::Struck, Trigger::Joins, Trigger::Returns, Trigger::Spared, Trigger::Expiry];
const TOPICS: [&str; 8] = [
    "health.changed",
    "status.applied",
    "status.lifted",
    "status.expired",
    "combatant.returned",
    "rule.fired",
    "damage.dealt.crush",
    "counter.changed",
];
const TAGS: usize = 3;

/// A status of a generated graph.
#[derive(Clone, Debug)]
struct Node {
    kills: bool,
    pulses: bool,
    averts: bool,
    tag: usize,
    lifts: Option<usize>,
    grants: Vec<(usize, usize)>,
}

/// A rule of it: what it hears, what it does, to whom, and after how long.
#[derive(Clone, Debug)]
struct GraphRule(usize, usize, usize, bool, u32);

#[derive(Clone, Debug)]
struct Graph {
    nodes: Vec<Node>,
    born_with: Vec<(usize, usize)>,
    rules: Vec<GraphRule>,
    size: usize,
    orders: Vec<Vec<(usize, usize, usize)>>,
}

fn graphs() -> impl Strategy<Value = Graph> {
    let grant = || (0..UPON.len(), 0..5usize);
    let node = (
        any::<bool>(),
        any::<bool>(),
        any::<bool>(),
        0..TAGS,
        prop::option::of(0..TAGS),
        prop::collection::vec(grant(), 0..3),
    );
    let node = node.prop_map(|(kills, pulses, averts, tag, lifts, grants)| Node {
        kills,
        pulses,
        averts,
        tag,
        lifts,
        grants,
    });
    let rule = (0..TOPICS.len(), 0..6usize, 0..5usize, any::<bool>(), 0..3u32);
    let rule = rule.prop_map(|(on, does, status, all, after)| GraphRule(on, does, status, all, after));
    let order = (0..5usize, 0..8usize, 0..5usize);
    (
        prop::collection::vec(node, 1..5),
        prop::collection::vec(grant(), 0..4),
        prop::collection::vec(rule, 0..5),
        1..5usize,
        prop::collection::vec(prop::collection::vec(order, 0..4), 1..6),
    )
        .prop_map(|(nodes, born_with, rules, size, orders)| Graph {
            nodes,
            born_with,
            rules,
            size,
            orders,
        })
}

/// Plays a graph under these limits, and gives for each tick the facts, and what may have begun by itself.
fn play_graph(graph: &Graph, per_root: u32, per_tick: u32) -> Vec<(usize, usize)> {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let team = b.team("masons");
    let tide = b.reason("tide");
    let bell = b.counter("bell");
    let tags: Vec<TagId> = (0..TAGS).map(|i| b.tag(&format!("tag-{i}"))).collect();
    let count = graph.nodes.len();
    let ids: Vec<StatusId> = (0..count).map(|i| b.promise_status(&format!("status-{i}"))).collect();
    for (i, node) in graph.nodes.iter().enumerate() {
        let mut status = Status::new(&format!("status-{i}")).lasts(2 + i as u32).tag(tags[node.tag]);
        if node.kills {
            status = status.kills_on_expiry(crush);
        }
        if node.pulses {
            let damage = vec![Damage { damage_type: crush, low: 100, high: 100 }];
            status = status.pulse(Pulse::damage(2, damage).at_once());
        }
        if node.averts {
            status = status.prevents_death(PreventsDeath { leaves: 1, limit: 1_000_000, ends: false });
        }
        if let Some(lifts) = node.lifts {
            status = status.lifts(tags[lifts]);
        }
        for &(on, given) in &node.grants {
            // Statuses that give each other by expiring are no ruleset.
            let on = UPON[on];
            if on != Trigger::Expiry || given % count > i {
                status = status.grant(Grant::new(on, ids[given % count]));
            }
        }
        b.status(status);
    }
    let mut mason = Template::new("mason", team, 40);
    for &(on, given) in graph.born_with.iter().filter(|(on, _)| UPON[*on] != Trigger::Expiry) {
        mason = mason.grant(Grant::new(UPON[on], ids[given % count]));
    }
    let mason = b.template(mason);
    let spot = b.spot("sluice", Pose::IDENTITY);
    for (i, &GraphRule(on, does, status, all, after)) in graph.rules.iter().enumerate() {
        let group = Target::Each(Group::team(team));
        let whom = if all || matches!(TOPICS[on], "counter.changed") { group } else { Target::Subject };
        let status = ids[status % count];
        let action = match does {
            0 => Reaction::Damage(whom, Dealing::of(crush, Fixed::whole(30))),
            1 => Reaction::Apply(whom, status, Fixed::ONE, Credit::Other),
            2 => Reaction::Lift(whom, status),
            3 => Reaction::BringBack(group, spot),
            4 => Reaction::Count(bell, Count::Add(1)),
            _ => Reaction::Heal(whom, Healing::of(Fixed::whole(5))),
        };
        b.rule(Rule::on(&format!("rule-{i}"), TOPICS[on]).does_after(after, action));
    }
    b.cascade_limit(4, per_root, per_tick);
    let Ok(rules) = b.build() else { return Vec::new() };
    let mut fight = Encounter::new(&rules, 3);
    let all: Vec<CombatantId> =
        (0..graph.size).map(|_| fight.orders().spawn(mason, Pose::IDENTITY)).collect();
    let mut auditor = audit::Auditor::new(&rules);
    let mut told = Vec::new();
    for tick in 0..20 {
        let who = |w: usize| all[w % all.len()];
        let mut orders = fight.orders();
        let given = graph.orders.get(tick).map_or(&[][..], Vec::as_slice);
        for &(w, what, status) in given {
            let status = ids[status % count];
            match what {
                0 | 1 => drop(orders.apply(who(w), status, None)),
                2 => drop(orders.lift(who(w), status)),
                3 => drop(orders.lift_family(who(w), tags[w % TAGS])),
                4 => drop(orders.damage(who(w), crush, Fixed::whole(100), tide)),
                5 => drop(orders.bring_back(who(w), Pose::IDENTITY)),
                6 => drop(orders.count(bell, Count::Add(1))),
                _ => drop(orders.heal(who(w), 3, tide)),
            }
        }
        let lasting: usize = all.iter().map(|&who| fight.view().statuses_of(who).count()).sum();
        let delayed = per_tick as usize;
        let Ok(summary) = fight.tick() else { break };
        auditor.observe(&fight.facts());
        let waits = if graph.rules.iter().any(|rule| rule.4 > 0) { delayed } else { 0 };
        told.push((summary.facts, given.len() + lasting + graph.size + waits + 1));
    }
    assert!(auditor.breaches().is_empty(), "{:?}", auditor.breaches());
    told
}

/// The first tick with more facts than its budget explains: each thing that begins is a few facts, and may end all that someone bears.
fn over_budget(graph: &Graph, told: &[(usize, usize)], per_tick: u32) -> Option<usize> {
    let each = 10 + 2 * graph.nodes.len();
    told.iter().position(|&(facts, roots)| facts > (roots + per_tick as usize) * each)
}

proptest! {
    #![proptest_config(testkit::cases(400))]

    #[test]
    fn no_graph_of_statuses_and_rules_goes_beyond_its_budget(graph in graphs()) {
        let (per_root, per_tick) = (40, 100);
        let told = play_graph(&graph, per_root, per_tick);
        let over = over_budget(&graph, &told, per_tick);
        prop_assert!(over.is_none(), "tick {:?} of {:?}", over, told);
    }
}

/// The same check, held against a ruleset that allows a thousand times as much.
#[test]
fn a_tick_beyond_its_budget_would_be_noticed() {
    let node = |kills, tag, lifts| Node {
        kills,
        pulses: false,
        averts: false,
        tag,
        lifts: Some(lifts),
        grants: vec![],
    };
    let graph = Graph {
        nodes: vec![node(true, 0, 1), node(true, 1, 0)],
        born_with: vec![(2, 0), (2, 1)],
        rules: vec![],
        size: 1,
        orders: vec![vec![(0, 0, 0), (0, 0, 1)]],
    };
    let told = play_graph(&graph, 40, 100);
    assert_eq!(over_budget(&graph, &told, 100), None);
    let told = play_graph(&graph, 40_000, 100_000);
    assert!(over_budget(&graph, &told, 100).is_some());
}
