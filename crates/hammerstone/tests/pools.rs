//! Pools of health, against a plain number that is reckoned beside them.

use hammerstone::Fixed;
use hammerstone::audit::Auditor;
use hammerstone::event::{CombatantDied, Event, Fact, Facts, HealthChange, HealthChanged};
use hammerstone::gauge::Pool;
use hammerstone::ids::{CombatantId, DamageTypeId, PoolId, ReasonId, TemplateId};
use hammerstone::orders::Refusal;
use hammerstone::prelude::*;
use proptest::collection::vec;
use proptest::prelude::*;
use testkit::cases;

const MAX: i64 = 60;

struct Quarry {
    rules: Ruleset,
    crush: DamageTypeId,
    tide: ReasonId,
    stone: TemplateId,
    shard: TemplateId,
    cairn: PoolId,
}

fn quarry() -> Quarry {
    let mut b = Ruleset::builder(60);
    let (crush, tide, beasts) = (b.damage_type("crush"), b.reason("tide"), b.team("beasts"));
    let cairn = b.pool(Pool::new("cairn", MAX));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.5 });
    let stone = b.template(Template::new("stone", beasts, 7).pool(cairn).part(trunk.clone()));
    let shard = b.template(Template::new("shard", beasts, 30).part(trunk));
    Quarry { rules: b.build().unwrap(), crush, tide, stone, shard, cairn }
}

/// What is ordered of one of four stones in one tick.
#[derive(Clone, Copy, Debug)]
enum Deed {
    Damage(i64),
    Heal(u32),
    BringBack,
    SendAway,
    Maximum(u32),
}

fn deed() -> impl Strategy<Value = Deed> {
    prop_oneof![
        4 => (1i64..25).prop_map(Deed::Damage),
        2 => (1u32..20).prop_map(Deed::Heal),
        2 => Just(Deed::BringBack),
        1 => Just(Deed::SendAway),
        1 => (20u32..100).prop_map(Deed::Maximum),
    ]
}

proptest! {
    #![proptest_config(cases(200))]

    /// What is left is the same for all who stand, and what a plain number makes of the same orders; when it is gone, all die at once, in the
    /// order of their ids, by the same hand. A restored encounter goes on with the same bytes.
    #[test]
    fn a_pool_is_one_number(deeds in vec((0usize..4, deed()), 1..60)) {
        let Quarry { rules, crush, tide, stone, cairn, .. } = quarry();
        let mut fight = Encounter::new(&rules, 1);
        let ids: Vec<CombatantId> = (0..4).map(|x| fight.orders().spawn(stone, Pose::at([x as f32 * 3.0, 0.0, 0.0]))).collect();
        fight.tick().unwrap();
        let mut auditor = Auditor::new(&rules);
        auditor.observe(&fight.facts());
        let (mut left, mut max) = (MAX, MAX);
        let mut stands = [true; 4];
        for (of, deed) in deeds {
            let who = ids[of];
            let mut dies = false;
            let none = !stands.contains(&true);
            match deed {
                Deed::Damage(points) if stands[of] => {
                    left = (left - points).max(0);
                    dies = left == 0;
                }
                Deed::Heal(points) if stands[of] => left = (left + i64::from(points)).min(max),
                Deed::BringBack if !stands[of] && none => left = max,
                Deed::SendAway if stands[of] => stands[of] = false,
                Deed::Maximum(points) if stands[of] => {
                    left = left.min(points.into());
                    max = points.into();
                }
                _ => {}
            }
            if matches!(deed, Deed::BringBack) {
                stands[of] = true;
            }
            let mut orders = fight.orders();
            match deed {
                Deed::Damage(points) => _ = orders.damage(who, crush, Fixed::whole(points), tide),
                Deed::Heal(points) => _ = orders.heal(who, points, tide),
                Deed::BringBack => _ = orders.bring_back(who, Pose::IDENTITY),
                Deed::SendAway => _ = orders.send_away(who),
                Deed::Maximum(points) => _ = orders.set_maximum(who, points, hammerstone::amount::Keep::Points),
            }
            let mut restored = Encounter::new(&rules, 2);
            restored.restore(&fight.save().unwrap()).unwrap();
            fight.tick().unwrap();
            restored.tick().unwrap();
            prop_assert_eq!(fight.checksum(), restored.checksum());
            auditor.observe(&fight.facts());
            auditor.compare(&fight.view());
            prop_assert!(auditor.breaches().is_empty(), "{:?}", auditor.breaches());
            let dead: Vec<CombatantId> = fight.facts().events().filter_map(|event| match *event {
                Event::CombatantDied(CombatantDied { subject, .. }) => Some(subject),
                _ => None,
            }).collect();
            let stood: Vec<CombatantId> = (0..4).filter(|&i| stands[i]).map(|i| ids[i]).collect();
            if dies {
                prop_assert_eq!(&dead, &stood);
                stands = [false; 4];
                prop_assert_eq!(fight.view().pool(cairn), None);
            } else {
                prop_assert!(dead.is_empty());
                for who in stood {
                    prop_assert_eq!(fight.view().health(who), Some((left, max)), "{:?}", deed);
                }
            }
        }
    }
}

