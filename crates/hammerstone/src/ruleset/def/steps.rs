//! The steps by which an amount is worked out, and what they need to know of the ruleset.

use crate::Fixed;
use crate::ids::*;

/// One step of the amount of damage; the ruleset says which there are and in what order.
///
/// No step but resistance takes an amount below nothing. A step that has nothing to look at leaves no line in the ledger.
#[doc(alias("damage formula", "pipeline"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Step {
    /// The attack's or the pulse's own amount, drawn from its range; times the charge, the strength and the stack.
    Base,
    /// What stats of both sides add ([`crate::attack::Scaling`]).
    Stats,
    /// Times the critical multiplier, if the roll came. One roll for all damage types of a blow.
    Critical,
    /// Times the multiplier of the part that was struck. Only for blows.
    Part,
    /// What template and statuses of the attacker change in damage that it deals.
    Attacker,
    /// Times the share of the relation between the teams.
    Relation,
    /// Less the share that a guard takes, if the blow comes from where it guards. Only for blows.
    Guard,
    /// Less the target's resistance to the damage type: ×(1 − resistance). Above 1 it heals.
    Resistance,
    /// Less flat armour; then × half ÷ (half + armour), for armour on a curve.
    Armour,
    /// What template and statuses of the target change in damage that it takes.
    Target,
    /// Times what is left at this distance. Only for blows.
    Distance,
    /// What intercepts amend. If a ruleset leaves it out, it comes before limits and rounding.
    Amended,
    /// The host's own step.
    Own(OwnStepId),
    /// Not below the ruleset's floor, not above its cap. What came to nothing stays nothing.
    Limits,
    /// To whole points.
    Rounding,
    /// Less what shields absorb, in whole points. Only after rounding.
    Shields,
}

impl Step {
    /// All steps but the host's own, in the order that a ruleset has unless it says otherwise.
    pub const ALL: [Step; 15] = [
        Step::Base,
        Step::Stats,
        Step::Critical,
        Step::Part,
        Step::Attacker,
        Step::Relation,
        Step::Guard,
        Step::Resistance,
        Step::Armour,
        Step::Target,
        Step::Distance,
        Step::Amended,
        Step::Limits,
        Step::Rounding,
        Step::Shields,
    ];

    /// The step's name in files, ledgers and the feed; those of the host have names of their own.
    pub const fn name(self) -> &'static str {
        match self {
            Step::Base => "base",
            Step::Stats => "stats",
            Step::Critical => "critical",
            Step::Part => "part",
            Step::Attacker => "attacker",
            Step::Relation => "relation",
            Step::Guard => "guard",
            Step::Resistance => "resistance",
            Step::Armour => "armour",
            Step::Target => "target",
            Step::Distance => "distance",
            Step::Amended => "amended",
            Step::Own(_) => "own",
            Step::Limits => "limits",
            Step::Rounding => "rounding",
            Step::Shields => "shields",
        }
    }
}

/// One step of an amount of healing; all of them run, in this order.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum HealStep {
    /// The attack's or the pulse's own amount, or what was ordered; times the charge, the strength and the stack.
    Base,
    /// What stats of both sides add.
    Stats,
    /// What the healer changes in healing that it gives.
    Given,
    /// What the healed changes in healing that it takes.
    Taken,
    /// The host's own step.
    Own(OwnStepId),
    /// To whole points.
    Rounding,
}

impl HealStep {
    /// All steps but the host's own, in the order that a ruleset has unless it says otherwise.
    pub const ALL: [HealStep; 5] =
        [HealStep::Base, HealStep::Stats, HealStep::Given, HealStep::Taken, HealStep::Rounding];

    /// The step's name in files, ledgers and the feed.
    pub const fn name(self) -> &'static str {
        match self {
            HealStep::Base => "base",
            HealStep::Stats => "stats",
            HealStep::Given => "given",
            HealStep::Taken => "taken",
            HealStep::Own(_) => "own",
            HealStep::Rounding => "rounding",
        }
    }
}

