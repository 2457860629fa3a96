//! Stats, changes of numbers, and statuses that are given, out of a ruleset's file.

use std::ops::Range;

use hammerstone::Fixed;
use hammerstone::amount::{
    AmountChange, Armour, Direction, HealStep, Modifier, Overheal, Role, Rounding, Step,
};
use hammerstone::attack::{Critical, Scaling};
use hammerstone::flow::Condition;
use hammerstone::ids::{DamageTypeId, StatId, StatusId, TagId};
use hammerstone::status::{Grant, SharedDamage, Trigger};
use hammerstone::team::Relation;
use toml::Spanned;

use crate::problem::Reading;
use crate::raw;
use crate::rules::Resolver;

/// The ways of changing a number, of which one is to be given.
#[derive(Clone, Copy)]
pub struct Ways<'a> {
    pub add: &'a Option<raw::Number>,
    pub add_share: &'a Option<raw::Number>,
    pub multiply: &'a Option<raw::Number>,
    pub set: &'a Option<raw::Number>,
}

impl Reading<'_> {
    /// The one way that is given.
    pub fn by(&mut self, span: Range<usize>, ways: Ways<'_>) -> Option<Modifier> {
        type Way = fn(Fixed) -> Modifier;
        let ways: [(&Option<raw::Number>, Way); 4] = [
            (ways.add, Modifier::Add),
            (ways.add_share, Modifier::AddShare),
            (ways.multiply, Modifier::Multiply),
            (ways.set, Modifier::Set),
        ];
        let mut given = ways.iter().filter_map(|(number, way)| number.as_ref().map(|number| (number, *way)));
        match (given.next(), given.next()) {
            (Some((number, way)), None) => self.exact(number).map(way),
            (found, _) => {
                let what = if found.is_none() { "does not say how much" } else { "says more than one thing" };
                let fix = Some("give one of add, add-share, multiply, set".to_owned());
                self.problem(span, "here", format!("the change {what}"), fix);
                None
            }
        }
    }
}

impl Resolver<'_, '_> {
    pub fn stat(&mut self, name: &raw::Name) -> Option<StatId> {
        self.reading.find_id("stat", name, &self.known.stats)
    }

    pub fn damage_type(&mut self, name: &raw::Name) -> Option<DamageTypeId> {
        self.reading.find_id("damage type", name, &self.known.damage_types)
    }

    pub fn status_named(&mut self, name: &raw::Name) -> Option<StatusId> {
        self.reading.find_id("status", name, &self.known.statuses)
    }

    pub fn tags_named(&mut self, names: &[raw::Name]) -> Vec<TagId> {
        names.iter().filter_map(|name| self.reading.find_id("tag", name, &self.known.tags)).collect()
    }

    pub fn damage_types_named(&mut self, names: &[raw::Name]) -> Vec<DamageTypeId> {
        names.iter().filter_map(|name| self.damage_type(name)).collect()
    }

    /// Statuses with their strengths.
    pub fn given(
        &mut self,
        sort: &str,
        entry: &str,
        field: &str,
        list: &[Spanned<raw::Given>],
    ) -> Vec<(StatusId, Fixed, Vec<Condition>)> {
        let mut found = Vec::new();
        for given in list {
            self.note(sort, entry, field, given.span());
            let (name, strength, when) = match given.as_ref() {
                raw::Given::Plain(name) => (name, Some(Fixed::ONE), None),
                raw::Given::Strong(raw::Strong { status, strength, when }) => {
                    let exact = |strength| self.reading.exact(&Spanned::new(given.span(), strength));
                    (status, strength.map_or(Some(Fixed::ONE), exact), when.as_deref())
                }
            };
            let when = when.map(|when| self.when_a_hit(when)).unwrap_or_default();
            let status = self.status_named(&Spanned::new(given.span(), name.clone()));
            found.extend(status.zip(strength).map(|(status, strength)| (status, strength, when)));
        }
        found
    }

    /// What an entry changes in amounts that flow so.
    pub fn amounts(
        &mut self,
        sort: &str,
        entry: &str,
        lists: [&[Spanned<raw::AmountChange>]; 4],
    ) -> Vec<AmountChange> {
        let mut found = Vec::new();
        for (flow, list) in Direction::ALL.into_iter().zip(lists) {
            for spanned in list {
                self.note(sort, entry, "amounts", spanned.span());
                let raw = spanned.as_ref();
                let ways =
                    Ways { add: &raw.add, add_share: &raw.add_share, multiply: &raw.multiply, set: &raw.set };
                let Some(by) = self.reading.by(spanned.span(), ways) else { continue };
                let mut change = AmountChange::new(flow, by);
                if let Some(damage_type) = &raw.damage_type
                    && let Some(damage_type) = self.damage_type(damage_type)
                {
                    change = change.damage_type(damage_type);
                }
                found.push(self.tags_named(&raw.against).into_iter().fold(change, AmountChange::against));
            }
        }
        found
    }

    pub fn grants(&mut self, sort: &str, entry: &str, list: &[raw::Grant]) -> Vec<Grant> {
        let mut found = Vec::new();
        for raw in list {
            self.note(sort, entry, "grants", raw.status.span());
            let on = self.reading.find("occasion", &raw.on, Trigger::ALL.map(|on| (on.name(), on)));
            let status = self.status_named(&raw.status);
            let strength =
                raw.strength.as_ref().map_or(Some(Fixed::ONE), |number| self.reading.exact(number));
            if let (Some(on), Some(status), Some(strength)) = (on, status, strength) {
                let mut grant = Grant::new(on, status).strength(strength);
                if let Some(when) = &raw.when {
                    let when = match on {
                        Trigger::Struck | Trigger::Hits => self.when_a_hit(when),
                        _ => self.when_given(when),
                    };
                    grant = when.into_iter().fold(grant, Grant::when);
                }
                found.push(if raw.to_other { grant.to_other() } else { grant });
            }
        }
        found
    }

