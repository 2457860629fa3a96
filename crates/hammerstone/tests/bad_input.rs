//! Bad input gives a typed error or a refusal that says what and where, and changes nothing.

use hammerstone::event::{EncounterCut, HealthChanged, OrderRefused};
use std::panic::{AssertUnwindSafe, catch_unwind};

use hammerstone::Fixed;
use hammerstone::amount::{AmountChange, Direction, HealStep, Modifier, Role, Step};
use hammerstone::attack::{Critical, FallOff, Knockback, Scaling};
use hammerstone::event::{CutAt, CutBy, Event, HostValue, Listener, ValueSort};
use hammerstone::findings::Finding;
use hammerstone::flow::{Condition, Growth, Limit, Reaction, Rule, RuleValue, Target, Waves};
use hammerstone::ids::ReasonId;
use hammerstone::orders::{Refusal, Unsubscribe};
use hammerstone::prelude::*;
use hammerstone::status::{Grant, Guard, PreventsDeath, Pulse, Stacking, Trigger};
use hammerstone::template::{Broken, IfItKills, Lives, Stagger};

fn small() -> (Ruleset, TemplateId, AttackId, DamageTypeId, ReasonId) {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let masons = b.team("masons");
    let tide = b.reason("tide");
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.5 });
    let mason = b.template(Template::new("mason", masons, 40).part(trunk));
    let reach = Shape::Sphere { at: [0.0, 0.0, 1.0], radius: 0.4 };
    let maul = b.attack(Attack::melee("maul").timeline(1, 4, 2).damage(crush, 8, 8).hitbox(reach));
    (b.build().unwrap(), mason, maul, crush, tide)
}

#[test]
fn a_ruleset_gives_all_findings_at_once_each_with_its_place() {
    let mut b = Ruleset::builder(0);
    let team = b.team("masons");
    let (foreign_damage_type, foreign_status) = {
        let mut other = Ruleset::builder(60);
        other.damage_type("a");
        (other.damage_type("crush"), other.status(Status::new("burn")))
    };
    b.attack(Attack::melee("maul").damage(foreign_damage_type, 5, 3).inflicts(foreign_status));
    b.attack(
        Attack::melee("maul")
            .timeline(1, 0, 0)
            .hitbox(Shape::Sphere { at: [f32::NAN, 0.0, 0.0], radius: 1.0 })
            .hitbox(Shape::Capsule { from: [0.0; 3], to: [0.0; 3], radius: 0.0 })
            .key(4, Pose::IDENTITY)
            .key(4, Pose { at: [0.0; 3], turn: [0.0; 4] }),
    );
    b.template(
        Template::new("", team, 0).part(Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: -1.0 })),
    );
    b.status(Status::new("burn").lasts(0).pulse(Pulse::damage(0, Vec::new())));
    b.steps(&[Step::Part, Step::Base, Step::Base]).limits(9, 3).move_limit(f32::NAN);
    let findings = b.build().unwrap_err();
    let text = findings.to_string();
    for expected in [
        "rules, rate: 0 is outside 1 to 100000",
        "rules, move limit: NaN is not a finite number",
        "amount, floor: the least, 9, is above the most, 3",
        "amount, steps: the step `base` stands twice",
        "amount, steps: the step `base` must come first",
        "amount, steps: the step `rounding` must come last",
        "attack `maul`: the name is taken",
        "attack `maul`, hitboxes: there is no hitbox",
        "attack `maul`, timeline: there is no window",
        "attack `maul`, damage: damage type number 1 is not in this ruleset",
        "attack `maul`, damage: the least, 5, is above the most, 3",
        "attack `maul`, hitboxes: NaN is not a finite number",
        "attack `maul`, hitboxes: the radius or half edge 0 is not above zero",
        "attack `maul`, hitboxes: the capsule has no length",
        "attack `maul`, timeline: 0 is outside 1 to",
        "attack `maul`, path: the key at tick 4 does not come after the one at tick 4",
        "attack `maul`, path: the turn has no length",
        "template: the name is empty",
        "template, health: 0 is outside 1 to",
        "template, part `trunk`: the radius or half edge -1 is not above zero",
        "status `burn`, lasts: 0 is outside 1 to",
        "status `burn`, pulse: 0 is outside 1 to",
    ] {
        assert!(text.contains(expected), "missing {expected:?} in\n{text}");
    }
}

