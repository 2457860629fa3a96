//! What a host asked of an encounter, in its order, for records that are run again.

use super::{Answer, Order, Orders, Queue};
use crate::geometry::Pose;
use crate::ids::{CombatantId, OrderId};

/// A sort of ids that are reserved before the order that brings them into being.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum IdSort {
    /// Of a combatant.
    Combatant,
    /// Of a swing.
    Swing,
    /// Of an obstacle.
    Obstacle,
    /// Of a subscription.
    Subscription,
}

/// One thing that was asked.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Input {
    /// An id was reserved.
    Reserve(IdSort),
    /// An order was given.
    Order(Order),
    /// So many moves were ordered: the next of [`Inputs::moves`]. They are most of what a game asks, and lie closer together than other orders.
    Moves(u32),
    /// So many poses were handed over: the next of [`Inputs::poses`].
    Poses(u32),
    /// A text of so many bytes was handed over: the next of [`Inputs::text`].
    Text(u32),
    /// An order was taken back.
    Drop(OrderId),
    /// All orders were taken back.
    DropAll,
}

/// An order to move, noted.
#[derive(Clone, Copy, PartialEq, Debug)]
pub struct Moved {
    /// Who moves.
    pub subject: CombatantId,
    /// Where to.
    pub pose: Pose,
    /// Over how many ticks.
    pub ticks: u32,
}

impl From<Moved> for Order {
    fn from(Moved { subject, pose, ticks }: Moved) -> Order {
        Order::Move { subject, pose, ticks }
    }
}

/// What was asked, as plain data: repeated in an encounter that stands as the first one stood, it leads to the same state, bit for bit.
///
/// An encounter notes what its host asks between two ticks ([`crate::Encounter::keep_inputs`]), and a [host](crate::hooks::Host) that wraps
/// another what that asks in answer to a fact ([`Orders::noting`]).
#[derive(Clone, PartialEq, Debug, Default)]
pub struct Inputs {
    /// What was asked, in its order.
    pub list: Vec<Input>,
    /// The moves that were ordered, one after the other.
    pub moves: Vec<Moved>,
    /// The poses that were handed over, one after the other.
    pub poses: Vec<Pose>,
    /// The texts that were handed over, one after the other.
    pub text: Vec<u8>,
}

impl Inputs {
    /// Nothing was asked.
    pub fn new() -> Inputs {
        Inputs::default()
    }

    /// Whether nothing was asked.
    pub fn is_empty(&self) -> bool {
        self.list.is_empty()
    }

    /// How many things were asked.
    pub fn len(&self) -> usize {
        let runs = self.list.iter().filter(|input| matches!(input, Input::Moves(_))).count();
        self.list.len() - runs + self.moves.len()
    }

    /// Adds a move.
    #[inline]
    pub fn push_move(&mut self, moved: Moved) {
        match self.list.last_mut() {
            Some(Input::Moves(count)) => *count += 1,
            _ => self.list.push(Input::Moves(1)),
        }
        self.moves.push(moved);
    }

    /// The same with each move as an order of its own, so that each may be left out.
    pub fn one_by_one(mut self) -> Inputs {
        let mut moves = self.moves.drain(..);
        let mut list = Vec::with_capacity(self.list.len());
        for input in self.list.drain(..) {
            match input {
                Input::Moves(count) => {
                    list.extend(moves.by_ref().take(count as usize).map(|moved| Input::Order(moved.into())));
                }
                other => list.push(other),
            }
        }
        drop(moves);
        Inputs { list, ..self }
    }

    /// Forgets all, and keeps the memory.
    pub fn clear(&mut self) {
        self.list.clear();
        self.moves.clear();
        self.poses.clear();
        self.text.clear();
    }

    /// How many bytes of memory it fills.
    pub fn bytes(&self) -> usize {
        size_of_val(&self.list[..])
            + size_of_val(&self.moves[..])
            + size_of_val(&self.poses[..])
            + self.text.len()
    }
}

/// Where what is asked is noted.
#[derive(Debug, Default)]
pub(crate) enum Notes<'a> {
    /// Nowhere.
    #[default]
    Off,
    /// In these inputs.
    Kept(&'a mut Inputs),
}

