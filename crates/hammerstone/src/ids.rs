//! Dense, small ids. Names are looked up while a ruleset is built, never while it runs.

use std::hash::{Hash, Hasher};
use std::num::NonZeroU32;

macro_rules! dense_ids {
    ($($(#[$doc:meta])* $name:ident($size:ty)),* $(,)?) => {$(
        $(#[$doc])*
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        pub struct $name(pub(crate) $size);

        impl $name {
            /// The place of this id in its list, from 0.
            pub const fn index(self) -> usize {
                self.0 as usize
            }

            pub(crate) fn new(index: usize) -> Self {
                $name(<$size>::try_from(index).unwrap_or(<$size>::MAX))
            }
        }
    )*};
}

dense_ids! {
    /// A damage type, such as crush or heat.
    DamageTypeId(u16),
    /// A team; relations between teams stand in the ruleset.
    TeamId(u8),
    /// A layer on which parts lie and which attacks meet.
    LayerId(u8),
    /// A tag that a combatant or a part carries.
    TagId(u8),
    /// An authored attack.
    AttackId(u16),
    /// A template: what a combatant is made from.
    TemplateId(u16),
    /// An authored status.
    StatusId(u16),
    /// A stat, such as might or plates.
    StatId(u16),
    /// A sort of shield.
    ShieldId(u16),
    /// A step of the amount that the host's code takes.
    OwnStepId(u16),
    /// A named reason for damage or healing that no attack and no status dealt.
    ReasonId(u16),
    /// A named outcome of an encounter.
    OutcomeId(u16),
    /// A topic of facts, such as `damage.dealt.heat`.
    TopicId(u16),
    /// A family of topics: a path and all below it.
    FamilyId(u16),
    /// A hook: host code under a number, registered beside the encounter.
    HookId(u16),
    /// A topic of the host's own, `host.…`.
    HostTopicId(u16),
    /// A flag: yes or no.
    FlagId(u16),
    /// A counter: a whole number.
    CounterId(u16),
    /// A flag that each combatant has.
    CombatantFlagId(u16),
    /// A counter that each combatant has.
    CombatantCounterId(u16),
    /// A score: a whole number that someone may be credited with.
    ScoreId(u16),
    /// A value that is attached to combatants, such as what they are worth.
    ValueId(u16),
    /// A threshold of health.
    ThresholdId(u16),
    /// A named place of the ground.
    SpotId(u16),
    /// A word that conditions of rules name: a field of a fact, or what it holds.
    WordId(u16),
    /// A name that obstacles may have, for rules.
    ObstacleNameId(u16),
    /// A sequence of waves.
    WaveId(u16),
    /// A line that someone says.
    LineId(u16),
    /// A rule.
    RuleId(u16),
    /// A gauge beside health.
    GaugeId(u16),
    /// A filter of facts, for subscriptions.
    FilterId(u16),
    /// A pool: health that several share.
    PoolId(u16),
    /// A choice: rules of which at most one fires for a fact.
    ChoiceId(u16),
}

impl TagId {
    /// The bit of this tag in a set of tags; none for a number that no set holds.
    pub(crate) const fn bit(self) -> u64 {
        if self.0 < 64 { 1 << self.0 } else { 0 }
    }
}

/// How many resets an encounter has been through. It makes ids unique and decides nothing else, so that it does not count where
/// states are compared: it is hashed as 128 bits, which the hasher of states passes over.
#[derive(Clone, Copy, PartialEq, Eq, Debug, Default)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Epoch(pub(crate) u32);

impl Epoch {
    /// The last that ids have room for.
    pub(crate) const LAST: u32 = u32::MAX >> Generation::BITS;
}

impl Hash for Epoch {
    fn hash<H: Hasher>(&self, state: &mut H) {
        state.write_u128(self.0.into());
    }
}

/// Of a running number, so many bits count; those above hold the epoch.
const NUMBER_BITS: u32 = 40;
/// A tick begins only while running numbers are no larger than this: it leaves room for more than a tick can use up.
pub(crate) const LAST_NUMBER: u64 = (1 << NUMBER_BITS) - (1 << 32);

impl HookId {
    /// The hook of a number, for a [host](crate::hooks::Host) that numbers its own.
    pub const fn numbered(number: u16) -> HookId {
        HookId(number)
    }
}

macro_rules! running_numbers {
    ($($(#[$doc:meta])* $name:ident),* $(,)?) => {$(
        $(#[$doc])*
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        pub struct $name(u64);

        impl $name {
            pub(crate) const fn new(number: u64, epoch: Epoch) -> $name {
                $name(number | (epoch.0 as u64) << NUMBER_BITS)
            }

            /// The id as 64 bits, for a host that keeps it in a field of its own; [`from_bits`](Self::from_bits) gives it back.
            pub const fn to_bits(self) -> u64 {
                self.0
            }

            /// The id of such bits. Bits that no id had give one that is nowhere.
            pub const fn from_bits(bits: u64) -> $name {
                $name(bits)
            }

            /// The number itself; counts from 1, and after a reset again.
            pub const fn number(self) -> u64 {
                self.0 & ((1 << NUMBER_BITS) - 1)
            }
        }

        impl Hash for $name {
            fn hash<H: Hasher>(&self, state: &mut H) {
                self.number().hash(state);
                state.write_u128((self.0 >> NUMBER_BITS).into());
            }
        }
    )*};
}

running_numbers! {
    /// One activation of an attack. A swing's id never comes again.
    SwingId,
    /// One contact of one hitbox with one target, from met to parted.
    ContactId,
    /// One application of a status to a combatant.
    ApplicationId,
    /// An obstacle.
    ObstacleId,
    /// One order given to the encounter.
    OrderId,
    /// One subscription of a hook.
    SubscriptionId,
}

/// Which tenant of its place a combatant is, and in which epoch it came.
///
/// It is kept as one more than its bits, so that there is room in an id for no id.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
#[cfg_attr(
    feature = "serde",
    derive(serde::Serialize, serde::Deserialize),
    serde(try_from = "u32", into = "u32")
)]
pub(crate) struct Generation(NonZeroU32);

const _: () = assert!(size_of::<Option<CombatantId>>() == size_of::<CombatantId>());

impl Generation {
    const BITS: u32 = 16;
    /// All bits of a tenant's number.
    const NUMBER: u32 = (1 << Self::BITS) - 1;
    /// The last that a place can have; then it is used no more. One more, in the last epoch, would have all bits.
    pub(crate) const LAST: u32 = Self::NUMBER - 1;

    pub(crate) const fn number(self) -> u32 {
        self.bits() & Self::NUMBER
    }

    /// The epoch in which it came.
    #[cfg(feature = "serde")]
    pub(crate) const fn epoch(self) -> u32 {
        self.bits() >> Self::BITS
    }

    /// That tenant, as of another epoch.
    pub(crate) const fn of(number: u32, epoch: Epoch) -> Generation {
        match Generation::from_bits(number | epoch.0 << Self::BITS) {
            Some(generation) => generation,
            None => Generation(NonZeroU32::MAX),
        }
    }

    const fn bits(self) -> u32 {
        self.0.get() - 1
    }

    /// None for bits that no tenant has.
    const fn from_bits(bits: u32) -> Option<Generation> {
        match NonZeroU32::new(bits.wrapping_add(1)) {
            Some(kept) => Some(Generation(kept)),
            None => None,
        }
    }
}

impl Default for Generation {
    fn default() -> Generation {
        Generation::of(0, Epoch(0))
    }
}

#[cfg(feature = "serde")]
impl From<Generation> for u32 {
    fn from(generation: Generation) -> u32 {
        generation.bits()
    }
}

#[cfg(feature = "serde")]
impl TryFrom<u32> for Generation {
    type Error = &'static str;

    fn try_from(bits: u32) -> Result<Generation, Self::Error> {
        Generation::from_bits(bits).ok_or("no id of a combatant has these bits")
    }
}

impl Hash for Generation {
    fn hash<H: Hasher>(&self, state: &mut H) {
        self.number().hash(state);
        state.write_u128((self.bits() >> Self::BITS).into());
    }
}

/// A combatant: its place in the state and which of that place's tenants it is.
///
/// An id stays good through deaths and returns; once the combatant is removed it is *gone*
/// and every order that names it is refused, although another may use its place.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct CombatantId {
    pub(crate) slot: u32,
    pub(crate) generation: Generation,
}

impl CombatantId {
    /// The id of no one: never given.
    pub(crate) const NONE: CombatantId =
        CombatantId { slot: u32::MAX, generation: Generation::of(0, Epoch(0)) };

    /// The id as 64 bits, for a host that keeps it in a field of its own; [`from_bits`](Self::from_bits) gives it back.
    pub const fn to_bits(self) -> u64 {
        (self.generation.bits() as u64) << 32 | self.slot as u64
    }

    /// The id of such bits. Bits that no id had give one that is nowhere.
    pub const fn from_bits(bits: u64) -> CombatantId {
        match Generation::from_bits((bits >> 32) as u32) {
            Some(generation) => CombatantId { slot: bits as u32, generation },
            None => CombatantId::NONE,
        }
    }

    /// The place in the state, from 0; used again after removal.
    pub const fn slot(self) -> usize {
        self.slot as usize
    }

    /// Which tenant of its place this is, from 0.
    pub const fn generation(self) -> u32 {
        self.generation.number()
    }
}
