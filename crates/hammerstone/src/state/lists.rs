//! A short list for each combatant.

use super::{Chain, Chains};
use crate::columns::Fills;

/// A list for each combatant, by place, all in one piece of memory. The latest item comes first. Places that were never filled may have none.
#[derive(PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Lists<T> {
    heads: Vec<Chain>,
    items: Chains<T>,
}

impl<T> Default for Lists<T> {
    fn default() -> Self {
        Lists { heads: Vec::new(), items: Chains::default() }
    }
}

impl<T: Copy> Clone for Lists<T> {
    fn clone(&self) -> Self {
        Lists { heads: self.heads.clone(), items: self.items.clone() }
    }

    fn clone_from(&mut self, from: &Self) {
        self.heads.clone_from(&from.heads);
        self.items.clone_from(&from.items);
    }
}

impl<T> Fills for Lists<T> {
    fn bytes(&self) -> usize {
        self.heads.bytes() + self.items.bytes()
    }
}

#[cfg(feature = "serde")]
impl<T> Lists<T> {
    /// For how many combatants there are lists.
    pub(crate) fn len(&self) -> usize {
        self.heads.len()
    }

    /// Whether every item belongs to just one list.
    pub(crate) fn is_sound(&self) -> bool {
        self.items.is_sound(self.heads.iter().copied())
    }
}

impl<T: Copy> Lists<T> {
    /// There are lists for so many combatants.
    pub(crate) fn grow(&mut self, slots: usize) {
        self.heads.resize(slots, Chain::default());
    }

    /// The list of a place; one that was never asked for is empty.
    fn head(&self, slot: usize) -> Chain {
        self.heads.get(slot).copied().unwrap_or_default()
    }

    /// There is a list for a place.
    fn make(&mut self, slot: usize) {
        if self.heads.len() <= slot {
            self.heads.resize(slot + 1, Chain::default());
        }
    }

    pub(crate) fn iter(&self, slot: usize) -> impl Iterator<Item = &T> {
        self.items.items(self.head(slot))
    }

    /// The same if `here`, else none.
    pub(crate) fn iter_if(&self, slot: usize, here: bool) -> impl Iterator<Item = &T> {
        self.items.items(if here { self.head(slot) } else { Chain::default() })
    }

    pub(crate) fn is_empty(&self, slot: usize) -> bool {
        self.head(slot).is_empty()
    }

    /// The items with their places, at which [`get_mut`](Self::get_mut) finds them.
    pub(crate) fn places(&self, slot: usize) -> impl Iterator<Item = (usize, &T)> {
        self.items.places(self.head(slot)).map(|place| (place, self.items.get(place)))
    }

    /// The place of the first item that `is` it.
    pub(crate) fn find(&self, slot: usize, is: impl Fn(&T) -> bool) -> Option<usize> {
        self.items.find(self.head(slot), is)
    }

    pub(crate) fn get_mut(&mut self, place: usize) -> &mut T {
        self.items.get_mut(place)
    }

    /// Puts `item` at the front and gives its place.
    pub(crate) fn push(&mut self, slot: usize, item: T) -> usize {
        self.make(slot);
        self.items.push(&mut self.heads[slot], item)
    }

    /// The first item that `is` it, which is pushed if there is none.
    pub(crate) fn find_or_push(&mut self, slot: usize, is: impl Fn(&T) -> bool, item: T) -> &mut T {
        let place = self.find(slot, is).unwrap_or_else(|| self.push(slot, item));
        self.get_mut(place)
    }

    /// The list holds these items, in their order. One of the same length keeps its places.
    pub(crate) fn fill(
        &mut self,
        slot: usize,
        items: impl DoubleEndedIterator<Item = T> + ExactSizeIterator,
    ) {
        self.make(slot);
        self.items.fill(&mut self.heads[slot], items);
    }

    /// Takes out the items that go, and hands each to `each`.
    pub(crate) fn take(&mut self, slot: usize, goes: impl Fn(&T) -> bool, each: impl FnMut(T)) {
        if let Some(head) = self.heads.get_mut(slot) {
            self.items.take(head, goes, each);
        }
    }

    pub(crate) fn clear(&mut self, slot: usize) {
        if let Some(head) = self.heads.get_mut(slot) {
            self.items.clear(head);
        }
    }
}
