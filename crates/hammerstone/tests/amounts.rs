//! Amounts with code in them, previews, and numbers at their limits.

use hammerstone::Fixed;
use hammerstone::amount::{AmountChange, Direction, Luck, Modifier, Role, Rounding, StatAccount, Step};
use hammerstone::attack::{Critical, Damage, Scaling};
use hammerstone::event::{Cause, Event, LedgerLine, Note};
use hammerstone::event::{CombatantDied, DamageDealt, HealApplied};
use hammerstone::findings::Problem;
use hammerstone::flow::{Credit, Reaction, Rule, Target};
use hammerstone::hooks::Verdict;
use hammerstone::ids::{ReasonId, StatId};
use hammerstone::orders::Refusal;
use hammerstone::prelude::*;
use hammerstone::status::{Pulse, Stacking};

struct Yard {
    rules: Ruleset,
    crush: DamageTypeId,
    heat: DamageTypeId,
    maul: AttackId,
    drill: ReasonId,
    might: StatId,
    odo: CombatantId,
    post: CombatantId,
    fight: Encounter,
}

/// A mason whose maul deals 10 crush and 4 heat, a post of 100 health within its reach, and what `more` adds to the rules.
fn yard(more: impl FnOnce(&mut RulesetBuilder), attack: impl FnOnce(Attack) -> Attack) -> Yard {
    let mut b = Ruleset::builder(60);
    let (crush, heat) = (b.damage_type("crush"), b.damage_type("heat"));
    let (masons, posts) = (b.team("masons"), b.team("posts"));
    let drill = b.reason("drill");
    let might = b.stat("might", Fixed::ZERO);
    more(&mut b);
    let reach = Shape::Sphere { at: [0.0, 0.0, 1.0], radius: 0.4 };
    let maul = Attack::melee("maul").timeline(0, 2, 2).damage(crush, 10, 10).damage(heat, 4, 4).hitbox(reach);
    let maul = b.attack(attack(maul));
    let trunk = Part::new("trunk", Shape::Sphere { at: [0.0; 3], radius: 0.4 });
    let mason =
        b.template(Template::new("mason", masons, 100).stat(might, Fixed::whole(6)).part(trunk.clone()));
    let post = b.template(Template::new("post", posts, 100).part(trunk));
    let rules = b.build().unwrap();
    let mut fight = Encounter::new(&rules, 7);
    fight.keep_ledgers(true);
    let odo = fight.orders().spawn(mason, Pose::IDENTITY);
    let post = fight.orders().spawn(post, Pose::at([0.0, 0.0, 1.2]));
    fight.tick().unwrap();
    Yard { rules, crush, heat, maul, drill, might, odo, post, fight }
}

/// One swing of the maul; gives what it dealt, damage type by damage type, with its ledgers.
fn strike(yard: &mut Yard, hooks: &Hooks<u32>, world: &mut u32) -> Vec<(DamageTypeId, i64, Vec<LedgerLine>)> {
    yard.fight.orders().start(yard.odo, yard.maul);
    let mut dealt = Vec::new();
    for _ in 0..5 {
        yard.fight.tick_with(hooks, world).unwrap();
        let facts = yard.fight.facts();
        for event in facts.events() {
            if let Event::DamageDealt(DamageDealt { damage_type, amount, ledger, hit: Some(_), .. }) = *event
            {
                dealt.push((damage_type, amount, facts.ledger_of(ledger).to_vec()));
            }
        }
    }
    dealt
}

