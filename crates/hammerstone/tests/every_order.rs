//! Every sort of order to every state of life: each forbidden pair gives exactly one refusal, and changes nothing else.

use hammerstone::event::OrderRefused;
use std::collections::BTreeSet;

use hammerstone::Fixed;
use hammerstone::amount::{Keep, Modifier, Shield};
use hammerstone::event::{Event, ValueSort};
use hammerstone::flow::{Count, Reaction, Rule, Tactic, Waves};
use hammerstone::gauge::{Gauge, GaugeChange};
use hammerstone::geometry::Frame;
use hammerstone::ids::HookId;
use hammerstone::orders::{Refusal, Touch};
use hammerstone::prelude::*;
use hammerstone::template::Lives;

/// Where someone may stand.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
enum At {
    Standing,
    /// Standing, with a status that kills on expiry.
    Down,
    Dead,
    /// Sent away.
    Away,
    /// Away until the next life.
    Between,
    Removed,
    NeverThere,
}

const ALL: [At; 7] = [At::Standing, At::Down, At::Dead, At::Away, At::Between, At::Removed, At::NeverThere];

struct Fight {
    encounter: Encounter,
    who: CombatantId,
    swing: SwingId,
    /// An id that was reserved and never used.
    spare: SwingId,
}

fn rules() -> Ruleset {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    b.reason("tide");
    b.outcome("dawn");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let family = b.tag("family");
    b.stat("might", Fixed::ZERO);
    b.shield(Shield::new("glass"));
    let wind = b.gauge(Gauge::new("wind", 10));
    b.value("bounty");
    b.flag("sluice");
    b.counter("falls");
    b.score("toll");
    b.combatant_flag("marked");
    b.combatant_counter("bells");
    let line = b.line("Ho!");
    b.host_topic("host.signal", &[("who", ValueSort::Who)]);
    let spot = b.spot("ramp", Pose::IDENTITY);
    b.status(Status::new("burn").tag(family));
    b.status(Status::new("down").lasts(600).stuns().kills_on_expiry(crush));
    b.attack(Attack::area("cloud").timeline(0, 500, 0).hitbox(Shape::Sphere { at: [50.0; 3], radius: 0.1 }));
    b.attack(
        Attack::melee("maul").timeline(2, 2, 2).hitbox(Shape::Sphere { at: [0.0, 0.0, 9.0], radius: 0.1 }),
    );
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.4 });
    let mason = b.template(Template::new("mason", masons, 40).part(trunk.clone()));
    b.template(Template::new("hound", beasts, 40).part(trunk.clone()).posed(3.0).gauge(wind));
    b.template(
        Template::new("sworn", beasts, 40).part(trunk).posed(3.0).gauge(wind).lives(Lives::new(3, 500)),
    );
    b.waves(Waves::new("masons", mason, 1, 1).at(spot));
    b.rule(Rule::on("talks", "host.signal").does(Reaction::say(None, line)));
    b.build().unwrap()
}

/// Someone in that state, with a swing of someone else running.
fn fight(rules: &Ruleset, at: At) -> Fight {
    let mut encounter = Encounter::new(rules, 3);
    let template = rules.find_template(if at == At::Between { "sworn" } else { "hound" }).unwrap();
    let who = encounter.orders().spawn(template, Pose::at([5.0, 0.0, 0.0]));
    let odo = encounter.orders().spawn(rules.find_template("mason").unwrap(), Pose::IDENTITY);
    let swing = encounter.orders().start(odo, rules.find_attack("cloud").unwrap());
    let masons = rules.find_team("masons").unwrap();
    let (crush, tide) = (rules.find_damage_type("crush").unwrap(), rules.find_reason("tide").unwrap());
    encounter.orders().change(who, rules.find_stat("might").unwrap(), Modifier::Add(Fixed::ONE), tide);
    encounter.tick().unwrap();
    match at {
        At::Standing => {}
        At::Down => {
            encounter.orders().apply(who, rules.find_status("down").unwrap(), None);
        }
        At::Dead | At::Between => {
            encounter.orders().damage(who, crush, Fixed::whole(99), tide);
        }
        At::Away => {
            encounter.orders().send_away(who);
        }
        At::Removed => {
            encounter.orders().remove(who);
        }
        At::NeverThere => {}
    }
    encounter.tick().unwrap();
    encounter.tick().unwrap();
    let who = if at == At::NeverThere {
        // An id out of another encounter, with more places.
        let mut other = Encounter::new(rules, 3);
        (0..9).map(|_| other.orders().spawn(template, Pose::IDENTITY)).last().unwrap()
    } else {
        who
    };
    let wanted = match at {
        At::Standing | At::Down => Life::Standing,
        At::Dead => Life::Dead,
        At::Away | At::Between => Life::Away,
        At::Removed | At::NeverThere => Life::Gone,
    };
    assert_eq!(encounter.view().life(who), wanted, "{at:?}");
    // The next id: an order that names it reserves it.
    let maul = rules.find_attack("maul").unwrap();
    let spare = encounter.clone().orders().spawn_attack(maul, masons, Pose::IDENTITY);
    Fight { encounter, who, swing, spare }
}

