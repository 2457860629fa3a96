//! Orders that wait.

use super::Order;
use crate::event::Listener;
use crate::ids::*;

/// An order that waits to be carried out.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Pending {
    pub(crate) order: Order,
    pub(crate) number: OrderId,
    /// The fact that a hook or a rule heard, and which, when it gave the order.
    pub(crate) heard: Option<(u64, Listener)>,
    pub(crate) depth: u16,
    /// The root of the tick from which it follows; 0 between ticks.
    pub(crate) root: u32,
}
