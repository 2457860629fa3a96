//! Conditions that a host asks at any time are those that rules ask.

use hammerstone::Fixed;
use hammerstone::event::HostValue;
use hammerstone::flow::{
    Comparison, Condition, Count, Group, Party, Portion, Reaction, Reading, Rule, Target,
};
use hammerstone::ids::StatId;
use hammerstone::prelude::*;
use proptest::collection::vec;
use proptest::prelude::*;
use testkit::cases;

/// Conditions without a fact, by a number.
fn condition(b: &mut RulesetBuilder, might: StatId, which: u8, number: i64) -> Condition {
    let masons = b.team("masons");
    let counter = b.counter("blows");
    let flag = b.combatant_flag("marked");
    let health = |party| Reading::Health(party, Portion::Points);
    match which % 8 {
        0 => Condition::Is(Party::Other, Group::team(masons)),
        1 => Condition::Compare(health(Party::Subject), Comparison::Below, health(Party::Other)),
        2 => Condition::Between(Reading::Counter(counter), Fixed::whole(number), Fixed::whole(number + 2)),
        3 => Condition::CombatantFlag(Party::Subject, flag, number % 2 == 0),
        4 => Condition::Alive(Group::team(masons), 0, number as u32),
        5 => Condition::Between(Reading::Distance, Fixed::ZERO, Fixed::whole(number)),
        6 => Condition::Between(Reading::Stat(Party::Subject, might), Fixed::ZERO, Fixed::whole(1)),
        _ => Condition::Since(b.word("host.knock"), 2, number as u32 + 2),
    }
}

proptest! {
    #![proptest_config(cases(150))]

    /// A rule that hears a knock counts it when its conditions hold. Asked just before, they hold just then.
    #[test]
    fn a_question_holds_where_a_rule_would_fire(
        asked in vec((any::<u8>(), 0i64..6, any::<bool>()), 1..4),
        deeds in vec((0usize..3, 0usize..3, 0i64..6), 1..25),
    ) {
        let mut b = Ruleset::builder(60);
        let (crush, tide) = (b.damage_type("crush"), b.reason("tide"));
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let (counted, might) = (b.counter("counted"), b.stat("might", Fixed::ONE));
        let knock = b.host_topic("host.knock", &[("of", hammerstone::event::ValueSort::Who), ("by", hammerstone::event::ValueSort::Who)]);
        let templates = [("mason", masons), ("mate", masons), ("hound", beasts)].map(|(name, team)| {
            b.template(Template::new(name, team, 20))
        });
        let when: Vec<Condition> = asked.iter().map(|&(which, number, not)| {
            let condition = condition(&mut b, might, which, number);
            if not { Condition::Not(Box::new(condition)) } else { condition }
        }).collect();
        let rule = Rule::on("counts", "host.knock").does(Reaction::Count(counted, Count::Add(1)));
        b.rule(when.iter().cloned().fold(rule, Rule::when));
        let flag = b.combatant_flag("marked");
        let rule = Rule::on("marks", "health.changed").does(Reaction::CombatantFlag(Target::Subject, flag, true));
        b.rule(rule);
        let blows = b.counter("blows");
        let rule = Rule::on("blows", "damage.dealt.crush").does(Reaction::Count(blows, Count::Add(1)));
        b.rule(rule);
        let rules = b.build().unwrap();
        let question = rules.question(when).unwrap();
        let mut fight = Encounter::new(&rules, 1);
        let ids: Vec<CombatantId> = templates.iter().enumerate().map(|(x, &template)| {
            fight.orders().spawn(template, Pose::at([x as f32 * 2.0, 0.0, 0.0]))
        }).collect();
        fight.tick().unwrap();
        for (of, by, points) in deeds {
            fight.orders().damage(ids[of], crush, Fixed::whole(points), tide);
            fight.tick().unwrap();
            let (subject, other) = (ids[of], ids[by]);
            // The rule is asked a tick later: times are one tick longer then, so that the question is asked of a copy in which nothing happens.
            let mut later = Encounter::new(&rules, 1);
            later.restore(&fight.save().unwrap()).unwrap();
            later.tick().unwrap();
            let holds = later.holds(&question, Some(subject), Some(other));
            let before = fight.view().counter(counted).unwrap();
            let checksum = later.checksum();
            prop_assert_eq!(later.holds(&question, Some(subject), Some(other)), holds);
            prop_assert_eq!(later.checksum(), checksum, "a question changes nothing");
            fight.orders().publish(knock, &[HostValue::Who(subject), HostValue::Who(other)]);
            fight.tick().unwrap();
            let fired = fight.view().counter(counted).unwrap() > before;
            prop_assert_eq!(Some(fired), holds);
        }
    }
}

#[test]
fn what_cannot_be_asked_is_found_and_another_rulesets_question_has_no_answer() {
    let mut b = Ruleset::builder(60);
    let word = b.word("amount");
    let path = b.word("combatant.died");
    let rules = b.build().unwrap();
    let found = |when: Vec<Condition>| rules.question(when).unwrap_err().to_string();
    let strange = Condition::Is(
        Party::Subject,
        Group::team({
            let mut other = Ruleset::builder(60);
            other.team("masons")
        }),
    );
    for (condition, part) in [
        (Condition::Chance(Fixed::ratio(1, 2)), "only rules and hits roll a chance"),
        (Condition::Since(path, 0, 9), "no rule and no filter asks how long ago"),
        (Condition::Between(Reading::Field(word), Fixed::ZERO, Fixed::ONE), "no number of that name"),
        (strange, "is not in this ruleset"),
    ] {
        let found = found(vec![condition]);
        assert!(found.contains(part), "{found}");
    }
    let deep = (0..9).fold(Condition::Time(1, 2), |inner, _| Condition::Not(Box::new(inner)));
    assert!(rules.question(vec![deep]).is_err());
    let mut other = Ruleset::builder(60);
    other.team("masons");
    let question = other.build().unwrap().question(Vec::new()).unwrap();
    let fight = Encounter::new(&rules, 1);
    assert_eq!(fight.holds(&question, None, None), None);
    assert_eq!(fight.holds(&rules.question(Vec::new()).unwrap(), None, None), Some(true));
}

#[test]
fn what_is_to_be_by_a_party_that_no_fact_has_is_found() {
    use hammerstone::flow::{Credit, Dealing};
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let masons = b.team("masons");
    b.template(Template::new("mason", masons, 10));
    let dealing = |by| Reaction::Damage(Target::Subject, Dealing::of(crush, Fixed::ONE).by(by));
    b.rule(Rule::on("by the other", "combatant.joined").does(dealing(Credit::Other)));
    b.rule(Rule::on("by the subject", "combatant.joined").does(dealing(Credit::Subject)));
    b.rule(Rule::on("by nobody", "combatant.joined").does(dealing(Credit::Nobody)));
    let findings = b.build().unwrap_err().to_string();
    assert!(
        findings.contains("rule `by the other`, do: `damage` is to be by the other party of the fact"),
        "{findings}"
    );
    assert_eq!(findings.lines().count(), 2, "{findings}");
}
