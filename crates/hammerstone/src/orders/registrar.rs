//! Hands out ids before the orders that need them are carried out.
//!
//! An id that was given never means another thing within one history; restoring a state forgets what was given since. Each reserved id is
//! accepted once: by the order that brings it into being. If that order is refused or dropped, the id lapses.
//!
//! *How long that holds:* 65 535 resets; 16 million places for combatants at a time, each with 65 536 tenants between two resets; some
//! 10¹² swings, orders, contacts, applications, obstacles and subscriptions each between two resets. Beyond, there is an error.

use std::collections::VecDeque;

use crate::columns::{Fills, columns};
use crate::ids::*;
use crate::orders::Order;

/// Ids of one sort that are reserved and not used yet, in the order of reserving.
#[derive(PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Reserved<T>(pub(crate) VecDeque<T>);

impl<T> Default for Reserved<T> {
    fn default() -> Self {
        Reserved(VecDeque::new())
    }
}

impl<T: Copy> Clone for Reserved<T> {
    fn clone(&self) -> Self {
        Reserved(self.0.clone())
    }

    fn clone_from(&mut self, from: &Self) {
        self.0.clone_from(&from.0);
    }
}

impl<T: Copy + PartialEq> Reserved<T> {
    pub(crate) fn has(&self, id: T) -> bool {
        self.0.contains(&id)
    }

    /// Takes an id out. Mostly it is the first, since orders are carried out in the order given.
    fn take(&mut self, id: T) -> bool {
        let place = self.0.iter().position(|&other| other == id);
        place.and_then(|place| self.0.remove(place)).is_some()
    }
}

impl<T> Fills for Reserved<T> {
    fn bytes(&self) -> usize {
        self.0.len() * size_of::<T>()
    }
}

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
        pub(crate) reserved_combatants: Reserved<CombatantId>,
        pub(crate) reserved_swings: Reserved<SwingId>,
        pub(crate) reserved_obstacles: Reserved<ObstacleId>,
        pub(crate) reserved_subscriptions: Reserved<SubscriptionId>,
    }
}

impl Registrar {
    /// The most places for combatants.
    pub(crate) const MOST_SLOTS: u32 = 1 << 24;

    /// The id that the next newcomer gets, unless every place is taken.
    pub(crate) fn next_combatant(&self) -> Option<CombatantId> {
        let (slot, number) = match self.free.last() {
            Some(id) => (id.slot, id.generation.number()),
            None if self.slots < Self::MOST_SLOTS => (self.slots, 0),
            None => return None,
        };
        Some(CombatantId { slot, generation: Generation::of(number, self.epoch) })
    }

    /// A place for one who joins at once.
    pub(crate) fn place(&mut self) -> Option<CombatantId> {
        let id = self.next_combatant()?;
        if self.free.pop().is_none() {
            self.slots += 1;
        }
        Some(id)
    }

    /// Reserves an id for a newcomer.
    pub(crate) fn reserve_combatant(&mut self) -> Option<CombatantId> {
        let id = self.place()?;
        self.reserved_combatants.0.push_back(id);
        Some(id)
    }

    /// The place of one who is gone for good may be used again.
    pub(crate) fn release(&mut self, id: CombatantId) {
        let next = id.generation.number() + 1;
        if next <= Generation::LAST {
            self.free.push(CombatantId { generation: Generation::of(next, self.epoch), ..id });
        }
    }

    /// The id that the next swing gets.
    pub(crate) fn coming_swing(&self) -> SwingId {
        SwingId::new(self.swings + 1, self.epoch)
    }

    /// The id of a swing that begins at once.
    pub(crate) fn next_swing(&mut self) -> SwingId {
        self.swings += 1;
        SwingId::new(self.swings, self.epoch)
    }

    pub(crate) fn reserve_swing(&mut self) -> SwingId {
        let id = self.next_swing();
        self.reserved_swings.0.push_back(id);
        id
    }

    pub(crate) fn reserve_obstacle(&mut self) -> ObstacleId {
        self.obstacles += 1;
        let id = ObstacleId::new(self.obstacles, self.epoch);
        self.reserved_obstacles.0.push_back(id);
        id
    }

