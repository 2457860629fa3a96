//! What hosts that move combatants by minds of their own ask and tell: rolls, why not, what is solid, what holds one, choices.

use hammerstone::event::{Event, Payload, TacticsChose, TacticsDropped};
use hammerstone::flow::{Condition, Group, Party, Portion, Reading};
use hammerstone::gauge::{Cancel, CancelOn};
use hammerstone::geometry::{Moving, Obstacle};
use hammerstone::level::Level;
use hammerstone::orders::Refusal;
use hammerstone::prelude::*;
use hammerstone::status::Guard;
use hammerstone::{BodyView, Fixed};
use proptest::collection::vec;
use proptest::prelude::*;
use testkit::{cases, fights, play};

const TRUNK: Shape = Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 };

/// Masons that strike with a maul, and what else a test needs.
fn quay(more: impl FnOnce(&mut RulesetBuilder)) -> (Ruleset, TemplateId, AttackId) {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, _) = (b.team("masons"), b.team("beasts"));
    let mason = b.template(Template::new("mason", masons, 40).part(Part::new("trunk", TRUNK)));
    let ahead = Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.5 };
    let maul = b.attack(Attack::melee("maul").timeline(2, 4, 6).damage(crush, 10, 10).hitbox(ahead));
    more(&mut b);
    (b.build().unwrap(), mason, maul)
}

/// Two foes, a metre apart.
fn two(rules: &Ruleset, mason: TemplateId) -> (Encounter, CombatantId, CombatantId) {
    let mut fight = Encounter::new(rules, 7);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let beasts = rules.find_team("beasts");
    let bram = fight.orders().spawn_as(mason, Pose::at([0.0, 0.0, 1.0]), beasts, None);
    fight.tick().unwrap();
    (fight, odo, bram)
}

