//! What always holds, over generated fights; and planted faults that the auditor must catch.

use std::collections::BTreeMap;

use hammerstone::amount::Shield;
use hammerstone::attack::{Damage, Grip};
use hammerstone::audit::{Auditor, Law};
use hammerstone::event::{
    AttackEnded, CombatantDied, ContactParted, DamageDealt, HitRefused, OrderRefused, StatusApplied,
    StatusLifted,
};
use hammerstone::event::{Event, Fact, Gate, LedgerLine, Range, Via, Why};
use hammerstone::gauge::Gauge;
use hammerstone::ids::{ReasonId, StatusId};
use hammerstone::orders::Refusal;
use hammerstone::prelude::*;
use hammerstone::status::{PreventsDeath, Pulse};
use hammerstone::template::Broken;
use hammerstone::{Counts, Fixed};
use proptest::prelude::*;
use serde_json::{Value, json};
use testkit::{fights, play};

proptest! {
    #![proptest_config(testkit::cases(300))]

    #[test]
    fn every_law_holds_over_generated_fights(fight in fights()) {
        let mut auditor = None;
        let mut events = Vec::new();
        play(&fight, true, |encounter| {
            let auditor = auditor.get_or_insert_with(|| Auditor::new(encounter.rules()));
            let sound = auditor.breaches().is_empty();
            auditor.observe(&encounter.facts());
            auditor.compare(&encounter.view());
            if sound && !auditor.breaches().is_empty() {
                events = encounter.facts().events().copied().collect();
            }
        });
        let auditor = auditor.unwrap();
        let breach = auditor.breaches().first();
        prop_assert!(breach.is_none(), "{breach:?} in a tick of {events:#?}");
    }
}

proptest! {
    #![proptest_config(testkit::cases(200))]

    /// Whoever has a killer has died to someone's credit; and whoever dies of a status that others gave each time it was given. In a pool one dies
    /// of what another bears, so that it is each time to anyone.
    #[test]
    fn every_death_by_someone_is_credited(fight in fights()) {
        let mut given: BTreeMap<StatusId, bool> = BTreeMap::new();
        let mut uncredited = Vec::new();
        play(&fight, false, |encounter| {
            for event in encounter.facts().events() {
                match *event {
                    Event::StatusApplied(StatusApplied { subject, status, source, .. }) => {
                        *given.entry(status).or_insert(true) &= source.is_some_and(|source| source != subject);
                    }
                    Event::CombatantDied(died) => {
                        let of_someone = match died.via {
                            Via::Status(status) => given.get(&status) == Some(&true),
                            _ => false,
                        };
                        if (died.killer.is_some() || of_someone) && died.credit.is_none() {
                            uncredited.push(died);
                        }
                    }
                    _ => {}
                }
            }
        });
        prop_assert!(uncredited.is_empty(), "{uncredited:?}");
    }
}

/// One tick's facts, copied so that a test can spoil them.
#[derive(Clone)]
struct Tick {
    tick: u32,
    facts: Vec<Fact>,
    ledger: Vec<LedgerLine>,
    assists: Vec<CombatantId>,
    counts: Counts,
}

/// A fight with everything in it: two hits, a death, a return, a status that pulses and expires, a refusal.
fn ticks() -> (Ruleset, Vec<Tick>) {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let tide = b.reason("tide");
    let dawn = b.outcome("dawn");
    let damage = vec![Damage { damage_type: crush, low: 1, high: 1 }];
    let burn = b.status(Status::new("burn").lasts(5).pulse(Pulse::damage(2, damage)));
    let glass = b.shield(Shield::new("glass"));
    let oath = PreventsDeath { leaves: 3, limit: 1, ends: false };
    let oath = b.status(Status::new("oath").across_lives().prevents_death(oath));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.5 })
        .multiplier(Fixed::ratio(3, 2))
        .points(5, Broken::default());
    let mason = b.template(Template::new("mason", masons, 40).part(trunk.clone()));
    let wind = b.gauge(Gauge::new("wind", 9));
    let hound = b.template(Template::new("hound", beasts, 60).part(trunk).shield(glass, 2).gauge(wind));
    let reach = Shape::Sphere { at: [0.0, 0.0, 1.0], radius: 0.4 };
    let maul = Attack::melee("maul").timeline(1, 4, 2).damage(crush, 8, 8).inflicts(burn).hitbox(reach);
    // It holds its target where that stands.
    let grip = Grip::at(Pose::at([0.0, 0.0, 1.0])).lasts(3);
    let maul = b.attack(maul.drains(wind, 2).holds(grip));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    fight.keep_ledgers(true);
    let mut orders = fight.orders();
    let odo = orders.spawn(mason, Pose::IDENTITY);
    let beast = orders.spawn(hound, Pose::at([0.0, 0.0, 1.0]));
    orders.start(odo, maul);
    orders.apply(beast, oath, None);
    let mut ticks = Vec::new();
    for tick in 1..=40 {
        match tick {
            9 => {
                fight.orders().start(odo, maul);
            }
            13 => {
                fight.orders().heal(beast, 2, tide);
            }
            // Spared once, and not again.
            14 => {
                fight.orders().damage(beast, crush, Fixed::whole(90), tide);
                fight.orders().damage(beast, crush, Fixed::whole(90), tide);
            }
            25 => {
                fight.orders().bring_back(beast, Pose::at([0.0, 0.0, 1.0]));
            }
            26 => {
                fight.orders().start(odo, maul);
            }
            40 => {
                fight.orders().end(dawn);
            }
            _ => {}
        }
        fight.tick().unwrap();
        let facts = fight.facts();
        ticks.push(Tick {
            tick: facts.tick,
            facts: facts.facts.to_vec(),
            ledger: facts.ledger.to_vec(),
            assists: facts.assists.to_vec(),
            counts: facts.counts,
        });
    }
    (rules, ticks)
}

