//! Waves: how many come, when, where, and behind whom.

use hammerstone::Fixed;
use hammerstone::event::{CombatantJoined, EncounterWave, Event};
use hammerstone::flow::{Group, Growth, WaveLeader, Waves};
use hammerstone::ids::{CounterId, WaveId};
use hammerstone::prelude::*;
use proptest::prelude::*;

/// A ruleset with one sequence of waves, which comes at two spots a metre apart in rows of half a metre.
fn rules(shape: impl Fn(Waves, CounterId) -> Waves) -> (Ruleset, WaveId, TemplateId, CounterId) {
    let mut b = Ruleset::builder(60);
    let beasts = b.team("beasts");
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.1 });
    let hound = b.template(Template::new("hound", beasts, 10).part(trunk));
    let anger = b.counter("anger");
    let spots = [b.spot("ramp", Pose::IDENTITY), b.spot("slip", Pose::at([1.0, 0.0, 0.0]))];
    let waves = Waves::new("pack", hound, 2, 3).at(spots[0]).at(spots[1]).apart([0.0, 0.0, 0.5]);
    let waves = b.waves(shape(waves, anger));
    (b.build().unwrap(), waves, hound, anger)
}

/// The ticks in which waves come, and how many come in each, while so many ticks run.
fn come(
    rules: &Ruleset,
    waves: WaveId,
    ticks: u32,
    mut each: impl FnMut(u32, &mut Encounter),
) -> Vec<(u32, u32)> {
    let mut fight = Encounter::new(rules, 1);
    fight.orders().start_waves(waves);
    let mut all = Vec::new();
    for _ in 0..ticks {
        fight.tick().unwrap();
        let facts = fight.facts();
        let tick = facts.tick;
        all.extend(facts.events().filter_map(|event| match *event {
            Event::EncounterWave(EncounterWave { count, .. }) => Some((tick, count)),
            _ => None,
        }));
        let joined =
            fight.facts().events().filter(|event| matches!(event, Event::CombatantJoined(_))).count();
        let counted: u32 = all.iter().filter(|(at, _)| *at == tick).map(|(_, count)| count).sum();
        assert_eq!(joined as u32, counted, "as many join as the fact says");
        each(tick, &mut fight);
    }
    all
}

#[test]
fn they_grow_as_it_is_said() {
    let sizes = |growth: Growth, times: u32| -> Vec<u32> {
        let (rules, waves, ..) = rules(|waves, _| waves.grows(growth.clone()));
        let waves = &rules.waves()[waves.index()];
        (1..=times).map(|number| waves.size_of(number)).collect()
    };
    assert_eq!(sizes(Growth::Added(2), 3), [2, 4, 6]);
    assert_eq!(sizes(Growth::Rising(1, 1), 5), [2, 3, 5, 8, 12]);
    assert_eq!(sizes(Growth::Rising(3, 0), 3), [2, 5, 8]);
    assert_eq!(sizes(Growth::Compounding(Fixed::ratio(3, 2)), 4), [2, 3, 4, 6]);
    assert_eq!(sizes(Growth::List(vec![4, 0, 1]), 5), [4, 0, 1, 1, 1]);
}

#[test]
fn on_a_timer_they_come_exactly_whoever_is_left() {
    let (rules, waves, ..) = rules(|waves, _| waves.every(7).delay(3));
    assert_eq!(come(&rules, waves, 40, |_, _| {}), [(4, 2), (11, 2), (18, 2)]);
}

#[test]
fn without_an_end_they_come_until_they_are_stopped_and_as_many_as_a_counter_says() {
    let (rules, waves, _, anger) =
        rules(|waves, anger| waves.endless().every(5).grows(Growth::Counter(anger)));
    let all = come(&rules, waves, 40, |tick, fight| {
        if tick == 3 {
            fight.orders().count(anger, hammerstone::flow::Count::Set(2));
        }
        if tick == 18 {
            fight.orders().count(anger, hammerstone::flow::Count::Set(-4));
        }
        if tick == 23 {
            fight.orders().stop_waves(waves);
        }
    });
    assert_eq!(all, [(1, 0), (6, 2), (11, 2), (16, 2), (21, 0)]);
}

#[test]
fn the_first_leads_or_one_of_a_group() {
    let (by_first, waves, hound, _) = rules(|waves, _| waves.follow(WaveLeader::First));
    let mut fight = Encounter::new(&by_first, 1);
    fight.orders().start_waves(waves);
    fight.tick().unwrap();
    let view = fight.view();
    let pack: Vec<CombatantId> = view.combatants().collect();
    assert_eq!((view.leader(pack[0]), view.leader(pack[1])), (None, Some(pack[0])));

    let (of_group, waves, ..) = rules(|waves, _| waves.follow(WaveLeader::Of(Group::template(hound))));
    let mut fight = Encounter::new(&of_group, 1);
    let keeper = fight.orders().spawn(hound, Pose::at([9.0, 0.0, 0.0]));
    fight.orders().start_waves(waves);
    fight.tick().unwrap();
    let view = fight.view();
    let led: Vec<_> = view.combatants().filter(|&who| who != keeper).map(|who| view.leader(who)).collect();
    assert_eq!(led, [Some(keeper), Some(keeper)]);
}

proptest! {
    /// Whoever stands where, each of a wave has its own place, free around as far as was said, as long as there is one.
    #[test]
    fn free_places_are_free(standing in prop::collection::vec((0..2u8, 0..12u8), 0..12), size in 1..6u32) {
        let (rules, waves, hound, _) = rules(|waves, _| waves.grows(Growth::List(vec![size])).at_free_places(0.4));
        let mut fight = Encounter::new(&rules, 1);
        for &(x, row) in &standing {
            fight.orders().spawn(hound, Pose::at([f32::from(x), 0.0, f32::from(row) * 0.5]));
        }
        fight.orders().start_waves(waves);
        fight.tick().unwrap();
        let facts = fight.facts();
        let joined: Vec<[f32; 3]> = facts.events().filter_map(|event| match *event {
            Event::CombatantJoined(CombatantJoined { pose, .. }) => Some(pose.at),
            _ => None,
        }).collect();
        let (before, came) = joined.split_at(standing.len());
        prop_assert_eq!(came.len() as u32, size);
        for (i, at) in came.iter().enumerate() {
            let near = |other: &[f32; 3]| (at[0] - other[0]).abs() < 0.4 && (at[2] - other[2]).abs() < 0.4;
            prop_assert!(!before.iter().chain(&came[..i]).any(near), "{at:?} among {joined:?}");
        }
    }
}
