//! Everything that can be wrong with a ruleset, looked for at once.

mod attack;
mod conditions;
mod flow;
mod gauge;
mod general;
mod given;
mod status;
mod template;

pub(in crate::ruleset) use super::*;
use crate::Fixed;
use crate::geometry::{FARTHEST, Pose, Shape, in_bounds};
use crate::ruleset::compile::{attacks_by_name, topics_of};
use crate::ruleset::def::{DEEPEST, Definitions, Within};
use crate::topic::Topics;

/// Limits that ids and masks set.
pub(in crate::ruleset) const MOST_PARTS: usize = 255;
/// The most of what has ids of 16 bits.
pub(in crate::ruleset) const MOST_ENTRIES: usize = 65_535;
/// The most of what a rule or a fact may name.
pub(in crate::ruleset) const MOST_OF_FLOW: usize = 4096;
/// How many parts may have points of their own, or be hidden: the first so many.
pub(in crate::ruleset) const BREAKABLE: usize = 64;
/// The most reactions that may be allowed for a tick.
pub(in crate::ruleset) const MOST_REACTIONS: i64 = 1_000_000;
/// The longest time that may be authored, in ticks.
pub(crate) const LONGEST: i64 = 10_000_000;
/// How far a path may turn in one tick.
pub(in crate::ruleset) const MOST_DEGREES: f32 = 3600.0;
/// The largest amount that may be authored, in points.
pub(in crate::ruleset) const LARGEST: i64 = 1_000_000_000;

/// How many of each there are, for checking ids.
pub(in crate::ruleset) struct Sizes {
    pub(in crate::ruleset) damage_types: usize,
    pub(in crate::ruleset) teams: usize,
    pub(in crate::ruleset) layers: usize,
    pub(in crate::ruleset) statuses: usize,
    pub(in crate::ruleset) stats: usize,
    pub(in crate::ruleset) shields: usize,
    pub(in crate::ruleset) own_steps: usize,
    pub(in crate::ruleset) gauges: usize,
    pub(in crate::ruleset) pools: usize,
}

impl Sizes {
    pub(in crate::ruleset) fn of(rules: &Definitions) -> Sizes {
        Sizes {
            damage_types: rules.damage_types.len(),
            teams: rules.teams.len(),
            layers: rules.layers.len(),
            statuses: rules.statuses.len(),
            stats: rules.stats.len(),
            shields: rules.shields.len(),
            own_steps: rules.own_steps.len(),
            gauges: rules.gauges.len(),
            pools: rules.pools.len(),
        }
    }
}

/// What was found so far, and the entry that is being looked at.
pub(crate) struct Check {
    pub(in crate::ruleset) found: Vec<Finding>,
    pub(in crate::ruleset) sort: &'static str,
    pub(in crate::ruleset) name: String,
    /// What the conditions that are being looked at are asked for.
    asked: Asked,
}

/// What conditions are asked for.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Asked {
    /// A fact that a rule hears.
    Fact,
    /// A hit that gives statuses.
    Hit,
    /// A status that is given without a hit, where there may be another side.
    Grant { other: bool },
}

impl Check {
    /// Looks for everything that can be wrong with what was defined.
    pub(in crate::ruleset) fn of(def: &Definitions) -> Check {
        let mut check = Check { found: Vec::new(), sort: "rules", name: String::new(), asked: Asked::Fact };
        check.rules(def);
        check.names(def);
        let sizes = Sizes::of(def);
        let ids = attacks_by_name(def);
        let names = ids.into_iter().map(|(name, id)| (name, def.attacks[id.index()].form)).collect();
        for gauge in &def.gauges {
            check.gauge(gauge, def, &sizes);
        }
        for attack in &def.attacks {
            check.attack(attack, &names, &sizes);
            check.readiness(attack, &names, &sizes);
        }
        for template in &def.templates {
            check.template(template, &sizes);
        }
        for status in &def.statuses {
            check.status(status, &sizes);
        }
        check.circles(&def.statuses);
        let topics = Topics::new(&def.damage_types, &def.host_topics);
        check.flow(def, &topics);
        check.all_given(def, &topics);
        check.relations(def);
        check.pools(def);
        check
    }

    /// Turns to the entry of `sort` named `name`.
    pub(in crate::ruleset) fn turn_to(&mut self, sort: &'static str, name: &str) {
        (self.sort, self.name) = (sort, name.to_owned());
    }

    pub(crate) fn find(&mut self, field: &str, problem: Problem) {
        let place = Place { sort: self.sort, name: self.name.clone(), field: field.to_owned() };
        self.found.push(Finding { place, problem });
    }

