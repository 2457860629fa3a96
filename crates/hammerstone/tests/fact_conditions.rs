//! What rules ask of the fields of the facts that they hear.

use hammerstone::Fixed;
use hammerstone::event::{ContactMet, Event, RuleFired};
use hammerstone::flow::{Condition, Count, Held, Reaction, Rule};
use hammerstone::ids::WordId;
use hammerstone::prelude::*;
use proptest::prelude::*;

/// A condition of the field `speed` and so on, out of small numbers.
#[derive(Clone, Copy, Debug)]
enum Asked {
    Speed(i64, i64),
    Hitbox(i64),
    FromStart(bool),
    Moved(&'static str),
    Part(&'static str),
}

fn asked() -> impl Strategy<Value = Asked> {
    prop_oneof![
        (-80_000..80_000i64, 0..120_000i64).prop_map(|(least, wide)| Asked::Speed(least, least + wide)),
        (1..4i64).prop_map(Asked::Hitbox),
        any::<bool>().prop_map(Asked::FromStart),
        prop::sample::select(&["neither", "attacker", "target", "both"][..]).prop_map(Asked::Moved),
        prop::sample::select(&["trunk", "skull"][..]).prop_map(Asked::Part),
    ]
}

impl Asked {
    fn condition(self, word: &mut impl FnMut(&str) -> WordId) -> Condition {
        match self {
            Asked::Speed(least, most) => {
                Condition::Field(word("speed"), Held::Between(Fixed::raw(least), Fixed::raw(most)))
            }
            Asked::Hitbox(number) => {
                Condition::Field(word("hitbox"), Held::Between(Fixed::whole(number), Fixed::whole(number)))
            }
            Asked::FromStart(truth) => Condition::Field(word("from_start"), Held::Truth(truth)),
            Asked::Moved(moved) => Condition::Field(word("moved"), Held::Word(word(moved))),
            Asked::Part(part) => Condition::Field(word("part"), Held::Word(word(part))),
        }
    }

    /// The same, of the fact itself.
    fn holds(self, met: &ContactMet) -> bool {
        match self {
            Asked::Speed(least, most) => {
                (least..=most).contains(&((f64::from(met.speed) * 10_000.0).round() as i64))
            }
            // Counted from 1 in the feed, and from 0 in code.
            Asked::Hitbox(number) => i64::from(met.hitbox) + 1 == number,
            Asked::FromStart(truth) => met.from_start == truth,
            Asked::Moved(moved) => met.moved.name() == moved,
            Asked::Part(part) => ["trunk", "skull"][usize::from(met.part)] == part,
        }
    }
}

fn ball(at: [f32; 3], radius: f32) -> Shape {
    Shape::Sphere { at, radius }
}

proptest! {
    #![proptest_config(testkit::cases(200))]

    /// A rule fires for the contacts for which all that it asks holds, and for no others.
    #[test]
    fn rules_fire_for_the_facts_that_they_ask_for(
        all in prop::collection::vec(asked(), 1..4),
        steps in prop::collection::vec((-0.4..0.4f32, -0.4..0.4f32, any::<bool>()), 4..16),
    ) {
        let mut b = Ruleset::builder(60);
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let count = b.counter("met");
        let pole = Attack::melee("pole").timeline(0, 100, 0);
        let pole = pole.hitbox(ball([0.0, 1.0, 1.0], 0.2)).hitbox(ball([0.0, 2.0, 1.0], 0.2));
        let pole = b.attack(pole);
        let mason = b.template(Template::new("mason", masons, 40));
        let gaunt = Template::new("gaunt", beasts, 40).part(Part::new("trunk", ball([0.0, 1.0, 0.0], 0.3)));
        let gaunt = b.template(gaunt.part(Part::new("skull", ball([0.0, 2.0, 0.0], 0.3))));
        let mut rule = Rule::on("counts", "contact.met").does(Reaction::Count(count, Count::Add(1)));
        for one in &all {
            rule = rule.when(one.condition(&mut |word| b.word(word)));
        }
        b.rule(rule);
        let rules = b.build().unwrap();
        // Words come back from bytes as they were.
        let rules = Ruleset::from_bytes(&rules.to_bytes()).unwrap();
        let mut fight = Encounter::new(&rules, 3);
        let mason = fight.orders().spawn(mason, Pose::IDENTITY);
        let gaunt = fight.orders().spawn(gaunt, Pose::at([0.0, 0.0, 1.4]));
        fight.orders().start(mason, pole);
        let (mut at, mut own) = ([0.0, 0.0, 1.4], [0.0f32; 3]);
        for (aside, ahead, whose) in steps {
            let moved = if whose { &mut at } else { &mut own };
            (moved[0], moved[2]) = (moved[0] + aside, moved[2] + ahead);
            fight.orders().move_to(gaunt, Pose::at(at));
            fight.orders().move_to(mason, Pose::at(own));
            fight.tick().unwrap();
            let events: Vec<Event> = fight.facts().events().copied().collect();
            let wanted = events.iter().filter(|event| match event {
                Event::ContactMet(met) => all.iter().all(|one| one.holds(met)),
                _ => false,
            });
            let fired = events.iter().filter(|event| matches!(event, Event::RuleFired(RuleFired { .. })));
            prop_assert_eq!(fired.count(), wanted.count());
        }
    }
}

#[test]
fn what_a_fact_does_not_have_is_a_finding() {
    let told = |topic: &str, field: &str, held: fn(&mut hammerstone::RulesetBuilder) -> Held| {
        let mut b = Ruleset::builder(60);
        let count = b.counter("met");
        let (field, held) = (b.word(field), held(&mut b));
        let rule = Rule::on("counts", topic).does(Reaction::Count(count, Count::Add(1)));
        b.rule(rule.when(Condition::Field(field, held)));
        b.build().err().map(|findings| findings.to_string()).unwrap_or_default()
    };
    let number = |_: &mut hammerstone::RulesetBuilder| Held::Between(Fixed::ONE, Fixed::whole(2));
    assert_eq!(told("contact.met", "speed", number), "");
    assert!(told("contact.met", "lasted", number).contains("have no field of that name"));
    assert!(told("contact.met", "moved", number).contains("holds nothing of that sort"));
    assert!(told("contact.met", "speed", |_| Held::Truth(true)).contains("holds nothing of that sort"));
    assert!(
        told("contact.met", "moved", |b| Held::Word(b.word("nobody"))).contains("holds nothing of that sort")
    );
    assert_eq!(told("contact.met", "moved", |b| Held::Word(b.word("both"))), "");
    assert_eq!(told("contact.parted", "lasted", number), "");
    let empty = |_: &mut hammerstone::RulesetBuilder| Held::Between(Fixed::whole(2), Fixed::ONE);
    assert!(told("contact.met", "speed", empty).contains("begins after its end"));
}
