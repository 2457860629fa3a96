//! Dense, small ids. Names are looked up while a ruleset is built, never while it runs.

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
    /// A kind of harm, such as crush or heat.
    KindId(u16),
    /// A team; relations between teams stand in the ruleset.
    TeamId(u8),
    /// A layer on which parts lie and which attacks meet.
    LayerId(u8),
    /// A tag that a combatant or a part carries.
    TagId(u8),
    /// An authored attack.
    AttackId(u16),
    /// A cast entry: what a combatant is made from.
    CastId(u16),
    /// An authored status.
    StatusId(u16),
    /// A stat, such as might or plates.
    StatId(u16),
    /// A sort of shield.
    ShieldId(u16),
    /// A step of the amount that the host's code takes.
    OwnStepId(u16),
    /// A named reason for harm or healing that no attack and no status dealt.
    ReasonId(u16),
    /// A named outcome of an encounter.
    OutcomeId(u16),
    /// A topic of facts, such as `damage.dealt.heat`.
    TopicId(u16),
    /// A family of topics: a path and all below it.
    FamilyId(u16),
    /// A hook: host code under a number, registered beside the encounter.
    HookId(u16),
}

impl TagId {
    /// The bit of this tag in a set of tags; none for a number that no set holds.
    pub(crate) const fn bit(self) -> u64 {
        if self.0 < 64 { 1 << self.0 } else { 0 }
    }
}

macro_rules! running_numbers {
    ($($(#[$doc:meta])* $name:ident),* $(,)?) => {$(
        $(#[$doc])*
        #[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        pub struct $name(pub(crate) u64);

        impl $name {
            /// The number itself; counts from 1.
            pub const fn number(self) -> u64 {
                self.0
            }
        }
    )*};
}

running_numbers! {
    /// One activation of an attack. A swing's id never comes again.
    SwingId,
    /// One contact of one volume with one target, from met to parted.
    ContactId,
    /// One application of a status to a combatant.
    ApplicationId,
    /// An obstacle.
    ObstacleId,
    /// One order given to the encounter.
    OrderId,
}

/// A combatant: its place in the state and which of that place's tenants it is.
///
/// An id stays good through deaths and returns; once the combatant is removed it is *gone*
/// and every order that names it is refused, although another may use its place.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct CombatantId {
    pub(crate) slot: u32,
    pub(crate) generation: u32,
}

impl CombatantId {
    /// The place in the state, from 0; used again after removal.
    pub const fn slot(self) -> usize {
        self.slot as usize
    }

    /// Which tenant of its place this is, from 0.
    pub const fn generation(self) -> u32 {
        self.generation
    }
}