#[test]
fn what_an_intercept_asks_for_takes_place_only_if_the_hit_lands() {
    let mut yard = yard(|_| (), |attack| attack);
    let (target, damage_type, reason) = (yard.odo, yard.crush, yard.drill);
    let mut hooks = Hooks::<u32>::new();
    hooks.intercept("greedy", 5, move |_, _, terms| {
        terms.amend_damage_type(damage_type, Modifier::Add(Fixed::whole(3)), reason);
        terms.amend(Modifier::Multiply(Fixed::whole(2)), reason);
        let amount = Fixed::ONE;
        terms.cost(Order::Damage { target, damage_type, amount, reason, source: None, absolute: false });
        Verdict::Proceed
    });
    hooks.intercept("stern", 0, move |refusals: &mut u32, _, _| {
        *refusals += 1;
        if *refusals == 1 { Verdict::Refuse(reason) } else { Verdict::Proceed }
    });
    let mut refusals = 0;
    assert_eq!(strike(&mut yard, &hooks, &mut refusals), []);
    let health = |yard: &Yard, who| yard.fight.view().health(who).unwrap().0;
    assert_eq!((health(&yard, yard.odo), health(&yard, yard.post)), (100, 100), "nothing took place");
    let dealt = strike(&mut yard, &hooks, &mut refusals);
    assert_eq!(
        dealt.iter().map(|(damage_type, amount, _)| (*damage_type, *amount)).collect::<Vec<_>>(),
        [(yard.crush, 26), (yard.heat, 8)]
    );
    assert_eq!((health(&yard, yard.odo), health(&yard, yard.post)), (99, 66), "and the cost is paid once");
    let note = dealt[0].2.iter().find_map(|line| match line.note {
        Note::Changed { cause: Cause::Hook(hook), note, .. } => hooks.name(hook).map(|name| (name, note)),
        _ => None,
    });
    assert_eq!(note, Some(("greedy", Some(yard.drill))));
}

#[test]
fn a_step_of_the_hosts_own_is_taken_and_its_absence_is_said() {
    let mut own = None;
    let with_own = |b: &mut RulesetBuilder| {
        let step = b.own_step("tide");
        own = Some(step);
        b.steps(&[Step::Base, Step::Own(step), Step::Limits, Step::Rounding]);
    };
    let mut yard = yard(with_own, |attack| attack);
    let mut hooks = Hooks::<u32>::new();
    let line = |dealt: &[(DamageTypeId, i64, Vec<LedgerLine>)]| {
        dealt[0].2.iter().find(|line| line.step.own().is_some()).map(|line| (line.after, line.note))
    };
    let dealt = strike(&mut yard, &hooks, &mut 0);
    assert_eq!(line(&dealt), Some((Fixed::whole(10), Note::NoCode)));
    hooks.step(own.unwrap(), "tide", |high: &u32, call| {
        let post = call.view.health(call.target).map_or(0, |(health, _)| health);
        call.amount + Fixed::whole(i64::from(*high) + post)
    });
    let dealt = strike(&mut yard, &hooks, &mut 5);
    assert_eq!(line(&dealt), Some((Fixed::whole(10 + 5 + 86), Note::None)));
    // A step of nothing does not take below nothing.
    hooks.step(own.unwrap(), "ebb", |_, call| call.amount - Fixed::whole(1000));
    let dealt = strike(&mut yard, &hooks, &mut 0);
    assert_eq!(
        dealt.iter().map(|(_, amount, _)| *amount).collect::<Vec<_>>(),
        Vec::<i64>::new(),
        "it has fallen"
    );
    let preview = yard.fight.preview_with(&hooks, &0, yard.post, yard.maul, (yard.odo, 0), Luck::Next);
    assert_eq!(preview, Err(Refusal::Dead));
}

#[test]
fn a_reprieve_by_a_hook_comes_as_often_as_it_may_and_never_against_what_is_absolute() {
    let mut hooks = Hooks::<u32>::new();
    hooks.prevent_death("a second breath", 2, |asked: &mut u32, lethal| {
        *asked += 1;
        assert!(lethal.amount >= 100);
        Some(100)
    });
    let damage = |yard: &mut Yard, absolute, asked: &mut u32| {
        let (target, damage_type, reason) = (yard.post, yard.crush, yard.drill);
        let amount = Fixed::whole(500);
        yard.fight.orders().give(Order::Damage {
            target,
            damage_type,
            amount,
            reason,
            source: None,
            absolute,
        });
        yard.fight.tick_with(&hooks, asked).unwrap();
        let spared = yard.fight.facts().events().any(|event| matches!(event, Event::CombatantSpared(_)));
        (spared, yard.fight.view().health(yard.post).unwrap().0)
    };
    let mut asked = 0;
    let mut first = yard(|_| (), |attack| attack);
    assert_eq!(damage(&mut first, false, &mut asked), (true, 100));
    assert_eq!(damage(&mut first, false, &mut asked), (true, 100));
    assert_eq!(damage(&mut first, false, &mut asked), (false, 0));
    assert_eq!(asked, 2);
    let mut other = yard(|_| (), |attack| attack);
    assert_eq!(damage(&mut other, true, &mut asked), (false, 0));
    assert_eq!(asked, 2, "what is absolute is not asked about");
}

