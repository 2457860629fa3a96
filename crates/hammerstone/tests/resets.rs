//! Beginning anew: the first tick's state returns bit for bit, and a thousand times it costs nothing that stays.

use hammerstone::event::Event;
use hammerstone::event::{CombatantJoined, OrderRefused};
use hammerstone::orders::Refusal;
use hammerstone::prelude::*;
use hammerstone::{Fixed, Saved};
use proptest::prelude::*;
use testkit::{build, busy, fights};
proptest! {
    #![proptest_config(testkit::cases(40))]

    #[test]
    fn after_a_reset_the_first_state_is_there_again(fight in fights(), after in 1u32..40) {
        let rules = build(&fight.sheet);
        let hooks = testkit::hooks();
        let mut world = testkit::World::new(&rules);
        let mut encounter = Encounter::new(&rules, fight.seed);
        let set_up = |mut orders: Orders<'_>| {
            let templates = ["cast 0", "straggler", "straggler"].map(|name| rules.find_template(name).unwrap());
            let all: Vec<_> =
                templates.iter().enumerate().map(|(i, &template)| orders.spawn(template, Pose::at([0.0, 0.0, i as f32]))).collect();
            orders.follow(all[1], Some(all[0]));
            orders.start_waves(rules.find_waves("stragglers").unwrap());
            orders.start(all[0], rules.find_attack("attack 0").unwrap());
            orders.subscribe(hooks.find("answer harm").unwrap(), Listen::all());
            all
        };
        let all = set_up(encounter.orders());
        let prepared = encounter.save().unwrap();
        encounter.tick_with(&hooks, &mut world).unwrap();
        let first = encounter.checksum();
        let mut run = 1;
        while run < after && !encounter.tick_with(&hooks, &mut world).unwrap().reset {
            run += 1;
        }
        let damage_type = rules.find_damage_type("crush").unwrap();
        encounter.orders().damage(all[0], damage_type, Fixed::whole(90), rules.find_reason("tide").unwrap());
        encounter.orders().reset();
        while !encounter.tick_with(&hooks, &mut world).unwrap().reset {}
        // Before the first tick again, and after it again: the very bits.
        let mut other = Encounter::new(&rules, fight.seed);
        other.restore(&prepared).unwrap();
        prop_assert!(encounter.same_state(&other));
        prop_assert!(encounter.epoch() > 0);
        encounter.tick_with(&hooks, &mut world).unwrap();
        // The first tick may itself order a reset, by a rule; then it is the state before it.
        if encounter.view().tick() == 1 {
            prop_assert_eq!(encounter.checksum(), first);
            // The combatants of the set-up go by the ids that they had.
            let joined = |event: &Event| matches!(event, Event::CombatantJoined(CombatantJoined { subject, .. }) if *subject == all[2]);
            prop_assert!(encounter.facts().events().any(joined));
        }
    }
}

#[test]
fn a_thousand_resets_leave_nothing_behind() {
    let (rules, hooks, mut fight) = busy();
    let maul = rules.find_attack("maul").unwrap();
    let mut calls = 0;
    let mut seen = Vec::new();
    let mut swings = std::collections::BTreeSet::new();
    let mut saved = Saved::default();
    for round in 0..1_000 {
        for tick in 0..60 {
            if tick % 8 == 3 {
                let mason = fight.view().combatants().next().unwrap();
                let swing = fight.orders().start(mason, maul);
                assert!(swings.insert(swing), "the id of a swing came again");
            }
            fight.tick_with(&hooks, &mut calls).unwrap();
        }
        fight.orders().reset();
        assert!(fight.tick_with(&hooks, &mut calls).unwrap().reset);
        assert_eq!(fight.epoch(), round + 1);
        fight.save_into(&mut saved).unwrap();
        seen.push((saved.bytes(), fight.view().subscriptions().count(), fight.checksum()));
    }
    assert!(calls > 10_000, "{calls}");
    assert!(seen.iter().all(|one| *one == seen[0]), "{:?} became {:?}", seen[0], seen.last());
}

#[test]
fn subscriptions_that_stay_do_and_the_others_go() {
    let (rules, _, _) = busy();
    let mut hooks = Hooks::<Vec<&'static str>>::new();
    let stays = hooks.react("stays", |heard, _, _| heard.push("stays"));
    let goes = hooks.react("goes", |heard, _, _| heard.push("goes"));
    let mut fight = Encounter::new(&rules, 1);
    let mut heard = Vec::new();
    fight.tick_with(&hooks, &mut heard).unwrap();
    let mason = rules.find_template("mason").unwrap();
    fight.orders().subscribe(stays, Listen::to(topic::COMBATANT_JOINED).stays());
    fight.orders().subscribe(goes, Listen::to(topic::COMBATANT_JOINED));
    fight.tick_with(&hooks, &mut heard).unwrap();
    fight.orders().reset();
    fight.tick_with(&hooks, &mut heard).unwrap();
    assert_eq!(fight.view().tick(), 0);
    fight.orders().spawn(mason, Pose::IDENTITY);
    fight.tick_with(&hooks, &mut heard).unwrap();
    assert_eq!(heard, ["stays"]);
    // What was ordered after a reset is no part of the set-up.
    fight.orders().reset();
    fight.tick_with(&hooks, &mut heard).unwrap();
    fight.tick_with(&hooks, &mut heard).unwrap();
    assert_eq!(fight.view().combatants().count(), 0);
}

#[test]
fn a_reset_in_the_set_up_comes_once() {
    let (rules, _, _) = busy();
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(rules.find_template("mason").unwrap(), Pose::IDENTITY);
    fight.orders().reset();
    assert!(fight.tick().unwrap().reset);
    assert!(!fight.tick().unwrap().reset);
    assert_eq!(fight.view().life(odo), Life::Standing);
}

#[test]
fn what_has_ended_may_begin_anew_and_nothing_else() {
    let mut b = Ruleset::builder(60);
    let team = b.team("masons");
    let mason = b.template(Template::new("mason", team, 10));
    let dawn = b.outcome("dawn");
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    fight.tick().unwrap();
    fight.orders().end(dawn);
    assert!(fight.tick().unwrap().ended);
    assert_eq!(fight.tick(), Err(TickError::Ended));
    fight.orders().send_away(odo);
    fight.orders().reset();
    let summary = fight.tick().unwrap();
    assert!(summary.reset);
    let refused = fight
        .facts()
        .events()
        .any(|e| matches!(e, Event::OrderRefused(OrderRefused { why: Refusal::Ended, .. })));
    assert!(refused);
    assert_eq!(fight.outcome(), None);
    fight.tick().unwrap();
    assert_eq!(fight.view().life(odo), Life::Standing);
}
