//! A fight goes on under a tuned ruleset, between two ticks or from yesterday's save.

use hammerstone::amount::Keep;
use hammerstone::event::{AttackEnded, Event, HealthChanged, SwingEnd};
use hammerstone::flow::{Group, Line, Reaction, Rule, Target};
use hammerstone::hooks::HookSort;
use hammerstone::prelude::*;
use hammerstone::status::Pulse;
use hammerstone::{AdoptError, Fixed, Saved};
use proptest::prelude::*;
use testkit::{build, facts_hash, fights, play_under};

/// Goes on for a while, and gives what each tick came to. Of hooks that are subscribed none is called.
fn go_on(fight: &mut Encounter) -> Vec<(u64, u64)> {
    struct Deaf;
    impl Host for Deaf {
        fn hook(&self, _: hammerstone::ids::HookId) -> Option<HookSort> {
            Some(HookSort::Reacts)
        }
    }
    let mut all = Vec::new();
    for tick in 0..20 {
        if tick == 12 {
            // The first state has been adopted, too.
            fight.orders().reset();
        }
        if fight.tick_for(&mut Deaf).is_err() {
            break;
        }
        all.push((facts_hash(&fight.facts()), fight.checksum()));
    }
    all
}

proptest! {
    #![proptest_config(testkit::cases(150))]

    /// Whatever is tuned, and wherever: it is refused and nothing has changed, or the fight goes on, alike however it came there.
    #[test]
    fn a_tuned_ruleset_is_refused_or_the_fight_goes_on(
        fight in fights(),
        seed in any::<u64>(),
        wild in any::<bool>(),
        every in 5..25u32,
        share in any::<bool>(),
    ) {
        let rules = build(&fight.sheet);
        let tuned = build(&fight.sheet.tuned(seed, wild));
        let keep = if share { Keep::Share } else { Keep::Points };
        let mut failed = None;
        play_under(&rules, &fight, |_| (), |encounter| {
            if failed.is_some() || !encounter.view().tick().is_multiple_of(every) {
                return;
            }
            let before = encounter.checksum();
            let mut same = encounter.clone();
            same.adopt(&rules, keep).expect("the same");
            if same.checksum() != before {
                failed = Some("the same ruleset changes a byte".to_owned());
            }
            let saved = encounter.save().expect("it is whole");
            let mut other = encounter.clone();
            if let Err(error) = other.adopt(&tuned, keep) {
                if other.checksum() != before || other.rules().fingerprint() != rules.fingerprint() {
                    failed = Some(format!("refused, and something has changed: {error}"));
                }
                if !wild && !matches!(error, AdoptError::OtherMake { .. }) {
                    failed = Some(format!("numbers alone are refused: {error}"));
                }
                return;
            }
            // On its way through bytes, and through yesterday's save.
            let read = Saved::from_bytes(&other.save().expect("it is whole").to_bytes()).expect("it was written");
            let mut third = Encounter::new(other.rules(), 9);
            third.restore(&read).expect("it is of this ruleset");
            if !other.same_state(&third) {
                failed = Some("another state after a save".to_owned());
            }
            let went = go_on(&mut other);
            let again = go_on(&mut third);
            if let Some(tick) = went.iter().zip(&again).position(|(one, other)| one != other) {
                failed = Some(format!("another fight {tick} ticks after a save: {:?}, {:?}", went[tick], again[tick]));
            }
            let bytes = Saved::from_bytes(&saved.to_bytes()).expect("it was written");
            let mut opened = Encounter::new(&tuned, 9);
            if opened.restore_adopting(&bytes, keep).is_ok() {
                go_on(&mut opened);
            }
        });
        prop_assert!(failed.is_none(), "{}", failed.unwrap_or_default());
    }
}

/// A ruleset of a few things, in one order or the other, with or without some of them.
fn quarry(turned: bool, with_wedge: bool, health: i64) -> Ruleset {
    let mut b = Ruleset::builder(60);
    let (first, second) = if turned { ("stone", "soft") } else { ("soft", "stone") };
    let tags = [b.tag(first), b.tag(second)];
    let [soft, stone] = if turned { [tags[1], tags[0]] } else { tags };
    let teams = if turned { ["beasts", "masons"] } else { ["masons", "beasts"] };
    let teams = teams.map(|name| b.team(name));
    let [masons, beasts] = if turned { [teams[1], teams[0]] } else { teams };
    let crush = b.damage_type("crush");
    let part = Part::new("trunk", Shape::Sphere { at: [0.0, 1.0, 0.0], radius: 0.4 });
    let hitbox = Shape::Sphere { at: [0.0, 1.0, 0.9], radius: 0.6 };
    let mut statuses = vec![
        Status::new("burn").lasts(40).pulse(Pulse::damage(
            5,
            vec![hammerstone::attack::Damage { damage_type: crush, low: 1, high: 1 }],
        )),
        Status::new("brace").lasts(30).tag(stone),
    ];
    if turned {
        statuses.reverse();
    }
    let added: Vec<_> = statuses.into_iter().map(|status| b.status(status)).collect();
    let burn = added[usize::from(turned)];
    let maul = Attack::melee("maul")
        .timeline(4, 6, 10)
        .damage(crush, 5, 5)
        .inflicts(burn)
        .spares_tag(stone)
        .hitbox(hitbox);
    let wedge = Attack::melee("wedge").timeline(1, 2, 2).damage(crush, 2, 2).hitbox(hitbox);
    let mut attacks = vec![maul];
    if with_wedge {
        attacks.insert(usize::from(!turned), wedge);
    }
    attacks.into_iter().for_each(|attack| _ = b.attack(attack));
    let mut templates = vec![
        Template::new("mason", masons, health).tag(stone).part(part.clone()),
        Template::new("hound", beasts, health).tag(soft).part(part),
    ];
    if turned {
        templates.reverse();
    }
    templates.into_iter().for_each(|template| _ = b.template(template));
    let tally = b.counter("bites");
    b.rule(
        Rule::on("tally", "hit.landed")
            .does(Reaction::Count(tally, hammerstone::flow::Count::Add(1)))
            .does_after(
                20,
                Reaction::Heal(Target::Each(Group::team(masons)), hammerstone::flow::Healing::of(Fixed::ONE)),
            ),
    );
    b.build().expect("a ruleset")
}