proptest! {
    #![proptest_config(cases(100))]

    /// A roll is in its range, the same when it is asked again, and changed by nothing that happens meanwhile.
    #[test]
    fn rolls_of_the_host_depend_on_nothing_else(seed in any::<u64>(), number in any::<u64>(), low in -50i64..50, wide in 0i64..100) {
        let (rules, mason, maul) = quay(|_| ());
        let mut fight = Encounter::new(&rules, seed);
        let odo = fight.orders().spawn(mason, Pose::IDENTITY);
        fight.tick().unwrap();
        let before = fight.checksum();
        let roll = fight.roll(Some(odo), "reaction", number, low, low + wide);
        prop_assert!((low..=low + wide).contains(&roll));
        prop_assert_eq!(fight.checksum(), before);
        fight.orders().start(odo, maul);
        fight.orders().spawn(mason, Pose::at([9.0, 0.0, 0.0]));
        fight.tick().unwrap();
        prop_assert_eq!(fight.roll(Some(odo), "reaction", number, low, low + wide), roll);
        prop_assert_eq!(fight.roll(Some(odo), "reaction", number, low, low - 1), low);
    }

    /// All swings that run are seen at once as each by itself.
    #[test]
    fn swings_are_seen_at_once_as_one_by_one(fight in fights()) {
        let mut strange = Vec::new();
        play(&fight, false, |encounter| {
            let view = encounter.view();
            let all: Vec<_> = view.swing_views().collect();
            let each: Vec<_> = view.swings().filter_map(|(swing, ..)| view.swing(swing)).collect();
            let of_each = view.combatants().flat_map(|who| view.swings_of(who)).count();
            let spawned = all.iter().filter(|swing| swing.attacker.is_none_or(|who| view.life(who) == Life::Gone));
            if all != each || of_each + spawned.count() != all.len() || all.len() != view.swings().count() {
                strange.push((view.tick(), all, each));
            }
        });
        prop_assert!(strange.is_empty(), "{strange:?}");
    }

    /// All bodies are seen at once as each by itself: those who stand or lie, by rising id.
    #[test]
    fn bodies_are_seen_at_once_as_one_by_one(fight in fights()) {
        let (mut strange, mut dead) = (Vec::new(), 0);
        play(&fight, false, |encounter| {
            let view = encounter.view();
            let all: Vec<BodyView> = view.bodies().collect();
            dead += all.iter().filter(|body| !body.stands).count();
            let there = view.combatants().filter(|&who| matches!(view.life(who), Life::Standing | Life::Dead));
            let each = there.map(|who| BodyView {
                who,
                stands: view.life(who) == Life::Standing,
                pose: view.pose(who).unwrap(),
                team: view.team(who).unwrap(),
                template: view.template(who).unwrap(),
                size: view.size(who).unwrap(),
            });
            if !each.eq(all.iter().copied()) || !all.is_sorted_by_key(|body| body.who) {
                strange.push((view.tick(), all));
            }
        });
        prop_assert!(strange.is_empty(), "{dead} lay: {strange:?}");
    }

    /// What starts only with free hands is refused to everyone whose hands are bound, in whatever they are.
    #[test]
    fn free_hands_are_asked_for_as_timings_say(fight in fights()) {
        let mut strange = Vec::new();
        play(&fight, false, |encounter| {
            let (view, rules) = (encounter.view(), encounter.rules());
            let only = |attack: &AttackId| rules.timings(*attack).is_some_and(|timings| timings.free_hands);
            for swing in view.swing_views().filter(|swing| swing.busy) {
                let Some(who) = swing.attacker else { continue };
                let may = |attack: &AttackId| encounter.can_start(who, *attack).is_ok();
                let attacks = rules.attacks().iter().filter_map(|attack| rules.find_attack(attack.name()));
                strange.extend(attacks.filter(only).filter(may).map(|attack| (view.tick(), who, attack)));
            }
        });
        prop_assert!(strange.is_empty(), "{strange:?}");
    }

    /// Texts of any length and any letters come as they were told, or are refused whole.
    #[test]
    fn choices_are_told_as_they_were_given(told in vec("\\PC{0,20}", 3), long in 4090usize..4100, dropped in any::<bool>()) {
        let (rules, mason, _) = quay(|_| ());
        let (mut fight, odo, bram) = two(&rules, mason);
        let texts = [told[0].as_str(), told[1].as_str(), told[2].as_str()];
        let mut orders = fight.orders();
        if dropped { orders.tell_dropped(odo, Some(bram), texts) } else { orders.tell_choice(odo, Some(bram), texts) };
        let saved = fight.save().unwrap();
        for _ in 0..2 {
            fight.tick().unwrap();
            let facts = fight.facts();
            let found: Vec<[String; 3]> = facts.events().filter_map(|event| {
                let all = match *event {
                    Event::TacticsChose(TacticsChose { tactics, choice, passed, .. }) if !dropped => [tactics, choice, passed],
                    Event::TacticsDropped(TacticsDropped { tactics, choice, reason, .. }) if dropped => [tactics, choice, reason],
                    _ => return None,
                };
                assert_eq!(event.subject(), Some(odo));
                Some(all.map(|text| facts.text_of(text).to_owned()))
            }).collect();
            prop_assert_eq!(found, vec![texts.map(str::to_owned)]);
            // An order that waits goes through a save with its texts.
            fight.restore(&saved).unwrap();
        }
        let text = "x".repeat(long);
        fight.drop_orders();
        fight.orders().tell_choice(odo, None, ["a", &text, "b"]);
        fight.tick().unwrap();
        let refused = fight.facts().events().any(|event| matches!(event, Event::OrderRefused(refused) if refused.why == Refusal::WrongValue(2)));
        prop_assert_eq!(refused, long > 4096);
        prop_assert_eq!(fight.facts().events().any(|event| TacticsChose::of(event).is_some()), long <= 4096);
    }
}

#[test]
fn rolls_differ_by_combatant_purpose_and_number_and_fill_their_range() {
    let (rules, mason, _) = quay(|_| ());
    let (fight, odo, bram) = two(&rules, mason);
    let all =
        |who, purpose: &str| -> Vec<i64> { (0..200).map(|n| fight.roll(who, purpose, n, 0, 9)).collect() };
    let rolled = [
        all(Some(odo), "reaction"),
        all(Some(bram), "reaction"),
        all(Some(odo), "skill"),
        all(None, "reaction"),
    ];
    for (n, one) in rolled.iter().enumerate() {
        assert!(rolled[n + 1..].iter().all(|other| one != other));
        assert!((0..=9).all(|value| one.contains(&value)));
    }
}