#[test]
fn amounts_beyond_what_can_be_held_saturate_and_say_so() {
    let huge = Fixed::whole(1000);
    let scaled = move |b: &mut RulesetBuilder| {
        let mut status = Status::new("swollen").stacking(Stacking::PerSource);
        for _ in 0..6 {
            status =
                status.changes_amounts(AmountChange::new(Direction::DealsDamage, Modifier::Multiply(huge)));
        }
        b.status(status);
    };
    let mut yard = yard(scaled, Attack::live);
    let swollen = yard.rules.find_status("swollen").unwrap();
    yard.fight.orders().apply(yard.odo, swollen, None);
    let dealt = strike(&mut yard, &Hooks::new(), &mut 0);
    let (_, amount, ledger) = &dealt[0];
    assert!(ledger.iter().any(|line| line.note == Note::Saturated), "{ledger:?}");
    // The cap is still the cap, and health takes no more than it has.
    assert_eq!(*amount, 100);
}

#[test]
fn a_preview_tells_least_most_and_next_and_is_what_then_happens() {
    let mut yard = yard(
        |_| (),
        |attack| {
            let might = Scaling {
                of: Role::Attacker,
                stat: StatIdOf::might(),
                adds: Fixed::ONE,
                shares: Fixed::ZERO,
                damage_type: None,
            };
            attack.scaling(might).critical(Critical::new(Fixed::ratio(1, 2), Fixed::whole(2)))
        },
    );
    for _ in 0..8 {
        let preview = |luck| yard.fight.preview(yard.odo, yard.maul, yard.post, 0, luck).unwrap();
        let amounts = |luck| {
            preview(luck).damage_types.iter().map(|damage_type| damage_type.amount).collect::<Vec<_>>()
        };
        assert_eq!(amounts(Luck::Least), [16, 10]);
        assert_eq!(amounts(Luck::Most), [32, 20]);
        let next = amounts(Luck::Next);
        let dealt = strike(&mut yard, &Hooks::new(), &mut 0);
        assert_eq!(dealt.iter().map(|(_, amount, _)| *amount).collect::<Vec<_>>(), next);
        yard.fight.orders().heal(yard.post, 100, yard.drill);
        yard.fight.tick().unwrap();
    }
    assert_eq!(yard.fight.preview(yard.odo, yard.maul, yard.post, 9, Luck::Next), Err(Refusal::NoSuchPart));
}

/// The only stat of the yard.
struct StatIdOf;

impl StatIdOf {
    fn might() -> StatId {
        Ruleset::builder(60).stat("might", Fixed::ZERO)
    }
}

#[test]
fn a_stat_tells_what_it_is_made_of() {
    let mut yard = yard(
        |b| {
            let might = b.promise_status("strong");
            let stat = StatIdOf::might();
            assert_eq!(b.status(Status::new("strong").changes(stat, Modifier::Add(Fixed::whole(2)))), might);
        },
        |attack| attack,
    );
    let strong = yard.rules.find_status("strong").unwrap();
    yard.fight.orders().apply_at(yard.odo, strong, None, Fixed::ratio(3, 2));
    yard.fight.orders().change(yard.odo, yard.might, Modifier::AddShare(Fixed::ratio(1, 2)), yard.drill);
    yard.fight.tick().unwrap();
    let account = yard.fight.view().stat_account(yard.odo, yard.might).unwrap();
    let expected = StatAccount {
        base: Fixed::whole(6),
        changes: vec![
            (Cause::Status(strong), Modifier::Add(Fixed::whole(3))),
            (Cause::Host(yard.drill), Modifier::AddShare(Fixed::ratio(1, 2))),
        ],
        value: Fixed::ratio(27, 2),
    };
    assert_eq!(account, expected);
    assert_eq!(yard.fight.view().stat(yard.odo, yard.might), Some(Fixed::ratio(27, 2)));
    // The host's changes stay when the bearer dies; the status does not.
    yard.fight.orders().damage(yard.odo, yard.crush, Fixed::whole(500), yard.drill);
    yard.fight.tick().unwrap();
    assert_eq!(yard.fight.view().stat(yard.odo, yard.might), Some(Fixed::whole(9)));
}

