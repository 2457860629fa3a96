//! Hands out ids before the orders that need them are carried out.

use super::{Fills, columns};
use crate::ids::*;

columns! {
    /// What is reserved, and what may be reserved again.
    pub(crate) struct Registrar {
        /// How many places for combatants there have been.
        pub(crate) slots: u32,
        /// Places that are free again, with the generation of their next tenant.
        pub(crate) free: Vec<CombatantId>,
        pub(crate) swings: u64,
        pub(crate) orders: u64,
        pub(crate) obstacles: u64,
    }
}

impl Registrar {
    pub(crate) fn reserve(&mut self) -> CombatantId {
        self.free.pop().unwrap_or_else(|| {
            self.slots += 1;
            CombatantId { slot: self.slots - 1, generation: 0 }
        })
    }

    /// The place of one who is gone for good may be used again.
    pub(crate) fn release(&mut self, id: CombatantId) {
        self.free.push(CombatantId { generation: id.generation + 1, ..id });
    }

    pub(crate) fn next_swing(&mut self) -> SwingId {
        self.swings += 1;
        SwingId(self.swings)
    }

    pub(crate) fn next_obstacle(&mut self) -> ObstacleId {
        self.obstacles += 1;
        ObstacleId(self.obstacles)
    }

    pub(crate) fn next_order(&mut self) -> OrderId {
        self.orders += 1;
        OrderId(self.orders)
    }
}