#[test]
fn losses_are_those_that_decide() {
    let (rules, mason, _) = quay(|_| ());
    let (mut fight, odo, bram) = two(&rules, mason);
    let masons = rules.find_team("masons").unwrap();
    let hurt =
        Condition::Between(Reading::Health(Party::Other, Portion::Share), Fixed::ZERO, Fixed::raw(5000));
    let when = vec![
        Condition::Alive(Group::team(masons), 1, 1),
        Condition::Any(vec![
            hurt.clone(),
            Condition::Between(Reading::Distance, Fixed::ZERO, Fixed::raw(5000)),
        ]),
    ];
    let question = rules.question(when).unwrap();
    let losses = fight.losses(&question, Some(odo), Some(bram)).unwrap();
    // The second condition, and what lies in it.
    let found: Vec<(u16, Option<Fixed>)> =
        losses.iter().map(|loss| (loss.condition, loss.found[0])).collect();
    assert_eq!(found, [(2, Some(Fixed::ONE)), (3, Some(Fixed::ONE))]);
    let reason = Condition::Alive(Group::team(masons), 1, 1);
    assert_eq!(fight.losses(&rules.question(vec![reason]).unwrap(), Some(odo), None), Some(Vec::new()));
    fight.orders().move_to(bram, Pose::at([0.0, 0.0, 0.2]));
    fight.tick().unwrap();
    assert_eq!(fight.holds(&question, Some(odo), Some(bram)), Some(true));
    assert_eq!(fight.losses(&question, Some(odo), Some(bram)), Some(Vec::new()));
    let (others, ..) = quay(|b| {
        b.team("gulls");
    });
    let strange = others.question(vec![hurt]).unwrap();
    assert_eq!(fight.losses(&strange, Some(odo), Some(bram)), None);
}

#[test]
fn what_is_solid_is_met_on_the_way() {
    let (rules, ..) = quay(|_| ());
    let mut b = Level::builder();
    b.solid(Obstacle::Sphere { at: [0.0, 1.0, 5.0], radius: 1.0 });
    let level = b.build().unwrap();
    let mut fight = Encounter::in_level(&rules, &level, 1);
    let ball = Shape::Sphere { at: [0.0; 3], radius: 0.5 };
    let from = Pose::at([0.0, 1.0, 0.0]);
    let way = |far: f32| Moving::new(ball, from, Pose::at([0.0, 1.0, far])).unwrap();
    let touch = fight.first_solid(&way(7.0)).unwrap();
    // 3.5 of 7 metres.
    assert!((touch.toi - 0.5).abs() < 1.0e-3 && touch.normal[2] < -0.99, "{touch:?}");
    assert!(fight.first_solid(&way(3.0)).is_none());
    let wall = Obstacle::Box { pose: Pose::at([0.0, 1.0, 2.0]), half: [3.0, 1.0, 0.1] };
    let wall = fight.orders().add_obstacle(wall);
    fight.tick().unwrap();
    let touch = fight.first_solid(&way(7.0)).unwrap();
    assert!((touch.toi - 1.4 / 7.0).abs() < 1.0e-3, "{touch:?}");
    fight.orders().remove_obstacle(wall);
    fight.tick().unwrap();
    assert!((fight.first_solid(&way(7.0)).unwrap().toi - 0.5).abs() < 1.0e-3);
}