    pub fn draw(&mut self, raw: &raw::Scaling) -> Option<Scaling> {
        let of = self.reading.find("side", &raw.of, Role::ALL.map(|party| (party.name(), party)));
        let stat = self.stat(&raw.stat);
        let damage_type = match &raw.damage_type {
            Some(damage_type) => Some(self.damage_type(damage_type)?),
            None => None,
        };
        let or_none = |reading: &mut Reading<'_>, number: &Option<raw::Number>| {
            number.as_ref().map_or(Some(Fixed::ZERO), |number| reading.exact(number))
        };
        let (adds, shares) = (or_none(self.reading, &raw.adds), or_none(self.reading, &raw.shares));
        if raw.adds.is_none() && raw.shares.is_none() {
            let fix = Some("give `adds`, points for each point of the stat, or `shares`".to_owned());
            let message = "the stat adds nothing".to_owned();
            self.reading.problem(raw.stat.span(), "here", message, fix);
        }
        Some(Scaling { of: of?, stat: stat?, adds: adds?, shares: shares?, damage_type })
    }

    pub fn critical(&mut self, raw: &raw::Critical) -> Option<Critical> {
        let chance = self.reading.exact(&raw.chance);
        let times = self.reading.exact(&raw.times);
        let chance_stat = raw.chance_stat.as_ref().map(|stat| self.stat(stat));
        let times_stat = raw.times_stat.as_ref().map(|stat| self.stat(stat));
        let critical = Critical::new(chance?, times?);
        Some(Critical { chance_stat: chance_stat.flatten(), times_stat: times_stat.flatten(), ..critical })
    }

    pub fn passing(&mut self, raw: &raw::SharedDamage) -> Option<SharedDamage> {
        let share = self.reading.exact(&raw.share)?;
        let damage_type = match &raw.damage_type {
            Some(damage_type) => Some(self.damage_type(damage_type)?),
            None => None,
        };
        Some(SharedDamage { share, damage_type, linked: raw.linked })
    }

    /// The section `[amount]`.
    pub fn amount(&mut self) {
        let amount = &self.raw.amount;
        let own: Vec<_> = self.known.own_steps.iter().cloned().collect();
        if let Some(names) = &amount.steps {
            let known = || {
                let own = own.iter().map(|(name, id)| (name.as_str(), Step::Own(*id)));
                Step::ALL.iter().map(|step| (step.name(), *step)).chain(own)
            };
            let steps: Vec<Step> =
                names.iter().filter_map(|name| self.reading.find("step", name, known())).collect();
            self.builder.steps(&steps);
            self.note("amount", "", "steps", span_of(names));
        }
        if let Some(names) = &amount.heal_steps {
            let known = || {
                let own = own.iter().map(|(name, id)| (name.as_str(), HealStep::Own(*id)));
                HealStep::ALL.iter().map(|step| (step.name(), *step)).chain(own)
            };
            let steps: Vec<HealStep> =
                names.iter().filter_map(|name| self.reading.find("step of healing", name, known())).collect();
            self.builder.heal_steps(&steps);
            self.note("amount", "", "heal steps", span_of(names));
        }
        let limits = [("floor", &amount.floor, 0), ("cap", &amount.cap, 1_000_000_000)];
        let [floor, cap] = limits.map(|(field, limit, otherwise)| match limit {
            Some(limit) => {
                self.note("amount", "", field, limit.span());
                *limit.as_ref()
            }
            None => otherwise,
        });
        self.builder.limits(floor, cap);
        if let Some(name) = &amount.rounding {
            let known = Rounding::ALL.map(|rounding| (rounding.name(), rounding));
            if let Some(rounding) = self.reading.find("rounding", name, known) {
                self.builder.rounding(rounding);
            }
        }
        if let Some(critical) = &amount.critical {
            self.note("amount", "", "critical", critical.chance.span());
            if let Some(critical) = self.critical(critical) {
                self.builder.critical(critical);
            }
        }
        for (name, share) in &amount.relations {
            self.note("amount", "", "share of a relation", share.span());
            let known = Relation::ALL.map(|relation| (relation.name(), relation));
            let relation = self.reading.find("relation", name, known);
            if let Some((relation, share)) = relation.zip(self.reading.exact(share)) {
                self.builder.relation_share(relation, share);
            }
        }
        if let Some(armour) = &amount.armour {
            let flat = armour.flat.as_ref().and_then(|stat| self.stat(stat));
            let curve = armour.curve.as_ref().and_then(|curve| {
                self.note("amount", "", "armour", curve.half.span());
                self.stat(&curve.stat).zip(self.reading.exact(&curve.half))
            });
            let damage_types = self.damage_types_named(&armour.damage_types);
            self.builder.armour(Armour { flat, curve, damage_types });
        }
        if let Some(overheal) = &amount.overheal {
            self.note("amount", "", "overheal", overheal.share.span());
            let shield = self.reading.find_id("shield", &overheal.shield, &self.known.shields);
            let most = self.reading.whole(&overheal.max, 1, 1_000_000_000);
            if let (Some(shield), Some(share), Some(most)) =
                (shield, self.reading.exact(&overheal.share), most)
            {
                self.builder.overheal(Overheal { shield, share, most: most as u32 });
            }
        }
    }
}

fn span_of(names: &[raw::Name]) -> Range<usize> {
    match names {
        [first, .., last] => first.span().start..last.span().end,
        [only] => only.span(),
        [] => 0..0,
    }
}
