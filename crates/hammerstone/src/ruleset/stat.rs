//! Numbers of combatants, and what changes them.

use crate::Fixed;
use crate::ids::*;

/// By how much something changes a number. Several changes of one number are taken together:
/// (number + raises) × (1 + shares) × scales, and then the latest pin, if there is one.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum By {
    /// Added; below 0 it lowers.
    Raise(Fixed),
    /// Added to the shares: 0.25 is a quarter more, −0.25 a quarter less.
    Share(Fixed),
    /// Multiplied with the other scales; not below 0.
    Scale(Fixed),
    /// What the number is, whatever else changes it.
    Pin(Fixed),
}

impl By {
    /// The name in files and ledgers.
    pub const fn name(self) -> &'static str {
        match self {
            By::Raise(_) => "raise",
            By::Share(_) => "share",
            By::Scale(_) => "scale",
            By::Pin(_) => "pin",
        }
    }

    /// The number.
    pub const fn value(self) -> Fixed {
        match self {
            By::Raise(value) | By::Share(value) | By::Scale(value) | By::Pin(value) => value,
        }
    }

    /// The change at `strength`, `pile` times over: raises and shares are multiplied by both, a scale's distance from 1 by the
    /// strength, and it counts once for each of the pile. A pin stays what it is.
    pub(crate) fn at(self, strength: Fixed, pile: u16) -> By {
        let times = strength * Fixed::whole(pile.into());
        match self {
            By::Raise(value) => By::Raise(value * times),
            By::Share(value) => By::Share(value * times),
            By::Scale(value) => {
                let once = Fixed::ONE + (value - Fixed::ONE) * strength;
                let once = if once < Fixed::ZERO { Fixed::ZERO } else { once };
                By::Scale((0..pile).fold(Fixed::ONE, |all, _| all * once))
            }
            By::Pin(value) => By::Pin(value),
        }
    }
}

/// A change of one stat.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct StatChange {
    /// Which stat.
    pub stat: StatId,
    /// By how much.
    pub by: By,
}

/// A stat, and what it is for those whose cast entry says nothing.
#[derive(Clone, Debug)]
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
pub enum Party {
    /// Whoever strikes or heals.
    Attacker,
    /// Whoever is struck or healed.
    Target,
}

impl Party {
    /// The name in files and ledgers.
    pub const fn name(self) -> &'static str {
        match self {
            Party::Attacker => "attacker",
            Party::Target => "target",
        }
    }

    /// Both.
    pub const ALL: [Party; 2] = [Party::Attacker, Party::Target];
}

/// What a stat adds to the amount of an attack: amount + stat × `adds`, then × (1 + stat × `shares`).
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct Draw {
    /// Whose stat.
    pub of: Party,
    /// Which.
    pub stat: StatId,
    /// Points for each point of the stat.
    pub adds: Fixed,
    /// The share for each point of the stat.
    pub shares: Fixed,
    /// Only for this kind of harm; for all, and for healing, if none is named.
    pub kind: Option<KindId>,
}

/// Which amounts a change is for.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub enum Flow {
    /// Harm that its bearer deals.
    DealsHarm,
    /// Harm that its bearer takes.
    TakesHarm,
    /// Healing that its bearer gives.
    GivesHealing,
    /// Healing that its bearer takes.
    TakesHealing,
}

impl Flow {
    /// All flows.
    pub const ALL: [Flow; 4] = [Flow::DealsHarm, Flow::TakesHarm, Flow::GivesHealing, Flow::TakesHealing];
}

/// A change of amounts that a cast entry or a status brings.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
pub struct AmountChange {
    /// Which amounts.
    pub flow: Flow,
    /// By how much.
    pub by: By,
    /// Only of this kind of harm, if one is named.
    pub kind: Option<KindId>,
    /// Only where the other side carries all these tags: bit `n` for tag number `n`. See [`AmountChange::against`].
    pub(crate) against: u64,
}

impl AmountChange {
    /// A change of every amount that flows so.
    pub const fn new(flow: Flow, by: By) -> AmountChange {
        AmountChange { flow, by, kind: None, against: 0 }
    }

    /// Only of `kind`.
    pub const fn kind(mut self, kind: KindId) -> AmountChange {
        self.kind = Some(kind);
        self
    }

    /// Only where the other side carries `tag`. Called again, it must carry all.
    pub const fn against(mut self, tag: TagId) -> AmountChange {
        self.against |= tag.bit();
        self
    }
}