#[test]
fn timings_say_which_attacks_start_only_with_free_hands() {
    let (rules, mason, maul) = quay(|b| {
        let ahead = Shape::Sphere { at: [0.0, 1.0, 1.0], radius: 0.5 };
        let attack = |name| Attack::melee(name).timeline(2, 4, 6).hitbox(ahead);
        let into = Cancel { into: vec!["dive".into()], from: 0, to: 9, on: CancelOn::Any };
        b.attack(attack("tap").cancels(into));
        b.attack(attack("dive"));
        b.attack(attack("swing").chain("back-swing", 3, 8));
        b.attack(attack("back-swing"));
        b.attack(attack("shout").alongside());
        b.attack(attack("patient").buffer(5));
    });
    let free = |name: &str| rules.timings(rules.find_attack(name).unwrap()).unwrap().free_hands;
    assert_eq!(["maul", "tap"].map(free), [true; 2]);
    assert_eq!(["dive", "swing", "back-swing", "shout", "patient"].map(free), [false; 5]);
    // Each of these can start in some swing, and those that need free hands in none.
    let starts_in = |busy: &str, attack: &str| {
        let (mut fight, odo, _) = two(&rules, mason);
        fight.orders().start(odo, rules.find_attack(busy).unwrap());
        for _ in 0..5 {
            fight.tick().unwrap();
        }
        fight.can_start(odo, rules.find_attack(attack).unwrap())
    };
    for (busy, attack) in
        [("tap", "dive"), ("swing", "swing"), ("swing", "back-swing"), ("maul", "shout"), ("maul", "patient")]
    {
        assert_eq!(starts_in(busy, attack), Ok(()), "{attack}");
    }
    for attack in ["maul", "tap"] {
        assert!(matches!(starts_in("maul", attack), Err(Refusal::Busy { ticks: 7 })), "{attack}");
    }
    assert_eq!(rules.find_attack("maul"), Some(maul));
}

#[test]
fn a_view_says_what_holds_one() {
    let (rules, mason, _) = quay(|b| {
        b.status(Status::new("dazed").lasts(3).stuns());
        b.status(Status::new("mired").lasts(3).roots());
    });
    let (mut fight, odo, bram) = two(&rules, mason);
    assert!(rules.statuses()[0].is_stun() && !rules.statuses()[1].is_stun());
    let find = |name| rules.find_status(name).unwrap();
    fight.orders().apply(odo, find("dazed"), None);
    fight.orders().apply(bram, find("mired"), None);
    fight.orders().move_over(odo, Pose::at([1.0, 0.0, 0.0]), 4);
    fight.tick().unwrap();
    let view = fight.view();
    let said = |who| (view.is_stunned(who), view.is_bound(who), view.moves_on(who));
    assert_eq!((said(odo), said(bram)), ((true, false, 3), (false, true, 0)));
    assert_eq!([odo, bram].map(|who| view.free_pace(who)), [None, None]);
    for _ in 0..3 {
        fight.tick().unwrap();
    }
    let view = fight.view();
    let said = |who| (view.is_stunned(who), view.is_bound(who), view.moves_on(who));
    assert_eq!((said(odo), said(bram)), ((false, false, 0), (false, false, 0)));
    assert_eq!([odo, bram].map(|who| view.free_pace(who)), [Some(Fixed::ONE); 2]);
    fight.orders().scale_time(bram, 4);
    fight.orders().remove(odo);
    fight.tick().unwrap();
    assert!(!fight.view().is_stunned(odo) && !fight.view().is_bound(odo));
    assert_eq!([odo, bram].map(|who| fight.view().free_pace(who)), [None, Some(fight.view().pace(bram))]);
    assert_eq!(fight.view().pace(bram), Fixed::raw(2500));
}

#[test]
fn what_guards_took_is_told_by_hit() {
    let (rules, mason, maul) = quay(|b| {
        b.status(Status::new("braced").guard(Guard::new(Fixed::raw(7500), 120.0)));
    });
    let (mut fight, odo, bram) = two(&rules, mason);
    let braced = rules.find_status("braced").unwrap();
    fight.orders().teleport(bram, Pose::at([0.0, 0.0, 1.0]).facing(hammerstone::geometry::Axis::Y, 180.0));
    fight.orders().start(odo, maul);
    let mut guarded = Vec::new();
    for tick in 0..40 {
        if tick == 20 {
            fight.orders().apply(bram, braced, None);
            fight.orders().start(odo, maul);
        }
        fight.tick().unwrap();
        guarded.extend_from_slice(fight.facts().guards);
    }
    // The first hit met none.
    assert_eq!(fight.counts().hits, 2);
    let [one] = guarded.as_slice() else { panic!("{guarded:?}") };
    assert_eq!((one.hit, one.subject, one.status, one.took), (Some(2), bram, braced, Fixed::raw(75_000)));
}
