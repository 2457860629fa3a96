//! Steps that have nothing to look at are left out when a ruleset is built: amounts and ledgers are those of all steps.

use std::collections::BTreeSet;

use hammerstone::Encounter;
use hammerstone::amount::Step;
use hammerstone::event::LedgerStep;
use proptest::prelude::*;
use proptest::strategy::ValueTree;
use proptest::test_runner::TestRunner;
use testkit::{Fight, build, cases, facts_hash, fights, play_under};

/// What each tick of a fight tells, with its ledgers; and the steps that left lines.
fn told(fight: &Fight, all_steps: bool) -> (Vec<(u64, u64)>, BTreeSet<String>) {
    let rules = build(&fight.sheet);
    let rules = if all_steps { rules.taking_all_steps() } else { rules };
    let (mut ticks, mut steps) = (Vec::new(), BTreeSet::new());
    let keep = |encounter: &mut Encounter| encounter.keep_ledgers(true);
    play_under(&rules, fight, keep, |encounter| {
        let facts = encounter.facts();
        ticks.push((facts_hash(&facts), encounter.checksum()));
        steps.extend(facts.ledger.iter().filter_map(|line| match line.step {
            LedgerStep::Step(step) => Some(step.name().to_owned()),
            _ => None,
        }));
    });
    (ticks, steps)
}

proptest! {
    #![proptest_config(cases(300))]

    #[test]
    fn amounts_and_ledgers_are_those_of_all_steps(fight in fights()) {
        prop_assert_eq!(told(&fight, false).0, told(&fight, true).0);
    }
}

/// Among generated fights every step that may be left out leaves lines in some, so that the law above would miss it.
#[test]
fn every_step_that_may_be_left_out_is_taken_by_some() {
    let may = [
        Step::Stats,
        Step::Critical,
        Step::Attacker,
        Step::Relation,
        Step::Guard,
        Step::Armour,
        Step::Target,
        Step::Distance,
        Step::Shields,
    ];
    let mut runner = TestRunner::deterministic();
    let mut missing: BTreeSet<String> = may.iter().map(|step| step.name().to_owned()).collect();
    for _ in 0..2_000 {
        if missing.is_empty() {
            break;
        }
        let fight = fights().new_tree(&mut runner).expect("a fight").current();
        for name in told(&fight, false).1 {
            missing.remove(&name);
        }
    }
    assert!(missing.is_empty(), "no generated fight takes {missing:?}");
}