fn breaches(rules: &Ruleset, ticks: &[Tick]) -> Vec<Law> {
    let mut auditor = Auditor::new(rules);
    for Tick { tick, facts, ledger, assists, counts } in ticks {
        let facts = Facts { tick: *tick, facts, ledger, assists, counts: *counts, ..Facts::default() };
        auditor.observe(&facts);
    }
    auditor.breaches().iter().map(|breach| breach.law).collect()
}

/// An event as it is read: outside of the library that is the only way to make one out of nothing.
fn written(name: &str, fields: Value) -> Event {
    testkit::json::read_event(json!({ name: fields })).expect("a written event is read")
}

/// Spoils the first fact for which `spoil` gives something else in its place, and tells what the auditor says.
fn spoilt(spoil: impl Fn(&Event) -> Option<Vec<Event>>) -> Vec<Law> {
    let (rules, mut ticks) = ticks();
    let place = ticks.iter().enumerate().find_map(|(t, tick)| {
        tick.facts.iter().enumerate().find_map(|(f, fact)| Some((t, f, spoil(&fact.event)?)))
    });
    let (t, f, events) = place.expect("the fight has such a fact");
    let fact = ticks[t].facts.remove(f);
    for (i, event) in events.into_iter().enumerate() {
        ticks[t].facts.insert(f + i, Fact { event, ..fact });
    }
    // Counted anew, so that the count gives nothing away.
    let mut seq = 0..;
    ticks.iter_mut().flat_map(|tick| &mut tick.facts).for_each(|fact| fact.seq = seq.next().unwrap());
    breaches(&rules, &ticks)
}

#[test]
fn the_unspoilt_fight_breaks_no_law() {
    let (rules, ticks) = ticks();
    assert_eq!(breaches(&rules, &ticks), []);
    assert_eq!(spoilt(|event| Some(vec![*event])), [], "counting anew breaks nothing");
}

#[test]
fn a_second_hit_on_one_target_is_caught() {
    let laws = spoilt(|event| matches!(event, Event::HitLanded(_)).then(|| vec![*event, *event]));
    assert!(laws.contains(&Law::StruckOnce), "{laws:?}");
}

#[test]
fn whatever_happens_to_the_fallen_is_caught() {
    let after_the_fall = |then: fn(CombatantId) -> Event| {
        spoilt(move |event| match *event {
            Event::CombatantDied(CombatantDied { subject, .. }) => Some(vec![*event, then(subject)]),
            _ => None,
        })
    };
    let heal = after_the_fall(|target| {
        let via = Via::Host(some_reason());
        let ledger = Range::default();
        written(
            "HealApplied",
            json!({
                "source": null, "target": target, "via": via, "amount": 0, "excess": 0, "ledger": ledger,
            }),
        )
    });
    assert!(heal.contains(&Law::DeadReactToNothing), "{heal:?}");
    let twice = spoilt(|event| matches!(event, Event::CombatantDied(_)).then(|| vec![*event, *event]));
    assert!(twice.contains(&Law::DeadReactToNothing), "{twice:?}");
    let never_ends = spoilt(|event| {
        matches!(event, Event::StatusLifted(StatusLifted { why: Why::Died, .. })).then(Vec::new)
    });
    assert!(never_ends.contains(&Law::DeadReactToNothing), "{never_ends:?}");
}

