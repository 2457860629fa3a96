//! A ruleset from a sheet: templates, statuses and the numbers of damage.

use hammerstone::Fixed;
use hammerstone::amount::{
    AmountChange, Armour, Direction, HealStep, Keep, Modifier, Overheal, Shield, Step,
};
use hammerstone::attack::{Critical, Damage, FormKind, Projectile, When};
use hammerstone::flow::{Condition, Party, Portion, Reading};
use hammerstone::gauge::Pool;
use hammerstone::ids::{ShieldId, SpotId, StatId, TagId, ThresholdId, ValueId};
use hammerstone::prelude::*;
use hammerstone::status::{
    FirstPulse, Grant, Guard, Parry, PreventsDeath, Pulse, SharedDamage, Stacking, Strength, Trigger,
};
use hammerstone::team::Relation;
use hammerstone::template::{Broken, IfItKills, Lives, ReturnTo, Stagger};

use crate::attack::{attack, numbered_attack};
use crate::carrying::{carrying, costly, wind};
use crate::flow::flow;
use crate::sheet::{Dice, Sheet};

pub fn build(sheet: &Sheet) -> Ruleset {
    build_with(sheet, |_| {})
}

/// As [`build`], with something that no sheet says.
pub fn build_with(sheet: &Sheet, more: impl FnOnce(&mut RulesetBuilder)) -> Ruleset {
    let mut b = Ruleset::builder(60);
    more(&mut b);
    let crush = b.damage_type("crush");
    let heat = b.damage_type("heat");
    let teams = [b.team("masons"), b.team("beasts")];
    let layers = [b.layer("body"), b.layer("ghost")];
    b.reason("tide");
    b.outcome("dawn");
    let (lasts, every, at_once, damage) = sheet.pulse;
    let first = if at_once { FirstPulse::AtOnce } else { FirstPulse::After };
    let damage = vec![Damage { damage_type: heat, low: damage, high: damage + 2 }];
    let names = Names {
        damage_types: [crush, heat],
        stats: ["might", "plates", "vigour", "hide"].map(|name| b.stat(name, Fixed::ZERO)),
        shields: [b.shield(Shield::new("glass")), b.shield(Shield::new("brine").against(heat))],
        tags: [b.tag("stone"), b.tag("wet"), b.tag("fire")],
        statuses: (0..sheet.statuses.len()).map(|i| b.promise_status(&format!("status {i}"))).collect(),
        thresholds: [b.threshold("low"), b.threshold("half")],
        spot: b.spot("ramp", Pose::at([0.5, 0.0, 0.5])),
        bounty: b.value("bounty"),
        template: b.promise_template("cast 0"),
    };
    let burn =
        b.status(Status::new("burn").lasts(lasts).pulse(Pulse { every, first, damage, ..Pulse::default() }));
    let shield = b.status(Status::new("shield").lasts(4).invulnerable());
    let stun = b.status(Status::new("stun").lasts(3).stuns());
    let word = b.word("critical");
    for (i, &numbers) in sheet.statuses.iter().enumerate() {
        b.status(status(i, &mut Dice(numbers), &names));
    }
    let pool = b.pool(Pool::new("cairn", 25));
    let wind = wind(&mut b, sheet, burn, names.stats[2]);
    let tag = names.tags[0];
    let mut first_attack = None;
    for (i, sheet) in sheet.attacks.iter().enumerate() {
        let attack = attack(sheet, i, [crush, heat], layers[0], tag, [burn, shield]);
        let attack = numbered_attack(attack, &mut Dice(sheet.numbers), &names);
        let attack = b.attack(costly(attack, &mut Dice(sheet.numbers.rotate_right(17)), wind, stun, word));
        first_attack.get_or_insert(attack);
    }
    // What any attack may start: one that stays, and one that starts itself, for ever but for the limit.
    let ball = Shape::Sphere { at: [0.0, 0.0, 0.0], radius: 0.6 };
    let splinters = b.attack(Attack::area("splinters").timeline(0, 2, 0).damage(crush, 1, 2).hitbox(ball));
    let spread = Projectile { spread: 90.0, pellets: 2, ..Projectile::new(30.0, 3) };
    b.attack(
        Attack::projectile("sparks", spread)
            .timeline(0, 1, 0)
            .damage(heat, 1, 1)
            .hitbox(Shape::Sphere { at: [0.0; 3], radius: 0.1 })
            .child(When::Expiry, "sparks")
            .child(When::Hit, "splinters"),
    );
    for (i, sheet) in sheet.templates.iter().enumerate() {
        let mut template = Template::new(&format!("cast {i}"), teams[usize::from(sheet.team)], sheet.health)
            .resistance(crush, Fixed::raw(sheet.resistance));
        let mut dice = Dice(sheet.numbers);
        template = numbered_template(template, &mut dice, &names);
        if !sheet.numbers.is_multiple_of(3) {
            template = template.gauge(wind);
        }
        if sheet.numbers % 3 == 1 {
            template = template.pool(pool);
        }
        for (j, &(x, radius, ghost, multiplier)) in sheet.parts.iter().enumerate() {
            let mut part = Part::new(&format!("part {j}"), Shape::Sphere { at: [x, 0.5, 0.0], radius });
            if dice.comes(3) {
                let broken = Broken::default().multiplier(Fixed::whole(2)).tag(tag);
                let shape = Shape::Sphere { at: [x, 0.4, 0.1], radius: radius * 0.5 };
                part = part.points(4, if dice.comes(2) { Broken::gone() } else { broken.shape(shape) });
            }
            template =
                template.part(part.layer(layers[usize::from(ghost)]).multiplier(Fixed::raw(multiplier)));
        }
        if i == 1 {
            let pose = Pose::at([0.0, 0.4, 0.3]).turned([1.0, 1.0, 0.0], 40.0);
            template = template.tag(tag).part(Part::new("slab", Shape::Box { pose, half: [0.3, 0.2, 0.4] }));
        }
        if let Some(corpse_time) = sheet.corpse_time {
            template = template.corpse_time(corpse_time);
        }
        // A third follow a skeleton, and some of their parts are hidden at first.
        if dice.comes(3) {
            template = template.posed(4.0);
            let tail =
                Part::new("tail", Shape::Sphere { at: [0.0, 0.2, -0.2], radius: 0.3 }).tag(names.tags[0]);
            let tail = tail.rest(Pose::at([0.0, 0.3, -0.3]).turned([1.0, 0.0, 0.0], 30.0));
            template = template.part(if dice.comes(2) { tail.hidden() } else { tail });
        }
        b.template(template);
    }
    if let Some(first) = first_attack {
        flow(&mut b, sheet, &names, burn, first);
        carrying(&mut b, sheet, &names, splinters, wind);
    }
    numbered_rules(&mut b, &mut Dice(sheet.numbers), &names, &sheet.steps);
    b.limits(sheet.limits.0, sheet.limits.1).rounding(sheet.rounding);
    b.cascade_limit(sheet.cascade.0, sheet.cascade.1, sheet.cascade.2).both_land(sheet.both_land);
    b.build().expect("generated rulesets are sound")
}

