//! Conditions that lie in each other, choices and chances, against a simple model; and credit that survives.

use hammerstone::Fixed;
use hammerstone::event::{CombatantDied, Event, NotFired, RuleFired};
use hammerstone::flow::{
    Amount, Comparison, Condition, Count, Credit, Dealing, Reaction, Reading, Rule, Target,
};
use hammerstone::ids::{CounterId, FlagId};
use hammerstone::prelude::*;
use proptest::prelude::*;

/// A condition over three flags and two counters.
#[derive(Clone, Debug)]
enum Tree {
    Flag(usize, bool),
    Between(usize, i64, i64),
    Compare(usize),
    All(Vec<Tree>),
    Any(Vec<Tree>),
    Not(Box<Tree>),
}

fn trees() -> impl Strategy<Value = Tree> {
    let leaf = prop_oneof![
        (0..3usize, any::<bool>()).prop_map(|(flag, up)| Tree::Flag(flag, up)),
        (0..2usize, -3..3i64, 0..4i64).prop_map(|(of, low, wide)| Tree::Between(of, low, low + wide)),
        (0..5usize).prop_map(Tree::Compare),
    ];
    leaf.prop_recursive(3, 24, 3, |inner| {
        prop_oneof![
            proptest::collection::vec(inner.clone(), 1..4).prop_map(Tree::All),
            proptest::collection::vec(inner.clone(), 1..4).prop_map(Tree::Any),
            inner.prop_map(|inner| Tree::Not(Box::new(inner))),
        ]
    })
}

struct Facts {
    flags: [bool; 3],
    counters: [i64; 2],
}

impl Tree {
    fn holds(&self, facts: &Facts) -> bool {
        match self {
            Tree::Flag(flag, up) => facts.flags[*flag] == *up,
            Tree::Between(of, low, high) => (*low..=*high).contains(&facts.counters[*of]),
            Tree::Compare(how) => {
                let [left, right] = facts.counters;
                [left < right, left <= right, left == right, left >= right, left > right][*how]
            }
            Tree::All(inner) => inner.iter().all(|one| one.holds(facts)),
            Tree::Any(inner) => inner.iter().any(|one| one.holds(facts)),
            Tree::Not(inner) => !inner.holds(facts),
        }
    }

    fn condition(&self, flags: &[FlagId; 3], counters: &[CounterId; 2]) -> Condition {
        let of = |inner: &[Tree]| inner.iter().map(|one| one.condition(flags, counters)).collect();
        match self {
            Tree::Flag(flag, up) => Condition::Flag(flags[*flag], *up),
            Tree::Between(of, low, high) => Condition::counter(counters[*of], *low, *high),
            Tree::Compare(how) => {
                let [left, right] = counters.map(Reading::Counter);
                Condition::Compare(left, Comparison::ALL[*how], right)
            }
            Tree::All(inner) => Condition::All(of(inner)),
            Tree::Any(inner) => Condition::Any(of(inner)),
            Tree::Not(inner) => inner.condition(flags, counters).negated(),
        }
    }
}

proptest! {
    #![proptest_config(testkit::cases(200))]

    /// Of a choice just the first case fires whose condition holds; each other says what decided it.
    #[test]
    fn the_first_case_that_fits_fires(
        cases in proptest::collection::vec(trees(), 1..5),
        states in proptest::collection::vec((any::<[bool; 3]>(), [-4..5i64, -4..5i64]), 1..8),
    ) {
        let mut b = Ruleset::builder(60);
        let signal = b.host_topic("host.signal", &[]);
        let flags = ["one", "two", "three"].map(|name| b.flag(name));
        let counters = ["left", "right"].map(|name| b.counter(name));
        let line = b.line("Ho!");
        let rules = cases.iter().enumerate().map(|(i, tree)| {
            let rule = Rule::on(&format!("case {i}"), "host.signal").when(tree.condition(&flags, &counters));
            rule.does(Reaction::say(None, line))
        });
        let ids = b.choice("choice", rules.collect::<Vec<_>>());
        // Trees of three levels have at most four.
        let Ok(rules) = b.build() else { return Err(TestCaseError::reject("too deep")) };
        let mut fight = Encounter::new(&rules, 1);
        fight.keep_deliveries(true);
        for (up, held) in states {
            let facts = Facts { flags: up, counters: held };
            for (flag, up) in flags.into_iter().zip(up) {
                fight.orders().set_flag(flag, up);
            }
            for (counter, held) in counters.into_iter().zip(held) {
                fight.orders().count(counter, Count::Set(held));
            }
            fight.orders().publish(signal, &[]);
            fight.tick().unwrap();
            let wanted = cases.iter().position(|tree| tree.holds(&facts));
            let told = fight.facts();
            let fired: Vec<_> = told.events().filter_map(|event| match event {
                Event::RuleFired(RuleFired { rule, .. }) => Some(*rule),
                _ => None,
            }).collect();
            prop_assert_eq!(&fired, &wanted.map(|place| ids[place]).into_iter().collect::<Vec<_>>());
            for declined in told.declined {
                let place = ids.iter().position(|id| *id == declined.rule).unwrap();
                let losses = told.losses_of(declined);
                match declined.why {
                    NotFired::EarlierCase(case) => prop_assert!(wanted.is_some_and(|wanted| wanted < place && ids[wanted] == case)),
                    NotFired::Conditions => {
                        prop_assert!(!losses.is_empty() && !cases[place].holds(&facts));
                        // What is named decides it: each is a leaf, and wanted otherwise than it was found.
                        let all = rules.rules()[declined.rule.index()].all_conditions();
                        prop_assert!(losses.iter().all(|loss| all[usize::from(loss.condition)].inner().is_empty()));
                    }
                    NotFired::Limit => prop_assert!(false, "it has no limit"),
                }
            }
        }
    }
}

