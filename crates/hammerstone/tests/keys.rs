//! Stable keys of facts: the same for the same thing, whatever else happens and whenever it does.

use std::collections::BTreeMap;

use hammerstone::attack::{Damage, Policy};
use hammerstone::event::{Event, FactKey};
use hammerstone::ids::TopicId;
use hammerstone::prelude::*;
use hammerstone::status::Pulse;
use proptest::prelude::*;
use testkit::{build, cases, facts_hash, fights, play_under};

fn yard() -> Ruleset {
    let mut b = Ruleset::builder(60);
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let (crush, heat) = (b.damage_type("crush"), b.damage_type("heat"));
    let pulse = Pulse::damage(4, vec![Damage { damage_type: heat, low: 1, high: 3 }]);
    let burn = b.status(Status::new("burn").lasts(14).pulse(pulse));
    let ball = |z, radius| Shape::Sphere { at: [0.0, 1.0, z], radius };
    let maul = Attack::melee("maul").timeline(2, 5, 2).damage(crush, 3, 9).damage(heat, 1, 2);
    b.attack(maul.inflicts(burn).policy(Policy::Interval(2)).hitbox(ball(1.0, 0.7)));
    b.template(Template::new("mason", masons, 400).part(Part::new("trunk", ball(0.0, 0.4))));
    b.template(Template::new("hound", beasts, 400).part(Part::new("trunk", ball(0.0, 0.4))));
    b.build().expect("a sound yard")
}

/// In which ticks the mason and the hound start a blow, and the hound takes a step.
type Script = Vec<(u32, u8)>;

/// The facts about the two, with their ticks and keys, in a yard with so many others, when it begins so much later.
fn facts(script: &Script, others: usize, later: u32) -> Vec<(u32, FactKey, Event)> {
    let rules = yard();
    let find = |name: &str| rules.find_template(name).expect("it is there");
    let maul = rules.find_attack("maul").expect("it is there");
    let mut fight = Encounter::new(&rules, 7);
    fight.keep_keys(true);
    // Others come first, so that all numbers are other ones; they stand far off, and fight each other.
    let crowd: Vec<_> = (0..others)
        .map(|i| {
            fight.orders().spawn(find(["mason", "hound"][i % 2]), Pose::at([500.0, 0.0, i as f32 * 0.9]))
        })
        .collect();
    let at = |z| Pose::at([0.0, 0.0, z]);
    let [odo, hound] = [("mason", 0.0, 11), ("hound", 1.1, 12)]
        .map(|(name, z, key)| fight.orders().spawn_keyed(find(name), at(z), None, None, key));
    let mut all = Vec::new();
    for tick in 0..90 + later {
        for (number, &one) in crowd.iter().enumerate().filter(|(number, _)| *number as u32 % 7 == tick % 7) {
            fight.orders().start(one, maul);
            fight
                .orders()
                .move_to(one, Pose::at([500.0 + (tick % 3) as f32 * 0.1, 0.0, number as f32 * 0.9]));
        }
        for &(_, act) in script.iter().filter(|(at, _)| at + later == tick) {
            match act {
                0 => drop(fight.orders().start(odo, maul)),
                1 => drop(fight.orders().start(hound, maul)),
                step => drop(fight.orders().move_to(hound, at(1.0 + f32::from(step) * 0.05))),
            }
        }
        let tick = fight.tick().expect("it runs").tick;
        let facts = fight.facts();
        assert_eq!(facts.keys.len(), facts.facts.len());
        for (fact, &key) in facts.facts.iter().zip(facts.keys) {
            let about = [fact.event.subject(), fact.event.other()];
            if about.contains(&Some(odo)) || about.contains(&Some(hound)) {
                all.push((tick, key, fact.event));
            }
        }
    }
    all
}

/// Whether a key leaves out the tick: what belongs to a swing, a hit, a status, a life.
fn is_timeless(event: &Event) -> bool {
    match event {
        Event::DamageDealt(_) => true,
        Event::OrderRefused(_) | Event::HealthChanged(_) | Event::ShieldAbsorbed(_) => false,
        event => event.attack().is_some() || event.status().is_some(),
    }
}

proptest! {
    #![proptest_config(cases(80))]

    /// Who else is there, and came before, changes no key; when it all happens, none of what belongs to a swing, a hit or a status.
    #[test]
    fn keys_depend_on_nothing_else(
        script in prop::collection::vec((5u32..70, 0u8..8), 1..30),
        others in 1usize..24,
        later in 1u32..20,
    ) {
        let keys = |facts: Vec<(u32, FactKey, Event)>| facts.into_iter().map(|(tick, key, _)| (tick, key)).collect::<Vec<_>>();
        let plain = facts(&script, 0, 0);
        prop_assert_eq!(&keys(facts(&script, others, 0)), &keys(plain.clone()));
        let timeless = |facts: Vec<(u32, FactKey, Event)>| {
            let of = |(_, key, event): (u32, FactKey, Event)| is_timeless(&event).then_some((event.topic(), key));
            facts.into_iter().filter_map(of).collect::<Vec<_>>()
        };
        let later = timeless(facts(&script, others, later));
        let all = timeless(plain);
        prop_assert_eq!(later, all);
    }
}

/// The hits of one swing at one target are told apart, and so are swings.
#[test]
fn hits_and_pulses_have_keys_of_their_own() {
    let script = (0..8).map(|i| (5 + i * 10, (i % 2) as u8)).collect();
    let all = facts(&script, 6, 0);
    let mut by_topic: BTreeMap<_, Vec<FactKey>> = BTreeMap::new();
    for (_, key, event) in &all {
        by_topic.entry(event.info().path).or_default().push(*key);
    }
    for topic in ["hit.landed", "attack.started", "attack.closed", "combatant.joined"] {
        let keys = &by_topic[topic];
        let mut once = keys.clone();
        once.sort();
        once.dedup();
        assert_eq!(once.len(), keys.len(), "{topic}");
    }
    assert!(by_topic["hit.landed"].len() > 8 && by_topic["status.pulsed"].len() > 4, "{by_topic:?}");
}

proptest! {
    #![proptest_config(cases(120))]

    /// Keeping keys changes no fact and no byte; two facts with one key are of one topic and about the same.
    #[test]
    fn keys_name_one_thing(fight in fights()) {
        let rules = build(&fight.sheet);
        let mut traces = Vec::new();
        for keep in [false, true] {
            let mut trace = Vec::new();
            let mut known: BTreeMap<FactKey, (TopicId, Option<CombatantId>)> = BTreeMap::new();
            let mut epoch = 0;
            play_under(&rules, &fight, |encounter| encounter.keep_keys(keep), |encounter| {
                let facts = encounter.facts();
                trace.push((facts_hash(&facts), encounter.checksum()));
                assert_eq!(facts.keys.len(), if keep { facts.facts.len() } else { 0 });
                if facts.epoch != epoch {
                    epoch = facts.epoch;
                    known.clear();
                }
                for (fact, &key) in facts.facts.iter().zip(facts.keys) {
                    let is = (fact.event.topic(), fact.event.subject());
                    // One who is gone has no key any more.
                    let named = is.1.is_none_or(|who| encounter.view().life(who) != hammerstone::Life::Gone);
                    // Of a score it is content who is credited; no hook hears of a cut.
                    let has_one = !["encounter.cut", "score.changed"].contains(&fact.event.info().path);
                    if named && has_one {
                        assert_eq!(*known.entry(key).or_insert(is), is, "{:?}", fact.event);
                    }
                }
            });
            traces.push(trace);
        }
        prop_assert_eq!(&traces[0], &traces[1]);
    }
}
