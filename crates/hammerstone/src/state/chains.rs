//! Many short lists in one piece of memory.

/// The place of no link.
const NONE: u32 = u32::MAX;

/// The head of one list of a [`Chains`].
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Chain(u32);

impl Default for Chain {
    fn default() -> Chain {
        Chain(NONE)
    }
}

impl Chain {
    pub(crate) fn is_empty(self) -> bool {
        self.0 == NONE
    }
}

/// Lists that share their memory: links freed by one are used by the next, so that a steady fight allocates nothing.
#[derive(PartialEq, Eq, Hash, Debug)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Chains<T> {
    links: Vec<(T, u32)>,
    free: Chain,
}

impl<T: Copy> Clone for Chains<T> {
    fn clone(&self) -> Self {
        Chains { links: self.links.clone(), free: self.free }
    }

    fn clone_from(&mut self, from: &Self) {
        self.links.clone_from(&from.links);
        self.free = from.free;
    }
}

impl<T> super::Fills for Chains<T> {
    fn bytes(&self) -> usize {
        size_of_val(self.links.as_slice())
    }
}

impl<T> Default for Chains<T> {
    fn default() -> Self {
        Chains { links: Vec::new(), free: Chain::default() }
    }
}

#[cfg(feature = "serde")]
impl<T> Chains<T> {
    /// Whether every link belongs to just one of these lists, or is free: none is shared, lost, or leads round in a circle.
    pub(crate) fn is_sound(&self, heads: impl IntoIterator<Item = Chain>) -> bool {
        let mut seen = vec![false; self.links.len()];
        let mut count = 0;
        for head in heads.into_iter().chain([self.free]) {
            let mut place = head.0;
            while place != NONE {
                match seen.get_mut(place as usize) {
                    Some(seen) if !*seen => *seen = true,
                    _ => return false,
                }
                count += 1;
                place = self.links[place as usize].1;
            }
        }
        count == self.links.len()
    }
}

impl<T: Copy> Chains<T> {
    /// Puts `item` at the front of `chain` and gives its place.
    pub(crate) fn push(&mut self, chain: &mut Chain, item: T) -> usize {
        let place = self.free.0;
        let place = match self.links.get_mut(place as usize) {
            Some(link) => {
                self.free = Chain(link.1);
                *link = (item, chain.0);
                place
            }
            None => {
                self.links.push((item, chain.0));
                self.links.len() as u32 - 1
            }
        };
        *chain = Chain(place);
        place as usize
    }

    /// The places of a chain's items, the latest first.
    pub(crate) fn places(&self, chain: Chain) -> impl Iterator<Item = usize> {
        std::iter::successors(self.first(chain), |&place| {
            let next = self.links[place].1;
            (next != NONE).then_some(next as usize)
        })
    }

    /// The items of a chain, the latest first.
    pub(crate) fn items(&self, chain: Chain) -> impl Iterator<Item = &T> {
        self.places(chain).map(|place| &self.links[place].0)
    }

    pub(crate) fn find(&self, chain: Chain, is: impl Fn(&T) -> bool) -> Option<usize> {
        self.places(chain).find(|&place| is(&self.links[place].0))
    }

    /// The chain holds these items, in their order. One of the same length keeps its places.
    pub(crate) fn fill(
        &mut self,
        chain: &mut Chain,
        items: impl DoubleEndedIterator<Item = T> + ExactSizeIterator,
    ) {
        if self.places(*chain).count() != items.len() {
            self.clear(chain);
            items.rev().for_each(|item| _ = self.push(chain, item));
            return;
        }
        let mut place = self.first(*chain);
        for item in items {
            place = place.and_then(|place| self.put(place, item));
        }
    }

    /// The place of the first item.
    fn first(&self, chain: Chain) -> Option<usize> {
        (chain.0 != NONE).then_some(chain.0 as usize)
    }

    /// Puts another item at a place, and gives the next place of its chain.
    fn put(&mut self, place: usize, item: T) -> Option<usize> {
        let link = &mut self.links[place];
        link.0 = item;
        (link.1 != NONE).then_some(link.1 as usize)
    }

    pub(crate) fn get(&self, place: usize) -> &T {
        &self.links[place].0
    }

    pub(crate) fn get_mut(&mut self, place: usize) -> &mut T {
        &mut self.links[place].0
    }

    /// Takes out the items for which `goes` says so, and hands each to `each`.
    pub(crate) fn take(&mut self, chain: &mut Chain, goes: impl Fn(&T) -> bool, mut each: impl FnMut(T)) {
        let (mut before, mut place) = (NONE, chain.0);
        while place != NONE {
            let (item, next) = self.links[place as usize];
            if goes(&item) {
                match before {
                    NONE => *chain = Chain(next),
                    _ => self.links[before as usize].1 = next,
                }
                self.links[place as usize].1 = self.free.0;
                self.free = Chain(place);
                each(item);
            } else {
                before = place;
            }
            place = next;
        }
    }

    /// Empties a chain.
    pub(crate) fn clear(&mut self, chain: &mut Chain) {
        self.take(chain, |_| true, |_| ());
    }
}