fn some_reason() -> ReasonId {
    ticks().0.find_reason("tide").unwrap()
}

#[test]
fn an_uncounted_hit_and_a_repeated_refusal_are_caught() {
    let lost = spoilt(|event| matches!(event, Event::HitLanded(_)).then(Vec::new));
    assert!(lost.contains(&Law::AttemptsAddUp), "{lost:?}");
    let repeated = spoilt(|event| matches!(event, Event::HitRefused(_)).then(|| vec![*event, *event]));
    assert!(repeated.contains(&Law::AttemptsAddUp), "{repeated:?}");
}

#[test]
fn health_that_does_not_add_up_is_caught() {
    let more = spoilt(|event| match *event {
        mut more @ Event::DamageDealt(_) => {
            if let Event::DamageDealt(DamageDealt { amount, .. }) = &mut more {
                *amount += 1;
            }
            Some(vec![more])
        }
        _ => None,
    });
    assert!(more.contains(&Law::HealthAddsUp), "{more:?}");
    let unheard = spoilt(|event| matches!(event, Event::HealthChanged(_)).then(Vec::new));
    assert!(unheard.contains(&Law::HealthAddsUp), "{unheard:?}");
    let (rules, mut ticks) = ticks();
    let line = ticks.iter_mut().find_map(|tick| tick.ledger.get_mut(1)).unwrap();
    line.before += Fixed::ONE;
    assert!(breaches(&rules, &ticks).contains(&Law::HealthAddsUp));
}

#[test]
fn what_begins_without_an_end_or_ends_twice_is_caught() {
    type Is = fn(&Event) -> bool;
    let cases: [(Is, Law); 4] = [
        (|event| matches!(event, Event::ContactParted(_)), Law::MetAndParted),
        (|event| matches!(event, Event::HoldEnded(_)), Law::BegunAndEnded),
        (|event| matches!(event, Event::AttackEnded(_)), Law::BegunAndEnded),
        (|event| matches!(event, Event::StatusExpired(_)), Law::BegunAndEnded),
    ];
    for (is, law) in cases {
        let missing = spoilt(|event| is(event).then(Vec::new));
        assert!(missing.contains(&law), "{law:?}: {missing:?}");
        let twice = spoilt(|event| is(event).then(|| vec![*event, *event]));
        assert!(twice.contains(&law), "{law:?}: {twice:?}");
    }
}

#[test]
fn shields_parts_reprieves_and_waiting_statuses_that_do_not_add_up_are_caught() {
    type Is = fn(&Event) -> bool;
    let cases: [(Is, Law); 5] = [
        (|event| matches!(event, Event::ShieldAbsorbed(_)), Law::HealthAddsUp),
        (|event| matches!(event, Event::PartBroken(_)), Law::BegunAndEnded),
        (|event| matches!(event, Event::CombatantSpared(_)), Law::HealthAddsUp),
        (|event| matches!(event, Event::StatusSuspended(_)), Law::BegunAndEnded),
        (|event| matches!(event, Event::StatusResumed(_)), Law::BegunAndEnded),
    ];
    for (is, law) in cases {
        let twice = spoilt(|event| is(event).then(|| vec![*event, *event]));
        assert!(twice.contains(&law), "{law:?}: {twice:?}");
    }
    let left = spoilt(|event| matches!(event, Event::ShieldAbsorbed(_)).then(Vec::new));
    assert!(left.contains(&Law::DeadReactToNothing), "{left:?}");
}

#[test]
fn two_holders_and_a_gauge_that_does_not_add_up_are_caught() {
    let again = spoilt(|event| match *event {
        Event::HoldBegan(mut began) => {
            began.hold += 100;
            Some(vec![*event, began.into()])
        }
        _ => None,
    });
    assert!(again.contains(&Law::BegunAndEnded), "{again:?}");
    // What it holds at first is in no fact, so that the second change shows it.
    let (rules, mut ticks) = ticks();
    let mut changes =
        ticks.iter_mut().flat_map(|tick| &mut tick.facts).filter_map(|fact| match &mut fact.event {
            Event::GaugeChanged(changed) => Some(changed),
            _ => None,
        });
    changes.nth(1).expect("it is drained twice").from += 1;
    assert!(breaches(&rules, &ticks).contains(&Law::HealthAddsUp));
}

