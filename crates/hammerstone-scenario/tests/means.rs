//! What surveys count of attacks is what the facts say, in every shipped fight; and what a dodge, a block and a parry come to, by hand.

use std::collections::BTreeSet;

use hammerstone::event::{AttackStarted, CombatantDied, DamageDealt, HitLanded, Payload};
use hammerstone_record::{MeansCounts, MeansPoint, Point, Ran, Running};
use hammerstone_scenario::{Options, Play, Scenario};
use testkit::forms::shipped;

/// A shipped fight, run; with what its facts say by a count of their own.
fn ran(scenario: &Scenario) -> (Ran, MeansCounts) {
    let (mut play, mut running) = (Play::new(scenario, Options::default()), Running::new());
    let (mut sums, mut landed) = (MeansCounts::default(), BTreeSet::new());
    let mut epoch = 0;
    while play.tick().unwrap() {
        play.seen().show(&mut [&mut running]);
        let facts = play.encounter.facts();
        for event in facts.events() {
            sums.starts += u64::from(AttackStarted::of(event).is_some());
            if let Some(hit) = HitLanded::of(event) {
                sums.hits += 1;
                sums.landed += u64::from(landed.insert((epoch, hit.swing)));
            }
            if let Some(dealt) = DamageDealt::of(event) {
                sums.dealt += dealt.amount;
                sums.overkill += dealt.overkill.map_or(0, |points| i64::from(points.get()));
            }
            sums.kills += u64::from(CombatantDied::of(event).is_some());
        }
        epoch = play.encounter.epoch();
    }
    (running.finish(&play.encounter, &play.run.names, scenario.seed), sums)
}

fn sum(ran: &Ran) -> MeansCounts {
    let mut sums = MeansCounts::default();
    for means in &ran.means {
        let one = &means.counts;
        assert!(one.landed <= one.starts.max(one.hits) && one.landed <= one.hits, "{means:?}");
        assert!(one.blocked <= one.hits + one.turned_away, "{means:?}");
        assert!(means.sort == "attack" || one.starts + one.hits + one.dodged + one.blocked == 0, "{means:?}");
        sums.starts += one.starts;
        sums.landed += one.landed;
        sums.hits += one.hits;
        sums.dealt += one.dealt;
        sums.overkill += one.overkill;
        sums.kills += one.kills;
    }
    sums
}

#[test]
fn all_that_is_counted_adds_up_to_the_facts() {
    let mut seen = 0;
    for (path, _) in shipped(".toml") {
        let name = path.to_string_lossy().into_owned();
        if name.ends_with(".rules.toml") || name.contains("skirmish") {
            continue;
        }
        let Some(scenario) = testkit_scenario(&path) else { continue };
        let (ran, facts) = ran(&scenario);
        assert_eq!(sum(&ran), facts, "{name}");
        let dealt: i64 = ran.fighters.iter().map(|fighter| fighter.taken).sum();
        assert_eq!(dealt, facts.dealt, "{name}");
        for fighter in &ran.fighters {
            assert_eq!(fighter.died.is_some(), fighter.died_of.is_some(), "{name}: {fighter:?}");
            let killed = fighter.time_to_kill.zip(fighter.died);
            assert!(killed.is_none_or(|(took, at)| (0..=at + 1).contains(&took)), "{name}: {fighter:?}");
            assert!(fighter.stunned <= ran.ticks, "{name}: {fighter:?}");
        }
        let point = Point::of(Vec::new(), [&ran]).unwrap();
        let shares: f64 =
            point.means.iter().filter(|means| means.team == "masons").map(|means| means.of_team).sum();
        assert!(shares < 1.0 + 1.0e-9, "{name}: {shares}");
        seen += usize::from(facts.hits > 0);
    }
    assert!(seen > 30, "{seen}");
}

fn testkit_scenario(path: &std::path::Path) -> Option<Scenario> {
    let text = std::fs::read_to_string(path).unwrap();
    let open = |wanted: hammerstone_scenario::Wanted<'_>| {
        let path = wanted.path(path);
        Ok((path.display().to_string(), std::fs::read(path).map_err(|error| error.to_string())?))
    };
    Scenario::read(&path.display().to_string(), &text, &open).ok()
}

#[test]
fn dodges_blocks_and_parries_are_told_apart() {
    let path = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../scenarios/craft/guarding.toml");
    let scenario = testkit_scenario(&path).unwrap();
    let (ran, _) = ran(&scenario);
    let of = |name: &str| ran.means.iter().find(|means| means.name == name).unwrap().counts;
    let bite = of("bite");
    // One is dodged, one is braced against, one is parried; the rest comes through.
    assert!(bite.dodged >= 1 && bite.blocked >= 2 && bite.turned_away >= 1, "{bite:?}");
    assert_eq!(bite.reached(), bite.hits + bite.dodged + bite.turned_away);
    let point = Point::of(Vec::new(), [&ran, &ran]).unwrap();
    let means: &MeansPoint = point.means.iter().find(|means| means.name == "bite").unwrap();
    let share = |part: u64| Some(part as f64 / bite.reached() as f64);
    assert_eq!((means.dodged, means.blocked), (share(bite.dodged), share(bite.blocked)));
    assert_eq!((means.starts, means.hits), (bite.starts as f64, bite.hits as f64));
    // The parry stuns the one who bit.
    assert!(ran.fighters.iter().any(|fighter| fighter.stunned > 30), "{:?}", ran.fighters);
}