/// What numbers and statuses are about.
pub(crate) struct Names {
    pub(crate) damage_types: [DamageTypeId; 2],
    pub(crate) stats: [StatId; 4],
    pub(crate) shields: [ShieldId; 2],
    pub(crate) tags: [TagId; 3],
    pub(crate) statuses: Vec<StatusId>,
    pub(crate) thresholds: [ThresholdId; 2],
    pub(crate) spot: SpotId,
    pub(crate) bounty: ValueId,
    pub(crate) template: TemplateId,
}

impl Names {
    pub(crate) fn status(&self, number: u64) -> StatusId {
        self.statuses[number as usize % self.statuses.len()]
    }
}

pub(crate) fn by(dice: &mut Dice) -> Modifier {
    let value = dice.roll(9) as i64 - 3;
    match dice.roll(4) {
        0 => Modifier::Add(Fixed::whole(value)),
        1 => Modifier::AddShare(Fixed::ratio(value, 4)),
        2 => Modifier::Multiply(Fixed::ratio(value.abs(), 2)),
        _ => Modifier::Set(Fixed::whole(value)),
    }
}

pub(crate) fn change(dice: &mut Dice, names: &Names) -> AmountChange {
    let change = AmountChange::new(Direction::ALL[dice.roll(4) as usize], by(dice));
    let change = if dice.comes(3) { change.damage_type(names.damage_types[0]) } else { change };
    if dice.comes(3) { change.against(names.tags[0]) } else { change }
}

pub(crate) fn status(number: usize, dice: &mut Dice, names: &Names) -> Status {
    let mut status = Status::new(&format!("status {number}"));
    let lasts = dice.roll(12);
    if lasts > 0 {
        status = status.lasts(lasts as u32);
        // Only later ones, so that there is no circle.
        if dice.comes(3) && number + 1 < names.statuses.len() {
            status = status.grant(Grant::new(Trigger::Expiry, names.status(number as u64 + 1)));
        }
    }
    status = status.stacking(Stacking::ALL[dice.roll(5) as usize]);
    status = match dice.roll(4) {
        1 => status.strength(Strength::Captured(names.stats[0])),
        2 => status.strength(Strength::Live(names.stats[0])),
        _ => status,
    };
    status = match dice.roll(11) {
        1 | 10 => status.guard(Guard::new(Fixed::ratio(1, 2), 100.0).breaks_after(1)),
        2 => status.shield(names.shields[dice.roll(2) as usize], 5),
        3 => status.prevents_death(PreventsDeath { leaves: 1, limit: 1, ends: dice.comes(2) }),
        4 => status.reflects(SharedDamage { share: Fixed::ratio(1, 2), damage_type: None, linked: false }),
        5 => status.transfers(SharedDamage {
            share: Fixed::ratio(1, 2),
            damage_type: None,
            linked: number % 2 == 1,
        }),
        6 => status.changes(names.stats[dice.roll(4) as usize], by(dice)),
        7 => status.changes_amounts(change(dice, names)),
        8 => status.pulse(Pulse::heal(2, 0, 3)),
        9 => status.pulse(Pulse {
            absolute: true,
            ..Pulse::damage(3, vec![Damage { damage_type: names.damage_types[1], low: 1, high: 4 }])
        }),
        _ => status,
    };
    match dice.roll(12) {
        9 => status
            .parries(parry(dice))
            .grant(Grant::new(Trigger::Parries, names.status(dice.roll(4))).to_other()),
        10 => status.deflects(parry(dice)).grant(Grant::new(Trigger::Deflects, names.status(dice.roll(4)))),
        8 if status.duration().is_some() => status.kills_on_expiry(names.damage_types[0]),
        1 => status.tag(names.tags[2]).lifted_by(names.tags[1]),
        2 => status.adds_tags(names.tags[1]).hides_parts(names.tags[0]),
        3 => status.adds_tags(names.tags[2]).barred_by(names.tags[2]),
        4 => status.lifts(names.tags[2]),
        5 => status.across_lives().shows_parts(names.tags[0]),
        6 => status.invulnerable().lets_through(names.tags[0]),
        7 => status.grant(Grant::new(Trigger::Struck, names.status(dice.roll(8))).to_other()),
        _ => status,
    }
}