#[test]
fn no_more_than_its_most_share_one_and_a_place_that_is_free_is_taken() {
    let Quarry { rules, stone, shard, cairn, crush, tide } = quarry();
    let mut fight = Encounter::new(&rules, 1);
    let ids: Vec<CombatantId> =
        (0..=Pool::MOST).map(|_| fight.orders().spawn(stone, Pose::IDENTITY)).collect();
    let other = fight.orders().spawn(shard, Pose::IDENTITY);
    fight.orders().transform(other, stone);
    fight.tick().unwrap();
    let refused = |fight: &Encounter| -> Vec<Refusal> {
        let refused = fight.facts().events().filter_map(|event| match *event {
            Event::OrderRefused(refused) => Some(refused.why),
            _ => None,
        });
        refused.collect()
    };
    assert_eq!(refused(&fight), [Refusal::PoolFull(cairn); 2]);
    assert_eq!(fight.view().sharers(cairn).count(), Pool::MOST);
    fight.orders().remove(ids[3]);
    fight.orders().damage(ids[4], crush, Fixed::whole(15), tide);
    fight.orders().transform(other, stone);
    fight.tick().unwrap();
    assert_eq!(refused(&fight), []);
    assert_eq!(fight.view().health(other), Some((45, MAX)));
    // It leaves with its share: three quarters of 30 are 22.5, and the nearest even point is told.
    fight.orders().transform(other, shard);
    fight.tick().unwrap();
    assert_eq!(fight.view().health(other), Some((Fixed::ratio(45 * 30, MAX).nearest(), 30)));
    assert_eq!(fight.view().pool(cairn), Some((45, MAX)));
}

/// The auditor is no witness that always agrees.
#[test]
fn a_pool_that_holds_more_for_one_is_caught() {
    let Quarry { rules, stone, crush, tide, .. } = quarry();
    let mut fight = Encounter::new(&rules, 1);
    let ids = [0.0, 3.0].map(|x| fight.orders().spawn(stone, Pose::at([x, 0.0, 0.0])));
    fight.orders().damage(ids[0], crush, Fixed::whole(5), tide);
    fight.tick().unwrap();
    let facts: Vec<Fact> = fight.facts().facts.to_vec();
    let heard = |facts: &[Fact]| {
        let mut auditor = Auditor::new(&rules);
        auditor.observe(&Facts { facts, ..fight.facts() });
        auditor.breaches().to_vec()
    };
    assert_eq!(heard(&facts), []);
    let mut spoilt = facts.clone();
    let of_pool = |fact: &&mut Fact| {
        matches!(fact.event, Event::HealthChanged(HealthChanged { why: HealthChange::Pool, .. }))
    };
    let fact = spoilt.iter_mut().find(of_pool).expect("the other has lost the same");
    if let Event::HealthChanged(changed) = &mut fact.event {
        changed.to += 1;
    }
    assert!(!heard(&spoilt).is_empty());
}