/// Where an order is refused.
fn forbidden(order: &Order, at: At) -> bool {
    let stands = matches!(at, At::Standing | At::Down);
    let there = !matches!(at, At::Removed | At::NeverThere);
    // Exhaustive, so that a new order must be thought about.
    match order {
        // Bodies of the dead are moved and posed as well.
        Order::Move { .. }
        | Order::Teleport { .. }
        | Order::PoseParts { .. }
        | Order::ShowPart { .. }
        | Order::Resize { .. } => !stands && at != At::Dead,
        Order::Damage { .. }
        | Order::Heal { .. }
        | Order::Apply { .. }
        | Order::SetMaximum { .. }
        | Order::RaiseShield { .. }
        | Order::ChangeGauge { .. }
        | Order::Request { .. }
        | Order::SendAway { .. }
        | Order::Transform { .. }
        | Order::Attach { .. }
        | Order::Follow { .. }
        | Order::Say { .. }
        | Order::Subscribe { .. } => !stands,
        // The down are stunned as well; no one bears what would be lifted.
        Order::Start { .. } => at != At::Standing,
        // Neither does anyone hold.
        Order::Lift { .. } | Order::LiftFamily { .. } | Order::LetGo { .. } => true,
        Order::Change { .. }
        | Order::Unchange { .. }
        | Order::Remove { .. }
        | Order::FlagCombatant { .. }
        | Order::CountCombatant { .. }
        | Order::ChangeTeam { .. }
        | Order::ScaleTime { .. }
        | Order::TellChoice { .. }
        | Order::Label { .. } => !there,
        Order::Return { .. } => stands || !there,
        // What the host saw touch one who is gone is an attempt that a gate refuses.
        Order::Report { .. } => at == At::NeverThere,
        Order::Spawn { .. }
        | Order::SpawnKeyed { .. }
        | Order::SpawnAttack { .. }
        | Order::Marker { .. }
        | Order::Rewind { .. }
        | Order::Release { .. }
        | Order::Guide { .. }
        | Order::GuideHitboxes { .. }
        | Order::AddObstacle { .. }
        | Order::MoveObstacle { .. }
        | Order::PlaceObstacle { .. }
        | Order::NameObstacle { .. }
        | Order::OpenObstacle { .. }
        | Order::StopBody { .. }
        | Order::RemoveObstacle { .. }
        | Order::Cancel { .. }
        | Order::Unsubscribe { .. }
        | Order::Pause { .. }
        | Order::Resume { .. }
        | Order::Publish { .. }
        | Order::SetFlag { .. }
        | Order::Count { .. }
        | Order::Score { .. }
        | Order::StartWaves { .. }
        | Order::StopWaves { .. }
        | Order::NextRound
        | Order::Fire { .. }
        | Order::End { .. }
        | Order::Reset => unreachable!("it names nobody"),
    }
}

