//! Orders about damage, healing, statuses and what combatants come to: why they would be refused.

use super::{in_ruleset, known, present, standing, within};
use crate::Fixed;
use crate::ids::*;
use crate::orders::Order;
use crate::ruleset::{Modifier, Rules};
use crate::state::{HostChange, State};
use crate::terms::{Definition, Quantity, Refusal};

pub(super) fn refusal(rules: &Rules, state: &State, order: &Order) -> Result<(), Refusal> {
    match *order {
        Order::Damage { target, damage_type, amount, reason, source, .. } => {
            known(state, source)?;
            in_ruleset(Definition::DamageType, damage_type.index(), rules.damage_types.len())?;
            in_ruleset(Definition::Reason, reason.index(), rules.reasons.len())?;
            if amount < Fixed::ZERO {
                return Err(Refusal::Negative);
            }
            standing(state, target)
        }
        Order::Heal { target, reason, points, source } => {
            known(state, source)?;
            in_ruleset(Definition::Reason, reason.index(), rules.reasons.len())?;
            within(Quantity::Healing, Fixed::whole(points.into()), Fixed::ZERO, Fixed::whole(1_000_000_000))?;
            standing(state, target)
        }
        Order::Apply { subject, status, strength, source } => {
            known(state, source)?;
            in_ruleset(Definition::Status, status.index(), rules.statuses.len())?;
            within(Quantity::Strength, strength, Fixed::ZERO, Fixed::whole(1_000_000))?;
            standing(state, subject)
        }
        Order::LiftFamily { subject, tag } => {
            in_ruleset(Definition::Tag, tag.index(), rules.tags.len())?;
            standing(state, subject)?;
            let family = |status: StatusId| rules.status(status).tags & tag.bit() != 0;
            let statuses_of = state.running_on(subject.slot()).any(|application| family(application.status));
            if statuses_of { Ok(()) } else { Err(Refusal::NoStatus) }
        }
        Order::Change { subject, stat, by, reason } => {
            in_ruleset(Definition::Stat, stat.index(), rules.stats.len())?;
            in_ruleset(Definition::Reason, reason.index(), rules.reasons.len())?;
            let (least, most) = match by {
                Modifier::Add(_) | Modifier::Set(_) => {
                    (Fixed::whole(-1_000_000_000), Fixed::whole(1_000_000_000))
                }
                Modifier::AddShare(_) => (Fixed::whole(-1000), Fixed::whole(1000)),
                Modifier::Multiply(_) => (Fixed::ZERO, Fixed::whole(1000)),
            };
            within(Quantity::Change, by.value(), least, most)?;
            present(state, subject)
        }
        Order::Unchange { subject, stat, reason } => {
            in_ruleset(Definition::Stat, stat.index(), rules.stats.len())?;
            present(state, subject)?;
            let combatants = &state.combatants;
            let mut known = combatants.host_changes.iter(subject.slot());
            let is = |change: &HostChange| (change.stat, change.reason) == (stat, reason);
            if known.any(is) { Ok(()) } else { Err(Refusal::NoChange) }
        }
        Order::SetMaximum { subject, points, .. } => {
            within(Quantity::Maximum, Fixed::whole(points.into()), Fixed::ONE, Fixed::whole(1_000_000_000))?;
            standing(state, subject)
        }
        Order::ChangeGauge { subject, gauge, points, source, .. } => {
            known(state, source)?;
            in_ruleset(Definition::Gauge, gauge.index(), rules.gauges.len())?;
            within(Quantity::Gauge, Fixed::whole(points), Fixed::ZERO, Fixed::whole(1_000_000_000))?;
            standing(state, subject)?;
            state.combatants.points_of(subject.slot(), gauge).map(|_| ()).ok_or(Refusal::NoGauge)
        }
        Order::RaiseShield { subject, shield, points } => {
            in_ruleset(Definition::Shield, shield.index(), rules.shields.len())?;
            within(Quantity::Shield, Fixed::whole(points.into()), Fixed::ZERO, Fixed::whole(1_000_000_000))?;
            standing(state, subject)
        }
        Order::Lift { subject, status } => {
            in_ruleset(Definition::Status, status.index(), rules.statuses.len())?;
            standing(state, subject)?;
            state.first_status(subject, status).map(|_| ()).ok_or(Refusal::NoStatus)
        }
        _ => Ok(()),
    }
}
