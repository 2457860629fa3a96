//! The same ruleset, seed and orders give the same bytes.

mod common;

use common::{Fight, fights, play};
use hammerstone::audit::Auditor;
use hammerstone::*;
use proptest::prelude::*;
use proptest::strategy::ValueTree;
use proptest::test_runner::TestRunner;

/// The checksum after each tick, and all facts in words.
fn trace(fight: &Fight, ledgers: bool, mut after: impl FnMut(&mut Encounter)) -> (Vec<u64>, String) {
    let (mut sums, mut facts) = (Vec::new(), String::new());
    play(fight, ledgers, |encounter| {
        sums.push(encounter.checksum());
        for fact in encounter.facts().facts {
            // Ranges into the ledger differ where none is kept.
            facts.push_str(&format!("{} {:?} {:?}\n", fact.seq, fact.cause, fact.event.topic()));
        }
        after(encounter);
    });
    (sums, facts)
}

proptest! {
    #![proptest_config(common::cases(60))]

    #[test]
    fn two_runs_are_the_same_whatever_is_recorded(fight in fights()) {
        let plain = trace(&fight, false, |_| ());
        let mut auditor = None;
        let watched = trace(&fight, true, |encounter| {
            let auditor = auditor.get_or_insert_with(|| Auditor::new(encounter.rules()));
            auditor.take_in(&encounter.facts());
        });
        prop_assert_eq!(&plain, &watched);
        let bare = trace(&fight, false, |encounter| {
            encounter.write_only_what_is_heard(true);
            encounter.keep_deliveries(true);
        });
        // Facts that nobody hears are not there; every bit of the state is.
        prop_assert_eq!(plain.0, bare.0);
    }

    #[test]
    fn saving_and_restoring_after_every_tick_changes_nothing(fight in fights()) {
        let plain = trace(&fight, false, |_| ());
        let mut saved = Saved::default();
        let restored = trace(&fight, false, |encounter| {
            encounter.save_into(&mut saved).unwrap();
            let mut other = Encounter::new(encounter.rules(), 0);
            other.restore(&saved).unwrap();
            assert!(other.same_state(encounter));
            *encounter = other;
        });
        prop_assert_eq!(plain, restored);
    }

    #[test]
    fn rolling_back_and_forward_again_changes_nothing(fight in fights()) {
        // A tick without new orders, run twice from one saved state.
        play(&fight, false, |encounter| {
            if encounter.outcome().is_some() {
                return;
            }
            let saved = encounter.save().unwrap();
            let mut sums = [0; 2];
            for sum in &mut sums {
                encounter.restore(&saved).unwrap();
                let hooks = common::hooks();
                let mut world = common::World { rules: encounter.rules().clone(), calls: 0 };
                for _ in 0..3 {
                    encounter.tick_with(&hooks, &mut world).unwrap();
                }
                *sum = encounter.checksum();
            }
            encounter.restore(&saved).unwrap();
            assert_eq!(sums[0], sums[1]);
        });
    }
}

fn some_fight() -> Fight {
    fights().new_tree(&mut TestRunner::deterministic()).unwrap().current()
}

/// The tests above can fail: a seed, or a health one point higher, gives other bytes.
#[test]
fn another_seed_gives_other_bytes() {
    let fight = some_fight();
    let other = Fight { seed: fight.seed ^ 1, ..fight.clone() };
    assert_ne!(trace(&fight, false, |_| ()).0, trace(&other, false, |_| ()).0);
    let healed = trace(&fight, false, |encounter| {
        let who = encounter.view().combatants().next();
        if let (Some(who), None) = (who, encounter.outcome()) {
            let reason = encounter.rules().find_reason("tide").unwrap();
            encounter.orders().heal(who, 1, reason);
        }
    });
    assert_ne!(trace(&fight, false, |_| ()).0, healed.0);
}