/// Every order that names someone.
fn orders(rules: &Ruleset, fight: &mut Fight) -> Vec<Order> {
    let who = fight.who;
    let status = rules.find_status("burn").unwrap();
    let (stat, reason) = (rules.find_stat("might").unwrap(), rules.find_reason("tide").unwrap());
    let (damage_type, shield) =
        (rules.find_damage_type("crush").unwrap(), rules.find_shield("glass").unwrap());
    let tag = rules.find_tag("family").unwrap();
    let attack = rules.find_attack("maul").unwrap();
    let hook = Hooks::<()>::new().react("nobody", |_, _, _| {});
    let mut other = Encounter::new(rules, 1);
    let subscription = other.orders().subscribe(hook, Listen::all());
    let pose = Pose::at([5.0, 0.0, 0.0]);
    let poses = fight.encounter.orders().poses(&[Pose::at([0.0, 0.1, 0.0])]);
    let hammerstone::event::HostValue::Text(told) = fight.encounter.orders().text("told") else {
        unreachable!("it is one")
    };
    vec![
        Order::Move { subject: who, pose, ticks: 1 },
        Order::Teleport { subject: who, pose },
        Order::Start { swing: fight.spare, subject: who, attack, aim: None },
        Order::Report {
            swing: fight.swing,
            target: who,
            part: 0,
            touch: Touch::new([0.0; 3], [0.0, 1.0, 0.0]),
        },
        Order::Damage { target: who, damage_type, amount: Fixed::ONE, reason, source: None, absolute: false },
        Order::Heal { target: who, points: 1, reason, source: None },
        Order::Apply { subject: who, status, source: None, strength: Fixed::ONE },
        Order::LiftFamily { subject: who, tag },
        Order::Change { subject: who, stat, by: Modifier::Add(Fixed::whole(2)), reason },
        Order::Unchange { subject: who, stat, reason },
        Order::SetMaximum { subject: who, points: 50, keep: Keep::Points },
        Order::RaiseShield { subject: who, shield, points: 5 },
        Order::Lift { subject: who, status },
        Order::SendAway { subject: who },
        Order::Return { subject: who, pose, share: Fixed::ONE },
        Order::Remove { subject: who },
        Order::Subscribe { id: subscription, hook, listen: Listen::all().owned_by(who) },
        Order::Attach { subject: who, value: rules.find_value("bounty").unwrap(), amount: 7 },
        Order::Follow { subject: who, leader: None },
        Order::PoseParts { subject: who, frame: Frame::Body, poses },
        Order::Label { subject: who, label: 77 },
        Order::ShowPart { subject: who, part: 0, shown: false },
        Order::Resize { subject: who, size: Fixed::raw(15_000) },
        Order::ChangeTeam { subject: who, team: rules.find_team("masons").unwrap() },
        Order::ScaleTime { subject: who, sixteenths: 8 },
        Order::Transform { subject: who, template: rules.find_template("mason").unwrap() },
        Order::LetGo { subject: who },
        Order::Request { subject: who, tactic: Tactic::Flee, other: None },
        Order::TellChoice { subject: who, other: None, dropped: false, texts: [told; 3] },
        Order::ChangeGauge {
            subject: who,
            gauge: rules.find_gauge("wind").unwrap(),
            change: GaugeChange::Drain,
            points: 3,
            source: None,
        },
        Order::FlagCombatant { subject: who, flag: rules.find_combatant_flag("marked").unwrap(), up: true },
        Order::CountCombatant {
            subject: who,
            counter: rules.find_combatant_counter("bells").unwrap(),
            count: Count::Add(1),
        },
        Order::Say {
            spoken: hammerstone::flow::Spoken::plain(rules.find_line("Ho!").unwrap()),
            subject: Some(who),
        },
    ]
}

/// A hook that no tick of these tests is given.
fn no_hook() -> HookId {
    let mut hooks = Hooks::<()>::new();
    (0..99).map(|i| hooks.react(&format!("hook {i}"), |_, _, _| {})).last().unwrap()
}

#[test]
fn each_forbidden_pair_is_one_refusal_and_changes_nothing_else() {
    let rules = rules();
    let mut hooks = Hooks::<()>::new();
    hooks.react("nobody", |_, _, _| {});
    let mut refusals = BTreeSet::new();
    for at in ALL {
        let count = orders(&rules, &mut fight(&rules, at)).len();
        for place in 0..count {
            let mut ordered = fight(&rules, at);
            let order = orders(&rules, &mut ordered)[place];
            let foreseen = ordered.encounter.would_refuse(&order);
            ordered.encounter.orders().give(order);
            ordered.encounter.tick_with(&hooks, &mut ()).unwrap();
            let facts = ordered.encounter.facts();
            let refused: Vec<Refusal> = facts
                .events()
                .filter_map(|event| {
                    if let Event::OrderRefused(OrderRefused { why, .. }) = event { Some(*why) } else { None }
                })
                .collect();
            let name = order.name();
            if !forbidden(&order, at) {
                assert_eq!((refused, foreseen), (Vec::new(), None), "{name} to one who is {at:?}");
                continue;
            }
            assert_eq!(refused.len(), 1, "{name} to one who is {at:?}");
            assert_eq!(Some(refused[0]), foreseen, "{name} to one who is {at:?}");
            refusals.insert(format!("{:?}", refused[0]));
            // The same fight, with an order in its place that is refused wherever it is given, and changes nothing.
            let mut control = fight(&rules, at);
            // An id that was reserved for it lapses likewise.
            let team = rules.find_team("masons").unwrap();
            let nowhere = match order {
                Order::Start { swing, attack, .. } => {
                    Order::SpawnAttack { swing, attack, team, pose: Pose::IDENTITY, credit: None }
                }
                Order::Subscribe { id, listen, .. } => Order::Subscribe { id, hook: no_hook(), listen },
                _ => Order::Lift { subject: control.who, status: rules.find_status("burn").unwrap() },
            };
            control.encounter.orders().give(nowhere);
            control.encounter.tick_with(&hooks, &mut ()).unwrap();
            assert_eq!(
                ordered.encounter.checksum(),
                control.encounter.checksum(),
                "{name} to one who is {at:?}"
            );
        }
    }
    for why in ["Dead", "Away", "Gone", "Unknown", "Standing", "Stunned", "NoStatus"] {
        assert!(refusals.iter().any(|known| known.starts_with(why)), "{why} never came: {refusals:?}");
    }
}

