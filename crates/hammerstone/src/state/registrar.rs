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
        pub(crate) subscriptions: u64,
        pub(crate) epoch: Epoch,
    }
}

impl Registrar {
    pub(crate) fn reserve(&mut self) -> CombatantId {
        let (slot, number) = match self.free.pop() {
            Some(id) => (id.slot, id.generation.number()),
            None => {
                self.slots += 1;
                (self.slots - 1, 0)
            }
        };
        CombatantId { slot, generation: Generation::of(number, self.epoch) }
    }

    /// The place of one who is gone for good may be used again.
    pub(crate) fn release(&mut self, id: CombatantId) {
        let next = id.generation.number() + 1;
        if next <= Generation::LAST {
            self.free.push(CombatantId { generation: Generation::of(next, self.epoch), ..id });
        }
    }

    pub(crate) fn next_swing(&mut self) -> SwingId {
        self.swings += 1;
        SwingId::new(self.swings, self.epoch)
    }

    pub(crate) fn next_obstacle(&mut self) -> ObstacleId {
        self.obstacles += 1;
        ObstacleId::new(self.obstacles, self.epoch)
    }

    pub(crate) fn next_subscription(&mut self) -> SubscriptionId {
        self.subscriptions += 1;
        SubscriptionId::new(self.subscriptions, self.epoch)
    }

    pub(crate) fn next_order(&mut self) -> OrderId {
        self.orders += 1;
        OrderId::new(self.orders, self.epoch)
    }
}