    pub(crate) fn reserve_subscription(&mut self) -> SubscriptionId {
        self.subscriptions += 1;
        let id = SubscriptionId::new(self.subscriptions, self.epoch);
        self.reserved_subscriptions.0.push_back(id);
        id
    }

    pub(crate) fn next_order(&mut self) -> OrderId {
        self.orders += 1;
        OrderId::new(self.orders, self.epoch)
    }

    /// Whether the id that an order is to bring into being is reserved, or is the very next of its sort.
    pub(crate) fn admits(&self, order: &Order) -> bool {
        let is_next = self.names_next(order);
        is_next
            || match *order {
                Order::Spawn { id, .. } | Order::SpawnKeyed { id, .. } => self.reserved_combatants.has(id),
                Order::Start { swing, .. } | Order::SpawnAttack { swing, .. } => {
                    self.reserved_swings.has(swing)
                }
                Order::AddObstacle { id, .. } => self.reserved_obstacles.has(id),
                Order::Subscribe { id, .. } => self.reserved_subscriptions.has(id),
                _ => true,
            }
    }

    fn names_next(&self, order: &Order) -> bool {
        match *order {
            Order::Spawn { id, .. } | Order::SpawnKeyed { id, .. } => self.next_combatant() == Some(id),
            Order::Start { swing, .. } | Order::SpawnAttack { swing, .. } => swing == self.coming_swing(),
            Order::AddObstacle { id, .. } => id == ObstacleId::new(self.obstacles + 1, self.epoch),
            Order::Subscribe { id, .. } => id == SubscriptionId::new(self.subscriptions + 1, self.epoch),
            _ => false,
        }
    }

    /// Reserves the id that an order names, if that is the very next: so recorded orders play in a fresh encounter.
    #[inline]
    pub(crate) fn reserve_named(&mut self, order: &Order) {
        if order.brings_an_id() {
            self.reserve(order);
        }
    }

    fn reserve(&mut self, order: &Order) {
        if self.names_next(order) {
            match order {
                Order::Spawn { .. } | Order::SpawnKeyed { .. } => _ = self.reserve_combatant(),
                Order::Start { .. } | Order::SpawnAttack { .. } => _ = self.reserve_swing(),
                Order::AddObstacle { .. } => _ = self.reserve_obstacle(),
                Order::Subscribe { .. } => _ = self.reserve_subscription(),
                _ => {}
            }
        }
    }

    /// The id that an order brings into being is used from now on, and accepted no more.
    pub(crate) fn accept(&mut self, order: &Order) {
        self.reserve_named(order);
        self.take(order);
    }

    /// What was reserved for an order that is not carried out is given up. It never means anything.
    pub(crate) fn lapse(&mut self, order: &Order) {
        if self.take(order)
            && let Order::Spawn { id, .. } | Order::SpawnKeyed { id, .. } = *order
        {
            self.release(id);
        }
    }

    fn take(&mut self, order: &Order) -> bool {
        match *order {
            Order::Spawn { id, .. } | Order::SpawnKeyed { id, .. } => self.reserved_combatants.take(id),
            Order::Start { swing, .. } | Order::SpawnAttack { swing, .. } => self.reserved_swings.take(swing),
            Order::AddObstacle { id, .. } => self.reserved_obstacles.take(id),
            Order::Subscribe { id, .. } => self.reserved_subscriptions.take(id),
            _ => false,
        }
    }

    /// A new epoch begins. Swings that are ordered again are other swings.
    pub(crate) fn enter(&mut self, epoch: Epoch) {
        self.epoch = epoch;
        for swing in &mut self.reserved_swings.0 {
            *swing = SwingId::new(swing.number(), epoch);
        }
    }

    /// Whether any running number is about to leave the bits that it has.
    pub(crate) fn is_exhausted(&self) -> bool {
        let most = self.swings.max(self.orders).max(self.obstacles).max(self.subscriptions);
        most > LAST_NUMBER
    }
}