    /// An amount that may be below 0.
    pub(in crate::ruleset) fn amount(&mut self, field: &str, amount: Fixed) {
        self.share(field, amount, Fixed::whole(-LARGEST), Fixed::whole(LARGEST));
    }

    pub(in crate::ruleset) fn by(&mut self, field: &str, by: Modifier) {
        match by {
            Modifier::Add(value) | Modifier::Set(value) => self.amount(field, value),
            Modifier::AddShare(value) => self.share(field, value, Fixed::whole(-1000), Fixed::whole(1000)),
            Modifier::Multiply(value) => self.share(field, value, Fixed::ZERO, Fixed::whole(1000)),
        }
    }

    pub(in crate::ruleset) fn changes(&mut self, amounts: &[AmountChange], grants: &[Grant], sizes: &Sizes) {
        for change in amounts {
            self.by("amounts", change.by);
            if let Some(damage_type) = change.damage_type {
                self.id("amounts", "damage type", damage_type.index(), sizes.damage_types);
            }
        }
        for grant in grants {
            self.id("grants", "status", grant.status.index(), sizes.statuses);
            self.strength("grants", grant.strength);
        }
    }

    pub(in crate::ruleset) fn strength(&mut self, field: &str, strength: Fixed) {
        self.share(field, strength, Fixed::ZERO, Fixed::whole(1_000_000));
    }

    pub(in crate::ruleset) fn given(&mut self, field: &str, given: &[Given], sizes: &Sizes) {
        for one in given {
            self.id(field, "status", one.status.index(), sizes.statuses);
            self.strength(field, one.strength);
        }
    }

    pub(in crate::ruleset) fn points(&mut self, field: &str, low: i64, high: i64) {
        self.range(field, low, 0, LARGEST);
        self.range(field, high, 0, LARGEST);
        if low > high {
            self.find(field, Problem::Reversed { low, high });
        }
    }

    pub(in crate::ruleset) fn damage(&mut self, damage: &[Damage], sizes: &Sizes) {
        for (i, one) in damage.iter().enumerate() {
            self.id("damage", "damage type", one.damage_type.index(), sizes.damage_types);
            self.range("damage", one.low, 0, LARGEST);
            self.range("damage", one.high, 0, LARGEST);
            if one.low > one.high {
                self.find("damage", Problem::Reversed { low: one.low, high: one.high });
            }
            if damage[..i].iter().any(|other| other.damage_type == one.damage_type) {
                self.find(
                    "damage",
                    Problem::Twice(format!("damage type number {}", one.damage_type.index())),
                );
            }
        }
    }

    pub(in crate::ruleset) fn shape(&mut self, field: &str, shape: Shape) {
        let (points, sizes) = match shape {
            Shape::Sphere { at, radius } => ([at, at], [radius; 3]),
            Shape::Capsule { from, to, radius } => ([from, to], [radius; 3]),
            Shape::Box { pose, half } => {
                if pose.settled().is_none() {
                    self.find(field, Problem::NoTurn);
                }
                ([pose.at, pose.at], half)
            }
        };
        if let Some(&value) = points.iter().flatten().chain(&sizes).find(|&&x| !in_bounds(&[x])) {
            return self.within(field, value, FARTHEST);
        }
        if let Some(&radius) = sizes.iter().find(|&&size| size <= 0.0) {
            self.find(field, Problem::NoRadius { radius });
        }
        if matches!(shape, Shape::Capsule { from, to, .. } if Pose::at(from) == Pose::at(to)) {
            self.find(field, Problem::NoLength);
        }
    }

    /// A number that is finite and no larger than `most`, whatever its sign.
    pub(crate) fn within(&mut self, field: &str, value: f32, most: f32) {
        if !value.is_finite() {
            self.find(field, Problem::NotFinite { value });
        } else if value.abs() > most {
            self.find(field, Problem::TooLarge { value, most });
        }
    }

    pub(in crate::ruleset) fn id(
        &mut self,
        field: &str,
        what: &'static str,
        index: usize,
        count: usize,
    ) -> bool {
        if index >= count {
            self.find(field, Problem::UnknownId { what, index });
        }
        index < count
    }

    pub(crate) fn range(&mut self, field: &str, value: i64, least: i64, most: i64) {
        if !(least..=most).contains(&value) {
            self.find(field, Problem::OutOfRange { value, least, most });
        }
    }

    pub(in crate::ruleset) fn share(&mut self, field: &str, value: Fixed, least: Fixed, most: Fixed) {
        if !(least..=most).contains(&value) {
            self.find(field, Problem::ShareOutOfRange { value, least, most });
        }
    }
}
