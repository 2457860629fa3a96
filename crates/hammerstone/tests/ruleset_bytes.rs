//! Rulesets as bytes: the same again, canonical, and never anything else.

use hammerstone::attack::Knockback;
use hammerstone::findings::BytesError;
use hammerstone::flow::{Reaction, Rule};
use hammerstone::geometry::Axis;
use hammerstone::prelude::*;
use hammerstone::team::Relation;
use proptest::prelude::*;
use testkit::{Fight, build, cases, facts_hash, fights, play_under};

/// Two hashes for each tick: of its facts, and of the state.
fn hashes(rules: &Ruleset, fight: &Fight) -> Vec<(u64, u64)> {
    let mut hashes = Vec::new();
    play_under(
        rules,
        fight,
        |encounter| encounter.keep_ledgers(true),
        |encounter| hashes.push((facts_hash(&encounter.facts()), encounter.checksum())),
    );
    hashes
}

proptest! {
    #![proptest_config(cases(60))]

    /// What is read plays the same fight and is written as it was.
    #[test]
    fn a_ruleset_that_is_written_and_read_is_the_same(fight in fights()) {
        let rules = build(&fight.sheet);
        let bytes = rules.to_bytes();
        let read = Ruleset::from_bytes(&bytes).expect("it was written here");
        prop_assert_eq!(read.fingerprint(), rules.fingerprint());
        prop_assert_eq!(read.to_bytes(), bytes);
        prop_assert_eq!(hashes(&read, &fight), hashes(&rules, &fight));
    }
}

/// A small ruleset in which `change` may change one thing.
fn quarry(change: impl FnOnce(&mut RulesetBuilder, &mut Attack, &mut Template)) -> Ruleset {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let masons = b.team("masons");
    let hounds = b.team("hounds");
    b.relate(masons, hounds, Relation::Neutral);
    let ball = Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.5 };
    let mut attack =
        Attack::melee("maul").timeline(3, 2, 4).damage(crush, 2, 5).hitbox(ball).key(3, Pose::IDENTITY);
    let mut template = Template::new("mason", masons, 40).part(Part::new("trunk", ball));
    change(&mut b, &mut attack, &mut template);
    b.attack(attack);
    b.template(template);
    b.rule(Rule::on("toll", "combatant.died").does(Reaction::NextRound));
    b.build().expect("a sound ruleset")
}

/// Whatever is defined otherwise, if only by the last bit of a float, is another ruleset.
#[test]
fn each_difference_shows_in_the_fingerprint() {
    let plain = quarry(|_, _, _| {});
    assert_eq!(plain.fingerprint(), quarry(|_, _, _| {}).fingerprint());
    type Change = fn(&mut RulesetBuilder, &mut Attack, &mut Template);
    let changes: [Change; 12] = [
        |b, _, _| {
            b.team("drifters");
        },
        |b, _, _| {
            let teams = [b.team("masons"), b.team("hounds")];
            b.relate(teams[0], teams[1], Relation::Ally);
        },
        |b, _, _| {
            b.limits(1, 1_000_000_000);
        },
        |b, _, _| {
            b.move_limit(f32::from_bits(100.0f32.to_bits() + 1));
        },
        |b, _, _| {
            b.spot("sluice", Pose::IDENTITY);
        },
        |_, attack, _| *attack = attack.clone().policy(Policy::Window),
        |_, attack, _| *attack = attack.clone().key(4, Pose::IDENTITY.facing(Axis::Y, 1.0)),
        |_, attack, _| *attack = attack.clone().max_targets(3),
        |_, attack, _| *attack = attack.clone().knockback(Knockback::new(0.25, 2)),
        |_, _, template| *template = template.clone().corpse_time(3),
        |_, _, template| {
            let radius = f32::from_bits(0.5f32.to_bits() + 1);
            let ball = Shape::Sphere { at: [0.0, 1.0, 0.0], radius };
            *template = template.clone().part(Part::new("head", ball));
        },
        |_, _, template| *template = template.clone().never_critical(),
    ];
    let mut seen = vec![plain.fingerprint()];
    for (number, change) in changes.into_iter().enumerate() {
        let other = quarry(change).fingerprint();
        assert!(!seen.contains(&other), "change number {number} does not show");
        seen.push(other);
    }
}

/// Bytes that are cut, longer, or changed in any one bit are refused; nothing panics.
#[test]
fn damaged_bytes_are_refused() {
    let bytes = quarry(|_, _, _| {}).to_bytes();
    for length in 0..bytes.len() {
        let error = Ruleset::from_bytes(&bytes[..length]).expect_err("it was cut");
        assert!(matches!(error, BytesError::OtherSort | BytesError::Damaged), "{error}");
    }
    let longer = [bytes.as_slice(), &[0]].concat();
    assert_eq!(Ruleset::from_bytes(&longer).expect_err("it goes on"), BytesError::Damaged);
    let mut kinds = [0; 4];
    for place in 0..bytes.len() {
        for bit in 0..8 {
            let mut changed = bytes.clone();
            changed[place] ^= 1 << bit;
            let error = Ruleset::from_bytes(&changed).expect_err("a bit was changed");
            kinds[match error {
                BytesError::OtherSort => 0,
                BytesError::Damaged => 1,
                BytesError::Changed => 2,
                BytesError::Unsound(_) => 3,
                _ => unreachable!("there are no others"),
            }] += 1;
        }
    }
    assert!(kinds.iter().all(|&count| count > 0), "{kinds:?}");
}

/// A ruleset in which something is wrong is refused with everything that is, as when it is built.
#[test]
fn what_is_wrong_is_found_when_it_is_read() {
    let rules = quarry(|_, attack, _| *attack = attack.clone().max_targets(7));
    let bytes = rules.to_bytes();
    // The maximum of targets stands there as an option with one byte: none may be 0.
    let found = (0..bytes.len()).find_map(|place| {
        let mut changed = bytes.clone();
        changed[place] = if changed[place] == 7 { 0 } else { return None };
        match Ruleset::from_bytes(&changed) {
            Err(BytesError::Unsound(findings)) => Some(findings),
            _ => None,
        }
    });
    let text = found.expect("the byte is there").to_string();
    assert!(text.contains("max-targets") && text.contains("maul"), "{text}");
}

/// Bytes in which conditions lie without end in each other are damaged; they do not use up the stack.
#[test]
fn conditions_without_end_are_refused() {
    use hammerstone::flow::{Condition, Reaction, Rule};
    let mut b = Ruleset::builder(60);
    let (flag, line) = (b.flag("sluice"), b.line("Ho!"));
    let rule = Rule::on("says", "flag.changed").when(Condition::Flag(flag, true).negated());
    b.rule(rule.does(Reaction::say(None, line)));
    let rules = b.build().unwrap();
    let bytes = rules.to_bytes();
    assert_eq!(Ruleset::from_bytes(&bytes).unwrap().fingerprint(), rules.fingerprint());
    // The third variant is the negation: so many of them wherever it may stand.
    for place in 16..bytes.len() {
        let mut deep = bytes[..place].to_vec();
        deep.extend(std::iter::repeat_n(2, 200_000));
        deep.extend(&bytes[place..]);
        assert!(Ruleset::from_bytes(&deep).is_err(), "at {place}");
    }
}