#[test]
fn numbers_that_cannot_be_are_found_with_their_place() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let team = b.team("masons");
    let might = b.stat("might", Fixed::ZERO);
    b.stat("might", Fixed::whole(2_000_000_000));
    let foreign = {
        let mut other = Ruleset::builder(60);
        (0..9).map(|i| other.stat(&i.to_string(), Fixed::ZERO)).last().unwrap()
    };
    b.critical(Critical::new(Fixed::ratio(3, 2), Fixed::whole(-1)));
    b.steps(&[Step::Base, Step::Shields, Step::Rounding, Step::Limits]).heal_steps(&[HealStep::Rounding]);
    let circle = b.promise_status("smoulder");
    let grant = Grant::new(Trigger::Expiry, circle);
    let ash = b.status(Status::new("ash").lasts(5).grant(grant.clone()));
    b.status(Status::new("smoulder").lasts(5).grant(Grant::new(Trigger::Expiry, ash)));
    b.status(
        Status::new("for ever")
            .grant(grant.clone())
            .stacking(Stacking::Stack(1))
            .changes(foreign, Modifier::Multiply(Fixed::raw(-1))),
    );
    b.status(Status::new("odd").guard(Guard::new(Fixed::whole(2), f32::NAN)).prevents_death(PreventsDeath {
        leaves: 0,
        limit: 0,
        ends: false,
    }));
    b.promise_status("never there");
    let draw =
        Scaling { of: Role::Target, stat: foreign, adds: Fixed::ONE, shares: Fixed::ZERO, damage_type: None };
    b.attack(
        Attack::touch("rub")
            .timeline(0, 1, 0)
            .heals(4, 2)
            .scaling(draw)
            .fall_off(FallOff { near: Fixed::whole(3), far: Fixed::whole(3), least: Fixed::whole(2) })
            .knockback(Knockback::new(f32::INFINITY, 0))
            .self_status(4, 4, circle),
    );
    let shape = Shape::Sphere { at: [0.0; 3], radius: 0.5 };
    b.template(
        Template::new("mason", team, 40)
            .stat(might, Fixed::ONE)
            .stat(might, Fixed::ONE)
            .grant(grant)
            .stagger(Stagger { at: Fixed::ZERO, recovers: Fixed::ZERO, status: None })
            .changes_amounts(
                AmountChange::new(Direction::TakesDamage, Modifier::Multiply(Fixed::whole(-1)))
                    .damage_type(crush),
            )
            .part(Part::new("trunk", shape).points(0, Broken::default())),
    );
    let text = b.build().unwrap_err().to_string();
    for expected in [
        "stat `might`: the name is taken",
        "stat `might`: 2000000000.0000 is outside",
        "amount, critical: 1.5000 is outside 0.0000 to 1.0000",
        "amount, critical: -1.0000 is outside 0.0000 to",
        "amount, steps: the step `shields` must come last",
        "amount, steps: the step `rounding` must come last, but for shields",
        "amount, heal steps: the step `base` must come first",
        "status `ash`, grants: its grants on expiry lead back to itself",
        "status `smoulder`, grants: its grants on expiry lead back to itself",
        "status `for ever`, grants: it never expires",
        "status `for ever`, stacking: 1 is outside 2 to",
        "status `for ever`, changes: stat number 8 is not in this ruleset",
        "status `for ever`, changes: -0.0001 is outside 0.0000 to",
        "status `odd`, guard: 2.0000 is outside 0.0000 to 1.0000",
        "status `odd`, guard: NaN is not a finite number",
        "status `odd`, prevents-death: 0 is outside 1 to",
        "status `never there`: its id was asked for, and it was never added",
        "attack `rub`, heals: the least, 4, is above the most, 2",
        "attack `rub`, scaling: stat number 8 is not in this ruleset",
        "attack `rub`, fall-off: 2.0000 is outside 0.0000 to 1.0000",
        "attack `rub`, fall-off: 3.0000 is outside 3.0100 to",
        "attack `rub`, push: inf is not a finite number",
        "attack `rub`, push: 0 is outside 1 to",
        "attack `rub`, self-status: 4 is outside 5 to",
        "template `mason`, stats: `stat number 0` stands twice",
        "template `mason`, grants: it never expires",
        "template `mason`, stagger: 0.0000 is outside 0.0001 to",
        "template `mason`, amounts: -1.0000 is outside 0.0000 to",
        "template `mason`, part `trunk`: 0 is outside 1 to",
    ] {
        assert!(text.contains(expected), "missing {expected:?} in\n{text}");
    }
}

