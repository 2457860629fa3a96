//! What a fact is called in every run of the same ticks.

/// The stable key of a fact: the same when its tick is run again with other inputs, as long as it tells of the same thing.
///
/// It is made of the fact's topic, of the identity fields with the stable keys of combatants ([`crate::orders::Orders::spawn_keyed`]), of which
/// start of an attack by its starter it belongs to, or which status by which source, and of which hit or pulse. The tick is no part of it
/// then: what comes a tick later is the same fact. A fact that belongs to none of these has its tick in its place. Where one thing happens
/// several times (a status that is given again, a contact that is met again), facts have the same key, and follow each other in their order.
///
/// 64 bits, folded as the rolls are: two of a million facts share one by accident once in some forty million such fights.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct FactKey(pub(crate) u64);

impl FactKey {
    /// The key as 64 bits.
    pub const fn to_bits(self) -> u64 {
        self.0
    }
}
