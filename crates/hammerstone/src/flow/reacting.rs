//! What the room keeps while rules react.

use crate::Fixed;
use crate::ids::*;
use crate::orders::Order;

/// The buffers of the room.
#[derive(Clone, Debug, Default)]
pub(crate) struct Reacting {
    /// What a reaction orders.
    pub(super) orders: Vec<Order>,
    /// Whom it damages or heals.
    pub(super) targets: Vec<CombatantId>,
    /// What was read for the amounts of a reaction.
    pub(super) values: Vec<Fixed>,
    /// Whether the encounter begins anew when the tick is over.
    pub(crate) resets: bool,
}
