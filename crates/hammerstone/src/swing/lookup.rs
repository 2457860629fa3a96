//! Finds what a swing knows of a target at once, however many targets it has met.
//!
//! The state keeps struck entries and contacts as chains, one for each swing. Short ones are walked. For long ones this follows the chains
//! with a table by swing and target; it decides nothing, and is made anew from the state after a restore.

use std::hash::{BuildHasherDefault, DefaultHasher};

use crate::ids::*;
use crate::state::{Chain, Chains, Contact, StruckEntry, Swing, SwingAt};

/// A table that is only ever asked for one key, so that its order shows nowhere; hashed alike in every run.
#[expect(clippy::disallowed_types, reason = "its order is never looked at")]
type Table = std::collections::HashMap<(SwingId, CombatantId), u32, BuildHasherDefault<DefaultHasher>>;

/// So many links are walked before the table is asked.
const NEAR: usize = 8;
/// The place of none.
const NONE: u32 = u32::MAX;

/// What belongs to a swing and a target.
pub(crate) trait OfTarget: Copy {
    fn target(&self) -> CombatantId;
    fn chain(swing: &Swing) -> Chain;
}

impl OfTarget for StruckEntry {
    fn target(&self) -> CombatantId {
        self.target
    }

    fn chain(swing: &Swing) -> Chain {
        swing.struck
    }
}

impl OfTarget for Contact {
    fn target(&self) -> CombatantId {
        self.target
    }

    fn chain(swing: &Swing) -> Chain {
        swing.contacts
    }
}

/// Where the items of each swing and target stand.
#[derive(Clone, Debug, Default)]
pub(crate) struct Lookup {
    /// Whether the table follows the state; it does from the first long chain on.
    current: bool,
    /// The latest item of a swing and a target.
    heads: Table,
    /// By place of an item: the one before it, of the same swing and target.
    next: Vec<u32>,
}

impl Lookup {
    /// Forgets everything, and keeps the memory.
    pub(crate) fn forget(&mut self) {
        self.current = false;
        self.heads.clear();
    }

    /// The place of an item of the swing at `index` and `target`, if there is such a one.
    pub(crate) fn find<T: OfTarget>(
        &mut self,
        lists: &Chains<T>,
        swings: &[Swing],
        index: SwingAt,
        target: CombatantId,
        is: impl Fn(&T) -> bool,
    ) -> Option<usize> {
        let mut places = lists.places(T::chain(&swings[index]));
        let sought = |place: usize| {
            let item = lists.get(place);
            item.target() == target && is(item)
        };
        if let Some(place) = places.by_ref().take(NEAR).find(|&place| sought(place)) {
            return Some(place);
        }
        places.next()?;
        self.follow(lists, swings);
        let mut place = self.heads.get(&(swings[index].id, target)).copied().unwrap_or(NONE);
        while place != NONE {
            if sought(place as usize) {
                return Some(place as usize);
            }
            place = self.next[place as usize];
        }
        None
    }

    fn follow<T: OfTarget>(&mut self, lists: &Chains<T>, swings: &[Swing]) {
        if std::mem::replace(&mut self.current, true) {
            return;
        }
        self.heads.clear();
        for swing in swings {
            for place in lists.places(T::chain(swing)) {
                self.add(swing.id, lists.get(place).target(), place);
            }
        }
    }

    /// An item has been added to the state at `place`.
    pub(crate) fn add(&mut self, swing: SwingId, target: CombatantId, place: usize) {
        if self.current {
            if self.next.len() <= place {
                self.next.resize(place + 1, NONE);
            }
            let before = self.heads.insert((swing, target), place as u32);
            self.next[place] = before.unwrap_or(NONE);
        }
    }

    /// The items of a swing and a target, but for those that `stay`, are about to go.
    pub(crate) fn remove<T: OfTarget>(
        &mut self,
        lists: &Chains<T>,
        swing: SwingId,
        target: CombatantId,
        stays: impl Fn(&T) -> bool,
    ) {
        if !self.current {
            return;
        }
        let Some(&head) = self.heads.get(&(swing, target)) else { return };
        let (mut place, mut first, mut last) = (head, NONE, NONE);
        while place != NONE {
            let next = self.next[place as usize];
            if stays(lists.get(place as usize)) {
                match last {
                    NONE => first = place,
                    _ => self.next[last as usize] = place,
                }
                last = place;
            }
            place = next;
        }
        if last == NONE {
            self.heads.remove(&(swing, target));
        } else {
            self.next[last as usize] = NONE;
            self.heads.insert((swing, target), first);
        }
    }
}