/// Gives one order to a fight with one mason standing, one dead and one removed, and tells why it was refused.
/// The refusal is told before as well, and the state is what it would have been without the order.
fn refusal(make: impl Fn(&mut Orders<'_>, [CombatantId; 3])) -> String {
    let (rules, mason, _, crush, tide) = small();
    let run = |ordered: bool| {
        let mut fight = Encounter::new(&rules, 1);
        let all = [0.0, 5.0, 10.0].map(|x| fight.orders().spawn(mason, Pose::at([x, 0.0, 0.0])));
        fight.orders().damage(all[1], crush, Fixed::whole(99), tide);
        fight.orders().remove(all[2]);
        fight.tick().unwrap();
        if ordered {
            make(&mut fight.orders(), all);
        }
        fight.tick().unwrap();
        fight
    };
    let (plain, fight) = (run(false), run(true));
    let refused = fight.facts().events().find_map(|event| match event {
        Event::OrderRefused(OrderRefused { kind, why, .. }) => Some(format!("{}: {why}", kind.name())),
        _ => None,
    });
    assert_eq!(plain.view().health(plain.view().combatants().next().unwrap()), Some((40, 40)));
    assert_eq!(
        format!("{:?}", fight.view().combatants().map(|c| (c, fight.view().health(c))).collect::<Vec<_>>()),
        format!("{:?}", plain.view().combatants().map(|c| (c, plain.view().health(c))).collect::<Vec<_>>()),
    );
    assert_eq!(plain.view().swings().count(), fight.view().swings().count());
    refused.expect("the order is refused")
}

#[test]
fn orders_that_cannot_be_carried_out_are_refused_and_say_why() {
    let (_, mason, maul, crush, tide) = small();
    let nowhere = Pose::at([f32::INFINITY, 0.0, 0.0]);
    let turnless = Pose { at: [0.0; 3], turn: [0.0; 4] };
    type Make = Box<dyn Fn(&mut Orders<'_>, [CombatantId; 3])>;
    let cases: Vec<(Make, &str)> = vec![
        (
            Box::new(move |o, all| {
                o.start(all[1], maul);
            }),
            "start: the combatant is dead",
        ),
        (
            Box::new(move |o, all| {
                o.start(all[2], maul);
            }),
            "start: the combatant is gone",
        ),
        (
            Box::new(move |o, _| {
                o.spawn(mason, nowhere);
            }),
            "spawn: a number is not finite",
        ),
        (
            Box::new(move |o, _| {
                o.spawn(mason, turnless);
            }),
            "spawn: a number is not finite",
        ),
        (
            Box::new(move |o, all| {
                o.teleport(all[0], nowhere);
            }),
            "teleport: a number is not finite",
        ),
        (
            Box::new(move |o, all| {
                o.heal(all[1], 5, tide);
            }),
            "heal: the combatant is dead",
        ),
        (
            Box::new(move |o, all| {
                o.damage(all[0], crush, Fixed::whole(-1), tide);
            }),
            "damage: the amount is below zero",
        ),
        (
            Box::new(move |o, all| {
                o.bring_back(all[0], Pose::IDENTITY);
            }),
            "return: the combatant stands already",
        ),
        (
            Box::new(move |o, all| {
                o.move_over(all[0], Pose::IDENTITY, 0);
            }),
            "move: a move takes at least one tick",
        ),
        (
            Box::new(move |o, all| {
                o.move_to(all[0], Pose::at([101.0, 0.0, 0.0]));
            }),
            "move: the move covers 101 m in a tick, and 100 m is the limit; teleport it instead",
        ),
    ];
    for (make, expected) in cases {
        let why = refusal(|orders, all| make(orders, all));
        assert!(why.starts_with(expected), "{why}, and not {expected}");
    }
}

#[test]
fn one_who_was_never_there_is_unknown_and_a_reserved_place_is_free_again() {
    let (rules, mason, maul, ..) = small();
    let mut elsewhere = Encounter::new(&rules, 1);
    let strangers: Vec<_> = (0..5).map(|_| elsewhere.orders().spawn(mason, Pose::IDENTITY)).collect();
    let mut fight = Encounter::new(&rules, 1);
    let start = Order::Start {
        swing: fight.orders().start(strangers[4], maul),
        subject: strangers[4],
        attack: maul,
        aim: None,
    };
    assert_eq!(fight.would_refuse(&start), Some(Refusal::Unknown));
    let refused = fight.orders().spawn(mason, Pose::at([f32::NAN; 3]));
    fight.tick().unwrap();
    let next = fight.orders().spawn(mason, Pose::IDENTITY);
    assert_eq!((next.slot(), next.generation()), (refused.slot(), refused.generation() + 1));
    fight.tick().unwrap();
    assert_eq!((fight.view().life(refused), fight.view().life(next)), (Life::Gone, Life::Standing));
}

#[test]
fn a_panic_in_a_hook_marks_the_encounter_until_it_is_restored() {
    let (rules, mason, ..) = small();
    let mut hooks = Hooks::<bool>::new();
    let fussy = hooks.react("fussy", |panics, _, _| assert!(!*panics, "the hook gives up"));
    let mut fight = Encounter::new(&rules, 1);
    fight.orders().subscribe(fussy, Listen::to(topic::COMBATANT_JOINED));
    fight.tick_with(&hooks, &mut false).unwrap();
    let saved = fight.save().unwrap();
    let sum = fight.checksum();
    fight.orders().spawn(mason, Pose::IDENTITY);
    let panic = catch_unwind(AssertUnwindSafe(|| fight.tick_with(&hooks, &mut true)));
    assert!(panic.is_err());
    let interrupted = TickError::Interrupted { tick: 2 };
    assert_eq!(fight.tick_with(&hooks, &mut false), Err(interrupted));
    assert_eq!(fight.save().unwrap_err(), interrupted);
    fight.restore(&saved).unwrap();
    assert_eq!(fight.checksum(), sum);
    fight.tick_with(&hooks, &mut false).unwrap();
}

#[test]
fn a_tick_without_the_hooks_that_subscribed_does_not_run() {
    let (rules, mason, ..) = small();
    let mut hooks = Hooks::<()>::new();
    let hook = hooks.react("any", |_, _, _| ());
    let mut fight = Encounter::new(&rules, 1);
    fight.orders().spawn(mason, Pose::IDENTITY);
    fight.orders().subscribe(hook, Listen::all());
    let sum = fight.checksum();
    assert_eq!(fight.tick(), Err(TickError::UnknownHook { hook: 0 }));
    assert_eq!(fight.checksum(), sum, "nothing is half applied");
    assert_eq!(fight.tick_with(&hooks, &mut ()).unwrap().tick, 1);
}

/// A hook that answers damage with damage would go on for ever.
#[test]
fn a_cascade_is_cut_and_the_chain_says_who_led_to_whom() {
    let (rules, mason, _, crush, tide) = small();
    let mut hooks = Hooks::<u32>::new();
    let echo = hooks.react("echo", move |calls, heard, orders| {
        *calls += 1;
        if let Event::HealthChanged(HealthChanged { subject, .. }) = *heard.event {
            orders.damage(subject, crush, Fixed::ONE, tide);
        }
    });
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    fight.orders().subscribe(echo, Listen::all());
    fight.orders().damage(odo, crush, Fixed::ONE, tide);
    fight.tick_with(&hooks, &mut 0).unwrap();
    let facts = fight.facts();
    let chain = facts.events().find_map(|event| match *event {
        Event::EncounterCut(EncounterCut { depth, chain, .. }) => Some((depth, facts.chain_of(chain))),
        _ => None,
    });
    let (depth, chain) = chain.expect("the cascade is cut");
    assert_eq!((depth, chain.len()), (9, 9));
    assert!(chain.iter().all(|link| link.topic == topic::HEALTH_CHANGED && link.subject == Some(odo)));
    assert!(chain.windows(2).all(|pair| pair[0].seq > pair[1].seq), "the latest comes first");
    let last = facts.facts.last().unwrap().event;
    let place = CutAt::Heard(Listener::Hook(echo), Some(topic::HEALTH_CHANGED));
    assert!(
        matches!(last, Event::EncounterCut(EncounterCut { place: at, limit: CutBy::Depth, left_out: 1, .. }) if at == place),
        "{last:?}"
    );
    assert_eq!(fight.view().health(odo), Some((31, 40)), "one blow and eight echoes");
}

#[test]
fn listeners_hear_by_topic_family_subject_priority_and_once() {
    let (rules, mason, _, crush, tide) = small();
    let mut hooks = Hooks::<Vec<String>>::new();
    let names = ["exact", "family", "first", "once", "about"];
    let ids = names.map(|name| {
        hooks.react(name, move |heard_by: &mut Vec<String>, heard, _| {
            let at = heard.facts.tick;
            heard_by.push(format!("{at} {name}"));
        })
    });
    let mut fight = Encounter::new(&rules, 1);
    let mut orders = fight.orders();
    let (odo, bram) = (orders.spawn(mason, Pose::IDENTITY), orders.spawn(mason, Pose::at([5.0, 0.0, 0.0])));
    let family = rules.topics().family("health").unwrap();
    orders.subscribe(ids[0], Listen::to(topic::HEALTH_CHANGED));
    orders.subscribe(ids[0], Listen::to(topic::HEALTH_CHANGED));
    orders.subscribe(ids[1], Listen::under(family));
    orders.subscribe(ids[2], Listen::to(topic::HEALTH_CHANGED).priority(1));
    orders.subscribe(ids[3], Listen::to(topic::HEALTH_CHANGED).once());
    orders.subscribe(ids[4], Listen::to(topic::HEALTH_CHANGED).about(bram).owned_by(bram));
    let mut heard = Vec::new();
    fight.orders().damage(odo, crush, Fixed::ONE, tide);
    fight.tick_with(&hooks, &mut heard).unwrap();
    assert_eq!(heard, ["1 first", "1 exact", "1 family", "1 once"]);
    heard.clear();
    // The owner's own last change is heard, since it came before the death; nothing after it is.
    fight.orders().unsubscribe(Unsubscribe::Like(ids[1], Listen::under(family)));
    fight.orders().damage(bram, crush, Fixed::whole(99), tide);
    fight.tick_with(&hooks, &mut heard).unwrap();
    fight.orders().bring_back(bram, Pose::IDENTITY);
    fight.tick_with(&hooks, &mut heard).unwrap();
    assert_eq!(heard, ["2 first", "2 exact", "2 about", "3 first", "3 exact"]);
}

#[test]
fn rules_waves_lives_and_topics_that_cannot_be_are_all_found() {
    let mut b = Ruleset::builder(60);
    let team = b.team("masons");
    let line = b.line("Ho!");
    let half = b.threshold("half");
    let mason = Template::new("mason", team, 10).lives(Lives { health: Fixed::ZERO, ..Lives::new(0, 1) });
    let mason = b.template(mason.threshold(half, Fixed::ONE, IfItKills::Skip));
    b.waves(Waves::new("pack", mason, 1, 2).grows(Growth::Compounding(Fixed::whole(900))));
    let signal = b.host_topic("host.signal", &[("who", ValueSort::Who)]);
    b.host_topic("signal", &[]);
    let say = Reaction::say(None, line);
    b.rule(Rule::on("one", "combatant.die").does(say.clone()));
    b.rule(Rule::on("two", "combatant.died").does(say.clone()));
    b.rule(Rule::on("two", "combatant.died"));
    b.rule(
        Rule::on("three", "encounter.started").limit(Limit::PerLife).does(Reaction::Remove(Target::Subject)),
    );
    b.rule(Rule::on("four", "said").when(Condition::Round(3, 2)).does(say.clone()));
    let many = Condition::Any(vec![Condition::Round(1, 2); 1001]);
    b.rule(Rule::on("six", "said").when(many).does(say.clone()));
    let deep = (0..4).fold(Condition::Round(1, 2), |inner, _| inner.negated());
    b.rule(Rule::on("seven", "said").when(deep).does(say.clone()));
    let values = [const { RuleValue::Value(HostValue::Whole(3)) }; 4];
    b.rule(Rule::on_family("five", "said").does(Reaction::Publish(signal, values)));
    let found = b.build().unwrap_err();
    let texts: Vec<String> = found.0.iter().map(Finding::to_string).collect();
    for wanted in [
        "template `mason`, lives: 0 is outside 1 to",
        "template `mason`, lives: 0.0000 is outside 0.0001 to 1.0000",
        "template `mason`, thresholds: 1.0000 is outside",
        "waves `pack`, spots: there is no spot to come to; name one",
        "topic `signal`: a topic of the host's own begins with `host.`",
        "rule `one`, on: no fact is published under `combatant.die`; did you mean `combatant.died`?",
        "rule `two`: the name is taken",
        "rule `two`, do: it does nothing",
        "rule `three`, limit: it can never fire",
        "rule `three`, do: `remove` is for the subject of the fact",
        "rule `four`, when: it can never fire: the range of a condition begins after its end",
        "rule `six`, when: 1002",
        "rule `seven`, when: conditions lie in each other at most 4 deep",
        "rule `five`, do: value number 1 does not fit the field; the topic holds who (who)",
    ] {
        assert!(texts.iter().any(|text| text.contains(wanted)), "{wanted} is not in {texts:#?}");
    }
}