/// Amounts beyond all that can be counted: each line still begins where the one before ended.
#[test]
fn a_ledger_of_healing_adds_up_where_it_saturates() {
    for rounding in [Rounding::Nearest, Rounding::Down, Rounding::Up] {
        let mut b = Ruleset::builder(60);
        let team = b.team("masons");
        b.rounding(rounding);
        let balm = b.status(
            Status::new("balm").lasts(60).pulse(Pulse::heal(1, 1_000_000_000, 1_000_000_000).at_once()),
        );
        let mason = b.template(Template::new("mason", team, 1_000_000_000));
        let rules = b.build().unwrap();
        let mut fight = Encounter::new(&rules, 1);
        fight.keep_ledgers(true);
        let odo = fight.orders().spawn(mason, Pose::IDENTITY);
        fight.orders().apply_at(odo, balm, None, Fixed::whole(1_000_000));
        fight.tick().unwrap();
        let facts = fight.facts();
        let healed = facts.events().find_map(|event| match *event {
            Event::HealApplied(HealApplied { amount, excess, ledger, .. }) => Some((amount, excess, ledger)),
            _ => None,
        });
        let (amount, excess, ledger) = healed.unwrap();
        let lines = facts.ledger_of(ledger);
        assert!(
            lines.iter().any(|line| line.after.is_saturated() || line.before.is_saturated()),
            "{lines:?}"
        );
        assert!(lines.windows(2).all(|pair| pair[0].after == pair[1].before), "{rounding:?}: {lines:?}");
        assert_eq!((amount, lines.last().unwrap().after), (0, Fixed::ZERO));
        assert!(excess > 900_000_000_000_000);
    }
}

/// A status that a rule gives is someone's, if the rule says whose: so is the kill.
#[test]
fn a_status_given_by_a_rule_is_credited_to_whom_it_says() {
    for (credit, wanted) in
        [(Credit::Unsaid, None), (Credit::Nobody, None), (Credit::Subject, Some(1)), (Credit::Other, Some(0))]
    {
        let mut b = Ruleset::builder(60);
        let crush = b.damage_type("crush");
        let (masons, beasts) = (b.team("masons"), b.team("beasts"));
        let ball = Shape::Sphere { at: [0.0; 3], radius: 0.5 };
        let ember = Pulse::damage(2, vec![Damage { damage_type: crush, low: 99, high: 99 }]);
        let ember = b.status(Status::new("ember").lasts(9).pulse(ember));
        let poke = b.attack(Attack::melee("poke").timeline(0, 1, 0).hitbox(ball).damage(crush, 1, 1));
        b.rule(Rule::on("kindles", "hit.landed").does(Reaction::Apply(
            Target::Subject,
            ember,
            Fixed::ONE,
            credit,
        )));
        let mason = b.template(Template::new("mason", masons, 40));
        let hound = b.template(Template::new("hound", beasts, 40).part(Part::new("trunk", ball)));
        let rules = b.build().unwrap();
        let mut fight = Encounter::new(&rules, 1);
        let both = [fight.orders().spawn(mason, Pose::IDENTITY), fight.orders().spawn(hound, Pose::IDENTITY)];
        fight.orders().start(both[0], poke);
        let mut killers = Vec::new();
        for _ in 0..9 {
            fight.tick().unwrap();
            killers.extend(fight.facts().events().filter_map(|event| match *event {
                Event::CombatantDied(CombatantDied { killer, credit, .. }) => Some((killer, credit)),
                _ => None,
            }));
        }
        let wanted = wanted.map(|place: usize| both[place]);
        assert_eq!(killers, [(wanted, wanted)], "{credit:?}");
    }
}

/// So many steps fit into a ruleset, and one more is a finding.
#[test]
fn a_ruleset_has_so_many_steps_and_no_more() {
    let with = |own: usize| {
        let mut b = Ruleset::builder(60);
        b.damage_type("crush");
        b.team("masons");
        let own: Vec<Step> = (0..own).map(|n| Step::Own(b.own_step(&format!("tide {n}")))).collect();
        b.steps(&[&[Step::Base], own.as_slice(), &[Step::Rounding, Step::Shields]].concat());
        b.build()
    };
    // One place is for what hooks amend.
    with(59).expect("as many as there may be");
    let findings = with(61).expect_err("too many");
    let steps = findings.0.iter().find(|finding| finding.place.field == "steps").expect("a finding");
    assert!(matches!(steps.problem, Problem::TooMany { count: 64 | 65, most: 63 }), "{steps}");
}