/// Of many rolls with a chance of a quarter about a quarter come; a rule that rolls beside it changes none of them.
#[test]
fn chances_come_as_often_as_they_say_and_alone() {
    let fires = |beside: bool| {
        let mut b = Ruleset::builder(60);
        let signal = b.host_topic("host.signal", &[]);
        let line = b.line("Ho!");
        if beside {
            let other = Rule::on("beside", "host.signal").when(Condition::Chance(Fixed::ratio(1, 2)));
            b.rule(other.priority(5).does(Reaction::say(None, line)));
        }
        let rule = Rule::on("a quarter", "host.signal").when(Condition::Chance(Fixed::ratio(1, 4)));
        let id = b.rule(rule.does(Reaction::say(None, line)));
        let rules = b.build().unwrap();
        let mut fight = Encounter::new(&rules, 7);
        let mut fired = Vec::new();
        for _ in 0..2000 {
            fight.orders().publish(signal, &[]);
            fight.tick().unwrap();
            fired.push(
                fight
                    .facts()
                    .events()
                    .any(|event| matches!(event, Event::RuleFired(RuleFired { rule, .. }) if *rule == id)),
            );
        }
        fired
    };
    let alone = fires(false);
    let count = alone.iter().filter(|fired| **fired).count();
    assert!((420..580).contains(&count), "{count} of 2000");
    assert_eq!(alone, fires(true));
}

/// A kill by what a rule puts off is credited to the owner of the one who is named, as it was when the rule fired: both have left since.
#[test]
fn credit_survives_death_and_removal() {
    let mut b = Ruleset::builder(60);
    let crush = b.damage_type("crush");
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.4 });
    let mason = b.template(Template::new("mason", masons, 10).part(trunk.clone()));
    let hound = b.template(Template::new("hound", beasts, 10).part(trunk));
    let amount = b.word("amount");
    let tide = b.reason("tide");
    let late = Dealing::of(crush, Amount::of(Reading::Field(amount), Fixed::whole(5))).by(Credit::Other);
    b.rule(Rule::on_family("late", "damage").does_after(5, Reaction::Damage(Target::Subject, late)));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 1);
    let owner = fight.orders().spawn(mason, Pose::IDENTITY);
    let servant = fight.orders().spawn_as(mason, Pose::IDENTITY, None, Some(owner));
    let prey = fight.orders().spawn(hound, Pose::at([5.0, 0.0, 0.0]));
    fight.tick().unwrap();
    fight.orders().give(Order::Damage {
        target: prey,
        damage_type: crush,
        amount: Fixed::whole(2),
        reason: tide,
        source: Some(servant),
        absolute: false,
    });
    fight.tick().unwrap();
    fight.orders().remove(servant);
    fight.orders().remove(owner);
    // Whoever takes their places gets none of it.
    fight.tick().unwrap();
    let other = fight.orders().spawn(mason, Pose::IDENTITY);
    let mut died = None;
    for _ in 0..8 {
        fight.tick().unwrap();
        died = died.or(fight.facts().events().find_map(|event| match *event {
            Event::CombatantDied(CombatantDied { subject, killer, credit, .. }) => {
                Some((subject, killer, credit))
            }
            _ => None,
        }));
    }
    // 2 of 10, and five times as much later.
    assert_eq!(died, Some((prey, Some(servant), Some(owner))));
    assert_ne!(other, owner);
}