fn begun(rules: &Ruleset) -> (Encounter, CombatantId, CombatantId) {
    let mut fight = Encounter::new(rules, 7);
    let [mason, hound] = ["mason", "hound"].map(|name| rules.find_template(name).expect("it is there"));
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let hound = fight.orders().spawn(hound, Pose::at([0.0, 0.0, 1.0]));
    fight.tick().expect("it ticks");
    fight.orders().start(odo, rules.find_attack("maul").expect("it is there"));
    (0..8).for_each(|_| _ = fight.tick().expect("it ticks"));
    (fight, odo, hound)
}

/// What the fight says, in names: for rulesets with other numbers.
fn said(fight: &Encounter) -> Vec<String> {
    let rules = fight.rules();
    let one = |event: &Event| match *event {
        Event::HealthChanged(HealthChanged { subject, from, to, .. }) => {
            Some(format!("{} {from} {to}", subject.slot()))
        }
        Event::AttackEnded(AttackEnded { attack, why, .. }) => {
            Some(format!("{:?} {why:?}", rules.attack_name(attack)))
        }
        Event::StatusLifted(lifted) => Some(format!("{:?}", rules.status_name(lifted.status))),
        _ => None,
    };
    fight.facts().events().filter_map(one).collect()
}

/// The same things in another order: ids that were given stay, and the fight goes on as it would have.
#[test]
fn another_order_changes_nothing_but_numbers() {
    let (rules, turned) = (quarry(false, true, 40), quarry(true, true, 40));
    assert_ne!(rules.fingerprint(), turned.fingerprint());
    let (mut fight, ..) = begun(&rules);
    let mut plain = fight.clone();
    fight.adopt(&turned, Keep::Share).expect("it has all of it");
    assert_eq!(fight.rules().fingerprint(), rules.fingerprint(), "put back in order, it is the same");

    // Yesterday's save in today's order, where numbers are others.
    let saved = Saved::from_bytes(&plain.save().expect("whole").to_bytes()).expect("it was written");
    let mut opened = Encounter::new(&turned, 1);
    opened.restore_adopting(&saved, Keep::Share).expect("it has all of it");
    assert_eq!(opened.rules().fingerprint(), turned.fingerprint());
    let mut some = 0;
    for _ in 0..60 {
        for fight in [&mut plain, &mut fight, &mut opened] {
            fight.tick().expect("it ticks");
        }
        assert_eq!(said(&fight), said(&plain));
        assert_eq!(said(&opened), said(&plain));
        some += said(&plain).len();
    }
    assert!(some > 6, "{some}");
    let bites = |fight: &Encounter| fight.view().counter(fight.rules().find_counter("bites").expect("there"));
    assert_eq!((bites(&opened), bites(&fight)), (bites(&plain), bites(&plain)));
    assert_eq!(bites(&plain), Some(1));
}

/// Two lines with one text are two lines, each with what it has beside the text.
#[test]
fn lines_of_one_text_are_told_apart() {
    let rules = |health| {
        let mut b = Ruleset::builder(60);
        let masons = b.team("masons");
        b.line(Line::new("Again.").lasts(10));
        b.line(Line::new("Again.").lasts(20));
        b.template(Template::new("mason", masons, health));
        b.build().expect("a ruleset")
    };
    let (plain, tuned) = (rules(40), rules(60));
    let mut fight = Encounter::new(&plain, 7);
    fight.tick().expect("it ticks");
    let saved = fight.save().expect("whole");
    fight.adopt(&tuned, Keep::Share).expect("numbers alone");
    assert_eq!(fight.rules().fingerprint(), tuned.fingerprint(), "in the same order");
    Encounter::new(&tuned, 7).restore_adopting(&saved, Keep::Share).expect("numbers alone");
}

