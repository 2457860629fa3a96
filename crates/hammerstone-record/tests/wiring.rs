//! Who hears what: counts belong to a subscription and its topic.

use hammerstone::Fixed;
use hammerstone::flow::{Condition, Count, Filter, Group, Party, Reaction, Rule};
use hammerstone::orders::Unsubscribe;
use hammerstone::prelude::*;
use hammerstone_record::{About, Record, Run, Wiring};

#[test]
fn each_subscription_has_counts_of_its_own() {
    let mut b = Ruleset::builder(60);
    let (crush, tide) = (b.damage_type("crush"), b.reason("tide"));
    let (masons, beasts) = (b.team("masons"), b.team("beasts"));
    let mason = b.template(Template::new("mason", masons, 40));
    let hound = b.template(Template::new("hound", beasts, 40));
    let blows = b.counter("blows");
    let of_masons = Condition::Is(Party::Subject, Group::team(masons));
    let counts = Rule::on("counts", "health.changed").when(of_masons.clone());
    b.rule(counts.does(Reaction::Count(blows, Count::Add(1))));
    let never =
        b.filter(Filter::on("of masons", "health.changed").when(of_masons).when(Condition::Round(9, 9)));
    let rules = b.build().unwrap();
    let mut hooks = Hooks::<()>::new();
    let hook = hooks.react("hears", |_, _, _| {});
    let mut fight = Encounter::new(&rules, 1);
    fight.keep_deliveries(true);
    let (odo, beast) =
        (fight.orders().spawn(mason, Pose::IDENTITY), fight.orders().spawn(hound, Pose::IDENTITY));
    let changed = Listen::to(topic::HEALTH_CHANGED);
    let paused = fight.orders().subscribe(hook, changed.about(beast).keyed(1));
    fight.orders().subscribe(hook, changed.of_team(beasts).bound_to(7).owned_by_number(3));
    fight.orders().subscribe(hook, changed.fitting(never));
    let (mut run, mut wiring, mut about) = (Run::new(), Wiring::new(&rules), About::new(hound));
    run.names.call_hook(hook, "hears");
    let mut tick = |fight: &mut Encounter| {
        fight.tick_with(&hooks, &mut ()).unwrap();
        run.observe(fight);
        wiring.observe(&run.tick(fight));
        about.observe(&run.tick(fight));
    };
    tick(&mut fight);
    for (number, who) in [odo, beast, beast, beast].into_iter().enumerate() {
        if number == 2 {
            fight.orders().pause(Unsubscribe::Handle(paused));
        }
        fight.orders().damage(who, crush, Fixed::whole(2), tide);
        tick(&mut fight);
    }
    let diagram = wiring.diagram(&rules, &run.names);
    let changed =
        diagram.topics.iter().find(|topic| topic.topic == "health.changed").expect("it was published");
    let told: Vec<_> = changed
        .listeners
        .iter()
        .map(|ear| (ear.terms.join(", "), ear.heard, ear.unfit, ear.paused))
        .collect();
    let expected = [
        ("when subject", 1, 3, 0),
        ("about hound", 1, 1, 2),
        ("team beasts, bound to 7", 3, 1, 0),
        ("fitting of masons", 0, 4, 0),
    ];
    let expected: Vec<_> =
        expected.map(|(terms, heard, unfit, paused)| (terms.to_owned(), heard, unfit, paused)).into();
    // Combatants have no names here but their numbers.
    let told: Vec<_> = told
        .into_iter()
        .map(|(terms, heard, unfit, paused)| {
            (if terms.starts_with("about") { "about hound".to_owned() } else { terms }, heard, unfit, paused)
        })
        .collect();
    assert_eq!(told, expected);
    assert_eq!((changed.published, changed.heard), (4, 5));
    assert!(changed.listeners[3].never_fitted() && !changed.listeners[1].never_fitted());
    assert_eq!(changed.listeners[2].owner.as_deref(), Some("number 3"));
    let counted =
        diagram.topics.iter().find(|topic| topic.topic == "counter.changed").expect("it was counted");
    assert_eq!(counted.led.get("rule counts"), Some(&1));
    // What the hound has to do with it.
    let of_hound = about.topics(&rules);
    let changed = of_hound.iter().find(|topic| topic.topic == "health.changed").expect("it was hurt");
    assert_eq!((changed.subject, changed.other, changed.answers.len()), (3, 0, 0));
    let mut of_mason = About::new(mason);
    let mut fight = Encounter::new(&rules, 1);
    fight.keep_deliveries(true);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let mut run = Run::new();
    for _ in 0..3 {
        fight.orders().damage(odo, crush, Fixed::whole(2), tide);
        fight.tick().unwrap();
        run.observe(&fight);
        of_mason.observe(&run.tick(&fight));
    }
    let of_mason = of_mason.topics(&rules);
    let changed = of_mason.iter().find(|topic| topic.topic == "health.changed").expect("it was hurt");
    assert_eq!((changed.subject, changed.answers.get("counts")), (3, Some(&3)));
}
