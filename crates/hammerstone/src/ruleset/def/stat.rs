//! Numbers of combatants, and what changes them.

use crate::Fixed;
use crate::ids::*;

/// By how much something changes a number. Several changes of one number are taken together:
/// (number + raises) × (1 + shares) × scales, and then the latest pin, if there is one.
#[doc(alias("buff", "flat", "percent", "multiplier"))]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Modifier {
    /// Added; below 0 it lowers.
    Add(Fixed),
    /// Added to the shares: 0.25 is a quarter more, −0.25 a quarter less.
    AddShare(Fixed),
    /// Multiplied with the other scales; not below 0.
    Multiply(Fixed),
    /// What the number is, whatever else changes it.
    Set(Fixed),
}

impl Modifier {
    /// The name in files and ledgers.
    pub const fn name(self) -> &'static str {
        match self {
            Modifier::Add(_) => "add",
            Modifier::AddShare(_) => "add-share",
            Modifier::Multiply(_) => "multiply",
            Modifier::Set(_) => "set",
        }
    }

    /// The number.
    pub const fn value(self) -> Fixed {
        match self {
            Modifier::Add(value)
            | Modifier::AddShare(value)
            | Modifier::Multiply(value)
            | Modifier::Set(value) => value,
        }
    }

    /// The change at `strength`, `stack` times over: additions and shares are multiplied by both, a factor's distance from 1 by the
    /// strength, and it counts once for each of the stack. A set value stays what it is.
    pub(crate) fn at(self, strength: Fixed, stacks: u16) -> Modifier {
        let times = strength * Fixed::whole(stacks.into());
        match self {
            Modifier::Add(value) => Modifier::Add(value * times),
            Modifier::AddShare(value) => Modifier::AddShare(value * times),
            Modifier::Multiply(value) => {
                let once = Fixed::ONE + (value - Fixed::ONE) * strength;
                let once = if once < Fixed::ZERO { Fixed::ZERO } else { once };
                Modifier::Multiply((0..stacks).fold(Fixed::ONE, |all, _| all * once))
            }
            Modifier::Set(value) => Modifier::Set(value),
        }
    }
}

/// A change of one stat.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct StatChange {
    /// Which stat.
    pub stat: StatId,
    /// By how much.
    pub by: Modifier,
}

/// A stat, and what it is for those whose template says nothing.
#[derive(Clone, Debug, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Stat {
    pub(crate) name: String,
    pub(crate) base: Fixed,
}

impl Stat {
    pub(crate) fn name(&self) -> &str {
        &self.name
    }
}

/// One of the two sides of a blow.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Role {
    /// The one that strikes or heals.
    Attacker,
    /// The one that is struck or healed.
    Target,
}

impl Role {
    /// The name in files and ledgers.
    pub const fn name(self) -> &'static str {
        match self {
            Role::Attacker => "attacker",
            Role::Target => "target",
        }
    }

    /// Both.
    pub const ALL: [Role; 2] = [Role::Attacker, Role::Target];
}

/// What a stat adds to the amount of an attack: amount + stat × `adds`, then × (1 + stat × `shares`).
#[doc(alias("ratio", "coefficient", "attribute scaling"))]
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Scaling {
    /// Whose stat.
    pub of: Role,
    /// Which.
    pub stat: StatId,
    /// Points for each point of the stat.
    pub adds: Fixed,
    /// The share for each point of the stat.
    pub shares: Fixed,
    /// Only for this damage type; for all, and for healing, if none is named.
    pub damage_type: Option<DamageTypeId>,
}

/// Which amounts a change is for.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Direction {
    /// Damage that its bearer deals.
    DealsDamage,
    /// Damage that its bearer takes.
    TakesDamage,
    /// Healing that its bearer gives.
    GivesHealing,
    /// Healing that its bearer takes.
    TakesHealing,
}

impl Direction {
    /// All flows.
    pub const ALL: [Direction; 4] =
        [Direction::DealsDamage, Direction::TakesDamage, Direction::GivesHealing, Direction::TakesHealing];
}

/// A change of amounts that a template or a status brings.
#[must_use = "a method that says more of it gives a new one"]
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct AmountChange {
    /// Which amounts.
    pub flow: Direction,
    /// By how much.
    pub by: Modifier,
    /// Only of this damage type, if one is named.
    pub damage_type: Option<DamageTypeId>,
    /// Only where the other side carries all these tags: bit `n` for tag number `n`. See [`AmountChange::against`].
    pub(crate) against: u64,
}

impl AmountChange {
    /// A change of every amount that flows so.
    pub const fn new(flow: Direction, by: Modifier) -> AmountChange {
        AmountChange { flow, by, damage_type: None, against: 0 }
    }

    /// Only of `damage type`.
    pub const fn damage_type(mut self, damage_type: DamageTypeId) -> AmountChange {
        self.damage_type = Some(damage_type);
        self
    }

    /// Only where the other side carries `tag`. Called again, it must carry all.
    pub const fn against(mut self, tag: TagId) -> AmountChange {
        self.against |= tag.bit();
        self
    }
}