/// A blow among those who share one health: whoever strikes another of them dies by its own hand with the rest, and nothing of it goes on.
#[test]
fn one_who_empties_its_own_pool_dies_of_it_once() {
    let mut b = Ruleset::builder(60);
    let (crush, beasts) = (b.damage_type("crush"), b.team("beasts"));
    let cairn = b.pool(Pool::new("cairn", 12));
    let burn = b.status(Status::new("burn").lasts(30));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.5 });
    let stone = b.template(Template::new("stone", beasts, 1).pool(cairn).part(trunk));
    let reach = Shape::Sphere { at: [0.0, 0.0, 1.0], radius: 0.9 };
    let maul = Attack::melee("maul").timeline(1, 4, 2).damage(crush, 6, 6).hitbox(reach).inflicts(burn);
    let maul = b.attack(maul.inflicts_self(burn, Fixed::ONE).strikes(hammerstone::team::Relations::ANY));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let mut auditor = Auditor::new(&rules);
    let ids = [0.0, 0.8, 1.4, 9.0].map(|z| fight.orders().spawn(stone, Pose::at([0.0, 0.0, z])));
    fight.orders().start(ids[0], maul);
    let mut seen = Vec::new();
    for _ in 0..12 {
        fight.tick().unwrap();
        auditor.observe(&fight.facts());
        auditor.compare(&fight.view());
        seen.extend(fight.facts().events().copied());
    }
    assert!(auditor.breaches().is_empty(), "{:?}", auditor.breaches());
    let deaths: Vec<_> = seen
        .iter()
        .filter_map(|event| match *event {
            Event::CombatantDied(CombatantDied { subject, killer, overkill, .. }) => {
                Some((subject, killer, overkill))
            }
            _ => None,
        })
        .collect();
    let expected: Vec<_> = ids.into_iter().map(|id| (id, Some(ids[0]), 0)).collect();
    assert_eq!(deaths, expected, "the second hit took the last 6");
    assert!(ids.iter().all(|&id| fight.view().statuses(id).count() == 0), "the dead bear none");
    assert_eq!(fight.view().swings().count(), 0);
}

/// Whoever has helped against one has helped against all; a death that is prevented keeps all alive.
#[test]
fn credit_and_prevented_deaths_are_of_the_whole_pool() {
    let mut b = Ruleset::builder(60);
    let (crush, tide) = (b.damage_type("crush"), b.reason("tide"));
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let cairn = b.pool(Pool::new("cairn", MAX));
    let oath = hammerstone::status::PreventsDeath { leaves: 7, limit: 1, ends: true };
    let oath = b.status(Status::new("oath").prevents_death(oath));
    let mason = b.template(Template::new("mason", masons, 40));
    let stone = b.template(Template::new("stone", beasts, 1).pool(cairn));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let [odo, mira] = [0.0, 1.0].map(|x| fight.orders().spawn(mason, Pose::at([x, 0.0, 0.0])));
    let stones = [3.0, 4.0, 5.0].map(|x| fight.orders().spawn(stone, Pose::at([x, 0.0, 0.0])));
    fight.orders().apply(stones[1], oath, None);
    let blow = |fight: &mut Encounter, target, points, by| {
        fight.orders().give(Order::Damage {
            target,
            damage_type: crush,
            amount: Fixed::whole(points),
            reason: tide,
            source: Some(by),
            absolute: false,
        });
        fight.tick().unwrap();
    };
    blow(&mut fight, stones[2], 20, mira);
    blow(&mut fight, stones[1], 99, odo);
    // The oath of the one who was struck leaves 7 for all.
    assert!(stones.iter().all(|&stone| fight.view().health(stone) == Some((7, MAX))));
    assert_eq!(fight.view().statuses(stones[1]).count(), 0);
    blow(&mut fight, stones[0], 9, odo);
    let facts = fight.facts();
    let deaths: Vec<_> = facts
        .events()
        .filter_map(|event| match *event {
            Event::CombatantDied(died) => {
                Some((died.subject, died.credit, facts.assists_of(died.assists).to_vec()))
            }
            _ => None,
        })
        .collect();
    let expected: Vec<_> = stones.into_iter().map(|stone| (stone, Some(odo), vec![mira])).collect();
    assert_eq!(deaths, expected);
}