/// What is new has numbers after all that was there, and can be used at once.
#[test]
fn new_names_come_after_the_old_ones() {
    let (rules, tuned) = (quarry(false, false, 40), quarry(true, true, 60));
    let (mut fight, odo, hound) = begun(&rules);
    fight.adopt(&tuned, Keep::Points).expect("it has all of it");
    let now = fight.rules().clone();
    assert_eq!(now.find_attack("maul"), rules.find_attack("maul"));
    assert_eq!(now.find_template("hound"), rules.find_template("hound"));
    let wedge = now.find_attack("wedge").expect("it is new");
    assert_eq!(wedge.index(), 1);
    let (before, _) = fight.view().health(hound).expect("it is there");
    fight.tick().expect("it ticks");
    assert!(matches!(fight.facts().events().next(), Some(Event::EncounterAdopted(_))));
    assert_eq!(fight.view().health(odo), Some((40, 60)), "points stay");
    assert!(fight.view().health(hound).is_some_and(|(points, max)| points <= before && max == 60));
    (0..20).for_each(|_| _ = fight.tick().expect("it ticks"));
    fight.orders().start(odo, wedge);
    (0..4).for_each(|_| _ = fight.tick().expect("it ticks"));
    assert_eq!(fight.counts().hits, 2);

    // The same with shares.
    let (mut fight, odo, _) = begun(&rules);
    fight.adopt(&tuned, Keep::Share).expect("it has all of it");
    fight.tick().expect("it ticks");
    assert_eq!(fight.view().health(odo), Some((60, 60)));
}

/// A name that is gone is refused, with what still uses it.
#[test]
fn names_that_are_gone_are_refused() {
    let (rules, tuned) = (quarry(false, true, 40), quarry(false, false, 40));
    let (mut fight, odo, _) = begun(&rules);
    let before = fight.checksum();
    let Err(AdoptError::Removed(removed)) = fight.adopt(&tuned, Keep::Share) else {
        panic!("it lacks an attack")
    };
    assert_eq!(removed.len(), 1);
    assert_eq!((removed[0].list.as_str(), removed[0].name.as_str()), ("attacks", "wedge"));
    assert!(removed[0].used_by.is_empty(), "{removed:?}");
    assert_eq!(fight.checksum(), before);
    // Yesterday's save does not mind, as long as nothing uses it.
    let saved = fight.save().expect("whole");
    Encounter::new(&tuned, 1).restore_adopting(&saved, Keep::Share).expect("nothing uses it");

    fight.orders().start(odo, rules.find_attack("wedge").expect("it is there"));
    let error = fight.adopt(&tuned, Keep::Share).expect_err("it lacks an attack");
    let text = error.to_string();
    assert_eq!(
        text,
        "the tuned ruleset lacks `wedge` of its attacks (used by pending); leave them in, or begin anew"
    );
    let saved = fight.save().expect("whole");
    let error = Encounter::new(&tuned, 1).restore_adopting(&saved, Keep::Share).expect_err("it is used");
    assert_eq!(error.to_string(), text);

    let other = Ruleset::builder(30).build().expect("a ruleset");
    assert_eq!(fight.adopt(&other, Keep::Share), Err(AdoptError::OtherRate { own: 60, tuned: 30 }));
}

/// Swings keep their clocks: one that is past its new end ends in the next tick, one that is not goes on.
#[test]
fn swings_past_their_new_end_are_over() {
    let rules = |recovery: u32| {
        let mut b = Ruleset::builder(60);
        let masons = b.team("masons");
        let crush = b.damage_type("crush");
        b.template(Template::new("mason", masons, 40));
        let hitbox = Shape::Sphere { at: [0.0, 1.0, 0.9], radius: 0.6 };
        b.attack(Attack::melee("maul").timeline(2, 2, recovery).damage(crush, 5, 5).hitbox(hitbox));
        b.build().expect("a ruleset")
    };
    let long = rules(40);
    for (recovery, expected) in [(2, Some(SwingEnd::Adopted)), (30, None), (60, None)] {
        let mut fight = Encounter::new(&long, 7);
        let odo = fight.orders().spawn(long.find_template("mason").expect("there"), Pose::IDENTITY);
        fight.tick().expect("it ticks");
        fight.orders().start(odo, long.find_attack("maul").expect("there"));
        (0..12).for_each(|_| _ = fight.tick().expect("it ticks"));
        fight.adopt(&rules(recovery), Keep::Share).expect("numbers alone");
        assert_eq!(fight.view().swings().count(), 1, "until the next tick");
        fight.tick().expect("it ticks");
        let ended = fight.facts().events().find_map(|event| match event {
            Event::AttackEnded(ended) => Some(ended.why),
            _ => None,
        });
        assert_eq!(ended, expected, "{recovery}");
        let left = (0..100).take_while(|_| {
            let runs = fight.view().swings().count() > 0;
            fight.tick().expect("it ticks");
            runs
        });
        let left = left.count() as u32;
        // Twelve ticks of it were over, and one more.
        assert_eq!(left, expected.map_or((4 + recovery + 1).saturating_sub(13), |_| 0), "{recovery}");
    }
}
