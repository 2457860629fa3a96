//! Which steps of an amount have anything to look at, worked out once.

use super::compile::Uses;
use super::def::Definitions;
use super::*;
use crate::Fixed;
use crate::event::Via;
use crate::ids::*;

/// Sets of steps, by the place of each among the ruleset's steps. What is left out changes no amount and leaves no line, whatever hosts, hooks
/// and statuses do in a fight: the ruleset has nothing for it.
#[derive(Clone, Debug)]
pub(crate) struct StepsTaken {
    by_damage_type: Vec<u64>,
    by_attack: Vec<u64>,
    /// Of damage that no attack deals.
    others: u64,
}

impl StepsTaken {
    pub(super) fn of(def: &Definitions, uses: &Uses) -> StepsTaken {
        let those = |takes: &dyn Fn(&Step) -> bool| {
            let places = def.steps.iter().enumerate().filter(|(_, step)| takes(step));
            // A ruleset with more steps than a set holds is refused.
            places.fold(0, |set, (place, _)| set | 1u64.checked_shl(place as u32).unwrap_or(0))
        };
        let by_damage_type = (0..def.damage_types.len()).map(|place| {
            let damage_type = DamageTypeId::new(place);
            those(&|step| match step {
                Step::Attacker => uses.flows[Direction::DealsDamage as usize],
                Step::Target => uses.flows[Direction::TakesDamage as usize],
                Step::Relation => def.relation_shares.iter().any(|&share| share != Fixed::ONE),
                Step::Guard => uses.guards,
                Step::Armour => def.armour.is_good_against(damage_type),
                Step::Shields => def.shields.iter().any(|shield| shield.is_against(damage_type)),
                _ => true,
            })
        });
        let by_attack = def.attacks.iter().map(|attack| {
            those(&|step| match step {
                Step::Stats => !attack.scaling.is_empty(),
                Step::Critical => match attack.critical {
                    Chance::Usual => def.critical.is_some(),
                    Chance::Own(_) => true,
                    Chance::Never => false,
                },
                Step::Distance => attack.fall_off.is_some(),
                _ => true,
            })
        });
        StepsTaken {
            by_damage_type: by_damage_type.collect(),
            by_attack: by_attack.collect(),
            others: those(&|step| {
                !matches!(step, Step::Stats | Step::Critical | Step::Distance | Step::Guard)
            }),
        }
    }

    /// All steps, for each.
    #[cfg(feature = "audit")]
    pub(super) fn take_all(&mut self) {
        self.by_damage_type.iter_mut().chain(&mut self.by_attack).for_each(|steps| *steps = u64::MAX);
        self.others = u64::MAX;
    }

    /// The steps that damage of a type takes.
    #[inline]
    pub(crate) fn by(&self, via: Via, damage_type: DamageTypeId) -> u64 {
        let of_via = match via {
            Via::Attack(attack) => self.by_attack[attack.index()],
            Via::Status(_) | Via::Host(_) | Via::Rule(_) => self.others,
        };
        self.by_damage_type[damage_type.index()] & of_via
    }
}