/// How an exact amount becomes whole points.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Rounding {
    /// To the nearest, halves up.
    #[default]
    Nearest,
    /// To the whole number at or below.
    Down,
    /// To the whole number at or above.
    Up,
}

impl Rounding {
    /// All ways of rounding.
    pub const ALL: [Rounding; 3] = [Rounding::Nearest, Rounding::Down, Rounding::Up];

    /// The name in files and ledgers.
    pub const fn name(self) -> &'static str {
        match self {
            Rounding::Nearest => "nearest",
            Rounding::Down => "down",
            Rounding::Up => "up",
        }
    }

    pub(crate) fn whole(self, amount: Fixed) -> i64 {
        match self {
            Rounding::Nearest => amount.nearest(),
            Rounding::Down => amount.floor(),
            Rounding::Up => amount.ceil(),
        }
    }
}

/// Chance and weight of a critical blow.
#[doc(alias("crit", "critical hit"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Critical {
    /// From 0 to 1.
    pub chance: Fixed,
    /// What the amount is multiplied by.
    pub times: Fixed,
    /// A stat of the attacker that is added to the chance; the sum counts from 0 to 1.
    pub chance_stat: Option<StatId>,
    /// A stat of the attacker that is added to the multiplier.
    pub times_stat: Option<StatId>,
}

impl Critical {
    /// A chance and a multiplier that no stat changes.
    pub const fn new(chance: Fixed, times: Fixed) -> Critical {
        Critical { chance, times, chance_stat: None, times_stat: None }
    }
}

/// What armour is, and what it is good against.
#[doc(alias("armor", "defense", "damage reduction"))]
#[derive(Clone, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Armour {
    /// The stat whose points are taken off.
    pub flat: Option<StatId>,
    /// The stat on a curve, and how many points of it halve the amount: × half ÷ (half + stat).
    pub curve: Option<(StatId, Fixed)>,
    /// The damage types that it is good against; every damage type if there are none.
    pub damage_types: Vec<DamageTypeId>,
}

impl Armour {
    /// Whether there is any against a damage type.
    pub(crate) fn is_good_against(&self, damage_type: DamageTypeId) -> bool {
        let any = self.flat.is_some() || self.curve.is_some();
        any && (self.damage_types.is_empty() || self.damage_types.contains(&damage_type))
    }
}

/// What becomes of healing beyond the maximum: a share of it goes into a shield.
#[doc(alias("excess healing"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Overheal {
    /// Which shield.
    pub shield: ShieldId,
    /// How much of the excess.
    pub share: Fixed,
    /// The most that the shield may have by that.
    pub most: u32,
}

/// What health keeps when its maximum changes.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Keep {
    /// Its share of the maximum, to the nearest point, and at least 1.
    #[default]
    Share,
    /// Its points, as far as the new maximum allows.
    Points,
}

impl Keep {
    /// Both.
    pub const ALL: [Keep; 2] = [Keep::Share, Keep::Points];

    /// The name in files.
    pub const fn name(self) -> &'static str {
        match self {
            Keep::Share => "share",
            Keep::Points => "points",
        }
    }
}

/// A sort of shield: points that stand before health.
#[doc(alias("barrier", "absorb", "temporary hit points"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Shield {
    pub(crate) name: String,
    pub(crate) damage_types: Vec<DamageTypeId>,
}

impl Shield {
    /// A shield against every damage type. Of several shields the one that was added to the ruleset first is spent first.
    pub fn new(name: &str) -> Shield {
        Shield { name: name.to_owned(), damage_types: Vec::new() }
    }

    /// Only against `damage type`. Called again, against all that were named.
    pub fn against(mut self, damage_type: DamageTypeId) -> Shield {
        self.damage_types.push(damage_type);
        self
    }

    /// The name.
    pub fn name(&self) -> &str {
        &self.name
    }

    pub(crate) fn is_against(&self, damage_type: DamageTypeId) -> bool {
        self.damage_types.is_empty() || self.damage_types.contains(&damage_type)
    }
}