#[test]
fn a_saved_state_goes_through_a_file_and_a_spoilt_one_is_refused() {
    let mut files = Vec::new();
    let fight = some_fight();
    let plain = trace(&fight, false, |_| ());
    let through_files = trace(&fight, false, |encounter| {
        let text = serde_json::to_string(&encounter.save().unwrap()).unwrap();
        let saved: Saved = serde_json::from_str(&text).unwrap();
        encounter.restore(&saved).unwrap();
        files.push(text);
    });
    assert_eq!(plain, through_files);
    let spoilt = files[5].replacen("\"tick\":6", "\"tick\":7", 1);
    assert_ne!(spoilt, files[5]);
    let error = serde_json::from_str::<Saved>(&spoilt).unwrap_err().to_string();
    assert!(error.contains("changed after it was written"), "{error}");
}

#[test]
fn a_state_saved_under_another_ruleset_is_refused_and_nothing_changes() {
    let build = |health| {
        let mut b = Ruleset::builder(60);
        let masons = b.team("masons");
        b.cast(Cast::new("mason", masons, health));
        b.build().unwrap()
    };
    let (one, other) = (build(40), build(41));
    let saved = Encounter::new(&one, 1).save().unwrap();
    let mut fight = Encounter::new(&other, 2);
    let before = fight.checksum();
    let error = fight.restore(&saved).unwrap_err();
    assert_eq!(error, RestoreError::OtherRuleset { saved: one.print(), own: other.print() });
    assert_eq!(fight.checksum(), before);
}

/// Committed, so that another machine, another build or a careless change shows itself.
#[test]
fn golden_checksum_of_a_fixed_fight() {
    let mut b = Ruleset::builder(60);
    let crush = b.kind("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let trunk =
        Part::new("trunk", Shape::Capsule { from: [0.0, 0.3, 0.0], to: [0.0, 1.2, 0.0], radius: 0.3 });
    let mason = b.cast(Cast::new("mason", masons, 400).part(trunk.clone()));
    let hound = b.cast(Cast::new("hound", beasts, 400).part(trunk).resistance(crush, Fixed::ratio(1, 3)));
    let maul = b.attack(
        Attack::carried("maul")
            .timeline(3, 9, 4)
            .harm(crush, 3, 30)
            .volume(Shape::Capsule { from: [0.0, 0.9, 0.4], to: [0.1, 0.9, 1.4], radius: 0.15 })
            .key(3, Pose::IDENTITY.turned([0.2, 1.0, 0.1], 95.0))
            .key(12, Pose::at([0.0, 0.1, 0.2]).turned([0.2, 1.0, 0.1], -95.0)),
    );
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 7);
    let mut all = Vec::new();
    for i in 0..20 {
        let (cast, z) = if i % 2 == 0 { (mason, 0.0) } else { (hound, 1.1) };
        let pose = Pose::at([i as f32 * 0.37, 0.0, z]).facing(Axis::Y, if i % 2 == 0 { 7.0 } else { 187.0 });
        all.push(fight.orders().spawn(cast, pose));
    }
    let mut sums = Vec::new();
    for tick in 0..120 {
        for (i, &who) in all.iter().enumerate() {
            if (tick + i) % 17 == 0 {
                fight.orders().start(who, maul);
            }
            let turn = (tick * 3 + i * 7) as f32;
            let at = [i as f32 * 0.37 + (tick % 5) as f32 * 0.03, 0.0, if i % 2 == 0 { 0.0 } else { 1.1 }];
            fight.orders().move_to(who, Pose::at(at).facing(Axis::Y, turn));
        }
        fight.tick().unwrap();
        if tick % 40 == 39 {
            sums.push(format!("{:016x}", fight.checksum()));
        }
    }
    assert!(fight.counts().hits > 100, "{:?}", fight.counts());
    assert_eq!(sums, ["c09d875ba297d3f0", "dcfd64bab6277a0d", "3a2bd8be8b9710bf"]);
}