fn parry(dice: &mut Dice) -> Parry {
    let parry = Parry::within(if dice.comes(2) { 180.0 } else { 90.0 });
    let parry = if dice.comes(3) { parry.against(FormKind::ALL[dice.roll(5) as usize]) } else { parry };
    if dice.comes(2) { parry.ends_swing() } else { parry }
}

pub(crate) fn numbered_template(mut template: Template, dice: &mut Dice, names: &Names) -> Template {
    for stat in names.stats {
        template = template.stat(stat, Fixed::whole(dice.roll(4) as i64));
    }
    if dice.comes(3) {
        let lives = Lives::new(1 + dice.roll(3) as u32, dice.roll(6) as u32);
        let to = [ReturnTo::Home, ReturnTo::WhereItDied, ReturnTo::Spot(names.spot)][dice.roll(3) as usize];
        template = template.lives(Lives { to, health: Fixed::ratio(1, 1 + dice.roll(2) as i64), ..lives });
    }
    for (i, threshold) in names.thresholds.into_iter().enumerate() {
        let kills = IfItKills::ALL[dice.roll(2) as usize];
        template = template.threshold(threshold, Fixed::ratio(2 + 3 * i as i64, 10), kills);
    }
    template = template.values(names.bounty, dice.roll(3) as i64);
    for on in [Trigger::Struck, Trigger::Hits, Trigger::Joins, Trigger::Returns, Trigger::Spared] {
        if dice.comes(4) {
            let grant = Grant::new(on, names.status(dice.roll(4)));
            template = template.grant(match (dice.comes(4), on) {
                (true, Trigger::Struck | Trigger::Hits) => grant.when(Condition::Chance(Fixed::ratio(1, 2))),
                (true, _) => {
                    let share = Reading::Health(Party::Subject, Portion::Share);
                    grant.when(Condition::Between(share, Fixed::ZERO, Fixed::ratio(1, 2)))
                }
                _ => grant,
            });
        }
    }
    template = match dice.roll(4) {
        1 => template.shield(names.shields[dice.roll(2) as usize], 6),
        2 => template.changes_amounts(change(dice, names)),
        3 => template.never_critical(),
        _ => template,
    };
    if dice.comes(3) {
        let status = Some(names.status(dice.roll(4)));
        template = template.stagger(Stagger { at: Fixed::whole(6), recovers: Fixed::whole(60), status });
    }
    template
}

pub(crate) fn numbered_rules(b: &mut RulesetBuilder, dice: &mut Dice, names: &Names, steps: &[Step]) {
    let mut steps = steps.to_vec();
    let mut heal = HealStep::ALL.to_vec();
    if dice.comes(2) {
        let own = b.own_step("tide-pull");
        steps.insert(1 + dice.roll(4) as usize, Step::Own(own));
        heal.insert(1, HealStep::Own(own));
    }
    b.steps(&steps).heal_steps(&heal);
    if dice.comes(2) {
        b.critical(Critical::new(Fixed::ratio(1, 3), Fixed::ratio(3, 2)));
    }
    if dice.comes(2) {
        b.armour(Armour {
            flat: Some(names.stats[1]),
            curve: Some((names.stats[3], Fixed::whole(2))),
            damage_types: vec![names.damage_types[0]],
        });
    }
    if dice.comes(2) {
        b.overheal(Overheal { shield: names.shields[0], share: Fixed::ratio(1, 2), most: 6 });
    }
    if dice.comes(2) {
        b.maximum(names.stats[2], Keep::ALL[dice.roll(2) as usize]);
    }
    if dice.comes(2) {
        b.relation_share(Relation::Own, Fixed::ratio(1, 2)).death_credit(30);
    }
    b.hit_stop_limit(dice.roll(8) as u32);
}