#[test]
fn a_gap_in_the_count_and_a_wrong_crowd_are_caught() {
    let (rules, mut ticks) = ticks();
    ticks[1].facts[0].seq += 1;
    assert!(breaches(&rules, &ticks).contains(&Law::InOrder));
    let again = spoilt(|event| matches!(event, Event::CombatantReturned(_)).then(|| vec![*event, *event]));
    assert!(again.contains(&Law::WhoStands), "{again:?}");
}

#[test]
fn a_reset_that_leaves_something_and_a_follower_who_has_fallen_are_caught() {
    let first_hit = |event: &Event| matches!(event, Event::HitLanded(_));
    let reset = spoilt(|event| first_hit(event).then(|| vec![*event, written("EncounterReset", json!({}))]));
    assert!(reset.contains(&Law::WhoStands) && reset.contains(&Law::BegunAndEnded), "{reset:?}");
    let told = spoilt(|event| match *event {
        Event::CombatantDied(CombatantDied { subject, .. }) => {
            let lost = json!({ "subject": subject, "leader": subject, "why": Why::Died });
            Some(vec![*event, written("LeaderLost", lost)])
        }
        _ => None,
    });
    assert!(told.contains(&Law::DeadReactToNothing), "{told:?}");
    // Anew without a reset; and lifted up while dead.
    let (rules, ticks) = ticks();
    let mut auditor = Auditor::new(&rules);
    auditor.observe(&Facts { tick: 1, facts: &ticks[0].facts, counts: ticks[0].counts, ..Facts::default() });
    auditor.observe(&Facts { epoch: 1, tick: 1, ..Facts::default() });
    assert!(auditor.breaches().iter().any(|breach| breach.law == Law::InOrder), "{:?}", auditor.breaches());
    let lifted = spoilt(|event| match *event {
        Event::CombatantReturned(mut returned) => {
            returned.why = Why::LiftedUp;
            Some(vec![*event, *event, returned.into()])
        }
        _ => None,
    });
    assert_eq!(lifted.iter().filter(|law| **law == Law::WhoStands).count(), 1, "{lifted:?}");
}

/// The laws mean little over fights in which little happens.
#[test]
fn generated_fights_reach_every_topic_gate_and_refusal() {
    use proptest::strategy::ValueTree;
    let mut runner = proptest::test_runner::TestRunner::deterministic();
    let mut seen = std::collections::BTreeSet::new();
    for _ in 0..600 {
        let fight = fights().new_tree(&mut runner).unwrap().current();
        play(&fight, false, |encounter| {
            let topics = encounter.rules().topics();
            for event in encounter.facts().events() {
                seen.insert(topics.path(event.topic()).unwrap_or_default().to_owned());
                match event {
                    Event::HitRefused(HitRefused { gate, .. }) => {
                        seen.insert(format!("gate {}", gate.name()))
                    }
                    Event::OrderRefused(OrderRefused { why, .. }) => {
                        seen.insert(format!("why {}", variant(why)))
                    }
                    Event::AttackEnded(AttackEnded { why, .. }) => {
                        seen.insert(format!("ended {}", why.name()))
                    }
                    Event::ContactParted(ContactParted { why, .. }) => {
                        seen.insert(format!("parted {}", why.name()))
                    }
                    _ => false,
                };
            }
        });
    }
    let mut wanted: Vec<String> = Vec::new();
    let rules = ticks().0;
    // A ruleset is tuned in `adopting.rs`, and stand-ins tell in `stand_ins.rs`.
    let elsewhere = ["encounter.adopted", "tactics.chose", "tactics.dropped"];
    let here = |path: &&String| !elsewhere.contains(&path.as_str());
    wanted.extend(rules.topics().paths().iter().filter(here).cloned());
    wanted.extend(["damage.dealt.heat".to_owned()]);
    wanted.extend(Gate::ALL.iter().map(|gate| format!("gate {}", gate.name())));
    let whys = "Gone Dead Away Standing Busy NotFinite TooFar NoTicks Negative NoSuchPart NoSwing NoStatus";
    wanted.extend(whys.split(' ').map(|why| format!("why {why}")));
    wanted.extend(["done", "cancelled", "died"].map(|why| format!("ended {why}")));
    wanted.extend(["apart", "died", "away", "removed", "ended", "done"].map(|why| format!("parted {why}")));
    let missing: Vec<_> = wanted.iter().filter(|name| !seen.contains(*name)).collect();
    assert!(missing.is_empty(), "never seen: {missing:?}");
}

fn variant(why: &Refusal) -> String {
    format!("{why:?}").split([' ', '(']).next().unwrap_or_default().to_owned()
}