impl Notes<'_> {
    /// Where to, if anything is noted.
    pub(crate) fn open(&mut self) -> Option<&mut Inputs> {
        match self {
            Notes::Off => None,
            Notes::Kept(inputs) => Some(inputs),
        }
    }

    #[inline]
    pub(crate) fn note(&mut self, input: Input) {
        if let Some(inputs) = self.open() {
            inputs.list.push(input);
        }
    }

    #[inline]
    pub(crate) fn note_order(&mut self, order: &Order) {
        match (self.open(), order) {
            (None, _) => {}
            (Some(inputs), &Order::Move { subject, pose, ticks }) => {
                inputs.push_move(Moved { subject, pose, ticks });
            }
            (Some(inputs), order) => inputs.list.push(Input::Order(*order)),
        }
    }
}

impl Orders<'_> {
    /// Runs `asks` and adds what it asks to `inputs`: for hosts that wrap another and keep what that does.
    pub fn noting(&mut self, inputs: &mut Inputs, asks: impl FnOnce(&mut Orders<'_>)) {
        let Queue { pending, registrar, given_poses, given_text } = &mut self.queue;
        let answer = self.answer.as_mut().map(|answer| Answer { budget: &mut *answer.budget, ..*answer });
        let queue = Queue { pending, registrar, given_poses, given_text };
        let mut orders = Orders { queue, answer, notes: Notes::Kept(inputs) };
        asks(&mut orders);
        let root = orders.answer.map(|answer| answer.root);
        if let Some((answer, root)) = self.answer.as_mut().zip(root) {
            answer.root = root;
        }
    }

    /// Asks the same again.
    ///
    /// *Errors:* moves, poses or texts that are not there; then no more is asked.
    pub fn repeat(&mut self, inputs: &Inputs) -> Result<(), MissingInput> {
        let (mut poses, mut text) = (&inputs.poses[..], &inputs.text[..]);
        let mut moves = &inputs.moves[..];
        for input in &inputs.list {
            match *input {
                Input::Reserve(sort) => self.reserve(sort),
                Input::Order(order) => _ = self.give(order),
                Input::Moves(count) => {
                    let (first, rest) = moves.split_at_checked(count as usize).ok_or(MissingInput)?;
                    moves = rest;
                    first.iter().for_each(|&moved| _ = self.give(moved.into()));
                }
                Input::Poses(count) => {
                    let (first, rest) = poses.split_at_checked(count as usize).ok_or(MissingInput)?;
                    poses = rest;
                    self.poses(first);
                }
                Input::Text(count) => {
                    let (first, rest) = text.split_at_checked(count as usize).ok_or(MissingInput)?;
                    text = rest;
                    self.text(std::str::from_utf8(first).map_err(|_| MissingInput)?);
                }
                Input::Drop(number) => _ = self.take_back(number),
                Input::DropAll => self.take_all_back(),
            }
        }
        Ok(())
    }

    fn reserve(&mut self, sort: IdSort) {
        match sort {
            IdSort::Combatant => _ = self.reserve_combatant(),
            IdSort::Swing => _ = self.reserve_swing(),
            IdSort::Obstacle => _ = self.reserve_obstacle(),
            IdSort::Subscription => _ = self.reserve_subscription(),
        }
    }

    /// Takes back an order that waits.
    pub(crate) fn take_back(&mut self, number: OrderId) -> Option<Order> {
        self.notes.note(Input::Drop(number));
        let place = self.queue.pending.iter().position(|pending| pending.number == number)?;
        let order = self.queue.pending.remove(place).order;
        self.queue.registrar.lapse(&order);
        Some(order)
    }

    /// Takes back all orders that wait.
    pub(crate) fn take_all_back(&mut self) {
        self.notes.note(Input::DropAll);
        for pending in self.queue.pending.drain(..) {
            self.queue.registrar.lapse(&pending.order);
        }
    }
}

/// Inputs name moves, poses or texts that they do not hold.
#[derive(Clone, Copy, PartialEq, Eq, Debug, thiserror::Error)]
#[error("the inputs name moves, poses or a text that they do not hold; take inputs that an encounter noted")]
pub struct MissingInput;
