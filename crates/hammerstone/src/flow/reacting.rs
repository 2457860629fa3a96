//! What the room keeps while rules react.

use crate::orders::Order;

/// The buffers of the room.
#[derive(Clone, Debug, Default)]
pub(crate) struct Reacting {
    /// What a reaction orders.
    pub(super) orders: Vec<Order>,
    /// Whether the encounter begins anew when the tick is over.
    pub(crate) resets: bool,
}