/// The comparison would notice: an order that is carried out changes the checksum.
#[test]
fn what_is_carried_out_changes_the_checksum() {
    let rules = rules();
    let (mut one, mut other) = (fight(&rules, At::Standing), fight(&rules, At::Standing));
    let tide = rules.find_reason("tide").unwrap();
    one.encounter.orders().damage(one.who, rules.find_damage_type("crush").unwrap(), Fixed::ONE, tide);
    other.encounter.orders().lift(other.who, rules.find_status("burn").unwrap());
    one.encounter.tick().unwrap();
    other.encounter.tick().unwrap();
    assert_ne!(one.encounter.checksum(), other.encounter.checksum());
}

#[test]
fn ids_that_were_not_reserved_here_or_are_in_use_are_refused() {
    let rules = rules();
    for at in ALL {
        let Fight { mut encounter, who, swing, spare } = fight(&rules, at);
        let template = rules.find_template("mason").unwrap();
        let spawn = |id, owner| Order::Spawn { id, template, team: None, pose: Pose::IDENTITY, owner };
        assert_eq!(encounter.would_refuse(&spawn(who, None)), Some(Refusal::NotReserved), "{at:?}");
        let attack = rules.find_attack("cloud").unwrap();
        let team = rules.find_team("masons").unwrap();
        let spawn_attack =
            |swing| Order::SpawnAttack { swing, attack, team, pose: Pose::IDENTITY, credit: None };
        assert_eq!(encounter.would_refuse(&spawn_attack(swing)), Some(Refusal::NotReserved), "{at:?}");
        assert_eq!(encounter.would_refuse(&spawn_attack(spare)), None, "{at:?}");
        // An owner may be anyone who was ever there.
        let new = encounter.orders().spawn_as(template, Pose::IDENTITY, None, Some(who));
        encounter.tick().unwrap();
        let joined = encounter.view().life(new) == Life::Standing;
        assert_eq!(joined, at != At::NeverThere, "{at:?}");
        // The place of one who was refused is free again.
        let again = encounter.orders().spawn(template, Pose::IDENTITY);
        encounter.tick().unwrap();
        assert_eq!(encounter.view().life(again), Life::Standing);
        assert_eq!(again.slot() == new.slot(), at == At::NeverThere);
        assert_ne!(again, new, "an id that lapsed never means another");
    }
}

#[test]
fn a_leader_must_stand_and_nobody_follows_in_a_circle() {
    let rules = rules();
    for at in ALL {
        let mut fight = fight(&rules, at);
        let template = rules.find_template("mason").unwrap();
        let follower = fight.encounter.orders().spawn(template, Pose::IDENTITY);
        fight.encounter.tick().unwrap();
        let follow = Order::Follow { subject: follower, leader: Some(fight.who) };
        let stands = matches!(at, At::Standing | At::Down);
        assert_eq!(fight.encounter.would_refuse(&follow).is_none(), stands, "{at:?}");
        if stands {
            fight.encounter.orders().give(follow);
            fight.encounter.tick().unwrap();
            let back = Order::Follow { subject: fight.who, leader: Some(follower) };
            assert_eq!(fight.encounter.would_refuse(&back), Some(Refusal::FollowsItself));
        }
    }
}
